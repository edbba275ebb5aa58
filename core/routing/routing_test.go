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
		s.Reach = append(s.Reach, [4]int{b.W / 4, b.H / 4, b.W / 4, b.H / 4})
	}
	s.Meet = meet4(s.Glue)
	return s
}

// meet4 says where the sides of plain boxes are met: at their glue points' depth.
func meet4(glue [][4]geometry.Point) func(box int, side geometry.Side, at int) int {
	return func(box int, side geometry.Side, _ int) int {
		if side.Upright() {
			return glue[box][side].Y
		}
		return glue[box][side].X
	}
}

func boxAt(x, y int) geometry.Box {
	return geometry.Around(geometry.Point{X: x * px, Y: y * px}, 120*px, 80*px)
}

func link(from, to int) Link { return Link{From: from, To: to, FromSide: Any, ToSide: Any} }

// scatter returns boxes that keep just so far from each other that a course
// fits between them.
func scatter(r *rand.Rand, n, spread int) []geometry.Box {
	return scatterApart(r, n, spread, 2*hard)
}

func scatterApart(r *rand.Rand, n, spread, gap int) []geometry.Box {
	var out []geometry.Box
	for tries := 0; len(out) < n && tries < 5000; tries++ {
		b := geometry.Box{X: r.IntN(spread) * px / 3, Y: r.IntN(spread) * px / 3, W: (40 + r.IntN(100)) * px, H: (40 + r.IntN(60)) * px}
		if !slices.ContainsFunc(out, func(o geometry.Box) bool { return o.Grown(gap).Meets(b) }) {
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

// glued reports whether a course ends at p on a side: at the glue point when
// that was asked for, else within reach of it.
func glued(s *Scene, box, asked int, side geometry.Side, p geometry.Point) bool {
	d := p.Sub(s.Glue[box][side])
	if asked != Any {
		return asked == int(side) && d == geometry.Point{}
	}
	if side.Upright() {
		return d.Y == 0 && geometry.Abs(d.X) <= s.Reach[box][side]
	}
	return d.X == 0 && geometry.Abs(d.Y) <= s.Reach[box][side]
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
		if len(pts) < 2 || !glued(s, l.From, l.FromSide, c.FromSide, pts[0]) || !glued(s, l.To, l.ToSide, c.ToSide, pts[len(pts)-1]) {
			t.Fatalf("link %d runs %v, not from symbol to symbol", i, pts)
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
	n := 10000
	if testing.Short() {
		n = 300
	}
	var router Router
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 11))
		most := 12
		if seed%20 == 0 {
			most = 40 // beyond what is searched whole
		}
		s := sceneOf(scatter(r, 2+r.IntN(most), 2400)...)
		randomLinks(r, &s, 1+r.IntN(most))
		check(t, &s, router.Route(s))
	}
}

// price is what a way costs beside its glue points, by the router's own weights.
func price(line geometry.Polyline) int { return line.Length() + bendPrice*line.Bends() }

// Every way costs what the cheapest one costs in sight of those found before
// it: length, bends, crossings, and lying on others. The second result is
// Dijkstra's over the complete orthogonal grid of the scene.
func TestCostEqualsDijkstraOverTheWholeGrid(t *testing.T) {
	n := 500
	if testing.Short() {
		n = 60
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 12))
		s := sceneOf(scatter(r, 3+r.IntN(10), 1500)...)
		for range 1 + r.IntN(4) {
			from, to := r.IntN(len(s.Boxes)), r.IntN(len(s.Boxes))
			if from != to {
				s.Links = append(s.Links, Link{From: from, To: to, FromSide: r.IntN(4), ToSide: r.IntN(4)})
			}
		}
		var router Router
		router.prepare(s)
		router.ports = make([][4]port, len(s.Boxes))
		for _, i := range router.order {
			g := gridOf(&router, &s, s.Links[i])
			g.own = i
			want := g.cheapest()
			router.one(i)
			got := router.raw[i]
			if got.cuts {
				t.Fatalf("seed %d: no way found", seed)
			}
			if price := g.price(got.points); price != want {
				t.Fatalf("seed %d: the way %v costs %d, the cheapest %d", seed, got.points, price, want)
			}
		}
	}
}

// grid is the independent second result: every line past every box, every
// crossing of two lines with four directions of travel.
type grid struct {
	r        *Router
	s        *Scene
	l        Link
	own      int
	xs, ys   []int
	from, to geometry.Point // in front of the glue points
}

