package layout

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

// intoPools puts the steps into their lanes, which get the room they need. Where
// only some steps are laid out, the lanes stay, and grow when they must.
func (l *layout) intoPools(d *layered.Drawing) {
	x, start := l.begin()
	along, lengths, end := l.stages(d, start)
	shift := l.frames(d, x, end+l.spare-x)
	for k := range l.pools {
		if n := len(l.s.Pool(l.pools[k].ID).Stages); n > 0 && n == len(lengths) {
			l.pools[k].Stages = lengths
		}
	}
	for i, sym := range l.list {
		l.put(i, d.Along[i]+along[d.Layer[i]], d.Across[i]+shift[l.bandOf(sym)])
	}
	for i, k := range l.links {
		switch {
		case d.Sides != nil:
			l.lines[k] = line{planned: true, sides: d.Sides[i], bends: d.Bends[i], crossed: d.Crossed[i],
				long: d.Long[i], at: d.Lines[i] + shift[d.LineBands[i]]}
		case d.Long[i]:
			l.lines[k] = line{at: d.Lines[i] + shift[d.LineBands[i]], crossed: d.Crossed[i]}
		}
	}
	g := make([]int, len(l.links))
	for i := range g {
		g[i] = i
	}
	l.loops(d, l.edges, g)
}

// poolsAt is where pools begin along the flow that go to the middle of the page in the end.
const poolsAt = 3 * arrange.Grid

// begin returns where the pools begin along the flow, and where their steps do.
func (l *layout) begin() (pools, steps int) {
	x, heads := l.s.Pools[0].X, 0
	for _, p := range l.s.Pools {
		x, heads = min(x, p.X), max(heads, p.Heads())
	}
	if len(l.wish.IDs) > 0 {
		return x, l.bounds().X
	}
	if l.centred() {
		x = poolsAt
	}
	return x, x + heads + l.spare
}

// reach returns where the pools end that hold a drawing.
func (l *layout) reach(d *layered.Drawing) int {
	_, start := l.begin()
	_, _, end := l.stages(d, start)
	return end + l.spare
}

// stages returns by how much every layer is shifted along the flow, so that each
// stage begins and ends clear of its steps; the lengths of the stages; and where
// the last layer ends.
func (l *layout) stages(d *layered.Drawing, start int) (along, lengths []int, end int) {
	along = make([]int, len(d.Layers))
	count := 0
	of := make([]int, len(d.Layers))
	for k := range of {
		of[k] = layered.None
	}
	for i, sym := range l.list {
		if stage := l.stageOf(sym); stage != layered.None {
			of[d.Layer[i]] = stage
			pool, _ := l.s.LaneAt(sym.Centre())
			count = max(count, len(pool.Stages))
		}
	}
	if count == 0 || len(l.wish.IDs) > 0 {
		for k := range along {
			along[k] = start
		}
		return along, nil, start + d.Layers[len(d.Layers)-1].To
	}
	from := start - l.spare
	end = start
	last := start
	for stage, k := 0, 0; stage < count; stage++ {
		to := from + model.MinStage
		first := true
		for ; k < len(of) && of[k] <= stage; k++ {
			if of[k] == stage && first {
				last, first = from+l.spare-d.Layers[k].From, false
			}
			along[k] = last
			end = last + d.Layers[k].To
			to = max(to, end+l.spare)
		}
		lengths = append(lengths, to-from)
		from = to
	}
	return along, lengths, max(end, from-l.spare)
}

// stageOf returns the number of the stage a step stands in.
func (l *layout) stageOf(sym *model.Symbol) int {
	if pool, _ := l.s.LaneAt(sym.Centre()); pool != nil {
		return pool.StageAt(sym.Centre())
	}
	return layered.None
}

