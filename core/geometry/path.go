package geometry

import "math"

// Op is one step of a path.
type Op struct {
	// Verb is 'M' (start at P), 'L' (line to P), 'C' (cubic curve over A and B
	// to P) or 'Z' (close).
	Verb    byte
	A, B, P Point
}

// Path is an outline of lines and cubic curves.
type Path []Op

// Move starts a new part of the path at x, y.
func (p Path) Move(x, y int) Path {
	if cap(p) == 0 {
		p = make(Path, 0, 8) // most outlines and courses need no more
	}
	return append(p, Op{Verb: 'M', P: Point{x, y}})
}

// Line goes straight to x, y.
func (p Path) Line(x, y int) Path { return append(p, Op{Verb: 'L', P: Point{x, y}}) }

// Curve goes to x, y by a cubic curve with the handles ax, ay and bx, by.
func (p Path) Curve(ax, ay, bx, by, x, y int) Path {
	return append(p, Op{Verb: 'C', A: Point{ax, ay}, B: Point{bx, by}, P: Point{x, y}})
}

// Close returns to where the part began.
func (p Path) Close() Path { return append(p, Op{Verb: 'Z'}) }

// Moved returns the path shifted by d.
func (p Path) Moved(d Point) Path {
	out := make(Path, len(p))
	for i, op := range p {
		out[i] = Op{op.Verb, op.A.Add(d), op.B.Add(d), op.P.Add(d)}
	}
	return out
}

// Scaled returns the path with every length multiplied by n and divided by d.
func (p Path) Scaled(n, d int) Path {
	out := make(Path, len(p))
	scale := func(q Point) Point { return Point{q.X * n / d, q.Y * n / d} }
	for i, op := range p {
		out[i] = Op{op.Verb, scale(op.A), scale(op.B), scale(op.P)}
	}
	return out
}

// Quarter is the handle length, in ten-thousandths of the radius, with which a
// cubic curve comes closest to a quarter of a circle: 4/3 (sqrt 2 - 1).
const Quarter = 5523

// Ellipse returns the ellipse that fills the box.
func Ellipse(b Box) Path {
	rx, ry := b.W/2, b.H/2
	kx, ky := rx*Quarter/10000, ry*Quarter/10000
	cx, cy := b.X+rx, b.Y+ry
	return Path{}.Move(cx, b.Y).
		Curve(cx+kx, b.Y, b.Right(), cy-ky, b.Right(), cy).
		Curve(b.Right(), cy+ky, cx+kx, b.Bottom(), cx, b.Bottom()).
		Curve(cx-kx, b.Bottom(), b.X, cy+ky, b.X, cy).
		Curve(b.X, cy-ky, cx-kx, b.Y, cx, b.Y).Close()
}

// Outline returns the closed path along the edges of the box.
func (b Box) Outline() Path {
	return Polygon(b.Corner(), Point{b.Right(), b.Y}, Point{b.Right(), b.Bottom()}, Point{b.X, b.Bottom()})
}

// Polygon returns the closed path over the points.
func Polygon(points ...Point) Path { return Through(points...).Close() }

// Through returns the open path from each of the points, of which there is at least
// one, straight to the next.
func Through(points ...Point) Path {
	p := make(Path, 0, len(points)+1)
	for i, q := range points {
		p = append(p, Op{Verb: "ML"[min(i, 1)], P: q})
	}
	return p
}

// Flatten returns the parts of the path as polylines whose distance from the
// curves is well under a pixel, for measuring and hit tests.
func (p Path) Flatten() []Polyline {
	const pieces = 24
	var out []Polyline
	var line Polyline
	for _, op := range p {
		switch op.Verb {
		case 'M':
			if len(line) > 1 {
				out = append(out, line)
			}
			line = Polyline{op.P}
		case 'L':
			line = append(line, op.P)
		case 'C':
			from := line[len(line)-1]
			for i := 1; i <= pieces; i++ {
				line = append(line, cubic(from, op.A, op.B, op.P, i, pieces))
			}
		case 'Z':
			line = append(line, line[0])
		}
	}
	if len(line) > 1 {
		out = append(out, line)
	}
	return out
}

// cubic returns the point at t = i/n of a cubic curve, in whole numbers.
func cubic(p0, p1, p2, p3 Point, i, n int) Point {
	j := n - i
	a, b, c, d := j*j*j, 3*j*j*i, 3*j*i*i, i*i*i
	return Point{(a*p0.X + b*p1.X + c*p2.X + d*p3.X) / (n * n * n), (a*p0.Y + b*p1.Y + c*p2.Y + d*p3.Y) / (n * n * n)}
}

// Sqrt returns the square root of n rounded down; of a negative n, zero.
func Sqrt(n int) int {
	if n <= 0 {
		return 0
	}
	r := int(math.Sqrt(float64(n)))
	for r*r > n {
		r--
	}
	for (r+1)*(r+1) <= n {
		r++
	}
	return r
}
