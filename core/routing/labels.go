package routing

import "plaintracer/core/geometry"

// labelGap is the space between a label and its line.
const labelGap = 3 * px

// placeLabels stands every label beside its own line: those of a decision's
// exits close to the decision, the rest at the middle of the longest stretch.
// Of the places tried in order, the first that meets no symbol, line or other
// label is taken; where all meet something, the one that meets least.
// It returns the memory for the places taken, to be handed in the next time.
func placeLabels(s *Scene, courses []Course, placed []geometry.Box) []geometry.Box {
	for i := range courses {
		l := &s.Links[i]
		if l.Label == (geometry.Point{}) {
			continue
		}
		best, least := geometry.Box{}, int(^uint(0)>>1)
		candidates(courses[i].Points, l, func(b geometry.Box) bool {
			n := meetings(s, courses, placed, i, b)
			if n < least {
				best, least = b, n
			}
			return least > 0
		})
		courses[i].Label = best
		placed = append(placed, best)
	}
	return placed
}

// candidates yields the places of a label until the caller has enough.
func candidates(line geometry.Polyline, l *Link, yield func(geometry.Box) bool) {
	w, h := l.Label.X, l.Label.Y
	beside := func(p, q geometry.Point, d int) bool {
		if p.Y == q.Y {
			x := p.X + d
			if q.X < p.X {
				x = p.X - d - w
			}
			return yield(geometry.Box{X: x, Y: p.Y - labelGap - h, W: w, H: h}) &&
				yield(geometry.Box{X: x, Y: p.Y + labelGap, W: w, H: h})
		}
		y := p.Y + d
		if q.Y < p.Y {
			y = p.Y - d - h
		}
		return yield(geometry.Box{X: p.X + labelGap, Y: y, W: w, H: h}) &&
			yield(geometry.Box{X: p.X - labelGap - w, Y: y, W: w, H: h})
	}
	if l.Branch {
		for k := 1; k < len(line); k++ {
			n := line[k-1].Manhattan(line[k])
			for d := labelGap; d == labelGap || d < n-h; d += 8 * px {
				if !beside(line[k-1], line[k], d) {
					return
				}
			}
		}
		return
	}
	long := 1
	for k := 2; k < len(line); k++ {
		if line[k-1].Manhattan(line[k]) > line[long-1].Manhattan(line[long]) {
			long = k
		}
	}
	p, q := line[long-1], line[long]
	size := w
	if p.X == q.X {
		size = h
	}
	mid := (p.Manhattan(q) - size) / 2
	for d := 0; d <= max(mid, 0); d += 8 * px {
		if !beside(p, q, mid-d) || d > 0 && !beside(p, q, mid+d) {
			return
		}
	}
}

// meetings counts what a label at b would lie on.
func meetings(s *Scene, courses []Course, placed []geometry.Box, own int, b geometry.Box) int {
	n := 0
	for _, o := range s.Boxes {
		if o.Meets(b) {
			n += 4
		}
	}
	for _, o := range placed {
		if o.Meets(b) {
			n += 3
		}
	}
	for i := range courses {
		pts := courses[i].Points
		for k := 1; k < len(pts); k++ {
			if b.CutBy(pts[k-1], pts[k]) {
				n += 2
				if i == own {
					n--
				}
			}
		}
	}
	return n
}
