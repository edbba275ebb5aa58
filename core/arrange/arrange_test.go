package arrange_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

const px = geometry.Px

func random(r *rand.Rand, n int) []edit.Place {
	var out []edit.Place
	for i := range n {
		out = append(out,
			edit.Place{ID: fmt.Sprint(i), Box: geometry.Box{X: r.IntN(100000), Y: r.IntN(100000),
				W: 2000 + r.IntN(9000), H: 2000 + r.IntN(9000)}})
	}
	return out
}

// with puts the moved places among the others.
func with(all, moved []edit.Place) []edit.Place {
	out := slices.Clone(all)
	for _, p := range moved {
		for i := range out {
			if out[i].ID == p.ID {
				out[i] = p
			}
		}
	}
	return out
}

// A place found free is free, in the same lane, and the wanted one where that is.
func TestFreePlaceLiesOnNothing(t *testing.T) {
	r := rand.New(rand.NewPCG(44, 12))
	moved := 0
	for n := range 400 {
		s := &model.Sheet{SheetHead: model.SheetHead{Paper: "A3", Across: true}}
		if n%2 == 0 {
			s.Pools = []*model.Pool{{ID: "p", W: 1400 * px, Lanes: []model.Lane{{ID: "a", H: 300 * px},
				{ID: "b", H: 300 * px}}}}
		}
		for i := range 1 + r.IntN(14) {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint(i), Kind: model.Process,
				Box: geometry.Box{X: (80 + r.IntN(1200)) * px, Y: r.IntN(520) * px, W: 120 * px, H: 80 * px}})
		}
		b := geometry.Box{X: (80 + r.IntN(1200)) * px, Y: r.IntN(520) * px, W: 120 * px, H: 80 * px}
		got := arrange.Free(s, b)
		on := func(b geometry.Box) bool {
			return slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.Meets(b) })
		}
		_, was := s.LaneAt(b.Centre())
		_, is := s.LaneAt(got.Centre())
		switch {
		case on(got), was != is:
			t.Fatalf("%d: %v for %v", n, got, b)
		case got != b:
			moved++
		}
	}
	if moved < 100 {
		t.Errorf("only %d had to move", moved)
	}
}

func TestAlignBringsEdgesTogetherAndIsIdempotent(t *testing.T) {
	edge := map[arrange.Edge]func(b geometry.Box) int{
		arrange.Left: func(b geometry.Box) int { return b.X }, arrange.Right: geometry.Box.Right,
		arrange.Top: func(b geometry.Box) int { return b.Y }, arrange.Bottom: geometry.Box.Bottom,
		// Twice the middle, so that a half is not lost.
		arrange.Centre: func(b geometry.Box) int { return 2*b.X + b.W },
		arrange.Middle: func(b geometry.Box) int { return 2*b.Y + b.H },
	}
	r := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		all := random(r, 2+r.IntN(8))
		for _, by := range arrange.Edges {
			after := with(all, arrange.Align(all, by, all[len(all)-1].Box))
			want := edge[by](all[len(all)-1].Box)
			for _, p := range after {
				if got := edge[by](p.Box); geometry.Abs(got-want) > 1 {
					t.Fatalf("%s: %d, not %d", by, got, want)
				}
			}
			if again := arrange.Align(after, by, all[len(all)-1].Box); len(again) > 0 {
				t.Fatalf("%s again moves %v", by, again)
			}
		}
	}
}

func TestDistributeMakesGapsEqualAndKeepsTheOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 300 {
		all := random(r, 3+r.IntN(7))
		for k := range 4 {
			across, centres := k&1 == 0, k&2 != 0
			start := func(p edit.Place) int { return p.Y }
			size := func(p edit.Place) int { return p.H }
			if across {
				start, size = func(p edit.Place) int { return p.X }, func(p edit.Place) int { return p.W }
			}
			byMiddle := func(a, b edit.Place) int { return 2*start(a) + size(a) - 2*start(b) - size(b) }
			before, after := slices.Clone(all), with(all, arrange.Distribute(all, across, centres))
			slices.SortStableFunc(before, byMiddle)
			gaps := []int{}
			for i := range before { // in the old order
				k := slices.IndexFunc(after, func(p edit.Place) bool { return p.ID == before[i].ID })
				before[i] = after[k]
				if i > 0 {
					gap := start(before[i]) - start(before[i-1]) - size(before[i-1])
					if centres {
						gap = start(before[i]) + size(before[i])/2 - start(before[i-1]) - size(before[i-1])/2
					}
					gaps = append(gaps, gap)
				}
			}
			if slices.Max(gaps)-slices.Min(gaps) > 1+k/2 { // 0.01 px; of middles the odd halves beside
				t.Fatalf("gaps are %v", gaps)
			}
		}
	}
}

