package e2e

import (
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// How text is set, through the strip's menu and by keys.
func TestTextAndFill(t *testing.T) {
	d := three(t)
	id := d.ids()
	d.clickStep("One")
	d.Key("b", ctrl)
	d.Key("i", ctrl)
	d.Key("u", ctrl)
	sym := func() *model.Symbol { return d.sheet().Symbol(id["One"]) }
	if s := sym(); !s.Bold || !s.Italic || !s.Underline {
		t.Fatalf("the keys set %+v", s.Type)
	}
	d.ClickOn("[data-needs=text]")
	d.Until("document.querySelector('[data-command=text][data-arg=bold]').getAttribute('aria-pressed') === 'true'")
	set := func(name, value string) {
		browser.Eval[any](d.Page,
			`(([n, v]) => { const f = document.querySelector('[data-name="' + n + '"], [data-set="' + n + '"]'); f.value = v; f.dispatchEvent(new Event('change', { bubbles: true })) })(["`+name+`", "`+value+`"])`)
	}
	set("size", "15") // points: 20 px
	d.ClickOn("[data-command=text][data-arg='align=left']")
	d.ClickOn("[data-command=text][data-arg='stand=top']")
	if s := sym(); s.Size != 20*geometry.Px || s.Align != "left" || s.Stand != "top" {
		t.Fatalf("the menu sets %+v", s.Type)
	}
	if size := browser.Eval[string](d.Page,
		"document.querySelector('#symbols text').getAttribute('font-size')"); size != "20" {
		t.Errorf("the text shows at %s px", size)
	}
	// A number out of bounds is refused in words and changes nothing.
	set("size", "500")
	d.Until("document.getElementById('words').textContent.includes('6.75 to 54 pt')")
	if s := sym(); s.Size != 20*geometry.Px {
		t.Errorf("500 pt were taken as %d", s.Size)
	}
	// On a dark fill the text turns light by itself, until a colour is chosen.
	d.Key(browser.Escape)
	browser.Eval[any](d.Page,
		`(f => { f.value = '#203040'; f.dispatchEvent(new Event('change', { bubbles: true })) })(document.querySelector('[data-set=fill]'))`)
	d.Until("document.querySelector('#symbols text').getAttribute('fill') === '#ffffff'")
	set("colour", "#ffd080")
	d.Until("document.querySelector('#symbols text').getAttribute('fill') === '#ffd080'")
	d.sound()
}

// The sheet's choice of what gives way when a text does not fit.
func TestFittingByTheSheet(t *testing.T) {
	d := three(t)
	id := d.ids()
	long := "Look up the pole number in the asset register and compare the address with the one the resident has given"
	d.rewrite("One", "Look up the pole number in the asset register and compare the address")
	s := d.sheet()
	one, two := s.Symbol(id["One"]), s.Symbol(id["Two"])
	if one.H <= 80*geometry.Px || two.W != one.W || two.H != one.H {
		t.Errorf("together they are %v and %v", one.Box, two.Box)
	}
	d.Key("z", ctrl)
	d.ClickOn("#tabs [aria-selected=true]")
	browser.Eval[any](d.Page,
		`(f => { f.value = 'smaller'; f.dispatchEvent(new Event('change', { bubbles: true })) })(document.querySelector('#sheet-menu [data-set=fitting]'))`)
	d.ClickOn("#sheet-menu .primary")
	d.rewrite("One", long)
	s = d.sheet()
	if b := s.Symbol(id["One"]).Box; b.W != 120*geometry.Px || b.H != 80*geometry.Px {
		t.Errorf("set smaller the symbol is %v", b)
	}
	if size := browser.Eval[float64](d.Page,
		"+[...document.querySelectorAll('#symbols .symbol')].find(g => g.textContent.includes('Look up')).querySelector('text').getAttribute('font-size')"); size >= 13 || size < 9 {
		t.Errorf("the text is set at %g px", size)
	}
	// Far too much text is cut, never shown outside, and a finding.
	d.clickStep("Two")
	d.Key(browser.F2)
	d.Until("document.activeElement.id === 'writing'")
	browser.Eval[any](d.Page, "(document.getElementById('writing').value = 'Look up the pole number. '.repeat(30), 0)")
	d.Key(browser.Enter)
	d.Until("[...document.querySelectorAll('#symbols text')].some(t => t.textContent.endsWith('…'))")
	d.ClickOn("#count")
	d.Until("document.getElementById('findings').textContent.includes('more text than it can show')")
	d.sound()
}

// A picture is pasted, a legend placed; handles resize.
func TestPictureLegendAndHandles(t *testing.T) {
	d := three(t)
	browser.Eval[any](d.Page,
		`(() => { const c = document.createElement('canvas'); c.width = 60; c.height = 30; c.getContext('2d').fillRect(0, 0, 60, 30)
		c.toBlob(b => { const t = new DataTransfer(); t.items.add(new File([b], 'lamp.png', { type: 'image/png' }))
			document.getElementById('drawing').focus(); document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t })) }) })()`)
	d.Until("document.querySelector('#symbols image')")
	s := d.sheet()
	pic := s.Symbols[len(s.Symbols)-1]
	if m := d.s.file(d.path); len(m.Pictures) != 1 || pic.Picture != m.Pictures[0].ID || m.Pictures[0].W != 60 {
		t.Fatalf("the map keeps %d pictures", len(m.Pictures))
	}
	// A corner is pulled, and the outline that shows itself under the pointer; with Shift it keeps its proportions.
	corner := browser.Eval[[]float64](d.Page,
		"(() => { const r = document.querySelector('#symbols image').getBoundingClientRect(); return [r.right + 4, r.bottom + 4] })()")
	d.Drag(corner[0], corner[1], corner[0]+90, corner[1]+45, shift)
	pic = d.sheet().Symbol(pic.ID)
	edge := browser.Eval[[]float64](d.Page,
		"(() => { const r = document.querySelector('#symbols image').getBoundingClientRect(); return [r.right, r.y + r.height / 5] })()")
	d.Move(edge[0], edge[1], 0)
	d.Until("document.querySelectorAll('#overlay .edge').length === 1")
	d.Drag(edge[0], edge[1], edge[0]+60, edge[1], shift)
	after := d.sheet().Symbol(pic.ID)
	if after.W <= pic.W || geometry.Abs(after.W*pic.H-after.H*pic.W) > pic.W*2 {
		t.Errorf("pulled from %v it is %v", pic.Box, after.Box)
	}
	// Another file let go over it takes its place.
	d.Key(browser.Escape)
	browser.Eval[any](d.Page, `(() => { const c = document.createElement('canvas'); c.width = 50; c.height = 25
		window.was = document.querySelector('#symbols image').getAttribute('href')
		const r = document.querySelector('#symbols image').getBoundingClientRect()
		c.toBlob(b => { const t = new DataTransfer(); t.items.add(new File([b], 'pole.png', { type: 'image/png' }))
			document.getElementById('drawing').dispatchEvent(new DragEvent('drop', { clientX: r.x + r.width / 2, clientY: r.y + r.height / 2, dataTransfer: t, bubbles: true, cancelable: true })) }) })()`)
	d.Until("document.querySelector('#symbols image').getAttribute('href') !== window.was")
	if now := d.sheet().Symbol(pic.ID); now.Picture == pic.Picture || now.Box != after.Box {
		t.Errorf("let go over the picture, %v is now %v", after, now)
	}
	if n := browser.Eval[int](d.Page, "document.querySelectorAll('#symbols image').length"); n != 1 {
		t.Errorf("there are %d pictures after one was put in the place of another", n)
	}
	d.ClickOn(".strip .group:last-child .drop:last-child > .tool")
	d.ClickOn("[data-command=legend]")
	d.Until("[...document.querySelectorAll('#symbols text')].some(t => t.textContent === 'Symbols used')")
	rows := func() int {
		return browser.Eval[int](d.Page,
			"[...document.querySelectorAll('#symbols .symbol')].find(g => g.textContent.includes('Symbols used')).querySelectorAll('text').length")
	}
	before := rows()
	d.clickStep("Three")
	d.Key("2", alt)
	d.Until("[...document.querySelectorAll('#symbols text')].some(t => t.textContent.startsWith('A question whose'))")
	if now := rows(); now != before+2 {
		t.Errorf("the legend had %d lines and has %d", before, now)
	}
	// Exported, the picture is inside the files.
	_, svg := get(t, d.s.URL+d.path+"/export/svg")
	if !strings.Contains(string(svg), "data:image/png;base64,") {
		t.Error("the SVG lacks the picture")
	}
	d.sound()
}
