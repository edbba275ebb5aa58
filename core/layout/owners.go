package layout

import (
	"plaintracer/core/diagram"
)

// Owners says who owns each symbol of a sheet that belongs to the work, empty for
// nobody: its own owner, or, for what is no step, that of the step it belongs to
// or leads to, or comes from.
func Owners(m *diagram.Map, s *diagram.Sheet) map[string]string {
	l := &layout{m: m, s: s, at: map[string]int{}}
	l.gather()
	out := map[string]string{}
	for i, sym := range l.list {
		out[sym.ID] = s.OwnerOf(sym)
		for _, sat := range l.satellites[i] {
			if out[sat.ID] = s.OwnerOf(sat); out[sat.ID] == "" {
				out[sat.ID] = out[sym.ID]
			}
		}
	}
	for range s.Symbols { // along the flow, as far as it takes
		changed := false
		take := func(id, from string) {
			sym := s.Symbol(id)
			owner, known := out[id]
			if known && owner == "" && out[from] != "" && !sym.Kind.IsStep() {
				out[id], changed = out[from], true
			}
		}
		for _, c := range s.Connectors { // what comes before first, so that an end is of the one who reaches it
			from, to := s.Leads(c)
			take(to, from)
		}
		for _, c := range s.Connectors {
			from, to := s.Leads(c)
			take(from, to)
		}
		if !changed {
			break
		}
	}
	return out
}
