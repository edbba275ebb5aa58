// Package routing finds the courses of connectors: right-angled lines from symbol to symbol that keep
// clear of all others, or straight lines.
//
// A Scene says what is on the sheet: Boxes (symbols and other obstacles) with their glue points, and
// Links (connectors) between them. A Router computes a Course for every link. Route does so completely;
// Begin and Step do the same in portions, so that a window stays responsive; Drag recomputes only what
// a motion affects. Courses are a function of the scene alone, whatever the order of its boxes and links.
//
// A complete computation goes through these steps:
//
//   - prepare (prepare.go) finds the lines that run past every box, which form the grid, and the order
//     of the links: short and straight ones first.
//   - Every link gets its cheapest route (search.go): length, plus a price for every bend and every
//     crossing. simpleRoute (simple.go) tries the L, Z and U routes, bendRoute (along_bends.go) follows
//     segments laid by hand; else the grid of a window round the ends (grid.go) is searched, by A*
//     (astar.go) on small sheets and by relaxing whole lines (sweep.go) on large ones. regions.go knows
//     beforehand which ends are enclosed by symbols.
//   - Routes that a later one crosses are searched again (findAgain).
//   - nudge.go sets segments that share a channel side by side and spreads the ends on a side; pack.go
//     is its solver.
//   - joining.go routes the links that end on another link; labels.go places the labels;
//     crossings.go finds the crossings and which line hops.
//
// memo.go keeps what a search depended on, so that the next computation repeats only what changed.
//
// Sources (titles from memory): Wybrow, Marriott and Stuckey, Orthogonal Connector Routing (2009), for the steps and
// the nudging; Hart, Nilsson and Raphael, A Formal Basis for the Heuristic Determination of Minimum Cost Paths (1968),
// for A*; Bellman, On a Routing Problem (1958), for the sweeps; Dwyer, Marriott and Stuckey, Fast Node Overlap Removal
// (2006), for the solver; Bentley and Ottmann, Algorithms for Reporting and Counting Geometric Intersections (1979),
// for the sweep that finds crossings.
package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/labels"
	"plaintracer/core/scratch"
	"plaintracer/core/spatial"
)

const px = geometry.Px

// What the router weighs, in length.
const (
	// Clearance is the distance a course keeps from symbols while there is room.
	Clearance = 16 * px
	// hard is the distance below which a course counts as cutting a symbol.
	hard = 4 * px
	// bendPrice is the detour that is taken to save one bend, crossPrice that
	// to save one crossing.
	bendPrice  = 40 * px
	crossPrice = 160 * px
	// worthwhile is by how much a way that meets fewer others has to be cheaper to be
	// looked for on a large sheet.
	worthwhile = crossPrice / 8
	// sharePrice divides the length of a segment that lies on another
	// connector: the detour taken to find a line of one's own.
	sharePrice = 2
	// sharedPort is the price of a glue point where something already arrives
	// or leaves in the other sense, or leaves in the same.
	sharedPort = 70 * px
	// answerPort is that where another answer leaves.
	answerPort = 240 * px
	// mergedPort is the price of arriving where something arrives already.
	mergedPort = 6 * px
	// hastyReach is the distance beyond which a way is found in overrate while
	// things are in motion.
	hastyReach = 1000 * px
	// crowded is the number of boxes beyond which all are.
	crowded = 150
	// Spacing is the distance between courses that share a channel while there is room,
	// Separation that where there is less; Verge is that from borders.
	Spacing    = 16 * px
	Separation = 8 * px
	Verge      = 12 * px
)

// Any lets the router choose the side of an end; None is the box of an end
// that is glued to nothing.
const (
	Any  = -1
	None = -1
)

// Link is a connector to be routed, between two symbols by their places in
// Scene.Boxes.
type Link struct {
	From, To int
	// FromSide and ToSide are a geometry.Side, or Any.
	FromSide, ToSide int
	// FromAt and ToAt are the places of ends whose box is None.
	FromAt, ToAt geometry.Point
	// Joins says that the far end lies on the course of the link at Onto.
	Joins bool
	Onto  int
	// Straight asks for one straight line, Curved says that the course is only
	// the frame of a curve.
	Straight, Curved bool
	// Bends are the segments laid by hand.
	Bends []Bend
	// Trunk lets it share its first segment with the other exits.
	Trunk bool
	// Fork lets it do so where it costs nothing else; Answer keeps it from the side of another exit.
	Fork, Answer bool
	// Merge lets it run into one line with others that lead into the same side.
	Merge bool
	// Labels are those in the middle, at the beginning and at the end.
	Labels [3]labels.Label
	// Branch marks the exit of a decision, whose first label stands near its
	// start.
	Branch bool
}

