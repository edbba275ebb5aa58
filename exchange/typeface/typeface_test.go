package typeface_test

import (
	"bytes"
	"testing"
	"time"

	"github.com/tdewolff/font"

	"plaintracer/exchange/typeface"
)

// A subset of every face is a font that can be read, holds the characters asked
// for, and has the same bytes whenever it is made.
func TestSubsetsAreSoundAndAlwaysTheSame(t *testing.T) {
	const text = "Lamp nº 7"
	var first [][]byte
	for _, cut := range typeface.Cuts {
		file, err := typeface.Subset(cut, text)
		if err != nil {
			t.Fatal(err)
		}
		first = append(first, file)
		f, err := font.ParseSFNT(bytes.Clone(file), 0)
		if err != nil {
			t.Fatalf("%+v: %v", cut, err)
		}
		for _, r := range text {
			if f.GlyphIndex(r) == 0 {
				t.Errorf("%+v lacks %q", cut, r)
			}
		}
	}
	begun := time.Now().Unix()
	for time.Now().Unix() == begun { // fonts carry the second of their making
		time.Sleep(20 * time.Millisecond)
	}
	for i, cut := range typeface.Cuts {
		if again, err := typeface.Subset(cut, text); err != nil || !bytes.Equal(again, first[i]) {
			t.Errorf("%+v differs a second later (%v)", cut, err)
		}
	}
}
