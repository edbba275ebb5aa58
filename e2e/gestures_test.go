package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// sheet returns the first sheet as the server has it, once it is saved.
func (d *desk) sheet() *model.Sheet {
	d.s.Helper()
	d.saved()
	return d.s.file(d.path).Sheets[0]
}

func TestGesturesWithTheMouse(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Gestures", "flowchart", "A4")

	// From the tray by a drag; drawn to size; kept in hand by a double click.
	x, y := d.Middle(".piece[data-take=document]")
	d.Drag(x, y, 500, 200)
	d.ClickOn(".piece[data-take=process]")
	d.Drag(700, 160, 860, 280)
	x, y = d.Middle(".piece[data-take=decision]")
	d.DoubleClick(x, y)
	d.Click(500, 420)
	d.Click(700, 420)
	d.Key(browser.Escape)
	d.Click(880, 560)
	sheet := d.sheet()
	if len(sheet.Symbols) != 4 || sheet.Symbols[1].W <= sheet.Symbols[0].W {
		t.Fatalf("the tray set down %d symbols", len(sheet.Symbols))
	}

	// A rubber band selects, Ctrl-drag copies, Delete takes away, undo brings back.
	d.Drag(400, 350, 800, 500)
	d.Until("document.querySelector('#overlay .sel-one')?.getAttribute('d').split('M').length === 1 + 2")
	d.Drag(500, 420, 500, 540, ctrl)
	if n := len(d.sheet().Symbols); n != 6 {
		t.Fatalf("copied, there are %d symbols", n)
	}
	d.Key(browser.Delete)
	if n := len(d.sheet().Symbols); n != 4 {
		t.Fatalf("deleted, there are %d symbols", n)
	}
	d.Key("z", ctrl)
	if n := len(d.sheet().Symbols); n != 6 {
		t.Fatalf("undone, there are %d symbols", n)
	}
	d.Key("y", ctrl)
	if n := len(d.sheet().Symbols); n != 4 {
		t.Fatalf("redone, there are %d symbols", n)
	}

	// While a step is dragged its connector follows on a true course.
	x, y, _, _ = d.box(0)
	_, _, rx, _ := d.box(0)
	d.Drag(x+rx, y, 700, 220)
	before := browser.Eval[string](d.Page, "document.querySelector('#connectors path').getAttribute('d')")
	x, y, _, _ = d.box(0)
	d.Press(x, y)
	d.Move(x-20, y+60, 1)
	d.Move(x-30, y+90, 1)
	if during := browser.Eval[string](d.Page,
		"document.querySelector('#connectors path').getAttribute('d')"); during == before {
		t.Error("the connector stays behind during the drag")
	}
	d.Release(x-30, y+90)
	if n := len(d.sheet().Connectors); n != 1 {
		t.Fatalf("there are %d connectors", n)
	}

	// Zoom at the pointer, pan with Space, fit.
	zoom := func() float64 { return browser.Eval[float64](d.Page, "plainTracerApp.zoom") }
	was := zoom()
	d.Do(chromedp.MouseEvent(chromedp.MouseWheel, 600, 300, func(m *input.DispatchMouseEventParams) {
		m.DeltaX, m.DeltaY, m.Modifiers = 0.001, -120, int64(ctrl)
	}))
	d.Until(fmt.Sprintf("plainTracerApp.zoom > %f", was*1.2))
	d.ClickOn("#fit")
	d.Until(fmt.Sprintf("Math.abs(plainTracerApp.zoom - %f) < 0.01", was))
	panX := browser.Eval[float64](d.Page, "plainTracerApp.pan.x")
	d.Do(chromedp.MouseEvent(chromedp.MouseWheel, 600, 300, func(m *input.DispatchMouseEventParams) {
		m.DeltaX, m.DeltaY = 70, 1
	}))
	d.Until(fmt.Sprintf("Math.abs(plainTracerApp.pan.x - %f + 70) < 1", panX))

	// A sheet is added, named, turned, put first and taken away again.
	d.ClickOn("[data-command=sheet-add]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 2")
	d.ClickOn("#tabs [aria-selected=true]")
	d.Key("nothing") // goes nowhere
	d.ClickOn("#sheet-name")
	if name := browser.Eval[string](d.Page, "document.getElementById('sheet-name').value"); name != "Sheet 2" {
		t.Errorf("after a click on its tab the sheet is called %q", name)
	}
	d.Key("a", ctrl)
	d.Key("Annex")
	browser.Eval[any](d.Page,
		"(s => { s.value = 'upright'; s.dispatchEvent(new Event('change')) })(document.getElementById('sheet-turn'))")
	d.ClickOn("[data-command=sheet-left]")
	d.ClickOn("#sheet-menu .primary")
	d.Until("document.querySelector('#tabs [role=tab]').textContent === 'Annex'")
	d.saved()
	if m := s.file(d.path); len(m.Sheets) != 2 || m.Sheets[0].Name != "Annex" || m.Sheets[0].Across {
		t.Errorf("the sheets are %+v", m.Sheets[0].SheetHead)
	}
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("[data-command=sheet-remove]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 1 && !document.getElementById('sheet-menu').open && document.activeElement.id === 'drawing'")
	d.Key("z", ctrl)
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 2")

	// A case is traced by clicks, and changes nothing.
	d.ClickOn("#trace")
	d.ClickOn("#case-exits button")
	d.Until("document.getElementById('case-exits').textContent.includes('ends here') && document.querySelector('#overlay .walked')")
	d.ClickOn("#draw")
	d.Until("document.getElementById('case').hidden && !document.getElementById('tray').hidden")

	// A dimmed tool says what to select.
	d.Key(browser.Escape)
	d.ClickOn("[data-command=emphasis]")
	d.Until("document.getElementById('words').textContent.includes('Select a symbol')")
	d.sound()
}

