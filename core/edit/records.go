package edit

import (
	"encoding/json"
	"fmt"
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// What a map is made of.

var symbolList = collect(&itemList[model.Symbol, *model.Symbol]{
	name: "symbol",
	list: func(s *model.Sheet) *[]*model.Symbol { return &s.Symbols },
	admit: func(t *transaction, s *model.Sheet, v *model.Symbol) error {
		if err := t.fresh(v.ID); err != nil {
			return err
		}
		if err := asRefusal(v.ID, v.Validate(fmt.Sprintf("%q", v.ID))); err != nil {
			return err
		}
		if len(s.Symbols) >= model.MaxSymbols {
			return model.Refuse(v.ID, "this sheet is full: it holds %d symbols", model.MaxSymbols)
		}
		return nil
	},
	check: func(t *transaction, _ *model.Sheet, v *model.Symbol, path string) error {
		if err := v.Validate(path); err != nil {
			return err
		}
		if v.Picture != "" && t.m.Picture(v.Picture) == nil {
			return model.Refuse(v.ID, "the picture of the symbol is not in the map")
		}
		return nil
	},
	held: func(s *model.Sheet, id string) error {
		for _, c := range s.Connectors {
			if c.From.Symbol == id || c.To.Symbol == id {
				return model.Refuse(id, "the connector %q is still glued to the symbol %q", c.ID, id)
			}
		}
		if s.Kind == model.HierarchySheet && slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool {
			return o.Under == id
		}) {
			return model.Refuse(id, "others still stand under the card %q", id)
		}
		return nil
	},
	used: func(t *transaction, s *model.Sheet, id string) bool {
		return slices.ContainsFunc(s.Connectors, func(c *model.Connector) bool {
			return c.From.Symbol == id || c.To.Symbol == id
		}) || s.Kind == model.HierarchySheet && slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool {
			return o.Under == id && !t.leaving[o.ID] // one that goes, too, holds nothing
		})
	},
	misses: missesPlace,
	bare:   bare,
})

var connectorList = collect(&itemList[model.Connector, *model.Connector]{
	name: "connector",
	list: func(s *model.Sheet) *[]*model.Connector { return &s.Connectors },
	admit: func(t *transaction, s *model.Sheet, v *model.Connector) error {
		if err := t.fresh(v.ID); err != nil {
			return err
		}
		if len(s.Connectors) >= model.MaxConnectors {
			return model.Refuse(v.ID, "this sheet is full: it holds %d connectors", model.MaxConnectors)
		}
		return nil
	},
	check: func(_ *transaction, s *model.Sheet, v *model.Connector, path string) error {
		return v.Validate(path, func(id string) bool { return s.Symbol(id) != nil }, s.Connector)
	},
	held: func(s *model.Sheet, id string) error {
		for _, c := range s.Connectors {
			if c.To.Connector == id {
				return model.Refuse(id, "the connector %q still joins the connector %q", c.ID, id)
			}
		}
		return nil
	},
	used: (*transaction).joined,
	misses: func(_ *transaction, s *model.Sheet, v *model.Connector) string {
		if v.From.Symbol != "" && s.Symbol(v.From.Symbol) == nil || v.To.Symbol != "" && s.Symbol(v.To.Symbol) == nil {
			return "the symbol a connector led to"
		}
		return ""
	},
})

