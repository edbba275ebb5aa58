package editor

import (
	"encoding/json"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
	"plaintracer/core/register"
	"plaintracer/core/values"
)

// What the register's table asks for. Answers are JSON for the page.

// Rows are the map as a register, and what is done in one.
type Rows struct {
	*desk.Window
	*desk.Desk
	// portraits are picture files for the next table of people.
	portraits compose.Portraits
}

// RegisterPage is the register as the page shows it.
type RegisterPage struct {
	*register.Answer
	Types    []values.Info `json:"types"`
	Fields   []model.Field `json:"fields"`
	Currency string        `json:"currency"`
	Day      int           `json:"day"`
	Week     int           `json:"week"`
	Shown    []string      `json:"shown"`
	ColourBy string        `json:"colourBy"`
	// Subjects are what the rows can be, Of is what they are.
	Subjects []register.Subject `json:"subjects"`
	Of       register.Subject   `json:"of"`
}

// Register answers a query of the register, given as JSON.
func (e *Rows) Register(query string) []byte {
	var q register.Query
	if err := json.Unmarshal([]byte(query), &q); err != nil {
		return []byte("null")
	}
	subjects := register.Subjects(e.M)
	of := subjects[max(slices.IndexFunc(subjects, func(s register.Subject) bool { return s.Name == q.Rows }), 0)]
	answer := register.OfSubject(e.Flow(), of.Name).Ask(q, e.M.Measures())
	return desk.AsJSON(RegisterPage{answer, values.Types(), e.M.Fields, e.M.Currency, e.M.Day, e.M.Week, e.M.Shown,
		e.M.ColourBy, subjects, of})
}

// Left says why a cell was left as it is. Where it names a step that there is none of, Unknown is that name and Near
// are the steps that may have been meant.
type Left struct {
	Why     string              `json:"why"`
	Unknown string              `json:"unknown,omitempty"`
	Near    []compose.Candidate `json:"near,omitempty"`
}

// SetCells writes cells of the register, as one edit. It returns, by their places in the list, why cells were left as
// they are.
func (e *Rows) SetCells(cells, as string) []byte {
	var list []compose.CellText
	if err := json.Unmarshal([]byte(cells), &list); err != nil {
		return desk.AsJSON(map[int]Left{0: {Why: "The cells could not be read."}})
	}
	if len(e.Tracing) > 0 {
		return desk.AsJSON(map[int]Left{0: {Why: desk.TracingWords}})
	}
	e.Drop()
	w := e.Work()
	if !e.Stale.Facts && !e.Doc.Showing() {
		w.Numbers = e.Facts.Numbers // those of the map as it is; nil where it shows none
	}
	edit, wrong := w.Cells(list, as)
	words := map[int]Left{}
	for i, err := range wrong {
		left := Left{Why: sentence(err)}
		if unknown, is := err.(*compose.Unknown); is {
			left.Unknown, left.Near = unknown.Name, unknown.Near
		}
		words[i] = left
	}
	lanes := laneNames(e.M)
	if edit != nil && !e.Do(edit) && len(list) > 0 {
		words[0] = Left{Why: "This could not be done."}
	}
	for name := range laneNames(e.M) {
		if !lanes[name] { // a name that nobody had is a new lane; it may have been a slip
			e.Say("There is a new lane, “%s”. Undo takes it back.", name)
		}
	}
	return desk.AsJSON(words)
}

// laneNames are the names of all lanes of a map.
func laneNames(m *model.Map) map[string]bool {
	names := map[string]bool{}
	for _, s := range m.Sheets {
		for _, p := range s.Pools {
			for _, l := range p.Lanes {
				names[l.Name] = true
			}
		}
	}
	return names
}

// sentence writes an error as one.
func sentence(err error) string {
	text := err.Error()
	if _, whole := err.(compose.Refusal); whole {
		return text
	}
	return upper(text) + "."
}

// upper writes the first letter of a text large.
func upper(text string) string {
	r, size := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(r)) + text[size:]
}

// InsertRow puts a step after another one, or at the end where that is empty, and returns its id; empty where it cannot
// be done.
func (e *Rows) InsertRow(after string) string {
	e.Drop()
	if s := e.M.SheetOf(after); s != nil && s.ID != e.SheetID {
		e.Show(s.ID)
	}
	if after != "" {
		e.Sel, e.Lane = []string{after}, ""
	} else if rows := register.Of(e.Flow()).Rows; len(rows) > 0 {
		return e.InsertRow(rows[len(rows)-1].ID)
	}
	was := e.Sel
	e.Writing.AppendStep(model.Process)
	e.TextField, e.InField, e.Ask = nil, false, nil
	e.Doc.Hold(0)
	if len(e.Sel) != 1 || len(was) == 1 && e.Sel[0] == was[0] {
		return ""
	}
	return e.Sel[0]
}

// RemoveRows deletes steps and closes the gaps they leave, where each leads on by one way.
func (e *Rows) RemoveRows(ids []string) {
	e.Drop()
	var turns []func() []edit.Edit
	for _, id := range ids {
		turns = append(turns, func() []edit.Edit {
			s := e.M.SheetOf(id)
			if s == nil {
				return nil
			}
			return append(e.WorkOn(s).GapEdits(id), &edit.RemoveItems{Sheet: s.ID, IDs: []string{id}})
		})
	}
	as := "delete a step"
	if len(ids) > 1 {
		as = "delete steps"
	}
	edit, err := e.Work().InTurn(as, turns...)
	if err != nil {
		e.Refuse(err)
		return
	}
	e.Do(edit)
}

// MoveRow puts a step after another one of the same stretch of flow, or before it.
func (e *Rows) MoveRow(id, beside string, before bool) {
	e.Drop()
	s := e.M.SheetOf(id)
	if s == nil || s.Symbol(id) == nil || s.Symbol(beside) == nil {
		e.Say("Steps change places only on their own sheet.")
		return
	}
	edit, err := e.WorkOn(s).Reorder(s.Symbol(id), s.Symbol(beside), before)
	switch {
	case err != nil:
		e.Refuse(err)
	case edit != nil:
		e.Do(edit)
	}
}

// AddField adds a field with a name, a type and the values of a choice.
func (e *Rows) AddField(name, kind string, choices []string) {
	e.Drop()
	e.Do(&edit.AddField{Field: model.Field{ID: e.NewID(), Name: strings.Join(strings.Fields(name), " "),
		Type: values.Type(kind), Choices: choices}, At: len(e.M.Fields)})
}

// ReadBack compares a table that was read from a file with the map.
func (e *Rows) ReadBack(file string) []byte {
	e.Drop()
	var sheet compose.Sheet
	if err := json.Unmarshal([]byte(file), &sheet); err != nil {
		return desk.AsJSON(compose.Plan{Refusal: "The file could not be read."})
	}
	p := e.Work().ReadBack(sheet)
	for i := range p.Changes {
		if why := p.Changes[i].Why; why != "" {
			p.Changes[i].Why = upper(why) + "."
		}
	}
	return desk.AsJSON(p)
}

// TakeBack takes cells that ReadBack found, as one edit, and returns by their places why some were left.
func (e *Rows) TakeBack(cells string) []byte {
	e.Drop()
	var list []compose.Taken
	if err := json.Unmarshal([]byte(cells), &list); err != nil {
		return desk.AsJSON(map[int]string{0: "The cells could not be read."})
	}
	edit, wrong := e.Work().TakeBack(list)
	words := map[int]string{}
	for i, err := range wrong {
		words[i] = sentence(err)
	}
	if edit != nil {
		e.Do(edit)
	}
	return desk.AsJSON(words)
}
