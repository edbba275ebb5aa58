package routing

import "plaintracer/core/geometry"

// bendRoute takes, for a link with bends laid by hand, the cheapest of the ways that go
// from corner to corner along them, of which there is one for every two sides.
// On a large sheet a search would look at much more, and long lines at too
// little of what they cross. It reports whether there is one that is free.
func (s *search) bendRoute(r *Router, i int, w *route) bool {
	best := -1
	for k := 1; k < len(s.bends); k++ {
		if s.bends[k].Upright == s.bends[k-1].Upright {
			return false // how it goes from one to the other is open
		}
	}
	s.seen = s.seen.Union(s.ends().Grown(Clearance))
	s.explored = s.seen
	for a := range s.starts {
		for b := range s.goals {
			from, to := &s.starts[a], &s.goals[b]
			if best >= 0 && from.cost+to.cost >= best || !s.pathAlongBends(from, to) ||
				!r.free(s.path[1:len(s.path)-1], hard) {
				continue
			}
			s.path = s.path.Tidy()
			cost := from.price + to.price + s.path.Length() + bendPrice*s.path.Bends() + r.crossingCostOf(s.path, i)
			if best < 0 || cost < best {
				best = cost
				w.points = append(w.points[:0], s.path...)
				w.fromSide, w.toSide = from.side, to.side
			}
		}
	}
	return best >= 0
}

// pathAlongBends makes the path from one terminal to the other along the bends, and
// reports whether it travels along each of them without turning back.
func (s *search) pathAlongBends(from, to *terminal) bool {
	s.path = append(s.path[:0], from.glue, from.at)
	at := from.at
	for _, b := range s.bends {
		if b.Upright {
			at.X = b.At
		} else {
			at.Y = b.At
		}
		s.path = append(s.path, at)
	}
	if s.bends[len(s.bends)-1].Upright {
		at.Y = to.at.Y
	} else {
		at.X = to.at.X
	}
	s.path = append(s.path, at, to.at, to.glue)
	for k := range s.bends { // its segment begins at the corner after it
		if s.path[k+2] == s.path[k+3] {
			return false
		}
	}
	dir, first := geometry.Point{}, true
	for k := 1; k < len(s.path); k++ {
		d := s.path[k].Sub(s.path[k-1])
		if d == (geometry.Point{}) {
			continue
		}
		if !first && (dir.X*d.X < 0 || dir.Y*d.Y < 0) {
			return false
		}
		dir, first = d, false
	}
	return true
}

// free reports whether a way keeps so far away from all symbols.
func (r *Router) free(way geometry.Polyline, gap int) bool {
	for k := 1; k < len(way); k++ {
		for _, j := range r.ground.boxes.Near(geometry.Between(way[k-1], way[k]).Grown(gap)) {
			if !r.scene.open(int(j)) && r.scene.Boxes[j].Grown(gap).CutBy(way[k-1], way[k]) {
				return false
			}
		}
	}
	return true
}
