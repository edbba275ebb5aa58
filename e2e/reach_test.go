package e2e

import (
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"

	"plaintracer/e2e/browser"
)

// Whatever was clicked before, the keys are the drawing's unless a text is being typed, and
// the words of the interface cannot be selected by accident.
func TestKeysReachTheDrawingWhateverWasClicked(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	all := browser.Eval[int](d.Page, "document.querySelectorAll('#symbols .symbol').length")
	for _, tool := range []string{"#fit", "#in", "#out", "#count", "#tab-register", "#shut-book", "#open-book"} {
		d.ClickOn(tool)
		d.Key("a", ctrl)
		d.Until("plainTracerApp.bars.state.selected.length >= " + strconv.Itoa(all))
		if words := browser.Eval[string](d.Page, "String(getSelection())"); words != "" {
			t.Errorf("after a click on %s the page's words are selected: %.100q", tool, words)
		}
		d.Key(browser.Escape)
		d.Until("plainTracerApp.bars.state.selected.length === 0")
	}
	// A menu that is left by Esc, too.
	d.ClickOn("[data-needs=text]")
	d.Key(browser.Escape)
	d.Key("a", ctrl)
	d.Until("plainTracerApp.bars.state.selected.length >= " + strconv.Itoa(all))
	// But what is typed into a field stays there, and a button keeps its own keys.
	d.ClickOn("#title")
	d.Key("a", ctrl)
	if browser.Eval[string](d.Page,
		"String(document.activeElement.value.slice(document.activeElement.selectionStart, document.activeElement.selectionEnd))") != "Lend a cargo bike" {
		t.Error("Ctrl A in the title does not select the title")
	}
	d.Key(browser.Escape)
	browser.Eval[any](d.Page, "(document.getElementById('tab-findings').focus(), 0)")
	d.Key(browser.Enter)
	d.Until("!document.getElementById('findings').hidden")
	d.sound()
}

// Fit shows the whole page, as does paper that is turned; once more shows upright paper so that its text can be read.
func TestFitOfUprightPaper(t *testing.T) {
	d := three(t)
	browser.Eval[any](d.Page,
		"(s => { s.value = 'upright'; s.dispatchEvent(new Event('change')) })(document.getElementById('sheet-turn'))")
	d.Until("+document.getElementById('page').getAttribute('height') > +document.getElementById('page').getAttribute('width')")
	const inSight = `(id => { const a = document.querySelector(id).getBoundingClientRect(), b = document.getElementById('drawing').getBoundingClientRect()
		return a.top >= b.top && a.left >= b.left && a.right <= b.right && a.bottom <= b.bottom })`
	zoom := func() int { return browser.Eval[int](d.Page, "parseInt(document.getElementById('zoom').textContent)") }
	seen := func(id string) bool { return browser.Eval[bool](d.Page, inSight+"('"+id+"')") }
	if z := zoom(); z >= 75 || !seen("#page") {
		t.Errorf("turned it shows %d %%, the page: %v", z, seen("#page"))
	}
	d.ClickOn("#fit")
	if z := zoom(); z < 75 || z > 100 || !seen("#symbols") {
		t.Errorf("once more it shows %d %%, all symbols: %v", z, seen("#symbols"))
	}
	d.ClickOn("#in")
	d.ClickOn("#fit")
	if z := zoom(); z >= 75 || !seen("#page") {
		t.Errorf("fit once it shows %d %%, the page: %v", z, seen("#page"))
	}
	// With a step far down there is too much to be read at once: it begins at the top.
	d.ClickOn("#in")
	x, y, _, _ := d.where("Three")
	foot := browser.Eval[float64](d.Page, "document.getElementById('drawing').getBoundingClientRect().bottom - 130")
	d.Drag(x, y, x, foot, 0)
	d.ClickOn("#fit")
	d.ClickOn("#fit")
	if z := zoom(); z < 75 || !seen("#symbols .symbol") || seen("#symbols") {
		t.Errorf("of much it shows %d %%, the first step: %v, all: %v", z, seen("#symbols .symbol"), seen("#symbols"))
	}
	d.sound()
}

// A finding that one command puts right offers it, on whichever sheet it is.
func TestAFindingIsMendedByOneClick(t *testing.T) {
	d := three(t)
	x, y, _, _ := d.where("Two")
	edge := browser.Eval[float64](d.Page, "document.getElementById('page').getBoundingClientRect().right")
	d.Drag(x, y, edge, y, 0)
	if s := d.sheet(); s.Page().Holds(s.Drawn()) {
		t.Fatalf("it is still on the page: %v", s.Drawn())
	}
	d.ClickOn("[data-command=sheet-add]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 2")
	d.ClickOn("#count")
	d.Until("document.querySelector('#findings .mend')")
	d.ClickOn("#findings .mend[data-command=paper-larger]")
	d.Until("!document.querySelector('#findings .mend')")
	if s := d.sheet(); s.Paper != "A3" || !s.Page().Holds(s.Drawn()) {
		t.Errorf("mended, %v lies on %s", s.Drawn(), s.Paper)
	}
	d.sound()
}

