package model

import "plaintracer/core/geometry"

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

// Partner returns the other half of a reference pair: the reference of the
// same kind that carries the same letter, with the sheet it stands on. It is
// nil when the reference stands alone, carries no letter, or is one of three.
func (m *Map) Partner(sym *Symbol) (*Sheet, *Symbol) {
	if !sym.Kind.IsReference() || sym.Text == "" {
		return nil, nil
	}
	var where *Sheet
	var partner *Symbol
	for _, s := range m.Sheets {
		for _, other := range s.Symbols {
			if other.ID == sym.ID || other.Kind != sym.Kind || other.Text != sym.Text {
				continue
			}
			if partner != nil {
				return nil, nil
			}
			where, partner = s, other
		}
	}
	return where, partner
}
