package svg

import (
	"bytes"
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/typeface"
)

// WordsClass is the class of an element of text that is what its thing says.
const WordsClass = "words"

// appendNodes writes nodes in their order, each as a group with its id. The lines of a text are one element, so that a
// program in which the picture is worked on has it in one piece. Texts in scripts that neither the organisation's fonts
// nor the shipped typeface have are drawn as outlines, as all are where they are wanted so: a viewer without their
// fonts, or that cannot join their letters, shows them as well.
func appendNodes(buf []byte, nodes []scene.Node, set *typeface.Set, outlined bool) ([]byte, error) {
	for i := range nodes {
		n := &nodes[i]
		drawn := *n
		drawn.Texts, drawn.Leads = nil, nil
		inside := drawn.AppendSVG(nil)
		buf = append(buf, bytes.TrimSuffix(inside, []byte("</g>"))...)
		for k := 0; k < len(n.Texts); {
			lines, foreign, err := laid(&n.Texts[k], set)
			if err != nil {
				return nil, err
			}
			if foreign || outlined {
				for i, one := range n.Texts[k].Split() {
					if buf, err = appendOutlines(buf, &one, lines[i]); err != nil {
						return nil, err
					}
				}
				k++
				continue
			}
			from := k
			for k++; k < len(n.Texts) && joins(&n.Texts[k-1], &n.Texts[k]); k++ {
				if _, foreign, err = laid(&n.Texts[k], set); err != nil {
					return nil, err
				}
				if foreign {
					break
				}
			}
			buf = appendText(buf, n.Texts[from:k])
		}
		leads := scene.Node{Leads: n.Leads}
		buf = append(leads.AppendInner(buf), "</g>\n"...)
	}
	return buf, nil
}

// laid sets the parts of a line, and reports whether a font of the machine is needed for one of them.
func laid(t *scene.Text, set *typeface.Set) (lines []*typeface.Line, foreign bool, err error) {
	for _, one := range t.Split() {
		line, err := set.Line(one.Text, one.Style)
		if err != nil {
			return nil, false, err
		}
		lines, foreign = append(lines, line), foreign || line.Foreign
	}
	return lines, foreign, nil
}

// joins reports whether a line belongs to the same text as the one before it.
func joins(a, b *scene.Text) bool {
	down := b.Y - a.Y
	if a.Turned {
		down = b.X - a.X
	}
	return a.Own && b.Own && a.Turned == b.Turned && a.Fill == b.Fill && a.Style.Size == b.Style.Size && down > 0 &&
		down <= 2*a.Style.LineHeight()
}

// Words are the texts that a picture has of a node in elements of WordsClass, a space between their lines.
func Words(n *scene.Node) (list []string) {
	for k := range n.Texts {
		t := &n.Texts[k]
		switch {
		case !t.Own:
		case k > 0 && joins(&n.Texts[k-1], t):
			list[len(list)-1] += " " + t.Text
		default:
			list = append(list, t.Text)
		}
	}
	return list
}

// between parts the words at the ends of two lines for whoever reads or copies them, without a width of its own, by
// which lines would be out of the middle.
const between = `<tspan font-size="0"> </tspan>`

// appendText writes lines as one element of text, each of several as a part of it.
func appendText(buf []byte, lines []scene.Text) []byte {
	if len(lines) == 1 && !lines[0].Own {
		one := scene.Node{Texts: lines}
		return one.AppendInner(buf)
	}
	// The element has what all lines share; a part has its place, and what is its own.
	first := lines[0]
	first.Text, first.Parts = "", nil
	one := scene.Node{Texts: []scene.Text{first}}
	head := bytes.TrimSuffix(one.AppendInner(nil), []byte("</text>"))
	buf = append(append(buf, `<text class="`+WordsClass+`"`...), bytes.TrimPrefix(head, []byte("<text"))...)
	for i := range lines {
		t := lines[i]
		if len(lines) == 1 {
			buf = t.AppendWords(buf)
			break
		}
		part := scene.Node{Texts: []scene.Text{t}}
		part.Texts[0].Turned = false // the element is turned as a whole
		x, y := t.X, t.Y
		if t.Turned { // its lines stand below each other as they are read
			x, y = first.X, first.Y+t.X-first.X
		}
		part.Texts[0].X, part.Texts[0].Y = x, y
		span := part.AppendInner(nil)
		buf = append(append(buf, "<tspan"...), bytes.TrimSuffix(bytes.TrimPrefix(span, []byte("<text")),
			[]byte("</text>"))...)
		buf = append(buf, "</tspan>"...)
		if i+1 < len(lines) {
			buf = append(buf, between...)
		}
	}
	return append(buf, "</text>"...)
}

// appendOutlines writes a line of text as the outlines of its glyphs, under its words.
func appendOutlines(buf []byte, t *scene.Text, line *typeface.Line) ([]byte, error) {
	size := float64(t.Style.Size) / geometry.Px
	x := line.Begin(t.Anchor) * size
	buf = append(buf, `<g role="img" aria-label="`...)
	buf = append(scene.AppendEscaped(buf, t.Text), `" transform="translate(`...)
	buf = append(scene.AppendPx(append(scene.AppendPx(buf, t.X), ' '), t.Y), ')')
	if t.Turned {
		buf = append(buf, ` rotate(-90)`...)
	}
	buf = append(append(append(buf, `"><path fill="`...), t.Fill...), `" d="`...)
	for _, g := range line.Glyphs {
		outline, err := g.Font.Outline(g.ID)
		if err != nil {
			return nil, err
		}
		buf = appendGlyph(buf, outline, x+g.X*size, -g.Y*size, size/float64(g.Font.UnitsPerEm()))
	}
	if t.Style.Underline {
		buf = fmt.Appendf(buf, "M%.2f %.2fh%.2fv%.2fh%.2fZ", x, size*typeface.UnderlineBelow, line.Width*size,
			size*typeface.UnderlineThick, -line.Width*size)
	}
	return append(buf, "\"/></g>"...), nil
}
