package desk

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
)

// ToLane moves the selected symbols into the lane above or below, to its middle
// or, where something stands there, below that.
func (e *Lanes) ToLane(by int) {
	s := e.Sheet()
	change := &edit.PlaceItems{Sheet: s.ID, As: "move to another lane"}
	var also []edit.Edit
	for _, sym := range e.Chosen() {
		pool, i := s.LaneAt(sym.Centre())
		if pool == nil || i+by < 0 || i+by >= len(pool.Lanes) {
			continue
		}
		box, room := arrange.IntoLane(s, pool, i+by, sym)
		change.Boxes = append(change.Boxes, edit.Place{ID: sym.ID, Box: box})
		also = append(also, room...)
	}
	if len(change.Boxes) == 0 {
		e.Say("There is no lane in that direction.")
		return
	}
	e.DoMoving(edit.Together(change.As, append(also, change)...))
}
