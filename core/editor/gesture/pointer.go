package gesture

import (
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Down is the primary button going down at p; scale is the zoom in
// thousandths.
func (e *Pointer) Down(p geometry.Point, scale, mods int) {
	e.Scale, e.At = scale, p
	e.Drop()
	if e.Link.On && e.Lines.LinkTo(e.NearSymbol(p)) {
		e.InHand = nil
		return
	}
	e.Placing.Bring(model.Process, false)
	e.Ask, e.TextField, e.InField, e.Link, e.Gap = nil, nil, false, desk.Link{}, ""
	e.InHand, e.Again, e.OneByOne = nil, nil, false
	if len(e.Tracing) > 0 { // nothing is changed while a case is traced
		e.Cases.TraceClick(e.Hit(p).ID)
		return
	}
	e.InHand = e.grab(e.Hit(p), grip{e: e, start: p, mods: mods})
}

// Move is the pointer going to p, with or without the button held.
func (e *Pointer) Move(p geometry.Point, scale, mods int) {
	e.Scale, e.At = scale, p
	under := e.underway()
	if under == nil {
		e.Still = e.Hand == ""
		e.Hover = ""
		if len(e.Tracing) == 0 {
			e.Hover = e.NearSymbol(p)
		}
		return
	}
	g := under.held()
	if !g.moved {
		if d := p.Sub(g.start); max(geometry.Abs(d.X), geometry.Abs(d.Y)) < e.Screen(4) {
			return
		}
		g.moved = true
		if under = under.begin(); under == nil {
			e.InHand = nil
			return
		}
		e.InHand, g = under, under.held()
	}
	g.mods = g.mods&^(desk.Alt|desk.Shift) | mods&(desk.Alt|desk.Shift)
	e.Again = func() { under.follow(p) }
	under.follow(p)
}

// underway is the gesture under way; nil for none.
func (e *Pointer) underway() Gesture {
	g, _ := e.InHand.(Gesture)
	return g
}

// Up is the button going up at p.
func (e *Pointer) Up(p geometry.Point, scale, mods int) {
	e.Scale, e.At = scale, p
	g := e.underway()
	if g != nil && g.held().moved {
		g.held().mods = g.held().mods&^(desk.Alt|desk.Shift) | mods&(desk.Alt|desk.Shift)
		g.follow(p)
	}
	e.Drop()
	e.Again, e.InHand = nil, nil
	if g != nil {
		g.up(p)
	}
	if len(e.Tracing) == 0 {
		e.Hover = e.NearSymbol(p)
	}
}

// Double is a double click at p: it opens what is there for writing.
func (e *Pointer) Double(p geometry.Point) {
	if len(e.Tracing) > 0 {
		return
	}
	e.Cancel()
	h := e.Hit(p)
	if h.Glue || h.Handle != (geometry.Point{}) {
		h = e.Under(p)
	}
	switch {
	case h.Stage != "" && !h.LaneEdge:
		e.Writing.StartWriting(h.Stage, false)
	case h.Cell != (desk.Spot{}):
		e.Journeys.Open(h.Cell)
	case h.Lane != "" && !h.LaneEdge:
		e.Writing.StartWriting(h.Lane, false)
	case h.ID != "" && !h.LaneEdge && !h.PoolEdge:
		sym := e.Symbol(h.ID)
		if sym != nil {
			e.Inside = sym.Group
		}
		if sym != nil && sym.Kind.ShowsPicture() && !e.Locked(sym.ID) { // what it says is its picture
			e.Sel, e.Lane, e.ToOpen = []string{sym.ID}, "", "picture-open"
			return
		}
		e.Writing.StartWritingAt(h.ID, h.Label, false)
	}
}

// Pointer is what the pointer does.
type Pointer struct {
	*desk.Window
	*desk.Desk
}
