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

// kinds of step with the sizes they have, as in a real map.
var sizes = []struct {
	kind model.Kind
	w, h int
}{{model.Process, 120, 80}, {model.Decision, 120, 80}, {model.Terminator, 120, 45}, {model.Reference, 38, 38},
	{model.Document, 120, 80}}

// jumbled returns a sheet of rows and columns, some places empty, every symbol
// put off its place by up to so many pixels, and the row and column of each.
func jumbled(r *rand.Rand, off int) (s *model.Sheet, rows, columns map[string]int) {
	m := model.New("", model.Rightwards, "A3", true)
	s, rows, columns = m.Sheets[0], map[string]int{}, map[string]int{}
	nr, nc := 1+r.IntN(5), 2+r.IntN(6)
	gap := 30 + r.IntN(50)
	for i := range nr {
		for j := range nc {
			if i > 0 && j > 0 && r.IntN(4) == 0 {
				continue
			}
			k := sizes[0]
			if r.IntN(3) == 0 {
				k = sizes[r.IntN(len(sizes))]
			}
			at := geometry.Point{X: 100*px + j*(120+gap)*px, Y: 100*px + i*(80+gap)*px}
			at = at.Add(geometry.Point{X: r.IntN(2*off*px+1) - off*px, Y: r.IntN(2*off*px+1) - off*px})
			id := fmt.Sprintf("s%d-%d", i, j)
			s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: k.kind, Box: geometry.Around(at, k.w*px, k.h*px)})
			rows[id], columns[id] = i, j
		}
	}
	r.Shuffle(len(s.Symbols), func(i, j int) { s.Symbols[i], s.Symbols[j] = s.Symbols[j], s.Symbols[i] })
	return s, rows, columns
}

func apply(s *model.Sheet, places []edit.Place) {
	for _, p := range places {
		s.Symbol(p.ID).Box = p.Box
	}
}

func overlapping(s *model.Sheet) string {
	for i, a := range s.Symbols {
		for _, b := range s.Symbols[:i] {
			if a.Meets(b.Box) {
				return fmt.Sprintf("%s %v on %s %v", a.ID, a.Box, b.ID, b.Box)
			}
		}
	}
	return ""
}

// What stood nearly in rows and columns stands exactly in them: every row and
// column on one line, the gaps between full columns and between full rows equal
// within 0.01 px (common practice, no source: gaps in a row are equal), nothing
// on anything else, and doing it again moves nothing.
func TestStraightenMakesRowsAndColumnsExact(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 4))
	for n := range 2000 {
		s, rows, columns := jumbled(r, 8)
		apply(s, arrange.Straighten(s, nil))
		row, column := map[int]int{}, map[int]int{}
		width, height := map[int][2]int{}, map[int][2]int{}
		for _, sym := range s.Symbols {
			c := sym.Centre()
			i, j := rows[sym.ID], columns[sym.ID]
			if y, ok := row[i]; ok && y != c.Y {
				t.Fatalf("%d: row %d lies at %d and %d", n, i, y, c.Y)
			}
			if x, ok := column[j]; ok && x != c.X {
				t.Fatalf("%d: column %d lies at %d and %d", n, j, x, c.X)
			}
			row[i], column[j] = c.Y, c.X
			if w, ok := width[j]; !ok || sym.W > w[1]-w[0] {
				width[j] = [2]int{sym.X, sym.Right()}
			}
			if h, ok := height[i]; !ok || sym.H > h[1]-h[0] {
				height[i] = [2]int{sym.Y, sym.Bottom()}
			}
		}
		if on := overlapping(s); on != "" {
			t.Fatalf("%d: %s", n, on)
		}
		for name, lines := range map[string]map[int][2]int{"columns": width, "rows": height} {
			var gaps []int
			for k := 1; k < len(lines); k++ {
				// Only where both are as wide as the widest: the gap of columns
				// is measured between those that share a row.
				a, b := lines[k-1], lines[k]
				if most := 120 * px; name == "columns" && a[1]-a[0] == most && b[1]-b[0] == most ||
					name == "rows" && a[1]-a[0] == 80*px && b[1]-b[0] == 80*px {
					gaps = append(gaps, b[0]-a[1])
				}
			}
			if len(gaps) > 1 && full(s, rows, columns) && slices.Max(gaps)-slices.Min(gaps) > 1 {
				t.Fatalf("%d: the gaps of the %s are %v", n, name, gaps)
			}
		}
		if again := arrange.Straighten(s, nil); len(again) > 0 {
			t.Fatalf("%d: straightened again %v move", n, again)
		}
	}
}

