package editor

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// The keys held while something happens.
const (
	Shift = 1 << iota
	Ctrl
	Alt
)

type mode uint8

const (
	idle mode = iota
	pressed
	dragging
	resizing
	connecting
	regluing
	banding
	placing
	laneSizing
	laneMoving
	stageSizing
	stageMoving
	poolSizing
	bending
	labelling
	tipping
	making
)

// gesture is what the pointer is doing between down and up.
type gesture struct {
	mode  mode
	start geometry.Point
	mods  int
	// moved is set once the pointer has left the spot it was pressed on.
	moved bool
	// id is what was pressed.
	id     string
	side   geometry.Side
	end    diagram.End
	isFrom bool
	handle geometry.Point // which edges are pulled: -1, 0 or 1 each way
	bend   bend
	label  string
	// ids and moving are what a drag takes along.
	ids    []string
	moving map[string]bool
	others []geometry.Box
	box    geometry.Box
	shift  geometry.Point
	guides []arrange.Guide
	target string
	newID  string
	pool   string
	lane   string
	down   bool // the space that is made opens downwards
	// unit is what is selected with the pressed item; within says that it was
	// selected before.
	unit   []string
	within bool
}

// Down is the primary button going down at p; scale is the zoom in
// thousandths.
func (e *Editor) Down(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	e.drop()
	e.ask, e.write, e.writing, e.link, e.gap = nil, nil, false, link{}, ""
	e.g, e.again = gesture{start: p, mods: mods}, nil
	if len(e.tracing) > 0 { // nothing is changed while a case is traced
		e.traceClick(e.hit(p).id)
		return
	}
	g := &e.g
	switch h := e.hit(p); {
	case e.hand != "":
		g.mode = placing
	case e.armed:
		g.mode = making
	case h.glue:
		g.mode, g.id, g.side = connecting, h.id, h.side
		g.newID = e.newID()
	case h.end:
		g.mode, g.id, g.isFrom = regluing, h.id, h.from
	case h.tip:
		g.mode, g.id = tipping, h.id
	case h.handle != (geometry.Point{}):
		g.mode, g.id, g.handle = resizing, h.id, h.handle
		g.box = e.symbol(h.id).Box
		g.moving = map[string]bool{h.id: true}
	case h.stage != "" && h.laneEdge:
		g.mode, g.pool, g.lane = stageSizing, h.id, h.stage
	case h.stage != "":
		e.sel, e.lane = nil, h.stage
		g.mode, g.pool, g.lane = stageMoving, h.id, h.stage
	case h.laneEdge:
		g.mode, g.pool, g.lane = laneSizing, h.id, h.lane
	case h.poolEdge:
		g.mode, g.pool = poolSizing, h.id
	case h.lane != "":
		e.sel, e.lane = nil, h.lane
		g.mode, g.pool, g.lane = laneMoving, h.id, h.lane
	case h.id != "":
		e.lane = ""
		g.mode, g.id, g.label = pressed, h.id, h.label
		g.isFrom = h.labelled
		g.within = slices.Contains(e.sel, h.id)
		g.unit = e.unitOf(h.id)
		if !g.within {
			if mods&(Shift|Ctrl) == 0 {
				e.sel = nil
			}
			e.sel = append(slices.DeleteFunc(e.sel, func(id string) bool { return slices.Contains(g.unit, id) }), g.unit...)
			g.mods &^= Shift // this press added it; it does not take it away
			g.target = h.id
		}
	case mods&Ctrl != 0 && len(e.Sheet().Symbols) > 0:
		g.mode = making
	default:
		g.mode = banding
		e.lane, e.inside = "", ""
		if mods&(Shift|Ctrl) == 0 {
			e.sel = nil
		}
	}
}

