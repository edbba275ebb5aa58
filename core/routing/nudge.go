package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
	"plaintracer/core/spatial"
)

// nudger sets segments that share a channel side by side, and spreads the
// ends that share the side of a symbol. It solves, for the segments of one
// orientation at a time, the placement problem of Dwyer, Marriott and Stuckey,
// Fast Node Overlap Removal (2006): every segment as near as can be to where
// it wants to lie, those that would touch a separation apart, in a given
// order, none beyond its bounds.
type nudger struct {
	segments []nudgeSegment
	gap      []int // the separation an edge asks for, by its place in order
	packer   packer
	// beside holds, one after the other, the edges that could come too close
	// to each segment; from says where those of a segment begin.
	beside, from []int
	pairs        [][2]int
	// near tells where the edges lie that may move.
	near spatial.Index
	// reach is the farthest any segment up to a place in order may go.
	reach []int
}

// nudgeSegment is one segment of a course, seen so that it runs along the "long" axis
// at a coordinate on the "cross" axis.
type nudgeSegment struct {
	course, at int // segment from point at to at+1; border
	rank       int // the course's place in the common order
	pos        int // cross coordinate
	lo, hi     int // extent along the long axis
	// least and most bound where it may go.
	least, most int
	// before and after are how far symbols let it go.
	before, after int
	want          int
	// weight says how much it costs to leave the place it wants.
	weight int
	// turns say to which side the course goes on at the lo and the hi end:
	// -1, 1, or 0 where it ends.
	turnLo, turnHi int
	fixed          bool
	// trunk is the symbol whose exits share this segment, from 1; zero for none.
	trunk int
	// entry is the side of a symbol into which this segment leads with others that may lie
	// on it, from 1, zero for none; from is where its course comes from.
	entry, from int
	off         int // from the place of its block
	// member is its place among the members of its block.
	member int
}

// mostNudge is how far a segment with nothing in its way may be moved.
const mostNudge = 200 * px

// mergeAt is how far before a symbol the lines that lead into one side run into one.
const mergeAt = 24 * px

// border is the course of a segment that is a border.
const border = -1

// slack is how close the ends of two segments on one line may come.
const slack = 4 * px

// nudge moves the segments of all courses: upright ones first, then level
// ones, each kept clear of the symbols.
func (n *nudger) nudge(r *Router) {
	for _, upright := range [...]bool{true, false} {
		n.collect(r, upright)
		n.solve(r)
		n.apply(r, upright)
	}
	for i := range r.out {
		pts := r.out[i].Points
		if len(pts) == 0 || !r.work.anew[i] {
			continue
		}
		pts = pts.Tidy()
		if len(pts) == 1 { // glue points that touch: a course of no length
			pts = append(pts, pts[0])
		}
		r.out[i].Points = pts
	}
}

func split(p geometry.Point, upright bool) (cross, long int) {
	if upright {
		return p.X, p.Y
	}
	return p.Y, p.X
}

func (n *nudger) collect(r *Router, upright bool) {
	n.segments = n.segments[:0]
	n.gather(r, upright, true)
	n.near.Begin(r.area)
	for k := range n.segments {
		p := &n.segments[k]
		reach := geometry.Box{X: p.pos - mostNudge - Spacing, Y: p.lo - slack, W: 2 * (mostNudge + Spacing),
			H: p.hi - p.lo + 2*slack}
		n.near.Add(k, reach.Turned(!upright))
	}
	n.gather(r, upright, false)
	for _, b := range r.scene.Borders {
		p := nudgeSegment{course: border, pos: b.At, lo: b.Lo, hi: b.Hi, weight: 1}
		if p.pin(); b.Upright == upright && n.besides(&p, upright) {
			n.segments = append(n.segments, p)
		}
	}
}

// besides reports whether a segment lies near one that may move.
func (n *nudger) besides(p *nudgeSegment, upright bool) bool {
	for _, k := range n.near.Near(geometry.Box{X: p.pos, Y: p.lo, H: p.hi - p.lo}.Turned(!upright)) {
		q := &n.segments[k]
		if geometry.Abs(q.pos-p.pos) <= mostNudge+Spacing && q.lo < p.hi+slack && p.lo < q.hi+slack {
			return true
		}
	}
	return false
}

