package desk

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

// AddLanes sets down a pool of three lanes, or one more lane in a pool that is
// there.
func (e *Lanes) AddLanes() {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		pool := s.Pools[len(s.Pools)-1]
		lane := model.Lane{ID: e.NewID(), Name: "Lane " + strconv.Itoa(len(pool.Lanes)+1), H: pool.LaneStart()}
		if e.Do(&edit.InsertLane{Sheet: s.ID, Pool: pool.ID, At: len(pool.Lanes), Lane: lane}) {
			e.Sel, e.Lane = nil, lane.ID
			e.Writing.StartWriting(lane.ID, false)
		}
		return
	}
	pool := e.Work().NewPool([]string{"Lane 1", "Lane 2", "Lane 3"})
	if e.Do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
		e.Sel, e.Lane = nil, pool.Lanes[0].ID
	}
}

// AddPool sets down a further pool, behind those that are there.
func (e *Lanes) AddPool() {
	s := e.Sheet()
	if len(s.Pools) == 0 {
		e.AddLanes()
		return
	}
	pool := e.Work().NewPool([]string{"Lane 1", "Lane 2"})
	last := s.Pools[len(s.Pools)-1]
	pool.Title, pool.Down, pool.W = "Another pool", last.Down, last.W
	at := last.Own(last.Box())
	for _, p := range s.Pools { // beyond all of them, in the frame of the last
		at.Y = max(at.Y, last.Own(p.Box()).Bottom())
	}
	corner := geometry.Point{X: at.X, Y: at.Y + arrange.Gap}.Turned(last.Down)
	pool.X, pool.Y = corner.X, corner.Y
	if e.Do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
		e.Sel, e.Lane = []string{pool.ID}, ""
		e.Writing.StartWriting(pool.ID, false)
	}
}

// LaneHere returns the pool and the place of the selected lane, or of that in which the selected symbol stands.
func (e *Window) LaneHere() (*model.Pool, int) {
	if pool, i := e.LaneSelected(); pool != nil {
		return pool, i
	}
	if sym := e.One(); sym != nil {
		return e.Sheet().LaneAt(sym.Centre())
	}
	return nil, -1
}

// InsertLane puts a lane before the selected one, or that of the selected step, or after it.
func (e *Lanes) InsertLane(after int) {
	pool, i := e.LaneHere()
	lane := model.Lane{ID: e.NewID(), Name: "New lane", H: pool.LaneStart(), Of: pool.Lanes[i].Of}
	if e.Do(&edit.InsertLane{Sheet: e.SheetID, Pool: pool.ID, At: i + after, Lane: lane}) {
		e.Sel, e.Lane = nil, lane.ID
		e.Writing.StartWriting(lane.ID, false)
	}
}

// Widen lets the lanes of the sheet that begin on the paper reach as far from its other edge as they begin from the
// first.
func (e *Lanes) Widen() {
	var edits []edit.Edit
	for id, w := range e.wider() {
		edits = append(edits, &edit.SetPool{Sheet: e.SheetID, Pool: id, W: &w})
	}
	if len(edits) == 0 {
		e.Say("The lanes are as wide as the paper.")
		return
	}
	e.Do(edit.Together("widen the lanes", edits...))
}

// wider returns how long each pool would be that could reach farther over the paper.
func (e *Window) wider() map[string]int {
	s := e.Sheet()
	out := map[string]int{}
	for _, p := range s.Pools {
		corner, page := p.Corner(), s.Page().Turned(p.Down)
		if w := geometry.Snap(page.Right()-2*(corner.X-page.X)+page.X, geometry.Px); !p.Journey && !p.Locked &&
			corner.X > page.X && w-p.W >= 2*arrange.Grid {
			out[p.ID] = w
		}
	}
	return out
}

// offerWider offers to let lanes reach over a paper that became larger.
func (e *Window) offerWider() {
	if e.Sheet().Kind == model.FlowSheet && len(e.wider()) > 0 {
		e.Say("The lanes are narrower than the paper.")
		e.Suggest = &Offer{"lanes-widen", "Widen the lanes"}
	}
}

// Fill gives the selected lane or stage a colour, or the selected symbols.
func (e *Lanes) Fill(colour string) {
	colour, ok := e.colour(colour)
	if !ok {
		return
	}
	if pool, _ := e.LaneSelected(); pool != nil {
		e.SetLane(&edit.SetLane{Fill: &colour})
		return
	}
	if pool, _ := e.StageSelected(); pool != nil {
		e.Do(&edit.SetStage{Sheet: e.SheetID, Pool: pool.ID, Stage: e.Lane, Fill: &colour})
		return
	}
	e.Styling.Style(&edit.SetStyle{Fill: &colour}, false)
}

// SetLane changes the selected lane.
func (e *Lanes) SetLane(edit *edit.SetLane) {
	pool, _ := e.LaneSelected()
	edit.Sheet, edit.Pool, edit.Lane = e.SheetID, pool.ID, e.Lane
	e.DoMoving(edit)
}