var poolList = collect(&itemList[model.Pool, *model.Pool]{
	name: "pool",
	list: func(s *model.Sheet) *[]*model.Pool { return &s.Pools },
	admit: func(t *transaction, _ *model.Sheet, v *model.Pool) error {
		used := map[string]bool{}
		for _, id := range v.IDs() {
			if err := t.fresh(id); err != nil {
				return err
			}
			if used[id] {
				return model.Refuse(id, "the id %q is used twice", id)
			}
			used[id] = true
		}
		return asRefusal(v.ID, v.Validate(fmt.Sprintf("%q", v.ID)))
	},
	check: func(t *transaction, _ *model.Sheet, v *model.Pool, path string) error {
		if v.Picture != "" && t.m.Picture(v.Picture) == nil {
			return model.Refuse(v.ID, "the picture of the person is not in the map")
		}
		return v.Validate(path)
	},
	held:   func(*model.Sheet, string) error { return nil },
	used:   func(*transaction, *model.Sheet, string) bool { return false },
	misses: func(*transaction, *model.Sheet, *model.Pool) string { return "" },
	bare:   barePool,
	stays:  keepsCells,
})

var pictureList = collect(&attachments[pictures.Picture]{
	name: "picture",
	list: func(m *model.Map) *[]pictures.Picture { return &m.Pictures },
	id:   func(p *pictures.Picture) string { return p.ID },
	admit: func(m *model.Map, p *pictures.Picture) error {
		if err := p.Check(); err != nil {
			return model.Refuse(p.ID, "%s", err)
		}
		if m.Picture(p.ID) != nil {
			return nil
		}
		if len(m.Pictures) >= model.MaxPictureCount {
			return model.Refuse(p.ID, "a map shows at most %d pictures", model.MaxPictureCount)
		}
		size := len(p.Data)
		for i := range m.Pictures {
			size += len(m.Pictures[i].Data)
		}
		if size > model.MaxPictures {
			return model.Refuse(p.ID, "the pictures of a map take at most %d MB together", model.MaxPictures>>20)
		}
		return nil
	},
	needed: func(m *model.Map, id string) bool {
		return slices.ContainsFunc(m.Sheets, func(s *model.Sheet) bool {
			for shown := range s.Pictures() {
				if shown == id {
					return true
				}
			}
			return false
		})
	},
	describe: func(*pictures.Picture) string { return "the picture" },
})

var fontList = collect(&attachments[fonts.Font]{
	name: "font",
	list: func(m *model.Map) *[]fonts.Font { return &m.Fonts },
	id:   func(f *fonts.Font) string { return f.ID },
	admit: func(m *model.Map, f *fonts.Font) error {
		if err := f.Check(); err != nil {
			return model.Refuse(f.ID, "%s", err)
		}
		if m.Font(f.ID) != nil {
			return nil
		}
		size := len(f.Data)
		for i := range m.Fonts {
			size += len(m.Fonts[i].Data)
		}
		if size > model.MaxFonts {
			return model.Refuse(f.ID, "the fonts of a map take at most %d MB together", model.MaxFonts>>20)
		}
		return nil
	},
	needed:   (*model.Map).UsesFont,
	describe: func(f *fonts.Font) string { return "the font " + model.Quote(f.Family) },
})

var fileList = collect(&attachments[model.File]{
	name:  "file",
	list:  func(m *model.Map) *[]model.File { return &m.Files },
	id:    func(f *model.File) string { return f.ID },
	admit: func(m *model.Map, f *model.File) error { return asRefusal(f.ID, m.AdmitFile(f)) },
	needed: func(m *model.Map, id string) bool {
		return slices.ContainsFunc(m.Attached(), func(f model.File) bool { return f.ID == id })
	},
	describe: func(f *model.File) string { return "the file " + model.Quote(f.Name) },
})

var sheetHead = collect(&headRecord[model.SheetHead]{
	name:  "sheetHead",
	sheet: true,
	at:    func(_ *model.Map, s *model.Sheet) *model.SheetHead { return &s.SheetHead },
	clone: func(v *model.SheetHead) *model.SheetHead { c := *v; return &c },
	same:  (*model.SheetHead).Equal,
	check: func(m *model.Map, v *model.SheetHead, id string) error {
		if err := v.Validate(fmt.Sprintf("%q", id)); err != nil {
			return err
		}
		if v.Background.Picture != "" && m.Picture(v.Background.Picture) == nil {
			return model.Refuse(id, "the picture of the ground is not in the map")
		}
		return nil
	},
	describe: func(v *model.SheetHead) string { return "the sheet " + model.Quote(v.Name) },
	id:       func(v *model.SheetHead) string { return v.ID },
})

