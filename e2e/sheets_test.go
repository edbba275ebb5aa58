package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// A sheet is duplicated with everything on it, and its tab dragged to another place.
func TestSheetsAreDuplicatedAndDragged(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("[data-command=sheet-copy]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 5 && " + saved)
	m := s.file(d.path)
	one, two := m.Sheets[0], m.Sheets[1]
	if two.Name != "Copy of "+one.Name || len(two.Symbols) != len(one.Symbols) ||
		len(two.Connectors) != len(one.Connectors) || len(two.Pools[0].Lanes) != len(one.Pools[0].Lanes) {
		t.Errorf("the copy %q has %d symbols", two.Name, len(two.Symbols))
	}
	for i, sym := range two.Symbols {
		if o := one.Symbols[i]; sym.Text != o.Text || sym.Box != o.Box || sym.ID == o.ID {
			t.Errorf("%q became %q at %v", o.Text, sym.Text, sym.Box)
		}
	}
	browser.Eval[any](d.Page,
		`(() => { const [a, , c] = document.querySelectorAll('#tabs [role=tab]'), data = new DataTransfer()
		a.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: data })); c.dispatchEvent(new DragEvent('dragover', { bubbles: true, cancelable: true, dataTransfer: data }))
		c.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data })) })()`)
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]')[2].textContent === 'Report and diagnosis'")
	if m := s.file(d.path); m.Sheets[2].ID != "report" {
		t.Errorf("the dragged sheet is not the last")
	}
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 4")
	d.sound()
}

// A new map is asked for its lanes at once; from top to bottom it is drawn on upright paper.
func TestANewMapBeginsWithItsRoles(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	p := b.Open(s.URL + "/begin")
	p.ClickOn("input[name=title]")
	p.Key("Dropped kerbs")
	p.ClickOn("input[name=direction][value=down]")
	p.ClickOn("textarea[name=roles]")
	p.Key("Resident" + browser.Enter + "Service desk" + browser.Enter + "Resident" + browser.Enter + "Field crew")
	p.ClickOn("#create")
	p.Until("location.pathname.startsWith('/maps/')")
	m := s.file(browser.Eval[string](p, "location.pathname"))
	lanes := m.Sheets[0].Pools[0].Lanes
	if len(lanes) != 3 || lanes[0].Name != "Resident" || lanes[1].Name != "Service desk" ||
		lanes[2].Name != "Field crew" {
		t.Errorf("the lanes are %+v", lanes)
	}
	if m.Direction != model.Downwards || m.Sheets[0].Across {
		t.Errorf("direction %s, across %v", m.Direction, m.Sheets[0].Across)
	}
	p.Go(s.URL + "/begin")
	if browser.Eval[bool](p, "document.querySelector('[name=direction]:checked').value !== 'down'") {
		t.Error("how a map was begun is not remembered")
	}
	p.ClickOn("label:has([value=flowchart])")
	p.Until("document.querySelector('.field.lanes').hidden")
}

