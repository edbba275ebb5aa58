package routing

import (
	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// sweeps find the cheapest way in the gathered grid by rounds: all that can be
// reached along a line, forwards and backwards, and then along the lines across it
// on which anything was reached at less cost, until nothing is. There are about as
// many rounds as the way has bends. Hardly anything is done at a node, so that
// where much of the grid would be looked at this takes a small part of the time of
// a search that always goes on from the most hopeful node. It is the method of
// Bellman (On a Routing Problem, 1958), relaxing a whole line at a time.
type sweeps struct {
	// upright and level are the lines of the grid.
	upright, level lines
	// bound is the cost that a way has to stay below.
	bound int32
	// passed counts the nodes passed.
	passed int
}

// lines are those of one axis. What is known of their nodes is kept line by line, so
// that all of it lies in the order in which it is swept.
type lines struct {
	// length is the number of nodes of a line.
	length int
	// costs are what it costs to have travelled to a node forwards and backwards, enter
	// what it costs to turn into the line there, and edges what the edge costs that
	// leads to it from the one before.
	costs        [2][]int32
	enter, edges []int32
	// away is how far each line is from the nearest line of a goal, rest what a way
	// that has come to it still costs at least, but for what it travels along it.
	away, rest []int32
	// reached is where a line was reached at less cost since it was swept.
	reached []span
	// all are those that were reached at all.
	all span
}

// span is a range of lines, or of places along one.
type span struct{ lo, hi int }

var none = span{1 << 30, -1}

func (r *span) add(at int) { r.lo, r.hi = min(r.lo, at), max(r.hi, at) }

const (
	// far is more than any way costs.
	far = 1 << 29
	// nodesToState is how many nodes are passed in the time that a search takes for
	// a state.
	nodesToState = 32
)

// sweep does what run does, but knows nothing of bends laid by hand.
func (s *search) sweep(w *route) (cost int, ok bool) {
	f := &s.sweeps
	f.begin(s)
	var goal *terminal
	var travel geometry.Side
	arrive := func(ways ...geometry.Side) {
		for k := range s.goals {
			t := &s.goals[k]
			for _, dir := range ways {
				entry, can := t.entry(dir)
				if total := f.cost(s, t.node, dir) + int32(entry); can && total < f.bound {
					f.bound, goal, travel = total, t, dir
				}
			}
		}
	}
	for again := true; again; {
		again = f.pass(&f.level, &f.upright)
		arrive(geometry.Right, geometry.Left)
		again = f.pass(&f.upright, &f.level) || again
		arrive(geometry.Top, geometry.Bottom)
	}
	s.expanded += f.passed / nodesToState
	s.noteVisited(f.upright.all.lo, f.level.all.lo, f.upright.all.hi, f.level.all.hi)
	if goal == nil {
		return 0, false
	}
	f.trace(s, goal, travel, w)
	return int(f.bound), true
}

// begin forgets the last grid and notes where a way can begin.
func (f *sweeps) begin(s *search) {
	nx, ny := len(s.xs), len(s.ys)
	f.upright.begin(nx, ny)
	f.level.begin(ny, nx)
	f.upright.seek(s, s.xs, true)
	f.level.seek(s, s.ys, false)
	f.level.edges, f.upright.edges = s.right, s.down
	for k := range s.starts {
		t := &s.starts[k]
		own, across, at, along := f.on(s, t.node, t.side)
		cost := &own.costs[back(t.side)][at*own.length+along]
		if t.covered || int32(t.cost) >= *cost {
			continue
		}
		*cost = int32(t.cost)
		across.turn(along, at, *cost+bendPrice)
		own.reached[at].add(along)
	}
	f.passed = 4 * nx * ny
	f.bound = far
	if s.bound > 0 {
		f.bound = int32(s.bound)
	}
}

// back returns one for the sides towards which coordinates fall.
func back(side geometry.Side) int {
	if side == geometry.Left || side == geometry.Top {
		return 1
	}
	return 0
}

// on returns the lines along which and across which a way to a side travels through a
// node, and the places of these two among their like.
func (f *sweeps) on(s *search, node int32, side geometry.Side) (own, across *lines, at, along int) {
	nx := int32(len(s.xs))
	x, y := int(node%nx), int(node/nx)
	if side.Upright() {
		return &f.upright, &f.level, x, y
	}
	return &f.level, &f.upright, y, x
}

// cost returns what it costs to have travelled to a node in the direction of a side.
func (f *sweeps) cost(s *search, node int32, dir geometry.Side) int32 {
	own, _, at, along := f.on(s, node, dir)
	return own.costs[back(dir)][at*own.length+along]
}

func (l *lines) begin(count, length int) {
	l.length = length
	l.away, l.rest, l.reached = scratch.Resized(l.away, count), scratch.Resized(l.rest, count),
		scratch.Resized(l.reached, count)
	for i := range count {
		l.away[i], l.reached[i] = far, none
	}
	l.all = none
	n := count * length
	for _, list := range [...]*[]int32{&l.costs[0], &l.costs[1], &l.enter} {
		*list = scratch.Resized(*list, n)
		fill(*list, far)
	}
}

// fill sets all of a list, of which there is some, to v: each copy doubles what is done.
func fill(list []int32, v int32) {
	list[0] = v
	for n := 1; n < len(list); n *= 2 {
		copy(list[n:], list[:n])
	}
}

// seek finds out how far the goals are from each of the lines.
func (l *lines) seek(s *search, at []int, upright bool) {
	turns := int32(2) // of a way along a line that is no goal's
	for k := range s.goals {
		t := &s.goals[k]
		if t.covered {
			continue
		}
		if t.side.Upright() != upright {
			turns = 1
		}
		v := t.at.Y
		if upright {
			v = t.at.X
		}
		for i := range at {
			l.away[i] = min(l.away[i], int32(geometry.Abs(at[i]-v)))
		}
	}
	for i := range at {
		l.rest[i] = l.away[i] + turns*bendPrice
	}
	for k := range s.goals {
		if t := &s.goals[k]; t.side.Upright() == upright {
			i := t.node / int32(len(s.xs))
			if upright {
				i = t.node % int32(len(s.xs))
			}
			l.rest[i] = 0
		}
	}
}

// turn notes at what cost a way can turn into line i at a place, if that is less than it
// was.
func (l *lines) turn(i, place int, cost int32) {
	if e := &l.enter[i*l.length+place]; cost < *e {
		*e = cost
		l.reached[i].add(place)
	}
}

// pass sweeps all lines of an axis that were reached since they were swept, forwards
// and backwards, and reports whether there were any. From one place to another a line
// was reached from across; it is left where there is no more that was. What is
// reached at less cost is noted with the lines across that lead on from there.
func (f *sweeps) pass(own, across *lines) (any bool) {
	n := own.length
	for l, r := range own.reached {
		if r.hi < 0 {
			continue
		}
		any, own.reached[l] = true, none
		own.all.add(l)
		across.all.add(r.lo)
		across.all.add(r.hi)
		limit := f.bound - own.rest[l]
		// Every list is cut to what is swept, all to the same length.
		first, inside := l*n, r.hi-r.lo
		cost := own.costs[0][first+r.lo : first+n]
		enter, edges, away := own.enter[first+r.lo:][:len(cost)], own.edges[first+r.lo:][:len(cost)],
			across.away[r.lo:][:len(cost)]
		c, k := int32(far), 0
		for ; k <= inside; k++ {
			c += edges[k]
			was := cost[k]
			if max(c-was, c+away[k]-limit) < 0 {
				cost[k] = c
				across.turn(r.lo+k, l, c+bendPrice)
			} else {
				if c < was {
					was = far
				}
				c = was
			}
			c = min(c, enter[k])
		}
		for ; k < len(cost); k++ {
			c += edges[k]
			if max(c-cost[k], c+away[k]-limit) >= 0 {
				break
			}
			cost[k] = c
			across.turn(r.lo+k, l, c+bendPrice)
		}
		f.passed += k
		cost = own.costs[1][first : first+r.hi+1]
		enter, edges, away = own.enter[first:][:len(cost)], own.edges[first+1:][:len(cost)], across.away[:len(cost)]
		c, k = far, len(cost)-1
		for ; k >= r.lo; k-- {
			c += edges[k]
			was := cost[k]
			if max(c-was, c+away[k]-limit) < 0 {
				cost[k] = c
				across.turn(k, l, c+bendPrice)
			} else {
				if c < was {
					was = far
				}
				c = was
			}
			c = min(c, enter[k])
		}
		for ; k >= 0; k-- {
			c += edges[k]
			if max(c-cost[k], c+away[k]-limit) >= 0 {
				break
			}
			cost[k] = c
			across.turn(k, l, c+bendPrice)
		}
		f.passed += r.hi - k
	}
	return any
}

// trace writes the way that comes to a goal in the direction of a side. It goes
// back straight on as far as that is as cheap.
func (f *sweeps) trace(s *search, goal *terminal, dir geometry.Side, w *route) {
	nx, ny := int32(len(s.xs)), int32(len(s.ys))
	node := goal.node
	before := func() (from, length int32) {
		x, y := node%nx, node/nx
		switch dir {
		case geometry.Right:
			return node - 1, s.right[node]
		case geometry.Left:
			return node + 1, s.right[node+1]
		case geometry.Bottom:
			return node - nx, s.down[x*ny+y]
		}
		return node + nx, s.down[x*ny+y+1]
	}
	s.path = append(s.path[:0], goal.glue)
	for {
		s.path = append(s.path, geometry.Point{X: s.xs[node%nx], Y: s.ys[node/nx]})
		from, length := before()
		if length >= blocked {
			break
		}
		cost := f.cost(s, node, dir) - length
		left, right := (dir+3)&3, (dir+1)&3
		if f.cost(s, from, dir) == cost {
			node = from
		} else if f.cost(s, from, left)+bendPrice == cost {
			node, dir = from, left
		} else if f.cost(s, from, right)+bendPrice == cost {
			node, dir = from, right
		} else {
			break
		}
	}
	s.write(node, dir, goal, w)
}
