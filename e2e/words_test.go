package e2e

import (
	"testing"

	"plaintracer/e2e/browser"
)

// Typing fast into one field after the other loses no letter, although saving the first has
// everything shown anew while the second is typed in.
func TestTypingOnIntoTheNextField(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("#heading-toggle")
	d.ClickOn("[data-now=project]")
	// Every answer of the server has the page shown anew: let many come.
	browser.Eval[any](d.Page,
		"(window.again = setInterval(() => plainTracerApp.bars.show(plainTracerApp.bars.state), 1), 0)")
	d.Key("Street works" + browser.Tab + "Dropped kerbs" + browser.Tab + "Ada" + browser.Tab + "7" + browser.Tab)
	browser.Eval[any](d.Page, "(clearInterval(again), 0)")
	d.Key(browser.Escape)
	d.Until(saved)
	h := s.file(d.path).Heading
	if h.Project != "Street works" || h.Process != "Dropped kerbs" || h.Author != "Ada" || h.Version != "7" {
		t.Errorf("the heading is %+v", h)
	}
	// A value that is refused goes back, and the title behaves like all others.
	d.ClickOn("#title")
	d.Key("a", ctrl)
	d.Key("Bikes")
	browser.Eval[any](d.Page, "(plainTracerApp.bars.show(plainTracerApp.bars.state), 0)")
	d.Key(" of the town" + browser.Enter)
	d.Until("document.title.startsWith('Bikes of the town') && " + saved)
	d.sound()
}

// A text that is being written when its tab is closed is offered again by the next one, with
// the step it stands on; until it is written the map has no such step, and the page says
// "Writing", not "Saved".
func TestUnfinishedTextIsOfferedAgain(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	d := s.desk(b, path)
	steps := len(s.file(path).Sheets[0].Symbols)
	d.clickStep("Renew the card")
	d.Key(browser.F2)
	d.Until("document.activeElement.id === 'writing'")
	d.Key(" at once")
	d.Until("document.getElementById('saved').textContent === 'Writing'")
	d.Key(browser.Escape)
	d.Until(saved)
	d.clickStep("Hang the key on its hook")
	d.Key(browser.Enter)
	d.Until("document.activeElement.id === 'writing'")
	d.Key("Note the hook num")
	d.Until("document.getElementById('saved').textContent === 'Writing'")
	d.Go("about:blank") // as by Back, or a lid that is shut
	if got := len(s.file(path).Sheets[0].Symbols); got != steps {
		t.Errorf("an empty step was left behind: %d symbols, not %d", got, steps)
	}
	d.Close()
	s.kill()
	s.again()
	d = s.desk(b, path)
	d.Until("document.getElementById('words').textContent.includes('You were writing “Note the hook num”')")
	other := s.desk(b, path) // what the first is still offered, the second is offered, too
	other.Until("document.getElementById('words').textContent.includes('Note the hook num')")
	other.Close()
	d.ClickOn("#words button")
	d.Until("document.activeElement.id === 'writing' && document.activeElement.value === 'Note the hook num'")
	d.Key("ber" + browser.Enter)
	d.Until("document.getElementById('symbols').textContent.includes('number') && " + saved)
	found := false
	for _, sym := range s.file(path).Sheets[0].Symbols {
		found = found || sym.Text == "Note the hook number"
	}
	if !found || len(s.file(path).Sheets[0].Symbols) != steps+1 {
		t.Error("the text was not written")
	}
	d.Close()
	d = s.desk(b, path)
	if browser.Eval[bool](d.Page, "document.getElementById('words').textContent.includes('You were writing')") {
		t.Error("it is offered once more")
	}
	d.sound()
}

// Undoing a delete, a paste or a layout brings back what it took, and leaves what was written
// since on the steps that were there.
func TestUndoKeepsWhatWasWrittenSince(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	other := s.desk(b, d.path)
	for _, c := range []struct {
		name string
		do   func()
	}{
		{"delete", func() { d.clickStep("Put the name on the list"); d.Key(browser.Delete) }},
		{"paste", func() { d.clickStep("Put the name on the list"); d.Key("d", ctrl) }},
		{"layout", func() { d.ClickOn("[data-command=lay-out]"); d.ClickOn("#proposal .primary") }},
	} {
		c.do()
		d.saved()
		other.Until("plainTracerApp.sync.revision === " + browser.Eval[string](d.Page,
			"String(plainTracerApp.sync.revision)"))
		text := "Renew it after the " + c.name
		id := s.step(d.path, "b4")
		other.rewrite(id, text)
		other.saved()
		d.Until("document.getElementById('symbols').textContent.includes('" + c.name + "')")
		d.Key("z", ctrl)
		d.saved()
		if got := s.step(d.path, "b4"); got != text {
			t.Errorf("after undoing the %s the step says %q", c.name, got)
		}
	}
	d.sound()
}

// step returns the text of a symbol of the first sheet as it is saved.
func (s *server) step(path, id string) string {
	s.Helper()
	if sym := s.file(path).Sheets[0].Symbol(id); sym != nil {
		return sym.Text
	}
	return ""
}
