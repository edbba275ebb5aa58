package e2e

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"plaintracer/e2e/browser"
)

// keyboard is a person without a mouse: the keys are counted, but for those of texts.
type keyboard struct {
	*desk
	n int
}

// press presses a key so many times, and looks at what has the focus then.
func (k *keyboard) press(key string, times int, mods ...chromedp.Modifier) {
	k.s.Helper()
	for range times {
		k.Key(key, mods...)
		k.n++
		if at := browser.Eval[[]string](k.Page, stopJS); at[1] != "" && at[0] != "drawing" {
			k.s.Errorf("after %d keys: %s: %s", k.n, at[0], at[1])
		}
	}
}

// write types a text where the focus is.
func (k *keyboard) write(text string) {
	k.s.Helper()
	k.Key(text)
}

// command runs a command by what it is called.
func (k *keyboard) command(called string) {
	k.s.Helper()
	k.press("k", 1, ctrl)
	k.Until("document.activeElement.matches('.finder input, dialog input')")
	k.write(called)
	k.press(browser.Enter, 1)
}

// to presses Tab, or another key, until something has the focus that a selector matches.
func (k *keyboard) to(selector, key string) {
	k.s.Helper()
	for range 40 {
		if browser.Eval[bool](k.Page, fmt.Sprintf("document.activeElement.matches(%q)", selector)) {
			return
		}
		k.press(key, 1)
	}
	k.s.Fatalf("%d times %q do not come to %s", 40, key, selector)
}

