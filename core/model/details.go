package model

import "strings"

// MaxDepth is how deep details lie in each other: the sheet of a step, that of a step on it, and so on.
const MaxDepth = 5

// DetailOf returns the sheet on which a step is told as a flow of its own; nil where it is not.
func (m *Map) DetailOf(sym *Symbol) *Sheet {
	if sym.Detail == "" || !sym.Kind.IsStep() {
		return nil
	}
	return m.Sheet(sym.Detail)
}

// LeadsAway returns the id of the symbol to which a reference or a step with a detail leads away from its place: the
// partner, or the first symbol of the detail; empty where it leads nowhere.
func (m *Map) LeadsAway(sym *Symbol) string {
	if _, partner := m.Partner(sym); partner != nil {
		return partner.ID
	}
	if to := m.DetailOf(sym); to != nil && len(to.Symbols) > 0 {
		return to.Symbols[0].ID
	}
	return ""
}

// OpensInto returns the steps that open into a sheet, in the order of the sheets and of drawing.
func (m *Map) OpensInto(s *Sheet) []Half {
	var out []Half
	for _, o := range m.Sheets {
		for _, sym := range o.Symbols {
			if sym.Detail == s.ID && sym.Kind.IsStep() {
				out = append(out, Half{o, sym})
			}
		}
	}
	return out
}

// WayTo returns the steps through which one comes to a sheet, the outermost first: of several that open into one, the
// first. There are none for a sheet that is no detail.
func (m *Map) WayTo(s *Sheet) []Half {
	var way []Half
	for range MaxDepth + 1 {
		list := m.OpensInto(s)
		if len(list) == 0 {
			break
		}
		way, s = append([]Half{list[0]}, way...), list[0].Sheet
	}
	return way
}

// CheckDetails returns the first fault in how the sheets of a map open into each other: a way that leads back to where
// it comes from, or one that is more than MaxDepth deep. It names the way by the texts of its steps.
func (m *Map) CheckDetails() error {
	details := map[*Sheet][]Half{} // the steps on a sheet that open into another, under their sheet
	for _, s := range m.Sheets {
		if s == nil {
			continue
		}
		for _, sym := range s.Symbols {
			if sym == nil {
				continue
			}
			if to := m.DetailOf(sym); to != nil {
				details[s] = append(details[s], Half{s, sym})
			}
		}
	}
	if len(details) == 0 {
		return nil
	}
	deepest := map[*Sheet]int{} // of the sheets that were looked through: how deep they go
	var walk func(s *Sheet, way []Half) error
	walk = func(s *Sheet, way []Half) error {
		for i, h := range way {
			if h.Sheet == s {
				return fault("detail", "details would lead in a circle: %s", told(way[i:]))
			}
		}
		if _, known := deepest[s]; known && len(way)+deepest[s] <= MaxDepth {
			return nil
		}
		if len(way) > MaxDepth {
			return fault("detail", "details lie at most %d deep in each other: %s", MaxDepth, told(way))
		}
		most := 0
		for _, h := range details[s] {
			to := m.DetailOf(h.Symbol)
			if err := walk(to, append(way, h)); err != nil {
				return err
			}
			most = max(most, deepest[to]+1)
		}
		deepest[s] = most
		return nil
	}
	for _, s := range m.Sheets {
		if len(details[s]) > 0 {
			if err := walk(s, nil); err != nil {
				return err
			}
		}
	}
	return nil
}

// told names the steps of a way.
func told(way []Half) string {
	words := make([]string, len(way))
	for i, h := range way {
		words[i] = h.Symbol.Describe() + " on " + Quote(h.Sheet.Name)
	}
	return strings.Join(words, ", ")
}
