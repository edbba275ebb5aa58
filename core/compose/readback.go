package compose

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/register"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// Sheet is a table that was read from a file: its lines, the titles first, and where the line stands in the file.
type Sheet struct {
	Rows [][]string `json:"rows"`
	// Notes are what the reader of the file has to say of it.
	Notes []string `json:"notes"`
	// Computed are the cells whose values a program elsewhere has computed by formulas: places of rows and of cells in
	// them.
	Computed [][2]int `json:"computed,omitempty"`
	// Encoding and Separator say how a table of text was read. Doubt is a word of it by which a person sees whether
	// that is right, where the file does not say so itself.
	Encoding string `json:"encoding,omitempty"`
	// Comments stand at cells.
	Comments  []CellComment `json:"comments,omitempty"`
	Separator string        `json:"separator,omitempty"`
	Doubt     string        `json:"doubt,omitempty"`
}

// CellComment is what somebody has said of a cell in another program: of the row and the column, from zero.
type CellComment struct {
	Row    int    `json:"row"`
	Column int    `json:"column"`
	Author string `json:"author,omitempty"`
	Text   string `json:"text"`
}

// Commented is such a comment on a step of the map, or on what stands in a column of the register for it.
type Commented struct {
	ID     string `json:"id"`
	Sheet  string `json:"sheet"`
	Column string `json:"column,omitempty"`
	Step   string `json:"step"`
	// Title names the column, Text is who said it and what.
	Title string `json:"title,omitempty"`
	Text  string `json:"text"`
}

// Taken is a cell of a file that differs from the map.
type Taken struct {
	// ID is that of the step; of a new one "new" and the number of its line.
	ID     string `json:"id"`
	Column string `json:"column"`
	// After and Before are the ids of the steps in the lines before and after, for a new one.
	After  string `json:"after,omitempty"`
	Before string `json:"before,omitempty"`
	// Step and Title name the cell, Was and Text are what stands there and what is to.
	Step  string `json:"step"`
	Title string `json:"title"`
	Was   string `json:"was"`
	Text  string `json:"text"`
	// Why says why it cannot be taken. Computed says that it is what a formula came to elsewhere.
	Why      string `json:"why,omitempty"`
	Computed bool   `json:"computed,omitempty"`
	// Also says what becomes of connectors, for a new step.
	Also string `json:"also,omitempty"`
}

// isNew reports whether the cell is in the row of a new step, makes whether it is the one that makes the step.
func (one *Taken) isNew() bool { return strings.HasPrefix(one.ID, "new ") }
func (one *Taken) makes() bool { return one.isNew() && one.Column == register.Text }

// Plan is what reading a file back would do.
type Plan struct {
	Changes []Taken `json:"changes"`
	// Missing names the steps of the map that are not in the file. They stay.
	Missing []string `json:"missing"`
	Notes   []string `json:"notes"`
	// Encoding and Doubt are as in the file.
	Encoding string `json:"encoding,omitempty"`
	Doubt    string `json:"doubt,omitempty"`
	// Comments are what others have said of cells, which can become remarks.
	Comments []Commented `json:"comments,omitempty"`
	// Refusal says why nothing of the file can be read.
	Refusal string `json:"refusal,omitempty"`
}

// ReadBack compares a table that was filled in elsewhere with the map, cell by cell. Columns are found by their titles
// and steps by their ids; a line without an id is a new step.
func (w *Work) ReadBack(file Sheet) *Plan {
	p := &Plan{Changes: []Taken{}, Missing: []string{}, Notes: append([]string{}, file.Notes...)}
	if len(file.Rows) == 0 {
		p.Refusal = "The file holds no table."
		return p
	}
	r := reading{w: w, plan: p, table: register.Of(flow.New(w.Map)), file: file, lines: map[string]int{}}
	if r.readTitles(); p.Refusal != "" {
		return p
	}
	r.rows = map[string]*register.Row{}
	for i := range r.table.Rows {
		r.rows[r.table.Rows[i].ID] = &r.table.Rows[i]
	}
	r.added = Meanings{}
	for _, line := range file.Rows[1:] {
		if r.text >= 0 && r.text < len(line) && (r.id >= len(line) || strings.TrimSpace(line[r.id]) == "") {
			r.added[model.Flat(line[r.text])] = ""
		}
	}
	for n, line := range file.Rows[1:] {
		if r.readLine(n+1, line); p.Refusal != "" {
			return p
		}
	}
	w.tell(p)
	r.ordered()
	r.comments()
	p.Encoding, p.Doubt = file.Encoding, file.Doubt
	for i := range r.table.Rows {
		if row := &r.table.Rows[i]; r.lines[row.ID] == 0 {
			p.Missing = append(p.Missing, r.named(row))
		}
	}
	return p
}

