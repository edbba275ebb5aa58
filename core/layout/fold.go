package layout

import (
	"cmp"
	"math"
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

const (
	// rowGap is the room between two rows, in the middle of which a line goes on to the next.
	rowGap = 6 * arrange.Grid
	// turnGap is what lines keep that go round the end of a row, trackGap what they keep from each other there.
	turnGap  = 20 * px
	trackGap = 12 * px
	// perCut is what a connector from one row to the next costs in the choice of
	// the places to break, measured in the room a row leaves empty: more than any
	// row leaves, so that no decision is parted from its branches without need.
	perCut = 4000 * px
	// perLonely is what a row of one or two symbols costs.
	perLonely = 2000 * px
	// perParted is what it costs to part a decision from the step of its first answer, or to break a loop.
	perParted = 3 * perCut
	// perFold is what a row costs.
	perFold = 4 * perCut
	// large is how many steps a flow has that takes the shape of its paper rather than its width.
	large = 40
)

// gap is a place between two columns at which a drawing could be broken.
type gap struct {
	// x is the place, before where the column ahead of it ends, after where the one behind it begins.
	x, before, after int
	// cut counts the connectors that would go on from row to row there, parted those of them that are the first
	// answer of a decision, or lead back; turn is how much room they take at either end of a row.
	cut, parted, turn int
	// stand is how many steps stand before it.
	stand int
}

// rows chooses the gaps at which a drawing is broken, between a first and a last one, which are its two ends: few and
// about equally long rows, each no longer than a line, with few connectors from one to the next; not between a decision
// and the step of its first answer, nor within a loop, where that can be helped. It returns nil when there is no way.
func rows(gaps []gap, line int) []int {
	// Of the ways to break at a gap: what it costs, and where the last row begins.
	type way struct {
		cost, from int
		ok         bool
	}
	n := len(gaps) - 1
	best := make([]way, n+1)
	best[0].ok = true
	for i := 1; i <= n; i++ {
		for from := i - 1; from >= 0; from-- {
			long := gaps[i].before - gaps[from].after
			if long > line {
				break
			}
			room := line - gaps[from].turn - gaps[i].turn
			if !best[from].ok || long > room {
				continue
			}
			cost := best[from].cost + perFold
			if from > 0 {
				cost += gaps[from].cut*perCut + gaps[from].parted*perParted
			}
			if gaps[i].stand-gaps[from].stand < 3 {
				cost += perLonely
			}
			empty := (room - long) / px
			cost += empty * empty / (line / px) * px // so that rows are about equal
			if !best[i].ok || cost < best[i].cost {
				best[i] = way{cost, from, true}
			}
		}
	}
	if !best[n].ok {
		return nil
	}
	out := []int{n}
	for i := n; i > 0; i = best[i].from {
		out = append(out, best[i].from)
	}
	slices.Reverse(out)
	return out
}

// inRows sets what is longer than the paper in rows, and reports whether these reach beyond it and could be closer
// together. A large flow gets lines longer than the paper where it would else be far deeper than long: it takes the
// shape of the paper.
func (l *layout) inRows() (deep bool) {
	length, width := l.sizes(l.page())
	if len(l.s.Pools) > 0 || len(l.wish.IDs) > 0 || l.wish.Long || l.tree {
		return false
	}
	end := 0
	for _, b := range l.boxes {
		end = max(end, b.Turned(l.down).Right())
	}
	if end <= length-margin {
		return false
	}
	edit, courses := l.tried()
	if courses == nil {
		courses = l.unchecked(edit)
	}
	if courses == nil {
		return false
	}
	led, kept := edit.Led, kept(courses)
	line := length - 2*margin
	f := l.fold(kept, line)
	if len(l.list) > large && !l.wish.Paged && f.deep+margin > width {
		for f.deep+margin > width*(line+2*margin)/length && line < end {
			line += line / 12
			f = l.fold(kept, line)
		}
		// of the paper that holds it: each size is 1.414 times as long as the one below it (ISO 216)
		long, wide := length, width
		for long < line+2*margin {
			long, wide = long*1414/1000, wide*1414/1000
		}
		// longer ones on it can break at better places
		for line += line / 12; line+2*margin <= long; line += line / 12 {
			if o := l.fold(kept, line); f.most > 1 && o.most > 1 && o.deep+margin <= wide && o.bends() < f.bends() {
				f = o
			}
		}
	}
	l.take(f, led)
	return len(l.list) <= large && f.deep+margin > width
}

// folding is the work of setting a drawing in rows: of its parts, each with its courses, in the axes of the flow.
type folding struct {
	l       *layout
	line    int
	courses []geometry.Polyline
	boxes   map[string]geometry.Box
	// laid are the courses of the connectors that go on from row to row, by their places on the sheet.
	laid map[int]geometry.Polyline
	// moved says where in the drawing in rows a place on a connector goes that stays within one.
	moved map[int]func(geometry.Point) geometry.Point
	// deep is how far the whole reaches across the flow, most in how many rows a part is set.
	deep, most int
}

// band is a part of a drawing that is by itself across the flow.
type band struct {
	ids        []string
	links      []int
	from, to   int
	start, end int
}

// fold sets what is longer than a line of the paper in rows. Courses are those of the drawing as it is.
func (l *layout) fold(courses []routing.Course, line int) *folding {
	f := &folding{l: l, line: line, courses: make([]geometry.Polyline, len(courses)), boxes: map[string]geometry.Box{},
		laid: map[int]geometry.Polyline{}, moved: map[int]func(geometry.Point) geometry.Point{}}
	for i, c := range courses {
		f.courses[i] = make(geometry.Polyline, len(c.Points))
		for k, p := range c.Points {
			f.courses[i][k] = p.Turned(l.down)
		}
	}
	at := margin
	for i, b := range f.bands() {
		if i > 0 {
			at += 2 * apart
		}
		at = f.row(&b, at)
		f.deep = at
	}
	return f
}

// bends counts those of the connectors that go on from row to row.
func (f *folding) bends() (n int) {
	for _, course := range f.laid {
		n += course.Bends()
	}
	return n
}

// bands parts a drawing across the flow.
func (f *folding) bands() []band {
	var list []band
	add := func(id string, link int, b geometry.Box) {
		o := band{from: b.Y, to: b.Bottom(), start: b.X, end: b.Right()}
		if id != "" {
			o.ids = []string{id}
		} else {
			o.links = []int{link}
		}
		list = append(list, o)
	}
	for _, sym := range f.l.s.Symbols {
		if b, ok := f.l.boxes[sym.ID]; ok {
			add(sym.ID, 0, b.Turned(f.l.down))
		}
	}
	for i, c := range f.l.s.Connectors {
		_, from := f.l.boxes[c.From.Symbol]
		_, to := f.l.boxes[c.To.Symbol]
		if from && to && len(f.courses[i]) > 1 {
			add("", i, f.courses[i].Bounds())
		}
	}
	slices.SortStableFunc(list, func(a, b band) int { return cmp.Compare(a.from, b.from) })
	var out []band
	for _, b := range list {
		if n := len(out); n > 0 && b.from <= out[n-1].to {
			o := &out[n-1]
			o.ids, o.links = append(o.ids, b.ids...), append(o.links, b.links...)
			o.to, o.start, o.end = max(o.to, b.to), min(o.start, b.start), max(o.end, b.end)
			continue
		}
		out = append(out, b)
	}
	return out
}

// row sets one band down from a place across the flow on, in as many rows as it takes, and returns how far it reaches.
func (f *folding) row(b *band, at int) int {
	var broken []int
	var gaps []gap
	if b.end > f.line+margin {
		gaps = f.gaps(b)
		broken = rows(gaps, f.line)
	}
	if len(broken) < 3 { // in one
		d := geometry.Point{Y: at - b.from}
		for _, id := range b.ids {
			f.boxes[id] = f.l.boxes[id].Turned(f.l.down).Moved(d)
		}
		for _, k := range b.links {
			f.moved[k] = d.Add
		}
		return at + b.to - b.from
	}
	f.most = max(f.most, len(broken)-1)
	w := newRows(f, b, gaps, broken)
	return w.place(at)
}

// gaps lists the places between the columns of a band, with its two ends.
func (f *folding) gaps(b *band) []gap {
	boxes := make([]geometry.Box, len(b.ids))
	for i, id := range b.ids {
		boxes[i] = f.l.boxes[id].Turned(f.l.down)
	}
	slices.SortFunc(boxes, func(a, b geometry.Box) int { return cmp.Compare(a.X, b.X) })
	out := []gap{{x: math.MinInt / 2, before: boxes[0].X, after: boxes[0].X}}
	end := boxes[0].Right()
	for i, box := range boxes[1:] {
		if box.X > end {
			g := gap{before: end, after: box.X, stand: i + 1}
			if f.choose(b, &g) {
				out = append(out, g)
			}
		}
		end = max(end, box.Right())
	}
	return append(out, gap{x: math.MaxInt / 2, before: end, after: end, stand: len(boxes)})
}

// choose finds the place within a gap at which the fewest lines cross it, and reports whether there is one.
func (f *folding) choose(b *band, g *gap) (found bool) {
	uprights := []int{g.before, g.after}
	for _, k := range b.links {
		for i := 1; i < len(f.courses[k]); i++ {
			if x := f.courses[k][i].X; x == f.courses[k][i-1].X && g.before < x && x < g.after {
				uprights = append(uprights, x)
			}
		}
	}
	slices.Sort(uprights)
	for i := 1; i < len(uprights); i++ {
		if uprights[i]-uprights[i-1] < 2 {
			continue
		}
		x := (uprights[i] + uprights[i-1]) / 2
		cut, parted := 0, 0
		tracks := map[int]bool{}
		for _, k := range b.links {
			through := crossingsAt(f.courses[k], x)
			if len(through) > 0 {
				cut++
				for _, y := range through {
					tracks[y] = true
				}
				if f.l.parts(k) {
					parted++
				}
			}
		}
		if !found || cut < g.cut || cut == g.cut && parted < g.parted {
			g.x, g.cut, g.parted, found = x, cut, parted, true
			if g.turn = 0; len(tracks) > 1 {
				g.turn = turnGap + (len(tracks)-1)*trackGap + x - g.before
			}
		}
	}
	return found
}

// crossingsAt lists where a line crosses a place along the flow.
func crossingsAt(line geometry.Polyline, x int) (out []int) {
	for i := 1; i < len(line); i++ {
		if (line[i-1].X < x) != (line[i].X < x) {
			out = append(out, line[i].Y)
		}
	}
	return out
}

// parts reports whether a connector is not to be broken if that can be helped: it is the first of several answers, or
// leads back.
func (l *layout) parts(k int) bool {
	c := l.s.Connectors[k]
	from, to := l.boxes[c.From.Symbol].Turned(l.down), l.boxes[c.To.Symbol].Turned(l.down)
	if from.X > to.X {
		return true
	}
	i := slices.Index(l.links, k)
	if i < 0 || l.edges[i].Exit > 0 {
		return false
	}
	return slices.ContainsFunc(l.edges, func(e layered.Edge) bool { return e.From == l.edges[i].From && e.Exit > 0 })
}

// rowed is a band that is set in rows.
type rowed struct {
	*folding
	b      *band
	gaps   []gap // those at which it is broken, and its ends
	tracks [][]int
	// dx is by how much each row is moved along the flow, lines are its places across the flow.
	dx    []int
	lines []strips
	// lo and hi are how far each row reaches across the flow in the end.
	lo, hi []int
}

// strips are the places of a row across the flow at which something stands or runs: from and to, and where that goes.
// In between there is as much room as there was, but no more than is needed.
type strips []strip

type strip struct {
	from, to, at int
	line         bool
}

// add notes that something stands, or a line runs, at a place.
func (s *strips) add(from, to int) { *s = append(*s, strip{from: from, to: to, line: from == to}) }

// close puts the strips into their order, one after the other, and closes what is empty in between.
func (s *strips) close() {
	slices.SortFunc(*s, func(a, b strip) int { return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(b.to, a.to)) })
	var out strips
	for _, p := range *s {
		if n := len(out); n > 0 && p.from <= out[n-1].to {
			out[n-1].to, out[n-1].line = max(out[n-1].to, p.to), out[n-1].line && p.line
			continue
		}
		out = append(out, p)
	}
	for i := 1; i < len(out); i++ {
		room := apart
		switch a, b := out[i-1].line, out[i].line; {
		case a && b:
			room = trackGap
		case a || b:
			room = turnGap + trackGap // a label, too
		}
		out[i].at = out[i-1].at + out[i-1].to - out[i-1].from + min(room, out[i].from-out[i-1].to)
	}
	*s = out
}

