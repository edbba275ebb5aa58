package diagram

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/fields"
	"plaintracer/core/geometry"
	"plaintracer/core/values"
)

func init() {
	register("addField", func(_ *Map, e *AddField) string { return "add the field " + quote(e.Field.Name) })
	register("setField", func(m *Map, e *SetField) string { return "change the field " + quote(m.fieldName(e.ID)) })
	register("moveField", func(m *Map, e *MoveField) string { return "move the field " + quote(m.fieldName(e.ID)) })
	register("removeField", func(m *Map, e *RemoveField) string { return "remove the field " + quote(m.fieldName(e.ID)) })
	register("setValue", func(m *Map, e *SetValue) string { return "set " + quote(m.fieldName(e.Field)) })
}

// The bounds of a map's own fields.
const (
	MaxFields  = 60
	MaxChoices = 200
	// MaxShown is how many fields stand on the drawing.
	MaxShown = 2
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

type (
	// AddField adds a field at a place among those there are.
	AddField struct {
		Field Field `json:"field"`
		At    int   `json:"at"`
	}
	// SetField changes a field; nil leaves a value alone. What stands in it is read anew where its type changes, and the change
	// refused where that cannot be read.
	SetField struct {
		ID      string       `json:"id"`
		Name    *string      `json:"name,omitempty"`
		Type    *values.Type `json:"type,omitempty"`
		Choices []string     `json:"choices,omitempty"`
	}
	// MoveField puts a field at another place.
	MoveField struct {
		ID string `json:"id"`
		At int    `json:"at"`
	}
	// RemoveField removes a field with what stands in it.
	RemoveField struct {
		ID string `json:"id"`
	}
	// SetValue writes what a person typed into a field of a symbol; nothing empties it.
	SetValue struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		Field string `json:"field"`
		Text  string `json:"text"`
	}
)

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

var titles = []string{NumberTitle, StepTitle, KindTitle, WhoTitle, StageTitle, NextTitle, FromTitle, PapersTitle, SheetTitle, UsesTitle,
	MakesTitle, NotesTitle, IDTitle}

// isTitle reports whether a column of every table has a name.
func isTitle(name string) bool {
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
	for n := 1; isTitle(title) || title != name && taken(); n++ {
		if title = name + " (field)"; n > 1 {
			title = fmt.Sprintf("%s (field %d)", name, n)
		}
	}
	return title
}

// checkFieldName refuses a name for a field that a column of every table has.
func checkFieldName(id, name string) error {
	if isTitle(name) {
		return refuse(id, "the register has a column called %q already; give the field another name", strings.Join(strings.Fields(name), " "))
	}
	return nil
}

// Field returns the field with this id, or nil.
func (h *Head) Field(id string) *Field {
	if i := slices.IndexFunc(h.Fields, func(f Field) bool { return f.ID == id }); i >= 0 {
		return &h.Fields[i]
	}
	return nil
}

