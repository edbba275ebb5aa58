package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
	"plaintracer/core/spatial"
)

// enclosed looks round some terminals, at most so many nodes. It reports whether
// symbols enclose them, away from the others.
func (s *search) enclosed(inside, outside []terminal, most int) bool {
	nx, ny := int32(len(s.xs)), int32(len(s.ys))
	s.newGeneration(int(nx * ny))
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
		if s.right[node+1] < blocked {
			note(node + 1)
		}
		if s.right[node] < blocked {
			note(node - 1)
		}
		if s.down[x*ny+y+1] < blocked {
			note(node + nx)
		}
		if s.down[x*ny+y] < blocked {
			note(node - nx)
		}
	}
	return true
}

// refine asks for every line about an end that is enclosed as long as some are not there,
// past whatever symbol. It reports whether it has asked for more, and whether that end is
// enclosed on all the lines there are.
func (s *search) refine() (more, noWay bool) {
	for k, ends := range [...][2][]terminal{{s.goals, s.starts}, {s.starts, s.goals}} {
		if !s.enclosed(ends[0], ends[1], everywhere) {
			continue
		}
		nx := int32(len(s.xs))
		x0, y0, x1, y1 := nx, int32(len(s.ys)), int32(0), int32(0)
		for _, node := range s.nodes {
			x, y := node%nx, node/nx
			x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x), max(y1, y)
		}
		// On the lines next to those nothing of it lies, which has to be so on all of them.
		b := geometry.Between(geometry.Point{X: s.xs[x0-1], Y: s.ys[y0-1]},
			geometry.Point{X: s.xs[x1+1], Y: s.ys[y1+1]})
		if s.close[k].Holds(b) {
			return false, true
		}
		s.close[k] = s.close[k].Union(b.Grown(Clearance))
		return true, false
	}
	return false, false
}

// gather builds the grid inside the window and reports whether that was the
// whole scene.
func (s *search) gather(r *Router, window geometry.Box, gap int) bool {
	s.near = s.near[:0]
	s.marked.Begin(len(r.scene.Boxes))
	for _, j := range r.ground.boxes.Near(window.Grown(hard)) {
		if i := int(j); !r.scene.open(i) && window.Meets(r.scene.Boxes[i].Grown(hard)) {
			s.near = append(s.near, i)
			s.marked.Set(i)
		}
	}
	whole := len(s.near) == r.closed && !slices.ContainsFunc(s.near, func(i int) bool {
		l := &r.lines[i]
		return !window.Holds(geometry.Box{X: l[3], Y: l[0], W: l[1] - l[3], H: l[2] - l[0]})
	})
	s.xs = s.within(s.xs[:0], r.past.x, window.X, window.Right(), geometry.Point{X: 1})
	s.ys = s.within(s.ys[:0], r.past.y, window.Y, window.Bottom(), geometry.Point{Y: 1})
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			s.xs, s.ys = insertLine(s.xs, t.at.X, window.X, window.Right()), insertLine(s.ys, t.at.Y, window.Y,
				window.Bottom())
		}
	}
	for _, b := range s.bends {
		if b.Upright {
			s.xs = insertLine(s.xs, b.At, window.X, window.Right())
		} else {
			s.ys = insertLine(s.ys, b.At, window.Y, window.Bottom())
		}
	}
	s.thinned = false
	if !s.fine && !s.exhaustive(r) {
		s.coarsen()
	}
	if s.tooLarge = s.maxNodes > 0 && len(s.xs)*len(s.ys) > s.maxNodes; !s.tooLarge {
		s.weighEdges(r, gap)
	}
	return whole
}

// pastLine is a line past a side of a box. All of them are kept in order, so that
// those of a window need not be sorted for every search.
type pastLine struct {
	at, box int
	side    geometry.Side
}

// sortLines puts the lines past all boxes in order. From frame to frame of a drag
// few of them change places.
func (r *Router) sortLines() {
	p := &r.past
	if len(p.x) != 2*len(r.lines) {
		p.x, p.y = p.x[:0], p.y[:0]
		for i := range r.lines {
			p.x = append(p.x, pastLine{box: i, side: geometry.Left}, pastLine{box: i, side: geometry.Right})
			p.y = append(p.y, pastLine{box: i, side: geometry.Top}, pastLine{box: i, side: geometry.Bottom})
		}
	}
	for _, list := range [...][]pastLine{p.x, p.y} {
		for k := range list {
			list[k].at = r.lines[list[k].box][list[k].side]
		}
		moves := 8 * len(list)
		for k := 1; k < len(list) && moves > 0; k++ {
			l := list[k]
			j := k
			for ; j > 0 && list[j-1].at > l.at; j-- {
				list[j] = list[j-1]
				moves--
			}
			list[j] = l
		}
		if moves <= 0 {
			slices.SortFunc(list, func(a, b pastLine) int { return a.at - b.at })
		}
	}
}

