// Package layout computes the whole arrangement of a sheet from its flow: it makes
// a graph of the sheet, has it drawn in layers, and says where the symbols and
// lanes go.
package layout

import (
	"cmp"
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/tree"
)

const px = geometry.Px

const (
	// margin is the distance to the edges of the paper.
	margin = 4 * arrange.Grid
	// apart is the distance across the flow between two steps, beside that between a
	// step and what belongs to it.
	apart  = arrange.Gap
	beside = 2 * arrange.Grid
	// closest is to what steps are drawn together, along the flow and across it, where they would else not be on
	// the paper.
	closest = 24 * px
	// lead is the room before the first and after the last step of a pool; leastLead where it would else not be on
	// the paper.
	lead      = 3 * arrange.Grid
	leastLead = 2 * arrange.Grid
	// labelRoom is what a label on a line needs beside its own length.
	labelRoom = 30 * px
)

// Options says what is to be laid out, and how.
type Options struct {
	// IDs are the symbols; none for all of the sheet.
	IDs []string
	// Down runs the flow from top to bottom; where there are lanes it runs along
	// them.
	Down bool
	// Above turns the answers that do not go on upwards, or to the left, instead of
	// downwards or to the right.
	Above bool
	// Long leaves a flow that is longer than the paper in one line, instead of
	// setting it in rows.
	Long bool
	// Paged sets a flow in rows that are no longer than the paper, however many it takes.
	Paged bool
	// Afresh arranges steps without regard to where they stand.
	Afresh bool
	// Tell hears how far the work has come, and says whether to go on; it may be
	// nil.
	Tell func(done, of int) bool

	// headings are the ways on that are to lead in the reading direction.
	headings []heading
}

// drawing is a way of drawing graphs.
type drawing func(layered.Graph) *layered.Drawing

// draw makes the edit with one way of drawing graphs; nil when it was stopped. Rows that do not fit the paper are drawn
// with steps closer together where they do then.
func draw(m *model.Map, s *model.Sheet, w Options, by drawing) (*edit.LayOut, Score) {
	edit, score, deep := drawn(m, s, w, by, false)
	if deep {
		if closer, c, deep := drawn(m, s, w, by, true); closer != nil && !deep {
			return closer, c
		}
	}
	return edit, score
}

// drawn is draw in one way; it reports whether the drawing is in rows that reach beyond the paper, and could be closer
// together.
func drawn(m *model.Map, s *model.Sheet, w Options, by drawing,
	closer bool) (edit *edit.LayOut, score Score, deep bool) {
	l := &layout{m: m, s: s, wish: w, by: by, closer: closer, spare: lead, alone: map[string]bool{},
		at:    map[string]int{},
		boxes: map[string]geometry.Box{}, lines: map[int]line{}}
	l.down = w.Down
	if len(s.Pools) > 0 {
		l.down = false
		if l.turned = s.Pools[0].Down; l.turned {
			l.s = s.Turned()
		}
	}
	for { // again where something is to stand alone
		before := len(l.alone)
		l.gather()
		if len(l.list) == 0 || !l.draw() {
			return nil, Score{}, false
		}
		if len(l.alone) == before {
			break
		}
		l.at, l.boxes, l.lines = map[string]int{}, map[string]geometry.Box{}, map[int]line{}
		l.list, l.lanes, l.links, l.edges, l.pools, l.fixed = nil, nil, nil, nil, nil, nil
	}
	deep = l.inRows()
	l.around()
	l.grow()
	edit, courses := l.tried()
	for range 4 { // pools hold their lines, too
		if edit == nil || len(w.IDs) > 0 || !l.growPools(courses) {
			break
		}
		edit, courses = l.tried()
	}
	if courses == nil {
		return edit, Score{Cut: 1 << 30}, deep
	}
	edit = l.middle(edit, courses)
	score = judge(courses)
	score.Against, score.rows = l.against, l.rows
	return edit, score, deep
}

// tried makes the edit of what was found, and returns it with the courses that connectors have after it; none
// where it cannot be made.
func (l *layout) tried() (*edit.LayOut, []routing.Course) {
	l.legends()
	plan := l.edit()
	if l.turned {
		axes := l.s
		l.s, l.down = l.m.Sheet(l.s.ID), true
		defer func() { l.s, l.down = axes, false }()
	}
	trial, err := edit.Attempt(l.m, plan)
	if err != nil {
		return plan, nil
	}
	defer trial.Rollback()
	l.against = against(l.m.Sheet(l.s.ID), l.wish.headings, l.wish.Down)
	return plan, l.lead(plan)
}

