package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
)

// Change is one thing an edit changed: a record before and after it.
type Change struct {
	// ID is the id of the thing; empty for the map itself and for orders.
	ID string
	// Sheet is the id of the sheet the thing stands on; empty where it stands on none.
	Sheet string
	// At is the place in its list: of a thing removed where it stood then, of a thing made where
	// it stands once the whole edit is made.
	At int
	// Follows says that the change came as a consequence of the edit, such as a step moved by
	// its lane, and reaches what is locked, too.
	Follows bool
	// of says what kind of record it is. Before is nil for a thing that the edit made, after
	// for one that it removed; both are pointers to the record.
	of            collection
	before, after any
}

// collection is one kind of record a map is made of, as changes need it. There is one for each
// list of things and for each head; a map gets a new one by registering it with collect.
type collection interface {
	// key is its name in a change on the wire and in the log.
	key() string
	// read reads the two ends of a change.
	read(c *Change, before, after json.RawMessage) error
	// sound reports a change that no edit could have made.
	sound(c *Change) error
	// complete fills in what a change led to, and checks it. S is the sheet, as it is or was.
	complete(t *transaction, s *model.Sheet, c *Change) error
	// idle reports whether a change came to nothing.
	idle(c *Change) bool
	// rollback puts the record back to what it was; enact makes it what it became.
	rollback(m *model.Map, s *model.Sheet, c *Change)
	enact(m *model.Map, s *model.Sheet, c *Change)
	// revert takes the change back as far as nobody else has changed the record since.
	revert(t *transaction, s *model.Sheet, c *Change) error
	// onSheet says that the record stands on a sheet.
	onSheet() bool
}

// collections are those there are, by their keys.
var collections = map[string]collection{}

func collect[C collection](c C) C {
	collections[c.key()] = c
	return c
}

// Span is a record before and after a change. Before is nil for one that was made, After for one
// that was removed.
type Span[T any] struct {
	Before *T `json:"before,omitempty"`
	After  *T `json:"after,omitempty"`
}

// spanOf returns the ends of a change of a record of type T.
func spanOf[T any](c *Change) (s Span[T]) {
	s.Before, _ = c.before.(*T)
	s.After, _ = c.after.(*T)
	return s
}

// Changed returns the ends of a change if it is one of records of type T: Symbol, Connector, Pool,
// SheetHead, Head, Sheet, or a picture or font.
func Changed[T any](c *Change) (Span[T], bool) {
	s := spanOf[T](c)
	return s, s.Before != nil || s.After != nil
}

// ends sets the ends of a change, of which nil pointers are none.
func (c *Change) ends(before, after any, has [2]bool) {
	if c.before = nil; has[0] {
		c.before = before
	}
	if c.after = nil; has[1] {
		c.after = after
	}
}

func setSpan[T any](c *Change, s Span[T]) {
	c.ends(s.Before, s.After, [2]bool{s.Before != nil, s.After != nil})
}

// readSpan reads the ends of a change of records of type T.
func readSpan[T any](c *Change, before, after json.RawMessage) error {
	var s Span[T]
	for _, end := range []struct {
		raw json.RawMessage
		to  **T
	}{{before, &s.Before}, {after, &s.After}} {
		if end.raw != nil {
			if err := json.Unmarshal(end.raw, end.to); err != nil {
				return err
			}
		}
	}
	setSpan(c, s)
	return nil
}

// NewChange returns the change of a record of type T.
func NewChange[T any](id, sheet string, s Span[T]) Change {
	c := Change{ID: id, Sheet: sheet, of: collections[keyFor[T]()]}
	setSpan(&c, s)
	return c
}

// keyFor returns the key of the collection of records of type T.
func keyFor[T any]() string {
	for key, c := range collections {
		if _, ok := c.(interface{ holds(*T) }); ok {
			return key
		}
	}
	return ""
}

// changeHead is what a change says beside the record.
type changeHead struct {
	ID      string `json:"id,omitempty"`
	Sheet   string `json:"sheet,omitempty"`
	At      int    `json:"at,omitempty"`
	Follows bool   `json:"follows,omitempty"`
}

