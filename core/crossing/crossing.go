// Package crossing finds where lines cross.
//
// Source (title from memory): Bentley and Ottmann, Algorithms for Reporting and Counting Geometric Intersections
// (1979), for the sweep.
package crossing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/spatial"
)

// Crossing is a point in which two lines cross.
type Crossing struct {
	// A gives way to B: of a level and an upright segment the level one, of
	// two others the flatter.
	A, B               int
	SegmentA, SegmentB int
	At                 geometry.Point
}

// Finder finds where lines cross: level and upright segments by sweeping
// a line across the sheet, slanting ones pair by pair. Segments that only
// touch, or lie on each other, do not cross.
type Finder struct {
	level, upright, slanting []sweepSegment
	events                   []event
	active                   []int
	found                    []Crossing
	// moved are the segments of the lines that are new or have been moved.
	moved []sweepSegment
	near  spatial.Index
	// most is how many crossings are looked for; zero for all.
	most int
}

// event is where the line that is swept comes to a segment.
type event struct{ x, kind, i int }

type sweepSegment struct {
	p, q     geometry.Point
	link, at int
}

// All returns all crossings of lines, by line and place, and whether that is so: of more than most, if that is not
// zero, none is returned. The list is valid until the next call.
func (c *Finder) All(lines []geometry.Polyline, most int) (found []Crossing, complete bool) {
	c.most = most
	c.level, c.upright, c.slanting, c.found = c.level[:0], c.upright[:0], c.slanting[:0], c.found[:0]
	for i, pts := range lines {
		for k := 0; k+1 < len(pts); k++ {
			s := sweepSegment{pts[k], pts[k+1], i, k}
			switch {
			case s.p == s.q:
			case s.p.Y == s.q.Y:
				c.level = append(c.level, s)
			case s.p.X == s.q.X:
				c.upright = append(c.upright, s)
			default:
				c.slanting = append(c.slanting, s)
			}
		}
	}
	c.sweep()
	for i := range c.slanting {
		if c.full() {
			break
		}
		for _, list := range [...][]sweepSegment{c.level, c.upright, c.slanting[:i]} {
			for k := range list {
				c.slantingPair(&c.slanting[i], &list[k])
			}
		}
	}
	if c.full() {
		return nil, false
	}
	slices.SortFunc(c.found, func(a, b Crossing) int {
		if a.A != b.A {
			return a.A - b.A
		}
		return cmp.Or(cmp.Compare(a.SegmentA, b.SegmentA), cmp.Compare(a.At.X, b.At.X), cmp.Compare(a.At.Y, b.At.Y),
			cmp.Compare(a.B, b.B), cmp.Compare(a.SegmentB, b.SegmentB))
	})
	return c.found, true
}

// sweep goes from left to right over the ends of the level segments and the
// upright segments, and keeps the level ones under way sorted by height.
func (c *Finder) sweep() {
	const (
		leave = iota // first: touching is not crossing
		look
		enter
	)
	events := c.events[:0]
	for i := range c.level {
		s := &c.level[i]
		events = append(events, event{min(s.p.X, s.q.X), enter, i}, event{max(s.p.X, s.q.X), leave, i})
	}
	for i := range c.upright {
		events = append(events, event{c.upright[i].p.X, look, i})
	}
	c.events = events
	slices.SortFunc(events, func(a, b event) int {
		if a.x != b.x {
			return a.x - b.x
		}
		return cmp.Or(cmp.Compare(a.kind, b.kind), cmp.Compare(a.i, b.i))
	})
	c.active = c.active[:0]
	byHeight := func(i, y int) int { return cmp.Compare(c.level[i].p.Y, y) }
	for _, e := range events {
		if c.full() {
			return
		}
		switch e.kind {
		case enter:
			at, _ := slices.BinarySearchFunc(c.active, c.level[e.i].p.Y, byHeight)
			c.active = slices.Insert(c.active, at, e.i)
		case leave:
			at, _ := slices.BinarySearchFunc(c.active, c.level[e.i].p.Y, byHeight)
			for c.active[at] != e.i {
				at++
			}
			c.active = slices.Delete(c.active, at, at+1)
		case look:
			u := &c.upright[e.i]
			lo, hi := min(u.p.Y, u.q.Y), max(u.p.Y, u.q.Y)
			at, _ := slices.BinarySearchFunc(c.active, lo+1, byHeight)
			for ; at < len(c.active); at++ {
				l := &c.level[c.active[at]]
				if l.p.Y >= hi {
					break
				}
				if l.link != u.link {
					c.found = append(c.found, Crossing{l.link, u.link, l.at, u.at, geometry.Point{X: e.x, Y: l.p.Y}})
				}
			}
		}
	}
}

