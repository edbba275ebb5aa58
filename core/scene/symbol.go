package scene

import (
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// Symbol returns the picture of a symbol.
func (v View) Symbol(sym *model.Symbol, x Extra) Node {
	if x.Fill != "" {
		coloured := *sym
		coloured.Fill = x.Fill
		sym = &coloured
	}
	l := looks.For(v.Map, sym)
	def := symbols.Of(sym.Kind)
	n := Node{ID: sym.ID, Class: "symbol", At: sym.Corner()}
	if x.Card.Hidden || x.Cell.Hidden {
		return n
	}
	foot := sym.H // with the lines that stand inside a card
	if v.Sheet.IsCard(sym) && x.Values != "" {
		foot += model.ValueLine * (1 + strings.Count(x.Values, "\n"))
	}
	n.chartLines(&x, l)
	n.via(sym.Via, &x, l, v.House)
	width := l.Weight
	if sym.Weight != 0 {
		width = sym.Weight
	}
	if sym.Emphasis {
		width = max(l.Heavy, width*2)
	}
	line := l.Line(sym.Ink, l.Ink)
	var dash []int
	if sym.Dashed || sym.Post != model.Filled || x.Cell.Row == model.BehindRow {
		dash = dashes(model.DashLine, width)
	}
	fill := l.Fill(sym.Fill)
	written := sym.Text != ""
	draw := func(path geometry.Path, fill, stroke string) {
		n.Shapes = append(n.Shapes, Shape{Path: path, Fill: fill, Stroke: stroke, Width: width, Dash: dash})
	}
	if def.Back != nil {
		// Each sheet behind covers the one behind it.
		for _, part := range partsOf(def.Back(sym.W, sym.H)) {
			draw(part, fill, line)
		}
	}
	outline := def.Outline(sym.W, foot)
	if def.Pointing != nil && x.Tip != (geometry.Point{}) {
		outline = def.Pointing(sym.W, sym.H, x.Tip)
	}
	switch {
	case def.Bare && sym.Fill == "":
	case def.Bare:
		n.Shapes = append(n.Shapes, Shape{Path: outline, Fill: fill})
	case def.Hollow && sym.Fill == "":
		draw(outline, "", l.Line(sym.Ink, l.Soft))
	default:
		draw(outline, fill, line)
	}
	facing, turned := geometry.SideNamed(x.Facing)
	switch {
	case x.Cell.Dot != (geometry.Point{}):
		n.dot(sym, &x, l)
		at := *def
		at.Text = symbols.BesideDot(x.Cell.Dot)
		def = &at
	case turned && def.Facing != nil:
		draw(def.Facing(sym.W, sym.H, facing), "", line)
	case def.Inner != nil:
		draw(def.Inner(sym.W, sym.H, written), "", line)
	}
	if sym.Kind == model.PersonCard {
		n.portrait(sym, &x, v.Map, fill, l, v.House)
	}
	if sym.Kind.ShowsPicture() {
		n.picture(sym, v.Map.Picture(sym.Picture), l)
	}
	if sym.Kind.Lists() {
		n.contents(sym, &x, l, v.House)
	} else if sym.Kind.Explains() {
		n.legend(sym, &x, l, v.House)
	} else {
		ty := l.Type(sym.Type)
		if turned && facing == geometry.Right && ty.Align == "" && def.Align == "left" {
			ty.Align = "right" // the text stands by the bracket
		}
		text := sym.Accented()
		if x.Badge == "before" && x.Number != "" && text.Text == "" {
			text.Text = x.Number
		} else if x.Badge == "before" && x.Number != "" {
			text = text.Behind(x.Number + "\u2002")
		}
		h := sym.H
		if v.Sheet.IsCell(sym) { // lines stand below it in the same box
			h -= model.ValueLine * linesOf(x.Values)
		}
		block := v.House.Set(def, text, ty, sym.W, h)
		n.write(block, l.TextOf(sym), l)
	}
	if x.Badge != "before" {
		n.badge(sym, x.Number, x.Badge == "above", l, v.House)
	}
	if x.Cell.Sign != "" {
		n.contactSign(sym.H-model.ValueLine*linesOf(x.Values), &x, l.TextOf(sym))
	}
	switch {
	case v.Sheet.IsCell(sym):
		n.valuesInside(sym, &x, l.TextOf(sym), v.House)
	case v.Sheet.IsCard(sym):
		n.valuesInside(sym, &x, l.TextOf(sym), v.House)
		n.counts(sym, foot, &x, l, v.House)
		n.post(sym, l, v.House)
	default:
		n.values(sym, &x, l, v.House)
	}
	if x.Links != "" {
		n.leads(x.Links, linksAt(sym, &x), l)
	}
	if n.Hint = x.Caption.Hint; x.Caption.Opens {
		n.opens(sym, l)
	}
	if x.Caption.Text != "" {
		st := typeset.Style{Size: captionSize, Fonts: v.House.Own}
		y := sym.H + st.Baseline()
		if x.Caption.Above {
			y -= sym.H + st.LineHeight() + px
		}
		n.Texts = append(n.Texts, Text{X: sym.W / 2, Y: y, Style: st, Fill: l.Soft, Text: x.Caption.Text})
	}
	return n
}

// linesOf counts the lines of a text; none where it is empty.
func linesOf(text string) int {
	if text == "" {
		return 0
	}
	return 1 + strings.Count(text, "\n")
}

// linksAt is where the signs of the links of a symbol begin: on the lower edge of its box, or inside where lines stand
// under it.
func linksAt(sym *model.Symbol, x *Extra) geometry.Point {
	at := geometry.Point{X: 6 * px, Y: sym.H - leadSize/2}
	if x.Cell.Row != "" { // there its text seldom ends
		at.X = sym.W - 6*px - min(strings.Count(x.Links, "\n"), mostLeads)*(leadSize+leadGap)
	}
	if x.Values != "" {
		at.Y = sym.H - leadSize - 2*px
	}
	return at
}

// opens adds the sign of a step that opens into a sheet of its own: two small sheets on the lower edge of its box.
func (n *Node) opens(sym *model.Symbol, l *looks.Look) {
	for _, at := range [2]geometry.Point{{X: sym.W - 16*px, Y: sym.H - 8*px}, {X: sym.W - 19*px, Y: sym.H - 5*px}} {
		b := geometry.Box{X: at.X, Y: at.Y, W: 10 * px, H: 8 * px}
		n.Shapes = append(n.Shapes, Shape{Path: b.Outline(), Fill: l.Fill(""), Stroke: l.Ink, Width: px})
	}
}

// write adds set lines.
func (n *Node) write(block typeset.Block, colour string, look *looks.Look) {
	for _, l := range block.Lines {
		st := block.Style
		st.Bold = st.Bold || l.Strong
		y := l.Top + st.Baseline()
		if l.Listed {
			plain := st
			plain.Underline = false
			n.Texts = append(n.Texts, Text{X: l.Bullet, Y: y, Anchor: typeset.Start, Style: plain, Fill: colour,
				Text: "•"})
		}
		if l.Text == "" {
			continue
		}
		line := Text{X: l.X, Y: y, Anchor: l.Anchor, Style: st, Fill: colour, Text: l.Text, Own: true}
		for _, p := range l.Parts {
			own := Part{p.Text, st, look.Line(p.Colour, colour)}
			own.Style.Bold, own.Style.Italic = st.Bold || p.Bold, st.Italic || p.Italic
			line.Parts = append(line.Parts, own)
		}
		n.Texts = append(n.Texts, line)
	}
}

// partsOf returns the parts of a path, each begun by a move.
func partsOf(p geometry.Path) []geometry.Path {
	var out []geometry.Path
	for i, op := range p {
		if op.Verb == 'M' {
			out = append(out, nil)
		}
		out[len(out)-1] = append(out[len(out)-1], p[i])
	}
	return out
}

func (n *Node) badge(sym *model.Symbol, number string, above bool, l *looks.Look, house typeset.House) {
	if number == "" {
		return
	}
	st := typeset.Style{Size: 11 * px, Bold: true, Fonts: house.Own}
	w := max(typeset.Measure(number, st)+8*px, badgeHeight)
	at := geometry.Point{X: 8*px + w/2, Y: 0}
	if above {
		at.Y = -badgeHeight/2 - 2*px
	} else if sym.Kind.Asks() {
		// Clear of the text, just outside the upper left edge.
		at = geometry.Point{X: sym.W/4 - 9*px, Y: sym.H/4 - 6*px}
	}
	b := geometry.Around(at, w, badgeHeight)
	n.Shapes = append(n.Shapes, Shape{Path: pill(b), Fill: l.Paper, Stroke: l.Soft, Width: px})
	n.Texts = append(n.Texts, Text{X: at.X, Y: b.Y + (badgeHeight-st.LineHeight())/2 + st.Baseline(), Style: st,
		Fill: l.Ink, Text: number})
}

// picture adds the picture a symbol shows, or a crossed box where it is missing.
func (n *Node) picture(sym *model.Symbol, p *pictures.Picture, l *looks.Look) {
	b := symbols.Figure(sym.W, sym.H, sym.Text != "")
	if p != nil {
		n.Images = append(n.Images, Image{Box: b, Picture: p})
		return
	}
	n.Shapes = append(n.Shapes,
		Shape{Stroke: l.Soft, Width: px,
			Path: geometry.Path{}.Move(0, 0).Line(b.W, 0).Line(b.W, b.H).Line(0, b.H).Close().
				Move(0, 0).Line(b.W, b.H).Move(b.W, 0).Line(0, b.H)})
}

// legend adds a heading and a row for each kind: its symbol, name and meaning.
func (n *Node) legend(sym *model.Symbol, x *Extra, l *looks.Look, house typeset.House) {
	const (
		pad    = 8 * px
		figure = 40 * px
	)
	colour := l.TextOf(sym)
	head := sym.Text
	if head == "" {
		head = "Symbols used"
	}
	ty := sym.Type
	ty.Bold, ty.Size = true, 0
	n.write(house.Set(symbols.Of(model.Legend), model.Accented{Text: head}, ty, sym.W, sym.H), colour, l)
	y := model.LegendHead
	for _, kind := range strings.Fields(x.Kinds) {
		def := symbols.Of(model.Kind(kind))
		h := model.LegendRow - pad
		w := min(figure, h*def.W/def.H)
		h = min(h, w*def.H/def.W)
		at := geometry.Point{X: pad + (figure-w)/2, Y: y + (model.LegendRow-h)/2}
		// Drawn at its standard size and reduced, so that its parts keep their
		// proportions.
		small := func(p geometry.Path) geometry.Path { return p.Scaled(w, def.W).Moved(at) }
		if def.Back != nil {
			for _, part := range partsOf(def.Back(def.W, def.H)) {
				n.Shapes = append(n.Shapes, Shape{Path: small(part), Fill: l.Paper, Stroke: l.Ink, Width: px})
			}
		}
		if !def.Bare {
			n.Shapes = append(n.Shapes, Shape{Path: small(def.Outline(def.W, def.H)), Fill: l.Paper, Stroke: l.Ink,
				Width: px})
		}
		if def.Inner != nil {
			n.Shapes = append(n.Shapes, Shape{Path: small(def.Inner(def.W, def.H, false)), Stroke: l.Ink, Width: px})
		}
		left := pad + figure + pad
		name := typeset.Style{Size: 12 * px, Bold: true, Italic: sym.Italic, Fonts: house.Own}
		said := typeset.Style{Size: 11 * px, Italic: sym.Italic, Fonts: house.Own}
		row := func(text string, st typeset.Style, top int) {
			lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(sym.W-left-pad, 4*st.Size) })
			line := lines[0].Text
			if len(lines) > 1 {
				line += " …"
			}
			n.Texts = append(n.Texts, Text{X: left, Y: top + st.Baseline(), Anchor: typeset.Start, Style: st,
				Fill: colour, Text: line})
		}
		row(def.Name, name, y+px)
		row(def.Meaning, said, y+px+name.LineHeight())
		y += model.LegendRow
	}
	for _, line := range strings.Split(strings.TrimSpace(x.Colours), "\n") {
		fill, meaning, ok := strings.Cut(line, "\t")
		if !ok {
			continue
		}
		h := model.LegendRow / 2
		b := geometry.Box{X: pad, Y: y + (model.LegendRow-h)/2, W: figure, H: h}
		n.Shapes = append(n.Shapes, Shape{Path: b.Outline(), Fill: l.Fill(fill), Stroke: l.Ink, Width: px})
		st := typeset.Style{Size: 12 * px, Bold: true, Italic: sym.Italic, Fonts: house.Own}
		n.Texts = append(n.Texts,
			Text{X: pad + figure + pad, Y: y + (model.LegendRow-st.LineHeight())/2 + st.Baseline(),
				Anchor: typeset.Start, Style: st, Fill: colour,
				Text: clipped(meaning, st, sym.W-figure-3*pad)})
		y += model.LegendRow
	}
}