// move returns where a place goes.
func (s strips) move(y int) int {
	i, _ := slices.BinarySearchFunc(s, y, func(p strip, y int) int { return cmp.Compare(p.to, y) })
	// between two: as it was from the one before, or as near as it can be
	if i = min(i, len(s)-1); y < s[i].from && i > 0 {
		return min(s[i-1].at+y-s[i-1].from, s[i].at)
	}
	return s[i].at + y - s[i].from
}

func newRows(f *folding, b *band, gaps []gap, broken []int) *rowed {
	w := &rowed{folding: f, b: b}
	for _, i := range broken {
		w.gaps = append(w.gaps, gaps[i])
	}
	count := len(broken) - 1
	w.dx, w.lo, w.hi, w.lines = make([]int, count), make([]int, count), make([]int, count), make([]strips, count)
	for _, id := range b.ids {
		box := f.l.boxes[id].Turned(f.l.down)
		w.lines[w.rowAt(box.X)].add(box.Y, box.Bottom())
	}
	w.tracks = make([][]int, count+1)
	for _, k := range b.links {
		line := f.courses[k]
		for i := 1; i < len(line); i++ {
			p, q := line[i-1], line[i]
			for r := w.rowAt(min(p.X, q.X)); r <= w.rowAt(max(p.X, q.X)) && p.Y == q.Y; r++ {
				w.lines[r].add(p.Y, p.Y)
			}
		}
		for g := 1; g < count; g++ {
			w.tracks[g] = append(w.tracks[g], crossingsAt(line, w.gaps[g].x)...)
		}
	}
	for g := range w.tracks {
		slices.Sort(w.tracks[g])
		w.tracks[g] = slices.Compact(w.tracks[g])
	}
	return w
}

