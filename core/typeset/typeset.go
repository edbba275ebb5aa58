// Package typeset measures text with the shipped typeface's own metrics,
// breaks it into lines, and fits it into the outline of a symbol.
//
// Widths are the sum of unkerned advances, which is what a browser draws when
// kerning and ligatures are off. Lengths are in hundredths of a CSS pixel.
package typeset

import (
	"sort"
	"strings"

	"github.com/rivo/uniseg"

	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// Style is how a text is set.
type Style struct {
	// Size is the type size.
	Size int
	Bold bool
}

// Body is the style symbols are written in: 13 px, which is 9.75 pt on paper.
var Body = Style{Size: 13 * geometry.Px}

// LineHeight returns the distance between two baselines.
func (s Style) LineHeight() int { return s.Size * 13 / 10 }

// Baseline returns how far the baseline lies below the top of a line: the
// ascender and descender of the face centred in the line height.
func (s Style) Baseline() int {
	f := s.face()
	return (s.LineHeight() + (f.ascent-f.descent)*s.Size/f.unitsPerEm) / 2
}

func (s Style) face() *face {
	if s.Bold {
		return &semibold
	}
	return &regular
}

type run struct {
	first    rune
	advances []uint16
}

type face struct {
	unitsPerEm, ascent, descent int
	runs                        []run
}

// advance returns the width of r in font units. A character the face lacks is
// drawn by a font of the system; its width is taken generously.
func (f *face) advance(r rune) int {
	if r < 0x7f && r >= 0x20 { // the first run begins at the space
		return int(f.runs[0].advances[r-0x20])
	}
	i := sort.Search(len(f.runs), func(i int) bool { return f.runs[i].first > r }) - 1
	if i >= 0 {
		if k := int(r - f.runs[i].first); k < len(f.runs[i].advances) {
			return int(f.runs[i].advances[k])
		}
	}
	return f.unitsPerEm * 11 / 10
}

// Has reports whether the shipped typeface can draw r.
func Has(r rune) bool {
	i := sort.Search(len(regular.runs), func(i int) bool { return regular.runs[i].first > r }) - 1
	return i >= 0 && int(r-regular.runs[i].first) < len(regular.runs[i].advances)
}

// Measure returns the width of a line of text, rounded up.
func Measure(text string, s Style) int {
	f := s.face()
	n := 0
	for _, r := range text {
		n += f.advance(r)
	}
	return (n*s.Size + f.unitsPerEm - 1) / f.unitsPerEm
}

// Line is one line of set text: its words without the space at the end, and
// their width.
type Line struct {
	Text  string
	Width int
}

// Wrap breaks text into lines at the places UAX #14 allows; width says how
// much room line i has. A word wider than its line is broken between
// characters. It reports false when a line has no room even for one character
// or there would be more than limit lines (0 for no limit).
func Wrap(text string, s Style, limit int, width func(i int) int) ([]Line, bool) {
	var lines []Line
	var line strings.Builder
	used := 0 // width of line, spaces at its end included
	flush := func() bool {
		words := strings.TrimRight(line.String(), " \t\n\r")
		lines = append(lines, Line{words, Measure(words, s)})
		line.Reset()
		used = 0
		return limit == 0 || len(lines) <= limit
	}
	state := -1
	for len(text) > 0 {
		var segment string
		var must bool
		segment, text, must, state = uniseg.FirstLineSegmentInString(text, state)
		segment = strings.ReplaceAll(segment, "\t", " ")
		words := strings.TrimRight(segment, " \n\r")
		need := Measure(words, s)
		if used > 0 && used+need > width(len(lines)) {
			if !flush() {
				return lines, false
			}
		}
		for need > width(len(lines)) {
			head, rest := split(words, s, width(len(lines)))
			if head == "" {
				return lines, false
			}
			line.WriteString(head)
			if !flush() {
				return lines, false
			}
			segment, words = segment[len(head):], rest
			need = Measure(words, s)
		}
		ended := must && strings.HasSuffix(segment, "\n")
		line.WriteString(strings.TrimRight(segment, "\r\n"))
		used += Measure(strings.TrimRight(segment, "\r\n"), s)
		if ended && !flush() {
			return lines, false
		}
	}
	if line.Len() > 0 || len(lines) == 0 {
		if !flush() {
			return lines, false
		}
	}
	return lines, true
}

// split cuts off as many whole characters as fit the width.
func split(word string, s Style, width int) (head, rest string) {
	state, rest := -1, word
	for len(rest) > 0 {
		var cluster, after string
		cluster, after, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		end := len(word) - len(rest) + len(cluster)
		if Measure(word[:end], s) > width {
			break
		}
		head, rest = word[:end], after
	}
	return head, rest
}

// Placed is a line with its place: CX is the middle, Top the upper edge.
type Placed struct {
	Line
	CX, Top int
}

// Fit sets text into an area, centred both ways, and reports whether it fits.
// Where it does not, the lines are still returned, running over.
func Fit(text string, s Style, area symbols.TextArea) ([]Placed, bool) {
	if text == "" {
		return nil, true
	}
	lh := s.LineHeight()
	room := (area.Bottom - area.Top) / lh
	for n := 1; n <= max(room, 1); n++ {
		top := (area.Top + area.Bottom - n*lh) / 2
		lines, ok := Wrap(text, s, n, func(i int) int {
			return 2 * area.Half(top+i*lh, top+(i+1)*lh)
		})
		if ok && len(lines) <= n {
			if len(lines) < n {
				continue // fewer lines lie elsewhere in the outline
			}
			return place(lines, lh, area), room >= n
		}
	}
	// One more try for outlines in which a count was skipped: the widths at
	// the middle are the largest, so the fewest lines come first.
	lines, _ := Wrap(text, s, 0, func(int) int {
		return max(2*area.Half((area.Top+area.Bottom-lh)/2, (area.Top+area.Bottom+lh)/2), 2*s.Size)
	})
	return place(lines, lh, area), false
}

func place(lines []Line, lh int, area symbols.TextArea) []Placed {
	top := (area.Top + area.Bottom - len(lines)*lh) / 2
	out := make([]Placed, len(lines))
	for i, l := range lines {
		out[i] = Placed{l, area.CX, top + i*lh}
	}
	return out
}

// Grow returns the smallest size, at least w by h, at which the symbol holds
// the text. It grows by the symbol's own steps; words are kept whole as long
// as the symbol is not wider than three times its standard width.
func Grow(sym *symbols.Symbol, text string, s Style, w, h int) (int, int) {
	longest := longestWord(text, s)
	for range 2000 {
		area := sym.Text(w, h)
		lines, ok := Fit(text, s, area)
		if ok && (w >= 3*sym.W || !brokenWord(lines, longest, area, s)) {
			return w, h
		}
		switch {
		case sym.Step.X > 0:
			w, h = w+sym.Step.X, h+sym.Step.Y
		case 2*area.Half(h/2, h/2) < longest && w < 3*sym.W || h >= w:
			w += 10 * geometry.Px
		default:
			h += sym.Step.Y
		}
	}
	return w, h
}

// brokenWord reports whether the longest word can only have been set broken.
func brokenWord(lines []Placed, longest int, area symbols.TextArea, s Style) bool {
	for _, l := range lines {
		if 2*area.Half(l.Top, l.Top+s.LineHeight()) >= longest && l.Width >= longest {
			return false
		}
	}
	return longest > 0
}

func longestWord(text string, s Style) int {
	longest, state := 0, -1
	for len(text) > 0 {
		var segment string
		segment, text, _, state = uniseg.FirstLineSegmentInString(text, state)
		longest = max(longest, Measure(strings.TrimRight(segment, " \t\r\n"), s))
	}
	return longest
}
