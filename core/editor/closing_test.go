package editor_test

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/core/arrange"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// chain is a row of steps in the upper of two lanes, connected one to the next, with the usual gaps.
func chain(n int) *model.Map {
	m := model.New("Chain", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", Title: "Town", X: 40 * px, Y: 40 * px, W: 1100 * px,
		Lanes: []model.Lane{{ID: "desk", Name: "Desk", H: 120 * px}, {ID: "crew", Name: "Crew", H: 120 * px}}}}
	for i := range n {
		id := string(rune('a' + i))
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process, Text: id,
			Box: geometry.Around(at(200+160*i, 100), 120*px, 80*px)})
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: id + "c",
				From: model.End{Symbol: string(rune('a' + i - 1))}, To: model.End{Symbol: id}})
		}
	}
	return m
}

// A step deleted with its gap leaves no hole: the next one stands where it stood, and so on, as far as nothing in
// another lane comes too close. A step put in between keeps the gaps of those that are added.
func TestDeletingWithItsGapLeavesNoHole(t *testing.T) {
	d := open(t, chain(5))
	was := map[string]geometry.Box{}
	for _, sym := range d.Sheet().Symbols {
		was[sym.ID] = sym.Box
	}
	width := d.Sheet().Pools[0].W
	d.click(was["b"].Centre(), 0)
	d.Command("delete-close", "")
	d.flush()
	s := d.Sheet()
	for id, to := range map[string]string{"a": "a", "c": "b", "d": "c", "e": "d"} {
		if got := s.Symbol(id).Box; got != was[to] {
			t.Errorf("%s stands at %v, not %v", id, got, was[to])
		}
	}
	if s.Pools[0].W != width || s.Connector("bc").To.Symbol != "c" {
		t.Errorf("the pool is %d wide, the line leads to %q", s.Pools[0].W/px, s.Connector("bc").To.Symbol)
	}
	// The same by the offer after a plain deletion.
	d.Undo()
	d.flush()
	d.click(was["b"].Centre(), 0)
	d.keys("Delete")
	d.Command("close-gap", "")
	d.flush()
	if got := d.Sheet().Symbol("e").Box; got != was["d"] {
		t.Errorf("closed afterwards, e stands at %v", got)
	}
	// The offer goes with an undo.
	again := open(t, chain(5))
	again.click(was["b"].Centre(), 0)
	again.keys("Delete")
	again.Undo()
	if raw := string(again.Flush()); !strings.Contains(raw, `"hush":true`) {
		t.Error("after an undo it still offers to close the gap")
	}
	d.Undo()
	d.flush()
	d.same()

	// A step in the other lane that the ones beyond would come too close to.
	m := chain(3)
	m.Sheets[0].Symbols = append(m.Sheets[0].Symbols,
		&model.Symbol{ID: "x", Kind: model.Process, Text: "x", Box: geometry.Around(at(360, 220), 120*px, 80*px)},
		&model.Symbol{ID: "y", Kind: model.Process, Text: "y", Box: geometry.Around(at(540, 220), 120*px, 80*px)})
	d = open(t, m)
	d.click(at(360, 100), 0)
	d.Command("delete-close", "")
	d.flush()
	x, y := d.Sheet().Symbol("x"), d.Sheet().Symbol("y")
	if gap := y.X - x.Right(); gap != arrange.Gap || x.X != 300*px {
		t.Errorf("x and y are %d apart", gap/px)
	}
	d.same()

	// What is put in between has the gap of what is added.
	d = open(t, chain(2))
	d.click(at(360, 100), 0)
	d.keys("Enter", "<c>")
	d.click(at(200, 100), 0)
	d.keys("Enter", "<between>")
	var row []geometry.Box
	for _, sym := range d.Sheet().Symbols {
		row = append(row, sym.Box)
	}
	slices.SortFunc(row, func(a, b geometry.Box) int { return a.X - b.X })
	for i, b := range row[1:] {
		if gap := b.X - row[i].Right(); len(row) != 4 || gap != arrange.Gap {
			t.Errorf("gap %d of %d symbols is %d", i, len(row), gap/px)
		}
	}
	d.same()
}

// A lane that grew for a step is as high again when the step leaves it: deleted, dragged away or moved by a key. One
// that was made high by hand stays so.
func TestALaneShrinksWhenAStepLeaves(t *testing.T) {
	heights := func(d *seat) (h [2]int) {
		for i, l := range d.Sheet().Pools[0].Lanes {
			h[i] = l.H / px
		}
		return h
	}
	grown := func() *seat {
		d := open(t, chain(3))
		d.Command("take", "process")
		d.click(at(360, 150), desk.Alt)
		if h := heights(d); h[0] <= 120 || h[1] != 120 {
			t.Fatalf("the lanes are %v high", h)
		}
		return d
	}
	for _, c := range []struct {
		name  string
		leave func(d *seat)
		want  [2]int
	}{
		{"deleted", func(d *seat) { d.keys("Delete") }, [2]int{120, 120}},
		{"dragged into the other lane", func(d *seat) {
			d.drag(d.One().Centre(), at(360, 252), desk.Alt)
		}, [2]int{120, 120}},
		{"moved into the other lane", func(d *seat) { d.Command("lane-down", "") }, [2]int{120, 120}},
		{"dragged away", func(d *seat) { d.drag(d.One().Centre(), at(360, 700), desk.Alt) }, [2]int{120, 120}},
	} {
		d := grown()
		before := string(document(t, d.Map()))
		c.leave(d)
		if got := heights(d); got != c.want {
			t.Errorf("%s: the lanes are %v high", c.name, got)
		}
		d.same()
		d.Undo()
		d.flush()
		if string(document(t, d.Map())) != before {
			t.Errorf("%s: taken back it is another map", c.name)
		}
	}
	// By hand.
	d := open(t, chain(3))
	d.drag(at(80, 160), at(80, 220), 0)
	high := heights(d)
	if high[0] <= 120 {
		t.Fatalf("the lane was not dragged: %v", high)
	}
	d.click(at(360, 100), 0)
	d.keys("Delete")
	if got := heights(d); got != high {
		t.Errorf("made %v high by hand they are %v", high, got)
	}
}