// Move is the pointer going to p, with or without the button held.
func (e *Editor) Move(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	g := &e.g
	if g.mode == idle {
		e.still = e.hand == ""
		e.hover = ""
		if len(e.tracing) == 0 {
			e.hover = e.nearSymbol(p)
		}
		return
	}
	if !g.moved {
		if d := p.Sub(g.start); max(geometry.Abs(d.X), geometry.Abs(d.Y)) < e.screen(4) {
			return
		}
		g.moved = true
		if g.mode == pressed {
			e.beginDrag()
		}
	}
	g.mods = g.mods&^(Alt|Shift) | mods&(Alt|Shift)
	e.again = func() { e.follow(p) }
	e.follow(p)
}

// beginDrag gathers what moves and what it can line up with.
func (e *Editor) beginDrag() {
	g, s := &e.g, e.Sheet()
	g.mode = dragging
	g.moving = map[string]bool{}
	g.ids = nil
	for _, id := range e.sel {
		if e.locked(id) && s.Connector(id) == nil {
			e.say("It is locked. Unlock it to move it.")
			continue
		}
		if pool := s.Pool(id); pool != nil {
			g.ids = append(g.ids, id)
			g.box = g.box.Union(pool.Box())
			for _, sym := range s.Symbols {
				if p, _ := s.LaneAt(sym.Centre()); p == pool {
					g.moving[sym.ID] = true
				}
			}
		} else if sym := s.Symbol(id); sym != nil {
			g.ids = append(g.ids, id)
			g.moving[id] = true
			g.box = g.box.Union(sym.Box)
			if sym.Kind.Holds() {
				for _, inner := range s.Inside(sym) {
					g.moving[inner.ID] = true
				}
			}
		}
	}
	for _, id := range e.sel {
		// A connector goes along with its loose ends.
		if c := s.Connector(id); c != nil && !c.Locked && len(g.ids) > 0 && (c.From.Loose() || c.To.Loose()) {
			g.ids = append(g.ids, id)
		}
	}
	for _, sym := range s.Symbols {
		if !g.moving[sym.ID] || g.mods&Ctrl != 0 {
			g.others = append(g.others, sym.Box)
		}
	}
	if len(g.ids) == 0 { // only connectors: the one under the pointer is bent
		g.mode = idle
		if s.Connector(g.id) == nil {
			return
		}
		if g.isFrom {
			if !e.beginLabel(g.id, g.label) {
				g.mode = idle
			}
		} else {
			e.beginBend(g.id, g.start)
		}
	}
}

// follow shows what the gesture would do with the pointer at p.
func (e *Editor) follow(p geometry.Point) {
	g := &e.g
	d := p.Sub(g.start)
	switch g.mode {
	case dragging:
		e.followDrag(d)
	case resizing:
		e.followResize(p)
	case connecting, regluing:
		e.followConnect(p)
	case bending:
		e.try(e.bendEdit(p))
	case labelling:
		if edit := e.labelEdit(p); edit != nil {
			e.try(edit)
		}
	case tipping:
		e.drop()
		if edit := e.tipEdit(p); edit != nil {
			e.try(edit)
		}
	case laneSizing:
		if edit := e.laneSize(p); edit != nil {
			e.try(edit)
		}
	case stageSizing:
		if edit := e.stageSize(p); edit != nil {
			e.try(edit)
		}
	case stageMoving:
		if edit := e.stageMove(p); edit != nil {
			e.try(edit)
		}
	case laneMoving:
		if edit := e.laneMove(p); edit != nil {
			e.try(edit)
		}
	case poolSizing:
		if edit := e.poolSize(p); edit != nil {
			e.try(edit)
		}
	case making:
		e.followSpace(p)
	}
}

func (e *Editor) followDrag(d geometry.Point) {
	g := &e.g
	if g.mods&Shift != 0 {
		if geometry.Abs(d.X) >= geometry.Abs(d.Y) {
			d.Y = 0
		} else {
			d.X = 0
		}
	}
	g.guides = nil
	if g.mods&Alt == 0 {
		snap, guides := arrange.Snap(g.box.Moved(d), g.others, e.screen(6), !e.free)
		if g.mods&Shift != 0 {
			if d.X == 0 {
				snap.X = 0
			} else {
				snap.Y = 0
			}
		}
		d = d.Add(snap)
		g.guides = guides
	}
	g.shift = d
	if g.mods&Ctrl != 0 {
		e.drop()
		return
	}
	g.target = ""
	if sym := e.one(); sym != nil && len(g.ids) == 1 && g.mods&Alt == 0 && e.fitsBetween(sym) {
		e.drop()
		if id, on := e.lineUnder(g.box.Moved(d)); id != "" {
			g.target = id
			g.shift = on.Corner().Sub(g.box.Corner())
			g.guides = nil
			e.try(&diagram.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: g.shift, Held: true})
			return
		}
	}
	e.try(&diagram.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: d, Held: true})
}