func gridOf(r *Router, s *Scene, l Link) *grid {
	g := &grid{r: r, s: s, l: l}
	for i := range s.Boxes {
		g.xs = append(g.xs, r.lines[i][1], r.lines[i][3])
		g.ys = append(g.ys, r.lines[i][0], r.lines[i][2])
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
	g.from, g.to = stub(l.From, l.FromSide), stub(l.To, l.ToSide)
	g.xs, g.ys = append(g.xs, g.from.X, g.to.X), append(g.ys, g.from.Y, g.to.Y)
	slices.Sort(g.xs)
	slices.Sort(g.ys)
	g.xs, g.ys = slices.Compact(g.xs), slices.Compact(g.ys)
	return g
}

// piece prices the way from one crossing of lines to the next: its length, and
// what it pays to cross the ways that lie there already or to lie on them. A
// way that lies on a line of the grid is crossed on the piece after it.
func (g *grid) piece(p, q geometry.Point) int {
	b := geometry.Between(p, q)
	cost := b.W + b.H
	for _, o := range g.r.laid {
		if o.link == None || o.link == g.own {
			continue
		}
		pos, lo, hi, at := b.Y, b.X, b.Right(), b.X // seen along a level way
		if o.upright {
			pos, lo, hi, at = b.X, b.Y, b.Bottom(), b.Y
		}
		along := b.H == 0
		if o.upright {
			along = b.W == 0
		}
		switch {
		case along && pos == o.pos:
			if d := min(hi, o.hi) - max(lo, o.lo); d > 0 {
				cost += d / sharePrice
			}
		case !along && pos <= o.pos && o.pos < pos+b.W+b.H && o.lo < at && at < o.hi:
			cost += crossPrice
		}
	}
	return cost
}

func (g *grid) cheapest() int {
	graph := simple.NewWeightedDirectedGraph(0, 1e18)
	id := func(x, y, dir int) simple.Node { return simple.Node((y*len(g.xs)+x)*4 + dir) }
	free := func(p, q geometry.Point) bool {
		return !slices.ContainsFunc(g.s.Boxes, func(b geometry.Box) bool { return b.Grown(hard).CutBy(p, q) })
	}
	join := func(a, b simple.Node, w int) {
		graph.SetWeightedEdge(graph.NewWeightedEdge(a, b, float64(w)))
	}
	for y := range g.ys {
		for x := range g.xs {
			p := geometry.Point{X: g.xs[x], Y: g.ys[y]}
			for dir := range 4 {
				join(id(x, y, dir), id(x, y, (dir+1)%4), bendPrice)
				join(id(x, y, dir), id(x, y, (dir+3)%4), bendPrice)
			}
			if x+1 < len(g.xs) {
				if q := (geometry.Point{X: g.xs[x+1], Y: p.Y}); free(p, q) {
					join(id(x, y, 1), id(x+1, y, 1), g.piece(p, q))
					join(id(x+1, y, 3), id(x, y, 3), g.piece(p, q))
				}
			}
			if y+1 < len(g.ys) {
				if q := (geometry.Point{X: p.X, Y: g.ys[y+1]}); free(p, q) {
					join(id(x, y, 2), id(x, y+1, 2), g.piece(p, q))
					join(id(x, y+1, 0), id(x, y, 0), g.piece(p, q))
				}
			}
		}
	}
	at := func(list []int, v int) int { i, _ := slices.BinarySearch(list, v); return i }
	start := id(at(g.xs, g.from.X), at(g.ys, g.from.Y), g.l.FromSide)
	end := id(at(g.xs, g.to.X), at(g.ys, g.to.Y), (g.l.ToSide+2)%4)
	return int(path.DijkstraFrom(start, graph).WeightTo(end.ID())) + g.stubs()
}

// stubs is the way between the glue points and the lines in front of them.
func (g *grid) stubs() int {
	return g.from.Manhattan(g.s.Glue[g.l.From][g.l.FromSide]) + g.to.Manhattan(g.s.Glue[g.l.To][g.l.ToSide])
}

// price adds up a way over the pieces of the grid.
func (g *grid) price(way geometry.Polyline) int {
	way = slices.Clone(way)
	way[0], way[len(way)-1] = g.from, g.to
	cost := g.stubs()
	// The ends stand on the way's first and last stretch; bends are counted
	// between the directions of travel, the stubs included.
	dirs := []geometry.Side{geometry.Side(g.l.FromSide)}
	for k := 1; k < len(way); k++ {
		p, q := way[k-1], way[k]
		if p == q {
			continue
		}
		step, lines, v := geometry.Point{X: 1}, g.xs, p.X
		dir := geometry.Right
		switch {
		case q.X < p.X:
			dir = geometry.Left
		case q.Y > p.Y:
			dir = geometry.Bottom
		case q.Y < p.Y:
			dir = geometry.Top
		}
		dirs = append(dirs, dir)
		if dir.Upright() {
			step, lines, v = geometry.Point{Y: 1}, g.ys, p.Y
		}
		lo, hi := min(v, q.X*step.X+q.Y*step.Y), max(v, q.X*step.X+q.Y*step.Y)
		last := lo
		for _, line := range lines {
			if line > lo && line <= hi {
				a, b := p, p
				if dir.Upright() {
					a.Y, b.Y = last, line
				} else {
					a.X, b.X = last, line
				}
				cost += g.piece(a, b)
				last = line
			}
		}
	}
	dirs = append(dirs, geometry.Side(g.l.ToSide).Opposite())
	for k := 1; k < len(dirs); k++ {
		if dirs[k] != dirs[k-1] {
			cost += bendPrice
		}
	}
	return cost
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
		out[i].Points, out[i].Hops = slices.Clone(out[i].Points), slices.Clone(out[i].Hops)
	}
	return out
}

