// Package background runs what a server does beside answering requests. What runs so has an owner, a Group, which ends
// it and waits for it; a panic in it is noted as one failure and ends nothing else.
package background

import (
	"context"
	"log/slog"
	"runtime/debug"
	"sync"
	"time"
)

// Group owns what runs in the background. The zero value is not usable; New makes one.
type Group struct {
	ctx  context.Context
	stop context.CancelFunc
	mu   sync.Mutex
	over bool
	all  sync.WaitGroup
}

// New returns a group in which nothing runs yet.
func New() *Group {
	g := new(Group)
	g.ctx, g.stop = context.WithCancel(context.Background())
	return g
}

// Go runs something until it is done; it is expected to return soon after its context ends. After Close it does
// nothing. What names it in the log.
func (g *Group) Go(what string, do func(ctx context.Context)) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.over {
		return
	}
	g.all.Go(func() {
		defer Caught(what)
		do(g.ctx)
	})
}

// After runs something once, after a time. It is dropped when the group is closed before.
func (g *Group) After(wait time.Duration, what string, do func(ctx context.Context)) {
	g.Go(what, func(ctx context.Context) {
		timer := time.NewTimer(wait)
		defer timer.Stop()
		select {
		case <-timer.C:
			do(ctx)
		case <-ctx.Done():
		}
	})
}

// Every runs something again and again until the group is closed. One that panics is run again at its next time.
func (g *Group) Every(pause time.Duration, what string, do func(ctx context.Context)) {
	g.Go(what, func(ctx context.Context) {
		tick := time.NewTicker(pause)
		defer tick.Stop()
		for {
			select {
			case <-tick.C:
				func() {
					defer Caught(what)
					do(ctx)
				}()
			case <-ctx.Done():
				return
			}
		}
	})
}

// Close ends what runs, and returns when it has ended.
func (g *Group) Close() {
	g.mu.Lock()
	g.over = true
	g.mu.Unlock()
	g.stop()
	g.all.Wait()
}

// Caught is deferred in a goroutine, or a timer's function: a panic there is noted and goes no further.
func Caught(what string) {
	if fault := recover(); fault != nil {
		slog.Error("a fault in the background", "what", what, "fault", fault, "stack", string(debug.Stack()))
	}
}
