package grid

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

func graphOf(p *processes.Graph) layered.Graph {
	g := layered.Graph{Gap: 40 * px, Apart: 40 * px, Bands: p.Lanes}
	for _, n := range p.Nodes {
		nd := layered.Node{Along: 120 * px, Near: 40 * px, Far: 40 * px, Band: layered.None, Stage: layered.None}
		if p.Lanes > 0 {
			nd.Band = n.Lane
		}
		g.Nodes = append(g.Nodes, nd)
	}
	for _, e := range p.Edges {
		g.Edges = append(g.Edges, layered.Edge{From: e.From, To: e.To, Exit: e.Exit})
	}
	return g
}

// TestDrawingsAreSound draws made-up processes, with and without lanes, stages and mirrored: nothing overlaps, all
// stand in their bands, stages follow each other, what leads on never leads back, and the same graph gives the same
// drawing.
func TestDrawingsAreSound(t *testing.T) {
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 17))
		p := processes.Make(seed, processes.Shape{Steps: 4 + r.IntN(60), Lanes: r.IntN(5), Strays: 5})
		g := graphOf(p)
		g.Mirror = seed%3 == 0
		for i := range g.Nodes {
			n := &g.Nodes[i]
			n.Along, n.Near, n.Far = n.Along+r.IntN(80*px), n.Near+r.IntN(40*px), n.Far+r.IntN(40*px)
		}
		if g.Bands > 0 && seed%2 == 0 { // stages along the layers, so that no connector leads back over one
			d := layered.Draw(g)
			for i := range g.Nodes {
				g.Nodes[i].Stage = d.Layer[i] / 4
			}
		}
		d := Draw(g)
		if !reflect.DeepEqual(d, Draw(g)) {
			t.Fatalf("process %d is drawn in two ways", seed)
		}
		box := func(v int) geometry.Box {
			n := g.Nodes[v]
			return geometry.Box{X: d.Along[v] - n.Along/2, Y: d.Across[v] - n.Near, W: n.Along, H: n.Near + n.Far}
		}
		for v, n := range g.Nodes {
			for u := range v {
				a, b := box(u), box(v)
				if g.Nodes[u].Band == n.Band { // what keeps bands apart is not drawn here
					a = a.Grown(10 * px)
				}
				if a.Meets(b) {
					t.Fatalf("process %d: %d at %v and %d at %v are too close", seed, u, a, v, b)
				}
				if s, o := g.Nodes[u].Stage, n.Stage; s != o && s != layered.None &&
					(s < o) != (d.Layer[u] < d.Layer[v]) {
					t.Fatalf("process %d: %d of stage %d stands in column %d, %d of stage %d in %d", seed, u, s,
						d.Layer[u], v, o, d.Layer[v])
				}
			}
			if g.Bands > 0 {
				if s := d.Bands[n.Band]; d.Across[v]-n.Near < s.From || d.Across[v]+n.Far > s.To {
					t.Fatalf("process %d: %d is not inside its band", seed, v)
				}
			}
		}
		for k, e := range g.Edges {
			if !d.Back[k] && d.Layer[e.To] < d.Layer[e.From] {
				t.Fatalf("process %d: the way on from %d to %d leads back", seed, e.From, e.To)
			}
		}
	}
}

// TestBoardKeepsCount makes random moves, and takes them back: what the board knows of its cells, sides and paths is
// always what stands there.
func TestBoardKeepsCount(t *testing.T) {
	for seed := range uint64(30) {
		r := rand.New(rand.NewPCG(seed, 3))
		g := graphOf(processes.Make(seed, processes.Shape{Steps: 20, Lanes: int(seed % 3), Strays: 10}))
		b := newBoard(&g, layered.Draw(g))
		check := func(what string) {
			t.Helper()
			ports := make([][4]port, len(b.at))
			for _, k := range b.order {
				e, q := g.Edges[k], b.paths[k]
				if q.n < 2 {
					t.Fatalf("%s: edge %d has no path", what, k)
				}
				ports[e.From][q.from].out++
				ports[e.To][q.to].in++
				if (box{q.lo.x, q.lo.y, q.hi.x, q.hi.y}) != b.boxes[k] {
					t.Fatalf("%s: the box of edge %d is not that of its path", what, k)
				}
			}
			if !reflect.DeepEqual(ports, b.ports) {
				t.Fatalf("%s: sides are miscounted", what)
			}
			stand := 0
			for i, v := range b.content {
				if v != none {
					stand++
					if b.index(b.at[v]) != i {
						t.Fatalf("%s: node %d is not where it stands", what, v)
					}
				}
			}
			if stand != len(b.at) {
				t.Fatalf("%s: %d of %d nodes stand", what, stand, len(b.at))
			}
			for _, k := range b.order { // crossings as counted without bins
				want := 0
				for _, j := range b.order {
					if j != k {
						want += meet(&b.paths[k], &b.paths[j], g.Edges[k].To == g.Edges[j].To)
					}
				}
				if got := b.met(k, &b.paths[k], 1<<30); got != want {
					t.Fatalf("%s: edge %d meets %d, not %d", what, k, got, want)
				}
			}
		}
		check("at first")
		for range 40 {
			v := r.IntN(len(b.at))
			list := b.options(v, nil)
			if len(list) == 0 {
				continue
			}
			o := list[r.IntN(len(list))]
			b.gain(v, o.at)
			check("after a try")
			b.move(v, o.at)
			check("after a move")
		}
		b.fill()
		b.rebuild(nil)
		b.sum = b.total()
		check("renumbered")
		b.compact()
		check("compacted")
		b.moveBranches()
		check("swung")
	}
}

