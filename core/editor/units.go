package editor

import (
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/units"
)

// setUnits sets the unit for every length the map shows.
func (e *Sheets) setUnits(arg string) {
	u := model.Units(arg)
	e.do(&edit.SetHead{Units: &u})
}

// setFrame sets one side of the box of the selected symbols exactly: x, y, w or
// h, an equals sign and a length.
func (e *Sheets) setFrame(arg string) {
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
		e.doMoving(&edit.MoveItems{Sheet: e.sheetID, IDs: e.movable(), By: d})
		return
	}
	var boxes []edit.Place
	for _, sym := range e.chosen() {
		b := sym.Box
		if name == "w" {
			b.W = n
		} else {
			b.H = n
		}
		boxes = append(boxes, edit.Place{ID: sym.ID, Box: e.Placing.roomy(sym, b)})
	}
	e.doMoving(&edit.PlaceItems{Sheet: e.sheetID, Boxes: boxes})
}

// frame returns the box around the selected symbols.
func (e *Sheets) frame() geometry.Box {
	var b geometry.Box
	for _, sym := range e.chosen() {
		b = b.Union(sym.Box)
	}
	return b
}
