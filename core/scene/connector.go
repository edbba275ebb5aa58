package scene

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/typeset"
)

// hopRadius is half the width of the place at which a line passes another; it
// follows the line's weight.
func hopRadius(weight int) int { return 4*px + weight }

// LineColour returns the colour of a connector's line in a look. The
// exceptional path is lighter.
func LineColour(l *looks.Look, c *model.Connector) string {
	if c.Dashed {
		return l.Line(c.Ink, l.Soft)
	}
	return l.Line(c.Ink, l.Ink)
}

// Weight returns the width of a connector's line in a look.
func Weight(l *looks.Look, c *model.Connector) int {
	if c.Weight != 0 {
		return c.Weight
	}
	return l.Weight
}

// dashes returns the lengths of strokes and gaps of a pattern, which follow the
// weight of the line.
func dashes(line model.Line, weight int) []int {
	unit := max(weight, px*3/2)
	switch line {
	case model.DashLine:
		return []int{4 * unit, 3 * unit}
	case model.DotLine:
		return []int{unit, 2 * unit}
	case model.DashDot:
		return []int{5 * unit, 2 * unit, unit, 2 * unit}
	}
	return nil
}

// Connector returns the picture of a connector on its course, as far as it has not met another one.
func (v View) Connector(c *model.Connector, course *routing.Course, meets Meeting) Node {
	look := v.Look
	n := Node{ID: c.ID, Class: "connector"}
	if len(course.Points) < 2 {
		return n
	}
	colour, weight := LineColour(look, c), Weight(look, c)
	from, to := c.Marks()
	size := markSize(weight, c.MarkSize)
	pts := append(geometry.Polyline(nil), course.Points...)
	last := len(pts) - 1
	tip, tail := pts[last], pts[0]
	way, back := unitTo(pts[last-1], tip), unitTo(pts[1], tail)
	// The line ends inside its marks, so that their tips stay sharp.
	pts[last] = shorten(pts[last-1], tip, inset(to, size, weight))
	if meets.Ends {
		to = model.MarkNone
		ahead := course.Points[meets.Stretch+1]
		if pts = append(pts[:meets.Stretch+1], meets.Until); ahead == meets.Until {
			ahead = course.Points[meets.Stretch+2]
		}
		n.Rest = geometry.Through(append([]geometry.Point{meets.Until}, course.Points[meets.Stretch+1:]...)...)
		beyond := unitTo(meets.Until, ahead).at(meets.Until, min(meetingRadius, distance(meets.Until, ahead)), 0)
		if meets.Turn == meets.Stretch+1 {
			pts = append(pts, beyond)
		} else {
			pts[len(pts)-1] = beyond
		}
	}
	pts[0] = shorten(pts[1], tail, inset(from, size, weight))
	pattern := c.Line
	if pattern == "" && c.Dashed {
		pattern = model.DashLine
	}
	hop := c.Hop
	if hop == "" {
		hop = v.Sheet.Crossings
	}
	p := pen{weight: weight, hop: hop, radius: c.Radius, turn: meets.Turn, curved: c.Course == model.Curved}
	path := p.draw(pts, course.Hops)
	n.Shapes = append(n.Shapes, Shape{Path: path, Stroke: colour, Width: weight, Dash: dashes(pattern, weight)})
	switch pattern {
	case model.Transfer, model.Link:
		n.sign(pattern, pts, colour, weight)
	}
	n.mark(from, tail, back, size, weight, colour)
	n.mark(to, tip, way, size, weight, colour)
	text := look.LabelOf(c)
	for i, l := range c.Labels() {
		b := course.Labels[i]
		if *l.Text == "" || b == (geometry.Box{}) {
			continue
		}
		n.Shapes = append(n.Shapes, Shape{Fill: v.behind(b), Path: b.Outline()})
		st := v.House.StyleOf(look.Type(c.Type))
		lines := labelLines(*l.Text, st)
		for k, line := range lines {
			t := Text{X: b.X + b.W/2, Y: b.Y + k*st.LineHeight() + st.Baseline(), Style: st, Fill: text,
				Text: line.Text, Own: true}
			switch c.Align {
			case "left":
				t.X, t.Anchor = b.X+2*px, typeset.Start
			case "right":
				t.X, t.Anchor = b.Right()-2*px, typeset.End
			}
			n.Texts = append(n.Texts, t)
		}
	}
	if len(c.Links) > 0 {
		n.leads(listed(v.Map, c.Links), v.leadsAt(c, course), look)
	}
	return n
}

