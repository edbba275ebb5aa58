package routing

import (
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
)

// heap returns boxes that lie on each other anyhow.
func heap(r *rand.Rand, n, spread int) (boxes []geometry.Box) {
	for range n {
		boxes = append(boxes, boxAt(r.IntN(spread), r.IntN(spread)))
	}
	return boxes
}

// Two places are in one region exactly if one can be reached from the other from
// grid point to grid point, stepping into no box: held against a search of all
// points. Boxes that only touch leave a way between them.
func TestRegionsAreWhatCanBeReached(t *testing.T) {
	const size = 40
	holes, parted := 0, 0
	for seed := range 1000 {
		r := rand.New(rand.NewPCG(uint64(seed), 31))
		var s Scene
		for range 8 + r.IntN(16) {
			s.Boxes = append(s.Boxes,
				geometry.Box{X: 2 + r.IntN(size-24), Y: 2 + r.IntN(size-24), W: 2 + r.IntN(19),
					H: 2 + r.IntN(4)}.Turned(r.IntN(2) == 0))
		}
		s.Glue = make([][4]geometry.Point, len(s.Boxes))
		if seed%3 == 0 {
			s.Open = []bool{true, false, true}
		}
		gap := r.IntN(2)
		var router Router
		router.prepare(s)
		var g regions
		g.build(&router, gap)
		var reached [size][size]int // the number of the first point from which it was
		number := 0
		free := func(x, y int) bool {
			for i, b := range s.Boxes {
				if b := b.Grown(gap); !s.open(i) && b.X < x && x < b.Right() && b.Y < y && y < b.Bottom() {
					return false
				}
			}
			return true
		}
		var walk func(x, y int)
		walk = func(x, y int) {
			if x < 0 || y < 0 || x >= size || y >= size || reached[x][y] != 0 || !free(x, y) {
				return
			}
			reached[x][y] = number
			walk(x-1, y)
			walk(x+1, y)
			walk(x, y-1)
			walk(x, y+1)
		}
		for x := range size {
			for y := range size {
				if reached[x][y] == 0 && free(x, y) {
					number++
					walk(x, y)
				}
			}
		}
		holes += number - 1
		for range 300 {
			x0, y0, x1, y1 := r.IntN(size), r.IntN(size), r.IntN(size), r.IntN(size)
			a, b := reached[x0][y0], reached[x1][y1]
			if a == 0 || b == 0 {
				continue
			}
			p, q := geometry.Point{X: x0, Y: y0}, geometry.Point{X: x1, Y: y1}
			if (g.at(p) == g.at(q)) != (a == b) {
				t.Fatalf("seed %d: %v and %v are in regions %d and %d, but in %d and %d of the points, with %v", seed,
					p, q, g.at(p), g.at(q), a, b, s.Boxes)
			}
			if a != b {
				parted++
			}
		}
	}
	if holes < 100 || parted < 500 {
		t.Errorf("only %d holes and %d pairs of places that are parted", holes, parted)
	}
}

// A symbol that others wall in is not sought a way to everywhere: it is led to
// straight through them, and said to be.
func TestWhatIsWalledInIsReachedThroughTheWall(t *testing.T) {
	var boxes []geometry.Box
	for i := range 8 { // a ring of boxes that overlap, round the first
		boxes = append(boxes, boxAt(1000+i*100, 1000), boxAt(1000+i*100, 1520))
		boxes = append(boxes, boxAt(1000, 1000+i*65), boxAt(1700, 1000+i*65))
	}
	s := sceneOf(append([]geometry.Box{boxAt(1350, 1260), boxAt(2400, 1260)}, boxes...)...)
	s.Links = []Link{link(0, 1)}
	var r Router
	c := r.Route(s)[0]
	if !c.Obstructed {
		t.Error("it found a way through a closed wall: ", c.Points)
	}
	if r.search.expanded > 500 {
		t.Errorf("it looked at %d states", r.search.expanded)
	}
	s.Boxes, s.Glue = s.Boxes[:len(s.Boxes)-1], s.Glue[:len(s.Glue)-1]
	s.Boxes, s.Glue = append(s.Boxes[:2:2], s.Boxes[12:]...), append(s.Glue[:2:2], s.Glue[12:]...)
	s.Reach = s.Reach[:len(s.Boxes)]
	s.Meet = meet4(s.Glue)
	if c := r.Route(s)[0]; c.Obstructed || cuts(c.Points[1:len(c.Points)-1], s.Boxes[4]) {
		t.Error("it found no way through a wall with a door: ", c.Points)
	}
}
