package hierarchy_test

import (
	"encoding/json"
	"fmt"
	"math/rand"
	"os"
	"slices"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
)

const px = geometry.Px

var usual = hierarchy.Settings{Apart: hierarchy.Apart, Gap: hierarchy.Gap, Indent: hierarchy.Indent}

// made is a made-up hierarchy.
func made(r *rand.Rand, n int, even bool) []hierarchy.Node {
	nodes := make([]hierarchy.Node, n)
	for i := range nodes {
		nodes[i] = hierarchy.Node{W: 180 * px, H: 56 * px, Under: -1}
		if !even {
			nodes[i].W, nodes[i].H = (60+r.Intn(200))*px, (30+r.Intn(90))*px
		}
		if i > 0 {
			nodes[i].Under = r.Intn(i)
			if r.Intn(2) == 0 {
				nodes[i].Under = r.Intn(1 + i/4)
			}
		}
	}
	return nodes
}

// any gives a hierarchy arrangements, assistants and folded branches at random.
func anyhow(r *rand.Rand, nodes []hierarchy.Node) {
	pick := func() hierarchy.Arrangement {
		if r.Intn(4) > 0 {
			return ""
		}
		return hierarchy.Arrangements[r.Intn(len(hierarchy.Arrangements))]
	}
	for i := range nodes {
		nodes[i].Below, nodes[i].Last = pick(), pick()
		nodes[i].Assistant = r.Intn(8) == 0
		nodes[i].Folded = r.Intn(20) == 0
	}
}

func boxOf(c *hierarchy.Chart, nodes []hierarchy.Node, i int) geometry.Box {
	return geometry.Around(c.Centre[i], nodes[i].W, nodes[i].H)
}

// faults returns what is wrong with a chart: cards that lie on each other, lines that run through a card or are not
// level or upright, ways that do not lead from the superior to the card.
func faults(c *hierarchy.Chart, nodes []hierarchy.Node) (list []string) {
	var seen []int
	for i := range nodes {
		if !c.Hidden[i] {
			seen = append(seen, i)
		}
	}
	for k, i := range seen {
		for _, j := range seen[k+1:] {
			if boxOf(c, nodes, i).Grown(-1).Meets(boxOf(c, nodes, j).Grown(-1)) {
				list = append(list, fmt.Sprintf("the cards %d and %d lie on each other", i, j))
			}
		}
		way := c.Way(i)
		if nodes[i].Under < 0 {
			continue
		}
		up := boxOf(c, nodes, nodes[i].Under).Grown(1)
		if len(way) < 2 || !up.Contains(way[0]) {
			list = append(list, fmt.Sprintf("the line to %d does not begin at %d", i, nodes[i].Under))
		}
		for _, line := range [][]geometry.Point{c.Stem(i), c.Drop(i), way} {
			for k := 1; k < len(line); k++ {
				if line[k].X != line[k-1].X && line[k].Y != line[k-1].Y {
					list = append(list, fmt.Sprintf("a line at %d slants", i))
				}
				for _, j := range seen {
					if boxOf(c, nodes, j).Grown(-px).Touches(line[k-1], line[k]) {
						list = append(list, fmt.Sprintf("a line at %d runs through %d", i, j))
					}
				}
			}
		}
	}
	return list
}

func TestNothingLiesOnAnythingHoweverItStands(t *testing.T) {
	rounds := 3000
	if testing.Short() {
		rounds = 600
	}
	for seed := range rounds {
		r := rand.New(rand.NewSource(int64(seed)))
		nodes := made(r, 1+r.Intn(40), r.Intn(2) == 0)
		anyhow(r, nodes)
		set := usual
		set.Level = r.Intn(3) == 0
		if r.Intn(2) == 0 {
			set.Below = hierarchy.Arrangements[r.Intn(len(hierarchy.Arrangements))]
		}
		if list := faults(hierarchy.Place(nodes, set, nil), nodes); len(list) > 0 {
			t.Fatalf("seed %d, %d cards, %+v: %s\n%+v", seed, len(nodes), set, list[0], nodes)
		}
	}
}