// A flow goes on on the next sheet by one key, open for typing; the reference leads there and back, in the editor and
// for a reader; joined, it is one flow again.
func TestFlowContinuesOnTheNextSheet(t *testing.T) {
	m := model.New("Dropped kerbs", model.Rightwards, "A4", true)
	m.Sheets[0].Pools = []*model.Pool{{ID: "pool", Title: "Roads", X: 4000, Y: 4000, W: 90000,
		Lanes: []model.Lane{{ID: "l1", Name: "Resident", H: 16000}, {ID: "l2", Name: "Inspector", H: 16000}}}}
	s, path := stock(t, m)
	b := browser.Start(t)
	d := s.desk(b, path)
	d.Key(browser.Enter)
	d.writeHere("Ask for a dropped kerb")
	d.Key("1")
	d.writeHere("Measure the kerb")
	d.clickStep("Measure the kerb")
	d.Key("o", chromedp.ModifierAlt)
	d.writeHere("Decide")
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]').length === 2")
	now := s.file(path)
	next := now.Sheets[1]
	if len(next.Symbols) != 2 || next.Symbols[1].Text != "Decide" || next.Symbols[0].Text != "A" ||
		next.Pools[0].Lanes[1].Name != "Inspector" || next.OwnerOf(next.Symbols[1]) != "Resident" {
		t.Fatalf("on the next sheet stand %+v, %+v", next.Symbols, next.Pools[0])
	}
	arrive := next.Symbols[0].ID
	d.ClickOn("#n-" + arrive)
	d.Key("p", chromedp.ModifierAlt)
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Sheet 1'")
	leave := now.Sheets[0].Symbols[2].ID
	if got := d.Text("#n-" + leave +
		" title"); got != "Reference A continues on sheet 2, Sheet 1, continued: 3. Decide" {
		t.Errorf("the pointer finds %q", got)
	}
	reader := b.Open(d.link())
	reader.ClickOn("#n-" + leave)
	reader.Until("document.getElementById('sheet').dataset.sheet === '" + next.ID + "'")

	d.byName("Join with the sheet")
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]').length === 1")
	one := s.file(path).Sheets[0]
	if len(one.Symbols) != 3 || len(one.Connectors) != 2 {
		t.Errorf("joined, there are %d symbols and %d connectors", len(one.Symbols), len(one.Connectors))
	}
	d.Key("z", ctrl)
	d.Key("z", ctrl) // the text
	d.Key("z", ctrl)
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 1 && " + saved)
	if one := s.file(path).Sheets[0]; len(one.Symbols) != 2 {
		t.Errorf("undone, there are %d symbols", len(one.Symbols))
	}
	d.sound()
}

// Steps go into a sheet of their own, are gone through by keys, by the way at the top and in a trace, read by a reader,
// and come back.
func TestStepsInDetail(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	link := d.link()
	d.ClickOn("#tabs [role=tab]:nth-child(2)")
	before := s.file(path).Sheets[1]
	d.clickStep("All in stock?")
	for _, text := range []string{"Order the missing parts", "Hand out the parts"} {
		x, y, _, _ := d.where(text)
		d.Click(x, y, chromedp.ModifierShift)
	}
	d.byName("Move into a sheet of their own")
	d.Until("!document.getElementById('writing').hidden")
	d.writeHere("Get the parts")
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]').length === 5")
	d.Key("i", chromedp.ModifierAlt)
	d.Until("document.getElementById('way').textContent === 'Repair10 Get the parts'")
	if got := d.Text("#tabs [aria-selected=true]"); got != "Get the parts" {
		t.Errorf("the sheet of the detail is called %q", got)
	}
	d.ClickOn("#way button")
	d.Until("document.getElementById('way').hidden")
	d.Key("i", chromedp.ModifierAlt)
	d.Until("!document.getElementById('way').hidden")
	d.Key("u", chromedp.ModifierAlt)
	d.Until("document.getElementById('way').hidden")

	// A case goes in, and comes out at the step after.
	d.ClickOn("#trace")
	into := "[...document.querySelectorAll('#case-exits button')].find(b => b.textContent === 'into Get the parts')"
	d.Until(into)
	browser.Eval[any](d.Page, into+".click()")
	for _, at := range []string{"Pick lamp, ballast and fuse", "All in stock?", "Hand out the parts", "Lane closure"} {
		d.Until("document.getElementById('case-at').textContent.endsWith('" + at + "')")
		d.Key(browser.Enter)
	}
	d.Until("document.getElementById('case-at').textContent === '11  Lane closure'")
	d.Key(browser.Escape)

	reader := b.Open(link)
	step := d.called("Get the parts").ID
	reader.ClickOn("[data-sheet=repair]")
	reader.ClickOn("#n-" + step)
	reader.Until("document.querySelector('.trail')?.textContent === 'Repair10 Get the parts'")
	reader.ClickOn(".trail a")
	reader.Until("!document.querySelector('.trail') && document.getElementById('n-" + step + "')")

	d.ClickOn("#n-" + step)
	d.byName("Bring its detail back")
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]').length === 4")
	after := s.file(path).Sheets[1]
	if len(after.Symbols) != len(before.Symbols) || len(after.Connectors) != len(before.Connectors) {
		t.Errorf("brought back there are %d symbols and %d connectors, and were %d and %d", len(after.Symbols),
			len(after.Connectors), len(before.Symbols), len(before.Connectors))
	}
	d.sound()
}

