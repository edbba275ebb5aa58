package arrange

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Close returns the edits that close the hole a step leaves between two others, which stand on either side of it in one
// row or column: the one beyond takes its place, and all that stands beyond moves back with it, as far as nothing comes
// closer to anything than the usual gap, or than it is. A pool that lies on the paper keeps its length. There are none
// where the three do not stand so, or nothing can move.
func Close(s *model.Sheet, gone, from, to *model.Symbol) []edit.Edit {
	rest := *s
	rest.Symbols = slices.DeleteFunc(slices.Clone(s.Symbols), func(sym *model.Symbol) bool { return sym == gone })
	for _, down := range [...]bool{false, true} {
		across := !down
		near, far := from, to
		if begin(near.Box, across) > begin(far.Box, across) {
			near, far = far, near
		}
		if !overlap(far.Box, gone.Box, !across) || begin(far.Box, across) < end(gone.Box, across) ||
			begin(near.Box, across) > begin(gone.Box, across) || down && !sameLane(s, gone, far) {
			continue
		}
		at := end(gone.Box, across)
		by := min(begin(far.Box, across)-begin(gone.Box, across), clearance(&rest, across, at))
		if by = by / Grid * Grid; by <= 0 {
			return nil
		}
		edits := []edit.Edit{&edit.OpenSpace{Sheet: s.ID, Down: down, At: at, By: -by}}
		for _, p := range s.Pools {
			if w := p.W; down == p.Down && begin(p.Box(), across) < at && end(p.Box(), across) > at &&
				s.Page().Holds(p.Box()) {
				edits = append(edits, &edit.SetPool{Sheet: s.ID, Pool: p.ID, W: &w})
			}
		}
		return edits
	}
	return nil
}

// sameLane reports whether two symbols stand in one lane, or in none.
func sameLane(s *model.Sheet, a, b *model.Symbol) bool {
	pool, k := s.LaneAt(a.Centre())
	other, l := s.LaneAt(b.Centre())
	return pool == other && k == l
}

// clearance returns by how much all that stands beyond a coordinate can move back to it, without coming closer to what
// stands before it than the usual gap, or than it is.
func clearance(s *model.Sheet, across bool, at int) int {
	free := Closable(s, !across, at)
	for _, b := range s.Symbols {
		if middle(b.Box, across) < at || symbols.Of(b.Kind).Hollow {
			continue
		}
		for _, a := range s.Symbols {
			if middle(a.Box, across) < at && !symbols.Of(a.Kind).Hollow && overlap(a.Box, b.Box, !across) {
				gap := begin(b.Box, across) - end(a.Box, across)
				free = min(free, gap-min(gap, Gap))
			}
		}
	}
	return max(free, 0)
}
