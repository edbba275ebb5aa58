package layered

import (
	"math/bits"
	"slices"
)

// smallCycle is the largest number of nodes that lead round to each other for
// which the fewest edges that lead back are found exactly.
const smallCycle = 14

// BackEdges marks the edges that lead back: without them nothing leads round.
// Among nodes that lead round to each other, the one that is reached first
// comes first, and from there as few edges as possible lead back: exactly so in
// small circles (by dynamic programming over the sets of nodes that come first,
// Lawler 1964), by sifting in large ones. Of equals, the edge back is one that a
// walk from the start takes last.
func BackEdges(g *Graph) []bool {
	n := len(g.Nodes)
	out := make([][]int, n) // edges by their place
	in := make([]int, n)
	back := againstStages(g)
	for k, e := range g.Edges {
		if e.From == e.To {
			back[k] = true
		}
		if !back[k] {
			out[e.From] = append(out[e.From], k)
			in[e.To]++
		}
	}
	for v := range out {
		slices.SortStableFunc(out[v], func(a, b int) int { return g.Edges[a].Exit - g.Edges[b].Exit })
	}
	at := walk(g, out, in)
	for _, circle := range circles(g, out, at) {
		slices.SortStableFunc(circle, func(a, b int) int { return at[a] - at[b] })
		circle = entered(g, circle, back)
		place := make(map[int]int, len(circle))
		for i, v := range circle {
			place[v] = i
		}
		var within []Edge
		var which []int
		for _, v := range circle {
			for _, k := range out[v] {
				if w, ok := place[g.Edges[k].To]; ok {
					within = append(within, Edge{From: place[v], To: w})
					which = append(which, k)
				}
			}
		}
		var order []int
		if len(circle) <= smallCycle {
			order = fewestBack(len(circle), within)
		} else {
			order = sifted(len(circle), within)
		}
		for i, e := range within {
			back[which[i]] = order[e.From] > order[e.To]
		}
	}
	return back
}

// entered puts the node of a circle at its head with which the work had best begin, of those that lines from outside
// lead to: where several are, the one for which not a way on but a side exit leads back.
func entered(g *Graph, circle []int, back []bool) []int {
	inside := func(v int) bool { return slices.Contains(circle, v) }
	entry := map[int]bool{}
	for k, e := range g.Edges {
		if !back[k] && inside(e.To) && !inside(e.From) {
			entry[e.To] = true
		}
	}
	if len(entry) < 2 || len(circle) > smallCycle {
		return circle
	}
	// With one node first, the edges that lead back are mostly those into it.
	onward := func(v int) (n int) {
		for k, e := range g.Edges {
			if !back[k] && e.To == v && inside(e.From) && e.Exit == 0 {
				n++
			}
		}
		return n
	}
	best := 0
	for i, v := range circle {
		if entry[v] && (!entry[circle[best]] || onward(v) < onward(circle[best])) {
			best = i
		}
	}
	first := circle[best]
	return slices.Insert(slices.Delete(circle, best, best+1), 0, first)
}

// againstStages marks the edges that lead back to an earlier stage, by themselves
// or by way of nodes that belong to none.
func againstStages(g *Graph) []bool {
	back := make([]bool, len(g.Edges))
	// latest is the latest stage from which a node is reached.
	latest := make([]int, len(g.Nodes))
	for v, n := range g.Nodes {
		latest[v] = n.Stage
	}
	for changed := true; changed; {
		changed = false
		for _, e := range g.Edges {
			if g.Nodes[e.To].Stage == None && latest[e.From] > latest[e.To] {
				latest[e.To], changed = latest[e.From], true
			}
		}
	}
	for k, e := range g.Edges {
		back[k] = g.Nodes[e.To].Stage != None && latest[e.From] > g.Nodes[e.To].Stage
	}
	return back
}

// walk numbers the nodes in the order in which the work reaches them: from those
// to which nothing leads, a node after all that lead to it without leading
// round (the reverse of the order in which a search in depth leaves them), the
// first exit before the others.
func walk(g *Graph, out [][]int, in []int) []int {
	n := len(g.Nodes)
	at := make([]int, n)
	seen := make([]bool, n)
	left := make([]int, 0, n)
	type frame struct{ v, next int }
	var stack []frame
	from := func(v int) {
		if seen[v] {
			return
		}
		seen[v] = true
		stack = append(stack, frame{v, len(out[v])})
		for len(stack) > 0 {
			f := &stack[len(stack)-1]
			if f.next == 0 {
				left = append(left, f.v)
				stack = stack[:len(stack)-1]
				continue
			}
			f.next-- // the last exit first, as the order is turned round
			if w := g.Edges[out[f.v][f.next]].To; !seen[w] {
				seen[w] = true
				stack = append(stack, frame{w, len(out[w])})
			}
		}
	}
	// Turned round, what is walked last comes first.
	for v := n - 1; v >= 0; v-- {
		if in[v] == 0 {
			from(v)
		}
	}
	slices.Reverse(left)
	for v := range n { // circles that nothing leads to, each turned round by itself
		begin := len(left)
		from(v)
		slices.Reverse(left[begin:])
	}
	for i, v := range left {
		at[v] = i
	}
	return at
}

