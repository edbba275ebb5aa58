package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// While many links have to be routed in every frame of a drag, most of them only
// segment or shorten what they had in the frame before; the others are searched,
// by turns, so that each soon is. A pause computes them all.

const (
	// searched is how many links are searched in every frame when more wait.
	searched = 8
	// frameStates is how many states a frame may look at for first ways; a link's
	// share is a multiple of what is left for each, within bounds.
	frameStates = 3_000
	leastStates = 200
	mostStates  = 800
)

// trail is the way of a link in the frame before, and the glue points from and to
// which it ran.
type trail struct {
	known    bool
	link     Link
	way      route
	from, to geometry.Point
}

// routeInMotion finds the ways of the links that a drag has to route.
func (r *Router) routeInMotion() {
	r.motion.phase++
	left, most := frameStates, 2*searched
	for k, i := range r.motion.again {
		r.work.anew[i] = true
		l := &r.scene.Links[i]
		if l.Straight || l.Joins {
			r.findFirst(i)
			continue
		}
		pulled, free := r.adjust(i, &r.motion.pulled)
		mine := (k+r.motion.phase*searched)%len(r.motion.again) < searched
		if !mine && pulled && (free || most <= 0) {
			r.routes[i].copy(&r.motion.pulled)
		} else {
			// Ways need not be the very cheapest until the motion pauses, least of
			// all the long ones and those of a crowded sheet.
			s := &r.search
			s.inMotion = len(r.scene.Boxes) > smallScene
			if s.inMotion {
				if s.overrate = 2; len(r.scene.Boxes) > crowded ||
					r.end(i, true).Manhattan(r.end(i, false)) > hastyReach {
					s.overrate = 4
				}
				s.ignoreCrossings = len(r.motion.again) > 2*searched
				s.frameBudget = geometry.Clamp(4*left/(len(r.motion.again)-k), leastStates, mostStates)
			}
			most--
			had := s.frameBudget
			s.find(r, i, &r.routes[i])
			if left -= had - s.frameBudget; s.gaveUp && pulled {
				r.routes[i].copy(&r.motion.pulled)
			}
			s.inMotion, s.ignoreCrossings, s.overrate, s.frameBudget, s.gaveUp = false, false, 0, 0, false
		}
		r.occupy(i)
		r.keepTrail(i)
	}
}

// adjust writes to w the way of link i in the frame before, its first and last
// segment drawn out or in with what they are glued to. It reports whether that
// does not fold back, and whether it keeps clear of all symbols.
func (r *Router) adjust(i int, w *route) (pulled, free bool) {
	t, l := &r.motion.trails[i], &r.scene.Links[i]
	if !t.known && !r.was.newLink[i] { // as before the drag
		t.known, t.link = true, r.was.links[i]
		t.way.copy(&r.base[i])
		t.from, t.to = socket(r.was.glue, l.From, t.way.fromSide, l.FromAt), socket(r.was.glue, l.To, t.way.toSide,
			l.ToAt)
	}
	if !t.known || !l.same(&t.link) || len(l.Bends) > 0 || len(t.way.points) < 2 {
		return false, false
	}
	w.copy(&t.way)
	pts := w.points
	n := len(pts)
	from, to := socket(r.scene.Glue, l.From, w.fromSide, l.FromAt), socket(r.scene.Glue, l.To, w.toSide, l.ToAt)
	if !pull(pts, 0, 1, from.Sub(t.from)) || !pull(pts, n-1, n-2, to.Sub(t.to)) {
		return false, false
	}
	if w.obstructed {
		return true, false
	}
	for k := 1; k < n; k++ {
		p, q := pts[k-1], pts[k]
		for _, j := range r.ground.boxes.Near(geometry.Between(p, q).Grown(hard)) {
			b := int(j)
			if r.scene.open(b) {
				continue
			}
			gap := hard
			if b == l.From || b == l.To {
				gap = 0
			}
			if r.scene.Boxes[b].Grown(gap).CutBy(p, q) {
				return true, false
			}
		}
	}
	return true, true
}

// pull moves an end by d, and with it the segment to the point next to it. The
// segment keeps its direction and does not get shorter than what shows.
func pull(pts geometry.Polyline, end, next int, d geometry.Point) bool {
	if d == (geometry.Point{}) {
		return true
	}
	level := pts[end].Y == pts[next].Y
	before := pts[next].Sub(pts[end])
	pts[end] = pts[end].Add(d)
	if len(pts) == 2 {
		return (level && d.Y == 0 || !level && d.X == 0) && ahead(before, pts[next].Sub(pts[end]))
	}
	if level {
		pts[next].Y += d.Y
	} else {
		pts[next].X += d.X
	}
	return ahead(before, pts[next].Sub(pts[end]))
}

// ahead reports whether a segment runs as it did before, and long enough to be
// seen.
func ahead(before, now geometry.Point) bool {
	return before.X*now.X+before.Y*now.Y > 0 && geometry.Abs(now.X)+geometry.Abs(now.Y) >= hard
}

// socket returns the glue point of an end that meets a side.
func socket(glue [][4]geometry.Point, box int, side geometry.Side, at geometry.Point) geometry.Point {
	if box < 0 || box >= len(glue) {
		return at
	}
	return glue[box][side]
}

