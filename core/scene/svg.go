package scene

import (
	"strconv"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/typeset"
)

// AppendPx writes a length as decimal pixels, as short as it goes.
func AppendPx(buf []byte, n int) []byte {
	if n < 0 {
		buf = append(buf, '-')
		n = -n
	}
	buf = strconv.AppendInt(buf, int64(n/px), 10)
	if r := n % px; r != 0 {
		buf = append(buf, '.', byte('0'+r/10))
		if r%10 != 0 {
			buf = append(buf, byte('0'+r%10))
		}
	}
	return buf
}

// AppendEscaped writes text for XML content or an attribute in double quotes.
func AppendEscaped(buf []byte, text string) []byte {
	for _, r := range text {
		switch r {
		case '&':
			buf = append(buf, "&amp;"...)
		case '<':
			buf = append(buf, "&lt;"...)
		case '>':
			buf = append(buf, "&gt;"...)
		case '"':
			buf = append(buf, "&quot;"...)
		default:
			buf = utf8.AppendRune(buf, r)
		}
	}
	return buf
}

// Escaped is text for XML content or an attribute in double quotes.
func Escaped(text string) string { return string(AppendEscaped(nil, text)) }

// AppendPath writes path data.
func AppendPath(buf []byte, path geometry.Path) []byte {
	for _, op := range path {
		buf = append(buf, op.Verb)
		switch op.Verb {
		case 'C':
			buf = appendPoint(append(appendPoint(buf, op.A), ' '), op.B)
			buf = appendPoint(append(buf, ' '), op.P)
		case 'M', 'L':
			buf = appendPoint(buf, op.P)
		}
	}
	return buf
}

func appendPoint(buf []byte, p geometry.Point) []byte {
	return AppendPx(append(AppendPx(buf, p.X), ' '), p.Y)
}

// AppendInner writes what a node draws, as SVG elements without the group
// around them.
func (n *Node) AppendInner(buf []byte) []byte {
	if n.Hint != "" {
		buf = append(AppendEscaped(append(buf, `<title>`...), n.Hint), `</title>`...)
	}
	for i := range n.Shapes {
		buf = n.Shapes[i].appendSVG(buf)
	}
	for i := range n.Images {
		p := &n.Images[i]
		buf = AppendPx(append(buf, `<image x="`...), p.X)
		buf = AppendPx(append(buf, `" y="`...), p.Y)
		buf = AppendPx(append(buf, `" width="`...), p.W)
		buf = AppendPx(append(buf, `" height="`...), p.H)
		buf = append(append(buf, `" href="`...), p.Picture.URL()...)
		buf = append(buf, `"/>`...)
		if over, covered := p.Over(); covered {
			buf = over.appendSVG(buf)
		}
	}
	for i := range n.Texts {
		t := &n.Texts[i]
		buf = AppendPx(append(buf, `<text x="`...), t.X)
		buf = AppendPx(append(buf, `" y="`...), t.Y)
		buf = AppendPx(append(buf, `" font-size="`...), t.Style.Size)
		if t.Style.Face != typeset.OwnFace {
			buf = append(append(buf, `" font-family="`...), Families(t.Style.Face)...)
		}
		buf = appendCut(buf, &t.Style)
		if t.Style.Underline {
			buf = append(buf, `" text-decoration="underline`...)
		}
		anchor := t.Anchor
		if readsLeftwards(t.Text) {
			// There a line starts at its right end.
			buf = append(buf, `" direction="rtl`...)
			anchor = [...]typeset.Anchor{typeset.Middle, typeset.End, typeset.Start}[anchor]
		}
		if t.Turned {
			buf = appendPoint(append(buf, `" transform="rotate(-90 `...), geometry.Point{X: t.X, Y: t.Y})
			buf = append(buf, ')')
		}
		buf = append(append(buf, `" fill="`...), t.Fill...)
		buf = append(append(append(buf, `" text-anchor="`...), [...]string{"middle", "start", "end"}[anchor]...),
			`">`...)
		buf = append(t.AppendWords(buf), `</text>`...)
	}
	return n.appendLeads(buf)
}

// Shipped is the name under which pages and pictures use the shipped typeface.
const Shipped = "Tracer Sans"

// Family returns the name under which pages and pictures use a typeface of a map.
func Family(face typeset.Face) string {
	return [...]string{"House Face", Shipped, "House Face 2", "House Face 3"}[face]
}

