// Package routing finds the courses of connectors: right-angled ways from
// symbol to symbol that keep clear of all others, or straight lines.
//
// The work is done in stages. Each connector first gets its own cheapest way
// (length, a price for every bend and for every connector it crosses) through
// the free space, found by A* over the lines that run past the symbols; those
// that cross others are then looked at once more. Stretches that share a
// channel are set side by side, and ends spread over the side they share. Last
// come the connectors that join others, the labels and the crossings. The
// stages follow Wybrow, Marriott and Stuckey, Orthogonal Connector Routing
// (2009).
//
// Everything is a function of the scene alone, in whatever order its boxes and
// links stand.
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
	// bendPrice is the detour that is taken to save one bend, crossPrice that
	// to save one crossing.
	bendPrice  = 40 * px
	crossPrice = 160 * px
	// worthwhile is by how much a way that meets fewer others has to be cheaper to be
	// looked for on a large sheet.
	worthwhile = crossPrice / 8
	// sharePrice divides the length of a stretch that lies on another
	// connector: the detour taken to find a line of one's own.
	sharePrice = 2
	// sharedPort is the price of a glue point where something already arrives
	// or leaves in the other sense, or leaves in the same.
	sharedPort = 70 * px
	// mergedPort is the price of arriving where something arrives already.
	mergedPort = 6 * px
	// hastyReach is the distance beyond which a way is found in haste while
	// things are in motion.
	hastyReach = 1000 * px
	// crowded is the number of boxes beyond which all are.
	crowded = 150
	// Separation is the distance between courses that share a channel.
	Separation = 8 * px
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
	// Bends are the stretches laid by hand.
	Bends []Bend
	// Trunk lets it share its first stretch with the other exits.
	Trunk bool
	// Merge lets it run into one line with others that lead into the same side.
	Merge bool
	// Labels are those in the middle, at the beginning and at the end.
	Labels [3]Label
	// Branch marks the exit of a decision, whose first label stands near its
	// start.
	Branch bool
}

// same reports whether two links lead the same way.
func (l *Link) same(o *Link) bool {
	return l.From == o.From && l.To == o.To && l.FromSide == o.FromSide && l.ToSide == o.ToSide && l.FromAt == o.FromAt && l.ToAt == o.ToAt &&
		l.Joins == o.Joins && l.Onto == o.Onto && l.Straight == o.Straight && l.Trunk == o.Trunk && l.Merge == o.Merge && slices.Equal(l.Bends, o.Bends)
}

// merge reports whether two links may share the end of their ways. Two from the same
// symbol may not: nothing would tell them apart.
func (s *Scene) merge(a, b int) bool {
	l, o := &s.Links[a], &s.Links[b]
	return l.Merge && o.Merge && l.To != None && l.To == o.To && l.From != o.From
}

// Bend is a stretch that lies upright at x, or level at y.
type Bend struct {
	Upright bool
	At      int
}

// Label is the size of a label, zero for none. One that was placed by hand
// lies with its middle Off the point at Along, in ten-thousandths of the course.
type Label struct {
	Size  geometry.Point
	Held  bool
	Along int
	Off   geometry.Point
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
	// Open marks boxes that are in nobody's way; it may be shorter than Boxes.
	Open  []bool
	Links []Link
	// Down says that the flow normally runs downwards, not to the right.
	Down bool
}

func (s *Scene) open(box int) bool { return box < len(s.Open) && s.Open[box] }

// Course is the way of one connector.
type Course struct {
	Points geometry.Polyline
	// FromSide and ToSide are the sides it was glued to.
	FromSide, ToSide geometry.Side
	// Labels say where the labels stand; empty without one.
	Labels [3]geometry.Box
	// Hops are the crossings at which this course gives way, along it.
	Hops []Hop
	// Cuts says that no free way was found and the course runs through a symbol.
	Cuts bool
	// GivenBack says that the bends laid by hand cannot be kept.
	GivenBack bool
	// Plain says that no way was sought round what is in between, since there is too much
	// on the sheet.
	Plain bool
}

