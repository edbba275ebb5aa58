package model

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/values"
)

// The bounds of a map's own fields.
const (
	MaxFields  = 60
	maxChoices = 200
	// maxShown is how many fields stand on the drawing.
	maxShown = 2
)

// Field is a column that a map adds to its steps.
type Field struct {
	ID   string      `json:"id"`
	Name string      `json:"name"`
	Type values.Type `json:"type"`
	// Choices are the values of a choice.
	Choices []string `json:"choices,omitempty"`
}

// Value is what stands in a field of a symbol, as package values keeps it.
type Value struct {
	// ID is that of the field.
	ID   string `json:"field"`
	Text string `json:"value"`
}

// Titles are those of the columns that a table of steps has on the screen and in files. No field is
// called like one of them.
const (
	NumberTitle = "Number"
	StepTitle   = "Step"
	KindTitle   = "Kind"
	WhoTitle    = "Who"
	StageTitle  = "Stage"
	NextTitle   = "Next"
	FromTitle   = "Comes from"
	PapersTitle = "Documents and data"
	SheetTitle  = "Sheet"
	UsesTitle   = "Uses"
	MakesTitle  = "Makes"
	NotesTitle  = "Notes"
	IDTitle     = "id"
)

var titles = []string{NumberTitle, StepTitle, KindTitle, WhoTitle, StageTitle, NextTitle, FromTitle, PapersTitle,
	SheetTitle, UsesTitle,
	MakesTitle, NotesTitle, IDTitle}

// IsTitle reports whether a column of every table has a name.
func IsTitle(name string) bool {
	name = strings.Join(strings.Fields(name), " ")
	return slices.ContainsFunc(titles, func(t string) bool { return strings.EqualFold(t, name) })
}

// FieldTitle returns the title of a field's column in a table of steps: its name, unless that is the
// title of another column, as in maps from files and from before such names were refused.
func (h *Head) FieldTitle(f *Field) string {
	name := strings.Join(strings.Fields(f.Name), " ")
	title := name
	taken := func() bool {
		return slices.ContainsFunc(h.Fields, func(o Field) bool { return strings.EqualFold(o.Name, title) })
	}
	for n := 1; IsTitle(title) || title != name && taken(); n++ {
		if title = name + " (field)"; n > 1 {
			title = fmt.Sprintf("%s (field %d)", name, n)
		}
	}
	return title
}

// Field returns the field with this id, or nil.
func (h *Head) Field(id string) *Field {
	if i := slices.IndexFunc(h.Fields, func(f Field) bool { return f.ID == id }); i >= 0 {
		return &h.Fields[i]
	}
	return nil
}

// FieldName names a field by its id, for a message.
func (h *Head) FieldName(id string) string {
	if f := h.Field(id); f != nil {
		return f.Name
	}
	return "a field"
}

// FieldNamed is FieldName, empty for none.
func (h *Head) FieldNamed(id string) string {
	if f := h.Field(id); f != nil {
		return f.Name
	}
	return ""
}

// ColourKey is a value of the choice by which a map colours its symbols, with the colour of the palette.
type ColourKey struct{ Value, Fill string }

// ColourKey returns the values that have a colour: as many as the palette has.
func (h *Head) ColourKey() (list []ColourKey) {
	f := h.Field(h.ColourBy)
	if f == nil {
		return nil
	}
	for i, c := range f.Choices[:min(len(f.Choices), len(Fills)-1)] {
		list = append(list, ColourKey{c, Fills[i+1]})
	}
	return list
}

// Measures are what the values of the map's fields are counted in.
func (h *Head) Measures() values.Measures {
	return values.Measures{Currency: h.Currency, Day: h.Day, Week: h.Week}
}

// Shows returns the values of a symbol that the map shows, one a line.
func (h *Head) Shows(s *Symbol) string {
	if len(s.Values) == 0 {
		return ""
	}
	var lines []string
	for _, id := range h.Shown {
		if f := h.Field(id); f != nil {
			if text := Flat(h.Show(f, s)); text != "" {
				lines = append(lines, text)
			}
		}
	}
	return strings.Join(lines, "\n")
}

// LinesIn counts the lines of values inside a card or cell of a width: the fields that the map shows, and who does it.
func (m *Map) LinesIn(sym *Symbol, w int) int {
	return m.countLines(sym, sym.WithOwner(m.Shows(sym)), w, true)
}

// WithOwner returns the values that a card or cell shows with who does it before them, where that is said there.
func (s *Symbol) WithOwner(values string) string {
	if s.Row == "" || !s.ShowsOwner() {
		return values
	}
	return strings.TrimSpace(Flat(s.Owner) + "\n" + values)
}

func (m *Map) countLines(sym *Symbol, text string, w int, inside bool) int {
	if text == "" {
		return 0
	}
	return valueLines(m, sym, text, w, inside)
}