// keepTrail notes the way of link i for the next frame.
func (r *Router) keepTrail(i int) {
	t, l, w := &r.motion.trails[i], &r.scene.Links[i], &r.routes[i]
	t.known, t.link = true, *l
	t.from, t.to = socket(r.scene.Glue, l.From, w.fromSide, l.FromAt), socket(r.scene.Glue, l.To, w.toSide, l.ToAt)
	t.way.copy(w)
}

// shifted returns by how much link i has been moved as a whole.
func (r *Router) shifted(i int) geometry.Point {
	if l := &r.scene.Links[i]; r.inMotion(l.From) {
		return r.scene.Boxes[l.From].Corner().Sub(r.was.boxes[l.From].Corner())
	}
	return geometry.Point{}
}

// Drag computes the courses while some boxes are in motion or some links are
// changed: those attached to them or in their way are routed, all others keep
// the course of the last complete computation. What has come or changed since then
// counts as moved; the rest must stand in the same order.
func (r *Router) Drag(s Scene, moving func(box int) bool) []Course {
	r.work.on = false
	r.regions = [len(gaps)]regions{} // too much for every frame
	if len(r.was.boxes) == 0 {
		return r.Route(s)
	}
	r.reorder(&s)
	r.motion.moved = scratch.Resized(r.motion.moved, len(s.Boxes))
	r.motion.hand, r.motion.swept = r.motion.hand[:0], geometry.Box{}
	for i := range r.motion.moved {
		if r.motion.moved[i] = r.was.moved(&s, i) || s.Glue[i] != r.was.glue[i] || moving(i); r.motion.moved[i] {
			r.motion.hand = append(r.motion.hand, i)
			r.motion.swept = r.motion.swept.Union(s.Boxes[i].Grown(2 * hard))
		}
	}
	r.prepare(s)
	r.ports = scratch.Resized(r.ports, len(s.Boxes))
	clear(r.ports)
	r.motion.trails = scratch.Resized(r.motion.trails, len(s.Links))
	again := r.motion.again[:0]
	for _, i := range r.work.order {
		if r.disturbed(i) {
			again = append(again, i)
			continue
		}
		r.work.anew[i], r.motion.trails[i].known = false, false
		w := &r.routes[i]
		w.copy(&r.base[i])
		if d := r.shifted(i); d != (geometry.Point{}) { // both ends move: the course is shifted
			for k := range w.points {
				w.points[k] = w.points[k].Add(d)
			}
		}
		r.occupy(i)
	}
	r.motion.again = again
	r.routeInMotion()
	for i := range s.Links { // what joins a line that changes follows it
		onto := i
		for n := 0; s.Links[onto].Joins && n < len(s.Links); n++ {
			onto = s.Links[onto].Onto
			r.work.anew[i] = r.work.anew[i] || r.work.anew[onto]
		}
	}
	r.finish()
	return r.out
}

// reorder brings what is kept of the last complete computation into the order of a
// scene.
func (r *Router) reorder(s *Scene) {
	links, gone, _ := r.was.follow(s)
	if links == nil {
		return
	}
	now := make([]int, len(r.done))
	r.base, r.done = rearranged(r.base, links), rearranged(r.done, links)
	for i := range r.motion.trails {
		r.motion.trails[i].known = false
	}
	for j := range now {
		now[j] = None
	}
	for i, j := range links {
		if j != None {
			now[j] = i
		}
	}
	for i := range r.done {
		c := &r.done[i]
		c.Hops = slices.DeleteFunc(c.Hops, func(h Hop) bool { return now[h.Over] == None })
		for k := range c.Hops {
			c.Hops[k].Over = now[c.Hops[k].Over]
		}
	}
	if len(gone) > 0 || len(r.lines) != len(s.Boxes) {
		r.lines = r.lines[:0] // all have to be found again
	}
}

func (r *Router) inMotion(box int) bool { return box != None && r.motion.moved[box] }

// disturbed reports whether the motion asks for a new course of link i.
func (r *Router) disturbed(i int) bool {
	l := &r.scene.Links[i]
	if r.was.newLink[i] || !l.same(&r.was.links[i]) {
		return true
	}
	if r.inMotion(l.From) != r.inMotion(l.To) || r.inMotion(l.From) && !r.together(l.From, l.To) {
		return true
	}
	if r.inMotion(l.From) || l.Straight || l.Joins {
		return false
	}
	way := r.base[i].points
	for k := 1; k < len(way); k++ {
		b := geometry.Between(way[k-1], way[k])
		if !r.motion.swept.Meets(b) {
			continue
		}
		for _, j := range r.ground.boxes.Near(b.Grown(hard)) {
			if r.motion.moved[j] && !r.scene.open(int(j)) && r.scene.Boxes[j].Grown(hard).CutBy(way[k-1], way[k]) {
				return true
			}
		}
	}
	return false
}

// together reports whether two boxes have been moved by the same, unchanged.
func (r *Router) together(a, b int) bool {
	s, was := &r.scene, &r.was
	d := s.Boxes[a].Corner().Sub(was.boxes[a].Corner())
	for _, k := range [...]int{a, b} {
		for side, p := range s.Glue[k] {
			if was.glue[k][side].Add(d) != p {
				return false
			}
		}
	}
	return was.boxes[a].Moved(d) == s.Boxes[a] && was.boxes[b].Moved(d) == s.Boxes[b]
}
