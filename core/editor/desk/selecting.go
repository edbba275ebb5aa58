package desk

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

// Pick selects symbols, the last of them last.
func (e *Selecting) Pick(list []*model.Symbol) {
	e.Sel, e.Lane = nil, ""
	for _, sym := range list {
		e.Sel = append(e.Sel, sym.ID)
	}
}

// Reachable returns the symbols that can be reached from those selected, along
// the flow or against it, the selected ones included.
func (e *Selecting) Reachable(against bool) []*model.Symbol {
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
	for _, sym := range e.Chosen() {
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

// SelectKind selects all of the kinds that are selected.
func (e *Selecting) SelectKind() {
	kinds := map[model.Kind]bool{}
	for _, sym := range e.Chosen() {
		kinds[sym.Kind] = true
	}
	s := e.Sheet()
	lines := slices.ContainsFunc(e.Sel, func(id string) bool { return s.Connector(id) != nil })
	e.Pick(slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return !kinds[sym.Kind] }))
	for _, c := range s.Connectors {
		if lines {
			e.Sel = append(e.Sel, c.ID)
		}
	}
}

// LanesChosen returns the lanes that are selected or hold something selected.
func (e *Selecting) LanesChosen() map[*model.Lane]bool {
	s, in := e.Sheet(), map[*model.Lane]bool{}
	if pool, i := e.LaneSelected(); pool != nil {
		in[&pool.Lanes[i]] = true
	}
	for _, sym := range e.Chosen() {
		if lane := s.LaneOf(sym); lane != nil {
			in[lane] = true
		}
	}
	return in
}

// SelectLane selects all in the lanes of what is selected, or in the stage that is.
func (e *Selecting) SelectLane() {
	s, in := e.Sheet(), e.LanesChosen()
	if pool, i := e.StageSelected(); pool != nil {
		e.Pick(slices.DeleteFunc(slices.Clone(s.Symbols),
			func(sym *model.Symbol) bool { return s.StageOf(sym) != &pool.Stages[i] }))
		return
	}
	e.Pick(slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return !in[s.LaneOf(sym)] }))
}

// goTo selects one thing and brings it into sight.
func (e *Selecting) goTo(id string) {
	e.Sel, e.Lane, e.Centre = []string{id}, "", id
	if sym := e.Symbol(id); sym != nil {
		e.Inside = sym.Group // one member of a group can be walked to
		e.Cards.ShowCard(id)
		e.Journeys.ShowCell(id)
	}
}

// Along goes to the next symbol along the flow, or to the one before.
func (e *Selecting) Along(back bool) {
	if e.Walk(back) {
		return
	}
	sym := e.One()
	if sym == nil {
		e.ToEnd(back)
		return
	}
	if !back {
		if exits := e.Flow().Exits(sym.ID); len(exits) > 0 {
			e.goTo(exits[0].To.Symbol.ID)
			return
		}
		e.Say("The flow goes no further on this sheet.")
		return
	}
	// The way in that does not lead back; of several the first.
	entries := e.Flow().Entries(sym.ID)
	if len(entries) == 0 {
		e.Say("Nothing leads here on this sheet.")
		return
	}
	best := max(slices.IndexFunc(entries, func(x *flow.Exit) bool { return !x.Back }), 0)
	e.goTo(entries[best].From.Symbol.ID)
}

// Sibling goes to the next exit of the step before: from branch to branch.
func (e *Selecting) Sibling() {
	sym := e.One()
	for _, x := range e.Flow().Entries(sym.ID) {
		exits := e.Flow().Exits(x.From.Symbol.ID)
		if i := slices.IndexFunc(exits, func(o *flow.Exit) bool { return o.To == x.To }); len(exits) > 1 && i >= 0 {
			e.goTo(exits[(i+1)%len(exits)].To.Symbol.ID)
			return
		}
	}
	// At a decision itself: its last exit, since the first is next anyway.
	if exits := e.Flow().Exits(sym.ID); len(exits) > 1 {
		e.goTo(exits[len(exits)-1].To.Symbol.ID)
		return
	}
	e.Say("There is no other branch here.")
}

// ToEnd goes to the first symbol of the flow on the sheet, or to the last; from a line, lane or stage to the first or
// last of these.
func (e *Selecting) ToEnd(last bool) {
	s := e.Sheet()
	if on, ids, _ := e.walking(); on >= 0 {
		at := 0
		if last {
			at = len(ids) - 1
		}
		e.reach(ids[at])
		return
	}
	var found *model.Symbol
	for _, step := range numbering.Of(e.Flow()) {
		if step.Sheet == s && (found == nil || last) {
			found = step.Symbol
		}
	}
	for _, sym := range s.Symbols {
		if sym.Kind.IsEnd() && last == (len(e.Flow().Entries(sym.ID)) > 0) {
			found = sym
			break
		}
	}
	if found == nil && len(s.Symbols) > 0 {
		found = s.Symbols[0]
	}
	if found == nil {
		e.Say("There is nothing on this sheet yet.")
		return
	}
	e.goTo(found.ID)
}

// OpenDecision returns the nearest decision the selected step comes from that
// has an answer left, or the selected decision itself once it has an exit;
// empty when there is none.
func (e *Selecting) OpenDecision() string {
	sym := e.One()
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
		if e.Work().NextAnswer(id) != "" && (id != sym.ID || len(e.Flow().Exits(id)) > 0) {
			return id
		}
		for _, x := range e.Flow().Entries(id) {
			queue = append(queue, x.From.Symbol.ID)
		}
	}
	return ""
}

// FurtherExit adds a step for an answer that has none yet.
func (e *Selecting) FurtherExit() {
	e.Sel = []string{e.OpenDecision()}
	e.Writing.AppendStep(model.Process)
}

// Band selects what a rubber band touches, or only what lies wholly in it: symbols and
// connectors.
func (e *Selecting) Band(b geometry.Box, add, whole bool) {
	if !add {
		e.Sel = nil
	}
	take := func(id string) {
		if !slices.Contains(e.Sel, id) {
			e.Sel = append(e.Sel, id)
		}
	}
	for _, sym := range e.Sheet().Symbols {
		in := sym.Meets(b)
		if whole || symbols.Of(sym.Kind).Hollow {
			in = b.Holds(sym.Box)
		}
		if in {
			for _, id := range e.UnitOf(sym.ID) {
				take(id)
			}
		}
	}
	e.Refresh()
	for i, c := range e.Sheet().Connectors {
		if i >= len(e.Routed) || len(e.Routed[i].Points) < 2 {
			continue
		}
		pts := e.Routed[i].Points
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
