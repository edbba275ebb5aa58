package diagram

import (
	"maps"
	"reflect"
	"slices"
	"sync"
	"sync/atomic"
	"unsafe"

	"plaintracer/core/geometry"
)

// The fields of records are found by reflection, once, at the start: a field that is added to a
// record is compared, changed back, given by styles and set by edits without another line. What
// an edit or a style shares with a record it has under the same name.

// field is one value of a record that is compared and changed back as a whole.
type field struct {
	name string
	// offset is where it lies in the record, kind and typ what it is.
	offset uintptr
	typ    reflect.Type
	// list says that it is a list of things with ids, which are changed back one by one; at
	// least so many of them stay.
	list  bool
	least int
	// quiet says that a value that somebody else changed since stays without a word.
	quiet bool
}

// fields are those of one type of record.
type fields struct {
	list []field
	// texts, numbers and marks are where its strings, integers and truth values lie, lists its lists, others all
	// other parts: comparing goes through them in every frame of a drag.
	texts, numbers, marks []uintptr
	lists, others         []field
	// size is that of a record, in bytes.
	size uintptr
}

// fieldTables are those there are. The map is not changed but put in place of the one before, so that all maps that are edited
// at once read it without waiting; most are made at the start, by the records that need them.
var fieldTables struct {
	atomic.Pointer[map[reflect.Type]*fields]
	making sync.Mutex
}

// fieldsOf returns the table of a type of record.
func fieldsOf[T any]() *fields { return tableOf(reflect.TypeFor[T]()) }

func tableOf(t reflect.Type) *fields {
	if made := fieldTables.Load(); made != nil {
		if f := (*made)[t]; f != nil {
			return f
		}
	}
	fieldTables.making.Lock()
	defer fieldTables.making.Unlock()
	all := map[reflect.Type]*fields{}
	if made := fieldTables.Load(); made != nil {
		maps.Copy(all, *made)
	}
	if f := all[t]; f != nil { // somebody was faster
		return f
	}
	f := &fields{size: t.Size()}
	f.gather(t, 0)
	f.divide(t, 0)
	all[t] = f
	fieldTables.Store(&all)
	return f
}

var typeBox = reflect.TypeFor[geometry.Box]()

// gather adds the fields of a struct, those of embedded ones as its own. The corner of a box is
// one value, since a place is changed as a whole.
func (f *fields) gather(t reflect.Type, at uintptr) {
	if t == typeBox {
		f.list = append(f.list, field{name: "corner", offset: at, typ: reflect.TypeFor[geometry.Point]()})
	}
	for i := range t.NumField() {
		s := t.Field(i)
		switch {
		case t == typeBox && (s.Name == "X" || s.Name == "Y"):
		case s.Anonymous:
			f.gather(s.Type, at+s.Offset)
		default:
			v := field{name: s.Name, offset: at + s.Offset, typ: s.Type}
			if s.Type.Kind() == reflect.Slice && s.Type.Elem().Kind() == reflect.Struct {
				_, v.list = s.Type.Elem().FieldByName("ID")
			}
			if s.Tag.Get("keep") != "" {
				v.least = 1
			}
			v.quiet = s.Tag.Get("undo") == "quiet"
			f.list = append(f.list, v)
		}
	}
}

// divide adds the parts of a struct.
func (f *fields) divide(t reflect.Type, at uintptr) {
	switch t.Kind() {
	case reflect.Struct:
		for i := range t.NumField() {
			f.divide(t.Field(i).Type, at+t.Field(i).Offset)
		}
	case reflect.String:
		f.texts = append(f.texts, at)
	case reflect.Int:
		f.numbers = append(f.numbers, at)
	case reflect.Bool:
		f.marks = append(f.marks, at)
	case reflect.Slice:
		f.lists = append(f.lists, field{offset: at, typ: t})
	default:
		f.others = append(f.others, field{offset: at, typ: t})
	}
}

// slice is how a list lies in memory.
type slice struct {
	at               unsafe.Pointer
	length, capacity int
}

// A box begins with its corner, or this does not compile.
var _ = [1]struct{}{}[unsafe.Offsetof(geometry.Box{}.Y)-unsafe.Offsetof(geometry.Point{}.Y)]

// equal reports whether two records are the same in every part. Both must be of the type of the
// table.
func (f *fields) equal(a, b unsafe.Pointer) bool {
	// A record and a copy of it are the same to the byte, as almost all are in a frame of a drag. Others may be equal, too.
	if unsafe.String((*byte)(a), f.size) == unsafe.String((*byte)(b), f.size) {
		return true
	}
	for _, at := range f.numbers {
		if *(*int)(unsafe.Add(a, at)) != *(*int)(unsafe.Add(b, at)) {
			return false
		}
	}
	for _, at := range f.texts {
		if *(*string)(unsafe.Add(a, at)) != *(*string)(unsafe.Add(b, at)) {
			return false
		}
	}
	for _, at := range f.marks {
		if *(*bool)(unsafe.Add(a, at)) != *(*bool)(unsafe.Add(b, at)) {
			return false
		}
	}
	for i := range f.lists {
		p := &f.lists[i]
		if x, y := (*slice)(unsafe.Add(a, p.offset)), (*slice)(unsafe.Add(b, p.offset)); x.length == y.length && (x.length == 0 || x.at == y.at) {
			continue // the same list, or none
		}
		if !equalValues(reflect.NewAt(p.typ, unsafe.Add(a, p.offset)).Elem(), reflect.NewAt(p.typ, unsafe.Add(b, p.offset)).Elem()) {
			return false
		}
	}
	for i := range f.others {
		p := &f.others[i]
		if !equalValues(reflect.NewAt(p.typ, unsafe.Add(a, p.offset)).Elem(), reflect.NewAt(p.typ, unsafe.Add(b, p.offset)).Elem()) {
			return false
		}
	}
	return true
}

