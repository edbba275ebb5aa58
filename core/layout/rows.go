package layout

import (
	"plaintracer/core/arrange"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

const (
	// ahead is the room before a row that begins anew, in which the line from the
	// row before comes in.
	ahead = 3 * margin / 4
	// rowGap is the room between two rows, in the middle of which a line goes on to the next.
	rowGap = 6 * arrange.Grid
	// perCut is what a connector from one row to the next costs in the choice of
	// the places to break, measured in the room a row leaves empty: more than any
	// row leaves, so that no decision is parted from its branches without need.
	perCut = 4000 * px
	// perLonely is what a row of one or two symbols costs.
	perLonely = 2000 * px
	// perParted is what it costs to part a decision from the step of its first answer, or to break a loop.
	perParted = 3 * perCut
)

// rows breaks a drawing that is longer than a line of the paper into rows, and
// returns the row of every layer: as few rows as hold it, with few connectors from
// one to the next, and rows about equally long; not between a decision and the step of
// its first answer, nor within a loop, where that can be helped. It returns nil when a
// single layer is too long already.
func rows(d *layered.Drawing, edges []layered.Edge, line int) []int {
	n := len(d.Layers)
	crossing := make([]int, n+1) // connectors that pass between layer i-1 and i
	stand := make([]int, n+1)    // steps before layer i
	for _, l := range d.Layer {
		stand[l+1]++
	}
	for i := range n {
		stand[i+1] += stand[i]
	}
	parted := make([]int, n+1) // those of them that are the first answer of a decision, or lead back
	several := map[int]bool{}
	for _, e := range edges {
		several[e.From] = several[e.From] || e.Exit > 0
	}
	for _, e := range edges {
		a, b := d.Layer[e.From], d.Layer[e.To]
		parts := a > b || e.Exit == 0 && several[e.From]
		if a > b {
			a, b = b, a
		}
		for i := a + 1; i <= b; i++ {
			crossing[i]++
			if parts {
				parted[i]++
			}
		}
	}
	// Of the ways to break before layer i: how many rows, what it costs, and where
	// the last row begins.
	type way struct{ rows, cost, from int }
	best := make([]way, n+1)
	for i := 1; i <= n; i++ {
		best[i].rows = -1
		for from := i - 1; from >= 0; from-- {
			long := d.Layers[i-1].To - d.Layers[from].From
			room := line
			if from > 0 {
				room -= ahead
			}
			if long > room {
				break
			}
			if best[from].rows < 0 {
				continue
			}
			w := way{best[from].rows + 1, best[from].cost, from}
			if from > 0 {
				w.cost += crossing[from]*perCut + parted[from]*perParted
			}
			if stand[i]-stand[from] < 3 {
				w.cost += perLonely
			}
			empty := (room - long) / px
			w.cost += empty * empty / line * px // so that rows are about equal
			if best[i].rows < 0 || w.rows < best[i].rows || w.rows == best[i].rows && w.cost < best[i].cost {
				best[i] = w
			}
		}
	}
	if best[n].rows < 0 {
		return nil
	}
	out := make([]int, n)
	for i := n; i > 0; i = best[i].from {
		for l := best[i].from; l < i; l++ {
			out[l] = best[i].rows - 1
		}
	}
	return out
}

// wrap sets a drawing in rows on the paper, from a place across the flow on, and
// returns how far it reaches; it reports whether it could, which without deeper it can only where all of it lies on
// the paper.
func (l *layout) wrap(d *layered.Drawing, p *part, nodes []layered.Node, across int, deeper bool) (deep int, ok bool) {
	length, width := l.sizes(l.page())
	row := rows(d, p.edges, length-2*margin)
	if row == nil {
		return 0, false
	}
	count := row[len(row)-1] + 1
	// How far each row reaches across the flow, and where it begins along it.
	lo, hi, begin := make([]int, count), make([]int, count), make([]int, count)
	seen := make([]bool, count)
	for i, n := range nodes {
		r := row[d.Layer[i]]
		if !seen[r] {
			lo[r], hi[r], begin[r], seen[r] = d.Across[i]-n.Near, d.Across[i]+n.Far, d.Layers[d.Layer[i]].From, true
		}
		lo[r], hi[r] = min(lo[r], d.Across[i]-n.Near), max(hi[r], d.Across[i]+n.Far)
		begin[r] = min(begin[r], d.Layers[d.Layer[i]].From)
	}
	top := make([]int, count)
	at := across
	for r := range count {
		top[r] = at
		at += hi[r] - lo[r] + rowGap
	}
	deep = at - rowGap - across
	if across+deep > width-margin && !deeper {
		return 0, false
	}
	l.rows = max(l.rows, count)
	// first and last are the layers with which each row begins and ends.
	first, last := make([]int, count), make([]int, count)
	for layer, r := range row {
		if layer == 0 || row[layer-1] != r {
			first[r] = layer
		}
		last[r] = layer
	}
	indent := make([]bool, count) // whether a line comes in before the first step of the row
	for i, k := range p.which {
		from, to := d.Layer[p.edges[i].From], d.Layer[p.edges[i].To]
		r := row[from]
		switch {
		case d.Sides != nil && r == row[to]:
			l.lines[l.links[k]] = line{planned: true, sides: d.Sides[i], bends: d.Bends[i], crossed: d.Crossed[i], long: d.Long[i], at: top[r] + d.Lines[i] - lo[r]}
		case d.Long[i] && r == row[to]:
			l.lines[l.links[k]] = line{at: top[r] + d.Lines[i] - lo[r], crossed: d.Crossed[i]}
		case row[to] == r+1 && from == last[r] && to == first[r+1]:
			sides := turning(d, p, nodes, row, i)
			l.lines[l.links[k]] = line{at: top[r+1] - rowGap/2, between: true, sides: sides}
			indent[r+1] = indent[r+1] || sides[1] == geometry.Left
		}
	}
	for i, v := range p.nodes {
		r := row[d.Layer[i]]
		from := margin - begin[r]
		if indent[r] {
			from += ahead
		}
		l.put(v, from+d.Along[i], top[r]+d.Across[i]-lo[r])
	}
	return deep, true
}

// turning returns the sides by which an edge leaves the last step of a row and comes in at the first one of the next: down and
// in from above, in two bends, where nothing else is in the way there; else with the flow, which takes a bend more at each end.
func turning(d *layered.Drawing, p *part, nodes []layered.Node, row []int, k int) [2]geometry.Side {
	from, to := p.edges[k].From, p.edges[k].To
	sides := [2]geometry.Side{geometry.Bottom, geometry.Top}
	free := func(v int, side geometry.Side) bool {
		n := nodes[v]
		if side == geometry.Bottom && n.Far > n.Near || side == geometry.Top && n.Near > n.Far {
			return false // something stands beside it
		}
		for o := range nodes {
			if d.Layer[o] == d.Layer[v] && (side == geometry.Bottom && d.Across[o] > d.Across[v] || side == geometry.Top && d.Across[o] < d.Across[v]) {
				return false
			}
		}
		for i, e := range p.edges {
			if i == k || e.From != v && e.To != v {
				continue
			}
			if d.Sides == nil || row[d.Layer[e.From]] != row[d.Layer[e.To]] {
				if e.From == from && e.From == v || e.To == to && e.To == v {
					return false // nobody knows where it runs
				}
				continue
			}
			if e.From == v && d.Sides[i][0] == side || e.To == v && d.Sides[i][1] == side {
				return false
			}
		}
		return true
	}
	if !free(from, geometry.Bottom) {
		sides[0] = geometry.Right
	}
	if !free(to, geometry.Top) {
		sides[1] = geometry.Left
	}
	return sides
}
