package editor

import (
	"plaintracer/core/diagram"
	"plaintracer/core/symbols"
)

// Trace is one case on its way through the map: where it is, and the ways on.
type Trace struct {
	// Text, Kind and Lane describe the step the case has come to.
	Text   string `json:"text"`
	Kind   string `json:"kind"`
	Lane   string `json:"lane"`
	Number string `json:"number"`
	// Steps counts the steps taken so far, Exits are the ways on, none at the
	// end.
	Steps int         `json:"steps"`
	Exits []TraceExit `json:"exits"`
}

// TraceExit is one way on: by a connector, or to the partner of a reference.
type TraceExit struct {
	Answer string `json:"answer"`
	To     string `json:"to"`
	via    string
	target string
}

// visit is a place on the way of a case, and the connector it came by.
type visit struct{ symbol, via string }

// traceBegin starts a case at the selected symbol, else where the flow begins.
func (e *Editor) traceBegin() {
	start := ""
	if sym := e.one(); sym != nil {
		start = sym.ID
	} else if starts := e.flow().Starts(); len(starts) > 0 {
		start = starts[0].Symbol.ID
	}
	if start == "" {
		e.say("There is nothing to trace yet. Draw the first steps.")
		return
	}
	e.cancel()
	e.hand, e.sel, e.lane = "", nil, ""
	e.tracing = []visit{{symbol: start}}
	e.traceShow()
}

// traceShow turns to where the case is.
func (e *Editor) traceShow() {
	id := e.tracing[len(e.tracing)-1].symbol
	if s := e.m.SheetOf(id); s != nil && s.ID != e.sheetID {
		e.show(s.ID)
	}
	e.centre = id
}

// traceExits returns the ways on from where the case is, in the order of the
// answers.
func (e *Editor) traceExits() []TraceExit {
	here := e.flow().Node(e.tracing[len(e.tracing)-1].symbol)
	if here == nil {
		return nil
	}
	var out []TraceExit
	for _, x := range here.Exits {
		if x.Connector != nil {
			out = append(out, TraceExit{x.Answer(), title(x.To.Symbol), x.Connector.ID, x.To.Symbol.ID})
		} else if len(out) == 0 {
			out = append(out, TraceExit{"", "reference " + x.To.Symbol.Text + " on " + x.To.Sheet.Name, "", x.To.Symbol.ID})
		}
	}
	return out
}

func title(sym *diagram.Symbol) string {
	if sym.Text == "" {
		return symbols.Of(sym.Kind).Name
	}
	return sym.Text
}

// traceGo takes way i on.
func (e *Editor) traceGo(i int) {
	exits := e.traceExits()
	if i < 0 || i >= len(exits) {
		return
	}
	e.tracing = append(e.tracing, visit{exits[i].target, exits[i].via})
	e.traceShow()
}

// traceBack takes the latest step back.
func (e *Editor) traceBack() {
	if len(e.tracing) > 1 {
		e.tracing = e.tracing[:len(e.tracing)-1]
		e.traceShow()
	}
}

// traceKey handles a key while a case is traced.
func (e *Editor) traceKey(key string) bool {
	switch {
	case key == "Escape":
		e.tracing = nil
	case key == "Enter" || key == "ArrowRight" || key == "ArrowDown":
		e.traceGo(0)
	case key == "Backspace" || key == "ArrowLeft" || key == "ArrowUp":
		e.traceBack()
	case len(key) == 1 && key[0] >= '1' && key[0] <= '9':
		e.traceGo(int(key[0] - '1'))
	default:
		return false
	}
	return true
}

// traceClick follows a click on what the case could go to next.
func (e *Editor) traceClick(id string) {
	for i, exit := range e.traceExits() {
		if id != "" && (exit.target == id || exit.via == id) {
			e.traceGo(i)
			return
		}
	}
}

// trace describes the case under way; nil when there is none.
func (e *Editor) trace() *Trace {
	if len(e.tracing) == 0 {
		return nil
	}
	id := e.tracing[len(e.tracing)-1].symbol
	s := e.m.SheetOf(id)
	if s == nil { // somebody removed the step the case was at
		e.tracing = nil
		return nil
	}
	sym := s.Symbol(id)
	t := &Trace{Text: title(sym), Kind: symbols.Of(sym.Kind).Name, Exits: e.traceExits(), Steps: len(e.tracing) - 1}
	t.Lane = s.OwnerOf(sym)
	t.Number = e.facts.Numbers[id]
	return t
}