// frames gives all pools their frames, each as wide as the flow is long, and
// returns by how much each band is shifted.
func (l *layout) frames(d *layered.Drawing, x, width int) []int {
	shift := make([]int, len(l.lanes)+1)
	tops := l.tops()
	some := len(l.wish.IDs) > 0
	next := 0
	for i := 0; i < len(l.lanes); {
		pool := l.lanes[i].pool
		f := edit.PoolFrame{ID: pool.ID, X: x, Y: pool.Y, W: max(width, model.MinPool, min(pool.W, l.page().W-2*x))}
		if i > 0 {
			f.Y = next + apart
		}
		if some {
			f.X, f.W = pool.X, max(pool.W, width+x-pool.X)
			if i > 0 { // they keep their distance
				above := l.lanes[i-1].pool
				f.Y = pool.Y + next - above.Box().Bottom()
			}
		}
		y := f.Y + pool.StageHead()
		for ; i < len(l.lanes) && l.lanes[i].pool == pool; i++ {
			band, at := d.Bands[i], l.lanes[i].at
			strip := pool.LaneBox(at)
			need := band.To - band.From
			var h int
			switch {
			case need == 0 && some: // nothing in it is laid out
				h = strip.H
			case need == 0:
				h = max(model.MinLane, min(strip.H, model.LaneHeight))
			case some:
				from := max(tops[i]-strip.Y, model.LanePad)
				h = max(strip.H, from+need+model.LanePad)
				shift[i] = y + from - band.From
			default:
				h = max(need+2*model.LanePad+2*arrange.Grid, model.MinLane)
				shift[i] = y + (h-need)/2 - band.From
			}
			for _, sym := range l.s.Symbols { // what stays goes along with the lane
				if p, k := l.s.LaneAt(sym.Centre()); p == pool && k == at && (sym.Locked || !l.taken[sym.ID]) &&
					!l.free(sym) {
					h = max(h, sym.Bottom()-strip.Y+model.LanePad)
					l.fixed = append(l.fixed, sym.Moved(geometry.Point{Y: y - strip.Y}))
				}
			}
			f.Heights = append(f.Heights, h)
			y += h
		}
		next = y
		l.pools = append(l.pools, f)
	}
	rest := len(l.lanes)
	shift[rest] = next + apart - d.Bands[rest].From
	if some {
		shift[rest] = tops[rest] - d.Bands[rest].From
	}
	return shift
}

// tops returns where the steps of each band begin now.
func (l *layout) tops() []int {
	out, seen := make([]int, len(l.lanes)+1), make([]bool, len(l.lanes)+1)
	for _, sym := range l.list {
		if b := l.bandOf(sym); !seen[b] || sym.Y < out[b] {
			out[b], seen[b] = sym.Y, true
		}
	}
	return out
}

// grow lets the lanes hold what had to make way in them, all below moving down.
func (l *layout) grow() {
	band := map[string]int{}
	for i, sym := range l.list {
		band[sym.ID] = l.bandOf(sym)
		for _, sat := range l.satellites[i] {
			band[sat.ID] = band[sym.ID]
		}
	}
	i, pushed := 0, 0
	for k := range l.pools {
		f := &l.pools[k]
		f.Y += pushed
		y := f.Y + l.s.Pool(f.ID).StageHead()
		for j := range f.Heights {
			bottom := 0
			for id, b := range l.boxes {
				if band[id] == i {
					bottom = max(bottom, b.Bottom())
				}
			}
			if more := bottom + model.LanePad - (y + f.Heights[j]); bottom > 0 && more > 0 {
				f.Heights[j] += more
				pushed += more
				for id, b := range l.boxes {
					if band[id] > i {
						l.boxes[id] = b.Moved(geometry.Point{Y: more})
					}
				}
				for c, line := range l.lines {
					if line.at > bottom {
						line.at += more
						l.lines[c] = line
					}
				}
			}
			y += f.Heights[j]
			i++
		}
	}
}

