package layout_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// A laid-out sheet is changed in one place and laid out again: what stood in one row or one column does so still, and
// nothing passes anything else, neither along the flow nor across it in its lane. Only where another arrangement has
// fewer bends or crossings, or leads less against the reading direction, may things change places: on two sheets of
// five at most. The measure is that of Misue, Eades, Lai and Sugiyama, Layout Adjustment and the Mental Map, 1995:
// orthogonal ordering; from memory.
func TestWhatPeopleKnowStaysWhereItWas(t *testing.T) {
	n := 200
	if testing.Short() {
		n = 40
	}
	anew, tried := 0, 0
	for i := range n {
		m := processes.Make(uint64(i), processes.Shape{Steps: 6 + i%25, Lanes: i % 4, Strays: i % 2 * 2}).Map()
		w := layout.Options{Long: true}
		laid(t, m, w)
		s := m.Sheets[0]
		before := map[string]geometry.Point{}
		lanes := map[string]string{}
		for _, sym := range s.Symbols {
			before[sym.ID], lanes[sym.ID] = sym.Centre(), laneOf(s, sym)
		}
		change(t, m, rand.New(rand.NewPCG(uint64(i), 1)), i%3)
		plan := layout.Find(m, s, w)
		if plan == nil {
			continue
		}
		tried++
		if _, err := edit.Apply(m, plan); err != nil {
			t.Fatal(err)
		}
		if err := kept(s, before, lanes); err != nil {
			anew++
		}
	}
	if tried < n*3/4 || anew*5 > 2*tried {
		t.Errorf("%d of %d sheets were arranged anew after one change", anew, tried)
	}
}

// change puts a step into a connector, or one beside it, or one that ends a branch.
func change(t *testing.T, m *model.Map, r *rand.Rand, what int) {
	t.Helper()
	s := m.Sheets[0]
	c := s.Connectors[r.IntN(len(s.Connectors))]
	from, to := s.Symbol(c.From.Symbol), s.Symbol(c.To.Symbol)
	step := &model.Symbol{ID: "new", Kind: model.Process, Text: "New"}
	step.Box = geometry.Around(geometry.Point{X: (from.Centre().X + to.Centre().X) / 2,
		Y: (from.Centre().Y + to.Centre().Y) / 2}, 120*px, 80*px)
	c.From.Side, c.To.Side, c.Bends = "", "", nil
	if what > 0 || laneOf(s, step) != laneOf(s, from) {
		step.Box = geometry.Around(from.Centre().Add(geometry.Point{X: 5 * px, Y: 20 * px}), 120*px, 80*px)
	}
	s.Symbols = append(s.Symbols, step)
	into := model.Connector{ID: "into", From: c.From, To: model.End{Symbol: "new"}}
	switch what {
	case 0:
		s.Connectors = append(s.Connectors, &model.Connector{ID: "on", From: into.To, To: c.To})
		c.To = into.To
		return
	case 1:
		s.Connectors = append(s.Connectors, &model.Connector{ID: "on", From: into.To, To: c.To})
	}
	s.Connectors = append(s.Connectors, &into)
}

func kept(s *model.Sheet, before map[string]geometry.Point, lanes map[string]string) error {
	for _, a := range s.Symbols {
		for _, b := range s.Symbols {
			p, ok := before[a.ID]
			q, ok2 := before[b.ID]
			if !ok || !ok2 {
				continue
			}
			now, then := b.Centre().Sub(a.Centre()), q.Sub(p)
			if sign(then.X) != sign(now.X) {
				return fmt.Errorf("%s and %s: along from %d to %d", a.ID, b.ID, then.X, now.X)
			}
			if lanes[a.ID] == lanes[b.ID] && sign(then.Y) != sign(now.Y) {
				return fmt.Errorf("%s and %s: across from %d to %d", a.ID, b.ID, then.Y, now.Y)
			}
		}
	}
	return nil
}

func sign(v int) int { return min(max(v, -1), 1) }
