// Package hierarchy arranges cards, each under its superior, and leads the lines between them.
//
// Place takes the cards as Nodes and returns where each stands. It goes from the leaves up: the branches under a card
// are set beside each other as closely as their outlines allow, and the card in the middle between the outer edges of
// the first and the last card under it (Reingold and Tilford, Tidier Drawings of Trees, 1981). Cards may be of any
// size, so an outline is a list of steps rather than one width for each level (van der Ploeg, Drawing Non-layered Tidy
// Trees in Linear Time, 2014). Between the first and the last branch, each stands half way between the place it has
// when all are pushed together from the left and that from the right, which leaves the whole as narrow as it is and
// makes a tree that is the mirror image of another one be drawn as its mirror image.
//
// Everything is computed in the frame of an arrangement: one axis along, in which superiors lead to those under them,
// and one across. Down, up and across differ in how a frame lies on the sheet.
package hierarchy

import (
	"slices"

	"plaintracer/core/geometry"
)

// Arrangement is how the cards under a card stand.
type Arrangement string

// The arrangements. The first three lead a way over the sheet; in the others the cards under one hang on a line that
// runs down from it: on its right, on its left, on both sides; as a list without lines; or in several rows.
const (
	Down   Arrangement = "down"
	Up     Arrangement = "up"
	Across Arrangement = "across"
	Right  Arrangement = "right"
	Left   Arrangement = "left"
	Both   Arrangement = "both"
	List   Arrangement = "list"
	Rows   Arrangement = "rows"
)

// Arrangements are all of them, in the order in which they are offered.
var Arrangements = []Arrangement{Down, Up, Across, Right, Left, Both, List, Rows}

// leads reports whether the arrangement leads a way over the sheet.
func (a Arrangement) leads() bool { return a == Down || a == Up || a == Across }

// Node is one card.
type Node struct {
	// ID tells the card from the others; only Place with an earlier chart asks for it.
	ID string
	// W and H are its size.
	W, H int
	// Under is the place of its superior in the list, or -1.
	Under int
	// Assistant sets it beside the line that leads down from its superior, before the others.
	Assistant bool
	// Below is how those under it stand, and with them those under these; Last is how those stand of whom none has
	// anybody under him. Empty is as above.
	Below, Last Arrangement
	// Folded hides all that are under it.
	Folded bool
}

// Settings are what holds for all cards.
type Settings struct {
	// Below and Last are as for a node, where nothing above it says anything; empty is down, and as the others.
	Below, Last Arrangement
	// Level lets all cards of a level begin on one line, as far as they lead the same way.
	Level bool
	// Apart is the room between cards beside each other, Gap that between a card and those under it, Indent how far
	// those that hang on a line stand from it.
	Apart, Gap, Indent int
}

// Standard are the distances of a chart.
const (
	Apart  = 20 * geometry.Px
	Gap    = 40 * geometry.Px
	Indent = 20 * geometry.Px
	tight  = 14 * geometry.Px // between cards that hang on one line
)

// Chart is where the cards stand. All lists are in the order of the nodes.
type Chart struct {
	// Centre is the middle of each card. Hidden are those in folded branches, whose middle is that of the card into
	// which they are folded.
	Centre []geometry.Point
	Hidden []bool
	// Level is how far a card is from the one at the head, which has 0; Under are those under each, in their order.
	Level []int
	Under [][]int
	// The lines, seen from the middle of the card from which they lead: stems run from a card to those under it, drops
	// are the rest of the lines that lead to a card, ways the whole of them.
	stem, drop, way []geometry.Polyline
	off             []geometry.Point // of each card, from the middle of its superior
	under           []int            // its superior, or -1
	known           map[string]*branch
	set             Settings
}

// Stem returns what runs from card i to those under it, Drop the rest of the line that leads to it from its superior;
// together these are the lines of the chart, each stretch drawn once. Way returns the whole line from its superior to
// it. They are empty where there is none.
func (c *Chart) Stem(i int) geometry.Polyline { return moved(c.stem[i], c.Centre[i]) }

