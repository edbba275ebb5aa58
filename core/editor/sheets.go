package editor

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

func (e *Sheets) addSheet() {
	now := e.Sheet()
	at := slices.Index(e.m.Sheets, now) + 1
	s := model.Sheet{
		SheetHead: model.SheetHead{ID: e.newID(), Name: "Sheet " + strconv.Itoa(len(e.m.Sheets)+1),
			Paper: now.Paper, Across: now.Across, Merging: now.Merging, Middle: now.Middle},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{},
	}
	if e.do(&edit.AddSheet{At: at, Sheet: s}) {
		e.show(s.ID)
	}
}

// copySheet puts a copy of the sheet behind it, with everything on it: for the work as it is, and as it will be.
func (e *Sheets) copySheet() {
	s := e.work().Renewed(e.Sheet())
	s.Name = compose.Titled("Copy of ", s.Name)
	if e.addBehind(s, "copy the sheet") {
		e.say("A copy of the sheet, with everything on it, was added after it.")
	}
}

// addBehind puts a sheet behind the one that is shown, with edits before it, and shows it.
func (e *Sheets) addBehind(s *model.Sheet, as string, before ...edit.Edit) bool {
	at := slices.Index(e.m.Sheets, e.Sheet()) + 1
	if !e.do(edit.Together(as, append(before, &edit.AddSheet{At: at, Sheet: *s})...)) {
		return false
	}
	e.show(s.ID)
	return true
}

// CopySheet returns the whole sheet for the clipboard, as Copy does the selection: with its
// lanes, its choices, the pictures it shows and the heading of its map.
func (e *Sheets) CopySheet() (data, text string) {
	s := e.Sheet()
	c := compose.Clip{Format: compose.ClipFormat, Sheet: s.Clone(), Heading: e.m.Heading, Symbols: []model.Symbol{}, Connectors: []model.Connector{}}
	c.Keep(e.m, s.Ground.Picture)
	var lines []string
	for _, sym := range s.Symbols {
		c.Keep(e.m, sym.Picture)
		lines = append(lines, strings.ReplaceAll(sym.Text, "\n", " "))
	}
	raw, err := json.Marshal(c)
	if err != nil {
		return "", ""
	}
	e.say("The sheet is on the clipboard. Paste it into this map or another one.")
	return string(raw), strings.Join(append([]string{s.Name}, lines...), "\n")
}

// pasteSheet puts a sheet from the clipboard behind the one that is shown. A map without a
// heading takes the one the sheet had.
func (e *Sheets) pasteSheet(c compose.Clip) {
	s := e.work().Renewed(c.Sheet)
	for _, sym := range s.Symbols {
		if e.m.StyleNamed(sym.Style) == nil {
			sym.Style = ""
		}
	}
	for _, con := range s.Connectors {
		if e.m.StyleNamed(con.Style) == nil {
			con.Style = ""
		}
	}
	var before []edit.Edit
	if s.Headed && e.m.Heading == (model.Heading{}) && c.Heading != (model.Heading{}) {
		before = append(before, &edit.SetHead{Heading: &c.Heading})
	}
	if len(c.Pictures) > 0 {
		before = append(before, &edit.AddItems{Sheet: e.sheetID, Pictures: c.Pictures})
	}
	if e.addBehind(s, "paste the sheet", before...) {
		e.say("The sheet was added after the one that was shown.")
	}
}

func (e *Sheets) moveSheet(by int) {
	to := slices.Index(e.m.Sheets, e.Sheet()) + by
	if to < 0 || to >= len(e.m.Sheets) {
		e.say("The sheet is at the end.")
		return
	}
	e.do(&edit.MoveSheet{Sheet: e.sheetID, To: to})
}

func (e *Sheets) removeSheet() {
	if len(e.m.Sheets) == 1 {
		e.say("A map keeps at least one sheet.")
		return
	}
	name := e.Sheet().Name
	if e.do(&edit.RemoveSheet{Sheet: e.sheetID}) {
		e.say("The sheet “%s” is gone. Undo brings it back.", name)
	}
}
