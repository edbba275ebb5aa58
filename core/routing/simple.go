package routing

import "plaintracer/core/geometry"

// simpleRoute looks for a way as cheap as any could be: as long as its ends are apart
// and with as few bends as their sides ask for. Of those that are free it takes the
// one that meets others least. Most connectors of a tidy sheet have one, and need no
// grid to be searched.
func (s *search) simpleRoute(r *Router, i int, w *route) bool {
	if s.onto != nil || len(s.bends) > 0 || s.exhaustive(r) {
		return false
	}
	s.findLowest()
	fewest := -1
	for a := range s.starts {
		for b := range s.goals {
			from, to := &s.starts[a], &s.goals[b]
			if s.leastCost(from, to) > s.lowest {
				continue
			}
			for late := range 2 {
				if !s.simplePath(from, to, late > 0) || !r.free(s.path[1:len(s.path)-1], hard) {
					continue
				}
				met := 0
				if !s.ignoreCrossings {
					met = r.crossingCostOf(s.path, i)
				}
				if fewest < 0 || met < fewest {
					fewest = met
					w.points = append(w.points[:0], s.path...)
					w.fromSide, w.toSide = from.side, to.side
				}
			}
		}
	}
	if fewest < 0 {
		return false
	}
	w.points = w.points.Tidy()
	s.total = s.lowest
	return true
}

// findLowest finds out what any way costs at least.
func (s *search) findLowest() {
	s.lowest = everywhere
	for a := range s.starts {
		for b := range s.goals {
			s.lowest = min(s.lowest, s.leastCost(&s.starts[a], &s.goals[b]))
		}
	}
}

// leastCost returns what a way from one terminal to another costs at least.
func (s *search) leastCost(from, to *terminal) int {
	if from.covered || to.covered {
		return everywhere
	}
	return from.cost + to.cost + from.at.Manhattan(to.at) + bendPrice*bendsToGo(from.at, from.side, to.at,
		to.side.Opposite())
}

// simplePath makes the path of fewest bends from one terminal to another without a
// detour, which turns as early as it can or as late, and reports whether there is one
// of at most two bends.
func (s *search) simplePath(from, to *terminal, late bool) bool {
	a, b := from.at, to.at
	corner := func(upright bool) geometry.Point {
		if upright {
			return geometry.Point{X: a.X, Y: b.Y}
		}
		return geometry.Point{X: b.X, Y: a.Y}
	}
	s.path = append(s.path[:0], from.glue, a)
	switch bendsToGo(a, from.side, b, to.side.Opposite()) {
	case 0:
		if late {
			return false
		}
	case 1:
		if late {
			return false
		}
		s.path = append(s.path, corner(from.side.Upright()))
	case 2:
		if from.side == to.side {
			// Out as far as the one that lies farther out, and back.
			beyond := b.Sub(a)
			ahead := beyond.X
			if from.side.Upright() {
				ahead = beyond.Y
			}
			if from.side == geometry.Left || from.side == geometry.Top {
				ahead = -ahead
			}
			if late != (ahead > 0) {
				return false
			}
		}
		s.path = append(s.path, corner(from.side.Upright() == late))
	default:
		return false
	}
	s.path = append(s.path, b, to.glue)
	return true
}
