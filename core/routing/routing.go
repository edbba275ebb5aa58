// Package routing finds the courses of connectors: right-angled ways from
// symbol to symbol that keep clear of all others.
//
// The work is done in three stages. Each connector first gets its own cheapest
// way (length plus a price for every bend) through the free space, found by A*
// over the lines that run past the symbols. Then stretches that share a channel
// are set side by side and loose ones into the middle of their channel. Last,
// labels are placed. The stages follow Wybrow, Marriott and Stuckey,
// Orthogonal Connector Routing (2009).
package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
)

const px = geometry.Px

// What the router weighs, in length.
const (
	// Clearance is the distance a course keeps from symbols while there is room.
	Clearance = 16 * px
	// hard is the distance below which a course counts as cutting a symbol.
	hard = 4 * px
	// bendPrice is the detour that is taken to save one bend.
	bendPrice = 40 * px
	// sharedPort is the price of a glue point where something already arrives
	// or leaves in the other sense, or leaves in the same.
	sharedPort = 70 * px
	// mergedPort is the price of arriving where something arrives already.
	mergedPort = 6 * px
	// hastyReach is the distance beyond which a way is found in haste while
	// things are in motion.
	hastyReach = 1000 * px
	// Separation is the distance between courses that share a channel.
	Separation = 8 * px
)

// Any lets the router choose the side of an end.
const Any = -1

// Link is a connector to be routed, between two symbols by their places in
// Scene.Boxes.
type Link struct {
	From, To int
	// FromSide and ToSide are a geometry.Side, or Any.
	FromSide, ToSide int
	// Label is the size of the label; zero for none.
	Label geometry.Point
	// Branch marks the exit of a decision, whose label stands near its start.
	Branch bool
}

// Scene is all the router needs to know of a sheet.
type Scene struct {
	// Boxes are the symbols, each with its glue points by side, followed by
	// whatever else is in the way and has none.
	Boxes []geometry.Box
	Glue  [][4]geometry.Point
	Links []Link
	// Down says that the flow normally runs downwards, not to the right.
	Down bool
}

// Course is the way of one connector.
type Course struct {
	Points geometry.Polyline
	// FromSide and ToSide are the sides it was glued to.
	FromSide, ToSide geometry.Side
	// Label is where the label stands; empty without one.
	Label geometry.Box
	// Cuts says that no free way was found and the course runs through a symbol.
	Cuts bool
}

// Router routes a sheet and, while things move, keeps what it can. The zero
// value is ready for use. It is not safe for concurrent use.
type Router struct {
	scene Scene
	// lines holds for each box the lines that run past its four sides.
	lines [][4]int
	// raw are the cheapest ways, base those of the last complete computation.
	raw, base []raw
	// ports counts what arrives and leaves at every side of every symbol.
	ports [][4]port
	order []int
	s     search
	out   []Course
	n     nudger
	moved []bool
	// again are the links a drag has to route.
	again []int
	// placed are the labels placed so far.
	placed []geometry.Box
}

type port struct{ in, out int16 }

type raw struct {
	points           geometry.Polyline
	fromSide, toSide geometry.Side
	cuts             bool
}

// Route computes all courses afresh: they are a function of the scene alone.
// The result is valid until the next call.
func (r *Router) Route(s Scene) []Course {
	r.prepare(s)
	r.ports = resized(r.ports, len(s.Boxes))
	clear(r.ports)
	for _, i := range r.order {
		r.one(i)
	}
	r.keep()
	return r.finish()
}

// keep remembers the courses as those from which a drag begins.
func (r *Router) keep() {
	r.base = resized(r.base, len(r.raw))
	for i := range r.raw {
		b := &r.base[i]
		b.points = append(b.points[:0], r.raw[i].points...)
		b.fromSide, b.toSide, b.cuts = r.raw[i].fromSide, r.raw[i].toSide, r.raw[i].cuts
	}
}

// Drag computes the courses while some boxes are in motion: links attached to
// them or in their way are routed, all others keep the course of the last
// Route. The scene must have the same boxes and links, in the same order.
func (r *Router) Drag(s Scene, moving func(box int) bool) []Course {
	if len(s.Links) != len(r.base) || len(s.Boxes) != len(r.lines) {
		return r.Route(s)
	}
	r.moved = resized(r.moved, len(s.Boxes))
	for i := range r.moved {
		r.moved[i] = moving(i)
	}
	r.prepare(s)
	r.ports = resized(r.ports, len(s.Boxes))
	clear(r.ports)
	again := r.again[:0]
	for _, i := range r.order {
		if r.disturbed(i) {
			again = append(again, i)
			continue
		}
		b := &r.base[i]
		w := &r.raw[i]
		w.points = append(w.points[:0], b.points...)
		w.fromSide, w.toSide, w.cuts = b.fromSide, b.toSide, b.cuts
		if r.moved[s.Links[i].From] { // both ends move: the course is shifted
			d := s.Glue[s.Links[i].From][w.fromSide].Sub(w.points[0])
			for k := range w.points {
				w.points[k] = w.points[k].Add(d)
			}
		}
		r.occupy(i)
	}
	for _, i := range again {
		// Long ways need not be the very cheapest until the motion pauses.
		if l := &s.Links[i]; s.Boxes[l.From].Centre().Manhattan(s.Boxes[l.To].Centre()) > hastyReach {
			r.s.haste = 2
		}
		r.one(i)
		r.s.haste = 0
	}
	r.again = again
	return r.finish()
}