// within adds the lines that lie within a range, each once: those past marked boxes, and
// all that pass through one of the boxes that are close. The axis has a one where the
// lines' coordinate is.
func (s *search) within(list []int, all []pastLine, lo, hi int, axis geometry.Point) []int {
	from, _ := slices.BinarySearchFunc(all, lo, func(l pastLine, at int) int { return l.at - at })
	close := s.close != [len(s.close)]geometry.Box{}
	for _, l := range all[from:] {
		if l.at > hi {
			break
		}
		if (s.marked.Has(l.box) || close && s.passes(l.at, axis)) && (len(list) == 0 || list[len(list)-1] != l.at) {
			list = append(list, l.at)
		}
	}
	return list
}

// passes reports whether a line passes through one of the boxes that are close.
func (s *search) passes(v int, axis geometry.Point) bool {
	return slices.ContainsFunc(s.close[:], func(b geometry.Box) bool {
		lo := b.X*axis.X + b.Y*axis.Y
		return b != (geometry.Box{}) && lo <= v && v <= lo+b.W*axis.X+b.H*axis.Y
	})
}

// insertLine adds one line to those in order, if it lies within a range.
func insertLine(list []int, at, lo, hi int) []int {
	if at < lo || at > hi {
		return list
	}
	if i := above(list, at-1); i == len(list) || list[i] != at {
		return slices.Insert(list, i, at)
	}
	return list
}

// blocked is the cost of a grid edge that nothing can travel.
const blocked = 1 << 28

// weighEdges measures the grid edges, blocks those that symbols lie on, and finds
// the nodes of the terminals.
func (s *search) weighEdges(r *Router, gap int) {
	nx, ny := len(s.xs), len(s.ys)
	s.right, s.down = edgeLengths(s.right, s.xs, ny), edgeLengths(s.down, s.ys, nx)
	s.across.Build(s.xs)
	s.downward.Build(s.ys)
	for _, i := range s.near {
		b := r.scene.Boxes[i].Grown(gap)
		// Nodes strictly between the edges, by place in the sorted lines.
		x0, x1 := s.across.Above(b.X), s.across.Below(b.Right())
		y0, y1 := s.downward.Above(b.Y), s.downward.Below(b.Bottom())
		blockEdges(s.right, nx, y0, y1, x0, x1)
		blockEdges(s.down, ny, x0, x1, y0, y1)
	}
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for k := range list {
			x, y := s.across.Above(list[k].at.X-1), s.downward.Above(list[k].at.Y-1)
			list[k].node = int32(y*nx + x)
		}
	}
}

// edgeLengths returns the edges of so many lines, each as long as the steps of at.
func edgeLengths(edges []int32, at []int, lines int) []int32 {
	n := len(at)
	edges = scratch.Resized(edges, n*lines+1)
	edges[0], edges[n*lines] = blocked, blocked
	for k := 1; k < n; k++ {
		edges[k] = int32(at[k] - at[k-1])
	}
	for l := 1; l < lines; l++ {
		copy(edges[l*n:][:n], edges[:n])
	}
	return edges
}

// blockEdges blocks the edges of some lines, each with n nodes, that lead to some of them
// and out again.
func blockEdges(edges []int32, n, line, last, from, to int) {
	to = min(to+1, n-1)
	for ; line <= last; line++ {
		for k := line*n + from; k <= line*n+to; k++ {
			edges[k] = blocked
		}
	}
}

// above returns the place of the first value greater than v.
func above(sorted []int, v int) int {
	from, to := 0, len(sorted)
	for from < to {
		if middle := int(uint(from+to) >> 1); sorted[middle] > v {
			to = middle
		} else {
			from = middle + 1
		}
	}
	return from
}

