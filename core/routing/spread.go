package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
)

// nudger sets stretches that share a channel side by side.
type nudger struct {
	pieces  []piece
	cluster []int
	seen    []bool
	place   []int
}

// piece is one stretch of a course, seen so that it runs along the "long" axis
// at a coordinate on the "cross" axis.
type piece struct {
	course, at int // stretch from point at to at+1
	pos        int // cross coordinate
	lo, hi     int // extent along the long axis
	// least and most bound where it may go.
	least, most int
	want        int
	// turns say to which side the course goes on at the lo and the hi end:
	// -1, 1, or 0 where it ends.
	turnLo, turnHi int
	fixed          bool
}

// spread moves the inner stretches of all courses: upright ones first, then
// level ones, each kept clear of the symbols.
func (n *nudger) spread(s *Scene, courses []Course) {
	for _, upright := range [...]bool{true, false} {
		n.collect(s, courses, upright)
		n.separate()
		for _, p := range n.pieces {
			if p.fixed || p.want == p.pos {
				continue
			}
			pts := courses[p.course].Points
			if upright {
				pts[p.at].X, pts[p.at+1].X = p.want, p.want
			} else {
				pts[p.at].Y, pts[p.at+1].Y = p.want, p.want
			}
		}
	}
	for i := range courses {
		pts := courses[i].Points.Tidy()
		if len(pts) == 1 { // glue points that touch: a course of no length
			pts = append(pts, pts[0])
		}
		courses[i].Points = pts
	}
}

func split(p geometry.Point, upright bool) (cross, long int) {
	if upright {
		return p.X, p.Y
	}
	return p.Y, p.X
}

func (n *nudger) collect(s *Scene, courses []Course, upright bool) {
	n.pieces = n.pieces[:0]
	for i := range courses {
		pts := courses[i].Points
		for k := 0; k+1 < len(pts); k++ {
			if (pts[k].X == pts[k+1].X) != upright {
				continue
			}
			p := piece{course: i, at: k}
			var from, to int
			p.pos, from = split(pts[k], upright)
			_, to = split(pts[k+1], upright)
			p.lo, p.hi, p.want = min(from, to), max(from, to), p.pos
			p.least, p.most = p.pos, p.pos
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
			if p.fixed = k == 0 || k+2 == len(pts) || courses[i].Cuts; !p.fixed {
				n.bound(s, pts, &p, upright)
			}
			n.pieces = append(n.pieces, p)
		}
	}
}

// bound finds how far an inner stretch may move without meeting a symbol or
// folding back its neighbours, and where it would like to lie: in the middle
// when the course goes on to the other side, else where it is.
func (n *nudger) bound(s *Scene, pts geometry.Polyline, p *piece, upright bool) {
	const far = 1 << 40
	least, most := -far, far
	for _, b := range s.Boxes {
		g := b.Grown(hard)
		c0, c1, l0, l1 := g.X, g.Right(), g.Y, g.Bottom()
		if !upright {
			c0, c1, l0, l1 = l0, l1, c0, c1
		}
		if l0 >= p.hi || l1 <= p.lo {
			continue
		}
		if c1 <= p.pos {
			least = max(least, c1)
		} else if c0 >= p.pos {
			most = min(most, c0)
		} else {
			return // in a gap narrower than the clearance: leave it
		}
	}
	a, _ := split(pts[p.at-1], upright)
	b, _ := split(pts[p.at+2], upright)
	for _, next := range [...]struct {
		cross int
		stub  bool
	}{{a, p.at == 1}, {b, p.at+3 == len(pts)}} {
		keep := 0
		if next.stub {
			keep = Separation // the end keeps a stretch of its own
		}
		if next.cross < p.pos {
			least = max(least, min(next.cross+keep, p.pos))
		} else {
			most = min(most, max(next.cross-keep, p.pos))
		}
	}
	p.least, p.most = least, most
	if (a < p.pos) != (b < p.pos) {
		lo, hi := max(least, min(a, b)), min(most, max(a, b))
		p.want = (lo + hi) / 2
	}
}

