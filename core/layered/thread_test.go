package layered

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// shuffled is a net of a random graph in bands, its layers in any order.
func shuffled(r *rand.Rand, nodes, edges int) *net {
	g := random(r, nodes, edges)
	g.Bands = 1 + r.IntN(3)
	for v := range g.Nodes {
		g.Nodes[v].Band = r.IntN(g.Bands)
	}
	n := newNet(&g, BackEdges(&g))
	n.begin(true)
	for _, layer := range n.order {
		r.Shuffle(len(layer), func(i, j int) { layer[i], layer[j] = layer[j], layer[i] })
		n.inBands(layer)
	}
	n.number()
	return n
}

// A thread goes where the fewest lines cross of all places it can have: every one
// is tried. It saves what it says, and nothing else changes its order.
func TestThreadsGoWhereTheyCrossLeast(t *testing.T) {
	tried, saving := 0, 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 8))
		n := shuffled(r, 4+r.IntN(14), 5+r.IntN(25))
		var w weaver
		for _, thread := range n.threads() {
			ways := 1
			for _, v := range thread {
				ways *= len(n.order[n.layer[v]])
			}
			if ways > 2000 {
				continue
			}
			tried++
			rest := without(n, thread)
			before := n.crossings()
			saved := n.weave(thread, &w)
			after := n.crossings()
			if saved > 0 {
				saving++
			}
			if before-after != saved {
				t.Fatalf("seed %d: it says that it saves %d of %d crossings, and leaves %d", seed, saved, before, after)
			}
			if !slices.EqualFunc(rest, without(n, thread), slices.Equal) {
				t.Fatalf("seed %d: others have changed their order", seed)
			}
			for l, layer := range n.order {
				if !slices.IsSortedFunc(layer, func(a, b int) int { return n.band[a] - n.band[b] }) {
					t.Fatalf("seed %d: layer %d is not in the order of its bands", seed, l)
				}
			}
			best := after
			woven := copyOrder(nil, n.order)
			everywhere(n, thread, func() { best = min(best, n.crossings()) })
			n.take(woven)
			if best < after {
				t.Fatalf("seed %d: %d crossings are left, %d would do", seed, after, best)
			}
		}
	}
	if tried < 1000 || saving < 100 {
		t.Errorf("only %d threads tried, %d of which were better elsewhere", tried, saving)
	}
}

// without returns the order without some vertices.
func without(n *net, thread []int) [][]int {
	out := copyOrder(nil, n.order)
	for l := range out {
		out[l] = slices.DeleteFunc(out[l], func(v int) bool { return slices.Contains(thread, v) })
	}
	return out
}

// everywhere puts the vertices of a thread into all places of their bands in turn.
func everywhere(n *net, thread []int, do func()) {
	if len(thread) == 0 {
		do()
		return
	}
	v := thread[0]
	n.takeOut(v)
	for at := range len(n.order[n.layer[v]]) + 1 {
		n.putIn(v, at)
		if slices.IsSortedFunc(n.order[n.layer[v]], func(a, b int) int { return n.band[a] - n.band[b] }) {
			everywhere(n, thread[1:], do)
		}
		n.takeOut(v)
	}
	n.putIn(v, 0)
}
