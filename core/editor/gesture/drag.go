package gesture

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/trace"
)

// press is the pointer held on an item: let go, it selects; moved, it drags.
type press struct {
	grip
	id string
	// label is the label that was pressed, where onLabel says that it was one.
	label   string
	onLabel bool
	// unit is what is selected with the item; within says that it was selected before, added that this press has
	// selected it.
	unit          []string
	within, added bool
}

// press selects what was pressed, unless it is selected already.
func (e *Pointer) press(h desk.Hit, at grip) Gesture {
	e.Lane = ""
	g := &press{grip: at, id: h.ID, label: h.Label, onLabel: h.Labelled, within: slices.Contains(e.Sel, h.ID),
		unit: e.UnitOf(h.ID)}
	if !g.within {
		if g.mods&(desk.Shift|desk.Ctrl) == 0 {
			e.Sel = nil
		}
		e.Sel = append(slices.DeleteFunc(e.Sel, func(id string) bool { return slices.Contains(g.unit, id) }), g.unit...)
		g.mods &^= desk.Shift // this press added it; it does not take it away
		g.added = true
	}
	return g
}

// up ends a press that did not move: with Shift or Ctrl a selected item is
// taken out of the selection, without them it becomes the only one.
func (g *press) up(geometry.Point) {
	e := g.e
	switch {
	case g.moved || g.added:
	case g.mods&(desk.Shift|desk.Ctrl) != 0:
		e.Sel = slices.DeleteFunc(e.Sel, func(id string) bool { return slices.Contains(g.unit, id) })
	case g.within && len(g.unit) > 1 && len(g.unit) == len(e.Sel): // a second click goes inside the group
		e.Selecting.Enter(g.id)
	default:
		e.Sel = g.unit
	}
}

// begin drags what is selected. Of connectors alone the one under the pointer is bent, or its label moved.
func (g *press) begin() Gesture {
	e := g.e
	if !g.within { // what is dragged is what was pressed, whatever was selected before
		e.Sel = slices.Clone(g.unit)
	}
	if len(e.ChosenCells()) > 0 {
		if d := e.gatherCells(g.grip, g.id); d != nil {
			return d
		}
		return nil
	}
	if len(e.ChosenCards()) > 0 {
		if d := e.gatherCards(g.grip); d != nil && len(d.ids) > 0 {
			return d
		}
		return nil
	}
	if d := e.gatherDrag(g.grip); len(d.ids) > 0 {
		return d
	}
	if e.Sheet().Connector(g.id) == nil {
		return nil
	}
	if g.onLabel {
		return e.pullLabel(g.grip, g.id, g.label)
	}
	return e.pullStretch(g.grip, g.id)
}

// drag moves what is selected, or a copy of it.
type drag struct {
	grip
	// ids and moving are what it takes along, box is round it, others are what it can line up with.
	ids    []string
	moving map[string]bool
	box    geometry.Box
	others []geometry.Box
	// shift is how far it has come, guides are what it lines up with, into is the connector it would be put into.
	shift  geometry.Point
	guides []arrange.Guide
	into   string
}

// gatherDrag gathers what moves and what it can line up with.
func (e *Pointer) gatherDrag(at grip) *drag {
	g, s := &drag{grip: at, moving: map[string]bool{}}, e.Sheet()
	for _, id := range e.Sel {
		if e.Locked(id) && s.Connector(id) == nil {
			e.Say("It is locked. Unlock it to move it.")
			continue
		}
		if pool := s.Pool(id); pool != nil {
			g.ids = append(g.ids, id)
			g.box = g.box.Union(pool.Box())
			for _, sym := range s.Symbols {
				if p, _ := s.LaneAt(sym.Centre()); p == pool {
					g.moving[sym.ID] = true
				}
			}
		} else if sym := s.Symbol(id); sym != nil {
			g.ids = append(g.ids, id)
			g.moving[id] = true
			g.box = g.box.Union(sym.Box)
			if sym.Kind.Holds() {
				for _, inner := range s.Inside(sym) {
					g.moving[inner.ID] = true
				}
			}
		}
	}
	for _, id := range e.Sel {
		// A connector goes along with its loose ends.
		if c := s.Connector(id); c != nil && !c.Locked && len(g.ids) > 0 && (c.From.Loose() || c.To.Loose()) {
			g.ids = append(g.ids, id)
		}
	}
	for _, sym := range s.Symbols {
		if !g.moving[sym.ID] || g.mods&desk.Ctrl != 0 {
			g.others = append(g.others, sym.Box)
		}
	}
	return g
}

