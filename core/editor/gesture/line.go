package gesture

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// bending pulls a stretch of a connector.
type bending struct {
	grip
	id   string
	bend desk.Bend
}

// pullStretch takes hold of the stretch that was pressed. Straight and joined
// ends bend like any other; only a straight line cannot.
func (e *Pointer) pullStretch(at grip, id string) Gesture {
	c, course := e.CourseOf(id)
	if c == nil || c.Course == model.Straight {
		return nil
	}
	_, _, k := course.Points.Nearest(at.start)
	return &bending{at, id, desk.BendOf(c, course, k)}
}

func (g *bending) begin() Gesture { return g }

func (g *bending) change(p geometry.Point) *edit.SetBends {
	d := p.Sub(g.start)
	at := g.bend.At + d.Y
	if g.bend.Upright {
		at = g.bend.At + d.X
	}
	if g.mods&desk.Alt == 0 {
		at = geometry.Snap(at, arrange.Grid/2)
	}
	return &edit.SetBends{Sheet: g.e.SheetID, ID: g.id, Bends: g.bend.Laid(at)}
}

func (g *bending) follow(p geometry.Point) { g.e.Try(g.change(p)) }

func (g *bending) up(p geometry.Point) {
	if g.moved {
		g.e.LayBends(g.change(p))
	}
}

// pullLabel slides a label of a connector to follow the pointer. Near its line it lies right on it or just beside it.
func (e *Pointer) pullLabel(at grip, id, label string) Gesture {
	c, course := e.CourseOf(id)
	if c == nil {
		return nil
	}
	box, ok := e.LabelBox(c, course, label)
	if !ok {
		return nil
	}
	return &pull{grip: at, seen: true, edit: func(p geometry.Point) edit.Edit {
		_, course := e.CourseOf(id)
		if course == nil {
			return nil
		}
		return &edit.SetPlace{Sheet: e.SheetID, ID: id, At: label,
			Place: desk.SpotAt(course.Points, box.Centre().Add(p.Sub(at.start)))}
	}}
}
