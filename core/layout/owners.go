package layout

import (
	"plaintracer/core/flow"
	"plaintracer/core/model"
)

// Owners says who owns each symbol of a sheet that belongs to the work, empty for
// nobody: its own owner, or, for what is no step, that of the step it belongs to
// or leads to, or comes from.
func Owners(m *model.Map, s *model.Sheet) map[string]string {
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
	links := flow.Links(s)
	for range s.Symbols { // along the flow, as far as it takes
		changed := false
		take := func(sym, from *model.Symbol) {
			if sym == nil || from == nil {
				return
			}
			owner, known := out[sym.ID]
			if known && owner == "" && out[from.ID] != "" && !sym.Kind.IsStep() {
				out[sym.ID], changed = out[from.ID], true
			}
		}
		for _, k := range links { // what comes before first, so that an end is of the one who reaches it
			take(k.To, k.From)
		}
		for _, k := range links {
			take(k.From, k.To)
		}
		if !changed {
			break
		}
	}
	return out
}