// same reports whether two links lead the same way.
func (l *Link) same(o *Link) bool {
	return l.From == o.From && l.To == o.To && l.FromSide == o.FromSide && l.ToSide == o.ToSide &&
		l.FromAt == o.FromAt && l.ToAt == o.ToAt &&
		l.Joins == o.Joins && l.Onto == o.Onto && l.Straight == o.Straight && l.departs() == o.departs() &&
		l.Merge == o.Merge &&
		slices.Equal(l.Bends, o.Bends)
}

// equal reports whether two links are the same in all that their courses and labels depend on.
func (l *Link) equal(o *Link) bool {
	return l.same(o) && l.Curved == o.Curved && l.Trunk == o.Trunk && l.Fork == o.Fork && l.Answer == o.Answer &&
		l.Labels == o.Labels && l.Branch == o.Branch
}

// Equal reports whether two scenes have the same courses by all they say themselves; whether ends meet the outlines
// alike (Meet) it cannot tell.
func (s *Scene) Equal(o *Scene) bool {
	return s.Down == o.Down && slices.Equal(s.Boxes, o.Boxes) && slices.Equal(s.Glue, o.Glue) &&
		slices.Equal(s.Reach, o.Reach) &&
		slices.Equal(s.Open, o.Open) && slices.Equal(s.Heads, o.Heads) && slices.Equal(s.Borders, o.Borders) &&
		slices.EqualFunc(s.Links, o.Links, func(a, b Link) bool { return a.equal(&b) })
}

// CopyOf makes the scene a copy of another one, into the memory it has.
func (s *Scene) CopyOf(o *Scene) {
	s.Down, s.Meet = o.Down, o.Meet
	s.Boxes, s.Glue, s.Reach = append(s.Boxes[:0], o.Boxes...), append(s.Glue[:0], o.Glue...), append(s.Reach[:0],
		o.Reach...)
	s.Open, s.Heads = append(s.Open[:0], o.Open...), append(s.Heads[:0], o.Heads...)
	s.Borders, s.Links = append(s.Borders[:0], o.Borders...), append(s.Links[:0], o.Links...)
}

// merge reports whether two links may share a part of their ways: the end, where they lead to the same place, or the
// beginning of those of a fork. Two from one symbol to another may not: nothing would tell them apart.
func (s *Scene) merge(a, b int) bool {
	l, o := &s.Links[a], &s.Links[b]
	return l.Merge && o.Merge && l.To != None && l.To == o.To && l.From != o.From || l.forked(o)
}

// Border is a line from lo to hi that lies upright at x, or level at y.
type Border struct {
	Upright    bool
	At, Lo, Hi int
}

// forked reports whether two links leave a fork together.
func (l *Link) forked(o *Link) bool { return l.Fork && o.Fork && l.From == o.From && l.To != o.To }

// sharing says how an end of a link may lie on those of others.
type sharing uint8

const (
	apart sharing = iota
	shares
	forks
	answers
)

func (l *Link) departs() sharing {
	switch {
	case l.Trunk:
		return shares
	case l.Fork:
		return forks
	case l.Answer:
		return answers
	}
	return apart
}

func (l *Link) arrives() sharing {
	if l.Merge {
		return shares
	}
	return apart
}

// Bend is a segment that lies upright at x, or level at y.
type Bend struct {
	Upright bool
	At      int
}

