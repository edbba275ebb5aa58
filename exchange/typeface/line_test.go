package typeface

import (
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"plaintracer/bench/scripts"
	"plaintracer/core/geometry"
	"plaintracer/core/typeset"
)

func TestMain(m *testing.M) {
	dir, err := scripts.Folder()
	if err == nil {
		_, err = From(dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// What the shipped typeface has is set as the core measures it, so that exports and the screen agree.
func TestLinesOfOurOwnAreAsLongAsTheCoreSays(t *testing.T) {
	for _, text := range []string{"Check the resident’s card", "Überprüfen – Öl", "Проверить", "A", ""} {
		for _, cut := range Cuts {
			st := typeset.Style{Size: 1300, Bold: cut.Bold, Italic: cut.Italic}
			line, err := (&Set{}).Line(text, st)
			if err != nil {
				t.Fatal(err)
			}
			want := float64(typeset.Measure(text, st)) / 1300
			if math.Abs(line.Width-want) > 0.01*float64(len(text)) || line.Foreign || len(line.Missing) > 0 {
				t.Errorf("%q, %v: %.3f type sizes, the core says %.3f", text, cut, line.Width, want)
			}
		}
	}
}

// Scripts are joined and ordered: Arabic letters take other forms beside each other, and a line reads from its right
// end; the characters that glyphs stand for, put together, are those of the text.
func TestOtherScriptsAreShaped(t *testing.T) {
	st := typeset.Style{Size: 1300}
	set := func(text string) *Line {
		t.Helper()
		line, err := (&Set{}).Line(text, st)
		if err != nil {
			t.Fatal(err)
		}
		return line
	}
	if line := set("مرحبا"); !line.Foreign || len(line.Missing) > 0 {
		t.Fatal("the font in the folder is not found")
	}
	joined, alone := set("مم"), set("م م")
	if joined.Glyphs[0].ID == alone.Glyphs[0].ID && joined.Glyphs[1].ID == alone.Glyphs[2].ID {
		t.Error("Arabic letters are not joined")
	}
	for _, text := range []string{"مرحبا بالعالم", "שלום עולם", "नमस्ते", "สวัสดี", "Check שלום 12", "ab مرحبا cd"} {
		line := set(text)
		var said strings.Builder
		x := -1.0
		for _, g := range line.Glyphs {
			said.WriteString(g.Text)
			if g.Advance > 0 && g.X < x-0.01 {
				t.Errorf("%q: its glyphs do not stand from left to right", text)
			}
			if g.Advance > 0 {
				x = g.X
			}
		}
		if sorted(said.String()) != sorted(text) {
			t.Errorf("%q: its glyphs stand for %q", text, said.String())
		}
	}
	// Hebrew is written from right to left: the first letter is the last one seen. Latin within keeps its direction.
	if line := set("אב"); line.Glyphs[0].Text != "ב" {
		t.Errorf("the first glyph seen of אב is %q", line.Glyphs[0].Text)
	}
	if line := set("אבab"); line.Glyphs[0].Text != "a" && line.Glyphs[2].Text != "a" {
		t.Errorf("Latin beside Hebrew lost its order: %v", line.Glyphs)
	}
}

// What the fonts in the folders have is set, and nothing else: not by fonts that the machine has.
func TestFontsComeFromTheFolders(t *testing.T) {
	line, err := (&Set{}).Line("א路", typeset.Style{Size: 1300})
	if err != nil {
		t.Fatal(err)
	}
	if string(line.Missing) != "路" {
		t.Errorf("missing is %q", string(line.Missing))
	}
	if _, err := From("/nothing/there"); err == nil {
		t.Error("a folder that is not there is taken")
	}
}

// What no font has is named, and shown as a sign for it. Without fonts everything else works.
func TestWithoutFonts(t *testing.T) {
	back, err := From(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer back()
	line, err := (&Set{}).Line("Ask 漢字 שלום", typeset.Style{Size: 13 * geometry.Px})
	if err != nil {
		t.Fatal(err)
	}
	if string(line.Missing) != "漢字םולש" && string(line.Missing) != "漢字שלום" {
		t.Errorf("missing is %q", string(line.Missing))
	}
	if line.Foreign || len(line.Glyphs) != len([]rune("Ask 漢字 שלום")) {
		t.Errorf("%d glyphs", len(line.Glyphs))
	}
}

func sorted(text string) string {
	counts := map[rune]int{}
	for _, r := range text {
		counts[r]++
	}
	var out strings.Builder
	for r := rune(0); r < 0x30000; r++ {
		for range counts[r] {
			out.WriteRune(r)
		}
	}
	return out.String()
}
