package model_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"plaintracer/core/model"
)

// filled gives every field of a value something that is not its zero value.
func filled(v reflect.Value, depth int) {
	switch v.Kind() {
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		filled(v.Elem(), depth)
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				filled(v.Field(i), depth+1)
			}
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 2, 2))
		for i := range 2 {
			filled(v.Index(i), depth+1)
		}
	case reflect.String:
		v.SetString("a <b> \"c\"\n\\ é \u2028 " + strings.Repeat("x", depth))
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int:
		v.SetInt(int64(-depth * 100))
	case reflect.Uint8:
		v.SetUint(7)
	}
}

// ReadMap makes of a text what encoding/json makes of it: where that takes it, the same map, where not, an error.
func FuzzReadMap(f *testing.F) {
	files, err := filepath.Glob("../../bench/hands/*.json")
	if err != nil {
		f.Fatal(err)
	}
	for _, name := range files[:min(3, len(files))] {
		text, err := os.ReadFile(name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
	}
	all := new(model.Map)
	filled(reflect.ValueOf(all).Elem(), 0)
	for _, m := range []*model.Map{model.New("One", model.Rightwards, "A4", true), all} {
		text, err := json.Marshal(m)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
		indented, _ := json.MarshalIndent(m, "", "\t")
		f.Add(indented)
	}
	for _, text := range []string{`{}`, `{"title":"a","title":"b"}`, `{"Title":"a"}`, `{"sheets":[null]}`,
		`{"sheets":null}`, `{"sheets":[{"symbols":[{"x":1.5}]}]}`,
		`{"sheets":[{"symbols":[{"x":-0,"y":01}]}]}`, `{"title":"\ud83d\ude00 \u00e9"}`, "{\"title\":\"\xff\"}",
		`{"answers":["a",]}`, `{"numbers":nul}`, `{"title":null,"fonts":[{}]} x`} {
		f.Add([]byte(text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		want := new(model.Map)
		wrong := json.Unmarshal(text, want)
		got, err := model.ReadMap(text)
		if (err == nil) != (wrong == nil) {
			t.Fatalf("%v, and by encoding/json %v", err, wrong)
		}
		if err == nil && !reflect.DeepEqual(got, want) {
			t.Fatalf("%+v, and by encoding/json %+v", got, want)
		}
	})
}

// What the encoder writes is read without it, so that nothing is left to encoding/json but pictures and fonts.
func TestMapsAreReadWithoutReflection(t *testing.T) {
	m := new(model.Map)
	filled(reflect.ValueOf(m).Elem(), 0)
	m.Pictures, m.Fonts = nil, nil
	text, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	counted := testing.AllocsPerRun(20, func() { model.ReadMap(text) })
	reflected := testing.AllocsPerRun(20, func() { json.Unmarshal(text, new(model.Map)) })
	if counted >= reflected {
		t.Errorf("reading allocates %v times, by encoding/json %v times: it went the slow way", counted, reflected)
	}
}

// A map of 1,000 symbols, read; and the same by encoding/json.
func BenchmarkReadMap(b *testing.B) {
	m := model.New("Hall", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	for i := range 1000 {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Handle case ", i)}
		sym.X, sym.Y, sym.W, sym.H = i%25*17000, i/25*14000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: sym.ID}})
		}
	}
	text, err := json.Marshal(m)
	if err != nil {
		b.Fatal(err)
	}
	b.Run("generated", func(b *testing.B) {
		for b.Loop() {
			model.ReadMap(text)
		}
	})
	b.Run("reflected", func(b *testing.B) {
		for b.Loop() {
			json.Unmarshal(text, new(model.Map))
		}
	})
}
