package routing

import (
	"slices"

	"plaintracer/core/geometry"
)

// memory lets a complete computation pass over what cannot have changed since
// the last one. Everything the search for a way looks at lies in its window:
// boxes, the lines past them, and ways found before; and it reads the glue
// points of its two ends. Where all of that is as it was, so is the way. The
// result is therefore that of a computation from nothing, which tests hold.
type memory struct {
	// passes holds, for the first and for the second time a link is looked at,
	// how its way was found.
	passes [2][]found
	// last are the ways after the second pass.
	last  []raw
	boxes []geometry.Box
	glue  [][4]geometry.Point
	open  []bool
	links []Link
	down  bool
	// stirred are the places in which something is not as it was.
	stirred []geometry.Box
}

// found is a way with what was looked at to find it.
type found struct {
	known    bool
	way      raw
	window   geometry.Box
	from, to [4]port
}

// begin opens a computation: it compares the scene with the last one.
func (m *memory) begin(s *Scene) {
	m.stirred = m.stirred[:0]
	if len(m.boxes) != len(s.Boxes) || len(m.links) != len(s.Links) || m.down != s.Down {
		for k := range m.passes {
			m.passes[k] = resized(m.passes[k], len(s.Links))
			for i := range m.passes[k] {
				m.passes[k][i].known = false
			}
		}
		m.last = resized(m.last, len(s.Links))
		for i := range m.last {
			m.last[i].points = m.last[i].points[:0]
		}
	} else {
		for i, b := range s.Boxes {
			if b != m.boxes[i] || s.Glue[i] != m.glue[i] || s.open(i) != m.open[i] {
				// The lines past boxes nearby change with it.
				m.stirred = append(m.stirred, b.Grown(4*Clearance), m.boxes[i].Grown(4*Clearance))
			}
		}
		for i := range s.Links {
			if l := &s.Links[i]; !l.same(&m.links[i]) || m.moved(s, l.From) || m.moved(s, l.To) {
				// It may take another turn in the order of work.
				for k := range m.passes {
					m.stir(m.passes[k][i].way.points)
					m.passes[k][i].known = false
				}
				m.stir(m.last[i].points)
			}
		}
	}
	m.boxes, m.glue, m.links, m.down = append(m.boxes[:0], s.Boxes...), append(m.glue[:0], s.Glue...), append(m.links[:0], s.Links...), s.Down
	m.open = resized(m.open, len(s.Boxes))
	for i := range m.open {
		m.open[i] = s.open(i)
	}
}

func (m *memory) moved(s *Scene, box int) bool { return box != None && s.Boxes[box] != m.boxes[box] }

// stir notes that something is not as it was along a way.
func (m *memory) stir(way geometry.Polyline) {
	for k := 1; k < len(way); k++ {
		m.stirred = append(m.stirred, geometry.Between(way[k-1], way[k]).Grown(1))
	}
}

// recall writes the way of link i to w if it can be nothing but what it was.
func (m *memory) recall(pass, i int, from, to [4]port, w *raw) bool {
	f := &m.passes[pass][i]
	if !f.known || f.from != from || f.to != to || slices.ContainsFunc(m.stirred, f.window.Meets) {
		return false
	}
	w.copy(&f.way)
	return true
}

// note remembers how the way of link i was found.
func (m *memory) note(pass, i int, from, to [4]port, window geometry.Box, w *raw) {
	f := &m.passes[pass][i]
	if !slices.Equal(f.way.points, w.points) {
		m.stir(f.way.points)
		m.stir(w.points)
	}
	f.known, f.from, f.to, f.window = true, from, to, window
	f.way.copy(w)
}

// settled notes the way of link i after the second pass.
func (m *memory) settled(i int, w *raw) {
	if !slices.Equal(m.last[i].points, w.points) {
		m.stir(m.last[i].points)
		m.stir(w.points)
	}
	m.last[i].copy(w)
}
