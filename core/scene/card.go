package scene

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// chartLines adds the lines of the hierarchy that are drawn with a card.
func (n *Node) chartLines(x *Extra, l *looks.Look) {
	for _, line := range strings.Split(x.Card.Lines, "|") {
		var path geometry.Path
		for i, place := range strings.Fields(line) {
			a, b, _ := strings.Cut(place, ",")
			px, _ := strconv.Atoi(a)
			py, _ := strconv.Atoi(b)
			if i == 0 {
				path = path.Move(px, py)
			} else {
				path = path.Line(px, py)
			}
		}
		if len(path) > 1 {
			n.Shapes = append(n.Shapes, Shape{Path: path, Stroke: l.Ink, Width: l.Weight})
		}
	}
}

// via adds the words on the line that leads to a card.
func (n *Node) via(text string, x *Extra, l *looks.Look, house typeset.House) {
	if text == "" || x.Card.Via == (geometry.Point{}) {
		return
	}
	st := typeset.Style{Size: captionSize, Fonts: house.Own}
	text = clipped(model.Flat(text), st, labelWidth)
	at, w := x.Card.Via, typeset.Measure(text, st)+4*px
	b := geometry.Around(at, w, st.LineHeight())
	n.Shapes = append(n.Shapes, Shape{Path: b.Outline(), Fill: l.Fill("")})
	n.Texts = append(n.Texts, Text{X: at.X, Y: b.Y + st.Baseline(), Style: st, Fill: l.Ink, Text: text})
}

// portrait adds the picture of a person, or the initials where there is none.
func (n *Node) portrait(sym *model.Symbol, x *Extra, m *model.Map, fill string, l *looks.Look, house typeset.House) {
	b := symbols.Portrait(sym.H)
	shape := b.Outline()
	if !x.Card.Square {
		shape = geometry.Ellipse(b)
	}
	if p := m.Picture(sym.Picture); p != nil && p.W > 0 && p.H > 0 {
		// It covers the place, and what reaches beyond is covered by the colour of the card.
		at := geometry.Around(b.Centre(), b.W, b.H)
		if p.W > p.H {
			at = geometry.Around(b.Centre(), b.H*p.W/p.H, b.H)
		} else if p.H > p.W {
			at = geometry.Around(b.Centre(), b.W, b.W*p.H/p.W)
		}
		if at.X > 0 && at.Y > 0 && at.Bottom() < sym.H {
			n.Images = append(n.Images, Image{Box: at, Picture: p, Frame: around(at.Grown(px), b, !x.Card.Square),
				Fill: fill})
			return
		}
		n.Images = append(n.Images, Image{Box: b, Picture: p, Frame: around(b, b, !x.Card.Square), Fill: fill})
		return
	}
	n.Shapes = append(n.Shapes, Shape{Path: shape, Fill: l.Head, Stroke: l.Rule, Width: px})
	name, role := sym.CardName()
	if name == "" {
		name = role
	}
	st := typeset.Style{Size: 13 * px, Bold: true, Fonts: house.Own}
	if text := Initials(name); text != "" {
		n.Texts = append(n.Texts, Text{X: b.Centre().X, Y: b.Centre().Y - st.LineHeight()/2 + st.Baseline(), Style: st,
			Fill: l.Ink, Text: text})
	}
}

// around returns what lies in a box, but not in a hole in it: a circle, or a box that may be as large as it.
func around(outer, hole geometry.Box, round bool) geometry.Path {
	inner := geometry.Path{}.Move(hole.X, hole.Y).Line(hole.X, hole.Bottom()).Line(hole.Right(), hole.Bottom()).
		Line(hole.Right(), hole.Y).Close()
	if round {
		r, cx, cy := hole.W/2, hole.Centre().X, hole.Centre().Y
		k := r * geometry.Quarter / 10000
		inner = geometry.Path{}.Move(cx, cy-r).Curve(cx-k, cy-r, cx-r, cy-k, cx-r, cy).
			Curve(cx-r, cy+k, cx-k, cy+r, cx, cy+r).Curve(cx+k, cy+r, cx+r, cy+k, cx+r, cy).
			Curve(cx+r, cy-k, cx+k, cy-r, cx, cy-r).Close()
	}
	return append(outer.Outline(), inner...)
}