// resized returns the box the pulled handle makes.
func (e *Editor) resized(p geometry.Point) geometry.Box {
	g := &e.g
	d := p.Sub(g.start)
	b := g.box
	def := symbols.Of(e.symbol(g.id).Kind)
	snap := func(n int) int {
		if g.mods&Alt != 0 || e.free {
			return n
		}
		return geometry.Snap(n, arrange.Grid/2)
	}
	double := 1 // from the centre both edges move
	if g.mods&Alt != 0 {
		double = 2
	}
	w, h := b.W, b.H
	switch g.handle.X {
	case -1:
		w = b.Right() - snap(b.X+d.X)
	case 1:
		w = snap(b.Right()+d.X) - b.X
	}
	switch g.handle.Y {
	case -1:
		h = b.Bottom() - snap(b.Y+d.Y)
	case 1:
		h = snap(b.Bottom()+d.Y) - b.Y
	}
	w, h = b.W+(w-b.W)*double, b.H+(h-b.H)*double
	if g.mods&Shift != 0 { // keeps its proportions: by the edge that is pulled, at a corner by the width
		if g.handle.X != 0 {
			h = w * b.H / b.W
		} else {
			w = h * b.W / b.H
		}
	}
	w, h = geometry.Clamp(w, def.MinW, diagram.MaxSymbol), geometry.Clamp(h, def.MinH, diagram.MaxSymbol)
	if g.mods&Alt != 0 {
		return geometry.Around(b.Centre(), w, h)
	}
	out := geometry.Box{X: b.X, Y: b.Y, W: w, H: h}
	switch g.handle.X {
	case -1:
		out.X = b.Right() - w
	case 0:
		out.X = b.X + (b.W-w)/2
	}
	switch g.handle.Y {
	case -1:
		out.Y = b.Bottom() - h
	case 0:
		out.Y = b.Y + (b.H-h)/2
	}
	return out
}

func (e *Editor) followResize(p geometry.Point) {
	e.try(&diagram.PlaceItems{Sheet: e.sheetID, Boxes: []diagram.Place{{ID: e.g.id, Box: e.resized(p)}}, Held: true})
}

// connectEdit returns the edit that glues the dragged end to the target.
func (e *Editor) connectEdit(target string, end diagram.End) diagram.Edit {
	g := &e.g
	if g.mode == regluing {
		if g.isFrom {
			return &diagram.SetEnds{Sheet: e.sheetID, ID: g.id, From: &end}
		}
		return &diagram.SetEnds{Sheet: e.sheetID, ID: g.id, To: &end}
	}
	c := e.newConnectorAs(g.newID, diagram.End{Symbol: g.id, Side: g.side.String()}, end)
	return &diagram.AddItems{Sheet: e.sheetID, Connectors: []diagram.Connector{c}}
}

