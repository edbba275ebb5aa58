package editor

import (
	"math"
	"strconv"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
)

// Lengths are shown and typed in the unit of the map; what is stored is always
// hundredths of a CSS pixel.

// perUnit is how much of what is stored makes a unit: 1 px, 1 mm (96 px in
// 25.4 mm), 1 in (96 px).
func perUnit(u diagram.Units) float64 {
	switch u {
	case diagram.Millimetres:
		return 9600 / 25.4
	case diagram.Inches:
		return 9600
	}
	return geometry.Px
}

// appendLength writes a length in a unit, as short as it goes: px to a
// hundredth, mm to a tenth where it is long enough not to matter, inches to a
// hundredth.
func appendLength(b []byte, n int, u diagram.Units) []byte {
	if u == diagram.Pixels {
		return scene.AppendPx(b, n)
	}
	v := float64(n) / perUnit(u)
	digits := 2
	if u == diagram.Millimetres && math.Abs(v) >= 2 {
		digits = 1
	} else if u == diagram.Inches && math.Abs(v) < 0.5 {
		digits = 3
	}
	text := strconv.FormatFloat(v, 'f', digits, 64)
	text = strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
	if text == "-0" || text == "" {
		text = "0"
	}
	return append(b, text...)
}

func unitName(u diagram.Units) string {
	if u == diagram.Pixels {
		return "px"
	}
	return string(u)
}

// length writes a length in the unit of the map.
func (e *Editor) length(n int) string { return string(appendLength(nil, n, e.m.Units)) }

// parseLength reads a length in the unit of the map, or in the one that is
// written behind it.
func (e *Editor) parseLength(text string) (int, bool) {
	return parseIn(text, perUnit(e.m.Units))
}

// parseIn reads a length in units of which one is so much, or in the one written behind it.
func parseIn(text string, per float64) (int, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	for name, unit := range map[string]float64{"px": geometry.Px, "mm": perUnit(diagram.Millimetres), "in": perUnit(diagram.Inches), "pt": perPoint} {
		if rest, ok := strings.CutSuffix(text, name); ok {
			text, per = strings.TrimSpace(rest), unit
		}
	}
	v, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
	if err != nil || math.IsNaN(v) || v < -1e5 || v > 1e5 {
		return 0, false
	}
	return int(math.Round(v * per)), true
}

// perPoint is how much of what is stored makes a point of 1/72 in, in which type sizes are
// shown and typed as everywhere on paper.
const perPoint = 9600.0 / 72

// points writes a type size in points.
func points(n int) string {
	text := strconv.FormatFloat(float64(n)/perPoint, 'f', 2, 64)
	return strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
}

// setUnits sets the unit for every length the map shows.
func (e *Editor) setUnits(arg string) {
	u := diagram.Units(arg)
	e.do(&diagram.SetHead{Units: &u})
}

// setFrame sets one side of the box of the selected symbols exactly: x, y, w or
// h, an equals sign and a length.
func (e *Editor) setFrame(arg string) {
	name, value, _ := strings.Cut(arg, "=")
	n, ok := e.parseLength(value)
	if !ok {
		e.say("A length is a number of %s.", unitName(e.m.Units))
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
