// Package spatial finds what lies near a place, and the places of values among sorted coordinates.
package spatial

import (
	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// Index finds what lies near a place: things by their numbers, in square cells.
// What it finds may lie a little off; nothing that meets the place is left out.
type Index struct {
	corner geometry.Point
	// bits say how large a cell is: a power of two, so that a shift divides.
	bits   int
	nx, ny int
	lists  [][]int32
	// things is one more than the highest number.
	things int
	// seen tells what has been found already.
	seen  Marks
	found []int32
}

// Marks are set on things by their numbers, and all taken off at once.
type Marks struct {
	at   []uint32
	turn uint32
}

// Begin takes all marks off so many things.
func (m *Marks) Begin(things int) {
	m.at = scratch.Resized(m.at, things)
	if m.turn++; m.turn == 0 {
		clear(m.at[:cap(m.at)])
		m.turn = 1
	}
}

// Set marks a thing, Has reports whether it is marked.
func (m *Marks) Set(k int)      { m.at[k] = m.turn }
func (m *Marks) Has(k int) bool { return m.at[k] == m.turn }

const (
	// beyond is farther than any place on a sheet.
	beyond    = 1 << 40
	leastCell = 14 // 164 px
	mostCells = 64 // in a row or column
)

// Begin empties the index and lays it over an area.
func (f *Index) Begin(area geometry.Box) {
	f.corner = area.Corner()
	f.bits = leastCell
	for max(area.W, area.H)>>f.bits >= mostCells {
		f.bits++
	}
	f.nx, f.ny = area.W>>f.bits+1, area.H>>f.bits+1
	f.lists = scratch.Resized(f.lists, f.nx*f.ny)
	for i := range f.lists {
		f.lists[i] = f.lists[i][:0]
	}
}

// span returns the cells from lo to hi along an axis with n of them. What lies
// outside the area belongs to the cells at its edge.
func (f *Index) span(lo, hi, corner, n int) (from, to int) {
	return geometry.Clamp((lo-corner)>>f.bits, 0, n-1), geometry.Clamp((hi-corner)>>f.bits, 0, n-1)
}

// Add puts thing k in where it lies.
func (f *Index) Add(k int, b geometry.Box) {
	x0, x1 := f.span(b.X, b.Right(), f.corner.X, f.nx)
	y0, y1 := f.span(b.Y, b.Bottom(), f.corner.Y, f.ny)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			f.lists[y*f.nx+x] = append(f.lists[y*f.nx+x], int32(k))
		}
	}
	f.things = max(f.things, k+1)
}

// Near returns the things that may meet a box, each once. The list is valid until
// the next call.
func (f *Index) Near(b geometry.Box) []int32 {
	f.found = f.found[:0]
	f.seen.Begin(f.things)
	x0, x1 := f.span(b.X, b.Right(), f.corner.X, f.nx)
	y0, y1 := f.span(b.Y, b.Bottom(), f.corner.Y, f.ny)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			for _, k := range f.lists[y*f.nx+x] {
				if !f.seen.Has(int(k)) {
					f.seen.Set(int(k))
					f.found = append(f.found, k)
				}
			}
		}
	}
	return f.found
}

// Cover returns boxes that together hold all of some: cells a quarter as long, in which
// these lie, one for those side by side.
func (f *Index) Cover(list []geometry.Box) (out []geometry.Box) {
	fine := Index{corner: f.corner, bits: f.bits - 2, nx: f.nx << 2, ny: f.ny << 2}
	touched := make([]bool, fine.nx*fine.ny)
	for _, b := range list {
		x0, x1 := fine.span(b.X, b.Right(), fine.corner.X, fine.nx)
		y0, y1 := fine.span(b.Y, b.Bottom(), fine.corner.Y, fine.ny)
		for y := y0; y <= y1; y++ {
			for x := x0; x <= x1; x++ {
				touched[y*fine.nx+x] = true
			}
		}
	}
	edge := func(k, corner, n int) int { // what lies outside belongs to the cells at the edge
		switch k {
		case 0:
			return -beyond
		case n:
			return beyond
		}
		return corner + k<<fine.bits
	}
	for y := range fine.ny {
		top, bottom := edge(y, fine.corner.Y, fine.ny), edge(y+1, fine.corner.Y, fine.ny)
		for x := 0; x < fine.nx; x++ {
			from := x
			for x < fine.nx && touched[y*fine.nx+x] {
				x++
			}
			if x > from {
				left, right := edge(from, fine.corner.X, fine.nx), edge(x, fine.corner.X, fine.nx)
				out = append(out, geometry.Box{X: left, Y: top, W: right - left, H: bottom - top})
			}
		}
	}
	return out
}
