package editor

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
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
	end    model.End
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
	if !g.within { // what is dragged is what was pressed, whatever was selected before
		e.sel = slices.Clone(g.unit)
	}
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
			e.try(&edit.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: g.shift, Held: true})
			return
		}
	}
	e.try(&edit.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: d, Held: true})
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
		by, beside := e.offOthers(g)
		e.copyBy(by)
		e.setBeside(beside)
	case g.mode == dragging && g.target != "":
		if c := e.Sheet().Connector(g.target); c != nil {
			e.putBetween(c, g.box.Moved(g.shift), g.ids[0], nil)
		}
	case g.mode == dragging && g.shift != (geometry.Point{}):
		by, beside := e.offOthers(g)
		if e.doMoving(&edit.MoveItems{Sheet: e.sheetID, IDs: g.ids, By: by}) {
			e.setBeside(beside)
		}
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

// handles are the eight places one pulls to resize: by the edges they move.
var handles = [8]geometry.Point{{X: -1, Y: -1}, {Y: -1}, {X: 1, Y: -1}, {X: 1}, {X: 1, Y: 1}, {Y: 1}, {X: -1, Y: 1}, {X: -1}}
