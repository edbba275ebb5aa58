package desk

import (
	"cmp"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Hit is what lies under the pointer.
type Hit struct {
	ID       string
	Glue     bool
	Side     geometry.Side
	Handle   geometry.Point
	Label    string
	Labelled bool // a label of the connector was hit, not its line
	End      bool
	From     bool
	Tip      bool
	Lane     string
	Stage    string
	LaneEdge bool // of the lane, or the stage
	PoolEdge bool
	// Cell is the cell of a journey.
	Cell Spot
}

// Hit returns what lies under the pointer at p: what is offered there to take hold of, else what is drawn there.
func (e *Window) Hit(p geometry.Point) Hit {
	if h, ok := e.offered(p); ok {
		return h
	}
	return e.Under(p)
}

// offered returns what is offered at p to be taken hold of: the handles of what is selected, and the bars beside a
// symbol from which connectors are drawn.
func (e *Window) offered(p geometry.Point) (Hit, bool) {
	e.Refresh()
	s := e.Sheet()
	// it may lie in the middle of what it is about
	if sym := e.One(); sym != nil && sym.Tip != (model.Tip{}) && !sym.Locked {
		if at, ok := e.TipOf(sym); ok && at.Manhattan(p) <= e.Reach(8) {
			return Hit{ID: sym.ID, Tip: true}, true
		}
	}
	on := e.SymbolAt(p, 0)
	if on != "" && Middle(s.Symbol(on).Box).Contains(p) {
		return Hit{}, false // it is the symbol itself, however small it is on the screen
	}
	one := e.One()
	if one != nil && (one.Locked || s.IsCell(one)) {
		one = nil
	}
	if one != nil {
		if at, ok := e.TipOf(one); ok && at.Manhattan(p) <= e.Reach(8) {
			return Hit{ID: one.ID, Tip: true}, true
		}
		for i, at := range Corners(one.Grown(e.Screen(cornersOff))) {
			if max(geometry.Abs(at.X-p.X), geometry.Abs(at.Y-p.Y)) <= e.Reach(6) {
				return Hit{ID: one.ID, Handle: cornerHandles[i]}, true
			}
		}
	}
	if len(e.Sel) == 1 {
		if i := slices.IndexFunc(s.Connectors,
			func(c *model.Connector) bool { return c.ID == e.Sel[0] && !c.Locked }); i >= 0 {
			pts := e.Routed[i].Points
			if pts[0].Manhattan(p) <= e.Reach(9) {
				return Hit{ID: e.Sel[0], End: true, From: true}, true
			}
			if pts[len(pts)-1].Manhattan(p) <= e.Reach(9) {
				return Hit{ID: e.Sel[0], End: true}, true
			}
		}
	}
	for _, sym := range [...]*model.Symbol{one, s.Symbol(e.Hover)} {
		if sym == nil || e.OnJourney() || on != "" && on != sym.ID {
			continue
		}
		if side, ok := e.beside(sym, p); ok {
			return Hit{ID: sym.ID, Glue: true, Side: side}, true
		}
	}
	if one != nil && !e.coarse && (on == "" || on == one.ID) {
		if h, ok := e.outlineAt(one.Box, p); ok {
			return Hit{ID: one.ID, Handle: h}, true
		}
	}
	return Hit{}, false
}

// How far, in pixels of the screen, the corners by which one resizes stand off a symbol, and the bars from which
// connectors are drawn reach out from it and into it; and how far beside those one may press.
const (
	cornersOff = 4
	BarOut     = 12
	BarIn      = 4
	barSlack   = 8
)

// GlueAt returns where a connector meets a symbol on a side: at its outline, below it under its values.
func (e *Window) GlueAt(sym *model.Symbol, side geometry.Side) geometry.Point {
	p := symbols.GluePoint(sym, side)
	if side == geometry.Bottom {
		p.Y += e.M.Under(e.Sheet(), sym)
	}
	return p
}

// beside returns the side of a symbol whose bar lies at p.
func (e *Window) beside(sym *model.Symbol, p geometry.Point) (geometry.Side, bool) {
	for side := range geometry.Side(4) {
		d, step := p.Sub(e.GlueAt(sym, side)), side.Step()
		out, across := d.X*step.X+d.Y*step.Y, geometry.Abs(d.X*step.Y)+geometry.Abs(d.Y*step.X)
		if across <= e.Reach(barSlack) && out <= e.Reach(BarOut) && out >= -e.Reach(barSlack) {
			return side, true
		}
	}
	return 0, false
}

// outlineAt returns the handle that an edge of a box is at p.
func (e *Window) outlineAt(b geometry.Box, p geometry.Point) (handle geometry.Point, ok bool) {
	const slack = 3
	near := e.Screen(slack)
	if !b.Grown(near).Contains(p) || b.W < 8*near || b.H < 8*near {
		return geometry.Point{}, false
	}
	switch {
	case p.X <= b.X+near:
		handle.X = -1
	case p.X >= b.Right()-near:
		handle.X = 1
	case p.Y <= b.Y+near:
		handle.Y = -1
	case p.Y >= b.Bottom()-near:
		handle.Y = 1
	}
	return handle, handle != geometry.Point{}
}

// Under returns what is drawn at p.
func (e *Window) Under(p geometry.Point) Hit {
	e.Refresh()
	s := e.Sheet()
	if id := e.SymbolAt(p, 0); id != "" {
		return Hit{ID: id}
	}
	if id, at, ok := e.labelHit(p); ok {
		return Hit{ID: id, Label: at, Labelled: true}
	}
	if id := e.LineAt(p, e.Reach(8)); id != "" {
		return Hit{ID: id}
	}
	for i := len(s.Pools) - 1; i >= 0; i-- {
		if h, ok := e.hitPool(s.Pools[i], p); ok {
			return h
		}
	}
	return Hit{}
}

// Middle returns the part of a box that is the symbol itself at any zoom, whatever there is to
// take hold of round it: its inner half.
func Middle(b geometry.Box) geometry.Box {
	return geometry.Box{X: b.X + b.W/4, Y: b.Y + b.H/4, W: b.W / 2, H: b.H / 2}
}

func (e *Window) hitPool(pool *model.Pool, p geometry.Point) (Hit, bool) {
	near := e.Reach(5)
	b, p := pool.Own(pool.Box()), p.Turned(pool.Down)
	if !b.Grown(near).Contains(p) {
		return Hit{}, false
	}
	if pool.Journey {
		return e.hitJourney(pool, p), true
	}
	if geometry.Abs(p.X-b.Right()) <= near {
		return Hit{ID: pool.ID, PoolEdge: true}, true
	}
	if h, ok := e.hitStage(pool, p); ok {
		return h, true
	}
	for i, l := range pool.Lanes {
		lb := pool.Own(pool.LaneBox(i))
		if geometry.Abs(p.Y-lb.Bottom()) <= near && p.X >= lb.X {
			return Hit{ID: pool.ID, Lane: l.ID, LaneEdge: true}, true
		}
		if p.Y >= lb.Y && p.Y < lb.Bottom() && p.X >= lb.X && p.X < pool.Content() {
			return Hit{ID: pool.ID, Lane: l.ID}, true
		}
	}
	if p.X >= b.X && p.X <= b.X+model.PoolHead {
		return Hit{ID: pool.ID}, true
	}
	return Hit{}, false
}

// Corners returns those of a box, from the upper left clockwise.
func Corners(b geometry.Box) [4]geometry.Point {
	return [4]geometry.Point{{X: b.X, Y: b.Y}, {X: b.Right(), Y: b.Y}, {X: b.Right(), Y: b.Bottom()},
		{X: b.X, Y: b.Bottom()}}
}

// SymbolAt returns the topmost symbol whose box, grown by slack, contains p. A
// frame is grabbed by its edge and by its name only.
func (e *Window) SymbolAt(p geometry.Point, slack int) string {
	list := e.Sheet().Symbols
	for i := len(list) - 1; i >= 0; i-- {
		sym := list[i]
		if !sym.Grown(slack).Contains(p) || e.Sheet().Hides(sym.ID) {
			continue
		}
		if symbols.Of(sym.Kind).Hollow {
			inner := sym.Grown(-e.Screen(6))
			inner.Y, inner.H = sym.Y+22*Px, max(sym.H-22*Px-e.Screen(6), 0)
			if inner.Contains(p) || p.Y < sym.Y+22*Px && p.Y > sym.Y+e.Screen(6) && p.X > sym.X+sym.W/2 &&
				p.X < sym.Right()-e.Screen(6) {
				continue
			}
		}
		return sym.ID
	}
	return ""
}

// NearSymbol returns the symbol at p, or one that is close to it.
func (e *Window) NearSymbol(p geometry.Point) string {
	return cmp.Or(e.SymbolAt(p, 0), e.SymbolAt(p, e.Reach(BarOut)))
}

// The keys held while something happens.
const (
	Shift = 1 << iota
	Ctrl
	Alt
)

// cornerHandles are the edges that the corners of a box move, in the order of Corners.
var cornerHandles = [4]geometry.Point{{X: -1, Y: -1}, {X: 1, Y: -1}, {X: 1, Y: 1}, {X: -1, Y: 1}}
