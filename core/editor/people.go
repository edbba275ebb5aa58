package editor

import (
	"encoding/json"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/editor/desk"
	"plaintracer/core/pictures"
)

// What the page asks for when a table of people is read. Answers are JSON for the page.

// ListTable returns the table that a list with indentation says; empty where the text is no such list.
func (e *Rows) ListTable(text string) []byte {
	file, ok := compose.ListTable(text)
	if !ok {
		return nil
	}
	return desk.AsJSON(file)
}

// PeopleAs is something that a column of a table of people can hold.
type PeopleAs struct {
	As   string `json:"as"`
	Name string `json:"name"`
}

// PeoplePage is what the page shows of a table of people before it is taken.
type PeoplePage struct {
	*compose.PeoplePlan
	Choices []PeopleAs `json:"choices"`
	// Onto is the name of the hierarchy into which it goes; empty for a sheet of its own.
	Onto string `json:"onto"`
}

// People says what a table of people would do whose columns hold what as lists; an empty list guesses.
func (e *Rows) People(file, as string) []byte {
	e.Drop()
	sheet, columns, err := readPeople(file, as)
	if err != nil {
		return desk.AsJSON(PeoplePage{PeoplePlan: &compose.PeoplePlan{Refusal: "The file could not be read."}})
	}
	page := PeoplePage{PeoplePlan: e.Work().ReadPeople(sheet, columns)}
	if e.Charted() && len(e.Sheet().Tree().Order()) > 0 {
		page.Onto = e.Sheet().Name
	}
	for _, one := range compose.PeopleAs {
		page.Choices = append(page.Choices, PeopleAs{one.As, one.Name})
	}
	return desk.AsJSON(page)
}

// Portrait keeps a picture file for the next TakePeople, and returns why it cannot be used.
func (e *Rows) Portrait(name string, file []byte) string {
	p, err := pictures.Read(file)
	if err != nil {
		return name + ": " + err.Error()
	}
	if e.portraits == nil {
		e.portraits = compose.Portraits{}
	}
	e.portraits[strings.ToLower(name)] = p
	return ""
}

// TakePeople does what People says, and returns why it was not done.
func (e *Rows) TakePeople(file, as string) string {
	e.Drop()
	faces := e.portraits
	e.portraits = nil
	sheet, columns, err := readPeople(file, as)
	if err != nil {
		return "The file could not be read."
	}
	edit, id, err := e.Work().TakePeople(sheet, columns, faces)
	if err != nil {
		return sentence(err)
	}
	if !e.Do(edit) {
		return e.Words
	}
	if id != e.SheetID {
		e.Show(id)
	}
	return ""
}

func readPeople(file, as string) (sheet compose.Sheet, columns []string, err error) {
	if err = json.Unmarshal([]byte(file), &sheet); err == nil && as != "" {
		err = json.Unmarshal([]byte(as), &columns)
	}
	return sheet, columns, err
}
