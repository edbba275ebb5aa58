package routing

import (
	"slices"

	"plaintracer/core/geometry"
)

// labelGap is the space between a label and its line, labelReach how far from
// it a label may stand to find a free place.
const (
	labelGap   = 3 * px
	labelReach = 40 * px
)

// labels finds the places of labels, with its memory kept from run to run.
type labels struct {
	// placed are the labels placed so far.
	placed []geometry.Box
	// around are the boxes, labels and lines near the label in work.
	around []geometry.Box
	lines  []near
	xs, ys []int
}

type near struct {
	p, q geometry.Point
	own  bool
}

// place stands every label by its own line: first those placed by hand, then
// one after the other the rest. A decision's exit is labelled close to the
// decision, others in the middle of the longest stretch or near the end they
// belong to. Of the places tried in order, the first that meets no symbol, line
// or other label is taken; if all of those meet something, any free place within
// labelReach of the line; where there is none, the one that meets least.
func (g *labels) place(r *Router) {
	g.placed = g.placed[:0]
	for _, held := range [...]bool{true, false} {
		for _, i := range r.order {
			l := &r.scene.Links[i]
			for k := range l.Labels {
				if l.Labels[k].Size == (geometry.Point{}) || l.Labels[k].Held != held {
					continue
				}
				var b geometry.Box
				if line := r.out[i].Points; held {
					at := line.Along(line.Length() * l.Labels[k].Along / 10000).Add(l.Labels[k].Off)
					b = geometry.Around(at, l.Labels[k].Size.X, l.Labels[k].Size.Y)
				} else {
					b = g.find(r, i, k)
				}
				r.out[i].Labels[k] = b
				g.placed = append(g.placed, b)
			}
		}
	}
}

func (g *labels) find(r *Router, i, k int) geometry.Box {
	size, line := r.scene.Links[i].Labels[k].Size, r.out[i].Points
	reach := max(size.X, size.Y) + labelReach + px
	g.gather(r, i, line.Bounds().Grown(reach))
	best, least := geometry.Box{}, int(^uint(0)>>1)
	try := func(b geometry.Box) bool {
		if n := g.meetings(b); n < least {
			best, least = b, n
		}
		return least > 0
	}
	switch {
	case k == 1 || k == 0 && r.scene.Links[i].Branch:
		fromStart(line, size, try)
	case k == 2:
		back := make(geometry.Polyline, len(line))
		for j, p := range line {
			back[len(line)-1-j] = p
		}
		fromStart(back, size, try)
	default:
		fromMiddle(line, size, try)
	}
	if least > 0 {
		best = g.everywhere(line, best, least)
	}
	return best
}

// gather notes what is near enough to matter.
func (g *labels) gather(r *Router, own int, window geometry.Box) {
	g.around, g.lines = g.around[:0], g.lines[:0]
	for j, b := range r.scene.Boxes {
		if window.Meets(b) && !r.scene.open(j) {
			g.around = append(g.around, b)
		}
	}
	for _, b := range g.placed {
		if window.Meets(b) {
			g.around = append(g.around, b)
		}
	}
	for j := range r.out {
		pts := r.out[j].Points
		for k := 1; k < len(pts); k++ {
			if window.Touches(pts[k-1], pts[k]) {
				g.lines = append(g.lines, near{pts[k-1], pts[k], j == own})
			}
		}
	}
}

// meetings weighs what a label at b would lie on.
func (g *labels) meetings(b geometry.Box) int {
	n := 0
	for _, o := range g.around {
		if o.Meets(b) {
			n += 4
		}
	}
	inner := b.Grown(-1)
	for _, l := range g.lines {
		if inner.Touches(l.p, l.q) {
			if n += 2; l.own {
				n--
			}
		}
	}
	return n
}

