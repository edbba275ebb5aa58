// Package units writes and reads lengths as people do: in pixels, millimetres, inches and points. What is
// stored is always hundredths of a CSS pixel, of which 96 make an inch (CSS Values and Units Module
// Level 4, section 6.2).
package units

import (
	"math"
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

const inch = 96 * geometry.Px

// per returns how much of what is stored makes one of a unit.
func per(u model.Units) float64 {
	switch u {
	case model.Millimetres:
		return inch / 25.4
	case model.Inches:
		return inch
	}
	return geometry.Px
}

// perPoint is how much makes a point of 1/72 in, in which type sizes are shown and typed as everywhere on
// paper.
const perPoint = inch / 72.0

// Append writes a length in a unit, as short as it goes: px to a hundredth, mm to a tenth where it is long
// enough not to matter, inches to a hundredth.
func Append(b []byte, n int, u model.Units) []byte {
	v, digits := float64(n)/per(u), 2
	if u == model.Millimetres && math.Abs(v) >= 2 {
		digits = 1
	} else if u == model.Inches && math.Abs(v) < 0.5 {
		digits = 3
	}
	return append(b, short(v, digits)...)
}

func short(v float64, digits int) string {
	text := strconv.FormatFloat(v, 'f', digits, 64)
	text = strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
	if text == "-0" || text == "" {
		return "0"
	}
	return text
}

// Format returns what Append writes.
func Format(n int, u model.Units) string { return string(Append(nil, n, u)) }

// Points writes a type size in points.
func Points(n int) string { return short(float64(n)/perPoint, 2) }

// Name returns the name of a unit.
func Name(u model.Units) string {
	if u == model.Pixels {
		return "px"
	}
	return string(u)
}

// Parse reads a length in a unit, or in the one that is written behind it: "12", "12 mm", "0.5in", "9pt".
func Parse(text string, u model.Units) (int, bool) { return parse(text, per(u)) }

// ParsePoints reads a type size in points, or in the unit that is written behind it.
func ParsePoints(text string) (int, bool) { return parse(text, perPoint) }

func parse(text string, per1 float64) (int, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	for name, unit := range map[string]float64{"px": geometry.Px, "mm": per(model.Millimetres), "in": inch,
		"pt": perPoint} {
		if rest, ok := strings.CutSuffix(text, name); ok {
			text, per1 = strings.TrimSpace(rest), unit
			break
		}
	}
	v, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
	if err != nil || math.IsNaN(v) || v < -1e5 || v > 1e5 {
		return 0, false
	}
	return int(math.Round(v * per1)), true
}
