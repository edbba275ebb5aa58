package editor

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

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

func (e *Window) hit(p geometry.Point) hit {
	e.refresh()
	s := e.Sheet()
	if sym := e.one(); sym != nil && sym.Tip != (model.Tip{}) && !sym.Locked { // it may lie in the middle of what it is about
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
		if i := slices.IndexFunc(s.Connectors, func(c *model.Connector) bool { return c.ID == e.sel[0] && !c.Locked }); i >= 0 {
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

func (e *Window) hitPool(pool *model.Pool, p geometry.Point) (hit, bool) {
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
	if p.X >= b.X && p.X <= b.X+model.PoolHead {
		return hit{id: pool.ID}, true
	}
	return hit{}, false
}

func corners(b geometry.Box) [4]geometry.Point {
	return [4]geometry.Point{{X: b.X, Y: b.Y}, {X: b.Right(), Y: b.Y}, {X: b.Right(), Y: b.Bottom()}, {X: b.X, Y: b.Bottom()}}
}

// handleAt returns where a handle lies: off the outline, clear of the glue
// points that lie on it.
func (e *Window) handleAt(b geometry.Box, h geometry.Point) geometry.Point {
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
func (e *Window) symbolAt(p geometry.Point, slack int) string {
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

func (e *Window) nearSymbol(p geometry.Point) string { return e.symbolAt(p, e.reach(10)) }
