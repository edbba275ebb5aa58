package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/spatial"
)

// search looks for a way over the grid of lines that pass the symbols, by A* or by
// sweeps, with its memory kept from run to run.
type search struct {
	task
	grid
	frontier
	sweeps sweeps
	outcome
	// expanded counts the states expanded, over all searches.
	expanded int
}

// task is what is looked for, and how hard.
type task struct {
	starts, goals []terminal
	// bends are the segments laid by hand, to be travelled in their order;
	// onto is the course that the way is to join.
	bends []Bend
	onto  geometry.Polyline
	// bound is the cost of a way known already; zero for none.
	bound int
	// overrate, in sixteenths, overrates the way still to go: the search goes more
	// straight at its goal and settles for a way that much above the cheapest.
	overrate int
	// inMotion is set while something is dragged; a search then gives up after
	// budget states, if that is not zero.
	inMotion bool
	budget   int
	// frameBudget is how many states a first search may look at before it gives up; zero
	// for as many as it takes.
	frameBudget int
	// ignoreCrossings ignores crossing cost.
	ignoreCrossings bool
	// exact searches scenes of any size whole.
	exact bool
}

// grid is the part of the sheet that is searched: the lines through a window, and what it costs to travel along them.
type grid struct {
	xs, ys []int
	// across and downward find places among them.
	across, downward spatial.Sorted
	// near are the boxes that meet the window; they bear the mark.
	near   []int
	marked spatial.Marks
	// right and down hold what it costs to travel the grid edges: right[k]
	// that which leads to node k from the left, down[k] that which leads to it from
	// above; blocked or more where a symbol lies there or there is none. Besides its
	// length an edge costs what is paid for the ways it crosses and those it lies on,
	// once they are priced.
	right, down []int32
	required    []int
	// thinned says that lines were left out of the grid. fine asks for every one after
	// all, close for every one through two boxes.
	thinned, fine bool
	close         [2]geometry.Box
	// maxNodes is the largest grid that is searched on a sheet with very much on it, in nodes;
	// zero on all others. tooLarge says that the last one gathered was larger.
	maxNodes int
	tooLarge bool
}

// frontier is how far a search by A* has come.
type frontier struct {
	states     []state
	generation uint32
	// heap holds the states that wait; with a hole the first has been taken out and none put in for it.
	heap []waiting
	hole bool
	// layer is the number of states before those with one more bend travelled.
	layer int32
}

