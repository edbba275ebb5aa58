package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// state is how a state was reached: at what cost, and from which one; stamp says
// in which search.
type state struct {
	cost, prev int32
	stamp      uint32
}

// newGeneration begins a search among so many states.
func (s *search) newGeneration(states int) {
	s.states = scratch.Resized(s.states, states)
	if s.generation++; s.generation == 0 {
		clear(s.states[:cap(s.states)])
		s.generation = 1
	}
}

// run looks for the cheapest way in the gathered grid. A state is a node, the
// direction of travel, named by the side one leaves a box by, and how many of
// the bends have been travelled. It does nearly all itself, since calls cost much
// in the browser.
func (s *search) run(w *route) (cost int, ok bool) {
	nx := int32(len(s.xs))
	s.layer = int32(len(s.xs) * len(s.ys) * 4)
	s.newGeneration(int(s.layer) * (len(s.bends) + 1))
	s.queueStarts()
	states, generation, layers := s.states, s.generation, s.layer
	right, down, bent := s.right, s.down, len(s.bends) > 0
	xs, ys := s.xs, s.ys
	x0, y0, x1, y1 := len(s.xs), len(s.ys), 0, 0 // where it has been
	found := int32(-1)
	var goal *terminal
	for {
		e, more := s.pop()
		if !more {
			break
		}
		s.expanded++
		if s.budget > 0 {
			if s.budget--; s.budget == 0 {
				s.noteVisited(x0, y0, x1, y1)
				return 0, false
			}
		}
		if found >= 0 && e.rank() >= cost {
			break
		}
		g := states[e.state].cost
		if e.cost() > g || g >= far {
			continue // a cheaper way here was found meanwhile, or it is dearer than any should be
		}
		here, layer := e.state, int32(0)
		if here >= layers {
			layer = here / layers * layers
			here -= layer
		}
		node, travel := here>>2, geometry.Side(here&3)
		y := int(node / nx)
		x := int(node) - y*int(nx)
		x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
		for k := range s.goals {
			t := &s.goals[k]
			if t.node != node {
				continue
			}
			if entry, can := s.arrive(t, travel, int(layer/layers)); can && (found < 0 || int(g)+entry < cost) {
				found, goal, cost = e.state, t, int(g)+entry
			}
		}
		// On in the direction of travel, and to both sides of it.
		for _, turn := range [...]geometry.Side{0, 1, 3} {
			dir := (travel + turn) & 3
			to, edge, tox, toy := node, int32(0), x, y
			switch dir {
			case geometry.Right:
				to, tox = to+1, x+1
				edge = right[to]
			case geometry.Left:
				edge = right[to]
				to, tox = to-1, x-1
			case geometry.Bottom:
				to, toy = to+nx, y+1
				edge = down[x*len(ys)+toy]
			case geometry.Top:
				edge = down[x*len(ys)+y]
				to, toy = to-nx, y-1
			}
			if edge >= blocked {
				continue
			}
			edge += g
			if turn != 0 {
				edge += bendPrice
			}
			at := layer + to<<2 + int32(dir)
			if bent && s.bendAt(int(layer/layers), geometry.Point{X: xs[x], Y: ys[y]}, dir) {
				at += layers
			}
			if st := &states[at]; st.stamp != generation || edge < st.cost {
				s.reach(at, e.state, edge, xs[tox], ys[toy])
			}
		}
	}
	s.noteVisited(x0, y0, x1, y1)
	if found < 0 {
		return 0, false
	}
	s.trace(found, goal, w)
	return cost, true
}

// queueStarts queues the states in which a way can begin.
func (s *search) queueStarts() {
	s.heap, s.hole = s.heap[:0], false
	for _, t := range s.starts {
		if t.covered {
			continue
		}
		state := t.node*4 + int32(t.side)
		if s.bendAt(0, t.glue, t.side) && t.glue != t.at {
			state += s.layer
		}
		if st := &s.states[state]; st.stamp != s.generation || int32(t.cost) < st.cost {
			s.reach(state, -1, int32(t.cost), t.at.X, t.at.Y)
		}
	}
}

// arrive returns what it costs to end at a goal, coming in the direction of a side with so many bends travelled, and
// whether that can be: all bends have to be, the last of them at the latest between the passing line and the goal.
func (s *search) arrive(t *terminal, travel geometry.Side, bends int) (cost int, ok bool) {
	if bends < len(s.bends) && (bends < len(s.bends)-1 || t.glue == t.at || !s.bendAt(bends, t.glue, t.side)) {
		return 0, false
	}
	return t.entry(travel)
}

// noteVisited keeps the bounding box of what a run visited: at the lines from x0 to x1 and y0 to y1, and on
// the edges that lead from there.
func (s *search) noteVisited(x0, y0, x1, y1 int) {
	if x0 > x1 {
		s.visited = geometry.Box{}
		return
	}
	x0, y0, x1, y1 = max(x0-1, 0), max(y0-1, 0), min(x1+1, len(s.xs)-1), min(y1+1, len(s.ys)-1)
	s.visited = geometry.Between(geometry.Point{X: s.xs[x0], Y: s.ys[y0]}, geometry.Point{X: s.xs[x1], Y: s.ys[y1]})
}

