package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// labelGap is the space between a label and its line, labelReach how far from
// it a label may stand to find a free place.
const (
	labelGap   = 3 * px
	labelReach = 40 * px
	// hopReach is how far a hop reaches around a crossing, tipReach how long an arrowhead is: beside the line a label
	// may stand by it, on the line not.
	hopReach = 6 * px
	tipReach = 10 * px
)

// labels finds the places of labels, with its memory kept from run to run.
type labels struct {
	ground ground
	// around is what is near the part of the sheet in work.
	around []int32
	xs, ys []int
}

// ground is everything a label could lie on, found by where it is: the sheet
// is divided into square fields, each with the things in it.
type ground struct {
	things  []thing
	fields  [][]int32
	bounds  geometry.Box
	columns int
	// seen marks the things a question has met already.
	seen  []uint32
	asked uint32
}

// thing is a box, or a segment of a link's line, or a border.
type thing struct {
	box  geometry.Box
	line bool
	p, q geometry.Point
	link int
}

// field is the side of a field.
const field = 160 * px

func (g *ground) reset(bounds geometry.Box) {
	g.things, g.seen, g.asked = g.things[:0], g.seen[:0], 0
	g.bounds = bounds.Grown(field)
	g.columns = g.bounds.W/field + 1
	n := g.columns * (g.bounds.H/field + 1)
	g.fields = scratch.Resized(g.fields, n)
	for i := range g.fields {
		g.fields[i] = g.fields[i][:0]
	}
}

func (g *ground) add(t thing) {
	id := int32(len(g.things))
	g.things, g.seen = append(g.things, t), append(g.seen, 0)
	g.each(t.box, func(k int) { g.fields[k] = append(g.fields[k], id) })
}

// each calls do with every field that a box lies on.
func (g *ground) each(b geometry.Box, do func(k int)) {
	rows := len(g.fields) / g.columns
	x0, x1 := geometry.Clamp((b.X-g.bounds.X)/field, 0, g.columns-1), geometry.Clamp((b.Right()-g.bounds.X)/field, 0, g.columns-1)
	y0, y1 := geometry.Clamp((b.Y-g.bounds.Y)/field, 0, rows-1), geometry.Clamp((b.Bottom()-g.bounds.Y)/field, 0, rows-1)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			do(y*g.columns + x)
		}
	}
}

// near appends the things in the fields of a box to list, each once.
func (g *ground) near(list []int32, b geometry.Box) []int32 {
	g.asked++
	g.each(b, func(k int) {
		for _, id := range g.fields[k] {
			if g.seen[id] != g.asked {
				g.seen[id] = g.asked
				list = append(list, id)
			}
		}
	})
	return list
}

// place stands every label by its own line: first those placed by hand, then
// one after the other the rest. A decision's exit is labelled close to the
// decision, others in the middle of the longest segment or near the end they
// belong to. Of the places tried in order, the first that meets no symbol, line,
// border, hop, arrowhead or other label is taken; if all of those meet something, any free place within
// labelReach of the line; where there is none, the one that meets least.
func (g *labels) place(r *Router) {
	if !slices.ContainsFunc(r.scene.Links, func(l Link) bool { return l.Labels != [3]Label{} }) {
		return
	}
	var bounds geometry.Box
	for i := range r.out {
		bounds = bounds.Union(r.out[i].Points.Bounds().Grown(px))
	}
	g.ground.reset(bounds)
	for i, b := range r.scene.Boxes {
		if !r.scene.open(i) {
			g.ground.add(thing{box: b})
		}
	}
	for i := range r.out {
		pts := r.out[i].Points
		for k := 1; k < len(pts); k++ {
			g.ground.add(thing{geometry.Between(pts[k-1], pts[k]), true, pts[k-1], pts[k], i})
		}
	}
	for _, b := range r.scene.Borders {
		p, q := geometry.Point{X: b.Lo, Y: b.At}, geometry.Point{X: b.Hi, Y: b.At}
		if b.Upright {
			p, q = geometry.Point{X: b.At, Y: b.Lo}, geometry.Point{X: b.At, Y: b.Hi}
		}
		g.ground.add(thing{geometry.Between(p, q), true, p, q, border})
	}
	for i := range r.out {
		for _, h := range r.out[i].Hops {
			g.ground.add(thing{box: geometry.Around(h.At, 2*hopReach, 2*hopReach)})
		}
		if pts := r.out[i].Points; len(pts) > 1 && r.scene.Links[i].To != None {
			tip, back := pts[len(pts)-1], r.out[i].ToSide.Step()
			g.ground.add(thing{box: geometry.Between(tip, tip.Add(geometry.Point{X: back.X * tipReach, Y: back.Y * tipReach})).Grown(labelGap - px)})
		}
	}
	for i := range r.out {
		for _, b := range r.out[i].Labels {
			if b.W > 0 && !r.anew[i] {
				g.ground.add(thing{box: b})
			}
		}
	}
	for _, held := range [...]bool{true, false} {
		for _, i := range r.order {
			l := &r.scene.Links[i]
			if !r.anew[i] {
				continue
			}
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
				g.ground.add(thing{box: b})
			}
		}
	}
}

func (g *labels) find(r *Router, i, k int) geometry.Box {
	size, line := r.scene.Links[i].Labels[k].Size, r.out[i].Points
	best, least := geometry.Box{}, int(^uint(0)>>1)
	try := func(b geometry.Box) bool {
		if n := g.meetings(b, i, least); n < least {
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
		best = g.everywhere(line, i, best, least)
	}
	return best
}

// meetings weighs what a label of a link at b would lie on, as far as that stays
// below enough.
func (g *labels) meetings(b geometry.Box, own, enough int) int {
	g.around = g.ground.near(g.around[:0], b)
	n, once := 0, 0
	inner := b.Grown(-1)
	for _, id := range g.around {
		switch t := &g.ground.things[id]; {
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
func (g *labels) everywhere(line geometry.Polyline, own int, best geometry.Box, least int) geometry.Box {
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
				if least == 0 && d >= far || Away(line, b) > labelReach {
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
func (g *labels) corners(line geometry.Polyline, from, to int, label geometry.Box) {
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
				g.xs, g.ys = append(g.xs, v.X-labelReach-w, v.X), append(g.ys, v.Y-labelReach-h, v.Y)
			}
		}
		done += n
	}
	zone = zone.Grown(labelReach)
	zone = geometry.Box{X: zone.X - w, Y: zone.Y - h, W: zone.W + 2*w, H: zone.H + 2*h}
	g.around = g.ground.near(g.around[:0], zone)
	for _, id := range g.around {
		b := g.ground.things[id].box
		g.xs, g.ys = append(g.xs, b.Right()), append(g.ys, b.Bottom())
		if g.ground.things[id].line {
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
