package desk

import (
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/units"
)

// SetUnits sets the unit for every length the map shows.
func (e *Sheets) SetUnits(arg string) {
	u := model.Units(arg)
	e.Do(&edit.SetHead{Units: &u})
}

// SetFrame sets one side of the box of the selected symbols exactly: x, y, w or
// h, an equals sign and a length.
func (e *Sheets) SetFrame(arg string) {
	name, value, _ := strings.Cut(arg, "=")
	n, ok := units.Parse(value, e.M.Units)
	if !ok {
		e.Say("A length is a number of %s.", units.Name(e.M.Units))
		return
	}
	if name == "x" || name == "y" {
		b := e.Frame()
		d := geometry.Point{X: n - b.X}
		if name == "y" {
			d = geometry.Point{Y: n - b.Y}
		}
		e.DoMoving(&edit.MoveItems{Sheet: e.SheetID, IDs: e.Movable(), By: d})
		return
	}
	var boxes []edit.Place
	for _, sym := range e.Chosen() {
		b := sym.Box
		if name == "w" {
			b.W = n
		} else {
			b.H = n
		}
		boxes = append(boxes, edit.Place{ID: sym.ID, Box: e.Placing.Roomy(sym, b)})
	}
	e.DoMoving(&edit.PlaceItems{Sheet: e.SheetID, Boxes: boxes})
}

// Frame returns the box around the selected symbols.
func (e *Sheets) Frame() geometry.Box {
	var b geometry.Box
	for _, sym := range e.Chosen() {
		b = b.Union(sym.Box)
	}
	return b
}