func (g *drag) begin() Gesture { return g }

func (g *drag) Moves(id string) bool { return g.moving[id] }

func (g *drag) follow(p geometry.Point) {
	e := g.e
	d := p.Sub(g.start)
	if g.mods&desk.Shift != 0 {
		if geometry.Abs(d.X) >= geometry.Abs(d.Y) {
			d.Y = 0
		} else {
			d.X = 0
		}
	}
	g.guides = nil
	if g.mods&desk.Alt == 0 {
		snap, guides := arrange.Snap(g.box.Moved(d), g.others, e.Screen(6), !e.Free)
		if g.mods&desk.Shift != 0 {
			if d.X == 0 {
				snap.X = 0
			} else {
				snap.Y = 0
			}
		}
		d = d.Add(snap)
		g.guides = guides
	}
	g.shift = d
	if g.mods&desk.Ctrl != 0 {
		e.Drop()
		return
	}
	g.into = ""
	if sym := e.One(); sym != nil && len(g.ids) == 1 && g.mods&desk.Alt == 0 && e.Lines.FitsBetween(sym) {
		e.Drop()
		if id, on := e.Lines.LineUnder(g.box.Moved(d)); id != "" {
			g.into, g.shift, g.guides = id, on.Corner().Sub(g.box.Corner()), nil
		}
	}
	e.Try(&edit.MoveItems{Sheet: e.SheetID, IDs: g.ids, By: g.shift, Held: true})
}

func (g *drag) up(geometry.Point) {
	e := g.e
	switch {
	case g.mods&desk.Ctrl != 0:
		by, beside := g.offOthers()
		e.Clipboard.CopyBy(by)
		e.Placing.SetBeside(beside)
	case g.into != "":
		if c := e.Sheet().Connector(g.into); c != nil {
			e.Lines.PutBetween(c, g.box.Moved(g.shift), g.ids[0], nil)
		}
	case g.shift != (geometry.Point{}):
		by, beside := g.offOthers()
		if e.DoMoving(&edit.MoveItems{Sheet: e.SheetID, IDs: g.ids, By: by}) {
			e.Placing.SetBeside(beside)
		}
	}
}

// offOthers returns by how much what is dragged moves: as far as the pointer did and, where a step
// would hide another one there, so much further that it stands beside; with the name of the one it
// would have hidden. With Alt, or where nothing near is free, it is set down where it is.
func (g *drag) offOthers() (by geometry.Point, beside string) {
	s := g.e.Sheet()
	var boxes []geometry.Box
	for _, sym := range s.Symbols {
		if g.moving[sym.ID] && !sym.Kind.IsAside() {
			boxes = append(boxes, sym.Moved(g.shift))
		}
	}
	moving := g.moving
	if g.mods&desk.Ctrl != 0 { // the copy lies beside what it is made of, too
		moving = nil
	}
	hidden := arrange.Hides(s, boxes, moving)
	if hidden == nil || g.mods&desk.Alt != 0 {
		return g.shift, ""
	}
	d := arrange.FreeShift(s, boxes, moving)
	if d == (geometry.Point{}) {
		return g.shift, ""
	}
	return g.shift.Add(d), trace.Title(hidden)
}

// draw shows what it lines up with, where a copy would lie, and the connector or lane that it would come into.
func (g *drag) draw(o *overlay) {
	e := g.e
	if _, course := e.CourseOf(g.into); course != nil {
		o.line("target", course.Points)
	}
	if len(g.ids) == 1 {
		o.intoLane(g.ids[0], g.moved)
	}
	if g.mods&desk.Ctrl != 0 {
		for _, sym := range e.Chosen() {
			o.shape("ghost", sym.Kind, sym.Moved(g.shift))
		}
	}
	for _, guide := range g.guides {
		o.guide(guide.From, guide.To, guide.Gap)
	}
}

// intoLane marks the lane into which a symbol would go.
func (o *overlay) intoLane(id string, moved bool) {
	s := o.e.Sheet()
	if sym := s.Symbol(id); sym != nil && moved && o.e.Doc.Showing() {
		if pool, i := s.LaneAt(sym.Centre()); pool != nil {
			o.box("into-lane", pool.LaneBox(i))
		}
	}
}
