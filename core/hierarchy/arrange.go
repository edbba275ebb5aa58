package hierarchy

import (
	"slices"

	"plaintracer/core/geometry"
)

// hand is what arranging those under one card knows: the frame, and what they cover so far. Places along are seen from
// the near side of the card, those across from its middle.
type hand struct {
	*work
	v      int
	f      frame
	length int // of the card, or of its level
	all    block
	// line are the rectangles that lines cover, beside those of the cards.
	lines []within
	stem  geometry.Polyline
}

// arrange sets those under a card, whose own branches are known.
func (w *work) arrange(v int) {
	nd, f := &w.nodes[v], w.frameOf(v)
	h := &hand{work: w, v: v, f: f, length: f.length(nd)}
	if w.set.Level && w.how[v].leads() {
		h.length = max(h.length, w.longest[level{w.Level[v], f.across}])
	}
	k := key{nd.W, nd.H, h.length, nd.Assistant, w.how[v], f}
	var under []int
	if !nd.Folded {
		under = w.Under[v]
	}
	b := w.before[nd.ID]
	if b == nil || b.key != k || !w.sameKids(b, under) {
		b = &branch{key: k, kids: make([]*branch, len(under))}
		for i, u := range under {
			b.kids[i] = w.branches[u]
		}
		h.stand(under)
		b.block, b.stem = h.all, h.stem
		for _, u := range under {
			b.drops, b.ways, b.offs = append(b.drops, w.drop[u]), append(b.ways, w.way[u]), append(b.offs, w.off[u])
		}
	} else {
		for i, u := range under {
			w.drop[u], w.way[u], w.off[u] = b.drops[i], b.ways[i], b.offs[i]
		}
	}
	w.branches[v], w.stem[v] = b, b.stem
	if nd.ID != "" {
		w.known[nd.ID] = b
	}
}

// sameKids reports whether those under a card are as they were in a branch.
func (w *work) sameKids(b *branch, under []int) bool {
	if len(b.kids) != len(under) {
		return false
	}
	for i, u := range under {
		if b.kids[i] != w.branches[u] {
			return false
		}
	}
	return true
}

// stand arranges the cards under the one at hand.
func (h *hand) stand(list []int) {
	nd := &h.nodes[h.v]
	half := h.f.breadth(nd) / 2
	h.all = h.rectangle(within{-half, h.f.breadth(nd) - half, 0, h.f.length(nd)})
	var under, assistants []int
	for _, u := range list {
		if h.nodes[u].Assistant {
			assistants = append(assistants, u)
		} else {
			under = append(under, u)
		}
	}
	from := h.length
	if len(assistants) > 0 {
		from = h.assist(assistants)
	}
	if len(under) > 0 {
		switch how := h.how[h.v]; how {
		case Right, Left:
			h.hang(under, from, how == Left)
		case Both:
			h.bothSides(under, from)
		case List:
			h.list(under, from)
		case Rows:
			h.rows(under, from)
		default:
			h.beside(under, from)
		}
	}
	if len(h.lines) > 0 {
		h.all = h.with(h.all, h.blockOf(h.lines), 0, 0)
	}
}

// block returns what the branch of u covers, in the frame of this hand, seen from the middle of the near side of its
// card; entry is where across the line to it comes in, and aside says that it has to come from the left.
func (h *hand) block(u int) (b block, entry int, aside bool) {
	g := h.frameOf(u)
	if g == h.f || !h.opens(u) {
		if g != h.f {
			half := h.f.breadth(&h.nodes[u]) / 2
			b = h.rectangle(within{-half, h.f.breadth(&h.nodes[u]) - half, 0, h.f.length(&h.nodes[u])})
			return b, 0, false
		}
		return h.branches[u].block, 0, false
	}
	// It leads another way: all its cards and lines are looked at.
	var list []within
	h.gather(h.branches[u], geometry.Point{}, &list)
	half := h.f.length(&h.nodes[u]) / 2
	for i := range list {
		list[i].from, list[i].to = list[i].from+half, list[i].to+half
	}
	b = h.blockOf(list)
	if g.across || h.f.across {
		return b, 0, false
	}
	// Up in down, or the other way round: what is under it lies where the line would come from.
	entry = -b.left.most() - h.set.Apart/2
	b.left = h.outer(b.left, edge{{b.begin, half + 1, -entry}}, 0, 0)
	return b, entry, true
}

// opens reports whether others are shown under a card.
func (h *hand) opens(u int) bool { return len(h.Under[u]) > 0 && !h.nodes[u].Folded }