// Scene is all the router needs to know of a sheet.
type Scene struct {
	// Boxes are the symbols, each with its glue points by side, followed by
	// whatever else is in the way and has none.
	Boxes []geometry.Box
	Glue  [][4]geometry.Point
	// Reach says how far an end may slide to either side of a glue point, and
	// Meet where a course coming straight to a side at a coordinate then meets
	// the outline. Without them ends stay at the glue points.
	Reach [][4]int
	Meet  func(box int, side geometry.Side, at int) int
	// Open marks boxes that are not an obstacle; it may be shorter than Boxes.
	Open []bool
	// Heads marks boxes that head a frame on its whole side. What runs past the ends of one does so inside the
	// frame; like Open it may be shorter than Boxes.
	Heads []bool
	Links []Link
	// Borders are lines beside which courses keep a distance, and across which they may run.
	Borders []Border
	// Down says that the flow normally runs downwards, not to the right.
	Down bool
}

func (s *Scene) open(box int) bool { return box < len(s.Open) && s.Open[box] }

func (s *Scene) heads(box int) bool { return box < len(s.Heads) && s.Heads[box] }

// area returns the box around all boxes and loose ends of a scene.
func (s *Scene) area() geometry.Box {
	var out geometry.Box
	for _, b := range s.Boxes {
		out = out.Union(b)
	}
	for i := range s.Links {
		if l := &s.Links[i]; l.From == None || l.To == None {
			out = out.Union(geometry.Between(l.FromAt, l.ToAt))
		}
	}
	return out
}

// Course is the way of one connector.
type Course struct {
	Points geometry.Polyline
	// FromSide and ToSide are the sides it was glued to.
	FromSide, ToSide geometry.Side
	// Labels say where the labels stand; empty without one.
	Labels [3]geometry.Box
	// Hops are the crossings at which this course gives way, along it.
	Hops []Hop
	// Obstructed says that no free way was found and the course runs through a symbol.
	Obstructed bool
	// BendsDropped says that the bends laid by hand cannot be kept.
	BendsDropped bool
	// Unrouted says that no way was sought round what is in between, since there is too much
	// on the sheet.
	Unrouted bool
}

// CountUnrouted returns how many courses are drawn plainly.
func CountUnrouted(courses []Course) (n int) {
	for i := range courses {
		if courses[i].Unrouted {
			n++
		}
	}
	return n
}

// Router routes a sheet and, while things move, keeps what it can. The zero
// value is ready for use. It is not safe for concurrent use.
type Router struct {
	sheet
	work work
	// routes are the cheapest ways, base those of the last complete computation, in
	// which the scene was as in was.
	routes, base []route
	was          record
	// out are the courses made of the ways, done those of the last complete computation.
	out, done []Course
	motion    motion
	memory    memory
	search    search
	nudger    nudger
	hops      hops
	labels    labels.Sheet
}

// sheet is what the searches are done on: the scene, and what is known of it.
type sheet struct {
	scene Scene
	// area is the box around all of it.
	area geometry.Box
	// lines holds for each box the lines that run past its four sides.
	lines [][4]int
	// past are the same in order.
	past struct{ x, y []pastLine }
	// closed is how many boxes are in the way.
	closed int
	// segments are those of the ways found so far, ground tells where they and the
	// boxes lie.
	segments []laidSegment
	ground   struct{ laid, boxes spatial.Index }
	// ports counts what arrives and leaves at every side of every symbol.
	ports [][4]port
	// regions are what symbols enclosed, for each of the gaps.
	regions [len(gaps)]regions
}

// work is which links are to be routed, in which order, and how far a complete computation has come.
type work struct {
	// anew marks the links that are being routed; all others keep their course.
	anew []bool
	// order is the order of work, rank the place of each link in it.
	order, rank []int
	turns       []turn
	// met is what each way paid for meeting others when it was found.
	met      []int
	on       bool
	pass, at int
}

// motion is what is known from frame to frame of a drag.
type motion struct {
	moved, near []bool
	// hand lists the boxes in motion, swept is the box around them.
	hand  []int
	swept geometry.Box
	// again are the links a drag has to route; trails are how they ran in the
	// frame before, and phase says whose turn it is to be searched.
	again  []int
	trails []trail
	phase  int
	pulled route
}

type port struct{ in, out int16 }

type route struct {
	points           geometry.Polyline
	fromSide, toSide geometry.Side
	// obstructed, givenBack and plain are as in Course.
	obstructed, bendsDropped, unrouted bool
}

