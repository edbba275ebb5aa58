package arrange

import (
	"cmp"
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Grow returns the edits that give symbols the places of Fit without their growing over what
// stands beside them: whatever stands beyond, along the flow and across it, moves on by as
// much as they grow, so that all gaps stay as they were. Where there are lanes, these grow by
// themselves across the flow.
func Grow(s *model.Sheet, places []edit.Place) []edit.Edit {
	if len(places) == 0 {
		return nil
	}
	if s.Kind == model.HierarchySheet { // the cards find their places themselves
		return []edit.Edit{&edit.PlaceItems{Sheet: s.ID, Boxes: places}}
	}
	old := s.Symbol(places[0].ID)
	by := geometry.Point{X: places[0].W - old.W, Y: places[0].H - old.H}
	pools, down := len(s.Pools) > 0, len(s.Pools) > 0 && s.Pools[0].Down
	moved := make([]geometry.Point, len(places))
	var edits []edit.Edit
	if by.X > 0 && (!pools || !down) && tight(s, places, false) {
		edits = append(edits, open(s, places, by.X, false, moved)...)
	}
	if by.Y > 0 && (!pools || down) && tight(s, places, true) {
		edits = append(edits, open(s, places, by.Y, true, moved)...)
	}
	if len(edits) == 0 {
		return []edit.Edit{&edit.PlaceItems{Sheet: s.ID, Boxes: places}}
	}
	out := &edit.PlaceItems{Sheet: s.ID}
	for i, p := range places {
		p.Box = p.Moved(moved[i])
		out.Boxes = append(out.Boxes, p)
	}
	return append(edits, out)
}

// tight reports whether symbols that grow round their middles would leave others beside them,
// along an axis, less than the usual gap, and less than these had.
func tight(s *model.Sheet, places []edit.Place, down bool) bool {
	grown := map[string]geometry.Box{}
	for _, p := range places {
		grown[p.ID] = p.Box
	}
	now := func(sym *model.Symbol) geometry.Box { return sym.Box.Turned(down) }
	then := func(sym *model.Symbol) geometry.Box {
		if b, ok := grown[sym.ID]; ok {
			return b.Turned(down)
		}
		return now(sym)
	}
	apart := func(a, b geometry.Box) int { return max(b.X-a.Right(), a.X-b.Right()) }
	for _, p := range places {
		sym := s.Symbol(p.ID)
		for _, o := range s.Symbols {
			a, b := then(sym), then(o)
			if o == sym || o.Kind.IsAside() || b.Y >= a.Bottom() || a.Y >= b.Bottom() {
				continue
			}
			if gap := apart(a, b); gap < Gap && gap < apart(now(sym), now(o)) {
				return true
			}
		}
	}
	return false
}

// run is a stretch of one axis that growing symbols lie on, one over the other: from the first
// of their middles to the last of their ends.
type run struct{ middle, end int }

// open opens space for symbols that all grow by so much along an axis, and adds to moved by how
// much each then stands elsewhere.
func open(s *model.Sheet, places []edit.Place, by int, down bool, moved []geometry.Point) []edit.Edit {
	along := func(id string) (begin, middle, end int) {
		b := s.Symbol(id).Box.Turned(down)
		return b.X, b.Centre().X, b.Right()
	}
	order := make([]int, len(places))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		_, p, _ := along(places[a].ID)
		_, q, _ := along(places[b].ID)
		return cmp.Compare(p, q)
	})
	var runs []run
	for _, i := range order {
		begin, middle, end := along(places[i].ID)
		if n := len(runs); n == 0 || begin >= runs[n-1].end {
			runs = append(runs, run{middle, end})
		} else {
			runs[n-1].end = max(runs[n-1].end, end)
		}
		d := geometry.Point{X: (len(runs)-1)*by + by/2}.Turned(down)
		moved[i] = moved[i].Add(d)
	}
	var edits []edit.Edit
	for _, r := range slices.Backward(runs) { // what is opened farther on moves nothing before it
		edits = append(edits,
			&edit.OpenSpace{Sheet: s.ID, Down: down, At: r.end, By: by - by/2},
			&edit.OpenSpace{Sheet: s.ID, Down: down, At: r.middle, By: by / 2})
	}
	return edits
}
