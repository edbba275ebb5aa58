package edit

import (
	"slices"
	"strings"

	"plaintracer/core/fields"
	"plaintracer/core/model"
	"plaintracer/core/values"
)

func init() {
	register("addField", func(_ *model.Map, e *AddField) string { return "add the field " + model.Quote(e.Field.Name) })
	register("setField",
		func(m *model.Map, e *SetField) string { return "change the field " + model.Quote(m.FieldName(e.ID)) })
	register("moveField",
		func(m *model.Map, e *MoveField) string { return "move the field " + model.Quote(m.FieldName(e.ID)) })
	register("removeField",
		func(m *model.Map, e *RemoveField) string { return "remove the field " + model.Quote(m.FieldName(e.ID)) })
	register("setValue", func(m *model.Map, e *SetValue) string { return "set " + model.Quote(m.FieldName(e.Field)) })
}

type (
	// AddField adds a field at a place among those there are.
	AddField struct {
		Field model.Field `json:"field"`
		At    int         `json:"at"`
	}
	// SetField changes a field; nil leaves a value alone. What stands in it is read anew where its type changes, and
	// the change refused where that cannot be read.
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

// checkFieldName refuses a name for a field that a column of every table has.
func checkFieldName(id, name string) error {
	if model.IsTitle(name) {
		return model.Refuse(id, "the register has a column called %q already; give the field another name",
			strings.Join(strings.Fields(name), " "))
	}
	return nil
}

func (e *AddField) change(t *transaction) error {
	h := mapHead.edit(t, nil)
	if h.Field(e.Field.ID) != nil || t.taken(e.Field.ID) {
		return model.Refuse(e.Field.ID, "the id %q is used already", e.Field.ID)
	}
	if e.At < 0 || e.At > len(h.Fields) {
		return model.Refuse("", "there is no place %d among %d fields", e.At, len(h.Fields))
	}
	f := e.Field
	if err := checkFieldName(f.ID, f.Name); err != nil {
		return err
	}
	f.Choices = slices.Clone(f.Choices)
	h.Fields = slices.Insert(slices.Clone(h.Fields), e.At, f)
	return nil
}

func (t *transaction) field(id string) (*model.Head, *model.Field, error) {
	h := mapHead.edit(t, nil)
	h.Fields = slices.Clone(h.Fields)
	f := h.Field(id)
	if f == nil {
		return nil, nil, model.Refuse(id, "this field is not there any more")
	}
	return h, f, nil
}

func (e *SetField) change(t *transaction) error {
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
		return model.Refuse(e.ID, "%q is no type of field", f.Type)
	}
	return t.withValue(h, e.ID, func(sym *model.Symbol, value string) (string, error) {
		read, err := values.Read(f.Type, f.Choices, value, h.Measures())
		if err != nil && was.Type != f.Type {
			read, err = values.Read(f.Type, f.Choices, values.Show(was.Type, value, values.Measures{Day: h.Day,
				Week: h.Week}), h.Measures())
		}
		if err != nil {
			return "", model.Refuse(sym.ID, "%s holds what would not fit any more: %s", sym.Describe(), err)
		}
		return read, nil
	})
}

// withValue changes what stands in a field of all symbols, locked or not.
func (t *transaction) withValue(h *model.Head, field string,
	change func(sym *model.Symbol, value string) (string, error)) error {
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
				v.SetValue(h, field, now)
			}
		}
	}
	return nil
}

func (e *MoveField) change(t *transaction) error {
	h, f, err := t.field(e.ID)
	if err != nil {
		return err
	}
	if e.At < 0 || e.At >= len(h.Fields) {
		return model.Refuse("", "there is no place %d among %d fields", e.At, len(h.Fields))
	}
	moved := *f
	h.Fields = slices.Insert(slices.DeleteFunc(h.Fields, func(f model.Field) bool { return f.ID == e.ID }), e.At, moved)
	return nil
}

func (e *RemoveField) change(t *transaction) error {
	h, _, err := t.field(e.ID)
	if err != nil {
		return err
	}
	if err := t.withValue(h, e.ID, func(*model.Symbol, string) (string, error) { return "", nil }); err != nil {
		return err
	}
	h.Fields = slices.DeleteFunc(h.Fields, func(f model.Field) bool { return f.ID == e.ID })
	h.Shown = slices.DeleteFunc(slices.Clone(h.Shown), func(id string) bool { return id == e.ID })
	if h.ColourBy == e.ID {
		h.ColourBy = ""
	}
	return nil
}

func (e *SetValue) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	f := t.m.Field(e.Field)
	if f == nil {
		return model.Refuse(e.Field, "this field is not there any more")
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	value, err := values.Read(f.Type, f.Choices, e.Text, t.m.Measures())
	if err != nil {
		return model.Refuse(e.ID, "%s", err)
	}
	sym.SetValue(&t.m.Head, e.Field, value)
	return nil
}
