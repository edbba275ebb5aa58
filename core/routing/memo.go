package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
	"plaintracer/core/spatial"
)

// record is a scene as it was, by which a later one is compared with it.
type record struct {
	boxes []geometry.Box
	glue  [][4]geometry.Point
	// lines are those past the boxes.
	lines [][4]int
	open  []bool
	links []Link
	// newBox and newLink mark those that have come since.
	newBox, newLink []bool
}

// follow brings the record into the order of a scene that may have more or fewer
// boxes and links. It returns for each of the scene's links its place in the
// record before, None for a new one, and what has gone with its place; nil when
// both have as many.
func (m *record) follow(s *Scene) (links []int, goneBoxes []geometry.Box, goneLinks []int) {
	if len(m.boxes) == len(s.Boxes) && len(m.links) == len(s.Links) {
		return nil, nil, nil
	}
	boxes, gone := matched(len(s.Boxes), len(m.boxes),
		func(i, j int) bool { return s.Boxes[i] == m.boxes[j] && s.Glue[i] == m.glue[j] })
	for _, j := range gone {
		goneBoxes = append(goneBoxes, m.boxes[j])
	}
	now := make([]int, len(m.boxes)) // where each box stands now
	for j := range now {
		now[j] = vanished
	}
	for i, j := range boxes {
		if j != None {
			now[j] = i
		}
	}
	at := func(box int) int {
		if box < 0 {
			return box
		}
		return now[box]
	}
	for j := range m.links {
		m.links[j].From, m.links[j].To = at(m.links[j].From), at(m.links[j].To)
	}
	links, goneLinks = matched(len(s.Links), len(m.links), func(i, j int) bool {
		return s.Links[i].From == m.links[j].From && s.Links[i].To == m.links[j].To
	})
	m.boxes, m.newBox = rearranged(m.boxes, boxes), asNew(m.newBox, boxes)
	m.glue, m.open, m.lines = rearranged(m.glue, boxes), rearranged(m.open, boxes), rearranged(m.lines, boxes)
	onto := make([]int, len(m.links))
	for i, j := range links {
		if j != None {
			onto[j] = i
		}
	}
	for j := range m.links {
		if l := &m.links[j]; l.Joins && l.Onto < len(onto) {
			l.Onto = onto[l.Onto]
		}
	}
	m.links, m.newLink = rearranged(m.links, links), asNew(m.newLink, links)
	return links, goneBoxes, goneLinks
}

// vanished is the box of an end whose box has gone.
const vanished = -2

// matched walks along a list of n and the one of m that it was before. Where the
// two differ it looks for the nearest agreement beyond what was put in or taken
// out; without one, the one thing has become the other. Any match is a right one:
// whatever differs within it is found later.
func matched(n, m int, same func(i, j int) bool) (before, gone []int) {
	before = make([]int, n)
	i, j := 0, 0
	for i < n && j < m {
		if same(i, j) {
			before[i] = j
			i, j = i+1, j+1
			continue
		}
		more := (n - i) - (m - j) // what is still to be put in
		k := 1
		for ; k <= max(more, -more); k++ {
			if more > 0 && same(i+k, j) || more < 0 && same(i, j+k) {
				break
			}
		}
		switch {
		case k > max(more, -more):
			before[i] = j
			i, j = i+1, j+1
		case more > 0:
			for ; k > 0; k-- {
				before[i] = None
				i++
			}
		default:
			for ; k > 0; k-- {
				gone = append(gone, j)
				j++
			}
		}
	}
	for ; i < n; i++ {
		before[i] = None
	}
	for ; j < m; j++ {
		gone = append(gone, j)
	}
	return before, gone
}

// rearranged returns list in the order of what was where before.
func rearranged[T any](list []T, before []int) []T {
	out := make([]T, len(before))
	for i, j := range before {
		if j != None {
			out[i] = list[j]
		}
	}
	return out
}

// asNew marks what was not there before, or was new before.
func asNew(marks []bool, before []int) []bool {
	marks = rearranged(marks, before)
	for i, j := range before {
		marks[i] = marks[i] || j == None
	}
	return marks
}

// take makes the record that of a scene, with the lines past its boxes.
func (m *record) take(s *Scene, lines [][4]int) {
	m.lines = append(m.lines[:0], lines...)
	m.boxes, m.glue, m.links = append(m.boxes[:0], s.Boxes...), append(m.glue[:0], s.Glue...), append(m.links[:0],
		s.Links...)
	m.open = scratch.Resized(m.open, len(s.Boxes))
	for i := range m.open {
		m.open[i] = s.open(i)
	}
	m.newBox, m.newLink = scratch.Resized(m.newBox, len(s.Boxes)), scratch.Resized(m.newLink, len(s.Links))
	clear(m.newBox)
	clear(m.newLink)
}

// memory lets a complete computation pass over what cannot have changed since
// the last one. Everything the search for a way looks at lies in its window:
// boxes, and the lines past them; the ways found before matter to it only where it
// has been itself; and it reads the glue points of its two ends, and which of them
// are enclosed. Where all of that is as it was, so is the way. The result is therefore
// that of a computation from nothing, which tests hold.
type memory struct {
	record
	// passes holds, for the first and for the second time a link is looked at,
	// how its way was found.
	passes [2][]found
	// last are the ways after the second pass.
	last []route
	down bool
	// whole says that the scene was small enough to be searched whole.
	whole bool
	// stirred.boxes are the places where boxes or the lines past them are not as they were,
	// stirred.ways those where the ways of the first or of either pass are not. Those of a
	// computation that was given up count for the next.
	stirred struct {
		boxes places
		ways  [2]places
	}
	// begun says that a computation has begun and not been finished.
	begun bool
}