var mapHead = collect(&headRecord[model.Head]{
	name:  "head",
	at:    func(m *model.Map, _ *model.Sheet) *model.Head { return &m.Head },
	clone: func(v *model.Head) *model.Head { c := v.Clone(); return &c },
	same:  (*model.Head).Equal,
	check: func(m *model.Map, v *model.Head, _ string) error {
		if err := v.Validate(); err != nil {
			return err
		}
		return m.CheckTypefaces(v)
	},
	describe: func(*model.Head) string { return "the map's setting" },
})

// wholeSheets are the sheets of the map with all that stands on them, made and removed as a whole.
type wholeSheets struct{}

var sheetList = collect(&wholeSheets{})

func (*wholeSheets) key() string { return "whole" }

func (*wholeSheets) holds(*model.Sheet) {}

func (*wholeSheets) onSheet() bool { return false }

func (*wholeSheets) read(c *Change, before, after json.RawMessage) error {
	return readSpan[model.Sheet](c, before, after)
}

func (*wholeSheets) sound(c *Change) error {
	s := spanOf[model.Sheet](c)
	if (s.Before == nil) == (s.After == nil) {
		return incomplete(c)
	}
	for _, sheet := range [...]*model.Sheet{s.Before, s.After} {
		if sheet != nil && (sheet.ID != c.ID || sheet.Gaps()) {
			return incomplete(c)
		}
	}
	return nil
}

func (w *wholeSheets) add(t *transaction, at int, s *model.Sheet) error {
	if len(t.m.Sheets) >= model.MaxSheets {
		return model.Refuse(s.ID, "a map has at most %d sheets", model.MaxSheets)
	}
	if at < 0 || at > len(t.m.Sheets) {
		return model.Refuse(s.ID, "there is no place %d among %d sheets", at, len(t.m.Sheets))
	}
	if t.entry(s.ID) != nil {
		return model.Refuse(s.ID, "the id %q is used already", s.ID)
	}
	if err := asRefusal(s.ID, t.m.Admits(s)); err != nil {
		return err
	}
	t.m.Sheets = slices.Insert(t.m.Sheets, at, s.Clone())
	t.note(s.ID, Change{ID: s.ID, of: w})
	return nil
}

func (w *wholeSheets) remove(t *transaction, id string) error {
	at := model.Index(t.m.Sheets, id)
	if at < 0 {
		return model.Refuse(id, "there is no sheet %q any more", id)
	}
	t.note(id, Change{ID: id, At: at, of: w, before: t.m.Sheets[at].Clone()})
	t.m.Sheets = slices.Delete(t.m.Sheets, at, at+1)
	return nil
}

func (*wholeSheets) complete(t *transaction, _ *model.Sheet, c *Change) error {
	if len(t.m.Sheets) == 0 {
		return model.Refuse("", "a map keeps at least one sheet")
	}
	at := model.Index(t.m.Sheets, c.ID)
	if at < 0 {
		return nil
	}
	sheet := t.m.Sheets[at]
	if c.after = sheet.Clone(); c.before == nil {
		c.At = at
	}
	return sheet.Validate(fmt.Sprintf("%q", c.ID))
}

func (*wholeSheets) idle(c *Change) bool { return c.before == nil && c.after == nil }

func (*wholeSheets) put(m *model.Map, c *Change, state *model.Sheet) {
	i := model.Index(m.Sheets, c.ID)
	switch {
	case state == nil && i >= 0:
		m.Sheets = slices.Delete(m.Sheets, i, i+1)
	case state != nil && i >= 0:
		*m.Sheets[i] = *state.Clone()
	case state != nil:
		m.Sheets = slices.Insert(m.Sheets, min(c.At, len(m.Sheets)), state.Clone())
	}
}

