package grid

import "plaintracer/core/layered"

// exits are those of a node: all, the ways on among them, and whether any has a word or leads elsewhere than to a step
// ahead.
type exits struct {
	all, ways               int
	labelled, waysLabelled  bool
	backward, aside, forked bool
}

// exitsOf counts the exits of every node.
func exitsOf(g *layered.Graph, back []bool) []exits {
	out := make([]exits, len(g.Nodes))
	for k, e := range g.Edges {
		x := &out[e.From]
		x.all++
		x.labelled = x.labelled || e.Label > 0
		x.backward = x.backward || back[k]
		x.aside = x.aside || g.Nodes[e.To].Aside
		if !back[k] && e.From != e.To {
			x.ways++
			x.waysLabelled = x.waysLabelled || e.Label > 0
		}
	}
	for v := range out {
		x := &out[v]
		x.forked = x.ways >= 4 || x.ways == 3 && !x.waysLabelled
	}
	return out
}

// parting marks what follows from the exits: the edges that go on from where a flow parts into three or more ways, or a
// choice into four or more, of which one that only ends may stand anywhere beside it; the forks whose ways may run on
// one line until they part; and the choices of two or three answers.
func parting(g *layered.Graph, back []bool) (forked, rails, answers []bool) {
	exits := exitsOf(g, back)
	forked, rails, answers = make([]bool, len(g.Edges)), make([]bool, len(g.Nodes)), make([]bool, len(g.Nodes))
	for k, e := range g.Edges {
		forked[k] = !back[k] && exits[e.From].forked && exits[e.To].all > 0
	}
	for v, x := range exits {
		rails[v] = g.Rails && x.all >= 3 && !x.labelled && !x.backward && !x.aside
		answers[v] = x.labelled && (x.all == 2 || x.all == 3)
	}
	return forked, rails, answers
}

// forks tries to set the ways out of each fork side by side: the main one straight ahead, the others by turns to either
// side of it, each step of a way beside that of the others. Single moves do not come there, since they pass by worse
// places.
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

// ways lists the steps of each way out of a fork, in its band, up to where it parts, ends or comes to others; the main
// way first.
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
