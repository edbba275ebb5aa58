package grid

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

// Distances as in package layered: what lines keep from nodes and from each other.
const (
	pass      = 16 * px
	track     = 8 * px
	apartBy   = 16 * px
	lanePad   = 20 * px
	lineApart = 20 * px
	lineBand  = 12 * px
)

// measure gives columns and rows their places, and returns the drawing.
func (b *board) measure(d *layered.Drawing) *layered.Drawing {
	g, n := b.g, len(b.at)
	out := &layered.Drawing{Back: d.Back, Along: make([]int, n), Across: make([]int, n), Layer: make([]int, n),
		Order: make([]int, n),
		Lines: make([]int, len(g.Edges)), Long: make([]bool, len(g.Edges)), LineBands: make([]int, len(g.Edges)),
		Crossed: make([]int, len(g.Edges))}
	out.Sides, out.Bends = make([][2]geometry.Side, len(g.Edges)), make([]int, len(g.Edges))
	for _, k := range b.order {
		q := &b.paths[k]
		out.Sides[k], out.Bends[k], out.Crossed[k] = [2]geometry.Side{q.from, q.to}, q.bends(), b.met(k, q,
			len(b.paths))
	}
	b.columns(out)
	out.Before, out.After = room(b.deepest(false, -1)), room(b.deepest(false, b.rows-1))
	y := b.rowsOf(out)
	inChannel := map[int]int{}
	for _, k := range b.order {
		q := &b.paths[k]
		for i := 2; i+1 < int(q.n); i++ {
			if at := int(q.p[i].y); q.p[i].y == q.p[i-1].y && at%8 != 0 {
				out.Long[k] = true
				out.Lines[k], out.LineBands[k] = b.channel(y, at, k)
				n := inChannel[out.Lines[k]] // beside those that run there already, to either side by turns
				inChannel[out.Lines[k]]++
				out.Lines[k] += (n + 1) / 2 * track * (1 - 2*(n&1))
			}
		}
	}
	for _, k := range b.order {
		for _, j := range b.order {
			if j < k {
				out.Crossings += meet(&b.paths[k], &b.paths[j], true)
			}
		}
	}
	return out
}

// room is what lines beside each other take outside the first or the last row.
func room(lines int) int {
	if lines == 0 {
		return 0
	}
	return lineApart + track*(lines-1)
}

// columns places the columns along the flow: each as long as its longest node, and as far from the next as the
// labels and the lines between them need.
func (b *board) columns(out *layered.Drawing) {
	g := b.g
	long, gap := make([]int, b.cols), make([]int, b.cols)
	for c := range gap {
		gap[c] = max(g.Gap, 2*pass+track*(b.deepest(true, c)-1))
	}
	for v, nd := range g.Nodes {
		long[b.at[v].c/2] = max(long[b.at[v].c/2], nd.Along)
	}
	for _, k := range b.order {
		e, q := &g.Edges[k], &b.paths[k]
		if e.Label == 0 {
			continue
		}
		switch c := b.at[e.From].c / 2; {
		case q.p[1].x > q.p[0].x:
			gap[c] = max(gap[c], e.Label)
		case q.p[1].x < q.p[0].x && c > 0:
			gap[c-1] = max(gap[c-1], e.Label)
		}
	}
	at := 0
	out.Layers = make([]layered.Span, b.cols)
	for c := range out.Layers {
		out.Layers[c] = layered.Span{From: at, To: at + long[c]}
		at += long[c] + gap[c]
	}
	for v, p := range b.at {
		s := out.Layers[p.c/2]
		out.Along[v], out.Layer[v], out.Order[v] = (s.From+s.To)/2, p.c/2, p.r/2
	}
}

// deepest returns how many lines lie beside each other in the channels after a column, or after a row.
func (b *board) deepest(column bool, at int) int {
	return b.deepestOf(column, at, func(int) bool { return true })
}

// deepestOf is deepest for some of the edges.
func (b *board) deepestOf(column bool, at int, counts func(k int) bool) int {
	type end struct{ at, by int }
	var ends []end
	for _, k := range b.order {
		q := &b.paths[k]
		for i := 1; i < int(q.n) && counts(k); i++ {
			p, o := q.p[i-1], q.p[i]
			if !column {
				p, o = point{p.y, p.x}, point{o.y, o.x}
			}
			if p.x == o.x && (int(p.x) == 8*at+2 || int(p.x) == 8*at+6) {
				ends = append(ends, end{2*int(min(p.y, o.y)) + 1, 1}, end{2 * int(max(p.y, o.y)), -1})
			}
		}
	}
	slices.SortFunc(ends, func(a, b end) int {
		if a.at != b.at {
			return a.at - b.at
		}
		return a.by - b.by
	})
	depth, most := 0, 0
	for _, e := range ends {
		depth += e.by
		most = max(most, depth)
	}
	return most
}