// CountPlain returns how many courses are drawn plainly.
func CountPlain(courses []Course) (n int) {
	for i := range courses {
		if courses[i].Plain {
			n++
		}
	}
	return n
}

// Router routes a sheet and, while things move, keeps what it can. The zero
// value is ready for use. It is not safe for concurrent use.
type Router struct {
	scene Scene
	// lines holds for each box the lines that run past its four sides.
	lines [][4]int
	// past are the same in order.
	past struct{ x, y []pastLine }
	// raw are the cheapest ways, base those of the last complete computation, in
	// which the scene was as in was.
	raw, base []raw
	was       record
	// done are the courses of the last complete computation.
	done []Course
	// anew marks the links that are being routed; all others keep their course.
	anew []bool
	// laid are the stretches of the ways found so far, ground tells where they and the
	// boxes lie.
	laid   []stretch
	ground struct{ laid, boxes cells }
	area   geometry.Box
	// closed is how many boxes are in the way.
	closed int
	// ports counts what arrives and leaves at every side of every symbol.
	ports [][4]port
	// order is the order of work, rank the place of each link in it.
	order, rank []int
	turns       []turn
	// met is what each way paid for meeting others when it was found.
	met         []int
	s           search
	out         []Course
	n           nudger
	c           crossings
	moved, near []bool
	// hand lists the boxes in motion, swept is the box around them.
	hand  []int
	swept geometry.Box
	// again are the links a drag has to route; trails are how they ran in the
	// frame before, and phase says whose turn it is to be searched.
	again  []int
	trails []trail
	phase  int
	pulled raw
	l      labels
	m      memory
	// regions are what symbols shut in, for each of the gaps.
	regions [len(gaps)]regions
	// work is how far a complete computation has come.
	work struct {
		on       bool
		pass, at int
	}
}

type port struct{ in, out int16 }

type raw struct {
	points           geometry.Polyline
	fromSide, toSide geometry.Side
	// cuts, givenBack and plain are as in Course.
	cuts, givenBack, plain bool
}

// stretch is a piece of a way already found. A link of None is gone again.
type stretch struct {
	upright     bool
	pos, lo, hi int
	link        int
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
	r.lines, r.hand = r.lines[:0], r.hand[:0]
	r.prepare(s)
	for i := range r.anew {
		r.anew[i] = true
	}
	r.ports = resized(r.ports, len(r.scene.Boxes))
	clear(r.ports)
	r.met = resized(r.met, len(r.scene.Links))
	r.regions = [len(gaps)]regions{}
	for k, gap := range gaps {
		if !r.scene.small() {
			r.regions[k].build(r, gap)
		}
	}
	r.m.begin(&r.scene, r.lines)
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
	begun := r.s.looked
	for ; w.pass < 2; w.pass, w.at = w.pass+1, 0 {
		for ; w.at < len(r.order); w.at++ {
			if r.s.looked-begun > states {
				return false
			}
			r.s.looked += recallStates
			if i := r.order[w.at]; w.pass == 0 {
				r.way(0, i)
			} else {
				r.reconsider(i)
			}
		}
	}
	if r.s.looked-begun > states/2 { // what is left takes a while, too
		return false
	}
	w.on, r.m.begun, r.phase = false, false, 0
	r.trails = resized(r.trails, len(r.scene.Links))
	for i := range r.trails {
		r.trails[i].known = false
	}
	r.finish()
	if r.aroundLabels() {
		r.finish()
	}
	r.keep()
	return true
}

// reconsider looks at link i for the second time, but for a sheet with very much on it.
func (r *Router) reconsider(i int) {
	if l := &r.scene.Links[i]; !l.Straight && !l.Joins && r.s.most == 0 && r.meets(i) > r.met[i] {
		r.lift(i)
		r.way(1, i)
	} else {
		r.m.passes[1][i].known = false // what is around it now goes unnoted
	}
	r.m.settled(i, &r.raw[i])
}