// spacings are how far apart lines have to be for each of them to be worth following
// when there are more than so many nodes. Where symbols are all slightly out of line, a
// large grid has many that all but coincide. Each step is a new choice among what the
// one before has left.
var spacings = [...]spacing{{1000, Separation / 2}, {1000, Separation * 3 / 4}, {2000, Separation},
	{4000, 2 * Separation}}

// inMotion is the spacing while things are in motion.
var motionSpacing = [...]spacing{{1000, Separation}}

type spacing struct{ nodes, apart int }

// coarsen leaves out lines of a large grid that lie close to others, but for those about
// an end that they would enclosed.
func (s *search) coarsen() {
	steps := spacings[:]
	if s.inMotion {
		steps = motionSpacing[:]
	}
	for _, step := range steps {
		n := len(s.xs) * len(s.ys)
		if n <= step.nodes {
			break
		}
		s.xs = s.thin(s.xs, geometry.Point{X: 1}, step.apart)
		s.ys = s.thin(s.ys, geometry.Point{Y: 1}, step.apart)
		s.thinned = s.thinned || len(s.xs)*len(s.ys) < n
	}
}

// thin leaves out lines that lie close to the one before, but for those of the
// terminals and of the bends, and for all that pass through one of the boxes that are
// close.
func (s *search) thin(lines []int, axis geometry.Point, apart int) []int {
	s.required = s.required[:0]
	for _, list := range [...][]terminal{s.starts, s.goals} {
		for _, t := range list {
			s.required = append(s.required, t.at.X*axis.X+t.at.Y*axis.Y)
		}
	}
	for _, b := range s.bends {
		s.required = append(s.required, b.At)
	}
	slices.Sort(s.required)
	close := s.close != [len(s.close)]geometry.Box{}
	out, last, must := lines[:0], -1<<60, s.required
	for _, v := range lines {
		for len(must) > 0 && must[0] < v {
			must = must[1:]
		}
		if v-last >= apart || len(must) > 0 && must[0] == v || close && s.passes(v, axis) {
			out, last = append(out, v), v
		}
	}
	return out
}

// priceEdges adds to what every grid edge costs what is paid there for crossing
// the ways found so far, or for lying on them.
func (s *search) priceEdges(r *Router, i int) {
	window := geometry.Between(geometry.Point{X: s.xs[0], Y: s.ys[0]},
		geometry.Point{X: s.xs[len(s.xs)-1], Y: s.ys[len(s.ys)-1]})
	for _, k := range r.ground.laid.Near(window) {
		p := &r.segments[k]
		if p.link == i || p.link == None {
			continue
		}
		// What begins at a node is kept with the next one.
		if p.upright {
			s.priceSegment(p, &s.across, &s.downward, s.right[1:], s.down[1:], r.scene.merge(i, p.link))
		} else {
			s.priceSegment(p, &s.downward, &s.across, s.down[1:], s.right[1:], r.scene.merge(i, p.link))
		}
	}
}

// priceSegment prices one segment. Seen along it, beside are the lines beside it and onward
// those across it; over are the edges of these, along the edges of those. A way along
// a line across crosses the segment on the edge that begins at it or before it. Lying
// on a segment costs nothing where the ways may merge.
func (s *search) priceSegment(p *laidSegment, beside, onward *spatial.Sorted, over, along []int32, merge bool) {
	cross, long := beside.At, onward.At
	if p.pos < cross[0] || p.pos > cross[len(cross)-1] || p.hi < long[0] || p.lo > long[len(long)-1] {
		return
	}
	c := beside.Above(p.pos) - 1
	if c+1 < len(cross) {
		for l := onward.Above(p.lo); l < len(long) && long[l] < p.hi; l++ {
			raise(&over[l*len(cross)+c], crossPrice)
		}
	}
	if cross[c] != p.pos || merge {
		return
	}
	for l := max(onward.Above(p.lo)-1, 0); l+1 < len(long) && long[l] < p.hi; l++ {
		if d := min(long[l+1], p.hi) - max(long[l], p.lo); d > 0 {
			raise(&along[c*len(long)+l], d/sharePrice)
			if s.onto != nil {
				raise(&along[c*len(long)+l], 8*d) // it will not be moved aside any more
			}
		}
	}
}

// raise adds a price to what a grid edge costs. However many ways lie on it, it does
// not become one that nothing can travel.
func raise(edge *int32, price int) {
	if *edge < blocked {
		*edge = int32(min(int(*edge)+price, blocked-1))
	}
}
