package arrange

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Append returns where the step after from goes, and the edits that make room
// for it: ahead in the direction of the flow, in line; where something leads
// on from there already, to its side. Whatever stands in the way is pushed on,
// in line with all that stands beyond it.
func Append(m *model.Map, s *model.Sheet, from *model.Symbol, kind model.Kind) (geometry.Box, []edit.Edit) {
	w, h := Size(s, kind)
	if pool, _ := s.LaneAt(from.Centre()); pool != nil && pool.Down {
		t := s.Turned()
		b, edits := after(t, t.Symbol(from.ID), h, w, false)
		return b.Turned(true), turnedEdits(edits)
	}
	down := m.Direction == model.Downwards
	b, edits := after(s, from, w, h, down)
	if row, ok := nextRow(s, from, b, down); ok && s.Edge == model.EdgeStay {
		return row, nil
	}
	return b, edits
}

// nextRow returns where a step goes that would leave the page along the flow, outside lanes: to
// the beginning of a new row, or column, behind all others. It reports false where the step
// stays on the page, or no row has room.
func nextRow(s *model.Sheet, from *model.Symbol, b geometry.Box, down bool) (geometry.Box, bool) {
	page := s.Area().Turned(down)
	if pool, _ := s.LaneAt(from.Centre()); pool != nil || !s.Area().Holds(from.Box) ||
		b.Turned(down).Right() <= page.Right() {
		return b, false
	}
	row, own := from.Box.Turned(down), b.Turned(down)
	begin, foot := row.X, row.Bottom()
	for _, o := range s.Symbols {
		if o.Kind.IsAside() {
			continue
		}
		ob := o.Box.Turned(down)
		if foot = max(foot, ob.Bottom()); ob.Y < row.Bottom() && row.Y < ob.Bottom() {
			begin = min(begin, ob.X)
		}
	}
	own.X, own.Y = begin, foot+Gap
	out := own.Turned(down)
	return out, s.Area().Holds(out) && freeAmong(s.Symbols, out)
}

// turnedEdits exchanges the axes of edits that open space; the others know none.
func turnedEdits(edits []edit.Edit) []edit.Edit {
	for _, e := range edits {
		if o, ok := e.(*edit.OpenSpace); ok {
			o.Down = !o.Down
		}
	}
	return edits
}

func after(s *model.Sheet, from *model.Symbol, w, h int, down bool) (geometry.Box, []edit.Edit) {
	c := from.Centre()
	ahead, aside := geometry.Around(geometry.Point{X: from.Right() + Gap + w/2, Y: c.Y}, w, h),
		geometry.Around(geometry.Point{X: c.X, Y: from.Bottom() + Gap + h/2}, w, h)
	other := geometry.Around(geometry.Point{X: c.X, Y: from.Y - Gap - h/2}, w, h)
	if down {
		ahead, aside = geometry.Around(geometry.Point{X: c.X, Y: from.Bottom() + Gap + h/2}, w, h),
			geometry.Around(geometry.Point{X: from.Right() + Gap + w/2, Y: c.Y}, w, h)
		other = geometry.Around(geometry.Point{X: from.X - Gap - w/2, Y: c.Y}, w, h)
	}
	pool, lane := s.LaneAt(c)
	var inner []*model.Symbol
	if pool != nil {
		inner = inLane(s, pool, lane)
	}
	// Down the lanes nothing is in the way that stands in another lane, which
	// moves when this one grows.
	free := func(b geometry.Box) bool {
		if pool == nil {
			return freeAmong(s.Symbols, b)
		}
		return freeAmong(inner, b)
	}
	leads := map[string]bool{}
	for _, con := range s.Connectors {
		if con.From.Symbol == from.ID {
			leads[con.To.Symbol] = true
		}
	}
	// taken says that a step this one leads to stands there: it is not pushed.
	taken := func(b geometry.Box) bool {
		return slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool { return leads[o.ID] && o.Meets(b) })
	}
	var b geometry.Box
	var push []edit.Edit
	switch {
	case free(ahead):
		b = ahead
	case !taken(ahead) && !down:
		b, push = ahead, pushFrom(s, false, from.Right(), ahead)
	case !taken(ahead) && pool == nil:
		b, push = ahead, pushFrom(s, true, from.Bottom(), ahead)
	case free(aside):
		b = aside
	case free(other) &&
		(pool == nil && other.Y >= 0 && other.X >= 0 || pool != nil && pool.LaneBox(lane).Y+model.LanePad <= other.Y &&
			other.X >= pool.Content()):
		b = other
	case !taken(aside) && down:
		b, push = aside, pushFrom(s, false, from.Right(), aside)
	case !taken(aside):
		b, push = aside, pushFrom(s, true, from.Bottom(), aside)
	default: // beside the others it leads to
		b = aside
		for i := 0; !free(b) && i < model.MaxSymbols; i++ {
			if down {
				b.Y += h + Gap
			} else {
				b.X += w + Gap
			}
		}
	}
	if pool == nil {
		return b, push
	}
	if len(push) > 0 {
		return b, append(push, grow(s, pool, b)...)
	}
	return b, room(s, pool, lane, b)
}