type span struct {
	Before any `json:"before,omitempty"`
	After  any `json:"after,omitempty"`
}

// MarshalJSON writes the head of a change, and its ends under the key of its collection.
func (c Change) MarshalJSON() ([]byte, error) {
	if c.of == nil {
		return nil, fmt.Errorf("the change of %q is of nothing", c.ID)
	}
	head, err := json.Marshal(changeHead{c.ID, c.Sheet, c.At, c.Follows})
	if err != nil {
		return nil, err
	}
	ends, err := json.Marshal(span{c.before, c.after})
	if err != nil {
		return nil, err
	}
	out := head[:len(head)-1]
	if len(out) > 1 {
		out = append(out, ',')
	}
	out = append(append(append(out, '"'), c.of.key()...), `":`...)
	return append(append(out, ends...), '}'), nil
}

// UnmarshalJSON reads what MarshalJSON wrote. A change of nothing known, or of several records, is
// read as one of nothing, which no edit can be taken back by.
func (c *Change) UnmarshalJSON(data []byte) error {
	var head changeHead
	if err := json.Unmarshal(data, &head); err != nil {
		return err
	}
	*c = Change{ID: head.ID, Sheet: head.Sheet, At: head.At, Follows: head.Follows}
	var parts map[string]json.RawMessage
	if err := json.Unmarshal(data, &parts); err != nil {
		return err
	}
	found := 0
	for key, raw := range parts {
		of := collections[key]
		if of == nil {
			continue
		}
		var ends struct{ Before, After json.RawMessage }
		if err := json.Unmarshal(raw, &ends); err != nil {
			return err
		}
		found++
		c.of = of
		if err := of.read(c, some(ends.Before), some(ends.After)); err != nil {
			return err
		}
	}
	if found != 1 {
		c.of, c.before, c.after = nil, nil, nil
	}
	return nil
}

// some returns a JSON value, or nil for null.
func some(raw json.RawMessage) json.RawMessage {
	if string(raw) == "null" {
		return nil
	}
	return raw
}

func incomplete(c *Change) error { return model.Refuse(c.ID, "a change to take back is incomplete") }

// item is a pointer to a record that stands in a list of a sheet.
type item[T any] interface {
	*T
	model.Item
	comparable
	Clone() *T
	Equal(*T) bool
}

// itemList are the records of one list of a sheet.
type itemList[T any, P item[T]] struct {
	name string
	// list returns the list on a sheet.
	list func(s *model.Sheet) *[]P
	// check reports a record that breaks a rule, alone or on its sheet.
	check func(t *transaction, s *model.Sheet, v P, path string) error
	// held reports what keeps the record called id from being removed, by its absence from the
	// sheet; used whether something newer hangs on it.
	held func(s *model.Sheet, id string) error
	used func(t *transaction, s *model.Sheet, id string) bool
	// misses says what a removed record would need to come back, that is not there any more.
	misses func(t *transaction, s *model.Sheet, v P) string
	// admit reports why a new record cannot be taken into the list.
	admit func(t *transaction, s *model.Sheet, v P) error
	// bare takes away from a record what follows from others, which no change holds; nil where nothing does.
	bare func(s *model.Sheet, v P) P
	// stays reports what of a record cannot be taken back, since something newer hangs on it, and leaves that as it
	// was; nil where nothing does.
	stays func(t *transaction, s *model.Sheet, was, v P) bool
}

func (l *itemList[T, P]) key() string { return l.name }

func (l *itemList[T, P]) holds(*T) {}

func (l *itemList[T, P]) onSheet() bool { return true }

func (l *itemList[T, P]) read(c *Change, before, after json.RawMessage) error {
	return readSpan[T](c, before, after)
}

func (l *itemList[T, P]) sound(c *Change) error {
	s := spanOf[T](c)
	if s.Before == nil && s.After == nil || s.Before != nil && P(s.Before).Key() != c.ID ||
		s.After != nil && P(s.After).Key() != c.ID {
		return incomplete(c)
	}
	return nil
}