// Drop is explained beside Stem.
func (c *Chart) Drop(i int) geometry.Polyline { return c.fromAbove(c.drop, i) }

// Way is explained beside Stem.
func (c *Chart) Way(i int) geometry.Polyline { return c.fromAbove(c.way, i) }

func (c *Chart) fromAbove(lines []geometry.Polyline, i int) geometry.Polyline {
	if c.under[i] < 0 {
		return nil
	}
	return moved(lines[i], c.Centre[c.under[i]])
}

// Alike reports whether the lines that are drawn with card i, its stem and its drop, lie about it as those of card j of
// another chart do, as far as that is known without a look at them.
func (c *Chart) Alike(i int, other *Chart, j int) bool {
	same := func(a, b geometry.Polyline) bool {
		return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0])
	}
	return c.off[i] == other.off[j] && same(c.stem[i], other.stem[j]) && same(c.drop[i], other.drop[j])
}

// Move moves the whole chart.
func (c *Chart) Move(by geometry.Point) {
	for i := range c.Centre {
		c.Centre[i] = c.Centre[i].Add(by)
	}
}

// Place arranges the cards. Those under the same one stand in the order of the list. A node whose superiors lead round
// in a circle counts as one without. Of an earlier chart, which may be nil, it takes over the branches that are as they
// were.
func Place(nodes []Node, set Settings, earlier *Chart) *Chart {
	n := len(nodes)
	w := &work{nodes: nodes, set: set, Chart: &Chart{Centre: make([]geometry.Point, n), Hidden: make([]bool, n),
		Level: make([]int, n), Under: make([][]int, n), stem: make([]geometry.Polyline, n),
		drop: make([]geometry.Polyline, n), way: make([]geometry.Polyline, n), off: make([]geometry.Point, n),
		under: make([]int, n), set: set, known: make(map[string]*branch, n)},
		how: make([]Arrangement, n), branches: make([]*branch, n)}
	if earlier != nil && earlier.set == set {
		w.before = earlier.known
	}
	w.plan()
	for _, v := range slices.Backward(w.order) {
		if !w.Hidden[v] {
			w.arrange(v)
		}
	}
	w.heads()
	for _, v := range w.order {
		switch p := w.Chart.under[v]; {
		case p < 0:
			w.Centre[v] = w.off[v]
		case w.Hidden[v]:
			w.Centre[v] = w.Centre[p]
		default:
			w.Centre[v] = w.Centre[p].Add(w.off[v])
		}
	}
	return w.Chart
}

// branch is a card with all under it, as it was arranged. It is never changed.
type branch struct {
	key  key
	kids []*branch
	block
	stem  geometry.Polyline
	drops []geometry.Polyline // of the kids, as their ways and places
	ways  []geometry.Polyline
	offs  []geometry.Point
}

// key is what a branch is arranged by beside those under its card.
type key struct {
	w, h, length int
	assistant    bool
	how          Arrangement
	f            frame
}

func moved(line geometry.Polyline, by geometry.Point) geometry.Polyline {
	out := make(geometry.Polyline, len(line))
	for i := range line {
		out[i] = line[i].Add(by)
	}
	return out
}

// work is the computation of one chart.
type work struct {
	*Chart
	nodes []Node
	set   Settings
	// branches are those of this chart, before those of an earlier one.
	branches []*branch
	before   map[string]*branch
	// order are the nodes from the head down, roots those without a superior.
	order, roots []int
	// how is the arrangement of those under each node, leading the one that leads where it stands, longest how long
	// the longest card of a level is, along down and along across.
	how     []Arrangement
	leading []Arrangement
	longest map[level]int
	// slab and points are set aside for the steps of outlines and for the corners of lines.
	slab   []step
	points []geometry.Point
}

type level struct {
	at     int
	across bool
}