// TestFewBends compares small processes with the least number of bends any places on the grid have, found by
// exhaustive search under the same rules: what leads on does not lead back, the main path keeps its row, nothing leaves
// by a side at which something else leaves or arrives.
func TestFewBends(t *testing.T) {
	const most = 9
	got, least, compared := 0, 0, 0
	for seed := uint64(0); compared < 300; seed++ {
		p := processes.Make(seed, processes.Shape{Steps: 4 + int(seed%5), Strays: 0})
		if len(p.Nodes) > most || twofold(p) {
			continue
		}
		g := graphOf(p)
		b := newBoard(&g, layered.Draw(g))
		b.improve()
		o := oracle{g: &g, back: b.back, main: b.main, at: make([]cell, len(g.Nodes)), tries: 100_000}
		bends := 0
		for _, k := range b.order {
			if bends += b.paths[k].bends(); b.paths[k].shape == straight && o.twice(k) {
				bends += 2 // the layout leads it round
			}
		}
		n := o.least()
		if o.tries <= 0 { // it would take minutes
			continue
		}
		if bends < n {
			t.Fatalf("process %d has %d bends, fewer than the least, %d", seed, bends, n)
		}
		got, least, compared = got+bends, least+n, compared+1
	}
	t.Logf("%d processes: %d bends, at least %d", compared, got, least)
	if 10*got > 11*least {
		t.Errorf("%d bends are more than 1.1 times the least, %d", got, least)
	}
}

// twofold reports whether two edges lead from one node to the same other one.
func twofold(p *processes.Graph) bool {
	seen := map[[2]int]bool{}
	for _, e := range p.Edges {
		if seen[[2]int{e.From, e.To}] {
			return true
		}
		seen[[2]int{e.From, e.To}] = true
	}
	return false
}

// oracle finds the least number of bends by trying all places. It takes a bend for a line between two cells in
// neither one row nor one column, two where its corners or its sides are taken, or something stands in its straight
// way:
// never more than the line really needs.
type oracle struct {
	g     *layered.Graph
	back  []bool
	main  []bool
	at    []cell
	order []int
	best  int
	// tries is how many places may still be tried.
	tries int
}

func (o *oracle) least() int {
	n := len(o.g.Nodes)
	placed := make([]bool, n)
	o.order = append(o.order, 0)
	placed[0] = true
	for len(o.order) < n { // each next to one that is placed, if there is one
		next := none
		for _, e := range o.g.Edges {
			if placed[e.From] != placed[e.To] {
				if next = e.To; placed[e.To] {
					next = e.From
				}
				break
			}
		}
		if next == none {
			for v := range n {
				if !placed[v] {
					next = v
					break
				}
			}
		}
		placed[next] = true
		o.order = append(o.order, next)
	}
	for o.best = 0; ; o.best++ {
		if o.place(0, 0) {
			return o.best
		}
	}
}

// place puts the nodes from one on, and reports whether that takes no more bends than allowed.
func (o *oracle) place(i, bends int) bool {
	if o.tries--; o.tries <= 0 {
		return true
	}
	if bends > o.best {
		return false
	}
	if i == len(o.order) {
		return o.count(len(o.order)) <= o.best && o.sides(0, 0, map[end]bool{})
	}
	v := o.order[i]
	if i == 0 {
		o.at[v] = cell{4, 2}
		return o.place(1, 0)
	}
	for c := range 9 {
		for r := range 5 {
			p := cell{c, r}
			taken := false
			for _, u := range o.order[:i] {
				taken = taken || o.at[u] == p
			}
			if taken {
				continue
			}
			o.at[v] = p
			if o.allowed(i) && o.place(i+1, o.count(i+1)) {
				return true
			}
		}
	}
	return false
}

