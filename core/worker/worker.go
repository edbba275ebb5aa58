// Package worker does what package task asks for: it runs beside the page, in a worker of the browser or on the server.
package worker

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/task"
)

// Do does a task, given as JSON, and returns its outcome as JSON, "null"
// when there is nothing to change. Tell hears how far it has come, and says
// whether to go on; it may be nil.
func Do(asked []byte, tell func(done, of int) bool) ([]byte, error) {
	var t task.Task
	if err := json.Unmarshal(asked, &t); err != nil {
		return nil, err
	}
	if t.Map == nil {
		return nil, errors.New("there is no map in the task")
	}
	s := t.Map.Sheet(t.Sheet)
	if s == nil {
		return nil, fmt.Errorf("the sheet %q is not there any more", t.Sheet)
	}
	wish := layout.Options{IDs: t.IDs, Down: t.Down, Above: t.Map.Above, Afresh: t.Afresh, Tell: tell}
	if t.Over {
		n := 0
		change, err := layout.Continue(t.Map, s, wish, func() string { n++; return fmt.Sprintf("%s.%d", t.Prefix, n) })
		if err != nil || change == nil {
			return []byte("null"), err
		}
		return json.Marshal(task.Outcome{Edit: edit.Envelope{Edit: change}})
	}
	ways := layout.FindWays(t.Map, s, wish)
	plan := ways.Best
	if plan == nil {
		return []byte("null"), nil
	}
	out := task.Outcome{Edit: edit.Envelope{Edit: plan}}
	if ways.Longer != nil {
		out.Longer = &edit.Envelope{Edit: ways.Longer}
	}
	if ways.Fresh != nil {
		out.Fresh = &edit.Envelope{Edit: ways.Fresh}
	}
	measured := func(e edit.Edit) *layout.Score {
		trial, err := edit.Attempt(t.Map, e)
		if err != nil {
			return nil
		}
		defer trial.Rollback()
		score := layout.Measure(t.Map, s, t.Down)
		return &score
	}
	before := layout.Measure(t.Map, s, t.Down)
	after, straight := measured(plan), &before
	if piled(s) { // then its lines say nothing
		straight = nil
	} else if out.Straightened = arrange.Straighten(s, nil); len(out.Straightened) > 0 {
		straight = measured(task.Straightening(s.ID, out.Straightened))
	}
	out.Simpler = straight != nil && after != nil && straight.Simpler(*after)
	out.Before, out.After, out.Straight = lines(&before), lines(after), lines(straight)
	return json.Marshal(out)
}

func lines(s *layout.Score) *task.Lines {
	if s == nil {
		return nil
	}
	return &task.Lines{Bends: s.Bends, Crossings: s.Crossings, Length: s.Length}
}

// piled reports whether steps of a sheet lie on each other.
func piled(s *model.Sheet) bool {
	for i, sym := range s.Symbols {
		on := func(o *model.Symbol) bool { return !o.Kind.IsAside() && o.Meets(sym.Box) }
		if !sym.Kind.IsAside() && slices.ContainsFunc(s.Symbols[:i], on) {
			return true
		}
	}
	return false
}
