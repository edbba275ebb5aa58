package editor

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/numbering"
)

// What can be done to lanes as wholes, and to those who own the steps.

// addLanes sets down a pool of three lanes, or one more lane in a pool that is
// there.
func (e *Editor) addLanes() {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		pool := s.Pools[len(s.Pools)-1]
		lane := diagram.Lane{ID: e.newID(), Name: "Lane " + strconv.Itoa(len(pool.Lanes)+1), H: pool.LaneStart()}
		if e.do(&diagram.InsertLane{Sheet: s.ID, Pool: pool.ID, At: len(pool.Lanes), Lane: lane}) {
			e.sel, e.lane = nil, lane.ID
			e.startWriting(lane.ID, false)
		}
		return
	}
	pool := e.work().NewPool([]string{"Lane 1", "Lane 2", "Lane 3"})
	if e.do(&diagram.AddPool{Sheet: s.ID, Pool: pool}) {
		e.sel, e.lane = nil, pool.Lanes[0].ID
	}
}

// addPool sets down a further pool, behind those that are there.
func (e *Editor) addPool() {
	s := e.Sheet()
	if len(s.Pools) == 0 {
		e.addLanes()
		return
	}
	pool := e.work().NewPool([]string{"Lane 1", "Lane 2"})
	last := s.Pools[len(s.Pools)-1]
	pool.Title, pool.Down, pool.W = "Another pool", last.Down, last.W
	at := last.Own(last.Box())
	for _, p := range s.Pools { // beyond all of them, in the frame of the last
		at.Y = max(at.Y, last.Own(p.Box()).Bottom())
	}
	corner := geometry.Point{X: at.X, Y: at.Y + arrange.Gap}.Turned(last.Down)
	pool.X, pool.Y = corner.X, corner.Y
	if e.do(&diagram.AddPool{Sheet: s.ID, Pool: pool}) {
		e.sel, e.lane = []string{pool.ID}, ""
		e.startWriting(pool.ID, false)
	}
}

func (e *Editor) insertLane(after int) {
	pool, i := e.laneSelected()
	lane := diagram.Lane{ID: e.newID(), Name: "New lane", H: pool.LaneStart(), Of: pool.Lanes[i].Of}
	if e.do(&diagram.InsertLane{Sheet: e.sheetID, Pool: pool.ID, At: i + after, Lane: lane}) {
		e.lane = lane.ID
		e.startWriting(lane.ID, false)
	}
}

// fill gives the selected lane a colour, or the selected symbols.
func (e *Editor) fill(colour string) {
	if pool, _ := e.laneSelected(); pool != nil {
		e.setLane(&diagram.SetLane{Fill: &colour})
		return
	}
	e.style(&diagram.SetStyle{Fill: &colour}, false)
}

// setLane changes the selected lane.
func (e *Editor) setLane(edit *diagram.SetLane) {
	pool, _ := e.laneSelected()
	edit.Sheet, edit.Pool, edit.Lane = e.sheetID, pool.ID, e.lane
	e.doMoving(edit)
}

// levelNames sets the names of lanes that lie across level, or turns them again.
func (e *Editor) levelNames() {
	s := e.Sheet()
	pool, _ := e.laneSelected()
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
	}
	if pool.Down {
		e.say("The names of lanes that run down the sheet are level already.")
		return
	}
	v := !pool.Level
	e.doMoving(&diagram.SetPool{Sheet: s.ID, Pool: pool.ID, Level: &v})
}

// moveLane takes the selected lane up or down in its pool.
func (e *Editor) moveLane(by int) {
	pool, i := e.laneSelected()
	if i+by < 0 || i+by >= len(pool.Lanes) {
		e.say("The lane is at the end of its pool.")
		return
	}
	e.doMoving(&diagram.MoveLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.lane, To: i + by})
}

// turnLanes turns the pool that is selected, or has the selected lane, or is the
// last of the sheet, with all that stands in it; the flow turns with it.
func (e *Editor) turnLanes() {
	s := e.Sheet()
	pool, _ := e.laneSelected()
	if pool == nil && len(e.sel) == 1 {
		pool = s.Pool(e.sel[0])
	}
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
	}
	turn := &diagram.TurnPool{Sheet: s.ID, Pool: pool.ID, Down: !pool.Down}
	way := diagram.Rightwards
	if turn.Down {
		way = diagram.Downwards
	}
	if e.m.Direction == way {
		e.do(turn)
	} else {
		e.do(diagram.Together(diagram.Words(e.m, turn), turn, &diagram.SetHead{Direction: &way}))
	}
}