// gather collects the segments of the links that are being routed, or those of
// the others: these stay where they are, and matter only near one of the first.
func (n *nudger) gather(r *Router, upright, anew bool) {
	for i := range r.out {
		l := &r.scene.Links[i]
		if l.Straight || r.work.anew[i] != anew {
			continue
		}
		pts := r.out[i].Points
		for k := 0; k+1 < len(pts); k++ {
			if (pts[k].X == pts[k+1].X) != upright || pts[k] == pts[k+1] {
				continue
			}
			p := nudgeSegment{course: i, at: k, rank: r.work.rank[i], weight: 1}
			var from, to int
			p.pos, from = split(pts[k], upright)
			_, to = split(pts[k+1], upright)
			p.lo, p.hi, p.want = min(from, to), max(from, to), p.pos
			if !anew && !n.besides(&p, upright) {
				continue
			}
			before, after := 0, 0
			if k > 0 {
				c, _ := split(pts[k-1], upright)
				before = cmp.Compare(c, p.pos)
			}
			if k+2 < len(pts) {
				c, _ := split(pts[k+2], upright)
				after = cmp.Compare(c, p.pos)
			}
			p.turnLo, p.turnHi = before, after
			if from > to {
				p.turnLo, p.turnHi = after, before
			}
			if l.Fork && k == 1 { // the line across, on which they part
				p.trunk = l.From + 1
			}
			if l.Merge && l.To != None && r.ports[l.To][r.out[i].ToSide].in > 1 && k+3 >= len(pts) {
				p.entry, p.from = 4*l.To+int(r.out[i].ToSide)+1, l.From
			}
			if anew {
				n.bound(r, &p, upright)
			} else {
				p.pin()
			}
			n.segments = append(n.segments, p)
		}
	}
}

// bound finds how far a segment may move without meeting a symbol, folding
// back its neighbours or leaving the side it is glued to, and where it would
// like to lie: in the middle when the course goes on to the other side, else
// where it is.
func (n *nudger) bound(r *Router, p *nudgeSegment, upright bool) {
	const far = 1 << 40
	s, l, c := &r.scene, &r.scene.Links[p.course], &r.out[p.course]
	pts := c.Points
	p.least, p.most = -far, far
	p.before, p.after = -far, far
	first, last := p.at == 0, p.at+2 == len(pts)
	if first {
		n.tether(s, p, l.From, l.FromSide, c.FromSide)
		if d := l.departs(); d == shares || d == forks {
			p.trunk = l.From + 1
		}
	}
	if last {
		n.tether(s, p, l.To, l.ToSide, c.ToSide)
	}
	held := c.Obstructed
	for _, b := range l.Bends {
		held = held || !c.BendsDropped && b.Upright == upright && b.At == p.pos
	}
	p.least, p.most = max(p.least, p.pos-mostNudge), min(p.most, p.pos+mostNudge)
	if held || p.least >= p.most {
		p.pin()
		return
	}
	// Nothing farther than it may go bounds it.
	lane := geometry.Box{X: p.least, Y: p.lo, W: p.most - p.least, H: p.hi - p.lo}.Turned(!upright)
	for _, j := range r.ground.boxes.Near(lane.Grown(hard)) {
		i := int(j)
		if s.open(i) || first && i == l.From || last && i == l.To {
			continue
		}
		g := s.Boxes[i].Grown(hard)
		c0, c1, l0, l1 := g.X, g.Right(), g.Y, g.Bottom()
		if !upright {
			c0, c1, l0, l1 = l0, l1, c0, c1
		}
		if l0 >= p.hi || l1 <= p.lo {
			continue
		}
		switch {
		case c1 <= p.pos:
			p.least, p.before = max(p.least, c1), max(p.before, c1)
		case c0 >= p.pos:
			p.most, p.after = min(p.most, c0), min(p.after, c0)
		default: // in a gap narrower than the clearance: leave it
			p.pin()
			return
		}
	}
	sides := 0
	var around [2]int
	for k, end := range [...]bool{first, last} {
		if end {
			continue
		}
		at, stub := p.at-1, p.at == 1
		if k == 1 {
			at, stub = p.at+2, p.at+3 == len(pts)
		}
		next, _ := split(pts[at], upright)
		keep := 0
		if stub {
			keep = Separation // the end keeps a segment of its own
		}
		if next < p.pos {
			p.least = max(p.least, min(next+keep, p.pos))
		} else {
			p.most = min(p.most, max(next-keep, p.pos))
		}
		around[k] = next
		sides++
	}
	if sides == 2 && (around[0] < p.pos) != (around[1] < p.pos) {
		lo, hi := max(p.least, min(around[0], around[1])), min(p.most, max(around[0], around[1]))
		p.want = (lo + hi) / 2
	}
	if p.entry != 0 && !first && p.at+3 == len(pts) { // all turn in at the same distance
		port, _ := split(pts[len(pts)-1], upright)
		ahead, _ := split(c.ToSide.Step(), upright)
		p.want = geometry.Clamp(port+mergeAt*ahead, p.least, p.most)
	}
}