// Links are set by a key and by pasting, open from the drawing and for a reader, and lead on within the map.
func TestLinksOnSteps(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	link := d.link()
	d.clickStep("Write the work order")
	d.Key("a", chromedp.ModifierAlt)
	d.Until("document.activeElement.id === 'link-to'")
	d.Key("lighting.example" + browser.Enter)
	d.Until("document.getElementById('words').textContent.includes('is no address')")
	browser.Eval[any](d.Page, "document.getElementById('link-to').select()")
	d.Key("https://lighting.example/form" + browser.Enter)
	d.Until("document.querySelectorAll('#links-list li').length === 2")
	d.Key("Repair" + browser.Enter)
	d.Until("document.querySelectorAll('#links-list li').length === 3")
	d.ClickOn("#links-dialog [data-close]")
	d.Until("!document.getElementById('links-dialog').open && " + saved)
	if got := d.called("Write the work order").Links; len(got) != 2 || got[0].To != "https://lighting.example/form" ||
		got[1].To != "#repair" {
		t.Errorf("the links are %v", got)
	}
	d.ClickOn(`#symbols a.lead[href="#n-repair"]`)
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Repair'")
	d.clickStep("Lane closure")
	browser.Eval[any](d.Page,
		`(() => { const data = new DataTransfer(); data.setData('text/plain', 'desk@lighting.example')
		document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })) })()`)
	d.Until(saved + ` && document.querySelector('#symbols a.lead[href="mailto:desk@lighting.example"]')`)
	if n := len(d.called("Lane closure").Links); n != 1 {
		t.Errorf("pasting made %d links", n)
	}
	reader := b.Open(link)
	if rel := browser.Eval[string](reader, `(a => a.getAttribute('rel') + ' ' + a.getAttribute('target'))(
		document.querySelector('a.lead[href^="https"]'))`); rel != "noopener noreferrer _blank" {
		t.Errorf("the link opens with %q", rel)
	}
	reader.ClickOn(`a.lead[href="#n-repair"]`)
	reader.Until("document.getElementById('sheet').dataset.sheet === 'repair'")
	d.sound()
}

// All sheets are seen as pictures: found by what is on them and by number, moved by keys, copied, gone to.
func TestAllSheetsAtOnce(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	names := func() string {
		return browser.Eval[string](d.Page,
			"[...document.querySelectorAll('#tabs [role=tab]')].map(tab => tab.textContent).join()")
	}
	d.Key("j", chromedp.ModifierAlt)
	d.Until("document.querySelectorAll('#sheets-list .picture svg').length === 4")
	if n := browser.Eval[int](d.Page, "document.querySelectorAll('#sheets-list [id]').length"); n != 0 {
		t.Errorf("%d ids stand twice on the page", n)
	}
	d.Key(browser.Right)
	d.Key(browser.Right, chromedp.ModifierAlt)
	d.Until(saved)
	if got := names(); got != "Report and diagnosis,Lane closure,Repair,What a resident lives through" {
		t.Errorf("the sheets are %s", got)
	}
	d.Until("document.activeElement.closest('li')?.dataset.id === 'repair'")
	d.ClickOn("#sheets-list [data-id=closure] [data-does=copy]")
	d.Until("document.querySelectorAll('#sheets-list li').length === 5 && " + saved)
	d.ClickOn("#sheets-list li:nth-child(3) [data-does=remove]")
	d.Until("document.querySelectorAll('#sheets-list li').length === 4 && " + saved)
	d.ClickOn("#find-sheet")
	d.Key("ballast")
	d.Until("document.querySelectorAll('#sheets-list li:not([hidden])').length === 1")
	d.Key(browser.Enter)
	d.Until("!document.getElementById('sheets-dialog').open && " +
		"document.querySelector('#tabs [aria-selected=true]').textContent === 'Repair'")
	for range 3 {
		d.Key("z", ctrl)
	}
	d.Until(saved)
	if got := names(); got != "Report and diagnosis,Repair,Lane closure,What a resident lives through" {
		t.Errorf("undone, the sheets are %s", got)
	}
	d.sound()
}
