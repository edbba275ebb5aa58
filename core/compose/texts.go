package compose

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/spread"
)

// Write returns the edit that writes a symbol's text, nil when it stands there already. What is set otherwise in it
// stays with its words. The symbol grows when it has to; alone says that the others of its kind, which otherwise grow
// with it, do not. The other halves of a reference take a letter that is new to the map with it; a letter that stands
// there already joins that pair. A detail that bears the name of its step takes the new one.
func (w *Work) Write(sym *model.Symbol, text string) (e edit.Edit, alone bool) {
	return w.WriteAccented(sym, sym.Accented().Rewritten(text))
}

// WriteAccented is Write with the words of the text that are set otherwise.
func (w *Work) WriteAccented(sym *model.Symbol, to model.Accented) (e edit.Edit, alone bool) {
	s := w.Sheet
	if sym.Kind.IsReference() {
		to.Text = strings.ToUpper(to.Text)
	}
	text, as := to.Text, "write"
	var edits []edit.Edit
	after := *sym
	if sym.Text != text {
		edits = append(edits, &edit.SetText{Sheet: s.ID, ID: sym.ID, Text: text})
		after.Rewrite(text)
	}
	if !slices.Equal(after.Accents, to.Accents) {
		if after.Accents = to.Accents; len(edits) == 0 {
			as = ""
		}
		edits = append(edits, &edit.SetAccents{Sheet: s.ID, ID: sym.ID, Text: text, Accents: to.Accents})
	}
	if len(edits) == 0 {
		return nil, false
	}
	after.Kind = KindOf(sym.Kind, text)
	if after.Kind != sym.Kind {
		edits = append(edits, &edit.SetKind{Sheet: s.ID, ID: sym.ID, Kind: after.Kind})
		edits = append(edits, w.Answered(sym.ID)...)
	}
	if len(text) <= model.MaxText {
		var grow []edit.Edit
		grow, alone = w.Grow(arrange.Fit(w.Map, s, &after))
		edits = append(edits, grow...)
	}
	if others := w.Map.Partners(sym); len(others) > 0 && sym.Text != text && text != "" &&
		!spread.LettersOf(w.Map)[text] {
		for _, h := range others {
			edits = append(edits, &edit.SetText{Sheet: h.Sheet.ID, ID: h.Symbol.ID, Text: text})
		}
	}
	if to := w.Map.DetailOf(sym); to != nil && sym.Text != text && text != "" && w.namedAfter(to, sym) {
		name := w.sheetName(text)
		edits = append(edits, &edit.SetSheet{Sheet: to.ID, Name: &name})
	}
	return edit.Together(as, edits...), alone
}

// Grow returns the edits that let symbols take larger boxes, and whether one grows alone although those
// of its kind otherwise grow together.
func (w *Work) Grow(fit []edit.Place) (edits []edit.Edit, alone bool) {
	s := w.Sheet
	if len(fit) == 1 && s.Fitting == model.FitTogether {
		sym := s.Symbol(fit[0].ID)
		alone = sym != nil && arrange.Outsized(sym, fit[0]) && arrange.Alike(s, sym)
	}
	return arrange.Grow(s, fit), alone
}

// FitAfter returns an edit together with what makes every text of some sheets fit after it. Locked symbols
// keep their boxes.
func FitAfter(m *model.Map, as string, e edit.Edit, sheets ...*model.Sheet) (edit.Edit, error) {
	trial, err := edit.Attempt(m, e)
	if err != nil {
		return nil, err
	}
	defer trial.Rollback()
	edits := []edit.Edit{e}
	for _, s := range sheets {
		places := map[string]edit.Place{}
		var order []string
		for _, sym := range s.Symbols {
			if sym.Locked {
				continue
			}
			for _, p := range arrange.Fit(m, s, sym) {
				had, ok := places[p.ID]
				if !ok {
					order = append(order, p.ID)
				}
				if (!ok || p.W*p.H > had.W*had.H) && !s.Symbol(p.ID).Locked {
					places[p.ID] = p
				}
			}
		}
		place := &edit.PlaceItems{Sheet: s.ID}
		for _, id := range order {
			if p, ok := places[id]; ok {
				place.Boxes = append(place.Boxes, p)
			}
		}
		if len(place.Boxes) > 0 {
			edits = append(edits, place)
		}
	}
	return edit.Together(as, edits...), nil
}
