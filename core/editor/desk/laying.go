package desk

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/task"
)

// job is what was asked for when a task was given out.
type job struct {
	// way is the direction in which the sheet was to be laid out, first what is to
	// be done before.
	way   model.Direction
	first edit.Edit
	sheet string
	over  bool
	// whole says that all of the sheet is laid out, and that its own arrangement may be the better one.
	whole bool
}

// LayOut asks for the whole arrangement: of what is selected, or of the sheet; in
// a direction, or in that of the map; afresh, without regard to where the steps
// stand; or over as many sheets as it takes.
func (e *Layout) LayOut(arg string) {
	e.Drop()
	s := e.Sheet()
	way := model.Direction(arg)
	if way != model.Rightwards && way != model.Downwards {
		way = e.M.Direction
	}
	t := &task.Task{Map: e.M, Sheet: s.ID, Down: way == model.Downwards, Over: arg == "over"}
	if t.Over {
		t.Prefix = e.NewID()
	} else if list := e.Chosen(); len(list) > 1 {
		for _, sym := range list {
			t.IDs = append(t.IDs, sym.ID)
		}
	}
	if len(t.IDs) > 0 || len(s.Pools) > 0 {
		way = e.M.Direction
	}
	t.Afresh = arg == "afresh" || way != e.M.Direction
	e.give(t, job{way: way, sheet: s.ID, over: t.Over, whole: len(t.IDs) == 0 && !t.Afresh})
}

// give asks the page to have a task done.
func (e *Layout) give(t *task.Task, j job) {
	raw, err := json.Marshal(t)
	if err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	e.Task, e.job = string(raw), j
}

// Worked takes the edit that the task came to, and proposes it.
func (e *Layout) Worked(answer []byte) {
	if string(answer) == "null" {
		if e.job.over {
			e.Say("The sheet fits its paper as it is.")
		} else {
			e.laidOutAlready()
		}
		return
	}
	var done task.Outcome
	if err := json.Unmarshal(answer, &done); err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	if e.job.sheet != e.SheetID {
		e.Say("Not laid out: another sheet is shown now.")
		return
	}
	change := done.Edit.Edit
	if batch, ok := change.(*edit.Batch); ok && e.job.over {
		more := 0
		for _, part := range batch.Edits {
			if _, ok := part.Edit.(*edit.AddSheet); ok {
				more++
			}
		}
		words := "The flow goes on on one more sheet, by pairs of references."
		if more > 1 {
			words = fmt.Sprintf("The flow goes on on %d more sheets, by pairs of references.", more)
		}
		e.Cancel()
		e.propose(change, words)
		return
	}
	l, ok := change.(*edit.LayOut)
	if !ok || l.Sheet != e.SheetID {
		e.Say("Not laid out: another sheet is shown now.")
		return
	}
	words := "Lay out: 1 symbol moves."
	if n := len(l.Boxes); n != 1 {
		words = fmt.Sprintf("Lay out: %d symbols move.", n)
	}
	as := "lay out"
	if e.job.way != e.M.Direction {
		way := e.job.way
		change = edit.Together(as, &edit.SetHead{Direction: &way}, change)
	}
	if e.job.first != nil {
		as = edit.Words(e.M, e.job.first)
		change = edit.Together(as, e.job.first, change)
		words = fmt.Sprintf("Owners into lanes: %d symbols move.", len(l.Boxes))
	}
	e.Cancel()
	mayStay := e.job.whole && e.job.first == nil && e.Sheet().Area().Holds(e.Sheet().Drawn())
	if mayStay && done.Simpler {
		e.stays(change, &done)
		return
	}
	if done.Longer != nil && e.job.first == nil && e.onLarger(as, change, done.Longer.Edit) {
		return
	}
	e.propose(change, words)
	if e.Doc.Showing() {
		if done.After != nil && e.job.first == nil {
			e.Proposed.Words += " " + compared(*done.Before, *done.After)
		}
		e.fits(as, change)
		if done.Fresh != nil && e.job.first == nil && e.Proposed.Other == nil {
			e.Proposed.Other = &proposal{edit: done.Fresh.Edit, Words: "Lay out afresh"}
		}
	}
}