// rowAt returns the row of what lies at a place along the flow.
func (w *rowed) rowAt(x int) int {
	r := 0
	for r+2 < len(w.gaps) && x >= w.gaps[r+1].x {
		r++
	}
	return r
}

// place sets the rows one below the other, and returns how far they reach.
func (w *rowed) place(at int) int {
	count := len(w.dx)
	for r := range count {
		w.lines[r].close()
		last := w.lines[r][len(w.lines[r])-1]
		for i := range w.lines[r] {
			w.lines[r][i].at += at
		}
		w.lo[r], w.hi[r] = at, at+last.at+last.to-last.from
		w.dx[r] = margin - w.gaps[r].after
		if g := w.gaps[r]; len(w.tracks[r]) > 1 { // lines come in before it
			w.dx[r] = margin + turnGap/2 + (len(w.tracks[r])-1)*trackGap - g.x
		}
		at = w.hi[r]
		if r+1 < count {
			at += w.between(r + 1)
		}
	}
	for _, id := range w.b.ids {
		box := w.l.boxes[id].Turned(w.l.down)
		r := w.rowAt(box.X)
		w.boxes[id] = box.At(w.move(r, box.Corner()))
	}
	for _, k := range w.b.links {
		first := w.rowAt(w.courses[k][0].X)
		whole := true
		for _, p := range w.courses[k] {
			whole = whole && w.rowAt(p.X) == first
		}
		if whole {
			w.moved[k] = func(p geometry.Point) geometry.Point { return w.move(first, p) }
			continue
		}
		w.laid[k] = w.around(k)
	}
	return at
}