// connectInto makes the edit that leads a connector somewhere, a new one or the end of one that is
// there, unless another one says the same already: from the same symbol to the same, with the
// same label. It reports whether the edit was made.
func (e *Editor) connectInto(edit diagram.Edit) bool {
	var led diagram.Connector
	switch edit := edit.(type) {
	case *diagram.AddItems:
		led = edit.Connectors[0]
	case *diagram.SetEnds:
		if c := e.Sheet().Connector(edit.ID); c != nil {
			led = *c
		}
		before := [2]string{led.From.Symbol, led.To.Symbol}
		if edit.From != nil {
			led.From = *edit.From
		}
		if edit.To != nil {
			led.To = *edit.To
		}
		if before == [2]string{led.From.Symbol, led.To.Symbol} { // only another side
			return e.do(edit)
		}
	}
	for _, c := range e.Sheet().Connectors {
		if c.ID == led.ID || led.From.Symbol == "" || led.To.Symbol == "" || c.From.Symbol != led.From.Symbol || c.To.Symbol != led.To.Symbol || c.Text != led.Text {
			continue
		}
		if led.Text == "" {
			e.say("A connector without a label leads there already. Write a label on it first, or lead this one elsewhere.")
		} else {
			e.say("A connector labelled “%s” leads there already. Label one of the two differently first, or lead this one elsewhere.", led.Text)
		}
		return false
	}
	return e.do(edit)
}

// landing returns where a connector dropped at p would be glued.
func (e *Editor) landing(p geometry.Point) diagram.End {
	g := &e.g
	id := e.symbolAt(p, e.reach(8))
	if id == "" && (g.mode == connecting || !g.isFrom) {
		return e.joining(p)
	}
	if id == "" || g.mode == connecting && id == g.id {
		return diagram.End{}
	}
	if g.mode == regluing {
		if c := e.Sheet().Connector(g.id); c != nil && (g.isFrom && c.To.Symbol == id || !g.isFrom && c.From.Symbol == id) {
			return diagram.End{}
		}
	}
	end := diagram.End{Symbol: id}
	sym := e.symbol(id)
	for side := range geometry.Side(4) {
		if at := symbols.GluePoint(sym, side); at.Manhattan(p) <= e.reach(14) && !middle(sym.Box).Contains(p) {
			end.Side = side.String()
		}
	}
	return end
}

// joining returns the end that joins the line at p, if the connector in hand
// may lead there.
func (e *Editor) joining(p geometry.Point) diagram.End {
	g := &e.g
	e.drop()
	id := e.lineAt(p, e.reach(8), g.id, g.newID)
	if id == "" {
		return diagram.End{}
	}
	end := diagram.End{Connector: id}
	if trial, err := diagram.Attempt(e.m, e.connectEdit(id, end)); err == nil {
		trial.Rollback()
		return end
	}
	return diagram.End{}
}

func (e *Editor) followConnect(p geometry.Point) {
	g := &e.g
	end := e.landing(p)
	if end == g.end && e.doc.Showing() && !end.Loose() {
		return
	}
	g.end = end
	g.target = end.Symbol
	if end.Connector != "" {
		g.target = end.Connector
	}
	if end.Loose() {
		e.drop()
		if g.mode == regluing || g.mods&Alt != 0 { // it may stay loose
			e.try(e.connectEdit("", diagram.End{At: p}))
		}
		return
	}
	e.try(e.connectEdit(g.target, end))
}

