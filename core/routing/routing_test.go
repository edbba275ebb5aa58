package routing

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"gonum.org/v1/gonum/graph/path"
	"gonum.org/v1/gonum/graph/simple"

	"plaintracer/core/crossing"
	"plaintracer/core/geometry"
	"plaintracer/core/labels"
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
		b := geometry.Box{X: r.IntN(spread) * px / 3, Y: r.IntN(spread) * px / 3, W: (40 + r.IntN(100)) * px,
			H: (40 + r.IntN(60)) * px}
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
		if c.Obstructed {
			t.Fatalf("link %d of %v found no way", i, s.Boxes)
		}
		pts := c.Points
		if len(pts) < 2 || !glued(s, l.From, l.FromSide, c.FromSide, pts[0]) ||
			!glued(s, l.To, l.ToSide, c.ToSide, pts[len(pts)-1]) {
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
		router := prepared(r, &s, 1+r.IntN(4))
		for _, i := range router.work.order {
			g := gridOf(router, &s, s.Links[i])
			g.own = i
			want := g.cheapest()
			router.findFirst(i)
			got := router.routes[i]
			if got.obstructed {
				t.Fatalf("seed %d: no way found", seed)
			}
			if price := g.price(got.points); price != want {
				t.Fatalf("seed %d: the way %v costs %d, the cheapest %d", seed, got.points, price, want)
			}
		}
	}
}

// prepared puts up to n links from side to side into a scene, and returns a router
// that is ready to find one after the other.
func prepared(r *rand.Rand, s *Scene, n int) *Router {
	for range n {
		from, to := r.IntN(len(s.Boxes)), r.IntN(len(s.Boxes))
		if from != to {
			s.Links = append(s.Links, Link{From: from, To: to, FromSide: r.IntN(4), ToSide: r.IntN(4)})
		}
	}
	var router Router
	router.prepare(*s)
	router.ports = make([][4]port, len(s.Boxes))
	return &router
}

// grid is the independent second result: every line past every box, every
// crossing of two lines with four directions of travel.
type reference struct {
	r        *Router
	s        *Scene
	l        Link
	own      int
	xs, ys   []int
	from, to geometry.Point // in front of the glue points
}