// move returns where a place of a row goes.
func (w *rowed) move(r int, p geometry.Point) geometry.Point {
	return geometry.Point{X: p.X + w.dx[r], Y: w.lines[r].move(p.Y)}
}

// between returns the room between the rows before and after a gap.
func (w *rowed) between(g int) int { return rowGap + max(len(w.tracks[g])-1, 0)*trackGap }

// around returns the course of a connector that goes on from row to row: round the end of one, back between the two,
// and in before the other. Those that do so lie within each other, so that they cross no more than they did.
func (w *rowed) around(k int) geometry.Polyline {
	line := w.courses[k]
	if direct := w.direct(k); direct != nil {
		return direct
	}
	r := w.rowAt(line[0].X)
	out := geometry.Polyline{w.move(r, line[0])}
	for i := 1; i < len(line); i++ {
		for to := w.rowAt(line[i].X); r != to; {
			on := r < to
			g := r + 1
			if !on {
				g = r
			}
			turn := w.turn(g, line[i].Y)
			if !on {
				slices.Reverse(turn)
			}
			out = append(out, turn...)
			if r++; !on {
				r -= 2
			}
		}
		out = append(out, w.move(r, line[i]))
	}
	return out.Tidy()
}

// turn returns the way round from the row before a gap to the one after it of a line at a place across the flow.
func (w *rowed) turn(g, y int) geometry.Polyline {
	at, _ := slices.BinarySearch(w.tracks[g], y)
	n := len(w.tracks[g])
	right := w.gaps[g].x + w.dx[g-1] + turnGap/2 + (n-1-at)*trackGap
	left := w.gaps[g].x + w.dx[g] - turnGap/2 - at*trackGap
	channel := w.channel(g) + (n-1-at)*trackGap
	return geometry.Polyline{{X: right, Y: w.lines[g-1].move(y)}, {X: right, Y: channel},
		{X: left, Y: channel}, {X: left, Y: w.lines[g].move(y)}}
}

// channel returns the first place between two rows in which a line runs.
func (w *rowed) channel(g int) int { return w.hi[g-1] + rowGap/2 }

