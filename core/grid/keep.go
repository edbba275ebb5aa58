package grid

import (
	"cmp"
	"slices"

	"plaintracer/core/layered"
)

const (
	// sway is by how much what stands in one column, or in one row, may be out of line, in shares of the
	// distance of two.
	sway = 4
	// perHeld is what it costs that a step leaves a cell in line with others: more than a crossing.
	perHeld = perCrossing + 3*perBend
)

// Keep draws a graph with its steps in the columns and rows in which they stand now (Node.At). A step moves only
// where that saves several bends, or where it stands in line with nothing, as one does that has just been set down.
// People find their way by where things were: Misue, Eades, Lai and Sugiyama, Layout Adjustment and the Mental Map,
// 1995; from memory. It returns nil when the steps stand in no order.
func Keep(g layered.Graph) *layered.Drawing { return inPlace(g, true) }

// Settle is Keep for steps whose places are only where the search for a good drawing begins: they leave them as soon as
// that saves anything. Rows and columns keep their order where it costs nothing.
func Settle(g layered.Graph) *layered.Drawing { return inPlace(g, false) }

func inPlace(g layered.Graph, hold bool) *layered.Drawing {
	if len(g.Nodes) < 2 || len(g.Nodes) > largest {
		return nil
	}
	d := &layered.Drawing{}
	d.Layer = inLine(&g, func(v int) int { return g.Nodes[v].At.X }, func(int) int { return 0 }, g.Gap,
		func(v int) int { return g.Nodes[v].Along })
	d.Across = inLine(&g, func(v int) int { return g.Nodes[v].At.Y }, func(v int) int { return g.Nodes[v].Band },
		g.Apart, func(v int) int { return g.Nodes[v].Near + g.Nodes[v].Far })
	if !apart(&g, d) {
		return nil
	}
	d.Back = layered.BackEdges(&g)
	b := newBoard(&g, d)
	if hold {
		b.held = make([]bool, len(g.Nodes))
		for v, n := range g.Nodes {
			for u, o := range g.Nodes {
				b.held[v] = b.held[v] || u != v && (o.At.X == n.At.X || o.At.Y == n.At.Y && o.Band == n.Band)
			}
		}
	}
	for before := b.sum + 1; b.sum < before && !b.spent(); {
		before = b.sum
		b.moves()
	}
	return b.measure(d)
}

// inLine numbers the columns, or rows, of nodes by their places on one axis: those of a band that lie close together
// have the same one. What lies in a later band comes later.
func inLine(g *layered.Graph, at, band func(v int) int, gap int, size func(v int) int) []int {
	list := make([]int, len(g.Nodes))
	total := 0
	for v := range list {
		list[v] = v
		total += size(v)
	}
	near := (total/len(list) + gap) / sway
	slices.SortStableFunc(list,
		func(u, v int) int { return cmp.Or(cmp.Compare(band(u), band(v)), cmp.Compare(at(u), at(v))) })
	out := make([]int, len(list))
	line, first := 0, 0
	for i, v := range list {
		if i > 0 && (band(v) != band(list[first]) || at(v)-at(list[first]) > near) {
			line, first = line+1, i
		}
		out[v] = line
	}
	return out
}

// apart gives nodes that share a cell rows of their own, next to each other, and reports whether these are few.
func apart(g *layered.Graph, d *layered.Drawing) bool {
	taken := map[cell]bool{}
	few := len(g.Nodes)/8 + 1
	for v := range g.Nodes {
		d.Across[v] *= len(g.Nodes)
		for taken[cell{d.Layer[v], d.Across[v]}] {
			d.Across[v]++
			if few--; few < 0 {
				return false
			}
		}
		taken[cell{d.Layer[v], d.Across[v]}] = true
	}
	return true
}
