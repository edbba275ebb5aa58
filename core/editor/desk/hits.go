package desk

import (
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

// Hit returns what lies under the pointer at p.
func (e *Window) Hit(p geometry.Point) Hit {
	e.Refresh()
	s := e.Sheet()
	// it may lie in the middle of what it is about
	if sym := e.One(); sym != nil && sym.Tip != (model.Tip{}) && !sym.Locked {
		if at, ok := e.TipOf(sym); ok && at.Manhattan(p) <= e.Reach(8) {
			return Hit{ID: sym.ID, Tip: true}
		}
	}
	if id := e.SymbolAt(p, 0); id != "" && Middle(s.Symbol(id).Box).Contains(p) {
		return Hit{ID: id} // however small it is on the screen
	}
	if sym := e.One(); sym != nil && !sym.Locked && !s.IsCell(sym) {
		if at, ok := e.TipOf(sym); ok && at.Manhattan(p) <= e.Reach(8) {
			return Hit{ID: sym.ID, Tip: true}
		}
		for _, h := range Handles {
			if at := e.HandleAt(sym.Box, h); max(geometry.Abs(at.X-p.X), geometry.Abs(at.Y-p.Y)) <= e.Reach(6) {
				return Hit{ID: sym.ID, Handle: h}
			}
		}
	}
	if len(e.Sel) == 1 {
		if i := slices.IndexFunc(s.Connectors,
			func(c *model.Connector) bool { return c.ID == e.Sel[0] && !c.Locked }); i >= 0 {
			pts := e.Routed[i].Points
			if pts[0].Manhattan(p) <= e.Reach(9) {
				return Hit{ID: e.Sel[0], End: true, From: true}
			}
			if pts[len(pts)-1].Manhattan(p) <= e.Reach(9) {
				return Hit{ID: e.Sel[0], End: true}
			}
		}
	}
	if e.Hover != "" {
		if sym := s.Symbol(e.Hover); sym != nil && !e.OnJourney() {
			for side := range geometry.Side(4) {
				if symbols.GluePoint(sym, side).Manhattan(p) <= e.Reach(8) {
					return Hit{ID: sym.ID, Glue: true, Side: side}
				}
			}
		}
	}
	if id := e.SymbolAt(p, 0); id != "" {
		return Hit{ID: id}
	}
	if id, at, ok := e.labelHit(p); ok {
		return Hit{ID: id, Label: at, Labelled: true}
	}
	if id := e.LineAt(p, e.Reach(6)); id != "" {
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

// HandleAt returns where a handle lies: off the outline, clear of the glue
// points that lie on it.
func (e *Window) HandleAt(b geometry.Box, h geometry.Point) geometry.Point {
	off := e.Screen(4)
	if h.X == 0 || h.Y == 0 {
		off = e.Screen(13)
	}
	b = b.Grown(off)
	c := b.Centre()
	return geometry.Point{X: c.X + h.X*(b.W/2), Y: c.Y + h.Y*(b.H/2)}
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

// NearSymbol returns the symbol at p or close to it.
func (e *Window) NearSymbol(p geometry.Point) string { return e.SymbolAt(p, e.Reach(10)) }

// The keys held while something happens.
const (
	Shift = 1 << iota
	Ctrl
	Alt
)

// Handles are the eight places one pulls to resize: by the edges they move.
var Handles = [8]geometry.Point{{X: -1, Y: -1}, {Y: -1}, {X: 1, Y: -1}, {X: 1}, {X: 1, Y: 1}, {Y: 1}, {X: -1, Y: 1},
	{X: -1}}