// tether keeps an end on the side of its symbol.
func (n *nudger) tether(s *Scene, p *nudgeSegment, box, wanted int, side geometry.Side) {
	reach := 0
	if box != None && wanted == Any && s.Reach != nil {
		reach = s.Reach[box][side]
	}
	p.least, p.most = max(p.least, p.pos-reach), min(p.most, p.pos+reach)
	p.weight *= 8
}

func (p *nudgeSegment) pin() {
	p.least, p.most, p.want, p.fixed = p.pos, p.pos, p.pos, true
	p.before, p.after = p.pos-snug, p.pos+snug
}

// apart returns how far apart two segments have to lie: zero when they may
// lie on each other.
func (p *nudgeSegment) apart(q *nudgeSegment) int {
	if p.course == q.course || p.fixed && q.fixed || p.trunk != 0 && p.trunk == q.trunk ||
		p.entry != 0 && p.entry == q.entry && p.from != q.from {
		return 0
	}
	if p.lo >= q.hi+slack || q.lo >= p.hi+slack {
		return 0
	}
	if p.course == border || q.course == border {
		return Verge
	}
	return Spacing
}

// solve finds a place for every segment.
func (n *nudger) solve(r *Router) {
	count := len(n.segments)
	slices.SortFunc(n.segments, func(a, b nudgeSegment) int {
		if a.pos != b.pos {
			return a.pos - b.pos
		}
		return cmp.Or(cmp.Compare(a.lo, b.lo), cmp.Compare(a.hi, b.hi), cmp.Compare(a.rank, b.rank),
			cmp.Compare(a.at, b.at))
	})
	// Those on one line are put into the order in which they cross least.
	for from := 0; from < count; {
		to := from + 1
		for to < count && n.segments[to].pos == n.segments[from].pos {
			to++
		}
		line := n.segments[from:to]
		for i := 1; i < len(line); i++ {
			for k := i; k > 0 && n.after(r, &line[k-1], &line[k]); k-- {
				line[k-1], line[k] = line[k], line[k-1]
			}
		}
		from = to
	}
	n.neighbours()
	n.gap = scratch.Resized(n.gap, count)
	for i := range n.gap {
		n.gap[i] = Spacing
		if n.segments[i].course == border {
			n.gap[i] = Verge
		}
	}
	// Where there is no room for the full spacing, the edges concerned
	// take less.
	for range 8 {
		if n.pack() {
			break
		}
	}
	for i := range n.segments {
		p := &n.segments[i]
		p.want = geometry.Clamp(n.packer.blocks[n.packer.of[i]].at+p.off, p.least, p.most)
	}
}

// neighbours finds which segments could come too close to which: those side by
// side whose bounds let them.
func (n *nudger) neighbours() {
	count := len(n.segments)
	n.reach, n.from = scratch.Resized(n.reach, count+1), scratch.Resized(n.from, count+1)
	for i := range n.segments {
		n.reach[i+1] = n.segments[i].most
		if i > 0 {
			n.reach[i+1] = max(n.reach[i+1], n.reach[i])
		}
	}
	clear(n.from)
	n.pairs = n.pairs[:0]
	for i := range n.segments {
		p := &n.segments[i]
		for j := i - 1; j >= 0 && n.reach[j+1]+Spacing > p.least; j-- {
			if q := &n.segments[j]; q.most+Spacing > p.least && p.apart(q) > 0 {
				n.pairs = append(n.pairs, [2]int{i, j})
				n.from[i]++
				n.from[j]++
			}
		}
	}
	sum := 0
	for i, k := range n.from {
		sum += k
		n.from[i] = sum // the end of the segment's list; filling it leaves its beginning
	}
	n.beside = scratch.Resized(n.beside, sum)
	for _, p := range n.pairs {
		for k := range p {
			n.from[p[k]]--
			n.beside[n.from[p[k]]] = p[1-k]
		}
	}
}

