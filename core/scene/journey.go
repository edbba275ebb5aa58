package scene

import (
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// persona draws the person whose journey it is, at the left of the rows.
func (n *poolNode) persona() {
	p, l := n.p, n.v.Look
	said := n.v.House.Persona(p)
	if pic := n.v.Map.Picture(p.Picture); pic != nil && said.Picture.W > 0 && pic.W > 0 && pic.H > 0 {
		b := said.Picture
		n.Images = append(n.Images, Image{Box: b, Picture: pic, Frame: around(b.Grown(px), b, true), Fill: l.Head})
		n.Shapes = append(n.Shapes, Shape{Path: geometry.Ellipse(b), Stroke: l.Rule, Width: px})
	}
	n.write(said.Name, l.Ink, l)
	n.write(said.Words, l.Ink, l)
}

// rows draws the rows of a journey with their names.
func (n *poolNode) rows() {
	p, l, heads := n.p, n.v.Look, n.p.Heads()
	y := n.b.H - p.Thickness()
	n.columns(y)
	for i := range p.Lanes {
		lane := &p.Lanes[i]
		if lane.Fill != "" {
			n.fill(heads, y, n.b.W-heads, lane.H, l.Fill(lane.Fill))
		}
		ink := l.Ink
		if lane.Head != "" {
			n.fill(model.PersonaWidth, y, model.RowHead, lane.H, l.Fill(lane.Head))
			ink = l.Legible(l.Fill(lane.Head))
		}
		name := typeset.Style{Size: typeset.NameSize, Bold: true, Fonts: n.v.House.Own}
		room := lane.H
		below := n.below(lane)
		small := typeset.Style{Size: captionSize, Fonts: n.v.House.Own}
		if below != "" {
			room -= small.LineHeight() + 6*px
		}
		lines, st := stripLines(lane.Called(), name, room, model.RowHead)
		top := y + (room-len(lines)*st.LineHeight())/2
		for k, line := range lines {
			n.Texts = append(n.Texts, Text{X: model.PersonaWidth + 8*px, Y: top + k*st.LineHeight() + st.Baseline(),
				Anchor: typeset.Start, Style: st, Fill: ink, Text: line.Text})
		}
		if below != "" {
			n.Texts = append(n.Texts, Text{X: model.PersonaWidth + 8*px,
				Y:      top + len(lines)*st.LineHeight() + 2*px + small.Baseline(),
				Anchor: typeset.Start, Style: small, Fill: l.Soft,
				Text: clipped(below, small, model.RowHead-12*px)})
		}
		switch {
		case lane.Folded:
		case lane.Row == model.MoodRow:
			n.mood(lane, y)
		case lane.Row == model.SumRow:
			n.sums(lane, y)
		}
		if i > 0 {
			n.line(model.PersonaWidth, y, n.b.W, y, nil)
		}
		if leads := leadsOfLane(n.v.Map, lane); len(leads) > 0 && !lane.Folded {
			at := geometry.Point{X: heads - leadSize - 4*px, Y: y + lane.H - leadSize - 4*px}
			n.leads(listed(n.v.Map, leads), at, l)
		}
		y += lane.H
	}
}

// below is what stands under the name of a row: how much is folded, or what its sums come to.
func (n *poolNode) below(lane *model.Lane) string {
	switch sums := n.v.Sheet.Board().Sums(lane.ID); {
	case lane.Folded:
		return ""
	case lane.Row != model.SumRow:
		return ""
	case n.v.Map.Field(lane.Field) == nil:
		return "choose a field"
	case len(sums) > 0 && sums[len(sums)-1] != "":
		return "in all " + sums[len(sums)-1]
	}
	if name := n.v.Map.FieldName(lane.Field); name != lane.Called() {
		return name
	}
	return ""
}

// columns draws the colours of the stages, the heads of those that are folded, and the lines between them.
func (n *poolNode) columns(top int) {
	p, l := n.p, n.v.Look
	for i := range p.Stages {
		stage := &p.Stages[i]
		from, to := p.Span(i)
		from, to = from-n.b.X, to-n.b.X
		head, ink := l.Head, l.Ink
		if stage.Fill != "" {
			head = l.Fill(stage.Fill)
			ink = l.Legible(head)
		}
		n.fill(from, 0, to-from, p.StageHead(), head)
		st := typeset.Style{Size: typeset.NameSize, Bold: true, Fonts: n.v.House.Own}
		if stage.Folded {
			n.fill(from, top, to-from, n.b.H-top, head)
			n.Texts = append(n.Texts, turned(stage.Name, st, from, to-from, top, n.b.H-top, ink)...)
		} else {
			n.Texts = append(n.Texts, level(stage.Name, st, 0, p.StageHead(), from, to-from, ink)...)
		}
	}
	n.line(p.Heads(), top, n.b.W, top, nil)
}

// between draws the lines between the stages, over the rows.
func (n *poolNode) between() {
	for i := range n.p.Stages {
		if from, _ := n.p.Span(i); i > 0 {
			n.line(from-n.b.X, 0, from-n.b.X, n.b.H, nil)
		}
	}
}

// mood draws the curve of a row, with the line that parts good from poor.
func (n *poolNode) mood(lane *model.Lane, y int) {
	l, heads := n.v.Look, n.p.Heads()
	middle := y + lane.H/2
	n.line(heads, middle, n.b.W, middle, dashes(model.DashLine, px))
	st := typeset.Style{Size: 10 * px, Fonts: n.v.House.Own}
	for _, end := range []struct {
		text string
		y    int
	}{{"good", y + 4*px + st.Baseline()}, {"poor", y + lane.H - 4*px - st.LineHeight() + st.Baseline()}} {
		n.Texts = append(n.Texts, Text{X: heads - 6*px, Y: end.y, Anchor: typeset.End, Style: st, Fill: l.Soft,
			Text: end.text})
	}
	points := n.v.Sheet.Board().Curve(lane.ID)
	if len(points) < 2 {
		return
	}
	n.Shapes = append(n.Shapes, Shape{Path: smooth(points).Moved(geometry.Point{X: -n.p.X, Y: -n.p.Y}), Stroke: l.Ink,
		Width: 2 * px})
}

// smooth returns a curve through points from left to right that rises and falls only where these do: cubic pieces with
// the slopes of Fritsch and Butland (1984), which are the harmonic means of those beside them.
func smooth(points geometry.Polyline) geometry.Path {
	n := len(points)
	slope := make([]float64, n)
	rise := func(i int) float64 {
		dx := points[i+1].X - points[i].X
		if dx == 0 {
			return 0
		}
		return float64(points[i+1].Y-points[i].Y) / float64(dx)
	}
	for i := 1; i+1 < n; i++ {
		if a, b := rise(i-1), rise(i); a*b > 0 {
			slope[i] = 2 * a * b / (a + b)
		}
	}
	path := geometry.Path{}.Move(points[0].X, points[0].Y)
	for i := 0; i+1 < n; i++ {
		a, b := points[i], points[i+1]
		d := (b.X - a.X) / 3
		path = path.Curve(a.X+d, a.Y+int(slope[i]*float64(d)), b.X-d, b.Y-int(slope[i+1]*float64(d)), b.X, b.Y)
	}
	return path
}

// sums draws what the cells of each stage come to.
func (n *poolNode) sums(lane *model.Lane, y int) {
	st := typeset.Style{Size: typeset.NameSize, Fonts: n.v.House.Own}
	for k, text := range n.v.Sheet.Board().Sums(lane.ID) {
		if k >= len(n.p.Stages) || text == "" || n.p.Stages[k].Folded {
			continue
		}
		from, to := n.p.Span(k)
		n.Texts = append(n.Texts, Text{X: (from+to)/2 - n.b.X, Y: y + (lane.H-st.LineHeight())/2 + st.Baseline(),
			Style: st, Fill: n.v.Look.Ink, Text: clipped(text, st, to-from-8*px)})
	}
}

// cell adds who does what stands in a cell, and colours it as its stage; an opportunity has a colour where its stage
// has none.
func (x *Extra) cell(sym *model.Symbol) {
	switch {
	case sym.Kind != model.MomentCell && sym.Kind != model.ContactCell || sym.Fill != "" || x.Fill != "":
	case x.Cell.Row == model.IdeasRow && x.Cell.Fill == "":
		x.Fill = "straw"
	default:
		x.Fill = x.Cell.Fill
	}
}

// dot draws the point of a curve.
func (n *Node) dot(sym *model.Symbol, x *Extra, l *looks.Look) {
	fill := l.Ink
	if colour := x.Cell.Fill; colour != "" && sym.Ink == "" {
		fill = l.Line(colour, l.Ink)
	} else if sym.Ink != "" {
		fill = l.Line(sym.Ink, l.Ink)
	}
	n.Shapes = append(n.Shapes, Shape{Path: geometry.Ellipse(geometry.Around(x.Cell.Dot, model.MoodDot, model.MoodDot)),
		Fill: fill, Stroke: l.Paper, Width: 2 * px})
}

// contactSign draws the sign of a contact point at the left of its text, which stands in a height.
func (n *Node) contactSign(h int, x *Extra, colour string) {
	at := geometry.Point{X: 8 * px, Y: (h - symbols.SignSize) / 2}
	for _, path := range signs[x.Cell.Sign] {
		n.Shapes = append(n.Shapes, Shape{Path: path.Moved(at), Stroke: colour, Width: 3 * px / 2})
	}
}

// signs are the outlines of the signs of contact points, in a box of SignSize.
var signs = map[string][]geometry.Path{
	"phone": {
		rounded(4, 1, 8, 14), line(7, 12, 9, 12),
	},
	"message": {
		geometry.Polygon(points("1 2, 15 2, 15 11, 8 11, 4 15, 4 11, 1 11")...),
	},
	"mail": {
		box(1, 3, 14, 10), geometry.Through(points("1 4, 8 9, 15 4")...),
	},
	"screen": {
		box(1, 2, 14, 10), line(8, 12, 8, 15), line(5, 15, 11, 15),
	},
	"person": {
		geometry.Ellipse(boxOf(5, 1, 6, 6)),
		geometry.Path{}.Move(2*px, 15*px).Curve(2*px, 10*px, 5*px, 9*px, 8*px, 9*px).
			Curve(11*px, 9*px, 14*px, 10*px, 14*px, 15*px),
	},
	"paper": {
		geometry.Polygon(points("3 1, 10 1, 13 4, 13 15, 3 15")...), line(5, 7, 11, 7), line(5, 10, 11, 10),
	},
	"place": {
		geometry.Path{}.Move(8*px, 15*px).Curve(4*px, 10*px, 3*px, 8*px, 3*px, 6*px).
			Curve(3*px, 3*px, 5*px, px, 8*px, px).Curve(11*px, px, 13*px, 3*px, 13*px, 6*px).
			Curve(13*px, 8*px, 12*px, 10*px, 8*px, 15*px).Close(), geometry.Ellipse(boxOf(6, 4, 4, 4)),
	},
}

func boxOf(x, y, w, h int) geometry.Box {
	return geometry.Box{X: x * px, Y: y * px, W: w * px, H: h * px}
}

func box(x, y, w, h int) geometry.Path { return boxOf(x, y, w, h).Outline() }

func rounded(x, y, w, h int) geometry.Path {
	return symbols.Of(model.PostCard).Outline(w*px, h*px).Moved(geometry.Point{X: x * px, Y: y * px})
}

func line(x0, y0, x1, y1 int) geometry.Path {
	return geometry.Path{}.Move(x0*px, y0*px).Line(x1*px, y1*px)
}

// points reads a list of points in pixels.
func points(list string) (out []geometry.Point) {
	for _, place := range strings.Split(list, ", ") {
		x, y, _ := strings.Cut(place, " ")
		a, _ := strconv.Atoi(x)
		b, _ := strconv.Atoi(y)
		out = append(out, geometry.Point{X: a * px, Y: b * px})
	}
	return out
}