// gather lists the rectangles of the cards and lines of a branch, seen from the middle of the card it was begun with.
func (h *hand) gather(b *branch, at geometry.Point, list *[]within) {
	box := func(p, q geometry.Point) {
		a0, t0 := h.f.seen(p)
		a1, t1 := h.f.seen(q)
		*list = append(*list, within{min(a0, a1), max(a0, a1, min(a0, a1)+1), min(t0, t1), max(t0, t1, min(t0, t1)+1)})
	}
	w, l := b.key.w, b.key.h
	box(geometry.Point{X: at.X - w/2, Y: at.Y - l/2}, geometry.Point{X: at.X + w - w/2, Y: at.Y + l - l/2})
	line := func(l geometry.Polyline) {
		for i := 1; i < len(l); i++ {
			box(l[i-1].Add(at), l[i].Add(at))
		}
	}
	line(b.stem)
	for i, kid := range b.kids {
		line(b.drops[i])
		h.gather(kid, at.Add(b.offs[i]), list)
	}
}

// put sets a branch so that the middle of the near side of its card lies there.
func (h *hand) put(u, across, along int, b block) {
	h.all = h.with(h.all, b, across, along)
	half := h.f.length(&h.nodes[u]) / 2
	h.off[u] = h.f.onSheet(across, along+half-h.f.length(&h.nodes[h.v])/2)
}

// at returns a place of the frame, seen from the middle of the card.
func (h *hand) at(across, along int) geometry.Point {
	return h.f.onSheet(across, along-h.f.length(&h.nodes[h.v])/2)
}

// path returns a line through places of the frame, given in pairs.
func (h *hand) path(places ...int) geometry.Polyline {
	n := len(places) / 2
	if len(h.points) < n {
		h.points = make([]geometry.Point, max(n, 1024))
	}
	out := geometry.Polyline(h.points[:0:n])
	h.points = h.points[n:]
	for i := 0; i+1 < len(places); i += 2 {
		p := h.at(places[i], places[i+1])
		if n := len(out); n == 0 || out[n-1] != p {
			out = append(out, p)
		}
	}
	return out
}

// spread returns places across for branches beside each other, seen from the middle between the outer edges of the
// first and the last card, which are so broad: each as close to the others as their outlines allow, and half way
// between the two closest places.
func (w *work) spread(blocks []block, apart, first, last int) []int {
	n := len(blocks)
	at, back := make([]int, n), make([]int, n)
	reach := blocks[0].right
	for i := 1; i < n; i++ {
		if d, ok := clash(reach, blocks[i].left); ok {
			at[i] = d + apart
		} else {
			at[i] = at[i-1]
		}
		at[i] = max(at[i], at[i-1])
		reach = w.outer(reach, blocks[i].right, 0, at[i])
	}
	back[n-1] = at[n-1]
	reach = w.moved(blocks[n-1], at[n-1], 0).left
	for i := n - 2; i >= 0; i-- {
		back[i] = back[i+1]
		if d, ok := clash(blocks[i].right, reach); ok {
			back[i] = min(back[i], -d-apart)
		}
		reach = w.outer(reach, blocks[i].left, 0, -back[i])
	}
	for i := range at {
		at[i] = half(at[i] + back[i])
	}
	middle := half(at[0] - first/2 + at[n-1] + last - last/2)
	for i := range at {
		at[i] -= middle
	}
	return at
}

// half returns the half of a number, rounded down.
func half(n int) int { return n >> 1 }

// under is a branch that comes below a rail.
type under struct {
	block
	u int
	// entry is where across the line comes in, seen from the card; aside says that it comes from the left.
	entry int
	aside bool
	// at is where the line comes down, near where the near side of the card is.
	at, near int
}

// below returns a branch whose card comes so far below a place, with what it covers seen from where the line comes in.
func (h *hand) below(u, from int) under {
	b, entry, aside := h.block(u)
	near := from + h.set.Gap - min(b.begin, 0)
	return under{block: h.moved(b, -entry, 0), u: u, entry: entry, aside: aside, near: near}
}