// onLarger proposes to lay the flow out in one row on the smallest paper that holds it; in rows on its own paper is the
// other way. It reports whether there is such a paper.
func (e *Layout) onLarger(as string, rows, long edit.Edit) bool {
	s := e.Sheet()
	trial, err := edit.Attempt(e.M, long)
	if err != nil {
		return false
	}
	name, across, ok := compose.LargerPaper(s, s.Drawn())
	trial.Rollback()
	if !ok {
		return false
	}
	own := s.Paper
	e.propose(edit.Together(as, long, &edit.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}),
		fmt.Sprintf("Lay out in one row on %s: in rows on %s it would have many more bends.", name, own))
	if e.Proposed != nil {
		e.Proposed.Other = &proposal{edit: rows, Words: "In rows on " + own}
	}
	return e.Proposed != nil
}

// laidOutAlready says that nothing would move, or that the paper is too small for it.
func (e *Layout) laidOutAlready() {
	s := e.Sheet()
	if s.Area().Holds(s.Drawn()) {
		e.Say("Nothing to do: everything is laid out already.")
		return
	}
	e.Say("Everything is laid out already, and larger than its paper.")
	e.Sheets.offerPaper()
}

// stays proposes to straighten what stands there instead of laying it out, since its lines are simpler as they are; to
// lay it out is the other way.
func (e *Layout) stays(laid edit.Edit, done *task.Outcome) {
	var told []string
	tell := func(what string, now, then int) {
		if now != then {
			told = append(told, fmt.Sprintf("%s %d, not %d", what, now, then))
		}
	}
	tell("bends", done.Straight.Bends, done.After.Bends)
	tell("crossings", done.Straight.Crossings, done.After.Crossings)
	if len(told) == 0 {
		told = []string{longer(done.After.Length, done.Straight.Length)}
	}
	words := fmt.Sprintf("As it stands it is simpler than laid out: %s.", strings.Join(told, ", "))
	if len(done.Straightened) == 0 {
		e.Say("%s Nothing was changed.", words)
		e.Suggest = &Offer{"lay-out-afresh", "Lay out afresh"}
		return
	}
	e.propose(task.Straightening(e.SheetID, done.Straightened), words+" Keep straightens it.")
	if e.Proposed != nil {
		e.Proposed.Other = &proposal{edit: laid, Words: "Lay out all the same"}
	}
}

// compared says what a layout makes of the lines.
func compared(before, after task.Lines) string {
	return fmt.Sprintf("Bends %d to %d, crossings %d to %d, %s.", before.Bends, after.Bends, before.Crossings,
		after.Crossings, longer(before.Length, after.Length))
}

// longer says by how much lines of one length are longer than those of another.
func longer(before, after int) string {
	if before <= 0 {
		return "lines as long as before"
	}
	switch share := int(math.Round(100 * float64(after-before) / float64(before))); {
	case share > 0:
		return fmt.Sprintf("lines %d %% longer", share)
	case share < 0:
		return fmt.Sprintf("lines %d %% shorter", -share)
	}
	return "lines about as long"
}

// fits says how what is proposed goes onto its paper, and offers a larger one that
// holds it.
func (e *Layout) fits(as string, change edit.Edit) {
	s, p := e.Sheet(), e.Proposed
	all := s.Drawn()
	if s.Area().Holds(all) {
		p.Words += " It fits the paper."
		return
	}
	p.Words += " It is larger than the paper."
	p.Longer = e.job.first == nil
	if name, across, ok := compose.LargerPaper(s, all); ok {
		words := "Keep on " + name
		if across != s.Across {
			words += map[bool]string{false: ", portrait", true: ", landscape"}[across]
		}
		p.Other = &proposal{edit: edit.Together(as, change, &edit.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}),
			Words: words}
	}
}

// Perform makes an edit that came from the server at the person's wish, such as to return to a version, and says so. It
// is undone like any other.
func (e *Layout) Perform(raw []byte, words string) {
	var edit edit.Envelope
	if err := json.Unmarshal(raw, &edit); err != nil || edit.Edit == nil {
		e.Say("Not done: it could not be read.")
		return
	}
	e.Cancel()
	if e.Do(edit.Edit) && words != "" {
		e.Say("%s", words)
	}
}