// pushFrom opens space beyond a coordinate until a box is free: at the first
// thing in its way and everything that stands beyond that.
func pushFrom(s *model.Sheet, down bool, beyond int, b geometry.Box) []edit.Edit {
	across := !down
	need := b.Grown(Grid)
	at, found := 0, false
	for _, o := range s.Symbols {
		if o.Meets(need) && !symbols.Of(o.Kind).Hollow && middle(o.Box, across) > beyond &&
			(!found || begin(o.Box, across) < at) {
			at, found = begin(o.Box, across), true
		}
	}
	if !found {
		return nil
	}
	by := geometry.Snap(end(b, across)+Gap-at+Grid/2-1, Grid)
	// The cut lies before the middles of all that stands in line with it.
	return []edit.Edit{&edit.OpenSpace{Sheet: s.ID, Down: down, At: max(at, beyond), By: by}}
}

// grow lets the pool hold the box after space was opened in it.
func grow(s *model.Sheet, pool *model.Pool, b geometry.Box) []edit.Edit {
	if w := b.Right() + 2*model.LanePad - pool.X; w > pool.W {
		return []edit.Edit{&edit.SetPool{Sheet: s.ID, Pool: pool.ID, W: &w}}
	}
	return nil
}

func inLane(s *model.Sheet, pool *model.Pool, lane int) []*model.Symbol {
	var out []*model.Symbol
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p == pool && k == lane {
			out = append(out, sym)
		}
	}
	return out
}

func freeAmong(list []*model.Symbol, b geometry.Box) bool {
	b = b.Grown(Grid)
	return !slices.ContainsFunc(list, func(o *model.Symbol) bool { return o.Meets(b) && !symbols.Of(o.Kind).Hollow })
}

// room returns the edits that let a lane and its pool hold the box.
func room(s *model.Sheet, pool *model.Pool, lane int, b geometry.Box) []edit.Edit {
	var edits []edit.Edit
	if h := b.Bottom() + model.LanePad - pool.LaneBox(lane).Y; h > pool.Lanes[lane].H &&
		b.Centre().Y >= pool.LaneBox(lane).Y {
		edits = append(edits, &edit.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[lane].ID, H: &h, Grows: true})
	}
	return append(edits, grow(s, pool, b)...)
}

// IntoLane returns where a symbol goes in another lane: in its column, at the
// lane's middle or, where something stands there, below it; and the edits that
// let the lane hold it.
func IntoLane(s *model.Sheet, pool *model.Pool, lane int, sym *model.Symbol) (geometry.Box, []edit.Edit) {
	if pool.Down {
		t := s.Turned()
		b, edits := IntoLane(t, t.Pool(pool.ID), lane, t.Symbol(sym.ID))
		return b.Turned(true), edits
	}
	strip := pool.LaneBox(lane)
	b := sym.At(geometry.Point{X: sym.X, Y: strip.Y + (strip.H-sym.H)/2})
	b.Y = max(geometry.Snap(b.Y, Grid/2), strip.Y+model.LanePad)
	inner := inLane(s, pool, lane)
	for i := 0; !freeAmong(inner, b) && i < model.MaxSymbols; i++ {
		b.Y += Grid
	}
	h := b.Bottom() + model.LanePad - strip.Y
	if h <= strip.H {
		return b, nil
	}
	return b, []edit.Edit{&edit.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[lane].ID, H: &h}}
}
