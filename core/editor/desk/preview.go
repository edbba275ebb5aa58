package desk

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
	Words string
	// Other is a further way to keep it.
	Other *proposal
	// Longer says that the flow could go on over further sheets instead.
	Longer bool
	// numbers is how the map is numbered while it is shown; nil for any other proposal.
	numbers *model.Numbering
}

// propose shows what an edit would do.
func (e *Layout) propose(change edit.Edit, words string) {
	e.Try(change)
	if !e.Doc.Showing() {
		if _, err := edit.Attempt(e.M, change); err != nil {
			e.Say("Not done: %s.", err)
		}
		return
	}
	e.Proposed = &proposal{edit: change, Words: words}
	e.Again = func() { e.Try(change) }
}

// Keep makes the edit that is proposed, or the other way to keep it.
func (e *Layout) Keep(other bool) {
	if p := e.Proposed; p != nil && (!other || p.Other != nil) {
		if other {
			p = p.Other
		}
		e.Drop()
		e.Again = nil
		e.DoMoving(p.edit)
	}
}

// Straighten proposes to put what is nearly in rows and columns exactly so: what
// is selected, or the whole sheet.
func (e *Layout) Straighten() {
	var ids []string
	if list := e.Chosen(); len(list) > 1 {
		for _, sym := range list {
			ids = append(ids, sym.ID)
		}
	}
	e.Drop()
	boxes := arrange.Straighten(e.Sheet(), ids)
	if len(boxes) == 0 {
		e.Say("Nothing to do: everything is straight already.")
		return
	}
	words := "Straighten: 1 symbol moves."
	if n := len(boxes); n > 1 {
		words = fmt.Sprintf("Straighten: %d symbols move.", n)
	}
	e.propose(task.Straightening(e.SheetID, boxes), words)
}

// Look draws the whole map in another look; tried only shows it.
func (e *Layout) Look(name string, tried bool) {
	if !looks.Known(name) {
		e.Say("There is no look %q.", name)
		return
	}
	e.Drop()
	if name == looks.Standard.Name {
		name = ""
	}
	if name == e.M.Look {
		return
	}
	edit, err := compose.FitAfter(e.M, "change the look", &edit.SetHead{Look: &name}, e.M.Sheets...)
	switch {
	case err != nil:
		e.Say("Not done: %s.", err)
	case tried && !e.Peeking:
		e.propose(edit, "The look “"+looks.Named(name).Title+"” for the whole map.")
		e.Trying = looks.Named(name).Name
	default:
		e.Do(edit)
	}
}

// KeepLook lets the selected symbols keep the look they have when the map takes
// another, or follow the map again.
func (e *Layout) KeepLook() {
	name := looks.Of(e.M).Name
	if e.Chosen()[0].Look != "" {
		name = ""
	}
	e.Styling.Style(&edit.SetStyle{Look: &name}, false)
}
