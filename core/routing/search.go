package routing

import (
	"slices"

	"plaintracer/core/geometry"
)

// search is one A* run over the grid of lines that pass the symbols, with its
// memory kept from run to run.
type search struct {
	xs, ys     []int
	near       []int // boxes that meet the window
	shutX      []bool
	shutY      []bool
	cost       []int
	prev       []int32
	stamp      []uint32
	generation uint32
	heap       []entry
	// haste, in eighths, overrates the way still to go: the search goes more
	// straight at its goal and settles for a way that much above the cheapest.
	haste  int
	starts []terminal
	goals  []terminal
	path   geometry.Polyline
}

// terminal is a way to leave or reach a symbol: the glue point, the place on
// the passing line straight in front of it, and what it costs.
type terminal struct {
	side     geometry.Side
	glue, at geometry.Point
	price    int
	// cost is the price together with the way between glue point and line.
	cost    int
	node    int32
	covered bool
}

type entry struct {
	rank  int // cost so far and least cost to go
	cost  int
	state int32
}

// A small scene is searched whole. In a large one the lines past symbols that
// lie beyond the window are left out of the grid.
const (
	smallScene = 24
	everywhere = 1 << 40
)

// find writes the cheapest way of link i to w. Where no free way exists at the
// full distance it tries along the very edges; where there is none at all it
// goes straight through and says so.
func (s *search) find(r *Router, i int, w *raw) {
	l := &r.scene.Links[i]
	w.cuts = false
	s.starts = s.terminals(s.starts[:0], r, l.From, l.FromSide, r.departure)
	s.goals = s.terminals(s.goals[:0], r, l.To, l.ToSide, r.arrival)
	for _, gap := range [...]int{hard, 0} {
		// A glue point that another symbol covers leads nowhere; were it kept,
		// the search would look for it everywhere.
		if !uncover(s.starts, r.scene.Boxes, gap) || !uncover(s.goals, r.scene.Boxes, gap) {
			continue
		}
		// A way that leaves the window is longer than the straight one by
		// twice the margin; so a way found within that length is the best.
		reach := 8 * Clearance
		if len(r.scene.Boxes) <= smallScene {
			reach = everywhere
		}
		for {
			window := s.ends().Grown(reach)
			whole := s.gather(r, window, gap)
			cost, ok := s.run(w)
			if ok && (whole || s.haste > 0 || cost-s.least() <= 2*reach) {
				return
			}
			if whole {
				break
			}
			if ok {
				reach = (cost-s.least())/2 + px
			} else {
				reach *= 4
			}
		}
	}
	s.through(w)
}

// uncover marks the terminals in front of which no symbol stands, and reports
// whether there are any.
func uncover(list []terminal, boxes []geometry.Box, gap int) bool {
	free := false
	for k := range list {
		t := &list[k]
		t.covered = slices.ContainsFunc(boxes, func(b geometry.Box) bool { return b.Grown(gap).CutBy(t.at, t.at) })
		free = free || !t.covered
	}
	return free
}

func (s *search) terminals(list []terminal, r *Router, box, side int, price func(int, geometry.Side) int) []terminal {
	for side0 := range 4 {
		if side != Any && side != side0 {
			continue
		}
		sd := geometry.Side(side0)
		g := r.scene.Glue[box][sd]
		at := g
		if sd.Upright() {
			at.Y = r.lines[box][sd]
		} else {
			at.X = r.lines[box][sd]
		}
		p := price(box, sd)
		list = append(list, terminal{side: sd, glue: g, at: at, price: p, cost: p + g.Manhattan(at)})
	}
	return list
}

// ends returns the box around all places the way may begin and end at.
func (s *search) ends() geometry.Box {
	lo, hi := s.starts[0].at, s.starts[0].at
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			for _, p := range [...]geometry.Point{t.at, t.glue} {
				lo = geometry.Point{X: min(lo.X, p.X), Y: min(lo.Y, p.Y)}
				hi = geometry.Point{X: max(hi.X, p.X), Y: max(hi.Y, p.Y)}
			}
		}
	}
	return geometry.Between(lo, hi)
}

// least returns a cost no way can be cheaper than.
func (s *search) least() int {
	best := int(^uint(0) >> 1)
	for _, a := range s.starts {
		for _, b := range s.goals {
			best = min(best, a.glue.Manhattan(b.glue)+a.price+b.price+bendPrice*bendsToGo(a.at, a.side, b.at, b.side.Opposite()))
		}
	}
	return best
}

