package routing

import "plaintracer/core/geometry"

// While many links have to be routed in every frame of a drag, most of them only
// stretch or shorten what they had in the frame before; the others are searched,
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
	way      raw
	from, to geometry.Point
}

// hurry finds the ways of the links that a drag has to route.
func (r *Router) hurry() {
	r.phase++
	left, most := frameStates, 2*searched
	for k, i := range r.again {
		r.anew[i] = true
		l := &r.scene.Links[i]
		if l.Straight || l.Joins {
			r.one(i)
			continue
		}
		pulled, free := r.follow(i, &r.pulled)
		mine := (k+r.phase*searched)%len(r.again) < searched
		if !mine && pulled && (free || most <= 0) {
			r.raw[i].copy(&r.pulled)
		} else {
			// Ways need not be the very cheapest until the motion pauses, least of
			// all the long ones and those of a crowded sheet.
			s := &r.s
			s.hurried = len(r.scene.Boxes) > smallScene
			if s.hurried {
				if s.haste = 2; len(r.scene.Boxes) > crowded || r.end(i, true).Manhattan(r.end(i, false)) > hastyReach {
					s.haste = 4
				}
				s.plain = len(r.again) > 2*searched
				s.share = geometry.Clamp(4*left/(len(r.again)-k), leastStates, mostStates)
			}
			most--
			had := s.share
			s.find(r, i, &r.raw[i])
			if left -= had - s.share; s.gaveUp && pulled {
				r.raw[i].copy(&r.pulled)
			}
			s.hurried, s.plain, s.haste, s.share, s.gaveUp = false, false, 0, 0, false
		}
		r.occupy(i)
		r.leave(i)
	}
}

// follow writes to w the way of link i in the frame before, its first and last
// stretch drawn out or in with what they are glued to. It reports whether that
// does not fold back, and whether it comes too close to no symbol.
func (r *Router) follow(i int, w *raw) (pulled, free bool) {
	t, l := &r.trails[i], &r.scene.Links[i]
	if !t.known && !r.was.newLink[i] { // as before the drag
		t.known, t.link = true, r.was.links[i]
		t.way.copy(&r.base[i])
		t.from, t.to = socket(r.was.glue, l.From, t.way.fromSide, l.FromAt), socket(r.was.glue, l.To, t.way.toSide, l.ToAt)
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
	if w.cuts {
		return true, false
	}
	for k := 1; k < n; k++ {
		p, q := pts[k-1], pts[k]
		for _, j := range r.ground.boxes.near(geometry.Between(p, q).Grown(hard)) {
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

// pull moves an end by d, and with it the stretch to the point next to it. The
// stretch keeps its direction and does not get shorter than what shows.
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

// ahead reports whether a stretch runs as it did before, and long enough to be
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

// leave notes the way of link i for the next frame.
func (r *Router) leave(i int) {
	t, l, w := &r.trails[i], &r.scene.Links[i], &r.raw[i]
	t.known, t.link = true, *l
	t.from, t.to = socket(r.scene.Glue, l.From, w.fromSide, l.FromAt), socket(r.scene.Glue, l.To, w.toSide, l.ToAt)
	t.way.copy(w)
}
