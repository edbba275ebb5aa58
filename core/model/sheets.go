package model

import (
	"iter"
	"slices"

	"plaintracer/core/geometry"
)

// Turned returns a copy of the sheet with its axes exchanged: what lies across
// lies down. Symbols and pools have exchanged width and height; nothing else is
// changed. It serves computations that know one direction only.
func (s *Sheet) Turned() *Sheet {
	t := s.Clone()
	t.Across = !t.Across
	for _, sym := range t.Symbols {
		sym.Box = sym.Box.Turned(true)
	}
	for _, p := range t.Pools {
		p.X, p.Y, p.Down = p.Y, p.X, !p.Down
	}
	return t
}

// Page returns the sheet's paper as a box with its corner at zero.
func (s *Sheet) Page() geometry.Box {
	w, h := PaperSize(s.Paper, s.Across)
	return geometry.Box{W: w, H: h}
}

// Extent returns the page together with whatever stands beyond its edges.
func (s *Sheet) Extent() geometry.Box { return s.Page().Union(s.Drawn()) }

// Drawn returns the box around all symbols and pools.
func (s *Sheet) Drawn() geometry.Box {
	var b geometry.Box
	for _, sym := range s.Symbols {
		b = b.Union(sym.Box)
	}
	for _, p := range s.Pools {
		b = b.Union(p.Box())
	}
	return b
}

// Pictures returns the ids of the pictures that the sheet shows: behind everything, on symbols and of the persons of
// journeys. Some are empty, or stand there several times.
func (s *Sheet) Pictures() iter.Seq[string] {
	return func(yield func(id string) bool) {
		if !yield(s.Background.Picture) {
			return
		}
		for _, p := range s.Pools {
			if !yield(p.Picture) {
				return
			}
		}
		for _, sym := range s.Symbols {
			if !yield(sym.Picture) {
				return
			}
		}
	}
}

// Movables returns the ids of all that can be moved on the sheet: pools, symbols, and connectors
// with a loose end.
func (s *Sheet) Movables() []string {
	out := append(IDsOf(s.Pools), IDsOf(s.Symbols)...)
	for _, c := range s.Connectors {
		if c.From.Loose() || c.To.Loose() {
			out = append(out, c.ID)
		}
	}
	return out
}

// Leads returns the symbols between which a connector carries the flow: where
// it joins another connector, the flow goes on to where that one leads. An
// end that leads nowhere is empty.
func (s *Sheet) Leads(c *Connector) (from, to string) {
	from = c.From.Symbol
	for range s.Connectors {
		if c.To.Connector == "" {
			break
		}
		next := s.Connector(c.To.Connector)
		if next == nil {
			return from, ""
		}
		c = next
	}
	return from, c.To.Symbol
}

// Inside returns the symbols that a frame takes along when it moves: those
// that lie wholly in it.
func (s *Sheet) Inside(frame *Symbol) []*Symbol {
	var out []*Symbol
	for _, sym := range s.Symbols {
		if sym != frame && frame.Holds(sym.Box) {
			out = append(out, sym)
		}
	}
	return out
}

// Half is a reference with the sheet it stands on.
type Half struct {
	Sheet  *Sheet
	Symbol *Symbol
}

// Letters are the references of a map, by their kinds and letters.
type Letters struct {
	m  *Map
	of map[letter][]Half
}

type letter struct {
	kind Kind
	text string
}

// Letters returns the references of the map, for whoever asks for the partners of many.
func (m *Map) Letters() Letters {
	out := Letters{m, map[letter][]Half{}}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kind.IsReference() && sym.Text != "" {
				k := letter{sym.Kind, sym.Text}
				out.of[k] = append(out.of[k], Half{s, sym})
			}
		}
	}
	return out
}

// Partners are those of the map.
func (l Letters) Partners(sym *Symbol) []Half {
	all := l.of[letter{sym.Kind, sym.Text}]
	others := slices.DeleteFunc(slices.Clone(all), func(h Half) bool { return h.Symbol.ID == sym.ID })
	return l.m.partners(sym, others)
}

// Partners returns the other halves of a reference, in the order of the sheets: those of the same kind that carry the
// same letter. Several may lead to one: of these each has that one as its only partner, and it has all of them. There
// are none where the letter is missing, or does not tell which half leads on.
func (m *Map) Partners(sym *Symbol) []Half {
	if !sym.Kind.IsReference() || sym.Text == "" {
		return nil
	}
	return m.partners(sym, m.lettered(sym))
}

// partners returns those of the others with the letter of a reference that are its partners.
func (m *Map) partners(sym *Symbol, others []Half) []Half {
	if len(others) < 2 {
		return others
	}
	var on []Half // those that lead on
	for _, h := range others {
		if h.Sheet.LeadsOn(h.Symbol.ID) {
			on = append(on, h)
		}
	}
	own := m.SheetOf(sym.ID)
	switch leads := own != nil && own.LeadsOn(sym.ID); {
	case leads && len(on) == 0:
		return others
	case !leads && len(on) == 1:
		return on
	}
	return nil
}

// lettered returns the other references of the same kind that carry the same letter.
func (m *Map) lettered(sym *Symbol) (list []Half) {
	for _, s := range m.Sheets {
		for _, other := range s.Symbols {
			if other.Kind == sym.Kind && other.Text == sym.Text && other.ID != sym.ID {
				list = append(list, Half{s, other})
			}
		}
	}
	return list
}

// Lettered counts the other references of the same kind that carry the letter of a reference.
func (m *Map) Lettered(sym *Symbol) int { return len(m.lettered(sym)) }

// Partner returns the first of the Partners of a reference, and its sheet; nil where it has none.
func (m *Map) Partner(sym *Symbol) (*Sheet, *Symbol) {
	if list := m.Partners(sym); len(list) > 0 {
		return list[0].Sheet, list[0].Symbol
	}
	return nil, nil
}

// LeadsOn reports whether the flow goes on from a symbol by a connector.
func (s *Sheet) LeadsOn(id string) bool {
	for _, c := range s.Connectors {
		if c.From.Symbol != id {
			continue
		}
		if _, to := s.Leads(c); to == "" {
			return true
		} else if sym := s.Symbol(to); sym == nil || !sym.Kind.IsAside() {
			return true
		}
	}
	return false
}
