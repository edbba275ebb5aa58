package typeset

import (
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// ValueSize is the size in which the values of the map's fields stand under symbols, or inside them.
const ValueSize = 11 * geometry.Px

// ValuePlace is where the lines of the values of a symbol stand: the x of their anchor from the corner of the symbol,
// and how wide they may be.
type ValuePlace struct {
	X, Room int
	Anchor  Anchor
}

// ValuesIn returns the place of the values of a symbol of a width: those of cards and cells stand inside, those of
// others may be a little wider than the symbol.
func ValuesIn(sym *model.Symbol, w int, inside bool) ValuePlace {
	const edge = 6 * geometry.Px
	switch {
	case !inside:
		return ValuePlace{w / 2, w + 16*geometry.Px, Middle}
	case sym.Kind == model.PersonCard:
		left := symbols.Portrait(sym.H).Right() + 8*geometry.Px
		return ValuePlace{left, w - left - edge, Start}
	case sym.Row != "":
		left := 8 * geometry.Px
		if sym.Kind == model.ContactCell {
			left += symbols.SignSize + edge
		}
		return ValuePlace{left, w - left - edge, Start}
	}
	return ValuePlace{w / 2, w - 2*edge, Middle}
}

// Values breaks the values of a symbol, one a line, into lines that have room in its place: nothing of them is left
// out.
func (f House) Values(text string, in ValuePlace) string {
	if text == "" {
		return ""
	}
	st := f.Plain(ValueSize)
	room := max(in.Room, 2*ValueSize)
	fits := true
	for line := range strings.SplitSeq(text, "\n") {
		fits = fits && Measure(line, st) <= room
	}
	if fits {
		return text
	}
	var out []string
	for value := range strings.SplitSeq(text, "\n") {
		lines, _ := Wrap(value, st, 0, func(int) int { return room })
		for _, l := range lines {
			out = append(out, l.Text)
		}
	}
	return strings.Join(out, "\n")
}

// countValues counts the lines of the values of a symbol of a width.
func countValues(m *model.Map, sym *model.Symbol, text string, w int, inside bool) int {
	return 1 + strings.Count(HouseOf(m).Values(text, ValuesIn(sym, w, inside)), "\n")
}
