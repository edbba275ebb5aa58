package compose

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/register"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// Sheet is a table that was read from a file: its lines, the titles first, and where the line stands in the file.
type Sheet struct {
	Rows [][]string `json:"rows"`
	// Notes are what the reader of the file has to say of it.
	Notes []string `json:"notes"`
	// Computed are the cells whose values a program elsewhere has computed by formulas: places of rows and of cells in them.
	Computed [][2]int `json:"computed,omitempty"`
}

// IDTitle is the title of the column with the ids of the steps.
const IDTitle = "id"

// Taken is a cell of a file that differs from the map.
type Taken struct {
	// ID is that of the step; of a new one "new" and the number of its line.
	ID     string `json:"id"`
	Column string `json:"column"`
	// After is the id of the step in the line before, for a new one.
	After string `json:"after,omitempty"`
	// Step and Title name the cell, Was and Text are what stands there and what is to.
	Step  string `json:"step"`
	Title string `json:"title"`
	Was   string `json:"was"`
	Text  string `json:"text"`
	// Why says why it cannot be taken. Computed says that it is what a formula came to elsewhere.
	Why      string `json:"why,omitempty"`
	Computed bool   `json:"computed,omitempty"`
}

// Plan is what reading a file back would do.
type Plan struct {
	Changes []Taken `json:"changes"`
	// Missing names the steps of the map that are not in the file. They stay.
	Missing []string `json:"missing"`
	Notes   []string `json:"notes"`
	// Refusal says why nothing of the file can be read.
	Refusal string `json:"refusal,omitempty"`
}

// ReadBack compares a table that was filled in elsewhere with the map, cell by cell. Columns are found by their titles and
// steps by their ids; a line without an id is a new step.
func (w *Work) ReadBack(file Sheet) *Plan {
	p := &Plan{Changes: []Taken{}, Missing: []string{}, Notes: slices.Concat([]string{}, file.Notes)}
	if len(file.Rows) == 0 {
		p.Refusal = "The file holds no table."
		return p
	}
	t := register.Of(flow.New(w.Map))
	columns := make([]int, len(file.Rows[0]))
	id, text := -1, -1
	seen := map[string]bool{}
	for k, title := range file.Rows[0] {
		columns[k] = -1
		title = flat(title)
		if strings.EqualFold(title, IDTitle) {
			id = k
			continue
		}
		i := slices.IndexFunc(t.Columns, func(c register.Column) bool { return strings.EqualFold(c.Title, title) })
		switch {
		case title == "":
		case seen[strings.ToLower(title)]:
			p.Refusal = fmt.Sprintf("Row 1, column %d: the title “%.60s” stands there twice.", k+1, title)
			return p
		case i < 0:
			p.Notes = append(p.Notes, fmt.Sprintf("The column “%.60s” is not in the register and was left.", title))
		case t.Columns[i].Fixed:
		default:
			if columns[k] = i; t.Columns[i].ID == register.Text {
				text = k
			}
		}
		seen[strings.ToLower(title)] = true
	}
	if id < 0 {
		p.Refusal = fmt.Sprintf("Row 1: there is no column “%s”. Send the register out first, and keep its last column.", IDTitle)
		return p
	}
	rows := map[string]*register.Row{}
	for i := range t.Rows {
		rows[t.Rows[i].ID] = &t.Rows[i]
	}
	lines, after := map[string]int{}, ""
	for n, line := range file.Rows[1:] {
		cell := func(k int) string {
			if k >= 0 && k < len(line) {
				return strings.TrimSpace(line[k])
			}
			return ""
		}
		if strings.Join(line, "") == "" {
			continue
		}
		key := cell(id)
		row := rows[key]
		switch {
		case key == "" && cell(text) == "":
			p.Notes = append(p.Notes, fmt.Sprintf("Row %d has no id and no step and was left.", n+2))
			continue
		case key != "" && row == nil:
			p.Notes = append(p.Notes, fmt.Sprintf("Row %d: “%.40s” is no step of this map; the row was left.", n+2, key))
			continue
		case key != "" && lines[key] > 0:
			p.Refusal = fmt.Sprintf("Row %d: its id stands in row %d already.", n+2, lines[key])
			return p
		}
		if key == "" {
			key = fmt.Sprintf("new %d", n+2)
		}
		lines[key] = n + 2
		for k, i := range columns {
			if i < 0 {
				continue
			}
			c := &t.Columns[i]
			one := Taken{ID: key, Column: c.ID, Step: fmt.Sprintf("row %d", n+2), Title: c.Title, Text: cell(k)}
			if row != nil {
				one.Step = flat(row.Cells[t.Column(register.Number)] + " " + row.Cells[t.Column(register.Text)])
				one.Was = row.Cells[i]
			} else if one.After = after; one.Text == "" || c.ID == register.Number {
				continue
			}
			if strings.TrimSpace(one.Was) == one.Text || c.ID == register.Number && !row.Pinned {
				continue
			}
			if w.same(c, one.Was, one.Text) {
				continue
			}
			one.Why = w.refused(row, c, one.Text)
			one.Computed = slices.Contains(file.Computed, [2]int{n + 1, k})
			p.Changes = append(p.Changes, one)
		}
		after = key
	}
	for i := range t.Rows {
		if r := &t.Rows[i]; lines[r.ID] == 0 {
			p.Missing = append(p.Missing, flat(r.Cells[t.Column(register.Number)]+" "+r.Cells[t.Column(register.Text)]))
		}
	}
	return p
}