// leadsAt is where the signs of the links of a connector begin: behind its first label, or on the middle of its line.
func (v View) leadsAt(c *model.Connector, course *routing.Course) geometry.Point {
	for i, l := range c.Labels() {
		if b := course.Labels[i]; *l.Text != "" && b != (geometry.Box{}) {
			return geometry.Point{X: b.Right() + leadGap, Y: b.Y + (b.H-leadSize)/2}
		}
	}
	at := course.Points.Along(course.Points.Length() / 2)
	return at.Sub(geometry.Point{X: leadSize / 2, Y: leadSize / 2})
}

// behind returns the colour behind a label, which covers its line with it.
func (v View) behind(b geometry.Box) string {
	if pool, _ := v.Sheet.LaneAt(b.Centre()); pool != nil {
		return v.Look.Lane
	}
	return v.Look.Fill(v.Sheet.Background.Fill)
}

// vector is a direction of length one.
type vector struct{ x, y float64 }

func unitTo(p, q geometry.Point) vector {
	d := q.Sub(p)
	switch {
	case d.X == 0 && d.Y == 0:
		return vector{0, 1}
	case d.X == 0:
		return vector{0, float64(d.Y) / float64(geometry.Abs(d.Y))}
	case d.Y == 0:
		return vector{float64(d.X) / float64(geometry.Abs(d.X)), 0}
	}
	n := float64(geometry.Sqrt(d.X*d.X + d.Y*d.Y))
	return vector{float64(d.X) / n, float64(d.Y) / n}
}

// at returns the point along from p in the direction of v, and aside to the
// right of it.
func (v vector) at(p geometry.Point, along, aside int) geometry.Point {
	a, b := float64(along), float64(aside)
	return geometry.Point{
		X: p.X + whole(float64(v.x*a)-float64(v.y*b)),
		Y: p.Y + whole(float64(v.y*a)+float64(v.x*b)),
	}
}

// whole rounds to the nearest integer, halves away from zero.
func whole(v float64) int {
	if v < 0 {
		return -int(0.5 - v)
	}
	return int(v + 0.5)
}

// shorten returns q moved back towards p by n, at most to just before it.
func shorten(p, q geometry.Point, n int) geometry.Point {
	d := q.Sub(p)
	length := geometry.Sqrt(d.X*d.X + d.Y*d.Y)
	return unitTo(p, q).at(q, -min(n, max(length-px, 0)), 0)
}

// pen draws a line along a course.
type pen struct {
	weight int
	hop    model.Crossing
	radius int
	// turn is the point at which the line turns into another.
	turn   int
	curved bool
}

func distance(p, q geometry.Point) int {
	d := q.Sub(p)
	return geometry.Sqrt(d.X*d.X + d.Y*d.Y)
}

// corner returns the radius at point k of the course.
func (p *pen) corner(pts geometry.Polyline, k int) int {
	if k <= 0 || k >= len(pts)-1 {
		return 0
	}
	before, after := distance(pts[k-1], pts[k]), distance(pts[k], pts[k+1])
	// An inner stretch has a corner at both ends.
	if k > 1 {
		before /= 2
	}
	if k < len(pts)-2 {
		after /= 2
	}
	if p.curved {
		return min(before, after)
	}
	radius := p.radius
	if p.turn > 0 && k == p.turn {
		radius = max(radius, meetingRadius)
	}
	return min(radius, before, after)
}

