package editor

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
)

// Making room: an empty stretch of the sheet that is dragged opens space across
// it, or closes it.

// spaceEdit returns the edit for the stretch dragged from where it was pressed
// to p; nil while it is not clear which way, or nothing would move.
func (e *Editor) spaceEdit(p geometry.Point) *edit.OpenSpace {
	g := &e.g
	d := p.Sub(g.start)
	down := geometry.Abs(d.Y) > geometry.Abs(d.X)
	at, by := g.start.X, d.X
	if down {
		at, by = g.start.Y, d.Y
	}
	if g.mods&Alt == 0 {
		by = geometry.Snap(by, arrange.Grid)
	}
	e.drop()
	if by < 0 {
		// From where it is pressed it closes backwards: what lies beyond that place moves.
		by = -min(-by, arrange.Closable(e.Sheet(), down, at))
		if g.mods&Alt == 0 {
			by = -geometry.FloorDiv(-by, arrange.Grid) * arrange.Grid
		}
	}
	g.down, g.shift = down, geometry.Point{X: by}
	if by == 0 {
		return nil
	}
	return &edit.OpenSpace{Sheet: e.sheetID, Down: down, At: at, By: by}
}

func (e *Editor) followSpace(p geometry.Point) {
	if edit := e.spaceEdit(p); edit != nil {
		edit.Held = true
		e.try(edit)
	}
}

// spacing draws where the space opens and how wide it is.
func (o *overlay) spacing() {
	e, g := o.e, &o.e.g
	if g.mode != making || !g.moved {
		return
	}
	ext := e.Sheet().Extent().Grown(2 * arrange.Grid)
	by := g.shift.X
	if g.down {
		y := g.start.Y
		o.line("cut", geometry.Polyline{{X: ext.X, Y: y}, {X: ext.Right(), Y: y}})
		o.line("cut", geometry.Polyline{{X: ext.X, Y: y + by}, {X: ext.Right(), Y: y + by}})
		o.guide(geometry.Point{X: g.start.X, Y: y}, geometry.Point{X: g.start.X, Y: y + by}, by)
		return
	}
	x := g.start.X
	o.line("cut", geometry.Polyline{{X: x, Y: ext.Y}, {X: x, Y: ext.Bottom()}})
	o.line("cut", geometry.Polyline{{X: x + by, Y: ext.Y}, {X: x + by, Y: ext.Bottom()}})
	o.guide(geometry.Point{X: x, Y: g.start.Y}, geometry.Point{X: x + by, Y: g.start.Y}, by)
}

// toLane moves the selected symbols into the lane above or below, to its middle
// or, where something stands there, below that.
func (e *Editor) toLane(by int) {
	s := e.Sheet()
	change := &edit.PlaceItems{Sheet: s.ID, As: "move to another lane"}
	var also []edit.Edit
	for _, sym := range e.chosen() {
		pool, i := s.LaneAt(sym.Centre())
		if pool == nil || i+by < 0 || i+by >= len(pool.Lanes) {
			continue
		}
		box, room := arrange.IntoLane(s, pool, i+by, sym)
		change.Boxes = append(change.Boxes, edit.Place{ID: sym.ID, Box: box})
		also = append(also, room...)
	}
	if len(change.Boxes) == 0 {
		e.say("There is no lane in that direction.")
		return
	}
	e.doMoving(edit.Together(change.As, append(also, change)...))
}
