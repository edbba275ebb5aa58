package processes

import (
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Atlas is a map of many sheets, each with so many symbols in rows of ten, every fifth a decision with two answers, in
// a flow that goes on from sheet to sheet by references.
func Atlas(sheets, symbols int) *model.Map {
	const px = geometry.Px
	m := model.New("Atlas", model.Rightwards, "A3", true)
	m.Sheets = nil
	for k := range sheets {
		s := model.New("", model.Rightwards, "A3", true).Sheets[0]
		s.ID, s.Name = fmt.Sprint("sheet-", k), fmt.Sprint("Part ", k+1)
		add := func(i int, kind model.Kind, text string) {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprintf("s%d-%d", k, i), Kind: kind, Text: text,
				Box: geometry.Box{X: (40 + i%10*150) * px, Y: (40 + i/10*140) * px, W: 110 * px, H: 80 * px}})
		}
		link := func(from, to int, text string) {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprintf("k%d-%d", k, len(s.Connectors)),
				Text: text,
				From: model.End{Symbol: fmt.Sprintf("s%d-%d", k, from)},
				To:   model.End{Symbol: fmt.Sprintf("s%d-%d", k, to)}})
		}
		for i := range symbols {
			switch {
			case i == 0 && k == 0, i == symbols-1 && k == sheets-1:
				add(i, model.Terminator, fmt.Sprint("Ends ", i))
			case i == 0:
				add(i, model.SheetReference, fmt.Sprint("R", k))
			case i == symbols-1:
				add(i, model.SheetReference, fmt.Sprint("R", k+1))
			case i%5 == 3:
				add(i, model.Decision, fmt.Sprintf("Case %d?", i))
			default:
				add(i, model.Process, fmt.Sprintf("Handle case %d", i))
			}
		}
		for i := range symbols - 1 {
			if i%5 == 3 && i+6 < symbols {
				link(i, i+1, "Yes")
				link(i, i+6, "No")
			} else {
				link(i, i+1, "")
			}
		}
		m.Sheets = append(m.Sheets, s)
	}
	return m
}