// outcome is what a search has found, and what it has looked at for it.
type outcome struct {
	path geometry.Polyline
	// nodes are those of the way found last, from its end, and total its cost.
	nodes []int32
	total int
	// lowest is what any way costs at least; zero where that is not known.
	lowest int
	// visited is the bounding box of the nodes visited by the last run.
	visited geometry.Box
	// seen is the part of the sheet where boxes could count for the way found,
	// explored that where the ways of others could.
	seen, explored geometry.Box
	// gaveUp says that the budget of the frame was spent before a way was found.
	gaveUp bool
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

// entry returns what it costs to end a way at a terminal, coming in the direction of
// a side, and whether it can.
func (t *terminal) entry(dir geometry.Side) (cost int, ok bool) {
	switch {
	case t.covered || dir == t.side:
		return 0, false
	case dir == t.side.Opposite():
		return t.cost, true
	}
	return t.cost + bendPrice, t.glue != t.at // else it would come along the line, not to it
}

// A small scene is searched whole. In a large one the lines past symbols that
// lie beyond the window are left out of the grid.
const (
	smallScene = 24
	// fewNodes is how far a search looks round its goals before it begins. A way along
	// bends laid by hand is sought for farStates.
	fewNodes  = 256
	farStates = 30_000
	// While things are in motion a link's share of motionBudget, in states, follows
	// from the number of boxes within bounds.
	motionBudget  = 60_000
	leastInMotion = 200
	mostInMotion  = 2000
	everywhere    = 1 << 40
)

// gaps are how near to symbols a way may come: no nearer than hard if that is possible.
var gaps = [...]int{hard, 0}

// find writes the cheapest way of link i to w. Bends laid by hand that no free
// way can keep are given back. Where no free way exists at the full distance
// it tries along the very edges; where there is none at all it goes straight
// through and says so.
func (s *search) find(r *Router, i int, w *route) {
	l := &r.scene.Links[i]
	w.obstructed, w.bendsDropped, w.unrouted, s.tooLarge = false, false, false, false
	s.begin(r, l)
	if len(l.Bends) > 0 {
		if s.bends = l.Bends; s.onto == nil && !s.exhaustive(r) && s.bendRoute(r, i, w) || s.search(r, i, w) {
			s.bends = nil
			return
		}
		s.bends, w.bendsDropped = nil, true
	}
	if s.search(r, i, w) {
		return
	}
	if s.cutThrough(w); s.tooLarge {
		w.unrouted, w.obstructed = true, !r.free(w.points[1:len(w.points)-1], 0)
	}
}

// The sizes up to which every way is sought for as long as it takes. On a sheet with more
// boxes or links all searches together have a share of mostNodes, in nodes of their grids,
// and a way whose grid would be larger than the share of each is drawn plainly.
const (
	manyBoxes = 1200
	manyLinks = 1500
	mostNodes = 24_000_000
	leastGrid = 1_000
)

// share returns the largest grid that is searched in a scene, in nodes; zero for any.
func (s *Scene) share() int {
	if len(s.Boxes) <= manyBoxes && len(s.Links) <= manyLinks {
		return 0
	}
	return max(mostNodes/max(len(s.Links), 1), leastGrid)
}

// begin finds where link l can leave and arrive, and at what cost.
func (s *search) begin(r *Router, l *Link) {
	s.starts = s.terminals(s.starts[:0], r, l.From, l.FromSide, l.FromAt, l.departs(), r.departure)
	if s.onto != nil {
		s.goals = s.joinPlaces(s.goals[:0])
	} else {
		s.goals = s.terminals(s.goals[:0], r, l.To, l.ToSide, l.ToAt, l.arrives(), r.arrival)
	}
	s.seen, s.explored = s.ends().Grown(Clearance), s.ends()
	s.fine = false
}

// improve looks for a way of link i that is worth more than the one it has, now that
// others have come. On a small sheet, or where that one is out of the ordinary, it
// begins from nothing.
func (s *search) improve(r *Router, i int, w *route) {
	l := &r.scene.Links[i]
	s.begin(r, l)
	gap := slices.IndexFunc(gaps[:], func(gap int) bool { return r.free(w.points[1:len(w.points)-1], gap) })
	if s.exhaustive(r) || w.obstructed || len(l.Bends) > 0 || gap < 0 ||
		!r.uncover(s.starts, gaps[gap]) || !r.uncover(s.goals, gaps[gap]) || !s.part(r.regions[gap].parted(l)) {
		s.find(r, i, w)
		return
	}
	s.total = s.cost(w)
	s.findLowest()
	s.pass(r, i, w, false, gaps[gap])
}

func (s *search) search(r *Router, i int, w *route) bool {
	for k, gap := range gaps {
		s.fine, s.lowest, s.close = false, 0, [2]geometry.Box{}
		// A glue point that another symbol covers leads nowhere; were it kept,
		// the search would look for it everywhere.
		if !r.uncover(s.starts, gap) || !r.uncover(s.goals, gap) ||
			s.onto == nil && !s.part(r.regions[k].parted(&r.scene.Links[i])) {
			continue
		}
		if gap == hard && s.simpleRoute(r, i, w) {
			s.pass(r, i, w, false, gap)
			return true
		}
		if s.bySweeps(r) {
			if s.aroundCrossings(r, i, w, gap) {
				return true
			}
			if s.tooLarge {
				return false
			}
			continue
		}
		reach := s.detour()
		if s.exhaustive(r) {
			reach = everywhere
		}
		if len(s.bends) > 0 { // a bend is not worth a way round the whole sheet
			reach = 16 * Clearance
		}
		for {
			window := s.ends().Grown(reach)
			s.seen = s.seen.Union(window)
			whole := s.gather(r, window, gap)
			if whole { // it counts that nothing lies beyond
				s.seen = s.seen.Grown(everywhere)
			}
			if s.tooLarge {
				return false
			}
			cost, ok := s.runWithin(r, w)
			if s.gaveUp {
				return false
			}
			if !ok && s.thinned && (whole || !s.inMotion) {
				s.fine = true // a line that was left out may be the only one
				continue
			}
			if ok {
				s.total = cost
				s.pass(r, i, w, true, gap)
				return true
			}
			if whole || len(s.bends) > 0 {
				break
			}
			reach *= 3
			s.fine = false
		}
	}
	return false
}

// pass goes on from the way found: where it meets others it looks for one that is
// worth it, for which the grid may have been gathered.
func (s *search) pass(r *Router, i int, w *route, gathered bool, gap int) {
	s.explored = s.explored.Union(w.points.Bounds())
	paid := s.paid(r, w, i)
	if paid == 0 {
		return
	}
	spare := s.total + paid - worthwhile - s.lowest
	if spare <= 0 && !s.exhaustive(r) {
		return
	}
	if !gathered {
		window := s.ends().Grown(min(s.detour(), spare/2+1)) // what goes beyond costs more
		s.seen = s.seen.Union(window)
		if s.gather(r, window, gap); s.tooLarge {
			s.tooLarge = false // the way stays as it is
			return
		}
	}
	s.avoidCrossings(r, i, w, paid)
}

// detour is how far from the ends there has to be room for a detour that is worth a
// crossing.
func (s *search) detour() int {
	if s.inMotion {
		return crossPrice / 4
	}
	return crossPrice / 2
}

// runWithin looks for a way in the gathered grid; in motion, and along bends laid by
// hand on a large sheet, only for so long.
func (s *search) runWithin(r *Router, w *route) (cost int, ok bool) {
	switch {
	case s.exhaustive(r):
	case s.frameBudget > 0: // in motion
		s.budget = s.frameBudget
		cost, ok = s.run(w)
		s.frameBudget, s.budget = max(s.budget, 1), 0
		s.gaveUp = !ok && s.frameBudget == 1
		return cost, ok
	case s.enclosed(s.goals, s.starts, fewNodes):
		return 0, false
	default:
		s.budget = farStates
	}
	cost, ok = s.run(w)
	s.budget = 0
	return cost, ok
}

// uncover marks the terminals in front of which no symbol stands, and reports
// whether there are any.
func (r *Router) uncover(list []terminal, gap int) bool {
	s := &r.scene
	free := false
	for k := range list {
		t := &list[k]
		t.covered = false
		for _, i := range r.ground.boxes.Near(geometry.Box{X: t.at.X, Y: t.at.Y}.Grown(gap)) {
			if s.Boxes[i].Grown(gap).CutBy(t.at, t.at) && !s.open(int(i)) {
				t.covered = true
				break
			}
		}
		free = free || !t.covered
	}
	return free
}

func (s *search) terminals(list []terminal, r *Router, box, side int, loose geometry.Point, how sharing,
	price func(int, geometry.Side, sharing) int) []terminal {
	for side0 := range 4 {
		sd := geometry.Side(side0)
		if box == None {
			list = append(list, terminal{side: sd, glue: loose, at: loose})
			continue
		}
		if side != Any && side != side0 {
			continue
		}
		g, at := r.scene.Glue[box][sd], r.facing(box, sd)
		p := price(box, sd, how)
		list = append(list, terminal{side: sd, glue: g, at: at, price: p, cost: p + g.Manhattan(at)})
	}
	return list
}

// joinPlaces returns the places at which a way may join the course onto: the
// middles of its segments, and where a straight way from a start meets it;
// from either side.
func (s *search) joinPlaces(list []terminal) []terminal {
	add := func(p geometry.Point, upright bool) {
		sides := [...]geometry.Side{geometry.Top, geometry.Bottom}
		if upright {
			sides = [...]geometry.Side{geometry.Left, geometry.Right}
		}
		for _, sd := range sides {
			list = append(list, terminal{side: sd, glue: p, at: p})
		}
	}
	const room = 2 * Separation // kept from the ends of a segment
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

// avoidCrossings looks for a way that is cheaper when crossings are paid for than the one
// found, for which so much is paid. In motion, and where bends have to be kept, it
// expects as many crossings on the way still to go as the first way had for its
// length, or it would look everywhere.
func (s *search) avoidCrossings(r *Router, i int, w *route, paid int) {
	cost, overrate := s.total, s.overrate
	s.total += paid
	s.bound = s.total
	run := s.run
	if !s.exhaustive(r) {
		s.priceEdges(r, i)
		s.bound -= worthwhile
		s.overrate = max(overrate, min(paid*8/max(cost, 1), 16))
		switch {
		case s.inMotion:
			s.overrate, s.budget = s.overrate*2, geometry.Clamp(motionBudget/len(r.scene.Boxes), leastInMotion,
				mostInMotion)
		case len(s.bends) > 0:
			s.budget = farStates
		default:
			run = s.sweep
		}
	}
	if better, ok := run(w); ok {
		s.total = better
	}
	s.explored = s.explored.Union(s.visited)
	s.overrate, s.bound, s.budget = overrate, 0, 0
}

// exhaustive reports whether the scene is to be searched whole.
func (s *search) exhaustive(r *Router) bool { return s.exact || r.scene.small() }

func (s *Scene) small() bool { return len(s.Boxes) <= smallScene }

// paid returns what the way found last has to pay for the ways it meets. On a
// small sheet it is counted by the grid edges, which are priced then.
func (s *search) paid(r *Router, w *route, i int) int {
	if s.ignoreCrossings {
		return 0
	}
	if !s.exhaustive(r) {
		return r.crossingCostOf(w.points, i)
	}
	s.priceEdges(r, i)
	nx := int32(len(s.xs))
	sum := 0
	for k := 1; k < len(s.nodes); k++ {
		switch a, b := s.nodes[k-1], s.nodes[k]; {
		case a == b:
		case a/nx == b/nx:
			sum += int(s.right[max(a, b)]) - geometry.Abs(s.xs[a%nx]-s.xs[b%nx])
		default:
			sum += int(s.down[int(a%nx)*len(s.ys)+int(max(a/nx, b/nx))]) - geometry.Abs(s.ys[a/nx]-s.ys[b/nx])
		}
	}
	return sum
}

// cutThrough joins the ends although something is in the way.
func (s *search) cutThrough(w *route) {
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
	w.fromSide, w.toSide, w.obstructed = from.side, to.side, true
}
