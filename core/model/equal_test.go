package model_test

import (
	"encoding/json"
	"reflect"
	"testing"

	"plaintracer/core/model"
)

// Two records are the same as long as nothing in them differs, however deep it lies.
func TestEqualSeesEveryPart(t *testing.T) {
	seesEveryPart[model.Symbol](t)
	seesEveryPart[model.Connector](t)
	seesEveryPart[model.Pool](t)
	seesEveryPart[model.SheetHead](t)
	seesEveryPart[model.Head](t)
}

func seesEveryPart[T any, P interface {
	*T
	Equal(*T) bool
}](t *testing.T) {
	one, other := P(new(T)), P(new(T))
	filled(reflect.ValueOf(one).Elem(), 0)
	text, err := json.Marshal(one)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(text, other); err != nil || !one.Equal((*T)(other)) {
		t.Fatalf("%T is not as its copy: %v", one, err)
	}
	if parts := differ(t, reflect.ValueOf(other).Elem(), "", func() bool { return one.Equal((*T)(other)) }); parts < 8 {
		t.Errorf("%T has %d parts", one, parts)
	}
	var none T
	empty := none
	emptyLists(reflect.ValueOf(&empty).Elem())
	if !P(&none).Equal(&empty) {
		t.Errorf("%T without a list differs from one with an empty list", one)
	}
}

// differ changes every value that lies in v, one at a time, and reports where that is not seen.
func differ(t *testing.T, v reflect.Value, path string, same func() bool) (parts int) {
	was := reflect.New(v.Type()).Elem()
	was.Set(v)
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if !v.Type().Field(i).IsExported() {
				continue // is computed, not part of the record
			}
			parts += differ(t, v.Field(i), path+"."+v.Type().Field(i).Name, same)
		}
		return parts
	case reflect.Slice:
		parts += differ(t, v.Index(v.Len()-1), path+"[]", same)
		v.Set(v.Slice(0, v.Len()-1))
	case reflect.String:
		v.SetString(v.String() + "!")
	case reflect.Bool:
		v.SetBool(!v.Bool())
	case reflect.Int:
		v.SetInt(v.Int() + 1)
	default:
		t.Fatalf("%s is of a kind that is not tried: %s", path, v.Type())
	}
	if same() {
		t.Errorf("a change of %s is not seen", path)
	}
	v.Set(was)
	return parts + 1
}

func emptyLists(v reflect.Value) {
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if !v.Type().Field(i).IsExported() {
				continue
			}
			emptyLists(v.Field(i))
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 0, 1))
	}
}
