package arrange

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Free returns the place nearest to a box at which it lies on nothing and in the
// same lane: the box itself where that is free, or where there is none near.
func Free(s *model.Sheet, b geometry.Box) geometry.Box {
	return b.Moved(FreeShift(s, []geometry.Box{b}, nil))
}

// FreeShift returns the shortest way, in grid steps, that boxes have to be moved together to lie on
// nothing, each in its lane; none where they lie on nothing as they are, or where no place near is
// free. What is called in moving is not in their way.
func FreeShift(s *model.Sheet, boxes []geometry.Box, moving map[string]bool) geometry.Point {
	var others []*model.Symbol
	for _, sym := range s.Symbols {
		if !moving[sym.ID] {
			others = append(others, sym)
		}
	}
	type place struct {
		pool *model.Pool
		lane int
	}
	lanes := make([]place, len(boxes))
	clear := true
	for i, b := range boxes {
		lanes[i].pool, lanes[i].lane = s.LaneAt(b.Centre())
		clear = clear && freeAmong(others, b)
	}
	if clear { // whatever its lane is like, it is where it was put
		return geometry.Point{}
	}
	free := func(d geometry.Point) bool {
		for i, b := range boxes {
			b = b.Moved(d)
			if in := lanes[i]; in.pool != nil {
				if !in.pool.Inner(in.lane).Holds(b) {
					return false
				}
			} else if other, _ := s.LaneAt(b.Centre()); other != nil {
				return false
			}
			if !freeAmong(others, b) {
				return false
			}
		}
		return true
	}
	const most = 30
	for away := 1; away <= most; away++ {
		// All places as far away, along both axes together; those straight above
		// and below first, then ever further to the sides.
		for dx := 0; dx <= away; dx++ {
			dy := away - dx
			for _, d := range [4]geometry.Point{{X: dx, Y: dy}, {X: -dx, Y: dy}, {X: dx, Y: -dy}, {X: -dx, Y: -dy}} {
				if p := (geometry.Point{X: d.X * Grid, Y: d.Y * Grid}); free(p) {
					return p
				}
			}
		}
	}
	return geometry.Point{}
}

// Covers reports whether two boxes share half of the smaller one or more, so that one hides the other.
func Covers(a, b geometry.Box) bool {
	w, h := min(a.Right(), b.Right())-max(a.X, b.X), min(a.Bottom(), b.Bottom())-max(a.Y, b.Y)
	return w > 0 && h > 0 && 2*w*h >= min(a.W*a.H, b.W*b.H)
}

// Hides returns the first symbol of a sheet that one of some boxes hides; nil when there is none.
// What is called in moving, and what is no part of the work, does not count.
func Hides(s *model.Sheet, boxes []geometry.Box, moving map[string]bool) *model.Symbol {
	i := slices.IndexFunc(s.Symbols, func(o *model.Symbol) bool {
		return !moving[o.ID] && !o.Kind.IsAside() &&
			slices.ContainsFunc(boxes, func(b geometry.Box) bool { return Covers(b, o.Box) })
	})
	if i < 0 {
		return nil
	}
	return s.Symbols[i]
}
