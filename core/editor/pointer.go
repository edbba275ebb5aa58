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
func (e *Editor) Down(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	e.drop()
	e.ask, e.write, e.writing, e.link, e.gap = nil, nil, false, link{}, ""
	e.g, e.again = nil, nil
	if len(e.tracing) > 0 { // nothing is changed while a case is traced
		e.traceClick(e.hit(p).id)
		return
	}
	e.g = e.grab(e.hit(p), grip{e: e, start: p, mods: mods})
}

// Move is the pointer going to p, with or without the button held.
func (e *Editor) Move(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	if e.g == nil {
		e.still = e.hand == ""
		e.hover = ""
		if len(e.tracing) == 0 {
			e.hover = e.nearSymbol(p)
		}
		return
	}
	g := e.g.held()
	if !g.moved {
		if d := p.Sub(g.start); max(geometry.Abs(d.X), geometry.Abs(d.Y)) < e.screen(4) {
			return
		}
		g.moved = true
		if e.g = e.g.begin(); e.g == nil {
			return
		}
		g = e.g.held()
	}
	g.mods = g.mods&^(Alt|Shift) | mods&(Alt|Shift)
	under := e.g
	e.again = func() { under.follow(p) }
	under.follow(p)
}

// Up is the button going up at p.
func (e *Editor) Up(p geometry.Point, scale, mods int) {
	e.scale, e.at = scale, p
	g := e.g
	if g != nil && g.held().moved {
		g.held().mods = g.held().mods&^(Alt|Shift) | mods&(Alt|Shift)
		g.follow(p)
	}
	e.drop()
	e.again, e.g = nil, nil
	if g != nil {
		g.up(p)
	}
	if len(e.tracing) == 0 {
		e.hover = e.nearSymbol(p)
	}
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
