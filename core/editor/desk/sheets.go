package desk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// AddSheet adds an empty sheet after the one that is shown.
func (e *Sheets) AddSheet() { e.addSheet(e.emptySheet("Sheet " + strconv.Itoa(len(e.M.Sheets)+1))) }

// AddHierarchy adds a sheet for a hierarchy after the one that is shown, with its first card open for writing.
func (e *Sheets) AddHierarchy() {
	s := e.emptySheet("Hierarchy")
	s.Kind, s.Across, s.Middle = model.HierarchySheet, true, true
	s.Chart.Counted = true
	if e.addSheet(s) {
		e.Cards.Add(Below)
	}
}

func (e *Sheets) emptySheet(name string) *model.Sheet {
	now := e.Sheet()
	return &model.Sheet{
		SheetHead: model.SheetHead{ID: e.NewID(), Name: name,
			Paper: now.Paper, Across: now.Across, Merging: now.Merging, Middle: now.Middle},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{},
	}
}

func (e *Sheets) addSheet(s *model.Sheet) bool {
	if !e.Do(&edit.AddSheet{At: slices.Index(e.M.Sheets, e.Sheet()) + 1, Sheet: *s}) {
		return false
	}
	e.Show(s.ID)
	return true
}

// Duplicate puts a copy of the sheet behind it, with everything on it: for the work as it is, and as it will be.
func (e *Sheets) Duplicate() {
	s := e.Work().Renewed(e.Sheet(), e.M.Files)
	s.Name = model.Short("Copy of " + s.Name)
	if e.addBehind(s, "copy the sheet") {
		e.Say("A copy of the sheet, with everything on it, was added after it.")
	}
}

// addBehind puts a sheet behind the one that is shown, with edits before it, and shows it.
func (e *Sheets) addBehind(s *model.Sheet, as string, before ...edit.Edit) bool {
	at := slices.Index(e.M.Sheets, e.Sheet()) + 1
	if !e.Do(edit.Together(as, append(before, &edit.AddSheet{At: at, Sheet: *s})...)) {
		return false
	}
	e.Show(s.ID)
	return true
}

// CopySheet returns the whole sheet for the clipboard, as Copy does the selection: with its
// lanes, its choices, the pictures it shows and the heading of its map.
func (e *Sheets) CopySheet() (data, text string) {
	s := e.Sheet()
	c := compose.SheetClip(e.M, s)
	var lines []string
	for _, sym := range s.Symbols {
		lines = append(lines, strings.ReplaceAll(sym.Text, "\n", " "))
	}
	raw, err := json.Marshal(c)
	if err != nil {
		return "", ""
	}
	e.Say("The sheet is on the clipboard. Paste it into this map or another one.")
	return string(raw), strings.Join(append([]string{s.Name}, lines...), "\n")
}

// pasteSheet puts a sheet from the clipboard behind the one that is shown. A map without a
// heading takes the one the sheet had.
func (e *Sheets) pasteSheet(c compose.Clip) {
	s, before := e.Work().Unclipped(&c)
	if e.addBehind(s, "paste the sheet", before...) {
		e.Say("The sheet was added after the one that was shown.")
	}
}

// MoveSheet moves the sheet so many places on.
func (e *Sheets) MoveSheet(by int) {
	to := slices.Index(e.M.Sheets, e.Sheet()) + by
	if to < 0 || to >= len(e.M.Sheets) {
		e.Say("The sheet is at the end.")
		return
	}
	e.Do(&edit.MoveSheet{Sheet: e.SheetID, To: to})
}

// RemoveSheet deletes the sheet.
func (e *Sheets) RemoveSheet() {
	if len(e.M.Sheets) == 1 {
		e.Say("A map keeps at least one sheet.")
		return
	}
	name := e.Sheet().Name
	if e.Do(&edit.RemoveSheet{Sheet: e.SheetID}) {
		e.Say("The sheet “%s” is gone. Undo brings it back.", name)
	}
}

// Continue goes on from what is selected on a new sheet, and goes there: open for typing where the step there is new.
func (e *Sheets) Continue() {
	s, w := e.Sheet(), e.Work()
	var on *compose.Onward
	var err error
	if sym := s.Symbol(e.Sel[0]); sym != nil {
		on, err = w.ContinueFrom(sym)
	} else if c := s.Connector(e.Sel[0]); c != nil {
		on, err = w.ContinueAt(c)
	}
	if err != nil {
		e.Refuse(err)
		return
	}
	if on == nil || !e.Do(on.Edit) {
		return
	}
	e.Show(on.Sheet)
	e.Sel, e.Centre = []string{on.Step}, on.Step
	switch name := e.Sheet().Name; on.Moved {
	case 0:
		e.Writing.WriteNew(on.Step)
		e.Say("The flow goes on here, on “%s”.", name)
	case 1:
		e.Say("The flow goes on here, on “%s”; one symbol came along.", name)
	default:
		e.Say("The flow goes on here, on “%s”; %d symbols came along.", name, on.Moved)
	}
}

// Join brings the sheet to which the selected reference leads back to this one.
func (e *Sheets) Join() {
	change, err := e.Work().JoinSheets(e.One())
	if err != nil {
		e.Refuse(err)
		return
	}
	o, _ := e.M.Partner(e.One())
	name := o.Name
	if !e.Do(change) {
		return
	}
	e.came(fmt.Sprintf("“%s” is part of this sheet now", name))
}

// came says what came to the sheet, and offers a larger paper where it reaches beyond its edge now.
func (e *Sheets) came(words string) {
	e.Say("%s.", words)
	if s := e.Sheet(); !s.Area().Holds(s.Drawn()) && e.offerPaper() {
		e.Say("%s, which reaches beyond the edge of the paper.", words)
	}
}

// Follow goes to where the selected reference leads, or to the first that leads to it.
func (e *Sheets) Follow() {
	where, partner := e.M.Partner(e.One())
	if partner == nil {
		e.Say("This reference has no partner yet.")
		return
	}
	if where.ID != e.SheetID {
		e.Show(where.ID)
	}
	e.Sel, e.Centre = []string{partner.ID}, partner.ID
}
