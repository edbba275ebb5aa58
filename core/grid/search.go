package grid

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

// What a drawing is judged by, beside the length of its lines divided by lengthShare. All of it in the unit
// of lengths.
const (
	perBend     = 100 * px
	perMainBend = 150 * px // more for one on the main path
	perCrossing = 1000 * px
	perColumn   = 50 * px
	perRow      = 40 * px
	perLaneRow  = 210 * px
	perCell     = 8 * px
	lengthShare = 4
	// backwards is what a column costs by which a connector leads back that should lead on.
	backwards = 2000 * px
	// mainDown is what it costs that the main path leaves its row, or goes down in its column, without a lane
	// being the reason.
	mainDown = 400 * px
	// onDown is what it costs that a way on, not a side exit, goes down in its column.
	onDown = 60 * px
	// perStagger is what it costs that a way out of a fork does not begin in the column after it.
	perStagger = 500 * px
	// upwards is what a side branch on the nearer side costs: they go to the farther one.
	upwards = 15 * px
	// atLeast and perNode bound what is done for a graph, in paths looked for.
	atLeast, perNode = 900, 15
	// small is up to how many nodes a move is looked at twice.
	small = 60
	// tries is how many cells, the most hopeful ones, are tried for a node at a time.
	tries = 8
)

// cost judges one edge as it runs now.
func (b *board) cost(k int) int {
	e, q := &b.g.Edges[k], &b.paths[k]
	b.claim(k, -1)
	sum := q.length/lengthShare + perBend*q.bends() + perCrossing*b.met(k, q, 1<<30) + b.portPrice(e, q)/2
	b.claim(k, 1)
	return sum + b.placed(k, b.at[e.From], b.at[e.To], q.bends())
}

// placed judges where the two ends of an edge stand to each other.
func (b *board) placed(k int, u, v cell, bends int) int {
	e, sum := &b.g.Edges[k], 0
	if b.back[k] || b.g.Nodes[e.From].Aside || b.g.Nodes[e.To].Aside {
		return 0
	}
	other := b.band[e.From] != b.band[e.To]
	if v.c < u.c {
		sum += backwards * (u.c - v.c) / 2
	}
	if b.forked[k] && !other {
		if v.c <= u.c {
			sum += perStagger
		} else {
			sum += perStagger / 2 * ((v.c-u.c+1)/2 - 1)
		}
	}
	switch {
	case b.main[k]:
		sum += perMainBend * bends
		if !other && (v.r != u.r || v.c <= u.c) {
			sum += mainDown
		}
	case e.Exit == 0:
		if v.c <= u.c && !other {
			sum += onDown
		}
	case v.r != u.r && (v.r < u.r) != b.g.Mirror && !other:
		sum += upwards
	}
	return sum
}

// least is the least an edge can cost whose ends stand in two cells.
func (b *board) least(k int, u, v cell) int {
	dx, dy := geometry.Abs(u.c-v.c), geometry.Abs(u.r-v.r)
	bends := 0
	if dx != 0 && dy != 0 {
		bends = 1
	}
	return (dx*b.pitchX+dy*b.pitchY)/2/lengthShare + perBend*bends + b.placed(k, u, v, bends)
}

// total judges the whole board.
func (b *board) total() int {
	sum := 0
	for c := 0; c < b.cols; c++ {
		if b.perCol[2*c+1] > 0 {
			sum += b.colCost
		}
	}
	for r := 0; r < b.rows; r++ {
		if b.perRow[2*r+1] > 0 {
			sum += b.rowCost
		}
	}
	for _, k := range b.order {
		sum += b.cost(k)
	}
	return sum
}

// improve moves steps as long as the drawing gets better, and the work done bears a relation to its size.
func (b *board) improve() {
	var best keep
	for range 12 {
		b.saveTo(&best)
		before := b.sum
		b.moves()
		b.compact()
		b.closeUp()
		b.moveBranches()
		b.forks()
		if b.sum >= before {
			b.restoreFrom(&best)
			return
		}
		if b.spent() {
			return
		}
	}
}

