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
	states     []state
	generation uint32
	heap       []entry
	// haste, in sixteenths, overrates the way still to go: the search goes more
	// straight at its goal and settles for a way that much above the cheapest.
	haste  int
	starts []terminal
	goals  []terminal
	path   geometry.Polyline
	// extraX and extraY price the pieces to the right of and below each node:
	// for the ways they cross and those they lie on.
	extraX, extraY []int32
	// priced says that the extras are noted.
	priced bool
	// nodes are those of the way found last, from its end, and total its cost.
	nodes []int32
	total int
	must  []int
	// seen is the part of the sheet that was looked at.
	seen geometry.Box
	// fine asks for every line of the grid after all.
	fine bool
	// hurried is set while things are in motion; a search then gives up after
	// patience states, if that is not zero.
	hurried  bool
	patience int
	// share is how many states a first search may look at before it gives up; zero
	// for as many as it takes.
	share  int
	gaveUp bool
	// settled says that the way found is good enough, though not the cheapest.
	settled bool
	// plain leaves crossings as they come.
	plain bool
	// bound is the cost of a way known already; zero for none.
	bound int
	// exact searches scenes of any size whole.
	exact bool
	// bends are the stretches laid by hand, to be travelled in their order;
	// onto is the course that the way is to join.
	bends []Bend
	onto  geometry.Polyline
	// looked counts the states looked at.
	looked int
	// layer is the number of states before those with one more bend travelled.
	layer int32
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

// state is how a state was reached: at what cost, and from which one; stamp says
// in which search.
type state struct {
	cost, prev int32
	stamp      uint32
}

// afresh begins a search among so many states.
func (s *search) afresh(states int) {
	s.states = resized(s.states, states)
	if s.generation++; s.generation == 0 {
		clear(s.states[:cap(s.states)])
		s.generation = 1
	}
}

// spot is the state from which the search goes on, taken apart.
type spot struct {
	state, node, x, y int32
	done              int
}

type entry struct {
	rank  int32 // cost so far and least cost to go
	cost  int32
	state int32
}

// A small scene is searched whole. In a large one the lines past symbols that
// lie beyond the window are left out of the grid.
const (
	smallScene = 24
	largeGrid  = 4000
	// patience is how many states are looked at in all on a large sheet to find
	// ways with fewer crossings, each link having an equal share within bounds.
	// While things are in motion a link's share of hurriedPatience follows from
	// the number of boxes, likewise within bounds.
	patience        = 3_000_000
	leastPatience   = 2500
	mostPatience    = 12_000
	hurriedPatience = 60_000
	leastHurried    = 200
	mostHurried     = 2000
	everywhere      = 1 << 40
	// fewNodes is how far a search looks round its goals before it begins. After
	// hopeful states it looks round both ends, at manyNodes, and then goes on in
	// haste for farStates.
	fewNodes  = 256
	hopeful   = 5000
	manyNodes = 6000
	farStates = 30_000
)

// find writes the cheapest way of link i to w. Bends laid by hand that no free
// way can keep are given back. Where no free way exists at the full distance
// it tries along the very edges; where there is none at all it goes straight
// through and says so.
func (s *search) find(r *Router, i int, w *raw) {
	l := &r.scene.Links[i]
	w.cuts, w.givenBack = false, false
	s.starts = s.terminals(s.starts[:0], r, l.From, l.FromSide, l.FromAt, l.Trunk, r.departure)
	if s.onto != nil {
		s.goals = s.along(s.goals[:0])
	} else {
		s.goals = s.terminals(s.goals[:0], r, l.To, l.ToSide, l.ToAt, false, r.arrival)
	}
	s.seen = s.ends().Grown(Clearance)
	if len(l.Bends) > 0 {
		if s.bends = l.Bends; s.onto == nil && !s.whole(r) && s.direct(r, i, w) || s.search(r, i, w) {
			s.bends = nil
			return
		}
		s.bends, w.givenBack = nil, true
	}
	if !s.search(r, i, w) {
		s.through(w)
	}
}

