package editor

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Gesture is what the pointer does between down and up.
type Gesture interface {
	// held is where it was pressed, and with which keys.
	held() *grip
	// begin is asked once, when the pointer has left the spot it was pressed on, for the gesture that this becomes; nil for none.
	begin() Gesture
	// follow shows what it would do with the pointer at p.
	follow(p geometry.Point)
	// up does it. The gesture is not under way any more then.
	up(p geometry.Point)
	// draw shows over the sheet what letting go would do.
	draw(o *overlay)
	// Moves reports whether it takes a symbol along.
	Moves(id string) bool
}

// grip is the beginning of a gesture, and what a gesture does that has nothing to do.
type grip struct {
	e     *Pointer
	start geometry.Point
	mods  int
	// moved is set once the pointer has left the spot it was pressed on.
	moved bool
}

func (g *grip) held() *grip           { return g }
func (g *grip) follow(geometry.Point) {}
func (g *grip) up(geometry.Point)     {}
func (g *grip) draw(*overlay)         {}
func (g *grip) Moves(string) bool     { return false }

// pull is a gesture that comes to one edit, which it shows while it goes on.
type pull struct {
	grip
	// edit returns the edit for the pointer at p; nil for none.
	edit func(p geometry.Point) edit.Edit
	// along says that symbols move with it, so that bends may have to be given back.
	along bool
	// seen says that the edit is found with the one before still shown.
	seen bool
	// mark draws what is special about it; it may be nil.
	mark func(o *overlay)
}

func (g *pull) begin() Gesture { return g }

func (g *pull) follow(p geometry.Point) {
	if !g.seen {
		g.e.drop()
	}
	if change := g.edit(p); change != nil {
		g.e.try(change)
	}
}

func (g *pull) up(p geometry.Point) {
	if !g.moved {
		return
	}
	switch change := g.edit(p); {
	case change == nil:
	case g.along:
		g.e.doMoving(change)
	default:
		g.e.do(change)
	}
}

func (g *pull) draw(o *overlay) {
	if g.mark != nil {
		g.mark(o)
	}
}

// grab returns the gesture that begins where the pointer goes down on what was hit.
func (e *Pointer) grab(h hit, at grip) Gesture {
	pool := e.Sheet().Pool(h.id)
	switch {
	case e.hand != "":
		return &place{grip: at}
	case e.armed:
		return &makeSpace{grip: at}
	case h.glue:
		return &connect{grip: at, id: h.id, side: h.side, newID: e.newID()}
	case h.end:
		return &connect{grip: at, id: h.id, reglue: true, isFrom: h.from}
	case h.tip:
		return e.pullTip(at, h.id)
	case h.handle != (geometry.Point{}):
		return &resize{grip: at, id: h.id, handle: h.handle, box: e.symbol(h.id).Box}
	case h.stage != "" && h.laneEdge:
		return e.pullStage(at, pool, h.stage)
	case h.stage != "":
		e.sel, e.lane = nil, h.stage
		return e.moveStageBy(at, pool, h.stage)
	case h.laneEdge:
		return e.pullLane(at, pool, h.lane)
	case h.poolEdge:
		return e.pullPool(at, pool)
	case h.lane != "":
		e.sel, e.lane = nil, h.lane
		return e.moveLaneBy(at, pool, h.lane)
	case h.id != "":
		return e.press(h, at)
	case at.mods&Ctrl != 0 && len(e.Sheet().Symbols) > 0:
		return &makeSpace{grip: at}
	}
	e.lane, e.inside = "", ""
	if at.mods&(Shift|Ctrl) == 0 {
		e.sel = nil
	}
	return &rubberBand{grip: at}
}

// rubberBand selects what lies in it.
type rubberBand struct{ grip }

func (g *rubberBand) begin() Gesture { return g }

func (g *rubberBand) up(p geometry.Point) {
	if g.moved {
		g.e.Selecting.band(geometry.Between(g.start, p), g.mods&(Shift|Ctrl) != 0, g.mods&Alt != 0)
	}
}

func (g *rubberBand) draw(o *overlay) {
	if g.moved {
		o.box("band", geometry.Between(g.start, g.e.at))
	}
}

// place sets down the symbol in the hand: where the pointer is let go, or as large as it was drawn.
type place struct{ grip }

func (g *place) begin() Gesture { return g }

// drawn is where the symbol was begun to be drawn; nil where it was only pressed.
func (g *place) drawn() *geometry.Point {
	if g.moved {
		return &g.start
	}
	return nil
}

func (g *place) up(p geometry.Point) { g.e.Placing.place(p, g.drawn(), g.mods) }

func (g *place) draw(o *overlay) { o.inHand(g.drawn(), g.mods) }

// inHand draws the symbol in the hand where it would be set down.
func (o *overlay) inHand(from *geometry.Point, mods int) {
	e := o.e
	b := e.Placing.placeBox(e.hand, e.at, from, mods)
	if from == nil {
		line, _ := e.Lines.lineFor(e.hand, b, mods)
		if _, course := e.courseOf(line); course != nil {
			o.line("target", course.Points)
		}
	}
	o.shape("ghost", e.hand, b)
}

// resize pulls a symbol larger or smaller by one of its handles.
type resize struct {
	grip
	id     string
	handle geometry.Point // which edges are pulled: -1, 0 or 1 each way
	box    geometry.Box
}

func (g *resize) begin() Gesture       { return g }
func (g *resize) Moves(id string) bool { return id == g.id }

func (g *resize) follow(p geometry.Point) {
	g.e.try(&edit.PlaceItems{Sheet: g.e.sheetID, Boxes: []edit.Place{{ID: g.id, Box: g.resized(p)}}, Held: true})
}

func (g *resize) up(p geometry.Point) {
	if g.moved {
		b := g.e.Placing.roomy(g.e.symbol(g.id), g.resized(p))
		g.e.doMoving(&edit.PlaceItems{Sheet: g.e.sheetID, Boxes: []edit.Place{{ID: g.id, Box: b}}})
	}
}

func (g *resize) draw(o *overlay) { o.intoLane(g.id, g.moved) }

// resized returns the box the pulled handle makes.
func (g *resize) resized(p geometry.Point) geometry.Box {
	e := g.e
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
	w, h = geometry.Clamp(w, def.MinW, model.MaxSymbol), geometry.Clamp(h, def.MinH, model.MaxSymbol)
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
