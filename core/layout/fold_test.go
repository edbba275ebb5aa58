package layout_test

import (
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// A flow that is set in rows crosses itself hardly more often than in one row, whatever leads from row to row: those
// lines lie within each other. None is drawn through a step, and a large flow comes near the shape of its paper, 1.4
// times as long as wide.
func TestRowsCrossNoMoreThanOneRow(t *testing.T) {
	rows, one, lines := 0, 0, 0
	for seed := range uint64(24) {
		for _, down := range []bool{false, true} {
			g := processes.Make(seed, processes.Shape{Steps: 15 + 6*int(seed%12)})
			var scores [2]layout.Score
			for i, long := range []bool{true, false} {
				m := g.Map()
				s := m.Sheets[0]
				if s.Across = !down; down {
					m.Direction = model.Downwards
				}
				if _, err := edit.Apply(m, layout.Find(m, s, layout.Options{Down: down, Long: long})); err != nil {
					t.Fatal(err)
				}
				scores[i] = layout.Measure(m, s, down)
				if all := s.Drawn().Turned(down); !long && len(s.Symbols) > 40 && (all.W > 3*all.H || all.H > all.W) {
					t.Errorf("seed %d, down %v: %d steps are %d x %d px", seed, down, len(s.Symbols), all.W/px,
						all.H/px)
				}
			}
			lines += len(g.Edges)
			one, rows = one+scores[0].Crossings, rows+scores[1].Crossings
			if scores[1].Cut > 0 {
				t.Errorf("seed %d, down %v: %d lines run through steps", seed, down, scores[1].Cut)
			}
		}
	}
	t.Logf("%d lines cross %d times in one row, %d times in rows", lines, one, rows)
	if rows > one+lines/100 {
		t.Errorf("they cross %d times in rows, %d times in one", rows, one)
	}
}
