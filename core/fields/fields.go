// Package fields finds the fields of records by reflection: a field that is added to a record is taken back, given by
// styles and set by edits without another line. What an edit or a style shares with a record it has under the same
// name.
//
// Tags say what is special about a field: keep:"one" that at least one thing of its list stays, undo:"quiet" that a
// value that somebody else changed since is left alone without a word, earlier:"whole" that the programs of format 1
// took it back as a whole: the list where the tag stands at the list, each thing of the list where it stands at the
// type.
package fields

import (
	"maps"
	"reflect"
	"slices"
	"sync"
	"sync/atomic"

	"plaintracer/core/geometry"
)

// Field is one value of a record that is compared and changed back as a whole.
type Field struct {
	Name string
	typ  reflect.Type
	// index leads to it from the record; corner says that it is the corner of the box there.
	index  []int
	corner bool
	// list says that it is a list of things with ids, which are changed back one by one; at
	// least so many of them stay.
	list  bool
	least int
	quiet bool
	// whole and parts say that it, or each thing in it, was taken back as a whole earlier.
	whole, parts bool
}

// Table are the fields of one type of record.
type Table []Field

// tables are those there are. The map is not changed but put in place of the one before, so that all maps that are
// edited at once read it without waiting; making guards against two that make one at the same time.
var tables struct {
	atomic.Pointer[map[reflect.Type]Table]
	making sync.Mutex
}

// Of returns the table of a type of record, which is a struct.
func Of(t reflect.Type) Table {
	if made := tables.Load(); made != nil {
		if f := (*made)[t]; f != nil {
			return f
		}
	}
	tables.making.Lock()
	defer tables.making.Unlock()
	all := map[reflect.Type]Table{}
	if made := tables.Load(); made != nil {
		maps.Copy(all, *made)
	}
	if f := all[t]; f != nil { // somebody was faster
		return f
	}
	f := gather(nil, t, nil)
	all[t] = f
	tables.Store(&all)
	return f
}

var typeBox = reflect.TypeFor[geometry.Box]()

// gather adds the fields of a struct, those of embedded ones as its own. The corner of a box is one value, since a
// place is changed as a whole.
func gather(f Table, t reflect.Type, at []int) Table {
	if t == typeBox {
		f = append(f, Field{Name: "corner", index: at, corner: true, typ: reflect.TypeFor[geometry.Point]()})
	}
	for i := range t.NumField() {
		s := t.Field(i)
		index := append(slices.Clone(at), i)
		switch {
		case t == typeBox && (s.Name == "X" || s.Name == "Y"):
		case !s.IsExported() && !s.Anonymous: // what a record only remembers of itself
		case s.Anonymous:
			f = gather(f, s.Type, index)
		default:
			v := Field{Name: s.Name, index: index, typ: s.Type}
			if s.Type.Kind() == reflect.Slice && s.Type.Elem().Kind() == reflect.Struct {
				_, v.list = s.Type.Elem().FieldByName("ID")
			}
			if s.Tag.Get("keep") != "" {
				v.least = 1
			}
			v.quiet = s.Tag.Get("undo") == "quiet"
			v.whole, v.parts = s.Tag.Get("earlier") == "whole", s.Tag.Get("earlier") == "parts"
			f = append(f, v)
		}
	}
	return f
}

// Value returns the field of a record, which is the struct itself.
func (f *Field) Value(record reflect.Value) reflect.Value {
	v := record
	for _, i := range f.index {
		v = v.Field(i)
	}
	if f.corner {
		box := v.Addr().Interface().(*geometry.Box)
		return reflect.ValueOf(box.Corner())
	}
	return v
}

// set gives the field of a record another value.
func (f *Field) set(record, value reflect.Value) {
	v := record
	for _, i := range f.index {
		v = v.Field(i)
	}
	if f.corner {
		box, to := v.Addr().Interface().(*geometry.Box), value.Interface().(geometry.Point)
		box.X, box.Y = to.X, to.Y
		return
	}
	v.Set(value)
}

// Same reports whether two values are the same; a list that is empty is as good as none.
func Same(a, b reflect.Value) bool {
	if a.Kind() == reflect.Slice && a.Len() == 0 && b.Len() == 0 {
		return true
	}
	return reflect.DeepEqual(a.Interface(), b.Interface())
}