// plan finds out who is under whom, on which levels, and how everything is to stand.
func (w *work) plan() {
	n := len(w.nodes)
	under := w.Chart.under
	for v := range w.nodes {
		under[v] = w.nodes[v].Under
		// A circle is cut at the first of its nodes.
		for p, far := under[v], 0; p >= 0; p = w.nodes[p].Under {
			if far++; p == v || far > n {
				if p == v && w.firstOfCircle(v) {
					under[v] = -1
				}
				break
			}
		}
	}
	for v, p := range under {
		if p < 0 {
			w.roots = append(w.roots, v)
		} else {
			w.Under[p] = append(w.Under[p], v)
		}
	}
	w.leading = make([]Arrangement, n)
	below, last := make([]Arrangement, n), make([]Arrangement, n)
	w.order = append(make([]int, 0, n), w.roots...)
	w.longest = map[level]int{}
	for i := 0; i < len(w.order); i++ {
		v := w.order[i]
		p, nd := under[v], &w.nodes[v]
		below[v], last[v], w.leading[v] = w.set.Below, w.set.Last, Down
		if w.set.Below.leads() {
			w.leading[v] = w.set.Below
		}
		if p >= 0 {
			below[v], last[v], w.leading[v] = below[p], last[p], w.leading[p]
			w.Level[v], w.Hidden[v] = w.Level[p]+1, w.Hidden[p] || w.nodes[p].Folded
		}
		if nd.Below != "" {
			below[v] = nd.Below
		}
		if nd.Last != "" {
			last[v] = nd.Last
		}
		if below[v].leads() {
			w.leading[v] = below[v]
		}
		w.how[v] = below[v]
		if w.how[v] == "" {
			w.how[v] = Down
		}
		if last[v] != "" && (nd.Below == "" || nd.Below.leads()) && w.onlyLeaves(v) {
			w.how[v] = last[v]
		}
		if w.how[v] == List && !w.onlyLeaves(v) {
			w.how[v] = Right
		}
		if w.set.Level && !w.Hidden[v] {
			for _, across := range [2]bool{false, true} {
				k := level{w.Level[v], across}
				w.longest[k] = max(w.longest[k], frame{across: across}.length(nd))
			}
		}
		w.order = append(w.order, w.Under[v]...)
	}
}

// firstOfCircle reports whether of the nodes of the circle that v stands in, it is the first.
func (w *work) firstOfCircle(v int) bool {
	for p := w.nodes[v].Under; p != v; p = w.nodes[p].Under {
		if p < v {
			return false
		}
	}
	return true
}

func (w *work) onlyLeaves(v int) bool {
	for _, u := range w.Under[v] {
		if len(w.Under[u]) > 0 && !w.nodes[u].Folded {
			return false
		}
	}
	return true
}

// frame is how the axes of an arrangement lie on the sheet.
type frame struct{ up, across bool }

func (w *work) frameOf(v int) frame {
	switch how := w.how[v]; {
	case how.leads():
		return frame{up: how == Up, across: how == Across}
	default:
		return frame{up: w.leading[v] == Up}
	}
}

func (f frame) length(nd *Node) int {
	if f.across {
		return nd.W
	}
	return nd.H
}

func (f frame) breadth(nd *Node) int {
	if f.across {
		return nd.H
	}
	return nd.W
}

// onSheet returns how far a place lies on the sheet from another one.
func (f frame) onSheet(across, along int) geometry.Point {
	switch {
	case f.across:
		return geometry.Point{X: along, Y: across}
	case f.up:
		return geometry.Point{X: across, Y: -along}
	}
	return geometry.Point{X: across, Y: along}
}

// seen is the opposite of onSheet.
func (f frame) seen(d geometry.Point) (across, along int) {
	switch {
	case f.across:
		return d.Y, d.X
	case f.up:
		return d.X, -d.Y
	}
	return d.X, d.Y
}

// step is a part of an outline: how far it reaches between two places along.
type step struct{ from, to, reach int }

// edge is one side of an outline, its steps in their order without overlaps.
type edge []step

// block is what a branch covers, seen from the middle of the near side of its card: left and right are how far it
// reaches to either side, begin and end how far along.
type block struct {
	left, right edge
	begin, end  int
}

// within is a rectangle in a frame.
type within struct{ left, right, from, to int }

