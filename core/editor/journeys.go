package editor

import (
	"plaintracer/core/compose"
	"plaintracer/core/editor/desk"
)

// Journey says what a table of a journey would make.
func (e *Rows) Journey(file string) []byte {
	e.Drop()
	sheet, _, err := readPeople(file, "")
	if err != nil {
		return desk.AsJSON(compose.JourneyPlan{Refusal: "The file could not be read.", Notes: []string{}})
	}
	return desk.AsJSON(e.Work().ReadJourney(sheet))
}

// TakeJourney makes the sheet that Journey speaks of, and returns why it was not made.
func (e *Rows) TakeJourney(file string) string {
	e.Drop()
	sheet, _, err := readPeople(file, "")
	if err != nil {
		return "The file could not be read."
	}
	edit, id, err := e.Work().TakeJourney(sheet)
	if err != nil {
		return sentence(err)
	}
	if !e.Do(edit) {
		return e.Words
	}
	e.Show(id)
	return ""
}
