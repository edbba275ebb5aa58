package layout

import (
	"plaintracer/core/arrange"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

// page is what the drawing may fill, in the axes of the layout.
func (l *layout) page() geometry.Box {
	if l.turned { // the heading is at the foot all the same
		t := l.s.Turned()
		return t.Area().Turned(true)
	}
	return l.s.Area()
}

// onPaper draws what hangs together, and sets it side by side.
func (l *layout) onPaper(g *layered.Graph) bool {
	page := l.page()
	length, _ := l.sizes(page)
	from, across, deep := margin, margin, 0 // where the next one goes, and how far those beside it reach
	for _, part := range parts(g) {
		sub, edges := *g, part.edges
		sub.Nodes = nil
		for _, v := range part.nodes {
			sub.Nodes = append(sub.Nodes, g.Nodes[v])
		}
		sub.Edges = edges
		d := l.drawn(&sub, part.nodes)
		if d == nil {
			return false
		}
		asTree := l.hierarchy(&sub, part.nodes)
		l.tree = l.tree || asTree
		long := d.Layers[len(d.Layers)-1].To
		if from > margin && from+long > length-margin { // it begins a new row
			from, across, deep = margin, across+deep+2*apart, 0
		}
		if from+long > length-margin && len(l.wish.IDs) == 0 && !l.wish.Long {
			close := sub // the same with steps closer together
			close.Gap, close.Apart = closest, closest
			closer := l.drawn(&close, part.nodes)
			if closer == nil {
				return false
			}
			if l.closer || closer.Layers[len(closer.Layers)-1].To <= length-margin-from {
				d, sub = closer, close
				long = d.Layers[len(d.Layers)-1].To
			}
		}
		lo, hi := 0, 0
		for i, n := range sub.Nodes {
			if i == 0 {
				lo, hi = d.Across[0]-n.Near, d.Across[0]+n.Far
			}
			lo, hi = min(lo, d.Across[i]-n.Near), max(hi, d.Across[i]+n.Far)
		}
		lo, hi = lo-d.Before, hi+d.After
		for i, v := range part.nodes {
			l.put(v, from+d.Along[i], across+d.Across[i]-lo)
		}
		for i, k := range part.which {
			switch {
			case asTree && d.Bends[i] > 0:
				rail := from + d.Layers[d.Layer[part.edges[i].From]].To + sub.Gap/2
				l.lines[l.links[k]] = line{planned: true, rail: true, sides: d.Sides[i], bends: d.Bends[i], at: rail}
			case d.Sides != nil:
				l.lines[l.links[k]] = line{planned: true, sides: d.Sides[i], bends: d.Bends[i], crossed: d.Crossed[i],
					long: d.Long[i], at: across + d.Lines[i] - lo}
			case d.Long[i]:
				l.lines[l.links[k]] = line{at: across + d.Lines[i] - lo, crossed: d.Crossed[i]}
			}
		}
		l.loops(d, part.edges, part.which)
		from += long + 2*arrange.Gap
		deep = max(deep, hi-lo)
	}
	return true
}

// part is what hangs together.
type part struct {
	nodes []int
	edges []layered.Edge
	// which are the places of the edges in the whole graph.
	which []int
}

// parts takes a graph apart, in the order of the first nodes.
func parts(g *layered.Graph) []part {
	of := make([]int, len(g.Nodes))
	for v := range of {
		of[v] = v
	}
	var root func(v int) int
	root = func(v int) int {
		if of[v] != v {
			of[v] = root(of[v])
		}
		return of[v]
	}
	for _, e := range g.Edges {
		a, b := root(e.From), root(e.To)
		of[max(a, b)] = min(a, b)
	}
	var out []part
	number, place := map[int]int{}, make([]int, len(g.Nodes))
	for v := range g.Nodes {
		r := root(v)
		k, ok := number[r]
		if !ok {
			k = len(out)
			number[r] = k
			out = append(out, part{})
		}
		place[v] = len(out[k].nodes)
		out[k].nodes = append(out[k].nodes, v)
	}
	for i, e := range g.Edges {
		k := number[root(e.From)]
		e.From, e.To = place[e.From], place[e.To]
		out[k].edges, out[k].which = append(out[k].edges, e), append(out[k].which, i)
	}
	return out
}