// found is a way with what was looked at to find it.
type found struct {
	known bool
	way   route
	// window is where boxes could count, explored where ways could.
	window, explored geometry.Box
	ends             ends
	// met is what it paid then for meeting others.
	met int
}

// places are boxes that are looked up by where they lie.
type places struct {
	list  []geometry.Box
	cells spatial.Index
}

// manyPlaces is how many are told apart; those of a long drag in which one computation
// after the other is given up are more.
const manyPlaces = 300

// begin lays them over an area.
func (p *places) begin(area geometry.Box) {
	p.cells.Begin(area)
	if len(p.list) > manyPlaces {
		p.list = p.cells.Cover(p.list)
	}
	for k, b := range p.list {
		p.cells.Add(k, b)
	}
}

func (p *places) add(b geometry.Box) {
	p.cells.Add(len(p.list), b)
	p.list = append(p.list, b)
}

// meet reports whether any of them meets b.
func (p *places) meet(b geometry.Box) bool {
	return slices.ContainsFunc(p.cells.Near(b), func(k int32) bool { return p.list[k].Meets(b) })
}

// begin opens a computation: it compares the scene with the last one.
func (m *memory) begin(s *Scene, lines [][4]int) {
	area := s.area()
	for _, p := range [...]*places{&m.stirred.boxes, &m.stirred.ways[0], &m.stirred.ways[1]} {
		if !m.begun {
			p.list = p.list[:0]
		}
		p.begin(area)
	}
	m.begun = true
	if m.down != s.Down || m.whole != s.small() {
		m.record = record{}
		m.passes, m.last = [2][]found{}, nil
	}
	links, goneBoxes, goneLinks := m.follow(s)
	for _, b := range goneBoxes {
		m.stirred.boxes.add(b.Grown(hard))
	}
	for _, j := range goneLinks {
		m.stirLink(j)
	}
	if links != nil {
		for k := range m.passes {
			m.passes[k] = rearranged(m.passes[k], links)
		}
		m.last = rearranged(m.last, links)
	}
	for i, b := range s.Boxes {
		if !m.newBox[i] && b == m.boxes[i] && s.Glue[i] == m.glue[i] && s.open(i) == m.open[i] &&
			lines[i] == m.lines[i] {
			continue
		}
		m.stirred.boxes.add(b.Grown(hard))
		if !m.newBox[i] && b != m.boxes[i] {
			m.stirred.boxes.add(m.boxes[i].Grown(hard))
		}
	}
	for i := range s.Links {
		if l := &s.Links[i]; m.newLink[i] || !l.same(&m.links[i]) || m.moved(s, l.From) || m.moved(s, l.To) {
			// It may take another turn in the order of work.
			m.stirLink(i)
			for k := range m.passes {
				m.passes[k][i].known = false
			}
		}
	}
	m.down, m.whole = s.Down, s.small()
	m.take(s, lines)
}

// moved reports whether a box is not where it was.
func (m *record) moved(s *Scene, box int) bool {
	return box != None && (m.newBox[box] || s.Boxes[box] != m.boxes[box])
}

// stirLink notes all ways that link i had.
func (m *memory) stirLink(i int) {
	first, second := m.passes[0][i].way.points, m.last[i].points
	m.stir(0, first, nil)
	m.stir(1, first, nil)
	m.stir(1, second, first)
}

// stir notes where a way goes and another does not, from a pass on.
func (m *memory) stir(pass int, way, other geometry.Polyline) {
	add := func(s laidSegment, lo, hi int) {
		s.lo, s.hi = lo, hi
		m.stirred.ways[pass].add(s.box().Grown(1))
	}
next:
	for k := 1; k < len(way); k++ {
		s := laidBetween(way[k-1], way[k], 0)
		for j := 1; j < len(other); j++ {
			if o := laidBetween(other[j-1], other[j], 0); o.upright == s.upright && o.pos == s.pos && o.lo < s.hi &&
				s.lo < o.hi {
				if s.lo < o.lo {
					add(s, s.lo, o.lo)
				}
				if o.hi < s.hi {
					add(s, o.hi, s.hi)
				}
				continue next
			}
		}
		add(s, s.lo, s.hi)
	}
}

// recall writes the way of link i to w if it can be nothing but what it was.
func (m *memory) recall(pass, i int, e ends, w *route) bool {
	f := &m.passes[pass][i]
	if !f.known || f.ends != e || m.stirred.boxes.meet(f.window) || m.stirred.ways[pass].meet(f.explored) {
		return false
	}
	w.copy(&f.way)
	return true
}

// note remembers how the way of link i was found.
func (m *memory) note(pass, i int, e ends, s *search, w *route, met int) {
	f := &m.passes[pass][i]
	if pass == 0 && !slices.Equal(f.way.points, w.points) {
		m.passes[1][i].known = false // the second begins from this one
		for k := range m.stirred.ways {
			m.stir(k, f.way.points, w.points)
			m.stir(k, w.points, f.way.points)
		}
	}
	f.known, f.ends, f.window, f.explored, f.met = true, e, s.seen, s.explored, met
	f.way.copy(w)
}

// settled notes the way of link i after the second pass.
func (m *memory) settled(i int, w *route) {
	if last := m.last[i].points; !slices.Equal(last, w.points) {
		m.stir(1, last, w.points)
		m.stir(1, w.points, last)
	}
	m.last[i].copy(w)
}
