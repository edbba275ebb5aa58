package arrange

import (
	"cmp"
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
)

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

// Across reports whether aligning by the edge moves things across the sheet
// rather than up or down it.
func (e Edge) Across() bool { return e == Left || e == Centre || e == Right }

// Align returns the places that line the boxes up by an edge with a box.
// Places that do not change are left out.
func Align(boxes []edit.Place, by Edge, to geometry.Box) []edit.Place {
	var out []edit.Place
	for _, p := range boxes {
		b := p.Box
		switch by {
		case Left:
			b.X = to.X
		case Centre:
			b.X = to.X + geometry.FloorDiv(to.W-b.W, 2)
		case Right:
			b.X = to.Right() - b.W
		case Top:
			b.Y = to.Y
		case Middle:
			b.Y = to.Y + geometry.FloorDiv(to.H-b.H, 2)
		case Bottom:
			b.Y = to.Bottom() - b.H
		}
		if b != p.Box {
			out = append(out, edit.Place{ID: p.ID, Box: b})
		}
	}
	return out
}

// Distribute returns the places that make the gaps between the boxes equal, or
// the distances of their centres, across or down; the outermost stay. What
// cannot be divided evenly is spread so that no two gaps differ by more than one
// hundredth of a pixel.
func Distribute(boxes []edit.Place, across, centres bool) []edit.Place {
	if len(boxes) < 3 {
		return nil
	}
	start := func(b geometry.Box) int { return begin(b, across) }
	size := func(b geometry.Box) int { return end(b, across) - begin(b, across) }
	if centres {
		start = func(b geometry.Box) int { return (begin(b, across) + end(b, across)) / 2 }
		size = func(geometry.Box) int { return 0 }
	}
	list := slices.Clone(boxes)
	slices.SortStableFunc(list, func(a, b edit.Place) int {
		return cmp.Or(cmp.Compare(begin(a.Box, across)+end(a.Box, across), begin(b.Box, across)+end(b.Box, across)),
			cmp.Compare(a.ID, b.ID))
	})
	last := len(list) - 1
	free := start(list[last].Box) - start(list[0].Box) - size(list[0].Box)
	for _, p := range list[1:last] {
		free -= size(p.Box)
	}
	var out []edit.Place
	at := start(list[0].Box) + size(list[0].Box)
	for i, p := range list[1:last] {
		// The gaps up to here together, rounded once.
		by := at + geometry.FloorDiv(free*(i+1), last) - start(p.Box)
		at += size(p.Box)
		if by == 0 {
			continue
		}
		d := geometry.Point{X: by}
		if !across {
			d = geometry.Point{Y: by}
		}
		out = append(out, edit.Place{ID: p.ID, Box: p.Box.Moved(d)})
	}
	return out
}
