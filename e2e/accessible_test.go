package e2e

import (
	_ "embed"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// axe is axe-core, which looks for what keeps people from using a page.
//
//go:embed testdata/axe.min.js
var axe string

// accessible reports what axe-core finds within an element of a page, an expression; null is all of the page. In the
// dark, where a page differs in its colours alone, it looks at these.
func accessible(t *testing.T, p *browser.Page, where, within string) {
	t.Helper()
	if !browser.Eval[bool](p, "!!window.axe") {
		browser.Eval[any](p, axe+";0")
	}
	browser.Eval[any](p,
		fmt.Sprintf(`(window.axed = null, axe.run(%s ?? document, { resultTypes: ['violations'],
		// A menu may lie over others.
		rules: { 'target-size': { enabled: ![...document.querySelectorAll('.menu')].some(m => m.offsetParent) } },
		...matchMedia('(prefers-color-scheme: dark)').matches && {
			runOnly: { type: 'rule', values: ['color-contrast', 'link-in-text-block'] } } }).then(
		r => {
			window.axed = r.violations.filter(v => ['moderate', 'serious', 'critical'].includes(v.impact))
				.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html + ' ' + n.failureSummary).join(' ; '))
		},
		e => { window.axed = [String(e)] }), 0)`, within))
	p.UntilWithin(time.Minute, "window.axed")
	for _, fault := range browser.Eval[[]string](p, "window.axed") {
		t.Errorf("%s: %.600s", where, fault)
	}
}

// themes does something in light and in dark.
func themes(do func(name string, dark bool)) {
	do("light", false)
	do("dark", true)
}

// Whatever opens in the editor is accessible: its menus, its dialogs, its side panel, the case that is traced.
func TestWhatOpensInTheEditorIsAccessible(t *testing.T) {
	m := lamp()
	m.Colours = []model.HouseColour{{Name: "Town green", Value: "#1f6b57"}}
	m.Styles = []model.Style{{ID: "style-1", Name: "Outside", Fill: "lake"}}
	s, path := stock(t, m)
	d := s.desk(browser.Start(t), path)
	d.Until("document.querySelectorAll('.register li').length === 4 && document.querySelectorAll('#outline li').length === 4")
	themes(func(theme string, dark bool) {
		if dark {
			d.Dark()
		}
		accessible(t, d.Page, "editor in "+theme, "null")
		d.clickStep("Known?")
		accessible(t, d.Page, "editor with a step selected in "+theme, "null")
		for i := range browser.Eval[int](d.Page, "document.querySelectorAll('.strip .drop > .tool').length") {
			drop := fmt.Sprintf("document.querySelectorAll('.strip .drop')[%d]", i)
			press := fmt.Sprintf("(b => { b.setAttribute('aria-disabled', 'false'); b.click() })(%s.querySelector('.tool'))", drop)
			browser.Eval[any](d.Page, press)
			// or its strip is not shown
			d.Until(fmt.Sprintf("%s.querySelector('.menu').offsetHeight || %[1]s.offsetParent === null", drop))
			accessible(t, d.Page, fmt.Sprintf("menu %d in %s", i, theme), drop)
			browser.Eval[any](d.Page, press)
		}
		for _, open := range []string{
			"find-open", "looks-open", "keys-open", "search-open", "styles-open", "house-open", "answers-open",
			"sheet-open", "pin-open", "share-open", "export-open", "links-open", "sheets-open", "stops-open",
			"cases-open", "people-open", "journey-open",
		} {
			browser.Eval[any](d.Page, fmt.Sprintf("plainTracerApp.command('find', 'known'); plainTracerApp.command(%q)",
				open))
			accessible(t, d.Page, open+" in "+theme,
				"document.querySelector('dialog[open]') ?? document.getElementById('desk')")
			browser.Eval[any](d.Page, "document.querySelector('dialog[open]')?.close()")
		}
		accessible(t, d.Page, "the looks in "+theme, "document.getElementById('looks')")
		d.ClickOn("#looks-shut")
		d.ClickOn("[data-page=attached]")
		d.Until("document.querySelector('#attached .kept')")
		accessible(t, d.Page, "the page of files in "+theme, "document.getElementById('book')")
		d.ClickOn("[data-page=findings]")
		d.Until("document.querySelector('#findings p, #findings li')")
		d.ClickOn("#more-symbols")
		accessible(t, d.Page, "all symbols and findings in "+theme, "null")
		d.Key(browser.Escape)
		x, y, _, _ := d.where("Known?")
		d.ClickRight(x, y)
		accessible(t, d.Page, "menu of a step in "+theme, "null")
		d.Key(browser.Escape)
		d.ClickOn("#trace")
		d.Until("!document.getElementById('case').hidden")
		accessible(t, d.Page, "trace in "+theme, "null")
		d.ClickOn("#draw")
		d.Until("document.getElementById('case').hidden")
		d.ClickOn("[data-page=register]")
	})
	d.sound()
}

// axe-core finds nothing that is more than minor on any page, in light and in dark.
func TestPagesAreAccessible(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	d.ClickOn("#share")
	d.ClickOn("#links .new-link button")
	d.Until("document.querySelector('#links [data-made]')")
	link := browser.Eval[string](d.Page, "document.querySelector('#links [data-made]').value")
	d.link("passcode", "lamp post")
	locked := browser.Eval[string](d.Page, "document.querySelector('#links [data-made]').value")
	remark := d.link("purpose", "remark")
	s.Post(path+"/remarks", url.Values{"text": {"Good to see"}})
	s.Post(path+"/versions", url.Values{"name": {"first"}})
	s.Post(path+"/rounds", url.Values{"names": {"Ann"}})
	_, list := get(t, s.URL+path+"/remarks")
	round := regexp.MustCompile(`/rounds/[A-Z0-9]+`).FindString(string(list))
	s.Post("/people/invite", url.Values{"name": {"Jo"}, "email": {"jo@town.example"}})
	addresses := []string{link, locked, remark}
	for _, page := range []string{
		"/", "/?view=list&q=lamp", "/bin", "/symbols", "/help", "/begin", "/people", "/audit", "/outbox", "/me",
		"/sign-in", "/forgot", path, path + "/table", path + "/show",
		path + "/changes?from=r0", path + "/versions/now", path + round, "/maps/none", "/nowhere",
	} {
		addresses = append(addresses, s.URL+page)
	}
	for _, address := range addresses {
		p := b.Open(address)
		if address == s.URL+path {
			p.Until("document.documentElement.dataset.ready && document.querySelector('.register li')")
			p.ClickOn(".register li:first-child button")
			p.ClickOn("[data-needs=text]") // with a menu open
		}
		if strings.HasSuffix(address, "/table") {
			p.Until("document.querySelectorAll('.grid-body .grid-row').length > 3")
			p.ClickOn("#wide-fields") // with the fields open
		}
		if strings.HasSuffix(address, "/show") {
			p.Until("!document.getElementById('case').hidden")
		}
		themes(func(theme string, dark bool) {
			if dark {
				p.Dark()
			}
			accessible(t, p, address+" in "+theme, "null")
		})
		p.Close()
	}
}