// computed are the titles of columns that a register has besides and that say what follows from the map: nothing of
// them is read back.
var computed = []string{model.SheetTitle, model.UsesTitle, model.MakesTitle, model.NotesTitle}

// ordered says what it would mean that the rows of the file stand in another order than the steps of the map.
func (r *reading) ordered() {
	before := 0
	for i := range r.table.Rows {
		row := &r.table.Rows[i]
		line := r.lines[row.ID]
		if line == 0 {
			continue
		}
		if line < before {
			r.plan.Notes = append(r.plan.Notes,
				fmt.Sprintf("The rows stand in another order: “%.60s” before steps that come before it. The steps follow their connectors and stay as they are; what comes next is changed in the column “%s”.",
					r.named(row), model.NextTitle))
			return
		}
		before = line
	}
}

// comments finds the steps that comments stand at.
func (r *reading) comments() {
	byLine := map[int]string{}
	for id, line := range r.lines {
		byLine[line] = id
	}
	for _, c := range r.file.Comments {
		row := r.rows[byLine[c.Row+1]]
		if row == nil || strings.TrimSpace(c.Text) == "" {
			continue
		}
		one := Commented{ID: row.ID, Sheet: row.Sheet, Step: r.named(row), Text: c.Text}
		if c.Author != "" {
			one.Text = c.Author + ": " + c.Text
		}
		if c.Column < len(r.columns) && r.columns[c.Column] >= 0 {
			column := &r.table.Columns[r.columns[c.Column]]
			one.Column, one.Title = column.ID, column.Title
		}
		r.plan.Comments = append(r.plan.Comments, one)
	}
}

// reading is a table that is being read back.
type reading struct {
	w     *Work
	plan  *Plan
	table *register.Table
	file  Sheet
	// columns are those of the register by the columns of the file, -1 for none; id and text are where ids and texts
	// stand.
	columns  []int
	id, text int
	// rows are those of the register by their ids, added the texts of new steps, to which others can lead.
	rows  map[string]*register.Row
	added Meanings
	// lines are the rows of the file, from 1, by the ids that stand there; after is the step of the last one.
	lines map[string]int
	after string
	// unplaced is the first change of which it is not known what step comes after.
	unplaced int
}

// named is what a row is called: its number and its text.
func (r *reading) named(row *register.Row) string {
	return model.Flat(row.Cells[r.table.Column(register.Number)] + " " + row.Cells[r.table.Column(register.Text)])
}

// readTitles finds the columns by their titles.
func (r *reading) readTitles() {
	titles := r.file.Rows[0]
	r.columns, r.id, r.text = make([]int, len(titles)), -1, -1
	seen := map[string]bool{}
	for k, title := range titles {
		r.columns[k] = -1
		title = model.Flat(title)
		if strings.EqualFold(title, model.IDTitle) {
			r.id = k
			continue
		}
		i := slices.IndexFunc(r.table.Columns,
			func(c register.Column) bool { return strings.EqualFold(c.Title, title) })
		switch {
		case title == "":
		case seen[strings.ToLower(title)]:
			r.plan.Refusal = fmt.Sprintf("Row 1, column %d: the title “%.60s” stands there twice.", k+1, title)
			return
		case slices.ContainsFunc(computed, func(own string) bool { return strings.EqualFold(own, title) }):
		case i < 0:
			r.plan.Notes = append(r.plan.Notes, fmt.Sprintf("The column “%.60s” is not in the register and was left.",
				title))
		case r.table.Columns[i].Fixed:
		default:
			if r.columns[k] = i; r.table.Columns[i].ID == register.Text {
				r.text = k
			}
		}
		seen[strings.ToLower(title)] = true
	}
	if r.id < 0 {
		r.plan.Refusal = fmt.Sprintf("Row 1: there is no column “%s”. Send the register out first, and keep its last column.", model.IDTitle)
	}
}

