package arrange

import (
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// Largest gives new symbols the sizes their texts need by the sheet's way of
// fitting, and returns the edits that let those of their kinds that are there
// already grow with them.
func Largest(m *model.Map, s *model.Sheet, list []model.Symbol) []edit.Edit {
	if s.Fitting == model.FitSmaller {
		return nil
	}
	type size struct{ w, h int }
	need := map[model.Kind]size{}
	var kinds []model.Kind
	for i := range list {
		sym := &list[i]
		w, h := typeset.HouseOf(m).Grow(symbols.Of(sym.Kind), sym.Accented(), looks.For(m, sym).Type(sym.Type), sym.W,
			sym.H)
		n, seen := need[sym.Kind]
		if !seen {
			kinds = append(kinds, sym.Kind)
		}
		need[sym.Kind] = size{max(n.w, w), max(n.h, h)}
		sym.W, sym.H = w, h
	}
	if s.Fitting == model.FitAlone {
		return nil
	}
	var edits []edit.Edit
	for _, kind := range kinds {
		w, h := Size(s, kind)
		n := need[kind]
		for i := range list {
			if list[i].Kind == kind {
				list[i].W, list[i].H = n.w, n.h
			}
		}
		if n.w == w && n.h == h {
			continue
		}
		place := &edit.PlaceItems{Sheet: s.ID}
		for _, o := range s.Symbols {
			if o.Kind == kind && o.W == w && o.H == h && !o.Locked {
				place.Boxes = append(place.Boxes, edit.Place{ID: o.ID, Box: geometry.Around(o.Centre(), n.w, n.h)})
			}
		}
		if len(place.Boxes) > 0 {
			edits = append(edits, place)
		}
	}
	return edits
}

// SetOut gives new symbols their places one after the other in the direction of
// the flow, in rows or columns as long as the page: after a step, or with the
// first one around a point. It goes on until they stand on nothing.
func SetOut(m *model.Map, s *model.Sheet, list []model.Symbol, from *model.Symbol, at geometry.Point) {
	if len(list) == 0 {
		return
	}
	across := m.Direction == model.Rightwards
	var wide, high int
	for i := range list {
		wide, high = max(wide, list[i].W), max(high, list[i].H)
	}
	page := s.Page()
	if !page.Contains(at) {
		at = geometry.Point{X: 4*Grid + wide/2, Y: 4*Grid + high/2}
	}
	at = geometry.Point{X: geometry.Snap(at.X, Grid), Y: geometry.Snap(at.Y, Grid)}
	start := geometry.Point{X: 4*Grid + wide/2, Y: 4*Grid + high/2} // where a further row begins
	pool, _ := s.LaneAt(at)
	if from != nil {
		at = from.Centre()
		pool, _ = s.LaneAt(at)
		if across {
			at.X = from.Right() + Gap + wide/2
		} else {
			at.Y = from.Bottom() + Gap + high/2
		}
	}
	// The steps of one row share a lane: in a pool there is one row, and the
	// pool grows.
	limit := page.Right() - 2*Grid
	if !across {
		limit = page.Bottom() - 2*Grid
	}
	for range model.MaxSymbols {
		p := at
		free := true
		for i := range list {
			if i > 0 {
				if across {
					p.X += wide + Gap
				} else {
					p.Y += high + Gap
				}
			}
			if pool == nil && i > 0 && across && p.X+wide/2 > limit {
				p = geometry.Point{X: start.X, Y: p.Y + high + Gap}
			}
			if pool == nil && i > 0 && !across && p.Y+high/2 > limit {
				p = geometry.Point{X: p.X + wide + Gap, Y: start.Y}
			}
			list[i].Box = geometry.Around(p, list[i].W, list[i].H)
			if free = freeAmong(s.Symbols, list[i].Box); !free {
				break
			}
		}
		if free {
			return
		}
		if across == (pool == nil) { // the whole block goes on until it is free
			at.Y += 2 * Grid
		} else {
			at.X += 2 * Grid
		}
	}
}
