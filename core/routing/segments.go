package routing

import "plaintracer/core/geometry"

// segment is an edge of a way already found. A link of None is gone again.
type laidSegment struct {
	upright     bool
	pos, lo, hi int
	link        int
}

func laidBetween(p, q geometry.Point, link int) laidSegment {
	if p.X == q.X {
		return laidSegment{true, p.X, min(p.Y, q.Y), max(p.Y, q.Y), link}
	}
	return laidSegment{false, p.Y, min(p.X, q.X), max(p.X, q.X), link}
}

func (s laidSegment) box() geometry.Box {
	return geometry.Box{X: s.lo, Y: s.pos, W: s.hi - s.lo}.Turned(s.upright)
}

// addSegment adds a segment to the ways found so far; forgetSegments removes them all.
func (r *Router) addSegment(s laidSegment) {
	r.ground.laid.Add(len(r.segments), s.box())
	r.segments = append(r.segments, s)
}

func (r *Router) forgetSegments() {
	r.segments = r.segments[:0]
	r.ground.laid.Begin(r.area)
}

// lift takes a way away again, as if it had not been found.
func (r *Router) lift(i int) {
	l, w := &r.scene.Links[i], &r.routes[i]
	for k := 1; k < len(w.points); k++ {
		for _, j := range r.ground.laid.Near(geometry.Between(w.points[k-1], w.points[k])) {
			if r.segments[j].link == i {
				r.segments[j].link = None
			}
		}
	}
	if l.From != None {
		r.ports[l.From][w.fromSide].out--
	}
	if l.To != None {
		r.ports[l.To][w.toSide].in--
	}
}

func (r *Router) occupy(i int) {
	l, w := &r.scene.Links[i], &r.routes[i]
	if l.Joins {
		w.points = w.points[:0]
		return
	}
	if l.From != None {
		r.ports[l.From][w.fromSide].out++
	}
	if l.To != None {
		r.ports[l.To][w.toSide].in++
	}
	if l.Straight {
		return
	}
	for k := 1; k < len(w.points); k++ {
		r.addSegment(laidBetween(w.points[k-1], w.points[k], i))
	}
}

// crossingCost returns what the way of link i pays for crossing others and lying on
// them.
func (r *Router) crossingCost(i int) int { return r.crossingCostOf(r.routes[i].points, i) }

func (r *Router) crossingCostOf(pts geometry.Polyline, link int) int {
	sum := 0
	for k := 1; k < len(pts); k++ {
		p := laidBetween(pts[k-1], pts[k], link)
		for _, j := range r.ground.laid.Near(geometry.Between(pts[k-1], pts[k])) {
			q := &r.segments[j]
			if q.link == link || q.link == None {
				continue
			}
			if p.upright != q.upright {
				if q.lo < p.pos && p.pos < q.hi && p.lo < q.pos && q.pos < p.hi {
					sum += crossPrice
				}
			} else if p.pos == q.pos && !r.scene.merge(link, q.link) {
				sum += max(min(p.hi, q.hi)-max(p.lo, q.lo), 0) / sharePrice
			}
		}
	}
	return sum
}
