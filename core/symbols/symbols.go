// Package symbols is the catalogue of the standard symbols of process maps: what
// each is called, means and looks like, where its text goes and where
// connectors may be glued.
package symbols

import (
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Symbol describes one kind. The functions take the width and height of the
// placed symbol and answer in coordinates from its top left corner.
type Symbol struct {
	Kind model.Kind
	// Name is the trade name, Others what people also search by.
	Name   string
	Others []string
	// Meaning is one line on what the symbol stands for, When on its use, and
	// Source where it comes from.
	Meaning, When string
	Source        Source
	// Key appends the kind as the next step; zero for none.
	Key byte
	// W and H are the standard size, MinW and MinH the smallest; Step is by how
	// much each grows at a time when the text needs room.
	W, H       int
	MinW, MinH int
	Step       geometry.Point
	// Outline is the closed outline. Back is drawn and filled behind it, Inner
	// are the lines drawn inside it, which may make way for a text.
	Outline func(w, h int) geometry.Path
	Back    func(w, h int) geometry.Path
	Inner   func(w, h int, written bool) geometry.Path
	// Facing takes the place of Inner where a connector meets the symbol at a side.
	Facing func(w, h int, side geometry.Side) geometry.Path
	// Pointing takes the place of Outline where the tip was pulled to a place, and Tip is
	// where it is as long as it was not.
	Pointing func(w, h int, tip geometry.Point) geometry.Path
	Tip      func(w, h int) geometry.Point
	// Text is the area the text may fill. Where Body is set, the first
	// paragraph stands in Text and all others in Body.
	Text func(w, h int) TextArea
	Body func(w, h int) TextArea
	// Align and Stand say where lines stand by themselves: left, centre, right
	// and top, middle, bottom.
	Align, Stand string
	// Glue returns where a connector meets the outline on a side; nil for the
	// middles of the sides.
	Glue func(w, h int, side geometry.Side) geometry.Point
	// Strong sets the first paragraph in bold type. Follows lets the other ones begin where it ends: it then fills as
	// much of the area as it needs, all of it where it is the only one.
	Strong, Follows bool
	// Listed makes every paragraph an item of a list.
	Listed bool
	// Bare outlines are not drawn; Hollow symbols surround others: they are not
	// filled, in nobody's way, and are grabbed by their edge.
	Bare, Hollow bool
}

// Source says where a symbol comes from.
type Source string

// The sources of the symbols. The standards are named from memory.
const (
	ISO5807 Source = "ISO 5807"
	Trade   Source = "common practice"
	ASME    Source = "process charts (ASME)"
)

// TextArea is the room for text inside an outline. Lines lie around CX.
type TextArea struct {
	CX, Top, Bottom int
	// Half returns how far text between the heights y0 and y1 may reach to
	// either side of CX; zero or less where there is no room.
	Half func(y0, y1 int) int
}

const px = geometry.Px

// margin is the space text keeps from an outline.
const margin = 6 * px

var byKind = func() map[model.Kind]*Symbol {
	m := make(map[model.Kind]*Symbol, len(catalogue))
	for _, s := range catalogue {
		m[s.Kind] = s
	}
	return m
}()

// All returns the catalogue in the order of the tray.
func All() []*Symbol { return catalogue }

// Of returns the entry of a kind. A kind the catalogue lacks is drawn as a
// process, so that nothing a file holds can go unseen.
func Of(k model.Kind) *Symbol {
	if s := byKind[k]; s != nil {
		return s
	}
	return catalogue[0]
}

// ByKey returns the kind that a tray key appends.
func ByKey(key byte) (model.Kind, bool) {
	for _, s := range catalogue {
		if s.Key != 0 && s.Key == key {
			return s.Kind, true
		}
	}
	return "", false
}

// Keyed are the kinds that tray keys append, in the order of the tray.
func Keyed() []model.Kind {
	var list []model.Kind
	for _, s := range catalogue {
		if s.Key != 0 {
			list = append(list, s.Kind)
		}
	}
	return list
}

// Words returns everything a search looks at, in small letters.
func (s *Symbol) Words() string {
	return strings.ToLower(s.Name + " " + strings.Join(s.Others, " ") + " " + s.Meaning + " " + s.When)
}

// GluePoint returns where a connector meets the placed symbol on a side.
func GluePoint(sym *model.Symbol, side geometry.Side) geometry.Point {
	return Of(sym.Kind).GlueAt(sym.W, sym.H, side).Add(sym.Corner())
}

// GlueAt returns where a connector meets the outline on a side.
func (s *Symbol) GlueAt(w, h int, side geometry.Side) geometry.Point {
	if s.Glue != nil {
		return s.Glue(w, h, side)
	}
	return middle(w, h, side)
}

// Reach returns how far the end of a connector may slide along a side to
// either side of the glue point: over the middle half of it, which outlines
// with slanting sides can bear too.
func (s *Symbol) Reach(w, h int, side geometry.Side) int {
	if side.Upright() {
		return w / 4
	}
	return h / 4
}

// Meet returns how deep a course that comes straight to a side at the
// coordinate at goes until it meets the outline: a y for the sides above and
// below, an x for those at the left and right.
func (s *Symbol) Meet(w, h int, side geometry.Side, at int) int {
	glue := s.GlueAt(w, h, side)
	best, found := 0, false
	for _, line := range s.Outline(w, h).Flatten() {
		for i := 1; i < len(line); i++ {
			p, q := line[i-1], line[i]
			if side.Upright() {
				p, q = geometry.Point{X: p.Y, Y: p.X}, geometry.Point{X: q.Y, Y: q.X}
			}
			if p.Y == q.Y || min(p.Y, q.Y) > at || max(p.Y, q.Y) < at {
				continue
			}
			x := p.X + (q.X-p.X)*(at-p.Y)/(q.Y-p.Y)
			nearer := x < best
			if side == geometry.Right || side == geometry.Bottom {
				nearer = x > best
			}
			if !found || nearer {
				best, found = x, true
			}
		}
	}
	switch {
	case found:
		return best
	case side.Upright():
		return glue.Y
	}
	return glue.X
}

// LineSymbol describes a line that has a meaning of its own.
type LineSymbol struct {
	Line          model.Line
	Name          string
	Meaning, When string
}

// Lines are the line symbols of ISO 5807 (from memory).
var Lines = []LineSymbol{
	{model.Solid, "Line", "The flow of the work, or of control and data.",
		"Between any two symbols; an arrow shows the way where it is not from left to right or from top to bottom."},
	{model.Transfer, "Control transfer", "Control passes at once from one process to another.",
		"Where one step starts or calls another."},
	{model.Link, "Communication link", "Data goes over a line of communication.",
		"Where something is sent by telephone, radio or network."},
	{model.DashLine, "Dashed line", "Another relation than the flow, or a path taken now and then.",
		"To join an annotation, and for the exceptional path."},
}
