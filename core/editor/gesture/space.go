package gesture

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
)

// makeSpace makes room: an empty stretch of the sheet that is dragged opens space across it, or closes it.
type makeSpace struct {
	grip
	down bool // the space opens downwards
	by   int  // how far
}

func (g *makeSpace) begin() Gesture { return g }

// change returns the edit for the stretch dragged from where it was pressed
// to p; nil while it is not clear which way, or nothing would move.
func (g *makeSpace) change(p geometry.Point) *edit.OpenSpace {
	d := p.Sub(g.start)
	down := geometry.Abs(d.Y) > geometry.Abs(d.X)
	at, by := g.start.X, d.X
	if down {
		at, by = g.start.Y, d.Y
	}
	if g.mods&desk.Alt == 0 {
		by = geometry.Snap(by, arrange.Grid)
	}
	g.e.Drop()
	if by < 0 {
		// From where it is pressed it closes backwards: what lies beyond that place moves.
		by = -min(-by, arrange.Closable(g.e.Sheet(), down, at))
		if g.mods&desk.Alt == 0 {
			by = -geometry.FloorDiv(-by, arrange.Grid) * arrange.Grid
		}
	}
	g.down, g.by = down, by
	if by == 0 {
		return nil
	}
	return &edit.OpenSpace{Sheet: g.e.SheetID, Down: down, At: at, By: by}
}

func (g *makeSpace) follow(p geometry.Point) {
	if change := g.change(p); change != nil {
		change.Held = true
		g.e.Try(change)
	}
}

func (g *makeSpace) up(p geometry.Point) {
	g.e.Armed = false
	if !g.moved {
		g.e.Say("Press where you need room and drag: right or down opens a gap, back closes it.")
		return
	}
	if change := g.change(p); change != nil {
		g.e.DoMoving(change)
	}
}

// draw shows where the space opens and how wide it is.
func (g *makeSpace) draw(o *overlay) {
	if !g.moved {
		return
	}
	ext := g.e.Sheet().Extent().Grown(2 * arrange.Grid)
	if g.down {
		y := g.start.Y
		o.line("cut", geometry.Polyline{{X: ext.X, Y: y}, {X: ext.Right(), Y: y}})
		o.line("cut", geometry.Polyline{{X: ext.X, Y: y + g.by}, {X: ext.Right(), Y: y + g.by}})
		o.guide(geometry.Point{X: g.start.X, Y: y}, geometry.Point{X: g.start.X, Y: y + g.by}, g.by)
		return
	}
	x := g.start.X
	o.line("cut", geometry.Polyline{{X: x, Y: ext.Y}, {X: x, Y: ext.Bottom()}})
	o.line("cut", geometry.Polyline{{X: x + g.by, Y: ext.Y}, {X: x + g.by, Y: ext.Bottom()}})
	o.guide(geometry.Point{X: x, Y: g.start.Y}, geometry.Point{X: x + g.by, Y: g.start.Y}, g.by)
}
