package symbols_test

import (
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// Width to height after ANSI X3.5-1970 / ISO 1028 (values from memory): process,
// decision and input/output 1 : 2/3, terminator 1 : 3/8, connector 1 : 1.
func TestStandardProportions(t *testing.T) {
	for kind, want := range map[diagram.Kind][2]int{
		diagram.Process: {3, 2}, diagram.Decision: {3, 2}, diagram.Data: {3, 2}, diagram.Predefined: {3, 2},
		diagram.Terminator: {8, 3}, diagram.Reference: {1, 1},
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
	if len(symbols.All()) != len(diagram.Kinds) {
		t.Fatalf("the catalogue has %d entries for %d kinds", len(symbols.All()), len(diagram.Kinds))
	}
	for i, s := range symbols.All() {
		if s.Kind != diagram.Kinds[i] {
			t.Errorf("entry %d is %s, not %s", i, s.Kind, diagram.Kinds[i])
		}
		if s.Name == "" || s.Meaning == "" || s.When == "" || len(s.Others) == 0 {
			t.Errorf("%s lacks a name, meaning or use", s.Kind)
		}
	}
	for query, kind := range map[string]diagram.Kind{
		"question": diagram.Decision, "archive": diagram.StoredData, "form": diagram.Document, "elsewhere": diagram.Predefined,
		"begins or ends": diagram.Terminator, "comes in or goes out": diagram.Data, "another sheet": diagram.SheetReference,
	} {
		if !symbols.Of(kind).Matches(query) {
			t.Errorf("%q does not find %s", query, kind)
		}
	}
}

// Every glue point lies on the outline and every outline inside its box, at
// any size.
func TestOutlinesAndGluePoints(t *testing.T) {
	for _, s := range symbols.All() {
		for _, size := range [][2]int{{s.W, s.H}, {3 * s.W, s.H}, {s.W, 4 * s.H}, {2000, 2000}} {
			w, h := size[0], size[1]
			box := geometry.Box{W: w, H: h}
			var lines []geometry.Polyline
			for _, part := range s.Outline(w, h).Flatten() {
				lines = append(lines, part)
				for _, p := range part {
					if !box.Grown(2).Contains(p) {
						t.Fatalf("%s at %v: outline point %v lies outside", s.Name, size, p)
					}
				}
			}
			for side := range geometry.Side(4) {
				p := s.Glue(w, h, side)
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
