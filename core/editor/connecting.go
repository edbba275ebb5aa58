package editor

import (
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// connectEdit returns the edit that glues the dragged end to the target.
func (e *Editor) connectEdit(target string, end model.End) edit.Edit {
	g := &e.g
	if g.mode == regluing {
		if g.isFrom {
			return &edit.SetEnds{Sheet: e.sheetID, ID: g.id, From: &end}
		}
		return &edit.SetEnds{Sheet: e.sheetID, ID: g.id, To: &end}
	}
	c := e.newConnectorAs(g.newID, model.End{Symbol: g.id, Side: g.side.String()}, end)
	return &edit.AddItems{Sheet: e.sheetID, Connectors: []model.Connector{c}}
}

// connectInto makes the edit that leads a connector somewhere, a new one or the end of one that is
// there, unless another one says the same already: from the same symbol to the same, with the
// same label. It reports whether the edit was made.
func (e *Editor) connectInto(change edit.Edit) bool {
	var led model.Connector
	switch edit := change.(type) {
	case *edit.AddItems:
		led = edit.Connectors[0]
	case *edit.SetEnds:
		if c := e.Sheet().Connector(edit.ID); c != nil {
			led = *c
		}
		before := [2]string{led.From.Symbol, led.To.Symbol}
		if edit.From != nil {
			led.From = *edit.From
		}
		if edit.To != nil {
			led.To = *edit.To
		}
		if before == [2]string{led.From.Symbol, led.To.Symbol} { // only another side
			return e.do(edit)
		}
	}
	for _, c := range e.Sheet().Connectors {
		if c.ID == led.ID || led.From.Symbol == "" || led.To.Symbol == "" || c.From.Symbol != led.From.Symbol || c.To.Symbol != led.To.Symbol || c.Text != led.Text {
			continue
		}
		if led.Text == "" {
			e.say("A connector without a label leads there already. Write a label on it first, or lead this one elsewhere.")
		} else {
			e.say("A connector labelled “%s” leads there already. Label one of the two differently first, or lead this one elsewhere.", led.Text)
		}
		return false
	}
	return e.do(change)
}

// landing returns where a connector dropped at p would be glued.
func (e *Editor) landing(p geometry.Point) model.End {
	g := &e.g
	id := e.symbolAt(p, e.reach(8))
	if id == "" && (g.mode == connecting || !g.isFrom) {
		return e.joining(p)
	}
	if id == "" || g.mode == connecting && id == g.id {
		return model.End{}
	}
	if g.mode == regluing {
		if c := e.Sheet().Connector(g.id); c != nil && (g.isFrom && c.To.Symbol == id || !g.isFrom && c.From.Symbol == id) {
			return model.End{}
		}
	}
	end := model.End{Symbol: id}
	sym := e.symbol(id)
	for side := range geometry.Side(4) {
		if at := symbols.GluePoint(sym, side); at.Manhattan(p) <= e.reach(14) && !middle(sym.Box).Contains(p) {
			end.Side = side.String()
		}
	}
	return end
}

// joining returns the end that joins the line at p, if the connector in hand
// may lead there.
func (e *Editor) joining(p geometry.Point) model.End {
	g := &e.g
	e.drop()
	id := e.lineAt(p, e.reach(8), append(e.siblings(), g.id, g.newID)...)
	if id == "" {
		return model.End{}
	}
	end := model.End{Connector: id}
	if trial, err := edit.Attempt(e.m, e.connectEdit(id, end)); err == nil {
		trial.Rollback()
		return end
	}
	return model.End{}
}

// siblings returns the connectors that the one in hand does not join: those that leave the symbol
// it leaves, where it would only lead where they lead already, and those that lead to that symbol,
// where it would lead back to itself.
func (e *Editor) siblings() []string {
	from := e.g.id
	if e.g.mode == regluing {
		c := e.Sheet().Connector(e.g.id)
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

func (e *Editor) followConnect(p geometry.Point) {
	g := &e.g
	end := e.landing(p)
	if end == g.end && e.doc.Showing() && !end.Loose() {
		return
	}
	g.end = end
	g.target = end.Symbol
	if end.Connector != "" {
		g.target = end.Connector
	}
	if end.Loose() {
		e.drop()
		if g.mode == regluing || g.mods&Alt != 0 { // it may stay loose
			e.try(e.connectEdit("", model.End{At: p}))
		}
		return
	}
	e.try(e.connectEdit(g.target, end))
}

func (e *Editor) connect(p geometry.Point) {
	g := e.g
	end := e.landing(p)
	if g.mode == regluing && end.Loose() || g.mods&Alt != 0 && end.Loose() {
		end.At = p
		if e.do(e.connectEdit("", end)) {
			e.say("This end is loose. Drop it on a symbol to glue it.")
			if g.mode == connecting {
				e.sel = []string{g.newID}
			}
		}
		return
	}
	if !end.Loose() {
		if e.connectInto(e.connectEdit(end.Symbol, end)) && g.mode == connecting {
			e.sel = []string{g.newID}
			e.askAnswer(g.newID)
		}
		return
	}
	// Over the empty desk a new step stands there, connected, ready to write.
	box := e.stepBox(p)
	sym := e.newSymbol(model.Process, box)
	c := e.newConnectorAs(g.newID, model.End{Symbol: g.id, Side: g.side.String()}, model.End{Symbol: sym.ID})
	if e.do(&edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{sym}, Connectors: []model.Connector{c}}) {
		e.sel = []string{sym.ID}
		e.askAnswer(g.newID)
		e.writeNew(sym.ID)
	}
}