// Route computes all courses afresh: they are a function of the scene alone.
// The result is valid until the next call.
func (r *Router) Route(s Scene) []Course {
	r.Begin(s)
	for !r.Step(everywhere) {
	}
	return r.out
}

// Begin opens a complete computation, which Step carries on. Until it has come to
// its end the courses are what they were; Drag, Route and Begin give it up. The
// scene must stay as it is.
func (r *Router) Begin(s Scene) {
	r.lines, r.motion.hand = r.lines[:0], r.motion.hand[:0]
	r.prepare(s)
	for i := range r.work.anew {
		r.work.anew[i] = true
	}
	r.ports = scratch.Resized(r.ports, len(r.scene.Boxes))
	clear(r.ports)
	r.work.met = scratch.Resized(r.work.met, len(r.scene.Links))
	r.regions = [len(gaps)]regions{}
	for k, gap := range gaps {
		if !r.scene.small() {
			r.regions[k].build(r, gap)
		}
	}
	r.memory.begin(&r.scene, r.lines)
	r.work.on, r.work.pass, r.work.at = true, 0, 0
}

// Working reports whether a computation has begun and not come to its end.
func (r *Router) Working() bool { return r.work.on }

// Courses returns the courses computed last.
func (r *Router) Courses() []Course { return r.out }

// linkStates is what a search costs at least, in states looked at, and recallStates
// what it costs to see that a link needs none.
const (
	linkStates   = 150
	recallStates = 10
)

// Step carries a computation on until about so many states of the search have
// been looked at, and reports whether it has come to its end.
//
// First every way is found one after the other, each in sight of those before it,
// then those once more in sight of all that a later one has crossed. The others
// are as cheap as they were.
func (r *Router) Step(states int) bool {
	w := &r.work
	if !w.on {
		return true
	}
	begun := r.search.expanded
	for ; w.pass < 2; w.pass, w.at = w.pass+1, 0 {
		for ; w.at < len(r.work.order); w.at++ {
			if r.search.expanded-begun > states {
				return false
			}
			r.search.expanded += recallStates
			if i := r.work.order[w.at]; w.pass == 0 {
				r.findRoute(0, i)
			} else {
				r.findAgain(i)
			}
		}
	}
	if r.search.expanded-begun > states/2 { // what is left takes a while, too
		return false
	}
	w.on, r.memory.begun, r.motion.phase = false, false, 0
	r.motion.trails = scratch.Resized(r.motion.trails, len(r.scene.Links))
	for i := range r.motion.trails {
		r.motion.trails[i].known = false
	}
	r.finish()
	if r.aroundLabels() {
		r.finish()
	}
	r.keep()
	return true
}

// findAgain looks at link i for the second time, but for a sheet with very much on it.
func (r *Router) findAgain(i int) {
	if l := &r.scene.Links[i]; !l.Straight && !l.Joins && r.search.maxNodes == 0 && r.crossingCost(i) > r.work.met[i] {
		r.lift(i)
		r.findRoute(1, i)
	} else {
		r.memory.passes[1][i].known = false // what is around it now goes unnoted
	}
	r.memory.settled(i, &r.routes[i])
}

// findRoute finds the way of link i, by memory if nothing it depends on has
// changed since the last computation.
func (r *Router) findRoute(pass, i int) {
	l := &r.scene.Links[i]
	if l.Straight || l.Joins {
		r.findFirst(i)
		return
	}
	e := r.ends(l)
	if r.memory.recall(pass, i, e, &r.routes[i]) {
		r.occupy(i)
		if pass == 0 {
			r.work.met[i] = r.memory.passes[0][i].met
		}
		return
	}
	if pass == 0 {
		r.findFirst(i)
		r.work.met[i] = r.crossingCost(i)
	} else {
		r.search.expanded += linkStates
		r.search.improve(r, i, &r.routes[i])
		r.occupy(i)
	}
	r.memory.note(pass, i, e, &r.search, &r.routes[i], r.work.met[i])
}

// ends are what a search reads of the two ends of a link: their glue points, and which
// of them are of no use for each of the gaps.
type ends struct {
	from, to [4]port
	parted   [len(gaps)]uint8
}

func (r *Router) ends(l *Link) ends {
	e := ends{from: r.portsOf(l.From), to: r.portsOf(l.To)}
	for k := range gaps {
		e.parted[k] = r.regions[k].parted(l)
	}
	return e
}

