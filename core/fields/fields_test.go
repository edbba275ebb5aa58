package fields

import (
	"reflect"
	"sync"
	"testing"

	"plaintracer/core/geometry"
)

type part struct{ ID, Text string }

type record struct {
	ID string
	geometry.Box
	Name  string
	Text  string
	Parts []part `keep:"one"`
	Loud  []part
	Quiet []part `undo:"quiet"`
	Lump  []part `earlier:"whole"`
	Words []string
	// cached is found anew from the rest.
	cached *int
}

// Tables are made by the first that needs one, and many may be the first: the race detector, or the program's end, says
// whether something is filled while another reads it.
func TestTablesAreMadeAtOnce(t *testing.T) {
	tables.Store(nil) // as at the start
	types := []reflect.Type{reflect.TypeFor[record](), reflect.TypeFor[part](), typeBox}
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			for range 200 {
				for _, typ := range types {
					if len(Of(typ)) == 0 {
						t.Errorf("%s has no fields", typ)
					}
				}
			}
		})
	}
	all.Wait()
	if n := len(*tables.Load()); n != len(types) {
		t.Errorf("there are %d tables", n)
	}
}

// What a record only remembers of itself is none of its fields.
func TestWhatIsRememberedIsNoField(t *testing.T) {
	r := record{cached: new(int)}
	for _, f := range Of(reflect.TypeFor[record]()) {
		if v := f.Value(reflect.ValueOf(&r).Elem()); !v.CanInterface() || f.Name == "cached" {
			t.Error("it has a field")
		}
	}
}

// Each field goes back alone, and one that somebody else changed since stays and is told.
func TestTakeBack(t *testing.T) {
	before := record{ID: "r", Text: "old", Box: geometry.Box{X: 1, Y: 2, W: 10, H: 10},
		Parts: []part{{"a", "1"}, {"b", "1"}}, Words: []string{"x"}}
	after := before
	after.Text, after.X, after.Words = "new", 5, nil
	after.Parts = []part{{"a", "2"}, {"c", "1"}}
	for _, c := range []struct {
		what  string
		other func(now *record)
		want  func(r *record)
		ok    bool
	}{
		{"nobody else", func(*record) {}, func(*record) {}, true},
		{"the width, which was not changed", func(r *record) { r.W = 99 }, func(r *record) { r.W = 99 }, true},
		{"the text, which was", func(r *record) { r.Text = "theirs" }, func(r *record) { r.Text = "theirs" }, false},
		{"one way of the place, which goes back as a whole or not at all", func(r *record) { r.Y = 7 },
			func(r *record) { r.X, r.Y = 5, 7 }, false},
		{"a part of their own", func(r *record) { r.Parts = append(r.Parts[:2:2], part{"d", "9"}) },
			func(r *record) { r.Parts = []part{{"a", "1"}, {"b", "1"}, {"d", "9"}} }, true},
		{"a part that was changed", func(r *record) { r.Parts = []part{{"a", "theirs"}, {"c", "1"}} },
			func(r *record) { r.Parts = []part{{"a", "theirs"}, {"b", "1"}} }, false},
	} {
		now, want := after, before
		c.other(&now)
		c.want(&want)
		if ok := TakeBack(&now, &before, &after, false); ok != c.ok || !reflect.DeepEqual(now, want) {
			t.Errorf("somebody else changed %s: %v, %+v, not %v, %+v", c.what, ok, now, c.ok, want)
		}
	}
}

func TestTagsSayHowListsGoBack(t *testing.T) {
	made := []part{{"a", "1"}}
	theirs := []part{{"a", "theirs"}}
	// The only thing of a list stays where the list keeps one.
	before, after := record{}, record{Parts: made, Loud: made}
	now := after
	after.Parts, after.Loud = append(made[:1:1], part{"c", "1"}), append(made[:1:1], part{"c", "1"}) // c is gone since
	if TakeBack(&now, &before, &after, false); len(now.Parts) != 1 || len(now.Loud) != 0 {
		t.Errorf("%v stayed where one is kept, %v where none is", now.Parts, now.Loud)
	}
	// What somebody else changed is not told where the field is quiet.
	before, after = record{Quiet: made}, record{Quiet: []part{{"a", "2"}}}
	now = record{Quiet: theirs}
	if !TakeBack(&now, &before, &after, false) {
		t.Error("a quiet field was told")
	}
	// A list that earlier programs took back as a whole stays as somebody else changed it when read as they did.
	before, after = record{Lump: []part{{"a", "1"}, {"b", "1"}}}, record{Lump: []part{{"a", "2"}, {"b", "1"}}}
	for earlier, want := range map[bool]string{false: "1", true: "2"} {
		now = record{Lump: []part{{"a", "2"}, {"b", "theirs"}}}
		if TakeBack(&now, &before, &after, earlier); now.Lump[0].Text != want {
			t.Errorf("earlier %v: %v", earlier, now.Lump)
		}
	}
}

// An edit sets what it has a value for, and gives no list away that it goes on holding.
func TestAssignAndGive(t *testing.T) {
	words := []string{"one"}
	text := "said"
	r := record{Text: "old", Name: "kept", Words: []string{"zero"}}
	Assign(&r, &struct {
		Text, Name, Nowhere *string
		Words               []string
	}{Text: &text, Words: words, Nowhere: &text})
	words[0] = "changed afterwards"
	if r.Text != "said" || r.Name != "kept" || r.Words[0] != "one" {
		t.Errorf("%+v", r)
	}
	other := struct {
		ID, Name, Text string
		Words          []string
		Loud           string
	}{"theirs", "theirs", "given", nil, "of another type"}
	r.ID = "mine"
	if Give(&r, &other); r.ID != "mine" || r.Name != "kept" || r.Text != "given" || r.Words != nil || r.Loud != nil {
		t.Errorf("%+v", r)
	}
}
