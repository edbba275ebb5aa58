package diagram

import (
	"encoding/json"
	"fmt"
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/pictures"
)

// What a map is made of.

var symbolList = collect(&things[Symbol, *Symbol]{
	name: "symbol",
	list: func(s *Sheet) *[]*Symbol { return &s.Symbols },
	admit: func(t *trial, s *Sheet, v *Symbol) error {
		if err := t.fresh(v.ID); err != nil {
			return err
		}
		if err := asRefusal(v.ID, v.validate(fmt.Sprintf("%q", v.ID))); err != nil {
			return err
		}
		if len(s.Symbols) >= MaxSymbols {
			return refuse(v.ID, "this sheet is full: it holds %d symbols", MaxSymbols)
		}
		return nil
	},
	check: func(t *trial, _ *Sheet, v *Symbol, path string) error {
		if err := v.validate(path); err != nil {
			return err
		}
		if v.Picture != "" && t.m.Picture(v.Picture) == nil {
			return refuse(v.ID, "the picture of the symbol is not in the map")
		}
		return nil
	},
	held: func(s *Sheet, id string) error {
		for _, c := range s.Connectors {
			if c.From.Symbol == id || c.To.Symbol == id {
				return refuse(id, "the connector %q is still glued to the symbol %q", c.ID, id)
			}
		}
		return nil
	},
	used: func(_ *trial, s *Sheet, id string) bool {
		return slices.ContainsFunc(s.Connectors, func(c *Connector) bool { return c.From.Symbol == id || c.To.Symbol == id })
	},
	misses: func(*Sheet, *Symbol) string { return "" },
})

func (s *Symbol) locked() bool { return s.Locked }
func (s *Symbol) describe() string {
	if s.Text == "" {
		return "a " + string(s.Kind)
	}
	return quote(s.Text)
}

var connectorList = collect(&things[Connector, *Connector]{
	name: "connector",
	list: func(s *Sheet) *[]*Connector { return &s.Connectors },
	admit: func(t *trial, s *Sheet, v *Connector) error {
		if err := t.fresh(v.ID); err != nil {
			return err
		}
		if len(s.Connectors) >= MaxConnectors {
			return refuse(v.ID, "this sheet is full: it holds %d connectors", MaxConnectors)
		}
		return nil
	},
	check: func(_ *trial, s *Sheet, v *Connector, path string) error {
		return v.validate(path, func(id string) bool { return s.Symbol(id) != nil }, s.Connector)
	},
	held: func(s *Sheet, id string) error {
		for _, c := range s.Connectors {
			if c.To.Connector == id {
				return refuse(id, "the connector %q still joins the connector %q", c.ID, id)
			}
		}
		return nil
	},
	used: (*trial).joined,
	misses: func(s *Sheet, v *Connector) string {
		if v.From.Symbol != "" && s.Symbol(v.From.Symbol) == nil || v.To.Symbol != "" && s.Symbol(v.To.Symbol) == nil {
			return "the symbol a connector led to"
		}
		return ""
	},
})

func (c *Connector) locked() bool     { return c.Locked }
func (c *Connector) describe() string { return "the connector" }

var poolList = collect(&things[Pool, *Pool]{
	name: "pool",
	list: func(s *Sheet) *[]*Pool { return &s.Pools },
	admit: func(t *trial, _ *Sheet, v *Pool) error {
		used := map[string]bool{}
		for _, id := range v.ids() {
			if err := t.fresh(id); err != nil {
				return err
			}
			if used[id] {
				return refuse(id, "the id %q is used twice", id)
			}
			used[id] = true
		}
		return asRefusal(v.ID, v.validate(fmt.Sprintf("%q", v.ID)))
	},
	check:  func(_ *trial, _ *Sheet, v *Pool, path string) error { return v.validate(path) },
	held:   func(*Sheet, string) error { return nil },
	used:   func(*trial, *Sheet, string) bool { return false },
	misses: func(*Sheet, *Pool) string { return "" },
})

func (p *Pool) locked() bool     { return p.Locked }
func (p *Pool) describe() string { return "the pool " + quote(p.Title) }

