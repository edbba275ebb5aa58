// Package typeset measures text with the shipped typeface's own metrics,
// breaks it into lines, and fits it into the outline of a symbol.
//
// Widths are the sum of unkerned advances, which is what a browser draws when
// kerning and ligatures are off. Lengths are in hundredths of a CSS pixel.
package typeset

import (
	"strings"
	"unicode"

	"github.com/rivo/uniseg"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Style is how characters are drawn.
type Style struct {
	// Size is the type size.
	Size                    int
	Bold, Italic, Underline bool
	// Fonts are those of its typeface; none are the shipped one.
	Fonts Cuts
	// Face says which of the typefaces of the map that is.
	Face Face
}

// Cuts are the measures of the fonts of a typeface: regular, bold, italic, and both.
type Cuts [4]*fonts.Metrics

// Face is one of the typefaces in which texts of a map are set.
type Face uint8

// The typefaces of a map: its own, the shipped one where its own is another, and two further ones.
const (
	OwnFace Face = iota
	ShippedFace
	FurtherFace
	Faces Face = FurtherFace + 2
)

// FontsOf returns the fonts of the typefaces of a map.
func FontsOf(m *model.Map) (out [Faces][]fonts.Font) {
	out[OwnFace] = m.HouseFonts()
	for i, t := range m.Further() {
		if face := FurtherFace + Face(i); face < Faces {
			out[face] = t.Fonts
		}
	}
	return out
}

// House are the measures of the fonts of the organisation: those a map is written in, and those of further typefaces,
// for single texts.
type House struct {
	Own     Cuts
	further [Faces - FurtherFace]family
}

// family is a typeface by its name.
type family struct {
	name  string
	fonts Cuts
}

// in returns the fonts of the typeface with a name, and which it is; those of the map where it has none of the name.
func (h House) in(name string) (Cuts, Face) {
	if name == model.BuiltInFace && h.Own != (Cuts{}) {
		return Cuts{}, ShippedFace
	}
	for i := range h.further {
		if name != "" && h.further[i].name == name {
			return h.further[i].fonts, FurtherFace + Face(i)
		}
	}
	return h.Own, OwnFace
}

// Plain returns the style of a text of a size that is set in the typeface of the map.
func (h House) Plain(size int) Style { return Style{Size: size, Fonts: h.Own} }

// HouseOf returns the fonts a map is written in.
func HouseOf(m *model.Map) House {
	var h House
	if len(m.Faces)+len(m.Also) == 0 {
		return h
	}
	h.Own = cutsOf(m.HouseFonts())
	for i, t := range m.Further() {
		if i < len(h.further) {
			h.further[i] = family{t.Family, cutsOf(t.Fonts)}
		}
	}
	return h
}

func cutsOf(list []fonts.Font) (out Cuts) {
	for i := range out {
		if f := fonts.Pick(list, i&1 != 0, i&2 != 0); f != nil {
			out[i] = f.Metrics()
		}
	}
	return out
}

// Body is the style symbols are written in: 13 px, which is 9.75 pt on paper.
var Body = Style{Size: 13 * geometry.Px}

// Legible is the size below which text is not set however little room there
// is: 9 px are 6.75 pt on paper (common practice, no source).
const Legible = model.MinType

// StyleOf returns the style a text is to be set in.
func (h House) StyleOf(t model.Type) Style {
	s := Style{Size: Body.Size, Bold: t.Bold, Italic: t.Italic, Underline: t.Underline}
	s.Fonts, s.Face = h.in(t.Face)
	if t.Size != 0 {
		s.Size = t.Size
	}
	return s
}

// LineHeight returns the distance between two baselines.
func (s Style) LineHeight() int { return s.Size * 13 / 10 }

// Baseline returns how far the baseline lies below the top of a line: the
// ascender and descender of the face centred in the line height.
func (s Style) Baseline() int {
	f := s.face()
	return (s.LineHeight() + (f.Ascent-f.Descent)*s.Size/f.UnitsPerEm) / 2
}

var shipped = [4]*fonts.Metrics{&regular, &semibold, &italic, &semiboldItalic}

// face is what a text is measured with: a font and, where that is the organisation's,
// the shipped one for the characters it lacks.
type face struct {
	*fonts.Metrics
	behind *fonts.Metrics
}

func (s Style) face() face {
	i := fonts.CutOf(s.Bold, s.Italic)
	if s.Fonts[i] != nil {
		return face{s.Fonts[i], shipped[i]}
	}
	return face{shipped[i], nil}
}

// advance returns the width of r in font units. A character the face lacks is
// drawn by a font of the system, and its width is taken generously: nothing
// for marks that stand on another character, half as much again as the type
// size for pictographs, a tenth more than it for all others.
func (f face) advance(r rune) int {
	if n, ok := f.Find(r); ok {
		return n
	}
	if f.behind != nil {
		n := face{f.behind, nil}.advance(r)
		return (n*f.UnitsPerEm + f.behind.UnitsPerEm - 1) / f.behind.UnitsPerEm
	}
	return f.UnitsPerEm * estimate(r) / 1000
}

// Has reports whether the fonts of a style or the shipped typeface can draw r.
// What is never seen counts as drawn.
func Has(r rune, s Style) bool {
	f := s.face()
	_, ok := f.Find(r)
	if !ok && f.behind != nil {
		_, ok = f.behind.Find(r)
	}
	return ok || unicode.In(r, unicode.Cf, unicode.Cc, unicode.Zs)
}

// Measure returns the width of a line of text, rounded up.
func Measure(text string, s Style) int {
	f := s.face()
	return f.scaled(f.units(text), s.Size)
}

// units returns the width of a text in font units.
func (f face) units(text string) int {
	n := 0
	for _, r := range text {
		n += f.advance(r)
	}
	return n
}

// scaled converts font units to a length, rounded up.
func (f face) scaled(units, size int) int {
	return (units*size + f.UnitsPerEm - 1) / f.UnitsPerEm
}

// Line is one line of set text: its words without the space at the end, their
// width, and whether a paragraph begins with it.
type Line struct {
	Text  string
	Width int
	First bool
	// Parts are the stretches of it, where not all of them are set in the same way.
	Parts []Part
}

// Part is a stretch of a line that is set in one way: bold or italic beside what its text is, in a colour of the
// palette or as #rrggbb; empty is that of the text.
type Part struct {
	Text         string
	Bold, Italic bool
	Colour       string
}

// piece is a stretch of text after which a line may end.
type piece struct {
	from, words, to int // bytes: where it begins, where its words end, and where it ends
	units, space    int // width of the words and of the space after them, in font units
	must            bool
}

// prepared is a text with everything known about it that does not depend on
// the room it gets.
type prepared struct {
	text    string
	face    face
	accents []accent
	pieces  []piece
	longest int // the widest piece, in font units
}

// accent is a stretch of a text that is set otherwise than the rest, from a byte up to another one.
type accent struct {
	from, to int
	face     face
	part     Part
}

var plain = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\t", " ")

// prepare finds the places at which UAX #14 allows or demands a break.
func prepare(text model.Accented, st Style) *prepared {
	p := &prepared{text: plain.Replace(text.Text), face: st.face()}
	p.accent(text.Accents, st)
	f := p.face
	state, rest, at := -1, p.text, 0
	for len(rest) > 0 {
		var segment string
		var must bool
		segment, rest, must, state = uniseg.FirstLineSegmentInString(rest, state)
		words := strings.TrimRight(segment, " \n")
		c := piece{from: at, words: at + len(words), to: at + len(segment)}
		c.must = must && strings.HasSuffix(segment, "\n")
		if p.accents == nil {
			c.units, c.space = f.units(words), f.units(strings.TrimRight(segment[len(words):], "\n"))
		} else {
			c.units = p.units(c.from, c.words)
			c.space = p.units(c.words, at+len(strings.TrimRight(segment, "\n")))
		}
		p.pieces = append(p.pieces, c)
		p.longest = max(p.longest, c.units)
		at += len(segment)
	}
	return p
}

// accent takes the stretches of a text, which count its characters.
func (p *prepared) accent(list []model.Accent, st Style) {
	if len(list) == 0 {
		return
	}
	at := make([]int, 0, len(p.text)+1) // where each character begins
	for i := range p.text {
		at = append(at, i)
	}
	at = append(at, len(p.text))
	for _, one := range list {
		from, to := geometry.Clamp(one.From, 0, len(at)-1), geometry.Clamp(one.To, 0, len(at)-1)
		if from >= to {
			continue
		}
		own := st
		own.Bold, own.Italic = own.Bold || one.Bold, own.Italic || one.Italic
		p.accents = append(p.accents, accent{at[from], at[to], own.face(),
			Part{Bold: one.Bold, Italic: one.Italic, Colour: one.Colour}})
	}
}

// units returns the width of the text from a byte up to another one, in units of its font.
func (p *prepared) units(from, to int) (n int) {
	for _, a := range p.accents {
		if a.to <= from || a.from >= to {
			continue
		}
		n += p.face.units(p.text[from:max(a.from, from)])
		from, n = min(a.to, to), n+p.face.of(a.face, p.text[max(a.from, from):min(a.to, to)])
	}
	return n + p.face.units(p.text[from:to])
}

// of returns the width of a text that is set in another face, in the units of this one, rounded up.
func (f face) of(other face, text string) int {
	n := other.units(text)
	if other.UnitsPerEm == f.UnitsPerEm {
		return n
	}
	return (n*f.UnitsPerEm + other.UnitsPerEm - 1) / other.UnitsPerEm
}

// parts returns the stretches of a line, none where all of it is set in the same way as the text. Spaces before a
// stretch belong to the one before it.
func (p *prepared) parts(from, to int) (out []Part) {
	put := func(part Part, from, to int) {
		if part.Text = p.text[from:to]; part.Text != "" {
			out = append(out, part)
		}
	}
	for _, a := range p.accents {
		if a.to <= from || a.from >= to {
			continue
		}
		begin := a.from
		for begin < min(a.to, to) && p.text[begin] == ' ' {
			begin++
		}
		put(Part{}, from, max(begin, from))
		put(a.part, max(begin, from), min(a.to, to))
		from = min(a.to, to)
	}
	if out != nil {
		put(Part{}, from, to)
	}
	return out
}

// wrap breaks the text into lines of at most width(i); see Wrap.
func (p *prepared) wrap(lines []Line, size, limit int, whole bool, width func(i int) int) ([]Line, bool) {
	f := p.face
	from, end := 0, 0 // the line so far, its words
	units, space := 0, 0
	first, open := true, false
	flush := func() bool {
		line := Line{Text: p.text[from:end], Width: f.scaled(units, size), First: first}
		if p.accents != nil {
			line.Parts = p.parts(from, end)
		}
		lines = append(lines, line)
		first, open, units, space = false, false, 0, 0
		return limit == 0 || len(lines) <= limit
	}
	for _, c := range p.pieces {
		if open && f.scaled(units+space+c.units, size) > width(len(lines)) {
			if !flush() {
				return lines, false
			}
		}
		if !open {
			from, end, open = c.from, c.from, true
		}
		for !(units > 0) && f.scaled(c.units, size) > width(len(lines)) {
			if whole {
				return lines, false
			}
			n, head := p.split(c.from, c.words, size, width(len(lines)))
			if n == 0 {
				return lines, false
			}
			end, units = c.from+n, head
			if !flush() {
				return lines, false
			}
			c.from, c.units = c.from+n, c.units-head
			from, end, open = c.from, c.from, true
		}
		if c.words > c.from {
			end, units = c.words, units+space+c.units
			space = 0
		}
		space += c.space
		if c.must {
			if !flush() {
				return lines, false
			}
			first = true
		}
	}
	if open || len(lines) == 0 {
		if !flush() {
			return lines, false
		}
	}
	return lines, true
}

// split finds how many bytes of a word fit the width as whole characters, and
// how wide these are in font units.
func (p *prepared) split(from, to, size, width int) (n, units int) {
	state, rest := -1, p.text[from:to]
	for len(rest) > 0 {
		var cluster string
		at := to - len(rest)
		cluster, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		more := units + p.units(at, at+len(cluster))
		if p.face.scaled(more, size) > width {
			break
		}
		n, units = to-from-len(rest), more
	}
	return n, units
}

// Wrap breaks text into lines at the places UAX #14 allows; width says how
// much room line i has. A word wider than its line is broken between
// characters. It reports false when a line has no room even for one character
// or there would be more than limit lines (0 for no limit).
func Wrap(text string, s Style, limit int, width func(i int) int) ([]Line, bool) {
	return prepare(model.Accented{Text: text}, s).wrap(nil, s.Size, limit, false, width)
}
