// Package geometry holds the points, boxes and polylines a sheet is made of.
//
// Every length is an integer count of hundredths of a CSS pixel (1/96 in), so
// that equality is exact and two machines always agree.
package geometry

// Px is one CSS pixel.
const Px = 100

// Point is a place on a sheet; x grows to the right, y downwards.
type Point struct {
	X int `json:"x"`
	Y int `json:"y"`
}

// Add returns p moved by d.
func (p Point) Add(d Point) Point { return Point{p.X + d.X, p.Y + d.Y} }

// Sub returns the vector from q to p.
func (p Point) Sub(q Point) Point { return Point{p.X - q.X, p.Y - q.Y} }

// Manhattan returns the length of the shortest right-angled way from p to q.
func (p Point) Manhattan(q Point) int { return Abs(p.X-q.X) + Abs(p.Y-q.Y) }

// Abs returns the magnitude of n.
func Abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}

// Clamp returns n, or the bound it lies beyond.
func Clamp(n, low, high int) int {
	return max(low, min(n, high))
}

// Snap returns the multiple of step nearest to n, halves going up.
func Snap(n, step int) int {
	return FloorDiv(n+step/2, step) * step
}

// FloorDiv divides rounding towards minus infinity, so that a grid has no
// seam at zero. The divisor must be positive.
func FloorDiv(n, d int) int {
	q := n / d
	if n%d < 0 {
		q--
	}
	return q
}

// Box is an upright rectangle by its top left corner and its size.
type Box struct {
	X int `json:"x"`
	Y int `json:"y"`
	W int `json:"w"`
	H int `json:"h"`
}

// Around returns the box of size w, h whose centre is p.
func Around(p Point, w, h int) Box { return Box{p.X - w/2, p.Y - h/2, w, h} }

// Between returns the box with p and q as opposite corners.
func Between(p, q Point) Box {
	return Box{min(p.X, q.X), min(p.Y, q.Y), Abs(p.X - q.X), Abs(p.Y - q.Y)}
}

// Right returns the x of the right edge.
func (b Box) Right() int { return b.X + b.W }

// Bottom returns the y of the bottom edge.
func (b Box) Bottom() int { return b.Y + b.H }

// Corner returns the top left corner.
func (b Box) Corner() Point { return Point{b.X, b.Y} }

// Centre returns the middle of the box, rounded towards the top left.
func (b Box) Centre() Point { return Point{b.X + b.W/2, b.Y + b.H/2} }

// At returns the box with its top left corner at p.
func (b Box) At(p Point) Box { return Box{p.X, p.Y, b.W, b.H} }

// Moved returns the box shifted by d.
func (b Box) Moved(d Point) Box { return Box{b.X + d.X, b.Y + d.Y, b.W, b.H} }

// Grown returns the box with every edge moved outwards by n (inwards if n is
// negative).
func (b Box) Grown(n int) Box { return Box{b.X - n, b.Y - n, b.W + 2*n, b.H + 2*n} }

// Whole returns the smallest box of whole pixels around b.
func (b Box) Whole() Box {
	down := func(n int) int { return n - ((n%Px)+Px)%Px }
	x, y := down(b.X), down(b.Y)
	return Box{x, y, down(b.Right()+Px-1) - x, down(b.Bottom()+Px-1) - y}
}

// Contains reports whether p lies in the box or on its edge.
func (b Box) Contains(p Point) bool {
	return p.X >= b.X && p.X <= b.Right() && p.Y >= b.Y && p.Y <= b.Bottom()
}

// Holds reports whether all of c lies in b, edges included.
func (b Box) Holds(c Box) bool {
	return c.X >= b.X && c.Right() <= b.Right() && c.Y >= b.Y && c.Bottom() <= b.Bottom()
}

// Meets reports whether the insides of b and c have a point in common; boxes
// that only touch do not meet.
func (b Box) Meets(c Box) bool {
	return b.X < c.Right() && c.X < b.Right() && b.Y < c.Bottom() && c.Y < b.Bottom()
}

// Turned returns the point with its axes exchanged, if asked for.
func (p Point) Turned(turn bool) Point {
	if turn {
		return Point{p.Y, p.X}
	}
	return p
}

// Turned returns the box with its axes exchanged, if asked for.
func (b Box) Turned(turn bool) Box {
	if turn {
		return Box{b.Y, b.X, b.H, b.W}
	}
	return b
}

// Union returns the smallest box that holds both. An empty box (no width and
// no height) is ignored.
func (b Box) Union(c Box) Box {
	if b.W == 0 && b.H == 0 {
		return c
	}
	if c.W == 0 && c.H == 0 {
		return b
	}
	x, y := min(b.X, c.X), min(b.Y, c.Y)
	return Box{x, y, max(b.Right(), c.Right()) - x, max(b.Bottom(), c.Bottom()) - y}
}

// CutBy reports whether the upright or level stretch from p to q passes
// through the inside of the box. A stretch along an edge does not cut.
func (b Box) CutBy(p, q Point) bool {
	return min(p.X, q.X) < b.Right() && max(p.X, q.X) > b.X &&
		min(p.Y, q.Y) < b.Bottom() && max(p.Y, q.Y) > b.Y
}

