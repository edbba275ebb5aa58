package background

import (
	"bytes"
	"context"
	"log/slog"
	"strings"
	"sync/atomic"
	"testing"
	"time"
)

// A fault in one thing is noted, and the others go on; closing ends all and waits for it.
func TestOneFaultEndsNothingElse(t *testing.T) {
	var noted bytes.Buffer
	before := slog.Default()
	defer slog.SetDefault(before)
	slog.SetDefault(slog.New(slog.NewTextHandler(&noted, nil)))
	g := New()
	g.Go("the one at fault", func(context.Context) { panic("out of paper") })
	ended, ran := make(chan struct{}), make(chan struct{}, 100)
	g.Go("one that waits", func(ctx context.Context) { <-ctx.Done(); close(ended) })
	var times atomic.Int32
	g.Every(time.Millisecond, "one that fails at first", func(context.Context) {
		if times.Add(1) == 1 {
			panic("not yet")
		}
		select {
		case ran <- struct{}{}:
		default:
		}
	})
	<-ran
	late := false
	g.After(time.Hour, "one that is too late", func(context.Context) { late = true })
	g.Close()
	select {
	case <-ended:
	default:
		t.Error("closing does not wait")
	}
	g.Go("one after the end", func(context.Context) { late = true })
	if late {
		t.Error("something ran that should not have")
	}
	for _, want := range []string{"the one at fault", "out of paper", "one that fails at first", "background_test.go"} {
		if !strings.Contains(noted.String(), want) {
			t.Errorf("the log does not say %q:\n%s", want, noted.String())
		}
	}
}
