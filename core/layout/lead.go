package layout

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
)

// lead leads long connectors round what they would cross: where the drawing in
// layers has kept a line free for one, and its own course crosses more than it
// does there, a stretch is laid on that line. The edit has been made on trial. It returns
// the courses that all connectors have then.
func (l *layout) lead(plan *edit.LayOut) []routing.Course {
	s := scene.Links(l.m, l.s)
	if l.laid != nil {
		return l.leadInRows(plan, s)
	}
	courses := l.route(s)
	if courses == nil {
		return nil
	}
	before := crossings(courses, len(s.Links))
	led := map[int]bool{}
	for k := range s.Links {
		c := l.s.Connectors[k]
		line, ok := l.lines[k]
		if ok = ok && !c.Locked && c.Course == model.Angled &&
			(line.round || line.rail || before[k] > line.crossed); !ok {
			continue
		}
		if line.round {
			s.Links[k].FromSide, s.Links[k].ToSide = int(line.side), int(line.side)
			led[k] = true
			continue
		}
		s.Links[k].Bends = []routing.Bend{{Upright: l.down != line.rail, At: line.at}}
		if line.planned {
			if !line.long && !line.rail {
				s.Links[k].Bends = nil
			}
			s.Links[k].FromSide, s.Links[k].ToSide = int(l.turnSide(line.sides[0])), int(l.turnSide(line.sides[1]))
		}
		led[k] = true
	}
	if len(led) == 0 {
		return l.asPlanned(plan, s, courses)
	}
	for range 2 {
		if len(led) == 0 {
			return courses
		}
		if courses = l.route(s); courses == nil {
			return nil
		}
		after := crossings(courses, len(s.Links))
		worse := false
		for k := range s.Links {
			if led[k] &&
				(courses[k].BendsDropped || courses[k].Obstructed || after[k] >= before[k] && !l.lines[k].round &&
					!l.lines[k].rail) {
				delete(led, k)
				s.Links[k].Bends, s.Links[k].FromSide, s.Links[k].ToSide = nil, routing.Any, routing.Any
				worse = true
			}
		}
		if !worse {
			break
		}
	}
	if courses = l.spread(s, courses, led); courses == nil {
		return nil
	}
	for k, c := range l.s.Connectors {
		if led[k] {
			lead := edit.Lead{ID: c.ID}
			switch line := l.lines[k]; {
			case line.round:
				lead.From, lead.To = line.side.String(), line.side.String()
			case line.planned:
				lead.From, lead.To = l.turnSide(line.sides[0]).String(), l.turnSide(line.sides[1]).String()
				if line.long || line.rail {
					lead.Bends = []model.Bend{{Upright: l.down != line.rail, At: line.at}}
				}
			default:
				lead.Bends = []model.Bend{{Upright: l.down, At: line.at}}
			}
			plan.Led = append(plan.Led, lead)
		}
	}
	return courses
}

// mostSpread is up to how many connectors a sheet has whose stretches are spread: it takes all courses once more.
const mostSpread = 400

// spread moves the stretches on which connectors are led away from what runs beside them, as far as there is room,
// where the courses are as good then.
func (l *layout) spread(s routing.Scene, courses []routing.Course, led map[int]bool) []routing.Course {
	moved := map[int]int{}
	for k := range s.Links {
		if len(s.Links) > mostSpread {
			break
		}
		if bends := s.Links[k].Bends; led[k] && len(bends) == 1 && !l.lines[k].rail {
			if at := l.beside(s, courses, k, bends[0].At); at != bends[0].At {
				moved[k] = at
			}
		}
	}
	if len(moved) == 0 {
		return courses
	}
	was, before := kept(courses), judge(courses)
	for k, at := range moved {
		s.Links[k].Bends = []routing.Bend{{Upright: l.down, At: at}}
	}
	courses = l.route(s)
	if courses == nil {
		return nil
	}
	after := judge(courses)
	good := after.Cut <= before.Cut && after.Crossings <= before.Crossings && after.Bends <= before.Bends
	for k := range moved {
		good = good && !courses[k].BendsDropped
	}
	if !good {
		return was
	}
	for k, at := range moved {
		line := l.lines[k]
		line.at = at
		l.lines[k] = line
	}
	return courses
}

