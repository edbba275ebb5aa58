package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

func init() {
	register("holdNumbers", func(_ *model.Map, e *HoldNumbers) string { return "hold the numbers" })
	register("releaseNumbers", says[*ReleaseNumbers]("release the numbers"))
	register("setNumber", func(m *model.Map, e *SetNumber) string { return "number " + speak(m, e.Sheet, e.IDs) })
}

type (
	// HoldNumbers holds the numbers of all symbols as they are.
	HoldNumbers struct {
		Since string `json:"since"`
		By    string `json:"by,omitempty"`
	}
	// ReleaseNumbers lets the numbers follow the flow again.
	ReleaseNumbers struct{}
	// SetNumber pins the number of symbols, leaves them out of the count, or gives them back; nil leaves a value alone.
	SetNumber struct {
		Sheet     string   `json:"sheet"`
		IDs       []string `json:"ids"`
		Pinned    *string  `json:"pinned,omitempty"`
		Uncounted *bool    `json:"uncounted,omitempty"`
	}
)

func (e *HoldNumbers) change(t *transaction) error {
	if t.m.Held.On() {
		return model.Refuse("", "the numbers are held already")
	}
	labels, next := numbering.All(t.m)
	h := mapHead.edit(t, nil)
	h.Held, h.Next = model.Held{Since: e.Since, By: e.By}, next
	if !h.Held.On() {
		return model.Refuse("", "numbers are held since a date")
	}
	return t.keepLabels(labels)
}

func (e *ReleaseNumbers) change(t *transaction) error {
	if !t.m.Held.On() {
		return model.Refuse("", "the numbers are not held")
	}
	h := mapHead.edit(t, nil)
	h.Held, h.Next = model.Held{}, nil
	var none []model.Number
	for _, s := range t.m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kept != "" {
				none = append(none, model.Number{Sheet: s, Symbol: sym})
			}
		}
	}
	return t.keepLabels(none)
}

// keepLabels notes the numbers that symbols keep, locked or not.
func (t *transaction) keepLabels(labels []model.Number) error {
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, l := range labels {
		if l.Symbol.Kept == l.Text {
			continue
		}
		sym, err := t.editSymbol(l.Sheet, l.Symbol.ID)
		if err != nil {
			return err
		}
		sym.Kept = l.Text
	}
	return nil
}

// numberNew numbers what an edit brought while the numbers are held.
func (t *transaction) numberNew() error {
	if !t.m.Held.On() || !t.unnumbered() {
		return nil
	}
	labels, next := numbering.Missing(t.m)
	if !slices.Equal(next, t.m.Next) {
		mapHead.edit(t, nil).Next = next
	}
	return t.keepLabels(labels)
}

// unnumbered reports whether a symbol that counts has no number.
func (t *transaction) unnumbered() bool {
	for _, s := range t.m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kept == "" && sym.Pinned == "" && numbering.Counts(t.m, sym) {
				return true
			}
		}
	}
	return false
}

func (e *SetNumber) change(t *transaction) error {
	if e.Pinned != nil && len(e.IDs) > 1 && *e.Pinned != "" {
		return model.Refuse("", "a number is pinned on one symbol at a time")
	}
	if e.Pinned != nil {
		if err := model.CheckNumber(*e.Pinned); err != nil {
			return err
		}
	}
	return t.each(e.Sheet, e.IDs, func(record any) {
		if _, ok := record.(*model.Symbol); ok {
			fields.Assign(record, e)
		}
	})
}