// Up is the button going up at p.
func (e *Editor) Up(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	g := e.g
	if g.moved {
		e.g.mods = g.mods&^(Alt|Shift) | mods&(Alt|Shift)
		e.follow(p)
		g = e.g
	}
	e.drop()
	e.again = nil
	switch {
	case g.mode == placing:
		e.place(p, g)
	case g.mode == pressed:
		e.click(g)
	case g.mode == banding && g.moved:
		e.band(geometry.Between(g.start, p), g.mods&(Shift|Ctrl) != 0, g.mods&Alt != 0)
	case g.mode == making && g.moved:
		e.armed = false
		e.g = g
		edit := e.spaceEdit(p)
		e.g = gesture{}
		if edit != nil {
			e.doMoving(edit)
		}
	case g.mode == making:
		e.armed = false
		e.say("Press where you need room and drag: right or down opens a gap, back closes it.")
	case g.mode == dragging && g.mods&Ctrl != 0:
		e.copyBy(g.shift)
	case g.mode == dragging && g.target != "":
		if c := e.Sheet().Connector(g.target); c != nil {
			e.putBetween(c, g.box.Moved(g.shift), g.ids[0], nil)
		}
	case g.mode == dragging && g.shift != (geometry.Point{}):
		e.doMoving(&diagram.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: g.shift})
	case g.mode == bending && g.moved:
		e.g = g
		edit := e.bendEdit(p)
		e.g = gesture{}
		e.layBends(edit)
	case g.mode == labelling && g.moved:
		if edit := e.labelEdit(p); edit != nil {
			e.do(edit)
		}
	case g.mode == tipping && g.moved:
		if edit := e.tipEdit(p); edit != nil {
			e.do(edit)
		}
	case g.mode == resizing && g.moved:
		e.resize(g.id, e.resized(p))
	case (g.mode == connecting || g.mode == regluing) && g.moved:
		e.connect(p)
	case g.mode == laneSizing && g.moved:
		if edit := e.laneSize(p); edit != nil {
			e.do(edit)
		}
	case g.mode == stageSizing && g.moved:
		if edit := e.stageSize(p); edit != nil {
			e.doMoving(edit)
		}
	case g.mode == stageMoving && g.moved:
		if edit := e.stageMove(p); edit != nil {
			e.doMoving(edit)
		}
	case g.mode == laneMoving && g.moved:
		if edit := e.laneMove(p); edit != nil {
			e.doMoving(edit)
		}
	case g.mode == poolSizing && g.moved:
		if edit := e.poolSize(p); edit != nil {
			e.do(edit)
		}
	case g.mode == connecting:
		e.sel, e.lane = []string{g.id}, ""
	}
	if e.g.mode != idle {
		e.g = gesture{}
	}
	if len(e.tracing) == 0 {
		e.hover = e.nearSymbol(p)
	}
}

// click ends a press that did not move: with Shift or Ctrl a selected item is
// taken out of the selection, without them it becomes the only one.
func (e *Editor) click(g gesture) {
	if g.target == g.id {
		return
	}
	if g.mods&(Shift|Ctrl) != 0 {
		e.sel = slices.DeleteFunc(e.sel, func(id string) bool { return slices.Contains(g.unit, id) })
		return
	}
	if g.within && len(g.unit) > 1 && len(g.unit) == len(e.sel) { // a second click goes inside the group
		e.enter(g.id)
		return
	}
	e.sel = g.unit
}

// placeBox returns the box of a new symbol with the pointer at p.
func (e *Editor) placeBox(kind diagram.Kind, p geometry.Point, g *gesture) geometry.Box {
	if g.mode == placing && g.moved {
		a := geometry.Point{X: geometry.Snap(g.start.X, arrange.Grid), Y: geometry.Snap(g.start.Y, arrange.Grid)}
		b := geometry.Point{X: geometry.Snap(p.X, arrange.Grid), Y: geometry.Snap(p.Y, arrange.Grid)}
		box := geometry.Between(a, b)
		box.W, box.H = max(box.W, 2*arrange.Grid), max(box.H, 2*arrange.Grid)
		return box
	}
	box := arrange.Standard(e.Sheet(), kind, p)
	if id, on := e.lineFor(kind, box, g.mods); id != "" {
		return on
	}
	return e.settled(kind, box, g.mods)
}

// settled brings the box of a new symbol in line with the others. A step does not
// land on another symbol, unless Alt says so.
func (e *Editor) settled(kind diagram.Kind, box geometry.Box, mods int) geometry.Box {
	var others []geometry.Box
	for _, sym := range e.Sheet().Symbols {
		others = append(others, sym.Box)
	}
	d, _ := arrange.Snap(box, others, e.screen(6), !e.free)
	if box = e.offNames(box.Moved(d)); !kind.IsAside() && mods&Alt == 0 {
		box = arrange.Free(e.Sheet(), box)
	}
	return box
}

// offNames moves a box that lies on the name of a lane or pool inside, beside the name.
func (e *Editor) offNames(box geometry.Box) geometry.Box {
	pool, _ := e.Sheet().LaneAt(box.Centre())
	if pool == nil {
		return box
	}
	own := pool.Own(box)
	if begin := pool.Content() + diagram.LanePad; own.X < begin && own.X+own.W/2 < begin {
		own.X = geometry.Snap(begin+arrange.Grid-1, arrange.Grid)
	}
	return pool.Own(own)
}

