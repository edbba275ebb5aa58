package routing

import (
	"math/rand/v2"
	"slices"
	"testing"

	"plaintracer/core/geometry"
)

// Leaving out lines of a grid, and looking only near the ends at first, hides no way: a
// course runs through a symbol exactly if there is no other way on all the lines there
// are.
func TestAWayIsFoundWhereThereIsOne(t *testing.T) {
	n := 40
	if testing.Short() {
		n = 8
	}
	free, shut, edges := 0, 0, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 41))
		s := sceneOf(heap(r, 50+r.IntN(40), 750+r.IntN(700))...)
		for i := range s.Boxes { // no two in line
			s.Boxes[i] = s.Boxes[i].Moved(geometry.Point{X: r.IntN(px), Y: r.IntN(px)})
			s.Glue[i] = glueOf(s.Boxes[i])
		}
		s.Meet = meet4(s.Glue)
		randomLinks(r, &s, 25)
		var router Router
		courses := copyOf(router.Route(s))
		router.search.exact = true
		for i := range s.Links {
			var w route
			router.search.find(&router, i, &w)
			if courses[i].Obstructed != w.obstructed {
				t.Fatalf("seed %d: link %d cuts %v, on all lines %v", seed, i, courses[i].Obstructed, w.obstructed)
			}
			switch {
			case w.obstructed:
				shut++
			case !router.free(w.points[1:len(w.points)-1], hard):
				edges++
			default:
				free++
			}
		}
	}
	if min(free, shut, edges) < n/2 {
		t.Errorf("only %d ways are free, %d run along edges and %d are enclosed", free, edges, shut)
	}
}

// What is known of a way before only saves time: the ways are the same when nothing is
// known, and when what is known is another's or out of date.
func TestWhatIsKnownMakesNoDifference(t *testing.T) {
	for seed := range 6 {
		r := rand.New(rand.NewPCG(uint64(seed), 42))
		s := big(60+r.IntN(60), 150, seed%2 == 0)
		var router Router
		router.Route(s)
		ways := func() (out []geometry.Polyline) {
			for i := range router.routes {
				out = append(out, slices.Clone(router.routes[i].points))
			}
			return out
		}
		want := ways()
		for round := range 3 {
			switch round {
			case 1:
				for i := range router.routes {
					router.routes[i].points = nil
				}
			case 2:
				rand.New(rand.NewPCG(uint64(seed), 43)).Shuffle(len(router.routes), func(i, j int) {
					router.routes[i], router.routes[j] = router.routes[j], router.routes[i]
				})
			}
			router.memory = memory{} // it is to find them, not to recall them
			router.Route(s)
			for i, way := range ways() {
				if !slices.Equal(way, want[i]) {
					t.Fatalf("seed %d, round %d: link %d runs along %v, not %v", seed, round, i, way, want[i])
				}
			}
		}
	}
}