func (n *nudger) apply(r *Router, upright bool) {
	for i := range n.segments {
		p := &n.segments[i]
		if p.fixed || p.want == p.pos {
			continue
		}
		c, l := &r.out[p.course], &r.scene.Links[p.course]
		pts := c.Points
		for _, k := range [...]int{p.at, p.at + 1} {
			if upright {
				pts[k].X = p.want
			} else {
				pts[k].Y = p.want
			}
		}
		if r.scene.Meet == nil {
			continue
		}
		if p.at == 0 {
			r.land(&pts[0], l.From, c.FromSide)
		}
		if p.at+2 == len(pts) {
			r.land(&pts[len(pts)-1], l.To, c.ToSide)
		}
	}
}

// land puts an end that has slid along its side back on the outline.
func (r *Router) land(p *geometry.Point, box int, side geometry.Side) {
	if box == None {
		return
	}
	if side.Upright() {
		p.Y = r.scene.Meet(box, side, p.X)
	} else {
		p.X = r.scene.Meet(box, side, p.Y)
	}
}

// after reports whether p has to lie beyond q: the one that turns off first
// lies on the side it turns to. Where both turn off alike, what decides is where
// their ways part further on.
func (n *nudger) after(r *Router, p, q *nudgeSegment) bool {
	if p.fixed && q.fixed {
		return p.want > q.want
	}
	vote := 0
	switch {
	case p.lo > q.lo:
		vote += p.turnLo
	case p.lo < q.lo:
		vote -= q.turnLo
	default:
		if vote += cmp.Compare(p.turnLo, q.turnLo); p.turnLo == q.turnLo && p.turnLo != 0 {
			vote += r.parting(p, q, false)
		}
	}
	switch {
	case p.hi < q.hi:
		vote += p.turnHi
	case p.hi > q.hi:
		vote -= q.turnHi
	default:
		if vote += cmp.Compare(p.turnHi, q.turnHi); p.turnHi == q.turnHi && p.turnHi != 0 {
			vote += r.parting(p, q, true)
		}
	}
	if vote != 0 {
		return vote > 0
	}
	return p.want > q.want
}

// parting follows the ways of two segments that lie on each other beyond their
// common end, the hi or the lo one, to where they part. It returns 1 where p has to
// lie beyond q so that they do not cross, -1 where before, and 0 where they end
// together.
func (r *Router) parting(p, q *nudgeSegment, hi bool) int {
	if !r.work.anew[p.course] || !r.work.anew[q.course] {
		return 0
	}
	a, b := r.routes[p.course].points, r.routes[q.course].points
	if p.at+1 >= len(a) || q.at+1 >= len(b) {
		return 0
	}
	i, di := onwardFrom(a, p.at, hi)
	j, dj := onwardFrom(b, q.at, hi)
	if a[i] != b[j] {
		return 0
	}
	// Which lies to the left, seen along their travel, is the same all the way.
	first := a[i].Sub(a[i-di])
	left := 0
	for left == 0 {
		if i+di < 0 || i+di >= len(a) || j+dj < 0 || j+dj >= len(b) {
			return 0
		}
		before, u, v := a[i].Sub(a[i-di]), a[i+di].Sub(a[i]), b[j+dj].Sub(b[j])
		switch s, t := turnOf(before, u), turnOf(before, v); {
		case s != t: // the one that turns more to the left lies there
			left = cmp.Compare(s, t)
		case a[i+di] == b[j+dj]:
			i, j = i+di, j+dj
		default: // the shorter one turns off first, or ends
			short, way, d, k := u, a, di, i
			sign := 1
			if v.Manhattan(geometry.Point{}) < u.Manhattan(geometry.Point{}) {
				short, way, d, k, sign = v, b, dj, j, -1
			}
			if k+2*d < 0 || k+2*d >= len(way) {
				return 0
			}
			if left = sign * turnOf(short, way[k+2*d].Sub(way[k+d])); left == 0 {
				return 0
			}
		}
	}
	// To the left of going right lies above, of going down to the right.
	if first.X > 0 || first.Y < 0 {
		left = -left
	}
	return left
}

// onwardFrom returns the point of a way at the hi or lo end of a segment, and the
// step that leads on from it.
func onwardFrom(way geometry.Polyline, at int, hi bool) (i, step int) {
	p, q := way[at], way[at+1]
	if (p.X+p.Y < q.X+q.Y) == hi {
		return at + 1, 1
	}
	return at, -1
}

// turnOf returns 1 where v turns to the left of u, as seen on the sheet, -1 to the
// right, 0 where it goes straight on or back.
func turnOf(u, v geometry.Point) int { return cmp.Compare(u.Y*v.X-u.X*v.Y, 0) }
