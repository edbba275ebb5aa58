package grid

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/layered"
	"plaintracer/core/scratch"
)

// none is the content of an empty cell.
const none = -1

// cell is a place on the grid. Steps stand at even columns and rows; an odd one is a column or row that
// would come between two.
type cell struct{ c, r int }

// board is a grid with steps on it.
type board struct {
	task
	prices
	places
	routed
	trial
	// sum is what the board costs as it is, work what has been done on it, in paths looked for.
	sum, work int
}

// task is what is to be drawn.
type task struct {
	g    *layered.Graph
	back []bool
	// edges are those of every node; order is that in which they are routed.
	edges [][]int
	order []int
	// main marks the edges of the main paths.
	main []bool
	// forked marks the edges of forks: what they lead to begins side by side, in the column after.
	forked []bool
	// rails marks forks whose ways may run on one line until they part.
	rails []bool
	// answers marks choices with two or three ways, which leave by sides of their own.
	answers []bool
	// band is the band of every node, from 0.
	band []int
	// stages says that some nodes belong to stages.
	stages bool
	// held marks the nodes that stay where they are unless much is gained; nil where none does.
	held []bool
}

// prices are what the paper costs.
type prices struct {
	// pitchX and pitchY are the distance of two columns and two rows, about; rowCost and colCost are what a row and a
	// column cost: a row of a long drawing takes more of the paper.
	pitchX, pitchY   int
	rowCost, colCost int
}

// places are where the nodes stand.
type places struct {
	// at are the cells of the nodes; cols and rows how many columns and rows there are.
	at         []cell
	cols, rows int
	// rowBand is the band of every row, none of one in which nothing stands.
	rowBand []int
	// content says which node stands in a cell, by index, of rows that are so wide.
	content []int32
	width   int
	// perCol and perRow count the nodes of each column and row, by places moved up by one.
	perCol, perRow []int
}

// routed is how the edges run.
type routed struct {
	paths []path
	// boxes are those around the paths, void for an edge without one.
	boxes []box
	// bins list the edges with a path by the columns it spans.
	bins  [][]int32
	ports [][4]port
}

// trial is a move that is tried: what it has changed, to be taken back.
type trial struct {
	kept keep
	// touched and crossed are the edges that a move has to route again, and those it has come to cross.
	touched []int
	crossed []int
	// trying says that paths are only looked for to see what a move is worth; saved are the paths as they were.
	trying bool
	saved  []path
}

// port counts what leaves and what arrives at a side.
type port struct{ out, in int16 }

func newBoard(g *layered.Graph, d *layered.Drawing) *board {
	n := len(g.Nodes)
	b := &board{
		task:   task{g: g, back: d.Back, band: make([]int, n), edges: make([][]int, n)},
		places: places{at: make([]cell, n)},
		routed: routed{paths: make([]path, len(g.Edges)), boxes: make([]box, len(g.Edges)), ports: make([][4]port, n)},
	}
	along, across := 0, 0
	for v, nd := range g.Nodes {
		b.band[v] = max(nd.Band, 0)
		b.stages = b.stages || nd.Stage != layered.None
		along += nd.Along
		across += nd.Near + nd.Far
	}
	b.pitchX, b.pitchY = along/n+g.Gap, across/n+g.Apart
	b.main = layered.MainPaths(g, d.Back)
	b.forked, b.rails, b.answers = parting(g, d.Back)
	for k, e := range g.Edges {
		if e.From == e.To {
			continue
		}
		b.edges[e.From], b.edges[e.To] = append(b.edges[e.From], k), append(b.edges[e.To], k)
		b.order = append(b.order, k)
	}
	// The rows of each band are the places across the flow at which anything stands.
	list := make([]int, n)
	for v := range list {
		list[v] = v
	}
	slices.SortStableFunc(list, func(u, v int) int {
		return cmp.Or(cmp.Compare(b.band[u], b.band[v]), cmp.Compare(d.Across[u], d.Across[v]))
	})
	row := -2
	for i, v := range list {
		if i == 0 || b.band[v] != b.band[list[i-1]] || d.Across[v] != d.Across[list[i-1]] {
			row += 2
		}
		b.at[v] = cell{2 * d.Layer[v], row}
		b.cols = max(b.cols, d.Layer[v]+1)
	}
	b.rows = row/2 + 1
	b.bins = make([][]int32, b.cols/4+2)
	b.rowCost, b.colCost = max(perRow, perCell*b.cols), max(perColumn, perCell*b.rows)
	if g.Bands > 0 {
		b.rowCost = max(b.rowCost, perLaneRow)
	}
	b.fill()
	b.route()
	b.sum = b.total()
	return b
}

