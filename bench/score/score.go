// Package score says how good a drawing of a graph is, whoever made it: it takes
// boxes and lines, and knows nothing of how they came about.
package score

import "math"

// Point is a place, Box an upright rectangle by its corner and size, in pixels.
type (
	Point [2]float64
	Box   struct{ X, Y, W, H float64 }
)

// Edge is a line from one node to another.
type Edge struct {
	From, To int
	Points   []Point
}

// Drawing is what is judged.
type Drawing struct {
	Nodes []Box
	Edges []Edge
	// Borders are lines on the paper, such as between lanes, as boxes without a width or a height.
	Borders []Box
}

// Score is the judgement.
type Score struct {
	// Crossings are the places in which the lines of two edges cross, Bends those
	// in which a line turns.
	Crossings, Bends int
	// Hits are the pairs of an edge and a node, not one of its ends, that it runs
	// through; Overlaps the pairs of nodes that lie over each other; Shared the
	// pairs of edges without a common node of which stretches lie on each other.
	Hits, Overlaps, Shared int
	// Touching are the pairs of stretches, of edges without a common node, that run less than 12 px
	// apart although the free space between the nodes, and borders, there has room for 16 px.
	Touching int
	// Length is that of all lines; Width, Height and Area are those of the box around everything.
	Length, Width, Height, Area float64
}

// tiny is what rounding can make, in pixels.
const tiny = 0.01

// Of judges a drawing.
func Of(d Drawing) Score {
	var s Score
	lines := make([][]Point, len(d.Edges))
	for i, e := range d.Edges {
		lines[i] = tidy(e.Points)
		s.Bends += max(len(lines[i])-2, 0)
		for k := 1; k < len(lines[i]); k++ {
			s.Length += math.Hypot(lines[i][k][0]-lines[i][k-1][0], lines[i][k][1]-lines[i][k-1][1])
		}
		for v, b := range d.Nodes {
			if v != e.From && v != e.To && runsThrough(lines[i], b) {
				s.Hits++
			}
		}
	}
	for i := range d.Nodes {
		for j := range i {
			if a, b := d.Nodes[i], d.Nodes[j]; a.X < b.X+b.W-tiny && b.X < a.X+a.W-tiny && a.Y < b.Y+b.H-tiny &&
				b.Y < a.Y+a.H-tiny {
				s.Overlaps++
			}
		}
	}
	for i, e := range d.Edges {
		for j, f := range d.Edges[:i] {
			strange := e.From != f.From && e.From != f.To && e.To != f.From && e.To != f.To
			shared := false
			for k := 1; k < len(lines[i]); k++ {
				for l := 1; l < len(lines[j]); l++ {
					p, q, u, v := lines[i][k-1], lines[i][k], lines[j][l-1], lines[j][l]
					if crosses(p, q, u, v) {
						s.Crossings++
					}
					shared = shared || strange && onEachOther(p, q, u, v)
				}
			}
			if shared {
				s.Shared++
			}
			if strange {
				s.Touching += touching(&d, lines, i, j)
			}
		}
	}
	left, top, right, bottom := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, b := range d.Nodes {
		left, top, right, bottom = min(left, b.X), min(top, b.Y), max(right, b.X+b.W), max(bottom, b.Y+b.H)
	}
	for _, line := range lines {
		for _, p := range line {
			left, top, right, bottom = min(left, p[0]), min(top, p[1]), max(right, p[0]), max(bottom, p[1])
		}
	}
	s.Width, s.Height = right-left, bottom-top
	s.Area = s.Width * s.Height
	return s
}

// tidy leaves out points at which a line does not turn.
func tidy(line []Point) []Point {
	var out []Point
	for _, p := range line {
		if n := len(out); n > 0 && math.Hypot(p[0]-out[n-1][0], p[1]-out[n-1][1]) < tiny {
			continue
		}
		for n := len(out); n > 1; n = len(out) {
			a, b := out[n-2], out[n-1]
			cross := (b[0]-a[0])*(p[1]-b[1]) - (b[1]-a[1])*(p[0]-b[0])
			ahead := (b[0]-a[0])*(p[0]-b[0]) + (b[1]-a[1])*(p[1]-b[1])
			if math.Abs(cross) > tiny || ahead < 0 {
				break
			}
			out = out[:n-1]
		}
		out = append(out, p)
	}
	return out
}

func turn(a, b, c Point) float64 {
	v := (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0])
	if math.Abs(v) < tiny {
		return 0
	}
	return v
}

// crosses reports whether the insides of two stretches cross.
func crosses(p, q, u, v Point) bool {
	return turn(p, q, u)*turn(p, q, v) < 0 && turn(u, v, p)*turn(u, v, q) < 0
}

// onEachOther reports whether two stretches lie on each other for more than a
// pixel.
func onEachOther(p, q, u, v Point) bool {
	long := math.Hypot(q[0]-p[0], q[1]-p[1])
	if long < 1 {
		return false
	}
	along := func(c Point) float64 { return ((c[0]-p[0])*(q[0]-p[0]) + (c[1]-p[1])*(q[1]-p[1])) / long }
	away := func(c Point) float64 {
		return math.Abs((c[0]-p[0])*(q[1]-p[1])-(c[1]-p[1])*(q[0]-p[0])) / long
	}
	if away(u) > 0.5 || away(v) > 0.5 {
		return false
	}
	return min(long, max(along(u), along(v)))-max(0, min(along(u), along(v))) > 1
}

// runsThrough reports whether a line passes through the inside of a box.
func runsThrough(line []Point, b Box) bool {
	for k := 1; k < len(line); k++ {
		// The part of the stretch that lies in the box (Liang and Barsky 1984).
		from, to := 0.0, 1.0
		p, d := line[k-1], Point{line[k][0] - line[k-1][0], line[k][1] - line[k-1][1]}
		inside := true
		for _, c := range [4][2]float64{{-d[0], p[0] - b.X - tiny}, {d[0], b.X + b.W - tiny - p[0]},
			{-d[1], p[1] - b.Y - tiny}, {d[1], b.Y + b.H - tiny - p[1]}} {
			switch r := c[1] / c[0]; {
			case c[0] == 0:
				inside = inside && c[1] > 0
			case c[0] < 0:
				from = max(from, r)
			default:
				to = min(to, r)
			}
		}
		if inside && from < to {
			return true
		}
	}
	return false
}
