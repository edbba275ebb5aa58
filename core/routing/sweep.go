package routing

import "plaintracer/core/geometry"

// sweeps find the cheapest way in the gathered grid by rounds: all that can be
// reached along a line, forwards and backwards, and then along the lines across it
// on which anything was reached at less cost, until nothing is. There are about as
// many rounds as the way has bends. Hardly anything is done at a node, so that
// where much of the grid would be looked at this takes a small part of the time of
// a search that always goes on from the most hopeful node. It is the method of
// Bellman (On a Routing Problem, 1958), relaxing a whole line at a time.
type sweeps struct {
	nodes []node
	// upright and level are the lines of the grid.
	upright, level lines
	// bound is the cost that a way has to stay below.
	bound int32
	// passed counts the nodes passed.
	passed int32
}

// node is what it costs to have travelled to a node of the grid: in the direction of
// each side, and the least of both directions along a line, by the last bit of their
// sides.
type node struct {
	costs [4]int32
	least [2]int32
}

// untrodden is a node to which no way has come yet.
var untrodden = node{[4]int32{far, far, far, far}, [2]int32{far, far}}

// lines are those of one axis.
type lines struct {
	// away is how far each is from the nearest line of a goal, rest what a way that
	// has come to it still costs at least, but for what it travels along it.
	away, rest []int32
	// reached is where a line was reached at less cost since it was swept.
	reached []span
	// all are those that were reached at all.
	all span
}

// span is a range of lines, or of places along one.
type span struct{ lo, hi int32 }

var none = span{1 << 30, -1}

func (r *span) add(at int32) { r.lo, r.hi = min(r.lo, at), max(r.hi, at) }

const (
	// far is more than any way costs.
	far = 1 << 29
	// nodesToState is how many nodes are passed in the time that a search takes for
	// a state.
	nodesToState = 32
)

// sweep does what run does, but knows nothing of bends laid by hand.
func (s *search) sweep(w *raw) (cost int, ok bool) {
	f := &s.sweeps
	nx := int32(len(s.xs))
	f.begin(s)
	var goal *terminal
	var travel geometry.Side
	arrive := func() {
		for k := range s.goals {
			t := &s.goals[k]
			for side, cost := range f.nodes[t.node].costs {
				dir := geometry.Side(side)
				entry, can := t.entry(dir)
				if total := cost + int32(entry); can && total < f.bound {
					f.bound, goal, travel = total, t, dir
				}
			}
		}
	}
	for again := true; again; {
		again = false
		for y, r := range f.level.reached {
			if r.hi >= 0 {
				again, f.level.reached[y] = true, none
				l := line{at: int32(y), first: int32(y) * nx, step: 1}
				f.along(l, r.lo, r.hi, geometry.Right, s.right, &f.level, &f.upright)
				f.along(l, r.hi, r.lo, geometry.Left, s.right[1:], &f.level, &f.upright)
			}
		}
		arrive()
		for x, r := range f.upright.reached {
			if r.hi >= 0 {
				again, f.upright.reached[x] = true, none
				l := line{at: int32(x), first: int32(x), step: nx}
				f.along(l, r.lo, r.hi, geometry.Bottom, s.down, &f.upright, &f.level)
				f.along(l, r.hi, r.lo, geometry.Top, s.down[nx:], &f.upright, &f.level)
			}
		}
		arrive()
	}
	s.looked += int(f.passed) / nodesToState
	s.tread(int(f.upright.all.lo), int(f.level.all.lo), int(f.upright.all.hi), int(f.level.all.hi))
	if goal == nil {
		return 0, false
	}
	f.trace(s, goal, travel, w)
	return int(f.bound), true
}

