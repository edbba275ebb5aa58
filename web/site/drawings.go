package site

import (
	"container/list"
	"context"
	"fmt"
	"log"
	"runtime"
	"runtime/debug"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"golang.org/x/sync/singleflight"

	"plaintracer/background"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// The bounds of drawing and exporting on behalf of a person.
const (
	// drawWait is how long a drawing may wait for its turn, drawTime how long it may take.
	drawWait = 20 * time.Second
	drawTime = 10 * time.Second
	// keptNodes is how many nodes the drawings that are kept may have together.
	keptNodes = 60_000
)

var (
	errBusy = fiber.NewError(fiber.StatusServiceUnavailable,
		"The server is busy with other drawings. Try again in a moment.")
	ErrLong = fiber.NewError(fiber.StatusServiceUnavailable,
		"This sheet takes too long to draw. Spread what is on it over several sheets.")
)

// drawings makes the pictures of sheets, at most as many at once as there are processors, and
// keeps the latest until the map has another revision.
type drawings struct {
	Slots  chan struct{}
	beside *background.Group
	flight singleflight.Group
	mu     sync.Mutex
	kept   map[string]*list.Element // by map and sheet
	order  *list.List               // of drawn, the latest used first
	nodes  int
}

// Drawn is a sheet as it is drawn at a revision of its map.
type Drawn struct {
	key      string
	Revision int
	M        *model.Map
	Sheet    *model.Sheet
	Drawing  *scene.Drawing
}

// NewDrawings returns drawings of which none is kept; what is drawn ahead runs beside.
func NewDrawings(beside *background.Group) *drawings {
	return &drawings{beside: beside, Slots: make(chan struct{}, runtime.GOMAXPROCS(0)),
		kept: map[string]*list.Element{}, order: list.New()}
}

// Of returns the drawing of the sheet that choose picks from a map as it is shown.
func (w *drawings) Of(ctx context.Context, d source, choose func(m *model.Map) *model.Sheet) (*Drawn, error) {
	var id string
	var revision int
	d.View(func(m *model.Map, r int) {
		revision = r
		if s := choose(m); s != nil {
			id = s.ID
		}
	})
	if id == "" {
		return nil, fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
	}
	key := d.Key() + " " + id
	if kept := w.recall(key, revision); kept != nil {
		return kept, nil
	}
	// Whoever asks for the same meanwhile waits for the same drawing.
	one := w.flight.DoChan(fmt.Sprint(key, " ", revision), func() (_ any, err error) {
		defer func() { // the library ends the program at a fault here
			if fault := recover(); fault != nil {
				err = fmt.Errorf("drawing: %v", fault)
			}
		}()
		ctx, cancel := context.WithTimeout(context.Background(), drawWait+drawTime)
		defer cancel()
		var out *Drawn
		err = w.Run(ctx, func(ctx context.Context) error {
			m, revision := d.Snapshot()
			sheet := m.Sheet(id)
			if sheet == nil {
				return fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
			}
			drawing, ok := scene.DrawUntil(m, sheet, scene.Know(m), func() bool { return ctx.Err() != nil })
			if !ok {
				return ErrLong
			}
			out = &Drawn{key, revision, m, sheet, drawing}
			w.Keep(out)
			return nil
		})
		return out, err
	})
	select {
	case r := <-one:
		if r.Err != nil {
			return nil, r.Err
		}
		return r.Val.(*Drawn), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

func (w *drawings) recall(key string, revision int) *Drawn {
	w.mu.Lock()
	defer w.mu.Unlock()
	if e := w.kept[key]; e != nil && e.Value.(*Drawn).Revision == revision {
		w.order.MoveToFront(e)
		return e.Value.(*Drawn)
	}
	return nil
}

// Keep keeps a drawing, in place of those that nobody asked for the longest.
func (w *drawings) Keep(d *Drawn) {
	w.mu.Lock()
	defer w.mu.Unlock()
	drop := func(e *list.Element) {
		old := w.order.Remove(e).(*Drawn)
		delete(w.kept, old.key)
		w.nodes -= len(old.Drawing.Nodes)
	}
	if e := w.kept[d.key]; e != nil {
		drop(e)
	}
	w.kept[d.key] = w.order.PushFront(d)
	for w.nodes += len(d.Drawing.Nodes); w.nodes > keptNodes && w.order.Len() > 1; {
		drop(w.order.Back())
	}
}

// Run does something that takes much of a processor when its turn comes. It returns when the
// context ends; what is then still under way ends by itself, and gives up its turn only then.
func (w *drawings) Run(ctx context.Context, do func(ctx context.Context) error) error {
	wait, stop := context.WithTimeout(ctx, drawWait)
	defer stop()
	select {
	case w.Slots <- struct{}{}:
	case <-wait.Done():
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return errBusy
	}
	ctx, cancel := context.WithTimeout(ctx, drawTime)
	done := make(chan error, 1)
	w.beside.Go("drawing", func(ended context.Context) {
		defer func() { <-w.Slots }()
		defer cancel()
		defer context.AfterFunc(ended, cancel)() // it ends with the server
		defer func() {
			if fault := recover(); fault != nil {
				log.Printf("drawing: %v\n%s", fault, debug.Stack())
				done <- fmt.Errorf("drawing: %v", fault)
			}
		}()
		done <- do(ctx)
	})
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
		select {
		case err := <-done: // it ended at the same moment
			return err
		default:
		}
		return ErrLong
	}
}
