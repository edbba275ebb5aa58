package desk

import (
	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// PlaceBox returns the box of a new symbol with the pointer at p: the standard one, or that which is drawn from a
// point.
func (e *Placing) PlaceBox(kind model.Kind, p geometry.Point, from *geometry.Point, mods int) geometry.Box {
	if from != nil {
		a := geometry.Point{X: geometry.Snap(from.X, arrange.Grid), Y: geometry.Snap(from.Y, arrange.Grid)}
		b := geometry.Point{X: geometry.Snap(p.X, arrange.Grid), Y: geometry.Snap(p.Y, arrange.Grid)}
		box := geometry.Between(a, b)
		box.W, box.H = max(box.W, 2*arrange.Grid), max(box.H, 2*arrange.Grid)
		return box
	}
	box := arrange.Standard(e.Sheet(), kind, p)
	if id, on := e.Lines.LineFor(kind, box, mods); id != "" {
		return on
	}
	return e.settled(kind, box, mods)
}

// settled brings the box of a new symbol in line with the others. A step does not
// land on another symbol, unless Alt says so.
func (e *Placing) settled(kind model.Kind, box geometry.Box, mods int) geometry.Box {
	var others []geometry.Box
	for _, sym := range e.Sheet().Symbols {
		others = append(others, sym.Box)
	}
	d, _ := arrange.Snap(box, others, e.Screen(6), !e.Free)
	if box = e.offNames(box.Moved(d)); !kind.IsAside() && mods&Alt == 0 {
		box = arrange.Free(e.Sheet(), box)
	}
	return box
}

// SetBeside says beside what a step was set down that it would have hidden; nothing where there is no such thing.
func (e *Placing) SetBeside(hidden string) {
	if hidden != "" {
		e.Say("Set down beside “%s”, which it would have hidden.", hidden)
	}
}

// offNames moves a box that lies on the name of a lane or pool inside, beside the name.
func (e *Placing) offNames(box geometry.Box) geometry.Box {
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

// Place sets the symbol in the hand down at p, or as it was drawn from a point.
func (e *Placing) Place(p geometry.Point, from *geometry.Point, mods int) {
	if e.Charted() && e.Hand.IsCard() {
		e.Cards.Place(e.Hand, p)
		return
	}
	if _, in := e.SpotAt(p); e.OnJourney() && (!e.Hand.IsAside() || e.Hand.ShowsPicture() && in) {
		e.Journeys.Place(e.Hand, p)
		return
	}
	sym := e.NewSymbol(e.Hand, e.PlaceBox(e.Hand, p, from, mods))
	add := &edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym}, Behind: sym.Kind.Holds()}
	line := ""
	if from == nil {
		line, _ = e.Lines.LineFor(sym.Kind, sym.Box, mods)
	}
	if !e.Stick {
		e.Hand = ""
	}
	ok := false
	if c := e.Sheet().Connector(line); c != nil {
		ok = e.Lines.PutBetween(c, sym.Box, sym.ID, add)
	} else {
		ok = e.Do(add)
	}
	if ok {
		e.Sel, e.Lane = []string{sym.ID}, ""
		switch sym.Kind {
		case model.PlainText:
			e.Writing.WriteNew(sym.ID)
		case model.Picture:
			e.ToOpen = "picture-open"
		}
	}
}

// Roomy returns a box for a symbol that is large enough for its text.
func (e *Placing) Roomy(sym *model.Symbol, b geometry.Box) geometry.Box {
	after := *sym
	after.Box = b
	if fit := arrange.Fit(e.M, e.Sheet(), &after); len(fit) > 0 {
		e.Say("The symbol stays large enough for its text.")
		return fit[0].Box // the others of its kind stay as they are
	}
	return b
}

// StepBox returns where the step stands that a connector let go at p leads to.
func (e *Placing) StepBox(p geometry.Point) geometry.Box {
	return e.settled(model.Process, arrange.Standard(e.Sheet(), model.Process, p), 0)
}