// readLine reads line n of the file, counted from the titles.
func (r *reading) readLine(n int, line []string) {
	p := r.plan
	cell := func(k int) string {
		if k >= 0 && k < len(line) {
			return strings.TrimSpace(line[k])
		}
		return ""
	}
	if strings.Join(line, "") == "" {
		return
	}
	key := cell(r.id)
	row := r.rows[key]
	switch {
	case key == "" && cell(r.text) == "":
		p.Notes = append(p.Notes, fmt.Sprintf("Row %d has no id and no step and was left.", n+1))
		return
	case key != "" && row == nil:
		p.Notes = append(p.Notes, fmt.Sprintf("Row %d: “%.40s” is no step of this map; the row was left.", n+1, key))
		return
	case key != "" && r.lines[key] > 0:
		p.Refusal = fmt.Sprintf("Row %d: its id stands in row %d already.", n+1, r.lines[key])
		return
	case key == "":
		key = fmt.Sprintf("new %d", n+1)
	}
	r.lines[key] = n + 1
	for k, i := range r.columns {
		if i >= 0 {
			r.readCell(n, k, key, row, &r.table.Columns[i], cell(k))
		}
	}
	if row != nil {
		for i := r.unplaced; i < len(p.Changes); i++ {
			if p.Changes[i].isNew() {
				p.Changes[i].Before = key
			}
		}
		r.unplaced = len(p.Changes)
	}
	r.after = key
}

// readCell notes what a cell of line n changes: the text of column c, in column k of the file, for a step under a key;
// row is nil for a new one.
func (r *reading) readCell(n, k int, key string, row *register.Row, c *register.Column, text string) {
	one := Taken{ID: key, Column: c.ID, Step: fmt.Sprintf("row %d", n+1), Title: c.Title, Text: text}
	if row != nil {
		one.Step, one.Was = r.named(row), row.Cells[r.columns[k]]
	} else if one.After = r.after; text == "" || c.ID == register.Number {
		return
	}
	if strings.TrimSpace(one.Was) == text || c.ID == register.Number && !row.Pinned || r.w.same(c, one.Was, text) {
		return
	}
	one.Why = r.w.refused(row, c, text, r.added)
	one.Computed = slices.Contains(r.file.Computed, [2]int{n, k})
	r.plan.Changes = append(r.plan.Changes, one)
}

// same reports whether two texts of a column are the same value, written in two ways.
func (w *Work) same(c *register.Column, was, text string) bool {
	if !c.Own {
		return model.Flat(was) == model.Flat(text)
	}
	a, errA := values.Read(c.Type, c.Choices, was, w.Map.Measures())
	b, errB := values.Read(c.Type, c.Choices, text, w.Map.Measures())
	return errA == nil && errB == nil && a == b
}

// refused says why a text cannot stand in a column; row is nil for a new step.
func (w *Work) refused(row *register.Row, c *register.Column, text string, added Meanings) string {
	if row == nil {
		if c.Own {
			if _, err := values.Read(c.Type, c.Choices, text, w.Map.Measures()); err != nil {
				return err.Error()
			}
		}
		return ""
	}
	t := &turns{m: w.Map}
	defer t.takeBack()
	if err := w.writeCell(t, CellText{row.ID, c.ID, text, added}); err != nil {
		return err.Error()
	}
	return ""
}

// TakeBack returns the edit that takes cells of a plan, new steps among them, with the reasons why some are left.
func (w *Work) TakeBack(list []Taken) (e edit.Edit, wrong map[int]error) {
	wrong = map[int]error{}
	t := &turns{m: w.Map}
	defer t.takeBack()
	w.asNumbered().take(t, list, wrong)
	if len(t.edits) == 0 {
		return nil, wrong
	}
	return &edit.Batch{As: FromTable, Edits: envelopes(t.edits)}, wrong
}

// take takes cells in turn and returns the ids of the new steps, by what the plan calls them.
func (w *Work) take(t *turns, list []Taken, wrong map[int]error) (made map[string]string) {
	made = map[string]string{}
	known := func(id string) string {
		if made[id] != "" {
			return made[id]
		}
		return id
	}
	// New steps come first, so that others can lead to them.
	for i, one := range list {
		if one.makes() {
			id, add := w.newStep(known(one.After), one.Before, one.Text)
			if err := t.try(add); err != nil {
				wrong[i] = err
			} else {
				made[one.ID] = id
			}
		}
	}
	for i, one := range list {
		switch id := known(one.ID); {
		case one.makes():
		case one.isNew() && id == one.ID:
			wrong[i] = fmt.Errorf("the step of this row was not taken")
		default:
			if err := w.writeCell(t, CellText{id, one.Column, one.Text, nil}); err != nil {
				wrong[i] = err
			}
		}
	}
	return made
}