// copied returns a value that shares no list with v.
func copied(v reflect.Value) reflect.Value {
	if v.Kind() != reflect.Slice || v.IsNil() {
		return v
	}
	return reflect.AppendSlice(reflect.MakeSlice(v.Type(), 0, v.Len()), v)
}

// TakeBack gives every field that was changed from before to after, and that still is as in after, its value of before
// again. It reports whether none had been changed by somebody else since. Earlier does it as the programs of format 1
// did.
func TakeBack[T any](now, before, after *T, earlier bool) bool {
	return Of(reflect.TypeFor[T]()).back(reflect.ValueOf(now).Elem(), reflect.ValueOf(before).Elem(),
		reflect.ValueOf(after).Elem(), earlier)
}

func (t Table) back(now, before, after reflect.Value, earlier bool) bool {
	ok := true
	for i := range t {
		v := &t[i]
		n, b, a := v.Value(now), v.Value(before), v.Value(after)
		switch {
		case Same(b, a):
		case Same(n, a):
			v.set(now, copied(b))
		case v.list && !(earlier && v.whole):
			ok = v.backOneByOne(n, b, a, earlier) && ok || v.quiet && ok
		case !Same(n, b):
			ok = false
		}
	}
	return ok
}

// idAt returns the id of element i of a list of things with ids.
func idAt(list reflect.Value, i int) string { return list.Index(i).FieldByName("ID").String() }

func placeOf(list reflect.Value, id string) int {
	for i := range list.Len() {
		if idAt(list, i) == id {
			return i
		}
	}
	return -1
}

// backOneByOne takes changes of a list back thing by thing, where somebody else has changed others
// of them since.
func (f *Field) backOneByOne(now, before, after reflect.Value, earlier bool) bool {
	ok := true
	list := copied(now)
	table := Of(now.Type().Elem())
	for i := range before.Len() {
		id := idAt(before, i)
		j, k := placeOf(after, id), placeOf(list, id)
		switch {
		case j < 0 && k < 0:
			at := min(i, list.Len())
			list = reflect.AppendSlice(reflect.Append(copied(list.Slice(0, at)), before.Index(i)),
				list.Slice(at, list.Len()))
		case j >= 0 && k >= 0:
			element := reflect.New(list.Type().Elem()).Elem()
			element.Set(list.Index(k))
			was, became := reflect.New(element.Type()).Elem(), reflect.New(element.Type()).Elem()
			was.Set(before.Index(i))
			became.Set(after.Index(j))
			if whole := earlier && f.parts; !whole {
				ok = table.back(element, was, became, earlier) && ok
			} else if Same(element, became) {
				element = was
			} else if !Same(was, became) && !Same(element, was) {
				ok = false
			}
			list.Index(k).Set(element)
		}
	}
	for j := range after.Len() {
		k := placeOf(list, idAt(after, j))
		if k < 0 || placeOf(before, idAt(after, j)) >= 0 {
			continue
		}
		if Same(list.Index(k), after.Index(j)) && list.Len() > f.least {
			list = reflect.AppendSlice(copied(list.Slice(0, k)), list.Slice(k+1, list.Len()))
		} else {
			ok = false
		}
	}
	now.Set(list)
	return ok
}

// Assign sets the fields of a record for which an edit has a value: those of the same name and type, where the edit is
// not nil. Both are pointers to structs. What the record does not have is passed over.
func Assign(record, edit any) {
	r, e := reflect.ValueOf(record).Elem(), reflect.ValueOf(edit).Elem()
	for i := range e.NumField() {
		v := e.Field(i)
		if v.Kind() != reflect.Pointer && v.Kind() != reflect.Slice || v.IsNil() {
			continue
		}
		if v.Kind() == reflect.Pointer {
			v = v.Elem()
		}
		if to := r.FieldByName(e.Type().Field(i).Name); to.IsValid() && to.Type() == v.Type() {
			to.Set(copied(v))
		}
	}
}

// Give sets all that a record shares with another one as that one has it: the fields of the same name and type, but for
// ids and names. Both are pointers to structs.
func Give(to, from any) {
	record, other := reflect.ValueOf(to).Elem(), reflect.ValueOf(from).Elem()
	theirs := Of(other.Type())
	for _, f := range Of(record.Type()) {
		if f.Name == "ID" || f.Name == "Name" {
			continue
		}
		if k := slices.IndexFunc(theirs, func(g Field) bool { return g.Name == f.Name && g.typ == f.typ }); k >= 0 {
			f.set(record, theirs[k].Value(other))
		}
	}
}
