package layout

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

// centred reports whether the whole drawing is to stand in the middle of the page: nothing on it stays where it is.
func (l *layout) centred() bool {
	laid := len(l.list)
	for _, sats := range l.satellites {
		laid += len(sats)
	}
	locked := slices.ContainsFunc(l.s.Symbols, func(sym *model.Symbol) bool { return sym.Locked })
	down := slices.ContainsFunc(l.s.Pools, func(p *model.Pool) bool { return p.Down })
	return l.s.Middle && len(l.wish.IDs) == 0 && laid == len(l.s.Symbols) && !locked && !down
}

// middle moves a whole drawing to the middle of the page, where the sheet says so: along each axis on which it is not
// larger.
func (l *layout) middle(edit *edit.LayOut, courses []routing.Course) *edit.LayOut {
	s := l.m.Sheet(l.s.ID)
	if !l.centred() {
		return edit
	}
	var all geometry.Box
	add := func(b geometry.Box) {
		if all == (geometry.Box{}) {
			all = b
		}
		all = all.Union(b)
	}
	for _, b := range l.boxes {
		add(b.Turned(l.turned))
	}
	for i := range l.pools {
		add(l.frame(&l.pools[i]).Turned(l.turned))
	}
	for i := range courses {
		if len(courses[i].Points) > 0 {
			add(courses[i].Points.Bounds())
		}
	}
	area := s.Area()
	shift := func(from, long, at, room int) int {
		if long > room-margin {
			return 0
		}
		return geometry.Snap(at+(room-long)/2, arrange.Grid) - geometry.Snap(from, arrange.Grid)
	}
	d := geometry.Point{X: shift(all.X, all.W, area.X, area.W), Y: shift(all.Y, all.H, area.Y, area.H)}
	if d == (geometry.Point{}) {
		return edit
	}
	led := edit.Led
	turned := d.Turned(l.turned)
	for id, b := range l.boxes {
		l.boxes[id] = b.Moved(turned)
	}
	for i := range l.pools {
		l.pools[i].X, l.pools[i].Y = l.pools[i].X+turned.X, l.pools[i].Y+turned.Y
	}
	moved := l.edit()
	for i := range led {
		for j, b := range led[i].Bends {
			if b.Upright {
				led[i].Bends[j].At += d.X
			} else {
				led[i].Bends[j].At += d.Y
			}
		}
	}
	moved.Led = led
	return moved
}
