package editor

import (
	"fmt"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/task"
)

// proposal is an edit that is shown before it is made: it can be kept or left.
type proposal struct {
	edit  edit.Edit
	words string
	// other is a further way to keep it.
	other *proposal
	// longer says that the flow could go on over further sheets instead.
	longer bool
	// numbers is how the map is numbered while it is shown; nil for any other proposal.
	numbers *model.Numbering
}

// propose shows what an edit would do.
func (e *Layout) propose(change edit.Edit, words string) {
	e.try(change)
	if !e.doc.Showing() {
		if _, err := edit.Attempt(e.m, change); err != nil {
			e.say("Not done: %s.", err)
		}
		return
	}
	e.proposed = &proposal{edit: change, words: words}
	e.again = func() { e.try(change) }
}

// keep makes the edit that is proposed, or the other way to keep it.
func (e *Layout) keep(other bool) {
	if p := e.proposed; p != nil && (!other || p.other != nil) {
		if other {
			p = p.other
		}
		e.drop()
		e.again = nil
		e.doMoving(p.edit)
	}
}

// straighten proposes to put what is nearly in rows and columns exactly so: what
// is selected, or the whole sheet.
func (e *Layout) straighten() {
	var ids []string
	if list := e.chosen(); len(list) > 1 {
		for _, sym := range list {
			ids = append(ids, sym.ID)
		}
	}
	e.drop()
	boxes := arrange.Straighten(e.Sheet(), ids)
	if len(boxes) == 0 {
		e.say("Nothing to do: everything is straight already.")
		return
	}
	words := "Straighten: 1 symbol moves."
	if n := len(boxes); n > 1 {
		words = fmt.Sprintf("Straighten: %d symbols move.", n)
	}
	e.propose(task.Straightening(e.sheetID, boxes), words)
}

// look draws the whole map in another look; tried only shows it.
func (e *Layout) look(name string, tried bool) {
	if !looks.Known(name) {
		e.say("There is no look %q.", name)
		return
	}
	e.drop()
	if name == looks.Standard.Name {
		name = ""
	}
	if name == e.m.Look {
		return
	}
	edit, err := compose.FitAfter(e.m, "change the look", &edit.SetHead{Look: &name}, e.m.Sheets...)
	switch {
	case err != nil:
		e.say("Not done: %s.", err)
	case tried:
		e.propose(edit, "The look “"+looks.Named(name).Title+"” for the whole map.")
		e.trying = looks.Named(name).Name
	default:
		e.do(edit)
	}
}

// keepLook lets the selected symbols keep the look they have when the map takes
// another, or follow the map again.
func (e *Layout) keepLook() {
	name := looks.Of(e.m).Name
	if e.chosen()[0].Look != "" {
		name = ""
	}
	e.Styling.style(&edit.SetStyle{Look: &name}, false)
}