// A whole map by keys alone, in 180 of them beside its texts: three lanes, eight steps and a loop, a lane that gets
// another name, a colour, numbers, a field that is filled, a remark, a review that is asked for, a PDF, a link, and
// signing out.
func TestAWholeMapByKeysAlone(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	p := b.Open(s.URL + "/begin")
	k := &keyboard{desk: &desk{Page: p, s: s}}
	stage := func(name string) { t.Logf("%3d keys: %s", k.n, name) }
	p.Until("document.activeElement.name === 'title'")
	k.write("Lend a tool")
	k.to("[name=roles]", browser.Tab)
	k.write("Resident\nCounter\nStores")
	k.to("#create", browser.Tab)
	k.press(browser.Enter, 1)
	p.Until("location.pathname.startsWith('/maps/')")
	k.ready()
	k.path = browser.Eval[string](p, "location.pathname")
	stage("begun")

	writing := func() { k.Until("!document.getElementById('writing').hidden") }
	k.press("3", 1)
	writing()
	k.write("A tool is wanted")
	for i, text := range []string{"Ask for the tool", "Look in the list", "Is it in?", "Take it from the shelf",
		"Note the name",
		"Hand it over", "Tool is lent"} {
		k.press(browser.Tab, 1)
		writing()
		k.write(text)
		if i == 1 || i == 3 { // the counter looks, the stores take
			k.press(browser.Down, 1, ctrl)
			writing()
		}
	}
	k.press(browser.Enter, 1)
	k.Until("document.activeElement.id === 'drawing'")
	stage("eight steps")

	// The loop: where it is not in, the resident asks again.
	k.press("f", 1, ctrl)
	k.write("Is it in")
	k.press(browser.Enter, 1)
	k.press(browser.Escape, 1)
	k.command("colour fill lake")
	k.Until("document.activeElement.id === 'drawing'")
	stage("a colour")
	k.press("l", 1, ctrl)
	k.write("ask for")
	k.press(browser.Enter, 1)
	k.saved()
	k.press(browser.Escape, 1)
	stage("a loop")

	k.press(browser.F4, 1)
	k.press(browser.F2, 1)
	writing()
	k.press("a", 1, ctrl)
	k.write("Front desk")
	k.press(browser.Enter, 1)
	k.saved()
	stage("a lane has another name")

	k.command("step numbers")
	k.saved()
	stage("numbers")

	// A field of the map, filled for the first step in the table.
	k.command("fields of the map")
	k.Until("document.getElementById('fields-dialog').open")
	k.to("#field-name", browser.Tab)
	k.write("System")
	k.press(browser.Enter, 1)
	k.Until("document.querySelectorAll('#fields-list li').length === 1")
	k.press(browser.Escape, 1)
	k.Until("!document.getElementById('fields-dialog').open")
	k.press(browser.End, 1)
	k.write("Tool list")
	k.press(browser.Enter, 1)
	k.saved()
	stage("a field is filled")
	k.press("t", 1, alt)
	k.Until("document.activeElement.id === 'drawing'")

	k.press("r", 1, alt)
	k.Until("document.activeElement.matches('#said-here textarea')")
	k.write("Which list is that?")
	k.to("#said-here button.primary", browser.Tab)
	k.press(browser.Enter, 1)
	k.Until("[...document.querySelectorAll('#said-threads, #remarks')]" +
		".some(e => e.textContent.includes('Which list is that?'))")
	stage("a remark")
	k.press(browser.Escape, 1)
	k.Until("document.activeElement.id === 'drawing'")

	k.command("ask for a review")
	k.Until("document.querySelector('.asking summary')?.offsetParent")
	k.to(".asking summary", browser.Tab)
	k.press(browser.Enter, 1)
	k.to(".asking input[name=person]", browser.Tab)
	k.press(" ", 1)
	k.to(".asking button.primary", browser.Tab)
	k.press(browser.Enter, 1)
	k.Until("document.querySelector('section.round')")
	stage("a review is asked for")

	folder := t.TempDir()
	p.Downloads(folder)
	k.command("pdf")
	k.Until("document.getElementById('export-dialog').open && document.querySelector('[name=format]:checked').value === 'pdf'")
	k.to("#export-save", browser.Tab)
	k.press(browser.Enter, 1)
	waitFor(t, "the PDF", func() bool {
		files, _ := filepath.Glob(filepath.Join(folder, "*.pdf"))
		return len(files) == 1
	})
	k.press(browser.Escape, 1)
	k.Until("!document.getElementById('export-dialog').open")
	stage("a PDF")

	k.command("share by a link")
	k.Until("document.getElementById('share-dialog').open && document.querySelector('#links .new-link button')")
	k.to("#links .new-link button", browser.Tab)
	k.press(browser.Enter, 1)
	k.Until("document.querySelector('#links [data-made]')")
	k.press(browser.Escape, 1)
	k.Until("!document.getElementById('share-dialog').open")
	stage("a link")

	m := s.file(k.path)
	k.command("sign out")
	p.Until("location.pathname === '/me'")
	k.to(".who-menu summary", browser.Tab)
	k.press(browser.Enter, 1)
	k.to("[action='/sign-out'] button", browser.Tab)
	k.press(browser.Enter, 1)
	p.Until("location.pathname === '/sign-in'")
	stage("signed out")

	if k.n > 180 {
		t.Errorf("it took %d keys", k.n)
	}
	sheet := m.Sheets[0]
	var lanes []string
	for _, lane := range sheet.Pools[0].Lanes {
		lanes = append(lanes, lane.Name)
	}
	if got := strings.Join(lanes, ", "); got != "Resident, Front desk, Stores" {
		t.Errorf("the lanes are %s", got)
	}
	if len(sheet.Symbols) != 8 || len(sheet.Connectors) != 8 {
		t.Errorf("there are %d symbols and %d connectors", len(sheet.Symbols), len(sheet.Connectors))
	}
	coloured, filled := 0, 0
	for _, sym := range sheet.Symbols {
		if sym.Fill == "lake" {
			coloured++
		}
		if len(m.Fields) == 1 && sym.Value(m.Fields[0].ID) == "Tool list" {
			filled++
		}
	}
	if coloured != 1 || filled != 1 {
		t.Errorf("%d steps are coloured, in %d a field is filled", coloured, filled)
	}
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the pages report %q", faults)
	}
}

// waitFor waits until something is so.
func waitFor(t *testing.T, what string, so func() bool) {
	t.Helper()
	for end := time.Now().Add(45 * time.Second); !so(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("waited in vain for %s", what)
		}
	}
}