// meet reports whether two stretches would touch if they lay on one line.
func (p *piece) meet(q *piece) bool {
	return p.course != q.course && p.lo < q.hi && q.lo < p.hi
}

// separate finds the groups of stretches that would lie on or beside each
// other too closely, and sets each group side by side.
func (n *nudger) separate() {
	slices.SortFunc(n.pieces, func(a, b piece) int {
		return cmp.Or(cmp.Compare(a.want, b.want), cmp.Compare(a.lo, b.lo), cmp.Compare(a.hi, b.hi), cmp.Compare(a.course, b.course), cmp.Compare(a.at, b.at))
	})
	n.seen = resized(n.seen, len(n.pieces))
	clear(n.seen)
	for i := range n.pieces {
		if n.seen[i] {
			continue
		}
		n.seen[i] = true
		n.cluster = append(n.cluster[:0], i)
		loose := !n.pieces[i].fixed
		for k := 0; k < len(n.cluster); k++ {
			p := &n.pieces[n.cluster[k]]
			for j := n.cluster[k] + 1; j < len(n.pieces) && n.pieces[j].want-p.want < Separation; j++ {
				loose = n.join(p, j) || loose
			}
			for j := n.cluster[k] - 1; j >= 0 && p.want-n.pieces[j].want < Separation; j-- {
				loose = n.join(p, j) || loose
			}
		}
		if loose && len(n.cluster) > 1 {
			n.sideBySide()
		}
	}
}

func (n *nudger) join(p *piece, j int) (loose bool) {
	q := &n.pieces[j]
	if n.seen[j] || !p.meet(q) {
		return false
	}
	n.seen[j] = true
	n.cluster = append(n.cluster, j)
	return !q.fixed
}

// sideBySide orders the stretches of the cluster so that they cross as little
// as they can, and gives them places a separation apart while there is room.
func (n *nudger) sideBySide() {
	c := n.cluster
	slices.Sort(c)
	for i := 1; i < len(c); i++ {
		for k := i; k > 0 && n.after(&n.pieces[c[k-1]], &n.pieces[c[k]]); k-- {
			c[k-1], c[k] = c[k], c[k-1]
		}
	}
	sum, least, most := 0, n.pieces[c[0]].least, n.pieces[c[0]].most
	for _, i := range c {
		p := &n.pieces[i]
		sum += p.want
		least, most = min(least, p.least), max(most, p.most)
	}
	gap := Separation
	if room := (most - least) / (len(c) + 1); room < gap {
		gap = max(room, 0)
	}
	n.place = resized(n.place, len(c))
	at := sum/len(c) - gap*(len(c)-1)/2
	for k, i := range c {
		p := &n.pieces[i]
		n.place[k] = geometry.Clamp(max(at, p.least), p.least, p.most)
		at = n.place[k] + gap
	}
	for k := len(c) - 2; k >= 0; k-- {
		p := &n.pieces[c[k]]
		if limit := n.place[k+1] - gap; n.place[k] > limit {
			n.place[k] = geometry.Clamp(limit, p.least, p.most)
		}
	}
	for k, i := range c {
		if p := &n.pieces[i]; !p.fixed {
			p.want = n.place[k]
		}
	}
}

// after reports whether p has to lie beyond q: the one that turns off first
// lies on the side it turns to.
func (n *nudger) after(p, q *piece) bool {
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
		vote += cmp.Compare(p.turnLo, q.turnLo)
	}
	switch {
	case p.hi < q.hi:
		vote += p.turnHi
	case p.hi > q.hi:
		vote -= q.turnHi
	default:
		vote += cmp.Compare(p.turnHi, q.turnHi)
	}
	if vote != 0 {
		return vote > 0
	}
	return p.want > q.want
}