// full reports whether all symbols have one size and no place is empty.
func full(s *model.Sheet, rows, columns map[string]int) bool {
	nr, nc := 0, 0
	for _, sym := range s.Symbols {
		nr, nc = max(nr, rows[sym.ID]+1), max(nc, columns[sym.ID]+1)
		if sym.W != 120*px || sym.H != 80*px {
			return false
		}
	}
	return nr*nc == len(s.Symbols)
}

// Whatever lies on the sheet, even all on top of each other, in lanes or not:
// nothing overlaps afterwards that is not locked, nothing changes its lane, what
// was clearly left of or above something in its row or column stays so, locked
// symbols keep their place, and doing it again moves nothing.
func TestStraightenKeepsTheArrangementOfAnything(t *testing.T) {
	r := rand.New(rand.NewPCG(42, 4))
	for n := range 2000 {
		m := model.New("", model.Rightwards, "A4", true)
		s := m.Sheets[0]
		if n%2 == 0 {
			s.Pools = []*model.Pool{{ID: "p", X: 0, Y: 0, W: 3000 * px,
				Lanes: []model.Lane{{ID: "a", H: 400 * px}, {ID: "b", H: 400 * px}}}}
		}
		spread := 200 + r.IntN(800)
		for i := range 2 + r.IntN(12) {
			k := sizes[r.IntN(len(sizes))]
			box := geometry.Around(geometry.Point{X: (100 + r.IntN(spread)) * px,
				Y: (60 + r.IntN(min(spread, 680))) * px}, k.w*px, k.h*px)
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprintf("s%02d", i), Kind: k.kind, Box: box})
		}
		lanes := map[string]*model.Lane{}
		before := map[string]geometry.Box{}
		for _, sym := range s.Symbols {
			lanes[sym.ID], before[sym.ID] = s.LaneOf(sym), sym.Box
		}
		edit := &edit.PlaceItems{Sheet: s.ID, Boxes: arrange.Straighten(s, nil)}
		for _, a := range s.Symbols {
			for _, b := range s.Symbols {
				p, q := placed(edit.Boxes, a), placed(edit.Boxes, b)
				if lanes[a.ID] != lanes[b.ID] {
					continue
				}
				if a.ID < b.ID && p.Meets(q) {
					t.Fatalf("%d: %s %v lies on %s %v", n, a.ID, p, b.ID, q)
				}
				if before[a.ID].Right() < before[b.ID].X && p.Centre().X > q.Centre().X {
					t.Fatalf("%d: %s was left of %s and is not any more: %v %v", n, a.ID, b.ID, p, q)
				}
				if before[a.ID].Bottom() < before[b.ID].Y && p.Centre().Y > q.Centre().Y {
					t.Fatalf("%d: %s was above %s and is not any more: %v %v", n, a.ID, b.ID, p, q)
				}
			}
		}
		apply(s, edit.Boxes)
		if n%2 == 1 {
			if again := arrange.Straighten(s, nil); len(again) > 0 {
				t.Fatalf("%d: straightened again %v move", n, again)
			}
		}
		if len(s.Symbols) > 2 { // one is locked: it stays
			held := s.Symbols[r.IntN(len(s.Symbols))]
			held.Locked = true
			for _, p := range arrange.Straighten(s, nil) {
				if p.ID == held.ID {
					t.Fatalf("%d: the locked %s is moved", n, p.ID)
				}
			}
		}
	}
}

