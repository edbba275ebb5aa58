package typeface_test

import (
	"bytes"
	"slices"
	"testing"
	"time"
	"unicode"

	"github.com/tdewolff/font"

	"plaintracer/core/typeset"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/typeface"
)

func shipped(t *testing.T, cut typeface.Cut) *fontfile.File {
	t.Helper()
	f, err := typeface.Shipped(cut)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// A subset of every face is a font that can be read, holds the characters asked
// for, and has the same bytes whenever it is made.
func TestSubsetsAreSoundAndAlwaysTheSame(t *testing.T) {
	const text = "Lamp nº 7"
	var first [][]byte
	for _, cut := range typeface.Cuts {
		file := shipped(t, cut).Subset(text)
		if len(file) > 8000 {
			t.Errorf("%+v: %d bytes for %d characters", cut, len(file), len(text))
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
		if !bytes.Equal(shipped(t, cut).Subset(text), first[i]) {
			t.Errorf("%+v differs a second later", cut)
		}
	}
}

// Every character the core can measure has an outline, in all four faces, and a
// subset with all of them draws them the same: whatever a person writes can be exported.
func TestEveryCharacterCanBeDrawn(t *testing.T) {
	for _, cut := range typeface.Cuts {
		style := typeset.Style{Size: 1300, Bold: cut.Bold, Italic: cut.Italic}
		var all []rune
		for r := rune(32); r < 0x20000; r++ {
			if !typeset.Has(r, style) || unicode.In(r, unicode.Cf, unicode.Cc, unicode.Zs) {
				continue
			}
			if _, ok, err := shipped(t, cut).Glyph(r); !ok || err != nil {
				t.Errorf("%+v: %q (U+%04X) cannot be drawn: %v", cut, r, r, err)
			}
			all = append(all, r)
		}
		if len(all) < 600 {
			t.Errorf("%+v has only %d characters", cut, len(all))
		}
		whole := shipped(t, cut)
		small, err := fontfile.Open(whole.Subset(string(all)))
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range all {
			want, _, _ := whole.Glyph(r)
			if got, ok, err := small.Glyph(r); !ok || err != nil || !slices.Equal(got, want) {
				t.Errorf("%+v reduced draws %q otherwise", cut, r)
			}
		}
	}
}