// The charts of two packages of the npm registry, of trees made up beside them (testdata/trees.mjs): the cards stand in
// the same order and on the same heights, each superior in the middle between the outer edges of the first and the last
// under it, and no chart is wider.
func TestChartsAreNoWiderThanOfOthers(t *testing.T) {
	raw, err := os.ReadFile("testdata/trees.json")
	if err != nil {
		t.Fatal(err)
	}
	var cases []struct {
		By                string
		Under, W, H, X, Y []int
	}
	if err := json.Unmarshal(raw, &cases); err != nil || len(cases) < 40 {
		t.Fatalf("%d cases: %v", len(cases), err)
	}
	narrower := 0
	for n, c := range cases {
		nodes := make([]hierarchy.Node, len(c.Under))
		for i := range nodes {
			nodes[i] = hierarchy.Node{W: c.W[i] * px, H: c.H[i] * px, Under: c.Under[i]}
		}
		chart := hierarchy.Place(nodes, usual, nil)
		if list := faults(chart, nodes); len(list) > 0 {
			t.Errorf("case %d: %s", n, list[0])
		}
		width := func(x func(i int) int) int {
			lo, hi := 0, 0
			for i := range nodes {
				lo, hi = min(lo, x(i)-nodes[i].W/2-x(0)), max(hi, x(i)+nodes[i].W/2-x(0))
			}
			return hi - lo
		}
		ours, theirs := width(func(i int) int { return chart.Centre[i].X }), width(func(i int) int { return c.X[i] })
		if ours > theirs+px {
			t.Errorf("case %d, %d cards: %d px wide, by %s %d", n, len(nodes), ours/px, c.By, theirs/px)
		} else if ours < theirs-px {
			narrower++
		}
		for i := range nodes {
			top := chart.Centre[i].Y - nodes[i].H/2 - (chart.Centre[0].Y - nodes[0].H/2)
			if geometry.Abs(top-(c.Y[i]-c.Y[0])) > px {
				t.Errorf("case %d: card %d begins at %d, by %s at %d", n, i, top, c.By, c.Y[i]-c.Y[0])
			}
			under := chart.Under[i]
			if len(under) == 0 {
				continue
			}
			byX := slices.Clone(under)
			slices.SortFunc(byX, func(a, b int) int { return c.X[a] - c.X[b] })
			if !slices.Equal(byX, under) || !slices.IsSortedFunc(under, func(a, b int) int {
				return chart.Centre[a].X - chart.Centre[b].X
			}) {
				t.Errorf("case %d: those under %d stand in another order", n, i)
			}
			first, last := under[0], under[len(under)-1]
			m := (chart.Centre[first].X - nodes[first].W/2 + chart.Centre[last].X + nodes[last].W/2) / 2
			if geometry.Abs(m-chart.Centre[i].X) > px {
				t.Errorf("case %d: card %d stands %d beside the middle of those under it", n, i, chart.Centre[i].X-m)
			}
			if m := (c.X[first] - nodes[first].W/2 + c.X[last] + nodes[last].W/2) / 2; geometry.Abs(m-c.X[i]) > px {
				t.Errorf("case %d: %s sets card %d %d beside that middle", n, c.By, i, c.X[i]-m)
			}
		}
	}
	t.Logf("%d of %d charts are narrower", narrower, len(cases))
}

// A hierarchy that is the mirror image of another one is drawn as its mirror image, but for the rounding.
func TestMirrorImagesAreDrawnAsMirrorImages(t *testing.T) {
	for seed := range 60 {
		r := rand.New(rand.NewSource(int64(seed)))
		nodes := made(r, 2+r.Intn(60), true)
		n := len(nodes)
		// The same cards in the opposite order; superiors may then stand behind those under them.
		mirrored := make([]hierarchy.Node, n)
		for i, nd := range nodes {
			if nd.Under >= 0 {
				nd.Under = n - 1 - nd.Under
			}
			mirrored[n-1-i] = nd
		}
		a, b := hierarchy.Place(nodes, usual, nil), hierarchy.Place(mirrored, usual, nil)
		for i := range nodes {
			x, y := a.Centre[i].X-a.Centre[0].X, b.Centre[n-1-i].X-b.Centre[n-1].X
			if geometry.Abs(x+y) > px {
				t.Fatalf("seed %d: card %d stands at %d, its mirror image at %d", seed, i, x, y)
			}
		}
	}
}