// unchecked returns the courses of a drawing that is longer than the desk, so that no edit can make it.
func (l *layout) unchecked(edit *edit.LayOut) []routing.Course {
	symbols, connectors := make([]model.Symbol, len(l.s.Symbols)), make([]model.Connector, len(l.s.Connectors))
	for i, sym := range l.s.Symbols {
		symbols[i] = *sym
		if b, ok := l.boxes[sym.ID]; ok {
			sym.Box = b
		}
	}
	for i, c := range l.s.Connectors {
		connectors[i] = *c
		if slices.Contains(edit.Free, c.ID) {
			c.From.Side, c.To.Side, c.Bends = "", "", nil
		}
	}
	defer func() {
		for i, sym := range l.s.Symbols {
			*sym = symbols[i]
		}
		for i, c := range l.s.Connectors {
			*c = connectors[i]
		}
	}()
	return l.lead(edit)
}

// layout is the work on one sheet.
type layout struct {
	m    *model.Map
	s    *model.Sheet
	wish Options
	by   drawing
	// down says that the axis along the flow is y; turned that the lanes lie down
	// the sheet, which is laid out with its axes exchanged.
	down, turned bool
	// list are the steps that become nodes, at their places in it; satellites are
	// those that stand beside each.
	list       []*model.Symbol
	at         map[string]int
	satellites [][]*model.Symbol
	// swapped marks the steps whose remarks stand on the far side and all else on the near one, since lines run
	// where they would stand otherwise.
	swapped []bool
	// alone are those that find no side of their step without a line: they are drawn as steps of their own, beside it.
	alone map[string]bool
	// lanes are all lanes of the sheet in their order, with their pools.
	lanes []*lane
	// links are the connectors of the edges, by their places on the sheet; lines
	// are where long ones can run, across the flow, so that they cross little.
	links []int
	edges []layered.Edge
	lines map[int]line
	// boxes are where everything goes.
	boxes map[string]geometry.Box
	pools []edit.PoolFrame
	// taken are the symbols that are laid out, fixed the boxes of those that stay.
	taken map[string]bool
	fixed []geometry.Box
	// spare is the room before the first and after the last step of a pool.
	spare int
	// tree says that a part of it is drawn as a tree, which is not set in rows.
	tree bool
	// closer draws what is longer than the paper with its steps close together.
	closer bool
	// laid leads connectors in a drawing in rows, by their places on the sheet; nil in any other.
	laid map[int]edit.Lead
	// rows is in how many a flow is set, at the most.
	rows int
	// against is how often the flow leads against the reading direction in the latest trial.
	against int
	// router keeps what it has found from one trial to the next.
	router routing.Router
}

// line is a place across the flow that is kept free for a long connector, and how
// often it is crossed there. One round the outside is not laid, but leaves and comes
// in by a side.
type line struct {
	at, crossed int
	round       bool
	// rail says that it runs across the flow at a place along it, with others from the same step.
	rail bool
	side geometry.Side
	// planned says that the drawing has sides for it.
	planned bool
	sides   [2]geometry.Side
	bends   int
	// long says that it is to run on the place at; one without a plan does in any case.
	long bool
}

type lane struct {
	pool *model.Pool
	at   int
}

// edit makes the edit of what was found.
func (l *layout) edit() *edit.LayOut {
	e := &edit.LayOut{Sheet: l.s.ID}
	for _, f := range l.pools { // l.pools may grow again
		f.Heights = slices.Clone(f.Heights)
		e.Pools = append(e.Pools, f)
	}
	for _, sym := range l.s.Symbols {
		if b, ok := l.boxes[sym.ID]; ok && !sym.Locked && (b != sym.Box || len(l.pools) > 0) {
			e.Boxes = append(e.Boxes, edit.Place{ID: sym.ID, Box: b})
		}
	}
	if l.turned {
		for i := range e.Boxes {
			e.Boxes[i].Box = e.Boxes[i].Turned(true)
		}
		for i := range e.Pools {
			e.Pools[i].X, e.Pools[i].Y = e.Pools[i].Y, e.Pools[i].X
		}
	}
	inside := func(id string) bool { _, ok := l.boxes[id]; return ok }
	for _, c := range l.s.Connectors {
		if inside(c.From.Symbol) && inside(c.To.Symbol) && !c.Locked && !c.Free() {
			e.Free = append(e.Free, c.ID)
		}
	}
	return e
}