// begin forgets the last grid and notes where a way can begin.
func (f *sweeps) begin(s *search) {
	nodes := len(s.xs) * len(s.ys)
	f.nodes = resized(f.nodes, nodes)
	for i := range f.nodes {
		f.nodes[i] = untrodden
	}
	f.upright.begin(s.xs)
	f.level.begin(s.ys)
	f.upright.seek(s, s.xs, true)
	f.level.seek(s, s.ys, false)
	for k := range s.starts {
		t := &s.starts[k]
		n := &f.nodes[t.node]
		if t.covered || int32(t.cost) >= n.costs[t.side] {
			continue
		}
		n.costs[t.side] = int32(t.cost)
		n.least[t.side&1] = min(n.least[t.side&1], int32(t.cost))
		x, y := t.node%int32(len(s.xs)), t.node/int32(len(s.xs))
		f.upright.reached[x].add(y)
		f.level.reached[y].add(x)
		f.upright.all.add(x)
		f.level.all.add(y)
	}
	f.passed = int32(4 * nodes)
	f.bound = far
	if s.bound > 0 {
		f.bound = int32(s.bound)
	}
}

func (l *lines) begin(at []int) {
	l.away, l.rest, l.reached = resized(l.away, len(at)), resized(l.rest, len(at)), resized(l.reached, len(at))
	for i := range at {
		l.away[i], l.reached[i] = far, none
	}
	l.all = none
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

// line is one that is swept: its place among its like, its first node, and the step
// from node to node.
type line struct{ at, first, step int32 }

// along sweeps a line in the direction of a side. From one place to another it was
// reached from across; it is left where there is no more that was. The pieces are
// those that lead to a node from the one before. What is reached at less cost is
// noted with the lines across that lead on from there.
func (f *sweeps) along(l line, from, to int32, dir geometry.Side, pieces []int32, own, across *lines) {
	nodes, away, reached := f.nodes, across.away, across.reached
	by, axis := int32(1), dir&1
	if dir == geometry.Left || dir == geometry.Top {
		by = -1
	}
	limit, lo, hi := f.bound-own.rest[l.at], across.all.lo, across.all.hi
	c, at, k := int32(far), from, l.first+from*l.step
	for {
		inside := (to-at)*by >= 0
		turn := inside
		n := &nodes[k]
		switch cost := &n.costs[dir&3]; {
		case c >= *cost:
			c = *cost
		case c+away[at] < limit:
			*cost = c
			if c < n.least[axis&1] {
				n.least[axis&1] = c
				reached[at].add(l.at)
			}
			lo, hi = min(lo, at), max(hi, at)
			inside = true
		default:
			c = far
		}
		if turn {
			c = min(c, n.least[axis^1]+bendPrice)
		}
		if at += by; !inside || at < 0 || int(at) >= len(away) {
			break
		}
		k += by * l.step
		c += pieces[k]
	}
	across.all = span{lo, hi}
	f.passed += (at - from) * by
}

// trace writes the way that comes to a goal in the direction of a side. It goes
// back straight on as far as that is as cheap.
func (f *sweeps) trace(s *search, goal *terminal, dir geometry.Side, w *raw) {
	nx := int32(len(s.xs))
	node := goal.node
	before := func() (from, length int32) {
		switch dir {
		case geometry.Right:
			return node - 1, s.right[node]
		case geometry.Left:
			return node + 1, s.right[node+1]
		case geometry.Bottom:
			return node - nx, s.down[node]
		}
		return node + nx, s.down[node+nx]
	}
	s.path = append(s.path[:0], goal.glue)
	for {
		s.path = append(s.path, geometry.Point{X: s.xs[node%nx], Y: s.ys[node/nx]})
		from, length := before()
		if length >= shut {
			break
		}
		cost, before := f.nodes[node].costs[dir]-length, &f.nodes[from].costs
		left, right := (dir+3)&3, (dir+1)&3
		if before[dir] == cost {
			node = from
		} else if before[left]+bendPrice == cost {
			node, dir = from, left
		} else if before[right]+bendPrice == cost {
			node, dir = from, right
		} else {
			break
		}
	}
	s.write(node, dir, goal, w)
}