// drops leads the lines to branches below a rail, and sets their cards.
func (h *hand) drops(list []under, rail int) {
	begin := h.f.length(&h.nodes[h.v])
	for i, b := range list {
		half := h.f.length(&h.nodes[b.u]) / 2
		h.off[b.u] = h.f.onSheet(b.at-b.entry, b.near+half-begin/2)
		inner := 0 // where the rail is that leads to the one beside it
		switch {
		case b.at > 0 && i > 0:
			inner = max(0, list[i-1].at)
		case b.at < 0 && i+1 < len(list):
			inner = min(0, list[i+1].at)
		}
		end := []int{b.at, b.near}
		if b.aside {
			end = []int{b.at, b.near + half, b.at - b.entry - h.f.breadth(&h.nodes[b.u])/2, b.near + half}
		}
		h.drop[b.u] = h.path(append([]int{inner, rail, b.at, rail}, end...)...)
		h.way[b.u] = h.path(append([]int{0, begin, 0, rail, b.at, rail}, end...)...)
	}
}

// beside sets branches beside each other under one rail.
func (h *hand) beside(list []int, from int) {
	all, blocks := make([]under, len(list)), make([]block, len(list))
	for i, u := range list {
		all[i] = h.below(u, from)
		// The line that leads to it from the rail belongs to it, too.
		blocks[i] = h.with(h.rectangle(within{-1, 1, from, all[i].near}), all[i].block, 0, all[i].near)
	}
	breadth := func(i int) int { return h.f.breadth(&h.nodes[list[i]]) }
	for i, at := range h.spread(blocks, h.set.Apart, breadth(0), breadth(len(list)-1)) {
		all[i].at = at
		h.all = h.with(h.all, blocks[i], at, 0)
	}
	begin, rail := h.f.length(&h.nodes[h.v]), from+h.set.Gap/2
	h.stem = h.path(0, begin, 0, rail)
	h.lines = append(h.lines, within{0, 1, begin, rail})
	h.drops(all, rail)
}

// clear returns how far the middle of a card has to be from a line beside it so that nothing of its branch comes
// nearer.
func (h *hand) clear(b block, u int, left bool) int {
	breadth := h.f.breadth(&h.nodes[u])
	if left { // the line is on its right
		return max(b.right.most(), breadth-breadth/2)
	}
	return max(b.left.most(), breadth/2)
}

// hangOn sets a branch beside a line that runs along: at a place along, on one of its sides. It returns where it ends.
func (h *hand) hangOn(u, line, along int, left bool) int {
	b, _, _ := h.block(u)
	near := along - min(b.begin, 0)
	away := h.clear(b, u, left) + h.set.Indent
	across, side := line+away, -h.f.breadth(&h.nodes[u])/2
	if left {
		across, side = line-away, h.f.breadth(&h.nodes[u])-h.f.breadth(&h.nodes[u])/2
	}
	h.put(u, across, near, b)
	middle := near + h.f.length(&h.nodes[u])/2
	toLine := h.f.onSheet(-1, 0)
	if left {
		toLine = h.f.onSheet(1, 0)
	}
	if h.opens(u) && h.frameOf(u).onSheet(0, 1) == toLine { // those under it stand where the line would come in
		above := along - tight/2
		h.drop[u] = h.path(line, above, across, above, across, near)
		h.way[u] = h.path(line, h.f.length(&h.nodes[h.v]), line, above, across, above, across, near)
		h.lines = append(h.lines, within{min(across, line), max(across, line), above, above + 1},
			within{across, across + 1, above, near})
		h.stemTo(line, above)
		return near + b.end
	}
	h.drop[u] = h.path(line, middle, across+side, middle)
	h.way[u] = h.path(line, h.f.length(&h.nodes[h.v]), line, middle, across+side, middle)
	h.lines = append(h.lines, within{min(line, across), max(line, across), middle, middle + 1})
	h.stemTo(line, middle)
	return near + b.end
}

// stemTo leads the line from the card on to a place.
func (h *hand) stemTo(line, along int) {
	begin := h.f.length(&h.nodes[h.v])
	if len(h.stem) > 1 {
		if _, now := h.f.seen(h.stem[len(h.stem)-1].Sub(h.at(0, 0))); now > along {
			along = now
		}
	}
	h.stem = h.path(line, begin, line, along)
	h.lines = append(h.lines, within{line, line + 1, begin, along})
}

// hang sets branches one after the other along a line on one of its sides.
func (h *hand) hang(list []int, from int, left bool) {
	breadth := h.f.breadth(&h.nodes[h.v])
	line := -breadth/2 + min(h.set.Indent/2, breadth/2)
	if left {
		line = breadth - breadth/2 - min(h.set.Indent/2, breadth/2)
	}
	if len(h.stem) > 1 { // the assistants stand by a line in the middle
		line = 0
	}
	at := from + tight
	for _, u := range list {
		at = h.hangOn(u, line, at, left) + tight
	}
}