// edit returns a record for changing.
func (l *itemList[T, P]) edit(t *transaction, s *model.Sheet, id string) (P, error) {
	v := model.Find(*l.list(s), id)
	if v == nil {
		return nil, model.Refuse(id, "the %s %q is not there any more", l.name, id)
	}
	return v, l.touch(t, s, v)
}

// touch notes that a record is going to change.
func (l *itemList[T, P]) touch(t *transaction, s *model.Sheet, v P) error {
	if v.IsLocked() && !t.following && !t.restoring {
		return model.Refuse(v.Key(), "%s is locked; unlock it first", v.Describe())
	}
	if c := t.entry(v.Key()); c == nil {
		t.note(v.Key(), Change{ID: v.Key(), Sheet: s.ID, Follows: t.following, of: l, before: v.Clone()})
	} else if !t.following {
		c.Follows = false
	}
	return nil
}

// add takes a new record into the list.
func (l *itemList[T, P]) add(t *transaction, s *model.Sheet, at int, v P) error {
	if err := l.admit(t, s, v); err != nil {
		return err
	}
	list := l.list(s)
	*list = slices.Insert(*list, at, v)
	t.note(v.Key(), Change{ID: v.Key(), Sheet: s.ID, At: at, of: l})
	return nil
}

func (l *itemList[T, P]) remove(t *transaction, s *model.Sheet, id string) error {
	if _, err := l.edit(t, s, id); err != nil {
		return err
	}
	list := l.list(s)
	at := model.Index(*list, id)
	*list = slices.Delete(*list, at, at+1)
	t.last(id).At = at
	return nil
}

func (l *itemList[T, P]) complete(t *transaction, s *model.Sheet, c *Change) error {
	if c.before != nil && l.bare != nil {
		c.before = (*T)(l.bare(s, c.before.(*T)))
	}
	list := *l.list(s)
	at := c.At // as a rule a new record stands where it was put
	if at >= len(list) || list[at].Key() != c.ID {
		at = model.Index(list, c.ID)
	}
	if at < 0 {
		return l.held(s, c.ID)
	}
	v := list[at]
	if c.after = (*T)(l.plain(s, v)); c.before == nil {
		c.At = at
	}
	path := fmt.Sprintf("%q", c.ID)
	err := l.check(t, s, v, path)
	if c.before == nil {
		return err
	}
	return unless(err, func() error { return l.check(t, s, P(c.before.(*T)), path) })
}

// unless returns the fault of a record, unless it had the same fault before: rules judge what is
// new, and what broke one before, by an older rule or none, may be changed in other respects.
func unless(err error, was func() error) error {
	var f *model.Fault
	if !errors.As(err, &f) || f.Broken {
		return err
	}
	if before := was(); before != nil && before.Error() == err.Error() {
		return nil
	}
	return err
}

func (l *itemList[T, P]) idle(c *Change) bool {
	s := spanOf[T](c)
	if s.Before == nil || s.After == nil {
		return s.Before == s.After
	}
	return P(s.Before).Equal(s.After)
}

// plain returns a copy of a record without what follows from others.
func (l *itemList[T, P]) plain(s *model.Sheet, v P) P {
	if v = v.Clone(); l.bare != nil {
		v = l.bare(s, v)
	}
	return v
}

func (l *itemList[T, P]) rollback(_ *model.Map, s *model.Sheet, c *Change) {
	list := l.list(s)
	*list = restore(*list, c.ID, c.At, P(spanOf[T](c).Before))
}

func (l *itemList[T, P]) enact(_ *model.Map, s *model.Sheet, c *Change) {
	list := l.list(s)
	*list = restore(*list, c.ID, c.At, P(spanOf[T](c).After))
}

