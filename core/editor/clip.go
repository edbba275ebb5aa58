package editor

import (
	"encoding/json"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/pictures"
)

// Clip is what copying puts on the clipboard.
type Clip struct {
	Format     string              `json:"format"`
	Symbols    []diagram.Symbol    `json:"symbols"`
	Connectors []diagram.Connector `json:"connectors"`
	Pictures   []pictures.Picture  `json:"pictures,omitempty"`
}

const clipFormat = "plain-tracer-clip-1"

// maxPaste is the number of lines of plain text that become steps at once.
const maxPaste = 300

// gather returns the selected symbols, the connectors among them, and those
// selected connectors whose ends are among them or loose.
func (e *Editor) gather() Clip {
	c := Clip{Format: clipFormat}
	in := map[string]bool{}
	for _, id := range e.sel {
		in[id] = true
	}
	s := e.Sheet()
	for _, sym := range s.Symbols { // in drawing order
		if !in[sym.ID] {
			continue
		}
		c.Symbols = append(c.Symbols, *sym)
		p := e.m.Picture(sym.Picture)
		if p != nil && !slices.ContainsFunc(c.Pictures, func(q pictures.Picture) bool { return q.ID == p.ID }) {
			c.Pictures = append(c.Pictures, *p)
		}
	}
	comes := map[string]bool{}
	taken := func(end diagram.End, own bool) bool {
		return in[end.Symbol] && end.Symbol != "" || end.Connector != "" && comes[end.Connector] || own && end.Loose()
	}
	for again := true; again; { // those that join others come after them
		again = false
		for _, con := range s.Connectors {
			if !comes[con.ID] && taken(con.From, in[con.ID]) && taken(con.To, in[con.ID]) {
				comes[con.ID], again = true, true
			}
		}
	}
	for _, con := range s.Connectors {
		if comes[con.ID] {
			c.Connectors = append(c.Connectors, *con)
		}
	}
	return c
}

// Copy returns the selection for the clipboard: as data, and as plain text
// with one step a line. Both are empty when no symbol is selected.
func (e *Editor) Copy() (data, text string) {
	c := e.gather()
	if len(c.Symbols) == 0 {
		return "", ""
	}
	e.pasted = 0
	raw, err := json.Marshal(c)
	if err != nil {
		return "", ""
	}
	var lines []string
	for _, sym := range c.Symbols {
		lines = append(lines, strings.ReplaceAll(sym.Text, "\n", " "))
	}
	return string(raw), strings.Join(lines, "\n")
}

// Paste sets down what Copy returned, here or in another window. Each time
// anew it lands a little further along, so that nothing lies hidden.
func (e *Editor) Paste(data string) {
	var c Clip
	if err := json.Unmarshal([]byte(data), &c); err != nil || c.Format != clipFormat {
		e.say("The clipboard holds nothing that can be pasted here.")
		return
	}
	e.pasted++
	e.setDown(c, geometry.Point{X: 2 * arrange.Grid * e.pasted, Y: 2 * arrange.Grid * e.pasted}, "paste")
}

// PasteText makes steps of plain text, one a line, down from the pointer.
func (e *Editor) PasteText(text string) {
	var c Clip
	at := e.at
	for _, line := range strings.Split(text, "\n") {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		if len(c.Symbols) == maxPaste {
			e.say("Pasted the first %d lines; more than that at once would fill the sheet.", maxPaste)
			break
		}
		kind := diagram.Process
		if strings.HasSuffix(line, "?") {
			kind = diagram.Decision
		}
		sym := diagram.Symbol{ID: e.newID(), Kind: kind, Box: arrange.Standard(e.Sheet(), kind, at), Text: line}
		if len(line) <= diagram.MaxText {
			if fit := arrange.Fit(e.Sheet(), &sym); len(fit) > 0 {
				sym.Box = fit[0].Box
			}
		}
		at.Y = sym.Bottom() + arrange.Gap + sym.H/2
		c.Symbols = append(c.Symbols, sym)
	}
	if len(c.Symbols) > 0 {
		e.setDown(c, geometry.Point{}, "paste text")
	}
}

// copyBy sets a copy of the selection down at a distance.
func (e *Editor) copyBy(d geometry.Point) {
	if c := e.gather(); len(c.Symbols) > 0 && d != (geometry.Point{}) {
		e.setDown(c, d, "copy")
	}
}

// setDown adds symbols and connectors under new ids and selects them.
func (e *Editor) setDown(c Clip, d geometry.Point, as string) {
	ids := map[string]string{}
	add := &diagram.AddItems{Sheet: e.sheetID, Pictures: c.Pictures}
	var chosen []string
	for _, sym := range c.Symbols {
		id := e.newID()
		ids[sym.ID] = id
		sym.ID, sym.Box = id, sym.Moved(d)
		add.Symbols = append(add.Symbols, sym)
		chosen = append(chosen, id)
	}
	for _, con := range c.Connectors {
		ids[con.ID] = e.newID()
	}
	for _, con := range c.Connectors {
		con.ID = ids[con.ID]
		for _, end := range [...]*diagram.End{&con.From, &con.To} {
			if end.Loose() {
				end.At = end.At.Add(d)
			}
			end.Symbol, end.Connector = ids[end.Symbol], ids[end.Connector]
		}
		con.Bends = slices.Clone(con.Bends)
		for i := range con.Bends {
			if con.Bends[i].Upright {
				con.Bends[i].At += d.X
			} else {
				con.Bends[i].At += d.Y
			}
		}
		add.Connectors = append(add.Connectors, con)
	}
	if e.do(diagram.Together(as, add)) {
		e.sel, e.lane = chosen, ""
	}
}
