package looks_test

import (
	"testing"

	"plaintracer/core/looks"
)

// Colours are read as people write them.
func TestColoursAreRead(t *testing.T) {
	for text, want := range map[string]string{"#2a7a5c": "#2a7a5c", "2A7A5C": "#2a7a5c", "#2a7": "#22aa77",
		" 2A7 ": "#22aa77",
		"lake":  "lake", "": ""} {
		if got, ok := looks.ParseColour(text); !ok || got != want {
			t.Errorf("%q is read as %q, %v", text, got, ok)
		}
	}
	for _, text := range []string{"#2a7a5", "#", "##2a7", "red", "#2a7a5g", "#2a7a5c00", "٣٣٣"} {
		if got, ok := looks.ParseColour(text); ok {
			t.Errorf("%q is read as %q", text, got)
		}
	}
}