// growPools widens pools in which lines run on the edge or outside it, and reports whether it did.
func (l *layout) growPools(courses []routing.Course) bool {
	const clear = routing.Verge
	widened := false
	for k := range l.pools {
		f := &l.pools[k]
		inside := func(id string) bool {
			sym := l.s.Symbol(id)
			if sym == nil {
				return false
			}
			pool, _ := l.s.LaneAt(sym.Centre())
			return pool != nil && pool.ID == f.ID
		}
		box := l.frame(f)
		before, after, ahead := 0, 0, 0
		for i := range courses {
			c := l.s.Connectors[i]
			if !inside(c.From.Symbol) || !inside(c.To.Symbol) {
				continue
			}
			for _, p := range courses[i].Points {
				if l.turned {
					p = p.Turned(true)
				}
				before = max(before, box.Y+l.s.Pool(f.ID).StageHead()+clear-p.Y)
				after = max(after, p.Y+clear-box.Bottom())
				ahead = max(ahead, p.X+clear-box.Right())
			}
		}
		if before+after+ahead == 0 || len(f.Heights) == 0 {
			continue
		}
		widened = true
		f.Heights[0] += before
		f.Heights[len(f.Heights)-1] += after
		for j := range l.pools {
			l.pools[j].W += ahead
		}
		l.push(box.Y-lead, before) // with the lines that ran outside it
		l.push(box.Bottom()+before+lead, after)
		for j := k + 1; j < len(l.pools); j++ {
			l.pools[j].Y += before + after
		}
	}
	return widened
}

// push moves everything that lies beyond a place across the flow farther away.
func (l *layout) push(from, by int) {
	if by == 0 {
		return
	}
	for id, b := range l.boxes {
		if b.Y >= from {
			l.boxes[id] = b.Moved(geometry.Point{Y: by})
		}
	}
	for c, line := range l.lines {
		if line.at >= from {
			line.at += by
			l.lines[c] = line
		}
	}
}

// frame returns the box of a pool with its new frame.
func (l *layout) frame(f *edit.PoolFrame) geometry.Box {
	b := geometry.Box{X: f.X, Y: f.Y, W: f.W, H: l.s.Pool(f.ID).StageHead()}
	for _, h := range f.Heights {
		b.H += h
	}
	return b
}

// bounds returns the box around what is laid out, as it stands now.
func (l *layout) bounds() geometry.Box {
	var out geometry.Box
	for i, sym := range l.list {
		if i == 0 {
			out = sym.Box
		}
		out = out.Union(sym.Box)
	}
	return out
}

// around makes way for what stays: what is locked, and what is not laid out. What
// would lie on such moves across the flow until it lies free, in its lane.
func (l *layout) around() {
	for _, sym := range l.s.Symbols {
		if _, laid := l.boxes[sym.ID]; (sym.Locked || !laid) && len(l.pools) == 0 && !l.free(sym) && !sym.Kind.Holds() {
			l.fixed = append(l.fixed, sym.Box)
		}
	}
	if len(l.wish.IDs) > 0 && len(l.lanes) == 0 {
		l.asOne()
		return
	}
	if len(l.fixed) == 0 {
		return
	}
	step := geometry.Point{Y: arrange.Grid}
	if l.down {
		step = geometry.Point{X: arrange.Grid}
	}
	// Those that stand free already are in the way of the others.
	var placed []geometry.Box
	for _, sym := range l.s.Symbols {
		if b, ok := l.boxes[sym.ID]; ok && !sym.Locked && !meets(b, l.fixed) {
			placed = append(placed, b)
		}
	}
	for _, sym := range l.s.Symbols {
		b, ok := l.boxes[sym.ID]
		if !ok || sym.Locked {
			continue
		}
		if !meets(b, l.fixed) {
			continue
		}
		for i := 0; i < 1000 && (meets(b, l.fixed) || meets(b, placed)); i++ {
			b = b.Moved(step)
		}
		l.boxes[sym.ID] = b
		placed = append(placed, b)
	}
}