// LevelNames sets the names of lanes that lie across level, or turns them again.
func (e *Lanes) LevelNames() {
	s := e.Sheet()
	pool, _ := e.LaneSelected()
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
	}
	if pool.Down {
		e.Say("The names of lanes that run down the sheet are level already.")
		return
	}
	v := !pool.Level
	e.DoMoving(&edit.SetPool{Sheet: s.ID, Pool: pool.ID, Level: &v})
}

// MoveLane takes the selected lane up or down in its pool.
func (e *Lanes) MoveLane(by int) {
	pool, i := e.LaneSelected()
	if i+by < 0 || i+by >= len(pool.Lanes) {
		e.Say("The lane is at the end of its pool.")
		return
	}
	e.DoMoving(&edit.MoveLane{Sheet: e.SheetID, Pool: pool.ID, Lane: e.Lane, To: i + by})
}

// TurnLanes turns the pool that is selected, or has the selected lane, or is the
// last of the sheet, with all that stands in it; the flow turns with it.
func (e *Lanes) TurnLanes() {
	s := e.Sheet()
	pool, _ := e.LaneSelected()
	if pool == nil && len(e.Sel) == 1 {
		pool = s.Pool(e.Sel[0])
	}
	if pool == nil {
		pool = s.Pools[len(s.Pools)-1]
	}
	turn := &edit.TurnPool{Sheet: s.ID, Pool: pool.ID, Down: !pool.Down}
	way := model.Rightwards
	if turn.Down {
		way = model.Downwards
	}
	all := edit.Edit(turn)
	if e.M.Direction != way {
		all = edit.Together(edit.Words(e.M, turn), turn, &edit.SetHead{Direction: &way})
	}
	if e.Do(all) {
		e.ToOpen = FitAll
	}
}

// LanesFromList makes a lane of every name in a list: after the selected lane, at
// the foot of the pool that is there, or in a new one.
func (e *Lanes) LanesFromList(list string) {
	names := compose.Names(list)
	if len(names) == 0 {
		e.Say("Write or paste the roles first, one per line.")
		return
	}
	s := e.Sheet()
	if len(s.Pools) == 0 {
		pool := e.Work().NewPool(compose.AskingFirst(names))
		if len(names) <= model.MaxLanes && e.Do(&edit.AddPool{Sheet: s.ID, Pool: pool}) {
			e.Sel, e.Lane = nil, pool.Lanes[0].ID
		} else if len(names) > model.MaxLanes {
			e.Say("A pool has at most %d lanes; the list has %d.", model.MaxLanes, len(names))
		}
		return
	}
	pool, at := e.LaneSelected()
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
		last = e.NewID()
		edits = append(edits, &edit.InsertLane{Sheet: s.ID, Pool: pool.ID, At: at + 1 + i,
			Lane: model.Lane{ID: last, Name: name, H: pool.LaneStart()}})
	}
	if e.Do(edit.Together("add lanes", edits...)) {
		e.Sel, e.Lane = nil, last
	}
}

// RemoveLane takes the selected lane away, and does with its steps what the argument says (compose.RemoveLane).
func (e *Lanes) RemoveLane(steps string) {
	pool, i := e.LaneSelected()
	edit, said, err := e.Work().RemoveLane(pool, i, steps)
	if err != nil {
		e.Refuse(err)
		return
	}
	if e.DoMoving(edit) && e.Words == "" {
		e.Say("%s", said)
	}
}

// SetOwner says who does the selected steps.
func (e *Lanes) SetOwner(name string) {
	edit, err := e.Work().SetOwner(e.Chosen(), name)
	switch {
	case err != nil:
		e.Refuse(err)
	case edit != nil:
		e.DoMoving(edit)
	}
}

// OwnersIntoLanes turns a flowchart into a swimlane diagram: every owner gets a lane, and the whole is
// laid out in them.
func (e *Lanes) OwnersIntoLanes() {
	e.Drop()
	s := e.Sheet()
	before, err := e.Work().OwnersIntoLanes()
	if err != nil {
		e.Refuse(err)
		return
	}
	trial, err := edit.Attempt(e.M, before)
	if err != nil {
		e.Refuse(err)
		return
	}
	e.Layout.give(&task.Task{Map: e.M, Sheet: s.ID, Afresh: true}, job{way: e.M.Direction, first: before, sheet: s.ID})
	trial.Rollback()
}

// LanesIntoOwners takes the lanes away and lets every step keep the name of its lane as its owner.
func (e *Lanes) LanesIntoOwners() {
	if e.Do(e.Work().LanesIntoOwners()) {
		e.Sel, e.Lane = nil, ""
		e.Say("The lanes are gone; every step keeps its owner. Lay out draws the sheet without them.")
	}
}
