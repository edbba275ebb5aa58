package editor

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/diagram"
	"plaintracer/core/layout"
)

// Task is a computation that can take a while, with all it needs: it is done
// beside the page, so that the page can answer and it can be stopped.
type Task struct {
	Map   *diagram.Map `json:"map"`
	Sheet string       `json:"sheet"`
	IDs   []string     `json:"ids,omitempty"`
	Down  bool         `json:"down,omitempty"`
	// Afresh lets steps leave the rows and columns in which they stand.
	Afresh bool `json:"afresh,omitempty"`
	// Over lets the flow go on over further sheets; what comes new gets ids that
	// begin with Prefix.
	Over   bool   `json:"over,omitempty"`
	Prefix string `json:"prefix,omitempty"`
}

// outcome is what a task comes to: an edit, and what the lines of the sheet are like before and after it; and once the sheet is
// straightened instead, with the edit that does it where something moves.
type outcome struct {
	Edit                    diagram.Envelope `json:"edit"`
	Before, After, Straight *layout.Score    `json:",omitempty"`
	Straightened            []diagram.Place  `json:",omitempty"`
	// Longer lays the flow out in one row, where rows have many more bends; Fresh leaves the places in which the steps stand.
	Longer, Fresh *diagram.Envelope `json:",omitempty"`
}

// Work does a task, given as JSON, and returns its outcome as JSON, "null"
// when there is nothing to change. Tell hears how far it has come, and says
// whether to go on; it may be nil.
func Work(task []byte, tell func(done, of int) bool) ([]byte, error) {
	var t Task
	if err := json.Unmarshal(task, &t); err != nil {
		return nil, err
	}
	if t.Map == nil {
		return nil, errors.New("there is no map in the task")
	}
	s := t.Map.Sheet(t.Sheet)
	if s == nil {
		return nil, fmt.Errorf("the sheet %q is not there any more", t.Sheet)
	}
	wish := layout.Wish{IDs: t.IDs, Down: t.Down, Above: t.Map.Above, Afresh: t.Afresh, Tell: tell}
	if t.Over {
		n := 0
		edit, err := layout.Continue(t.Map, s, wish, func() string { n++; return fmt.Sprintf("%s.%d", t.Prefix, n) })
		if err != nil || edit == nil {
			return []byte("null"), err
		}
		return json.Marshal(outcome{Edit: diagram.Envelope{Edit: edit}})
	}
	ways := layout.FindWays(t.Map, s, wish)
	edit := ways.Best
	if edit == nil {
		return []byte("null"), nil
	}
	out := outcome{Edit: diagram.Envelope{Edit: edit}}
	if ways.Longer != nil {
		out.Longer = &diagram.Envelope{Edit: ways.Longer}
	}
	if ways.Fresh != nil {
		out.Fresh = &diagram.Envelope{Edit: ways.Fresh}
	}
	before := layout.Measure(t.Map, s, t.Down)
	measured := func(e diagram.Edit) *layout.Score {
		trial, err := diagram.Attempt(t.Map, e)
		if err != nil {
			return nil
		}
		defer trial.Rollback()
		score := layout.Measure(t.Map, s, t.Down)
		return &score
	}
	out.Before, out.After = &before, measured(edit)
	if !piled(s) { // or else its lines say nothing
		out.Straight = &before
		if out.Straightened = arrange.Straighten(s, nil); len(out.Straightened) > 0 {
			out.Straight = measured(straightened(s.ID, out.Straightened))
		}
	}
	return json.Marshal(out)
}

// piled reports whether steps of a sheet lie on each other.
func piled(s *diagram.Sheet) bool {
	for i, sym := range s.Symbols {
		on := func(o *diagram.Symbol) bool { return !o.Kind.IsAside() && o.Meets(sym.Box) }
		if !sym.Kind.IsAside() && slices.ContainsFunc(s.Symbols[:i], on) {
			return true
		}
	}
	return false
}

func straightened(sheet string, boxes []diagram.Place) *diagram.PlaceItems {
	return &diagram.PlaceItems{Sheet: sheet, As: "straighten", Boxes: boxes}
}

