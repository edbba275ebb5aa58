package desk

import (
	"fmt"
	"slices"

	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// Lines, lanes and stages are reached by keys as steps are: one key goes from steps to lines, to lanes and to stages,
// and the keys that go along the flow go on within them.

// walk is what is gone through: the ids of all of a kind on the sheet, in the order in which they are read.
type walk struct {
	what string
	ids  []string
}

// walks lists what the sheet has beside its steps.
func (e *Selecting) walks() []walk {
	s := e.Sheet()
	lines, lanes, stages := walk{what: "connector"}, walk{what: "lane"}, walk{what: "stage"}
	for _, n := range numbering.Reading(e.Flow()) {
		for _, c := range s.Connectors {
			if c.From.Symbol == n.Symbol.ID {
				lines.ids = append(lines.ids, c.ID)
			}
		}
	}
	for _, c := range s.Connectors { // those that belong to no flow
		if !slices.Contains(lines.ids, c.ID) {
			lines.ids = append(lines.ids, c.ID)
		}
	}
	for _, p := range s.Pools {
		for _, l := range p.Lanes {
			lanes.ids = append(lanes.ids, l.ID)
		}
		for _, st := range p.Stages {
			stages.ids = append(stages.ids, st.ID)
		}
	}
	return []walk{lines, lanes, stages}
}

// walking returns on which of the walks the selection is, and where on it; -1 where it is a step, or nothing, or a line
// that was not come to by keys.
func (e *Selecting) walking() (list []walk, on, at int) {
	list = e.walks()
	id := e.Lane
	if c := e.Connector(); c != nil && c.ID == e.CameTo {
		id = c.ID
	}
	for on := range list {
		if at := slices.Index(list[on].ids, id); at >= 0 {
			return list, on, at
		}
	}
	return list, -1, 0
}

// reach selects a line, lane or stage.
func (e *Selecting) reach(id string) {
	e.CameTo = id
	if e.Sheet().Connector(id) != nil {
		e.goTo(id)
		return
	}
	e.Sel, e.Lane, e.Inside = nil, id, ""
}

// Walk goes to the next line, lane or stage, or to the one before; it reports false where a step is selected, or
// nothing.
func (e *Selecting) Walk(back bool) bool {
	list, on, at := e.walking()
	if on < 0 {
		return false
	}
	by, end := 1, "last"
	if back {
		by, end = -1, "first"
	}
	if at += by; at < 0 || at >= len(list[on].ids) {
		e.Say("This is the %s %s.", end, list[on].what)
		return true
	}
	e.reach(list[on].ids[at])
	return true
}

// Others goes from steps to lines, from these to lanes, to stages and to steps again, each time to what is nearest.
func (e *Selecting) Others() {
	if c := e.Connector(); c != nil {
		e.CameTo = c.ID
	}
	list, on, at := e.walking()
	near := func(kind int) string {
		ids := list[kind].ids
		switch sym := e.about(list, on, at); {
		case sym == nil:
		case kind == 0:
			if exits := e.Flow().Exits(sym.ID); len(exits) > 0 {
				return exits[0].Connector.ID
			} else if entries := e.Flow().Entries(sym.ID); len(entries) > 0 {
				return entries[0].Connector.ID
			}
		case kind == 1:
			if lane := e.Sheet().LaneOf(sym); lane != nil {
				return lane.ID
			}
		default:
			if stage := e.Sheet().StageOf(sym); stage != nil {
				return stage.ID
			}
		}
		return ids[0]
	}
	for next := on + 1; next < len(list); next++ {
		if len(list[next].ids) > 0 {
			e.reach(near(next))
			return
		}
	}
	if sym := e.about(list, on, at); sym != nil && on >= 0 {
		e.goTo(sym.ID)
		return
	}
	e.Lane, e.Sel = "", nil
	e.ToEnd(false)
}

// about returns a step that belongs to what is selected: itself, the one a line comes from, one in the lane or stage;
// nil where there is none.
func (e *Selecting) about(list []walk, on, at int) *model.Symbol {
	s := e.Sheet()
	if on < 0 {
		return e.One()
	}
	id := list[on].ids[at]
	if c := s.Connector(id); c != nil {
		from, to := s.Leads(c)
		if sym := s.Symbol(from); sym != nil {
			return sym
		}
		return s.Symbol(to)
	}
	for _, n := range numbering.Reading(e.Flow()) {
		lane, stage := s.LaneOf(n.Symbol), s.StageOf(n.Symbol)
		if n.Sheet == s && (lane != nil && lane.ID == id || stage != nil && stage.ID == id) {
			return n.Symbol
		}
	}
	return nil
}

// place says where on its walk the selection is, for those who do not see it.
func (e *Selecting) place() string {
	list, on, at := e.walking()
	if on < 0 || len(list[on].ids) < 2 {
		return ""
	}
	return fmt.Sprintf(", %d of %d", at+1, len(list[on].ids))
}