// beside returns where the stretch of a connector best runs that is led at a place: as near as can be, and clear of
// symbols and of the lines of others where there is room.
func (l *layout) beside(s routing.Scene, courses []routing.Course, k, at int) int {
	var own [2]int // the stretch, along the flow
	points := courses[k].Points
	for i := 1; i < len(points); i++ {
		p, q := points[i-1].Turned(l.down), points[i].Turned(l.down)
		if p.Y == at && q.Y == at {
			own = [2]int{min(p.X, q.X), max(p.X, q.X)}
		}
	}
	least, most := at-4*routing.Spacing, at+4*routing.Spacing
	meet := func(from, to, lo, hi, apart int) {
		if to <= own[0] || from >= own[1] {
			return
		}
		switch {
		case hi < at:
			least = max(least, hi+apart)
		case lo > at:
			most = min(most, lo-apart)
		}
	}
	for _, b := range s.Boxes {
		b = b.Turned(l.down)
		meet(b.X, b.Right(), b.Y, b.Bottom(), routing.Verge)
	}
	for _, b := range s.Borders {
		if b.Upright == l.down {
			meet(b.Lo, b.Hi, b.At, b.At, routing.Verge)
		}
	}
	for j := range courses {
		if j == k || s.Links[j].To == s.Links[k].To {
			continue
		}
		for i := 1; i < len(courses[j].Points); i++ {
			p, q := courses[j].Points[i-1].Turned(l.down), courses[j].Points[i].Turned(l.down)
			if p.Y == q.Y {
				meet(min(p.X, q.X), max(p.X, q.X), p.Y, p.Y, routing.Spacing)
			}
		}
	}
	if least > most || own == [2]int{} {
		return at
	}
	return geometry.Clamp(at, least, most)
}

// statesAtOnce is how many states of the search are looked at before it is asked whether to go on: some hundredths of a
// second.
const statesAtOnce = 50_000

// route finds the courses of all connectors; nil when it was told not to go on.
func (l *layout) route(s routing.Scene) []routing.Course {
	for l.router.Begin(s); !l.router.Step(statesAtOnce); {
		if l.wish.Tell != nil && !l.wish.Tell(0, 1) {
			return nil
		}
	}
	return l.router.Courses()
}

// leadInRows leads the connectors of a drawing in rows as they were laid, but for those that cannot run like that.
func (l *layout) leadInRows(edit *edit.LayOut, s routing.Scene) []routing.Course {
	for k, lead := range l.laid {
		from, _ := geometry.SideNamed(lead.From)
		to, _ := geometry.SideNamed(lead.To)
		s.Links[k].FromSide, s.Links[k].ToSide, s.Links[k].Bends = int(from), int(to), nil
		for _, b := range lead.Bends {
			s.Links[k].Bends = append(s.Links[k].Bends, routing.Bend{Upright: b.Upright, At: b.At})
		}
	}
	courses := l.route(s)
	if courses == nil {
		return nil
	}
	again := false
	for k := range l.laid {
		if courses[k].BendsDropped || courses[k].Obstructed {
			delete(l.laid, k)
			s.Links[k].FromSide, s.Links[k].ToSide, s.Links[k].Bends = routing.Any, routing.Any, nil
			again = true
		}
	}
	if again {
		if courses = l.route(s); courses == nil {
			return nil
		}
	}
	for k := range l.s.Connectors {
		if lead, ok := l.laid[k]; ok {
			edit.Led = append(edit.Led, lead)
		}
	}
	return courses
}