// gather builds the grid inside the window and reports whether that was the
// whole scene.
func (s *search) gather(r *Router, window geometry.Box, gap int) bool {
	s.xs, s.ys, s.near = s.xs[:0], s.ys[:0], s.near[:0]
	whole := true
	for i, b := range r.scene.Boxes {
		if !window.Meets(b.Grown(hard)) {
			whole = false
			continue
		}
		s.near = append(s.near, i)
		l := &r.lines[i]
		s.addX(window, l[geometry.Left], l[geometry.Right])
		s.addY(window, l[geometry.Top], l[geometry.Bottom])
		if !window.Holds(geometry.Box{X: l[3], Y: l[0], W: l[1] - l[3], H: l[2] - l[0]}) {
			whole = false
		}
	}
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			s.addX(window, t.at.X)
			s.addY(window, t.at.Y)
		}
	}
	slices.Sort(s.xs)
	slices.Sort(s.ys)
	s.xs, s.ys = slices.Compact(s.xs), slices.Compact(s.ys)
	nx, ny := len(s.xs), len(s.ys)
	s.shutX, s.shutY = resized(s.shutX, nx*ny), resized(s.shutY, nx*ny)
	clear(s.shutX)
	clear(s.shutY)
	for _, i := range s.near {
		b := r.scene.Boxes[i].Grown(gap)
		// Nodes strictly between the edges, by place in the sorted lines.
		x0, x1 := above(s.xs, b.X), below(s.xs, b.Right())
		y0, y1 := above(s.ys, b.Y), below(s.ys, b.Bottom())
		xe0, xe1 := x0-1, x1 // the pieces from node k to k+1 that enter
		ye0, ye1 := y0-1, y1
		for y := y0; y <= y1; y++ {
			for x := max(xe0, 0); x <= xe1 && x < nx-1; x++ {
				s.shutX[y*nx+x] = true
			}
		}
		for x := x0; x <= x1; x++ {
			for y := max(ye0, 0); y <= ye1 && y < ny-1; y++ {
				s.shutY[y*nx+x] = true
			}
		}
	}
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for k := range list {
			x, _ := slices.BinarySearch(s.xs, list[k].at.X)
			y, _ := slices.BinarySearch(s.ys, list[k].at.Y)
			list[k].node = int32(y*nx + x)
		}
	}
	return whole
}

func (s *search) addX(w geometry.Box, xs ...int) {
	for _, x := range xs {
		if x >= w.X && x <= w.Right() {
			s.xs = append(s.xs, x)
		}
	}
}

func (s *search) addY(w geometry.Box, ys ...int) {
	for _, y := range ys {
		if y >= w.Y && y <= w.Bottom() {
			s.ys = append(s.ys, y)
		}
	}
}

// above returns the place of the first value greater than v, below that of the
// last value smaller than v.
func above(sorted []int, v int) int {
	i, _ := slices.BinarySearch(sorted, v+1)
	return i
}

func below(sorted []int, v int) int {
	i, _ := slices.BinarySearch(sorted, v)
	return i - 1
}

// run looks for the cheapest way in the gathered grid. A state is a node and
// the direction of travel, named by the side one leaves a box by.
func (s *search) run(w *raw) (cost int, ok bool) {
	nx := int32(len(s.xs))
	states := len(s.xs) * len(s.ys) * 4
	s.cost, s.prev, s.stamp = resized(s.cost, states), resized(s.prev, states), resized(s.stamp, states)
	if s.generation++; s.generation == 0 {
		clear(s.stamp[:cap(s.stamp)])
		s.generation = 1
	}
	s.heap = s.heap[:0]
	for _, t := range s.starts {
		if t.covered {
			continue
		}
		s.reach(t.node*4+int32(t.side), -1, t.cost)
	}
	found := int32(-1)
	var goal *terminal
	for len(s.heap) > 0 {
		e := s.pop()
		if found >= 0 && e.rank >= cost {
			break
		}
		g := s.cost[e.state]
		if e.cost > g {
			continue // a cheaper way here was found meanwhile
		}
		node, dir := e.state/4, geometry.Side(e.state%4)
		for k := range s.goals {
			t := &s.goals[k]
			if t.node != node || t.side == dir || t.covered {
				continue
			}
			total := g + t.cost
			if t.side.Opposite() != dir {
				total += bendPrice
			}
			if found < 0 || total < cost {
				found, goal, cost = e.state, t, total
			}
		}
		s.onwards(e.state, dir, g, nx)
		s.onwards(e.state, (dir+1)&3, g+bendPrice, nx)
		s.onwards(e.state, (dir+3)&3, g+bendPrice, nx)
	}
	if found < 0 {
		return 0, false
	}
	s.trace(found, goal, w)
	return cost, true
}

