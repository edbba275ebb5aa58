package routing

import (
	"slices"

	"plaintracer/core/geometry"
)

// regions tell which places symbols enclosed: those from which no way leads out
// because symbols that overlap, or stand too close for a way between them, surround
// them. Symbols that hang together are looked at cluster by cluster.
type regions struct {
	clusters []cluster
	// sides are the regions in front of the sides of every box.
	sides [][4]int
}

// cluster is the ground that symbols which hang together take, cut into cells along
// all their edges.
type cluster struct {
	box    geometry.Box
	xs, ys []int
	// cells say to which hole a cell belongs; zero for outside, taken where a symbol
	// stands.
	cells []int32
}

const (
	taken = -1
	fresh = -2
	// enclosing is the least number of symbols that can enclose a place, and mostJoined
	// the number beyond which it would take too long to find out.
	enclosing  = 4
	mostJoined = 150
)

// build finds the regions of a scene of which every symbol keeps ways so far away,
// where none were known.
func (g *regions) build(r *Router, gap int) {
	holes := int32(0)
	for _, list := range r.joined(gap) {
		c := newCluster(list)
		was := holes
		if holes = c.flood(holes); holes > was {
			g.clusters = append(g.clusters, c)
		}
	}
	if len(g.clusters) == 0 {
		return
	}
	g.sides = make([][4]int, len(r.scene.Boxes))
	for i := range g.sides {
		for side := range g.sides[i] {
			g.sides[i][side] = g.at(r.facing(i, geometry.Side(side)))
		}
	}
}

// joined returns the ground of the symbols that hang together, in lists long enough
// to enclose anything.
func (r *Router) joined(gap int) (lists [][]geometry.Box) {
	s := &r.scene
	of := make([]int, len(s.Boxes)) // the cluster of each, by its first member
	var members []int
	for first := range s.Boxes {
		if of[first] != 0 || s.open(first) {
			continue
		}
		of[first] = first + 1
		members = append(members[:0], first)
		for k := 0; k < len(members); k++ {
			b := s.Boxes[members[k]].Grown(gap)
			for _, j := range r.ground.boxes.Near(b.Grown(gap)) {
				if o := s.Boxes[j].Grown(gap); of[j] == 0 && !s.open(int(j)) && o.Meets(b) {
					of[j] = first + 1
					members = append(members, int(j))
				}
			}
		}
		if len(members) < enclosing || len(members) > mostJoined {
			continue
		}
		var list []geometry.Box
		for _, k := range members {
			list = append(list, s.Boxes[k].Grown(gap))
		}
		lists = append(lists, list)
	}
	return lists
}

// newCluster cuts the ground of some boxes into cells. A box takes all that lies
// strictly inside it.
func newCluster(list []geometry.Box) cluster {
	var c cluster
	for _, b := range list {
		c.box = c.box.Union(b)
		c.xs, c.ys = append(c.xs, b.X+1, b.Right()), append(c.ys, b.Y+1, b.Bottom())
	}
	slices.Sort(c.xs)
	slices.Sort(c.ys)
	c.xs, c.ys = slices.Compact(c.xs), slices.Compact(c.ys)
	c.cells = make([]int32, (len(c.xs)+1)*(len(c.ys)+1))
	for i := range c.cells {
		c.cells[i] = fresh
	}
	for _, b := range list {
		for y := above(c.ys, b.Y+1); y < above(c.ys, b.Bottom()); y++ {
			for x := above(c.xs, b.X+1); x < above(c.xs, b.Right()); x++ {
				c.cells[y*(len(c.xs)+1)+x] = taken
			}
		}
	}
	return c
}

// flood numbers the holes on from those there are, and returns how many there are
// then.
func (c *cluster) flood(holes int32) int32 {
	nx := len(c.xs) + 1
	hole := int32(0) // the first cell lies outside
	var list []int
	for first := range c.cells {
		if c.cells[first] != fresh {
			continue
		}
		c.cells[first] = hole
		list = append(list[:0], first)
		for len(list) > 0 {
			k := list[len(list)-1]
			list = list[:len(list)-1]
			x := k % nx
			for _, next := range [...]struct {
				cell int
				in   bool
			}{{k - 1, x > 0}, {k + 1, x < nx-1}, {k - nx, k >= nx}, {k + nx, k+nx < len(c.cells)}} {
				if next.in && c.cells[next.cell] == fresh {
					c.cells[next.cell] = hole
					list = append(list, next.cell)
				}
			}
		}
		holes++
		hole = holes
	}
	return holes - 1 // the one begun last has no cells
}

// at returns the region of a place; zero for what is not enclosed.
func (g *regions) at(p geometry.Point) int {
	region := 0
	for k := range g.clusters {
		c := &g.clusters[k]
		if !c.box.Contains(p) {
			continue
		}
		switch hole := c.cells[above(c.ys, p.Y)*(len(c.xs)+1)+above(c.xs, p.X)]; {
		case hole == taken:
			return taken
		case hole > 0: // a hole may lie in another
			region = region<<20 + int(hole)
		}
	}
	return region
}

// facing returns the place on the line straight in front of the middle of a side.
func (r *Router) facing(box int, side geometry.Side) geometry.Point {
	at := r.scene.Glue[box][side]
	if side.Upright() {
		at.Y = r.lines[box][side]
	} else {
		at.X = r.lines[box][side]
	}
	return at
}

// parted returns which ends of a link are of no use, since no way leads from there to
// any of the other: the sides of that it comes from in the lower four bits, those of
// that it goes to in the upper four.
func (g *regions) parted(l *Link) (sides uint8) {
	if len(g.clusters) == 0 {
		return 0
	}
	from, to := g.of(l.From, l.FromSide, l.FromAt), g.of(l.To, l.ToSide, l.ToAt)
	for k := range from {
		if from[k] != taken && !slices.Contains(to[:], from[k]) {
			sides |= 1 << k
		}
		if to[k] != taken && !slices.Contains(from[:], to[k]) {
			sides |= 1 << (4 + k)
		}
	}
	return sides
}

// of returns the regions in which an end may begin, taken for sides it may not.
func (g *regions) of(box, side int, at geometry.Point) (out [4]int) {
	if box == None {
		k := g.at(at)
		return [4]int{k, k, k, k}
	}
	out = g.sides[box]
	for k := range out {
		if side != Any && side != k {
			out[k] = taken
		}
	}
	return out
}

// part marks the terminals that are of no use as if symbols covered them, and reports
// whether any others are left.
func (s *search) part(sides uint8) bool {
	free := false
	for k, list := range [...][]terminal{s.starts, s.goals} {
		free = false
		for i := range list {
			t := &list[i]
			t.covered = t.covered || sides>>(4*k+int(t.side))&1 != 0
			free = free || !t.covered
		}
		if !free {
			return false
		}
	}
	return free
}
