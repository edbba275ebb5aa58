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
	// House are the fonts of the house; none are the shipped typeface.
	House House
}

// House are the measures of the house's fonts: regular, bold, italic, and both.
type House [4]*fonts.Metrics

// HouseOf returns the fonts a map is written in.
func HouseOf(m *model.Map) House {
	var h House
	if len(m.Faces) == 0 {
		return h
	}
	list := m.HouseFonts()
	for i := range h {
		if f := fonts.Pick(list, i&1 != 0, i&2 != 0); f != nil {
			h[i] = f.Metrics()
		}
	}
	return h
}

// Body is the style symbols are written in: 13 px, which is 9.75 pt on paper.
var Body = Style{Size: 13 * geometry.Px}

// Legible is the size below which text is not set however little room there
// is: 9 px are 6.75 pt on paper (common practice, no source).
const Legible = model.MinType

// StyleOf returns the style a text is to be set in.
func (h House) StyleOf(t model.Type) Style {
	s := Style{Body.Size, t.Bold, t.Italic, t.Underline, h}
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

// face is what a text is measured with: a font and, where that is the house's,
// the shipped one for the characters it lacks.
type face struct {
	*fonts.Metrics
	behind *fonts.Metrics
}

func (s Style) face() face {
	i := fonts.CutOf(s.Bold, s.Italic)
	if s.House[i] != nil {
		return face{s.House[i], shipped[i]}
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
	pieces  []piece
	longest int // the widest piece, in font units
}

var plain = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\t", " ")

// prepare finds the places at which UAX #14 allows or demands a break.
func prepare(text string, f face) *prepared {
	p := &prepared{text: plain.Replace(text), face: f}
	state, rest, at := -1, p.text, 0
	for len(rest) > 0 {
		var segment string
		var must bool
		segment, rest, must, state = uniseg.FirstLineSegmentInString(rest, state)
		words := strings.TrimRight(segment, " \n")
		c := piece{from: at, words: at + len(words), to: at + len(segment), units: f.units(words)}
		c.must = must && strings.HasSuffix(segment, "\n")
		c.space = f.units(strings.TrimRight(segment[len(words):], "\n"))
		p.pieces = append(p.pieces, c)
		p.longest = max(p.longest, c.units)
		at += len(segment)
	}
	return p
}

// wrap breaks the text into lines of at most width(i); see Wrap.
func (p *prepared) wrap(lines []Line, size, limit int, whole bool, width func(i int) int) ([]Line, bool) {
	f := p.face
	from, end := 0, 0 // the line so far, its words
	units, space := 0, 0
	first, open := true, false
	flush := func() bool {
		lines = append(lines, Line{p.text[from:end], f.scaled(units, size), first})
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
			n, head := f.split(p.text[c.from:c.words], size, width(len(lines)))
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
func (f face) split(word string, size, width int) (n, units int) {
	state, rest := -1, word
	for len(rest) > 0 {
		var cluster string
		cluster, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		more := units + f.units(cluster)
		if f.scaled(more, size) > width {
			break
		}
		n, units = len(word)-len(rest), more
	}
	return n, units
}

// Wrap breaks text into lines at the places UAX #14 allows; width says how
// much room line i has. A word wider than its line is broken between
// characters. It reports false when a line has no room even for one character
// or there would be more than limit lines (0 for no limit).
func Wrap(text string, s Style, limit int, width func(i int) int) ([]Line, bool) {
	return prepare(text, s.face()).wrap(nil, s.Size, limit, false, width)
}