// gather finds the steps and what belongs to them.
func (l *layout) gather() {
	for _, p := range l.s.Pools {
		for i := range p.Lanes {
			if !p.Down { // pools that lie the other way stay
				l.lanes = append(l.lanes, &lane{p, i})
			}
		}
	}
	slices.SortStableFunc(l.lanes,
		func(a, b *lane) int { return cmp.Compare(a.pool.LaneBox(a.at).Y, b.pool.LaneBox(b.at).Y) })
	taken := map[string]bool{}
	l.taken = taken
	for _, sym := range l.s.Symbols {
		if sym.Kind.StandsAnywhere() {
			continue
		}
		if p, _ := l.s.LaneAt(sym.Centre()); p != nil && p.Down {
			continue
		}
		if len(l.wish.IDs) == 0 || slices.Contains(l.wish.IDs, sym.ID) {
			taken[sym.ID] = true
		}
	}
	hosts := l.hosts(taken)
	for _, sym := range l.s.Symbols {
		if taken[sym.ID] && hosts[sym.ID] == "" && !(sym.Kind.IsAside() && !l.connected(sym.ID)) {
			l.at[sym.ID] = len(l.list)
			l.list = append(l.list, sym)
		}
	}
	l.satellites, l.swapped = make([][]*model.Symbol, len(l.list)), make([]bool, len(l.list))
	for _, sym := range l.s.Symbols {
		if host := hosts[sym.ID]; host != "" {
			if i, ok := l.at[host]; ok {
				l.satellites[i] = append(l.satellites[i], sym)
			}
		}
	}
}

func (l *layout) connected(id string) bool {
	return slices.ContainsFunc(l.s.Connectors,
		func(c *model.Connector) bool { return c.From.Symbol == id || c.To.Symbol == id })
}

// hosts finds for notes, data and documents the step they belong to: the only one
// they are tied to; or, where nothing flows through them, the first. What stands
// in another lane than that stands for itself.
func (l *layout) hosts(taken map[string]bool) map[string]string {
	in, out := map[string][]string{}, map[string][]string{}
	for _, k := range flow.Links(l.s) {
		if k.From != nil && k.To != nil && taken[k.From.ID] && taken[k.To.ID] && k.From != k.To {
			out[k.From.ID] = append(out[k.From.ID], k.To.ID)
			in[k.To.ID] = append(in[k.To.ID], k.From.ID)
		}
	}
	hosts := map[string]string{}
	for _, sym := range l.s.Symbols {
		if !taken[sym.ID] || sym.Kind.IsStep() || sym.Kind.IsEnd() || sym.Kind.IsReference() || sym.Locked {
			continue
		}
		a, b := in[sym.ID], out[sym.ID]
		if l.alone[sym.ID] || len(a)+len(b) == 0 || !sym.Kind.IsAside() && len(a) > 0 && len(b) > 0 {
			continue
		}
		host := l.s.Symbol(append(slices.Clone(a), b...)[0])
		if !host.Kind.IsStep() && !host.Kind.IsEnd() || l.s.LaneOf(host) != l.s.LaneOf(sym) {
			continue
		}
		hosts[sym.ID] = host.ID
	}
	return hosts
}

// sizes returns what a box measures along the flow and across it.
func (l *layout) sizes(b geometry.Box) (along, across int) {
	if l.down {
		return b.H, b.W
	}
	return b.W, b.H
}

// box returns the box of a symbol with its middle at a place along the flow and
// across it.
func (l *layout) box(sym *model.Symbol, along, across int) geometry.Box {
	if l.down {
		along, across = across, along
	}
	return geometry.Around(geometry.Point{X: along, Y: across}, sym.W, sym.H)
}

// under returns how far the values of a symbol reach below it, along the flow and across it.
func (l *layout) under(sym *model.Symbol) (along, across int) {
	s := l.s
	if l.turned { // on the sheet itself
		s = l.m.Sheet(l.s.ID)
		sym = s.Symbol(sym.ID)
	}
	if l.down || l.turned {
		return l.m.Under(s, sym), 0
	}
	return 0, l.m.Under(s, sym)
}