func (w *wholeSheets) rollback(m *model.Map, _ *model.Sheet, c *Change) {
	w.put(m, c, spanOf[model.Sheet](c).Before)
}

func (w *wholeSheets) enact(m *model.Map, _ *model.Sheet, c *Change) {
	w.put(m, c, spanOf[model.Sheet](c).After)
}

func (w *wholeSheets) revert(t *transaction, _ *model.Sheet, c *Change) error {
	s, now := spanOf[model.Sheet](c), t.m.Sheet(c.ID)
	switch {
	case s.Before == nil && now == nil, s.After == nil && now != nil:
		return nil
	case s.Before == nil && !now.Equal(s.After):
		t.skip("a sheet", changedSince)
		return nil
	case s.Before == nil:
		return w.remove(t, c.ID)
	}
	return w.add(t, min(c.At, len(t.m.Sheets)), s.Before)
}

// orders are the ids of the symbols of a sheet, or of the sheets, in their order.
type orders struct{}

var orderOf = collect(&orders{})

func (*orders) key() string { return "order" }

func (*orders) holds(*[]string) {}

func (*orders) onSheet() bool { return false }

func (*orders) read(c *Change, before, after json.RawMessage) error {
	return readSpan[[]string](c, before, after)
}

func (*orders) sound(c *Change) error {
	s := spanOf[[]string](c)
	if s.Before == nil || s.After == nil || !slices.Equal(sorted(*s.Before), sorted(*s.After)) {
		return incomplete(c)
	}
	return nil
}

// now returns the order as it is.
func (*orders) now(m *model.Map, s *model.Sheet) []string {
	if s == nil {
		return model.IDsOf(m.Sheets)
	}
	return model.IDsOf(s.Symbols)
}

func (*orders) put(m *model.Map, s *model.Sheet, order []string) {
	if s == nil {
		m.Sheets = ordered(m.Sheets, order)
	} else {
		s.Symbols = ordered(s.Symbols, order)
	}
}

// set puts the symbols of a sheet, or the sheets where s is nil, into an order.
func (o *orders) set(t *transaction, s *model.Sheet, order []string) {
	before := o.now(t.m, s)
	o.put(t.m, s, order)
	sheet := ""
	if s != nil {
		sheet = s.ID
	}
	t.note("order of "+sheet, Change{Sheet: sheet, of: o, before: &before, after: &order})
}

func (*orders) complete(*transaction, *model.Sheet, *Change) error { return nil }

func (*orders) idle(c *Change) bool {
	s := spanOf[[]string](c)
	return slices.Equal(*s.Before, *s.After)
}

func (o *orders) rollback(m *model.Map, s *model.Sheet, c *Change) {
	o.put(m, s, *spanOf[[]string](c).Before)
}

// enact orders what there is; things made later in the same edit find their places themselves.
func (o *orders) enact(m *model.Map, s *model.Sheet, c *Change) {
	o.put(m, s, *spanOf[[]string](c).After)
}

func (o *orders) revert(t *transaction, s *model.Sheet, c *Change) error {
	span := spanOf[[]string](c)
	if !slices.Equal(o.now(t.m, s), *span.After) {
		t.skip("the order", changedSince)
		return nil
	}
	o.set(t, s, slices.Clone(*span.Before))
	return nil
}

// ordered returns those of a list that an order names, in that order.
func ordered[T model.Identified](list []T, order []string) []T {
	at := make(map[string]int, len(list))
	for i, v := range list {
		at[v.Key()] = i
	}
	out := make([]T, 0, len(list))
	for _, id := range order {
		if i, there := at[id]; there {
			out = append(out, list[i])
		}
	}
	return out
}

func sorted(list []string) []string {
	list = slices.Clone(list)
	slices.Sort(list)
	return list
}
