package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
)

// join finds the ways of the links that join others, each after the one it
// joins: how deep they hang on each other decides, then the common order.
func (r *Router) join() {
	depth := func(i int) int {
		n := 0
		for r.scene.Links[i].Joins && n <= len(r.scene.Links) {
			i = r.scene.Links[i].Onto
			n++
		}
		return n
	}
	var list []int
	for _, i := range r.work.order {
		if r.scene.Links[i].Joins && r.work.anew[i] {
			list = append(list, i)
		}
	}
	slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(depth(a), depth(b)) })
	for _, i := range list {
		c, w := &r.out[i], &r.routes[i]
		target := r.out[r.scene.Links[i].Onto].Points
		if len(target) < 2 { // a circle, which no valid map has
			target = geometry.Polyline{r.scene.Links[i].ToAt, r.scene.Links[i].ToAt}
		}
		r.search.onto = target
		if r.scene.Links[i].Straight {
			r.straightOnto(i, target)
		} else {
			r.search.find(r, i, w)
		}
		r.search.onto = nil
		c.Points = append(c.Points[:0], w.points...)
		c.FromSide, c.ToSide, c.Obstructed, c.BendsDropped, c.Unrouted = w.fromSide, w.toSide, w.obstructed,
			w.bendsDropped, w.unrouted
		if len(c.Points) == 1 {
			c.Points = append(c.Points, c.Points[0])
		}
	}
}

// straightOnto joins the middle of a course by one straight line.
func (r *Router) straightOnto(i int, target geometry.Polyline) {
	l, w := &r.scene.Links[i], &r.routes[i]
	mid := target.Along(target.Length() / 2)
	best := int(^uint(0) >> 1)
	for _, a := range r.places(l.From, l.FromSide, l.FromAt) {
		if d := a.at.Manhattan(mid); d < best {
			best = d
			w.points = append(w.points[:0], a.at, mid)
			w.fromSide, w.obstructed, w.bendsDropped, w.unrouted = a.side, false, false, false
		}
	}
}

type place struct {
	side geometry.Side
	at   geometry.Point
}

// places returns where an end may be glued.
func (r *Router) places(box, side int, at geometry.Point) []place {
	if box == None {
		return []place{{geometry.Left, at}}
	}
	var out []place
	for k, p := range r.scene.Glue[box] {
		if side == Any || side == k {
			out = append(out, place{geometry.Side(k), p})
		}
	}
	return out
}

// straight joins the two nearest glue points of which the line cuts least.
func (r *Router) straight(i int) {
	l, w := &r.scene.Links[i], &r.routes[i]
	w.obstructed, w.bendsDropped, w.unrouted = false, false, false
	best := int(^uint(0) >> 1)
	for _, a := range r.places(l.From, l.FromSide, l.FromAt) {
		for _, b := range r.places(l.To, l.ToSide, l.ToAt) {
			d := b.at.Sub(a.at)
			price := geometry.Sqrt(d.X*d.X + d.Y*d.Y)
			hits := 0
			for k, box := range r.scene.Boxes {
				if !r.scene.open(k) && box.Grown(-1).Touches(a.at, b.at) {
					hits++
				}
			}
			if price += hits * 1000 * px; price < best {
				best = price
				w.points = append(w.points[:0], a.at, b.at)
				w.fromSide, w.toSide, w.obstructed = a.side, b.side, hits > 0
			}
		}
	}
}
