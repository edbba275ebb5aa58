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

// CardBack returns the edit that brings the branch of a card back from the sheet of its own to which the card leads:
// all that stand there come under it, in their order, and the sheet goes.
func (w *Work) CardBack(card *model.Symbol) (edit.Edit, error) {
	own := w.ownSheet(card)
	if own == nil {
		return nil, Refusal("This card has no sheet of its own that leads back to it.")
	}
	s, heads := w.Sheet, map[string]bool{}
	for _, head := range own.Tree().Below("") {
		heads[head.ID] = linkedTo(head, card.ID)
	}
	add := &edit.AddItems{Sheet: s.ID}
	rank := 0
	for _, below := range s.Tree().Below(card.ID) {
		rank = max(rank, below.Rank)
	}
	for _, c := range own.Tree().Order() {
		if heads[c.ID] {
			continue
		}
		if c.Locked {
			return nil, Refusal("A card of the branch is locked; unlock it first.")
		}
		c = c.Clone()
		if up := own.Tree().Superior(c.ID); up == nil || heads[up.ID] {
			rank += model.RankStep
			c.Under, c.Rank = card.ID, rank
		}
		add.Symbols = append(add.Symbols, *c)
	}
	for _, sym := range own.Symbols { // what stands beside the cards comes along
		if !own.IsCard(sym) {
			add.Symbols = append(add.Symbols, *sym.Clone())
		}
	}
	for _, line := range own.Connectors {
		if !heads[line.From.Symbol] && !heads[line.To.Symbol] {
			add.Connectors = append(add.Connectors, *line.Clone())
		}
	}
	links := slices.DeleteFunc(slices.Clone(card.Links), func(l model.Hyperlink) bool { return l.To == "#"+own.ID })
	return edit.Together("bring the branch back", &edit.RemoveSheet{Sheet: own.ID}, add,
		&edit.SetLinks{Sheet: s.ID, ID: card.ID, Links: links}), nil
}

// ownSheet returns the sheet to which a card leads and whose head leads back to it; nil for none.
func (w *Work) ownSheet(card *model.Symbol) *model.Sheet {
	for _, l := range card.Links {
		id, inside := strings.CutPrefix(l.To, "#")
		if own := w.Map.Sheet(id); inside && own != nil && own.Kind == model.HierarchySheet && own != w.Sheet {
			if slices.ContainsFunc(own.Tree().Below(""), func(c *model.Symbol) bool { return linkedTo(c, card.ID) }) {
				return own
			}
		}
	}
	return nil
}

func linkedTo(sym *model.Symbol, id string) bool {
	return slices.ContainsFunc(sym.Links, func(l model.Hyperlink) bool { return l.To == "#"+id })
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
