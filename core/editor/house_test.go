package editor_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/go-fonts/latin-modern/lmroman10bold"
	"github.com/go-fonts/latin-modern/lmroman10regular"
	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/fonts"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

func houseFont(t *testing.T, file []byte) (fonts.Font, []byte) {
	t.Helper()
	f, err := fonts.Read(file)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(f)
	if err != nil {
		t.Fatal(err)
	}
	return f, raw
}

// A map is written in a font of the organisation: its texts are measured with it, what
// it makes too small grows, another cut joins it, another typeface takes its
// place, and every step can be undone and done again.
func TestHouseTypeface(t *testing.T) {
	m := flowOf()
	m.Sheets[0].Symbols[0].Text = "Wwwwwwwwwwwwww mmmmmmmmmmmmmm"
	d := open(t, m)
	before := string(document(t, d.Map()))
	regular, raw := houseFont(t, lmroman10regular.TTF)
	bold, rawBold := houseFont(t, lmroman10bold.TTF)
	d.Styling.Font(raw, false)
	d.flush()
	d.Styling.Font(rawBold, false)
	d.flush()
	if want := []string{regular.ID, bold.ID}; !slices.Equal(d.Map().Faces, want) || len(d.Map().Fonts) != 2 {
		t.Fatalf("the map is written in %v of %d fonts (said %v)", d.Map().Faces, len(d.Map().Fonts), d.said)
	}
	d.same()
	if err := d.Map().Validate(); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`"faces":[{"id":"` + regular.ID, `"cut":"bold"`, `"undo":"set the typeface `} {
		if !strings.Contains(string(d.State()), want) {
			t.Errorf("the state lacks %s", want)
		}
	}
	for _, sym := range d.Sheet().Symbols {
		if typeset.HouseOf(d.Map()).Set(symbols.Of(sym.Kind), sym.Accented(), sym.Type, sym.W, sym.H).Cut {
			t.Errorf("%q is cut", sym.Text)
		}
	}

	// The widths are those another reader of fonts gives.
	other, err := sfnt.Parse(lmroman10regular.TTF)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range scene.Draw(d.Map(), d.Sheet()).Nodes {
		for _, text := range n.Texts {
			if text.Style.Bold {
				continue
			}
			var buf sfnt.Buffer
			var want fixed.Int26_6
			for _, r := range text.Text {
				i, _ := other.GlyphIndex(&buf, r)
				a, err := other.GlyphAdvance(&buf, i, fixed.I(1000), font.HintingNone)
				if err != nil {
					t.Fatal(err)
				}
				want += a
			}
			large := text.Style
			large.Size = 1000 * px
			if got := typeset.Measure(text.Text, large); got != want.Round()*px {
				t.Errorf("%q is %d wide, not %d", text.Text, got, want.Round()*px)
			}
		}
	}

	// What the font lacks has the width of the shipped one.
	style := typeset.HouseOf(d.Map()).StyleOf(m.Sheets[0].Symbols[0].Type)
	plain := style
	plain.Fonts = typeset.Cuts{}
	if got, want := typeset.Measure("Лампа", style), typeset.Measure("Лампа", plain); got != want ||
		!typeset.Has('Л', style) {
		t.Errorf("Cyrillic is %d wide, not %d", got, want)
	}

	d.Command("font-drop", "")
	d.flush()
	d.Styling.Font(rawBold, false)
	d.flush()
	if len(d.Map().Faces) != 1 || len(d.Map().Fonts) != 1 {
		t.Errorf("%d fonts are kept for %d faces", len(d.Map().Fonts), len(d.Map().Faces))
	}
	d.same()
	after := string(document(t, d.Map()))
	for range 4 {
		d.Undo()
		d.flush()
	}
	if got := string(document(t, d.Map())); got != before {
		t.Error("undone, the map is not as it was")
	}
	for range 4 {
		d.Redo()
		d.flush()
	}
	if got := string(document(t, d.Map())); got != after {
		t.Error("done again, the map is not as it was")
	}
	d.same()

	// Nothing but a sound font is taken.
	d.log = nil
	d.Styling.Font([]byte(strings.Replace(string(raw), regular.Family, "Another", 1)), false)
	d.flush()
	d.Styling.Font([]byte("{"), false)
	d.flush()
	if len(d.log) > 0 {
		t.Errorf("the edits %v were made", d.log)
	}
	d.press("Home")
	d.keys("x")
	if !d.Writing.Write(d.write, "Ask") {
		t.Error(d.said)
	}
}
