package geometry

import (
	"math"
	"math/rand/v2"
	"testing"
)

// Snapping and dividing have no seam at zero: what holds for a number holds
// for that number moved by a whole number of steps.
func TestGridHasNoSeamAtZero(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 2000 {
		n, step, k := r.IntN(20000)-10000, 1+r.IntN(500), r.IntN(40)-20
		if a, b := Snap(n, step)+k*step, Snap(n+k*step, step); a != b {
			t.Fatalf("Snap(%d, %d) moved by %d steps is %d, not %d", n, step, k, b, a)
		}
		if s := Snap(n, step); s%step != 0 || Abs(2*(s-n)) > step {
			t.Fatalf("Snap(%d, %d) is %d", n, step, s)
		}
		if got, want := FloorDiv(n, step), int(math.Floor(float64(n)/float64(step))); got != want {
			t.Fatalf("FloorDiv(%d, %d) is %d, not %d", n, step, got, want)
		}
	}
}

func TestSqrt(t *testing.T) {
	for _, n := range []int{-5, 0, 1, 2, 3, 4, 15, 16, 17, 1 << 40, 1<<52 + 1} {
		if r := Sqrt(n); n > 0 && (r*r > n || (r+1)*(r+1) <= n) || n <= 0 && r != 0 {
			t.Errorf("Sqrt(%d) is %d", n, r)
		}
	}
}

// A tidy course has the same ends, runs through the same corners, and turns at
// every inner point.
func TestTidyKeepsTheCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for range 2000 {
		p := Point{}
		line := Polyline{p}
		for range r.IntN(12) {
			if d := r.IntN(5) * 100; r.IntN(2) == 0 {
				p.X += d // never back: going back is a corner too
			} else {
				p.Y += d
			}
			line = append(line, p)
		}
		length := line.Length()
		tidy := append(Polyline{}, line...).Tidy()
		if tidy[0] != line[0] || tidy[len(tidy)-1] != p || tidy.Length() != length {
			t.Fatalf("%v became %v", line, tidy)
		}
		for k := 1; k+1 < len(tidy); k++ {
			if (tidy[k-1].X == tidy[k].X) == (tidy[k].X == tidy[k+1].X) {
				t.Fatalf("%v of %v does not turn at %v", tidy, line, tidy[k])
			}
		}
	}
}

func TestBoxes(t *testing.T) {
	b := Box{X: 10, Y: 20, W: 30, H: 40}
	if !b.CutBy(Point{0, 40}, Point{100, 40}) || b.CutBy(Point{0, 20}, Point{100, 20}) ||
		b.CutBy(Point{10, 0}, Point{10, 100}) {
		t.Error("a stretch along an edge cuts, or one through the middle does not")
	}
	if b.Meets(Box{X: 40, Y: 20, W: 5, H: 5}) || !b.Meets(Box{X: 39, Y: 59, W: 5, H: 5}) {
		t.Error("boxes that touch meet, or such that overlap do not")
	}
	if u := b.Union(Box{}); u != b {
		t.Errorf("with nothing it becomes %v", u)
	}
	for side := range Side(4) {
		if back, ok := SideNamed(side.String()); !ok || back != side || side.Opposite().Opposite() != side {
			t.Errorf("the side %v is lost on its way", side)
		}
	}
}

// The ellipse made of four curves stays within 0.03 % of the radius of a true
// one (the known error of the cubic quarter circle).
func TestEllipseIsRound(t *testing.T) {
	const r = 100000
	for _, line := range Ellipse(Box{X: -r, Y: -r, W: 2 * r, H: 2 * r}).Flatten() {
		for _, p := range line {
			if d := math.Hypot(float64(p.X), float64(p.Y)); math.Abs(d-r) > 0.0004*r {
				t.Fatalf("%v lies at %.1f", p, d)
			}
		}
	}
}

// The nearest point of a line is on it, no other point looked at is nearer, and
// going along the line by the distance given leads to it.
func TestNearestPointOfALine(t *testing.T) {
	r := rand.New(rand.NewPCG(51, 52))
	for range 300 {
		line := Polyline{{X: r.IntN(900), Y: r.IntN(900)}}
		for i := range 1 + r.IntN(4) { // level and upright in turn
			next := line[i]
			if i%2 == 0 {
				next.X = r.IntN(900)
			} else {
				next.Y = r.IntN(900)
			}
			line = append(line, next)
		}
		p := Point{X: r.IntN(1200) - 150, Y: r.IntN(1200) - 150}
		at, along, stretch := line.Nearest(p)
		far := func(q Point) int { d := q.Sub(p); return d.X*d.X + d.Y*d.Y }
		if line.Along(along) != at {
			t.Fatalf("%v: %d along %v is %v, not %v", p, along, line, line.Along(along), at)
		}
		if b := Between(line[stretch], line[stretch+1]); !b.Contains(at) {
			t.Fatalf("%v does not lie on stretch %d of %v", at, stretch, line)
		}
		for d := 0; d <= line.Length(); d += 7 {
			if far(line.Along(d)) < far(at) {
				t.Fatalf("%v is nearer to %v than %v is", line.Along(d), p, at)
			}
		}
	}
}

// A stretch touches a box exactly when clipping it to the box leaves something:
// checked against a walk along it.
func TestTouchesAgreesWithAWalk(t *testing.T) {
	r := rand.New(rand.NewPCG(53, 54))
	for range 2000 {
		b := Box{X: r.IntN(60), Y: r.IntN(60), W: 5 + r.IntN(40), H: 5 + r.IntN(40)}
		p, q := Point{X: r.IntN(120) - 10, Y: r.IntN(120) - 10}, Point{X: r.IntN(120) - 10, Y: r.IntN(120) - 10}
		walked := false
		const steps = 4000
		for i := 0; i <= steps && !walked; i++ {
			x, y := float64(p.X)+float64(q.X-p.X)*float64(i)/steps, float64(p.Y)+float64(q.Y-p.Y)*float64(i)/steps
			walked = x >= float64(b.X) && x <= float64(b.Right()) && y >= float64(b.Y) && y <= float64(b.Bottom())
		}
		if walked && !b.Touches(p, q) {
			t.Fatalf("%v to %v passes through %v", p, q, b)
		}
		if !walked && b.Grown(-1).W > 0 && b.Grown(-1).H > 0 && b.Grown(-1).Touches(p, q) {
			t.Fatalf("%v to %v does not pass through %v", p, q, b)
		}
	}
}