// sameRecord reports whether two records are the same in every part.
func sameRecord[T any](a, b *T) bool {
	return fieldsOf[T]().equal(unsafe.Pointer(a), unsafe.Pointer(b))
}

func (f *field) of(record reflect.Value) reflect.Value {
	return reflect.NewAt(f.typ, unsafe.Add(record.Addr().UnsafePointer(), f.offset)).Elem()
}

// equalValues reports whether two values are the same; a list that is empty is as good as none.
func equalValues(a, b reflect.Value) bool {
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

// changeBack gives every field that the edit changed from before to after, and that still is as
// in after, its value of before again. It reports whether none had been changed by somebody else
// since. Earlier does it as Lift says.
func changeBack[T any](now, before, after *T, earlier bool) bool {
	return fieldsOf[T]().back(reflect.ValueOf(now).Elem(), reflect.ValueOf(before).Elem(), reflect.ValueOf(after).Elem(), earlier)
}

func (f *fields) back(now, before, after reflect.Value, earlier bool) bool {
	ok := true
	for i := range f.list {
		v := &f.list[i]
		n, b, a := v.of(now), v.of(before), v.of(after)
		switch {
		case equalValues(b, a):
		case equalValues(n, a):
			n.Set(copied(b))
		case v.list && !(earlier && v.name == "Stages"):
			ok = backOneByOne(n, b, a, v.least, earlier) && ok || v.quiet && ok
		case !equalValues(n, b):
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
// of them since. At least so many things stay.
func backOneByOne(now, before, after reflect.Value, least int, earlier bool) bool {
	ok := true
	list := copied(now)
	table := tableOf(now.Type().Elem())
	for i := range before.Len() {
		id := idAt(before, i)
		j, k := placeOf(after, id), placeOf(list, id)
		switch {
		case j < 0 && k < 0:
			at := min(i, list.Len())
			list = reflect.AppendSlice(reflect.Append(copied(list.Slice(0, at)), before.Index(i)), list.Slice(at, list.Len()))
		case j >= 0 && k >= 0:
			element := reflect.New(list.Type().Elem()).Elem()
			element.Set(list.Index(k))
			was, became := reflect.New(element.Type()).Elem(), reflect.New(element.Type()).Elem()
			was.Set(before.Index(i))
			became.Set(after.Index(j))
			if whole := earlier && element.Type() == reflect.TypeFor[Style](); !whole {
				ok = table.back(element, was, became, earlier) && ok
			} else if equalValues(element, became) {
				element = was
			} else if !equalValues(was, became) && !equalValues(element, was) {
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
		if equalValues(list.Index(k), after.Index(j)) && list.Len() > least {
			list = reflect.AppendSlice(copied(list.Slice(0, k)), list.Slice(k+1, list.Len()))
		} else {
			ok = false
		}
	}
	now.Set(list)
	return ok
}

// assign sets the fields of a record for which an edit has a value: those of the same name and
// type, where the edit is not nil. What the record does not have is passed over.
func assign(record, edit any) {
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

// shared calls do with every field that two records have under the same name and of the same
// type, except their ids and names.
func shared(one, other reflect.Value, do func(a, b reflect.Value)) {
	table := tableOf(other.Type())
	for _, f := range tableOf(one.Type()).list {
		if f.name == "ID" || f.name == "Name" {
			continue
		}
		k := slices.IndexFunc(table.list, func(g field) bool { return g.name == f.name && g.typ == f.typ })
		if k >= 0 {
			do(f.of(one), table.list[k].of(other))
		}
	}
}

// give sets all that a record shares with a style as the style has it.
func give(record any, s *Style) {
	shared(reflect.ValueOf(s).Elem(), reflect.ValueOf(record).Elem(), func(style, now reflect.Value) { now.Set(style) })
}

// styleOf returns the style that a record has, without a name.
func styleOf(record any) (s Style) {
	shared(reflect.ValueOf(&s).Elem(), reflect.ValueOf(record).Elem(), func(style, now reflect.Value) { style.Set(now) })
	return s
}

// follow gives a record what a style says now, wherever it is as the style said before.
func follow(record any, before, after *Style) {
	now := styleOf(record)
	changeBack(&now, after, before, false) // what was chosen for the record itself stays
	give(record, &now)
}