// same reports whether two texts of a column are the same value, written in two ways.
func (w *Work) same(c *register.Column, was, text string) bool {
	if !c.Own {
		return flat(was) == flat(text)
	}
	a, errA := values.Read(c.Type, c.Choices, was)
	b, errB := values.Read(c.Type, c.Choices, text)
	return errA == nil && errB == nil && a == b
}

// refused says why a text cannot stand in a column; row is nil for a new step.
func (w *Work) refused(row *register.Row, c *register.Column, text string) string {
	if row == nil {
		if c.Own {
			if _, err := values.Read(c.Type, c.Choices, text); err != nil {
				return err.Error()
			}
		}
		return ""
	}
	t := &turns{m: w.Map}
	defer t.takeBack()
	if err := w.writeCell(t, CellText{row.ID, c.ID, text}); err != nil {
		return err.Error()
	}
	return ""
}

// TakeBack returns the edit that takes cells of a plan, new steps among them, with the reasons why some are left.
func (w *Work) TakeBack(list []Taken) (edit diagram.Edit, wrong map[int]error) {
	wrong = map[int]error{}
	made := map[string]string{} // the ids of new steps, by what the plan calls them
	t := &turns{m: w.Map}
	defer t.takeBack()
	// New steps come first, so that others can lead to them.
	for i, one := range list {
		if strings.HasPrefix(one.ID, "new ") && one.Column == register.Text {
			after := one.After
			if id := made[after]; id != "" {
				after = id
			}
			id, add := w.newStep(after, one.Text)
			if err := t.try(add); err != nil {
				wrong[i] = err
			} else {
				made[one.ID] = id
			}
		}
	}
	for i, one := range list {
		id := one.ID
		if strings.HasPrefix(id, "new ") {
			if id = made[one.ID]; id == "" || one.Column == register.Text {
				if id == "" && wrong[i] == nil {
					wrong[i] = fmt.Errorf("the step of this row was not taken")
				}
				continue
			}
		}
		if err := w.writeCell(t, CellText{id, one.Column, one.Text}); err != nil {
			wrong[i] = err
		}
	}
	if len(t.edits) == 0 {
		return nil, wrong
	}
	return &diagram.Batch{As: FromTable, Edits: envelopes(t.edits)}, wrong
}

// FromTable is what an edit is called that takes cells of a table.
const FromTable = "take from a table"

func envelopes(edits []diagram.Edit) (list []diagram.Envelope) {
	for _, e := range edits {
		list = append(list, diagram.Envelope{Edit: e})
	}
	return list
}

// newStep returns the edit that puts a new step after another one: between it and the next where it has one way on, else led to
// from it; below all others where nothing stands before it.
func (w *Work) newStep(after, text string) (id string, edit diagram.Edit) {
	s := w.Map.SheetOf(after)
	id = w.NewID()
	kind := KindOf(diagram.Process, text)
	if s == nil || s.Symbol(after) == nil {
		s = w.Sheet
		def := symbols.Of(kind)
		box := arrange.Standard(s, kind, geometry.Point{})
		box = geometry.Box{X: 4 * arrange.Grid, Y: s.Drawn().Bottom() + 2*arrange.Grid, W: max(box.W, def.W), H: max(box.H, def.H)}
		return id, &diagram.AddItems{Sheet: s.ID, Symbols: []diagram.Symbol{{ID: id, Kind: kind, Text: text, Box: box}}}
	}
	from := s.Symbol(after)
	on := &Work{Map: w.Map, Sheet: s, NewID: w.NewID}
	box, room := arrange.Append(w.Map, s, from, kind)
	add := &diagram.AddItems{Sheet: s.ID, Symbols: []diagram.Symbol{{ID: id, Kind: kind, Text: text, Owner: from.Owner, Box: box}}}
	if exits := flow.New(w.Map).Onward(after); len(exits) == 1 && !from.Kind.Asks() {
		return id, diagram.Together("put in between", append(append(room, add), on.IntoLine(exits[0].Connector, id)...)...)
	}
	add.Connectors = []diagram.Connector{{ID: w.NewID(), From: diagram.End{Symbol: after}, To: diagram.End{Symbol: id}, Text: on.NextAnswer(after)}}
	return id, diagram.Together("add the next step", append(room, add)...)
}
