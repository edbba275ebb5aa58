package grid

import (
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

// Prices as package routing has them, in length.
const (
	bendPrice  = 40 * px
	crossPrice = 160 * px
	// sharedPort is the price of a side where something else leaves, or arrives in the other sense;
	// mergedPort that of arriving where something arrives already.
	sharedPort = 70 * px
	mergedPort = 6 * px
	// answerPort is that of a side where another of two or three answers leaves.
	answerPort = 240 * px
)

// point is a place on a finer grid: cell (c, r) lies at (4c, 4r), and 2 beside every column and row lies a
// channel between it and the next, in which nothing stands.
type point struct{ x, y int32 }

// path is a way an edge can run.
type path struct {
	n        int32
	shape    uint8
	from, to geometry.Side
	p        [6]point
	// lo and hi are the corners of the box around it.
	lo, hi point
	// length is its own, price that of its length, its bends and its sides.
	length, price int
}

func (q *path) bends() int { return int(q.n) - 2 }

// The shapes a path can have, those of few bends first. They follow from the cells of the two ends alone.
const (
	straight    uint8 = iota
	overDown          // along the row, then along the column
	downOver          // along the column, then along the row
	stepEarly         // along the row, over in the channel beside the start, along the other row
	stepLate          // the same beside the end
	dropEarly         // along the column, over in the channel beside the start, along the other column
	dropLate          // the same beside the end
	roundBelow        // from side to the same side
	roundAbove        //
	roundRight        //
	roundLeft         //
	hooks             // eight ways with three bends, through channels only
	_                 //
	_                 //
	_                 //
	_                 //
	_                 //
	_                 //
	_                 //
	detourBelow       // four bends
	detourAbove       //
	besideBelow       //
	besideAbove       //
	shapes
	// farther is a path through the channel of some other row; it is looked for anew when rows get other numbers.
	farther
)

var bendsOf = [shapes]uint8{0, 1, 1, 2, 2, 2, 2, 2, 2, 2, 2, 3, 3, 3, 3, 3, 3, 3, 3, 4, 4, 4, 4}

// make makes the path of a shape between two cells, and reports whether there is one and it is free.
func (b *board) make(q *path, u, v cell, shape uint8) bool {
	dx, dy := v.c-u.c, v.r-u.r
	U, V := point{int32(4 * u.c), int32(4 * u.r)}, point{int32(4 * v.c), int32(4 * v.r)}
	sx, sy := sign(dx), sign(dy)
	ahead, across := horizontal(sx), vertical(sy)
	set := func(from, to geometry.Side, points ...point) bool {
		q.n = int32(copy(q.p[:], points))
		q.from, q.to, q.shape = from, to, shape
		b.weigh(q)
		return true
	}
	skew := dx != 0 && dy != 0
	switch shape {
	case farther:
		return false
	case straight:
		if dy == 0 && dx != 0 && b.rowFree(u.r, u.c, v.c) {
			return set(ahead, ahead.Opposite(), U, V)
		}
		return dx == 0 && dy != 0 && b.colFree(u.c, u.r, v.r) && set(across, across.Opposite(), U, V)
	case overDown:
		return skew && b.empty(cell{v.c, u.r}) && b.rowFree(u.r, u.c, v.c) && b.colFree(v.c, u.r, v.r) &&
			set(ahead, across.Opposite(), U, point{V.x, U.y}, V)
	case downOver:
		return skew && b.empty(cell{u.c, v.r}) && b.colFree(u.c, u.r, v.r) && b.rowFree(v.r, u.c, v.c) &&
			set(across, ahead.Opposite(), U, point{U.x, V.y}, V)
	case stepEarly:
		x := U.x + 2*sx
		return skew && b.rowFree(v.r, u.c, v.c) && set(ahead, ahead.Opposite(), U, point{x, U.y}, point{x, V.y}, V)
	case stepLate:
		x := V.x - 2*sx
		return skew && b.rowFree(u.r, u.c, v.c) && set(ahead, ahead.Opposite(), U, point{x, U.y}, point{x, V.y}, V)
	case dropEarly:
		y := U.y + 2*sy
		return skew && b.colFree(v.c, u.r, v.r) && set(across, across.Opposite(), U, point{U.x, y}, point{V.x, y}, V)
	case dropLate:
		y := V.y - 2*sy
		return skew && b.colFree(u.c, u.r, v.r) && set(across, across.Opposite(), U, point{U.x, y}, point{V.x, y}, V)
	case roundBelow, roundAbove: // out as far as the one that lies farther out, and back
		side, out, by := geometry.Bottom, max(u.r, v.r), 1
		if shape == roundAbove {
			side, out, by = geometry.Top, min(u.r, v.r), -1
		}
		y := int32(4*out + 2*by)
		return dx != 0 && b.colFree(u.c, u.r, out+by) && b.colFree(v.c, v.r, out+by) &&
			set(side, side, U, point{U.x, y}, point{V.x, y}, V)
	case roundRight, roundLeft:
		side, out, by := geometry.Right, max(u.c, v.c), 1
		if shape == roundLeft {
			side, out, by = geometry.Left, min(u.c, v.c), -1
		}
		x := int32(4*out + 2*by)
		return dy != 0 && b.rowFree(u.r, u.c, out+by) && b.rowFree(v.r, v.c, out+by) &&
			set(side, side, U, point{x, U.y}, point{x, V.y}, V)
	case detourBelow, detourAbove:
		y := U.y + 2
		if shape == detourAbove {
			y = U.y - 2
		}
		return set(geometry.Right, geometry.Left, U, point{U.x + 2, U.y}, point{U.x + 2, y}, point{V.x - 2, y},
			point{V.x - 2, V.y}, V)
	case besideBelow, besideAbove:
		s := int32(1)
		if shape == besideAbove {
			s = -1
		}
		x := max(U.x, V.x) + 2
		return set(vertical(s), vertical(s), U, point{U.x, U.y + 2*s}, point{x, U.y + 2*s}, point{x, V.y + 2*s},
			point{V.x, V.y + 2*s}, V)
	}
	k := shape - hooks
	s, t := 1-2*int32(k&1), 1-int32(k&2)
	if k&4 == 0 {
		x, y := U.x+2*s, V.y-2*t
		return x != V.x && y != U.y && set(horizontal(s), vertical(-t), U, point{x, U.y}, point{x, y}, point{V.x, y}, V)
	}
	y, x := U.y+2*s, V.x-2*t
	return y != V.y && x != U.x && set(vertical(s), horizontal(-t), U, point{U.x, y}, point{x, y}, point{x, V.y}, V)
}

// detours makes the paths that run along the flow in the channel of some row, wherever that lies, and calls try
// for each.
func (b *board) detours(q *path, u, v cell, try func()) {
	U, V := point{int32(4 * u.c), int32(4 * u.r)}, point{int32(4 * v.c), int32(4 * v.r)}
	if u.c == v.c {
		return
	}
	set := func(from, to geometry.Side, points ...point) {
		q.n = int32(copy(q.p[:], points))
		q.from, q.to, q.shape = from, to, farther
		b.weigh(q)
		try()
	}
	const beyond = 6 // how far off the rows of the two ends
	for r := max(min(u.r, v.r)&^1-beyond, 0); r < min(2*b.rows, max(u.r, v.r)+beyond); r += 2 {
		y := int32(4*r + 2)
		// The channel lies below row r: who stands in that row or above it goes down to it, past everything up to
		// and with row r; who stands below it goes up, past everything from row r+1 on.
		out, in := geometry.Bottom, geometry.Bottom
		leaves, enters := b.colFree(u.c, u.r, r+1), b.colFree(v.c, v.r, r+1)
		if r < u.r {
			out, leaves = geometry.Top, b.colFree(u.c, u.r, r)
		}
		if r < v.r {
			in, enters = geometry.Top, b.colFree(v.c, v.r, r)
		}
		x1, x2 := U.x+2, V.x-2
		if leaves && enters {
			set(out, in, U, point{U.x, y}, point{V.x, y}, V)
		}
		if leaves {
			set(out, geometry.Left, U, point{U.x, y}, point{x2, y}, point{x2, V.y}, V)
		}
		if enters {
			set(geometry.Right, in, U, point{x1, U.y}, point{x1, y}, point{V.x, y}, V)
		}
		set(geometry.Right, geometry.Left, U, point{x1, U.y}, point{x1, y}, point{x2, y}, point{x2, V.y}, V)
	}
}

func sign(n int) int32 {
	switch {
	case n > 0:
		return 1
	case n < 0:
		return -1
	}
	return 0
}

func horizontal(s int32) geometry.Side {
	if s > 0 {
		return geometry.Right
	}
	return geometry.Left
}

func vertical(s int32) geometry.Side {
	if s > 0 {
		return geometry.Bottom
	}
	return geometry.Top
}

// weigh computes what a path costs by itself.
func (b *board) weigh(q *path) {
	q.lo, q.hi = q.p[0], q.p[0]
	dx, dy := int32(0), int32(0)
	for i := 1; i < int(q.n); i++ {
		p, o := q.p[i], q.p[i-1]
		dx += max(p.x-o.x, o.x-p.x)
		dy += max(p.y-o.y, o.y-p.y)
		q.lo.x, q.lo.y, q.hi.x, q.hi.y = min(q.lo.x, p.x), min(q.lo.y, p.y), max(q.hi.x, p.x), max(q.hi.y, p.y)
	}
	q.length = (int(dx)*b.pitchX + int(dy)*b.pitchY) / 8
	q.price = q.length + bendPrice*q.bends() + sidePrice(q.from, geometry.Right, 4) + sidePrice(q.to, geometry.Left, 2)
}

// sidePrice is the small preference for leaving with the flow and arriving with it.
func sidePrice(side, ahead geometry.Side, aside int) int {
	switch side {
	case ahead:
		return 0
	case ahead.Opposite():
		return 12 * px
	}
	return aside * px
}

// portPrice is what a path costs for what else leaves and arrives at its two sides. The path is not counted there.
func (b *board) portPrice(e *layered.Edge, q *path) int {
	from, to := b.ports[e.From][q.from], b.ports[e.To][q.to]
	share := sharedPort
	switch {
	case b.rails[e.From]:
		share = mergedPort
	case b.answers[e.From]:
		share = answerPort
	}
	price := int(from.out)*share + int(to.in)*mergedPort + int(to.out)*sharedPort
	if from.in > 0 {
		price += sharedPort
	}
	return price
}

// box is the box around a path; void is that of none, which meets nothing.
type box struct{ x0, y0, x1, y1 int32 }

var void = box{1 << 30, 1 << 30, -1 << 30, -1 << 30}

// bin returns which of the bins, each eight columns wide, a place lies in.
func (b *board) bin(x int32) int { return min(max(int(x+16)>>6, 0), len(b.bins)-1) }

// near calls do with the edges whose boxes meet that of a path, each once, until it returns false.
func (b *board) near(q *path, do func(j int) bool) {
	first := b.bin(q.lo.x)
	for bin := first; bin <= b.bin(q.hi.x); bin++ {
		for _, j := range b.bins[bin] {
			o := &b.boxes[j]
			if q.lo.x > o.x1 || o.x0 > q.hi.x || q.lo.y > o.y1 || o.y0 > q.hi.y || bin != max(first, b.bin(o.x0)) {
				continue
			}
			if !do(int(j)) {
				return
			}
		}
	}
}

// met counts what a path meets of the others, crossings and lines on which it lies, as far as up to most.
func (b *board) met(k int, q *path, most int) int {
	sum := 0
	e := &b.g.Edges[k]
	b.near(q, func(j int) bool {
		if o := &b.g.Edges[j]; j != k {
			sum += meet(q, &b.paths[j], b.merge(e, o))
		}
		return sum <= most
	})
	return sum
}

// merge reports whether the paths of two edges may run on one line: to the same node, or out of the same fork.
func (b *board) merge(e, o *layered.Edge) bool {
	return e.To == o.To || e.From == o.From && b.rails[e.From]
}

// meet counts the crossings of two paths. Where they run on one line it counts one, too, unless they may merge.
func meet(q, o *path, merge bool) (n int) {
	for i := 1; i < int(q.n); i++ {
		a, c := q.p[i-1], q.p[i]
		for j := 1; j < int(o.n); j++ {
			d, f := o.p[j-1], o.p[j]
			switch level, other := a.y == c.y, d.y == f.y; {
			case level && !other:
				if between(d.x, a.x, c.x) && between(a.y, d.y, f.y) {
					n++
				}
			case !level && other:
				if between(a.x, d.x, f.x) && between(d.y, a.y, c.y) {
					n++
				}
			case level && a.y == d.y:
				if !merge && min(max(a.x, c.x), max(d.x, f.x)) > max(min(a.x, c.x), min(d.x, f.x)) {
					n++
				}
			case !level && a.x == d.x:
				if !merge && min(max(a.y, c.y), max(d.y, f.y)) > max(min(a.y, c.y), min(d.y, f.y)) {
					n++
				}
			}
		}
	}
	return n
}

// between reports whether v lies strictly between two others.
func between(v, a, b int32) bool { return v > min(a, b) && v < max(a, b) }
