package editor

import (
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/units"
)

// setUnits sets the unit for every length the map shows.
func (e *Editor) setUnits(arg string) {
	u := diagram.Units(arg)
	e.do(&diagram.SetHead{Units: &u})
}

// setFrame sets one side of the box of the selected symbols exactly: x, y, w or
// h, an equals sign and a length.
func (e *Editor) setFrame(arg string) {
	name, value, _ := strings.Cut(arg, "=")
	n, ok := units.Parse(value, e.m.Units)
	if !ok {
		e.say("A length is a number of %s.", units.Name(e.m.Units))
		return
	}
	if name == "x" || name == "y" {
		b := e.frame()
		d := geometry.Point{X: n - b.X}
		if name == "y" {
			d = geometry.Point{Y: n - b.Y}
		}
		e.doMoving(&diagram.MoveItems{Sheet: e.sheetID, IDs: e.movable(), By: d})
		return
	}
	var boxes []diagram.Place
	for _, sym := range e.chosen() {
		b := sym.Box
		if name == "w" {
			b.W = n
		} else {
			b.H = n
		}
		boxes = append(boxes, diagram.Place{ID: sym.ID, Box: e.roomy(sym, b)})
	}
	e.doMoving(&diagram.PlaceItems{Sheet: e.sheetID, Boxes: boxes})
}

// frame returns the box around the selected symbols.
func (e *Editor) frame() geometry.Box {
	var b geometry.Box
	for _, sym := range e.chosen() {
		b = b.Union(sym.Box)
	}
	return b
}