// Under returns how high the values are that stand under a symbol on its sheet. Cards and cells hold theirs.
func (m *Map) Under(s *Sheet, sym *Symbol) int {
	if s.Kind != FlowSheet || len(sym.Values) == 0 || len(m.Shown) == 0 {
		return 0
	}
	return m.countLines(sym, m.Shows(sym), sym.W, false) * ValueLine
}

// Value returns what stands in a field of the symbol; empty for nothing.
func (s *Symbol) Value(field string) string {
	if i := slices.IndexFunc(s.Values, func(v Value) bool { return v.ID == field }); i >= 0 {
		return s.Values[i].Text
	}
	return ""
}

// SetValue writes a value, in the order of the map's fields, so that the same values are the same list.
func (s *Symbol) SetValue(h *Head, field, text string) {
	var list []Value
	for _, f := range h.Fields {
		value := s.Value(f.ID)
		if f.ID == field {
			value = text
		}
		if value != "" {
			list = append(list, Value{f.ID, value})
		}
	}
	s.Values = list
}

// Show writes what stands in a field of a symbol for people.
func (h *Head) Show(f *Field, s *Symbol) string {
	return values.Show(f.Type, s.Value(f.ID), h.Measures())
}

// Validate returns the first fault of a field.
func (f *Field) Validate(path string) error {
	switch {
	case !ValidID(f.ID):
		return fault(path+".id", "%q is no id", f.ID)
	case strings.TrimSpace(f.Name) == "":
		return fault(path+".name", "a field needs a name")
	case !f.Type.Known():
		return fault(path+".type", "%q is no type of field", f.Type)
	case len(f.Choices) > maxChoices:
		return fault(path+".choices", "a list to choose from has at most %d values", maxChoices)
	case len(f.Choices) > 0 && f.Type != values.Choice:
		return fault(path+".choices", "only a choice has a list")
	}
	for i, c := range f.Choices {
		if at := fmt.Sprintf("%s.choices[%d]", path, i); strings.TrimSpace(c) == "" || strings.TrimSpace(c) != c {
			return fault(at, "a value of the list is empty")
		} else if slices.IndexFunc(f.Choices, func(d string) bool { return strings.EqualFold(c, d) }) != i {
			return fault(at, "%q stands in the list twice", c)
		} else if err := checkText(at, c, MaxName); err != nil {
			return err
		}
	}
	return checkText(path+".name", f.Name, 100)
}

// validateFields reports what is wrong with the map's own fields.
func (h *Head) validateFields() error {
	if len(h.Fields) > MaxFields {
		return fault("fields", "a map has at most %d fields of its own", MaxFields)
	}
	for i := range h.Fields {
		f, path := &h.Fields[i], fmt.Sprintf("fields[%d]", i)
		if err := f.Validate(path); err != nil {
			return err
		}
		for k := range h.Fields[:i] {
			if h.Fields[k].ID == f.ID {
				return fault(path+".id", "the id %q stands there twice", f.ID)
			}
			if strings.EqualFold(h.Fields[k].Name, f.Name) {
				return fault(path+".name", "there are two fields called %q", f.Name)
			}
		}
	}
	if err := checkText("currency", h.Currency, 10); err != nil {
		return err
	}
	if h.Day < 0 || h.Day > 24 {
		return fault("day", "a day has 1 to 24 hours, not %d", h.Day)
	}
	if h.Week < 0 || h.Week > 7 {
		return fault("week", "a week has 1 to 7 days, not %d", h.Week)
	}
	if len(h.Shown) > maxShown {
		return fault("shown", "at most %d fields stand on the drawing", maxShown)
	}
	for i, id := range h.Shown {
		if !ValidID(id) || slices.Index(h.Shown, id) != i {
			return fault(fmt.Sprintf("shown[%d]", i), "%q is no field, or stands there twice", id)
		}
	}
	if h.ColourBy != "" && !ValidID(h.ColourBy) {
		return fault("colourBy", "%q is no field", h.ColourBy)
	}
	return nil
}

// validateValues reports what is wrong with the values of a symbol, as far as it can be seen by itself.
func (s *Symbol) validateValues(path string) error {
	if len(s.Values) > MaxFields {
		return fault(path+".values", "a symbol has at most %d values", MaxFields)
	}
	for i, v := range s.Values {
		at := fmt.Sprintf("%s.values[%d]", path, i)
		if !ValidID(v.ID) || v.Text == "" ||
			slices.IndexFunc(s.Values, func(w Value) bool { return w.ID == v.ID }) != i {
			return fault(at, "a value is of one field and not empty")
		}
		if err := checkText(at, v.Text, values.MaxLong); err != nil {
			return err
		}
	}
	return nil
}
