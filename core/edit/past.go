package edit

import (
	"encoding/json"
	"reflect"

	"plaintracer/core/fields"
)

// Past is what is known of the states that the things of a map have had. By it a map's keeper can
// tell whether what an edit restores was once so.
type Past struct{ had map[string]bool }

// Note takes in the states before and after changes.
func (p *Past) Note(changes []Change) {
	if p.had == nil {
		p.had = map[string]bool{}
	}
	for i := range changes {
		c := &changes[i]
		for _, state := range [...]any{c.before, c.after} {
			c.each(state, nil, func(value string) { p.had[value] = true })
		}
		if c.before == nil {
			p.had[c.gone()] = true
		}
	}
}

// Unknown returns the first of the changes that leads to something that was never so, or nil.
func (p *Past) Unknown(changes []Change) *Change {
	for i := range changes {
		c := &changes[i]
		known := true
		c.each(c.after, c.before, func(value string) { known = known && p.had[value] })
		if !known || c.after == nil && !p.had[c.gone()] {
			return c
		}
	}
	return nil
}

// gone names that the thing was not there.
func (c *Change) gone() string { return c.of.key() + " " + c.ID + " gone" }

// each calls do with the values of a state of the changed record, each with its name; with those
// alone that are not as in another state, if there is one. A record without fields is one value.
func (c *Change) each(state, other any, do func(value string)) {
	if state == nil {
		return
	}
	name := func(field string, v any) string {
		raw, err := json.Marshal(v)
		if err != nil {
			return ""
		}
		return c.of.key() + " " + c.ID + " " + c.Sheet + " " + field + " " + string(raw)
	}
	record := reflect.ValueOf(state).Elem()
	if record.Kind() != reflect.Struct || c.of == sheetList {
		do(name("", state))
		return
	}
	for _, f := range fields.Of(record.Type()) {
		v := f.Value(record)
		if other == nil || !fields.Same(v, f.Value(reflect.ValueOf(other).Elem())) {
			do(name(f.Name, v.Interface()))
		}
	}
}