// beside yields the two places beside a stretch, begun at a distance from its
// start; beside a slanting one the box only just clears it.
func beside(p, q, size geometry.Point, d int, yield func(geometry.Box) bool) bool {
	w, h := size.X, size.Y
	v := q.Sub(p)
	switch {
	case v.Y == 0:
		x := p.X + d
		if v.X < 0 {
			x = p.X - d - w
		}
		return yield(geometry.Box{X: x, Y: p.Y - labelGap - h, W: w, H: h}) &&
			yield(geometry.Box{X: x, Y: p.Y + labelGap, W: w, H: h})
	case v.X == 0:
		y := p.Y + d
		if v.Y < 0 {
			y = p.Y - d - h
		}
		return yield(geometry.Box{X: p.X + labelGap, Y: y, W: w, H: h}) &&
			yield(geometry.Box{X: p.X - labelGap - w, Y: y, W: w, H: h})
	}
	n := geometry.Sqrt(v.X*v.X + v.Y*v.Y)
	c := geometry.Point{X: p.X + v.X*(d+w/2)/n, Y: p.Y + v.Y*(d+w/2)/n}
	// Off the line by as much as the box reaches towards it.
	off := (w*geometry.Abs(v.Y)+h*geometry.Abs(v.X))/(2*n) + labelGap
	o := geometry.Point{X: v.Y * off / n, Y: -v.X * off / n}
	return yield(geometry.Around(c.Add(o), w, h)) && yield(geometry.Around(c.Sub(o), w, h))
}

// fromStart yields places along the line, those near its start first.
func fromStart(line geometry.Polyline, size geometry.Point, yield func(geometry.Box) bool) {
	for k := 1; k < len(line); k++ {
		n := line[k-1].Manhattan(line[k])
		for d := labelGap; d == labelGap || d < n-size.Y; d += 8 * px {
			if !beside(line[k-1], line[k], size, d, yield) {
				return
			}
		}
	}
}

// fromMiddle yields places beside the longest stretch, from its middle.
func fromMiddle(line geometry.Polyline, size geometry.Point, yield func(geometry.Box) bool) {
	long := 1
	for k := 2; k < len(line); k++ {
		if line[k-1].Manhattan(line[k]) > line[long-1].Manhattan(line[long]) {
			long = k
		}
	}
	p, q := line[long-1], line[long]
	n := size.X
	if p.X == q.X {
		n = size.Y
	}
	mid := (p.Manhattan(q) - n) / 2
	for d := 0; d <= max(mid, 0); d += 8 * px {
		if !beside(p, q, size, mid-d, yield) || d > 0 && !beside(p, q, size, mid+d, yield) {
			return
		}
	}
}

// everywhere looks at every place within reach of the line that could be free
// although all others tried are not, and returns the one that meets least, of
// equals the one nearest to where the label stands so far. A free place can be
// pushed to the left and up until it touches something, so it is enough to look
// at those that touch.
func (g *labels) everywhere(line geometry.Polyline, best geometry.Box, least int) geometry.Box {
	zone, home := line.Bounds().Grown(labelReach), best.Centre()
	g.xs, g.ys = append(g.xs[:0], zone.X-best.W), append(g.ys[:0], zone.Y-best.H)
	for _, b := range g.around {
		g.xs, g.ys = append(g.xs, b.Right()), append(g.ys, b.Bottom())
	}
	for _, l := range g.lines {
		b := geometry.Between(l.p, l.q)
		g.xs, g.ys = append(g.xs, b.X, b.Right()), append(g.ys, b.Y, b.Bottom())
	}
	// The edge of what lies within reach is something to touch, too.
	for _, p := range line {
		g.xs, g.ys = append(g.xs, p.X-labelReach-best.W, p.X), append(g.ys, p.Y-labelReach-best.H, p.Y)
	}
	slices.Sort(g.xs)
	slices.Sort(g.ys)
	g.xs, g.ys = slices.Compact(g.xs), slices.Compact(g.ys)
	far := int(^uint(0) >> 1)
	w, h := best.W, best.H
	for _, y := range g.ys {
		for _, x := range g.xs {
			b := geometry.Box{X: x, Y: y, W: w, H: h}
			d := b.Centre().Manhattan(home)
			if least == 0 && d >= far || Away(line, b) > labelReach {
				continue
			}
			if n := g.meetings(b); n < least || n == least && d < far {
				best, least, far = b, n, d
			}
		}
	}
	return best
}

// Away returns how far a box is from a line, along the larger of the axes.
func Away(line geometry.Polyline, b geometry.Box) int {
	best := int(^uint(0) >> 1)
	for k := 1; k < len(line); k++ {
		o := geometry.Between(line[k-1], line[k])
		best = min(best, max(o.X-b.Right(), b.X-o.Right(), o.Y-b.Bottom(), b.Y-o.Bottom(), 0))
	}
	return best
}