// bendAt reports whether travelling through p in the direction of a side is
// travelling along bend k.
func (s *search) bendAt(k int, p geometry.Point, side geometry.Side) bool {
	if k >= len(s.bends) || s.bends[k].Upright != side.Upright() {
		return false
	}
	if s.bends[k].Upright {
		return s.bends[k].At == p.X
	}
	return s.bends[k].At == p.Y
}

// reach notes that a state can be had at a cost lower than any before, and queues
// it by that together with a lower bound of the cost from there to the nearest
// goal.
func (s *search) reach(at, from, cost int32, x, y int) {
	s.states[at] = state{cost, from, s.generation}
	dir := geometry.Side(at & 3)
	togo := 1 << 40
	for k := range s.goals {
		t := &s.goals[k]
		d := geometry.Abs(x-t.at.X) + geometry.Abs(y-t.at.Y) + t.cost
		if d < togo && !t.covered {
			togo = min(togo, d+bendPrice*bendsToGo(geometry.Point{X: x, Y: y}, dir, t.at, t.side.Opposite()))
		}
	}
	if s.bound > 0 && int(cost)+togo >= s.bound {
		return // the way known already is as good
	}
	s.push(cost+int32(togo+togo*s.overrate>>4), cost, at)
}

// bendsToGo returns the least number of bends on a way from p, travelling in
// dir, that arrives at q travelling in end.
func bendsToGo(p geometry.Point, dir geometry.Side, q geometry.Point, end geometry.Side) int {
	ahead, aside := q.X-p.X, q.Y-p.Y // distance to q along dir, and across it
	switch dir {
	case geometry.Left:
		ahead = -ahead
	case geometry.Bottom:
		ahead, aside = aside, ahead
	case geometry.Top:
		ahead, aside = -aside, ahead
	}
	switch {
	case dir == end:
		if ahead < 0 {
			return 4
		}
		if aside == 0 {
			return 0
		}
		return 2
	case dir == end.Opposite():
		if aside != 0 {
			return 2
		}
		return 4
	}
	// One turn suffices when q lies ahead and the final segment runs the
	// right way; otherwise it takes three.
	if ahead >= 0 {
		if (end == geometry.Right || end == geometry.Bottom) == (aside > 0) || aside == 0 {
			return 1
		}
	}
	return 3
}

// trace writes the way that ends in state.
func (s *search) trace(state int32, goal *terminal, w *route) {
	nx := int32(len(s.xs))
	s.path = append(s.path[:0], goal.glue)
	s.nodes = s.nodes[:0]
	for {
		node := state % s.layer / 4
		s.nodes = append(s.nodes, node)
		s.path = append(s.path, geometry.Point{X: s.xs[node%nx], Y: s.ys[node/nx]})
		if s.states[state].prev < 0 {
			break
		}
		state = s.states[state].prev
	}
	s.write(state%s.layer/4, geometry.Side(state%4), goal, w)
}

// write makes the path back from a goal the way, which begins at a node to a side.
func (s *search) write(node int32, side geometry.Side, goal *terminal, w *route) {
	for _, t := range s.starts {
		if t.side == side && t.node == node {
			s.path = append(s.path, t.glue)
		}
	}
	slices.Reverse(s.path)
	w.points = append(w.points[:0], s.path...).Tidy()
	w.fromSide, w.toSide = side, goal.side
}

// waiting is a state in the queue: by rank, among equal ranks what has come further
// goes first, which follows one way to its end instead of all of them in step; then
// by state, which is by place on the sheet, so that the result is deterministic.
type waiting struct {
	key   uint64 // the rank above the cost, that one the wrong way round
	state int32
}

func (e *waiting) before(o *waiting) bool {
	return e.key < o.key || e.key == o.key && e.state < o.state
}

// The queue is a heap in which everyone has four others below it. The place of the
// one taken out last stays open for the next that comes, which is often the
// first of all.
func (s *search) push(rank, cost, state int32) {
	e := waiting{uint64(uint32(rank))<<32 | uint64(^uint32(cost)), state}
	if s.hole {
		s.hole = false
		s.sink(e)
		return
	}
	h := append(s.heap, e)
	i := len(h) - 1
	for i > 0 {
		up := (i - 1) / 4
		if !e.before(&h[up]) {
			break
		}
		h[i] = h[up]
		i = up
	}
	h[i] = e
	s.heap = h
}

// pop takes the first one out, if there is one.
func (s *search) pop() (first waiting, ok bool) {
	if s.hole {
		n := len(s.heap) - 1
		e := s.heap[n]
		if s.heap = s.heap[:n]; n > 0 {
			s.sink(e)
		}
	}
	if s.hole = len(s.heap) > 0; !s.hole {
		return waiting{}, false
	}
	return s.heap[0], true
}

// sink puts one in at the top and lets it go down to its place.
func (s *search) sink(e waiting) {
	h := s.heap
	n := len(h)
	i := 0
	for {
		first := 4*i + 1
		if first >= n {
			break
		}
		k := first
		for j := first + 1; j < min(first+4, n); j++ {
			if h[j].before(&h[k]) {
				k = j
			}
		}
		if !h[k].before(&e) {
			break
		}
		h[i] = h[k]
		i = k
	}
	h[i] = e
}

func (e *waiting) rank() int   { return int(e.key >> 32) }
func (e *waiting) cost() int32 { return int32(^uint32(e.key)) }
