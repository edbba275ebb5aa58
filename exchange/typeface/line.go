package typeface

import (
	"fmt"
	"unicode"

	"golang.org/x/text/unicode/bidi"

	"plaintracer/core/geometry"
	"plaintracer/core/typeset"
	"plaintracer/exchange/fontfile"
)

// Glyph is one glyph of a line of text. Lengths are in type sizes.
type Glyph struct {
	Font *fontfile.File
	ID   uint16
	// X and Y say where its origin stands, from the beginning of the line's baseline, y growing upwards.
	X, Y, Advance float64
	// Text are the characters it stands for; empty where the glyph before it stands for them as well.
	Text string
}

// Line is a line of text as glyphs, from left to right.
type Line struct {
	Glyphs []Glyph
	// Width is its length, in type sizes.
	Width float64
	// Missing are the characters that no font has.
	Missing []rune
	// Foreign says that fonts of the machine are among those of its glyphs.
	Foreign bool
}

// A line under a text lies so far below its baseline, and is so thick, in type sizes.
const (
	UnderlineBelow = 0.12
	UnderlineThick = 0.06
)

// Begin returns where the line begins beside its anchor, in type sizes.
func (l *Line) Begin(a typeset.Anchor) float64 {
	switch a {
	case typeset.Middle:
		return -l.Width / 2
	case typeset.End:
		return -l.Width
	}
	return 0
}

// Line sets a line of text. Characters that neither the organisation's fonts nor the shipped typeface have are set with
// fonts of the machine, shaped where their script needs it; the order of characters is that of UAX #9.
func (s *Set) Line(text string, style typeset.Style) (*Line, error) {
	out := &Line{}
	cut := CutOf(&style)
	large := style
	large.Size = 1000 * geometry.Px
	runs, err := directed(text)
	if err != nil {
		return nil, err
	}
	for _, run := range runs {
		pieces := s.pieces(cut, run.text)
		for i := range pieces {
			p := &pieces[i]
			if run.leftwards {
				p = &pieces[len(pieces)-1-i]
			}
			if p.own {
				if err := s.setOwn(out, cut, large, run.text[p.from:p.to], run.leftwards); err != nil {
					return nil, err
				}
				continue
			}
			if err := s.setForeign(out, cut, run.text, p.from, p.to, run.leftwards); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// part is a part of a line that is read in one direction.
type part struct {
	text      []rune
	leftwards bool
}

// directed takes a line apart by direction, from left to right as it is seen.
func directed(text string) ([]part, error) {
	plain := true
	for _, r := range text {
		plain = plain && r < 0x590 // nothing before is written leftwards
	}
	if plain {
		return []part{{[]rune(text), false}}, nil
	}
	var p bidi.Paragraph
	if _, err := p.SetString(text); err != nil {
		return nil, fmt.Errorf("ordering %q: %w", text, err)
	}
	order, err := p.Order()
	if err != nil {
		return nil, fmt.Errorf("ordering %q: %w", text, err)
	}
	var out []part
	for i := range order.NumRuns() {
		run := order.Run(i)
		out = append(out, part{[]rune(run.String()), run.Direction() == bidi.RightToLeft})
	}
	return out, nil
}

// piece is a stretch of text that is set with our own fonts, or with others.
type piece struct {
	from, to int
	own      bool
}

// pieces takes text apart by who has its characters. Marks, joiners and spaces stay with what comes before them.
func (s *Set) pieces(cut Cut, text []rune) []piece {
	var out []piece
	for i, r := range text {
		own := s.has(cut, r)
		if n := len(out); n > 0 && !out[n-1].own && (unicode.Is(unicode.Mn, r) || unicode.Is(unicode.Me, r) ||
			unicode.Is(unicode.Cf, r)) {
			own = false
		}
		if n := len(out); n > 0 && out[n-1].own == own {
			out[n-1].to = i + 1
			continue
		}
		out = append(out, piece{i, i + 1, own})
	}
	// A space between two stretches of a foreign script belongs to both.
	for i := 1; i+1 < len(out); i++ {
		if out[i].own && !out[i-1].own && !out[i+1].own && spaces(text[out[i].from:out[i].to]) {
			out[i-1].to = out[i+1].to
			out = append(out[:i], out[i+2:]...)
			i--
		}
	}
	return out
}

func spaces(text []rune) bool {
	for _, r := range text {
		if r != ' ' && r != 0xA0 {
			return false
		}
	}
	return true
}

func (s *Set) has(cut Cut, r rune) bool {
	f, err := s.Draws(cut, r)
	return err == nil && f.Has(r)
}

// setOwn sets characters of our own fonts, each as far as the core measures it.
func (s *Set) setOwn(out *Line, cut Cut, large typeset.Style, text []rune, leftwards bool) error {
	for i := range text {
		r := text[i]
		if leftwards {
			r = text[len(text)-1-i]
		}
		f, err := s.Draws(cut, r)
		if err != nil {
			return err
		}
		advance := float64(typeset.Measure(string(r), large)) / geometry.Px / 1000
		out.Glyphs = append(out.Glyphs, Glyph{Font: f, ID: f.GlyphID(r), X: out.Width, Advance: advance,
			Text: string(r)})
		out.Width += advance
	}
	return nil
}

// setForeign sets a part of a text with fonts of the machine. Neighbouring characters of one font are shaped together.
func (s *Set) setForeign(out *Line, cut Cut, text []rune, from, to int, leftwards bool) error {
	type stretch struct {
		from, to int
		font     *foreign
	}
	var list []stretch
	for i := from; i < to; i++ {
		f := system.draws(text[i], cut)
		if n := len(list); n > 0 {
			before := &list[n-1]
			if f == before.font || before.font != nil && before.font.has(text[i]) {
				before.to = i + 1
				continue
			}
		}
		list = append(list, stretch{i, i + 1, f})
	}
	for i := range list {
		p := list[i]
		if leftwards {
			p = list[len(list)-1-i]
		}
		if p.font != nil {
			out.Foreign = true
			out.add(p.font.shape(text, p.from, p.to, leftwards))
			continue
		}
		blank, err := Shipped(cut)
		if err != nil {
			return err
		}
		const replacement = '\uFFFD' // which says that something is missing
		for _, r := range text[p.from:p.to] {
			if unicode.Is(unicode.Cf, r) {
				continue
			}
			id := blank.GlyphID(replacement)
			advance := float64(blank.Advance(id)) / float64(blank.UnitsPerEm())
			out.Glyphs = append(out.Glyphs, Glyph{Font: blank, ID: id, X: out.Width, Advance: advance, Text: string(r)})
			out.Width += advance
			out.Missing = append(out.Missing, r)
		}
	}
	return nil
}

// add puts glyphs, whose places are those from their own beginning, at the end of the line.
func (l *Line) add(glyphs []Glyph, width float64) {
	for _, g := range glyphs {
		g.X += l.Width
		l.Glyphs = append(l.Glyphs, g)
	}
	l.Width += width
}
