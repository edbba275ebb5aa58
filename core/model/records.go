package model

import (
	"slices"

	"plaintracer/core/pictures"
)

// Item is what stands on a sheet and is edited as one: a symbol, a connector, a pool.
type Item interface {
	Identified
	// IsLocked reports whether it is kept as it is until it is unlocked.
	IsLocked() bool
	// Describe names it in a message.
	Describe() string
}

// IsLocked reports whether the symbol is kept as it is.
func (s *Symbol) IsLocked() bool { return s.Locked }

// IsLocked reports whether the connector is kept as it is.
func (c *Connector) IsLocked() bool { return c.Locked }

// IsLocked reports whether the pool and its lanes are kept as they are.
func (p *Pool) IsLocked() bool { return p.Locked }

// Describe names the symbol by its text, or its kind where it has none.
func (s *Symbol) Describe() string {
	if s.Text == "" {
		return "a " + string(s.Kind)
	}
	return Quote(s.Text)
}

// Describe names the connector.
func (c *Connector) Describe() string { return "the connector" }

// Describe names the pool by its title.
func (p *Pool) Describe() string { return "the pool " + Quote(p.Title) }

// Equal reports whether two sheets hold the same.
func (s *Sheet) Equal(o *Sheet) bool {
	return s.SheetHead.Equal(&o.SheetHead) &&
		slices.EqualFunc(s.Symbols, o.Symbols, (*Symbol).Equal) &&
		slices.EqualFunc(s.Connectors, o.Connectors, (*Connector).Equal) &&
		slices.EqualFunc(s.Pools, o.Pools, (*Pool).Equal)
}

// IDsOf returns the ids of a list, in its order.
func IDsOf[T Identified](list []T) []string {
	out := make([]string, len(list))
	for i, v := range list {
		out[i] = v.Key()
	}
	return out
}

// Identified is what stands in a list of a map under an id of its own.
type Identified interface{ Key() string }

// Key returns the id of the sheet.
func (s *Sheet) Key() string { return s.ID }

// Key returns the id of the symbol.
func (s *Symbol) Key() string { return s.ID }

// Key returns the id of the connector.
func (c *Connector) Key() string { return c.ID }

// Key returns the id of the pool.
func (p *Pool) Key() string { return p.ID }

// Index returns the place of what has an id in a list, or -1.
func Index[T Identified](list []T, id string) int {
	return slices.IndexFunc(list, func(v T) bool { return v.Key() == id })
}

// Find returns what has an id in a list, or nil.
func Find[T Identified](list []T, id string) (none T) {
	if i := Index(list, id); i >= 0 {
		return list[i]
	}
	return none
}

// Clone returns a copy that shares nothing with m.
func (m *Map) Clone() *Map {
	out := &Map{Head: m.Head.Clone(), Pictures: slices.Clone(m.Pictures), Fonts: slices.Clone(m.Fonts),
		Files:  slices.Clone(m.Files),
		Sheets: make([]*Sheet, len(m.Sheets))}
	for i, s := range m.Sheets {
		out.Sheets[i] = s.Clone()
		// What of them is still so is taken over.
		out.Sheets[i].tree, out.Sheets[i].board = s.tree, s.board
		out.Settle(out.Sheets[i])
	}
	return out
}

// Clone returns a copy that shares nothing with s.
func (s *Sheet) Clone() *Sheet {
	return &Sheet{SheetHead: s.SheetHead, Pools: cloneAll(s.Pools, (*Pool).Clone),
		Symbols: cloneAll(s.Symbols, (*Symbol).Clone), Connectors: cloneAll(s.Connectors, (*Connector).Clone)}
}

// Clone returns a copy that shares no list with h.
func (h Head) Clone() Head {
	h.Answers, h.Colours, h.Styles, h.Faces = slices.Clone(h.Answers), slices.Clone(h.Colours), slices.Clone(h.Styles),
		slices.Clone(h.Faces)
	h.Also = slices.Clone(h.Also)
	h.Numbering.Also, h.Next, h.Fields, h.Shown = slices.Clone(h.Numbering.Also), slices.Clone(h.Next),
		slices.Clone(h.Fields), slices.Clone(h.Shown)
	h.Stops, h.Cases = slices.Clone(h.Stops), slices.Clone(h.Cases)
	return h
}

// Clone returns a copy of the symbol; both share its values, which are never changed in place.
func (s *Symbol) Clone() *Symbol { c := *s; return &c }

// Clone returns a copy that shares nothing with c.
func (c *Connector) Clone() *Connector {
	d := *c
	d.Bends = slices.Clone(c.Bends)
	return &d
}

// Clone returns a copy that shares nothing with p.
func (p *Pool) Clone() *Pool {
	c := *p
	c.Lanes, c.Stages = slices.Clone(p.Lanes), slices.Clone(p.Stages)
	return &c
}

func cloneAll[T any](list []*T, clone func(*T) *T) []*T {
	out := make([]*T, len(list))
	for i, v := range list {
		out[i] = clone(v)
	}
	return out
}

// Symbol returns the symbol with this id, or nil.
func (s *Sheet) Symbol(id string) *Symbol {
	for _, sym := range s.Symbols { // the generic search is slower, and this one runs in every drag
		if sym.ID == id {
			return sym
		}
	}
	return nil
}

// Connector returns the connector with this id, or nil.
func (s *Sheet) Connector(id string) *Connector {
	for _, c := range s.Connectors {
		if c.ID == id {
			return c
		}
	}
	return nil
}

// Pool returns the pool with this id, or nil.
func (s *Sheet) Pool(id string) *Pool { return Find(s.Pools, id) }

// Sheet returns the sheet with this id, or nil.
func (m *Map) Sheet(id string) *Sheet { return Find(m.Sheets, id) }

// SheetOf returns the sheet on which the symbol, connector, pool, lane or stage
// stands, or nil.
func (m *Map) SheetOf(id string) *Sheet {
	for _, s := range m.Sheets {
		if s.Symbol(id) != nil || s.Connector(id) != nil || s.Pool(id) != nil {
			return s
		}
		for _, p := range s.Pools {
			if p.LaneIndex(id) >= 0 || p.StageIndex(id) >= 0 {
				return s
			}
		}
	}
	return nil
}

// Picture returns the picture with this id, or nil.
func (m *Map) Picture(id string) *pictures.Picture {
	for i := range m.Pictures {
		if m.Pictures[i].ID == id {
			return &m.Pictures[i]
		}
	}
	return nil
}
