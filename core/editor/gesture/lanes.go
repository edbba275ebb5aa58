package gesture

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// poolNow returns a pool as it is now, since the one that was pressed may have been replaced; nil where it is gone.
func (e *Pointer) poolNow(pool *model.Pool) *model.Pool { return e.Sheet().Pool(pool.ID) }

// pullLane pulls the edge of a lane.
func (e *Pointer) pullLane(at grip, pressed *model.Pool, lane string) Gesture {
	return &pull{grip: at, edit: func(p geometry.Point) edit.Edit {
		pool := e.poolNow(pressed)
		if pool == nil || pool.LaneIndex(lane) < 0 {
			return nil
		}
		top := pool.Own(pool.LaneBox(pool.LaneIndex(lane))).Y
		h := max(geometry.Snap(p.Turned(pool.Down).Y-top, arrange.Grid), model.MinLane)
		return &edit.SetLane{Sheet: e.SheetID, Pool: pool.ID, Lane: lane, H: &h}
	}}
}

// pullStage pulls the end of a stage.
func (e *Pointer) pullStage(at grip, pressed *model.Pool, stage string) Gesture {
	return &pull{grip: at, along: true, edit: func(p geometry.Point) edit.Edit {
		pool := e.poolNow(pressed)
		if pool == nil || pool.StageIndex(stage) < 0 {
			return nil
		}
		from := pool.Own(pool.StageBox(pool.StageIndex(stage))).X
		l := max(geometry.Snap(p.Turned(pool.Down).X-from, arrange.Grid), model.MinStage)
		return &edit.SetStage{Sheet: e.SheetID, Pool: pool.ID, Stage: stage, L: &l}
	}}
}

// pullPool pulls the end of a pool.
func (e *Pointer) pullPool(at grip, pressed *model.Pool) Gesture {
	return &pull{grip: at, edit: func(p geometry.Point) edit.Edit {
		pool := e.poolNow(pressed)
		if pool == nil {
			return nil
		}
		w := max(geometry.Snap(p.Turned(pool.Down).X-pool.Own(pool.Box()).X, arrange.Grid), model.MinPool)
		return &edit.SetPool{Sheet: e.SheetID, Pool: pool.ID, W: &w}
	}}
}

// moveLaneBy takes a lane to another place in its pool.
func (e *Pointer) moveLaneBy(at grip, pressed *model.Pool, lane string) Gesture {
	return &pull{grip: at, along: true, edit: func(p geometry.Point) edit.Edit {
		pool := e.poolNow(pressed)
		if pool == nil || pool.LaneIndex(lane) < 0 {
			return nil
		}
		from := pool.LaneIndex(lane)
		to := passed(from, len(pool.Lanes), p.Turned(pool.Down).Y,
			func(i int) int { return pool.Own(pool.LaneBox(i)).Centre().Y })
		if to == from {
			return nil
		}
		return &edit.MoveLane{Sheet: e.SheetID, Pool: pool.ID, Lane: lane, To: to}
	}}
}

// moveStageBy takes a stage to another place in its pool.
func (e *Pointer) moveStageBy(at grip, pressed *model.Pool, stage string) Gesture {
	return &pull{grip: at, along: true, edit: func(p geometry.Point) edit.Edit {
		pool := e.poolNow(pressed)
		if pool == nil || pool.StageIndex(stage) < 0 {
			return nil
		}
		from := pool.StageIndex(stage)
		to := passed(from, len(pool.Stages), p.Turned(pool.Down).X,
			func(i int) int { return pool.Own(pool.StageBox(i)).Centre().X })
		if to == from {
			return nil
		}
		return &edit.MoveStage{Sheet: e.SheetID, Pool: pool.ID, Stage: stage, To: to}
	}}
}

// passed returns to which place in a row of n what stood at from has come with the pointer at a coordinate: past those
// whose middle it has passed.
func passed(from, n, at int, middle func(i int) int) int {
	to := from
	for i := range n {
		switch m := middle(i); {
		case i < from && at < m:
			to = min(to, i)
		case i > from && at > m:
			to = max(to, i)
		}
	}
	return to
}
