package e2e

import (
	"testing"

	"plaintracer/e2e/browser"
)

// Two people write on one step: the second is told before they begin, and if both write, both
// texts are kept for choice.
func TestTwoWriteOnOneStep(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	one, two := s.desk(b, path), s.desk(b, path)
	const marked = "document.getElementById('n-b4').classList.contains('written')"
	begin := func(d *desk) {
		d.clickStep("Renew the card")
		d.Key(browser.F2)
	}
	begin(one)
	one.Until("document.activeElement.id === 'writing'")
	two.Until(marked)
	begin(two)
	two.Until("document.getElementById('words').textContent.includes('Someone else is writing here') && document.getElementById('writing').hidden")
	one.Key(browser.Escape)
	two.Until("!" + marked)
	for choice, want := range map[string]string{"theirs": "Renew it at the desk", "mine": "Renew it at once",
		"both": "Renew it at the desk\nRenew it at once"} {
		begin(one)
		one.Until("document.activeElement.id === 'writing'")
		two.Until(marked)
		begin(two)
		two.Until("document.getElementById('words').textContent.includes('Someone else is writing here')")
		two.ClickOn("#words button")
		two.Until("document.activeElement.id === 'writing'")
		two.Key("a", ctrl)
		two.Key("Renew it at the desk" + browser.Enter)
		two.saved()
		one.Until("plainTracer.textOf('b4', '')[0] === 'Renew it at the desk'")
		one.Key("a", ctrl)
		one.Key("Renew it at once" + browser.Enter)
		one.Until("document.getElementById('both-dialog').open && document.getElementById('both-theirs').textContent === 'Renew it at the desk' && document.getElementById('both-mine').textContent === 'Renew it at once'")
		one.ClickOn("#both-dialog [value=" + choice + "]")
		one.Until("!document.getElementById('both-dialog').open && document.getElementById('writing').hidden && " +
			saved)
		if got := s.step(path, "b4"); got != want {
			t.Errorf("%s: the step says %q", choice, got)
		}
		one.clickStep("Loan slip")
		one.Key(browser.Escape)
		browser.Eval[any](one.Page, "(plainTracer.writeOn('b4', '', 'Renew the card', '', 0), plainTracerApp.flush(), 0)")
		one.saved()
		two.Until("plainTracer.textOf('b4', '')[0] === 'Renew the card' && document.getElementById('writing').hidden")
	}
	// A window that is gone writes no more.
	begin(one)
	two.Until(marked)
	one.Close()
	two.Until("!" + marked)
	two.sound()
}
