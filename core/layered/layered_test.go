package layered

import (
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/graph/simple"
	"gonum.org/v1/gonum/graph/topo"

	"plaintracer/bench/processes"
)

// graphOf gives a made-up process the sizes of standard symbols.
func graphOf(p *processes.Graph) Graph {
	g := Graph{Bands: p.Lanes, Gap: 40 * px, Apart: 40 * px}
	for _, n := range p.Nodes {
		nd := Node{Along: 120 * px, Near: 40 * px, Far: 40 * px, Band: None, Stage: None}
		if n.Kind == processes.Terminator {
			nd.Near, nd.Far = 22*px, 23*px
		}
		if p.Lanes > 0 {
			nd.Band = n.Lane
		}
		g.Nodes = append(g.Nodes, nd)
	}
	for _, e := range p.Edges {
		l := 0
		if e.Label != "" {
			l = 50 * px
		}
		g.Edges = append(g.Edges, Edge{e.From, e.To, e.Exit, l})
	}
	return g
}

// random returns a graph of n nodes with so many edges, leading anywhere.
func random(r *rand.Rand, n, edges int) Graph {
	g := Graph{Gap: 40 * px, Apart: 40 * px}
	for range n {
		g.Nodes = append(g.Nodes, Node{Along: 100 * px, Near: 30 * px, Far: 30 * px, Band: None, Stage: None})
	}
	for len(g.Edges) < edges {
		if from, to := r.IntN(n), r.IntN(n); from != to {
			g.Edges = append(g.Edges, Edge{From: from, To: to})
		}
	}
	return g
}

// directed is the graph as gonum knows it, without the edges left out.
func directed(g *Graph, without []bool) *simple.DirectedGraph {
	d := simple.NewDirectedGraph()
	for v := range g.Nodes {
		d.AddNode(simple.Node(v))
	}
	for k, e := range g.Edges {
		if e.From != e.To && (without == nil || !without[k]) {
			d.SetEdge(simple.Edge{F: simple.Node(e.From), T: simple.Node(e.To)})
		}
	}
	return d
}

// Without the edges that lead back nothing leads round: gonum can sort the rest.
func TestWithoutBackEdgesNothingLeadsRound(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 1))
		n := 2 + r.IntN(60)
		g := random(r, n, r.IntN(4*n))
		if _, err := topo.Sort(directed(&g, BackEdges(&g))); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
	}
}

// Among steps that all lead round to each other, as few edges lead back as in the
// best of all orders that begin with the first: every order is tried.
func TestFewestEdgesLeadBack(t *testing.T) {
	tried := 0
	for seed := uint64(0); tried < 60; seed++ {
		r := rand.New(rand.NewPCG(seed, 2))
		n := 3 + r.IntN(4)
		g := random(r, n, n+r.IntN(2*n))
		if len(topo.TarjanSCC(directed(&g, nil))) > 1 {
			continue
		}
		tried++
		start := len(g.Nodes) // it begins with node 0
		g.Nodes = append(g.Nodes, g.Nodes[0])
		g.Edges = append(g.Edges, Edge{From: start, To: 0})
		got := leadingBack(&g)
		best := len(g.Edges)
		rest := make([]int, 0, n)
		for v := 1; v < n; v++ {
			rest = append(rest, v)
		}
		permute(rest, 0, func(order []int) {
			at := make([]int, n)
			for i, v := range order {
				at[v] = i + 1
			}
			back := 0
			for _, e := range g.Edges {
				if e.From < n && at[e.From] > at[e.To] {
					back++
				}
			}
			best = min(best, back)
		})
		if got != best {
			t.Errorf("seed %d: %d edges lead back, %d would do", seed, got, best)
		}
	}
}

func permute(list []int, from int, visit func([]int)) {
	if from == len(list) {
		visit(list)
		return
	}
	for i := from; i < len(list); i++ {
		list[from], list[i] = list[i], list[from]
		permute(list, from+1, visit)
		list[from], list[i] = list[i], list[from]
	}
}