func (c *Finder) full() bool { return c.most > 0 && len(c.found) > c.most }

// slantingPair notes the crossing of two segments of which one slants.
func (c *Finder) slantingPair(a, b *sweepSegment) {
	at, ok := meet(a, b)
	if !ok || a.link == b.link {
		return
	}
	if steeper(a, b) {
		a, b = b, a
	}
	c.found = append(c.found, Crossing{a.link, b.link, a.at, b.at, at})
}

// steeper reports whether a is steeper than b; of equals the later link is.
func steeper(a, b *sweepSegment) bool {
	u, v := a.q.Sub(a.p), b.q.Sub(b.p)
	rise := cmp.Compare(geometry.Abs(u.Y)*geometry.Abs(v.X), geometry.Abs(v.Y)*geometry.Abs(u.X))
	return rise > 0 || rise == 0 && a.link > b.link
}

// meet returns the point in which the insides of two segments cross.
func meet(a, b *sweepSegment) (geometry.Point, bool) {
	u, v, w := a.q.Sub(a.p), b.q.Sub(b.p), b.p.Sub(a.p)
	d := u.X*v.Y - u.Y*v.X
	if d == 0 {
		return geometry.Point{}, false
	}
	s, t := w.X*v.Y-w.Y*v.X, w.X*u.Y-w.Y*u.X
	if d < 0 {
		d, s, t = -d, -s, -t
	}
	if s <= 0 || s >= d || t <= 0 || t >= d {
		return geometry.Point{}, false
	}
	return geometry.Point{X: a.p.X + divide(u.X, s, d), Y: a.p.Y + divide(u.Y, s, d)}, true
}

// divide returns n*s/d; the product of three lengths can pass 63 bits.
func divide(n, s, d int) int { return int(float64(n) * (float64(s) / float64(d))) }

// OfSome returns the crossings of those lines that are fresh, with each other and with all others, which lie within an
// area. The list is valid until the next call.
func (c *Finder) OfSome(lines []geometry.Polyline, fresh []bool, area geometry.Box) []Crossing {
	c.found, c.moved = c.found[:0], c.moved[:0]
	c.near.Begin(area)
	for i, pts := range lines {
		for k := 0; fresh[i] && k+1 < len(pts); k++ {
			c.near.Add(len(c.moved), geometry.Between(pts[k], pts[k+1]))
			c.moved = append(c.moved, sweepSegment{pts[k], pts[k+1], i, k})
		}
	}
	for j, pts := range lines {
		for l := 0; l+1 < len(pts); l++ {
			b := sweepSegment{pts[l], pts[l+1], j, l}
			for _, k := range c.near.Near(geometry.Between(b.p, b.q)) {
				if a := &c.moved[k]; a.link != j && !(fresh[j] && j < a.link) {
					c.pair(a, &b)
				}
			}
		}
	}
	return c.found
}

// pair notes the crossing of any two segments.
func (c *Finder) pair(a, b *sweepSegment) {
	slanting := func(s *sweepSegment) bool { return s.p.X != s.q.X && s.p.Y != s.q.Y }
	if slanting(a) || slanting(b) {
		c.slantingPair(a, b)
		return
	}
	if a.p.X == a.q.X { // the level one gives way
		a, b = b, a
	}
	if a.p.Y != a.q.Y || b.p.X != b.q.X {
		return
	}
	x, y := b.p.X, a.p.Y
	if min(a.p.X, a.q.X) < x && x < max(a.p.X, a.q.X) && min(b.p.Y, b.q.Y) < y && y < max(b.p.Y, b.q.Y) {
		c.found = append(c.found, Crossing{a.link, b.link, a.at, b.at, geometry.Point{X: x, Y: y}})
	}
}
