package typeset

import (
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

func init() {
	model.Measure(cellHeight, func(m *model.Map, p *model.Pool) int { return HouseOf(m).Persona(p).Height }, headHeight,
		countValues)
}

// NameSize is the size of the names of lanes, rows and stages, NamePad the room they keep at both ends together.
const (
	NameSize = 13 * geometry.Px
	NamePad  = 8 * geometry.Px
)

// headHeight returns how high the name of a row or a stage of a journey is in a head of a width.
func headHeight(m *model.Map, name string, w int) int {
	if name == "" {
		return 0
	}
	st := Style{Size: NameSize, Bold: true, Fonts: HouseOf(m).Own}
	lines, _ := Wrap(name, st, 0, func(int) int { return max(w-NamePad, 2*st.Size) })
	return len(lines)*st.LineHeight() + NamePad
}

// cellHeight returns how high a symbol in a cell of a journey is for its text at a width: all of it at its full size.
func cellHeight(m *model.Map, sym *model.Symbol, w int) int {
	def, house := symbols.Of(sym.Kind), HouseOf(m)
	s := house.SettingOf(def, looks.For(m, sym).Type(sym.Type))
	const high = 1000 * geometry.Px
	area := def.Text(w, high)
	width := 2*(area.Half(high/2, high/2+s.LineHeight())-s.Margin) - s.indent()
	lines, _ := prepare(sym.Accented(), s.Style).wrap(nil, s.Size, 0, false,
		func(int) int { return max(width, 2*s.Size) })
	return len(lines)*s.LineHeight() + high - (area.Bottom - area.Top) + 2*s.Margin
}

// PersonaText is what is written on the person whose journey it is, from the upper left corner of the journey.
type PersonaText struct {
	// Picture is where the picture stands; empty where there is none.
	Picture     geometry.Box
	Name, Words Block
	// Height is what all of it takes.
	Height int
}

// Persona sets the name and the words of the person of a journey.
func (f House) Persona(p *model.Pool) PersonaText {
	const pad = 10 * geometry.Px
	out := PersonaText{Height: pad}
	if p.Picture != "" {
		out.Picture = geometry.Around(geometry.Point{X: model.PersonaWidth / 2, Y: pad + model.PersonaPicture/2},
			model.PersonaPicture, model.PersonaPicture)
		out.Height += model.PersonaPicture + pad
	}
	write := func(text string, st Style, gap int) Block {
		b := Block{Style: st}
		if text == "" {
			return b
		}
		lines, _ := Wrap(text, st, 0, func(int) int { return model.PersonaWidth - 2*pad })
		for _, l := range lines {
			b.Lines = append(b.Lines, Placed{Line: l, X: pad, Top: out.Height, Anchor: Start})
			out.Height += st.LineHeight()
		}
		out.Height += gap
		return b
	}
	out.Name = write(p.Title, Style{Size: 15 * geometry.Px, Bold: true, Fonts: f.Own}, 4*geometry.Px)
	out.Words = write(p.Words, Style{Size: 12 * geometry.Px, Fonts: f.Own}, pad)
	return out
}