func (p *pen) draw(pts geometry.Polyline, hops []routing.Hop) geometry.Path {
	path := make(geometry.Path, 0, 2*len(pts)+2*len(hops)).Move(pts[0].X, pts[0].Y)
	line := func(q geometry.Point) { path = path.Line(q.X, q.Y) }
	for k := 0; k+1 < len(pts); k++ {
		a, b := pts[k], pts[k+1]
		way, length := unitTo(a, b), distance(a, b)
		start, end := p.corner(pts, k), length-p.corner(pts, k+1)
		path = p.passes(path, a, way, start, end, passings(hops, k, a))
		if r := p.corner(pts, k+1); r > 0 {
			next := unitTo(b, pts[k+2])
			from, to := way.at(b, -r, 0), next.at(b, r, 0)
			handle := r - r*geometry.Quarter/10000
			if p.curved {
				handle = r / 3
			}
			line(from)
			c, d := way.at(b, -handle, 0), next.at(b, handle, 0)
			path = path.Curve(c.X, c.Y, d.X, d.Y, to.X, to.Y)
		} else {
			line(b)
		}
	}
	return path
}

// passings returns how far along stretch k its hops lie, nearest first.
func passings(hops []routing.Hop, k int, from geometry.Point) []int {
	var out []int
	for _, h := range hops {
		if h.Stretch == k {
			out = append(out, distance(from, h.At))
		}
	}
	slices.Sort(out)
	return out
}

// passes draws a stretch up to its end with the places at which it passes
// others; neighbouring places that would touch become one.
func (p *pen) passes(path geometry.Path, a geometry.Point, way vector, start, end int, at []int) geometry.Path {
	if p.hop == model.CrossPlain {
		return path
	}
	r := hopRadius(p.weight)
	for i := 0; i < len(at); {
		k := i
		for k+1 < len(at) && at[k+1]-at[k] <= 2*r {
			k++
		}
		first, last := at[i], at[k]
		i = k + 1
		if first-start < r/2 || end-last < r/2 {
			continue // too near to a corner to be drawn
		}
		lo, hi := max(first-r, start), min(last+r, end)
		q, s := way.at(a, lo, 0), way.at(a, hi, 0)
		path = path.Line(q.X, q.Y)
		if p.hop == model.CrossGap {
			path = path.Move(s.X, s.Y)
			continue
		}
		// An arc, or a square, that rises above a level line, and to the left of an upright one.
		rise := -r * 4 / 3
		if way.x < 0 || way.x == 0 && way.y < 0 {
			rise = -rise
		}
		if p.hop == model.CrossSquare {
			c, d := way.at(a, lo, rise*3/4), way.at(a, hi, rise*3/4)
			path = path.Line(c.X, c.Y).Line(d.X, d.Y).Line(s.X, s.Y)
			continue
		}
		c, d := way.at(a, lo, rise), way.at(a, hi, rise)
		path = path.Curve(c.X, c.Y, d.X, d.Y, s.X, s.Y)
	}
	return path
}

// markSize returns the length of an arrowhead, to which all marks are drawn.
func markSize(weight int, size model.MarkSize) int {
	n := 4*px + 4*weight
	switch size {
	case model.MarkSmall:
		return n * 7 / 10
	case model.MarkLarge:
		return n * 14 / 10
	}
	return n
}

// inset returns how far before its end a line stops to make room for a mark.
func inset(mark model.Mark, size, weight int) int {
	switch mark {
	case model.MarkArrow:
		return size * 6 / 10
	case model.MarkOpenArrow:
		return weight
	case model.MarkCircle, model.MarkFullCircle:
		return size * 8 / 10
	case model.MarkDiamond, model.MarkFullDiamond:
		return size * 15 / 10
	case model.MarkBar:
		return weight / 2
	}
	return 0
}