func (b *board) spent() bool { return b.work > atLeast+perNode*len(b.at) }

// moves tries for every node the cells near those it is tied to, and takes the best where it is better; then
// again for those that a move concerns.
func (b *board) moves() {
	n := len(b.at)
	queue, waiting := make([]int, 0, 4*n), make([]bool, n)
	add := func(v int) {
		if !waiting[v] {
			waiting[v] = true
			queue = append(queue, v)
		}
	}
	for v := range n {
		add(v)
	}
	slices.SortStableFunc(queue, func(u, v int) int { return cmp.Compare(b.at[u].c, b.at[v].c) })
	var cells []option
	for i := 0; i < len(queue) && i < 4*n && !b.spent(); i++ {
		v := queue[i]
		waiting[v] = false
		cells = b.options(v, cells[:0])
		best, at := 0, cell{}
		for i, o := range cells {
			if o.most <= best || i == tries {
				break
			}
			gain := b.gain(v, o.at)
			if b.held != nil && b.held[v] {
				gain -= perHeld
			}
			if gain > best {
				best, at = gain, o.at
			}
		}
		if best <= 0 {
			continue
		}
		b.move(v, at)
		for _, k := range b.edges[v] {
			add(b.g.Edges[k].From)
			add(b.g.Edges[k].To)
		}
	}
	b.fill()
	b.rebuild(nil)
	b.route()
	b.sum = b.total()
}

// move sets a node down elsewhere for good.
func (b *board) move(v int, to cell) {
	touched := b.touch(v, to)
	b.lift(v)
	b.put(v, to)
	for _, k := range touched {
		b.find(k)
	}
	touched = append(touched, b.crossedBy(v, touched)...)
	for _, k := range touched {
		b.find(k)
	}
	if to.c&1 != 0 || to.r&1 != 0 {
		b.fill()
		b.rebuild(nil)
	}
}

// option is a cell where a node could stand, and the most that could make the drawing better.
type option struct {
	at   cell
	most int
}

