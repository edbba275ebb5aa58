package compose

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// A newer table of people beside the hierarchy that an earlier one has made.

// matched is a table of people beside the cards of a sheet.
type matched struct {
	w *Work
	*crew
	// cards are those of the people, nil for whoever is new; left are the cards of which the table says nothing.
	cards []*model.Symbol
	left  []*model.Symbol
}

// match finds the cards of the people: by id, else by name where that is the name of one card.
func (w *Work) match(c *crew) *matched {
	m := &matched{w: w, crew: c, cards: make([]*model.Symbol, len(c.people))}
	tree := w.Sheet.Tree()
	used := map[string]bool{}
	byName := map[string][]*model.Symbol{}
	for _, card := range tree.Order() {
		name, role := card.CardName()
		byName[strings.ToLower(name+"\n"+role)] = append(byName[strings.ToLower(name+"\n"+role)], card)
		if name != "" {
			byName[strings.ToLower(name)] = append(byName[strings.ToLower(name)], card)
		}
	}
	for _, find := range []func(p *person) []*model.Symbol{
		func(p *person) []*model.Symbol {
			for _, id := range [...]string{p.key, keyed + p.key} {
				if card := tree.Card(id); card != nil && p.key != "" {
					return []*model.Symbol{card}
				}
			}
			return nil
		},
		func(p *person) []*model.Symbol { return byName[strings.ToLower(p.name+"\n"+p.role)] },
		func(p *person) []*model.Symbol { return byName[strings.ToLower(p.name)] },
	} {
		for i := range c.people {
			if m.cards[i] != nil {
				continue
			}
			list := slices.DeleteFunc(slices.Clone(find(&c.people[i])),
				func(s *model.Symbol) bool { return used[s.ID] })
			if len(list) == 1 {
				m.cards[i], used[list[0].ID] = list[0], true
			}
		}
	}
	for _, card := range tree.Order() {
		if !used[card.ID] {
			m.left = append(m.left, card)
		}
	}
	return m
}

// differs reports how the row of a person differs from the card: by another superior, and in anything else.
func (m *matched) differs(i int, fields []model.Field) (moved bool, rest []string) {
	p, card := &m.people[i], m.cards[i]
	up := ""
	if p.under >= 0 {
		if sup := m.cards[p.under]; sup != nil {
			up = sup.ID
		} else {
			up = "a new one"
		}
	}
	if card.Text != p.text() {
		rest = append(rest, "text")
	}
	if card.Post != p.post || card.Assistant != p.assistant {
		rest = append(rest, "post")
	}
	for k, f := range fields {
		if f.ID != "" && card.Value(f.ID) != p.value(k, f) {
			rest = append(rest, f.Name)
		}
	}
	return card.Under != up, rest
}

// tell completes the plan with what becomes of the sheet.
func (m *matched) tell() {
	_, fields := m.w.fieldsFor(m.crew)
	for i := range m.people {
		if m.cards[i] == nil {
			m.plan.Came = append(m.plan.Came, m.people[i].called())
			continue
		}
		moved, rest := m.differs(i, fields)
		if moved {
			to := "the head"
			if up := m.people[i].under; up >= 0 {
				to = m.people[up].called()
			}
			m.plan.Moved = append(m.plan.Moved, m.cards[i].CardTitle()+" to "+to)
		}
		if len(rest) > 0 {
			m.plan.Changed = append(m.plan.Changed, m.cards[i].CardTitle()+": "+strings.Join(rest, ", "))
		}
	}
	for _, card := range m.left {
		m.plan.Left = append(m.plan.Left, card.CardTitle())
	}
}

// edit returns the edit that brings the sheet to what the table says. Cards that stay keep their places.
func (m *matched) edit() (edit.Edit, error) {
	w, s := m.w, m.w.Sheet
	edits, fields := w.fieldsFor(m.crew)
	edits = append(edits, w.facesFor(m.crew)...)
	ids := make([]string, len(m.people))
	add := &edit.AddItems{Sheet: s.ID}
	for i := range m.people {
		if m.cards[i] != nil {
			ids[i] = m.cards[i].ID
			continue
		}
		p := &m.people[i]
		ids[i] = w.cardID(p, ids[:i])
		sym := m.card(i, ids[i], fields)
		w.size(sym)
		add.Symbols = append(add.Symbols, *sym)
	}
	if len(add.Symbols) > 0 {
		edits = append(edits, add)
	}
	// First all that move or are new go to the head, so that no two can be in each other's way.
	under := func(i int) string {
		if up := m.people[i].under; up >= 0 {
			return ids[up]
		}
		return ""
	}
	var off, later []edit.Edit
	for i := range m.people {
		card := m.cards[i]
		if card == nil {
			if under(i) != "" {
				later = append(later, &edit.HangCards{Sheet: s.ID, IDs: []string{ids[i]}, Under: under(i)})
			}
			continue
		}
		moved, _ := m.differs(i, fields)
		if moved {
			if card.Under != "" {
				off = append(off, &edit.HangCards{Sheet: s.ID, IDs: []string{card.ID}})
			}
			if under(i) != "" {
				later = append(later, &edit.HangCards{Sheet: s.ID, IDs: []string{card.ID}, Under: under(i)})
			}
		}
		p := &m.people[i]
		if write, _ := w.Write(card, p.text()); write != nil {
			edits = append(edits, write)
		}
		if card.Post != p.post || card.Assistant != p.assistant {
			edits = append(edits, &edit.SetCards{Sheet: s.ID, IDs: []string{card.ID}, Post: &p.post,
				Assistant: &p.assistant})
		}
		if face, ok := m.face(p); ok && card.Picture != face.ID {
			edits = append(edits, &edit.SetStyle{Sheet: s.ID, IDs: []string{card.ID}, Picture: &face.ID})
		}
		for k, f := range fields {
			if v := p.value(k, f); f.ID != "" && card.Value(f.ID) != v {
				edits = append(edits, &edit.SetValue{Sheet: s.ID, ID: card.ID, Field: f.ID, Text: v})
			}
		}
	}
	edits = append(append(edits, off...), later...)
	if len(m.left) > 0 {
		edits = append(edits, &edit.RemoveItems{Sheet: s.ID, IDs: model.IDsOf(m.left)})
	}
	if len(edits) == 0 {
		return nil, Refusal("The table says nothing new.")
	}
	return edit.Together(FromTable, edits...), nil
}
