package attack

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/e2e/program"
)

// Made-up and mutated edits go over sockets to the running program, from one window on each
// of several maps. Every one is answered; what is said to be saved, and nothing else, is in
// the map, which opens and reads back as a file to the end.
func TestMadeUpEditsOverSockets(t *testing.T) {
	s := program.Start(t, "serve")
	const maps = 12
	var all sync.WaitGroup
	var saved, refused atomic.Int64
	for k := range maps {
		id := create(t, s, k)
		all.Go(func() {
			if err := wireRound(s, id, uint64(k), *wireEdits/maps, &saved, &refused); err != nil {
				t.Errorf("map %d: %v", k, err)
			}
		})
	}
	all.Wait()
	if !s.Alive() {
		t.Fatal("the server died")
	}
	t.Logf("%d edits were saved and %d refused", saved.Load(), refused.Load())
}

// editsOnMap is how many edits meet the map before it is emptied and looked at.
const editsOnMap = 400

func wireRound(s *program.Server, id string, seed uint64, edits int, saved, refused *atomic.Int64) error {
	w, err := newWindow(s, id)
	if err != nil {
		return err
	}
	if err := w.connect(w.Revision); err != nil {
		return err
	}
	defer w.conn.Close()
	m := new(model.Map)
	if err := json.Unmarshal(w.Map, m); err != nil {
		return err
	}
	made := &wild{rnd: rand.New(rand.NewPCG(*firstSeed, seed)), prefix: w.Window}
	for n := 1; n <= edits; n++ {
		raw := made.edit(m)
		if n%editsOnMap == 1 { // a bit of everything to begin with
			made.raw, made.seen = nil, nil
			raw = made.beginning(m)
		}
		if err := w.send(n, raw); err != nil {
			return fmt.Errorf("sending edit %d: %w: %.1000s", n, err, raw)
		}
		a, err := w.until("saved", "refused", "trouble")
		if err != nil {
			return fmt.Errorf("edit %d: %w: %.2000s", n, err, raw)
		}
		switch a.Kind {
		case "trouble":
			return fmt.Errorf("edit %d: %s: %.2000s", n, a.Why, raw)
		case "refused":
			refused.Add(1)
			continue
		}
		var e edit.Envelope
		if err := json.Unmarshal(raw, &e); err != nil {
			return err
		}
		trial, err := edit.Attempt(m, e.Edit)
		if err != nil {
			return fmt.Errorf("edit %d is said to be saved, but: %w: %.2000s", n, err, raw)
		}
		made.remember(raw, trial.Inverse())
		saved.Add(1)
		if n%editsOnMap == 0 || n == edits {
			want, err := json.Marshal(m)
			if err != nil {
				return err
			}
			got, err := newWindow(s, id)
			if err != nil {
				return err
			}
			if !bytes.Equal(compact(got.Map), want) {
				return fmt.Errorf("after edit %d the map is %s, not %s", n, got.Map, want)
			}
			s.File("/maps/" + id)
		}
	}
	return nil
}

// beginning is an edit that puts a sheet with a bit of everything in place of those of a map.
func (w *wild) beginning(m *model.Map) []byte {
	begun := w.begin()
	parts := []edit.Edit{&edit.AddSheet{Sheet: *begun.Sheets[0]}}
	parts[0].(*edit.AddSheet).Sheet.ID = w.newID()
	for _, p := range begun.Sheets[0].Pools {
		renamed(p, w)
	}
	for _, old := range m.Sheets {
		parts = append(parts, &edit.RemoveSheet{Sheet: old.ID})
	}
	raw, err := json.Marshal(edit.Envelope{Edit: edit.Together("begin", parts...)})
	if err != nil {
		panic(err)
	}
	return raw
}

func compact(raw []byte) []byte {
	var out bytes.Buffer
	if json.Compact(&out, raw) != nil {
		return raw
	}
	return out.Bytes()
}

// renamed gives a pool and its parts new ids.
func renamed(p *model.Pool, w *wild) {
	p.ID = w.newID()
	for i := range p.Lanes {
		p.Lanes[i].ID = w.newID()
	}
	for i := range p.Stages {
		p.Stages[i].ID = w.newID()
	}
}