// options lists the cells where a node could stand: in the columns and rows of those it is tied to, and beside
// where it is; the most hopeful first.
func (b *board) options(v int, out []option) []option {
	own := b.at[v]
	now := 0
	for _, k := range b.edges[v] {
		now += b.cost(k)
	}
	for k := range b.paths {
		if b.blocks(v, k) {
			e := &b.g.Edges[k]
			now += max(b.cost(k)-b.least(k, b.at[e.From], b.at[e.To]), 0)
		}
	}
	add := func(c, r int) {
		p := cell{c, r}
		if !b.inside(p) || p == own || !b.empty(p) || !b.mayStand(v, r) {
			return
		}
		most := now + b.extent(own, p)
		for _, k := range b.edges[v] {
			if e := &b.g.Edges[k]; e.From == v {
				most -= b.least(k, p, b.at[e.To])
			} else {
				most -= b.least(k, b.at[e.From], p)
			}
		}
		if most > 0 && !slices.Contains(out, option{p, most}) && b.staged(v, c) {
			out = append(out, option{p, most})
		}
	}
	for d := -2; d <= 2; d++ {
		add(own.c+d, own.r)
		add(own.c, own.r+d)
	}
	for _, k := range b.edges[v] {
		u := b.g.Edges[k].From + b.g.Edges[k].To - v
		o := b.at[u]
		if b.band[u] == b.band[v] {
			for d := -2; d <= 2; d++ {
				add(o.c+d, o.r)
				add(o.c, o.r+d)
				add(own.c, o.r+d)
			}
			add(o.c+2, o.r+2)
			add(o.c+2, o.r-2)
			continue
		}
		for r := -1; r < 2*b.rows; r++ {
			if b.mayStand(v, r) {
				add(o.c-2, r)
				add(o.c, r)
				add(o.c+2, r)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b option) int { return b.most - a.most })
	return out
}

// gain returns by how much the drawing gets better when a node goes to a cell. Of the edges only those that
// are tied to it, or run through that cell, take other paths; where that is no gain, those that the edges of the
// node then cross do so, too.
func (b *board) gain(v int, to cell) int {
	touched := b.touch(v, to)
	gain, crossed := b.try(v, to, touched)
	if gain > 0 || len(crossed) == 0 || len(b.at) > small {
		return gain
	}
	gain, _ = b.try(v, to, append(touched, crossed...))
	return gain
}

// try computes the gain when some edges take other paths, and lists which others cross those of the node then.
func (b *board) try(v int, to cell, touched []int) (gain int, crossed []int) {
	from := b.at[v]
	before := b.extent(from, to)
	b.saved = b.saved[:0]
	for _, k := range touched {
		before += b.cost(k)
		b.saved = append(b.saved, b.paths[k])
	}
	b.trying = true
	b.lift(v)
	b.put(v, to)
	for _, k := range touched {
		b.find(k)
	}
	b.trying = false
	after := 0
	for _, k := range touched {
		after += b.cost(k)
	}
	if after >= before {
		crossed = b.crossedBy(v, touched)
	}
	for i, k := range touched {
		b.claim(k, -1)
		b.paths[k] = b.saved[i]
		b.claim(k, 1)
	}
	b.lift(v)
	b.put(v, from)
	return before - after, crossed
}

// crossedBy lists the edges that those of a node cross, but for some.
func (b *board) crossedBy(v int, but []int) []int {
	b.crossed = b.crossed[:0]
	for _, k := range b.edges[v] {
		q := &b.paths[k]
		b.near(q, func(j int) bool {
			if meet(q, &b.paths[j], b.merge(&b.g.Edges[k], &b.g.Edges[j])) > 0 && !slices.Contains(but, j) &&
				!slices.Contains(b.crossed, j) {
				b.crossed = append(b.crossed, j)
			}
			return true
		})
	}
	return b.crossed
}

// extent returns what columns and rows the move of a node saves, in its cost: negative where it needs more.
func (b *board) extent(from, to cell) int {
	saved := 0
	if from.c != to.c {
		if b.perCol[from.c+1] == 1 {
			saved += b.colCost
		}
		if b.perCol[to.c+1] == 0 {
			saved -= b.colCost
		}
	}
	if from.r != to.r {
		if b.perRow[from.r+1] == 1 {
			saved += b.rowCost
		}
		if b.perRow[to.r+1] == 0 {
			saved -= b.rowCost
		}
	}
	return saved
}

// touch returns the edges that the move of a node to a cell concerns. The result is valid until the next call.
func (b *board) touch(v int, to cell) []int {
	out := append(b.touched[:0], b.edges[v]...)
	at := point{int32(4 * to.c), int32(4 * to.r)}
	b.near(&path{lo: at, hi: at}, func(k int) bool {
		if e := &b.g.Edges[k]; e.From != v && e.To != v && b.paths[k].through(at) {
			out = append(out, k)
		}
		return true
	})
	for k := range b.paths {
		if b.blocks(v, k) && !slices.Contains(out, k) {
			out = append(out, k)
		}
	}
	b.touched = out
	return out
}

// blocks reports whether a node stands between the two ends of an edge that could run straight without it.
func (b *board) blocks(v, k int) bool {
	e, at := &b.g.Edges[k], b.at[v]
	p, q := b.at[e.From], b.at[e.To]
	return p.r == q.r && p.r == at.r && (p.c < at.c) == (at.c < q.c) && at.c != p.c && at.c != q.c ||
		p.c == q.c && p.c == at.c && (p.r < at.r) == (at.r < q.r) && at.r != p.r && at.r != q.r
}

// through reports whether a path runs through a place.
func (q *path) through(at point) bool {
	for i := 1; i < int(q.n); i++ {
		p, o := q.p[i-1], q.p[i]
		if p.x == o.x && p.x == at.x && min(p.y, o.y) <= at.y && at.y <= max(p.y, o.y) ||
			p.y == o.y && p.y == at.y && min(p.x, o.x) <= at.x && at.x <= max(p.x, o.x) {
			return true
		}
	}
	return false
}

// rebuild makes all paths anew from their shapes, after columns and rows have got other numbers, and looks
// for others where they are not free any more, or where anew says so.
func (b *board) rebuild(anew func(k int) bool) {
	b.touched = b.touched[:0]
	for _, k := range b.order {
		e := &b.g.Edges[k]
		b.claim(k, -1)
		if anew != nil && anew(k) || !b.make(&b.paths[k], b.at[e.From], b.at[e.To], b.paths[k].shape) {
			b.paths[k].n, b.boxes[k] = 0, void
			b.touched = append(b.touched, k)
			continue
		}
		b.claim(k, 1)
	}
	for _, k := range b.touched {
		b.find(k)
	}
}

// keep is a board to come back to.
type keep struct {
	at    []cell
	paths []path
	boxes []box
	ports [][4]port
	sum   int
}

func (b *board) save() { b.saveTo(&b.kept) }

func (b *board) saveTo(k *keep) {
	k.at = append(k.at[:0], b.at...)
	k.paths = append(k.paths[:0], b.paths...)
	k.boxes = append(k.boxes[:0], b.boxes...)
	k.ports = append(k.ports[:0], b.ports...)
	k.sum = b.sum
}

func (b *board) restore() { b.restoreFrom(&b.kept) }

func (b *board) restoreFrom(k *keep) {
	copy(b.at, k.at)
	copy(b.paths, k.paths)
	copy(b.boxes, k.boxes)
	copy(b.ports, k.ports)
	b.sum = k.sum
	b.fill()
	for i := range b.bins {
		b.bins[i] = b.bins[i][:0]
	}
	for j := range b.paths {
		if p := &b.paths[j]; p.n > 0 {
			for bin := b.bin(p.lo.x); bin <= b.bin(p.hi.x); bin++ {
				b.bins[bin] = append(b.bins[bin], int32(j))
			}
		}
	}
}

// set is a set of nodes, as bits.
type set []uint64

func (s set) has(v int) bool { return s[v>>6]>>(v&63)&1 != 0 }
func (s set) add(v int)      { s[v>>6] |= 1 << (v & 63) }

// attempt moves some nodes together, and keeps it when the drawing gets better. The columns and rows must be
// numbered evenly.
func (b *board) attempt(s set, dc, dr int) bool {
	if b.spent() {
		return false
	}
	most := b.colCost + b.rowCost
	to := func(v int) cell {
		p := b.at[v]
		if s.has(v) {
			p.c, p.r = p.c+dc, p.r+dr
		}
		return p
	}
	for v := range b.at {
		if !s.has(v) {
			continue
		}
		p := to(v)
		if dr != 0 && !b.mayStand(v, p.r) {
			return false
		}
		if b.inside(p) {
			if u := b.content[b.index(p)]; u != none && !s.has(int(u)) {
				return false
			}
		}
	}
	for _, k := range b.order {
		e := &b.g.Edges[k]
		if s.has(e.From) == s.has(e.To) {
			if !s.has(e.From) && b.blocked(s, k) { // it could run straight then
				most += max(b.cost(k)-b.least(k, b.at[e.From], b.at[e.To]), 0)
			}
			continue
		}
		p, q := to(e.From), to(e.To)
		if !b.back[k] && q.c < p.c && q.c-p.c < b.at[e.To].c-b.at[e.From].c {
			return false
		}
		most += b.cost(k) - b.least(k, p, q)
	}
	if most <= 0 {
		return false
	}
	b.save()
	for v := range b.at {
		b.at[v] = to(v)
	}
	if b.stages && !b.stagesInOrder() {
		copy(b.at, b.kept.at)
		return false
	}
	b.fill()
	b.rebuild(func(k int) bool {
		e := &b.g.Edges[k]
		return s.has(e.From) != s.has(e.To) || b.paths[k].bends() > 0 && !s.has(e.From)
	})
	if b.sum = b.total(); b.sum < b.kept.sum {
		return true
	}
	b.restore()
	return false
}

// blocked reports whether one of some nodes blocks an edge.
func (b *board) blocked(s set, k int) bool {
	e := &b.g.Edges[k]
	if p, q := b.at[e.From], b.at[e.To]; p.c != q.c && p.r != q.r {
		return false
	}
	for v := range b.at {
		if s.has(v) && b.blocks(v, k) {
			return true
		}
	}
	return false
}

func (b *board) stagesInOrder() bool {
	type span struct{ from, to int }
	spans := map[int]span{}
	for v, nd := range b.g.Nodes {
		if nd.Stage == layered.None {
			continue
		}
		s, ok := spans[nd.Stage]
		if !ok {
			s = span{b.at[v].c, b.at[v].c}
		}
		spans[nd.Stage] = span{min(s.from, b.at[v].c), max(s.to, b.at[v].c)}
	}
	for i, a := range spans {
		for j, c := range spans {
			if i < j && a.to >= c.from {
				return false
			}
		}
	}
	return true
}

// closeUp tries to let everything from a column on move up by one, and rows the same.
func (b *board) closeUp() {
	s := make(set, (len(b.at)+63)/64)
	for c := 2; c < 2*b.cols; c += 2 {
		clear(s)
		for v, p := range b.at {
			if p.c >= c {
				s.add(v)
			}
		}
		if b.attempt(s, -2, 0) {
			c -= 2
		}
	}
	for r := 2; r < 2*b.rows; r += 2 {
		if b.rowBand[r/2] != b.rowBand[r/2-1] {
			continue
		}
		clear(s)
		for v, p := range b.at {
			if p.r >= r && b.band[v] == b.rowBand[r/2] {
				s.add(v)
			}
		}
		if b.attempt(s, 0, -2) {
			r -= 2
		}
	}
}

// moveBranches tries to move what follows a side exit in its row, as far as it is one line of steps, to another row,
// together with a shift along the flow.
func (b *board) moveBranches() {
	for k, e := range b.g.Edges {
		if b.back[k] || b.main[k] || e.From == e.To || b.band[e.From] != b.band[e.To] {
			continue
		}
		s := b.line(e.To)
		for _, c := range [2]int{0, 2} {
			for _, r := range [4]int{2, -2, 1, -1} {
				base, first := b.at[e.From], b.at[e.To]
				b.attempt(s, base.c+c-first.c, base.r+r-first.r)
			}
		}
		for _, by := range [2]int{2, -2} { // the nearest row in which there is room
			for r := 2 * by; ; r += by {
				base, first := b.at[e.From], b.at[e.To]
				if (base.r+r-first.r)*by >= 0 || b.attempt(s, 0, base.r+r-first.r) {
					break
				}
			}
		}
	}
}

// line returns the nodes that follow a node one after the other in its row and band, itself included.
func (b *board) line(v int) set {
	s := make(set, (len(b.at)+63)/64)
	for {
		s.add(v)
		next := none
		for _, k := range b.edges[v] {
			e := b.g.Edges[k]
			if e.From == v && !b.back[k] && b.at[e.To].r == b.at[v].r && b.at[e.To].c > b.at[v].c && !b.main[k] {
				next = e.To
			}
		}
		if next == none || s.has(next) {
			return s
		}
		in := 0
		for _, k := range b.edges[next] {
			if b.g.Edges[k].To == next && !b.back[k] {
				in++
			}
		}
		if in > 1 {
			return s
		}
		v = next
	}
}