func (e *Editor) place(p geometry.Point, g gesture) {
	sym := e.newSymbol(e.hand, e.placeBox(e.hand, p, &g))
	add := &diagram.AddItems{Sheet: e.sheetID, Symbols: []diagram.Symbol{sym}, Behind: sym.Kind.Holds()}
	line := ""
	if !g.moved {
		line, _ = e.lineFor(sym.Kind, sym.Box, g.mods)
	}
	if !e.stick {
		e.hand = ""
	}
	ok := false
	if c := e.Sheet().Connector(line); c != nil {
		ok = e.putBetween(c, sym.Box, sym.ID, add)
	} else {
		ok = e.do(add)
	}
	if ok {
		e.sel, e.lane = []string{sym.ID}, ""
		switch sym.Kind {
		case diagram.PlainText:
			e.writeNew(sym.ID)
		case diagram.Picture:
			e.open = "picture-open"
		}
	}
}

// roomy returns a box for a symbol that is large enough for its text.
func (e *Editor) roomy(sym *diagram.Symbol, b geometry.Box) geometry.Box {
	after := *sym
	after.Box = b
	if fit := arrange.Fit(e.m, e.Sheet(), &after); len(fit) > 0 {
		e.say("The symbol stays large enough for its text.")
		return fit[0].Box // the others of its kind stay as they are
	}
	return b
}

func (e *Editor) resize(id string, b geometry.Box) {
	b = e.roomy(e.symbol(id), b)
	e.doMoving(&diagram.PlaceItems{Sheet: e.sheetID, Boxes: []diagram.Place{{ID: id, Box: b}}})
}

func (e *Editor) connect(p geometry.Point) {
	g := e.g
	end := e.landing(p)
	if g.mode == regluing && end.Loose() || g.mods&Alt != 0 && end.Loose() {
		end.At = p
		if e.do(e.connectEdit("", end)) {
			e.say("This end is loose. Drop it on a symbol to glue it.")
			if g.mode == connecting {
				e.sel = []string{g.newID}
			}
		}
		return
	}
	if !end.Loose() {
		if e.connectInto(e.connectEdit(end.Symbol, end)) && g.mode == connecting {
			e.sel = []string{g.newID}
			e.askAnswer(g.newID)
		}
		return
	}
	// Over the empty desk a new step stands there, connected, ready to write.
	box := e.stepBox(p)
	sym := e.newSymbol(diagram.Process, box)
	c := e.newConnectorAs(g.newID, diagram.End{Symbol: g.id, Side: g.side.String()}, diagram.End{Symbol: sym.ID})
	if e.do(&diagram.AddItems{Sheet: e.sheetID, Symbols: []diagram.Symbol{sym}, Connectors: []diagram.Connector{c}}) {
		e.sel = []string{sym.ID}
		e.askAnswer(g.newID)
		e.writeNew(sym.ID)
	}
}

// stepBox returns where the step stands that a connector let go at p leads to.
func (e *Editor) stepBox(p geometry.Point) geometry.Box {
	return e.settled(diagram.Process, arrange.Standard(e.Sheet(), diagram.Process, p), 0)
}

func (e *Editor) laneSize(p geometry.Point) diagram.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil {
		return nil
	}
	i := pool.LaneIndex(e.g.lane)
	if i < 0 {
		return nil
	}
	e.drop()
	own := p.Turned(pool.Down)
	h := max(geometry.Snap(own.Y-pool.Own(pool.LaneBox(i)).Y, arrange.Grid), diagram.MinLane)
	return &diagram.SetLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.g.lane, H: &h}
}

