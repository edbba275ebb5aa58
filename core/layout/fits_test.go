package layout_test

import (
	"fmt"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// row is a flow of so many steps in a row, in lanes or none.
func row(n, lanes int, down bool) *model.Map {
	m := model.New("Row", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	if lanes > 0 {
		p := &model.Pool{ID: "pool", X: 30 * px, Y: 40 * px, W: 900 * px, Down: down}
		for i := range lanes {
			p.Lanes = append(p.Lanes, model.Lane{ID: fmt.Sprint("l", i), Name: fmt.Sprint("Lane ", i), H: 160 * px})
		}
		s.Pools = []*model.Pool{p}
	}
	for i := range n {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Step ", i),
			Box: geometry.Box{X: 200 * px, Y: 70 * px, W: 120 * px, H: 80 * px}}
		if lanes > 0 {
			lane := s.Pools[0].Inner(i % lanes)
			sym.Box = geometry.Around(lane.Centre(), 120*px, 80*px)
		}
		s.Symbols = append(s.Symbols, sym)
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: fmt.Sprint("s", i)}})
		}
	}
	return m
}

// One step more never turns rows into a band: what is too deep for the paper goes on below it, as wide as the paper, so
// that a longer or larger one can take it. A large flow takes the shape of the paper, so that a larger one holds it.
func TestRowsDoNotBecomeABand(t *testing.T) {
	for n := 6; n <= 60; n++ {
		m := row(n, 0, false)
		s := m.Sheets[0]
		laid(t, m, layout.Options{})
		larger := *s
		larger.Paper = "A3"
		if all, area := s.Drawn(), s.Area(); n > 8 && n <= 40 && all.W > area.W || n > 40 && !larger.Area().Holds(all) {
			t.Fatalf("%d steps are drawn %d x %d px, on paper of %d x %d", n, all.W/px, all.H/px, area.W/px, area.H/px)
		}
	}
}

// Lanes that would be longer than the paper have their steps closer together where that is enough, no closer than it
// takes.
func TestLanesAreTightenedToThePaper(t *testing.T) {
	for _, down := range []bool{false, true} {
		tightened := 0
		for n := 3; n <= 24; n++ {
			m := row(n, 2, down)
			s := m.Sheets[0]
			s.Paper = "Letter" // 1056 x 816 px (common practice, no source)
			laid(t, m, layout.Options{})
			a, b := s.Symbols[0].Turned(down), s.Symbols[2].Turned(down)
			gap, off := b.X-a.Right(), !s.Area().Holds(s.Drawn())
			if gap < 40*px {
				tightened++
				if off {
					t.Errorf("%d steps, down %v: they stand %d px apart, and lie off the paper all the same", n, down,
						gap/px)
				}
			}
		}
		if tightened == 0 {
			t.Errorf("down %v: nothing had to be tightened", down)
		}
	}
}