func equal(a, b []Course) error {
	for i := range a {
		if !slices.Equal(a[i].Points, b[i].Points) || a[i].Labels != b[i].Labels || !slices.Equal(a[i].Hops, b[i].Hops) {
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
			s.Meet = meet4(s.Glue)
			for i, c := range kept.Drag(s, func(b int) bool { return b == who }) {
				l := s.Links[i]
				if l.From == who || l.To == who {
					if !glued(&s, l.From, Any, c.FromSide, c.Points[0]) || !glued(&s, l.To, Any, c.ToSide, c.Points[len(c.Points)-1]) {
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
				s.Links = []Link{{From: 0, To: 1, FromSide: from, ToSide: to, Labels: [3]Label{{Size: geometry.Point{X: 20 * px, Y: 17 * px}}}, Branch: from%2 == 0}}
				var r Router
				for _, courses := range [][]Course{r.Route(s), r.Drag(s, func(i int) bool { return i == 1 })} {
					if c := courses[0]; len(c.Points) < 2 || c.Labels[0].W == 0 {
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

// Courses of connectors that share no symbol never lie on each other: where
// they share a channel they run side by side.
func TestUnrelatedCoursesNeverLieOnEachOther(t *testing.T) {
	n := 1500
	if testing.Short() {
		n = 150
	}
	var router Router
	close, pairs := 0, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 17))
		s := sceneOf(scatterApart(r, 4+r.IntN(12), 2600, 2*hard+2*Separation)...)
		randomLinks(r, &s, 2+r.IntN(12))
		courses := router.Route(s)
		for i := range courses {
			for j := range i {
				a, b := s.Links[i], s.Links[j]
				if a.From == b.From || a.To == b.To || a.From == b.To || a.To == b.From {
					continue
				}
				pairs++
				switch d := apart(courses[i].Points, courses[j].Points); {
				case d == 0:
					t.Errorf("seed %d: links %d and %d lie on each other: %v and %v", seed, i, j, courses[i].Points, courses[j].Points)
				case d < Separation:
					close++
				}
			}
		}
	}
	if close*200 > pairs {
		t.Errorf("%d of %d pairs run closer than %d px although most have room", close, pairs, Separation/px)
	}
	t.Logf("%d of %d pairs run closer than %d px", close, pairs, Separation/px)
}

// apart returns the distance of the nearest two stretches that run side by
// side, or a large one.
func apart(a, b geometry.Polyline) int {
	least := 1 << 40
	for i := 1; i < len(a); i++ {
		for j := 1; j < len(b); j++ {
			p, q := stretchOf(a[i-1], a[i], 0), stretchOf(b[j-1], b[j], 0)
			if p.upright == q.upright && p.lo < q.hi && q.lo < p.hi {
				least = min(least, geometry.Abs(p.pos-q.pos))
			}
		}
	}
	return least
}

// The crossings found by the sweep are those of every pair of stretches.
func TestCrossingsEqualThoseOfEveryPair(t *testing.T) {
	for seed := range 400 {
		r := rand.New(rand.NewPCG(uint64(seed), 18))
		s := sceneOf(scatter(r, 4+r.IntN(16), 1600)...)
		randomLinks(r, &s, 3+r.IntN(20))
		for i := range s.Links {
			s.Links[i].Straight = r.IntN(4) == 0
		}
		var router Router
		courses := router.Route(s)
		type point struct{ a, b, sa, sb int }
		got, want := map[point]geometry.Point{}, map[point]geometry.Point{}
		for _, x := range Crossings(courses) {
			got[point{x.A, x.B, x.StretchA, x.StretchB}] = x.At
		}
		for i := range courses {
			for j := range i {
				for k := 0; k+1 < len(courses[i].Points); k++ {
					for l := 0; l+1 < len(courses[j].Points); l++ {
						a, b := segment{courses[i].Points[k], courses[i].Points[k+1], i, k}, segment{courses[j].Points[l], courses[j].Points[l+1], j, l}
						at, ok := meetByArea(a, b)
						if !ok {
							continue
						}
						if slope(a) > slope(b) || slope(a) == slope(b) && i > j {
							a, b = b, a
						}
						want[point{a.link, b.link, a.at, b.at}] = at
					}
				}
			}
		}
		if len(got) != len(want) {
			t.Fatalf("seed %d: %d crossings found, %d are there", seed, len(got), len(want))
		}
		for k, p := range want {
			if q, ok := got[k]; !ok || p.Manhattan(q) > 4 {
				t.Fatalf("seed %d: crossing %v at %v, found at %v", seed, k, p, q)
			}
		}
		// Every crossing is a hop of exactly one of the two.
		hops := 0
		for _, c := range courses {
			hops += len(c.Hops)
		}
		if hops != len(want) {
			t.Fatalf("seed %d: %d hops for %d crossings", seed, hops, len(want))
		}
	}
}

func slope(s segment) float64 {
	d := s.q.Sub(s.p)
	if d.X == 0 {
		return 1e18
	}
	return float64(geometry.Abs(d.Y)) / float64(geometry.Abs(d.X))
}

// meetByArea finds the crossing of two stretches by the signs of triangles'
// areas, another way than the router's.
func meetByArea(a, b segment) (geometry.Point, bool) {
	area := func(p, q, r geometry.Point) float64 {
		return float64(q.X-p.X)*float64(r.Y-p.Y) - float64(q.Y-p.Y)*float64(r.X-p.X)
	}
	c, d := area(a.p, a.q, b.p), area(a.p, a.q, b.q)
	e, f := area(b.p, b.q, a.p), area(b.p, b.q, a.q)
	if !(c < 0 && d > 0 || c > 0 && d < 0) || !(e < 0 && f > 0 || e > 0 && f < 0) {
		return geometry.Point{}, false
	}
	t := e / (e - f)
	v := a.q.Sub(a.p)
	return geometry.Point{X: a.p.X + int(float64(v.X)*t), Y: a.p.Y + int(float64(v.Y)*t)}, true
}

// The courses do not depend on the order in which boxes and links stand.
func TestCoursesAreTheSameInWhateverOrder(t *testing.T) {
	for seed := range 150 {
		r := rand.New(rand.NewPCG(uint64(seed), 19))
		s := sceneOf(scatter(r, 4+r.IntN(12), 1800)...)
		randomLinks(r, &s, 2+r.IntN(12))
		seen := map[[2]int]bool{}
		s.Links = slices.DeleteFunc(s.Links, func(l Link) bool { // two between the same symbols may change places
			twice := seen[[2]int{l.From, l.To}]
			seen[[2]int{l.From, l.To}] = true
			return twice
		})
		for i := range s.Links {
			s.Links[i].Labels[0].Size = geometry.Point{X: 30 * px, Y: 17 * px}
		}
		var router Router
		first := copyOf(router.Route(s))
		boxes, links := r.Perm(len(s.Boxes)), r.Perm(len(s.Links))
		mixed := sceneOf()
		place := make([]int, len(boxes))
		for to, from := range boxes {
			mixed.Boxes, mixed.Glue, mixed.Reach = append(mixed.Boxes, s.Boxes[from]), append(mixed.Glue, s.Glue[from]), append(mixed.Reach, s.Reach[from])
			place[from] = to
		}
		mixed.Meet = meet4(mixed.Glue)
		for _, i := range links {
			l := s.Links[i]
			l.From, l.To = place[l.From], place[l.To]
			mixed.Links = append(mixed.Links, l)
		}
		again := router.Route(mixed)
		for to, from := range links {
			if !slices.Equal(first[from].Points, again[to].Points) || first[from].Labels != again[to].Labels {
				t.Fatalf("seed %d: link %d runs %v, in another order %v", seed, from, first[from].Points, again[to].Points)
			}
		}
	}
}

// A stretch laid by hand keeps its coordinate while its course can be found
// without cutting a symbol, and is given back when it cannot.
func TestBendsAreKeptOrGivenBack(t *testing.T) {
	s := sceneOf(boxAt(100, 100), boxAt(500, 300))
	s.Links = []Link{link(0, 1)}
	s.Links[0].Bends = []Bend{{Upright: true, At: 420 * px}}
	runs := func(c Course, upright bool, at int) bool {
		for k := 1; k < len(c.Points); k++ {
			if p := stretchOf(c.Points[k-1], c.Points[k], 0); p.upright == upright && p.pos == at && p.hi > p.lo {
				return true
			}
		}
		return false
	}
	var r Router
	if c := r.Route(s)[0]; c.GivenBack || !runs(c, true, 420*px) {
		t.Errorf("the bend at 420 gives %+v", c)
	}
	// Two bends are travelled in their order.
	s.Links[0].Bends = []Bend{{Upright: true, At: 300 * px}, {At: 500 * px}, {Upright: true, At: 600 * px}}
	if c := r.Route(s)[0]; c.GivenBack || !runs(c, true, 300*px) || !runs(c, false, 500*px) || !runs(c, true, 600*px) {
		t.Errorf("three bends give %+v", c)
	}
	// A symbol that comes to lie on the stretch pushes the course around itself,
	// and the rest of the stretch stays.
	s = sceneOf(boxAt(100, 100), boxAt(500, 500), boxAt(300, 300))
	s.Links = []Link{link(0, 1)}
	s.Links[0].Bends = []Bend{{Upright: true, At: 300 * px}}
	c := r.Route(s)[0]
	check(t, &s, []Course{c})
	if c.GivenBack || !runs(c, true, 300*px) {
		t.Errorf("beside a symbol the bend gives %+v", c)
	}
	// Where the stretch would have to run inside a symbol all along, it goes.
	s = sceneOf(boxAt(100, 100), boxAt(500, 100), geometry.Box{X: 200 * px, Y: -4000 * px, W: 200 * px, H: 8000 * px})
	s.Links = []Link{{From: 0, To: 1, FromSide: Any, ToSide: Any, Bends: []Bend{{Upright: true, At: 300 * px}}}}
	s.Boxes[2].Y, s.Boxes[2].H = 20*px, 160*px
	s.Links[0].Bends = []Bend{{Upright: true, At: 300 * px}, {At: 100 * px}, {Upright: true, At: 300 * px}}
	if c := r.Route(s)[0]; c.Cuts {
		t.Errorf("a bend through a symbol gives %+v", c)
	}
}

// Labels placed by themselves meet nothing as long as a free place exists within
// reach of their connector.
func TestLabelsTakeAFreePlaceWhenThereIsOne(t *testing.T) {
	for seed := range 250 {
		r := rand.New(rand.NewPCG(uint64(seed), 20))
		s := sceneOf(scatter(r, 4+r.IntN(14), 1400)...)
		randomLinks(r, &s, 3+r.IntN(12))
		for i := range s.Links {
			for k := range 1 + r.IntN(3) {
				s.Links[i].Labels[k].Size = geometry.Point{X: (16 + r.IntN(80)) * px, Y: (15 + r.IntN(2)*17) * px}
			}
			s.Links[i].Branch = r.IntN(2) == 0
		}
		var router Router
		courses := router.Route(s)
		var placed []geometry.Box // in the order in which the router places them
		meets := func(b geometry.Box, own int) bool {
			for _, o := range append(slices.Clone(s.Boxes), placed...) {
				if o.Meets(b) {
					return true
				}
			}
			for i, c := range courses {
				for k := 1; k < len(c.Points) && i != own; k++ {
					if b.CutBy(c.Points[k-1], c.Points[k]) {
						return true
					}
				}
			}
			return false
		}
		for _, i := range router.order {
			for k, l := range s.Links[i].Labels {
				if l.Size.X == 0 {
					continue
				}
				b := courses[i].Labels[k]
				if d := Away(courses[i].Points, b); d > labelReach {
					t.Fatalf("seed %d: a label of link %d stands %d away", seed, i, d)
				}
				if meets(b, i) {
					zone := courses[i].Points.Bounds().Grown(labelReach)
					for range 3000 {
						try := geometry.Box{X: zone.X - l.Size.X + r.IntN(zone.W+l.Size.X), Y: zone.Y - l.Size.Y + r.IntN(zone.H+l.Size.Y), W: l.Size.X, H: l.Size.Y}
						if Away(courses[i].Points, try) <= labelReach && !meets(try, i) {
							t.Fatalf("seed %d: label %d of link %d at %v meets something; %v is free", seed, k, i, b, try)
						}
					}
				}
				placed = append(placed, b)
			}
		}
	}
}

// A label that was placed by hand stays where it was put, seen from its line,
// and other connectors go round it.
func TestLabelsPlacedByHand(t *testing.T) {
	s := sceneOf(boxAt(100, 100), boxAt(500, 100), boxAt(300, 0), boxAt(300, 300))
	s.Links = []Link{link(0, 1), link(2, 3)}
	s.Links[0].Labels[0] = Label{Size: geometry.Point{X: 60 * px, Y: 17 * px}, Held: true, Along: 5000, Off: geometry.Point{Y: 60 * px}}
	var r Router
	courses := r.Route(s)
	line := courses[0].Points
	if want := line.Along(line.Length() / 2).Add(geometry.Point{Y: 60 * px}); courses[0].Labels[0].Centre() != want {
		t.Errorf("the label stands around %v, not %v", courses[0].Labels[0].Centre(), want)
	}
	if cuts(courses[1].Points, courses[0].Labels[0]) {
		t.Errorf("%v runs through the label %v", courses[1].Points, courses[0].Labels[0])
	}
}

// A connector that joins another one ends on its line, coming from the side.
func TestJoiningEndsOnTheLine(t *testing.T) {
	for seed := range 200 {
		r := rand.New(rand.NewPCG(uint64(seed), 21))
		s := sceneOf(scatter(r, 5+r.IntN(8), 1600)...)
		s.Links = []Link{link(0, 1), {From: 2, To: None, FromSide: Any, ToSide: Any, Joins: true, Onto: 0},
			{From: 3, To: None, FromSide: Any, ToSide: Any, Joins: true, Onto: 1}}
		var router Router
		courses := router.Route(s)
		for i := 1; i < 3; i++ {
			pts := courses[i].Points
			onto := courses[s.Links[i].Onto].Points
			if d := onto.Distance(pts[len(pts)-1]); d != 0 {
				t.Fatalf("seed %d: the end of link %d lies %d beside the line it joins", seed, i, d)
			}
			for k := 1; k < len(pts); k++ {
				for j, b := range s.Boxes {
					if !courses[i].Cuts && b.CutBy(pts[k-1], pts[k]) {
						t.Fatalf("seed %d: link %d cuts box %d", seed, i, j)
					}
				}
			}
		}
	}
}

// Exits share a first stretch as a trunk when asked; else they spread over the
// side.
func TestTrunkAndSpread(t *testing.T) {
	right := int(geometry.Right)
	for _, trunk := range []bool{false, true} {
		s := sceneOf(boxAt(100, 300), boxAt(400, 100), boxAt(400, 500))
		s.Reach[0][geometry.Right] = 20 * px
		s.Boxes = append(s.Boxes, geometry.Box{X: 20 * px, Y: 238 * px, W: 160 * px, H: 20 * px}, geometry.Box{X: 20 * px, Y: 342 * px, W: 160 * px, H: 20 * px})
		s.Glue = append(s.Glue, [4]geometry.Point{}, [4]geometry.Point{})
		s.Reach = append(s.Reach, [4]int{}, [4]int{})
		s.Meet = meet4(s.Glue)
		left := int(geometry.Left)
		s.Links = []Link{{From: 0, To: 1, FromSide: Any, ToSide: left, Trunk: trunk}, {From: 0, To: 2, FromSide: Any, ToSide: left, Trunk: trunk}}
		var r Router
		courses := r.Route(s)
		a, b := courses[0], courses[1]
		if int(a.FromSide) != right || int(b.FromSide) != right {
			t.Fatalf("trunk %v: they leave by the %s and the %s", trunk, a.FromSide, b.FromSide)
		}
		if d := geometry.Abs(a.Points[0].Y - b.Points[0].Y); trunk && d != 0 || !trunk && d < Separation {
			t.Errorf("trunk %v: they leave %d apart", trunk, d)
		}
	}
}