// bothSides sets branches in pairs along a line.
func (h *hand) bothSides(list []int, from int) {
	at := from + tight
	for i := 0; i < len(list); i += 2 {
		end := h.hangOn(list[i], 0, at, true)
		if i+1 < len(list) {
			end = max(end, h.hangOn(list[i+1], 0, at, false))
		}
		at = end + tight
	}
}

// assist sets the assistants in pairs along the line from the card, and returns where those under it may begin.
func (h *hand) assist(list []int) int {
	at := h.length + tight
	for i := 0; i < len(list); i += 2 {
		end := h.hangOn(list[i], 0, at, true)
		if i+1 < len(list) {
			end = max(end, h.hangOn(list[i+1], 0, at, false))
		}
		at = end + tight
	}
	return at - tight
}

// list sets cards directly one after the other.
func (h *hand) list(list []int, from int) {
	at := from + h.set.Gap/2
	begin := h.f.length(&h.nodes[h.v])
	h.stem = h.path(0, begin, 0, at)
	h.lines = append(h.lines, within{0, 1, begin, at})
	for _, u := range list {
		b, _, _ := h.block(u)
		h.put(u, 0, at, b)
		h.way[u] = slices.Clone(h.stem)
		at += b.end
	}
}

// rows sets branches in several rows, between which the line from the card runs in the middle.
func (h *hand) rows(list []int, from int) {
	blocks := make([]under, len(list))
	wide, long := 0, 0
	for i, u := range list {
		b := h.below(u, 0)
		blocks[i] = b
		wide = max(wide, b.left.most()+b.right.most()+h.set.Apart)
		long = max(long, b.end-b.begin+h.set.Gap)
	}
	each := perRow(len(list), wide, long)
	for len(blocks) > 0 {
		n := min(each, len(blocks))
		row, rail := blocks[:n], from+h.set.Gap/2
		near, end := from+h.set.Gap, from
		for _, b := range row {
			near = max(near, from+b.near)
		}
		h.places(row, n == len(blocks))
		for i := range row {
			b := &row[i]
			b.near = near
			h.all = h.with(h.all, b.block, b.at, near)
			end = max(end, near+b.end)
			h.lines = append(h.lines, within{b.at, b.at + 1, rail, near})
		}
		h.drops(row, rail)
		h.lines = append(h.lines, within{min(row[0].at, 0), max(row[n-1].at, 0) + 1, rail, rail + 1})
		h.stemTo(0, rail)
		blocks, from = blocks[n:], end
	}
}

// places sets the branches of a row: those of the last one lie round the line from the card, of the others half lie on
// either side.
func (h *hand) places(row []under, last bool) {
	n := len(row)
	boxes := make([]block, n) // as rectangles: nothing of one row comes into another
	for i, b := range row {
		boxes[i] = h.rectangle(within{-b.left.most(), b.right.most(), 0, 1})
	}
	if last {
		for i, at := range h.spread(boxes, h.set.Apart, 0, 0) {
			row[i].at = at
		}
		return
	}
	at := -h.set.Apart / 2
	for i := n/2 - 1; i >= 0; i-- {
		row[i].at = at - boxes[i].right.most()
		at = row[i].at - boxes[i].left.most() - h.set.Apart
	}
	at = h.set.Apart / 2
	for i := n / 2; i < n; i++ {
		row[i].at = at + boxes[i].left.most()
		at = row[i].at + boxes[i].right.most() + h.set.Apart
	}
}

// perRow returns into rows of how many branches of a size are set, an even number, so that all of them are about as
// wide in proportion to their height as a sheet that lies across.
func perRow(n, wide, long int) int {
	best, off := n, -1
	for each := 2; each < n; each += 2 {
		w, l := each*wide, (n+each-1)/each*long
		d := geometry.Abs(2*w - 3*l)
		if off < 0 || d < off {
			best, off = each, d
		}
	}
	return best
}

// heads sets the branches of those without a superior beside each other.
func (w *work) heads() {
	if len(w.roots) == 0 {
		return
	}
	f := frame{up: w.set.Below == Up, across: w.set.Below == Across}
	h := &hand{work: w, f: f}
	blocks := make([]block, len(w.roots))
	for i, v := range w.roots {
		b, _, _ := h.block(v)
		blocks[i] = b
	}
	for i, at := range w.spread(blocks, 2*w.set.Apart, 0, 0) {
		v := w.roots[i]
		w.off[v] = f.onSheet(at, f.length(&w.nodes[v])/2)
	}
}