var pictureList = collect(&contents[pictures.Picture]{
	name: "picture",
	list: func(m *Map) *[]pictures.Picture { return &m.Pictures },
	id:   func(p *pictures.Picture) string { return p.ID },
	admit: func(m *Map, p *pictures.Picture) error {
		if err := p.Check(); err != nil {
			return refuse(p.ID, "%s", err)
		}
		if m.Picture(p.ID) != nil {
			return nil
		}
		if len(m.Pictures) >= MaxPictureCount {
			return refuse(p.ID, "a map shows at most %d pictures", MaxPictureCount)
		}
		size := len(p.Data)
		for i := range m.Pictures {
			size += len(m.Pictures[i].Data)
		}
		if size > MaxPictures {
			return refuse(p.ID, "the pictures of a map take at most %d MB together", MaxPictures>>20)
		}
		return nil
	},
	needed: func(m *Map, id string) bool {
		return slices.ContainsFunc(m.Sheets, func(s *Sheet) bool {
			return s.Ground.Picture == id || slices.ContainsFunc(s.Symbols, func(sym *Symbol) bool { return sym.Picture == id })
		})
	},
	describe: func(*pictures.Picture) string { return "the picture" },
})

var fontList = collect(&contents[fonts.Font]{
	name: "font",
	list: func(m *Map) *[]fonts.Font { return &m.Fonts },
	id:   func(f *fonts.Font) string { return f.ID },
	admit: func(m *Map, f *fonts.Font) error {
		if err := f.Check(); err != nil {
			return refuse(f.ID, "%s", err)
		}
		if m.Font(f.ID) != nil {
			return nil
		}
		size := len(f.Data)
		for i := range m.Fonts {
			size += len(m.Fonts[i].Data)
		}
		if size > MaxFonts {
			return refuse(f.ID, "the fonts of a map take at most %d MB together", MaxFonts>>20)
		}
		return nil
	},
	needed:   func(m *Map, id string) bool { return slices.Contains(m.Faces, id) },
	describe: func(f *fonts.Font) string { return "the font " + quote(f.Family) },
})

var sheetHead = collect(&head[SheetHead]{
	name:  "sheetHead",
	sheet: true,
	at:    func(_ *Map, s *Sheet) *SheetHead { return &s.SheetHead },
	clone: func(v *SheetHead) *SheetHead { c := *v; return &c },
	same:  (*SheetHead).Equal,
	check: func(m *Map, v *SheetHead, id string) error {
		if err := v.validate(fmt.Sprintf("%q", id)); err != nil {
			return err
		}
		if v.Ground.Picture != "" && m.Picture(v.Ground.Picture) == nil {
			return refuse(id, "the picture of the ground is not in the map")
		}
		return nil
	},
	describe: func(v *SheetHead) string { return "the sheet " + quote(v.Name) },
	id:       func(v *SheetHead) string { return v.ID },
})

var mapHead = collect(&head[Head]{
	name:  "head",
	at:    func(m *Map, _ *Sheet) *Head { return &m.Head },
	clone: func(v *Head) *Head { c := v.clone(); return &c },
	same:  (*Head).Equal,
	check: func(m *Map, v *Head, _ string) error {
		if err := v.validate(); err != nil {
			return err
		}
		return m.checkFaces(v.Faces)
	},
	describe: func(*Head) string { return "the map's setting" },
})

// wholeSheets are the sheets of the map with all that stands on them, made and removed as a whole.
type wholeSheets struct{}

var sheetList = collect(&wholeSheets{})

func (*wholeSheets) key() string   { return "whole" }
func (*wholeSheets) holds(*Sheet)  {}
func (*wholeSheets) onSheet() bool { return false }

func (*wholeSheets) read(c *Change, before, after json.RawMessage) error {
	return readSpan[Sheet](c, before, after)
}

func (*wholeSheets) sound(c *Change) error {
	s := spanOf[Sheet](c)
	if (s.Before == nil) == (s.After == nil) {
		return incomplete(c)
	}
	for _, sheet := range [...]*Sheet{s.Before, s.After} {
		if sheet != nil && (sheet.ID != c.ID || sheet.Gaps()) {
			return incomplete(c)
		}
	}
	return nil
}

func (w *wholeSheets) add(t *trial, at int, s *Sheet) error {
	if len(t.m.Sheets) >= MaxSheets {
		return refuse(s.ID, "a map has at most %d sheets", MaxSheets)
	}
	if at < 0 || at > len(t.m.Sheets) {
		return refuse(s.ID, "there is no place %d among %d sheets", at, len(t.m.Sheets))
	}
	if t.entry(s.ID) != nil {
		return refuse(s.ID, "the id %q is used already", s.ID)
	}
	if err := asRefusal(s.ID, t.m.Admits(s)); err != nil {
		return err
	}
	t.m.Sheets = slices.Insert(t.m.Sheets, at, s.Clone())
	t.note(s.ID, Change{ID: s.ID, of: w})
	return nil
}