// fill takes out columns and rows in which nothing stands, numbers the others evenly, and fills the cells.
func (b *board) fill() {
	lo, hi := b.at[0], b.at[0]
	for _, p := range b.at {
		lo, hi = cell{min(lo.c, p.c), min(lo.r, p.r)}, cell{max(hi.c, p.c), max(hi.r, p.r)}
	}
	number := func(list []int, from, to int, of func(cell) int) ([]int, int) {
		list = scratch.Resized(list, to-from+1)
		clear(list)
		for _, p := range b.at {
			list[of(p)-from] = 1
		}
		n := 0
		for i, used := range list {
			list[i] = 2 * n
			n += used
		}
		return list, n
	}
	var cols, rows []int
	cols, b.cols = number(b.perCol, lo.c, hi.c, func(p cell) int { return p.c })
	rows, b.rows = number(b.perRow, lo.r, hi.r, func(p cell) int { return p.r })
	for v, p := range b.at {
		b.at[v] = cell{cols[p.c-lo.c], rows[p.r-lo.r]}
	}
	b.width = 2*b.cols + 1
	b.content = scratch.Resized(b.content, b.width*(2*b.rows+1))
	for i := range b.content {
		b.content[i] = none
	}
	b.rowBand = scratch.Resized(b.rowBand, b.rows)
	b.perCol, b.perRow = scratch.Resized(cols, 2*b.cols+1), scratch.Resized(rows, 2*b.rows+1)
	clear(b.perCol)
	clear(b.perRow)
	for v, p := range b.at {
		b.rowBand[p.r/2] = b.band[v]
		b.put(v, p)
	}
}

func (b *board) index(p cell) int { return (p.r+1)*b.width + p.c + 1 }

// put sets a node down in an empty cell, lift takes it up.
func (b *board) put(v int, p cell) {
	b.at[v] = p
	b.content[b.index(p)] = int32(v)
	b.perCol[p.c+1]++
	b.perRow[p.r+1]++
}

func (b *board) lift(v int) {
	p := b.at[v]
	b.content[b.index(p)] = none
	b.perCol[p.c+1]--
	b.perRow[p.r+1]--
}

// inside reports whether a cell is on the board, or in a column or row beside it.
func (b *board) inside(p cell) bool {
	return p.c >= -1 && p.c <= 2*b.cols-1 && p.r >= -1 && p.r <= 2*b.rows-1
}

func (b *board) empty(p cell) bool { return b.content[b.index(p)] == none }

// rowFree reports whether nothing stands in a row strictly between two columns; colFree the same of a column.
func (b *board) rowFree(r, from, to int) bool {
	if from > to {
		from, to = to, from
	}
	k := b.index(cell{from, r})
	for _, v := range b.content[k+1 : k+max(to-from, 1)] {
		if v != none {
			return false
		}
	}
	return true
}

func (b *board) colFree(c, from, to int) bool {
	if from > to {
		from, to = to, from
	}
	for k, last := b.index(cell{c, from})+b.width, b.index(cell{c, to}); k < last; k += b.width {
		if b.content[k] != none {
			return false
		}
	}
	return true
}

