package site

import (
	"plaintracer/app/documents"
	"plaintracer/core/model"
)

// FormFault says what in a form is not as it has to be.
type FormFault struct{ text string }

// Error implements error.
func (f *FormFault) Error() string { return f.text }

// FormError returns what is wrong with a form.
func FormError(text string) error { return &FormFault{text} }

// TitleOf is the title of a map as it is now.
func (s *Site) TitleOf(d *documents.Document) (title string) {
	d.View(func(m *model.Map, _ int) { title = m.Title })
	return "“" + title + "”"
}

// Names are what the people in the organisation are called, by their ids.
func (s *Site) Names() (map[string]string, error) {
	people, err := s.House.People.List()
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for i := range people {
		out[people[i].ID] = people[i].Name
	}
	return out, nil
}