func TestSnapLinesUpWithinReachOnly(t *testing.T) {
	others := []geometry.Box{{X: 100 * px, Y: 100 * px, W: 120 * px, H: 80 * px},
		{X: 260 * px, Y: 100 * px, W: 120 * px, H: 80 * px}}
	near := geometry.Box{X: 423 * px, Y: 104 * px, W: 120 * px, H: 80 * px}
	d, guides := arrange.Snap(near, others, 6*px, true)
	if got := near.Moved(d); got.Y != 100*px || got.X != 420*px {
		t.Errorf("a third box in the row lands at %d, %d px, not 420, 100", got.X/px, got.Y/px)
	}
	if !slices.ContainsFunc(guides, func(g arrange.Guide) bool { return g.Gap == 40*px }) {
		t.Errorf("the equal gap of 40 px is not written: %v", guides)
	}
	far := geometry.Box{X: 603 * px, Y: 333 * px, W: 120 * px, H: 80 * px}
	if d, _ := arrange.Snap(far, others, 6*px, true); geometry.Abs(d.X) > 5*px || geometry.Abs(d.Y) > 5*px {
		t.Errorf("far from everything it is shifted by %v", d)
	}
}

// Appended steps stand in line, evenly spaced, on nothing, and in the lane of
// the step before.
func TestAppendedStepsStandFreeAndInLine(t *testing.T) {
	for _, lanes := range []bool{false, true} {
		m := model.New("", model.Rightwards, "A4", true)
		s := m.Sheets[0]
		if lanes {
			s.Pools = []*model.Pool{{ID: "p", W: 500 * px, Lanes: []model.Lane{{ID: "a", H: 100 * px},
				{ID: "b", H: 100 * px}}}}
			s.Symbols = append(s.Symbols, &model.Symbol{ID: "below", Kind: model.Process,
				Box: geometry.Box{X: 240 * px, Y: 110 * px, W: 120 * px, H: 80 * px}})
		}
		s.Symbols = append(s.Symbols, &model.Symbol{ID: "0", Kind: model.Decision,
			Box: geometry.Box{X: 80 * px, Y: 10 * px, W: 120 * px, H: 80 * px}})
		from := "0"
		for i := 1; i < 9; i++ {
			if i == 4 {
				from = "0" // a second branch
			}
			box, edits := arrange.Append(m, s, s.Symbol(from), model.Process)
			id := fmt.Sprint(i)
			edits = append(edits,
				&edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{{ID: id, Kind: model.Process, Box: box}}})
			if _, err := edit.Apply(m, edit.Together("append", edits...)); err != nil {
				t.Fatal(err)
			}
			for _, o := range s.Symbols {
				if o.ID != id && o.Meets(s.Symbol(id).Box) {
					t.Fatalf("lanes %v: step %s at %v lies on %s at %v", lanes, id, s.Symbol(id).Box, o.ID, o.Box)
				}
			}
			if i < 4 && (box.Centre().Y != s.Symbol(from).Centre().Y || box.X-s.Symbol(from).Right() != arrange.Gap) {
				t.Fatalf("step %d at %v is not in line after %v", i, box, s.Symbol(from).Box)
			}
			if lane := s.LaneOf(s.Symbol(id)); lanes && (lane == nil || lane.ID != "a") {
				t.Fatalf("step %d stands in lane %v", i, lane)
			}
			from = id
		}
		if lanes && s.LaneOf(s.Symbol("below")).ID != "b" {
			t.Error("the step of the lane below lost its lane")
		}
	}
}
