package edit

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"

	"plaintracer/core/model"
)

// registration is an edit as the registry knows it.
type registration struct {
	// name is what the edit is called on the wire and in the log.
	name string
	// blank makes an empty one to be filled from JSON.
	blank func() Edit
	// words says what one does.
	words func(m *model.Map, e Edit) string
}

// registered holds every edit by its name and by its type. Each registers itself in the file of
// its topic.
var registered = struct {
	byName map[string]*registration
	byType map[reflect.Type]*registration
}{map[string]*registration{}, map[reflect.Type]*registration{}}

// register makes an edit known: under its name on the wire and in the log, which must never
// change, with what it says it does, as it stands after "Undo": "move 3 steps".
func register[E any, P interface {
	*E
	Edit
}](name string, words func(m *model.Map, e P) string) {
	r := &registration{name, func() Edit { return P(new(E)) },
		func(m *model.Map, e Edit) string { return words(m, e.(P)) }}
	registered.byName[name], registered.byType[reflect.TypeFor[P]()] = r, r
}

// says are the words of an edit that always does the same.
func says[P Edit](words string) func(*model.Map, P) string {
	return func(*model.Map, P) string { return words }
}

// Names returns the names of all edits, in order.
func Names() []string { return slices.Sorted(maps.Keys(registered.byName)) }

// Words says what an edit does to a map, as a menu would: "move 3 steps".
func Words(m *model.Map, e Edit) string {
	if r := registered.byType[reflect.TypeOf(e)]; r != nil {
		return r.words(m, e)
	}
	return ""
}

// speak says in words what ids stand for.
func speak(m *model.Map, sheet string, ids []string) string {
	s := m.Sheet(sheet)
	if s == nil {
		return count(len(ids), "one item", "items")
	}
	steps, symbols, connectors := 0, 0, 0
	for _, id := range ids {
		switch sym := s.Symbol(id); {
		case sym != nil && sym.Kind.IsStep():
			steps++
		case sym != nil:
			symbols++
		case s.Connector(id) != nil:
			connectors++
		}
	}
	switch len(ids) {
	case steps:
		return count(steps, "a step", "steps")
	case symbols + steps:
		return count(len(ids), "a symbol", "symbols")
	case connectors:
		return count(connectors, "a connector", "connectors")
	}
	return count(len(ids), "one item", "items")
}

func count(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Envelope carries an edit as JSON: the edit's fields, and its name as "do".
type Envelope struct{ Edit }

// MarshalJSON writes {"do": name, ...fields}.
func (e Envelope) MarshalJSON() ([]byte, error) {
	r := registered.byType[reflect.TypeOf(e.Edit)]
	if r == nil {
		return nil, fmt.Errorf("%T is no edit", e.Edit)
	}
	body, err := json.Marshal(e.Edit)
	if err != nil {
		return nil, err
	}
	out := append(append([]byte(`{"do":"`), r.name...), '"')
	if len(body) > 2 {
		out = append(out, ',')
	}
	return append(out, body[1:]...), nil
}

// UnmarshalJSON reads what MarshalJSON wrote. Unknown edits are refused.
func (e *Envelope) UnmarshalJSON(data []byte) error {
	if err := model.Bounded(data); err != nil {
		return err
	}
	var head struct {
		Do string `json:"do"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return err
	}
	r := registered.byName[head.Do]
	if r == nil {
		return fmt.Errorf("there is no edit called %q", head.Do)
	}
	e.Edit = r.blank()
	return json.Unmarshal(data, e.Edit)
}