func (w *wholeSheets) remove(t *trial, id string) error {
	at := index(t.m.Sheets, id)
	if at < 0 {
		return refuse(id, "there is no sheet %q any more", id)
	}
	t.note(id, Change{ID: id, At: at, of: w, before: t.m.Sheets[at].Clone()})
	t.m.Sheets = slices.Delete(t.m.Sheets, at, at+1)
	return nil
}

func (*wholeSheets) complete(t *trial, _ *Sheet, c *Change) error {
	if len(t.m.Sheets) == 0 {
		return refuse("", "a map keeps at least one sheet")
	}
	at := index(t.m.Sheets, c.ID)
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

func (*wholeSheets) put(m *Map, c *Change, state *Sheet) {
	i := index(m.Sheets, c.ID)
	switch {
	case state == nil && i >= 0:
		m.Sheets = slices.Delete(m.Sheets, i, i+1)
	case state != nil && i >= 0:
		*m.Sheets[i] = *state.Clone()
	case state != nil:
		m.Sheets = slices.Insert(m.Sheets, min(c.At, len(m.Sheets)), state.Clone())
	}
}

func (w *wholeSheets) rollback(m *Map, _ *Sheet, c *Change) { w.put(m, c, spanOf[Sheet](c).Before) }
func (w *wholeSheets) enact(m *Map, _ *Sheet, c *Change)    { w.put(m, c, spanOf[Sheet](c).After) }

func (w *wholeSheets) revert(t *trial, _ *Sheet, c *Change) error {
	s, now := spanOf[Sheet](c), t.m.Sheet(c.ID)
	switch {
	case s.Before == nil && now == nil, s.After == nil && now != nil:
		return nil
	case s.Before == nil && !now.equal(s.After):
		t.skip("a sheet", changedSince)
		return nil
	case s.Before == nil:
		return w.remove(t, c.ID)
	}
	return w.add(t, min(c.At, len(t.m.Sheets)), s.Before)
}

func (s *Sheet) equal(o *Sheet) bool {
	return s.SheetHead == o.SheetHead &&
		slices.EqualFunc(s.Symbols, o.Symbols, (*Symbol).Equal) &&
		slices.EqualFunc(s.Connectors, o.Connectors, (*Connector).Equal) &&
		slices.EqualFunc(s.Pools, o.Pools, (*Pool).Equal)
}

// orders are the ids of the symbols of a sheet, or of the sheets, in their order.
type orders struct{}

var orderOf = collect(&orders{})

func (*orders) key() string     { return "order" }
func (*orders) holds(*[]string) {}
func (*orders) onSheet() bool   { return false }

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
func (*orders) now(m *Map, s *Sheet) []string {
	if s == nil {
		return ids(m.Sheets)
	}
	return ids(s.Symbols)
}

func (*orders) put(m *Map, s *Sheet, order []string) {
	if s == nil {
		m.Sheets = ordered(m.Sheets, order)
	} else {
		s.Symbols = ordered(s.Symbols, order)
	}
}

// set puts the symbols of a sheet, or the sheets where s is nil, into an order.
func (o *orders) set(t *trial, s *Sheet, order []string) {
	before := o.now(t.m, s)
	o.put(t.m, s, order)
	sheet := ""
	if s != nil {
		sheet = s.ID
	}
	t.note("order of "+sheet, Change{Sheet: sheet, of: o, before: &before, after: &order})
}

func (*orders) complete(*trial, *Sheet, *Change) error { return nil }

func (*orders) idle(c *Change) bool {
	s := spanOf[[]string](c)
	return slices.Equal(*s.Before, *s.After)
}

func (o *orders) rollback(m *Map, s *Sheet, c *Change) { o.put(m, s, *spanOf[[]string](c).Before) }

// enact orders what there is; things made later in the same edit find their places themselves.
func (o *orders) enact(m *Map, s *Sheet, c *Change) { o.put(m, s, *spanOf[[]string](c).After) }

func (o *orders) revert(t *trial, s *Sheet, c *Change) error {
	span := spanOf[[]string](c)
	if !slices.Equal(o.now(t.m, s), *span.After) {
		t.skip("the order", changedSince)
		return nil
	}
	o.set(t, s, slices.Clone(*span.Before))
	return nil
}

func ids[T identified](list []T) []string {
	out := make([]string, len(list))
	for i, v := range list {
		out[i] = v.id()
	}
	return out
}

// ordered returns those of a list that an order names, in that order.
func ordered[T identified](list []T, order []string) []T {
	at := make(map[string]int, len(list))
	for i, v := range list {
		at[v.id()] = i
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
