package typeface

import (
	"fmt"
	"testing"

	"plaintracer/core/typeset"
)

func TestX(t *testing.T) {
	s := &Set{}
	for _, text := range []string{"Abc", "Überprüfen", "שלום עולם", "مرحبا بالعالم", "नमस्ते", "Check สวัสดี 12", "\U0001F600", "漢字"} {
		l, err := s.Line(text, typeset.Style{Size: 1300})
		if err != nil {
			t.Fatal(err)
		}
		fmt.Println(text, len(l.Glyphs), l.Width, string(l.Missing), l.Foreign)
	}
}
