// Package arrange puts symbols in their places: in line, evenly spaced, next
// to each other, and large enough for their text.
package arrange

import (
	"cmp"
	"slices"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

const px = geometry.Px

// Grid is the step of the grid and of a nudge.
const Grid = 10 * px

// Gap is the space between a step and the next one.
const Gap = 40 * px

// Edge names what boxes are lined up by.
type Edge string

// The six ways to align.
const (
	Left   Edge = "left"
	Centre Edge = "centre"
	Right  Edge = "right"
	Top    Edge = "top"
	Middle Edge = "middle"
	Bottom Edge = "bottom"
)

// Edges lists the ways to align.
var Edges = []Edge{Left, Centre, Right, Top, Middle, Bottom}

// Align returns the places that line the boxes up by an edge with the last of
// them, which stays. Places that do not change are left out.
func Align(boxes []diagram.Place, by Edge) []diagram.Place {
	if len(boxes) == 0 {
		return nil
	}
	to := boxes[len(boxes)-1].Box
	var out []diagram.Place
	for _, p := range boxes {
		b := p.Box
		switch by {
		case Left:
			b.X = to.X
		case Centre:
			b.X = to.X + (to.W-b.W)/2
		case Right:
			b.X = to.Right() - b.W
		case Top:
			b.Y = to.Y
		case Middle:
			b.Y = to.Y + (to.H-b.H)/2
		case Bottom:
			b.Y = to.Bottom() - b.H
		}
		if b != p.Box {
			out = append(out, diagram.Place{ID: p.ID, Box: b})
		}
	}
	return out
}

// Distribute returns the places that make the gaps between the boxes equal,
// across or down, the outermost staying. What cannot be divided evenly is
// spread so that no two gaps differ by more than one hundredth of a pixel.
func Distribute(boxes []diagram.Place, across bool) []diagram.Place {
	if len(boxes) < 3 {
		return nil
	}
	start := func(b geometry.Box) int { return b.Y }
	size := func(b geometry.Box) int { return b.H }
	if across {
		start = func(b geometry.Box) int { return b.X }
		size = func(b geometry.Box) int { return b.W }
	}
	list := slices.Clone(boxes)
	slices.SortStableFunc(list, func(a, b diagram.Place) int {
		return cmp.Or(cmp.Compare(2*start(a.Box)+size(a.Box), 2*start(b.Box)+size(b.Box)), cmp.Compare(a.ID, b.ID))
	})
	last := len(list) - 1
	free := start(list[last].Box) - start(list[0].Box) - size(list[0].Box)
	for _, p := range list[1:last] {
		free -= size(p.Box)
	}
	var out []diagram.Place
	at := start(list[0].Box) + size(list[0].Box)
	for i, p := range list[1:last] {
		// The gaps up to here together, rounded once.
		gaps := geometry.FloorDiv(free*(i+1), last)
		b := p.Box
		if across {
			b.X = at + gaps
		} else {
			b.Y = at + gaps
		}
		at += size(b)
		if b != p.Box {
			out = append(out, diagram.Place{ID: p.ID, Box: b})
		}
	}
	return out
}

// Guide is a line that shows what a moving box has lined up with: along an
// edge or centre, or the equal gap between neighbours.
type Guide struct {
	From, To geometry.Point
	// Gap is the distance to be written on the line; zero for a plain guide.
	Gap int
}

// Snap returns how far the moving box has to be shifted to line up with the
// others, at most within by either axis, and the guides to show for it. Where
// nothing is near, the corner goes to the grid.
func Snap(box geometry.Box, others []geometry.Box, within int) (geometry.Point, []Guide) {
	dx, okX := snapAxis(box.X, box.W, others, within, true)
	dy, okY := snapAxis(box.Y, box.H, others, within, false)
	if !okX {
		if g, ok := gapSnap(box, others, within, true); ok {
			dx, okX = g, true
		}
	}
	if !okY {
		if g, ok := gapSnap(box, others, within, false); ok {
			dy, okY = g, true
		}
	}
	if !okX {
		c := box.Centre().X
		dx = geometry.Snap(c, Grid) - c
	}
	if !okY {
		c := box.Centre().Y
		dy = geometry.Snap(c, Grid) - c
	}
	d := geometry.Point{X: dx, Y: dy}
	return d, guides(box.Moved(d), others, okX, okY)
}

// snapAxis finds the smallest shift that brings a start, middle or end of the
// box onto one of the others'; middles win ties.
func snapAxis(at, size int, others []geometry.Box, within int, across bool) (int, bool) {
	best, found := within+1, false
	try := func(d int) {
		if geometry.Abs(d) < geometry.Abs(best) {
			best, found = d, true
		}
	}
	for _, o := range others {
		start, length := o.Y, o.H
		if across {
			start, length = o.X, o.W
		}
		try(start + length/2 - (at + size/2))
	}
	for _, o := range others {
		start, length := o.Y, o.H
		if across {
			start, length = o.X, o.W
		}
		try(start - at)
		try(start + length - (at + size))
	}
	return best, found
}

// gapSnap finds the shift after which the gap to the neighbour equals a gap
// between two others in the same row or column.
func gapSnap(box geometry.Box, others []geometry.Box, within int, across bool) (int, bool) {
	row := inRow(box, others, across)
	best, found := within+1, false
	for i := 0; i+1 < len(row); i++ {
		gap := begin(row[i+1], across) - end(row[i], across)
		if gap <= 0 {
			continue
		}
		for _, o := range row {
			for _, d := range [...]int{end(o, across) + gap - begin(box, across), begin(o, across) - gap - end(box, across)} {
				if geometry.Abs(d) < geometry.Abs(best) {
					best, found = d, true
				}
			}
		}
	}
	return best, found
}

func begin(b geometry.Box, across bool) int {
	if across {
		return b.X
	}
	return b.Y
}

func end(b geometry.Box, across bool) int {
	if across {
		return b.Right()
	}
	return b.Bottom()
}

// inRow returns the others that share a row (or column) with the box, in order.
func inRow(box geometry.Box, others []geometry.Box, across bool) []geometry.Box {
	var row []geometry.Box
	for _, o := range others {
		if begin(o, !across) < end(box, !across) && begin(box, !across) < end(o, !across) {
			row = append(row, o)
		}
	}
	slices.SortFunc(row, func(a, b geometry.Box) int { return cmp.Compare(begin(a, across), begin(b, across)) })
	return row
}

// guides returns the lines for what the box has lined up with, the nearest of
// each kind, and the gaps to its neighbours.
func guides(box geometry.Box, others []geometry.Box, okX, okY bool) []Guide {
	var out []Guide
	line := func(across bool, match func(o geometry.Box) (int, bool)) bool {
		found, coord := false, 0
		lo, hi := begin(box, !across), end(box, !across)
		for _, o := range others {
			if c, ok := match(o); ok && (!found || c == coord) {
				found, coord = true, c
				lo, hi = min(lo, begin(o, !across)), max(hi, end(o, !across))
			}
		}
		if !found {
			return false
		}
		if across {
			out = append(out, Guide{From: geometry.Point{X: coord, Y: lo - Grid}, To: geometry.Point{X: coord, Y: hi + Grid}})
		} else {
			out = append(out, Guide{From: geometry.Point{X: lo - Grid, Y: coord}, To: geometry.Point{X: hi + Grid, Y: coord}})
		}
		return true
	}
	for _, axis := range [...]struct{ on, across bool }{{okX, true}, {okY, false}} {
		if !axis.on {
			continue
		}
		across := axis.across
		middle := (begin(box, across) + end(box, across)) / 2
		first := line(across, func(o geometry.Box) (int, bool) { return begin(box, across), begin(o, across) == begin(box, across) })
		last := line(across, func(o geometry.Box) (int, bool) { return end(box, across), end(o, across) == end(box, across) })
		if !first && !last { // a line through the middle runs through the words
			line(across, func(o geometry.Box) (int, bool) {
				return middle, (begin(o, across)+end(o, across))/2 == middle
			})
		}
		out = append(out, gapGuides(box, others, across)...)
	}
	return out
}

func gapGuides(box geometry.Box, others []geometry.Box, across bool) []Guide {
	row := inRow(box, others, across)
	var before, after *geometry.Box
	for i := range row {
		if end(row[i], across) <= begin(box, across) {
			before = &row[i]
		} else if begin(row[i], across) >= end(box, across) && after == nil {
			after = &row[i]
		}
	}
	var out []Guide
	mid := (begin(box, !across) + end(box, !across)) / 2
	add := func(from, to int) {
		g := Guide{From: geometry.Point{X: from, Y: mid}, To: geometry.Point{X: to, Y: mid}, Gap: to - from}
		if !across {
			g.From, g.To = geometry.Point{X: mid, Y: from}, geometry.Point{X: mid, Y: to}
		}
		if g.Gap > 0 && g.Gap < 400*px {
			out = append(out, g)
		}
	}
	if before != nil {
		add(end(*before, across), begin(box, across))
	}
	if after != nil {
		add(end(box, across), begin(*after, across))
	}
	return out
}

// Fit returns the places that let a symbol hold its text, by the sheet's way of
// fitting: nothing where the text is to be set smaller; the symbol itself,
// grown around its centre; or with it all others of its kind that had its size.
// The symbol need not be the one on the sheet: what it is to become counts.
func Fit(s *diagram.Sheet, sym *diagram.Symbol) []diagram.Place {
	if s.Fitting == diagram.FitSmaller {
		return nil
	}
	w, h := typeset.Grow(symbols.Of(sym.Kind), sym.Text, sym.Type, sym.W, sym.H)
	if w == sym.W && h == sym.H {
		return nil
	}
	out := []diagram.Place{{ID: sym.ID, Box: geometry.Around(sym.Centre(), w, h)}}
	if s.Fitting == diagram.FitAlone || !together(sym.Kind) {
		return out
	}
	for _, o := range s.Symbols {
		if o.ID != sym.ID && o.Kind == sym.Kind && o.W == sym.W && o.H == sym.H {
			out = append(out, diagram.Place{ID: o.ID, Box: geometry.Around(o.Centre(), w, h)})
		}
	}
	return out
}

// together reports whether symbols of a kind keep one size.
func together(k diagram.Kind) bool {
	return !k.IsRemark() && !k.IsReference() && k != diagram.Entity && k != diagram.Person
}

// Size returns the size a new symbol of a kind has: that of most others of its
// kind on the sheet where they keep one size, else the standard.
func Size(s *diagram.Sheet, kind diagram.Kind) (w, h int) {
	def := symbols.Of(kind)
	w, h = def.W, def.H
	if s.Fitting != diagram.FitTogether || !together(kind) {
		return w, h
	}
	count, most := map[[2]int]int{}, 0
	for _, o := range s.Symbols {
		if o.Kind == kind {
			size := [2]int{o.W, o.H}
			count[size]++
			if count[size] > most {
				most, w, h = count[size], o.W, o.H
			}
		}
	}
	return w, h
}

// Standard returns the box of a new symbol of a kind around a point.
func Standard(s *diagram.Sheet, kind diagram.Kind, at geometry.Point) geometry.Box {
	w, h := Size(s, kind)
	return geometry.Around(at, w, h)
}

// Append returns where the step after from goes: next in the direction of the
// flow if that is free, else to its side, else beyond what is there; and the
// edits that make room for it in its lane.
func Append(m *diagram.Map, s *diagram.Sheet, from *diagram.Symbol, kind diagram.Kind) (geometry.Box, []diagram.Edit) {
	w, h := Size(s, kind)
	c := from.Centre()
	ahead := geometry.Point{X: from.Right() + Gap + w/2, Y: c.Y}
	aside := geometry.Point{X: c.X, Y: from.Bottom() + Gap/2 + h/2}
	if m.Direction == diagram.Downwards {
		ahead = geometry.Point{X: c.X, Y: from.Bottom() + Gap + h/2}
		aside = geometry.Point{X: from.Right() + Gap + w/2, Y: c.Y}
	}
	free := func(p geometry.Point) bool { return freeAmong(s.Symbols, geometry.Around(p, w, h)) }
	at := ahead
	pool, lane := s.LaneAt(c)
	switch step := w + Gap; {
	case free(ahead):
	case pool != nil && m.Direction == diagram.Rightwards:
		// The lane opens at its foot and pushes what is below it down, so only
		// the steps of the lane itself can be in the way.
		at = aside
		for !freeAmong(inLane(s, pool, lane), geometry.Around(at, w, h)) {
			at.X += step
		}
	default:
		at = aside
		for i := 1; !free(at) && i < diagram.MaxSymbols; i++ {
			at = ahead
			if m.Direction == diagram.Downwards {
				at.Y += i * (h + Gap)
			} else {
				at.X += i * step
			}
		}
	}
	b := geometry.Around(at, w, h)
	if pool == nil {
		return b, nil
	}
	return b, room(s, pool, lane, b)
}

func inLane(s *diagram.Sheet, pool *diagram.Pool, lane int) []*diagram.Symbol {
	var out []*diagram.Symbol
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p == pool && k == lane {
			out = append(out, sym)
		}
	}
	return out
}

func freeAmong(list []*diagram.Symbol, b geometry.Box) bool {
	b = b.Grown(Grid)
	return !slices.ContainsFunc(list, func(o *diagram.Symbol) bool { return o.Meets(b) && !symbols.Of(o.Kind).Hollow })
}

// room returns the edits that let a lane and its pool hold the box.
func room(s *diagram.Sheet, pool *diagram.Pool, lane int, b geometry.Box) []diagram.Edit {
	var edits []diagram.Edit
	if h := b.Bottom() + diagram.LanePad - pool.LaneBox(lane).Y; h > pool.Lanes[lane].H && b.Centre().Y >= pool.LaneBox(lane).Y {
		edits = append(edits, &diagram.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[lane].ID, H: &h})
	}
	if w := b.Right() + 2*diagram.LanePad - pool.X; w > pool.W {
		edits = append(edits, &diagram.SetPool{Sheet: s.ID, Pool: pool.ID, W: &w})
	}
	return edits
}
