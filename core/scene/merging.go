package scene

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

// Meeting says where a connector runs into the line of others that lead to the same place: from there on they are one
// line with one mark at its end.
type Meeting struct {
	// Turn is the point of its course at which it turns into that line, which is rounded so that one sees which way it
	// goes on; zero where the others turn into it.
	Turn int
	// Until is where it is drawn to, on its stretch Stretch, and a bit farther, since the other one may turn there;
	// from there on that one is drawn. Unset, all of it is.
	Until   geometry.Point
	Stretch int
	Ends    bool
	long    int // the rest
}

// meetingRadius is that of the turn into a line.
const meetingRadius = 8 * px

// Merger finds where the connectors of a sheet meet, again and again into the same memory.
type Merger struct {
	found []Meeting
	// list are the connectors that merge, those with one end beside each other.
	list []ending
}

// ending is where a course ends, and how long it is.
type ending struct {
	at           geometry.Point
	course, long int
}

// Meet returns where every connector meets others. Lines that do not look alike are drawn whole.
func (m *Merger) Meet(s *model.Sheet, courses []routing.Course) []Meeting {
	m.found, m.list = slices.Grow(m.found[:0], len(courses))[:len(courses)], m.list[:0]
	clear(m.found)
	for i, c := range s.Connectors {
		if merging(s, c, &courses[i]) {
			m.list = append(m.list, ending{courses[i].Points[len(courses[i].Points)-1], i, 0})
		}
	}
	slices.SortFunc(m.list, func(a, b ending) int {
		if a.at.X != b.at.X {
			return a.at.X - b.at.X
		}
		return a.at.Y - b.at.Y
	})
	for from, to := 0, 0; from < len(m.list); from = to {
		for to = from + 1; to < len(m.list) && m.list[to].at == m.list[from].at; to++ {
		}
		if to == from+1 {
			continue
		}
		group := m.list[from:to]
		for k := range group {
			group[k].long = courses[group[k].course].Points.Length()
		}
		slices.SortFunc(group, func(a, b ending) int { return cmp.Or(b.long-a.long, a.course-b.course) })
		for k := range group {
			m.found[group[k].course] = meeting(s, courses, group, k)
		}
	}
	return m.found
}

// meeting finds where a connector meets others that end at the same place. It is drawn up to where it meets any of the
// first ones, the longer ones, which together are drawn whole.
func meeting(s *model.Sheet, courses []routing.Course, group []ending, first int) (found Meeting) {
	i := group[first].course
	c := s.Connectors[i]
	longest := 0
	for k := range group {
		j := group[k].course
		o := s.Connectors[j]
		if o.To.Symbol != c.To.Symbol || o.From.Symbol == c.From.Symbol || i == j {
			continue
		}
		at, stretch, turns, long := together(courses[i].Points, courses[j].Points)
		if long > longest {
			longest = long
			if found.Turn = 0; turns {
				found.Turn = stretch + 1
			}
		}
		if k < first && long > 0 && alike(c, o) && (!found.Ends || long > found.long) {
			found.Until, found.Stretch, found.Ends, found.long = at, stretch, true, long
		}
	}
	return found
}

func merging(s *model.Sheet, c *model.Connector, course *routing.Course) bool {
	return s.Merges(c) && c.To.Symbol != "" && c.Course == model.Angled && len(course.Points) > 1
}

// alike reports whether two connectors have the same line with the same mark at its end.
func alike(c, o *model.Connector) bool {
	_, mark := c.Marks()
	_, other := o.Marks()
	return c.Ink == o.Ink && c.Weight == o.Weight && c.Dashed == o.Dashed && c.Line == o.Line && mark == other &&
		c.MarkSize == o.MarkSize
}

// together returns from where on a course lies on another to the end of both: the place, the stretch it ends or lies
// on before that, whether the course turns there, and how long they run together; zero when they do not.
func together(a, b geometry.Polyline) (at geometry.Point, stretch int, turns bool, long int) {
	i, j := len(a)-1, len(b)-1
	if a[i] != b[j] {
		return
	}
	at = a[i]
	p, q := a[i], b[j] // the same place, on each
	for i > 0 && j > 0 {
		if unitTo(a[i-1], p) != unitTo(b[j-1], q) {
			break
		}
		u, v := distance(a[i-1], p), distance(b[j-1], q)
		long += min(u, v)
		switch {
		case u < v:
			i--
			p = a[i]
			q, turns = p, true
		case v < u:
			j--
			q = b[j]
			p, turns = q, false
		default:
			i, j = i-1, j-1
			p, q, turns = a[i], b[j], true
		}
		at = p
	}
	if long == 0 || i == 0 { // a begins on b, which no other line does
		return geometry.Point{}, 0, false, 0
	}
	return at, i - 1, turns, long
}