// way finds the way of link i, by memory if nothing it depends on has
// changed since the last computation.
func (r *Router) way(pass, i int) {
	l := &r.scene.Links[i]
	if l.Straight || l.Joins {
		r.one(i)
		return
	}
	e := r.ends(l)
	if r.m.recall(pass, i, e, &r.raw[i]) {
		r.occupy(i)
		if pass == 0 {
			r.met[i] = r.m.passes[0][i].met
		}
		return
	}
	if pass == 0 {
		r.one(i)
		r.met[i] = r.meets(i)
	} else {
		r.s.looked += linkStates
		r.s.improve(r, i, &r.raw[i])
		r.occupy(i)
	}
	r.m.note(pass, i, e, &r.s, &r.raw[i], r.met[i])
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

// meets returns what the way of link i pays for crossing others and lying on
// them.
func (r *Router) meets(i int) int { return r.meetings(r.raw[i].points, i) }

func (r *Router) meetings(pts geometry.Polyline, link int) int {
	sum := 0
	for k := 1; k < len(pts); k++ {
		p := stretchOf(pts[k-1], pts[k], link)
		for _, j := range r.ground.laid.near(geometry.Between(pts[k-1], pts[k])) {
			q := &r.laid[j]
			if q.link == link || q.link == None {
				continue
			}
			if p.upright != q.upright {
				if q.lo < p.pos && p.pos < q.hi && p.lo < q.pos && q.pos < p.hi {
					sum += crossPrice
				}
			} else if p.pos == q.pos && !r.scene.merge(link, q.link) {
				sum += max(min(p.hi, q.hi)-max(p.lo, q.lo), 0) / sharePrice
			}
		}
	}
	return sum
}

func stretchOf(p, q geometry.Point, link int) stretch {
	if p.X == q.X {
		return stretch{true, p.X, min(p.Y, q.Y), max(p.Y, q.Y), link}
	}
	return stretch{false, p.Y, min(p.X, q.X), max(p.X, q.X), link}
}

func (s stretch) box() geometry.Box {
	return geometry.Box{X: s.lo, Y: s.pos, W: s.hi - s.lo}.Turned(s.upright)
}

// lay adds a stretch to the ways found so far; clear forgets them all.
func (r *Router) lay(s stretch) {
	r.ground.laid.add(len(r.laid), s.box())
	r.laid = append(r.laid, s)
}

func (r *Router) clear() {
	r.laid = r.laid[:0]
	r.ground.laid.begin(r.area)
}

// lift takes a way away again, as if it had not been found.
func (r *Router) lift(i int) {
	l, w := &r.scene.Links[i], &r.raw[i]
	for k := 1; k < len(w.points); k++ {
		for _, j := range r.ground.laid.near(geometry.Between(w.points[k-1], w.points[k])) {
			if r.laid[j].link == i {
				r.laid[j].link = None
			}
		}
	}
	if l.From != None {
		r.ports[l.From][w.fromSide].out--
	}
	if l.To != None {
		r.ports[l.To][w.toSide].in--
	}
}

// keep remembers the courses as those from which a drag begins.
func (r *Router) keep() {
	r.was.take(&r.scene, r.lines)
	r.base = resized(r.base, len(r.raw))
	for i := range r.raw {
		r.base[i].copy(&r.raw[i])
	}
	r.done = resized(r.done, len(r.out))
	for i := range r.out {
		r.done[i].copy(&r.out[i])
	}
}

func (c *Course) copy(from *Course) {
	points, hops := append(c.Points[:0], from.Points...), append(c.Hops[:0], from.Hops...)
	*c = *from
	c.Points, c.Hops = points, hops
}

// shift returns by how much link i has been moved as a whole.
func (r *Router) shift(i int) geometry.Point {
	if l := &r.scene.Links[i]; r.inMotion(l.From) {
		return r.scene.Boxes[l.From].Corner().Sub(r.was.boxes[l.From].Corner())
	}
	return geometry.Point{}
}

func (w *raw) copy(from *raw) {
	points := append(w.points[:0], from.points...)
	*w = *from
	w.points = points
}

// Drag computes the courses while some boxes are in motion or some links are
// changed: those attached to them or in their way are routed, all others keep
// the course of the last complete computation. What has come or changed since then
// counts as moved; the rest must stand in the same order.
func (r *Router) Drag(s Scene, moving func(box int) bool) []Course {
	r.work.on = false
	r.regions = [len(gaps)]regions{} // too much for every frame
	if len(r.was.boxes) == 0 {
		return r.Route(s)
	}
	r.since(&s)
	r.moved = resized(r.moved, len(s.Boxes))
	r.hand, r.swept = r.hand[:0], geometry.Box{}
	for i := range r.moved {
		if r.moved[i] = r.was.moved(&s, i) || s.Glue[i] != r.was.glue[i] || moving(i); r.moved[i] {
			r.hand = append(r.hand, i)
			r.swept = r.swept.Union(s.Boxes[i].Grown(2 * hard))
		}
	}
	r.prepare(s)
	r.ports = resized(r.ports, len(s.Boxes))
	clear(r.ports)
	r.trails = resized(r.trails, len(s.Links))
	again := r.again[:0]
	for _, i := range r.order {
		if r.disturbed(i) {
			again = append(again, i)
			continue
		}
		r.anew[i], r.trails[i].known = false, false
		w := &r.raw[i]
		w.copy(&r.base[i])
		if d := r.shift(i); d != (geometry.Point{}) { // both ends move: the course is shifted
			for k := range w.points {
				w.points[k] = w.points[k].Add(d)
			}
		}
		r.occupy(i)
	}
	r.again = again
	r.hurry()
	for i := range s.Links { // what joins a line that changes follows it
		onto := i
		for n := 0; s.Links[onto].Joins && n < len(s.Links); n++ {
			onto = s.Links[onto].Onto
			r.anew[i] = r.anew[i] || r.anew[onto]
		}
	}
	r.finish()
	return r.out
}

// since brings what is kept of the last complete computation into the order of a
// scene.
func (r *Router) since(s *Scene) {
	links, gone, _ := r.was.follow(s)
	if links == nil {
		return
	}
	now := make([]int, len(r.done))
	r.base, r.done = rearranged(r.base, links), rearranged(r.done, links)
	for i := range r.trails {
		r.trails[i].known = false
	}
	for j := range now {
		now[j] = None
	}
	for i, j := range links {
		if j != None {
			now[j] = i
		}
	}
	for i := range r.done {
		c := &r.done[i]
		c.Hops = slices.DeleteFunc(c.Hops, func(h Hop) bool { return now[h.Over] == None })
		for k := range c.Hops {
			c.Hops[k].Over = now[c.Hops[k].Over]
		}
	}
	if len(gone) > 0 || len(r.lines) != len(s.Boxes) {
		r.lines = r.lines[:0] // all have to be found again
	}
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

func (r *Router) inMotion(box int) bool { return box != None && r.moved[box] }

// disturbed reports whether the motion asks for a new course of link i.
func (r *Router) disturbed(i int) bool {
	l := &r.scene.Links[i]
	if r.was.newLink[i] || !l.same(&r.was.links[i]) {
		return true
	}
	if r.inMotion(l.From) != r.inMotion(l.To) || r.inMotion(l.From) && !r.together(l.From, l.To) {
		return true
	}
	if r.inMotion(l.From) || l.Straight || l.Joins {
		return false
	}
	way := r.base[i].points
	for k := 1; k < len(way); k++ {
		b := geometry.Between(way[k-1], way[k])
		if !r.swept.Meets(b) {
			continue
		}
		for _, j := range r.ground.boxes.near(b.Grown(hard)) {
			if r.moved[j] && !r.scene.open(int(j)) && r.scene.Boxes[j].Grown(hard).CutBy(way[k-1], way[k]) {
				return true
			}
		}
	}
	return false
}

// together reports whether two boxes have been moved by the same, unchanged.
func (r *Router) together(a, b int) bool {
	s, was := &r.scene, &r.was
	d := s.Boxes[a].Corner().Sub(was.boxes[a].Corner())
	for _, k := range [...]int{a, b} {
		for side, p := range s.Glue[k] {
			if was.glue[k][side].Add(d) != p {
				return false
			}
		}
	}
	return was.boxes[a].Moved(d) == s.Boxes[a] && was.boxes[b].Moved(d) == s.Boxes[b]
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
	r.s.most = s.share()
	r.area = s.area()
	r.clear()
	r.layBoxes()
	r.pastAll()
	r.sortLines()
	r.anew = resized(r.anew, len(s.Links))
	r.raw = resized(r.raw, len(s.Links))
	r.order, r.rank, r.turns = r.order[:0], resized(r.rank, len(s.Links)), r.turns[:0]
	for i := range s.Links {
		from, to := r.end(i, true), r.end(i, false)
		r.turns = append(r.turns, turn{reach(from, to), from, to, i})
	}
	// The short and straight come first: they have the first claim on a glue
	// point. The order is a matter of geometry alone.
	slices.SortFunc(r.turns, func(a, b turn) int {
		if a.reach != b.reach {
			return a.reach - b.reach
		}
		return cmp.Or(cmp.Compare(a.from.X, b.from.X), cmp.Compare(a.from.Y, b.from.Y), cmp.Compare(a.to.X, b.to.X), cmp.Compare(a.to.Y, b.to.Y), cmp.Compare(a.link, b.link))
	})
	for k, t := range r.turns {
		r.order = append(r.order, t.link)
		r.rank[t.link] = k
	}
}

// layBoxes notes where the boxes lie, and counts those that are in the way.
func (r *Router) layBoxes() {
	r.ground.boxes.begin(r.area)
	r.closed = 0
	for i, b := range r.scene.Boxes {
		r.ground.boxes.add(i, b)
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

// pastAll finds the lines past every box; while some are in motion only past
// those, and past the ones that are or were near them.
func (r *Router) pastAll() {
	all := len(r.lines) != len(r.scene.Boxes)
	r.lines = resized(r.lines, len(r.scene.Boxes))
	r.near = resized(r.near, len(r.scene.Boxes))
	for i, b := range r.scene.Boxes {
		near := all || r.moved[i]
		for _, k := range r.hand {
			if near = near || r.scene.Boxes[k].Grown(2*Clearance).Meets(b); near {
				break
			}
		}
		if near || r.near[i] {
			r.lines[i] = r.pastLines(i)
		}
		r.near[i] = near
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
// gap to the nearest box on that side when that is narrower.
func (r *Router) pastLines(i int) [4]int {
	b := r.scene.Boxes[i]
	gap := [4]int{2 * Clearance, 2 * Clearance, 2 * Clearance, 2 * Clearance}
	near := b.Grown(2 * Clearance)
	for _, j := range r.ground.boxes.near(near) {
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
	return [4]int{b.Y - gap[0]/2, b.Right() + gap[1]/2, b.Bottom() + gap[2]/2, b.X - gap[3]/2}
}

// one finds the cheapest way of link i and claims its glue points. A link that
// joins another one waits until that one's course is known.
func (r *Router) one(i int) {
	r.s.looked += linkStates
	switch l := &r.scene.Links[i]; {
	case l.Joins:
		r.raw[i].points = r.raw[i].points[:0]
		return
	case l.Straight:
		r.straight(i)
	default:
		r.s.find(r, i, &r.raw[i])
	}
	r.occupy(i)
}

func (r *Router) occupy(i int) {
	l, w := &r.scene.Links[i], &r.raw[i]
	if l.Joins {
		w.points = w.points[:0]
		return
	}
	if l.From != None {
		r.ports[l.From][w.fromSide].out++
	}
	if l.To != None {
		r.ports[l.To][w.toSide].in++
	}
	if l.Straight {
		return
	}
	for k := 1; k < len(w.points); k++ {
		r.lay(stretchOf(w.points[k-1], w.points[k], i))
	}
}

// straight joins the two nearest glue points of which the line cuts least.
func (r *Router) straight(i int) {
	l, w := &r.scene.Links[i], &r.raw[i]
	w.cuts, w.givenBack, w.plain = false, false, false
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
				w.fromSide, w.toSide, w.cuts = a.side, b.side, hits > 0
			}
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

// departure returns the price of leaving symbol box by side.
func (r *Router) departure(box int, side geometry.Side, trunk bool) int {
	p := r.ports[box][side]
	price := lean(side, r.scene.Down, false)
	if p.in > 0 {
		price += sharedPort
	}
	if trunk {
		return price
	}
	return price + int(p.out)*sharedPort
}

// arrival returns the price of reaching symbol box at side.
func (r *Router) arrival(box int, side geometry.Side, merge bool) int {
	p := r.ports[box][side]
	price := lean(side, r.scene.Down, true) + int(p.out)*sharedPort
	if merge {
		return price
	}
	return price + int(p.in)*mergedPort
}

// lean is a small preference for leaving with the flow and arriving with it. Of
// the two sides across the flow the right or lower one goes first where all
// else is equal.
func lean(side geometry.Side, down, arriving bool) int {
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

// finish makes courses of the ways.
func (r *Router) finish() {
	r.out = resized(r.out, len(r.raw))
	for i := range r.raw {
		c, w := &r.out[i], &r.raw[i]
		if !r.anew[i] {
			c.copy(&r.done[i])
			if d := r.shift(i); d != (geometry.Point{}) {
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
		c.FromSide, c.ToSide, c.Cuts, c.GivenBack, c.Plain = w.fromSide, w.toSide, w.cuts, w.givenBack, w.plain
		c.Labels = [3]geometry.Box{}
	}
	r.n.spread(r)
	r.join()
	r.l.place(r)
	r.c.find(r)
}

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
	for _, i := range r.order {
		if r.scene.Links[i].Joins && r.anew[i] {
			list = append(list, i)
		}
	}
	slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(depth(a), depth(b)) })
	for _, i := range list {
		c, w := &r.out[i], &r.raw[i]
		target := r.out[r.scene.Links[i].Onto].Points
		if len(target) < 2 { // a circle, which no valid map has
			target = geometry.Polyline{r.scene.Links[i].ToAt, r.scene.Links[i].ToAt}
		}
		r.s.onto = target
		if r.scene.Links[i].Straight {
			r.straightOnto(i, target)
		} else {
			r.s.find(r, i, w)
		}
		r.s.onto = nil
		c.Points = append(c.Points[:0], w.points...)
		c.FromSide, c.ToSide, c.Cuts, c.GivenBack, c.Plain = w.fromSide, w.toSide, w.cuts, w.givenBack, w.plain
		if len(c.Points) == 1 {
			c.Points = append(c.Points, c.Points[0])
		}
	}
}

// straightOnto joins the middle of a course by one straight line.
func (r *Router) straightOnto(i int, target geometry.Polyline) {
	l, w := &r.scene.Links[i], &r.raw[i]
	mid := target.Along(target.Length() / 2)
	best := int(^uint(0) >> 1)
	for _, a := range r.places(l.From, l.FromSide, l.FromAt) {
		if d := a.at.Manhattan(mid); d < best {
			best = d
			w.points = append(w.points[:0], a.at, mid)
			w.fromSide, w.cuts, w.givenBack, w.plain = a.side, false, false, false
		}
	}
}

// aroundLabels leads connectors round the labels of others that were placed by
// hand, and reports whether any had to change.
func (r *Router) aroundLabels() bool {
	boxes := len(r.scene.Boxes)
	var owners []int
	for i := range r.scene.Links {
		for k, l := range r.scene.Links[i].Labels {
			if l.Held && r.out[i].Labels[k].W > 0 {
				r.scene.Boxes = append(r.scene.Boxes[:len(r.scene.Boxes):len(r.scene.Boxes)], r.out[i].Labels[k].Grown(-hard+labelGap))
				owners = append(owners, i)
			}
		}
	}
	changed := false
	for _, i := range r.order {
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
				r.lines = resized(r.lines, len(r.scene.Boxes))
				r.layBoxes()
				for j := boxes; j < len(r.scene.Boxes); j++ {
					r.lines[j] = r.pastLines(j)
				}
				r.sortLines()
				changed = true
			}
			r.lift(i)
			r.one(i)
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

// resized returns a slice of length n that reuses the memory of s; elements
// that s held keep their contents.
func resized[T any](s []T, n int) []T {
	if n <= cap(s) {
		return s[:n]
	}
	return append(s[:cap(s)], make([]T, n-cap(s))...)
}