// In large circles, too, a loop of n steps has one edge that leads back: the one
// to its first step.
func TestLoopLeadsBackOnce(t *testing.T) {
	for _, n := range []int{3, smallCycle, smallCycle + 1, 60} {
		g := Graph{Nodes: make([]Node, n+1)}
		g.Edges = append(g.Edges, Edge{From: n, To: 0})
		for v := range n {
			g.Edges = append(g.Edges, Edge{From: v, To: (v + 1) % n})
		}
		back := BackEdges(&g)
		for k, b := range back {
			if b != (k == n) {
				t.Errorf("a loop of %d: edge %d leads back: %v", n, k, b)
			}
		}
	}
}

// The layers are as short in all as any: every assignment of layers is tried.
func TestLayersAreShortest(t *testing.T) {
	for seed := range uint64(150) {
		r := rand.New(rand.NewPCG(seed, 3))
		n := 2 + r.IntN(4)
		var arcs []arc
		for range r.IntN(2*n) + 1 {
			if from, to := r.IntN(n), r.IntN(n); from < to {
				arcs = append(arcs, arc{from, to, r.IntN(4), r.IntN(3)})
			}
		}
		got := ranks(n, arcs)
		least, highest := 1<<30, 2*n
		rank := make([]int, n)
		var try func(v int)
		try = func(v int) {
			if v == n {
				sum := 0
				for _, a := range arcs {
					if rank[a.to]-rank[a.from] < a.least {
						return
					}
					sum += a.weight * (rank[a.to] - rank[a.from])
				}
				least = min(least, sum)
				return
			}
			for rank[v] = 0; rank[v] <= highest; rank[v]++ {
				try(v + 1)
			}
		}
		try(0)
		sum := 0
		for _, a := range arcs {
			if got[a.to]-got[a.from] < a.least {
				t.Fatalf("seed %d: arc %v is too short in %v", seed, a, got)
			}
			sum += a.weight * (got[a.to] - got[a.from])
		}
		if sum != least {
			t.Errorf("seed %d: the arcs %v are %d long in %v, %d would do", seed, arcs, sum, got, least)
		}
	}
}

// shapes are the made-up processes that the properties are tried on.
func shapes(t *testing.T, each int, try func(name string, g Graph, p *processes.Graph)) {
	if testing.Short() {
		each /= 4
	}
	for i := range each {
		s := processes.Shape{Steps: 5 + i*7%90, Lanes: i % 5, Strays: i % 4 * 3}
		p := processes.Make(uint64(i), s)
		try(t.Name(), graphOf(p), p)
	}
}

// What holds for every drawing: edges lead forwards but for those that lead back,
// the nodes of a layer stand apart, every one in its band, the layers follow each
// other, and the count of crossings is that of all pairs.
func TestDrawingsHoldTogether(t *testing.T) {
	shapes(t, 1000, func(name string, g Graph, p *processes.Graph) {
		d := Draw(g)
		for k, e := range g.Edges {
			if !d.Back[k] && d.Layer[e.From] >= d.Layer[e.To] {
				t.Fatalf("%d nodes: edge %d leads from layer %d to %d", len(g.Nodes), k, d.Layer[e.From], d.Layer[e.To])
			}
		}
		for v, n := range g.Nodes {
			if l := d.Layers[d.Layer[v]]; d.Along[v]-n.Along/2 < l.From || d.Along[v]+n.Along/2 > l.To {
				t.Fatalf("%d nodes: node %d lies at %d, beyond its layer %v", len(g.Nodes), v, d.Along[v], l)
			}
			if g.Bands > 0 {
				if b := d.Bands[n.Band]; d.Across[v]-n.Near < b.From || d.Across[v]+n.Far > b.To {
					t.Fatalf("%d nodes: node %d lies at %d, beyond its band %v", len(g.Nodes), v, d.Across[v], b)
				}
			}
			for w := range v {
				if d.Layer[v] != d.Layer[w] {
					continue
				}
				a, b := v, w
				if d.Across[a] > d.Across[b] {
					a, b = b, a
				}
				if g.Nodes[a].Band == g.Nodes[b].Band &&
					d.Across[b]-g.Nodes[b].Near < d.Across[a]+g.Nodes[a].Far+g.Apart {
					t.Fatalf("%d nodes: nodes %d and %d of a layer lie at %d and %d", len(g.Nodes), a, b, d.Across[a],
						d.Across[b])
				}
			}
		}
		for l := 1; l < len(d.Layers); l++ {
			if d.Layers[l].From < d.Layers[l-1].To+g.Gap {
				t.Fatalf("layers %v and %v are too near", d.Layers[l-1], d.Layers[l])
			}
		}
	})
}

