package desk

import (
	"plaintracer/core/edit"
)

// Into goes into the detail of the selected step, or makes one where it has none.
func (e *Sheets) Into() {
	sym := e.One()
	if to := e.M.DetailOf(sym); to != nil {
		e.Show(to.ID)
		if n := e.Flow().StartOf(to); n != nil {
			e.Sel, e.Centre = []string{n.Symbol.ID}, n.Symbol.ID
		}
		return
	}
	on, err := e.Work().OpenDetail(sym)
	if err != nil {
		e.Refuse(err)
		return
	}
	if e.Do(on.Edit) {
		e.Show(on.Sheet)
		e.Sel, e.Centre = []string{on.Step}, on.Step
		e.Writing.WriteNew(on.Step)
		e.Say("This sheet tells the step in detail. The way back stands at its top.")
	}
}

// Out goes back from a detail to the step that opens into it.
func (e *Sheets) Out() {
	way := e.M.WayTo(e.Sheet())
	if len(way) == 0 {
		e.Say("This sheet is the detail of no step.")
		return
	}
	last := way[len(way)-1]
	e.Show(last.Sheet.ID)
	e.Sel, e.Centre = []string{last.Symbol.ID}, last.Symbol.ID
}

// Fold moves the selected symbols into a sheet of their own.
func (e *Sheets) Fold() {
	on, err := e.Work().Fold(e.Chosen())
	if err != nil {
		e.Refuse(err)
		return
	}
	if e.Do(on.Edit) {
		e.Sel, e.Centre, e.Lane = []string{on.Step}, on.Step, ""
		e.Writing.WriteNew(on.Step)
		e.Say("%d symbols stand on a sheet of their own now. What is this step called?", on.Moved)
	}
}

// Unfold brings the detail of the selected step back in its place.
func (e *Sheets) Unfold() {
	change, err := e.Work().Unfold(e.One())
	if err != nil {
		e.Refuse(err)
		return
	}
	if !e.Do(change) {
		return
	}
	e.Sel = nil
	e.came("The detail is part of this sheet again")
}

// CloseDetail takes the detail off the selected step; the sheet stays.
func (e *Sheets) CloseDetail() {
	e.Do(&edit.SetDetail{Sheet: e.SheetID, ID: e.One().ID})
}
