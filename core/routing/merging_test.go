package routing

import (
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
)

// Where both sides across the flow cost the same, a line back runs on the lower side, or on the
// right where the flow runs down, with two bends: on small sheets, which are searched whole, and
// on large ones.
func TestALineBackRunsBelowOrOnTheRight(t *testing.T) {
	for _, steps := range []int{5, 40} {
		for _, down := range []bool{false, true} {
			var boxes []geometry.Box
			for i := range steps {
				boxes = append(boxes, boxAt(100+200*i, 100))
				if down {
					boxes[i] = boxAt(100, 100+200*i)
				}
			}
			for to := range 5 {
				for from := to + 2; from < 5; from++ { // next to each other they are joined by a straight line
					s := sceneOf(boxes...)
					s.Down = down
					for i := 1; i < steps; i++ {
						s.Links = append(s.Links, link(i-1, i))
					}
					s.Links = append(s.Links, link(from, to))
					var router Router
					c := router.Route(s)[steps-1]
					want := geometry.Bottom
					if down {
						want = geometry.Right
					}
					if c.FromSide != want || c.ToSide != want || c.Points.Bends() != 2 {
						t.Errorf("%d steps, down %v: from %d to %d it leaves by %v and arrives at %v with %d bends",
							steps, down, from, to, c.FromSide, c.ToSide, c.Points.Bends())
					}
				}
			}
		}
	}
}

// tail returns the last segments of a course, from where it turns towards the symbol for the
// last time.
func tail(c *Course) geometry.Polyline { return c.Points[len(c.Points)-2:] }

// Lines that merge share their last segment, and the one before it up to where each comes in;
// all others keep the separation. One that is to keep apart does.
func TestLinesIntoOneSideMerge(t *testing.T) {
	boxes := []geometry.Box{boxAt(600, 300), boxAt(100, 100), boxAt(100, 300), boxAt(100, 500), boxAt(100, 700)}
	s := sceneOf(boxes...)
	for from := 1; from < 5; from++ {
		s.Links = append(s.Links, Link{From: from, To: 0, FromSide: int(geometry.Right), ToSide: int(geometry.Left),
			Merge: true})
	}
	var router Router
	courses := router.Route(s)
	check(t, &s, courses)
	turn := tail(&courses[0])[0]
	for i := range courses {
		c := &courses[i]
		if c.ToSide != geometry.Left || tail(c)[1] != s.Glue[0][geometry.Left] {
			t.Errorf("line %d arrives at %v, %v", i, c.ToSide, tail(c)[1])
		}
		if i != 1 && tail(c)[0] != turn { // 1 comes straight
			t.Errorf("line %d turns in at %v, the first one at %v", i, tail(c)[0], turn)
		}
	}
	if turn.X != s.Glue[0][geometry.Left].X-mergeAt {
		t.Errorf("they turn in %d px before the symbol", (s.Glue[0][geometry.Left].X-turn.X)/px)
	}
	if n := len(crossingsOf(courses)); n != 0 {
		t.Errorf("merging lines cross %d times", n)
	}
	s.Links[3].Merge, s.Links[3].ToSide = false, Any
	apart := router.Route(s)[3]
	if d := together(apart.Points, courses[0].Points); d > 0 {
		t.Errorf("the line that keeps apart runs on another for %d px", d/px)
	}
}

// Two lines between the same two symbols never merge into one that hides the other, and are as
// far apart as any others.
func TestTwoLinesBetweenTheSameSymbolsStayApart(t *testing.T) {
	for _, merge := range []bool{false, true} {
		s := sceneOf(boxAt(100, 100), boxAt(400, 100), boxAt(400, 400))
		for to := 1; to < 3; to++ {
			for range 2 {
				s.Links = append(s.Links, Link{From: 0, To: to, FromSide: Any, ToSide: Any, Merge: merge})
			}
		}
		var router Router
		courses := router.Route(s)
		check(t, &s, courses)
		for k := 0; k < len(courses); k += 2 {
			if d := together(courses[k].Points, courses[k+1].Points); d > 0 {
				t.Errorf("merging %v: lines %d and %d run on each other for %d px", merge, k, k+1, d/px)
			}
		}
	}
}

// together returns how long two lines run on each other.
func together(a, b geometry.Polyline) (sum int) {
	for i := 1; i < len(a); i++ {
		for k := 1; k < len(b); k++ {
			p, q := laidBetween(a[i-1], a[i], 0), laidBetween(b[k-1], b[k], 0)
			if p.upright == q.upright && p.pos == q.pos {
				sum += max(min(p.hi, q.hi)-max(p.lo, q.lo), 0)
			}
		}
	}
	return sum
}

// On scattered symbols with room between them: lines that merge cut nothing, and lie on each other only where they lead
// into the same symbol.
func TestMergingLinesShareOnlyTheirEnds(t *testing.T) {
	var router Router
	for seed := range 400 {
		r := rand.New(rand.NewPCG(uint64(seed), 31))
		most := 12
		if seed%10 == 0 {
			most = 40
		}
		s := sceneOf(scatterApart(r, 3+r.IntN(most), 4800, 10*hard)...)
		randomLinks(r, &s, 2+r.IntN(most))
		for i := range s.Links {
			s.Links[i].Merge = r.IntN(4) > 0
		}
		courses := router.Route(s)
		check(t, &s, courses)
		shared := 0
		for i := range courses {
			for k := range i {
				if !s.merge(i, k) {
					shared += together(courses[i].Points, courses[k].Points)
				}
			}
		}
		if shared > 0 {
			t.Errorf("seed %d: lines that do not merge run on each other for %d px", seed, shared/px)
		}
	}
}