func (r *Router) portsOf(box int) [4]port {
	if box == None {
		return [4]port{}
	}
	return r.ports[box]
}

// keep remembers the courses as those from which a drag begins.
func (r *Router) keep() {
	r.was.take(&r.scene, r.lines)
	r.base = scratch.Resized(r.base, len(r.routes))
	for i := range r.routes {
		r.base[i].copy(&r.routes[i])
	}
	r.done = scratch.Resized(r.done, len(r.out))
	for i := range r.out {
		r.done[i].copy(&r.out[i])
	}
}

func (c *Course) copy(from *Course) {
	points, hops := append(c.Points[:0], from.Points...), append(c.Hops[:0], from.Hops...)
	*c = *from
	c.Points, c.Hops = points, hops
}

func (w *route) copy(from *route) {
	points := append(w.points[:0], from.points...)
	*w = *from
	w.points = points
}

func cuts(line geometry.Polyline, b geometry.Box) bool {
	for k := 1; k < len(line); k++ {
		if b.CutBy(line[k-1], line[k]) {
			return true
		}
	}
	return false
}

// findFirst finds the cheapest way of link i and claims its glue points. A link that
// joins another one waits until that one's course is known.
func (r *Router) findFirst(i int) {
	r.search.expanded += linkStates
	switch l := &r.scene.Links[i]; {
	case l.Joins:
		r.routes[i].points = r.routes[i].points[:0]
		return
	case l.Straight:
		r.straight(i)
	default:
		r.search.find(r, i, &r.routes[i])
	}
	r.occupy(i)
}

// finish makes courses of the ways.
func (r *Router) finish() {
	r.out = scratch.Resized(r.out, len(r.routes))
	for i := range r.routes {
		c, w := &r.out[i], &r.routes[i]
		if !r.work.anew[i] {
			c.copy(&r.done[i])
			if d := r.shifted(i); d != (geometry.Point{}) {
				for k := range c.Points {
					c.Points[k] = c.Points[k].Add(d)
				}
				for k := range c.Labels {
					if c.Labels[k].W > 0 {
						c.Labels[k] = c.Labels[k].Moved(d)
					}
				}
			}
			continue
		}
		c.Points = append(c.Points[:0], w.points...)
		c.FromSide, c.ToSide, c.Obstructed, c.BendsDropped, c.Unrouted = w.fromSide, w.toSide, w.obstructed,
			w.bendsDropped, w.unrouted
		c.Labels = [3]geometry.Box{}
	}
	r.nudger.nudge(r)
	r.join()
	r.hops.find(r)
	r.placeLabels()
}

// aroundLabels leads connectors round the labels of others that were placed by
// hand, and reports whether any had to change.
func (r *Router) aroundLabels() bool {
	boxes := len(r.scene.Boxes)
	var owners []int
	for i := range r.scene.Links {
		for k, l := range r.scene.Links[i].Labels {
			if l.Held && r.out[i].Labels[k].W > 0 {
				r.scene.Boxes = append(r.scene.Boxes[:len(r.scene.Boxes):len(r.scene.Boxes)],
					r.out[i].Labels[k].Grown(-hard+labels.Gap))
				owners = append(owners, i)
			}
		}
	}
	changed := false
	for _, i := range r.work.order {
		l := &r.scene.Links[i]
		if l.Straight || l.Joins || len(owners) == 0 {
			continue
		}
		for k, owner := range owners {
			b := r.scene.Boxes[boxes+k]
			if owner == i || !cuts(r.out[i].Points, b) {
				continue
			}
			if !changed {
				r.lines = scratch.Resized(r.lines, len(r.scene.Boxes))
				r.layBoxes()
				for j := boxes; j < len(r.scene.Boxes); j++ {
					r.lines[j] = r.pastLines(j)
				}
				r.sortLines()
				changed = true
			}
			r.lift(i)
			r.findFirst(i)
			break
		}
	}
	r.scene.Boxes, r.lines = r.scene.Boxes[:boxes], r.lines[:boxes]
	if changed {
		r.layBoxes()
		r.sortLines()
	}
	return changed
}