// Initials returns the first letters of the first and the last word of a name.
func Initials(name string) string {
	words := strings.FieldsFunc(name,
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' })
	if len(words) == 0 {
		return ""
	}
	first := func(w string) string {
		r, _ := utf8.DecodeRuneInString(w)
		return string(unicode.ToUpper(r))
	}
	if len(words) == 1 {
		return first(words[0])
	}
	return first(words[0]) + first(words[len(words)-1])
}

// counts adds how many people are under a card: on the middle of its lower edge where they are folded, else at the
// right of it.
func (n *Node) counts(sym *model.Symbol, foot int, x *Extra, l *looks.Look, house typeset.House) {
	c := &x.Card
	text := ""
	switch {
	case c.Folded > 0:
		text = "+" + strconv.Itoa(c.Folded)
	case !c.Counted || c.All == 0:
		return
	case c.Direct == c.All:
		text = strconv.Itoa(c.All)
	default:
		text = strconv.Itoa(c.Direct) + " / " + strconv.Itoa(c.All)
	}
	st := typeset.Style{Size: captionSize, Bold: true, Fonts: house.Own}
	w := max(typeset.Measure(text, st)+10*px, badgeHeight)
	at := geometry.Point{X: sym.W - 6*px - w/2, Y: foot}
	if c.Folded > 0 {
		at.X = sym.W / 2
	}
	b := geometry.Around(at, w, badgeHeight)
	n.Shapes = append(n.Shapes, Shape{Path: pill(b), Fill: l.Paper, Stroke: l.Soft, Width: px})
	n.Texts = append(n.Texts, Text{X: at.X, Y: b.Y + (badgeHeight-st.LineHeight())/2 + st.Baseline(), Style: st,
		Fill: l.Ink, Text: text})
}

// post adds what the card of a free post says, at its upper right corner.
func (n *Node) post(sym *model.Symbol, l *looks.Look, house typeset.House) {
	if sym.Post == model.Filled {
		return
	}
	st := typeset.Style{Size: 10 * px, Italic: true, Fonts: house.Own}
	text := map[model.Post]string{model.Vacant: "vacant", model.Planned: "planned"}[sym.Post]
	w := typeset.Measure(text, st) + 8*px
	b := geometry.Around(geometry.Point{X: sym.W - 8*px - w/2, Y: 0}, w, badgeHeight)
	n.Shapes = append(n.Shapes, Shape{Path: pill(b), Fill: l.Paper, Stroke: l.Soft, Width: px})
	n.Texts = append(n.Texts, Text{X: b.Centre().X, Y: (0-st.LineHeight())/2 + st.Baseline(), Style: st, Fill: l.Soft,
		Text: text})
}

// levelFills are the colours of the levels of a hierarchy, in turn.
var levelFills = []string{"lake", "moss", "straw", "clay", "fog"}

// bands adds the levels of a hierarchy that have a name, behind all that stands on the sheet.
func (v View) bands(n *Node) {
	list := v.Sheet.Bands()
	if len(list) == 0 {
		return
	}
	width := max(v.Sheet.Extent().Right(), v.Sheet.Page().W)
	st := typeset.Style{Size: typeset.NameSize, Bold: true, Fonts: v.House.Own}
	for i, b := range list {
		from, to := b.From-14*px, b.To+14*px
		if i%2 == 0 {
			n.Shapes = append(n.Shapes, Shape{Path: geometry.Box{Y: from, W: width, H: to - from}.Outline(),
				Fill: v.Look.Head})
		}
		if b.Name != "" {
			n.Texts = append(n.Texts, turned(b.Name, st, 2*px, 20*px, from, to-from, v.Look.Soft)...)
		}
	}
}
