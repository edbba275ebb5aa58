package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
)

// The edits of hierarchies.

func init() {
	register("hangCards", func(m *model.Map, e *HangCards) string {
		if e.As != "" {
			return e.As
		}
		return "move " + speakCards(len(e.IDs))
	})
	register("setCards", func(_ *model.Map, e *SetCards) string {
		if e.As != "" {
			return e.As
		}
		return "change " + speakCards(len(e.IDs))
	})
	register("setChart", says[*SetChart]("change how the cards stand"))
}

func speakCards(n int) string { return count(n, "a card", "cards") }

// HangCards sets cards, each with its branch, under another card, in their order.
type HangCards struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	// Under is the card they come under; empty for the head. Before is the one there before which they come; empty for
	// behind all.
	Under  string `json:"under,omitempty"`
	Before string `json:"before,omitempty"`
	As     string `json:"as,omitempty"`
}

func (e *HangCards) change(t *transaction) error {
	s, err := t.hierarchy(e.Sheet)
	if err != nil {
		return err
	}
	if e.Under != "" {
		if up := s.Symbol(e.Under); up == nil || !up.Kind.IsCard() {
			return model.Refuse(e.Under, "the card %q is not there any more", e.Under)
		}
	}
	moved := map[string]bool{}
	for _, id := range e.IDs {
		if sym := s.Symbol(id); sym == nil || !sym.Kind.IsCard() {
			return model.Refuse(id, "the card %q is not there any more", id)
		}
		moved[id] = true
	}
	if err := t.spend(len(s.Symbols) * (1 + len(e.IDs)/16)); err != nil {
		return err
	}
	for up, far := e.Under, 0; up != "" && far <= len(s.Symbols); far++ {
		if moved[up] {
			return model.Refuse(up, "a card cannot come under itself or one of those under it")
		}
		c := s.Symbol(up)
		if c == nil {
			break
		}
		up = c.Under
	}
	var there []*model.Symbol
	for _, sym := range s.Symbols {
		if sym.Kind.IsCard() && sym.Under == e.Under && !moved[sym.ID] {
			there = append(there, sym)
		}
	}
	slices.SortStableFunc(there, model.ByRank)
	at := len(there)
	if e.Before != "" {
		if at = slices.IndexFunc(there, func(c *model.Symbol) bool { return c.ID == e.Before }); at < 0 {
			return model.Refuse(e.Before, "the card %q is not there any more", e.Before)
		}
	}
	return t.rank(s, there, at, e.IDs, func(sym *model.Symbol) { sym.Under = e.Under })
}

// rank sets symbols between two of those that are there, each to where seat puts it. Where the ranks of these leave no
// room, all of them get new ones.
func (t *transaction) rank(s *model.Sheet, there []*model.Symbol, at int, ids []string,
	seat func(sym *model.Symbol)) error {
	set := func(id string, rank int) error {
		sym, err := t.editSymbol(s, id)
		if err == nil {
			seat(sym)
			sym.Rank = rank
		}
		return err
	}
	n := len(ids)
	var from, step int
	switch {
	case len(there) == 0:
		from, step = model.RankStep, model.RankStep
	case at == len(there):
		from, step = there[at-1].Rank+model.RankStep, model.RankStep
	case at == 0:
		from, step = there[0].Rank-n*model.RankStep, model.RankStep
	default:
		step = (there[at].Rank - there[at-1].Rank) / (n + 1)
		from = there[at-1].Rank + step
	}
	if far := model.MaxSymbols * 2 * model.RankStep; step > 0 && from > -far && from+n*step < far {
		for i, id := range ids {
			if err := set(id, from+i*step); err != nil {
				return err
			}
		}
		return nil
	}
	all := slices.Insert(model.IDsOf(there), at, ids...)
	for i, id := range all {
		t.following = !slices.Contains(ids, id)
		err := set(id, (i+1)*model.RankStep)
		t.following = false
		if err != nil {
			return err
		}
	}
	return nil
}

// hierarchy returns a sheet that is one.
func (t *transaction) hierarchy(id string) (*model.Sheet, error) {
	s, err := t.sheet(id)
	if err == nil && s.Kind != model.HierarchySheet {
		err = model.Refuse(id, "the sheet %s is no hierarchy", model.Quote(s.Name))
	}
	return s, err
}

// SetCards changes what cards say of their place; nil leaves a value alone.
type SetCards struct {
	Sheet     string                 `json:"sheet"`
	IDs       []string               `json:"ids"`
	Assistant *bool                  `json:"assistant,omitempty"`
	Post      *model.Post            `json:"post,omitempty"`
	Via       *string                `json:"via,omitempty"`
	Below     *hierarchy.Arrangement `json:"below,omitempty"`
	Last      *hierarchy.Arrangement `json:"last,omitempty"`
	Folded    *bool                  `json:"folded,omitempty"`
	// As says in words what was done.
	As string `json:"as,omitempty"`
}

func (e *SetCards) change(t *transaction) error {
	s, err := t.hierarchy(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		if !sym.Kind.IsCard() {
			return model.Refuse(id, "%s is no card", sym.Describe())
		}
		fields.Assign(&sym.Seat, e)
	}
	return nil
}

// SetChart changes how the cards of a sheet stand and what is shown of them; nil leaves a value alone.
type SetChart struct {
	Sheet    string                 `json:"sheet"`
	Below    *hierarchy.Arrangement `json:"below,omitempty"`
	Last     *hierarchy.Arrangement `json:"last,omitempty"`
	Aligned  *bool                  `json:"aligned,omitempty"`
	Square   *bool                  `json:"square,omitempty"`
	Counted  *bool                  `json:"counted,omitempty"`
	ByLevel  *bool                  `json:"byLevel,omitempty"`
	Numbered *bool                  `json:"numbered,omitempty"`
	Levels   *[]string              `json:"levels,omitempty"`
}

func (e *SetChart) change(t *transaction) error {
	s, err := t.hierarchy(e.Sheet)
	if err != nil {
		return err
	}
	h := sheetHead.edit(t, s)
	fields.Assign(h, e)
	fields.Assign(&h.Chart, e)
	return nil
}

// orphans sets the cards under those that are going to be removed under the next superior that stays, at their place.
func (t *transaction) orphans(s *model.Sheet, gone map[string]bool) error {
	if s.Kind != model.HierarchySheet {
		return nil
	}
	// Who is under whom is looked up as it is by now: the tree of the sheet is of before the edit.
	under := map[string][]*model.Symbol{}
	for _, c := range s.Symbols {
		under[c.Under] = append(under[c.Under], c)
	}
	for _, list := range under {
		slices.SortStableFunc(list, model.ByRank)
	}
	for _, c := range slices.Clone(s.Symbols) {
		if !gone[c.ID] || gone[c.Under] {
			continue
		}
		// All that come up from this one stand at its place, in the order of the chart.
		var ids []string
		var take func(id string)
		take = func(id string) {
			for _, sub := range under[id] {
				if gone[sub.ID] {
					take(sub.ID)
				} else {
					ids = append(ids, sub.ID)
				}
			}
		}
		take(c.ID)
		if len(ids) == 0 {
			continue
		}
		t.following = true
		err := (&HangCards{Sheet: s.ID, IDs: ids, Under: c.Under, Before: c.ID}).change(t)
		t.following = false
		if err != nil {
			return err
		}
	}
	return nil
}
