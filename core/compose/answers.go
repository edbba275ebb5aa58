package compose

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/spread"
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
	return spread.LettersOf(w.Map).Next()
}

// reletter gives copied references another letter where with their own they would not tell any more which half leads
// on: where both halves of a pair were copied, or one from which the flow goes on while there is such a one already. A
// copy of a half that leads over keeps its letter, and leads to the same place.
func (w *Work) reletter(copies []*model.Symbol, leadsOn func(id string) bool) {
	type pair struct {
		kind   model.Kind
		letter string
	}
	several, on := map[pair]int{}, map[pair]bool{}
	for _, sym := range copies {
		if sym.Kind.IsReference() && sym.Text != "" {
			p := pair{sym.Kind, sym.Text}
			several[p]++
			on[p] = on[p] || leadsOn(sym.ID)
		}
	}
	if len(several) == 0 {
		return
	}
	there, thereOn := map[pair]bool{}, map[pair]bool{}
	for _, s := range w.Map.Sheets {
		for _, sym := range s.Symbols {
			if p := (pair{sym.Kind, sym.Text}); several[p] > 0 {
				there[p], thereOn[p] = true, thereOn[p] || s.LeadsOn(sym.ID)
			}
		}
	}
	letters, renamed := spread.LettersOf(w.Map), map[pair]string{}
	for _, sym := range copies {
		p := pair{sym.Kind, sym.Text}
		if !there[p] || several[p] < 2 && !(on[p] && thereOn[p]) {
			continue
		}
		if renamed[p] == "" {
			renamed[p] = letters.Next()
		}
		sym.Text = renamed[p]
	}
}