// job is what was asked for when a task was given out.
type job struct {
	// way is the direction in which the sheet was to be laid out, first what is to
	// be done before.
	way   diagram.Direction
	first diagram.Edit
	sheet string
	over  bool
	// whole says that all of the sheet is laid out, and that its own arrangement may be the better one.
	whole bool
}

// layOut asks for the whole arrangement: of what is selected, or of the sheet; in
// a direction, or in that of the map; afresh, without regard to where the steps
// stand; or over as many sheets as it takes.
func (e *Editor) layOut(arg string) {
	e.drop()
	s := e.Sheet()
	way := diagram.Direction(arg)
	if way != diagram.Rightwards && way != diagram.Downwards {
		way = e.m.Direction
	}
	t := &Task{Map: e.m, Sheet: s.ID, Down: way == diagram.Downwards, Over: arg == "over"}
	if t.Over {
		t.Prefix = e.newID()
	} else if list := e.chosen(); len(list) > 1 {
		for _, sym := range list {
			t.IDs = append(t.IDs, sym.ID)
		}
	}
	if len(t.IDs) > 0 || len(s.Pools) > 0 {
		way = e.m.Direction
	}
	t.Afresh = arg == "afresh" || way != e.m.Direction
	e.give(t, job{way: way, sheet: s.ID, over: t.Over, whole: len(t.IDs) == 0 && !t.Afresh})
}

// give asks the page to have a task done.
func (e *Editor) give(t *Task, j job) {
	raw, err := json.Marshal(t)
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	e.task, e.job = string(raw), j
}

// Worked takes the edit that the task came to, and proposes it.
func (e *Editor) Worked(answer []byte) {
	if string(answer) == "null" {
		if e.job.over {
			e.say("The sheet fits its paper as it is.")
		} else {
			e.laidOutAlready()
		}
		return
	}
	var done outcome
	if err := json.Unmarshal(answer, &done); err != nil {
		e.say("Not done: %s.", err)
		return
	}
	if e.job.sheet != e.sheetID {
		e.say("Not laid out: another sheet is shown now.")
		return
	}
	edit := done.Edit.Edit
	if batch, ok := edit.(*diagram.Batch); ok && e.job.over {
		more := 0
		for _, part := range batch.Edits {
			if _, ok := part.Edit.(*diagram.AddSheet); ok {
				more++
			}
		}
		words := "The flow goes on on one more sheet, by pairs of references."
		if more > 1 {
			words = fmt.Sprintf("The flow goes on on %d more sheets, by pairs of references.", more)
		}
		e.cancel()
		e.propose(edit, words)
		return
	}
	l, ok := edit.(*diagram.LayOut)
	if !ok || l.Sheet != e.sheetID {
		e.say("Not laid out: another sheet is shown now.")
		return
	}
	words := "Lay out: 1 symbol moves."
	if n := len(l.Boxes); n != 1 {
		words = fmt.Sprintf("Lay out: %d symbols move.", n)
	}
	as := "lay out"
	if e.job.way != e.m.Direction {
		way := e.job.way
		edit = diagram.Together(as, &diagram.SetHead{Direction: &way}, edit)
	}
	if e.job.first != nil {
		as = diagram.Words(e.m, e.job.first)
		edit = diagram.Together(as, e.job.first, edit)
		words = fmt.Sprintf("Owners into lanes: %d symbols move.", len(l.Boxes))
	}
	e.cancel()
	mayStay := e.job.whole && e.job.first == nil && e.Sheet().Area().Holds(e.Sheet().Drawn())
	if mayStay && done.Straight != nil && done.After != nil && done.Straight.Simpler(*done.After) {
		e.stays(edit, &done)
		return
	}
	if done.Longer != nil && e.job.first == nil && e.onLarger(as, edit, done.Longer.Edit) {
		return
	}
	e.propose(edit, words)
	if e.doc.Showing() {
		if done.After != nil && e.job.first == nil {
			e.proposed.words += " " + compared(*done.Before, *done.After)
		}
		e.fits(as, edit)
		if done.Fresh != nil && e.job.first == nil && e.proposed.other == nil {
			e.proposed.other = &proposal{edit: done.Fresh.Edit, words: "Lay out afresh"}
		}
	}
}

