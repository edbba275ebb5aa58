package e2e

import (
	"fmt"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// stopJS says what has the focus: its name, and what is wrong with how it is seen.
const stopJS = `(e => {
	if (!e || e === document.body) return ['', '']
	const r = e.getBoundingClientRect(), within = (n, most) => Math.min(Math.max(n, 0), most - 1)
	const name = e.id || e.dataset?.command || e.dataset?.page || e.className?.baseVal || e.textContent.trim().slice(0, 20) ||
		e.outerHTML.slice(0, 80)
	const at = document.elementFromPoint(within(r.x + r.width / 2, innerWidth), within(r.y + r.height / 2, innerHeight))
	const style = getComputedStyle(e)
	const wrong = () => {
		if (r.width < 1 || r.height < 1) return 'it has no size'
		if (r.right < 1 || r.left > innerWidth - 1 || r.bottom < 1 || r.top > innerHeight - 1) return 'it is outside'
		if (!e.contains(at) && !at?.contains(e)) return 'it is under ' + (at?.id || at?.className)
		if (!e.matches(':focus-visible, input[type=date]')) return 'its focus is not shown'
		const marked = style.outlineStyle !== 'none' || style.boxShadow !== 'none' || e.matches('input, textarea')
		return marked ? '' : 'its focus has no mark'
	}
	return [name, wrong()]
})(document.activeElement)`

// fromTheTop has the next Tab go to the first stop of a page.
func fromTheTop(p *browser.Page) {
	browser.Eval[any](p,
		"document.body.tabIndex = -1, document.body.focus(), document.body.removeAttribute('tabindex')")
}

// stops presses Tab until the focus has gone round, and returns where it stopped.
func stops(t *testing.T, p *browser.Page, most int) (list []string) {
	t.Helper()
	for range most + 1 {
		p.Key(browser.Tab)
		at := browser.Eval[[]string](p, stopJS)
		if at[0] == "" || len(list) > 0 && at[0] == list[0] {
			return list
		}
		if at[1] != "" {
			t.Errorf("%s: %s", at[0], at[1])
		}
		list = append(list, at[0])
	}
	return list
}

// The editor has fewer than twenty stops however large the map, the first of which leads to the drawing; within
// toolbars, tabs and lists arrows go on. Each stop is seen, marked and not covered (WCAG 2.2, 2.4.3, 2.4.7 and 2.4.11).
func TestTheEditorHasFewStops(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.Until("document.querySelectorAll('#register [data-find]').length > 20")
	fromTheTop(d.Page)
	list := stops(t, d.Page, 30)
	if len(list) >= 20 || len(list) < 10 {
		t.Errorf("%d stops: %q", len(list), list)
	}
	if len(list) > 0 && list[0] != "skip" && list[0] != "To the drawing" {
		t.Errorf("the first stop is %s", list[0])
	}
	browser.Eval[any](d.Page, "document.querySelector('.skip').focus()")
	d.Key(browser.Enter)
	d.Until("document.activeElement.id === 'drawing'")

	for _, c := range []struct{ group, first, key, next, end string }{
		{".ways", "#draw", browser.Right, "#trace", "#review"},
		{"#tray", ".piece[data-take=process]", browser.Right, ".piece[data-take=decision]", "#more-symbols"},
		{".book [role=tablist]", "#tab-register", browser.Right, "#tab-findings", "#tab-history"},
	} {
		browser.Eval[any](d.Page, fmt.Sprintf("document.querySelector('%s').focus()", c.first))
		d.Key(c.key)
		d.Until(fmt.Sprintf("document.activeElement.matches('%s')", c.next))
		d.Key(browser.End)
		d.Until(fmt.Sprintf("document.activeElement.matches('%s')", c.end))
		d.Key(browser.Home)
		d.Until(fmt.Sprintf("document.activeElement.matches('%s')", c.first))
	}
	// Rows of the register go up and down, and the one that was left is come back to.
	browser.Eval[any](d.Page, "document.querySelector('#register [data-find]').focus()")
	d.Key(browser.Down)
	d.Key(browser.Down)
	d.Until("document.activeElement === document.querySelectorAll('#register [data-find]')[2]")
	d.Key(browser.Tab)
	d.Key(browser.Tab, shift)
	d.Until("document.activeElement === document.querySelectorAll('#register [data-find]')[2]")
	d.sound()
}

// On other pages the first stop leads past the header.
func TestPagesBeginWithAWayToTheirContent(t *testing.T) {
	s := start(t, "demo")
	p := browser.Start(t).Open(s.URL + "/")
	for _, page := range []string{"/", "/begin", "/people", "/audit", "/me", "/bin", "/symbols", "/help", "/outbox"} {
		p.Go(s.URL + page)
		p.Until("document.readyState === 'complete'")
		fromTheTop(p)
		p.Key(browser.Tab)
		p.Until("document.activeElement.matches('.skip')")
		p.Key(browser.Enter)
		p.Until("document.activeElement.id === 'content'")
	}
}

// Keys of a single letter, digit or sign do nothing for whoever has switched them off, in the editor and on the
// reader's page; keys with others and what is written stay (WCAG 2.2, 2.1.4).
func TestSingleLetterKeysCanBeSwitchedOff(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	d := s.desk(b, path)
	count := func() int { return len(s.file(path).Sheets[0].Symbols) }
	before := count()
	account := b.Open(s.URL + "/me")
	account.ClickOn("[action='/me/letters'] button")
	account.Until("document.querySelector('[action=\"/me/letters\"] b').textContent === 'off'")
	d.reload()
	d.clickStep("Renew the card")
	d.Key("1")
	d.Key("x")
	d.Key(browser.F2)
	d.Until("!document.getElementById('writing').hidden")
	d.Key("Renew the old card")
	d.Key(browser.Enter)
	d.Until("document.getElementById('writing').hidden")
	d.saved()
	if got := count(); got != before || d.called("Renew the old card") == nil {
		t.Errorf("there are %d symbols, before %d; what was written stands there: %v", got, before,
			d.called("Renew the old card") != nil)
	}
	account.ClickOn("[action='/me/letters'] button")
	account.Until("document.querySelector('[action=\"/me/letters\"] b').textContent === 'on'")
	d.reload()
	d.clickStep("Renew the old card")
	d.Key("1")
	d.Until("!document.getElementById('writing').hidden")
	d.Key("Another" + browser.Enter)
	d.saved()
	if got := count(); got != before+1 {
		t.Errorf("with the keys on again there are %d symbols, before %d", got, before)
	}

	p := d.readerPage(b)
	p.Until("document.querySelector('#letters').checked")
	browser.Eval[any](p, "document.querySelector('#letters').click()")
	p.Go(browser.Eval[string](p, "location.href"))
	p.Until("document.querySelector('#in-words li') && !document.querySelector('#letters').checked")
	heard := "(window.heard = [], document.addEventListener('keydown', e => window.heard.push(e.key)), 0)"
	browser.Eval[any](p, heard)
	p.Key("t")
	p.Key(browser.Escape)
	if got := browser.Eval[[]string](p, "window.heard"); len(got) != 1 || got[0] != "Escape" {
		t.Errorf("the reader's page hears %q", got)
	}
	d.sound()
}

// Lines, lanes and stages are reached by keys, what is reached is said, and the commands for it work.
func TestLinesLanesAndStagesAreReachedByKeys(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	said := func(want string) {
		t.Helper()
		d.Until(fmt.Sprintf("document.getElementById('spoken').textContent.startsWith(%q)", want))
	}
	m := s.file(path).Sheets[0]
	d.Key(browser.Home)
	first := d.selected()
	d.Key(browser.F4)
	said("connector from " + model.Flat(m.Symbol(first).Text) + " to ")
	line := d.selected()
	d.Key(browser.PageDown)
	d.Until(fmt.Sprintf("plainTracerApp.bars.state.selected?.[0] !== %q", line))
	d.Key(browser.PageUp)
	d.Until(fmt.Sprintf("plainTracerApp.bars.state.selected?.[0] === %q", line))
	d.Key("b", ctrl)
	if c := d.sheet().Connector(line); !c.Bold {
		t.Error("the line that was reached is not set bold")
	}
	d.Key(browser.F4)
	said("lane ")
	d.Key(browser.F2)
	d.Until("!document.getElementById('writing').hidden")
	d.Key("Town hall" + browser.Enter)
	d.saved()
	said("lane Town hall, 1 of 5")
	d.Key(browser.Down)
	said("lane " + m.Pools[0].Lanes[1].Name + ", 2 of 5")
	d.Key(browser.End)
	said("lane " + m.Pools[0].Lanes[4].Name + ", 5 of 5")
	d.Key(browser.F4) // the sheet has no stages
	d.Until("document.getElementById('spoken').textContent.includes('lane " + m.Pools[0].Lanes[4].Name + "')")
	if sym := d.sheet().Symbol(d.selected()); sym == nil {
		t.Error("behind the lanes no step is reached")
	}
	d.sound()
}

// Two steps are connected by keys, each target being said as it changes, by number and by what stands in it; and by
// clicks alone (WCAG 2.2, 2.5.7 and 4.1.3).
func TestTargetsOfConnectorsAreSaid(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	said := func(want string) {
		t.Helper()
		d.Until(fmt.Sprintf("document.getElementById('spoken').textContent.startsWith(%q)", want))
	}
	count := func() int { return len(d.sheet().Connectors) }
	before := count()
	from := d.called("Check the resident’s card").ID
	browser.Eval[any](d.Page, "plainTracerApp.command('find', '"+from+"')")
	d.Key("l", ctrl)
	d.Key("4")
	said("4. Hand over bike, lock and key, process")
	if text := d.Text("#spoken"); !strings.Contains(text, "steps on") {
		t.Errorf("nobody hears how far it is: %s", text)
	}
	d.Key("ren")
	said("10. Renew the card")
	d.Key(browser.Enter)
	d.saved()
	if got := count(); got != before+1 {
		t.Fatalf("%d connectors, before %d", got, before)
	}
	browser.Eval[any](d.Page, "plainTracerApp.command('find', '"+from+"')")
	d.Key("l", ctrl)
	d.Until("document.getElementById('words').textContent.includes('click')")
	d.clickStep("Put the name on the list")
	d.saved()
	last := d.sheet().Connectors
	if got := count(); got != before+2 || last[len(last)-1].To.Symbol != d.called("Put the name on the list").ID {
		t.Errorf("%d connectors, before %d; the last leads to %s", got, before, last[len(last)-1].To.Symbol)
	}
	d.sound()
}

// selected returns the id of what is selected.
func (d *desk) selected() string {
	d.s.Helper()
	return browser.Eval[string](d.Page, "plainTracerApp.bars.state.selected?.[0] ?? ''")
}