// rowsOf places the rows across the flow, band by band.
func (b *board) rowsOf(out *layered.Drawing) []int {
	g := b.g
	near, far := make([]int, b.rows*b.cols), make([]int, b.rows*b.cols)
	stands := make([]bool, b.rows*b.cols)
	runs := b.lined()
	least := make([]int, b.rows) // the half of the narrowest node of a row
	for v, p := range b.at {
		i, nd := p.r/2*b.cols+p.c/2, g.Nodes[v]
		near[i], far[i], stands[i] = nd.Near, nd.Far, true
		if half := min(nd.Near, nd.Far); least[p.r/2] == 0 || half < least[p.r/2] {
			least[p.r/2] = half
		}
	}
	y := make([]int, b.rows)
	for r := 1; r < b.rows; r++ {
		if b.rowBand[r] != b.rowBand[r-1] {
			continue
		}
		apart := max(g.Apart, 2*pass+track*(b.deepest(false, r-1)-1))
		y[r] = y[r-1] + least[r-1] + least[r] + apart
		for q := r - 1; q >= 0 && b.rowBand[q] == b.rowBand[r]; q-- {
			for c := range b.cols {
				i, j := q*b.cols+c, r*b.cols+c
				switch {
				case stands[i] && stands[j]:
					y[r] = max(y[r], y[q]+far[i]+near[j]+apart)
				case stands[i] && runs[j]:
					y[r] = max(y[r], y[q]+far[i]+lineApart)
				case stands[j] && runs[i]:
					y[r] = max(y[r], y[q]+near[j]+lineApart)
				}
			}
		}
	}
	if g.Bands == 0 {
		for v, p := range b.at {
			out.Across[v] = y[p.r/2]
		}
		return y
	}
	out.Bands = make([]layered.Span, g.Bands)
	first := 0
	for band := range out.Bands {
		lo, hi, any := 0, 0, false
		for v, p := range b.at {
			if b.band[v] != band {
				continue
			}
			a, z := y[p.r/2]-g.Nodes[v].Near, y[p.r/2]+g.Nodes[v].Far
			if !any {
				lo, hi, any = a, z, true
			}
			lo, hi = min(lo, a), max(hi, z)
		}
		if first, last, any := b.rowsIn(band); any {
			hi += b.beyond(last, band)
			lo -= b.beyond(first-1, band)
		}
		for v, p := range b.at {
			if b.band[v] == band {
				out.Across[v] = first + y[p.r/2] - lo
			}
		}
		out.Bands[band] = layered.Span{From: first, To: first + hi - lo}
		first += hi - lo
	}
	return b.rowPlaces(out)
}

// rowsIn returns the first and the last row of a band, and whether anything stands in it.
func (b *board) rowsIn(band int) (first, last int, any bool) {
	for r, o := range b.rowBand {
		if o == band {
			if !any {
				first, any = r, true
			}
			last = r
		}
	}
	return first, last, any
}

// beyond returns the room that the lines after a row need in a band that begins or ends there, beside that which every
// band has.
func (b *board) beyond(row, band int) int {
	lines := b.deepestOf(false, row, func(k int) bool { return b.channelBand(k, row) == band })
	if lines == 0 {
		return 0
	}
	return max(pass+apartBy*(lines-1)+lineBand-lanePad, 0)
}

// channelBand returns the band in which an edge runs that does so between two rows: that of the row before, but for one
// that has both ends in the band after.
func (b *board) channelBand(k, row int) int {
	e := &b.g.Edges[k]
	if after := b.band[e.From]; row < 0 || row+1 < b.rows && after == b.rowBand[row+1] && b.band[e.To] == after {
		return b.rowBand[row+1]
	}
	return b.rowBand[row]
}

// lined marks the cells, row by row, through which a line runs along the flow.
func (b *board) lined() []bool {
	out := make([]bool, b.rows*b.cols)
	for _, k := range b.order {
		q := &b.paths[k]
		for i := 1; i < int(q.n); i++ {
			p, o := q.p[i-1], q.p[i]
			if p.y != o.y || p.y%8 != 0 {
				continue
			}
			for c := (min(p.x, o.x) + 6) / 8; 8*c <= max(p.x, o.x); c++ {
				if c >= 0 && int(c) < b.cols && b.empty(cell{int(2 * c), int(p.y / 4)}) {
					out[int(p.y/8)*b.cols+int(c)] = true
				}
			}
		}
	}
	return out
}

// rowPlaces returns where the rows lie in a drawing with bands.
func (b *board) rowPlaces(out *layered.Drawing) []int {
	y := make([]int, b.rows)
	for v, p := range b.at {
		y[p.r/2] = out.Across[v]
	}
	return y
}

// channel returns the place across the flow of the channel in which an edge runs, and the band it lies in.
func (b *board) channel(y []int, at, k int) (place, band int) {
	above := (at - 2) / 8 // the row before it
	if at%8 == 6 || at < 0 {
		above = (at+2)/8 - 1
	}
	half := (b.pitchY - b.g.Apart) / 2
	switch {
	case above < 0:
		return y[0] - half - pass, b.rowBand[0]
	case above >= b.rows-1:
		return y[b.rows-1] + half + pass, b.rowBand[b.rows-1]
	}
	if band := b.channelBand(k, above); b.rowBand[above] != b.rowBand[above+1] {
		near, far := 0, 0
		for v, p := range b.at {
			switch p.r {
			case 2 * above:
				far = max(far, b.g.Nodes[v].Far)
			case 2 * (above + 1):
				near = max(near, b.g.Nodes[v].Near)
			}
		}
		if band == b.rowBand[above] {
			return y[above] + far + pass, band
		}
		return y[above+1] - near - pass, band
	}
	return (y[above] + y[above+1]) / 2, b.rowBand[above]
}