// In the list of all symbols, which are found by what they are for, Enter takes the first, and arrows choose.
func TestSymbolsAreFoundByKeys(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.create(b, "Keys", "flowchart", "A4")
	for _, c := range []struct{ keys, kind string }{{"delay" + browser.Enter, "delay"},
		{"doc" + browser.Down + browser.Down + browser.Enter, ""},
		{"paper form somebody fills in" + browser.Enter, "document"},
		{"another procedure" + browser.Enter, "predefined-process"}} {
		d.ClickOn("#more-symbols")
		d.Until("document.activeElement.id === 'find-symbol'")
		browser.Eval[any](d.Page, "(document.getElementById('find-symbol').select(), 0)")
		d.Key(c.keys)
		d.Until("plainTracerApp.bars.state.hand && document.activeElement.id === 'drawing' && document.getElementById('all-symbols').hidden")
		if got := browser.Eval[string](d.Page, "plainTracerApp.bars.state.hand"); c.kind != "" && got != c.kind {
			t.Errorf("%q takes %q into the hand", c.keys, got)
		}
		d.Key(browser.Escape)
		d.Until("!plainTracerApp.bars.state.hand")
	}
	d.sound()
}

// From 1024 px up every tool of the strip keeps its word and nothing leaves the page.
func TestTheStripKeepsItsWords(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	for _, width := range []int64{1024, 1100, 1280, 1600} {
		d.Do(chromedp.EmulateViewport(width, 760))
		d.Until("innerWidth === " + strconv.Itoa(int(width)))
		lost := browser.Eval[[]string](d.Page,
			`[...document.querySelectorAll('.strip:not([hidden]) .group > .tool, .strip:not([hidden]) .drop:not([hidden]) > .tool')].filter(t => {
			const word = t.querySelector('span')?.getBoundingClientRect(), r = t.getBoundingClientRect()
			return !word || word.width < 4 || r.right > innerWidth + 1 || r.left < -1
			}).map(t => t.textContent.trim())`)
		if len(lost) > 0 {
			t.Errorf("at %d px these lose their word or leave the page: %q", width, lost)
		}
		if browser.Eval[bool](d.Page,
			"(e => e.scrollWidth > innerWidth || e.scrollHeight > innerHeight)(document.documentElement)") {
			t.Errorf("at %d px the page scrolls", width)
		}
	}
}

// Keys mean the same on every keyboard: Option and a letter on a Mac, digits and slashes that
// want Shift, letters of another script with Ctrl, and characters written with AltGr.
func TestKeysOfOtherKeyboards(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	press := func(init string) {
		browser.Eval[any](d.Page,
			"(document.getElementById('drawing').dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, cancelable: true, "+init+" })), 0)")
	}
	state := "plainTracerApp.bars.state"
	for _, c := range []struct{ name, key, then string }{
		{"Option G on a Mac", "key: '©', code: 'KeyG', altKey: true", "!" + state + ".on.grid"},
		{"Alt G elsewhere", "key: 'g', code: 'KeyG', altKey: true", state + ".on.grid"},
		{"Ctrl A in Cyrillic", "key: 'ф', code: 'KeyA', ctrlKey: true", state + ".selected.length > 9"},
		{"Escape", "key: 'Escape', code: 'Escape'", state + ".selected.length === 0"},
		{"Command A on a Mac", "key: 'a', code: 'KeyA', metaKey: true", state + ".selected.length > 9"},
		{"Escape again", "key: 'Escape', code: 'Escape'", state + ".selected.length === 0"},
		{"Alt G on a French keyboard, where G lies as usual", "key: 'g', code: 'KeyG', altKey: true",
			"!" + state + ".on.grid"},
	} {
		press(c.key)
		if !browser.Eval[bool](d.Page, "!!("+c.then+")") {
			t.Errorf("%s does not do what it should", c.name)
		}
	}
	// A slash that takes Shift and the 7 key swaps the answers; a digit that takes Shift appends.
	d.clickStep("Card still valid?")
	press("key: '/', code: 'Digit7', shiftKey: true")
	d.Until(state + ".undo === 'swap the answers'")
	d.Key("z", ctrl)
	// What AltGr writes is a character, not Ctrl and Alt.
	d.clickStep("Renew the card")
	press("key: '{', code: 'Digit7', ctrlKey: true, altKey: true, modifierAltGraph: true")
	d.Until("!document.getElementById('writing').hidden")
	d.Key(browser.Escape)
	d.clickStep("Renew the card")
	press("key: '6', code: 'Digit6', shiftKey: true")
	d.Until("!document.getElementById('writing').hidden && " + state + ".selected.length === 1")
	d.Key(browser.Escape)
	d.Key("z", ctrl)
	d.sound()
}
