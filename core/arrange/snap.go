package arrange

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
)

// Guide is a line that shows what a moving box has lined up with: along an
// edge or centre, or the equal gap between neighbours.
type Guide struct {
	From, To geometry.Point
	// Gap is the distance to be written on the line; zero for a plain guide.
	Gap int
}

// Snap returns how far the moving box has to be shifted to line up with the
// others, at most within by either axis, and the guides to show for it. Where
// nothing is near, the middle goes to the grid if there is one.
func Snap(box geometry.Box, others []geometry.Box, within int, grid bool) (geometry.Point, []Guide) {
	dx, okX := snapAxis(box.X, box.W, others, within, true)
	dy, okY := snapAxis(box.Y, box.H, others, within, false)
	if !okX {
		if g, ok := gapSnap(box, others, within, true); ok {
			dx, okX = g, true
		}
	}
	if !okY {
		if g, ok := gapSnap(box, others, within, false); ok {
			dy, okY = g, true
		}
	}
	if !okX && grid {
		c := box.Centre().X
		dx = geometry.Snap(c, Grid) - c
	}
	if !okY && grid {
		c := box.Centre().Y
		dy = geometry.Snap(c, Grid) - c
	}
	d := geometry.Point{X: dx, Y: dy}
	return d, guides(box.Moved(d), others, okX, okY)
}

// snapAxis finds the smallest shift that brings a start, middle or end of the
// box onto one of the others'; middles win ties.
func snapAxis(at, size int, others []geometry.Box, within int, across bool) (int, bool) {
	best, found := within+1, false
	try := func(d int) {
		if geometry.Abs(d) < geometry.Abs(best) {
			best, found = d, true
		}
	}
	for _, o := range others {
		start, length := o.Y, o.H
		if across {
			start, length = o.X, o.W
		}
		try(start + length/2 - (at + size/2))
	}
	for _, o := range others {
		start, length := o.Y, o.H
		if across {
			start, length = o.X, o.W
		}
		try(start - at)
		try(start + length - (at + size))
	}
	return best, found
}

// gapSnap finds the shift after which the gap to the neighbour equals a gap
// between two others in the same row or column.
func gapSnap(box geometry.Box, others []geometry.Box, within int, across bool) (int, bool) {
	row := inRow(box, others, across)
	best, found := within+1, false
	for i := 0; i+1 < len(row); i++ {
		gap := begin(row[i+1], across) - end(row[i], across)
		if gap <= 0 {
			continue
		}
		for _, o := range row {
			for _, d := range [...]int{end(o, across) + gap - begin(box, across),
				begin(o, across) - gap - end(box, across)} {
				if geometry.Abs(d) < geometry.Abs(best) {
					best, found = d, true
				}
			}
		}
	}
	return best, found
}

func begin(b geometry.Box, across bool) int {
	if across {
		return b.X
	}
	return b.Y
}

func end(b geometry.Box, across bool) int {
	if across {
		return b.Right()
	}
	return b.Bottom()
}

// inRow returns the others that share a row (or column) with the box, in order.
func inRow(box geometry.Box, others []geometry.Box, across bool) []geometry.Box {
	var row []geometry.Box
	for _, o := range others {
		if begin(o, !across) < end(box, !across) && begin(box, !across) < end(o, !across) {
			row = append(row, o)
		}
	}
	slices.SortFunc(row, func(a, b geometry.Box) int { return cmp.Compare(begin(a, across), begin(b, across)) })
	return row
}

// guides returns the lines for what the box has lined up with, the nearest of
// each kind, and the gaps to its neighbours.
func guides(box geometry.Box, others []geometry.Box, okX, okY bool) []Guide {
	var out []Guide
	line := func(across bool, match func(o geometry.Box) (int, bool)) bool {
		found, coord := false, 0
		lo, hi := begin(box, !across), end(box, !across)
		for _, o := range others {
			if c, ok := match(o); ok && (!found || c == coord) {
				found, coord = true, c
				lo, hi = min(lo, begin(o, !across)), max(hi, end(o, !across))
			}
		}
		if !found {
			return false
		}
		if across {
			out = append(out, Guide{From: geometry.Point{X: coord, Y: lo - Grid},
				To: geometry.Point{X: coord, Y: hi + Grid}})
		} else {
			out = append(out, Guide{From: geometry.Point{X: lo - Grid, Y: coord},
				To: geometry.Point{X: hi + Grid, Y: coord}})
		}
		return true
	}
	for _, axis := range [...]struct{ on, across bool }{{okX, true}, {okY, false}} {
		if !axis.on {
			continue
		}
		across := axis.across
		middle := (begin(box, across) + end(box, across)) / 2
		first := line(across,
			func(o geometry.Box) (int, bool) { return begin(box, across), begin(o, across) == begin(box, across) })
		last := line(across,
			func(o geometry.Box) (int, bool) { return end(box, across), end(o, across) == end(box, across) })
		if !first && !last { // a line through the middle runs through the words
			line(across, func(o geometry.Box) (int, bool) {
				return middle, (begin(o, across)+end(o, across))/2 == middle
			})
		}
		out = append(out, gapGuides(box, others, across)...)
	}
	return out
}

func gapGuides(box geometry.Box, others []geometry.Box, across bool) []Guide {
	row := inRow(box, others, across)
	var before, after *geometry.Box
	for i := range row {
		if end(row[i], across) <= begin(box, across) {
			before = &row[i]
		} else if begin(row[i], across) >= end(box, across) && after == nil {
			after = &row[i]
		}
	}
	var out []Guide
	mid := (begin(box, !across) + end(box, !across)) / 2
	add := func(from, to int) {
		g := Guide{From: geometry.Point{X: from, Y: mid}, To: geometry.Point{X: to, Y: mid}, Gap: to - from}
		if !across {
			g.From, g.To = geometry.Point{X: mid, Y: from}, geometry.Point{X: mid, Y: to}
		}
		if g.Gap > 0 && g.Gap < 400*px {
			out = append(out, g)
		}
	}
	if before != nil {
		add(end(*before, across), begin(box, across))
	}
	if after != nil {
		add(end(box, across), begin(*after, across))
	}
	return out
}
