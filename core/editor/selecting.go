package editor

import (
	"slices"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
)

// What can be selected otherwise than by the pointer: all of a kind, all in a
// lane, along the flow.

// pick selects symbols, the last of them last.
func (e *Selecting) pick(list []*model.Symbol) {
	e.sel, e.lane = nil, ""
	for _, sym := range list {
		e.sel = append(e.sel, sym.ID)
	}
}

// reachable returns the symbols that can be reached from those selected, along
// the flow or against it, the selected ones included.
func (e *Selecting) reachable(against bool) []*model.Symbol {
	s := e.Sheet()
	next := map[string][]string{}
	for _, l := range flow.Links(s) {
		if l.From == nil || l.To == nil {
			continue
		}
		from, to := l.From.ID, l.To.ID
		if against {
			from, to = to, from
		}
		next[from] = append(next[from], to)
	}
	in := map[string]bool{}
	queue := []string{}
	for _, sym := range e.chosen() {
		in[sym.ID] = true
		queue = append(queue, sym.ID)
	}
	for len(queue) > 0 {
		id := queue[0]
		queue = queue[1:]
		for _, to := range next[id] {
			if !in[to] {
				in[to] = true
				queue = append(queue, to)
			}
		}
	}
	return slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return !in[sym.ID] })
}

func (e *Selecting) selectKind() {
	kinds := map[model.Kind]bool{}
	for _, sym := range e.chosen() {
		kinds[sym.Kind] = true
	}
	s := e.Sheet()
	lines := slices.ContainsFunc(e.sel, func(id string) bool { return s.Connector(id) != nil })
	e.pick(slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return !kinds[sym.Kind] }))
	for _, c := range s.Connectors {
		if lines {
			e.sel = append(e.sel, c.ID)
		}
	}
}

// lanesChosen returns the lanes that are selected or hold something selected.
func (e *Selecting) lanesChosen() map[*model.Lane]bool {
	s, in := e.Sheet(), map[*model.Lane]bool{}
	if pool, i := e.laneSelected(); pool != nil {
		in[&pool.Lanes[i]] = true
	}
	for _, sym := range e.chosen() {
		if lane := s.LaneOf(sym); lane != nil {
			in[lane] = true
		}
	}
	return in
}

func (e *Selecting) selectLane() {
	s, in := e.Sheet(), e.lanesChosen()
	e.pick(slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return !in[s.LaneOf(sym)] }))
}

// goTo selects one thing and brings it into sight.
func (e *Selecting) goTo(id string) {
	e.sel, e.lane, e.centre = []string{id}, "", id
	if sym := e.symbol(id); sym != nil {
		e.inside = sym.Group // one member of a group can be walked to
	}
}

// along goes to the next symbol along the flow, or to the one before.
func (e *Selecting) along(back bool) {
	sym := e.one()
	if sym == nil {
		e.toEnd(back)
		return
	}
	if !back {
		if exits := e.flow().Exits(sym.ID); len(exits) > 0 {
			e.goTo(exits[0].To.Symbol.ID)
			return
		}
		e.say("The flow goes no further on this sheet.")
		return
	}
	// The way in that does not lead back; of several the first.
	entries := e.flow().Entries(sym.ID)
	if len(entries) == 0 {
		e.say("Nothing leads here on this sheet.")
		return
	}
	best := max(slices.IndexFunc(entries, func(x *flow.Exit) bool { return !x.Back }), 0)
	e.goTo(entries[best].From.Symbol.ID)
}

// sibling goes to the next exit of the step before: from branch to branch.
func (e *Selecting) sibling() {
	sym := e.one()
	for _, x := range e.flow().Entries(sym.ID) {
		exits := e.flow().Exits(x.From.Symbol.ID)
		if i := slices.IndexFunc(exits, func(o *flow.Exit) bool { return o.To == x.To }); len(exits) > 1 && i >= 0 {
			e.goTo(exits[(i+1)%len(exits)].To.Symbol.ID)
			return
		}
	}
	// At a decision itself: its last exit, since the first is next anyway.
	if exits := e.flow().Exits(sym.ID); len(exits) > 1 {
		e.goTo(exits[len(exits)-1].To.Symbol.ID)
		return
	}
	e.say("There is no other branch here.")
}

// toEnd goes to the first symbol of the flow on the sheet, or to the last.
func (e *Selecting) toEnd(last bool) {
	s := e.Sheet()
	var found *model.Symbol
	for _, step := range numbering.Of(e.flow()) {
		if step.Sheet == s && (found == nil || last) {
			found = step.Symbol
		}
	}
	for _, sym := range s.Symbols {
		if sym.Kind.IsEnd() && last == (len(e.flow().Entries(sym.ID)) > 0) {
			found = sym
			break
		}
	}
	if found == nil && len(s.Symbols) > 0 {
		found = s.Symbols[0]
	}
	if found == nil {
		e.say("There is nothing on this sheet yet.")
		return
	}
	e.goTo(found.ID)
}

// openDecision returns the nearest decision the selected step comes from that
// has an answer left, or the selected decision itself once it has an exit;
// empty when there is none.
func (e *Selecting) openDecision() string {
	sym := e.one()
	seen := map[string]bool{}
	queue := []string{sym.ID}
	for len(queue) > 0 {
		id := queue[0]
		queue = queue[1:]
		if seen[id] {
			continue
		}
		seen[id] = true
		// A decision that has no exit at all goes on by the plain key.
		if e.work().NextAnswer(id) != "" && (id != sym.ID || len(e.flow().Exits(id)) > 0) {
			return id
		}
		for _, x := range e.flow().Entries(id) {
			queue = append(queue, x.From.Symbol.ID)
		}
	}
	return ""
}

// furtherExit adds a step for an answer that has none yet.
func (e *Selecting) furtherExit() {
	e.sel = []string{e.openDecision()}
	e.Writing.appendStep(model.Process)
}

// band selects what a rubber band touches, or only what lies wholly in it: symbols and
// connectors.
func (e *Selecting) band(b geometry.Box, add, whole bool) {
	if !add {
		e.sel = nil
	}
	take := func(id string) {
		if !slices.Contains(e.sel, id) {
			e.sel = append(e.sel, id)
		}
	}
	for _, sym := range e.Sheet().Symbols {
		in := sym.Meets(b)
		if whole || symbols.Of(sym.Kind).Hollow {
			in = b.Holds(sym.Box)
		}
		if in {
			for _, id := range e.unitOf(sym.ID) {
				take(id)
			}
		}
	}
	e.refresh()
	for i, c := range e.Sheet().Connectors {
		if i >= len(e.courses) || len(e.courses[i].Points) < 2 {
			continue
		}
		pts := e.courses[i].Points
		if whole && b.Holds(pts.Bounds()) || !whole && crosses(pts, b) {
			take(c.ID)
		}
	}
}

// crosses reports whether a line runs through a box.
func crosses(pts geometry.Polyline, b geometry.Box) bool {
	for i := 0; i+1 < len(pts); i++ {
		if b.Touches(pts[i], pts[i+1]) {
			return true
		}
	}
	return false
}
