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
	p := packing{b: b, columns: columns, unit: make([]int, len(b.at))}
	p.unite()
	p.collect()
	arcs := p.arcs()
	to := make([]int, len(b.at))
	if !columns { // each band begins where it began
		for v := range to {
			to[p.root(v)] = b.firstRow(b.band[p.root(v)])
		}
	}
	for _, a := range arcs {
		if b.sameBand(columns, a.from, a.to) {
			to[a.to] = max(to[a.to], to[a.from]+2)
		}
	}
	for v := range b.at {
		if columns {
			b.at[v].c = to[p.root(v)]
		} else {
			b.at[v].r = to[p.root(v)]
		}
	}
}

// packing is a board that is packed along one axis.
type packing struct {
	b       *board
	columns bool
	// unit leads from each node towards the one that stands for all that move together.
	unit []int
	// items are the nodes and the lines that run through cells.
	items []item
}

// arc says that one unit lies before another one.
type arc struct{ from, to int }

// split returns a cell as seen along the axis: at is the coordinate that is to become smaller, line the other one.
func (p *packing) split(c cell) (at, line int) {
	if p.columns {
		return c.c, c.r
	}
	return c.r, c.c
}

// place is where a node lies along the axis.
func (p *packing) place(v int) int {
	at, _ := p.split(p.b.at[v])
	return at
}

// root is the node that stands for all that move together with one.
func (p *packing) root(v int) int {
	if p.unit[v] != v {
		p.unit[v] = p.root(p.unit[v])
	}
	return p.unit[v]
}

// unite has nodes move together that a straight line joins across the axis.
func (p *packing) unite() {
	b := p.b
	for v := range p.unit {
		p.unit[v] = v
	}
	for _, k := range b.order {
		e, q := &b.g.Edges[k], &b.paths[k]
		if q.shape == straight && p.place(e.From) == p.place(e.To) {
			p.unit[p.root(e.From)] = p.root(e.To)
		}
	}
}

// collect gathers what lies on each line across the axis, in its order. Lines that run through cells belong to the node
// at which they begin or end there.
func (p *packing) collect() {
	b := p.b
	for v, c := range b.at {
		at, line := p.split(c)
		p.items = append(p.items, item{line, at, p.root(v)})
	}
	for _, k := range b.order {
		e, q := &b.g.Edges[k], &b.paths[k]
		for i := 1; i < int(q.n); i++ {
			from, to := q.p[i-1], q.p[i]
			if !p.columns {
				from, to = point{from.y, from.x}, point{to.y, to.x}
			}
			if from.x != to.x || from.x%8 != 0 {
				continue
			}
			v := e.From
			if i > 1 {
				v = e.To
			}
			for line := (min(from.y, to.y)/8 + 1) * 2; int32(4*line) < max(from.y, to.y); line += 2 {
				if line >= 0 && int32(4*line) > min(from.y, to.y) {
					p.items = append(p.items, item{int(line), int(from.x) / 4, p.root(v)})
				}
			}
		}
	}
	slices.SortFunc(p.items,
		func(a, b item) int { return cmp.Or(cmp.Compare(a.line, b.line), cmp.Compare(a.at, b.at)) })
}

// arcs say which unit lies before which: by what stands beside each other on a line, by edges, and by stages. All lead
// to greater places, so that they can be followed in the order of these.
func (p *packing) arcs() (list []arc) {
	b := p.b
	for i := 1; i < len(p.items); i++ {
		if a, z := p.items[i-1], p.items[i]; a.line == z.line && a.at < z.at && a.unit != z.unit {
			list = append(list, arc{a.unit, z.unit})
		}
	}
	for _, k := range b.order {
		e := &b.g.Edges[k]
		switch a, z := p.place(e.From), p.place(e.To); {
		case a < z:
			list = append(list, arc{p.root(e.From), p.root(e.To)})
		case z < a:
			list = append(list, arc{p.root(e.To), p.root(e.From)})
		}
	}
	if p.columns && b.stages {
		for u, nd := range b.g.Nodes {
			for v, o := range b.g.Nodes {
				if nd.Stage != layered.None && o.Stage == nd.Stage+1 {
					list = append(list, arc{p.root(u), p.root(v)})
				}
			}
		}
	}
	slices.SortFunc(list, func(a, c arc) int { return cmp.Compare(p.place(a.from), p.place(c.from)) })
	return list
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