// circles returns the sets of two and more nodes that lead round to each other
// (Tarjan 1972).
func circles(g *Graph, out [][]int, at []int) [][]int {
	n := len(g.Nodes)
	index, low := make([]int, n), make([]int, n)
	on := make([]bool, n)
	var stack []int
	var found [][]int
	next := 0
	type frame struct{ v, e int }
	for _, root := range byNumber(at) {
		if index[root] != 0 {
			continue
		}
		frames := []frame{{root, 0}}
		for len(frames) > 0 {
			f := &frames[len(frames)-1]
			v := f.v
			if f.e == 0 && index[v] == 0 {
				next++
				index[v], low[v] = next, next
				stack, on[v] = append(stack, v), true
			}
			if f.e < len(out[v]) {
				w := g.Edges[out[v][f.e]].To
				f.e++
				if index[w] == 0 {
					frames = append(frames, frame{w, 0})
				} else if on[w] {
					low[v] = min(low[v], index[w])
				}
				continue
			}
			frames = frames[:len(frames)-1]
			if len(frames) > 0 {
				low[frames[len(frames)-1].v] = min(low[frames[len(frames)-1].v], low[v])
			}
			if low[v] == index[v] {
				k := slices.Index(stack, v)
				if len(stack)-k > 1 {
					found = append(found, slices.Clone(stack[k:]))
				}
				for _, w := range stack[k:] {
					on[w] = false
				}
				stack = stack[:k]
			}
		}
	}
	return found
}

// byNumber returns the nodes in the order of their numbers.
func byNumber(at []int) []int {
	list := make([]int, len(at))
	for v, i := range at {
		list[i] = v
	}
	return list
}

// fewestBack returns the place of each of n nodes in an order that begins with
// node 0 and in which the fewest edges lead back; of equals one in which those
// that lead back did so in the order given.
func fewestBack(n int, edges []Edge) []int {
	into := make([]int, n)    // the nodes from which an edge leads to each
	count := make([][]int, n) // how many
	const price = 1 << 10     // of one edge; less than that decides between equals
	for v := range n {
		count[v] = make([]int, n)
	}
	for _, e := range edges {
		into[e.To] |= 1 << e.From
		count[e.From][e.To] += price
		if e.From < e.To { // it would lead back only because it was chosen to
			count[e.From][e.To]++
		}
	}
	// cost of placing the nodes of a set first, last the node placed last.
	full := 1<<n - 1
	cost := make([]int, full+1)
	last := make([]int8, full+1)
	for set := 1; set <= full; set++ {
		cost[set] = 1 << 60
		if set&1 == 0 && set != 0 {
			continue // node 0 is the first
		}
		for rest := set; rest != 0; rest &= rest - 1 {
			v := bits.TrailingZeros(uint(rest))
			before := set &^ (1 << v)
			if v == 0 && before != 0 || cost[before] >= 1<<60 {
				continue
			}
			// Edges from v to what came before lead back.
			c := cost[before]
			for w := before; w != 0; w &= w - 1 {
				c += count[v][bits.TrailingZeros(uint(w))]
			}
			if c < cost[set] || c == cost[set] && v > int(last[set]) {
				cost[set], last[set] = c, int8(v)
			}
		}
	}
	order := make([]int, n)
	for set, i := full, n-1; set != 0; i-- {
		v := int(last[set])
		order[v] = i
		set &^= 1 << v
	}
	return order
}

// sifted returns the place of each of n nodes in an order that begins with node 0
// and in which few edges lead back: every node in turn goes to its best place,
// until none has a better one.
func sifted(n int, edges []Edge) []int {
	list, order := make([]int, n), make([]int, n)
	for v := range n {
		list[v], order[v] = v, v
	}
	out, in := make([][]int, n), make([][]int, n)
	for _, e := range edges {
		out[e.From] = append(out[e.From], e.To)
		in[e.To] = append(in[e.To], e.From)
	}
	gain := make([]int, n+1)
	for range 20 {
		moved := false
		for v := 1; v < n; v++ {
			// Passing a node w on the way to the left saves an edge from v to w
			// and costs one from w to v.
			clear(gain)
			for _, w := range out[v] {
				gain[order[w]]++
			}
			for _, w := range in[v] {
				gain[order[w]]--
			}
			at, best, to := order[v], 0, order[v]
			for sum, i := 0, at-1; i >= 1; i-- {
				if sum += gain[i]; sum > best {
					best, to = sum, i
				}
			}
			for sum, i := 0, at+1; i < n; i++ {
				if sum -= gain[i]; sum > best {
					best, to = sum, i
				}
			}
			if to == at {
				continue
			}
			moved = true
			list = slices.Insert(slices.Delete(list, at, at+1), to, v)
			for i, w := range list {
				order[w] = i
			}
		}
		if !moved {
			break
		}
	}
	return order
}
