package e2e

import (
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/go-fonts/latin-modern/lmroman10italic"
	"github.com/go-fonts/latin-modern/lmroman10regular"

	"plaintracer/core/geometry"
	"plaintracer/core/typeset"
	"plaintracer/e2e/browser"
	"plaintracer/exchange/typeface"
)

// A font file of the house is chosen: what may not be embedded is refused with
// the reason; what may is measured by the core as Chromium measures it, shown to
// a reader, and carried by pictures.
func TestHouseFont(t *testing.T) {
	s, path := stock(t, lamp())
	b := browser.Start(t)
	d := s.desk(b, path)
	dir := t.TempDir()
	file := func(name string, data []byte) string {
		name = filepath.Join(dir, name)
		if err := os.WriteFile(name, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return name
	}
	d.ClickOn(".drop:has([data-command=house-open]) .tool")
	browser.Eval[any](d.Page, "plainTracerApp.command('house-open')")

	restricted := slices.Clone(lmroman10regular.TTF)
	for i := range int(binary.BigEndian.Uint16(restricted[4:])) {
		if e := restricted[12+16*i:]; string(e[:4]) == "OS/2" {
			binary.BigEndian.PutUint16(restricted[binary.BigEndian.Uint32(e[8:])+8:], 2) // fsType: restricted
		}
	}
	d.Choose("#font-file", file("restricted.otf", restricted))
	d.Until("document.getElementById('font-refusal').textContent.includes('restricted.otf is not used. The licence of the font does not let it be embedded')")
	d.Choose("#font-file", file("letter.ttf", []byte(strings.Repeat("Dear all, ", 9))))
	d.Until("document.getElementById('font-refusal').textContent.includes('no TrueType or OpenType font')")
	if m := s.file(path); len(m.Fonts) > 0 {
		t.Error("a refused font is in the map")
	}

	d.Choose("#font-file", file("regular.otf", lmroman10regular.TTF))
	d.Until("document.querySelectorAll('#faces li').length === 1 && document.getElementById('font-refusal').textContent === ''")
	d.Choose("#font-file", file("italic.otf", lmroman10italic.TTF))
	d.Until("document.querySelectorAll('#faces li').length === 2")
	d.ClickOn("#house-dialog [data-close]")
	d.saved()
	d.Until("[...document.fonts].filter(f => f.family.includes('House Face') && f.status === 'loaded').length === 4")
	m := s.file(path)
	if len(m.Fonts) != 2 || len(m.Faces) != 2 {
		t.Fatalf("the map has %d fonts, %d faces", len(m.Fonts), len(m.Faces))
	}
	text := []string{"Look up the pole number in the register", "Fault in the lamp?", "Лампа, 17 – 23 € “often”"}
	for _, italic := range []bool{false, true} {
		slant := map[bool]string{true: "italic", false: "normal"}[italic]
		face := fmt.Sprintf(`'%s 400 13px "Tracer Sans"', 'Л'`, slant) // for what the font lacks
		browser.Eval[any](d.Page, "(document.fonts.load("+face+"), 0)")
		d.Until("document.fonts.check(" + face + ")")
		for _, line := range text {
			measured := browser.Eval[float64](d.Page,
				fmt.Sprintf(`(() => { const e = document.createElementNS('http://www.w3.org/2000/svg', 'text'); e.textContent = %q
				e.setAttribute('font-size', 13); e.setAttribute('font-style', %q); document.getElementById('view').append(e); const w = e.getComputedTextLength(); e.remove(); return w })()`, line, slant))
			core := float64(typeset.Measure(line, typeset.Style{Size: 13 * geometry.Px, Italic: italic,
				House: typeset.HouseOf(m)})) / geometry.Px
			if math.Abs(core-measured) > 0.5 {
				t.Errorf("%q, %s: the core measures %.2f px, Chromium %.2f", line, slant, core, measured)
			}
		}
	}

	// Elsewhere.
	_, svg := get(t, s.URL+path+"/export/svg")
	if !strings.Contains(string(svg), `@font-face{font-family:"`+typeface.House+`"`) {
		t.Error("the picture does not carry the font")
	}
	d.ClickOn("#share")
	d.ClickOn("#links .new-link button")
	d.Until("document.querySelector('#links [data-made]')")
	reader := b.Open(browser.Eval[string](d.Page, "document.querySelector('#links [data-made]').value"))
	reader.Until("[...document.fonts].filter(f => f.family.includes('House Face') && f.status === 'loaded').length === 4")
	if faults := reader.Faults(); len(faults) > 0 {
		t.Errorf("the reader's page reports %v", faults)
	}
	d.Key(browser.Escape)

	// One step takes it off again, and the drawing follows.
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Until("[...document.fonts].every(f => !f.family.includes('House Face'))")
	reader.Until("[...document.fonts].every(f => !f.family.includes('House Face'))")
	if m := s.file(path); len(m.Fonts) > 0 {
		t.Error("undone, the fonts are still there")
	}
	d.sound()
}
