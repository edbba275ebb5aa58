package fonts_test

import (
	"encoding/json"
	"testing"

	"github.com/go-fonts/latin-modern/lmroman10bold"
	"github.com/go-fonts/latin-modern/lmroman10italic"
	"github.com/go-fonts/latin-modern/lmroman10regular"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomonoitalic"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/fonts"
)

// files are fonts of two houses: TrueType and OpenType with cubic outlines, with what each is.
var files = map[string]struct {
	data         []byte
	bold, italic bool
}{
	"Go": {goregular.TTF, false, false}, "Go bold": {gobold.TTF, true, false},
	"Go Mono italic": {gomonoitalic.TTF, false, true},
	"LM Roman":       {lmroman10regular.TTF, false, false}, "LM Roman bold": {lmroman10bold.TTF, true, false},
	"LM Roman italic": {lmroman10italic.TTF, false, true},
}

// What is read of a font is what another reader of fonts says (golang.org/x/image/font/sfnt): its family, its cut,
// which characters it has, and how wide each is.
func TestFontsAreReadAsOthersReadThem(t *testing.T) {
	for name, file := range files {
		f, err := fonts.Read(file.data)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if f.Bold != file.bold || f.Italic != file.italic {
			t.Errorf("%s is taken for bold %v, italic %v", name, f.Bold, f.Italic)
		}
		theirs, err := sfnt.Parse(file.data)
		if err != nil {
			t.Fatal(err)
		}
		var buf sfnt.Buffer
		if family, err := theirs.Name(&buf, sfnt.NameIDFamily); err != nil || family != f.Family {
			t.Errorf("%s is of the family %q, not %q", name, f.Family, family)
		}
		m, em := f.Metrics(), int(theirs.UnitsPerEm())
		if m.UnitsPerEm != em {
			t.Fatalf("%s: %d units to the em, not %d", name, m.UnitsPerEm, em)
		}
		known := 0
		for r := rune(' '); r < 0x2200; r++ {
			glyph, err := theirs.GlyphIndex(&buf, r)
			if err != nil {
				t.Fatal(err)
			}
			width, has := m.Find(r)
			if has != (glyph != 0) {
				t.Errorf("%s: %q is there: %v, not %v", name, r, has, glyph != 0)
				continue
			}
			if !has {
				continue
			}
			known++
			want, err := theirs.GlyphAdvance(&buf, glyph, fixed.I(em), font.HintingNone)
			if err != nil || want.Round() != width {
				t.Errorf("%s: %q is %d wide, not %v (%v)", name, r, width, want.Round(), err)
			}
		}
		if known < 200 {
			t.Errorf("%s: %d characters", name, known)
		}
	}
}

// A font of a map is what its id, its name and its cut say, whatever the file of the map claims.
func TestAFontIsWhatItSays(t *testing.T) {
	f, err := fonts.Read(goregular.TTF)
	if err != nil {
		t.Fatal(err)
	}
	for name, change := range map[string]func(f *fonts.Font){
		"nothing": func(*fonts.Font) {}, "its name": func(f *fonts.Font) { f.Family = "Another" },
		"its cut":      func(f *fonts.Font) { f.Bold = true },
		"its content":  func(f *fonts.Font) { f.Data = gobold.TTF },
		"a part of it": func(f *fonts.Font) { f.Data = f.Data[:2000] },
	} {
		changed := f
		change(&changed)
		raw, err := json.Marshal(changed)
		if err != nil {
			t.Fatal(err)
		}
		var back fonts.Font
		if err := json.Unmarshal(raw, &back); err != nil {
			t.Fatal(err)
		}
		if err := back.Check(); (err == nil) != (name == "nothing") || (back.Metrics() != nil) != (name == "nothing") {
			t.Errorf("%s changed: %v", name, err)
		}
	}
}

func TestPick(t *testing.T) {
	var list []fonts.Font
	for _, file := range files {
		f, err := fonts.Read(file.data)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, f)
	}
	for _, bold := range []bool{false, true} {
		for _, italic := range []bool{false, true} {
			if f := fonts.Pick(list, bold, italic); f.Bold != bold || f.Italic != italic && !bold {
				t.Errorf("for bold %v, italic %v it picks bold %v, italic %v", bold, italic, f.Bold, f.Italic)
			}
		}
	}
	if fonts.Pick(nil, true, false) != nil {
		t.Error("it picks from none")
	}
}

// Whatever a file holds, reading it ends with a font or a reason.
func FuzzRead(f *testing.F) {
	for _, file := range files {
		f.Add(file.data[:1500])
	}
	f.Add(goregular.TTF)
	f.Fuzz(func(t *testing.T, data []byte) {
		font, err := fonts.Read(data)
		if err == nil && (font.Metrics() == nil || font.Metrics().UnitsPerEm <= 0 || font.Family == "" ||
			font.Check() != nil) {
			t.Errorf("a font without measures or a name: %q", font.Family)
		}
	})
}
