package routing

import (
	"cmp"
	"slices"

	"plaintracer/core/crossing"
	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// Hop is a crossing at which a course gives way to another.
type Hop struct {
	// Segment is the segment of the course, from its point of that number on.
	Stretch int
	At      geometry.Point
	// Over is the link that is crossed.
	Over int
}

// mostHops is how many crossings are marked on a sheet with very much on it. Where there are more none is: no eye could
// follow them.
const mostHops = 50_000

// hops gives courses their hops, with its memory kept from run to run.
type hops struct {
	finder crossing.Finder
	lines  []geometry.Polyline
	// fresh marks the courses that are new or have been moved.
	fresh []bool
	// tooMany says that there were more crossings than are marked.
	tooMany bool
}

// find gives every course its hops. A curve is only framed by its course: where
// one is concerned nothing hops.
func (h *hops) find(r *Router) {
	kept := false
	h.lines = h.lines[:0]
	for i := range r.out {
		kept = kept || !r.work.anew[i]
		h.lines = append(h.lines, r.out[i].Points)
	}
	var found []crossing.Crossing
	switch {
	case !kept:
		most, complete := 0, true
		if r.search.maxNodes > 0 {
			most = mostHops
		}
		for i := range r.out {
			r.out[i].Hops = r.out[i].Hops[:0]
		}
		found, complete = h.finder.All(h.lines, most)
		h.tooMany = !complete
	case !h.tooMany:
		found = h.changed(r)
	}
	for _, x := range found {
		if r.scene.Links[x.A].Curved || r.scene.Links[x.B].Curved {
			continue
		}
		r.out[x.A].Hops = append(r.out[x.A].Hops, Hop{x.SegmentA, x.At, x.B})
	}
	if kept {
		for i := range r.out {
			slices.SortStableFunc(r.out[i].Hops, func(a, b Hop) int {
				return cmp.Or(cmp.Compare(a.Stretch, b.Stretch), cmp.Compare(a.At.X, b.At.X),
					cmp.Compare(a.At.Y, b.At.Y),
					cmp.Compare(a.Over, b.Over))
			})
		}
	}
}

// changed finds only the crossings of the courses that are new or have been
// moved; the hops of the others over each other are kept.
func (h *hops) changed(r *Router) []crossing.Crossing {
	h.fresh = scratch.Resized(h.fresh, len(r.out))
	for i := range r.out {
		h.fresh[i] = r.work.anew[i] || r.inMotion(r.scene.Links[i].From)
	}
	for i := range r.out {
		if h.fresh[i] {
			r.out[i].Hops = r.out[i].Hops[:0]
			continue
		}
		r.out[i].Hops = slices.DeleteFunc(r.out[i].Hops, func(x Hop) bool { return h.fresh[x.Over] })
	}
	return h.finder.OfSome(h.lines, h.fresh, r.area)
}