// removeLane takes the selected lane away. Its steps stay where they are and join
// the lane beside it; with "above" or "below" they go into that lane, with
// "delete" they go, too.
func (e *Editor) removeLane(steps string) {
	pool, i := e.laneSelected()
	s, name := e.Sheet(), pool.Lanes[i].Name
	remove := &diagram.RemoveLane{Sheet: s.ID, Pool: pool.ID, Lane: e.lane}
	var members []string
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p == pool && k == i {
			members = append(members, sym.ID)
		}
	}
	to := i
	switch steps {
	case "above":
		to--
	case "below":
		to++
	}
	var edit diagram.Edit = remove
	said := fmt.Sprintf("The lane “%s” is gone; its steps, if any, stay where they are.", name)
	switch {
	case len(members) == 0:
	case steps == "delete":
		edit = diagram.Together(diagram.Words(e.m, remove), &diagram.RemoveItems{Sheet: s.ID, IDs: members}, remove)
		said = fmt.Sprintf("The lane “%s” is gone with its steps. Undo brings them back.", name)
	case to != i && (to < 0 || to >= len(pool.Lanes)):
		e.say("There is no lane on that side for its steps.")
		return
	case to != i:
		into := pool.Lanes[to].ID
		var steps []func() []diagram.Edit
		for _, id := range members {
			steps = append(steps, func() []diagram.Edit {
				sym := e.symbol(id)
				box, room := arrange.IntoLane(s, s.Pool(pool.ID), s.Pool(pool.ID).LaneIndex(into), sym)
				return append(room, &diagram.PlaceItems{Sheet: s.ID, Boxes: []diagram.Place{{ID: id, Box: box}}})
			})
		}
		steps = append(steps, func() []diagram.Edit { return []diagram.Edit{remove} })
		var err error
		if edit, err = e.inTurn(diagram.Words(e.m, remove), steps...); err != nil {
			e.say("Not done: %s.", err)
			return
		}
		said = fmt.Sprintf("The lane “%s” is gone; its steps stand in “%s”.", name, pool.Lanes[to].Name)
	}
	if e.doMoving(edit) && e.words == "" {
		e.say("%s", said)
	}
}

// lanesFromList makes a lane of every name in a list: after the selected lane, at
// the foot of the pool that is there, or in a new one.
func (e *Editor) lanesFromList(list string) {
	names := compose.Names(list)
	if len(names) == 0 {
		e.say("Write or paste the roles first, one per line.")
		return
	}
	s := e.Sheet()
	if len(s.Pools) == 0 {
		pool := e.work().NewPool(compose.AskingFirst(names))
		if len(names) <= diagram.MaxLanes && e.do(&diagram.AddPool{Sheet: s.ID, Pool: pool}) {
			e.sel, e.lane = nil, pool.Lanes[0].ID
		} else if len(names) > diagram.MaxLanes {
			e.say("A pool has at most %d lanes; the list has %d.", diagram.MaxLanes, len(names))
		}
		return
	}
	pool, at := e.laneSelected()
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
		at = len(pool.Lanes) - 1
	}
	var edits []diagram.Edit
	last := ""
	if compose.Untouched(s, pool) { // the lanes of a new map make way for those that are meant
		names = compose.AskingFirst(names)
		for i, lane := range pool.Lanes {
			if i < len(names) {
				edits = append(edits, &diagram.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: lane.ID, Name: &names[i]})
				last = lane.ID
			} else {
				edits = append(edits, &diagram.RemoveLane{Sheet: s.ID, Pool: pool.ID, Lane: lane.ID})
			}
		}
		at, names = len(pool.Lanes)-1, names[min(len(pool.Lanes), len(names)):]
	}
	for i, name := range names {
		last = e.newID()
		edits = append(edits, &diagram.InsertLane{Sheet: s.ID, Pool: pool.ID, At: at + 1 + i, Lane: diagram.Lane{ID: last, Name: name, H: pool.LaneStart()}})
	}
	if e.do(diagram.Together("add lanes", edits...)) {
		e.sel, e.lane = nil, last
	}
}

// needOwned says why nothing selected can have an owner.
func needOwned(e *Editor) string {
	for _, sym := range e.chosen() {
		if !sym.Kind.IsAside() {
			return ""
		}
	}
	return "Select the steps to set their owner."
}

// setOwner says who does the selected steps. Where there are lanes, they go into
// the lane of that name, which is added when there is none.
func (e *Editor) setOwner(name string) {
	s := e.Sheet()
	name = strings.Join(strings.Fields(name), " ")
	var plain, laned []*diagram.Symbol
	for _, sym := range e.chosen() {
		switch {
		case sym.Kind.IsAside() || s.OwnerOf(sym) == name:
		case s.LaneOf(sym) != nil:
			laned = append(laned, sym)
		default:
			plain = append(plain, sym)
		}
	}
	if len(laned) > 0 && name == "" {
		e.say("The lane says who owns this step. Move the step out of the lanes first.")
		return
	}
	var steps []func() []diagram.Edit
	if len(plain) > 0 {
		ids := make([]string, len(plain))
		for i, sym := range plain {
			ids[i] = sym.ID
		}
		steps = append(steps, func() []diagram.Edit {
			return []diagram.Edit{&diagram.SetOwner{Sheet: s.ID, IDs: ids, Owner: name}}
		})
	}
	for _, sym := range laned {
		pool, _ := s.LaneAt(sym.Centre())
		steps = append(steps, func() []diagram.Edit { return e.work().IntoLaneOf(pool.ID, name, sym.ID) })
	}
	if len(steps) == 0 {
		return
	}
	edit, err := e.inTurn("set the owner", steps...)
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	e.doMoving(edit)
}

