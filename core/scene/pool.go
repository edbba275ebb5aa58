package scene

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/typeset"
)

// poolNode is the picture of a pool as it comes about: all of it is drawn in the
// pool's own frame, in which the flow runs along x, and turned where the lanes lie
// down the sheet.
type poolNode struct {
	Node
	v View
	p *model.Pool
	b geometry.Box // the pool in its own frame
}

// Pool returns the picture of a pool with its lanes and stages.
func (v View) Pool(p *model.Pool) Node {
	n := poolNode{Node: Node{ID: p.ID, Class: "pool", At: geometry.Point{X: p.X, Y: p.Y}}, v: v, p: p,
		b: p.Own(p.Box())}
	l, heads := v.Look, p.Heads()
	n.fill(heads, 0, n.b.W-heads, n.b.H, l.Lane)
	n.fill(0, 0, heads, n.b.H, l.Head)
	if p.Journey {
		n.rows()
		n.between()
		n.persona()
	} else {
		n.phases()
		n.lanes()
		n.stages()
		n.names(p.Title, true, 0, model.PoolHead, 0, n.b.H, l.Ink)
	}
	n.line(p.TitleWidth(), 0, p.TitleWidth(), n.b.H, nil)
	n.line(heads, 0, heads, n.b.H, nil)
	n.Shapes = append(n.Shapes, Shape{Path: p.Own(geometry.Box{W: n.b.W, H: n.b.H}).Outline(), Stroke: l.Ink,
		Width: l.Weight})
	return n.Node
}

func (n *poolNode) fill(x, y, w, h int, colour string) {
	n.Shapes = append(n.Shapes, Shape{Path: n.p.Own(geometry.Box{X: x, Y: y, W: w, H: h}).Outline(), Fill: colour})
}

func (n *poolNode) line(x0, y0, x1, y1 int, dash []int) {
	from, to := geometry.Point{X: x0, Y: y0}.Turned(n.p.Down), geometry.Point{X: x1, Y: y1}.Turned(n.p.Down)
	n.Shapes = append(n.Shapes, Shape{Path: geometry.Path{}.Move(from.X, from.Y).Line(to.X, to.Y),
		Stroke: n.v.Look.Rule, Width: px, Dash: dash})
}

// names sets a name into a strip across the flow that begins at x and is w wide,
// from y on over h: turned where lanes lie across, level where they lie down.
func (n *poolNode) names(text string, bold bool, x, w, y, h int, ink string) {
	st := typeset.Style{Size: typeset.NameSize, Bold: bold, Fonts: n.v.House.Own}
	if n.p.Down {
		n.Texts = append(n.Texts, level(text, st, x, w, y, h, ink)...)
	} else {
		n.Texts = append(n.Texts, turned(text, st, x, w, y, h, ink)...)
	}
}

// lanes draws the lanes with their colours, the lines between them and their names.
func (n *poolNode) lanes() {
	p, l, heads := n.p, n.v.Look, n.p.Heads()
	y := n.b.H - p.Thickness()
	for i, lane := range p.Lanes {
		name := p.NameAt(i)
		ink := l.Ink
		if lane.Fill != "" {
			n.fill(heads, y, n.b.W-heads, lane.H, l.Fill(lane.Fill))
		}
		if lane.Head != "" {
			n.fill(name, y, heads-name, lane.H, l.Fill(lane.Head))
			ink = l.Legible(l.Fill(lane.Head))
		}
		if p.Level && !p.Down {
			st := typeset.Style{Size: typeset.NameSize, Fonts: n.v.House.Own}
			n.Texts = append(n.Texts, level(lane.Name, st, y, lane.H, name, heads-name, ink)...)
		} else {
			n.names(lane.Name, false, name, heads-name, y, lane.H, ink)
		}
		if run := p.PartRun(i); run > 0 { // the first of those that are parts of the same
			n.names(lane.Of, true, model.PoolHead, model.PartHead, y, run, l.Ink)
			n.line(name, y, name, y+run, nil)
		}
		if i > 0 {
			from := model.PoolHead
			if lane.Of != "" && p.PartRun(i) == 0 {
				from = name // they share the head before theirs
			}
			n.line(from, y, n.b.W, y, nil)
		}
		if leads := leadsOfLane(n.v.Map, &lane); len(leads) > 0 { // in its corner behind the names
			at := geometry.Point{X: heads + 4*px, Y: y + lane.H - leadSize - 4*px}
			if p.Down {
				at = geometry.Point{X: y + 4*px, Y: heads + 4*px}
			}
			n.leads(listed(n.v.Map, leads), at, l)
		}
		y += lane.H
	}
}

