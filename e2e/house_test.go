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

	"github.com/go-fonts/latin-modern/lmmono10regular"
	"github.com/go-fonts/latin-modern/lmroman10italic"
	"github.com/go-fonts/latin-modern/lmroman10regular"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/e2e/browser"
)

// A font file of the organisation is chosen: what may not be embedded is refused with
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
				Fonts: typeset.HouseOf(m).Own})) / geometry.Px
			if math.Abs(core-measured) > 0.5 {
				t.Errorf("%q, %s: the core measures %.2f px, Chromium %.2f", line, slant, core, measured)
			}
		}
	}

	// A typeface for single texts is chosen for one of them, and its symbol is drawn in it wherever it is shown.
	browser.Eval[any](d.Page,
		"plainTracerApp.command('house-open'), document.getElementById('font-single').checked = true")
	d.Choose("#font-file", file("mono.otf", lmmono10regular.TTF))
	d.Until("document.querySelectorAll('#faces li').length === 3")
	d.ClickOn("#house-dialog [data-close]")
	mono := s.file(path).Further()
	if len(mono) != 1 || len(s.file(path).Faces) != 2 {
		t.Fatalf("there are %d further typefaces", len(mono))
	}
	step := m.Sheets[0].Symbols[0].ID
	browser.Eval[any](d.Page, "plainTracerApp.command('find', '"+step+"')")
	d.Until("plainTracerApp.bars.state.selected?.[0] === '" + step + "'")
	d.ClickOn(".drop:has(#text-faces) .tool")
	d.ClickOn("#text-faces [data-value='" + mono[0].Family + "']")
	d.Until("document.querySelector('#text-faces [aria-pressed=true]').textContent === '" + mono[0].Family + "'")
	d.saved()
	d.Until("[...document.fonts].some(f => f.family.includes('House Face 2') && f.status === 'loaded')")
	m = s.file(path)
	if got := m.Sheets[0].Symbol(step).Face; got != mono[0].Family {
		t.Errorf("the text is set in %q", got)
	}
	for line, core := range drawnLines(m, step) {
		measured := d.lineWidth(step, line)
		if math.Abs(core-measured) > 0.5 {
			t.Errorf("%q in a typeface of its own: the core measures %.2f px, Chromium %.2f", line, core, measured)
		}
	}

	// Elsewhere.
	_, svg := get(t, s.URL+path+"/export/svg")
	if !strings.Contains(string(svg), `@font-face{font-family:"`+scene.Family(typeset.OwnFace)+`"`) {
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

	// One step each takes them off again, and the drawing follows.
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Until("[...document.fonts].every(f => !f.family.includes('House Face'))")
	reader.Until("[...document.fonts].every(f => !f.family.includes('House Face'))")
	if m := s.file(path); len(m.Fonts) > 0 {
		t.Error("undone, the fonts are still there")
	}
	d.sound()
}

// drawnLines returns the lines of the text of a symbol as the core draws them, with their widths in px.
func drawnLines(m *model.Map, id string) map[string]float64 {
	out := map[string]float64{}
	drawing := scene.Draw(m, m.SheetOf(id))
	for i := range drawing.Nodes {
		n := &drawing.Nodes[i]
		for k := range n.Texts {
			if n.ID == id && n.Texts[k].Own {
				out[n.Texts[k].Text] = float64(n.Texts[k].Width()) / geometry.Px
			}
		}
	}
	return out
}

// lineWidth returns how wide the browser draws a line of the text of a symbol, in px; 0 where there is no such line.
func (d *desk) lineWidth(id, line string) float64 {
	d.s.Helper()
	return browser.Eval[float64](d.Page, fmt.Sprintf(`[...document.querySelectorAll('#n-%s text')].find(
		t => t.textContent === %q)?.getComputedTextLength() ?? 0`, id, line))
}
