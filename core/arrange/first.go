package arrange

import (
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// First returns where the first symbol of a sheet stands: where its flow begins, in a lane of a pool if there is one.
func First(m *model.Map, s *model.Sheet, pool *model.Pool, lane int, kind model.Kind) geometry.Box {
	w, h := Size(s, kind)
	page := s.Page()
	at := geometry.Point{X: 8*Grid + w/2, Y: page.H / 4}
	if m.Direction == model.Downwards {
		at = geometry.Point{X: page.W / 2, Y: 8*Grid + h/2}
	}
	if pool != nil {
		inner := pool.Inner(lane)
		at = geometry.Point{X: inner.X + 2*Grid + w/2, Y: inner.Centre().Y}
		if pool.Down {
			at = geometry.Point{X: inner.Centre().X, Y: inner.Y + 2*Grid + h/2}
		}
	}
	box := geometry.Around(at, w, h)
	box.X, box.Y = geometry.Snap(box.X, Grid/2), geometry.Snap(box.Y, Grid/2)
	return box
}

// Beside returns where a symbol that ends the flow on its sheet stands: ahead of another, or where that is not on the
// paper, at one of its sides or near it; with the edits that make room for it.
func Beside(m *model.Map, s *model.Sheet, from *model.Symbol, kind model.Kind) (geometry.Box, []edit.Edit) {
	b, edits := Append(m, s, from, kind)
	area := s.Area()
	if area.Holds(b) || !area.Holds(from.Box) {
		return b, edits
	}
	pool, lane := s.LaneAt(from.Centre())
	down := m.Direction == model.Downwards
	if pool != nil {
		down = pool.Down
	}
	own, at := b.Turned(down), from.Box.Turned(down)
	at.X = at.Centre().X - own.W/2
	for _, y := range [2]int{at.Bottom() + Gap, at.Y - Gap - own.H} {
		to := geometry.Box{X: at.X, Y: y, W: own.W, H: own.H}.Turned(down)
		in, k := s.LaneAt(to.Centre())
		if area.Holds(to) && in == pool && k == lane && (pool == nil || pool.Inner(lane).Holds(to)) &&
			freeAmong(s.Symbols, to) {
			return to, nil
		}
	}
	return b, edits
}
