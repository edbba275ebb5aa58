package desk

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Symbols that are grouped are selected, moved and lined up as one. Inside is
// the group whose members can be taken one by one; empty outside all groups.

// UnitOf returns the ids of all that is selected with a symbol: the members of
// the group it belongs to, or itself alone. Outside the group one works in, that
// is left.
func (e *Window) UnitOf(id string) []string {
	sym := e.Symbol(id)
	if sym == nil {
		return []string{id}
	}
	if !sym.InGroup(e.Inside) {
		e.Inside = ""
	}
	group := sym.GroupWithin(e.Inside)
	if group == "" {
		return []string{id}
	}
	var out []string
	for _, o := range e.Sheet().Symbols {
		if o.InGroup(group) && o.ID != id {
			out = append(out, o.ID)
		}
	}
	return append(out, id)
}

// Units returns the selected symbols, those of a group together, in the order
// they were selected.
func (e *Selecting) Units() [][]*model.Symbol {
	var out [][]*model.Symbol
	at := map[string]int{}
	for _, sym := range e.Chosen() {
		group := sym.GroupWithin(e.Inside)
		if i, ok := at[group]; ok && group != "" {
			out[i] = append(out[i], sym)
			continue
		}
		at[group] = len(out)
		out = append(out, []*model.Symbol{sym})
	}
	// The unit selected last comes last.
	if n := len(e.Chosen()); n > 0 {
		last := e.Chosen()[n-1]
		i := slices.IndexFunc(out, func(u []*model.Symbol) bool { return slices.Contains(u, last) })
		out = append(slices.Delete(slices.Clone(out), i, i+1), out[i])
	}
	return out
}

// Places returns the boxes of the selected units, each under the id of its
// first symbol.
func (e *Selecting) Places() []edit.Place {
	var out []edit.Place
	for _, u := range e.Units() {
		var b geometry.Box
		for _, sym := range u {
			b = b.Union(sym.Box)
		}
		out = append(out, edit.Place{ID: u[0].ID, Box: b})
	}
	return out
}

// Spread turns places of units into places of their symbols.
func (e *Selecting) Spread(moved []edit.Place) []edit.Place {
	before := map[string]geometry.Box{}
	for _, p := range e.Places() {
		before[p.ID] = p.Box
	}
	var out []edit.Place
	for _, p := range moved {
		d := p.Corner().Sub(before[p.ID].Corner())
		for _, u := range e.Units() {
			if u[0].ID != p.ID {
				continue
			}
			for _, sym := range u {
				out = append(out, edit.Place{ID: sym.ID, Box: sym.Moved(d)})
			}
		}
	}
	return out
}

// Group holds the selected units together.
func (e *Selecting) Group() {
	list := e.Chosen()
	if len(e.Units()) < 2 {
		e.Say("These are a group already.")
		return
	}
	within := e.Inside
	for _, sym := range list {
		if !sym.InGroup(within) {
			within = ""
		}
	}
	prefix := e.NewID()
	if within != "" {
		prefix = within + "/" + prefix
	}
	set := &edit.SetGroups{Sheet: e.SheetID, As: "group"}
	for _, sym := range list {
		path := prefix
		if rest := strings.TrimPrefix(strings.TrimPrefix(sym.Group, within), "/"); rest != "" {
			path += "/" + rest
		}
		set.Groups = append(set.Groups, edit.Membership{ID: sym.ID, Group: path})
	}
	e.Do(set)
}

// Ungroup takes the selected groups apart; those inside them stay.
func (e *Selecting) Ungroup() {
	set := &edit.SetGroups{Sheet: e.SheetID, As: "ungroup"}
	for _, sym := range e.Chosen() {
		group := sym.GroupWithin(e.Inside)
		if group == "" {
			continue
		}
		rest := strings.TrimPrefix(strings.TrimPrefix(sym.Group, group), "/")
		set.Groups = append(set.Groups, edit.Membership{ID: sym.ID, Group: strings.Trim(e.Inside+"/"+rest, "/")})
	}
	e.Do(set)
}

// Enter goes inside the group of the symbol selected last, and selects it there.
func (e *Selecting) Enter(id string) {
	sym := e.Symbol(id)
	if sym == nil || sym.GroupWithin(e.Inside) == "" {
		return
	}
	e.Inside = sym.GroupWithin(e.Inside)
	e.Sel = e.UnitOf(id)
}

// Leave goes out of the group one works in and selects it as a whole.
func (e *Selecting) Leave() {
	group := e.Inside
	e.Inside = group[:max(strings.LastIndex(group, "/"), 0)]
	e.Sel = nil
	for _, sym := range e.Sheet().Symbols {
		if sym.InGroup(group) {
			e.Sel = append(e.Sel, sym.ID)
		}
	}
}

// Lock locks what is selected, or unlocks it when the first of it is locked.
func (e *Selecting) Lock() {
	s := e.Sheet()
	locked := false
	if sym := s.Symbol(e.Sel[0]); sym != nil {
		locked = sym.Locked
	} else if c := s.Connector(e.Sel[0]); c != nil {
		locked = c.Locked
	} else if p := s.Pool(e.Sel[0]); p != nil {
		locked = p.Locked
	}
	e.Do(&edit.SetLock{Sheet: e.SheetID, IDs: slices.Clone(e.Sel), Locked: !locked})
}

// Locked reports whether the symbol, connector or pool is locked.
func (e *Window) Locked(id string) bool {
	s := e.Sheet()
	sym, c, p := s.Symbol(id), s.Connector(id), s.Pool(id)
	return sym != nil && sym.Locked || c != nil && c.Locked || p != nil && p.Locked
}