// rectangle returns what a rectangle covers.
func (w *work) rectangle(r within) block {
	l, e := w.steps(1), w.steps(1)
	return block{append(l, step{r.from, r.to, -r.left}), append(e, step{r.from, r.to, r.right}), r.from, r.to}
}

// blockOf returns what rectangles cover.
func (w *work) blockOf(list []within) block {
	b := w.rectangle(list[0])
	for _, r := range list[1:] {
		left, right := [1]step{{r.from, r.to, -r.left}}, [1]step{{r.from, r.to, r.right}}
		b = w.with(b, block{left[:], right[:], r.from, r.to}, 0, 0)
	}
	return b
}

// moved returns a block that lies elsewhere.
func (w *work) moved(b block, across, along int) block {
	if across == 0 && along == 0 {
		return b
	}
	move := func(e edge, out int) edge {
		list := w.steps(len(e))
		for _, s := range e {
			list = append(list, step{s.from + along, s.to + along, s.reach + out})
		}
		return list
	}
	return block{move(b.left, -across), move(b.right, across), b.begin + along, b.end + along}
}

// with returns what two blocks cover of which the second lies elsewhere.
func (w *work) with(b, c block, across, along int) block {
	if len(b.left) == 0 {
		return w.moved(c, across, along)
	}
	return block{w.outer(b.left, c.left, along, -across), w.outer(b.right, c.right, along, across),
		min(b.begin, c.begin+along), max(b.end, c.end+along)}
}

// slab is for how many steps room is made at once.
const slab = 4096

// steps returns room for so many steps, out of what is set aside for many.
func (w *work) steps(n int) edge {
	if len(w.slab) < n {
		w.slab = make([]step, max(n, slab))
	}
	list := edge(w.slab[:0:n])
	w.slab = w.slab[n:]
	return list
}

// most returns how far an edge reaches at most.
func (e edge) most() int {
	m := e[0].reach
	for _, s := range e {
		m = max(m, s.reach)
	}
	return m
}

// outer returns how far two edges reach together, of which the second lies so much farther along and out.
func (w *work) outer(a, b edge, along, out int) edge {
	n := 2 * (len(a) + len(b))
	if len(w.slab) < n {
		w.slab = make([]step, max(n, slab))
	}
	list := edge(w.slab[:0])
	add := func(from, to, reach int) {
		if from >= to {
			return
		}
		if n := len(list); n > 0 && list[n-1].to == from && list[n-1].reach == reach {
			list[n-1].to = to
			return
		}
		list = append(list, step{from, to, reach})
	}
	const beyond = 1 << 60
	at := -beyond
	for i, j := 0, 0; i < len(a) || j < len(b); {
		p, q := step{beyond, beyond, 0}, step{beyond, beyond, 0}
		if i < len(a) {
			p = a[i]
		}
		if j < len(b) {
			q = step{b[j].from + along, b[j].to + along, b[j].reach + out}
		}
		p.from, q.from = max(p.from, at), max(q.from, at)
		switch {
		case p.to <= at:
			i++
		case q.to <= at:
			j++
		case p.from < q.from: // what one has alone
			at = min(p.to, q.from)
			add(p.from, at, p.reach)
		case q.from < p.from:
			at = min(q.to, p.from)
			add(q.from, at, q.reach)
		default: // and what both have
			at = min(p.to, q.to)
			add(p.from, at, max(p.reach, q.reach))
		}
	}
	w.slab = w.slab[len(list):]
	return list[:len(list):len(list)]
}

// clash returns how far apart two blocks have to be, of which one has the edge a on its right and the other one b on
// its left, so that they just touch; ok is false where they pass each other.
func clash(a, b edge) (apart int, ok bool) {
	for i, j := 0, 0; i < len(a) && j < len(b); {
		if a[i].from < b[j].to && b[j].from < a[i].to {
			if d := a[i].reach + b[j].reach; !ok || d > apart {
				apart, ok = d, true
			}
		}
		if a[i].to < b[j].to {
			i++
		} else {
			j++
		}
	}
	return apart, ok
}