// disturbed reports whether the motion asks for a new course of link i.
func (r *Router) disturbed(i int) bool {
	l := &r.scene.Links[i]
	if r.moved[l.From] != r.moved[l.To] {
		return true
	}
	if r.moved[l.From] {
		return false
	}
	for k, b := range r.scene.Boxes {
		if r.moved[k] && cuts(r.base[i].points, b.Grown(hard)) {
			return true
		}
	}
	return false
}

func cuts(line geometry.Polyline, b geometry.Box) bool {
	for k := 1; k < len(line); k++ {
		if b.CutBy(line[k-1], line[k]) {
			return true
		}
	}
	return false
}

func (r *Router) prepare(s Scene) {
	r.scene = s
	r.lines = resized(r.lines, len(s.Boxes))
	for i := range s.Boxes {
		r.lines[i] = pastLines(s.Boxes, i)
	}
	r.raw = resized(r.raw, len(s.Links))
	r.order = r.order[:0]
	for i := range s.Links {
		r.order = append(r.order, i)
	}
	// The short and straight come first: they have the first claim on a glue
	// point. The order is a matter of geometry alone.
	slices.SortFunc(r.order, func(a, b int) int {
		la, lb := &s.Links[a], &s.Links[b]
		fa, ta := s.Boxes[la.From].Centre(), s.Boxes[la.To].Centre()
		fb, tb := s.Boxes[lb.From].Centre(), s.Boxes[lb.To].Centre()
		return cmp.Or(cmp.Compare(reach(fa, ta), reach(fb, tb)),
			cmp.Compare(fa.X, fb.X), cmp.Compare(fa.Y, fb.Y), cmp.Compare(ta.X, tb.X), cmp.Compare(ta.Y, tb.Y), cmp.Compare(a, b))
	})
}

// reach is the length of the way between two centres, with its bend.
func reach(p, q geometry.Point) int {
	d := p.Manhattan(q)
	if p.X != q.X && p.Y != q.Y {
		d += 2 * bendPrice
	}
	return d
}

// pastLines returns the coordinates of the lines that run past box i above, to
// the right, below and to the left: at the clearance, or in the middle of the
// gap to the nearest box on that side when that is narrower.
func pastLines(boxes []geometry.Box, i int) [4]int {
	b := boxes[i]
	gap := [4]int{2 * Clearance, 2 * Clearance, 2 * Clearance, 2 * Clearance}
	near := b.Grown(2 * Clearance)
	for k, o := range boxes {
		if k == i || !near.Meets(o) {
			continue
		}
		if o.X < b.Right() && b.X < o.Right() {
			if d := b.Y - o.Bottom(); d >= 0 {
				gap[geometry.Top] = min(gap[geometry.Top], d)
			} else if d := o.Y - b.Bottom(); d >= 0 {
				gap[geometry.Bottom] = min(gap[geometry.Bottom], d)
			}
		}
		if o.Y < b.Bottom() && b.Y < o.Bottom() {
			if d := b.X - o.Right(); d >= 0 {
				gap[geometry.Left] = min(gap[geometry.Left], d)
			} else if d := o.X - b.Right(); d >= 0 {
				gap[geometry.Right] = min(gap[geometry.Right], d)
			}
		}
	}
	return [4]int{b.Y - gap[0]/2, b.Right() + gap[1]/2, b.Bottom() + gap[2]/2, b.X - gap[3]/2}
}

// one finds the cheapest way of link i and claims its glue points.
func (r *Router) one(i int) {
	r.s.find(r, i, &r.raw[i])
	r.occupy(i)
}

func (r *Router) occupy(i int) {
	l, w := &r.scene.Links[i], &r.raw[i]
	r.ports[l.From][w.fromSide].out++
	r.ports[l.To][w.toSide].in++
}

// departure returns the price of leaving symbol box by side.
func (r *Router) departure(box int, side geometry.Side) int {
	p := r.ports[box][side]
	price := lean(side, r.scene.Down, false)
	if p.in > 0 {
		price += sharedPort
	}
	return price + int(p.out)*sharedPort
}

// arrival returns the price of reaching symbol box at side.
func (r *Router) arrival(box int, side geometry.Side) int {
	p := r.ports[box][side]
	return lean(side, r.scene.Down, true) + int(p.out)*sharedPort + int(p.in)*mergedPort
}

// lean is a small preference for leaving with the flow and arriving with it.
func lean(side geometry.Side, down, arriving bool) int {
	ahead := geometry.Right
	if down {
		ahead = geometry.Bottom
	}
	if arriving {
		ahead = ahead.Opposite()
	}
	switch side {
	case ahead:
		return 0
	case ahead.Opposite():
		return 12 * px
	}
	if arriving {
		return 2 * px
	}
	return 4 * px
}

func (r *Router) finish() []Course {
	r.out = resized(r.out, len(r.raw))
	for i := range r.raw {
		c := &r.out[i]
		c.Points = append(c.Points[:0], r.raw[i].points...)
		c.FromSide, c.ToSide, c.Cuts = r.raw[i].fromSide, r.raw[i].toSide, r.raw[i].cuts
		c.Label = geometry.Box{}
	}
	r.n.spread(&r.scene, r.out)
	r.placed = placeLabels(&r.scene, r.out, r.placed[:0])
	return r.out
}

// resized returns a slice of length n that reuses the memory of s; elements
// that s held keep their contents.
func resized[T any](s []T, n int) []T {
	if n <= cap(s) {
		return s[:n]
	}
	return append(s[:cap(s)], make([]T, n-cap(s))...)
}
