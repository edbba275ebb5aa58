package editor

import (
	"strconv"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/task"
)

// What can be done to lanes as wholes, and to those who own the steps.

// addLanes sets down a pool of three lanes, or one more lane in a pool that is
// there.
func (e *Lanes) addLanes() {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		pool := s.Pools[len(s.Pools)-1]
		lane := model.Lane{ID: e.newID(), Name: "Lane " + strconv.Itoa(len(pool.Lanes)+1), H: pool.LaneStart()}
		if e.do(&edit.InsertLane{Sheet: s.ID, Pool: pool.ID, At: len(pool.Lanes), Lane: lane}) {
			e.sel, e.lane = nil, lane.ID
			e.Writing.startWriting(lane.ID, false)
		}
		return
	}
	pool := e.work().NewPool([]string{"Lane 1", "Lane 2", "Lane 3"})
	if e.do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
		e.sel, e.lane = nil, pool.Lanes[0].ID
	}
}

// addPool sets down a further pool, behind those that are there.
func (e *Lanes) addPool() {
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
	if e.do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
		e.sel, e.lane = []string{pool.ID}, ""
		e.Writing.startWriting(pool.ID, false)
	}
}

func (e *Lanes) insertLane(after int) {
	pool, i := e.laneSelected()
	lane := model.Lane{ID: e.newID(), Name: "New lane", H: pool.LaneStart(), Of: pool.Lanes[i].Of}
	if e.do(&edit.InsertLane{Sheet: e.sheetID, Pool: pool.ID, At: i + after, Lane: lane}) {
		e.lane = lane.ID
		e.Writing.startWriting(lane.ID, false)
	}
}

// fill gives the selected lane a colour, or the selected symbols.
func (e *Lanes) fill(colour string) {
	if pool, _ := e.laneSelected(); pool != nil {
		e.setLane(&edit.SetLane{Fill: &colour})
		return
	}
	e.Styling.style(&edit.SetStyle{Fill: &colour}, false)
}

// setLane changes the selected lane.
func (e *Lanes) setLane(edit *edit.SetLane) {
	pool, _ := e.laneSelected()
	edit.Sheet, edit.Pool, edit.Lane = e.sheetID, pool.ID, e.lane
	e.doMoving(edit)
}

// levelNames sets the names of lanes that lie across level, or turns them again.
func (e *Lanes) levelNames() {
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
	e.doMoving(&edit.SetPool{Sheet: s.ID, Pool: pool.ID, Level: &v})
}

// moveLane takes the selected lane up or down in its pool.
func (e *Lanes) moveLane(by int) {
	pool, i := e.laneSelected()
	if i+by < 0 || i+by >= len(pool.Lanes) {
		e.say("The lane is at the end of its pool.")
		return
	}
	e.doMoving(&edit.MoveLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.lane, To: i + by})
}

// turnLanes turns the pool that is selected, or has the selected lane, or is the
// last of the sheet, with all that stands in it; the flow turns with it.
func (e *Lanes) turnLanes() {
	s := e.Sheet()
	pool, _ := e.laneSelected()
	if pool == nil && len(e.sel) == 1 {
		pool = s.Pool(e.sel[0])
	}
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
	}
	turn := &edit.TurnPool{Sheet: s.ID, Pool: pool.ID, Down: !pool.Down}
	way := model.Rightwards
	if turn.Down {
		way = model.Downwards
	}
	if e.m.Direction == way {
		e.do(turn)
	} else {
		e.do(edit.Together(edit.Words(e.m, turn), turn, &edit.SetHead{Direction: &way}))
	}
}

// lanesFromList makes a lane of every name in a list: after the selected lane, at
// the foot of the pool that is there, or in a new one.
func (e *Lanes) lanesFromList(list string) {
	names := compose.Names(list)
	if len(names) == 0 {
		e.say("Write or paste the roles first, one per line.")
		return
	}
	s := e.Sheet()
	if len(s.Pools) == 0 {
		pool := e.work().NewPool(compose.AskingFirst(names))
		if len(names) <= model.MaxLanes && e.do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
			e.sel, e.lane = nil, pool.Lanes[0].ID
		} else if len(names) > model.MaxLanes {
			e.say("A pool has at most %d lanes; the list has %d.", model.MaxLanes, len(names))
		}
		return
	}
	pool, at := e.laneSelected()
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
		at = len(pool.Lanes) - 1
	}
	var edits []edit.Edit
	last := ""
	if compose.Untouched(s, pool) { // the lanes of a new map make way for those that are meant
		names = compose.AskingFirst(names)
		for i, lane := range pool.Lanes {
			if i < len(names) {
				edits = append(edits, &edit.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: lane.ID, Name: &names[i]})
				last = lane.ID
			} else {
				edits = append(edits, &edit.RemoveLane{Sheet: s.ID, Pool: pool.ID, Lane: lane.ID})
			}
		}
		at, names = len(pool.Lanes)-1, names[min(len(pool.Lanes), len(names)):]
	}
	for i, name := range names {
		last = e.newID()
		edits = append(edits, &edit.InsertLane{Sheet: s.ID, Pool: pool.ID, At: at + 1 + i, Lane: model.Lane{ID: last, Name: name, H: pool.LaneStart()}})
	}
	if e.do(edit.Together("add lanes", edits...)) {
		e.sel, e.lane = nil, last
	}
}

// removeLane takes the selected lane away, and does with its steps what the argument says (compose.RemoveLane).
func (e *Lanes) removeLane(steps string) {
	pool, i := e.laneSelected()
	edit, said, err := e.work().RemoveLane(pool, i, steps)
	if err != nil {
		e.refuse(err)
		return
	}
	if e.doMoving(edit) && e.words == "" {
		e.say("%s", said)
	}
}

// setOwner says who does the selected steps.
func (e *Lanes) setOwner(name string) {
	edit, err := e.work().SetOwner(e.chosen(), name)
	switch {
	case err != nil:
		e.refuse(err)
	case edit != nil:
		e.doMoving(edit)
	}
}

// ownersIntoLanes turns a flowchart into a swimlane diagram: every owner gets a lane, and the whole is
// laid out in them.
func (e *Lanes) ownersIntoLanes() {
	e.drop()
	s := e.Sheet()
	before, err := e.work().OwnersIntoLanes()
	if err != nil {
		e.refuse(err)
		return
	}
	trial, err := edit.Attempt(e.m, before)
	if err != nil {
		e.refuse(err)
		return
	}
	e.Layout.give(&task.Task{Map: e.m, Sheet: s.ID, Afresh: true}, job{way: e.m.Direction, first: before, sheet: s.ID})
	trial.Rollback()
}

// lanesIntoOwners takes the lanes away and lets every step keep the name of its lane as its owner.
func (e *Lanes) lanesIntoOwners() {
	if e.do(e.work().LanesIntoOwners()) {
		e.sel, e.lane = nil, ""
		e.say("The lanes are gone; every step keeps its owner. Lay out draws the sheet without them.")
	}
}
