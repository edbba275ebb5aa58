package desk

import (
	"slices"
)

// quiet keeps what is typed after a refusal from being taken for a text: somebody who goes on
// typing where no field has opened would write over the step that is still selected.
type quiet struct {
	// now is the time of the latest event, until when the quiet ends, in ms; letters says that
	// something was typed in it.
	now, until int64
	letters    bool
	// over is what was selected when it began.
	over []string
}

// rest is how long nothing is typed before a text may begin after a refusal, in ms.
const rest = 2000

// Now tells the time, in ms, before an event. The editor has no clock of its own.
func (e *Window) Now(ms int64) { e.quiet.now = ms }

// Refusals begins the quiet where what is done only says something: it makes no edit, opens and
// shows nothing, and selects nothing else.
func (e *Window) Refusals(do func()) {
	made, sel := e.Doc.Made(), slices.Clone(e.Sel)
	e.Words = ""
	do()
	if e.Words != "" && e.Doc.Made() == made && e.TextField == nil && e.Ask == nil && e.Proposed == nil && !e.Link.On &&
		slices.Equal(sel, e.Sel) {
		e.quiet.until, e.quiet.letters, e.quiet.over = e.quiet.now+rest, false, sel
	}
}

// Hushed reports whether a key is swallowed because something was refused just now: one that
// types, and Enter or Backspace behind it. Each puts the end of the quiet off.
func (e *Window) Hushed(key string, mods int) bool {
	q := &e.quiet
	if q.until == 0 {
		return false
	}
	if q.now >= q.until || key == "Escape" || !slices.Equal(q.over, e.Sel) {
		*q = quiet{now: q.now}
		return false
	}
	letter := len([]rune(key)) == 1
	if mods&(Ctrl|Alt) != 0 || !letter && !(q.letters && (key == "Enter" || key == "Backspace")) {
		return false
	}
	q.until, q.letters = q.now+rest, true
	return true
}
