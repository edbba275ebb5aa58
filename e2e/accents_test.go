package e2e

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// Some words of a text are marked by keys while it is written and set bold and in a colour; they are measured as
// Chromium measures them, stay with their words when the text changes, and go by undo or by one command.
func TestSomeWordsAreSetOtherwise(t *testing.T) {
	d := three(t)
	id := d.ids()["One"]
	accents := func() []model.Accent { return d.symbol(id).Accents }
	d.clickStep("One")
	d.Key(browser.F2)
	d.Until("!document.getElementById('writing').hidden && document.getElementById('accents').hidden")
	d.Key("Pay within ten days")
	d.Key(browser.Left, ctrl)
	d.Key(browser.Left, ctrl)
	d.Key(browser.Right, ctrl+shift)
	d.Until("!document.getElementById('accents').hidden")
	d.Key("b", ctrl)
	d.Until("document.querySelector('#accents [data-accent=bold]').getAttribute('aria-pressed') === 'true'")
	accessible(t, d.Page, "the bar for marked words", "document.getElementById('accents')")
	d.Key(browser.Down, alt)
	d.Until("document.activeElement.dataset.accent === 'bold'")
	d.Key(browser.End)
	d.Key(browser.Left)
	d.Until("document.activeElement.dataset.arg === 'clay'")
	d.Key(browser.Enter)
	d.Until("document.querySelector('#accents [data-arg=clay]').getAttribute('aria-pressed') === 'true'")
	d.Key(browser.Escape)
	d.Until("document.activeElement.id === 'writing'")
	d.Key(browser.Enter)
	d.Until("document.getElementById('writing').hidden && document.getElementById('accents').hidden")
	d.saved()
	if sym := d.symbol(id); sym.Text != "Pay within ten days" || len(sym.Accents) != 1 ||
		strings.TrimSpace(string([]rune(sym.Text)[sym.Accents[0].From:sym.Accents[0].To])) != "ten" ||
		!sym.Accents[0].Bold || sym.Accents[0].Colour != "clay" || sym.Bold {
		t.Fatalf("%q is set %+v", sym.Text, sym.Accents)
	}
	for line, core := range drawnLines(d.s.file(d.path), id) {
		measured := d.lineWidth(id, line)
		if math.Abs(core-measured) > 0.5 {
			t.Errorf("the line %q: the core measures %.2f px, Chromium %.2f", line, core, measured)
		}
	}
	_, picture := get(t, d.s.URL+d.path+"/export/svg")
	if !strings.Contains(string(picture), `font-weight="600">ten`) {
		t.Error("the picture does not show the word bold")
	}

	// They go with their words, whoever changes the text, and come back with it.
	kept := accents()
	d.rewrite("Pay within ten days", "The resident has to pay within ten working days")
	d.saved()
	after := d.symbol(id)
	if len(after.Accents) != 1 || !strings.HasPrefix(string([]rune(after.Text)[after.Accents[0].From:]), "ten") {
		t.Errorf("%q is set %+v", after.Text, after.Accents)
	}
	d.Key("z", ctrl)
	d.saved()
	if sym := d.symbol(id); sym.Text != "Pay within ten days" || !slices.Equal(sym.Accents, kept) {
		t.Errorf("undone, %q is set %+v", sym.Text, sym.Accents)
	}

	// A word is meant where nothing is marked; Escape gives up what was set.
	d.clickStep("Pay within ten days")
	d.Key(browser.F2)
	d.Until("!document.getElementById('writing').hidden")
	browser.Eval[any](d.Page, "document.getElementById('writing').setSelectionRange(2, 2)")
	d.Key("i", ctrl)
	d.Until("[...document.querySelectorAll('#accents-seen span')].some(s => s.textContent === 'Pay' && s.style.fontStyle === 'italic')")
	d.Key(browser.Escape)
	d.Until("document.getElementById('writing').hidden")
	if got := accents(); !slices.Equal(got, kept) {
		t.Errorf("given up, it is set %+v", got)
	}
	d.byName("Set all words alike")
	d.saved()
	if got := accents(); len(got) > 0 {
		t.Errorf("set alike, it is set %+v", got)
	}
	d.sound()
}

// What Escape gives up is offered once more, also the text of a step that was not there before.
func TestWhatIsGivenUpIsOfferedOnceMore(t *testing.T) {
	d := three(t)
	id := d.ids()["One"]
	d.clickStep("One")
	d.Key(browser.F2)
	d.Until("!document.getElementById('writing').hidden")
	d.Key("Ask for the papers")
	d.Key(browser.Escape)
	d.Until("document.getElementById('writing').hidden")
	if got := d.symbol(id).Text; got != "One" {
		t.Errorf("given up, it says %q", got)
	}
	d.offered("Take it back")
	d.Until("document.getElementById('writing').value === 'Ask for the papers'")
	d.Key(" first" + browser.Enter)
	d.saved()
	if got := d.symbol(id).Text; got != "Ask for the papers first" {
		t.Errorf("taken back, it says %q", got)
	}

	before := len(d.sheet().Symbols)
	d.Key(browser.Enter) // the next step
	d.Until("!document.getElementById('writing').hidden")
	d.Key("Look them through")
	d.Key(browser.Escape)
	d.Until("document.getElementById('writing').hidden")
	d.saved()
	if got := len(d.sheet().Symbols); got != before+1 { // the step itself stays
		t.Fatalf("given up, there are %d symbols, before %d", got, before)
	}
	d.offered("Take it back")
	d.Until("!document.getElementById('writing').hidden && document.getElementById('writing').value === 'Look them through'")
	d.Key(browser.Enter)
	d.saved()
	if d.called("Look them through") == nil || len(d.sheet().Symbols) != before+1 {
		t.Error("the step does not come back with its text")
	}
	d.sound()
}

// offered presses what is offered beside what was said.
func (d *desk) offered(text string) {
	d.s.Helper()
	button := fmt.Sprintf("[...document.querySelectorAll('#words button')].find(b => b.textContent.trim() === %q)",
		text)
	d.Until(button + "?.offsetParent")
	browser.Eval[any](d.Page, button+".click()")
}
