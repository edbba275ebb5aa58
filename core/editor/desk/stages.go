package desk

import (
	"slices"
	"strconv"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// What can be done to the stages of a pool.

// StageSelected returns the selected stage with its pool; nil when none is.
func (e *Window) StageSelected() (*model.Pool, int) {
	for _, p := range e.Sheet().Pools {
		if i := p.StageIndex(e.Lane); i >= 0 {
			return p, i
		}
	}
	return nil, -1
}

// AddStage adds a stage behind the selected one, or the last of the pool; the first
// takes the whole pool. With a step selected the stage it stands in is divided: a
// new one begins with that step, and nothing moves.
func (e *Lanes) AddStage() {
	s := e.Sheet()
	pool, at := e.StageSelected()
	if sym := e.One(); pool == nil && sym != nil {
		if p, _ := s.LaneAt(sym.Centre()); p != nil {
			e.divideStage(p, sym)
			return
		}
	}
	if pool == nil {
		if pool, _ = e.LaneSelected(); pool == nil {
			pool = s.Pools[len(s.Pools)-1]
		}
		at = len(pool.Stages) - 1
	}
	now := e.newStage(len(pool.Stages) + 1)
	add := &edit.InsertStage{Sheet: s.ID, Pool: pool.ID, At: at + 1, Stage: now}
	if pool.Journey || at < 0 {
		e.addedStage(add, now.ID)
		return
	}
	e.addedStage(edit.Together("add a stage", append(e.share(pool, at, add), add)...), now.ID)
}

// share gives a new stage its share of what the pool is long, from the room behind the steps of the one before it;
// where that is too little, what is left of the paper. Stages that are all alike are made so again, with the edits
// returned, as far as their steps let them.
func (e *Lanes) share(pool *model.Pool, before int, add *edit.InsertStage) []edit.Edit {
	n := len(pool.Stages)
	foot := make([]int, n) // behind the last step of each stage
	for _, sym := range e.Sheet().Symbols {
		if p, _ := e.Sheet().LaneAt(sym.Centre()); p == pool {
			if k := pool.StageAt(sym.Centre()); k >= 0 {
				foot[k] = max(foot[k], pool.Own(sym.Box).Right()+model.LanePad)
			}
		}
	}
	all := pool.Corner().X + pool.W - pool.Content()
	alike := before == n-1
	for k := range n {
		from, to := pool.Span(k)
		alike = alike && geometry.Abs(to-from-all/n) <= 4*arrange.Grid
	}
	begin := func(least, from, to int) int { // where a border comes to lie between from and to
		at := geometry.Snap(max(to-all/(n+1), least, from+model.MinStage)+arrange.Grid/2-1, arrange.Grid)
		return min(at, to)
	}
	var edits []edit.Edit
	if alike {
		from := pool.Content()
		for k := range before {
			_, to := pool.Span(k)
			end := begin(max(foot[k], from+all/(n+1)), from, to)
			l := end - from
			edits = append(edits, &edit.SetStage{Sheet: e.SheetID, Pool: pool.ID, Stage: pool.Stages[k].ID, L: &l})
			from = end
		}
		to := pool.Content() + all
		if at := begin(max(foot[before], from+all/(n+1)), from, to); to-at >= model.MinStage {
			add.From = &at
			return edits
		}
	}
	from, to := pool.Span(before)
	if at := begin(foot[before], from, to); to-at >= model.MinStage {
		add.From = &at
		return nil
	}
	page := e.Sheet().Page().Turned(pool.Down)
	if room := page.Right() - (pool.Corner().X - page.X) - (pool.Corner().X + pool.W); room >= model.MinStage {
		add.Stage.L = min(add.Stage.L, room)
	}
	return nil
}

func (e *Lanes) newStage(n int) model.Stage {
	return model.Stage{ID: e.NewID(), Name: "Stage " + strconv.Itoa(n), L: model.StageLength}
}

func (e *Lanes) addedStage(edit edit.Edit, id string) {
	if e.Do(edit) {
		e.Sel, e.Lane = nil, id
		e.Writing.StartWriting(id, false)
	}
}

// divideStage lets a new stage begin with a step.
func (e *Lanes) divideStage(pool *model.Pool, sym *model.Symbol) {
	from := pool.Own(sym.Box).X - arrange.Gap/2
	var edits []edit.Edit
	at := pool.StageAt(sym.Centre())
	if at < 0 { // the first takes all of the pool
		first := e.newStage(1)
		edits = append(edits, &edit.InsertStage{Sheet: e.SheetID, Pool: pool.ID, Stage: first})
		at = 0
	}
	now := e.newStage(max(len(pool.Stages), 1) + 1)
	edits = append(edits, &edit.InsertStage{Sheet: e.SheetID, Pool: pool.ID, At: at + 1, Stage: now, From: &from})
	e.addedStage(edit.Together("add a stage", edits...), now.ID)
}

// MoveStage moves the selected stage so many places on.
func (e *Lanes) MoveStage(by int) {
	pool, i := e.StageSelected()
	if i+by < 0 || i+by >= len(pool.Stages) {
		e.Say("The stage is at the end of its pool.")
		return
	}
	e.DoMoving(&edit.MoveStage{Sheet: e.SheetID, Pool: pool.ID, Stage: e.Lane, To: i + by})
}

// RemoveStage removes the selected stage.
func (e *Lanes) RemoveStage() {
	pool, i := e.StageSelected()
	name := pool.Stages[i].Name
	if e.Do(&edit.RemoveStage{Sheet: e.SheetID, Pool: pool.ID, Stage: e.Lane}) {
		e.Say("The stage “%s” is gone; its steps stay where they are.", name)
	}
}

// hitStage finds what lies at p, which is in the pool's own frame, among the heads
// of its stages and their borders.
func (e *Window) hitStage(pool *model.Pool, p geometry.Point) (Hit, bool) {
	near := e.Reach(5)
	for i, st := range pool.Stages {
		b := pool.Own(pool.StageBox(i))
		if i+1 < len(pool.Stages) && geometry.Abs(p.X-b.Right()) <= near { // over all lanes
			return Hit{ID: pool.ID, Stage: st.ID, LaneEdge: true}, true
		}
		if p.Y < b.Y || p.Y >= b.Bottom() {
			continue
		}
		if p.X >= b.X && p.X < b.Right() {
			return Hit{ID: pool.ID, Stage: st.ID}, true
		}
	}
	return Hit{}, false
}

// stageNamed returns the pool and place of a stage of a sheet.
func stageNamed(s *model.Sheet, id string) (*model.Pool, int) {
	i := slices.IndexFunc(s.Pools, func(p *model.Pool) bool { return p.StageIndex(id) >= 0 })
	if i < 0 {
		return nil, -1
	}
	return s.Pools[i], s.Pools[i].StageIndex(id)
}