// Families returns how CSS names what is drawn in a typeface of a map, the first one first.
func Families(face typeset.Face) string {
	const shipped = "'" + Shipped + "', 'IBM Plex Sans', Arial, sans-serif"
	if face == typeset.ShippedFace {
		return shipped
	}
	return "'" + Family(face) + "', " + shipped
}

// Faces lists which fonts draw the cuts of the typefaces of a map, for pages.
func Faces(m *model.Map) []fonts.Face {
	list := []fonts.Face{}
	for face, had := range typeset.FontsOf(m) {
		list = append(list, fonts.Faces(Family(typeset.Face(face)), had)...)
	}
	return list
}

// appendCut writes which cut of its typeface a text has, as the end of an attribute and the beginning of the next.
func appendCut(buf []byte, st *typeset.Style) []byte {
	if st.Bold {
		buf = append(buf, `" font-weight="600`...)
	}
	if st.Italic {
		buf = append(buf, `" font-style="italic`...)
	}
	return buf
}

// AppendWords writes what a line says, each stretch that is drawn otherwise than the line in an element of its own. A
// browser sets these one behind the other as they are read.
func (t *Text) AppendWords(buf []byte) []byte {
	if len(t.Parts) == 0 {
		return AppendEscaped(buf, t.Text)
	}
	for i := range t.Parts {
		p := &t.Parts[i]
		if p.Style == t.Style && p.Fill == t.Fill {
			buf = AppendEscaped(buf, p.Text)
			continue
		}
		own := p.Style // a line that is bold makes bold what stands in it
		own.Bold, own.Italic = own.Bold && !t.Style.Bold, own.Italic && !t.Style.Italic
		buf = append(append(buf, `<tspan fill="`...), p.Fill...)
		buf = append(appendCut(buf, &own), `">`...)
		buf = append(AppendEscaped(buf, p.Text), `</tspan>`...)
	}
	return buf
}

// appendSVG writes a shape.
func (s *Shape) appendSVG(buf []byte) []byte {
	buf = append(buf, `<path d="`...)
	buf = AppendPath(buf, s.Path)
	buf = append(buf, `" fill="`...)
	buf = append(buf, orNone(s.Fill)...)
	if s.Stroke != "" {
		buf = append(append(buf, `" stroke="`...), s.Stroke...)
		buf = AppendPx(append(buf, `" stroke-width="`...), s.Width)
		buf = append(buf, `" stroke-linejoin="round`...)
		for k, d := range s.Dash {
			if k == 0 {
				buf = append(buf, `" stroke-dasharray="`...)
			} else {
				buf = append(buf, ' ')
			}
			buf = AppendPx(buf, d)
		}
	}
	buf = append(buf, `"/>`...)
	return buf
}

// readsLeftwards reports whether the first letter of a text belongs to a script
// that is written from right to left (rules P2 and P3 of UAX #9, whose classes R
// and AL lie in these blocks).
func readsLeftwards(text string) bool {
	for _, r := range text {
		switch {
		case r >= 0x0590 && r <= 0x08FF || r >= 0xFB1D && r <= 0xFDFF || r >= 0xFE70 && r <= 0xFEFF ||
			r >= 0x10800 && r <= 0x10FFF || r >= 0x1E800 && r <= 0x1EFFF:
			if unicode.IsLetter(r) {
				return true
			}
		case unicode.IsLetter(r):
			return false
		}
	}
	return false
}

func orNone(fill string) string {
	if fill == "" {
		return "none"
	}
	return fill
}

// AppendSVG writes the node as a group with its id and place.
func (n *Node) AppendSVG(buf []byte) []byte {
	buf = append(append(buf, `<g id="n-`...), n.ID...)
	buf = append(append(buf, `" class="`...), n.Class...)
	if n.At != (geometry.Point{}) {
		buf = appendPoint(append(buf, `" transform="translate(`...), n.At)
		buf = append(buf, ')')
	}
	buf = append(buf, `">`...)
	return append(n.AppendInner(buf), `</g>`...)
}

// AppendSVG writes all nodes in drawing order.
func (d *Drawing) AppendSVG(buf []byte) []byte {
	for i := range d.Nodes {
		buf = append(d.Nodes[i].AppendSVG(buf), '\n')
	}
	return buf
}