// mayStand reports whether the band of a node lets it stand in a row, new or not.
func (b *board) mayStand(v, r int) bool {
	band := b.band[v]
	if r < -1 || r > 2*b.rows-1 {
		return false
	}
	if r&1 == 0 {
		return b.rowBand[r/2] == band
	}
	above, below := (r-1)/2, (r+1)/2
	return r > 0 && b.rowBand[above] == band || below < b.rows && b.rowBand[below] == band
}

// staged reports whether the stages stay one after the other when node v stands in column c.
func (b *board) staged(v, c int) bool {
	stage := b.g.Nodes[v].Stage
	if !b.stages || stage == layered.None {
		return true
	}
	for u, nd := range b.g.Nodes {
		if u == v || nd.Stage == stage || nd.Stage == layered.None {
			continue
		}
		if nd.Stage < stage && b.at[u].c >= c || nd.Stage > stage && b.at[u].c <= c {
			return false
		}
	}
	return true
}

// route finds a path for every edge, the shortest first, and all once more in sight of the others.
func (b *board) route() {
	clear(b.ports)
	for k := range b.paths {
		b.paths[k].n, b.boxes[k] = 0, void
	}
	for i := range b.bins {
		b.bins[i] = b.bins[i][:0]
	}
	far := func(k int) int {
		p, q := b.at[b.g.Edges[k].From], b.at[b.g.Edges[k].To]
		d := geometry.Abs(p.c-q.c) + geometry.Abs(p.r-q.r)
		if p.c != q.c && p.r != q.r {
			d += 2
		}
		return d
	}
	slices.SortFunc(b.order, func(i, j int) int { return cmp.Or(cmp.Compare(far(i), far(j)), cmp.Compare(i, j)) })
	for range 2 {
		for _, k := range b.order {
			b.find(k)
		}
	}
}

// find looks for the best path of one edge.
func (b *board) find(k int) {
	b.work++
	b.claim(k, -1)
	e := &b.g.Edges[k]
	u, v := b.at[e.From], b.at[e.To]
	least := (geometry.Abs(u.c-v.c)*b.pitchX + geometry.Abs(u.r-v.r)*b.pitchY) / 2
	q, best := &path{}, &b.paths[k]
	best.n = 0
	bestPrice, bestMet := 0, 0
	try := func() {
		if best.n > 0 && q.price >= bestPrice {
			return
		}
		price := q.price + b.portPrice(e, q)
		most := 1 << 30
		if best.n > 0 {
			if price >= bestPrice {
				return
			}
			most = (bestPrice - price - 1) / crossPrice
		}
		if met := b.met(k, q, most); met <= most {
			*best, bestPrice, bestMet = *q, price+crossPrice*met, met
		}
	}
	for shape := range shapes {
		if best.n > 0 && least+bendPrice*int(bendsOf[shape]) >= bestPrice {
			break
		}
		if b.make(q, u, v, shape) {
			try()
		}
	}
	if bestMet > 0 && (!b.trying || len(b.at) > small) {
		b.detours(q, u, v, try)
	}
	b.claim(k, 1)
}

// claim makes an edge's path count for others, with its ends at their sides, or takes it off.
func (b *board) claim(k int, by int16) {
	p, e := &b.paths[k], &b.g.Edges[k]
	if p.n == 0 {
		return
	}
	for bin := b.bin(p.lo.x); bin <= b.bin(p.hi.x); bin++ {
		if by > 0 {
			b.bins[bin] = append(b.bins[bin], int32(k))
		} else if i := slices.Index(b.bins[bin], int32(k)); i >= 0 {
			last := len(b.bins[bin]) - 1
			b.bins[bin][i] = b.bins[bin][last]
			b.bins[bin] = b.bins[bin][:last]
		}
	}
	b.boxes[k] = void
	if by > 0 {
		b.boxes[k] = box{p.lo.x, p.lo.y, p.hi.x, p.hi.y}
	}
	b.ports[e.From][p.from].out += by
	b.ports[e.To][p.to].in += by
}
