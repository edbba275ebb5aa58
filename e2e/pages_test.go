package e2e

import (
	"fmt"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// A whole sheet is copied from its own menu and pasted in the window of another map.
func TestASheetGoesIntoAnotherMap(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("[data-command=sheet-take]")
	d.Until("document.querySelector('#words [role=status]').textContent.startsWith('The sheet is on the clipboard')")
	copied := browser.Eval[map[string]string](d.Page, "JSON.parse(localStorage.getItem('plain tracer clip'))")
	from := s.file(d.path).Sheets[0]
	other := s.create(b, "As it will be", "flowchart", "A4")
	// By the plain text alone, as other programs hand it on, it is still the sheet.
	browser.Eval[any](other.Page,
		fmt.Sprintf(`(() => { const t = new DataTransfer(); t.setData('text/plain', %q); document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t, cancelable: true })) })()`, copied["text"]))
	other.Until("document.querySelectorAll('#tabs [role=tab]').length === 2 && " + saved)
	got := s.file(other.path).Sheets[1]
	if got.Name != from.Name || len(got.Symbols) != len(from.Symbols) || len(got.Connectors) != len(from.Connectors) ||
		len(got.Pools) != len(from.Pools) || got.Paper != from.Paper {
		t.Errorf("pasted is %q with %d symbols, %d connectors, %d pools", got.Name, len(got.Symbols),
			len(got.Connectors), len(got.Pools))
	}
	d.sound()
	other.sound()
}

// What lies off the page is a finding with three ways to mend it, each by a click; the sheet's choice
// to grow its paper stands in its dialog.
func TestOffThePageIsMendedFromTheFindings(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	d := s.create(b, "Edges", "flowchart", "A4")
	d.Key(browser.Enter)
	d.writeHere("Start")
	d.then("Report", "Repair")
	x, y, _, _ := d.where("Repair")
	d.Drag(x, y, x+1, y+1)
	d.ClickOn("#fit")
	x, y, _, _ = d.where("Repair")
	paper := browser.Eval[[]float64](d.Page,
		"(r => [r.right, r.bottom])(document.getElementById('page').getBoundingClientRect())")
	d.Key("a", ctrl)
	d.Drag(x, y, paper[0]+40, y)
	d.Until(saved)
	d.ClickOn("[role=tab][aria-controls=findings]")
	d.Until("document.querySelectorAll('.findings .mend').length >= 3")
	d.ClickOn(".findings .mend[data-command=onto-page]")
	d.Until(saved + " && !document.querySelector('.findings .mend')")
	if sheet := d.sheet(); !sheet.Page().Holds(sheet.Drawn()) || sheet.Paper != "A4" {
		t.Errorf("the drawing stands at %v on %s", sheet.Drawn(), sheet.Paper)
	}
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("select[data-set=edge]")
	d.Key("grow" + browser.Enter)
	d.ClickOn("#sheet-menu .primary")
	x, y, _, _ = d.where("Repair")
	d.Drag(x, y, paper[0]+40, y)
	d.Until(saved)
	if sheet := d.sheet(); !sheet.Page().Holds(sheet.Drawn()) || sheet.Edge != model.EdgeGrow {
		t.Errorf("with %q at the edge the drawing stands at %v on %s", sheet.Edge, sheet.Drawn(), sheet.Paper)
	}
	d.sound()
}

// The tip of a call-out is pulled onto a step by the mouse, and goes along when the step moves.
func TestATipIsPulledByTheMouse(t *testing.T) {
	d := three(t)
	var id string
	d.Key("k", ctrl)
	d.Until("document.activeElement.id === 'search-text'")
	d.Key("call-out")
	d.Until("document.querySelector('#search-list [aria-selected=true] .title')?.textContent.toLowerCase().includes('call-out')")
	d.Key(browser.Enter)
	d.Click(900, 200)
	d.Key(browser.F2)
	d.writeHere("Why")
	for _, sym := range d.sheet().Symbols {
		if sym.Kind == model.CallOut {
			id = sym.ID
		}
	}
	if id == "" {
		t.Fatal("no call-out was set down")
	}
	knob := browser.Eval[[]float64](d.Page,
		"(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector('#overlay .knob').getBoundingClientRect())")
	x, y, _, _ := d.where("One")
	d.Drag(knob[0], knob[1], x, y)
	d.Until(saved)
	tip := d.symbol(id).Tip
	if one := d.ids()["One"]; tip.On != one || tip.At.Manhattan(geometry.Point{}) > 400 {
		t.Fatalf("the tip is at %+v", tip)
	}
	outline := fmt.Sprintf(symbolJS, "Why") + ".querySelector('path').getAttribute('d')"
	before := browser.Eval[string](d.Page, outline)
	d.Key(browser.Escape)
	d.Drag(x, y, x, y+120)
	d.Until(saved + " && " + outline + " !== " + fmt.Sprintf("%q", before))
	if d.symbol(id).Tip != tip {
		t.Errorf("moving the step has made the tip %+v", d.symbol(id).Tip)
	}
	d.sound()
}

// The page that opens a map brings its picture with it, and the core takes it over: what it would draw is the same,
// where it was.
func TestTheFirstPictureStaysWhenTheCoreTakesOver(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	for _, title := range []string{"A street light is out", "Lend a cargo bike"} {
		d := s.desk(b, s.demo(b, title))
		if first, now := browser.Eval[string](d.Page, "document.getElementById('desk').dataset.first"),
			browser.Eval[string](d.Page, "document.getElementById('view').getAttribute('transform')"); first != now ||
			first == "" {
			t.Errorf("%s: it stood at %q and stands at %q", title, first, now)
		}
		if !browser.Eval[bool](d.Page,
			"plainTracerApp.drawing.nodes.size > 5 && [...plainTracerApp.drawing.nodes].every(([id, n]) => n.isConnected && n.id === 'n-' + id)") {
			t.Errorf("%s: the core does not have all nodes of the page", title)
		}
		browser.Eval[any](d.Page,
			`fetch(plainTracerApp.base + '/state', { headers: { Accept: 'application/json' } }).then(r => r.json()).then(s => { const a = plainTracerApp, taken = document.getElementById('symbols').firstChild
			a.core.fresh(JSON.stringify(s.map), s.revision, 0); a.flush(); window.anew = !taken.isConnected })`)
		d.Until("window.anew") // now it has drawn all of it itself
		for _, layer := range []string{"ground", "pools", "connectors", "symbols"} {
			d.Until(fmt.Sprintf(`(window.came ??= fetch(location.href).then(r => r.text()).then(t => { window.page = new DOMParser().parseFromString(t, 'text/html') })) && window.page && window.page.getElementById(%q)`, layer))
			if same := browser.Eval[string](d.Page,
				fmt.Sprintf(`(() => { const plain = t => t.replace(/\s+/g, ' ').trim(), a = plain(page.getElementById(%[1]q).innerHTML), b = plain(document.getElementById(%[1]q).innerHTML); if (a === b) return ''; let i = 0; while (a[i] === b[i]) i++; return a.slice(i - 80, i + 80) + ' ### ' + b.slice(i - 80, i + 80) })()`, layer)); same != "" {
				t.Errorf("%s, %s: %s", title, layer, same)
			}
		}
		d.sound()
	}
}