// tell tries the rows of new steps and says what becomes of connectors for each.
func (w *Work) tell(p *Plan) {
	var rows []Taken
	var at []int
	for i, one := range p.Changes {
		if one.isNew() && (one.Column == register.Text || one.Column == register.Next) {
			rows, at = append(rows, one), append(at, i)
		}
	}
	if len(rows) == 0 {
		return
	}
	numbers := w.numbers()
	was := map[string]string{} // where connectors led, by their ids
	for _, s := range w.Map.Sheets {
		for _, l := range flow.Links(s) {
			if l.To != nil {
				was[l.Connector.ID] = called(l.To, numbers)
			}
		}
	}
	t := &turns{m: w.Map}
	defer t.takeBack()
	wrong := map[int]error{}
	made := w.asNumbered().take(t, rows, wrong)
	for i, err := range wrong {
		p.Changes[at[i]].Why = err.Error()
	}
	for i, one := range rows {
		s := w.Map.SheetOf(made[one.ID])
		if !one.makes() || s == nil {
			continue
		}
		var in, on []string
		for _, l := range flow.Links(s) {
			switch {
			case l.To != nil && l.To.ID == made[one.ID] && l.From != nil:
				text := called(l.From, numbers) + " leads to it"
				if before := was[l.Connector.ID]; before != "" {
					text += ", no longer to " + before
				}
				in = append(in, text)
			case l.From != nil && l.From.ID == made[one.ID] && l.To != nil:
				on = append(on, "it leads to "+called(l.To, numbers))
			}
		}
		if len(in) == 0 {
			in = []string{"nothing leads to it yet"}
		}
		p.Changes[at[i]].Also = strings.Join(append(in, on...), "; ")
	}
}

// called is how a step is named to a person who reads of it.
func called(sym *model.Symbol, numbers map[string]string) string {
	return "“" + model.Flat(numbers[sym.ID]+" "+register.Name(sym, nil)) + "”"
}

// FromTable is what an edit is called that takes cells of a table.
const FromTable = "take from a table"

func envelopes(edits []edit.Edit) (list []edit.Envelope) {
	for _, e := range edits {
		list = append(list, edit.Envelope{Edit: e})
	}
	return list
}

// newStep returns the edit that puts a new step where a table has it: into the connector between the steps of the lines
// before and after, or into the one by which the step before leads on, where it has one; else led to from it. Before
// all others it leads to the first of them, and stands below all others where there is none.
func (w *Work) newStep(after, before, text string) (id string, e edit.Edit) {
	id = w.NewID()
	kind := KindOf(model.Process, text)
	g := flow.New(w.Map)
	s := w.Map.SheetOf(after)
	if s == nil {
		if s = w.Map.SheetOf(before); s == nil {
			s = w.Sheet
		}
	}
	on := &Work{Map: w.Map, Sheet: s, NewID: w.NewID}
	from, next := s.Symbol(after), s.Symbol(before)
	var into *model.Connector
	if from == nil && next != nil { // it comes before the first of all
		if entries := slices.DeleteFunc(g.Entries(before), func(x *flow.Exit) bool {
			return x.Back || x.From.Sheet != s
		}); len(entries) == 1 {
			into, from = entries[0].Connector, entries[0].From.Symbol
		}
	}
	if from == nil {
		def := symbols.Of(kind)
		w, h := arrange.Size(s, kind)
		box := geometry.Box{X: 4 * arrange.Grid, Y: s.Drawn().Bottom() + 2*arrange.Grid, W: max(w, def.W),
			H: max(h, def.H)}
		step := model.Symbol{ID: id, Kind: kind, Text: text, Box: box}
		add := &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{step}}
		if next != nil {
			at := next.Centre().Sub(geometry.Point{X: next.W/2 + arrange.Gap + box.W/2})
			if on.Map.Direction == model.Downwards {
				at = next.Centre().Sub(geometry.Point{Y: next.H/2 + arrange.Gap + box.H/2})
			}
			step.Box, step.Owner = arrange.Free(s, geometry.Around(at, box.W, box.H)), next.Owner
			add.Symbols[0] = step
			add.Connectors = []model.Connector{{ID: on.NewID(), From: model.End{Symbol: id},
				To: model.End{Symbol: before}}}
		}
		return id, add
	}
	box, room := arrange.Append(w.Map, s, from, kind)
	add := &edit.AddItems{Sheet: s.ID,
		Symbols: []model.Symbol{{ID: id, Kind: kind, Text: text, Owner: from.Owner, Box: box}}}
	exits := g.Onward(from.ID)
	if i := slices.IndexFunc(exits, func(x *flow.Exit) bool { return x.To.Symbol == next }); i >= 0 && into == nil {
		into = exits[i].Connector
	}
	if into == nil && len(exits) == 1 && !from.Kind.Asks() {
		into = exits[0].Connector
	}
	if into != nil {
		return id, edit.Together("put in between", append(append(room, add), on.IntoLine(into, id)...)...)
	}
	lead := model.Connector{ID: w.NewID(), From: model.End{Symbol: from.ID}, To: model.End{Symbol: id},
		Text: on.NextAnswer(from.ID)}
	add.Connectors = []model.Connector{lead}
	return id, edit.Together("add the next step", append(room, add)...)
}
