package editor

import (
	"plaintracer/core/geometry"
)

// The keys held while something happens.
const (
	Shift = 1 << iota
	Ctrl
	Alt
)

// Down is the primary button going down at p; scale is the zoom in
// thousandths.
func (e *Pointer) Down(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	e.drop()
	e.ask, e.write, e.writing, e.link, e.gap = nil, nil, false, link{}, ""
	e.inHand, e.again = nil, nil
	if len(e.tracing) > 0 { // nothing is changed while a case is traced
		e.Tracing.traceClick(e.hit(p).id)
		return
	}
	e.inHand = e.grab(e.hit(p), grip{e: e, start: p, mods: mods})
}

// Move is the pointer going to p, with or without the button held.
func (e *Pointer) Move(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	under := e.underway()
	if under == nil {
		e.still = e.hand == ""
		e.hover = ""
		if len(e.tracing) == 0 {
			e.hover = e.nearSymbol(p)
		}
		return
	}
	g := under.held()
	if !g.moved {
		if d := p.Sub(g.start); max(geometry.Abs(d.X), geometry.Abs(d.Y)) < e.screen(4) {
			return
		}
		g.moved = true
		if under = under.begin(); under == nil {
			e.inHand = nil
			return
		}
		e.inHand, g = under, under.held()
	}
	g.mods = g.mods&^(Alt|Shift) | mods&(Alt|Shift)
	e.again = func() { under.follow(p) }
	under.follow(p)
}

// underway is the gesture under way; nil for none.
func (e *Pointer) underway() Gesture {
	g, _ := e.inHand.(Gesture)
	return g
}

// Up is the button going up at p.
func (e *Pointer) Up(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	g := e.underway()
	if g != nil && g.held().moved {
		g.held().mods = g.held().mods&^(Alt|Shift) | mods&(Alt|Shift)
		g.follow(p)
	}
	e.drop()
	e.again, e.inHand = nil, nil
	if g != nil {
		g.up(p)
	}
	if len(e.tracing) == 0 {
		e.hover = e.nearSymbol(p)
	}
}

// Double is a double click at p: it opens what is there for writing.
func (e *Pointer) Double(p geometry.Point) {
	if len(e.tracing) > 0 {
		return
	}
	e.cancel()
	h := e.hit(p)
	switch {
	case h.stage != "" && !h.laneEdge:
		e.Writing.startWriting(h.stage, false)
	case h.lane != "" && !h.laneEdge:
		e.Writing.startWriting(h.lane, false)
	case h.id != "" && h.handle == (geometry.Point{}) && !h.laneEdge && !h.poolEdge:
		sym := e.symbol(h.id)
		if sym != nil {
			e.inside = sym.Group
		}
		if sym != nil && sym.Kind.ShowsPicture() && !e.locked(sym.ID) { // what it says is its picture
			e.sel, e.lane, e.open = []string{sym.ID}, "", "picture-open"
			return
		}
		e.Writing.startWritingAt(h.id, h.label, false)
	}
}

// handles are the eight places one pulls to resize: by the edges they move.
var handles = [8]geometry.Point{{X: -1, Y: -1}, {Y: -1}, {X: 1, Y: -1}, {X: 1}, {X: 1, Y: 1}, {Y: 1}, {X: -1, Y: 1}, {X: -1}}
