package editor

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func (e *Editor) laneSize(p geometry.Point) edit.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil {
		return nil
	}
	i := pool.LaneIndex(e.g.lane)
	if i < 0 {
		return nil
	}
	e.drop()
	own := p.Turned(pool.Down)
	h := max(geometry.Snap(own.Y-pool.Own(pool.LaneBox(i)).Y, arrange.Grid), model.MinLane)
	return &edit.SetLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.g.lane, H: &h}
}

// laneMove returns the edit that takes the lane in the hand to where p lies: past
// those whose middle it has passed.
func (e *Editor) laneMove(p geometry.Point) edit.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil || pool.LaneIndex(e.g.lane) < 0 {
		return nil
	}
	e.drop()
	from := pool.LaneIndex(e.g.lane)
	to, own := from, p.Turned(pool.Down)
	for i := range pool.Lanes {
		switch middle := pool.Own(pool.LaneBox(i)).Centre().Y; {
		case i < from && own.Y < middle:
			to = min(to, i)
		case i > from && own.Y > middle:
			to = max(to, i)
		}
	}
	if to == from {
		return nil
	}
	return &edit.MoveLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.g.lane, To: to}
}

func (e *Editor) poolSize(p geometry.Point) edit.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil {
		return nil
	}
	e.drop()
	w := max(geometry.Snap(p.Turned(pool.Down).X-pool.Own(pool.Box()).X, arrange.Grid), model.MinPool)
	return &edit.SetPool{Sheet: e.sheetID, Pool: pool.ID, W: &w}
}
