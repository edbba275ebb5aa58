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
		if mods&Shift != 0 {
			b = squared(a, b)
		}
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

// squared returns the corner opposite to a of the square that is as large as the box of a and b is at its longer side.
func squared(a, b geometry.Point) geometry.Point {
	d := b.Sub(a)
	side := max(geometry.Abs(d.X), geometry.Abs(d.Y))
	if d.X < 0 {
		b.X = a.X - side
	} else {
		b.X = a.X + side
	}
	if d.Y < 0 {
		b.Y = a.Y - side
	} else {
		b.Y = a.Y + side
	}
	return b
}

// Guides returns what the box of a new symbol lines up with.
func (e *Placing) Guides(box geometry.Box) []arrange.Guide {
	_, guides := arrange.Snap(box, e.boxes(), 0, false)
	return guides
}

// boxes are those of all symbols of the sheet.
func (e *Placing) boxes() (list []geometry.Box) {
	for _, sym := range e.Sheet().Symbols {
		list = append(list, sym.Box)
	}
	return list
}

// settled brings the box of a new symbol in line with the others. A step does not
// land on another symbol, unless Alt says so.
func (e *Placing) settled(kind model.Kind, box geometry.Box, mods int) geometry.Box {
	d, _ := arrange.Snap(box, e.boxes(), e.Screen(6), !e.Free)
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
		e.placed(&sym)
	}
}

// placed selects a symbol that was set down, and goes on with what it is for.
func (e *Placing) placed(sym *model.Symbol) {
	e.Sel, e.Lane = []string{sym.ID}, ""
	switch sym.Kind {
	case model.PlainText:
		e.Writing.WriteNew(sym.ID)
	case model.Picture:
		e.ToOpen = "picture-open"
	}
}

// SetDown sets a symbol down without the pointer: beside the selected one, in the direction of the flow, else in the
// middle of what is seen; on nothing that stands there, and connected to nothing.
func (e *Placing) SetDown(kind model.Kind) {
	e.Cancel()
	e.Hand, e.Stick = "", false
	s, one := e.Sheet(), e.One()
	if e.OnJourney() || e.Charted() && kind.IsCard() {
		e.Hand, e.Stick = kind, false
		e.Place(e.InSight(), nil, 0)
		return
	}
	box := arrange.Standard(s, kind, e.InSight())
	if one != nil && !one.Kind.IsAside() {
		down := e.M.Direction == model.Downwards
		if pool, _ := s.LaneAt(one.Centre()); pool != nil {
			down = pool.Down
		}
		own, at := box.Turned(down), one.Box.Turned(down)
		own.X, own.Y = at.Right()+arrange.Gap, at.Centre().Y-own.H/2
		box = arrange.Free(s, own.Turned(down))
	} else {
		box = e.settled(kind, box, 0)
	}
	sym := e.NewSymbol(kind, box)
	if e.Do(&edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym}, Behind: kind.Holds()}) {
		e.Centre = sym.ID
		e.placed(&sym)
	}
}

// Take is a click on a symbol of the tray: it takes the symbol in hand. Where one is in hand already, both are set down
// beside each other, and so is each one that is clicked on then, until something else is done.
func (e *Placing) Take(kind model.Kind) {
	held, stick := e.Hand, e.Stick
	if !kind.Known() || held != "" && stick {
		e.Hand, e.Stick, e.OneByOne = "", false, false
		if held != kind && kind.Known() {
			e.Hand = kind
		}
		return
	}
	if held == "" && !e.OneByOne {
		e.Cancel()
		e.Hand = kind
		return
	}
	if held != "" {
		e.SetDown(held)
	}
	e.SetDown(kind)
	e.OneByOne = true
}

// InSight returns the middle of what is seen of the page.
func (e *Window) InSight() geometry.Point {
	page := e.Sheet().Page()
	seen := e.Seen
	left, top := max(seen.X, page.X), max(seen.Y, page.Y)
	right, bottom := min(seen.Right(), page.Right()), min(seen.Bottom(), page.Bottom())
	if seen == (geometry.Box{}) {
		return page.Centre()
	}
	if left >= right || top >= bottom {
		return seen.Centre()
	}
	return geometry.Between(geometry.Point{X: left, Y: top}, geometry.Point{X: right, Y: bottom}).Centre()
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

// StepBox returns where the step of a kind stands that a connector let go at p leads to.
func (e *Placing) StepBox(kind model.Kind, p geometry.Point) geometry.Box {
	return e.settled(kind, arrange.Standard(e.Sheet(), kind, p), 0)
}
