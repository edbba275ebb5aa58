package compose

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/spread"
)

// CardSheet returns the edit that gives the branches of cards sheets of their own: those under each card go to a new
// sheet, under a copy of the card, and the two cards lead to each other by links.
func (w *Work) CardSheet(cards []*model.Symbol) (edit.Edit, error) {
	s := w.Sheet
	tree := s.Tree()
	var edits []edit.Edit
	at := slices.Index(w.Map.Sheets, s) + 1
	moved := map[string]bool{}
	for _, card := range cards {
		branch := tree.Branch(card.ID)
		if moved[card.ID] || len(branch) < 2 {
			continue
		}
		next := spread.Like(s, w.sheetName(card.CardTitle()), w.NewID)
		head := card.Clone()
		head.ID, head.Under, head.Folded, head.Assistant = w.NewID(), "", false, false
		head.Links = append(slices.Clone(head.Links), model.Hyperlink{To: "#" + card.ID})
		next.Symbols = append(next.Symbols, head)
		ids := map[string]bool{}
		for _, sub := range branch[1:] {
			if sub.Locked {
				return nil, Refusal("A card of the branch is locked; unlock it first.")
			}
			c := sub.Clone()
			if c.Under == card.ID {
				c.Under = head.ID
			}
			next.Symbols = append(next.Symbols, c)
			ids[sub.ID], moved[sub.ID] = true, true
		}
		for _, line := range s.Connectors {
			if ids[line.From.Symbol] && ids[line.To.Symbol] {
				next.Connectors = append(next.Connectors, line.Clone())
			}
		}
		edits = append(edits, &edit.RemoveItems{Sheet: s.ID, IDs: model.IDsOf(branch[1:])},
			&edit.AddSheet{At: at, Sheet: *next},
			&edit.SetLinks{Sheet: s.ID, ID: card.ID, Links: append(slices.Clone(card.Links),
				model.Hyperlink{To: "#" + next.ID})})
		at++
	}
	if len(edits) == 0 {
		return nil, Refusal("Nobody stands under this card.")
	}
	return edit.Together("give the branch a sheet of its own", edits...), nil
}

// Acts are the steps that somebody on a card does: those whose owner or lane is called by the name or the role of the
// card, or by a line of a team, in their order.
func Acts(m *model.Map, card *model.Symbol) (list []numbering.Step) {
	called := map[string]bool{}
	for _, line := range strings.Split(card.Text, "\n") {
		if line = strings.ToLower(model.Flat(line)); line != "" {
			called[line] = true
		}
	}
	for _, step := range numbering.Of(flow.New(m)) {
		if called[strings.ToLower(model.Flat(step.Sheet.OwnerOf(step.Symbol)))] {
			list = append(list, step)
		}
	}
	return list
}