func gridOf(r *Router, s *Scene, l Link) *reference {
	g := &reference{r: r, s: s, l: l}
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

// edge prices the way from one crossing of lines to the next: its length, and
// what it pays to cross the ways that lie there already or to lie on them. A
// way that lies on a line of the grid is crossed on the edge after it.
func (g *reference) edge(p, q geometry.Point) int {
	b := geometry.Between(p, q)
	cost := b.W + b.H
	for _, o := range g.r.segments {
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

func (g *reference) cheapest() int {
	graph := simple.NewWeightedDirectedGraph(0, 1e18)
	id := func(x, y, dir int) simple.Node { return simple.Node((y*len(g.xs)+x)*4 + dir) }
	free := func(p, q geometry.Point) bool {
		return !slices.ContainsFunc(g.s.Boxes, func(b geometry.Box) bool { return b.Grown(hard).CutBy(p, q) })
	}
	join := func(a, b simple.Node, w int) {
		graph.SetWeightedEdge(graph.NewWeightedEdge(a, b, float64(w)))
	}
	// A way turns where it goes on to the next crossing, and never folds back.
	step := func(x, y, nx, ny, dir, w int) {
		join(id(x, y, dir), id(nx, ny, dir), w)
		join(id(x, y, (dir+1)%4), id(nx, ny, dir), w+bendPrice)
		join(id(x, y, (dir+3)%4), id(nx, ny, dir), w+bendPrice)
	}
	for y := range g.ys {
		for x := range g.xs {
			p := geometry.Point{X: g.xs[x], Y: g.ys[y]}
			if x+1 < len(g.xs) {
				if q := (geometry.Point{X: g.xs[x+1], Y: p.Y}); free(p, q) {
					step(x, y, x+1, y, 1, g.edge(p, q))
					step(x+1, y, x, y, 3, g.edge(p, q))
				}
			}
			if y+1 < len(g.ys) {
				if q := (geometry.Point{X: p.X, Y: g.ys[y+1]}); free(p, q) {
					step(x, y, x, y+1, 2, g.edge(p, q))
					step(x, y+1, x, y, 0, g.edge(p, q))
				}
			}
		}
	}
	at := func(list []int, v int) int { i, _ := slices.BinarySearch(list, v); return i }
	start := id(at(g.xs, g.from.X), at(g.ys, g.from.Y), g.l.FromSide)
	end := simple.Node(-1)
	for turn, w := range [4]int{0, bendPrice, -1, bendPrice} {
		if w >= 0 {
			join(id(at(g.xs, g.to.X), at(g.ys, g.to.Y), (g.l.ToSide+2+turn)%4), end, w)
		}
	}
	return int(path.DijkstraFrom(start, graph).WeightTo(end.ID())) + g.stubs()
}

// stubs is the way between the glue points and the lines in front of them.
func (g *reference) stubs() int {
	return g.from.Manhattan(g.s.Glue[g.l.From][g.l.FromSide]) + g.to.Manhattan(g.s.Glue[g.l.To][g.l.ToSide])
}

// price adds up a way over the grid edges.
func (g *reference) price(way geometry.Polyline) int {
	way = slices.Clone(way)
	way[0], way[len(way)-1] = g.from, g.to
	cost := g.stubs()
	// The ends stand on the way's first and last segment; bends are counted
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
				cost += g.edge(a, b)
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

// Segments and bends of everyday courses (common practice, no source).
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

// Start, step, decision, with No back to the start and Yes to the end, has no
// crossing and a straight main path (common practice, no source); to the right
// and downwards.
func TestTheSmallestLoopHasNoCrossing(t *testing.T) {
	for _, down := range []bool{false, true} {
		at := func(i int) geometry.Box {
			if down {
				return boxAt(300, 100+i*140)
			}
			return boxAt(100+i*180, 300)
		}
		s := sceneOf(at(0), at(1), at(2), at(3))
		s.Down = down
		s.Links = []Link{link(0, 1), link(1, 2), link(2, 3), link(2, 0)}
		var r Router
		courses := r.Route(s)
		check(t, &s, courses)
		if x := crossingsOf(courses); len(x) != 0 {
			t.Errorf("down %v: it crosses at %v", down, x)
		}
		for i := range 3 {
			if courses[i].Points.Bends() != 0 {
				t.Errorf("down %v: the main path bends by %v", down, courses[i].Points)
			}
		}
		if b := courses[3].Points.Bends(); b != 2 {
			t.Errorf("down %v: the way back has %d bends by %v", down, b, courses[3].Points)
		}
	}
}

// Several ends on one side of a symbol spread over it, in the order in which
// they do not cross.
func TestEndsOnOneSideSpreadInOrder(t *testing.T) {
	s := sceneOf(boxAt(600, 300), boxAt(100, 100), boxAt(100, 300), boxAt(100, 500))
	left := int(geometry.Left)
	s.Reach[0][geometry.Left] = 36 * px
	for i := 1; i < 4; i++ {
		s.Links = append(s.Links, Link{From: i, To: 0, FromSide: int(geometry.Right), ToSide: Any})
	}
	// Only the left side is free.
	s.Boxes = append(s.Boxes, geometry.Box{X: 540 * px, Y: 238 * px, W: 160 * px, H: 20 * px},
		geometry.Box{X: 540 * px, Y: 342 * px, W: 160 * px, H: 20 * px},
		geometry.Box{X: 662 * px, Y: 250 * px, W: 20 * px, H: 100 * px})
	for range 3 {
		s.Glue, s.Reach = append(s.Glue, [4]geometry.Point{}), append(s.Reach, [4]int{})
	}
	s.Meet = meet4(s.Glue)
	var r Router
	courses := r.Route(s)
	var ys []int
	for i, c := range courses {
		if int(c.ToSide) != left {
			t.Fatalf("link %d arrives at the %s", i, c.ToSide)
		}
		ys = append(ys, c.Points[len(c.Points)-1].Y)
	}
	if !slices.IsSorted(ys) || ys[1]-ys[0] < Separation || ys[2]-ys[1] < Separation {
		t.Errorf("they arrive at %v", ys)
	}
	if x := crossingsOf(courses); len(x) != 0 {
		t.Errorf("they cross at %v", x)
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
		if !slices.Equal(a[i].Points, b[i].Points) || a[i].Labels != b[i].Labels ||
			!slices.Equal(a[i].Hops, b[i].Hops) {
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
					if !glued(&s, l.From, Any, c.FromSide, c.Points[0]) ||
						!glued(&s, l.To, Any, c.ToSide, c.Points[len(c.Points)-1]) {
						t.Fatalf("seed %d: link %d came off", seed, i)
					}
				} else if !cuts(kept.base[i].points, s.Boxes[who].Grown(hard)) &&
					!slices.Equal(kept.routes[i].points, kept.base[i].points) {
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

// A router that has seen a long history of a sheet (boxes moved, put in and taken
// out anywhere, ends glued elsewhere, bends laid, links added and taken away,
// computations given up half way) gives what a new one does, on sheets larger
// than what is searched whole, too.
func TestHistoryLeavesNoTrace(t *testing.T) {
	n := 14
	if testing.Short() {
		n = 4
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 22))
		s := sceneOf(scatter(r, 12+r.IntN(30), 3600)...)
		if seed%2 == 1 { // symbols that overlap shut others in
			s = sceneOf(heap(r, 30+r.IntN(20), 800)...)
		}
		randomLinks(r, &s, 15+r.IntN(20))
		var kept Router
		for step := range 20 {
			s.Boxes, s.Glue, s.Reach, s.Links = slices.Clone(s.Boxes), slices.Clone(s.Glue), slices.Clone(s.Reach),
				slices.Clone(s.Links)
			l := &s.Links[r.IntN(len(s.Links))]
			switch r.IntN(11) {
			case 0:
				l.FromSide, l.ToSide = r.IntN(5)-1, r.IntN(5)-1
			case 8:
				for range 1 + r.IntN(6) {
					putIn(&s, r.IntN(len(s.Boxes)+1), boxAt(r.IntN(3000), r.IntN(3000)))
				}
				randomLinks(r, &s, r.IntN(4))
			case 9:
				for range 1 + r.IntN(3) {
					takeOut(&s, r.IntN(len(s.Boxes)))
				}
				randomLinks(r, &s, max(5-len(s.Links), 0))
			case 10:
				s.Links = slices.Delete(s.Links, 0, min(r.IntN(3), len(s.Links)-5))
			case 1:
				l.Bends = []Bend{{Upright: r.IntN(2) == 0, At: r.IntN(1200) * px}}
			case 2:
				l.Straight = !l.Straight
			case 3:
				if to := r.IntN(len(s.Boxes)); to != l.From {
					l.To = to
				}
			case 4:
				randomLinks(r, &s, 1)
			case 5:
				if len(s.Links) > 5 {
					s.Links = s.Links[:len(s.Links)-1]
				}
			default:
				who := r.IntN(len(s.Boxes))
				s.Boxes[who] = s.Boxes[who].Moved(geometry.Point{X: (r.IntN(160) - 80) * px,
					Y: (r.IntN(160) - 80) * px})
				s.Glue[who] = glueOf(s.Boxes[who])
				if r.IntN(2) == 0 { // a drag comes before
					s.Meet = meet4(s.Glue)
					kept.Drag(s, func(b int) bool { return b == who })
				}
			}
			s.Meet = meet4(s.Glue)
			switch r.IntN(5) {
			case 0: // it is given up on the way
				for range 1 + r.IntN(2)*r.IntN(12) { // once, or again and again while much is moved
					s.Boxes, s.Glue = slices.Clone(s.Boxes), slices.Clone(s.Glue)
					for k := range min(len(s.Boxes), 15) {
						s.Boxes[k] = s.Boxes[k].Moved(geometry.Point{X: 7 * px, Y: 3 * px})
						s.Glue[k] = glueOf(s.Boxes[k])
					}
					s.Meet = meet4(s.Glue)
					kept.Begin(s)
					kept.Step(r.IntN(8000))
				}
				continue
			case 1: // and a drag comes after the change
				who := r.IntN(len(s.Boxes))
				for i, c := range kept.Drag(s, func(b int) bool { return b == who }) {
					if l := &s.Links[i]; !l.Straight && (!glued(&s, l.From, Any, c.FromSide, c.Points[0]) ||
						!glued(&s, l.To, Any, c.ToSide, c.Points[len(c.Points)-1])) {
						t.Fatalf("seed %d, step %d: link %d came off: %v, %+v, from %v to %v", seed, step, i, c, l,
							s.Boxes[l.From], s.Boxes[l.To])
					}
				}
			}
			kept.Begin(s)
			for budget := 1 + r.IntN(9000); !kept.Step(budget); {
			}
			var fresh Router
			if err := equal(kept.Courses(), fresh.Route(s)); err != nil {
				t.Fatalf("seed %d, step %d: %v", seed, step, err)
			}
		}
	}
}

// putIn puts a box in before box at, takeOut takes one out with its links.
func putIn(s *Scene, at int, b geometry.Box) {
	s.Boxes, s.Glue = slices.Insert(s.Boxes, at, b), slices.Insert(s.Glue, at, glueOf(b))
	s.Reach = slices.Insert(s.Reach, at, [4]int{b.W / 4, b.H / 4, b.W / 4, b.H / 4})
	for i := range s.Links {
		for _, end := range []*int{&s.Links[i].From, &s.Links[i].To} {
			if *end >= at {
				*end++
			}
		}
	}
}

func takeOut(s *Scene, at int) {
	s.Boxes, s.Glue = slices.Delete(s.Boxes, at, at+1), slices.Delete(s.Glue, at, at+1)
	s.Reach = slices.Delete(s.Reach, at, at+1)
	s.Links = slices.DeleteFunc(s.Links, func(l Link) bool { return l.From == at || l.To == at })
	for i := range s.Links {
		for _, end := range []*int{&s.Links[i].From, &s.Links[i].To} {
			if *end > at {
				*end--
			}
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
	for _, b := range []geometry.Box{boxAt(220, 100), boxAt(100, 100), boxAt(160, 130), boxAt(100, 180),
		boxAt(101, 100)} {
		s := sceneOf(boxAt(100, 100), b)
		for from := Any; from < 4; from++ {
			for to := Any; to < 4; to++ {
				s.Links = []Link{{From: 0, To: 1, FromSide: from, ToSide: to,
					Labels: [3]labels.Label{{Size: geometry.Point{X: 20 * px, Y: 17 * px}}}, Branch: from%2 == 0}}
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
	if c := r.Route(s)[0]; !c.Obstructed || len(c.Points) < 2 {
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

// Routing from nothing, with crossings, parallels and labels; and one symbol in
// the hand.
func BenchmarkRoute(b *testing.B) {
	for _, aligned := range []bool{true, false} {
		name := map[bool]string{true: "aligned", false: "off"}[aligned]
		for _, size := range [][2]int{{200, 250}, {700, 1000}} {
			b.Run(fmt.Sprintf("%d symbols %d links %s", size[0], size[1], name), func(b *testing.B) {
				s := big(size[0], size[1], aligned)
				for i := range s.Links {
					if i%3 == 0 {
						s.Links[i].Labels[0].Size = geometry.Point{X: 24 * px, Y: 17 * px}
					}
				}
				var r Router
				for b.Loop() {
					r = Router{}
					r.Route(s)
				}
			})
		}
		b.Run("all of 300 symbols and 356 links after one was moved "+name, func(b *testing.B) {
			s := big(300, 356, aligned)
			var r Router
			home := s.Boxes[151]
			i := 0
			for b.Loop() {
				i++
				s.Boxes[151] = home.Moved(geometry.Point{X: (i%20 - 10) * px, Y: (i%16 - 8) * px})
				s.Glue[151] = glueOf(s.Boxes[151])
				s.Meet = meet4(s.Glue)
				r.Route(s)
			}
		})
		b.Run("drag of one with 8 links on 300 symbols "+name, func(b *testing.B) {
			s := big(300, 350, aligned)
			for _, to := range []int{120, 123, 160, 172, 180, 142} {
				s.Links = append(s.Links, link(151, to))
			}
			var r Router
			before := copyOf(r.Route(s))
			home := s.Boxes[151]
			b.ReportAllocs()
			i, changed := 0, 0
			var frames []time.Duration
			for b.Loop() {
				i++
				begun := time.Now()
				s.Boxes[151] = home.Moved(geometry.Point{X: (i%200 - 100) * px, Y: (i%160 - 80) * px})
				s.Glue[151] = glueOf(s.Boxes[151])
				s.Meet = meet4(s.Glue)
				courses := r.Drag(s, func(b int) bool { return b == 151 })
				frames = append(frames, time.Since(begun))
				b.StopTimer()
				changed += unrelatedChanges(&r, before, courses)
				before = copyOf(courses)
				b.StartTimer()
			}
			slices.Sort(frames)
			b.ReportMetric(float64(frames[len(frames)/2].Microseconds())/1000, "median-ms")
			b.ReportMetric(float64(changed)/float64(i), "unrelated/frame")
		})
	}
}

// unrelatedChanges counts the courses that differ from the frame before
// although they are neither attached to the moved box nor routed anew because
// of it.
func unrelatedChanges(r *Router, before, now []Course) int {
	n := 0
	for i := range now {
		if !slices.Contains(r.motion.again, i) && !slices.Equal(before[i].Points, now[i].Points) {
			n++
		}
	}
	return n
}

// How much more the ways of a large scene cost than the cheapest, each in sight
// of those before it. The cheapest is found by searching the whole scene without
// overrate, which on small scenes equals Dijkstra's result (see the test).
func BenchmarkCostOverOptimum(b *testing.B) {
	for _, aligned := range []bool{true, false} {
		b.Run(map[bool]string{true: "aligned", false: "off"}[aligned], func(b *testing.B) {
			s := big(200, 250, aligned)
			var r Router
			var found, best int
			for b.Loop() {
				r.lines = r.lines[:0]
				r.prepare(s)
				r.ports = make([][4]port, len(s.Boxes))
				r.forgetSegments()
				found, best = 0, 0
				for _, i := range r.work.order {
					r.search.exact = true
					r.search.find(&r, i, &r.routes[i])
					best += r.search.total
					r.search.exact = false
					r.findFirst(i)
					found += r.search.total
				}
			}
			b.ReportMetric(100*float64(found-best)/float64(best), "%over")
		})
	}
}

func crossingsOf(courses []Course) []crossing.Crossing {
	var lines []geometry.Polyline
	for i := range courses {
		lines = append(lines, courses[i].Points)
	}
	var finder crossing.Finder
	found, _ := finder.All(lines, 0)
	return found
}