func (s *search) search(r *Router, i int, w *raw) bool {
	s.fine = false
	for _, gap := range [...]int{hard, 0} {
		// A glue point that another symbol covers leads nowhere; were it kept,
		// the search would look for it everywhere.
		if !r.uncover(s.starts, gap) || !r.uncover(s.goals, gap) {
			continue
		}
		// A way that leaves the window is longer than the straight one by
		// twice the margin; so a way found within that length is the best, but
		// for what it pays to pass other connectors.
		reach := 8 * Clearance
		if s.whole(r) {
			reach = everywhere
		}
		if s.hurried {
			reach /= 2
		}
		if len(s.bends) > 0 { // a bend is not worth a way round the whole sheet
			reach = 16 * Clearance
		}
		for {
			window := s.ends().Grown(reach)
			s.seen = s.seen.Union(window)
			whole := s.gather(r, window, gap)
			s.priced = false
			cost, ok, shut := s.patiently(r, w)
			if s.gaveUp {
				return false
			}
			if shut && s.coarse(r) > 0 { // the line that leads out may have been left out
				s.fine = true
				continue
			}
			if shut {
				break
			}
			if ok && (whole || s.haste > 0 || s.settled || len(s.bends) > 0 || cost-s.least() <= 2*reach) {
				s.avoid(r, i, w, cost, gap)
				return true
			}
			if len(s.bends) > 0 {
				break
			}
			if whole && s.coarse(r) > 0 { // a line that was left out may have been the only one
				s.fine = true
				continue
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
	return false
}

// patiently looks for a way in the gathered grid. On a large sheet it does not look
// everywhere for one that cannot be there, and one that is far to seek need not
// be the very cheapest. It reports whether there is a way, and whether it is no
// use to look for one in a larger window: symbols shut an end in, or nearly so.
func (s *search) patiently(r *Router, w *raw) (cost int, ok, shut bool) {
	s.settled = false
	if s.whole(r) {
		cost, ok = s.run(w)
		return cost, ok, false
	}
	if s.share > 0 { // in motion
		s.patience = s.share
		cost, ok = s.run(w)
		s.share, s.patience = max(s.patience, 1), 0
		s.gaveUp = !ok && s.share == 1
		return cost, ok, false
	}
	if s.pocket(s.goals, s.starts, fewNodes) {
		return 0, false, true
	}
	s.patience = hopeful
	cost, ok = s.run(w)
	tired := s.patience == 0
	s.patience = 0
	if ok || !tired {
		return cost, ok, false
	}
	if s.pocket(s.goals, s.starts, manyNodes) || s.pocket(s.starts, s.goals, manyNodes) {
		return 0, false, true
	}
	haste := s.haste
	s.haste, s.patience = max(haste, 8), farStates
	cost, ok = s.run(w)
	given := s.patience == 0
	s.haste, s.patience, s.settled = haste, 0, ok
	return cost, ok, given && !ok
}

// pocket looks round some terminals, at most so many nodes. It reports whether
// symbols shut them in, away from the others.
func (s *search) pocket(inside, outside []terminal, most int) bool {
	nx, ny := int32(len(s.xs)), int32(len(s.ys))
	s.afresh(int(nx * ny))
	list := s.nodes[:0]
	note := func(node int32) {
		if s.states[node].stamp != s.generation {
			s.states[node].stamp = s.generation
			list = append(list, node)
		}
	}
	defer func() { s.nodes = list }()
	for k := range inside {
		if !inside[k].covered {
			note(inside[k].node)
		}
	}
	for at := 0; at < len(list); at++ {
		if at == most {
			return false
		}
		node := list[at]
		for k := range outside {
			if outside[k].node == node && !outside[k].covered {
				return false
			}
		}
		x, y := node%nx, node/nx
		if x == 0 || y == 0 || x == nx-1 || y == ny-1 {
			return false
		}
		if !s.shutX[node] {
			note(node + 1)
		}
		if !s.shutX[node-1] {
			note(node - 1)
		}
		if !s.shutY[node] {
			note(node + nx)
		}
		if !s.shutY[node-nx] {
			note(node - nx)
		}
	}
	return true
}

// uncover marks the terminals in front of which no symbol stands, and reports
// whether there are any.
func (r *Router) uncover(list []terminal, gap int) bool {
	s := &r.scene
	free := false
	for k := range list {
		t := &list[k]
		t.covered = false
		for _, i := range r.ground.boxes.near(geometry.Box{X: t.at.X, Y: t.at.Y}.Grown(gap)) {
			if s.Boxes[i].Grown(gap).CutBy(t.at, t.at) && !s.open(int(i)) {
				t.covered = true
				break
			}
		}
		free = free || !t.covered
	}
	return free
}

func (s *search) terminals(list []terminal, r *Router, box, side int, loose geometry.Point, trunk bool, price func(int, geometry.Side, bool) int) []terminal {
	for side0 := range 4 {
		sd := geometry.Side(side0)
		if box == None {
			list = append(list, terminal{side: sd, glue: loose, at: loose})
			continue
		}
		if side != Any && side != side0 {
			continue
		}
		g := r.scene.Glue[box][sd]
		at := g
		if sd.Upright() {
			at.Y = r.lines[box][sd]
		} else {
			at.X = r.lines[box][sd]
		}
		p := price(box, sd, trunk)
		list = append(list, terminal{side: sd, glue: g, at: at, price: p, cost: p + g.Manhattan(at)})
	}
	return list
}

// along returns the places at which a way may join the course onto: the
// middles of its stretches, and where a straight way from a start meets it;
// from either side.
func (s *search) along(list []terminal) []terminal {
	add := func(p geometry.Point, upright bool) {
		sides := [...]geometry.Side{geometry.Top, geometry.Bottom}
		if upright {
			sides = [...]geometry.Side{geometry.Left, geometry.Right}
		}
		for _, sd := range sides {
			list = append(list, terminal{side: sd, glue: p, at: p})
		}
	}
	const room = 2 * Separation // kept from the ends of a stretch
	for k := 1; k < len(s.onto); k++ {
		p, q := s.onto[k-1], s.onto[k]
		upright := p.X == q.X
		b := geometry.Between(p, q)
		add(b.Centre(), upright)
		for _, t := range s.starts {
			at := geometry.Point{X: geometry.Clamp(t.at.X, b.X, b.Right()), Y: geometry.Clamp(t.at.Y, b.Y, b.Bottom())}
			if at.Manhattan(p) >= room && at.Manhattan(q) >= room {
				add(at, upright)
			}
		}
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
	for _, b := range s.bends {
		if b.Upright {
			lo.X, hi.X = min(lo.X, b.At), max(hi.X, b.At)
		} else {
			lo.Y, hi.Y = min(lo.Y, b.At), max(hi.Y, b.At)
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
	for _, j := range r.ground.boxes.near(window.Grown(hard)) {
		i := int(j)
		if r.scene.open(i) {
			continue
		}
		b := r.scene.Boxes[i]
		if !window.Meets(b.Grown(hard)) {
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
	whole = whole && len(s.near) == r.closed
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			s.addX(window, t.at.X)
			s.addY(window, t.at.Y)
		}
	}
	for _, b := range s.bends {
		if b.Upright {
			s.addX(window, b.At)
		} else {
			s.addY(window, b.At)
		}
	}
	slices.Sort(s.xs)
	slices.Sort(s.ys)
	s.xs, s.ys = slices.Compact(s.xs), slices.Compact(s.ys)
	if apart := s.coarse(r); apart > 0 {
		s.xs, s.ys = s.thin(s.xs, nil, geometry.Point{X: 1}, apart), s.thin(s.ys, nil, geometry.Point{Y: 1}, apart)
	}
	s.block(r, gap)
	return whole
}

// block shuts the pieces of the grid that symbols lie on, and finds the nodes
// of the terminals.
func (s *search) block(r *Router, gap int) {
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

// avoid looks for a way that is cheaper when crossings are paid for. A way that
// meets no other connector is that already. In a crowd some crossings cannot be
// avoided wherever one goes: there the search expects as many on the way still
// to go as the first way had for its length, or it would look everywhere.
func (s *search) avoid(r *Router, i int, w *raw, cost, gap int) {
	s.total = cost
	if s.plain || !s.whole(r) && r.meetings(w.points, i) == 0 {
		return
	}
	s.price(r, i)
	paid := s.paid()
	if s.total += paid; paid == 0 {
		return
	}
	haste := s.haste
	if !s.whole(r) {
		s.haste = max(haste, min(paid*8/max(cost, 1), 16))
		s.patience = geometry.Clamp(patience>>r.scene.crowd(), leastPatience, mostPatience)
		if s.hurried {
			s.haste, s.patience = s.haste*2, geometry.Clamp(hurriedPatience/len(r.scene.Boxes), leastHurried, mostHurried)
		}
		if len(s.xs)*len(s.ys) > largeGrid {
			// Of lines that all but coincide one is enough.
			s.xs = s.thin(s.xs, w.points, geometry.Point{X: 1}, Separation)
			s.ys = s.thin(s.ys, w.points, geometry.Point{Y: 1}, Separation)
			s.block(r, gap)
			s.price(r, i)
		}
	}
	s.bound = s.total
	if !s.whole(r) {
		s.bound -= crossPrice / 3 // less would not be worth looking for
	}
	if better, ok := s.run(w); ok {
		s.total = better
	}
	s.haste, s.bound, s.patience = haste, 0, 0
}

// whole reports whether the scene is to be searched whole.
func (s *search) whole(r *Router) bool { return s.exact || len(r.scene.Boxes) <= smallScene }

// coarse returns how far apart lines have to be for each of them to be worth
// following; zero to follow them all. Where symbols are all slightly out of
// line, a large grid has many that all but coincide.
func (s *search) coarse(r *Router) int {
	n := len(s.xs) * len(s.ys)
	switch {
	case s.fine || s.whole(r):
	case s.hurried && n > largeGrid/4:
		return Separation
	case n > 2*largeGrid:
		return Separation / 2
	}
	return 0
}

// thin leaves out lines that lie close to the one before, but for those of the
// way known already, of the terminals and of the bends. The axis has a one where
// the lines' coordinate is.
func (s *search) thin(lines []int, way geometry.Polyline, axis geometry.Point, apart int) []int {
	s.must = s.must[:0]
	for _, p := range way {
		s.must = append(s.must, p.X*axis.X+p.Y*axis.Y)
	}
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			s.must = append(s.must, t.at.X*axis.X+t.at.Y*axis.Y)
		}
	}
	for _, b := range s.bends {
		s.must = append(s.must, b.At)
	}
	slices.Sort(s.must)
	out, last := lines[:0], -1<<60
	for _, v := range lines {
		if _, must := slices.BinarySearch(s.must, v); must || v-last >= apart {
			out, last = append(out, v), v
		}
	}
	return out
}

// paid returns what the way found last has to pay for the ways it meets.
func (s *search) paid() int {
	nx := int32(len(s.xs))
	sum := 0
	for k := 1; k < len(s.nodes); k++ {
		a, b := s.nodes[k-1], s.nodes[k]
		switch {
		case a == b:
		case a/nx == b/nx:
			sum += int(s.extraX[min(a, b)])
		default:
			sum += int(s.extraY[min(a, b)])
		}
	}
	return sum
}

// price notes on every piece of the grid what it costs to cross the ways found
// so far, or to lie on them.
func (s *search) price(r *Router, i int) {
	nx, n := len(s.xs), len(s.xs)*len(s.ys)
	s.extraX, s.extraY, s.priced = resized(s.extraX, n), resized(s.extraY, n), true
	clear(s.extraX)
	clear(s.extraY)
	window := geometry.Between(geometry.Point{X: s.xs[0], Y: s.ys[0]}, geometry.Point{X: s.xs[len(s.xs)-1], Y: s.ys[len(s.ys)-1]})
	for _, k := range r.ground.laid.near(window) {
		p := &r.laid[k]
		if p.link == i || p.link == None {
			continue
		}
		if p.upright {
			s.mark(p, s.xs, s.ys, s.extraX, s.extraY, 1, nx)
		} else {
			s.mark(p, s.ys, s.xs, s.extraY, s.extraX, nx, 1)
		}
	}
}

// mark prices one stretch. Seen along it: cross are the lines beside it and
// cs the step from one to the next among the nodes, long the lines across it
// and ls the step. A way along a line of long crosses the stretch on the piece
// that begins at it or before it.
func (s *search) mark(p *stretch, cross, long []int, over, along []int32, cs, ls int) {
	if p.pos < cross[0] || p.pos > cross[len(cross)-1] || p.hi < long[0] || p.lo > long[len(long)-1] {
		return
	}
	c := above(cross, p.pos) - 1
	if c+1 < len(cross) {
		for l := above(long, p.lo); l < len(long) && long[l] < p.hi; l++ {
			over[c*cs+l*ls] += crossPrice
		}
	}
	if cross[c] != p.pos {
		return
	}
	for l := max(above(long, p.lo)-1, 0); l+1 < len(long) && long[l] < p.hi; l++ {
		if d := min(long[l+1], p.hi) - max(long[l], p.lo); d > 0 {
			if along[c*cs+l*ls] += int32(d / sharePrice); s.onto != nil {
				along[c*cs+l*ls] += int32(8 * d) // it will not be moved aside any more
			}
		}
	}
}

// run looks for the cheapest way in the gathered grid. A state is a node, the
// direction of travel, named by the side one leaves a box by, and how many of
// the bends have been travelled.
func (s *search) run(w *raw) (cost int, ok bool) {
	nx := int32(len(s.xs))
	s.layer = int32(len(s.xs) * len(s.ys) * 4)
	s.afresh(int(s.layer) * (len(s.bends) + 1))
	s.heap = s.heap[:0]
	for _, t := range s.starts {
		if t.covered {
			continue
		}
		state := t.node*4 + int32(t.side)
		if s.bendAt(0, t.glue, t.side) && t.glue != t.at {
			state += s.layer
		}
		if st := &s.states[state]; st.stamp != s.generation || int32(t.cost) < st.cost {
			s.reach(state, -1, int32(t.cost), t.at.X, t.at.Y, t.side)
		}
	}
	found := int32(-1)
	var goal *terminal
	for len(s.heap) > 0 {
		e := s.pop()
		s.looked++
		if s.patience > 0 {
			if s.patience--; s.patience == 0 {
				return 0, false
			}
		}
		if found >= 0 && int(e.rank) >= cost {
			break
		}
		g := s.states[e.state].cost
		if e.cost > g {
			continue // a cheaper way here was found meanwhile
		}
		done, here := 0, e.state
		if here >= s.layer {
			done = int(here / s.layer)
			here -= int32(done) * s.layer
		}
		node, dir := here>>2, geometry.Side(here&3)
		for k := range s.goals {
			t := &s.goals[k]
			if t.node != node || t.side == dir || t.covered {
				continue
			}
			if done < len(s.bends) && !(done == len(s.bends)-1 && t.glue != t.at && s.bendAt(done, t.glue, t.side)) {
				continue
			}
			total := int(g) + t.cost
			if t.side.Opposite() != dir {
				if t.glue == t.at {
					continue // it would come along the line, not to it
				}
				total += bendPrice
			}
			if found < 0 || total < cost {
				found, goal, cost = e.state, t, total
			}
		}
		y := node / nx
		at := spot{e.state, node, node - y*nx, y, done}
		s.onwards(&at, dir, g, nx)
	}
	if found < 0 {
		return 0, false
	}
	s.trace(found, goal, w)
	return cost, true
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

// onwards goes from the node of a state to the next lines: on in the direction of
// travel, and to both sides of it, unless a symbol is in the way. It does all
// three itself, since calls cost much in the browser.
func (s *search) onwards(from *spot, travel geometry.Side, before int32, nx int32) {
	node, x, y := from.node, from.x, from.y
	for _, turn := range [...]geometry.Side{0, 1, 3} {
		dir, cost := (travel+turn)&3, before
		if turn != 0 {
			cost += bendPrice
		}
		px, py := s.xs[x], s.ys[y]
		layer := int32(from.done) * s.layer
		if len(s.bends) > 0 && s.bendAt(from.done, geometry.Point{X: px, Y: py}, dir) {
			layer += s.layer
		}
		to, piece := node, node
		switch dir {
		case geometry.Right:
			if x+1 >= nx || s.shutX[node] {
				continue
			}
			next := s.xs[x+1]
			to, cost, px = node+1, cost+int32(next-px), next
		case geometry.Left:
			if x == 0 || s.shutX[node-1] {
				continue
			}
			next := s.xs[x-1]
			to, piece, cost, px = node-1, node-1, cost+int32(px-next), next
		case geometry.Bottom:
			if int(y)+1 >= len(s.ys) || s.shutY[node] {
				continue
			}
			next := s.ys[y+1]
			to, cost, py = node+nx, cost+int32(next-py), next
		case geometry.Top:
			if y == 0 || s.shutY[node-nx] {
				continue
			}
			next := s.ys[y-1]
			to, piece, cost, py = node-nx, node-nx, cost+int32(py-next), next
		}
		if s.priced {
			if dir.Upright() {
				cost += s.extraY[piece]
			} else {
				cost += s.extraX[piece]
			}
		}
		at := layer + to*4 + int32(dir)
		if st := &s.states[at]; st.stamp != s.generation || cost < st.cost {
			s.reach(at, from.state, cost, px, py, dir)
		}
	}
}

// reach notes that a state, at x and y in a direction, can be had at a cost lower
// than any before, and queues it.
func (s *search) reach(at, from, cost int32, x, y int, dir geometry.Side) {
	s.states[at] = state{cost, from, s.generation}
	togo := s.toGo(x, y, dir)
	if s.bound > 0 && int(cost)+togo >= s.bound {
		return // the way known already is as good
	}
	s.push(entry{cost + int32(togo+togo*s.haste>>4), cost, at})
}

// toGo returns a lower bound of the cost from a place, travelling in dir, to
// the nearest goal.
func (s *search) toGo(x, y int, dir geometry.Side) int {
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
	side := geometry.Side(state % 4)
	for _, t := range s.starts {
		if t.side == side && t.node == state%s.layer/4 {
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