// node makes the node of a step with its satellites: remarks on the near side,
// all others on the far one, or the other way round.
func (l *layout) node(i int) layered.Node {
	sym := l.list[i]
	along, across := l.sizes(sym.Box)
	behind, below := l.under(sym)
	n := layered.Node{Along: along + behind, Near: across / 2, Far: across - across/2 + below, Band: layered.None,
		Stage: layered.None,
		At:    sym.Centre().Turned(l.down)}
	for _, remarks := range [2]bool{true, false} {
		length, width := l.row(i, remarks)
		if length == 0 {
			continue
		}
		n.Along = max(n.Along, length)
		if remarks != l.swapped[i] {
			n.Near += beside + width
		} else {
			n.Far += beside + width
		}
	}
	return n
}

// row measures the satellites of a step on one side.
func (l *layout) row(i int, remarks bool) (length, width int) {
	for _, sat := range l.satellites[i] {
		if sat.Kind.IsAside() != remarks {
			continue
		}
		along, across := l.sizes(sat.Box)
		if length > 0 {
			length += beside
		}
		behind, below := l.under(sat)
		length += along + behind
		width = max(width, across+below)
	}
	return length, width
}

// draw makes the graph, has it drawn, and notes the boxes.
func (l *layout) draw() bool {
	g := l.graph()
	if len(l.lanes) > 0 {
		all := make([]int, len(l.list))
		for i := range all {
			all[i] = i
		}
		d := l.drawn(g, all)
		if d == nil {
			return false
		}
		if d = l.tight(d, g, all); d == nil {
			return false
		}
		l.edges = g.Edges
		l.intoPools(d)
		return true
	}
	l.edges = g.Edges
	return l.onPaper(g)
}

// tight draws lanes once more with their steps closer together, where that brings what is longer than the paper onto
// it: no closer than it takes. It returns nil when it was told not to go on.
func (l *layout) tight(d *layered.Drawing, g *layered.Graph, all []int) *layered.Drawing {
	end := l.page().Right()
	most := (len(d.Layers)-1)*(g.Gap-closest) + 2*(lead-leastLead) // that can be saved
	if over := l.reach(d) - end; len(l.wish.IDs) > 0 || l.wish.Long || over <= -margin || over > most {
		return d
	}
	for _, end := range [...]int{end - margin, end} { // as far from the edge as the other side is, if that can be
		for _, l.spare = range [...]int{lead, leastLead} {
			for gap := g.Gap; gap >= closest; gap -= arrange.Grid / 2 {
				close := *g
				close.Gap, close.Edges = gap, slices.Clone(g.Edges)
				for i := range close.Edges {
					close.Edges[i].Label = max(close.Edges[i].Label-min(g.Gap-gap, labelRoom/3), 0)
				}
				if tight := l.drawn(&close, all); tight == nil || l.reach(tight) <= end {
					return tight
				}
			}
		}
	}
	l.spare = lead
	return d
}

// drawn draws a graph of some steps, and once more where lines run through what stands beside steps and there is room
// on their other side. It returns nil when it was told not to go on.
func (l *layout) drawn(g *layered.Graph, steps []int) *layered.Drawing {
	if l.hierarchy(g, steps) {
		return tree.Draw(g, !l.wish.Afresh)
	}
	d := l.by(*g)
	if d == nil || d.Sides == nil {
		return d
	}
	used := make([][4]bool, len(steps))
	for k, e := range g.Edges {
		if e.From != e.To {
			used[e.From][d.Sides[k][0]], used[e.To][d.Sides[k][1]] = true, true
		}
	}
	again := false
	for v, i := range steps {
		as, swapped := 0, 0 // lines in the way as it is, and the other way round
		for _, remarks := range [2]bool{true, false} {
			if length, _ := l.row(i, remarks); length == 0 {
				continue
			}
			for side, line := range [2]bool{used[v][geometry.Top], used[v][geometry.Bottom]} {
				if line && (side == 0) == remarks {
					as++
				} else if line {
					swapped++
				}
			}
		}
		if swapped > 0 && as > 0 && !(used[v][geometry.Left] && used[v][geometry.Right]) {
			for _, sat := range l.satellites[i] {
				l.alone[sat.ID] = true
			}
		} else if swapped < as {
			l.swapped[i] = true
			g.Nodes[v] = l.nodeAgain(i, g.Nodes[v])
			again = true
		}
	}
	if !again {
		return d
	}
	return l.by(*g)
}

