package diagram

func init() {
	register("setOwner", says[*SetOwner]("set the owner"))
}

// OwnerOf returns the name of the one who does a step: of its lane, or, where it
// stands in none, its own owner. It is empty for nobody.
func (s *Sheet) OwnerOf(sym *Symbol) string {
	if l := s.LaneOf(sym); l != nil {
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
				add(l.Name)
			}
		}
		for _, sym := range s.Symbols {
			add(sym.Owner)
		}
	}
	return out
}

// SetOwner says who does steps that stand in no lane: a role, a department or a
// person; empty for nobody.
type SetOwner struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Owner string   `json:"owner"`
}

func (e *SetOwner) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		sym.Owner = e.Owner
	}
	return nil
}