// laneMove returns the edit that takes the lane in the hand to where p lies: past
// those whose middle it has passed.
func (e *Editor) laneMove(p geometry.Point) diagram.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil || pool.LaneIndex(e.g.lane) < 0 {
		return nil
	}
	e.drop()
	from := pool.LaneIndex(e.g.lane)
	to, own := from, p.Turned(pool.Down)
	for i := range pool.Lanes {
		switch middle := pool.Own(pool.LaneBox(i)).Centre().Y; {
		case i < from && own.Y < middle:
			to = min(to, i)
		case i > from && own.Y > middle:
			to = max(to, i)
		}
	}
	if to == from {
		return nil
	}
	return &diagram.MoveLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.g.lane, To: to}
}

func (e *Editor) poolSize(p geometry.Point) diagram.Edit {
	pool := e.Sheet().Pool(e.g.pool)
	if pool == nil {
		return nil
	}
	e.drop()
	w := max(geometry.Snap(p.Turned(pool.Down).X-pool.Own(pool.Box()).X, arrange.Grid), diagram.MinPool)
	return &diagram.SetPool{Sheet: e.sheetID, Pool: pool.ID, W: &w}
}

// Double is a double click at p: it opens what is there for writing.
func (e *Editor) Double(p geometry.Point) {
	if len(e.tracing) > 0 {
		return
	}
	e.cancel()
	h := e.hit(p)
	switch {
	case h.stage != "" && !h.laneEdge:
		e.startWriting(h.stage, false)
	case h.lane != "" && !h.laneEdge:
		e.startWriting(h.lane, false)
	case h.id != "" && h.handle == (geometry.Point{}) && !h.laneEdge && !h.poolEdge:
		sym := e.symbol(h.id)
		if sym != nil {
			e.inside = sym.Group
		}
		if sym != nil && sym.Kind.ShowsPicture() && !e.locked(sym.ID) { // what it says is its picture
			e.sel, e.lane, e.open = []string{sym.ID}, "", "picture-open"
			return
		}
		e.startWritingAt(h.id, h.label, false)
	}
}

// hit is what lies under the pointer.
type hit struct {
	id       string
	glue     bool
	side     geometry.Side
	handle   geometry.Point
	label    string
	labelled bool // a label of the connector was hit, not its line
	end      bool
	from     bool
	tip      bool
	lane     string
	stage    string
	laneEdge bool // of the lane, or the stage
	poolEdge bool
}

func (e *Editor) hit(p geometry.Point) hit {
	e.refresh()
	s := e.Sheet()
	if sym := e.one(); sym != nil && sym.Tip != (diagram.Tip{}) && !sym.Locked { // it may lie in the middle of what it is about
		if at, ok := e.tipOf(sym); ok && at.Manhattan(p) <= e.reach(8) {
			return hit{id: sym.ID, tip: true}
		}
	}
	if id := e.symbolAt(p, 0); id != "" && middle(s.Symbol(id).Box).Contains(p) {
		return hit{id: id} // however small it is on the screen
	}
	if sym := e.one(); sym != nil && !sym.Locked {
		if at, ok := e.tipOf(sym); ok && at.Manhattan(p) <= e.reach(8) {
			return hit{id: sym.ID, tip: true}
		}
		for _, h := range handles {
			if at := e.handleAt(sym.Box, h); max(geometry.Abs(at.X-p.X), geometry.Abs(at.Y-p.Y)) <= e.reach(6) {
				return hit{id: sym.ID, handle: h}
			}
		}
	}
	if len(e.sel) == 1 {
		if i := slices.IndexFunc(s.Connectors, func(c *diagram.Connector) bool { return c.ID == e.sel[0] && !c.Locked }); i >= 0 {
			pts := e.courses[i].Points
			if pts[0].Manhattan(p) <= e.reach(9) {
				return hit{id: e.sel[0], end: true, from: true}
			}
			if pts[len(pts)-1].Manhattan(p) <= e.reach(9) {
				return hit{id: e.sel[0], end: true}
			}
		}
	}
	if e.hover != "" {
		if sym := s.Symbol(e.hover); sym != nil {
			for side := range geometry.Side(4) {
				if symbols.GluePoint(sym, side).Manhattan(p) <= e.reach(8) {
					return hit{id: sym.ID, glue: true, side: side}
				}
			}
		}
	}
	if id := e.symbolAt(p, 0); id != "" {
		return hit{id: id}
	}
	if id, at, ok := e.labelHit(p); ok {
		return hit{id: id, label: at, labelled: true}
	}
	if id := e.lineAt(p, e.reach(6)); id != "" {
		return hit{id: id}
	}
	for i := len(s.Pools) - 1; i >= 0; i-- {
		if h, ok := e.hitPool(s.Pools[i], p); ok {
			return h
		}
	}
	return hit{}
}

