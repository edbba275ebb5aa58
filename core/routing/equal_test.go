package routing_test

import (
	"reflect"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/routing"
)

// changed makes a value another one: what it holds, or, of a list or a struct, one thing after the other. It calls try
// after each change and takes the change back.
func changed(v reflect.Value, try func(what string), what string) {
	switch v.Kind() {
	case reflect.Int, reflect.Uint8:
		if v.CanInt() {
			v.SetInt(v.Int() + 1)
			try(what)
			v.SetInt(v.Int() - 1)
		} else {
			v.SetUint(v.Uint() + 1)
			try(what)
			v.SetUint(v.Uint() - 1)
		}
	case reflect.Bool:
		v.SetBool(!v.Bool())
		try(what)
		v.SetBool(!v.Bool())
	case reflect.Struct:
		for i := range v.NumField() {
			changed(v.Field(i), try, what+"."+v.Type().Field(i).Name)
		}
	case reflect.Slice:
		all := v.Interface()
		v.Set(reflect.Append(v, reflect.New(v.Type().Elem()).Elem()))
		try(what + ", longer")
		v.Set(reflect.ValueOf(all))
		fallthrough
	case reflect.Array:
		if v.Len() > 0 {
			changed(v.Index(v.Len()-1), try, what+"[]")
		}
	}
}

// Two scenes that differ in anything their courses depend on are not equal; a copy is.
func TestScenesAreEqualOnlyInEveryPart(t *testing.T) {
	whole := func() routing.Scene {
		return routing.Scene{
			Boxes: []geometry.Box{{W: 10, H: 10}}, Glue: [][4]geometry.Point{{}}, Reach: [][4]int{{}},
			Open: []bool{false}, Heads: []bool{false},
			Links:   []routing.Link{{From: 0, To: routing.None, Bends: []routing.Bend{{At: 3}}}},
			Borders: []routing.Border{{At: 5}},
		}
	}
	a := whole()
	n := 0
	changed(reflect.ValueOf(&a).Elem(), func(what string) {
		b := whole()
		if n++; a.Equal(&b) {
			t.Errorf("scenes that differ in %s are taken for the same", what)
		}
	}, "Scene")
	if n < 40 {
		t.Errorf("only %d things were changed", n)
	}
	var b routing.Scene
	if b.CopyOf(&a); !b.Equal(&a) {
		t.Error("a copy is taken for another scene")
	}
}