func placed(list []edit.Place, sym *model.Symbol) geometry.Box {
	if i := slices.IndexFunc(list, func(p edit.Place) bool { return p.ID == sym.ID }); i >= 0 {
		return list[i].Box
	}
	return sym.Box
}

// Opening space and closing it again by as much as it may be closed leaves
// nothing on anything that did not lie so before, whatever is cut.
func TestSpaceOpensAndCloses(t *testing.T) {
	r := rand.New(rand.NewPCG(43, 4))
	for n := range 1000 {
		s, _, _ := jumbled(r, 8)
		m := model.New("", model.Rightwards, "A3", true)
		m.Sheets[0] = s
		if n%2 == 0 {
			s.Pools = []*model.Pool{{ID: "p", X: 0, Y: 0, W: 2200 * px,
				Lanes: []model.Lane{{ID: "a", H: 400 * px}, {ID: "b", H: 700 * px}}}}
			if _, err := edit.Apply(m, &edit.MoveItems{Sheet: s.ID, IDs: []string{s.Symbols[0].ID}}); err != nil {
				t.Fatal(err)
			}
		}
		if overlapping(s) != "" {
			continue
		}
		lane := map[string]*model.Lane{}
		for _, sym := range s.Symbols {
			lane[sym.ID] = s.LaneOf(sym)
		}
		down, at := r.IntN(2) == 0, r.IntN(900*px)
		for _, by := range []int{r.IntN(200) * px, 0} {
			if by == 0 {
				by = -arrange.Closable(s, down, at)
			}
			before, _ := m.Sheets[0].Extent(), 0
			undo, err := edit.Apply(m, &edit.OpenSpace{Sheet: s.ID, Down: down, At: at, By: by})
			if err != nil {
				t.Fatalf("%d: %v", n, err)
			}
			if on := overlapping(s); on != "" {
				t.Fatalf("%d: by %d at %d (down %v): %s", n, by, at, down, on)
			}
			for _, sym := range s.Symbols {
				now := s.LaneOf(sym)
				if (now == nil) != (lane[sym.ID] == nil) || now != nil && now.ID != lane[sym.ID].ID {
					t.Fatalf("%d: by %d at %d (down %v) %s at %v changes its lane", n, by, at, down, sym.ID, sym.Box)
				}
			}
			if _, err := edit.Apply(m, undo); err != nil {
				t.Fatal(err)
			}
			if after := s.Extent(); after != before {
				t.Fatalf("%d: taken back the sheet reaches %v, not %v", n, after, before)
			}
		}
	}
}

// Where one symbol of a straight arrangement was nudged, it alone goes back to where
// it stood, whatever the gaps of the arrangement are.
func TestStraightenMovesNothingElse(t *testing.T) {
	r := rand.New(rand.NewPCG(44, 19))
	for n := range 300 {
		s := &model.Sheet{SheetHead: model.SheetHead{Paper: "A3", Across: true}}
		across, down := (30+r.IntN(60))*px, (30+r.IntN(60))*px
		for i := range 12 {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint(i), Kind: model.Process,
				Box: geometry.Box{X: 7*px + i%4*(120*px+across), Y: 11*px + i/4*(80*px+down), W: 120 * px, H: 80 * px}})
		}
		off := s.Symbols[r.IntN(12)]
		home := off.Box
		off.Box = home.Moved(geometry.Point{X: (r.IntN(25) - 12) * px, Y: (r.IntN(25) - 12) * px})
		got := arrange.Straighten(s, nil)
		if off.Box == home && len(got) == 0 {
			continue
		}
		if len(got) != 1 || got[0].ID != off.ID || got[0].Box != home {
			t.Fatalf("%d: gaps %d and %d, %v nudged to %v: %v", n, across, down, home, off.Box, got)
		}
	}
}
