package editor

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/trace"
)

// placeBox returns the box of a new symbol with the pointer at p.
func (e *Editor) placeBox(kind model.Kind, p geometry.Point, g *gesture) geometry.Box {
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
func (e *Editor) settled(kind model.Kind, box geometry.Box, mods int) geometry.Box {
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

// offOthers returns by how much what is dragged moves: as far as the pointer did and, where a step
// would hide another one there, so much further that it stands beside; with the name of the one it
// would have hidden. With Alt, or where nothing near is free, it is set down where it is.
func (e *Editor) offOthers(g gesture) (by geometry.Point, beside string) {
	s := e.Sheet()
	var boxes []geometry.Box
	for _, sym := range s.Symbols {
		if g.moving[sym.ID] && !sym.Kind.IsAside() {
			boxes = append(boxes, sym.Moved(g.shift))
		}
	}
	moving := g.moving
	if g.mods&Ctrl != 0 { // the copy lies beside what it is made of, too
		moving = nil
	}
	hidden := arrange.Hides(s, boxes, moving)
	if hidden == nil || g.mods&Alt != 0 {
		return g.shift, ""
	}
	d := arrange.FreeShift(s, boxes, moving)
	if d == (geometry.Point{}) {
		return g.shift, ""
	}
	return g.shift.Add(d), trace.Title(hidden)
}

// setBeside says beside what a step was set down that it would have hidden; nothing where there is no such thing.
func (e *Editor) setBeside(hidden string) {
	if hidden != "" {
		e.say("Set down beside “%s”, which it would have hidden.", hidden)
	}
}

// offNames moves a box that lies on the name of a lane or pool inside, beside the name.
func (e *Editor) offNames(box geometry.Box) geometry.Box {
	pool, _ := e.Sheet().LaneAt(box.Centre())
	if pool == nil {
		return box
	}
	own := pool.Own(box)
	if begin := pool.Content() + model.LanePad; own.X < begin && own.X+own.W/2 < begin {
		own.X = geometry.Snap(begin+arrange.Grid-1, arrange.Grid)
	}
	return pool.Own(own)
}

func (e *Editor) place(p geometry.Point, g gesture) {
	sym := e.newSymbol(e.hand, e.placeBox(e.hand, p, &g))
	add := &edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{sym}, Behind: sym.Kind.Holds()}
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
		case model.PlainText:
			e.writeNew(sym.ID)
		case model.Picture:
			e.open = "picture-open"
		}
	}
}

// roomy returns a box for a symbol that is large enough for its text.
func (e *Editor) roomy(sym *model.Symbol, b geometry.Box) geometry.Box {
	after := *sym
	after.Box = b
	if fit := arrange.Fit(e.m, e.Sheet(), &after); len(fit) > 0 {
		e.say("The symbol stays large enough for its text.")
		return fit[0].Box // the others of its kind stay as they are
	}
	return b
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

func (e *Editor) followResize(p geometry.Point) {
	e.try(&edit.PlaceItems{Sheet: e.sheetID, Boxes: []edit.Place{{ID: e.g.id, Box: e.resized(p)}}, Held: true})
}

func (e *Editor) resize(id string, b geometry.Box) {
	b = e.roomy(e.symbol(id), b)
	e.doMoving(&edit.PlaceItems{Sheet: e.sheetID, Boxes: []edit.Place{{ID: id, Box: b}}})
}

// stepBox returns where the step stands that a connector let go at p leads to.
func (e *Editor) stepBox(p geometry.Point) geometry.Box {
	return e.settled(model.Process, arrange.Standard(e.Sheet(), model.Process, p), 0)
}