// Superiors that lead round in a circle take nothing away: every card stands somewhere.
func TestCirclesAreCut(t *testing.T) {
	nodes := []hierarchy.Node{{W: px, H: px, Under: 2}, {W: px, H: px, Under: 0}, {W: px, H: px, Under: 1},
		{W: px, H: px, Under: 1}, {W: px, H: px, Under: 3}}
	c := hierarchy.Place(nodes, usual, nil)
	if want := []int{0, 1, 2, 2, 3}; !slices.Equal(c.Level, want) {
		t.Errorf("levels %v, want %v", c.Level, want)
	}
}

// What is folded is hidden, and leaves no room.
func TestFoldedBranchesTakeNoRoom(t *testing.T) {
	r := rand.New(rand.NewSource(1))
	nodes := made(r, 50, true)
	nodes[0].Folded = true
	c := hierarchy.Place(nodes, usual, nil)
	for i := 1; i < len(nodes); i++ {
		if !c.Hidden[i] || c.Centre[i] != c.Centre[0] {
			t.Fatalf("card %d is at %v, hidden %v", i, c.Centre[i], c.Hidden[i])
		}
	}
}

// A chart that takes over what it can from an earlier one is the same as one made afresh.
func TestTakingOverChangesNothing(t *testing.T) {
	for seed := range 200 {
		r := rand.New(rand.NewSource(int64(seed)))
		nodes := made(r, 2+r.Intn(40), false)
		anyhow(r, nodes)
		for i := range nodes {
			nodes[i].ID = fmt.Sprint("c", i)
		}
		set := usual
		set.Level = r.Intn(3) == 0
		var chart *hierarchy.Chart
		for range 6 {
			chart = hierarchy.Place(nodes, set, chart)
			fresh := hierarchy.Place(nodes, set, nil)
			for i := range nodes {
				if chart.Centre[i] != fresh.Centre[i] || !slices.Equal(chart.Stem(i), fresh.Stem(i)) ||
					!slices.Equal(chart.Drop(i), fresh.Drop(i)) || !slices.Equal(chart.Way(i), fresh.Way(i)) {
					t.Fatalf("seed %d: card %d stands at %v, afresh at %v", seed, i, chart.Centre[i], fresh.Centre[i])
				}
			}
			i := r.Intn(len(nodes))
			switch r.Intn(4) {
			case 0:
				nodes[i].H += 10 * px
			case 1:
				nodes[i].Folded = !nodes[i].Folded
			case 2:
				nodes[i].Below = hierarchy.Arrangements[r.Intn(len(hierarchy.Arrangements))]
			default:
				if i > 0 {
					nodes[i].Under = r.Intn(i)
				}
			}
		}
	}
}

func BenchmarkPlace1000Cards(b *testing.B) {
	nodes := made(rand.New(rand.NewSource(1)), 1000, false)
	for b.Loop() {
		hierarchy.Place(nodes, usual, nil)
	}
}

// A branch of some 200 of 1,000 cards goes to and fro between two places, as in a drag.
func BenchmarkMoveABranchOf1000Cards(b *testing.B) {
	nodes := made(rand.New(rand.NewSource(1)), 1000, true)
	for i := range nodes {
		nodes[i].ID = fmt.Sprint("c", i)
	}
	chart := hierarchy.Place(nodes, usual, nil)
	size := make([]int, len(nodes))
	for i := len(nodes) - 1; i > 0; i-- {
		size[i]++
		size[nodes[i].Under] += size[i]
	}
	at := 1
	for i := range nodes {
		if geometry.Abs(size[i]-200) < geometry.Abs(size[at]-200) {
			at = i
		}
	}
	b.Logf("a branch of %d", size[at])
	was := nodes[at].Under
	for i := 0; b.Loop(); i++ {
		if nodes[at].Under = was; i%2 == 0 {
			nodes[at].Under = 0
		}
		chart = hierarchy.Place(nodes, usual, chart)
	}
}
