package arrange

import (
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// Free returns the place nearest to a box at which it lies on nothing and in the
// same lane: the box itself where that is free, or where there is none near.
func Free(s *diagram.Sheet, b geometry.Box) geometry.Box {
	pool, lane := s.LaneAt(b.Centre())
	free := func(b geometry.Box) bool {
		if pool != nil {
			if !pool.Inner(lane).Holds(b) {
				return false
			}
		} else if other, _ := s.LaneAt(b.Centre()); other != nil {
			return false
		}
		return freeAmong(s.Symbols, b)
	}
	if freeAmong(s.Symbols, b) { // whatever its lane is like, it is where it was put
		return b
	}
	const most = 30
	for away := 1; away <= most; away++ {
		// All places as far away, along both axes together; those straight above
		// and below first, then ever further to the sides.
		for dx := 0; dx <= away; dx++ {
			dy := away - dx
			for _, d := range [4]geometry.Point{{X: dx, Y: dy}, {X: -dx, Y: dy}, {X: dx, Y: -dy}, {X: -dx, Y: -dy}} {
				if p := b.Moved(geometry.Point{X: d.X * Grid, Y: d.Y * Grid}); free(p) {
					return p
				}
			}
		}
	}
	return b
}
