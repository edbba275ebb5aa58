package routing

import (
	"math/rand/v2"
	"slices"
	"testing"

	"plaintracer/core/geometry"
)

// Sweeps find ways as cheap as Dijkstra's over the complete grid, in sight of those
// found before; and none that costs as much as the bound.
func TestSweepsEqualDijkstra(t *testing.T) {
	n := 80
	if testing.Short() {
		n = 15
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 31))
		s := sceneOf(scatter(r, 3+r.IntN(20), 1800)...)
		router := prepared(r, &s, 2+r.IntN(6))
		for _, i := range router.work.order {
			g := gridOf(router, &s, s.Links[i])
			g.own = i
			want := g.cheapest()
			find, l, w := &router.search, &s.Links[i], &router.routes[i]
			find.starts = find.terminals(find.starts[:0], router, l.From, l.FromSide, l.FromAt, l.departs(),
				router.departure)
			find.goals = find.terminals(find.goals[:0], router, l.To, l.ToSide, l.ToAt, apart, router.arrival)
			if !router.uncover(find.starts, hard) || !router.uncover(find.goals, hard) {
				t.Fatalf("seed %d: an end is covered", seed)
			}
			find.gather(router, geometry.Box{}.Grown(everywhere), hard)
			find.priceEdges(router, i)
			cost, ok := find.sweep(w)
			if !ok {
				t.Fatalf("seed %d: no way found", seed)
			}
			if price := g.price(w.points); price != want || cost != want+find.starts[0].price+find.goals[0].price {
				t.Fatalf("seed %d: the way %v costs %d and is said to cost %d, the cheapest %d", seed, w.points, price,
					cost, want)
			}
			if !find.visited.Holds(w.points[1 : len(w.points)-1].Bounds()) {
				t.Fatalf("seed %d: the way %v was found in %v", seed, w.points, find.visited)
			}
			way := slices.Clone(w.points)
			if find.bound = cost + 1; !second(find.sweep(w)) || !slices.Equal(way, w.points) {
				t.Fatalf("seed %d: below a bound just above its cost there is no way, or another", seed)
			}
			if find.bound = cost; second(find.sweep(w)) {
				t.Fatalf("seed %d: a way costs less than %d", seed, cost)
			}
			find.bound = 0
			router.occupy(i)
		}
	}
}

func second(_ int, ok bool) bool { return ok }
