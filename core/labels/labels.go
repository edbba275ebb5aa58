// Package labels finds the places of labels beside the lines of connectors.
package labels

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/spatial"
)

const (
	px = geometry.Px
	// Gap is the space between a label and its line, Reach how far from it a label may
	// stand to find a free place.
	Gap   = 3 * px
	Reach = 40 * px
)

// Label is the size of a label, zero for none. One that was placed by hand
// lies with its middle Off the point at Along, in ten-thousandths of the course.
type Label struct {
	Size  geometry.Point
	Held  bool
	Along int
	Off   geometry.Point
}

// At returns where a label that was placed by hand lies beside a line.
func (l *Label) At(line geometry.Polyline) geometry.Box {
	return geometry.Around(line.Along(line.Length()*l.Along/10000).Add(l.Off), l.Size.X, l.Size.Y)
}

// Begins are the places at which the search for a place begins.
type Begin uint8

// A label begins in the middle of the longest segment, near the start of the line, or near its end.
const (
	Middle Begin = iota
	Start
	End
)

// None is the line of what is no connector's.
const None = -1

// Sheet is all that a label could lie on. Its memory is kept from one use to the next; the zero value is empty.
type Sheet struct {
	things []thing
	index  spatial.Index
	// around are the things near the part of the sheet in work, xs and ys the places tried there.
	around []int32
	xs, ys []int
}

// thing is a box, or a segment of a line.
type thing struct {
	box  geometry.Box
	line bool
	p, q geometry.Point
	link int
}

// Begin empties the sheet, of which most lies within bounds.
func (g *Sheet) Begin(bounds geometry.Box) {
	g.things = g.things[:0]
	g.index.Begin(bounds)
}

// AddBox adds a box that labels keep clear of.
func (g *Sheet) AddBox(b geometry.Box) { g.add(thing{box: b, link: None}) }

// AddLine adds the line of a connector, or of None.
func (g *Sheet) AddLine(line geometry.Polyline, link int) {
	for k := 1; k < len(line); k++ {
		g.add(thing{geometry.Between(line[k-1], line[k]), true, line[k-1], line[k], link})
	}
}

func (g *Sheet) add(t thing) {
	g.index.Add(len(g.things), t.box)
	g.things = append(g.things, t)
}

// Find returns where a label of a size stands best by the line of a connector. Of the places tried in order, the first
// that meets no box, line or other label is taken; if all of those meet something, any free place within Reach of the
// line; where there is none, the one that meets least.
func (g *Sheet) Find(size geometry.Point, line geometry.Polyline, link int, from Begin) geometry.Box {
	best, least := geometry.Box{}, int(^uint(0)>>1)
	try := func(b geometry.Box) bool {
		if n := g.meetings(b, link, least); n < least {
			best, least = b, n
		}
		return least > 0
	}
	switch from {
	case Start:
		fromStart(line, size, try)
	case End:
		back := slices.Clone(line)
		slices.Reverse(back)
		fromStart(back, size, try)
	default:
		fromMiddle(line, size, try)
	}
	if least > 0 {
		best = g.everywhere(line, link, best, least)
	}
	return best
}

// meetings weighs what a label of a link at b would lie on, as far as that stays
// below enough.
func (g *Sheet) meetings(b geometry.Box, own, enough int) int {
	n, once := 0, 0
	inner := b.Grown(-1)
	for _, id := range g.index.Near(b) {
		switch t := &g.things[id]; {
		case !t.line && t.box.Meets(b):
			n += 4
		case !t.line || !inner.Touches(t.p, t.q):
		case t.link == own:
			once = 1 // however often it passes: anything is worse
		default:
			n += 2
		}
		if n >= enough {
			return n
		}
	}
	return n + once
}

