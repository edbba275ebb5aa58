// Package scene says what a sheet looks like: a display list of shapes and
// texts from which the screen, every export and the thumbnails are drawn.
package scene

import (
	"slices"
	"strconv"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/numbering"
	"plaintracer/core/routing"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

const px = geometry.Px

// Node is one thing on the sheet with all that is drawn for it, in
// coordinates from At.
type Node struct {
	ID     string
	Class  string
	At     geometry.Point
	Shapes []Shape
	Texts  []Text
}

// Shape is an outline or a line. Fill and Stroke are #rrggbb, empty for none.
type Shape struct {
	Path         geometry.Path
	Fill, Stroke string
	Width        int
	Dashed       bool
}

// Text is one line of text with its baseline's middle at X, Y. A turned text
// reads upwards.
type Text struct {
	X, Y   int
	Style  typeset.Style
	Fill   string
	Turned bool
	Text   string
}

// Colours of the sheet. The fills of the palette are light enough for ink to
// keep a contrast of 4.5 : 1 (WCAG 2.2, AA).
const (
	Ink     = "#22303c"
	InkSoft = "#5b6773"
	Paper   = "#ffffff"
	headBG  = "#f3efe5"
	laneBG  = "#ffffff"
	rule    = "#8d877a"
)

var fills = map[string]string{
	"": Paper, "moss": "#dcebd7", "lake": "#d6e6f0", "straw": "#f6ecc9", "clay": "#f3d9cd", "fog": "#e6e7e6",
}

// Fill returns the colour of a name of the palette.
func Fill(name string) string { return fills[name] }

const (
	lineWidth    = px * 3 / 2
	heavyWidth   = 3 * px
	badgeHeight  = 15 * px
	arrowLength  = 10 * px
	arrowHalf    = 4 * px
	captionSize  = 11 * px
	laneNameSize = 13 * px
)

var badgeStyle = typeset.Style{Size: 11 * px, Bold: true}

// Facts are what a sheet's picture needs beside the sheet itself.
type Facts struct {
	// Numbers are the step numbers by symbol id; nil where they are not shown.
	Numbers map[string]int
	// Captions stand by references and say on which sheet their partner is.
	Captions map[string]Caption
}

// Caption is a small text by a symbol: above one at which a flow goes on, so
// that it is clear of the connector, and below one at which it breaks off.
type Caption struct {
	Text  string
	Above bool
}

// Know computes the facts of a map, for all its sheets.
func Know(m *diagram.Map) Facts {
	f := Facts{Captions: map[string]Caption{}}
	if m.Numbers {
		f.Numbers = map[string]int{}
		for _, s := range numbering.Number(m) {
			f.Numbers[s.Symbol.ID] = s.Number
		}
	}
	for _, s := range m.Sheets {
		entered := map[string]bool{}
		for _, c := range s.Connectors {
			entered[c.To.Symbol] = true
		}
		for _, sym := range s.Symbols {
			if sym.Kind != diagram.SheetReference {
				continue
			}
			if where, partner := m.Partner(sym); partner != nil && where != s {
				number := slices.Index(m.Sheets, where) + 1
				f.Captions[sym.ID] = Caption{"sheet " + strconv.Itoa(number), !entered[sym.ID]}
			}
		}
	}
	return f
}

// Drawing is a whole sheet, ready to be drawn in order.
type Drawing struct {
	Sheet   *diagram.Sheet
	Page    geometry.Box
	Extent  geometry.Box
	Nodes   []Node
	Courses []routing.Course
	Facts   Facts
}

// Draw computes the picture of a sheet.
func Draw(m *diagram.Map, s *diagram.Sheet) *Drawing { return DrawKnowing(m, s, Know(m)) }

// DrawKnowing is Draw with the facts of the map at hand.
func DrawKnowing(m *diagram.Map, s *diagram.Sheet, facts Facts) *Drawing {
	var r routing.Router
	d := &Drawing{Sheet: s, Page: s.Page(), Extent: s.Extent(), Facts: facts, Courses: r.Route(Links(m, s))}
	for _, p := range s.Pools {
		d.Nodes = append(d.Nodes, Pool(p))
	}
	for i, c := range s.Connectors {
		d.Nodes = append(d.Nodes, Connector(c, &d.Courses[i]))
		for _, p := range d.Courses[i].Points {
			d.Extent = d.Extent.Union(geometry.Around(p, 2*arrowHalf, 2*arrowHalf))
		}
		d.Extent = d.Extent.Union(d.Courses[i].Label)
	}
	for _, sym := range s.Symbols {
		d.Nodes = append(d.Nodes, Symbol(sym, facts.Numbers[sym.ID], facts.Captions[sym.ID]))
	}
	return d
}

// Links returns what the router needs to know of a sheet.
func Links(m *diagram.Map, s *diagram.Sheet) routing.Scene {
	var l Linker
	l.Fill(m, s)
	return l.Scene
}

// Linker builds the router's scene again and again into the same memory, which
// keeps the garbage collector out of a drag.
type Linker struct {
	Scene  routing.Scene
	place  map[string]int
	labels map[string]geometry.Point
}

// Fill brings the scene up to date with a sheet.
func (l *Linker) Fill(m *diagram.Map, s *diagram.Sheet) {
	out := &l.Scene
	out.Down = m.Direction == diagram.Downwards
	out.Boxes, out.Glue, out.Links = out.Boxes[:0], out.Glue[:0], out.Links[:0]
	if l.place == nil {
		l.place, l.labels = map[string]int{}, map[string]geometry.Point{}
	}
	clear(l.place)
	for i, sym := range s.Symbols {
		l.place[sym.ID] = i
		var glue [4]geometry.Point
		for side := range glue {
			glue[side] = symbols.GluePoint(sym, geometry.Side(side))
		}
		out.Boxes = append(out.Boxes, sym.Box)
		out.Glue = append(out.Glue, glue)
	}
	for _, p := range s.Pools {
		b := p.Box()
		b.W = diagram.PoolHead + diagram.LaneHead
		out.Boxes = append(out.Boxes, b)
		out.Glue = append(out.Glue, [4]geometry.Point{})
	}
	for _, c := range s.Connectors {
		k := routing.Link{From: l.place[c.From.Symbol], To: l.place[c.To.Symbol], FromSide: side(c.From), ToSide: side(c.To)}
		if c.Text != "" {
			k.Label = l.label(c.Text)
		}
		k.Branch = s.Symbols[k.From].Kind == diagram.Decision
		out.Links = append(out.Links, k)
	}
}

// maxLabels is the number of labels whose sizes are remembered.
const maxLabels = 1000

// label returns the size of a label.
func (l *Linker) label(text string) geometry.Point {
	size, ok := l.labels[text]
	if ok {
		return size
	}
	lines := LabelLines(text)
	for _, line := range lines {
		size.X = max(size.X, line.Width)
	}
	size.X += 4 * px
	size.Y = len(lines) * typeset.Body.LineHeight()
	if len(l.labels) >= maxLabels {
		clear(l.labels)
	}
	l.labels[text] = size
	return size
}

func side(e diagram.End) int {
	if s, ok := geometry.SideNamed(e.Side); ok {
		return int(s)
	}
	return routing.Any
}

// labelWidth is the width at which the label of a connector is wrapped.
const labelWidth = 140 * px

// LabelLines returns the lines of a connector's label.
func LabelLines(text string) []typeset.Line {
	lines, _ := typeset.Wrap(text, typeset.Body, 0, func(int) int { return labelWidth })
	return lines
}

// Style returns how a symbol's text is set.
func Style(sym *diagram.Symbol) typeset.Style {
	st := typeset.Body
	st.Bold = sym.Bold
	return st
}

// Symbol returns the picture of a symbol. Number is its step number, zero for
// none; an empty caption is left out.
func Symbol(sym *diagram.Symbol, number int, caption Caption) Node {
	def := symbols.Of(sym.Kind)
	n := Node{ID: sym.ID, Class: "symbol", At: sym.Corner()}
	width := lineWidth
	if sym.Emphasis {
		width = heavyWidth
	}
	n.Shapes = append(n.Shapes, Shape{Path: def.Outline(sym.W, sym.H), Fill: fills[sym.Fill], Stroke: Ink, Width: width, Dashed: sym.Dashed})
	if def.Inner != nil {
		n.Shapes = append(n.Shapes, Shape{Path: def.Inner(sym.W, sym.H), Stroke: Ink, Width: width, Dashed: sym.Dashed})
	}
	st := Style(sym)
	lines, _ := typeset.Fit(sym.Text, st, def.Text(sym.W, sym.H))
	for _, l := range lines {
		n.Texts = append(n.Texts, Text{X: l.CX, Y: l.Top + st.Baseline(), Style: st, Fill: Ink, Text: l.Text})
	}
	if number > 0 {
		digits := strconv.Itoa(number)
		w := max(typeset.Measure(digits, badgeStyle)+8*px, badgeHeight)
		at := geometry.Point{X: 8*px + w/2, Y: 0}
		if sym.Kind == diagram.Decision {
			// Clear of the text, just outside the upper left edge.
			at = geometry.Point{X: sym.W/4 - 9*px, Y: sym.H/4 - 6*px}
		}
		b := geometry.Around(at, w, badgeHeight)
		n.Shapes = append(n.Shapes, Shape{Path: pill(b), Fill: Paper, Stroke: InkSoft, Width: px})
		n.Texts = append(n.Texts, Text{X: at.X, Y: b.Y + (badgeHeight-badgeStyle.LineHeight())/2 + badgeStyle.Baseline(), Style: badgeStyle, Fill: Ink, Text: digits})
	}
	if caption.Text != "" {
		st := typeset.Style{Size: captionSize}
		y := sym.H + st.Baseline()
		if caption.Above {
			y -= sym.H + st.LineHeight() + px
		}
		n.Texts = append(n.Texts, Text{X: sym.W / 2, Y: y, Style: st, Fill: InkSoft, Text: caption.Text})
	}
	return n
}

func pill(b geometry.Box) geometry.Path {
	p := symbols.Of(diagram.Terminator).Outline(b.W, b.H)
	for i := range p {
		p[i].A, p[i].B, p[i].P = p[i].A.Add(b.Corner()), p[i].B.Add(b.Corner()), p[i].P.Add(b.Corner())
	}
	return p
}

// Connector returns the picture of a connector on its course.
func Connector(c *diagram.Connector, course *routing.Course) Node {
	n := Node{ID: c.ID, Class: "connector"}
	pts := course.Points
	if len(pts) < 2 {
		return n
	}
	last, before := pts[len(pts)-1], pts[len(pts)-2]
	way := direction(before, last)
	// The line ends inside the arrowhead, so that its tip stays sharp.
	tail := last.Sub(geometry.Point{X: way.X * arrowLength / 2, Y: way.Y * arrowLength / 2})
	path := geometry.Path{}.Move(pts[0].X, pts[0].Y)
	for _, p := range pts[1 : len(pts)-1] {
		path = path.Line(p.X, p.Y)
	}
	path = path.Line(tail.X, tail.Y)
	n.Shapes = append(n.Shapes, Shape{Path: path, Stroke: Ink, Width: lineWidth, Dashed: c.Dashed})
	foot := last.Sub(geometry.Point{X: way.X * arrowLength, Y: way.Y * arrowLength})
	n.Shapes = append(n.Shapes, Shape{Fill: Ink, Path: geometry.Polygon(last,
		geometry.Point{X: foot.X - way.Y*arrowHalf, Y: foot.Y + way.X*arrowHalf},
		geometry.Point{X: foot.X + way.Y*arrowHalf, Y: foot.Y - way.X*arrowHalf})})
	if c.Text != "" && course.Label != (geometry.Box{}) {
		b := course.Label
		n.Shapes = append(n.Shapes, Shape{Fill: Paper, Path: geometry.Polygon(b.Corner(),
			geometry.Point{X: b.Right(), Y: b.Y}, geometry.Point{X: b.Right(), Y: b.Bottom()}, geometry.Point{X: b.X, Y: b.Bottom()})})
		st := typeset.Body
		for i, l := range LabelLines(c.Text) {
			n.Texts = append(n.Texts, Text{X: b.X + b.W/2, Y: b.Y + i*st.LineHeight() + st.Baseline(), Style: st, Fill: Ink, Text: l.Text})
		}
	}
	return n
}

// direction returns the unit vector from p towards q, along an axis.
func direction(p, q geometry.Point) geometry.Point {
	switch {
	case q.X > p.X:
		return geometry.Point{X: 1}
	case q.X < p.X:
		return geometry.Point{X: -1}
	case q.Y < p.Y:
		return geometry.Point{Y: -1}
	}
	return geometry.Point{Y: 1}
}

// Pool returns the picture of a pool with its lanes.
func Pool(p *diagram.Pool) Node {
	n := Node{ID: p.ID, Class: "pool", At: geometry.Point{X: p.X, Y: p.Y}}
	b := p.Box()
	at := func(x, y, w, h int) geometry.Path {
		return geometry.Path{}.Move(x, y).Line(x+w, y).Line(x+w, y+h).Line(x, y+h).Close()
	}
	heads := diagram.PoolHead + diagram.LaneHead
	n.Shapes = append(n.Shapes,
		Shape{Path: at(heads, 0, b.W-heads, b.H), Fill: laneBG},
		Shape{Path: at(0, 0, heads, b.H), Fill: headBG})
	y := 0
	for i, l := range p.Lanes {
		if i > 0 {
			n.Shapes = append(n.Shapes, Shape{Path: geometry.Path{}.Move(diagram.PoolHead, y).Line(b.W, y), Stroke: rule, Width: px})
		}
		n.Texts = append(n.Texts, turned(l.Name, typeset.Style{Size: laneNameSize}, diagram.PoolHead, diagram.LaneHead, y, l.H)...)
		y += l.H
	}
	n.Texts = append(n.Texts, turned(p.Title, typeset.Style{Size: laneNameSize, Bold: true}, 0, diagram.PoolHead, 0, b.H)...)
	n.Shapes = append(n.Shapes,
		Shape{Path: geometry.Path{}.Move(diagram.PoolHead, 0).Line(diagram.PoolHead, b.H), Stroke: rule, Width: px},
		Shape{Path: geometry.Path{}.Move(heads, 0).Line(heads, b.H), Stroke: rule, Width: px},
		Shape{Path: at(0, 0, b.W, b.H), Stroke: Ink, Width: lineWidth})
	return n
}

// turned sets a name upwards into a strip of width w at x, in at most as many
// lines as the strip holds.
func turned(text string, st typeset.Style, x, w, y, h int) []Text {
	if text == "" {
		return nil
	}
	lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(h-8*px, 2*st.Size) })
	for len(lines)*st.LineHeight() > w && st.Size > 9*px {
		st.Size -= px / 2
		lines, _ = typeset.Wrap(text, st, 0, func(int) int { return max(h-8*px, 2*st.Size) })
	}
	if most := max(w/st.LineHeight(), 1); len(lines) > most {
		lines = lines[:most]
		lines[most-1].Text += "…"
	}
	var out []Text
	left := x + (w-len(lines)*st.LineHeight())/2
	for i, l := range lines {
		out = append(out, Text{X: left + i*st.LineHeight() + st.Baseline(), Y: y + h/2, Style: st, Fill: Ink, Turned: true, Text: l.Text})
	}
	return out
}
