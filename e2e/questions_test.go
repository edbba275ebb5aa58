package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"

	"plaintracer/e2e/browser"
)

// A table as somebody else has written it, in letters that it does not name, becomes a map by a step that shows what is
// taken for what: one sees it, changes it, takes it back by Escape, and opens it by keys alone.
func TestATableByAnotherHandIsAskedAbout(t *testing.T) {
	s := start(t, "demo")
	p := browser.Start(t).Open(s.URL + "/")
	table, err := os.ReadFile(filepath.Join("..", "exchange", "intake", "testdata", "de-antrag.csv"))
	if err != nil {
		t.Fatal(err)
	}
	words := func() string {
		return browser.Eval[string](p, "document.querySelector('dialog.asked').textContent.replace(/\\s+/g, ' ')")
	}
	drop(p, "main", "Antrag.csv", "text/csv", table)
	p.Until("document.querySelector('dialog.asked')?.open")
	if got := words(); !strings.Contains(got, "Is “Zuständig” right?") || !strings.Contains(got,
		"7 steps with 7 ways") {
		t.Errorf("asked is %q", got)
	}
	p.Key(browser.Escape)
	p.Until("!document.querySelector('dialog.asked') && location.pathname === '/'")

	drop(p, "main", "Antrag.csv", "text/csv", table)
	p.Until("document.querySelector('dialog.asked')?.open")
	choose := func(name, value string) {
		browser.Eval[any](p,
			`(() => { const s = document.querySelector('dialog.asked [name="`+name+`"]'); s.focus(); s.value = '`+value+
				`'; s.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	}
	choose("encoding", "macintosh")
	p.Until("!document.querySelector('dialog.asked').textContent.includes('Zuständig')")
	choose("encoding", "windows-1252")
	p.Until("document.querySelector('dialog.asked').textContent.includes('Zuständig')")
	choose("column-3", "field") // what comes next is no more said
	choose("blank", "next")
	p.Until("document.querySelector('dialog.asked').textContent.includes('7 steps with 6 ways')")
	if got := browser.Eval[string](p, "document.activeElement.name"); got != "blank" {
		t.Errorf("after a choice the focus is on %q", got)
	}
	choose("column-1", "nothing")
	p.Until("document.querySelector('dialog.asked .refusal') && document.querySelector('dialog.asked .primary').disabled")
	choose("column-1", "text")
	choose("column-3", "next")
	choose("blank", "end")
	p.Until("document.querySelector('dialog.asked').textContent.includes('7 steps with 7 ways') && !document.querySelector('dialog.asked .primary').disabled")
	accessible(t, p, "the question", "document.querySelector('dialog.asked')")
	browser.Eval[any](p, "document.querySelector('dialog.asked .primary').focus()")
	p.Key(browser.Enter)
	p.Until("location.pathname.startsWith('/maps/') && document.documentElement.dataset.ready")
	p.Until("document.getElementById('symbols').textContent.includes('Ablehnung')")
	if got := browser.Eval[int](p, "document.querySelectorAll('#connectors > g').length"); got != 7 {
		t.Errorf("%d connectors", got)
	}
}

// A picture whose texts somebody has changed in another program asks whether these are to be taken.
func TestAPictureThatWasChangedElsewhereAsks(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	_, file := get(t, s.URL+path+"/export/svg")
	text := string(file)
	const was, now = ">Renew the card<", ">Renew the blue card<"
	if !strings.Contains(text, was) {
		t.Fatalf("the picture has no %s", was)
	}
	text = strings.Replace(text, was, now, 1)
	p := b.Open(s.URL + "/")
	for button, want := range map[string]bool{"take": true, "leave": false} {
		drop(p, "main", "lend.svg", "image/svg+xml", []byte(text))
		p.Until("document.querySelector('dialog.asked')?.open && document.querySelector('dialog.asked').textContent.includes('the blue card')")
		p.ClickOn("dialog.asked [value=" + button + "]")
		p.Until("location.pathname.startsWith('/maps/') && document.documentElement.dataset.ready")
		if got := browser.Eval[bool](p,
			"document.getElementById('symbols').textContent.replace(/\\s/g, '').includes('thebluecard')"); got != want {
			t.Errorf("after %s the text is there: %v", button, got)
		}
		p.Go(s.URL + "/")
	}
}

// A register that comes back in letters it does not name says how it was read, and is read otherwise on wish; what a
// colleague said of a cell becomes a remark.
func TestARegisterComesBackInOtherLetters(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	_, file := get(t, s.URL+d.path+"/export/register-csv")
	text := strings.TrimPrefix(strings.Replace(string(file), "Renew the card", "Erneuere die gültige Karte", 1),
		"\ufeff")
	western, err := charmap.Windows1252.NewEncoder().String(strings.Map(func(r rune) rune {
		if r > 0xff {
			return '?'
		}
		return r
	}, text))
	if err != nil {
		t.Fatal(err)
	}
	give := func(name string, data []byte) {
		path := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		d.Choose("#wide-file", path)
	}
	give("back.csv", []byte(western))
	d.Until("document.getElementById('taken-dialog').open && document.getElementById('taken-doubt').textContent.includes('gültige')")
	readAs := func(encoding string) {
		browser.Eval[any](d.Page, "(() => { const s = document.getElementById('taken-encoding'); s.value = '"+encoding+
			"'; s.dispatchEvent(new Event('change')) })()")
	}
	browser.Eval[any](d.Page, "document.getElementById('taken').replaceChildren()")
	readAs("windows-1250")
	d.Until("document.getElementById('taken-encoding').value === 'windows-1250' && document.getElementById('taken').textContent.includes('Karte')")

	// An answer that comes when the dialog was shut opens it no more.
	browser.Eval[any](d.Page, `(() => {
		const real = window.fetch
		window.fetch = async (...all) => {
			const answer = await real(...all)
			window.held = true
			await new Promise(go => { window.letGo = go })
			const text = await answer.text()
			setTimeout(() => { window.heard = true })
			window.fetch = real
			return new Response(text, answer)
		}
	})()`)
	readAs("windows-1252")
	d.Until("window.held")
	d.Key(browser.Escape)
	d.Until("!document.getElementById('taken-dialog').open")
	browser.Eval[any](d.Page, "window.letGo()")
	d.Until("window.heard")
	d.Until("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))")
	if browser.Eval[bool](d.Page, "document.getElementById('taken-dialog').open") {
		t.Error("a late answer opens the dialog that was shut")
	}

	_, sheet := get(t, s.URL+d.path+"/export/register-xlsx")
	book, err := excelize.OpenReader(bytes.NewReader(sheet))
	if err != nil {
		t.Fatal(err)
	}
	if err := book.AddComment("Register", excelize.Comment{Cell: "B2", Author: "Maria Lind",
		Text: "Is this still so?"}); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := book.Write(&out); err != nil {
		t.Fatal(err)
	}
	give("back.xlsx", out.Bytes())
	d.Until("document.getElementById('taken-dialog').open && document.getElementById('taken').textContent.includes('Maria Lind: Is this still so?')")
	d.ClickOn("#taken-take")
	d.Until("document.querySelector('#words [role=status]').textContent.includes('One comment is a remark now')")
	d.sound()
}