// beside yields the two places beside a segment, begun at a distance from its
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
		return yield(geometry.Box{X: x, Y: p.Y - Gap - h, W: w, H: h}) &&
			yield(geometry.Box{X: x, Y: p.Y + Gap, W: w, H: h})
	case v.X == 0:
		y := p.Y + d
		if v.Y < 0 {
			y = p.Y - d - h
		}
		return yield(geometry.Box{X: p.X + Gap, Y: y, W: w, H: h}) &&
			yield(geometry.Box{X: p.X - Gap - w, Y: y, W: w, H: h})
	}
	n := geometry.Sqrt(v.X*v.X + v.Y*v.Y)
	c := geometry.Point{X: p.X + v.X*(d+w/2)/n, Y: p.Y + v.Y*(d+w/2)/n}
	// Off the line by as much as the box reaches towards it.
	off := (w*geometry.Abs(v.Y)+h*geometry.Abs(v.X))/(2*n) + Gap
	o := geometry.Point{X: v.Y * off / n, Y: -v.X * off / n}
	return yield(geometry.Around(c.Add(o), w, h)) && yield(geometry.Around(c.Sub(o), w, h))
}

// fromStart yields places along the line, those near its start first.
func fromStart(line geometry.Polyline, size geometry.Point, yield func(geometry.Box) bool) {
	for k := 1; k < len(line); k++ {
		n := line[k-1].Manhattan(line[k])
		for d := Gap; d == Gap || d < n-size.Y; d += 8 * px {
			if !beside(line[k-1], line[k], size, d, yield) {
				return
			}
		}
	}
}

// fromMiddle yields places beside the longest segment, from its middle.
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
// at those that touch. It goes along the line part by part, from where the label
// stands to both sides, and stops at the first part with a free place.
func (g *Sheet) everywhere(line geometry.Polyline, own int, best geometry.Box, least int) geometry.Box {
	const part = 200 * px
	home := best.Centre()
	_, at, _ := line.Nearest(home)
	length := line.Length()
	far := int(^uint(0) >> 1)
	look := func(from int) {
		from, to := max(from, 0), min(from+part, length)
		if from >= to && length > 0 {
			return
		}
		g.corners(line, from, to, best)
		for _, y := range g.ys {
			for _, x := range g.xs {
				b := geometry.Box{X: x, Y: y, W: best.W, H: best.H}
				d := b.Centre().Manhattan(home)
				if least == 0 && d >= far || Away(line, b) > Reach {
					continue
				}
				if n := g.meetings(b, own, least+1); n < least || n == least && d < far {
					best, least, far = b, n, d
				}
			}
		}
	}
	for away := 0; away <= length+part && least > 0; away += part {
		if look(at - part/2 - away); away > 0 && least > 0 {
			look(at - part/2 + away)
		}
	}
	return best
}

// corners gathers the coordinates at which a label pushed to the left and up
// may come to rest beside a part of the line.
func (g *Sheet) corners(line geometry.Polyline, from, to int, label geometry.Box) {
	w, h := label.W, label.H
	g.xs, g.ys = g.xs[:0], g.ys[:0]
	var zone geometry.Box
	done := 0
	for k := 1; k < len(line); k++ {
		n := line[k-1].Manhattan(line[k])
		if done+n >= from && done <= to {
			p, q := line.Along(max(from, done)), line.Along(min(to, done+n))
			zone = zone.Union(geometry.Between(p, q).Grown(1))
			// The edge of what lies within reach is something to touch, too.
			for _, v := range [...]geometry.Point{p, q, line[k-1], line[k]} {
				g.xs, g.ys = append(g.xs, v.X-Reach-w, v.X), append(g.ys, v.Y-Reach-h, v.Y)
			}
		}
		done += n
	}
	zone = zone.Grown(Reach)
	zone = geometry.Box{X: zone.X - w, Y: zone.Y - h, W: zone.W + 2*w, H: zone.H + 2*h}
	g.around = append(g.around[:0], g.index.Near(zone)...)
	for _, id := range g.around {
		b := g.things[id].box
		if !b.Meets(zone) {
			continue
		}
		g.xs, g.ys = append(g.xs, b.Right()), append(g.ys, b.Bottom())
		if g.things[id].line {
			g.xs, g.ys = append(g.xs, b.X), append(g.ys, b.Y)
		}
	}
	inside := func(list []int, lo, hi int) []int {
		slices.Sort(list)
		list = slices.Compact(list)
		return slices.DeleteFunc(list, func(v int) bool { return v < lo || v > hi })
	}
	g.xs, g.ys = inside(g.xs, zone.X, zone.Right()), inside(g.ys, zone.Y, zone.Bottom())
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