// asPlanned has connectors leave and arrive by the sides they have in the drawing, where they took others and that
// makes the whole worse: the room between the rows is that which the drawing needs.
func (l *layout) asPlanned(plan *edit.LayOut, s routing.Scene, courses []routing.Course) []routing.Course {
	before := judge(courses)
	var pinned []int
	spared := 0 // bends, at the best
	for k := range s.Links {
		c := l.s.Connectors[k]
		line, ok := l.lines[k]
		if !ok || !line.planned || c.Locked || c.Course != model.Angled {
			continue
		}
		from, to := l.turnSide(line.sides[0]), l.turnSide(line.sides[1])
		if from != courses[k].FromSide || to != courses[k].ToSide {
			pinned = append(pinned, k)
		}
		spared += max(courses[k].Points.Bends()-line.bends, 0)
	}
	if len(pinned) == 0 || spared == 0 {
		return courses
	}
	was := kept(courses)
	for _, k := range pinned {
		s.Links[k].FromSide, s.Links[k].ToSide = int(l.turnSide(l.lines[k].sides[0])),
			int(l.turnSide(l.lines[k].sides[1]))
	}
	if courses = l.route(s); courses == nil {
		return nil
	}
	if after := judge(courses); after.Cut > before.Cut || after.Crossings > before.Crossings ||
		after.Bends >= before.Bends {
		return was
	}
	for _, k := range pinned {
		sides := l.lines[k].sides
		plan.Led = append(plan.Led, edit.Lead{ID: l.s.Connectors[k].ID, From: l.turnSide(sides[0]).String(),
			To: l.turnSide(sides[1]).String()})
	}
	return courses
}

// kept copies courses, which the router uses again.
func kept(courses []routing.Course) []routing.Course {
	out := slices.Clone(courses)
	for i := range out {
		out[i].Points, out[i].Hops = slices.Clone(out[i].Points), slices.Clone(out[i].Hops)
	}
	return out
}

// turnSide returns a side of the drawing as it is on the sheet.
func (l *layout) turnSide(s geometry.Side) geometry.Side {
	if l.down {
		return [...]geometry.Side{geometry.Top: geometry.Left, geometry.Right: geometry.Bottom,
			geometry.Bottom: geometry.Right, geometry.Left: geometry.Top}[s]
	}
	return s
}

// loops leads what goes back to the step right before it round the outside, by the
// far side where nothing else leaves or stands there, else by the near one: from
// side to the same side, three stretches with two bends.
func (l *layout) loops(d *layered.Drawing, edges []layered.Edge, which []int) {
	// What goes on, or stands, on the near and on the far side of every node.
	taken := make([][2]bool, len(d.Across))
	for i, e := range edges {
		if d.Back[i] || e.From == e.To {
			continue
		}
		for _, v := range [2]int{e.From, e.To} {
			o := e.From + e.To - v
			taken[v][0] = taken[v][0] || d.Across[o] < d.Across[v]
			taken[v][1] = taken[v][1] || d.Across[o] > d.Across[v]
		}
	}
	sides := [2]geometry.Side{geometry.Top, geometry.Bottom}
	if l.down || l.turned {
		sides = [2]geometry.Side{geometry.Left, geometry.Right}
	}
	for i, e := range edges {
		c := l.s.Connectors[l.links[which[i]]]
		if !d.Back[i] || e.From == e.To || d.Across[e.From] != d.Across[e.To] || d.Layer[e.From] != d.Layer[e.To]+1 {
			continue
		}
		if !slices.ContainsFunc(edges, func(o layered.Edge) bool { return o.From == e.To && o.To == e.From }) {
			continue // straight back is clear enough
		}
		for _, far := range [2]int{1, 0} {
			stands := func(id string) bool {
				v, ok := l.at[id]
				if !ok {
					return true
				}
				length, _ := l.row(v, far == 0)
				return length > 0
			}
			if !taken[e.From][far] && !taken[e.To][far] && !stands(c.From.Symbol) && !stands(c.To.Symbol) {
				l.lines[l.links[which[i]]] = line{round: true, side: sides[far]}
				break
			}
		}
	}
}

// crossings counts for every course how often it crosses others.
func crossings(courses []routing.Course, n int) []int {
	out := make([]int, n)
	for i := range courses {
		for _, h := range courses[i].Hops {
			out[i]++
			out[h.Over]++
		}
	}
	return out
}
