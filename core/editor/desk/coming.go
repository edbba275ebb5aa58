package desk

import (
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Coming is the step that a connector let go over the empty desk leads to, as long as its kind is not chosen. Nothing
// is made yet.
type Coming struct {
	// From is the symbol the connector leaves at Side, ID what the connector will be called, At where it was let go.
	From string
	Side geometry.Side
	ID   string
	At   geometry.Point
}

// ChooseNext offers the kinds of the tray for a step to come.
func (e *Placing) ChooseNext(c Coming) {
	box := e.StepBox(model.Process, c.At)
	e.Coming = &c
	e.Ask = &ask{ID: "next", Name: "Symbol of the next step", Command: askNext, X: box.X, Y: box.Bottom(),
		Kinds: symbols.Keyed(), Chosen: string(model.Process)}
}

// askNext is the command that takes the kind of a step to come.
const askNext = "next-kind"

// Bring makes the step to come, and opens it for writing where that is asked for. It does nothing where none is to
// come.
func (e *Placing) Bring(kind model.Kind, write bool) {
	c := e.Coming
	if c == nil {
		return
	}
	e.Coming, e.Ask = nil, nil
	if e.Symbol(c.From) == nil {
		e.Say("The symbol it would leave is gone.")
		return
	}
	sym := e.NewSymbol(kind, e.StepBox(kind, c.At))
	line := e.Lines.NewConnectorAs(c.ID, model.End{Symbol: c.From, Side: c.Side.String()}, model.End{Symbol: sym.ID})
	if !e.Do(&edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym}, Connectors: []model.Connector{line}}) {
		return
	}
	e.Sel = []string{sym.ID}
	if write {
		e.Writing.AskAnswer(c.ID)
		e.Writing.WriteNew(sym.ID)
	}
}

// ComingKey does what a key means while the kind of a step to come is chosen, and reports whether that was all of it: a
// digit chooses, Enter and every letter are for a process, which the letter begins to name.
func (e *Placing) ComingKey(key string, mods int) bool {
	switch {
	case key == "Shift" || key == "Control" || key == "Alt" || key == "Meta" || key == "Tab":
		return false
	case key == "Escape":
		e.Coming, e.Ask = nil, nil
		return true
	case key == "Enter":
		e.Bring(model.Process, true)
		return true
	case len([]rune(key)) == 1 && mods&(Ctrl|Alt) == 0:
		kind, ok := symbols.ByKey(key[0])
		if !ok {
			kind = model.Process
		}
		e.Bring(kind, true)
		return true
	}
	e.Bring(model.Process, false)
	return false
}