func (h *Head) fieldName(id string) string {
	if f := h.Field(id); f != nil {
		return f.Name
	}
	return "a field"
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

// ValueLine is the height of a line with a value under a symbol.
const ValueLine = 15 * geometry.Px

// linesUnder counts the lines with values that stand under a symbol.
func (h *Head) linesUnder(s *Symbol) (n int) {
	if len(s.Values) == 0 {
		return 0
	}
	for _, id := range h.Shown {
		if h.Field(id) != nil && s.Value(id) != "" {
			n++
		}
	}
	return n
}

// Value returns what stands in a field of the symbol; empty for nothing.
func (s *Symbol) Value(field string) string {
	if i := slices.IndexFunc(s.Values, func(v Value) bool { return v.ID == field }); i >= 0 {
		return s.Values[i].Text
	}
	return ""
}

// setValue writes a value, in the order of the map's fields, so that the same values are the same list.
func (s *Symbol) setValue(h *Head, field, text string) {
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
	return values.Show(f.Type, s.Value(f.ID), h.Currency)
}

func (f *Field) validate(path string) error {
	switch {
	case !ValidID(f.ID):
		return fault(path+".id", "%q is no id", f.ID)
	case strings.TrimSpace(f.Name) == "":
		return fault(path+".name", "a field needs a name")
	case !f.Type.Known():
		return fault(path+".type", "%q is no type of field", f.Type)
	case len(f.Choices) > MaxChoices:
		return fault(path+".choices", "a list to choose from has at most %d values", MaxChoices)
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
		if err := f.validate(path); err != nil {
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
	if len(h.Shown) > MaxShown {
		return fault("shown", "at most %d fields stand on the drawing", MaxShown)
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
		if !ValidID(v.ID) || v.Text == "" || slices.IndexFunc(s.Values, func(w Value) bool { return w.ID == v.ID }) != i {
			return fault(at, "a value is of one field and not empty")
		}
		if err := checkText(at, v.Text, values.MaxLong); err != nil {
			return err
		}
	}
	return nil
}

func (e *AddField) change(t *trial) error {
	h := mapHead.edit(t, nil)
	if h.Field(e.Field.ID) != nil || t.taken(e.Field.ID) {
		return refuse(e.Field.ID, "the id %q is used already", e.Field.ID)
	}
	if e.At < 0 || e.At > len(h.Fields) {
		return refuse("", "there is no place %d among %d fields", e.At, len(h.Fields))
	}
	f := e.Field
	if err := checkFieldName(f.ID, f.Name); err != nil {
		return err
	}
	f.Choices = slices.Clone(f.Choices)
	h.Fields = slices.Insert(slices.Clone(h.Fields), e.At, f)
	return nil
}

func (t *trial) field(id string) (*Head, *Field, error) {
	h := mapHead.edit(t, nil)
	h.Fields = slices.Clone(h.Fields)
	f := h.Field(id)
	if f == nil {
		return nil, nil, refuse(id, "this field is not there any more")
	}
	return h, f, nil
}

func (e *SetField) change(t *trial) error {
	h, f, err := t.field(e.ID)
	if err != nil {
		return err
	}
	was := *f
	if e.Name != nil && *e.Name != f.Name {
		if err := checkFieldName(e.ID, *e.Name); err != nil {
			return err
		}
	}
	fields.Assign(f, e)
	if e.Type != nil && *e.Type != values.Choice {
		f.Choices = nil
	}
	if !f.Type.Known() {
		return refuse(e.ID, "%q is no type of field", f.Type)
	}
	return t.withValue(h, e.ID, func(sym *Symbol, value string) (string, error) {
		read, err := values.Read(f.Type, f.Choices, value)
		if err != nil && was.Type != f.Type {
			read, err = values.Read(f.Type, f.Choices, values.Show(was.Type, value, ""))
		}
		if err != nil {
			return "", refuse(sym.ID, "%s holds what would not fit any more: %s", sym.describe(), err)
		}
		return read, nil
	})
}

// withValue changes what stands in a field of all symbols, locked or not.
func (t *trial) withValue(h *Head, field string, change func(sym *Symbol, value string) (string, error)) error {
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, s := range t.m.Sheets {
		for _, sym := range s.Symbols {
			value := sym.Value(field)
			if value == "" {
				continue
			}
			now, err := change(sym, value)
			if err != nil {
				return err
			}
			if now != value {
				v, err := t.editSymbol(s, sym.ID)
				if err != nil {
					return err
				}
				v.setValue(h, field, now)
			}
		}
	}
	return nil
}

func (e *MoveField) change(t *trial) error {
	h, f, err := t.field(e.ID)
	if err != nil {
		return err
	}
	if e.At < 0 || e.At >= len(h.Fields) {
		return refuse("", "there is no place %d among %d fields", e.At, len(h.Fields))
	}
	moved := *f
	h.Fields = slices.Insert(slices.DeleteFunc(h.Fields, func(f Field) bool { return f.ID == e.ID }), e.At, moved)
	return nil
}

func (e *RemoveField) change(t *trial) error {
	h, _, err := t.field(e.ID)
	if err != nil {
		return err
	}
	if err := t.withValue(h, e.ID, func(*Symbol, string) (string, error) { return "", nil }); err != nil {
		return err
	}
	h.Fields = slices.DeleteFunc(h.Fields, func(f Field) bool { return f.ID == e.ID })
	h.Shown = slices.DeleteFunc(slices.Clone(h.Shown), func(id string) bool { return id == e.ID })
	if h.ColourBy == e.ID {
		h.ColourBy = ""
	}
	return nil
}

func (e *SetValue) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	f := t.m.Field(e.Field)
	if f == nil {
		return refuse(e.Field, "this field is not there any more")
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	value, err := values.Read(f.Type, f.Choices, e.Text)
	if err != nil {
		return refuse(e.ID, "%s", err)
	}
	sym.setValue(&t.m.Head, e.Field, value)
	return nil
}
