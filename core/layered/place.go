package layered

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
)

// Distances across the flow and along it.
const (
	// lineApart is the distance across the flow that the line of an edge keeps
	// from nodes, lineToLine from other lines.
	lineApart  = 20 * px
	lineToLine = 12 * px
	// pass is the distance along the flow that lines keep from nodes, and track
	// from each other.
	pass  = 16 * px
	track = 8 * px
)

// place finds the places of all nodes.
func (n *net) place(d *Drawing) {
	across := n.across(d)
	d.Across = across[:len(n.g.Nodes)]
	n.lines(d, across)
	n.along(d, across)
}

// across finds where every vertex lies across the flow. What can be in line is put
// into blocks that share a place: the main path first, then long lines, then
// what goes on (after Brandes and Köpf, Fast and Simple Horizontal Coordinate
// Assignment, 2001, whose blocks these are; they are chosen by weight instead of
// by side). Blocks stand as near to the first side as those before them let them,
// then as near to what they are tied to as the room allows. Nodes stand in rows:
// at multiples of half the distance of two of them.
func (n *net) across(d *Drawing) []int {
	block := n.blocks()
	s := n.stack(block)
	order := s.order()
	at := make([]int, len(s.solid))
	for _, b := range order {
		y := 0
		for _, o := range s.before[b] {
			y = max(y, at[o.block]+o.apart)
		}
		if s.solid[b] { // to the next row
			row := s.step[s.band[b]]
			y = -geometry.FloorDiv(-y, row) * row
		}
		at[b] = y
	}
	last := make([]int, len(s.step))
	for b := range at {
		last[s.band[b]] = max(last[s.band[b]], at[b])
	}
	n.pullToNeighbours(order, s.members, func(b, want int) { s.move(at, b, want, last[s.band[b]]) }, at, block)
	return n.followBands(d, at, block)
}

// bandOf is the band of a node.
func (n *net) bandOf(v int) int { return max(n.band[v], 0) }

// near is how far a node reaches to the side on which the rows begin.
func (n *net) near(v int) int {
	if n.real(v) {
		return n.g.Nodes[v].Near
	}
	return 0
}

// far is how far it reaches to the other one.
func (n *net) far(v int) int {
	if n.real(v) {
		return n.g.Nodes[v].Far
	}
	return 0
}

// stack is how blocks lie above each other.
type stack struct {
	// step is the width of a row in each band.
	step []int
	// solid says of each block whether it holds a node, band in which it lies, members what is in it.
	solid   []bool
	band    []int
	members [][]int
	// before and after are those that lie directly before and after each block in a layer, and how far apart.
	before, after [][]bound
}

type bound struct{ block, apart int }

// stack finds how the blocks lie above each other; block is that of each node.
func (n *net) stack(block []int) *stack {
	bands := max(n.g.Bands, 1)
	// In each band, the width of a row is that of its widest node, but for what
	// one has on one side only.
	wide := make([]int, bands)
	for v, nd := range n.g.Nodes {
		wide[n.bandOf(v)] = max(wide[n.bandOf(v)], 2*min(nd.Near, nd.Far))
	}
	s := &stack{step: make([]int, bands)}
	for b := range s.step {
		s.step[b] = max((wide[b]+n.g.Apart+1)/2, px)
	}
	blocks := 0
	for _, b := range block {
		blocks = max(blocks, b+1)
	}
	s.solid, s.band, s.members = make([]bool, blocks), make([]int, blocks), make([][]int, blocks)
	for v, b := range block {
		s.solid[b] = s.solid[b] || n.real(v)
		s.band[b] = n.bandOf(v)
		s.members[b] = append(s.members[b], v)
	}
	s.before, s.after = make([][]bound, blocks), make([][]bound, blocks)
	for _, layer := range n.order {
		for i := 1; i < len(layer); i++ {
			a, b := layer[i-1], layer[i]
			if n.bandOf(a) != n.bandOf(b) {
				continue
			}
			apart := n.far(a) + n.near(b)
			switch {
			case n.real(a) && n.real(b):
				apart += n.g.Apart
			case n.real(a) || n.real(b):
				apart += lineApart
			default:
				apart += lineToLine
			}
			s.before[block[b]] = append(s.before[block[b]], bound{block[a], apart})
			s.after[block[a]] = append(s.after[block[a]], bound{block[b], apart})
		}
	}
	return s
}

// order puts the blocks in order: those that stand first in all their layers come first.
func (s *stack) order() []int {
	order := make([]int, 0, len(s.solid))
	left := make([]int, len(s.solid))
	for b := range left {
		if left[b] = len(s.before[b]); left[b] == 0 {
			order = append(order, b)
		}
	}
	for i := 0; i < len(order); i++ {
		for _, o := range s.after[order[i]] {
			if left[o.block]--; left[o.block] == 0 {
				order = append(order, o.block)
			}
		}
	}
	return order
}