// box returns the middle of the symbol at a place in drawing order.
func (d *desk) box(i int) (x, y, rx, ry float64) {
	v := browser.Eval[[]float64](d.Page,
		fmt.Sprintf("(r => [r.x + r.width / 2, r.y + r.height / 2, r.width / 2, r.height / 2])(document.querySelectorAll('#symbols .symbol')[%d].querySelector('path').getBoundingClientRect())", i))
	return v[0], v[1], v[2], v[3]
}

// What is copied in one window can be pasted in another map, by the platform's
// clipboard events.
func TestCopyIntoAnotherMap(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	from := s.desk(b, s.demo(b, "Lend a cargo bike"))
	from.clickStep("Loan slip")
	from.Key("a", ctrl)
	copied := browser.Eval[[]string](from.Page,
		`(() => { const t = new DataTransfer(); document.getElementById('drawing').focus()
		document.dispatchEvent(new ClipboardEvent('copy', { clipboardData: t, cancelable: true })); return [t.getData('text/html'), t.getData('text/plain')] })()`)
	to := s.desk(b, s.demo(b, "A street light is out"))
	paste := func(html, text string) {
		h, _ := json.Marshal(html)
		p, _ := json.Marshal(text)
		browser.Eval[any](to.Page,
			fmt.Sprintf(`(() => { const t = new DataTransfer(); t.setData('text/html', %s); t.setData('text/plain', %s); document.getElementById('drawing').focus()
			document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t })) })()`, h, p))
	}
	symbols, connectors, source := len(to.sheet().Symbols), len(to.sheet().Connectors), from.sheet()
	paste(copied[0], copied[1])
	to.Until("document.getElementById('symbols').textContent.includes('Loan slip')")
	if s := to.sheet(); len(s.Symbols) != symbols+len(source.Symbols) ||
		len(s.Connectors) != connectors+len(source.Connectors) {
		t.Errorf("pasted, there are %d symbols and %d connectors more", len(s.Symbols)-symbols,
			len(s.Connectors)-connectors)
	}
	to.Key("z", ctrl)
	paste("<b>plain</b>", "Ask\nWait?")
	to.Until("document.getElementById('symbols').textContent.includes('Wait?')")
	if s := to.sheet(); len(s.Symbols) != symbols+2 || s.Symbols[symbols+1].Kind != model.Decision {
		t.Errorf("plain text made %d symbols", len(s.Symbols)-symbols)
	}
	to.sound()
}

// What is copied lies on the clipboard as a picture as well, for a report, and is still what is pasted here.
func TestACopyIsAPictureToo(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	d.AllowClipboard()
	d.clickStep("Loan slip")
	d.Key("a", ctrl)
	browser.Eval[any](d.Page, "document.execCommand('copy')")
	// It comes to lie there a moment after the copy itself.
	browser.Eval[any](d.Page, `(async () => { while (!window.copied) { const [one] = await navigator.clipboard.read()
		if (!one.types.includes('image/png')) continue
		const picture = await createImageBitmap(await one.getType('image/png'))
		window.copied = { kinds: one.types.join(' '), w: picture.width, h: picture.height, html: await (await one.getType('text/html')).text(), text: await (await one.getType('text/plain')).text() } } })(), 1`)
	d.Until("window.copied")
	type copied struct {
		Kinds, HTML, Text string
		W, H              int
	}
	got := browser.Eval[copied](d.Page, "window.copied")
	if !strings.Contains(got.Kinds, "text/plain") || !strings.Contains(got.Kinds, "text/html") || got.W < 600 ||
		got.H < 300 {
		t.Errorf("on the clipboard is %s, of %d by %d", got.Kinds, got.W, got.H)
	}
	if !strings.Contains(got.HTML, "<img") || !strings.Contains(got.HTML, "data:image/png") {
		t.Errorf("for a report there is %.300s", got.HTML)
	}
	before := len(d.s.file(d.path).Sheets[0].Symbols)
	browser.Eval[any](d.Page,
		`(() => { const t = new DataTransfer(); t.setData('text/html', copied.html); t.setData('text/plain', copied.text); document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t })) })()`)
	d.saved()
	if got := len(d.s.file(d.path).Sheets[0].Symbols); got != 2*before {
		t.Errorf("pasted, there are %d symbols, of %d before", got, before)
	}
	d.sound()
}
