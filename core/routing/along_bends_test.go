package routing

import (
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
)

// On a large sheet a way with bends laid by hand travels along them in their order,
// from corner to corner where one can, and then by the cheapest two sides: all
// pairs of sides are tried, and counted without the router's cells.
func TestLaidBendsAreFollowedFromCornerToCorner(t *testing.T) {
	direct := 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 31))
		s := sceneOf(scatter(r, smallScene+6+r.IntN(20), 6000)...)
		randomLinks(r, &s, 8)
		l := &s.Links[len(s.Links)-1]
		upright := r.IntN(2) == 0
		for range 1 + r.IntN(3) {
			l.Bends = append(l.Bends, Bend{Upright: upright, At: r.IntN(2000) * px})
			upright = !upright
		}
		var router Router
		router.prepare(s)
		router.ports = make([][4]port, len(s.Boxes))
		mine := len(s.Links) - 1
		for _, i := range router.work.order {
			if i != mine {
				router.findFirst(i)
			}
		}
		want := -1
		for a := range geometry.Side(4) {
			for b := range geometry.Side(4) {
				if way := cornerWay(&router, l, a, b); way != nil {
					cost := way.Length() + bendPrice*way.Bends() + allMeetings(&router, way) +
						router.departure(l.From, a, l.departs()) + router.arrival(l.To, b, apart)
					if want < 0 || cost < want {
						want = cost
					}
				}
			}
		}
		if want < 0 {
			continue
		}
		direct++
		price := [2][4]int{}
		for sd := range geometry.Side(4) {
			price[0][sd], price[1][sd] = router.departure(l.From, sd, l.departs()), router.arrival(l.To, sd, apart)
		}
		router.findFirst(mine)
		got := &router.routes[mine]
		cost := got.points.Length() + bendPrice*got.points.Bends() + allMeetings(&router, got.points) +
			price[0][got.fromSide] + price[1][got.toSide]
		if got.bendsDropped || got.obstructed || cost != want {
			t.Fatalf("seed %d: the way %v along %v costs %d, the cheapest from corner to corner %d", seed, got.points,
				l.Bends, cost, want)
		}
		if !along(got.points, l.Bends) {
			t.Fatalf("seed %d: the way %v does not travel along %v", seed, got.points, l.Bends)
		}
		check(t, &s, router.Route(s))
	}
	if direct < 100 {
		t.Errorf("only %d ways can go from corner to corner", direct)
	}
}

// cornerWay returns the way from one side to another along the bends, nil where
// something is in the way or it would turn back.
func cornerWay(r *Router, l *Link, from, to geometry.Side) geometry.Polyline {
	front := func(box int, side geometry.Side) geometry.Point {
		p := r.scene.Glue[box][side]
		if side.Upright() {
			p.Y = r.lines[box][side]
		} else {
			p.X = r.lines[box][side]
		}
		return p
	}
	a, b := front(l.From, from), front(l.To, to)
	way := geometry.Polyline{a}
	x, y := a.X, a.Y
	for _, bend := range l.Bends {
		if bend.Upright {
			x = bend.At
		} else {
			y = bend.At
		}
		way = append(way, geometry.Point{X: x, Y: y})
	}
	if l.Bends[len(l.Bends)-1].Upright {
		y = b.Y
	} else {
		x = b.X
	}
	way = append(way, geometry.Point{X: x, Y: y}, b)
	for k := 1; k < len(way); k++ {
		for _, o := range r.scene.Boxes {
			if o.Grown(hard).CutBy(way[k-1], way[k]) {
				return nil
			}
		}
	}
	way = append(append(geometry.Polyline{r.scene.Glue[l.From][from]}, way...), r.scene.Glue[l.To][to])
	var last geometry.Point
	for k := 1; k < len(way); k++ {
		d := way[k].Sub(way[k-1])
		if d == (geometry.Point{}) {
			continue
		}
		if last.X*d.X < 0 || last.Y*d.Y < 0 {
			return nil
		}
		last = d
	}
	if way = way.Tidy(); !along(way, l.Bends) {
		return nil
	}
	return way
}

// along reports whether a way travels along the bends, one after the other.
func along(way geometry.Polyline, bends []Bend) bool {
	for k := 1; k < len(way) && len(bends) > 0; k++ {
		if p, q, b := way[k-1], way[k], bends[0]; b.Upright && p.X == b.At && q.X == b.At ||
			!b.Upright && p.Y == b.At && q.Y == b.At {
			bends = bends[1:]
		}
	}
	return len(bends) == 0
}

// allMeetings prices what a way meets, all segments compared with all.
func allMeetings(r *Router, way geometry.Polyline) int {
	sum := 0
	for i := range r.routes {
		other := r.routes[i].points
		if i == len(r.routes)-1 {
			continue
		}
		for k := 1; k < len(way); k++ {
			for j := 1; j < len(other); j++ {
				a, b := geometry.Between(way[k-1], way[k]), geometry.Between(other[j-1], other[j])
				switch {
				case (a.W == 0) == (b.W == 0):
					if a.W == 0 && a.X == b.X {
						sum += max(min(a.Bottom(), b.Bottom())-max(a.Y, b.Y), 0) / sharePrice
					} else if a.W > 0 && a.Y == b.Y {
						sum += max(min(a.Right(), b.Right())-max(a.X, b.X), 0) / sharePrice
					}
				case a.X < b.Right() && b.X < a.Right() && a.Y < b.Bottom() && b.Y < a.Bottom():
					sum += crossPrice
				}
			}
		}
	}
	return sum
}
