package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

func (r *Router) prepare(s Scene) {
	r.scene = s
	r.search.maxNodes = s.share()
	r.area = s.area()
	r.forgetSegments()
	r.layBoxes()
	r.pastAll()
	r.sortLines()
	r.work.anew = scratch.Resized(r.work.anew, len(s.Links))
	r.routes = scratch.Resized(r.routes, len(s.Links))
	r.work.order, r.work.rank = r.work.order[:0], scratch.Resized(r.work.rank, len(s.Links))
	if len(r.work.turns) != len(s.Links) {
		r.work.turns = scratch.Resized(r.work.turns, len(s.Links))
		for i := range r.work.turns {
			r.work.turns[i].link = i
		}
	}
	for k := range r.work.turns { // in the order of last time, which in a drag is almost that of this time
		i := r.work.turns[k].link
		from, to := r.end(i, true), r.end(i, false)
		r.work.turns[k] = turn{reach(from, to), from, to, i}
	}
	// The short and straight come first: they have the first claim on a glue
	// point. The order is a matter of geometry alone.
	slices.SortFunc(r.work.turns, turn.before)
	for k, t := range r.work.turns {
		r.work.order = append(r.work.order, t.link)
		r.work.rank[t.link] = k
	}
}

// layBoxes notes where the boxes lie, and counts those that are in the way.
func (r *Router) layBoxes() {
	r.ground.boxes.Begin(r.area)
	r.closed = 0
	for i, b := range r.scene.Boxes {
		r.ground.boxes.Add(i, b)
		if !r.scene.open(i) {
			r.closed++
		}
	}
}

// turn is what decides when a link is routed.
type turn struct {
	reach    int
	from, to geometry.Point
	link     int
}

// before compares two turns; no two are equal.
func (t turn) before(o turn) int {
	switch {
	case t.reach != o.reach:
		return t.reach - o.reach
	case t.from.X != o.from.X:
		return t.from.X - o.from.X
	case t.from.Y != o.from.Y:
		return t.from.Y - o.from.Y
	case t.to.X != o.to.X:
		return t.to.X - o.to.X
	case t.to.Y != o.to.Y:
		return t.to.Y - o.to.Y
	}
	return t.link - o.link
}

// pastAll finds the lines past every box; while some are in motion only past
// those, and past the ones that are or were near them.
func (r *Router) pastAll() {
	all := len(r.lines) != len(r.scene.Boxes)
	r.lines = scratch.Resized(r.lines, len(r.scene.Boxes))
	r.motion.near = scratch.Resized(r.motion.near, len(r.scene.Boxes))
	for i, b := range r.scene.Boxes {
		near := all || r.motion.moved[i]
		for _, k := range r.motion.hand {
			if near = near || r.scene.Boxes[k].Grown(2*Clearance).Meets(b); near {
				break
			}
		}
		if near || r.motion.near[i] {
			r.lines[i] = r.pastLines(i)
		}
		r.motion.near[i] = near
	}
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
// gap to the nearest box on that side when that is narrower. Past the ends of
// what heads a frame they run inside it.
func (r *Router) pastLines(i int) [4]int {
	b := r.scene.Boxes[i]
	gap := [4]int{2 * Clearance, 2 * Clearance, 2 * Clearance, 2 * Clearance}
	near := b.Grown(2 * Clearance)
	for _, j := range r.ground.boxes.Near(near) {
		k := int(j)
		o := r.scene.Boxes[k]
		if k == i || !near.Meets(o) || r.scene.open(k) {
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
	if r.scene.heads(i) {
		if b.H > b.W {
			gap[geometry.Top], gap[geometry.Bottom] = -2*Clearance, -2*Clearance
		} else {
			gap[geometry.Left], gap[geometry.Right] = -2*Clearance, -2*Clearance
		}
	}
	return [4]int{b.Y - gap[0]/2, b.Right() + gap[1]/2, b.Bottom() + gap[2]/2, b.X - gap[3]/2}
}

// departure returns the price of leaving symbol box by side, apart from others, by the line of others, with those of a
// fork, or as one of a few answers.
func (r *Router) departure(box int, side geometry.Side, how sharing) int {
	p := r.ports[box][side]
	price := sidePrice(side, r.scene.Down, false)
	if p.in > 0 {
		price += sharedPort
	}
	switch how {
	case shares:
		return price
	case forks:
		return price + int(p.out)*mergedPort
	case answers:
		return price + int(p.out)*answerPort
	}
	return price + int(p.out)*sharedPort
}

// arrival returns the price of reaching symbol box at side.
func (r *Router) arrival(box int, side geometry.Side, how sharing) int {
	p := r.ports[box][side]
	price := sidePrice(side, r.scene.Down, true) + int(p.out)*sharedPort
	if how == shares {
		return price
	}
	return price + int(p.in)*mergedPort
}

// sidePrice is a small preference for leaving with the flow and arriving with it. Of
// the two sides across the flow the right or lower one goes first where all
// else is equal.
func sidePrice(side geometry.Side, down, arriving bool) int {
	ahead := geometry.Right
	if down {
		ahead = geometry.Bottom
	}
	if arriving {
		ahead = ahead.Opposite()
	}
	price := 4 * px
	if arriving {
		price = 2 * px
	}
	switch {
	case side == ahead:
		return 0
	case side == ahead.Opposite():
		return 12 * px
	case side == geometry.Top || side == geometry.Left:
		price++
	}
	return price
}

// end returns about where a link begins or ends.
func (r *Router) end(i int, from bool) geometry.Point {
	l := &r.scene.Links[i]
	box, at := l.To, l.ToAt
	if from {
		box, at = l.From, l.FromAt
	}
	if box == None {
		return at
	}
	return r.scene.Boxes[box].Centre()
}