// move moves a block to where it is wanted, or as near as those beside it and the end of its band, last, let it.
func (s *stack) move(at []int, b, want, last int) {
	lo, hi := 0, last
	for _, o := range s.before[b] {
		lo = max(lo, at[o.block]+o.apart)
	}
	for _, o := range s.after[b] {
		hi = min(hi, at[o.block]-o.apart)
	}
	y := geometry.Clamp(want, lo, max(hi, lo))
	if s.solid[b] {
		row := s.step[s.band[b]]
		if y = geometry.Snap(y, row); y > hi {
			y -= row
		} else if y < lo {
			y += row
		}
		if y < lo || y > hi {
			return
		}
	}
	at[b] = y
}

// followBands returns where each node lies, with the bands following each other.
func (n *net) followBands(d *Drawing, at, block []int) []int {
	out := make([]int, len(n.layer))
	if n.g.Bands == 0 {
		for v := range out {
			out[v] = at[block[v]]
		}
		return out
	}
	d.Bands = make([]Span, n.g.Bands)
	first := 0
	for b := range d.Bands {
		lo, hi, some := 0, 0, false
		for v := range out {
			if n.bandOf(v) != b {
				continue
			}
			y := at[block[v]]
			above, below := lineToLine, lineToLine
			if n.real(v) {
				above, below = n.near(v), n.far(v)
			}
			if !some {
				lo, hi, some = y-above, y+below, true
			}
			lo, hi = min(lo, y-above), max(hi, y+below)
		}
		for v := range out {
			if n.bandOf(v) == b {
				out[v] = first + at[block[v]] - lo
			}
		}
		d.Bands[b] = Span{first, first + hi - lo}
		first += hi - lo
	}
	return out
}

// pullToNeighbours moves the blocks, to and fro, to where the vertices they are tied to
// stand in the middle.
func (n *net) pullToNeighbours(order []int, members [][]int, move func(block, want int), at, block []int) {
	var want []int
	for round := range 6 {
		for i := range order {
			b := order[i]
			if round%2 == 0 {
				b = order[len(order)-1-i]
			}
			want = want[:0]
			for _, v := range members[b] {
				for _, ties := range [2][]tie{n.up[v], n.down[v]} {
					for _, t := range ties {
						if block[t.v] != b && n.band[t.v] == n.band[v] {
							for range n.weight(t.edge) {
								want = append(want, at[block[t.v]])
							}
						}
					}
				}
			}
			if len(want) > 0 {
				slices.Sort(want)
				lo, hi := want[(len(want)-1)/2], want[len(want)/2]
				move(b, geometry.Clamp(at[b], lo, hi))
			}
		}
	}
}

// weight is how much an edge is to be straight.
func (n *net) weight(edge int) int {
	if n.g.Edges[edge].Exit == 0 {
		return 2
	}
	return 1
}

// blocks returns for each vertex the block that shares its place across the flow.
func (n *net) blocks() []int {
	count := len(n.layer)
	type line struct{ a, b, rank int }
	main := mainPath(n.g, n.back)
	next, prev := make([]int, count), make([]int, count)
	for v := range count {
		next[v], prev[v] = None, None
	}
	var list []line
	var turn []int
	taken := [][2]int{}
	for l := 0; l+1 < len(n.order); l++ {
		list, turn, taken = list[:0], turn[:0], taken[:0]
		for _, a := range n.order[l] {
			for _, t := range n.down[a] {
				if n.band[a] != n.band[t.v] {
					continue
				}
				rank := len(n.g.Nodes)
				switch {
				case main[t.edge] > 0: // that of the first beginning before all others
					rank = main[t.edge]
				case !n.real(a) && !n.real(t.v):
					rank++
				case n.g.Edges[t.edge].Exit == 0 && !n.back[t.edge]:
					rank += 2
				default:
					rank += 3
				}
				turn = append(turn, len(list))
				list = append(list, line{a, t.v, rank})
			}
		}
		slices.SortStableFunc(turn, func(i, j int) int {
			a, b := &list[i], &list[j]
			return cmp.Or(cmp.Compare(a.rank, b.rank), cmp.Compare(n.pos[a.a], n.pos[b.a]),
				cmp.Compare(n.pos[a.b], n.pos[b.b]))
		})
		for _, i := range turn {
			c := &list[i]
			if next[c.a] != None || prev[c.b] != None {
				continue
			}
			p, q := n.pos[c.a], n.pos[c.b]
			if slices.ContainsFunc(taken, func(o [2]int) bool { return (o[0] < p) != (o[1] < q) }) {
				continue
			}
			next[c.a], prev[c.b] = c.b, c.a
			taken = append(taken, [2]int{p, q})
		}
	}
	block := make([]int, count)
	blocks := 0
	for _, layer := range n.order {
		for _, v := range layer {
			if prev[v] == None {
				block[v] = blocks
				blocks++
			} else {
				block[v] = block[prev[v]]
			}
		}
	}
	return block
}

