package crossing

import (
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
)

// lines makes lines of a few segments each, level, upright and slanting.
func lines(r *rand.Rand, n int) (out []geometry.Polyline) {
	for range n {
		at := geometry.Point{X: r.IntN(400), Y: r.IntN(400)}
		line := geometry.Polyline{at}
		for range 1 + r.IntN(4) {
			switch r.IntN(5) {
			case 0:
				at = geometry.Point{X: r.IntN(400), Y: r.IntN(400)}
			case 1, 2:
				at.X = r.IntN(400)
			default:
				at.Y = r.IntN(400)
			}
			line = append(line, at)
		}
		out = append(out, line)
	}
	return out
}

// side tells by exact arithmetic on which side of a line through p and q a point lies.
func side(p, q, a geometry.Point) int {
	d := (q.X-p.X)*(a.Y-p.Y) - (q.Y-p.Y)*(a.X-p.X)
	switch {
	case d > 0:
		return 1
	case d < 0:
		return -1
	}
	return 0
}

// pairs counts by every pair of segments of different lines how often the two lines cross: the ends of each segment lie
// strictly on different sides of the other.
func pairs(lines []geometry.Polyline) map[[2]int]int {
	out := map[[2]int]int{}
	for i, a := range lines {
		for j, b := range lines[:i] {
			for k := 1; k < len(a); k++ {
				for l := 1; l < len(b); l++ {
					p, q, u, v := a[k-1], a[k], b[l-1], b[l]
					if side(p, q, u)*side(p, q, v) < 0 && side(u, v, p)*side(u, v, q) < 0 {
						out[[2]int{j, i}]++
					}
				}
			}
		}
	}
	return out
}

func counted(found []Crossing) map[[2]int]int {
	out := map[[2]int]int{}
	for _, x := range found {
		out[[2]int{min(x.A, x.B), max(x.A, x.B)}]++
	}
	return out
}

func same(a, b map[[2]int]int) bool {
	for k, n := range a {
		if b[k] != n {
			return false
		}
	}
	return len(a) == len(b)
}

// The sweep finds what a look at every pair finds, and so does looking at some lines only; of a level and an upright
// line the level one gives way.
func TestAllCrossingsAreFound(t *testing.T) {
	var finder Finder
	total := 0
	for seed := range 200 {
		r := rand.New(rand.NewPCG(uint64(seed), 7))
		list := lines(r, 2+r.IntN(20))
		want := pairs(list)
		found, complete := finder.All(list, 0)
		if !complete || !same(counted(found), want) {
			t.Fatalf("seed %d: found %v, there are %v", seed, counted(found), want)
		}
		for _, x := range found {
			a, b := list[x.A][x.SegmentA:x.SegmentA+2], list[x.B][x.SegmentB:x.SegmentB+2]
			if a[0].X == a[1].X && b[0].Y == b[1].Y {
				t.Fatalf("seed %d: the upright line %d gives way to %d", seed, x.A, x.B)
			}
			if !geometry.Between(a[0], a[1]).Grown(1).Holds(geometry.Box{X: x.At.X, Y: x.At.Y}) {
				t.Fatalf("seed %d: %v does not lie on its line", seed, x)
			}
		}
		total += len(found)
		if len(found) > 1 {
			if some, complete := finder.All(list, len(found)-1); complete || len(some) != 0 {
				t.Fatalf("seed %d: of more than are asked for %d are returned", seed, len(some))
			}
		}
		fresh := make([]bool, len(list))
		for i := range fresh {
			fresh[i] = r.IntN(3) == 0
		}
		for k := range want {
			if !fresh[k[0]] && !fresh[k[1]] {
				delete(want, k)
			}
		}
		if got := counted(finder.OfSome(list, fresh, geometry.Box{W: 300, H: 300})); !same(got, want) {
			t.Fatalf("seed %d: of some lines found %v, there are %v", seed, got, want)
		}
	}
	if total < 1000 {
		t.Errorf("only %d crossings in all", total)
	}
}