// The accumulator tree counts what comparing all pairs counts.
func TestCrossingsAreThoseOfAllPairs(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 4))
		g := random(r, 4+r.IntN(30), 5+r.IntN(60))
		n := newNet(&g, BackEdges(&g))
		n.arrange()
		want := 0
		for _, layer := range n.order {
			type line struct{ a, b int }
			var list []line
			for _, v := range layer {
				for _, tie := range n.down[v] {
					for _, o := range list {
						if (o.a-n.pos[v])*(o.b-n.pos[tie.v]) < 0 {
							want++
						}
					}
					list = append(list, line{n.pos[v], n.pos[tie.v]})
				}
			}
		}
		if got := n.crossings(); got != want {
			t.Fatalf("seed %d: %d crossings, all pairs give %d", seed, got, want)
		}
		sum := 0
		for _, c := range n.crossedEdges() {
			sum += c
		}
		if sum != 2*want {
			t.Fatalf("seed %d: the edges are crossed %d times in %d crossings", seed, sum, want)
		}
	}
}

// Trees, rows of steps and structured choices are drawn without any crossing.
func TestWhatNeedNotCrossDoesNot(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 5))
		tree := random(r, 2+r.IntN(40), 0)
		for v := 1; v < len(tree.Nodes); v++ {
			tree.Edges = append(tree.Edges, Edge{From: r.IntN(v), To: v, Exit: r.IntN(3)})
		}
		if d := Draw(tree); d.Crossings > 0 {
			t.Fatalf("seed %d: a tree has %d crossings", seed, d.Crossings)
		}
		// Choices within choices, whose branches meet again.
		nest := Graph{Gap: 40 * px, Apart: 40 * px}
		add := func() int {
			nest.Nodes = append(nest.Nodes, Node{Along: 100 * px, Near: 30 * px, Far: 30 * px, Band: None, Stage: None})
			return len(nest.Nodes) - 1
		}
		var build func(depth int) (first, last int)
		build = func(depth int) (int, int) {
			if depth == 0 || r.IntN(3) == 0 {
				v := add()
				return v, v
			}
			first := add()
			var ends []int
			for i := range 2 + r.IntN(2) {
				a, b := build(depth - 1)
				nest.Edges = append(nest.Edges, Edge{From: first, To: a, Exit: i})
				ends = append(ends, b)
			}
			last := add()
			for _, e := range ends {
				nest.Edges = append(nest.Edges, Edge{From: e, To: last})
			}
			return first, last
		}
		build(3)
		if d := Draw(nest); d.Crossings > 0 {
			t.Fatalf("seed %d: choices within choices have %d crossings", seed, d.Crossings)
		}
	}
}

// The main path is straight: from the start always by the first exit.
func TestMainPathIsStraight(t *testing.T) {
	shapes(t, 300, func(name string, g Graph, p *processes.Graph) {
		if g.Bands > 0 {
			return
		}
		d := Draw(g)
		at, seen := 0, map[int]bool{}
		for !seen[at] {
			seen[at] = true
			next, exit := None, 0
			for k, e := range g.Edges {
				if e.From == at && !d.Back[k] && (next == None || e.Exit < exit) {
					next, exit = e.To, e.Exit
				}
			}
			if next == None {
				break
			}
			if d.Layer[next] == d.Layer[at]+1 && d.Across[next] != d.Across[at] {
				t.Fatalf("%d nodes: the main path turns from %d to %d between nodes %d and %d", len(g.Nodes),
					d.Across[at], d.Across[next], at, next)
			}
			at = next
		}
	})
}