// onLarger proposes to lay the flow out in one row on the smallest paper that holds it; in rows on its own paper is the other way.
// It reports whether there is such a paper.
func (e *Editor) onLarger(as string, rows, long diagram.Edit) bool {
	s := e.Sheet()
	trial, err := diagram.Attempt(e.m, long)
	if err != nil {
		return false
	}
	name, across, ok := compose.LargerPaper(s, s.Drawn())
	trial.Rollback()
	if !ok {
		return false
	}
	own := s.Paper
	e.propose(diagram.Together(as, long, &diagram.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}),
		fmt.Sprintf("Lay out in one row on %s: in rows on %s it would have many more bends.", name, own))
	if e.proposed != nil {
		e.proposed.other = &proposal{edit: rows, words: "In rows on " + own}
	}
	return e.proposed != nil
}

// laidOutAlready says that nothing would move, or that the paper is too small for it.
func (e *Editor) laidOutAlready() {
	s := e.Sheet()
	if s.Area().Holds(s.Drawn()) {
		e.say("Nothing to do: everything is laid out already.")
		return
	}
	e.say("Everything is laid out already, and larger than its paper.")
	e.offerPaper()
}

// stays proposes to straighten what stands there instead of laying it out, since its lines are simpler as they are; to lay it out
// is the other way.
func (e *Editor) stays(laid diagram.Edit, done *outcome) {
	var told []string
	tell := func(what string, now, then int) {
		if now != then {
			told = append(told, fmt.Sprintf("%s %d, not %d", what, now, then))
		}
	}
	tell("bends", done.Straight.Bends, done.After.Bends)
	tell("crossings", done.Straight.Crossings, done.After.Crossings)
	if len(told) == 0 {
		told = []string{fmt.Sprintf("lines %s, not %s px", thousands(done.Straight.Length/px), thousands(done.After.Length/px))}
	}
	words := fmt.Sprintf("As it stands it is simpler than laid out: %s.", strings.Join(told, ", "))
	if len(done.Straightened) == 0 {
		e.say("%s Nothing was changed.", words)
		e.suggest = &offer{"lay-out-afresh", "Lay out afresh"}
		return
	}
	e.propose(straightened(e.sheetID, done.Straightened), words+" Keep straightens it.")
	if e.proposed != nil {
		e.proposed.other = &proposal{edit: laid, words: "Lay out all the same"}
	}
}

// compared says what a layout makes of the lines.
func compared(before, after layout.Score) string {
	return fmt.Sprintf("Bends %d to %d, crossings %d to %d, lines %s to %s px.", before.Bends, after.Bends,
		before.Crossings, after.Crossings, thousands(before.Length/px), thousands(after.Length/px))
}

// thousands writes a number with a comma between thousands.
func thousands(n int) string {
	if n < 1000 {
		return fmt.Sprint(n)
	}
	return fmt.Sprintf("%s,%03d", thousands(n/1000), n%1000)
}

// fits says how what is proposed goes onto its paper, and offers a larger one that
// holds it.
func (e *Editor) fits(as string, edit diagram.Edit) {
	s, p := e.Sheet(), e.proposed
	all := s.Drawn()
	if s.Area().Holds(all) {
		p.words += " It fits the paper."
		return
	}
	p.words += " It is larger than the paper."
	p.longer = e.job.first == nil
	if name, across, ok := compose.LargerPaper(s, all); ok {
		words := "Keep on " + name
		if across != s.Across {
			words += map[bool]string{false: ", portrait", true: ", landscape"}[across]
		}
		p.other = &proposal{edit: diagram.Together(as, edit, &diagram.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}), words: words}
	}
}

// Perform makes an edit that came from the server at the person's wish, such as to return to a version, and says so. It is
// undone like any other.
func (e *Editor) Perform(raw []byte, words string) {
	var edit diagram.Envelope
	if err := json.Unmarshal(raw, &edit); err != nil || edit.Edit == nil {
		e.say("Not done: it could not be read.")
		return
	}
	e.cancel()
	if e.do(edit.Edit) && words != "" {
		e.say("%s", words)
	}
}
