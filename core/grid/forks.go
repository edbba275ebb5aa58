package grid

import "plaintracer/core/layered"

// forks marks the edges that go on from where a flow parts into three or more ways, or a choice into four or more. One that only
// ends may stand anywhere beside it.
func forks(g *layered.Graph, back []bool) []bool {
	out := make([]bool, len(g.Edges))
	ways, from := make([]int, len(g.Nodes)), make([]int, len(g.Nodes))
	labelled := make([]bool, len(g.Nodes))
	for k, e := range g.Edges {
		if !back[k] && e.From != e.To {
			ways[e.From]++
			labelled[e.From] = labelled[e.From] || e.Label > 0
		}
		from[e.From]++
	}
	for k, e := range g.Edges {
		least := 3
		if labelled[e.From] {
			least = 4
		}
		out[k] = !back[k] && ways[e.From] >= least && from[e.To] > 0
	}
	return out
}

// rails marks the forks of three or more ways without a word of which is which.
func rails(g *layered.Graph, back []bool) []bool {
	out, exits, labelled := make([]bool, len(g.Nodes)), make([]int, len(g.Nodes)), make([]bool, len(g.Nodes))
	for k, e := range g.Edges {
		exits[e.From]++
		labelled[e.From] = labelled[e.From] || e.Label > 0 || back[k] || g.Nodes[e.To].Aside
	}
	for v := range out {
		out[v] = g.Rails && exits[v] >= 3 && !labelled[v]
	}
	return out
}

// forks tries to set the ways out of each fork side by side: the main one straight ahead, the others by turns to either side of
// it, each step of a way beside that of the others. Single moves do not come there, since they pass by worse places.
func (b *board) forks() {
	if b.stages {
		return
	}
	var was keep
	for u := range b.at {
		ways := b.ways(u)
		if len(ways) < 3 || b.aligned(u, ways) || b.spent() {
			continue
		}
		b.saveTo(&was)
		scale := 2 * (len(b.at) + 1) // room for new columns and rows between those there are
		for v, p := range b.at {
			b.at[v] = cell{p.c * scale, p.r * scale}
		}
		at := b.at[u]
		for k, way := range ways {
			row := at.r + (k+1)/2*(2*(k&1)-1)
			if b.g.Mirror {
				row = 2*at.r - row
			}
			for i, v := range way {
				b.at[v] = cell{at.c + i + 1, row}
			}
		}
		b.fill()
		b.rebuild(func(int) bool { return true })
		b.moves()
		if b.sum >= was.sum {
			b.restoreFrom(&was)
		}
	}
}

// ways lists the steps of each way out of a fork, in its band, up to where it parts, ends or comes to others; the main way first.
func (b *board) ways(u int) (out [][]int) {
	for _, main := range [2]bool{true, false} {
		for _, k := range b.edges[u] {
			e := b.g.Edges[k]
			if e.From != u || !b.forked[k] || b.main[k] != main || b.band[e.To] != b.band[u] {
				continue
			}
			var way []int
			for v := e.To; b.between(v) && b.band[v] == b.band[u]; {
				way = append(way, v)
				next := none
				for _, j := range b.edges[v] {
					if b.g.Edges[j].From == v && !b.back[j] {
						next = b.g.Edges[j].To
					}
				}
				if next == none {
					break
				}
				v = next
			}
			if len(way) > 0 {
				out = append(out, way)
			}
		}
	}
	return out
}

// between reports whether a single way leads to a node, and one at the most on from it.
func (b *board) between(v int) bool {
	in, out := 0, 0
	for _, k := range b.edges[v] {
		if b.back[k] {
			continue
		}
		if b.g.Edges[k].To == v {
			in++
		} else {
			out++
		}
	}
	return in == 1 && out <= 1
}

// aligned reports whether the ways out of a fork begin side by side, the first one straight ahead.
func (b *board) aligned(u int, ways [][]int) bool {
	lo, hi := 0, 0
	for _, way := range ways {
		p := b.at[way[0]]
		if p.c != b.at[u].c+2 {
			return false
		}
		lo, hi = min(lo, p.r-b.at[u].r), max(hi, p.r-b.at[u].r)
	}
	return b.at[ways[0][0]].r == b.at[u].r && hi+lo <= 2 && hi+lo >= -2
}
