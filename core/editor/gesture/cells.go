package gesture

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// cellPress is the pointer held on an empty part of a cell: let go, it selects the cell; moved, it is a rubber band.
type cellPress struct {
	rubberBand
	at desk.Spot
}

func (g *cellPress) begin() Gesture { return g }

func (g *cellPress) up(p geometry.Point) {
	if g.moved {
		g.rubberBand.up(p)
		return
	}
	if e := g.e; g.mods&(desk.Shift|desk.Ctrl) == 0 {
		e.Sel, e.Lane, e.Blank = nil, "", g.at
	}
}

// carry drags what stands in cells to another cell; a point of a curve up and down as well.
type carry struct {
	grip
	ids    []string
	moving map[string]bool
	boxes  []geometry.Box
	kinds  []model.Kind
	// mood is the point of a curve that is dragged; nil for other things.
	mood *model.Symbol
	// pools and stay are the journeys, and what stays in them, as they were at the beginning: with what is shown, rows
	// would run away from the pointer.
	pools []*model.Pool
	stay  []model.Symbol
	shift geometry.Point
	// shown is what is shown at present.
	shown aim
}

// aim is where what is dragged would come: into a cell, before something that stays there or behind all; a point of a
// curve to a height. No cell is where it would stay.
type aim struct {
	to     desk.Spot
	before string
	mood   int
}

// gatherCells gathers the selected symbols in cells, with the one that was pressed.
func (e *Pointer) gatherCells(at grip, pressed string) *carry {
	g := &carry{grip: at, moving: map[string]bool{}}
	for _, c := range e.ChosenCells() {
		if c.Locked {
			e.Say("It is locked. Unlock it to move it.")
			return nil
		}
		g.ids, g.moving[c.ID] = append(g.ids, c.ID), true
		g.boxes, g.kinds = append(g.boxes, c.Box), append(g.kinds, c.Kind)
		if c.ID == pressed && c.Kind == model.MoodCell {
			g.mood = c.Clone()
			g.shown.mood = c.Mood
		}
	}
	s := e.Sheet()
	for _, p := range s.Pools {
		g.pools = append(g.pools, p.Clone())
	}
	for _, sym := range s.Symbols {
		if s.IsCell(sym) && !g.moving[sym.ID] && !s.Hides(sym.ID) {
			g.stay = append(g.stay, *sym)
		}
	}
	return g
}

func (g *carry) begin() Gesture { return g }

func (g *carry) Moves(id string) bool { return g.moving[id] }

// aimed returns where it would come with the pointer at p.
func (g *carry) aimed(p geometry.Point) (a aim) {
	at, ok := desk.SpotIn(g.pools, p)
	if g.mood != nil {
		a.mood = geometry.Clamp(g.mood.Mood+model.MoodAt(g.mood.H, p.Y-g.mood.Y)-model.MoodAt(g.mood.H,
			g.start.Y-g.mood.Y), -model.MostMood, model.MostMood)
		if ok && at.Row == g.mood.Row && at.Stage != g.mood.Stage {
			a.to = at
		}
		return a
	}
	if !ok {
		return a
	}
	a.to = at
	first := 0
	for i := range g.stay {
		c := &g.stay[i]
		below := c.Row == at.Row && c.Stage == at.Stage && p.Y < c.Centre().Y
		if below && (a.before == "" || c.Y < first) {
			a.before, first = c.ID, c.Y
		}
	}
	return a
}

// edit returns the edit that brings it there; nil for none.
func (g *carry) edit(a aim) edit.Edit {
	var edits []edit.Edit
	if g.mood != nil && a.mood != g.mood.Mood {
		edits = append(edits, &edit.SetCells{Sheet: g.e.SheetID, IDs: []string{g.mood.ID}, Mood: &a.mood,
			As: "move the point"})
	}
	if a.to != (desk.Spot{}) {
		ids := g.ids
		if g.mood != nil {
			ids = []string{g.mood.ID}
		}
		edits = append(edits, &edit.SeatCells{Sheet: g.e.SheetID, IDs: ids, Row: a.to.Row, Stage: a.to.Stage,
			Before: a.before})
	}
	switch len(edits) {
	case 0:
		return nil
	case 1:
		return edits[0]
	}
	return edit.Together("move the point", edits...)
}

func (g *carry) follow(p geometry.Point) {
	g.shift = p.Sub(g.start)
	a := g.aimed(p)
	if a == g.shown && g.e.Doc.Showing() {
		return // what is shown is right already
	}
	g.shown = a
	g.e.Drop()
	if change := g.edit(a); change != nil {
		g.e.Try(change)
	}
}

func (g *carry) up(p geometry.Point) {
	if !g.moved {
		return
	}
	if change := g.edit(g.aimed(p)); change != nil {
		g.e.Do(change)
	} else if g.mood == nil {
		g.e.Say("Let it go in a cell.")
	}
}

func (g *carry) draw(o *overlay) {
	if !g.moved {
		return
	}
	if g.mood == nil {
		for i, b := range g.boxes {
			o.shape("ghost", g.kinds[i], b.Moved(g.shift))
		}
	}
	if g.shown.to != (desk.Spot{}) {
		o.spot("into-lane", g.shown.to)
	}
}

// spot draws a box round a cell.
func (o *overlay) spot(class string, at desk.Spot) {
	if p, i := o.e.Sheet().RowOf(at.Row); p != nil {
		if k := p.StageIndex(at.Stage); k >= 0 {
			o.box(class, p.CellAt(i, k))
		}
	}
}
