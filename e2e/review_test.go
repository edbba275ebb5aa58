package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

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
		"[...document.querySelectorAll('.asking label')].find(l => l.textContent.trim().startsWith('Jonas')).querySelector('input').click()")
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

	// Jonas, of the organisation
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
	jonas.Until("document.activeElement.name === 'text' && document.getElementById('said-about').textContent === 'On step 2'")
	jonas.Key("Is this the form on the website?")
	jonas.ClickOn("#said-here .more-remark summary")
	jonas.ClickOn("#said-here [name=proposal]")
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
	ann.ClickOn(".say [name=reason]")
	ann.Key("The crew does not get the pole number")
	ann.ClickOn(".say [value='not agreed']")
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
		"[...document.querySelectorAll('.round button')].find(b => b.textContent === 'End it as of version 1').click()")
	const first = "not agreed: Ann from Roads, 1 has not answered; of version 1, 1 change since is not part of it: step 2 reworded"
	d.Until("document.querySelector('.said-page').textContent.includes('Round 1 ended') && document.querySelector('.said-page').textContent.includes('" + first + "')")
	// The list is put in place anew now and then, so that the address is taken when it stands there.
	d.Until("window.recordAt = document.querySelector('.said-page a[href*=\"/rounds/\"]')?.getAttribute('href')")
	record := browser.Eval[string](d.Page, "window.recordAt")
	if code, page := get(t, s.URL+record+"/page.html"); code != 200 || !strings.Contains(string(page), first[1:]) ||
		!strings.Contains(string(page), "on the website") || !strings.Contains(string(page), "phone note") ||
		!strings.Contains(string(page), "proposal taken by") {
		t.Errorf("the record of the first round lacks what was said: %d %.3000s", code, page)
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
		"[...document.querySelectorAll('.round a')].find(a => a.textContent.includes('side by side')).click()")
	jonas.Until("document.querySelector('#change-list')?.textContent.includes('Log the report') && document.querySelector('#change-list ins')?.textContent.includes('with') && document.querySelector('.over .new').naturalWidth > 0 && document.readyState === 'complete'")
	jonas.Key("n")
	jonas.Until("document.querySelector('.marks .found')")
	jonas.Go(s.URL + path + "#page=remarks")
	jonas.Until("document.querySelector('.round .say button')")
	jonas.ClickOn(".say [value='agreed']")
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
	for _, want := range []string{"A street light is out", "Round 2 of review, of version 2",
		"Outcome: Agreed by Jonas Petri.",
		"Jonas Petri: agreed", "SHA-256 of the version", "last one with the SHA-256", "instead of “Log the report”"} {
		if !strings.Contains(string(text), want) {
			t.Errorf("the page to file does not say %q:\n%.1200s", want, text)
		}
	}
	d.Go(s.URL + "/?view=cards")
	if text := d.Text(".cards"); !strings.Contains(text, "agreed: version 2, ") || !strings.Contains(text,
		"by Jonas Petri") {
		t.Errorf("home says %s", text)
	}
	if faults := ann.Faults(); len(faults) > 0 {
		t.Errorf("the phone reports %q", faults)
	}
}

// Five people in five browsers, two of whom come by links, need no more than 20 gestures for a round: asking, a remark
// in place, four answers and the end. Whoever is asked from home finds what changed since the version they know,
// marked.
func TestARoundInTwentyGestures(t *testing.T) {
	s := start(t, "demo")
	owner := browser.Start(t)
	path := s.demo(owner, "A street light is out")
	d := s.desk(owner, path)
	gestures := 0
	click := func(p *browser.Page, selector string) { gestures++; p.ClickOn(selector) }
	write := func(p *browser.Page, text string, held ...chromedp.Modifier) { gestures++; p.Key(text, held...) }

	click(d.Page, "#review")
	d.Until("document.querySelector('.asking')")
	click(d.Page, ".asking summary")
	click(d.Page, ".asking [name=person][value=folder]") // all of the folder: Jonas and Selma
	click(d.Page, ".asking [name=names]")
	write(d.Page, "Ann from Roads, Ben from Stores")
	click(d.Page, ".asking button.primary")
	d.Until("document.querySelectorAll('.copied').length === 2 && document.querySelectorAll('.verdicts li').length === 4")
	var links []string
	for i := range 2 {
		click(d.Page, []string{".verdicts li:nth-child(3) [data-copy]", ".verdicts li:nth-child(4) [data-copy]"}[i])
		links = append(links, browser.Eval[string](d.Page,
			"[...document.querySelectorAll('.copied input')]["+[]string{"0", "1"}[i]+"].value"))
	}

	var pages []*browser.Page
	for _, name := range []string{"Jonas Petri", "Selma Kurt"} {
		b := browser.Start(t)
		s.be(b, name)
		p := b.Open(s.URL + "/")
		p.Until("document.title.startsWith('(1) ') && document.querySelector('.waiting')?.textContent.includes('Ida Brandt asks for a review')")
		click(p, ".waiting a")
		p.Until("document.querySelector('#remarks .say button') && document.title.startsWith('(1) ')")
		pages = append(pages, p)
	}
	jonas := &desk{Page: pages[0], s: s, path: path}
	jonas.ready()
	d.ClickOn("#tab-register") // who looks elsewhere is told beside
	gestures++
	jonas.clickStep("Log the report")
	write(jonas.Page, "r")
	jonas.Until("document.activeElement.closest('#said-here')")
	jonas.Key("Is this the form on the website?")
	write(jonas.Page, browser.Enter, ctrl)
	jonas.Until("document.querySelector('#flags .flag text')?.textContent === '1'")
	d.Until("document.getElementById('tab-remarks').dataset.new === '1' && document.getElementById('words').textContent.includes('Jonas Petri said something on') && !document.getElementById('words').hidden")
	d.ClickOn("#tab-remarks")
	d.Until("!document.getElementById('tab-remarks').dataset.new && document.querySelector('.thread.fresh')")
	for _, link := range links {
		p := browser.Start(t).Open(link)
		gestures++
		p.Until("document.querySelector('.say')?.textContent.includes('You answer as')")
		pages = append(pages, p)
	}
	for _, p := range pages {
		click(p, ".say [value=agreed]")
		p.Until("document.querySelector('.verdict.yes') && !document.title.startsWith('(1)')")
	}
	d.Until("document.querySelectorAll('.verdict.yes').length === 4")
	click(d.Page, ".ending button")
	d.Until("document.querySelector('.said-page').textContent.includes('agreed by all four; 1 remark is open')")
	t.Logf("%d gestures", gestures)
	if gestures > 20 {
		t.Errorf("a round takes %d gestures", gestures)
	}

	// The next round shows those who were asked what changed since.
	d.clickStep("Log the report")
	d.Key("Note the report" + browser.Enter)
	d.saved()
	d.Until("[...document.querySelectorAll('.said-page button')].find(b => b.textContent === 'Ask the same people again')")
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('.said-page button')].find(b => b.textContent === 'Ask the same people again').click()")
	d.Until("document.querySelector('.round')?.textContent.includes('Round 2')")
	jonas.Go(s.URL + "/")
	jonas.ClickOn(".waiting a")
	jonas.Until("document.querySelectorAll('#flags .changed-mark').length === 1 && document.querySelector('.since')?.textContent.includes('Log') && document.body.classList.contains('reviewing')")
	jonas.ready()
	jonas.Key("n")
	jonas.Until("document.querySelector('.changed-mark.found') && document.querySelector('.since .here')")
	jonas.sound()
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