// direct returns the course of the only connector from a row to the next: out of the foot of the last step and in from
// above, in two bends, where nothing else is in the way there; with the flow at an end where something is. It is nil
// for a connector that leads from or to another place.
func (w *rowed) direct(k int) geometry.Polyline {
	c, line := w.l.s.Connectors[k], w.courses[k]
	from, to := w.boxes[c.From.Symbol], w.boxes[c.To.Symbol]
	r := w.rowAt(line[0].X)
	if g := r + 1; len(line) != 2 || g >= len(w.dx) || len(w.tracks[g]) != 1 || w.rowAt(line[1].X) != g {
		return nil
	}
	channel := w.channel(r + 1)
	free := func(near geometry.Box, row int, below bool) bool {
		room := geometry.Box{X: near.X - turnGap/2, Y: w.lo[row], W: near.W + turnGap, H: near.Y - w.lo[row]}
		if below {
			room.Y, room.H = near.Bottom()+1, w.hi[row]-near.Bottom()
		}
		for _, id := range w.b.ids {
			if id != c.From.Symbol && id != c.To.Symbol && w.boxes[id].Meets(room) {
				return false
			}
		}
		room = room.Grown(1)
		for _, o := range w.b.links {
			for i := 1; i < len(w.courses[o]) && o != k; i++ {
				p, q := w.move(row, w.courses[o][i-1]), w.move(row, w.courses[o][i])
				if w.rowAt(w.courses[o][i-1].X) == row && geometry.Between(p, q).Grown(1).Meets(room) {
					return false
				}
			}
		}
		return true
	}
	out := geometry.Polyline{w.move(r, line[0])}
	if free(from, r, true) {
		x := from.X + from.W/2
		out = geometry.Polyline{{X: x, Y: from.Bottom()}, {X: x, Y: channel}}
	} else {
		x := from.Right() + routing.Clearance
		out = append(out, geometry.Point{X: x, Y: out[0].Y}, geometry.Point{X: x, Y: channel})
	}
	end := w.move(r+1, line[1])
	if free(to, r+1, false) {
		x := to.X + to.W/2
		return append(out, geometry.Point{X: x, Y: channel}, geometry.Point{X: x, Y: to.Y})
	}
	x := to.X - routing.Clearance
	return append(out, geometry.Point{X: x, Y: channel}, geometry.Point{X: x, Y: end.Y}, end)
}

// take makes the drawing that in rows: where everything goes, and how the connectors run that go on from row to row.
// Before are those that were led in the drawing as it was.
func (l *layout) take(f *folding, before []edit.Lead) {
	for id, b := range f.boxes {
		l.boxes[id] = b.Turned(l.down)
	}
	l.lines, l.laid, l.rows = map[int]line{}, map[int]edit.Lead{}, f.most
	for k, c := range l.s.Connectors {
		if c.Locked || c.Course != model.Angled {
			continue
		}
		if course, ok := f.laid[k]; ok {
			l.laid[k] = l.along(c.ID, course)
			continue
		}
		i := slices.IndexFunc(before, func(o edit.Lead) bool { return o.ID == c.ID })
		if move, ok := f.moved[k]; ok && i >= 0 {
			led := before[i]
			led.Bends = slices.Clone(led.Bends)
			for j, b := range led.Bends {
				p := move(geometry.Point{X: b.At, Y: b.At}.Turned(l.down)).Turned(l.down)
				if led.Bends[j].At = p.Y; b.Upright {
					led.Bends[j].At = p.X
				}
			}
			l.laid[k] = led
		}
	}
}

// along returns what leads a connector on a course in the axes of the flow: its sides, and all stretches but the first
// and last.
func (l *layout) along(id string, course geometry.Polyline) edit.Lead {
	p := make(geometry.Polyline, len(course))
	for i := range p {
		p[i] = course[i].Turned(l.down)
	}
	lead := edit.Lead{ID: id, From: sideOf(p[0], p[1]).String(), To: sideOf(p[len(p)-1], p[len(p)-2]).String()}
	for i := 2; i+1 < len(p); i++ {
		bend := model.Bend{At: p[i].Y}
		if p[i].X == p[i-1].X {
			bend = model.Bend{Upright: true, At: p[i].X}
		}
		lead.Bends = append(lead.Bends, bend)
	}
	return lead
}

// sideOf returns the side of a symbol by which a line leaves it from a place on its outline.
func sideOf(at, next geometry.Point) geometry.Side {
	switch {
	case next.X > at.X:
		return geometry.Right
	case next.X < at.X:
		return geometry.Left
	case next.Y > at.Y:
		return geometry.Bottom
	}
	return geometry.Top
}
