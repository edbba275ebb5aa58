package desk

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// SetHeading shows the frame and heading of the sheet or hides them; with
// "field=text" it writes a field of the heading of the map. With "today=..." the
// date fills itself when it is empty.
func (e *Sheets) SetHeading(arg string) {
	s := e.Sheet()
	h := e.M.Heading
	name, text, _ := strings.Cut(arg, "=")
	if field := h.Field(name); field != nil {
		if *field = strings.Join(strings.Fields(text), " "); slices.Contains(model.HeadingTexts, name) {
			*field = strings.TrimSpace(text) // of several paragraphs
		}
		if h != e.M.Heading {
			e.Do(&edit.SetHead{Heading: &h})
		}
		return
	}
	headed := !s.Headed
	var change edit.Edit = &edit.SetSheet{Sheet: s.ID, Headed: &headed}
	if headed && h.Date == "" && name == "today" {
		h.Date = text
		change = edit.Together("show the heading", change, &edit.SetHead{Heading: &h})
	}
	e.Do(change)
}
