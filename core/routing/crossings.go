package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// Hop is a crossing at which a course gives way to another.
type Hop struct {
	// Segment is the segment of the course, from its point of that number on.
	Stretch int
	At      geometry.Point
	// Over is the link that is crossed.
	Over int
}

// Crossing is a point in which two courses cross.
type Crossing struct {
	// A gives way to B: of a level and an upright segment the level one, of
	// two others the flatter.
	A, B               int
	SegmentA, SegmentB int
	At                 geometry.Point
}

// crossings finds where courses cross: level and upright segments by sweeping
// a line across the sheet, slanting ones pair by pair. Segments that only
// touch, or lie on each other, do not cross.
type crossings struct {
	level, upright, slanting []sweepSegment
	events                   []event
	active                   []int
	found                    []Crossing
	fresh                    []bool
	// moved are the segments of the courses that are new or have been moved.
	moved []sweepSegment
	near  cells
	// most is how many crossings are marked; zero for all. tooMany says that there were
	// more: none is, since no eye could follow them.
	most    int
	tooMany bool
}

// mostHops is how many crossings are marked on a sheet with very much on it.
const mostHops = 50_000

// event is where the line that is swept comes to a segment.
type event struct{ x, kind, i int }

type sweepSegment struct {
	p, q     geometry.Point
	link, at int
}

// Crossings returns all crossings of courses, by link and place.
func Crossings(courses []Course) []Crossing {
	var c crossings
	c.collect(courses)
	return c.found
}

func (c *crossings) collect(courses []Course) {
	c.level, c.upright, c.slanting, c.found = c.level[:0], c.upright[:0], c.slanting[:0], c.found[:0]
	for i := range courses {
		pts := courses[i].Points
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
	if c.tooMany = c.full(); c.tooMany {
		c.found = c.found[:0]
	}
	slices.SortFunc(c.found, func(a, b Crossing) int {
		if a.A != b.A {
			return a.A - b.A
		}
		return cmp.Or(cmp.Compare(a.SegmentA, b.SegmentA), cmp.Compare(a.At.X, b.At.X), cmp.Compare(a.At.Y, b.At.Y), cmp.Compare(a.B, b.B), cmp.Compare(a.SegmentB, b.SegmentB))
	})
}

// sweep goes from left to right over the ends of the level segments and the
// upright segments, and keeps the level ones under way sorted by height.
func (c *crossings) sweep() {
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

func (c *crossings) full() bool { return c.most > 0 && len(c.found) > c.most }

// slantingPair notes the crossing of two segments of which one slants.
func (c *crossings) slantingPair(a, b *sweepSegment) {
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

// find gives every course its hops. A curve is only framed by its course: where
// one is concerned nothing hops.
func (c *crossings) find(r *Router) {
	c.most = 0
	if r.s.maxNodes > 0 {
		c.most = mostHops
	}
	kept := false
	for i := range r.out {
		kept = kept || !r.anew[i]
	}
	if c.found = c.found[:0]; kept && !c.tooMany {
		c.changed(r)
	} else if !kept {
		for i := range r.out {
			r.out[i].Hops = r.out[i].Hops[:0]
		}
		c.collect(r.out)
	}
	for _, x := range c.found {
		if r.scene.Links[x.A].Curved || r.scene.Links[x.B].Curved {
			continue
		}
		r.out[x.A].Hops = append(r.out[x.A].Hops, Hop{x.SegmentA, x.At, x.B})
	}
	if kept {
		for i := range r.out {
			slices.SortStableFunc(r.out[i].Hops, func(a, b Hop) int {
				return cmp.Or(cmp.Compare(a.Stretch, b.Stretch), cmp.Compare(a.At.X, b.At.X), cmp.Compare(a.At.Y, b.At.Y), cmp.Compare(a.Over, b.Over))
			})
		}
	}
}

// changed finds only the crossings of the courses that are new or have been
// moved; the hops of the others over each other are kept.
func (c *crossings) changed(r *Router) {
	c.found = c.found[:0]
	c.fresh = scratch.Resized(c.fresh, len(r.out))
	for i := range r.out {
		c.fresh[i] = r.anew[i] || r.inMotion(r.scene.Links[i].From)
	}
	for i := range r.out {
		if c.fresh[i] {
			r.out[i].Hops = r.out[i].Hops[:0]
			continue
		}
		r.out[i].Hops = slices.DeleteFunc(r.out[i].Hops, func(h Hop) bool { return c.fresh[h.Over] })
	}
	c.moved = c.moved[:0]
	c.near.begin(r.area)
	for i := range r.out {
		if !c.fresh[i] {
			continue
		}
		for k, pts := 0, r.out[i].Points; k+1 < len(pts); k++ {
			c.near.add(len(c.moved), geometry.Between(pts[k], pts[k+1]))
			c.moved = append(c.moved, sweepSegment{pts[k], pts[k+1], i, k})
		}
	}
	for j := range r.out {
		pts := r.out[j].Points
		for l := 0; l+1 < len(pts); l++ {
			b := sweepSegment{pts[l], pts[l+1], j, l}
			for _, k := range c.near.near(geometry.Between(b.p, b.q)) {
				if a := &c.moved[k]; a.link != j && !(c.fresh[j] && j < a.link) {
					c.pair(a, &b)
				}
			}
		}
	}
}

// pair notes the crossing of any two segments.
func (c *crossings) pair(a, b *sweepSegment) {
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