// MainPaths marks the edges of the main paths: from where the work begins by the first exit that leads on,
// but for a choice of doing something more or not, whose other exit leads straight to where the first one comes
// to after a few steps: that one is on the path, and what is done more lies beside it.
func MainPaths(g *Graph, back []bool) []bool {
	h := *g
	h.Edges = slices.Clone(g.Edges)
	exits := make([][]int, len(g.Nodes))
	for k, e := range g.Edges {
		if !back[k] && e.From != e.To {
			exits[e.From] = append(exits[e.From], k)
		}
	}
	const more = 3 // steps that can lie beside the path
	for v, list := range exits {
		if len(list) != 2 || g.Edges[list[0]].Exit == g.Edges[list[1]].Exit {
			continue
		}
		first, other := list[0], list[1]
		if g.Edges[first].Exit > g.Edges[other].Exit {
			first, other = other, first
		}
		w := g.Edges[first].To
		for range more {
			if len(exits[w]) != 1 {
				break
			}
			if w = g.Edges[exits[w][0]].To; w == g.Edges[other].To && g.Nodes[w].Band == g.Nodes[v].Band {
				h.Edges[first].Exit, h.Edges[other].Exit = h.Edges[other].Exit, h.Edges[first].Exit
				break
			}
		}
	}
	out := make([]bool, len(g.Edges))
	for k, path := range mainPath(&h, back) {
		out[k] = path > 0
	}
	return out
}

// mainPath numbers the edges of the main paths: from where the work begins always
// by the first exit that leads on. Those of the first beginning get 1.
func mainPath(g *Graph, back []bool) []int {
	on := make([]int, len(g.Edges))
	path := 0
	first := make([]int, len(g.Nodes))
	entered := make([]bool, len(g.Nodes))
	for v := range first {
		first[v] = None
	}
	for k, e := range g.Edges {
		if back[k] || e.From == e.To {
			continue
		}
		entered[e.To] = true
		if f := first[e.From]; f == None || e.Exit < g.Edges[f].Exit {
			first[e.From] = k
		}
	}
	walked := make([]bool, len(g.Nodes))
	for v := range g.Nodes {
		if entered[v] {
			continue
		}
		path++
		for w := v; !walked[w]; {
			walked[w] = true
			k := first[w]
			if k == None || walked[g.Edges[k].To] {
				break
			}
			on[k] = path
			w = g.Edges[k].To
		}
	}
	return on
}

// lines finds where the long edges run: where most of the vertices of each lie.
func (n *net) lines(d *Drawing, across []int) {
	d.Lines, d.Long, d.LineBands = make([]int, len(n.chain)), make([]bool, len(n.chain)), make([]int, len(n.chain))
	for k, chain := range n.chain {
		most, run := 0, 0
		for i := 1; i+1 < len(chain); i++ {
			if run++; i > 1 && across[chain[i]] != across[chain[i-1]] {
				run = 1
			}
			if run > most {
				most, d.Lines[k], d.Long[k], d.LineBands[k] = run, across[chain[i]], true, n.band[chain[i]]
			}
		}
	}
}

// along finds where the layers lie along the flow: as far from each other as the
// labels between them and the lines that turn there need.
func (n *net) along(d *Drawing, across []int) {
	g := n.g
	d.Along = make([]int, len(g.Nodes))
	d.Layers = make([]Span, len(n.order))
	at := 0
	for l, layer := range n.order {
		long := 0
		for _, v := range layer {
			if n.real(v) {
				long = max(long, g.Nodes[v].Along)
			}
		}
		d.Layers[l] = Span{at, at + long}
		for _, v := range layer {
			if n.real(v) {
				d.Along[v] = at + long/2
			}
		}
		gap := g.Gap
		var turns []Span
		for _, v := range layer {
			for _, t := range n.down[v] {
				e := g.Edges[t.edge]
				if e.Label > 0 && n.real(v) && !n.back[t.edge] {
					gap = max(gap, e.Label)
				}
				if a, b := across[v], across[t.v]; a != b {
					turns = append(turns, Span{min(a, b), max(a, b)})
				}
			}
		}
		at += long + max(gap, 2*pass+track*(deepest(turns)-1))
	}
}

// deepest returns the largest number of spans that lie over one place.
func deepest(list []Span) int {
	// Where one ends and another begins they do not lie over each other.
	var ends []int
	for _, s := range list {
		ends = append(ends, 2*s.From+1, 2*s.To)
	}
	slices.Sort(ends)
	depth, most := 0, 0
	for _, e := range ends {
		if e&1 == 1 {
			depth++
		} else {
			depth--
		}
		most = max(most, depth)
	}
	return most
}
