package grid

import (
	"cmp"
	"slices"

	"plaintracer/core/layered"
)

// compact moves everything as far to the front as the order of what stands and runs in every row allows, and
// then the same across the flow, in each band. What is joined by a line that runs straight moves together, and
// nothing changes sides. It is the compaction of Eiglsperger, Fekete and Klau, Orthogonal Graph Drawing (2001),
// by longest paths in the graph of what lies before what; from memory.
func (b *board) compact() {
	for _, columns := range [2]bool{true, false} {
		b.save()
		b.pack(columns)
		b.fill()
		b.rebuild(nil)
		if b.sum = b.total(); b.sum > b.kept.sum {
			b.restore()
		}
	}
}

// item is a node, or a line that passes, at a place of a row (or column).
type item struct{ line, at, unit int }

// pack finds the places along one axis: columns, or rows.
func (b *board) pack(columns bool) {
	n := len(b.at)
	// Seen along the axis: at is the coordinate that is to become smaller, line the other one.
	split := func(p cell) (at, line int) {
		if columns {
			return p.c, p.r
		}
		return p.r, p.c
	}
	unit := make([]int, n)
	for v := range unit {
		unit[v] = v
	}
	var root func(v int) int
	root = func(v int) int {
		if unit[v] != v {
			unit[v] = root(unit[v])
		}
		return unit[v]
	}
	for _, k := range b.order {
		e, q := &b.g.Edges[k], &b.paths[k]
		a, _ := split(b.at[e.From])
		if z, _ := split(b.at[e.To]); q.shape == straight && a == z {
			unit[root(e.From)] = root(e.To)
		}
	}
	var items []item
	for v, p := range b.at {
		at, line := split(p)
		items = append(items, item{line, at, root(v)})
	}
	// Lines that run through cells belong to the node at which they begin or end there.
	for _, k := range b.order {
		e, q := &b.g.Edges[k], &b.paths[k]
		for i := 1; i < int(q.n); i++ {
			p, o := q.p[i-1], q.p[i]
			if !columns {
				p, o = point{p.y, p.x}, point{o.y, o.x}
			}
			if p.x != o.x || p.x%8 != 0 {
				continue
			}
			v := e.From
			if i > 1 {
				v = e.To
			}
			for line := (min(p.y, o.y)/8 + 1) * 2; int32(4*line) < max(p.y, o.y); line += 2 {
				if line >= 0 && int32(4*line) > min(p.y, o.y) {
					items = append(items, item{int(line), int(p.x) / 4, root(v)})
				}
			}
		}
	}
	slices.SortFunc(items, func(a, b item) int { return cmp.Or(cmp.Compare(a.line, b.line), cmp.Compare(a.at, b.at)) })
	type arc struct{ from, to int }
	var arcs []arc
	for i := 1; i < len(items); i++ {
		if a, z := items[i-1], items[i]; a.line == z.line && a.at < z.at && a.unit != z.unit {
			arcs = append(arcs, arc{a.unit, z.unit})
		}
	}
	for _, k := range b.order {
		e := &b.g.Edges[k]
		a, _ := split(b.at[e.From])
		switch z, _ := split(b.at[e.To]); {
		case a < z:
			arcs = append(arcs, arc{root(e.From), root(e.To)})
		case z < a:
			arcs = append(arcs, arc{root(e.To), root(e.From)})
		}
	}
	if columns && b.stages {
		for u, nd := range b.g.Nodes {
			for v, o := range b.g.Nodes {
				if nd.Stage != layered.None && o.Stage == nd.Stage+1 {
					arcs = append(arcs, arc{root(u), root(v)})
				}
			}
		}
	}
	// All arcs lead to greater places, so that they can be followed in the order of these.
	place := func(v int) int { at, _ := split(b.at[v]); return at }
	slices.SortFunc(arcs, func(a, c arc) int { return cmp.Compare(place(a.from), place(c.from)) })
	to := make([]int, n)
	if !columns { // each band begins where it began
		for v := range to {
			to[root(v)] = b.firstRow(b.band[root(v)])
		}
	}
	for _, a := range arcs {
		if b.sameBand(columns, a.from, a.to) {
			to[a.to] = max(to[a.to], to[a.from]+2)
		}
	}
	for v := range b.at {
		if columns {
			b.at[v].c = to[root(v)]
		} else {
			b.at[v].r = to[root(v)]
		}
	}
}

func (b *board) sameBand(columns bool, u, v int) bool { return columns || b.band[u] == b.band[v] }

// firstRow returns the first row of a band.
func (b *board) firstRow(band int) int {
	for r, o := range b.rowBand {
		if o == band {
			return 2 * r
		}
	}
	return 0
}