// free reports whether a symbol belongs to no place: a legend goes where there is
// room for it.
func (l *layout) free(sym *model.Symbol) bool {
	return sym.Kind.Explains() && !sym.Locked && len(l.wish.IDs) == 0
}

// legends puts the legends that something would lie on where nothing does: on the
// paper, from its foot upwards, else below everything.
func (l *layout) legends() {
	var taken []geometry.Box
	for _, sym := range l.s.Symbols {
		b, ok := l.boxes[sym.ID]
		if !ok {
			b = sym.Box
		}
		if !l.free(sym) && !sym.Kind.Holds() {
			taken = append(taken, b)
		}
	}
	for i, p := range l.s.Pools {
		b := p.Box()
		if i < len(l.pools) {
			b = l.frame(&l.pools[i])
		}
		taken = append(taken, b)
	}
	for _, sym := range l.s.Symbols {
		if !l.free(sym) {
			continue
		}
		b := sym.Box
		if meets(b, taken) {
			b = l.room(b, taken)
			l.boxes[sym.ID] = b
		}
		taken = append(taken, b)
	}
}

// room returns the place on the paper at which a box lies on nothing and in the way
// of the fewest connectors, as near to the foot as can be; or one below everything.
func (l *layout) room(b geometry.Box, taken []geometry.Box) geometry.Box {
	page := l.page().Grown(-margin)
	step := 2 * arrange.Grid
	var ways []geometry.Box // where connectors may run
	middle := func(id string) (geometry.Point, bool) {
		b, ok := l.boxes[id]
		if sym := l.s.Symbol(id); !ok && sym != nil {
			b, ok = sym.Box, true
		}
		return b.Centre(), ok
	}
	for _, c := range l.s.Connectors {
		from, ok := middle(c.From.Symbol)
		to, ok2 := middle(c.To.Symbol)
		if ok && ok2 {
			ways = append(ways, geometry.Between(from, to).Grown(1))
		}
	}
	best, least := geometry.Box{}, -1
	for y := page.Bottom() - b.H; y >= page.Y; y -= step {
		for x := page.X; x+b.W <= page.Right(); x += step {
			at := b.At(geometry.Point{X: x, Y: y})
			if meets(at, taken) {
				continue
			}
			met := 0
			for _, way := range ways {
				if way.Meets(at) {
					met++
				}
			}
			if least < 0 || met < least {
				best, least = at, met
			}
		}
	}
	if least >= 0 {
		return best
	}
	bottom := page.Y
	for _, o := range taken {
		bottom = max(bottom, o.Bottom())
	}
	return b.At(geometry.Point{X: page.X, Y: bottom + arrange.Gap})
}

// asOne moves all that is laid out together, to where it began, and on across the
// flow until it lies on nothing else.
func (l *layout) asOne() {
	old := l.bounds()
	var now geometry.Box
	first := true
	for _, sym := range l.s.Symbols {
		if b, ok := l.boxes[sym.ID]; ok {
			if first {
				now, first = b, false
			}
			now = now.Union(b)
		}
	}
	d := old.Corner().Sub(now.Corner())
	step := geometry.Point{Y: arrange.Grid}
	if l.down {
		step = geometry.Point{X: arrange.Grid}
	}
	free := func() bool {
		for _, b := range l.boxes {
			if meets(b.Moved(d), l.fixed) {
				return false
			}
		}
		return true
	}
	for i := 0; i < 1000 && !free(); i++ {
		d = d.Add(step)
	}
	for id, b := range l.boxes {
		l.boxes[id] = b.Moved(d)
	}
	across := d.Y
	if l.down {
		across = d.X
	}
	for k, line := range l.lines {
		line.at += across
		l.lines[k] = line
	}
}

func meets(b geometry.Box, list []geometry.Box) bool {
	b = b.Grown(arrange.Grid)
	for _, o := range list {
		if o.Meets(b) {
			return true
		}
	}
	return false
}