// restore brings the record called id to a state: gone, changed in place, or standing at its
// place in the list.
func restore[T any, P item[T]](list []P, id string, at int, state P) []P {
	i := model.Index(list, id)
	switch {
	case state == nil && i >= 0:
		return slices.Delete(list, i, i+1)
	case state != nil && i >= 0:
		*list[i] = *state.Clone()
	case state != nil:
		return slices.Insert(list, min(at, len(list)), P(state.Clone()))
	}
	return list
}

func (l *itemList[T, P]) revert(t *transaction, s *model.Sheet, c *Change) error {
	b, a := P(spanOf[T](c).Before), P(spanOf[T](c).After)
	now := model.Find(*l.list(s), c.ID)
	switch {
	case b == nil && now == nil:
		return nil
	case b == nil && l.used(t, s, c.ID):
		t.skip(now.Describe(), usedSince)
		return nil
	case b == nil && !l.plain(s, now).Equal(a):
		t.skip(now.Describe(), changedSince)
		return nil
	case b == nil:
		return l.remove(t, s, c.ID)
	case a == nil && now != nil:
		return nil
	case a == nil:
		if missing := l.misses(t, s, b); missing != "" {
			t.skip(missing, goneSince)
			return nil
		}
		return l.add(t, s, min(c.At, len(*l.list(s))), P(b.Clone()))
	case now == nil:
		t.skip(a.Describe(), goneSince)
		return nil
	}
	if now.IsLocked() && !t.earlier && !c.Follows && (b.IsLocked() || !a.IsLocked()) {
		// It was locked since. Taking back the lock itself unlocks it.
		t.skip(now.Describe(), lockedSince)
		return nil
	}
	was := t.following
	t.following = c.Follows // and so does what takes this back
	v, err := l.edit(t, s, c.ID)
	t.following = was
	if err != nil {
		return err
	}
	if l.bare != nil { // what follows is in neither of the two
		v = l.bare(s, v)
	}
	before := v.Clone()
	if !fields.TakeBack[T](v, b, a, t.earlier) {
		t.skip(v.Describe(), changedSince)
	}
	if l.stays != nil && l.stays(t, s, before, v) {
		t.skip(v.Describe(), usedSince)
	}
	return nil
}

// attachments are the records of one list of the map that others refer to: its pictures, its fonts.
type attachments[T any] struct {
	name string
	list func(m *model.Map) *[]T
	id   func(v *T) string
	// admit reports why a content cannot be taken into the map.
	admit func(m *model.Map, v *T) error
	// needed reports whether the map refers to a content.
	needed   func(m *model.Map, id string) bool
	describe func(v *T) string
}

func (l *attachments[T]) key() string { return l.name }

func (l *attachments[T]) holds(*T) {}

func (l *attachments[T]) onSheet() bool { return false }

func (l *attachments[T]) read(c *Change, before, after json.RawMessage) error {
	return readSpan[T](c, before, after)
}

func (l *attachments[T]) sound(c *Change) error {
	s := spanOf[T](c)
	if (s.Before == nil) == (s.After == nil) || s.Before != nil && l.id(s.Before) != c.ID {
		return incomplete(c)
	}
	return nil
}

func (l *attachments[T]) place(m *model.Map, id string) int {
	list := *l.list(m)
	return slices.IndexFunc(list, func(v T) bool { return l.id(&v) == id })
}

// add takes a content into the map, unless it is there already.
func (l *attachments[T]) add(t *transaction, at int, v T) error {
	if err := l.admit(t.m, &v); err != nil || l.place(t.m, l.id(&v)) >= 0 {
		return err
	}
	list := l.list(t.m)
	*list = slices.Insert(*list, min(at, len(*list)), v)
	t.note(l.id(&v), Change{ID: l.id(&v), of: l})
	return nil
}

func (l *attachments[T]) remove(t *transaction, id string) {
	list := l.list(t.m)
	if i := l.place(t.m, id); i >= 0 {
		was := (*list)[i]
		t.note(id, Change{ID: id, At: i, of: l, before: &was})
		*list = slices.Delete(*list, i, i+1)
	}
}

