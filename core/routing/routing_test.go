package routing

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/graph/path"
	"gonum.org/v1/gonum/graph/simple"

	"plaintracer/core/geometry"
)

func glueOf(b geometry.Box) [4]geometry.Point {
	c := b.Centre()
	return [4]geometry.Point{{X: c.X, Y: b.Y}, {X: b.Right(), Y: c.Y}, {X: c.X, Y: b.Bottom()}, {X: b.X, Y: c.Y}}
}

func sceneOf(boxes ...geometry.Box) Scene {
	s := Scene{Boxes: boxes}
	for _, b := range boxes {
		s.Glue = append(s.Glue, glueOf(b))
	}
	return s
}

func boxAt(x, y int) geometry.Box {
	return geometry.Around(geometry.Point{X: x * px, Y: y * px}, 120*px, 80*px)
}

func link(from, to int) Link { return Link{From: from, To: to, FromSide: Any, ToSide: Any} }

// scatter returns boxes that keep a clearance from each other.
func scatter(r *rand.Rand, n, spread int) []geometry.Box {
	var out []geometry.Box
	for tries := 0; len(out) < n && tries < 5000; tries++ {
		b := geometry.Box{X: r.IntN(spread) * px / 3, Y: r.IntN(spread) * px / 3, W: (40 + r.IntN(100)) * px, H: (40 + r.IntN(60)) * px}
		if !slices.ContainsFunc(out, func(o geometry.Box) bool { return o.Grown(2 * hard).Meets(b) }) {
			out = append(out, b)
		}
	}
	return out
}

func randomLinks(r *rand.Rand, s *Scene, n int) {
	for range n {
		from, to := r.IntN(len(s.Boxes)), r.IntN(len(s.Boxes))
		if from != to {
			s.Links = append(s.Links, link(from, to))
		}
	}
}

// check holds for every course: right-angled, from glue point to glue point,
// and through no symbol while a free way exists. Boxes that keep a distance
// from each other always leave one.
func check(t *testing.T, s *Scene, courses []Course) {
	t.Helper()
	for i, c := range courses {
		l := s.Links[i]
		if c.Cuts {
			t.Fatalf("link %d of %v found no way", i, s.Boxes)
		}
		pts := c.Points
		if len(pts) < 2 || pts[0] != s.Glue[l.From][c.FromSide] || pts[len(pts)-1] != s.Glue[l.To][c.ToSide] {
			t.Fatalf("link %d runs %v, not from glue point to glue point", i, pts)
		}
		for k := 1; k < len(pts); k++ {
			if (pts[k].X == pts[k-1].X) == (pts[k].Y == pts[k-1].Y) {
				t.Fatalf("link %d has the stretch %v to %v", i, pts[k-1], pts[k])
			}
			for j, b := range s.Boxes {
				if b.CutBy(pts[k-1], pts[k]) {
					t.Fatalf("link %d from %v to %v cuts box %d %v by %v", i, s.Boxes[l.From], s.Boxes[l.To], j, b, pts)
				}
			}
		}
	}
}

func TestCoursesCutNoSymbol(t *testing.T) {
	n := 1500
	if testing.Short() {
		n = 100
	}
	var router Router
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 11))
		s := sceneOf(scatter(r, 2+r.IntN(22), 2400)...)
		randomLinks(r, &s, 1+r.IntN(24))
		check(t, &s, router.Route(s))
	}
}

// price is what a way costs beside its glue points, by the router's own weights.
func price(line geometry.Polyline) int { return line.Length() + bendPrice*line.Bends() }

// The cost of a single connector equals that of the shortest path which gonum's
// Dijkstra finds over the complete orthogonal grid of the scene.
func TestCostEqualsDijkstraOverTheWholeGrid(t *testing.T) {
	n := 500
	if testing.Short() {
		n = 60
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 12))
		s := sceneOf(scatter(r, 3+r.IntN(10), 1500)...)
		l := Link{From: 0, To: 1, FromSide: r.IntN(4), ToSide: r.IntN(4)}
		s.Links = []Link{l}
		var router Router
		router.prepare(s)
		router.ports = make([][4]port, len(s.Boxes))
		router.one(0)
		got := router.raw[0]
		if got.cuts {
			t.Fatalf("seed %d: no way found", seed)
		}
		if want := dijkstra(&router, &s, l); price(got.points) != want {
			t.Fatalf("seed %d: the way %v costs %d, the cheapest %d", seed, got.points, price(got.points), want)
		}
	}
}