// allowed reports whether the rules let the nodes up to one stand as they do.
func (o *oracle) allowed(i int) bool {
	v := o.order[i]
	for k, e := range o.g.Edges {
		if e.From != v && e.To != v || e.From == e.To || o.back[k] || !o.stands(e.From, i) || !o.stands(e.To, i) {
			continue
		}
		a, b := o.at[e.From], o.at[e.To]
		if b.c < a.c || o.main[k] && (a.r != b.r || b.c == a.c) {
			return false
		}
	}
	return true
}

// end is the side of a node; out says that something leaves there.
type end struct {
	v    int
	side geometry.Side
	out  bool
}

// sides reports whether the edges from one on can all have their own sides, with no more bends than allowed: nothing
// leaves where something else leaves or arrives. With two bends and more a line can have any.
func (o *oracle) sides(k, bends int, taken map[end]bool) bool {
	if bends > o.best {
		return false
	}
	if k == len(o.g.Edges) {
		return true
	}
	e := o.g.Edges[k]
	if e.From == e.To {
		return o.sides(k+1, bends, taken)
	}
	a, b := o.at[e.From], o.at[e.To]
	dc, dr := sign(b.c-a.c), sign(b.r-a.r)
	free := func(p cell) bool {
		for _, q := range o.at {
			if p == q {
				return false
			}
		}
		return true
	}
	way := func(a, b cell) bool { return o.way(a, b, free) }
	type choice struct {
		from, to geometry.Side
		bends    int
	}
	var list []choice
	switch {
	case dc == 0:
		list = append(list, choice{vertical(dr), vertical(-dr), 0})
	case dr == 0:
		list = append(list, choice{horizontal(dc), horizontal(-dc), 0})
	default:
		if corner := (cell{b.c, a.r}); free(corner) && way(a, corner) && way(corner, b) {
			list = append(list, choice{horizontal(dc), vertical(-dr), 1})
		}
		if corner := (cell{a.c, b.r}); free(corner) && way(a, corner) && way(corner, b) {
			list = append(list, choice{vertical(dr), horizontal(-dc), 1})
		}
	}
	for _, c := range list {
		if c.bends == 0 && (!way(a, b) || o.twice(k)) {
			continue
		}
		from, to := end{e.From, c.from, true}, end{e.To, c.to, false}
		if taken[from] || taken[end{from.v, from.side, false}] || taken[end{to.v, to.side, true}] {
			continue
		}
		had := taken[to]
		taken[from], taken[to] = true, true
		ok := o.sides(k+1, bends+c.bends, taken)
		delete(taken, from)
		if !had {
			delete(taken, to)
		}
		if ok {
			return true
		}
	}
	return o.sides(k+1, bends+2, taken)
}

// twice reports whether an edge leads back between two nodes between which one leads on: it goes round, so that the
// two are told apart.
func (o *oracle) twice(k int) bool {
	for _, f := range o.g.Edges {
		if f.From == o.g.Edges[k].To && f.To == o.g.Edges[k].From && o.back[k] {
			return true
		}
	}
	return false
}

// way reports whether nothing stands strictly between two cells of one row or column.
func (o *oracle) way(a, b cell, free func(cell) bool) bool {
	dc, dr := int(sign(b.c-a.c)), int(sign(b.r-a.r))
	for p := (cell{a.c + dc, a.r + dr}); p != b; p.c, p.r = p.c+dc, p.r+dr {
		if !free(p) {
			return false
		}
	}
	return true
}

func (o *oracle) stands(v, last int) bool {
	for _, u := range o.order[:last+1] {
		if u == v {
			return true
		}
	}
	return false
}

// count returns the least number of bends among the first nodes.
func (o *oracle) count(n int) (sum int) {
	free := func(p cell) bool {
		for _, u := range o.order[:n] {
			if o.at[u] == p {
				return false
			}
		}
		return true
	}
	way := func(a, b cell) bool { return o.way(a, b, free) }
	for k, e := range o.g.Edges {
		if e.From == e.To || !o.stands(e.From, n-1) || !o.stands(e.To, n-1) {
			continue
		}
		a, b := o.at[e.From], o.at[e.To]
		switch {
		case a.c == b.c || a.r == b.r:
			if !way(a, b) || o.twice(k) {
				sum += 2
			}
		default:
			one := false
			for _, corner := range [2]cell{{a.c, b.r}, {b.c, a.r}} {
				one = one || free(corner) && way(a, corner) && way(corner, b)
			}
			if sum++; !one {
				sum++
			}
		}
	}
	return sum
}

func BenchmarkDraw(b *testing.B) {
	for _, n := range []int{20, 50, 100, 200, 500} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			var list []layered.Graph
			for seed := range uint64(10) {
				list = append(list, graphOf(processes.Make(seed, processes.Shape{Steps: n, Strays: 3})))
			}
			for i := 0; b.Loop(); i++ {
				Draw(list[i%len(list)])
			}
		})
	}
}
