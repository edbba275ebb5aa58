package layered

import (
	"math/rand/v2"
	"testing"
)

// pairs returns how many pairs there are among n.
func pairs(n int) int { return n * (n - 1) / 2 }

// twoLayers is a graph whose edges all lead from one of the first nodes to one of
// the others.
func twoLayers(nodes int, edges [][2]int) Graph {
	g := random(nil, nodes, 0)
	for _, e := range edges {
		g.Edges = append(g.Edges, Edge{From: e[0], To: e[1]})
	}
	return g
}

// The worked example of the network simplex in Gansner, Koutsofios, North and Vo, A
// Technique for Drawing Directed Graphs (1993), section 2.3: of its nine edges one
// has to be two layers long. The graph is from memory.
func TestWorkedExampleOfTheNetworkSimplex(t *testing.T) {
	const a, b, c, d, e, f, g, h = 0, 1, 2, 3, 4, 5, 6, 7
	var arcs []arc
	for _, k := range [][2]int{{a, b}, {b, c}, {c, d}, {d, h}, {a, e}, {a, f}, {e, g}, {f, g}, {g, h}} {
		arcs = append(arcs, arc{from: k[0], to: k[1], least: 1, weight: 1})
	}
	rank := ranks(8, arcs)
	sum := 0
	for _, k := range arcs {
		if rank[k.to] <= rank[k.from] {
			t.Errorf("the edge %v does not lead on in %v", k, rank)
		}
		sum += rank[k.to] - rank[k.from]
	}
	if sum != 10 {
		t.Errorf("the edges are %d long in %v, 10 is the least", sum, rank)
	}
}

// In two layers a tree can be drawn without crossings just if it is a caterpillar,
// and a circle of 2k edges crosses itself k-1 times at least (Harary and Schwenk, A
// New Crossing Number for Bipartite Graphs, 1972, from memory). The ends of branches
// are left out of it: they find their places among the others without moving them.
func TestTwoLayersCrossAsLittleAsPublished(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 41))
		// A spine that goes to and fro between the layers, with legs on either side.
		layer := []int{0}
		var ends [][2]int
		last, spine := 0, 3+2*r.IntN(6)
		for k := range spine {
			for range r.IntN(4) * layer[last] {
				ends = append(ends, [2]int{last, len(layer)})
				layer = append(layer, 1-layer[last])
			}
			if k+1 < spine {
				ends = append(ends, [2]int{last, len(layer)})
				layer = append(layer, 1-layer[last])
				last = len(layer) - 1
			}
		}
		names := r.Perm(len(layer))
		for k, e := range ends {
			if layer[e[0]] == 1 {
				e[0], e[1] = e[1], e[0]
			}
			ends[k] = [2]int{names[e[0]], names[e[1]]}
		}
		r.Shuffle(len(ends), func(i, j int) { ends[i], ends[j] = ends[j], ends[i] })
		if d := Draw(twoLayers(len(layer), ends)); d.Crossings > 0 {
			t.Errorf("seed %d: a caterpillar of %d nodes has %d crossings", seed, len(layer), d.Crossings)
		}
	}
	// The smallest tree that is none: three legs of two joints each.
	if d := Draw(twoLayers(7, [][2]int{{0, 4}, {0, 5}, {0, 6}, {1, 4}, {2, 5}, {3, 6}})); d.Crossings != 1 {
		t.Errorf("three legs of two joints have %d crossings", d.Crossings)
	}
	for k := 2; k <= 12; k++ {
		var ring [][2]int
		for v := range k {
			ring = append(ring, [2]int{v, k + v}, [2]int{v, k + (v+1)%k})
		}
		if d := Draw(twoLayers(2*k, ring)); d.Crossings != k-1 {
			t.Errorf("a circle of %d edges has %d crossings, %d is the least", 2*k, d.Crossings, k-1)
		}
	}
}

// Where everything in one layer leads to everything in the next, every two on either
// side give one crossing, in whatever order (Garey and Johnson, Crossing Number Is
// NP-Complete, 1983, from memory).
func TestAllToAllCrossesInEveryOrder(t *testing.T) {
	for p := 1; p <= 6; p++ {
		for q := 1; q <= 6; q++ {
			var all [][2]int
			for v := range p * q {
				all = append(all, [2]int{v / q, p + v%q})
			}
			if d := Draw(twoLayers(p+q, all)); d.Crossings != pairs(p)*pairs(q) {
				t.Errorf("%d to %d: %d crossings", p, q, d.Crossings)
			}
		}
	}
}

// leadingBack counts the edges that lead back.
func leadingBack(g *Graph) (n int) {
	for _, b := range BackEdges(g) {
		if b {
			n++
		}
	}
	return n
}

// No more edges lead back than half of all less a sixth of the nodes, where no two
// lead there and back (Eades, Lin and Smyth, A Fast and Effective Heuristic for the
// Feedback Arc Set Problem, 1993, from memory); and of the tournament of the
// quadratic residues modulo 7 it is seven, as trying every order shows.
func TestBackEdgesKeepThePublishedBound(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 42))
		n := 4 + r.IntN(40)
		g := random(r, n, 0)
		for v := 1; v < n; v++ { // it hangs together
			g.Edges = append(g.Edges, Edge{From: r.IntN(v), To: v})
		}
		taken := map[[2]int]bool{}
		for _, e := range g.Edges {
			taken[[2]int{e.From, e.To}], taken[[2]int{e.To, e.From}] = true, true
		}
		for range r.IntN(3 * n) {
			from, to := r.IntN(n), r.IntN(n)
			if from == to || taken[[2]int{from, to}] {
				continue
			}
			taken[[2]int{from, to}], taken[[2]int{to, from}] = true, true
			g.Edges = append(g.Edges, Edge{From: from, To: to})
		}
		back := leadingBack(&g)
		if 6*back > 3*len(g.Edges)-n {
			t.Errorf("seed %d: %d of %d edges among %d nodes lead back", seed, back, len(g.Edges), n)
		}
	}
	g := random(nil, 7, 0)
	for v := range 7 {
		for _, d := range []int{1, 2, 4} {
			g.Edges = append(g.Edges, Edge{From: v, To: (v + d) % 7})
		}
	}
	least := len(g.Edges)
	permute([]int{0, 1, 2, 3, 4, 5, 6}, 0, func(at []int) {
		back := 0
		for _, e := range g.Edges {
			if at[e.From] > at[e.To] {
				back++
			}
		}
		least = min(least, back)
	})
	if back := leadingBack(&g); back != 7 || back != least {
		t.Errorf("%d edges of the tournament lead back", back)
	}
}