// owners lists all that own steps, in the order in which they come.
func (e *Editor) owners() []string {
	out := []string{}
	seen := map[string]bool{"": true}
	add := func(name string) {
		if !seen[name] {
			seen[name] = true
			out = append(out, name)
		}
	}
	for _, s := range e.m.Sheets {
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

// ownersIntoLanes turns a flowchart into a swimlane diagram: every owner gets a
// lane, and the whole is laid out in them.
func (e *Editor) ownersIntoLanes() {
	e.drop()
	s := e.Sheet()
	owners := layout.Owners(e.m, s)
	var names []string
	without := false
	take := func(id string) {
		switch name, ok := owners[id]; {
		case !ok:
		case name == "":
			without = true
		case !slices.Contains(names, name):
			names = append(names, name)
		}
	}
	for _, step := range numbering.Number(e.m) { // as the work comes to them
		take(step.Symbol.ID)
	}
	for _, sym := range s.Symbols {
		take(sym.ID)
	}
	names = compose.AskingFirst(names)
	if without {
		names = append(names, compose.Nobody)
	}
	if len(names) > diagram.MaxLanes {
		e.say("A pool has at most %d lanes; the steps have %d owners.", diagram.MaxLanes, len(names))
		return
	}
	pool := e.work().NewPool(names)
	place := &diagram.PlaceItems{Sheet: s.ID}
	for _, sym := range s.Symbols {
		name, ok := owners[sym.ID]
		if !ok || sym.Locked {
			continue
		}
		if name == "" {
			name = compose.Nobody
		}
		k := slices.Index(names, name)
		pool.Lanes[k].H = max(pool.Lanes[k].H, pool.Own(sym.Box).H+2*diagram.LanePad)
	}
	for _, sym := range s.Symbols {
		name, ok := owners[sym.ID]
		if !ok || sym.Locked {
			continue
		}
		if name == "" {
			name = compose.Nobody
		}
		inner := pool.Own(pool.Inner(slices.Index(names, name)))
		b := pool.Own(sym.Box)
		b = b.At(geometry.Point{X: inner.X + diagram.LanePad, Y: inner.Y + (inner.H-b.H)/2})
		place.Boxes = append(place.Boxes, diagram.Place{ID: sym.ID, Box: pool.Own(b)})
	}
	before := diagram.Together("turn owners into lanes", &diagram.AddPool{Sheet: s.ID, Pool: pool}, place)
	trial, err := diagram.Attempt(e.m, before)
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	e.give(&Task{Map: e.m, Sheet: s.ID}, job{way: e.m.Direction, first: before, sheet: s.ID})
	trial.Rollback()
}

// needNoLanes says why owners cannot become lanes.
func needNoLanes(e *Editor) string {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		return "The sheet has lanes already."
	}
	if !slices.ContainsFunc(s.Symbols, func(sym *diagram.Symbol) bool { return sym.Owner != "" }) {
		return "Give steps an owner first."
	}
	return ""
}

// needPool says why there are no lanes to work on.
func needPool(e *Editor) string {
	if len(e.Sheet().Pools) == 0 {
		return "The sheet has no lanes."
	}
	return ""
}

// lanesIntoOwners takes the lanes away and lets every step keep the name of its
// lane as its owner.
func (e *Editor) lanesIntoOwners() {
	s := e.Sheet()
	var edits []diagram.Edit
	pools := make([]string, 0, len(s.Pools))
	for _, p := range s.Pools {
		pools = append(pools, p.ID)
		for i, lane := range p.Lanes {
			set := &diagram.SetOwner{Sheet: s.ID, Owner: lane.Name}
			if lane.Name == compose.Nobody {
				set.Owner = ""
			}
			for _, sym := range s.Symbols {
				if q, k := s.LaneAt(sym.Centre()); q == p && k == i && !sym.Kind.IsAside() && sym.Owner != set.Owner {
					set.IDs = append(set.IDs, sym.ID)
				}
			}
			if len(set.IDs) > 0 {
				edits = append(edits, set)
			}
		}
	}
	edits = append(edits, &diagram.RemoveItems{Sheet: s.ID, IDs: pools})
	if e.do(diagram.Together("turn lanes into owners", edits...)) {
		e.sel, e.lane = nil, ""
		e.say("The lanes are gone; every step keeps its owner. Lay out draws the sheet without them.")
	}
}