// Touches reports whether any straight stretch from p to q passes through the
// box or along its edge (Liang and Barsky's clipping, 1984).
func (b Box) Touches(p, q Point) bool {
	t0, t1 := 0.0, 1.0
	d := q.Sub(p)
	for _, c := range [...][2]int{{-d.X, p.X - b.X}, {d.X, b.Right() - p.X}, {-d.Y, p.Y - b.Y},
		{d.Y, b.Bottom() - p.Y}} {
		along, room := float64(c[0]), float64(c[1])
		switch {
		case along == 0 && room < 0:
			return false
		case along < 0:
			t0 = max(t0, room/along)
		case along > 0:
			t1 = min(t1, room/along)
		}
	}
	return t0 <= t1
}

// Side names an edge of a box.
type Side uint8

// The sides, clockwise from the top.
const (
	Top Side = iota
	Right
	Bottom
	Left
)

var sideNames = [...]string{"top", "right", "bottom", "left"}

// String returns the side's name as files carry it.
func (s Side) String() string { return sideNames[s&3] }

// SideNamed returns the side called name.
func SideNamed(name string) (Side, bool) {
	for i, n := range sideNames {
		if n == name {
			return Side(i), true
		}
	}
	return 0, false
}

// Opposite returns the side across.
func (s Side) Opposite() Side { return (s + 2) & 3 }

// Upright reports whether leaving by this side means going up or down.
func (s Side) Upright() bool { return s == Top || s == Bottom }

// Step returns the unit vector that leaves a box by this side.
func (s Side) Step() Point {
	return [...]Point{{0, -1}, {1, 0}, {0, 1}, {-1, 0}}[s&3]
}

// Polyline is a course of straight stretches.
type Polyline []Point

// Length returns the sum of the stretches, each measured right-angled.
func (l Polyline) Length() int {
	n := 0
	for i := 1; i < len(l); i++ {
		n += l[i-1].Manhattan(l[i])
	}
	return n
}

// Bends returns the number of corners of a tidy polyline.
func (l Polyline) Bends() int { return max(0, len(l)-2) }

// Bounds returns the smallest box around the points.
func (l Polyline) Bounds() Box {
	if len(l) == 0 {
		return Box{}
	}
	lo, hi := l[0], l[0]
	for _, p := range l[1:] {
		lo = Point{min(lo.X, p.X), min(lo.Y, p.Y)}
		hi = Point{max(hi.X, p.X), max(hi.Y, p.Y)}
	}
	return Between(lo, hi)
}

// Tidy returns the polyline without repeated points and without points in the
// middle of a straight stretch. It reuses the memory of l.
func (l Polyline) Tidy() Polyline {
	out := l[:0]
	for _, p := range l {
		for {
			n := len(out)
			if n > 0 && out[n-1] == p {
				out = out[:n-1]
				continue
			}
			if n > 1 && inLine(out[n-2], out[n-1], p) {
				out = out[:n-1]
				continue
			}
			break
		}
		out = append(out, p)
	}
	return out
}

// inLine reports whether b adds nothing to the right-angled course a, b, c.
func inLine(a, b, c Point) bool {
	return a.X == b.X && b.X == c.X || a.Y == b.Y && b.Y == c.Y
}

// Along returns the point at distance d from the start, going along the line.
func (l Polyline) Along(d int) Point {
	for i := 1; i < len(l); i++ {
		n := l[i-1].Manhattan(l[i])
		if d <= n && n > 0 {
			v := l[i].Sub(l[i-1])
			return Point{l[i-1].X + v.X*d/n, l[i-1].Y + v.Y*d/n}
		}
		d -= n
	}
	if len(l) == 0 {
		return Point{}
	}
	return l[len(l)-1]
}

// Nearest returns the point of the line nearest to p, how far along the line it
// lies, measured right-angled as by Along, and the stretch it lies on.
func (l Polyline) Nearest(p Point) (at Point, along, stretch int) {
	best, done := int(^uint(0)>>1), 0
	for i := 1; i < len(l); i++ {
		a, v, n := l[i-1], l[i].Sub(l[i-1]), l[i-1].Manhattan(l[i])
		w := p.Sub(a)
		b := Between(a, l[i])
		q := Point{Clamp(p.X, b.X, b.Right()), Clamp(p.Y, b.Y, b.Bottom())}
		if v.X != 0 && v.Y != 0 {
			t, square := v.X*w.X+v.Y*w.Y, v.X*v.X+v.Y*v.Y
			f := float64(Clamp(t, 0, square)) / float64(square)
			q = Point{a.X + int(float64(v.X)*f), a.Y + int(float64(v.Y)*f)}
		}
		if d := q.Sub(p); d.X*d.X+d.Y*d.Y < best {
			best, at, along, stretch = d.X*d.X+d.Y*d.Y, q, done+a.Manhattan(q), i-1
		}
		done += n
	}
	return at, along, stretch
}

// Distance returns how far p is from the nearest stretch of the line.
func (l Polyline) Distance(p Point) int {
	if len(l) == 0 {
		return int(^uint(0) >> 1)
	}
	at, _, _ := l.Nearest(p)
	d := at.Sub(p)
	return Sqrt(d.X*d.X + d.Y*d.Y)
}
