package desk

import (
	"plaintracer/core/trace"
)

// Trace is one case on its way through the map: where it is, how many steps it has taken, and the ways on.
type Trace struct {
	*trace.Place
	Steps int `json:"steps"`
}

// visit is a place on the way of a case, and the connector it came by.
type visit struct{ Symbol, Via string }

// TraceBegin starts a case at the selected symbol, else where the flow begins.
func (e *Cases) TraceBegin() {
	start := ""
	if sym := e.One(); sym != nil {
		start = sym.ID
	} else {
		start = trace.Begin(e.Flow())
	}
	if start == "" {
		e.Say("There is nothing to trace yet. Draw the first steps.")
		return
	}
	e.Cancel()
	e.Hand, e.Sel, e.Lane = "", nil, ""
	e.Tracing = []visit{{Symbol: start}}
	e.traceShow()
}

// traceShow turns to where the case is.
func (e *Cases) traceShow() {
	id := e.Tracing[len(e.Tracing)-1].Symbol
	if s := e.M.SheetOf(id); s != nil && s.ID != e.SheetID {
		e.Show(s.ID)
	}
	e.Centre = id
}

// traceExits returns the ways on from where the case is.
func (e *Cases) traceExits() []trace.Exit {
	return trace.Exits(e.Flow(), e.Tracing[len(e.Tracing)-1].Symbol)
}

// TraceGo takes way i on.
func (e *Cases) TraceGo(i int) {
	exits := e.traceExits()
	if i < 0 || i >= len(exits) {
		return
	}
	e.Tracing = append(e.Tracing, visit{exits[i].Target, exits[i].Via})
	e.traceShow()
}

// TraceBack takes the latest step back.
func (e *Cases) TraceBack() {
	if len(e.Tracing) > 1 {
		e.Tracing = e.Tracing[:len(e.Tracing)-1]
		e.traceShow()
	}
}

// TraceKey handles a key while a case is traced.
func (e *Cases) TraceKey(key string) bool {
	switch {
	case key == "Escape":
		e.Tracing = nil
	case key == "Enter" || key == "ArrowRight" || key == "ArrowDown":
		e.TraceGo(0)
	case key == "Backspace" || key == "ArrowLeft" || key == "ArrowUp":
		e.TraceBack()
	case len(key) == 1 && key[0] >= '1' && key[0] <= '9':
		e.TraceGo(int(key[0] - '1'))
	default:
		return false
	}
	return true
}

// TraceClick follows a click on what the case could go to next.
func (e *Cases) TraceClick(id string) {
	for i, exit := range e.traceExits() {
		if id != "" && (exit.Target == id || exit.Via == id) {
			e.TraceGo(i)
			return
		}
	}
}

// Trace describes the case under way; nil when there is none.
func (e *Cases) Trace() *Trace {
	if len(e.Tracing) == 0 {
		return nil
	}
	at := trace.At(e.Flow(), e.Facts.Numbers, e.Tracing[len(e.Tracing)-1].Symbol)
	if at == nil { // somebody removed the step the case was at
		e.Tracing = nil
		return nil
	}
	way := make([]string, len(e.Tracing))
	for i, v := range e.Tracing {
		way[i] = v.Symbol
	}
	at.Along(e.Flow(), way)
	return &Trace{at, len(e.Tracing) - 1}
}
