package editor

import (
	"encoding/json"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// Clip is what copying puts on the clipboard.
type Clip struct {
	Format     string              `json:"format"`
	Symbols    []diagram.Symbol    `json:"symbols"`
	Connectors []diagram.Connector `json:"connectors"`
}

const clipFormat = "plain-tracer-clip-1"

// maxPaste is the number of lines of plain text that become steps at once.
const maxPaste = 300

// gather returns the selected symbols and the connectors among them.
func (e *Editor) gather() Clip {
	c := Clip{Format: clipFormat}
	in := map[string]bool{}
	for _, id := range e.sel {
		in[id] = true
	}
	s := e.Sheet()
	for _, sym := range s.Symbols { // in drawing order
		if in[sym.ID] {
			c.Symbols = append(c.Symbols, *sym)
		}
	}
	for _, con := range s.Connectors {
		if in[con.From.Symbol] && in[con.To.Symbol] {
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
		sym := diagram.Symbol{ID: e.newID(), Kind: kind, Box: arrange.Standard(kind, at), Text: line}
		if len(line) <= diagram.MaxText {
			sym.Box = arrange.Grown(&sym)
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
	add := &diagram.AddItems{Sheet: e.sheetID}
	var chosen []string
	for _, sym := range c.Symbols {
		id := e.newID()
		ids[sym.ID] = id
		sym.ID, sym.Box = id, sym.Moved(d)
		add.Symbols = append(add.Symbols, sym)
		chosen = append(chosen, id)
	}
	for _, con := range c.Connectors {
		con.ID, con.From.Symbol, con.To.Symbol = e.newID(), ids[con.From.Symbol], ids[con.To.Symbol]
		add.Connectors = append(add.Connectors, con)
	}
	if e.do(diagram.Together(as, add)) {
		e.sel, e.lane = chosen, ""
	}
}