// One step more at the end of a branch changes the order of no others, in no layer
// and no band.
func TestStepAtAnEndChangesNoOrder(t *testing.T) {
	shapes(t, 400, func(name string, g Graph, p *processes.Graph) {
		before := Draw(g)
		for v := range g.Nodes {
			if slices.ContainsFunc(g.Edges, func(e Edge) bool { return e.From == v }) {
				continue
			}
			more := g
			more.Nodes = append(slices.Clone(g.Nodes), Node{Along: 120 * px, Near: 40 * px, Far: 40 * px,
				Band: g.Nodes[v].Band, Stage: None})
			more.Edges = append(slices.Clone(g.Edges), Edge{From: v, To: len(g.Nodes)})
			after := Draw(more)
			for a := range g.Nodes {
				if before.Layer[a] != after.Layer[a] {
					t.Fatalf("%d nodes, a step after %d: node %d goes from layer %d to %d", len(g.Nodes), v, a,
						before.Layer[a], after.Layer[a])
				}
				for b := range a {
					if before.Layer[a] == before.Layer[b] &&
						(before.Order[a] < before.Order[b]) != (after.Order[a] < after.Order[b]) {
						t.Fatalf("%d nodes, a step after %d: nodes %d and %d change their order", len(g.Nodes), v, a, b)
					}
				}
			}
		}
	})
}

// Stages follow each other along the flow, whatever leads where.
func TestStagesFollowEachOther(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 6))
		g := random(r, 3+r.IntN(30), 3+r.IntN(50))
		for v := range g.Nodes {
			g.Nodes[v].Stage = r.IntN(4) - 1
		}
		d := Draw(g)
		for a, n := range g.Nodes {
			for b, o := range g.Nodes {
				if n.Stage != None && o.Stage != None && n.Stage < o.Stage && d.Layer[a] >= d.Layer[b] {
					t.Fatalf("seed %d: node %d of stage %d is in layer %d, node %d of stage %d in layer %d", seed, a,
						n.Stage, d.Layer[a], b, o.Stage, d.Layer[b])
				}
			}
		}
	}
}

// It stops when it is told to, and says how far it has come.
func TestDrawingStops(t *testing.T) {
	g := graphOf(processes.Make(1, processes.Shape{Steps: 200, Strays: 10}))
	last := -1
	g.Tell = func(done, of int) bool {
		if done < last || done >= of {
			t.Errorf("it has come to %d of %d after %d", done, of, last)
		}
		last = done
		return done < 5
	}
	if Draw(g) != nil || last != 5 {
		t.Errorf("it went on to %d", last)
	}
	// Asked often, it stops soon wherever it is.
	asked := 0
	g.Tell = func(int, int) bool { asked++; return asked < 40 }
	if Draw(g) != nil || asked != 40 {
		t.Errorf("it was told to stop the 40th time, and asked %d times", asked)
	}
}

// Four lanes and 100 steps. Targets: 100 ms, with no more than one and a half times
// the crossings of the best of 1,000 random orders within the lanes. And 1,000
// steps with lanes in 1.5 s.
func BenchmarkDraw(b *testing.B) {
	for _, s := range []struct {
		name  string
		shape processes.Shape
	}{
		{"100 in 4 lanes", processes.Shape{Steps: 100, Lanes: 4, Strays: 3}},
		{"500", processes.Shape{Steps: 500, Strays: 3}},
		{"1000 in 5 lanes", processes.Shape{Steps: 1000, Lanes: 5, Strays: 3}},
	} {
		b.Run(s.name, func(b *testing.B) {
			g := graphOf(processes.Make(1, s.shape))
			c := 0
			for b.Loop() {
				c = Draw(g).Crossings
			}
			b.ReportMetric(float64(c), "crossings")
		})
	}
}

// In lanes, the order crosses no more than one and a half times as much as the best
// of 1,000 random orders of the same lanes.
func TestLanesCrossLittle(t *testing.T) {
	n := 12
	if testing.Short() {
		n = 3
	}
	for seed := range uint64(n) {
		g := graphOf(processes.Make(seed, processes.Shape{Steps: 100, Lanes: 4, Strays: 3}))
		d := Draw(g)
		net := newNet(&g, BackEdges(&g))
		net.arrange()
		r := rand.New(rand.NewPCG(seed, 7))
		best := -1
		for range 1000 {
			for _, layer := range net.order {
				r.Shuffle(len(layer), func(i, j int) { layer[i], layer[j] = layer[j], layer[i] })
				net.inBands(layer)
			}
			net.number()
			if c := net.crossings(); best < 0 || c < best {
				best = c
			}
		}
		if 2*d.Crossings > 3*best {
			t.Errorf("seed %d: %d crossings, the best of 1,000 random orders has %d", seed, d.Crossings, best)
		}
	}
}
