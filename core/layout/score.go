package layout

import (
	"plaintracer/core/arrange"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
)

// Score is what a drawing is judged by; lower is better. Cut counts lines through symbols, Against the ways on that do
// not lead in the reading direction; Length is that of all lines, Size what they need.
type Score struct {
	Cut, Crossings, Bends, Against, Length int
	Size                                   geometry.Point
	// rows is in how many the flow is set, at the most.
	rows int
}

// Measure judges a sheet as it is, for a flow that is to run down or to the right.
func Measure(m *model.Map, s *model.Sheet, down bool) Score {
	var r routing.Router
	score := judge(r.Route(scene.Links(m, s)))
	score.Against = against(s, headings(m, s), down)
	return score
}

// Better weighs crossings against bends: a crossing is worth six of them.
func (s Score) Better(o Score) bool { return s.weight() < o.weight() }

// Simpler reports whether a drawing needs less to be followed than another one: fewer bends and crossings, as many and
// fewer ways against the reading direction, or else much shorter lines.
func (s Score) Simpler(o Score) bool {
	switch {
	case s.faults() != o.faults():
		return s.faults() < o.faults()
	case s.Against != o.Against:
		return s.Against < o.Against
	}
	return s.Length+s.Length/8 < o.Length
}

const perBend = 400 * px

func (s Score) weight() int { return (s.faults()+s.Against)*perBend + s.Length }

// faults are what is bad about lines, in bends.
func (s Score) faults() int { return 1000*s.Cut + 6*s.Crossings + s.Bends }

// perStay is how much longer the lines may be for each step that stays where people know it.
const perStay = arrange.Gap

// asGoodAs reports whether a drawing in which so many steps stay where people know them is as good as another one: it
// has no more bends or crossings and leads no more often against the reading direction, and its lines and its size are
// about the same.
func (s Score) asGoodAs(o Score, steps int) bool {
	return s.faults() <= o.faults() && s.Against <= o.Against && s.Length <= o.Length+o.Length/8+steps*perStay &&
		(o.Size.X+2*arrange.Gap)*5/4 >= s.Size.X && (o.Size.Y+2*arrange.Gap)*5/4 >= s.Size.Y
}

// judge counts what is bad about courses.
func judge(courses []routing.Course) (s Score) {
	var all geometry.Box
	for i := range courses {
		c := &courses[i]
		if len(c.Points) > 0 {
			if box := c.Points.Bounds(); i == 0 {
				all = box
			} else {
				all = all.Union(box)
			}
		}
		if c.Obstructed {
			s.Cut++
		}
		s.Crossings += len(c.Hops)
		s.Bends += c.Points.Bends()
		s.Length += c.Points.Length()
	}
	s.Size = geometry.Point{X: all.W, Y: all.H}
	return s
}