// dijkstra is the independent second result: every line past every box, every
// crossing of two lines with four directions of travel.
func dijkstra(r *Router, s *Scene, l Link) int {
	var xs, ys []int
	for i := range s.Boxes {
		xs = append(xs, r.lines[i][1], r.lines[i][3])
		ys = append(ys, r.lines[i][0], r.lines[i][2])
	}
	stub := func(box, side int) geometry.Point {
		p := s.Glue[box][side]
		if side%2 == 0 {
			p.Y = r.lines[box][side]
		} else {
			p.X = r.lines[box][side]
		}
		return p
	}
	from, to := stub(l.From, l.FromSide), stub(l.To, l.ToSide)
	xs, ys = append(xs, from.X, to.X), append(ys, from.Y, to.Y)
	slices.Sort(xs)
	slices.Sort(ys)
	xs, ys = slices.Compact(xs), slices.Compact(ys)
	g := simple.NewWeightedDirectedGraph(0, 1e18)
	id := func(x, y, dir int) simple.Node { return simple.Node((y*len(xs)+x)*4 + dir) }
	free := func(p, q geometry.Point) bool {
		return !slices.ContainsFunc(s.Boxes, func(b geometry.Box) bool { return b.Grown(hard).CutBy(p, q) })
	}
	join := func(a, b simple.Node, w int) { g.SetWeightedEdge(g.NewWeightedEdge(a, b, float64(w))) }
	for y := range ys {
		for x := range xs {
			p := geometry.Point{X: xs[x], Y: ys[y]}
			for dir := range 4 {
				join(id(x, y, dir), id(x, y, (dir+1)%4), bendPrice)
				join(id(x, y, dir), id(x, y, (dir+3)%4), bendPrice)
			}
			if x+1 < len(xs) {
				if q := (geometry.Point{X: xs[x+1], Y: p.Y}); free(p, q) {
					join(id(x, y, 1), id(x+1, y, 1), q.X-p.X)
					join(id(x+1, y, 3), id(x, y, 3), q.X-p.X)
				}
			}
			if y+1 < len(ys) {
				if q := (geometry.Point{X: p.X, Y: ys[y+1]}); free(p, q) {
					join(id(x, y, 2), id(x, y+1, 2), q.Y-p.Y)
					join(id(x, y+1, 0), id(x, y, 0), q.Y-p.Y)
				}
			}
		}
	}
	at := func(list []int, v int) int { i, _ := slices.BinarySearch(list, v); return i }
	start := id(at(xs, from.X), at(ys, from.Y), l.FromSide)
	end := id(at(xs, to.X), at(ys, to.Y), (l.ToSide+2)%4)
	w := path.DijkstraFrom(start, g).WeightTo(end.ID())
	return int(w) + from.Manhattan(s.Glue[l.From][l.FromSide]) + to.Manhattan(s.Glue[l.To][l.ToSide])
}

// Stretches and bends of everyday courses (common practice, no source).
func TestEverydayCourses(t *testing.T) {
	row := sceneOf(boxAt(100, 100), boxAt(260, 100))
	row.Links = []Link{link(0, 1)}
	back := sceneOf(boxAt(100, 100), boxAt(100, 260))
	back.Links = []Link{{From: 1, To: 0, FromSide: int(geometry.Right), ToSide: int(geometry.Right)}}
	rows := sceneOf(boxAt(500, 100), boxAt(100, 260))
	rows.Links = []Link{{From: 0, To: 1, FromSide: int(geometry.Right), ToSide: int(geometry.Left)}}
	under := sceneOf(boxAt(100, 100), boxAt(400, 100))
	under.Links = []Link{{From: 0, To: 1, FromSide: int(geometry.Bottom), ToSide: int(geometry.Bottom)}}
	for _, c := range []struct {
		name  string
		scene Scene
		bends int
	}{
		{"next in the row", row, 0},
		{"back to the step above, right side to right side", back, 2},
		{"from the end of a row to the start of the next", rows, 4},
		{"from bottom to bottom", under, 2},
	} {
		var r Router
		courses := r.Route(c.scene)
		check(t, &c.scene, courses)
		if got := courses[0].Points.Bends(); got != c.bends {
			t.Errorf("%s: %d bends by %v, not %d", c.name, got, courses[0].Points, c.bends)
		}
	}
}

func TestExitsOfADecisionLeaveByDifferentSides(t *testing.T) {
	s := sceneOf(boxAt(100, 100), boxAt(300, 100), boxAt(300, 260))
	s.Links = []Link{link(0, 1), link(0, 2)}
	var r Router
	courses := r.Route(s)
	if courses[0].FromSide == courses[1].FromSide {
		t.Errorf("both leave by the %s", courses[0].FromSide)
	}
}

// copyOf keeps courses beyond the next call.
func copyOf(courses []Course) []Course {
	out := slices.Clone(courses)
	for i := range out {
		out[i].Points = slices.Clone(out[i].Points)
	}
	return out
}

func equal(a, b []Course) error {
	for i := range a {
		if !slices.Equal(a[i].Points, b[i].Points) || a[i].Label != b[i].Label {
			return fmt.Errorf("link %d runs %v, not %v", i, a[i].Points, b[i].Points)
		}
	}
	return nil
}