// mark draws what stands at an end of the line: tip is where it ends and way
// the direction in which it gets there.
func (n *Node) mark(mark model.Mark, tip geometry.Point, way vector, size, weight int, colour string) {
	half := size * 4 / 10
	stroke := func(fill string, points ...geometry.Point) {
		path := geometry.Through(points...)
		if fill != "" {
			path = path.Close()
		}
		n.Shapes = append(n.Shapes, Shape{Path: path, Fill: fill, Stroke: colour, Width: weight})
	}
	at := func(back, aside int) geometry.Point { return way.at(tip, -back, aside) }
	bar := func(back int) { stroke("", at(back, -half), at(back, half)) }
	circle := func(back, r int) {
		c := at(back+r, 0)
		n.Shapes = append(n.Shapes, Shape{Path: geometry.Ellipse(geometry.Around(c, 2*r, 2*r)), Fill: Paper,
			Stroke: colour, Width: weight})
	}
	foot := func() {
		stroke("", at(size, 0), at(0, -half))
		stroke("", at(size, 0), at(0, half))
	}
	switch mark {
	case model.MarkArrow:
		n.Shapes = append(n.Shapes, Shape{Fill: colour, Path: geometry.Polygon(tip, at(size, -half), at(size, half))})
	case model.MarkOpenArrow:
		stroke("", at(size, -half), at(weight/2, 0), at(size, half))
	case model.MarkCircle:
		circle(weight/2, size*4/10)
	case model.MarkFullCircle:
		c := at(half, 0)
		n.Shapes = append(n.Shapes, Shape{Fill: colour, Path: geometry.Ellipse(geometry.Around(c, 2*half, 2*half))})
	case model.MarkDiamond:
		stroke(Paper, at(weight, 0), at(size*8/10, -half), at(size*15/10, 0), at(size*8/10, half))
	case model.MarkFullDiamond:
		n.Shapes = append(n.Shapes,
			Shape{Fill: colour, Path: geometry.Polygon(tip, at(size*8/10, -half), at(size*16/10, 0),
				at(size*8/10, half))})
	case model.MarkBar:
		bar(weight / 2)
	case model.MarkOne:
		bar(size * 7 / 10)
	case model.MarkMany:
		foot()
	case model.MarkZeroOne:
		bar(size * 6 / 10)
		circle(size*9/10, size*3/10)
	case model.MarkOneMany:
		foot()
		bar(size + weight)
	case model.MarkZeroMany:
		foot()
		circle(size, size*3/10)
	}
}

// Sample draws a mark at the end of a short line, in a box of 34 by 18 px; at its beginning where begins says so.
func Sample(mark model.Mark, begins bool, colour string) []Shape {
	const weight = 3 * px / 2
	from, tip := geometry.Point{X: 3 * px, Y: 9 * px}, geometry.Point{X: 31 * px, Y: 9 * px}
	if begins {
		from, tip = tip, from
	}
	way := unitTo(from, tip)
	size := markSize(weight, "")
	end := way.at(tip, -inset(mark, size, weight), 0)
	n := Node{Shapes: []Shape{{Path: geometry.Through(from, end), Stroke: colour, Width: weight}}}
	n.mark(mark, tip, way, size, weight, colour)
	return n.Shapes
}

// sign draws what tells a control transfer or a communication link from a
// plain line, in the middle of its longest stretch.
func (n *Node) sign(line model.Line, pts geometry.Polyline, colour string, weight int) {
	long := 0
	for k := 1; k+1 < len(pts); k++ {
		if distance(pts[k], pts[k+1]) > distance(pts[long], pts[long+1]) {
			long = k
		}
	}
	a, b := pts[long], pts[long+1]
	way := unitTo(a, b)
	mid := geometry.Point{X: (a.X + b.X) / 2, Y: (a.Y + b.Y) / 2}
	size := 5*px + 2*weight
	stroke := func(colour string, width int, points ...geometry.Point) {
		n.Shapes = append(n.Shapes, Shape{Path: geometry.Through(points...), Stroke: colour, Width: width})
	}
	if line == model.Transfer {
		stroke(colour, weight, way.at(mid, -size, -size), way.at(mid, size/2, 0), way.at(mid, -size, size))
		return
	}
	stroke(Paper, weight+2*px, way.at(mid, -size, 0), way.at(mid, size, 0))
	stroke(colour, weight, way.at(mid, -size, 0), way.at(mid, size/2, -size), way.at(mid, -size/2, size),
		way.at(mid, size, 0))
}
