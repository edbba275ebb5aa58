package tree

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"plaintracer/core/layered"
)

const px = 100

// random makes a hierarchy of so many nodes of different sizes, in a random order.
func random(r *rand.Rand, n int) *layered.Graph {
	g := &layered.Graph{Gap: 40 * px, Apart: 40 * px}
	names := r.Perm(n)
	for range n {
		g.Nodes = append(g.Nodes, layered.Node{Along: (60 + r.IntN(80)) * px, Near: (20 + r.IntN(30)) * px,
			Far: (20 + r.IntN(60)) * px})
	}
	for v := 1; v < n; v++ {
		g.Edges = append(g.Edges, layered.Edge{From: names[r.IntN(v)], To: names[v]})
	}
	r.Shuffle(len(g.Edges), func(i, j int) { g.Edges[i], g.Edges[j] = g.Edges[j], g.Edges[i] })
	return g
}

// On trees of any shape: what leads on stands in the middle of what it leads to, children are in order, and nothing of
// one level is closer than it may be.
func TestTreesAreTidy(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for round := range 500 {
		n := 3 + r.IntN(60)
		g := random(r, n)
		if !Is(g) {
			if slices.ContainsFunc(g.Edges, func(e layered.Edge) bool {
				return slices.ContainsFunc(g.Edges, func(o layered.Edge) bool { return o != e && o.From == e.From })
			}) {
				t.Fatalf("%d: %+v is no tree", round, g.Edges)
			}
			continue // a chain
		}
		d := Draw(g, false)
		children := make([][]int, n)
		for _, e := range g.Edges {
			children[e.From] = append(children[e.From], e.To)
			if d.Layer[e.To] != d.Layer[e.From]+1 {
				t.Fatalf("%d: a child stands on level %d below %d", round, d.Layer[e.To], d.Layer[e.From])
			}
		}
		for v, list := range children {
			if len(list) == 0 {
				continue
			}
			if middle := (d.Across[list[0]] + d.Across[list[len(list)-1]]) / 2; middle-d.Across[v] > 1 ||
				d.Across[v]-middle > 1 {
				t.Fatalf("%d: a node stands at %d, the middle of its children is %d", round, d.Across[v], middle)
			}
			for i := 1; i < len(list); i++ {
				if d.Across[list[i]] <= d.Across[list[i-1]] {
					t.Fatalf("%d: children out of order", round)
				}
			}
		}
		for u, a := range g.Nodes {
			for v, b := range g.Nodes {
				if u != v && d.Layer[u] == d.Layer[v] && d.Across[u] <= d.Across[v] &&
					d.Across[u]+a.Far+g.Apart > d.Across[v]-b.Near {
					t.Fatalf("%d: two nodes of a level are too close", round)
				}
			}
		}
		if spans := d.Layers; !slices.IsSortedFunc(spans, func(a, b layered.Span) int { return a.From - b.From }) {
			t.Fatalf("%d: levels %v", round, spans)
		}
	}
}

// What is no hierarchy is not taken for one.
func TestWhatIsATree(t *testing.T) {
	e := func(from, to int) layered.Edge { return layered.Edge{From: from, To: to} }
	answer := e(0, 2)
	answer.Label = 20 * px
	for _, c := range []struct {
		nodes int
		edges []layered.Edge
		want  bool
	}{
		{3, []layered.Edge{e(0, 1), e(0, 2)}, true},
		{3, []layered.Edge{e(0, 1), e(1, 2)}, false},                   // a chain
		{3, []layered.Edge{e(0, 1), answer}, false},                    // a choice
		{4, []layered.Edge{e(0, 1), e(0, 2), e(1, 3), e(2, 3)}, false}, // two ways to one
		{4, []layered.Edge{e(0, 1), e(0, 2)}, false},                   // two roots
		{5, []layered.Edge{e(0, 1), e(0, 2), e(3, 4), e(4, 3)}, false}, // a circle beside it
		{3, []layered.Edge{e(0, 1), e(1, 2), e(2, 0)}, false},
	} {
		g := &layered.Graph{Nodes: make([]layered.Node, c.nodes), Edges: c.edges}
		if got := Is(g); got != c.want {
			t.Errorf("%s: %v", fmt.Sprint(c.edges), got)
		}
	}
}
