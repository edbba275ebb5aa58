package desk

import (
	"cmp"
	"fmt"
	"slices"

	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// Lines, lanes and stages are reached by keys as steps are: one key goes from steps to lines, to lanes and to stages,
// and the keys that go along the flow go on within them.

// walk is what is gone through: all of a kind on the sheet.
type walk struct {
	what string
	// ids are those of all of them, in the order in which they are read.
	ids func(e *Selecting) []string
}

// walks is what a sheet has beside its steps.
var walks = []walk{
	{"connector", (*Selecting).lineIDs},
	{"lane", func(e *Selecting) (ids []string) {
		for _, p := range e.Sheet().Pools {
			for _, l := range p.Lanes {
				ids = append(ids, l.ID)
			}
		}
		return ids
	}},
	{"stage", func(e *Selecting) (ids []string) {
		for _, p := range e.Sheet().Pools {
			for _, st := range p.Stages {
				ids = append(ids, st.ID)
			}
		}
		return ids
	}},
}

// The places of the walks among them.
const (
	lineWalk = iota
	laneWalk
	stageWalk
)

// lineIDs lists the connectors of the sheet along the flow, then those that belong to none.
func (e *Selecting) lineIDs() (ids []string) {
	from := map[string][]string{}
	for _, c := range e.Sheet().Connectors {
		from[c.From.Symbol] = append(from[c.From.Symbol], c.ID)
	}
	for _, n := range numbering.Reading(e.Flow()) {
		ids = append(ids, from[n.Symbol.ID]...)
		delete(from, n.Symbol.ID)
	}
	for _, c := range e.Sheet().Connectors {
		ids = append(ids, from[c.From.Symbol]...)
		delete(from, c.From.Symbol)
	}
	return ids
}

// walking returns on which walk the selection is, all that is on that, and where the selection is there; -1 where it is
// a step, or nothing, or a line that was not come to by keys.
func (e *Selecting) walking() (on int, ids []string, at int) {
	if c := e.Connector(); c != nil && c.ID == e.CameTo {
		ids = walks[lineWalk].ids(e)
		return lineWalk, ids, slices.Index(ids, c.ID)
	}
	for _, on := range [...]int{laneWalk, stageWalk} {
		ids = walks[on].ids(e)
		if at := slices.Index(ids, e.Lane); at >= 0 {
			return on, ids, at
		}
	}
	return -1, nil, 0
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
	on, ids, at := e.walking()
	if on < 0 {
		return false
	}
	by, end := 1, "last"
	if back {
		by, end = -1, "first"
	}
	if at += by; at < 0 || at >= len(ids) {
		e.Say("This is the %s %s.", end, walks[on].what)
		return true
	}
	e.reach(ids[at])
	return true
}

// Others goes from steps to lines, from these to lanes, to stages and to steps again, each time to what is nearest.
func (e *Selecting) Others() {
	if c := e.Connector(); c != nil {
		e.CameTo = c.ID
	}
	on, ids, at := e.walking()
	about := e.One()
	if on >= 0 {
		about = e.about(ids[at])
	}
	for next := on + 1; next < len(walks); next++ {
		if ids := walks[next].ids(e); len(ids) > 0 {
			e.reach(cmp.Or(e.near(next, about), ids[0]))
			return
		}
	}
	if on >= 0 && about != nil {
		e.goTo(about.ID)
		return
	}
	e.Lane, e.Sel = "", nil
	e.ToEnd(false)
}

// near returns what of a walk is nearest to a step: a line at it, its lane or its stage; empty where there is none.
func (e *Selecting) near(on int, sym *model.Symbol) string {
	if sym == nil {
		return ""
	}
	switch on {
	case lineWalk:
		if exits := e.Flow().Exits(sym.ID); len(exits) > 0 {
			return exits[0].Connector.ID
		} else if entries := e.Flow().Entries(sym.ID); len(entries) > 0 {
			return entries[0].Connector.ID
		}
	case laneWalk:
		if lane := e.Sheet().LaneOf(sym); lane != nil {
			return lane.ID
		}
	case stageWalk:
		if stage := e.Sheet().StageOf(sym); stage != nil {
			return stage.ID
		}
	}
	return ""
}

// about returns the step to which a line, lane or stage belongs: the one a line comes from, one in the lane or stage;
// nil where there is none.
func (e *Selecting) about(id string) *model.Symbol {
	s := e.Sheet()
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
	on, ids, at := e.walking()
	if on < 0 || len(ids) < 2 {
		return ""
	}
	return fmt.Sprintf(", %d of %d", at+1, len(ids))
}
