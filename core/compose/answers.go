package compose

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// NextAnswer returns the first answer no exit of a decision carries yet; for
// any other symbol none.
func (w *Work) NextAnswer(from string) string {
	sym := w.Sheet.Symbol(from)
	if sym == nil || !sym.Kind.Asks() {
		return ""
	}
	for _, a := range w.Map.Answers {
		taken := slices.ContainsFunc(w.Sheet.Connectors, func(c *model.Connector) bool {
			return c.From.Symbol == from && c.Text == a
		})
		if !taken {
			return a
		}
	}
	return ""
}

// Answered gives the exits that a step has when it becomes a decision the answers none of them
// carries, in their order.
func (w *Work) Answered(id string) []edit.Edit {
	var open []string
	used := map[string]bool{}
	for _, c := range w.Sheet.Connectors {
		if to := w.Sheet.Symbol(c.To.Symbol); c.From.Symbol != id || to != nil && to.Kind.IsAside() {
			continue
		}
		if used[c.Text] = true; c.Text == "" {
			open = append(open, c.ID)
		}
	}
	var edits []edit.Edit
	for _, answer := range w.Map.Answers {
		if len(open) > 0 && !used[answer] {
			edits = append(edits, &edit.SetText{Sheet: w.Sheet.ID, ID: open[0], Text: answer})
			open = open[1:]
		}
	}
	return edits
}

// Letter returns the Letter a new reference takes: that of a reference still
// without a partner where it would complete the pair, else the next free one.
func (w *Work) Letter(kind model.Kind) string {
	if !kind.IsReference() {
		return ""
	}
	used := map[string]bool{}
	for _, s := range w.Map.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kind.IsReference() {
				used[sym.Text] = true
			}
		}
	}
	for _, s := range w.Map.Sheets {
		for _, sym := range s.Symbols {
			// A pair of sheet references spans two sheets, a plain pair one.
			if sym.Kind != kind || sym.Text == "" || (s.ID == w.Sheet.ID) == (kind.LeadsAcross()) {
				continue
			}
			if _, partner := w.Map.Partner(sym); partner == nil {
				return sym.Text
			}
		}
	}
	for i := 0; ; i++ {
		name := string(rune('A' + i%26))
		if i >= 26 {
			name = string(rune('A'+i/26-1)) + name
		}
		if !used[name] {
			return name
		}
	}
}
