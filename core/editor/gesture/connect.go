package gesture

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// connect draws a new connector from a glue point, or leads an end of one that is there elsewhere.
type connect struct {
	grip
	// id is the symbol it leaves and side its glue point, newID what the connector will be called; or id is the
	// connector whose end is led, its beginning where isFrom says so.
	id     string
	side   geometry.Side
	newID  string
	reglue bool
	isFrom bool
	// end is where it would be glued, target the id of that symbol or connector.
	end    model.End
	target string
}

func (g *connect) begin() Gesture { return g }

// draw shows where it would be glued, and what would come where it is let go over the empty desk.
func (g *connect) draw(o *overlay) {
	e := g.e
	o.glue(g.target, g.end.Side)
	if _, course := e.CourseOf(g.target); course != nil {
		o.line("target", course.Points)
	}
	if !g.moved || g.target != "" || e.Doc.Showing() {
		return
	}
	from, ok := g.other()
	switch {
	case !ok:
	case g.reglue:
		o.line("loose", geometry.Polyline{from, e.At})
	default: // a new step would stand there
		o.coming(desk.Coming{From: g.id, Side: g.side, At: e.At})
	}
}

// other returns where the line to the pointer begins.
func (g *connect) other() (geometry.Point, bool) {
	e := g.e
	if !g.reglue {
		if sym := e.Symbol(g.id); sym != nil {
			return e.GlueAt(sym, g.side), true
		}
		return geometry.Point{}, false
	}
	_, course := e.CourseOf(g.id)
	if course == nil {
		return geometry.Point{}, false
	}
	pts := course.Points
	if g.isFrom {
		return pts[len(pts)-1], true
	}
	return pts[0], true
}

// connectEdit returns the edit that glues the dragged end to the target.
func (g *connect) change(target string, end model.End) edit.Edit {
	e := g.e
	if g.reglue {
		if g.isFrom {
			return &edit.SetEnds{Sheet: e.SheetID, ID: g.id, From: &end}
		}
		return &edit.SetEnds{Sheet: e.SheetID, ID: g.id, To: &end}
	}
	c := e.Lines.NewConnectorAs(g.newID, model.End{Symbol: g.id, Side: g.side.String()}, end)
	return &edit.AddItems{Sheet: e.SheetID, Connectors: []model.Connector{c}}
}

// landing returns where a connector dropped at p would be glued.
func (g *connect) landing(p geometry.Point) model.End {
	e := g.e
	id := e.SymbolAt(p, e.Reach(8))
	if id == "" && (!g.reglue || !g.isFrom) {
		return g.joining(p)
	}
	if id == "" || !g.reglue && id == g.id {
		return model.End{}
	}
	if g.reglue {
		if c := e.Sheet().Connector(g.id); c != nil && (g.isFrom && c.To.Symbol == id ||
			!g.isFrom && c.From.Symbol == id) {
			return model.End{}
		}
	}
	end := model.End{Symbol: id}
	sym := e.Symbol(id)
	for side := range geometry.Side(4) {
		if at := e.GlueAt(sym, side); at.Manhattan(p) <= e.Reach(14) && !desk.Middle(sym.Box).Contains(p) {
			end.Side = side.String()
		}
	}
	return end
}

// joining returns the end that joins the line at p, if the connector in hand
// may lead there.
func (g *connect) joining(p geometry.Point) model.End {
	e := g.e
	e.Drop()
	id := e.LineAt(p, e.Reach(8), append(g.siblings(), g.id, g.newID)...)
	if id == "" {
		return model.End{}
	}
	end := model.End{Connector: id}
	if trial, err := edit.Attempt(e.M, g.change(id, end)); err == nil {
		trial.Rollback()
		return end
	}
	return model.End{}
}

// siblings returns the connectors that the one in hand does not join: those that leave the symbol
// it leaves, where it would only lead where they lead already, and those that lead to that symbol,
// where it would lead back to itself.
func (g *connect) siblings() []string {
	e, from := g.e, g.id
	if g.reglue {
		c := e.Sheet().Connector(g.id)
		if c == nil || c.From.Symbol == "" {
			return nil
		}
		from = c.From.Symbol
	}
	var list []string
	for _, l := range flow.Links(e.Sheet()) {
		if l.Connector.From.Symbol == from || l.To != nil && l.To.ID == from {
			list = append(list, l.Connector.ID)
		}
	}
	return list
}

func (g *connect) follow(p geometry.Point) {
	e := g.e
	end := g.landing(p)
	if end == g.end && e.Doc.Showing() && !end.Loose() {
		return
	}
	g.end = end
	g.target = end.Symbol
	if end.Connector != "" {
		g.target = end.Connector
	}
	if end.Loose() {
		e.Drop()
		if g.reglue || g.mods&desk.Alt != 0 { // it may stay loose
			e.Try(g.change("", model.End{At: p}))
		}
		return
	}
	e.Try(g.change(g.target, end))
}

func (g *connect) up(p geometry.Point) {
	e := g.e
	if !g.moved {
		if g.reglue {
			return
		}
		e.grab(e.Under(p), g.grip).up(p) // a click means what is drawn there
		return
	}
	end := g.landing(p)
	if g.reglue && end.Loose() || g.mods&desk.Alt != 0 && end.Loose() {
		end.At = p
		if e.Do(g.change("", end)) {
			e.Say("This end is loose. Drop it on a symbol to glue it.")
			if !g.reglue {
				e.Sel = []string{g.newID}
			}
		}
		return
	}
	if !end.Loose() {
		if e.Lines.ConnectInto(g.change(end.Symbol, end)) && !g.reglue {
			e.Sel = []string{g.newID}
			e.Writing.AskAnswer(g.newID)
		}
		return
	}
	// Over the empty desk a new step comes, connected, once its kind is chosen.
	e.Placing.ChooseNext(desk.Coming{From: g.id, Side: g.side, ID: g.newID, At: p})
	if e.Charted() { // what hangs between cards has no kinds to choose from
		e.Placing.Bring(model.Process, true)
	}
}

// coming draws the step whose kind is asked for.
func (o *overlay) coming(c desk.Coming) {
	from := o.e.Symbol(c.From)
	if from == nil {
		return
	}
	o.line("coming", geometry.Polyline{o.e.GlueAt(from, c.Side), c.At})
	o.shape("ghost", model.Process, o.e.Placing.StepBox(model.Process, c.At))
}