// After any moves a complete computation gives what a new router gives, and
// during the drag only what is attached or in the way takes another way.
func TestMovesLeaveTheSameCoursesAsAFreshComputation(t *testing.T) {
	for seed := range 60 {
		r := rand.New(rand.NewPCG(uint64(seed), 13))
		s := sceneOf(scatter(r, 14, 2000)...)
		randomLinks(r, &s, 18)
		var kept Router
		kept.Route(s)
		who := r.IntN(len(s.Boxes))
		for range 8 {
			s.Boxes, s.Glue = slices.Clone(s.Boxes), slices.Clone(s.Glue)
			s.Boxes[who] = s.Boxes[who].Moved(geometry.Point{X: (r.IntN(60) - 30) * px, Y: (r.IntN(60) - 30) * px})
			s.Glue[who] = glueOf(s.Boxes[who])
			for i, c := range kept.Drag(s, func(b int) bool { return b == who }) {
				l := s.Links[i]
				if l.From == who || l.To == who {
					if c.Points[0] != s.Glue[l.From][c.FromSide] || c.Points[len(c.Points)-1] != s.Glue[l.To][c.ToSide] {
						t.Fatalf("seed %d: link %d came off", seed, i)
					}
				} else if !cuts(kept.base[i].points, s.Boxes[who].Grown(hard)) && !slices.Equal(kept.raw[i].points, kept.base[i].points) {
					t.Fatalf("seed %d: link %d changed its way without need", seed, i)
				}
			}
		}
		after := copyOf(kept.Route(s))
		var fresh Router
		if err := equal(after, fresh.Route(s)); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
	}
}

func TestParallelStretchesKeepTheirDistance(t *testing.T) {
	s := sceneOf(boxAt(100, 100), boxAt(100, 260), boxAt(500, 300), boxAt(500, 460))
	s.Links = []Link{
		{From: 0, To: 2, FromSide: int(geometry.Right), ToSide: int(geometry.Left)},
		{From: 1, To: 3, FromSide: int(geometry.Right), ToSide: int(geometry.Left)},
	}
	var r Router
	courses := r.Route(s)
	a, b := courses[0].Points[1].X, courses[1].Points[1].X
	if geometry.Abs(a-b) < Separation {
		t.Errorf("the upright stretches lie at %d and %d", a, b)
	}
}

// Symbols that touch, overlap or lie in each other still get a course with two
// ends and a place for the label.
func TestTouchingSymbolsHaveACourse(t *testing.T) {
	for _, b := range []geometry.Box{boxAt(220, 100), boxAt(100, 100), boxAt(160, 130), boxAt(100, 180), boxAt(101, 100)} {
		s := sceneOf(boxAt(100, 100), b)
		for from := Any; from < 4; from++ {
			for to := Any; to < 4; to++ {
				s.Links = []Link{{From: 0, To: 1, FromSide: from, ToSide: to, Label: geometry.Point{X: 20 * px, Y: 17 * px}, Branch: from%2 == 0}}
				var r Router
				for _, courses := range [][]Course{r.Route(s), r.Drag(s, func(i int) bool { return i == 1 })} {
					if c := courses[0]; len(c.Points) < 2 || c.Label.W == 0 {
						t.Errorf("from %v to %v: %+v", s.Boxes[0], b, c)
					}
				}
			}
		}
	}
}

func TestNoWayThroughAWallIsSaid(t *testing.T) {
	s := sceneOf(boxAt(100, 100), geometry.Box{X: 20 * px, Y: 40 * px, W: 500 * px, H: 500 * px}, boxAt(900, 100))
	s.Links = []Link{link(0, 2)} // the first lies inside the second
	var r Router
	if c := r.Route(s)[0]; !c.Cuts || len(c.Points) < 2 {
		t.Errorf("the course is %+v", c)
	}
}

// big is a sheet of n symbols with a connector to the next and some far ones.
func big(n, links int, aligned bool) Scene {
	r := rand.New(rand.NewPCG(9, 9))
	var boxes []geometry.Box
	for i := range n {
		b := boxAt(100+(i%20)*170, 100+(i/20)*140)
		if !aligned {
			b = b.Moved(geometry.Point{X: (r.IntN(30) - 15) * px, Y: (r.IntN(30) - 15) * px})
		}
		boxes = append(boxes, b)
	}
	s := sceneOf(boxes...)
	for i := range links {
		if i < n-1 {
			s.Links = append(s.Links, link(i, i+1))
		} else {
			a := r.IntN(n)
			s.Links = append(s.Links, link(a, (a+1+r.IntN(60))%n))
		}
	}
	return s
}

func BenchmarkRoute(b *testing.B) {
	for _, aligned := range []bool{true, false} {
		name := map[bool]string{true: "aligned", false: "off"}[aligned]
		b.Run("200 symbols 250 links "+name, func(b *testing.B) {
			s := big(200, 250, aligned)
			var r Router
			for b.Loop() {
				r.Route(s)
			}
		})
		b.Run("drag of one with 6 links "+name, func(b *testing.B) {
			s := big(200, 244, aligned)
			for _, to := range []int{80, 83, 110, 122, 140, 102} {
				s.Links = append(s.Links, link(101, to))
			}
			var r Router
			r.Route(s)
			home := s.Boxes[101]
			b.ReportAllocs()
			i := 0
			for b.Loop() {
				i++
				s.Boxes[101] = home.Moved(geometry.Point{X: (i%200 - 100) * px, Y: (i%160 - 80) * px})
				s.Glue[101] = glueOf(s.Boxes[101])
				r.Drag(s, func(b int) bool { return b == 101 })
			}
		})
	}
}