// phases draws the colours of the stages, over which lanes that have one draw theirs.
func (n *poolNode) phases() {
	for i := range n.p.Stages {
		if fill := n.p.Stages[i].Fill; fill != "" {
			from, to := n.p.Span(i)
			n.fill(from-n.b.X, model.StageHead, to-from, n.b.H-model.StageHead, n.v.Look.Fill(fill))
		}
	}
}

// stages draws the heads of the stages and the lines between them.
func (n *poolNode) stages() {
	p, l, heads := n.p, n.v.Look, n.p.Heads()
	if len(p.Stages) == 0 {
		return
	}
	n.fill(heads, 0, n.b.W-heads, model.StageHead, l.Head)
	for i, stage := range p.Stages {
		if from, to := p.Span(i); stage.Fill != "" {
			n.fill(from-n.b.X, 0, to-from, model.StageHead, l.Fill(stage.Fill))
		}
	}
	n.line(model.PoolHead, model.StageHead, n.b.W, model.StageHead, nil)
	for i, stage := range p.Stages {
		head := p.Own(p.StageBox(i))
		from := head.X - n.b.X
		if i > 0 {
			n.line(from, 0, from, n.b.H, dashes(model.DashLine, px))
		}
		st, ink := typeset.Style{Size: typeset.NameSize, Fonts: n.v.House.Own}, l.Ink
		if stage.Fill != "" {
			ink = l.Legible(l.Fill(stage.Fill))
		}
		if p.Down { // their names run along the flow
			n.Texts = append(n.Texts, turned(stage.Name, st, 0, model.StageHead, from, head.W, ink)...)
		} else {
			n.Texts = append(n.Texts, level(stage.Name, st, 0, model.StageHead, from, head.W, ink)...)
		}
	}
}

// turned sets a name upwards into a strip of width w at x, in at most as many
// lines as the strip holds.
func turned(text string, st typeset.Style, x, w, y, h int, colour string) []Text {
	var out []Text
	lines, st := stripLines(text, st, w, h)
	left := x + (w-len(lines)*st.LineHeight())/2
	for i, l := range lines {
		out = append(out, Text{X: left + i*st.LineHeight() + st.Baseline(), Y: y + h/2, Style: st, Fill: colour,
			Turned: true, Text: l.Text})
	}
	return out
}

// level sets a name into a strip of height w at x down the sheet, in the same
// order of arguments.
func level(text string, st typeset.Style, x, w, y, h int, colour string) []Text {
	var out []Text
	lines, st := stripLines(text, st, w, h)
	top := x + (w-len(lines)*st.LineHeight())/2
	for i, l := range lines {
		out = append(out, Text{X: y + h/2, Y: top + i*st.LineHeight() + st.Baseline(), Anchor: typeset.Middle,
			Style: st, Fill: colour, Text: l.Text})
	}
	return out
}

// stripLines breaks a name into the lines that a strip of width w and length h
// holds, in smaller type when it must be.
func stripLines(text string, st typeset.Style, w, h int) ([]typeset.Line, typeset.Style) {
	if text == "" {
		return nil, st
	}
	lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(h-typeset.NamePad, 2*st.Size) })
	for len(lines)*st.LineHeight() > w && st.Size > 9*px {
		st.Size -= px / 2
		lines, _ = typeset.Wrap(text, st, 0, func(int) int { return max(h-typeset.NamePad, 2*st.Size) })
	}
	if most := max(w/st.LineHeight(), 1); len(lines) > most {
		lines = lines[:most]
		lines[most-1].Text += "…"
	}
	return lines, st
}