func (l *attachments[T]) complete(t *transaction, _ *model.Sheet, c *Change) error {
	if i := l.place(t.m, c.ID); i >= 0 {
		after := (*l.list(t.m))[i]
		if c.after = &after; c.before == nil {
			c.At = i
		}
	}
	return nil
}

func (l *attachments[T]) idle(c *Change) bool { return (c.before == nil) == (c.after == nil) }

func (l *attachments[T]) put(m *model.Map, c *Change, state *T) {
	list := l.list(m)
	if i := l.place(m, c.ID); i >= 0 {
		*list = slices.Delete(*list, i, i+1)
	}
	if state != nil {
		*list = slices.Insert(*list, min(c.At, len(*list)), *state)
	}
}

func (l *attachments[T]) rollback(m *model.Map, _ *model.Sheet, c *Change) {
	l.put(m, c, spanOf[T](c).Before)
}

func (l *attachments[T]) enact(m *model.Map, _ *model.Sheet, c *Change) {
	l.put(m, c, spanOf[T](c).After)
}

// revert lets a content go again that nothing refers to any more, or brings one back.
func (l *attachments[T]) revert(t *transaction, _ *model.Sheet, c *Change) error {
	s := spanOf[T](c)
	if s.Before == nil {
		if !l.needed(t.m, c.ID) {
			l.remove(t, c.ID)
		}
		return nil
	}
	return t.skipRefused(l.describe(s.Before), l.add(t, c.At, *s.Before))
}

// headRecord is the one record of a map or of each sheet that is not in a list.
type headRecord[T any] struct {
	name string
	// at returns the record of the map, or of a sheet.
	at    func(m *model.Map, s *model.Sheet) *T
	clone func(v *T) *T
	same  func(a, b *T) bool
	check func(m *model.Map, v *T, id string) error
	// describe names what was changed since.
	describe func(v *T) string
	sheet    bool
	// id is that of the record, which no edit changes; nil where it has none.
	id func(v *T) string
}

func (h *headRecord[T]) key() string { return h.name }

func (h *headRecord[T]) holds(*T) {}

func (h *headRecord[T]) onSheet() bool { return h.sheet }

func (h *headRecord[T]) read(c *Change, before, after json.RawMessage) error {
	return readSpan[T](c, before, after)
}

func (h *headRecord[T]) sound(c *Change) error {
	if c.before == nil || c.after == nil {
		return incomplete(c)
	}
	if s := spanOf[T](c); h.id != nil && (h.id(s.Before) != c.ID || h.id(s.After) != c.ID) {
		return incomplete(c)
	}
	return nil
}

// edit returns the record for changing.
func (h *headRecord[T]) edit(t *transaction, s *model.Sheet) *T {
	id := ""
	if h.sheet {
		id = s.ID
	}
	if key := h.name + " of " + id; t.entry(key) == nil && (id == "" || t.entry(id) == nil) {
		t.note(key, Change{ID: id, Sheet: id, of: h, before: h.clone(h.at(t.m, s))})
	}
	return h.at(t.m, s)
}

func (h *headRecord[T]) complete(t *transaction, s *model.Sheet, c *Change) error {
	after := h.clone(h.at(t.m, s))
	c.after = after
	return unless(h.check(t.m, after, c.ID), func() error { return h.check(t.m, c.before.(*T), c.ID) })
}

func (h *headRecord[T]) idle(c *Change) bool {
	s := spanOf[T](c)
	return h.same(s.Before, s.After)
}

func (h *headRecord[T]) rollback(m *model.Map, s *model.Sheet, c *Change) {
	*h.at(m, s) = *h.clone(spanOf[T](c).Before)
}

func (h *headRecord[T]) enact(m *model.Map, s *model.Sheet, c *Change) {
	*h.at(m, s) = *h.clone(spanOf[T](c).After)
}

func (h *headRecord[T]) revert(t *transaction, s *model.Sheet, c *Change) error {
	v := h.edit(t, s)
	if span := spanOf[T](c); !fields.TakeBack(v, span.Before, span.After, t.earlier) {
		t.skip(h.describe(v), changedSince)
	}
	return nil
}
