package symbols_test

import (
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Width to height after ANSI X3.5-1970 / ISO 1028 (values from memory): process,
// decision, preparation and input/output 1 : 2/3, terminator 1 : 3/8, connector 1 : 1.
func TestStandardProportions(t *testing.T) {
	for kind, want := range map[model.Kind][2]int{
		model.Process: {3, 2}, model.Decision: {3, 2}, model.Data: {3, 2}, model.Predefined: {3, 2},
		model.Preparation: {3, 2}, model.Terminator: {8, 3}, model.Reference: {1, 1},
	} {
		s := symbols.Of(kind)
		if s.W*want[1] != s.H*want[0] {
			t.Errorf("%s is %d by %d, not %d : %d", s.Name, s.W, s.H, want[0], want[1])
		}
	}
}

// Meanings after ISO 5807:1985 (from memory): the word by which the standard
// tells the symbol from the others has to occur.
func TestCatalogueIsCompleteAndSaysWhatSymbolsMean(t *testing.T) {
	if len(symbols.All()) != len(model.Kinds) {
		t.Fatalf("the catalogue has %d entries for %d kinds", len(symbols.All()), len(model.Kinds))
	}
	for i, s := range symbols.All() {
		if s.Kind != model.Kinds[i] {
			t.Errorf("entry %d is %s, not %s", i, s.Kind, model.Kinds[i])
		}
		if s.Name == "" || s.Meaning == "" || s.When == "" || len(s.Others) == 0 {
			t.Errorf("%s lacks a name, meaning or use", s.Kind)
		}
	}
	for query, kind := range map[string]model.Kind{
		"question": model.Decision, "archive": model.StoredData, "form": model.Document, "elsewhere": model.Predefined,
		"begins or ends": model.Terminator, "comes in or goes out": model.Data, "another sheet": model.SheetReference,
	} {
		if !strings.Contains(symbols.Of(kind).Words(), query) {
			t.Errorf("%q does not find %s", query, kind)
		}
	}
}

// The symbols of ISO 5807:1985 by its chapters (from memory), with the word that
// tells each from its neighbours. Lines are connectors, not symbols: see
// model.Line.
var iso5807 = []struct {
	kind model.Kind
	word string
}{
	{model.Data, "information"}, {model.StoredData, "kept"}, {model.InternalStorage, "memory"},
	{model.SequentialStorage, "order"}, {model.DirectStorage, "disk"}, {model.Document, "read"},
	{model.ManualInput, "by hand"}, {model.Card, "card"}, {model.PunchedTape, "tape"}, {model.Display, "screen"},
	{model.Process, "work"}, {model.Predefined, "elsewhere"}, {model.ManualOperation, "by hand"},
	{model.Preparation, "set up"}, {model.Decision, "question"}, {model.ParallelMode, "same time"},
	{model.LoopStart, "repeated"}, {model.LoopEnd, "repeated"},
	{model.Reference, "goes on"}, {model.Terminator, "begins or ends"}, {model.Annotation, "explanation"},
	{model.Ellipsis, "left out"},
}

func TestEverySymbolOfTheStandardIsThere(t *testing.T) {
	for _, want := range iso5807 {
		s := symbols.Of(want.kind)
		if s.Kind != want.kind || s.Source != symbols.ISO5807 || !strings.Contains(s.Words(), want.word) {
			t.Errorf("%s is not there as a symbol of ISO 5807 that means %q", want.kind, want.word)
		}
	}
	listed := 0
	for _, s := range symbols.All() {
		if s.Source == symbols.ISO5807 {
			listed++
		}
	}
	if listed != len(iso5807) {
		t.Errorf("the catalogue ascribes %d symbols to ISO 5807, which has %d", listed, len(iso5807))
	}
	// The five of work measurement (ASME process charts, from memory).
	for kind, word := range map[model.Kind]string{model.Operation: "made", model.Inspection: "checked",
		model.Transport: "place", model.Waiting: "waits", model.Storage: "kept"} {
		if s := symbols.Of(kind); s.Source != symbols.ASME || !strings.Contains(s.Words(), word) {
			t.Errorf("%s is not among the symbols of work measurement", kind)
		}
	}
}

// Every glue point lies on the outline and every outline inside its box, at
// any size.
func TestOutlinesAndGluePoints(t *testing.T) {
	for _, s := range symbols.All() {
		if s.MinW > s.W || s.MinH > s.H || s.MinW <= 0 || s.MinH <= 0 {
			t.Errorf("%s is %d by %d and at least %d by %d", s.Name, s.W, s.H, s.MinW, s.MinH)
		}
		for _, size := range [][2]int{{s.W, s.H}, {3 * s.W, s.H}, {s.W, 4 * s.H}, {s.MinW, s.MinH}} {
			w, h := size[0], size[1]
			box := geometry.Box{W: w, H: h}
			var lines []geometry.Polyline
			if s.Back != nil {
				lines = append(lines, s.Back(w, h).Flatten()...)
			}
			for _, part := range s.Outline(w, h).Flatten() {
				lines = append(lines, part)
				for _, p := range part {
					if !box.Grown(2).Contains(p) {
						t.Fatalf("%s at %v: outline point %v lies outside", s.Name, size, p)
					}
				}
			}
			if s.Kind == model.Person {
				continue // glued to its box: its name stands under the figure
			}
			for side := range geometry.Side(4) {
				p := s.GlueAt(w, h, side)
				near := 1 << 30
				for _, l := range lines {
					for k := 1; k < len(l); k++ {
						near = min(near, distance(p, l[k-1], l[k]))
					}
				}
				if near > geometry.Px { // a pixel, for the pieces curves are cut into
					t.Errorf("%s at %v: glue point %v of the %s lies %d off the outline", s.Name, size, p, side, near)
				}
			}
		}
	}
}

// distance from a point to a stretch.
func distance(p, a, b geometry.Point) int {
	v, w := b.Sub(a), p.Sub(a)
	n := v.X*v.X + v.Y*v.Y
	if n == 0 {
		return geometry.Sqrt(w.X*w.X + w.Y*w.Y)
	}
	t := float64(v.X*w.X+v.Y*w.Y) / float64(n)
	t = max(0, min(1, t))
	dx, dy := float64(w.X)-t*float64(v.X), float64(w.Y)-t*float64(v.Y)
	return geometry.Sqrt(int(dx*dx + dy*dy))
}