// contents adds a heading and a row for each sheet, with its place, which leads there.
func (n *Node) contents(sym *model.Symbol, x *Extra, l *looks.Look, house typeset.House) {
	const pad = 8 * px
	colour := l.TextOf(sym)
	head := sym.Text
	if head == "" {
		head = "Contents"
	}
	ty := sym.Type
	ty.Bold, ty.Size = true, 0
	n.write(house.Set(symbols.Of(model.Contents), model.Accented{Text: head}, ty, sym.W, sym.H), colour, l)
	st := typeset.Style{Size: 12 * px, Italic: sym.Italic, Fonts: house.Own}
	const number = 24 * px
	y := model.LegendHead
	for i, line := range strings.Split(strings.TrimSuffix(x.Contents, "\n"), "\n") {
		id, name, _ := strings.Cut(line, "\t")
		at := y + (model.ContentsRow-st.LineHeight())/2 + st.Baseline()
		n.Texts = append(n.Texts,
			Text{X: pad + number - 6*px, Y: at, Anchor: typeset.End, Style: st, Fill: l.Soft,
				Text: strconv.Itoa(i + 1)},
			Text{X: pad + number, Y: at, Anchor: typeset.Start, Style: st, Fill: colour,
				Text: clipped(name, st, sym.W-number-2*pad)})
		n.Leads = append(n.Leads, Lead{geometry.Box{X: pad, Y: y, W: sym.W - 2*pad, H: model.ContentsRow}, "#" + id,
			name})
		y += model.ContentsRow
	}
}

func pill(b geometry.Box) geometry.Path {
	return symbols.Of(model.Terminator).Outline(b.W, b.H).Moved(b.Corner())
}
