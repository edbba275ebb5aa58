package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/e2e/browser"
)

// A whole round: the owner asks; a colleague remarks on a step and proposes a text; somebody by a link does so on a
// phone and does not agree; the text is taken, the map changed, a second round agreed; and its page, to file, is read.
func TestAWholeRound(t *testing.T) {
	s := start(t, "demo")
	owner := browser.Start(t)
	path := s.demo(owner, "A street light is out")
	d := s.desk(owner, path)
	d.ClickOn("#review")
	d.Until("document.querySelector('.asking')")
	d.ClickOn(".asking summary")
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('.asking label')].find(l => l.textContent.includes('Jonas')).querySelector('input').click()")
	d.ClickOn(".asking [name=names]")
	d.Key("Ann from")
	// the list comes anew while the form is filled in, which stays as it is
	browser.Eval[any](d.Page,
		"(document.querySelector('.said-page').dataset.old = 'yes', window.htmx.trigger(document.getElementById('remarks'), 'refresh'), 0)")
	d.Until("!document.querySelector('.said-page').dataset.old && document.querySelector('.asking').open && document.activeElement.name === 'names'")
	d.Key(" Roads")
	d.ClickOn(".asking button.primary")
	d.Until("document.querySelector('.round')?.textContent.includes('Jonas Petri')")
	// Ann, who was asked by name, gets a link of her own, to be sent to her
	d.ClickOn(".copied [data-copy]")
	d.Until("document.getElementById('words').textContent.includes('link')")
	link := browser.Eval[string](d.Page, "document.querySelector('.copied input').value")

	if !s.file(path).Held.On() {
		t.Error("the numbers are not held while people review them")
	}

	// Jonas, of the house
	second := browser.Start(t)
	s.be(second, "Jonas Petri")
	jonas := &desk{Page: second.Open(s.URL + "/"), s: s, path: path}
	jonas.Until("document.querySelector('.waiting')?.textContent.includes('A street light is out')")
	jonas.ClickOn(".waiting a")
	jonas.Until("location.pathname === '" + path + "'")
	jonas.ready()
	jonas.Until("document.querySelector('.round .say') && document.body.classList.contains('reviewing') && !document.getElementById('remarks').hidden")
	jonas.clickStep("Log the report")
	jonas.Key("r")
	jonas.Until("document.activeElement.name === 'text' && document.getElementById('remark-on').textContent === 'step 2'")
	jonas.Key("Is this the form on the website?")
	jonas.ClickOn(".more-remark summary")
	jonas.ClickOn("#new-remark [name=proposal]")
	jonas.Key("Log the report with its number")
	jonas.Key(browser.Enter, ctrl) // sends it
	jonas.Until("document.querySelector('.thread')?.textContent.includes('on the website') && document.querySelector('#flags .flag text')?.textContent === '1'")

	// it arrives at the owner's, who is writing an own remark that is not disturbed
	d.ClickOn("#new-remark [name=text]")
	d.Key("Half a wo")
	d.Until("document.querySelector('.thread')?.textContent.includes('on the website') && document.querySelector('#flags .flag')")
	d.Key("rd")
	if text := browser.Eval[string](d.Page,
		"document.querySelector('#new-remark [name=text]').value"); text != "Half a word" {
		t.Errorf("what was being written is %q", text)
	}

	// Ann, by the link, on a phone
	third := browser.Start(t)
	ann := third.Open("about:blank")
	ann.Phone(390, 780)
	ann.Go(link)
	ann.Until("document.getElementById('live')?.textContent === 'Live' && document.querySelector('#remarks .round') && document.querySelector('#sheet .flag')")
	if wide := browser.Eval[float64](ann, "document.documentElement.scrollWidth"); wide > 390 {
		t.Errorf("the page is %v pixels wide on a phone of 390", wide)
	}
	if text := ann.Text(".round"); strings.Contains(text, "Remind") ||
		!strings.Contains(text, "You answer as Ann from Roads") ||
		browser.Eval[bool](ann, "!!document.querySelector('.copied')") {
		t.Errorf("a reviewer sees %s", text)
	}
	browser.Eval[any](ann, "document.querySelector('.say [name=verdict]').value = 'not agreed'")
	ann.ClickOn(".say [name=reason]")
	ann.Key("The crew does not get the pole number" + browser.Enter)
	ann.Until("document.querySelector('.verdicts')?.textContent.includes('not agreed')")
	ann.ClickOn(".reply [name=text]")
	ann.Key("It is the phone note." + browser.Enter)
	ann.Until("document.querySelector('.answer')?.textContent.includes('phone note') && document.querySelector('.answer .badge')")
	d.Until("document.querySelector('.answer')?.textContent.includes('phone note') && document.querySelector('#flags text').textContent === '2' && document.querySelector('.verdict.no')")

	// taken, and a second round
	d.ClickOn("[data-proposal]")
	d.Until("document.getElementById('words').textContent.includes('The proposed text is taken')")
	d.Until("document.getElementById('symbols').textContent.includes('with') && !document.querySelector('[data-proposal]')")
	d.saved()
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('.round button')].find(b => b.textContent === 'End the round').click()")
	const first = "1 of 2 did not agree, 1 said nothing; the map was changed since version 1"
	d.Until("document.querySelector('.said-page').textContent.includes('Round 1 ended') && document.querySelector('.said-page').textContent.includes('" + first + "')")
	// The list is put in place anew now and then, so that the address is taken when it stands there.
	d.Until("window.recordAt = document.querySelector('.said-page a[href*=\"/rounds/\"]')?.getAttribute('href')")
	record := browser.Eval[string](d.Page, "window.recordAt")
	if code, page := get(t, s.URL+record+"/page.html"); code != 200 || !strings.Contains(string(page), first) ||
		!strings.Contains(string(page), "on the website") || !strings.Contains(string(page), "phone note") ||
		!strings.Contains(string(page), "proposal taken by") {
		t.Errorf("the record of the first round lacks what was said: %d %s", code, page)
	}
	d.ClickOn(".asking summary") // those who were asked before are proposed
	if proposed := browser.Eval[string](d.Page, `[...document.querySelectorAll('.asking input:checked')].map(
		c => c.closest('label').textContent.trim()).join() + ' / ' + document.querySelector('.asking [name=names]').value`); proposed !=
		"Jonas Petri / Ann from Roads" {
		t.Errorf("the second round proposes %s", proposed)
	}
	browser.Eval[any](d.Page, "document.querySelector('.asking [name=names]').value = ''")
	d.ClickOn(".asking button.primary")
	d.Until("document.querySelector('.round')?.textContent.includes('Round 2')")
	jonas.Until("document.querySelector('.round')?.textContent.includes('Round 2')")
	browser.Eval[any](jonas.Page,
		"[...document.querySelectorAll('.round a')].find(a => a.textContent.includes('What changed')).click()")
	jonas.Until("document.querySelector('#change-list')?.textContent.includes('Log the report') && document.querySelector('#change-list ins')?.textContent.includes('with') && document.querySelector('.over .new').naturalWidth > 0 && document.readyState === 'complete'")
	jonas.Key("n")
	jonas.Until("document.querySelector('.marks .found')")
	jonas.Go(s.URL + path + "#page=remarks")
	jonas.Until("document.querySelector('.round .say button')")
	browser.Eval[any](jonas.Page, "document.querySelector('.say [name=verdict]').value = 'agreed'")
	jonas.ClickOn(".say button")
	jonas.Until("document.querySelector('.verdict.yes')")
	d.Until("document.querySelector('.verdict.yes')")
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('.round button')].find(b => b.textContent === 'End the round').click()")
	d.Until("document.querySelector('.said-page').textContent.includes('Round 2 ended')")
	page := browser.Eval[string](d.Page,
		"document.querySelector('.said-page a[href*=\"/rounds/\"]').getAttribute('href')")
	code, pdf := get(t, s.URL+page+"/page.pdf")
	file := filepath.Join(t.TempDir(), "round.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil || code != 200 {
		t.Fatal(code, err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"A street light is out", "Round 2 of review, of version 2", "Outcome: agreed",
		"Jonas Petri, agreed", "SHA-256: "} {
		if !strings.Contains(string(text), want) {
			t.Errorf("the page to file does not say %q:\n%.1200s", want, text)
		}
	}
	d.Go(s.URL + "/?view=cards")
	if text := d.Text(".cards"); !strings.Contains(text, "version 2, ") || !strings.Contains(text, ": agreed") {
		t.Errorf("home says %s", text)
	}
	if faults := ann.Faults(); len(faults) > 0 {
		t.Errorf("the phone reports %q", faults)
	}
}

// A version is kept, the map goes on, and returns to it as one step that can be undone.
func TestReturningToAVersion(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	d.ClickOn("#tab-history")
	d.Until("document.querySelector('.keep')")
	d.ClickOn(".keep [name=name]")
	d.Key("as agreed" + browser.Enter)
	d.Until("document.querySelector('.versions')?.textContent.includes('Version 1, as agreed')")
	before := browser.Eval[string](d.Page, "document.getElementById('symbols').textContent")
	d.clickStep("Loan slip")
	d.Key("Paper slip" + browser.Enter)
	d.saved()
	d.Until("document.querySelector('.deeds')?.textContent.includes('reworded')")
	d.ClickOn(".versions a")
	d.Until("document.querySelector('.kept-sheet')?.naturalWidth > 0")
	d.ClickOn(".reader-bar .primary")
	d.ready()
	d.Until("document.getElementById('symbols').textContent === " + quoteJS(before))
	d.saved()
	d.Key("z", ctrl)
	d.Until("document.getElementById('symbols').textContent.includes('Paper')")
	d.saved()
	d.sound()
}

func quoteJS(text string) string {
	return "`" + strings.NewReplacer("\\", "\\\\", "`", "\\`", "$", "\\$").Replace(text) + "`"
}