// middle returns the part of a box that is the symbol itself at any zoom, whatever there is to
// take hold of round it: its inner half.
func middle(b geometry.Box) geometry.Box {
	return geometry.Box{X: b.X + b.W/4, Y: b.Y + b.H/4, W: b.W / 2, H: b.H / 2}
}

func (e *Editor) hitPool(pool *diagram.Pool, p geometry.Point) (hit, bool) {
	near := e.reach(5)
	b, p := pool.Own(pool.Box()), p.Turned(pool.Down)
	if !b.Grown(near).Contains(p) {
		return hit{}, false
	}
	if geometry.Abs(p.X-b.Right()) <= near {
		return hit{id: pool.ID, poolEdge: true}, true
	}
	if h, ok := e.hitStage(pool, p); ok {
		return h, true
	}
	for i, l := range pool.Lanes {
		lb := pool.Own(pool.LaneBox(i))
		if geometry.Abs(p.Y-lb.Bottom()) <= near && p.X >= lb.X {
			return hit{id: pool.ID, lane: l.ID, laneEdge: true}, true
		}
		if p.Y >= lb.Y && p.Y < lb.Bottom() && p.X >= lb.X && p.X < pool.Content() {
			return hit{id: pool.ID, lane: l.ID}, true
		}
	}
	if p.X >= b.X && p.X <= b.X+diagram.PoolHead {
		return hit{id: pool.ID}, true
	}
	return hit{}, false
}

func corners(b geometry.Box) [4]geometry.Point {
	return [4]geometry.Point{{X: b.X, Y: b.Y}, {X: b.Right(), Y: b.Y}, {X: b.Right(), Y: b.Bottom()}, {X: b.X, Y: b.Bottom()}}
}

// handles are the eight places one pulls to resize: by the edges they move.
var handles = [8]geometry.Point{{X: -1, Y: -1}, {Y: -1}, {X: 1, Y: -1}, {X: 1}, {X: 1, Y: 1}, {Y: 1}, {X: -1, Y: 1}, {X: -1}}

// handleAt returns where a handle lies: off the outline, clear of the glue
// points that lie on it.
func (e *Editor) handleAt(b geometry.Box, h geometry.Point) geometry.Point {
	off := e.screen(4)
	if h.X == 0 || h.Y == 0 {
		off = e.screen(13)
	}
	b = b.Grown(off)
	c := b.Centre()
	return geometry.Point{X: c.X + h.X*(b.W/2), Y: c.Y + h.Y*(b.H/2)}
}

// symbolAt returns the topmost symbol whose box, grown by slack, contains p. A
// frame is grabbed by its edge and by its name only.
func (e *Editor) symbolAt(p geometry.Point, slack int) string {
	list := e.Sheet().Symbols
	for i := len(list) - 1; i >= 0; i-- {
		sym := list[i]
		if !sym.Grown(slack).Contains(p) {
			continue
		}
		if symbols.Of(sym.Kind).Hollow {
			inner := sym.Grown(-e.screen(6))
			inner.Y, inner.H = sym.Y+22*px, max(sym.H-22*px-e.screen(6), 0)
			if inner.Contains(p) || p.Y < sym.Y+22*px && p.Y > sym.Y+e.screen(6) && p.X > sym.X+sym.W/2 && p.X < sym.Right()-e.screen(6) {
				continue
			}
		}
		return sym.ID
	}
	return ""
}

func (e *Editor) nearSymbol(p geometry.Point) string { return e.symbolAt(p, e.reach(10)) }
