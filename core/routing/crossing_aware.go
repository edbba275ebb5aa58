package routing

import "plaintracer/core/geometry"

// bySweeps reports whether ways are found by sweeps, which know nothing of bends laid by
// hand.
func (s *search) bySweeps(r *Router) bool {
	return !s.exhaustive(r) && !s.inMotion && len(s.bends) == 0
}

// aroundCrossings finds the way that is cheapest together with what it pays for meeting the ways
// found so far, by sweeps: the cheapest on the lines of a window round the ends, or of
// the first larger one in which there is any. It reports whether there is one.
func (s *search) aroundCrossings(r *Router, i int, w *route, gap int) bool {
	known := s.knownCost(r, i, w, gap)
	for reach := s.detour(); ; {
		window := s.ends().Grown(reach)
		s.seen = s.seen.Union(window)
		whole := s.gather(r, window, gap)
		if whole { // it counts that nothing lies beyond
			s.seen = s.seen.Grown(everywhere)
		}
		if s.tooLarge {
			return false
		}
		noWay := s.enclosed(s.goals, s.starts, fewNodes)
		if !noWay && s.sweepBelow(r, i, known, w) {
			s.explored = s.explored.Union(w.points.Bounds())
			return true
		}
		if !whole || s.thinned { // a line that is not there may be the only one
			more := false
			if more, noWay = s.refine(); more {
				s.seen = s.seen.Grown(everywhere)
				continue
			}
			if whole && !noWay {
				s.fine = true
				continue
			}
		}
		if noWay || whole {
			return false
		}
		reach *= 2
	}
}

// sweepBelow sweeps the gathered grid for a way that costs hardly more than one that is
// known, and for any if there is none. What is known makes it faster and no difference
// to the way.
func (s *search) sweepBelow(r *Router, i, known int, w *route) (ok bool) {
	s.priceEdges(r, i)
	if known > 0 {
		s.bound = known + worthwhile
		s.total, ok = s.sweep(w)
	}
	if s.bound = 0; !ok {
		s.total, ok = s.sweep(w)
	}
	s.explored = s.explored.Union(s.visited)
	return ok
}

// knownCost returns what the way that w holds costs, if it is one for the ends as they are
// and for the symbols about; else zero.
func (s *search) knownCost(r *Router, i int, w *route, gap int) int {
	n := len(w.points)
	if n < 2 {
		return 0
	}
	holds := func(list []terminal, side geometry.Side, glue geometry.Point) *terminal {
		for k := range list {
			if t := &list[k]; t.side == side && t.glue == glue && !t.covered {
				return t
			}
		}
		return nil
	}
	from, to := holds(s.starts, w.fromSide, w.points[0]), holds(s.goals, w.toSide, w.points[n-1])
	if from == nil || to == nil {
		return 0
	}
	s.path = append(append(append(s.path[:0], from.at), w.points[1:n-1]...), to.at)
	for k := 1; k < len(s.path); k++ {
		if s.path[k].X != s.path[k-1].X && s.path[k].Y != s.path[k-1].Y {
			return 0
		}
	}
	if !r.free(s.path, gap) {
		return 0
	}
	return s.cost(w) + r.crossingCostOf(w.points, i)
}

// cost returns what a way costs, but for what it meets.
func (s *search) cost(w *route) int {
	sum := w.points.Length() + bendPrice*w.points.Bends()
	for _, t := range s.starts {
		if t.side == w.fromSide {
			sum += t.price
		}
	}
	for _, t := range s.goals {
		if t.side == w.toSide && t.glue == w.points[len(w.points)-1] {
			sum += t.price
		}
	}
	return sum
}