// hierarchy reports whether a graph is drawn as a tree.
func (l *layout) hierarchy(g *layered.Graph, steps []int) bool {
	asks := func(i int) bool { return l.list[i].Kind.Asks() }
	return g.Bands == 0 && !slices.ContainsFunc(steps, asks) && tree.Is(g)
}

// nodeAgain makes a node anew, in the band and stage it was in.
func (l *layout) nodeAgain(i int, old layered.Node) layered.Node {
	n := l.node(i)
	n.Band, n.Stage = old.Band, old.Stage
	return n
}

// graph makes the graph of the flow.
func (l *layout) graph() *layered.Graph {
	g := &layered.Graph{Gap: arrange.Gap, Apart: apart, Mirror: l.wish.Above, Rails: l.s.Merging, Tell: l.wish.Tell}
	for i, sym := range l.list {
		n := l.node(i)
		if len(l.lanes) > 0 {
			n.Band, n.Stage = l.bandOf(sym), l.stageOf(sym)
		}
		g.Nodes = append(g.Nodes, n)
	}
	if len(l.lanes) > 0 {
		g.Bands = len(l.lanes) + 1 // the last is what stands in no lane
	}
	reached, left := make([]bool, len(l.list)), make([]bool, len(l.list))
	for _, lead := range flow.Links(l.s) {
		if lead.From != nil && lead.To != nil {
			if v, ok := l.at[lead.To.ID]; ok {
				reached[v] = true
			}
			if v, ok := l.at[lead.From.ID]; ok {
				left[v] = true
			}
		}
	}
	for v, sym := range l.list {
		g.Nodes[v].Aside = sym.Kind.IsInformation() && !(reached[v] && left[v])
	}
	links := scene.Links(l.m, l.s).Links
	type exit struct {
		edge layered.Edge
		rank int
		link int
	}
	exits := make([][]*exit, len(l.list))
	for k, lead := range flow.Links(l.s) {
		if lead.From == nil || lead.To == nil {
			continue
		}
		c := lead.Connector
		from, ok := l.at[lead.From.ID]
		to, ok2 := l.at[lead.To.ID]
		if !ok || !ok2 {
			continue
		}
		e := layered.Edge{From: from, To: to}
		for _, label := range links[k].Labels {
			size := label.Size.X
			if l.down || l.turned {
				size = label.Size.Y
			}
			if size > 0 {
				e.Label += size + labelRoom
			}
		}
		rank := len(l.m.Answers)
		if i := slices.Index(l.m.Answers, c.Text); i >= 0 {
			rank = i
		}
		if g.Nodes[to].Aside { // the flow goes on elsewhere
			rank++
		}
		exits[from] = append(exits[from], &exit{e, rank, k})
	}
	for _, list := range exits {
		slices.SortStableFunc(list, func(a, b *exit) int { return a.rank - b.rank })
		for i, x := range list {
			x.edge.Exit = i
			g.Edges = append(g.Edges, x.edge)
			l.links = append(l.links, x.link)
		}
	}
	return g
}

func (l *layout) bandOf(sym *model.Symbol) int {
	pool, at := l.s.LaneAt(sym.Centre())
	if pool == nil {
		return len(l.lanes)
	}
	return slices.IndexFunc(l.lanes, func(o *lane) bool { return o.pool == pool && o.at == at })
}

// put notes the boxes of a step and its satellites.
func (l *layout) put(i, along, across int) {
	sym := l.list[i]
	l.boxes[sym.ID] = l.box(sym, along, across)
	_, width := l.sizes(sym.Box)
	_, below := l.under(sym)
	for _, remarks := range [2]bool{true, false} {
		length, _ := l.row(i, remarks)
		at := along - length/2
		for _, sat := range l.satellites[i] {
			if sat.Kind.IsAside() != remarks {
				continue
			}
			a, b := l.sizes(sat.Box)
			behind, own := l.under(sat)
			side := width - width/2 + below + beside + b/2
			if remarks != l.swapped[i] {
				side = -(width/2 + beside + own + b - b/2)
			}
			l.boxes[sat.ID] = l.box(sat, at+a/2, across+side)
			at += a + behind + beside
		}
	}
}
