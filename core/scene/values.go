package scene

import (
	"strings"

	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/typeset"
)

// knowFields gathers what the drawing shows of the map's own fields.
func (f *Facts) knowFields(m *model.Map) {
	by := m.Field(m.ColourBy)
	if by == nil && len(m.Shown) == 0 {
		return
	}
	f.Values, f.Fills = map[string]string{}, map[string]string{}
	fills := map[string]string{}
	for _, k := range m.ColourKey() {
		f.Colours += k.Fill + "\t" + k.Value + "\n"
		fills[k.Value] = k.Fill
	}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if text := m.Shows(sym); text != "" {
				f.Values[sym.ID] = text
			}
			if by != nil {
				if fill, ok := fills[sym.Value(by.ID)]; ok {
					f.Fills[sym.ID] = fill
				}
			}
		}
	}
}

// values adds the lines of values under a symbol, in its middle; what meets the symbol from below ends under them.
func (n *Node) values(sym *model.Symbol, x *Extra, l *looks.Look, house typeset.House) {
	n.valueLines(x, typeset.ValuesIn(sym, sym.W, false), sym.H+2*px, l.Soft, house)
}

// valuesInside adds them between the foot of the card's own text and its lower edge.
func (n *Node) valuesInside(sym *model.Symbol, x *Extra, colour string, house typeset.House) {
	y := sym.H - 4*px
	if x.Cell.Row != "" { // a cell holds them
		y = sym.H - model.ValueLine*linesOf(x.Values) - 2*px
	}
	n.valueLines(x, typeset.ValuesIn(sym, sym.W, true), y, colour, house)
}

func (n *Node) valueLines(x *Extra, at typeset.ValuePlace, y int, colour string, house typeset.House) {
	if x.Values == "" {
		return
	}
	st := house.Plain(typeset.ValueSize)
	for line := range strings.SplitSeq(x.Values, "\n") {
		n.Texts = append(n.Texts, Text{X: at.X, Y: y + st.Baseline(), Anchor: at.Anchor, Style: st, Fill: colour,
			Text: line})
		y += model.ValueLine
	}
}

// clipped cuts a line to a width, with an ellipsis where something is left out.
func clipped(line string, st typeset.Style, width int) string {
	if typeset.Measure(line, st) <= width {
		return line
	}
	r := []rune(line)
	for len(r) > 1 && typeset.Measure(string(r)+"…", st) > width {
		r = r[:len(r)-1]
	}
	return strings.TrimSpace(string(r)) + "…"
}
