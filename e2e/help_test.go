package e2e

import (
	"testing"

	"plaintracer/e2e/browser"
)

// F1 and the entry under More lead to the guide; what is searched leaves the chapters that have all of its words, and
// the guide fits a phone.
func TestHelp(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	browser.Eval[any](d.Page, "(window.opened = [], window.open = to => { opened.push(to) }, 0)")
	d.Key(browser.F1)
	d.Until("opened.join() === '/help'")
	browser.Eval[any](d.Page, "(document.querySelector('[data-command=help-open]').click(), 0)")
	d.Until("opened.length === 2")

	p := b.Open(s.URL + "/help")
	p.Until("document.querySelectorAll('.chapters section').length > 10")
	p.Until("[...document.images].every(i => i.complete && i.naturalWidth > 0)")
	p.ClickOn("#help-search")
	p.Key("hold numbers")
	p.Until("document.querySelectorAll('.chapters section:not([hidden])').length === 1 && !document.getElementById('number').hidden")
	p.Until("document.querySelectorAll('.help nav li:not([hidden])').length === 1 && document.getElementById('help-none').hidden")
	p.Key(" zebra")
	p.Until("!document.getElementById('help-none').hidden &&" +
		"!document.querySelector('.chapters section:not([hidden])')")
	p.Phone(390, 800)
	p.Until("document.documentElement.scrollWidth <= innerWidth")
}
