// Package tree draws what is a hierarchy: one root, and one way to everything else. Each level is a column along the
// flow, and what leads on stands in the middle of what it leads to.
//
// The subtrees of a node are set beside each other as closely as their outlines allow, and the node in the middle of
// the first and the last of them: Reingold and Tilford, Tidier Drawings of Trees (1981).
package tree

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

// Is reports whether a graph is a hierarchy in which something leads to several others.
func Is(g *layered.Graph) bool {
	in, out := make([]int, len(g.Nodes)), make([]int, len(g.Nodes))
	for _, e := range g.Edges {
		if e.Label > 0 {
			return false
		}
		in[e.To]++
		out[e.From]++
	}
	roots := 0
	for v := range g.Nodes {
		if in[v] == 0 {
			roots++
		}
		if in[v] > 1 || g.Nodes[v].Aside {
			return false
		}
	}
	// With one root and one way into all others, there are as many edges as that, and no circle only if all hang
	// together.
	return roots == 1 && len(reached(g)) == len(g.Nodes) && slices.Max(out) > 1
}

// reached lists the nodes that can be reached from that without an edge into it, from the root down.
func reached(g *layered.Graph) []int {
	in, next := make([]int, len(g.Nodes)), make([][]int, len(g.Nodes))
	for _, e := range g.Edges {
		in[e.To]++
		next[e.From] = append(next[e.From], e.To)
	}
	var list []int
	for v := range g.Nodes {
		if in[v] == 0 {
			list = append(list, v)
		}
	}
	for i := 0; i < len(list) && len(list) <= len(g.Nodes); i++ {
		list = append(list, next[list[i]]...)
	}
	return list
}

// drawing is the work on one graph.
type drawing struct {
	g        *layered.Graph
	children [][]int
	level    []int
	// across is where a node stands seen from its parent.
	across []int
}

// outline is how far a subtree reaches on each of its levels, seen from its root.
type outline struct{ lo, hi []int }

// Draw draws a graph that is a hierarchy. Children stand in the order of their edges; or, if stay says so, in that in
// which they stand now.
func Draw(g *layered.Graph, stay bool) *layered.Drawing {
	n := len(g.Nodes)
	w := &drawing{g: g, children: make([][]int, n), level: make([]int, n), across: make([]int, n)}
	for _, e := range g.Edges {
		w.children[e.From] = append(w.children[e.From], e.To)
	}
	if stay {
		for _, list := range w.children {
			slices.SortStableFunc(list, func(u, v int) int { return cmp.Compare(g.Nodes[u].At.Y, g.Nodes[v].At.Y) })
		}
	}
	order := reached(g)
	levels := 0
	for _, v := range order {
		for _, u := range w.children[v] {
			w.level[u] = w.level[v] + 1
			levels = max(levels, w.level[u])
		}
	}
	outlines := make([]outline, n)
	for i := range order { // from the leaves up
		v := order[n-1-i]
		outlines[v] = w.join(v, outlines)
	}
	edges := len(g.Edges)
	d := &layered.Drawing{Along: make([]int, n), Across: make([]int, n), Layer: w.level, Order: make([]int, n),
		Back:  make([]bool, edges),
		Lines: make([]int, edges), Long: make([]bool, edges), LineBands: make([]int, edges),
		Crossed: make([]int, edges),
		Sides:   make([][2]geometry.Side, edges), Bends: make([]int, edges), Layers: make([]layered.Span, levels+1)}
	long := make([]int, levels+1)
	for v, nd := range g.Nodes {
		long[w.level[v]] = max(long[w.level[v]], nd.Along)
	}
	at := 0
	for i := range d.Layers {
		d.Layers[i] = layered.Span{From: at, To: at + long[i]}
		at += long[i] + g.Gap
	}
	for _, v := range order {
		s := d.Layers[w.level[v]]
		d.Along[v] = (s.From + s.To) / 2
		for k, u := range w.children[v] {
			d.Across[u], d.Order[u] = d.Across[v]+w.across[u], k
		}
	}
	for k, e := range g.Edges {
		d.Sides[k] = [2]geometry.Side{geometry.Right, geometry.Left}
		if d.Across[e.From] != d.Across[e.To] {
			d.Bends[k] = 2
		}
	}
	return d
}

// join sets the subtrees of a node beside each other, and returns the outline of all.
func (w *drawing) join(v int, outlines []outline) outline {
	all := outline{}
	last := 0
	for k, u := range w.children[v] {
		o := outlines[u]
		by := 0
		for i := range min(len(o.lo), len(all.hi)) {
			by = max(by, all.hi[i]+w.g.Apart-o.lo[i])
		}
		if k == 0 {
			by = 0
		}
		w.across[u], last = by, by
		for i := range o.lo {
			if i == len(all.lo) {
				all.lo, all.hi = append(all.lo, o.lo[i]+by), append(all.hi, o.hi[i]+by)
				continue
			}
			all.lo[i], all.hi[i] = min(all.lo[i], o.lo[i]+by), max(all.hi[i], o.hi[i]+by)
		}
	}
	middle := last / 2
	for _, u := range w.children[v] {
		w.across[u] -= middle
	}
	for i := range all.lo {
		all.lo[i] -= middle
		all.hi[i] -= middle
	}
	nd := w.g.Nodes[v]
	return outline{append([]int{-nd.Near}, all.lo...), append([]int{nd.Far}, all.hi...)}
}
