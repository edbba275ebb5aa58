// Package gesture is what the pointer does between down and up, and what is drawn over the sheet meanwhile.
package gesture

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Gesture is what the pointer does between down and up.
type Gesture interface {
	// held is where it was pressed, and with which keys.
	held() *grip
	// begin is asked once, when the pointer has left the spot it was pressed on, for the gesture that this becomes; nil
	// for none.
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

func (g *grip) held() *grip { return g }

func (g *grip) follow(geometry.Point) {}

func (g *grip) draw(*overlay) {}

func (g *grip) Moves(string) bool { return false }

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
		g.e.Drop()
	}
	if change := g.edit(p); change != nil {
		g.e.Try(change)
	}
}

func (g *pull) up(p geometry.Point) {
	if !g.moved {
		return
	}
	switch change := g.edit(p); {
	case change == nil:
	case g.along:
		g.e.DoMoving(change)
	default:
		g.e.Do(change)
	}
}

func (g *pull) draw(o *overlay) {
	if g.mark != nil {
		g.mark(o)
	}
}

// grab returns the gesture that begins where the pointer goes down on what was hit.
func (e *Pointer) grab(h desk.Hit, at grip) Gesture {
	pool := e.Sheet().Pool(h.ID)
	switch {
	case e.Hand != "":
		return &place{grip: at}
	case e.Armed:
		return &makeSpace{grip: at}
	case h.Glue:
		return &connect{grip: at, id: h.ID, side: h.Side, newID: e.NewID()}
	case h.End:
		return &connect{grip: at, id: h.ID, reglue: true, isFrom: h.From}
	case h.Tip:
		return e.pullTip(at, h.ID)
	case h.Handle != (geometry.Point{}):
		return &resize{grip: at, id: h.ID, handle: h.Handle, box: e.Symbol(h.ID).Box}
	case h.Stage != "" && h.LaneEdge:
		return e.pullStage(at, pool, h.Stage)
	case h.Stage != "":
		e.Sel, e.Lane = nil, h.Stage
		return e.moveStageBy(at, pool, h.Stage)
	case h.Cell != (desk.Spot{}):
		return &cellPress{rubberBand{grip: at}, h.Cell}
	case h.LaneEdge:
		return e.pullLane(at, pool, h.Lane)
	case h.PoolEdge:
		return e.pullPool(at, pool)
	case h.Lane != "":
		e.Sel, e.Lane = nil, h.Lane
		return e.moveLaneBy(at, pool, h.Lane)
	case h.ID != "":
		return e.press(h, at)
	case at.mods&desk.Ctrl != 0 && len(e.Sheet().Symbols) > 0:
		return &makeSpace{grip: at}
	}
	e.Lane, e.Inside, e.Blank = "", "", desk.Spot{}
	if at.mods&(desk.Shift|desk.Ctrl) == 0 {
		e.Sel = nil
	}
	return &rubberBand{grip: at}
}

// rubberBand selects what lies in it.
type rubberBand struct{ grip }

func (g *rubberBand) begin() Gesture { return g }

func (g *rubberBand) up(p geometry.Point) {
	if g.moved {
		g.e.Selecting.Band(geometry.Between(g.start, p), g.mods&(desk.Shift|desk.Ctrl) != 0, g.mods&desk.Alt != 0)
	}
}

func (g *rubberBand) draw(o *overlay) {
	if g.moved {
		o.box("band", geometry.Between(g.start, g.e.At))
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

func (g *place) up(p geometry.Point) { g.e.Placing.Place(p, g.drawn(), g.mods) }

func (g *place) draw(o *overlay) { o.inHand(g.drawn(), g.mods) }

// inHand draws the symbol in the hand where it would be set down.
func (o *overlay) inHand(from *geometry.Point, mods int) {
	e := o.e
	b := e.Placing.PlaceBox(e.Hand, e.At, from, mods)
	line := ""
	if from == nil {
		line, _ = e.Lines.LineFor(e.Hand, b, mods)
		if _, course := e.CourseOf(line); course != nil {
			o.line("target", course.Points)
		}
	}
	if line == "" && !e.Charted() {
		for _, guide := range e.Placing.Guides(b) {
			o.guide(guide.From, guide.To, guide.Gap)
		}
	}
	o.shape("ghost", e.Hand, b)
}

// resize pulls a symbol larger or smaller by one of its handles.
type resize struct {
	grip
	id     string
	handle geometry.Point // which edges are pulled: -1, 0 or 1 each way
	box    geometry.Box
}

func (g *resize) begin() Gesture { return g }

func (g *resize) Moves(id string) bool { return id == g.id }

func (g *resize) follow(p geometry.Point) {
	g.e.Try(&edit.PlaceItems{Sheet: g.e.SheetID, Boxes: []edit.Place{{ID: g.id, Box: g.resized(p)}}, Held: true})
}

func (g *resize) up(p geometry.Point) {
	if g.moved {
		b := g.e.Placing.Roomy(g.e.Symbol(g.id), g.resized(p))
		g.e.DoMoving(&edit.PlaceItems{Sheet: g.e.SheetID, Boxes: []edit.Place{{ID: g.id, Box: b}}})
	}
}

func (g *resize) draw(o *overlay) { o.intoLane(g.id, g.moved) }

// resized returns the box the pulled handle makes.
func (g *resize) resized(p geometry.Point) geometry.Box {
	e := g.e
	d := p.Sub(g.start)
	b := g.box
	def := symbols.Of(e.Symbol(g.id).Kind)
	snap := func(n int) int {
		if g.mods&desk.Alt != 0 || e.Free {
			return n
		}
		return geometry.Snap(n, arrange.Grid/2)
	}
	double := 1 // from the centre both edges move
	if g.mods&desk.Alt != 0 {
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
	if g.mods&desk.Shift != 0 { // keeps its proportions: by the edge that is pulled, at a corner by the width
		if g.handle.X != 0 {
			h = w * b.H / b.W
		} else {
			w = h * b.W / b.H
		}
	}
	w, h = geometry.Clamp(w, def.MinW, model.MaxSymbol), geometry.Clamp(h, def.MinH, model.MaxSymbol)
	if g.mods&desk.Alt != 0 {
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