// onwards goes from the node of a state to the next line in a direction,
// unless a symbol is in the way.
func (s *search) onwards(from int32, dir geometry.Side, cost int, nx int32) {
	node := from / 4
	x, y := node%nx, node/nx
	switch dir {
	case geometry.Right:
		if x+1 < nx && !s.shutX[node] {
			s.reach((node+1)*4+int32(dir), from, cost+s.xs[x+1]-s.xs[x])
		}
	case geometry.Left:
		if x > 0 && !s.shutX[node-1] {
			s.reach((node-1)*4+int32(dir), from, cost+s.xs[x]-s.xs[x-1])
		}
	case geometry.Bottom:
		if int(y)+1 < len(s.ys) && !s.shutY[node] {
			s.reach((node+nx)*4+int32(dir), from, cost+s.ys[y+1]-s.ys[y])
		}
	case geometry.Top:
		if y > 0 && !s.shutY[node-nx] {
			s.reach((node-nx)*4+int32(dir), from, cost+s.ys[y]-s.ys[y-1])
		}
	}
}

// reach notes that a state can be had at a cost, and queues it.
func (s *search) reach(state, from int32, cost int) {
	if s.stamp[state] == s.generation && s.cost[state] <= cost {
		return
	}
	s.stamp[state], s.cost[state], s.prev[state] = s.generation, cost, from
	togo := s.toGo(state/4, geometry.Side(state%4))
	s.push(entry{cost + togo + togo*s.haste/8, cost, state})
}

// toGo returns a lower bound of the cost from a node, travelling in dir, to
// the nearest goal.
func (s *search) toGo(node int32, dir geometry.Side) int {
	nx := int32(len(s.xs))
	x, y := s.xs[node%nx], s.ys[node/nx]
	best := int(^uint(0) >> 1)
	for k := range s.goals {
		t := &s.goals[k]
		d := geometry.Abs(x-t.at.X) + geometry.Abs(y-t.at.Y) + t.cost
		if d < best && !t.covered {
			if d += bendPrice * bendsToGo(geometry.Point{X: x, Y: y}, dir, t.at, t.side.Opposite()); d < best {
				best = d
			}
		}
	}
	return best
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
	// One turn suffices when q lies ahead and the final stretch runs the
	// right way; otherwise it takes three.
	if ahead >= 0 {
		if (end == geometry.Right || end == geometry.Bottom) == (aside > 0) || aside == 0 {
			return 1
		}
	}
	return 3
}

// trace writes the way that ends in state.
func (s *search) trace(state int32, goal *terminal, w *raw) {
	nx := int32(len(s.xs))
	s.path = append(s.path[:0], goal.glue)
	for state >= 0 {
		node := state / 4
		s.path = append(s.path, geometry.Point{X: s.xs[node%nx], Y: s.ys[node/nx]})
		if s.prev[state] < 0 {
			break
		}
		state = s.prev[state]
	}
	side := geometry.Side(state % 4)
	for _, t := range s.starts {
		if t.side == side && t.node == state/4 {
			s.path = append(s.path, t.glue)
		}
	}
	slices.Reverse(s.path)
	w.points = append(w.points[:0], s.path...).Tidy()
	w.fromSide, w.toSide = side, goal.side
}

// through joins the ends although something is in the way.
func (s *search) through(w *raw) {
	best := int(^uint(0) >> 1)
	var from, to terminal
	for _, a := range s.starts {
		for _, b := range s.goals {
			if d := a.glue.Manhattan(b.glue) + a.price + b.price; d < best {
				best, from, to = d, a, b
			}
		}
	}
	corner := geometry.Point{X: from.at.X, Y: to.at.Y}
	if !from.side.Upright() {
		corner = geometry.Point{X: to.at.X, Y: from.at.Y}
	}
	w.points = append(w.points[:0], from.glue, from.at, corner, to.at, to.glue).Tidy()
	w.fromSide, w.toSide, w.cuts = from.side, to.side, true
}

// less orders the queue by rank; among equal ranks what has come further goes
// first, which follows one way to its end instead of all of them in step; then
// by state, which is by place on the sheet, so that nothing is left to chance.
func (e entry) less(o entry) bool {
	if e.rank != o.rank {
		return e.rank < o.rank
	}
	if e.cost != o.cost {
		return e.cost > o.cost
	}
	return e.state < o.state
}

func (s *search) push(e entry) {
	h := append(s.heap, e)
	i := len(h) - 1
	for i > 0 {
		up := (i - 1) / 2
		if !h[i].less(h[up]) {
			break
		}
		h[i], h[up] = h[up], h[i]
		i = up
	}
	s.heap = h
}

func (s *search) pop() entry {
	h := s.heap
	top := h[0]
	n := len(h) - 1
	h[0] = h[n]
	h = h[:n]
	i := 0
	for {
		k := 2*i + 1
		if k >= n {
			break
		}
		if k+1 < n && h[k+1].less(h[k]) {
			k++
		}
		if !h[k].less(h[i]) {
			break
		}
		h[i], h[k] = h[k], h[i]
		i = k
	}
	s.heap = h
	return top
}
