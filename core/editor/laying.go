package editor

import (
	"encoding/json"
	"fmt"
	"strings"

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
}

// Work does a task, given as JSON, and returns the edit it comes to as JSON, "null"
// when there is nothing to change. Tell hears how far it has come, and says
// whether to go on; it may be nil.
func Work(task []byte, tell func(done, of int) bool) ([]byte, error) {
	var t Task
	if err := json.Unmarshal(task, &t); err != nil {
		return nil, err
	}
	s := t.Map.Sheet(t.Sheet)
	if s == nil {
		return nil, fmt.Errorf("the sheet %q is not there any more", t.Sheet)
	}
	edit := layout.Find(t.Map, s, layout.Wish{IDs: t.IDs, Down: t.Down, Tell: tell})
	if edit == nil {
		return []byte("null"), nil
	}
	return json.Marshal(diagram.Envelope{Edit: edit})
}

// layOut asks for the whole arrangement: of what is selected, or of the sheet; in
// a direction, or in that of the map.
func (e *Editor) layOut(arg string) {
	e.drop()
	s := e.Sheet()
	way := diagram.Direction(arg)
	if way != diagram.Rightwards && way != diagram.Downwards {
		way = e.m.Direction
	}
	t := &Task{Map: e.m, Sheet: s.ID, Down: way == diagram.Downwards}
	if list := e.chosen(); len(list) > 1 {
		for _, sym := range list {
			t.IDs = append(t.IDs, sym.ID)
		}
	}
	raw, err := json.Marshal(t)
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	e.task, e.way, e.first = string(raw), way, nil
	if len(t.IDs) > 0 || len(s.Pools) > 0 {
		e.way = e.m.Direction
	}
}

// Worked takes the edit that the task came to, and proposes it.
func (e *Editor) Worked(answer []byte) {
	if string(answer) == "null" {
		e.say("Everything stands laid out already.")
		return
	}
	var env diagram.Envelope
	if err := json.Unmarshal(answer, &env); err != nil {
		e.say("Not done: %s.", err)
		return
	}
	edit := env.Edit
	l, ok := edit.(*diagram.LayOut)
	if !ok || e.m.Sheet(l.Sheet) == nil || l.Sheet != e.sheetID {
		e.say("Not laid out: another sheet is shown now.")
		return
	}
	words := "Lay out: 1 symbol moves."
	if n := len(l.Boxes); n != 1 {
		words = fmt.Sprintf("Lay out: %d symbols move.", n)
	}
	as := "lay out"
	if e.way != e.m.Direction {
		way := e.way
		edit = diagram.Together(as, &diagram.SetHead{Direction: &way}, edit)
	}
	if e.first != nil {
		as = e.first.Words()
		edit = diagram.Together(as, e.first, edit)
		words = fmt.Sprintf("Owners into lanes: %d symbols move.", len(l.Boxes))
	}
	e.cancel()
	e.propose(edit, words)
	if e.preview != nil {
		e.fits(as, edit)
	}
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
	area := 0
	iso := func(name string) bool { return strings.HasPrefix(name, "A") }
	for _, paper := range diagram.Papers {
		if paper.Name == "Slide" || iso(paper.Name) != iso(s.Paper) {
			continue // it would not be at hand
		}
		for _, across := range [2]bool{s.Across, !s.Across} {
			larger := *s
			larger.Paper, larger.Across = paper.Name, across
			w, h := larger.Area().W, larger.Area().H
			if all.X < 0 || all.Y < 0 || w < all.Right() || h < all.Bottom() || area > 0 && w*h >= area {
				continue
			}
			area = w * h
			name, lying := paper.Name, across
			words := "Keep on " + name
			if across != s.Across {
				words += map[bool]string{false: ", upright", true: ", across"}[across]
			}
			p.other = &proposal{edit: diagram.Together(as, edit, &diagram.SetSheet{Sheet: s.ID, Paper: &name, Across: &lying}), words: words}
		}
	}
}
