package score

import "testing"

// A drawing small enough to judge by hand: two boxes side by side, a third below,
// lines with a crossing, a bend, a shared stretch and one through a box.
func TestJudgement(t *testing.T) {
	d := Drawing{
		Nodes: []Box{{0, 0, 20, 20}, {100, 0, 20, 20}, {100, 100, 20, 20}, {0, 100, 20, 20}, {10, 10, 5, 5}},
		Edges: []Edge{
			{0, 1, []Point{{20, 10}, {60, 10}, {100, 10}}},               // straight, by a point that is no bend
			{3, 2, []Point{{20, 110}, {50, 110}, {50, 5}, {110, 5}}},     // up across the first, into box 1: two bends
			{0, 2, []Point{{10, 20}, {10, 130}, {110, 130}, {110, 120}}}, // through box 3
			{3, 1, []Point{{20, 110}, {45, 110}}},                        // lies on the second, which it is related to
			{4, 1, []Point{{60, 10}, {90, 10}}},                          // lies on the first, which it is related to
			{4, 3, []Point{{60, 10}, {80, 10}}},                          // lies on the first, a stranger
		},
	}
	s := Of(d)
	want := Score{Crossings: 1, Bends: 4, Hits: 2, Overlaps: 1, Shared: 1, Touching: 2,
		Length: 80 + 195 + 220 + 25 + 30 + 20, Width: 120, Height: 130, Area: 120 * 130}
	if s != want {
		t.Errorf("judged %+v, by hand %+v", s, want)
	}
}
