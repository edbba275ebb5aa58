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
			var lines []string
			for _, id := range m.Shown {
				if field := m.Field(id); field != nil {
					if text := strings.Join(strings.Fields(m.Show(field, sym)), " "); text != "" {
						lines = append(lines, text)
					}
				}
			}
			if len(lines) > 0 {
				f.Values[sym.ID] = strings.Join(lines, "\n")
			}
			if by != nil {
				if fill, ok := fills[sym.Value(by.ID)]; ok {
					f.Fills[sym.ID] = fill
				}
			}
		}
	}
}

// leastValue is the smallest type in which a value is set under a symbol.
const leastValue = 7 * px

// values adds the lines under a symbol, in its middle; what meets the symbol from below ends under them.
func (n *Node) values(sym *model.Symbol, x *Extra, l *looks.Look, house typeset.House) {
	if x.Values == "" {
		return
	}
	st := typeset.Style{Size: captionSize, Fonts: house.Own}
	room := sym.W + 16*px
	y := sym.H + 2*px
	for _, line := range strings.Split(x.Values, "\n") {
		st := st
		for st.Size > leastValue && typeset.Measure(line, st) > room { // smaller before anything is left out
			st.Size -= px / 2
		}
		n.Texts = append(n.Texts, Text{X: sym.W / 2, Y: y + st.Baseline(), Anchor: typeset.Middle, Style: st,
			Fill: l.Soft,
			Text: clipped(line, st, room)})
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
