package editor

import "plaintracer/core/trace"

// Trace is one case on its way through the map: where it is, how many steps it has taken, and the ways on.
type Trace struct {
	*trace.Place
	Steps int `json:"steps"`
}

// visit is a place on the way of a case, and the connector it came by.
type visit struct{ symbol, via string }

// traceBegin starts a case at the selected symbol, else where the flow begins.
func (e *Tracing) traceBegin() {
	start := ""
	if sym := e.one(); sym != nil {
		start = sym.ID
	} else {
		start = trace.Begin(e.flow())
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
func (e *Tracing) traceShow() {
	id := e.tracing[len(e.tracing)-1].symbol
	if s := e.m.SheetOf(id); s != nil && s.ID != e.sheetID {
		e.show(s.ID)
	}
	e.centre = id
}

// traceExits returns the ways on from where the case is.
func (e *Tracing) traceExits() []trace.Exit {
	return trace.Exits(e.flow(), e.tracing[len(e.tracing)-1].symbol)
}

// traceGo takes way i on.
func (e *Tracing) traceGo(i int) {
	exits := e.traceExits()
	if i < 0 || i >= len(exits) {
		return
	}
	e.tracing = append(e.tracing, visit{exits[i].Target, exits[i].Via})
	e.traceShow()
}

// traceBack takes the latest step back.
func (e *Tracing) traceBack() {
	if len(e.tracing) > 1 {
		e.tracing = e.tracing[:len(e.tracing)-1]
		e.traceShow()
	}
}

// traceKey handles a key while a case is traced.
func (e *Tracing) traceKey(key string) bool {
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
func (e *Tracing) traceClick(id string) {
	for i, exit := range e.traceExits() {
		if id != "" && (exit.Target == id || exit.Via == id) {
			e.traceGo(i)
			return
		}
	}
}

// trace describes the case under way; nil when there is none.
func (e *Tracing) trace() *Trace {
	if len(e.tracing) == 0 {
		return nil
	}
	at := trace.At(e.flow(), e.facts.Numbers, e.tracing[len(e.tracing)-1].symbol)
	if at == nil { // somebody removed the step the case was at
		e.tracing = nil
		return nil
	}
	return &Trace{at, len(e.tracing) - 1}
}
