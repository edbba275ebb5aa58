package model

import "strings"

// OwnerOf returns the name of the one who does a step: of its lane, or, where it
// stands in none, its own owner. It is empty for nobody.
func (s *Sheet) OwnerOf(sym *Symbol) string {
	if l := s.LaneOf(sym); l != nil && l.Row == "" {
		return l.Name
	}
	return sym.Owner
}

// Owners lists all that own steps of the map, in the order in which they come.
func (m *Map) Owners() []string {
	out := []string{}
	seen := map[string]bool{"": true}
	add := func(name string) {
		if !seen[name] {
			seen[name] = true
			out = append(out, name)
		}
	}
	for _, s := range m.Sheets {
		for _, p := range s.Pools {
			for _, l := range p.Lanes {
				if !p.Journey {
					add(l.Name)
				}
			}
		}
		for _, sym := range s.Symbols {
			if add(sym.Owner); s.IsCard(sym) && len(out) < mostOffered { // whoever is on a card can do a step
				for _, line := range strings.Split(sym.Text, "\n") {
					add(Flat(line))
				}
			}
		}
	}
	return out
}

// mostOffered is how many owners there may be for those on cards to be offered, too.
const mostOffered = 200
