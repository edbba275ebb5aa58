package editor

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Symbols that are grouped are selected, moved and lined up as one. Inside is
// the group whose members can be taken one by one; empty outside all groups.

// unitOf returns the ids of all that is selected with a symbol: the members of
// the group it belongs to, or itself alone. Outside the group one works in, that
// is left.
func (e *Window) unitOf(id string) []string {
	sym := e.symbol(id)
	if sym == nil {
		return []string{id}
	}
	if !sym.InGroup(e.inside) {
		e.inside = ""
	}
	group := sym.GroupWithin(e.inside)
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

// units returns the selected symbols, those of a group together, in the order
// they were selected.
func (e *Selecting) units() [][]*model.Symbol {
	var out [][]*model.Symbol
	at := map[string]int{}
	for _, sym := range e.chosen() {
		group := sym.GroupWithin(e.inside)
		if i, ok := at[group]; ok && group != "" {
			out[i] = append(out[i], sym)
			continue
		}
		at[group] = len(out)
		out = append(out, []*model.Symbol{sym})
	}
	// The unit selected last comes last.
	if n := len(e.chosen()); n > 0 {
		last := e.chosen()[n-1]
		i := slices.IndexFunc(out, func(u []*model.Symbol) bool { return slices.Contains(u, last) })
		out = append(slices.Delete(slices.Clone(out), i, i+1), out[i])
	}
	return out
}

// places returns the boxes of the selected units, each under the id of its
// first symbol.
func (e *Selecting) places() []edit.Place {
	var out []edit.Place
	for _, u := range e.units() {
		var b geometry.Box
		for _, sym := range u {
			b = b.Union(sym.Box)
		}
		out = append(out, edit.Place{ID: u[0].ID, Box: b})
	}
	return out
}

// spread turns places of units into places of their symbols.
func (e *Selecting) spread(moved []edit.Place) []edit.Place {
	before := map[string]geometry.Box{}
	for _, p := range e.places() {
		before[p.ID] = p.Box
	}
	var out []edit.Place
	for _, p := range moved {
		d := p.Corner().Sub(before[p.ID].Corner())
		for _, u := range e.units() {
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

// group holds the selected units together.
func (e *Selecting) group() {
	list := e.chosen()
	if len(e.units()) < 2 {
		e.say("These are a group already.")
		return
	}
	within := e.inside
	for _, sym := range list {
		if !sym.InGroup(within) {
			within = ""
		}
	}
	prefix := e.newID()
	if within != "" {
		prefix = within + "/" + prefix
	}
	set := &edit.SetGroups{Sheet: e.sheetID, As: "group"}
	for _, sym := range list {
		path := prefix
		if rest := strings.TrimPrefix(strings.TrimPrefix(sym.Group, within), "/"); rest != "" {
			path += "/" + rest
		}
		set.Groups = append(set.Groups, edit.Membership{ID: sym.ID, Group: path})
	}
	e.do(set)
}

// ungroup takes the selected groups apart; those inside them stay.
func (e *Selecting) ungroup() {
	set := &edit.SetGroups{Sheet: e.sheetID, As: "ungroup"}
	for _, sym := range e.chosen() {
		group := sym.GroupWithin(e.inside)
		if group == "" {
			continue
		}
		rest := strings.TrimPrefix(strings.TrimPrefix(sym.Group, group), "/")
		set.Groups = append(set.Groups, edit.Membership{ID: sym.ID, Group: strings.Trim(e.inside+"/"+rest, "/")})
	}
	e.do(set)
}

// enter goes inside the group of the symbol selected last, and selects it there.
func (e *Selecting) enter(id string) {
	sym := e.symbol(id)
	if sym == nil || sym.GroupWithin(e.inside) == "" {
		return
	}
	e.inside = sym.GroupWithin(e.inside)
	e.sel = e.unitOf(id)
}

// leave goes out of the group one works in and selects it as a whole.
func (e *Selecting) leave() {
	group := e.inside
	e.inside = group[:max(strings.LastIndex(group, "/"), 0)]
	e.sel = nil
	for _, sym := range e.Sheet().Symbols {
		if sym.InGroup(group) {
			e.sel = append(e.sel, sym.ID)
		}
	}
}

// lock locks what is selected, or unlocks it when the first of it is locked.
func (e *Selecting) lock() {
	s := e.Sheet()
	locked := false
	if sym := s.Symbol(e.sel[0]); sym != nil {
		locked = sym.Locked
	} else if c := s.Connector(e.sel[0]); c != nil {
		locked = c.Locked
	} else if p := s.Pool(e.sel[0]); p != nil {
		locked = p.Locked
	}
	e.do(&edit.SetLock{Sheet: e.sheetID, IDs: slices.Clone(e.sel), Locked: !locked})
}

// locked reports whether the symbol, connector or pool is locked.
func (e *Window) locked(id string) bool {
	s := e.Sheet()
	sym, c, p := s.Symbol(id), s.Connector(id), s.Pool(id)
	return sym != nil && sym.Locked || c != nil && c.Locked || p != nil && p.Locked
}
