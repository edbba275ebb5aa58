package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"plaintracer/core/editor"
	"plaintracer/core/typeset"
	"plaintracer/e2e/browser"
)

const (
	shift = chromedp.ModifierShift
	ctrl  = chromedp.ModifierCtrl
	alt   = chromedp.ModifierAlt
)

// demo returns the address of a demo map by its title.
func (s *server) demo(b *browser.Browser, title string) string {
	s.Helper()
	p := b.Open(s.URL + "/")
	defer p.Close()
	return browser.Eval[string](p,
		fmt.Sprintf("[...document.querySelectorAll('.card h2 a')].find(a => a.textContent === %q).getAttribute('href')",
			title))
}

// shownJS is everything the drawing shows, in a form to compare.
const shownJS = "['pools', 'connectors', 'symbols'].map(l => document.getElementById(l).innerHTML).join('')"

func TestEightWindowsOnOneMap(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	var windows []*desk
	for range 8 {
		windows = append(windows, s.desk(b, path))
	}
	windows[0].Until("document.getElementById('here').textContent.includes('8')")
	for i, w := range windows {
		w.clickStep("Loan slip")
		w.Key(browser.Right)
		x, y, _, _ := w.where("Renew the card")
		w.Drag(x, y, x+float64(3*i), y+float64(5*i))
		w.ClickOn(".piece[data-take=document]")
		w.Click(330+float64(40*i), 560)
		w.Key(browser.F2)
		w.writeHere(fmt.Sprint("Note ", string(rune('a'+i))))
	}
	for _, w := range windows {
		w.Until(saved +
			" && ['a','b','c','d','e','f','g','h'].every(c => document.getElementById('symbols').textContent.includes('Note ' + c) || document.getElementById('symbols').textContent.includes('Note' + c))")
	}
	windows[0].Until(saved)
	want := ""
	for i, w := range windows {
		w.Until(fmt.Sprintf("plainTracerApp.sync.revision === %d",
			browser.Eval[int](windows[0].Page, "plainTracerApp.sync.revision")))
		if got := browser.Eval[string](w.Page, shownJS); i == 0 {
			want = got
		} else if got != want {
			t.Errorf("window %d shows something else than window 0", i)
		}
		w.sound()
	}
}

// The server is killed hard between edits: every acknowledged edit is there
// when it comes back, the window says what happened, keeps working, and catches
// up by itself; another window's text typed meanwhile is not lost.
func TestKilledServerLosesNothing(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	d := s.desk(b, path)
	for round := range 3 {
		d.clickStep("Loan slip")
		for range 3 {
			d.Key(browser.Up)
		}
		d.saved()
		acknowledged := s.file(path)
		s.kill()
		d.Until("document.getElementById('saved').textContent.startsWith('No connection')")
		// Work goes on without a server.
		text := fmt.Sprint("Renew it", strings.Repeat(" again", round))
		d.rewrite("Renew the card", text)
		d.Until("document.getElementById('saved').textContent.includes('change')")
		d.rewrite(text, "Renew the card")
		s.again()
		d.saved()
		m := s.file(path)
		if got, want := m.Sheets[0].Symbol("b9").Box, acknowledged.Sheets[0].Symbol("b9").Box; got != want {
			t.Fatalf("an acknowledged move is lost: %v, not %v", got, want)
		}
		if got := m.Sheets[0].Symbol("b4").Text; got != "Renew the card" {
			t.Fatalf("what was written meanwhile is %q", got)
		}
	}
	// A tab that is closed while the server is away: the next one delivers.
	s.kill()
	d.Until("document.getElementById('saved').textContent.startsWith('No connection')")
	d.rewrite("Loan slip", "Signed slip")
	d.Until("document.getElementById('saved').textContent.includes('One change')")
	d.Close()
	s.again()
	d = s.desk(b, path)
	d.Until("document.getElementById('symbols').textContent.includes('Signed slip')")
	if got := s.file(path).Sheets[0].Symbol("b9").Text; got != "Signed slip" {
		t.Errorf("the closed tab's change is lost: %q", got)
	}
	d.sound()
}

// The core draws the same natively and in the browser, to the byte.
func TestNativeAndBrowserCoreDrawTheSame(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	for _, title := range []string{"A street light is out", "Lend a cargo bike"} {
		d := s.desk(b, s.demo(b, title))
		doc, err := json.Marshal(s.file(d.path))
		if err != nil {
			t.Fatal(err)
		}
		native := editor.New()
		if err := native.Open(doc, 0, "same"); err != nil {
			t.Fatal(err)
		}
		quoted, _ := json.Marshal(string(doc))
		turn := func(do string, mine func()) {
			t.Helper()
			mine()
			want := string(native.Flush())
			if got := browser.Eval[string](d.Page, "("+do+", plainTracer.flush())"); got != want {
				t.Fatalf("%s: after %s the browser's core says\n%.3000s\nthe native one\n%.3000s", title, do, got, want)
			}
		}
		browser.Eval[any](d.Page, "(plainTracerApp.sync.over = true, plainTracerApp.sync.socket.close(), 0)")
		turn("plainTracer.open("+string(quoted)+", 0, 'same')", func() {})
		for i, sym := range native.Sheet().Symbols {
			c := sym.Centre()
			to := c
			to.X, to.Y = to.X+(i%7-3)*1777, to.Y+(i%5-2)*1333
			turn(fmt.Sprintf("plainTracer.move(%d, %d, 700, 0), plainTracer.down(%d, %d, 700, 0), plainTracer.move(%d, %d, 700, 0)", c.X, c.Y, c.X, c.Y, to.X, to.Y), func() {
				native.Move(c, 700, 0)
				native.Down(c, 700, 0)
				native.Move(to, 700, 0)
			})
			turn(fmt.Sprintf("plainTracer.up(%d, %d, 700, 0)", to.X, to.Y), func() { native.Up(to, 700, 0) })
		}
	}
}

// Core and browser measure the same text with the same font, within half a
// pixel a line (Chromium's own getComputedTextLength).
func TestTextWidthsAgreeWithTheBrowser(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	lines := []string{"Report the light by phone or form", "AVATAR Tofu Wa. fi fl ffi", "0123456789 – “quoted” …",
		"Straße, naïve, Ørsted, Łódź", "iiiiiiiiiiiiiiiiiiiiiiiiiiiiii", "WWWWWWWWWWWWWWWWWWWW", "Ελληνικά Кириллица",
		"a  b   c    d"}
	quoted, _ := json.Marshal(lines)
	for cut := range 4 {
		bold, italic := cut%2 == 1, cut > 1
		weight, slant := map[bool]int{false: 400, true: 600}[bold],
			map[bool]string{false: "normal", true: "italic"}[italic]
		// The face has to be there before it is measured.
		face := fmt.Sprintf(`'%s %d 13px "Tracer Sans"'`, slant, weight)
		browser.Eval[any](d.Page, "(document.fonts.load("+face+"), 0)")
		d.Until("document.fonts.check(" + face + ")")
		widths := browser.Eval[[]float64](d.Page, fmt.Sprintf(`%s.map(t => {
			const e = document.createElementNS('http://www.w3.org/2000/svg', 'text')
			e.setAttribute('font-size', '13'); e.setAttribute('font-weight', '%d'); e.setAttribute('font-style', '%s'); e.textContent = t
			document.getElementById('view').append(e); const w = e.getComputedTextLength(); e.remove(); return w })`,
			quoted, weight, slant))
		for i, line := range lines {
			mine := float64(typeset.Measure(line, typeset.Style{Size: typeset.Body.Size, Bold: bold, Italic: italic})) /
				100
			if math.Abs(mine-widths[i]) > 0.5 {
				t.Errorf("%q at weight %d, %s: the core measures %.2f px, the browser %.2f", line, weight, slant, mine,
					widths[i])
			}
		}
	}
}

func TestBadInputIsRefusedInPlainWords(t *testing.T) {
	s := start(t, "demo")
	upload := func(data string) (int, string) {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		f, _ := w.CreateFormFile("file", "map.tracer.json")
		f.Write([]byte(data))
		w.Close()
		req, _ := http.NewRequest("POST", s.URL+"/maps/open", &body)
		req.Header.Set("Content-Type", w.FormDataContentType())
		req.Header.Set("Accept", "application/json")
		r, err := s.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		var said bytes.Buffer
		said.ReadFrom(r.Body)
		return r.StatusCode, said.String()
	}
	for data, want := range map[string]string{
		"": "broken", "\x89PNG\r\n": "broken here", `{"format":"plain-tracer-map","version":7}`: "version 7",
		"{\n\"format\":\"plain-tracer-map\",\n\"version\":1,\n\"titel\":\"x\"}": "Line 4",
	} {
		if code, said := upload(data); code != 400 || !strings.Contains(said, want) {
			t.Errorf("%q: %d %q, not %q", data, code, said, want)
		}
	}
	req, _ := http.NewRequest("POST", s.URL+"/maps", strings.NewReader("title=x"))
	req.Header.Set("Origin", "http://elsewhere.example")
	if r, err := http.DefaultClient.Do(req); err != nil || r.StatusCode != 403 {
		t.Errorf("a request of another site: %v, %v", r.StatusCode, err)
	}
	req, _ = http.NewRequest("GET", s.URL+"/", nil)
	req.Host = "elsewhere.example"
	if r, err := http.DefaultClient.Do(req); err != nil || r.StatusCode != 403 {
		t.Errorf("a request under another name: %v, %v", r.StatusCode, err)
	}

	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	before, _ := json.Marshal(s.file(d.path))
	d.clickStep("Loan slip")
	d.Key(browser.F2)
	d.Until("document.activeElement.id === 'writing'")
	browser.Eval[any](d.Page, "(document.getElementById('writing').value = 'x'.repeat(100000), 0)")
	d.Key(browser.Enter)
	d.Until("document.getElementById('words').textContent.includes('100000 characters') && document.activeElement.id === 'writing'")
	d.Key(browser.Escape)
	browser.Eval[any](d.Page,
		`(() => { const t = new DataTransfer(); t.items.add(new File(['x'], 'a.png', { type: 'image/png' }));
		document.getElementById('drawing').focus(); document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t })) })()`)
	d.Until("document.getElementById('words').textContent.includes('no PNG, JPEG or SVG')")
	if after, _ := json.Marshal(s.file(d.path)); !bytes.Equal(before, after) {
		t.Error("the map changed")
	}
	// Hostile messages on the socket are answered, and change nothing.
	browser.Eval[any](d.Page,
		`(() => { window.answers = []; const { window: name, secret } = plainTracerApp.sync; const w = new WebSocket(plainTracerApp.sync.address()); w.onmessage = m => answers.push(m.data)
		w.onopen = () => [JSON.stringify({ kind: 'window', window: name, secret, after: -1 }), 'rubbish', '{}', '{"kind":"edit","seq":1001,"edit":{"do":"explode"}}', '{"kind":"edit","seq":1002,"edit":{"do":"setText","sheet":"lend","id":"nobody","text":"x"}}',
			'{"kind":"edit","window":"wother","seq":1003,"edit":{"do":"setHead","title":"Stolen"}}'].forEach(x => w.send(x)) })()`)
	d.Until("answers.filter(a => a.includes('refused')).length === 5 && answers.some(a => a.includes('nobody')) && answers.some(a => a.includes('another window'))")
	// Nobody is taken for a window whose secret they do not have.
	browser.Eval[any](d.Page,
		`(() => { window.answers = []; const { window: name } = plainTracerApp.sync; const w = new WebSocket(plainTracerApp.sync.address()); w.onmessage = m => answers.push(m.data); w.onclose = () => answers.push('closed')
		w.onopen = () => [JSON.stringify({ kind: 'window', window: name, secret: 'guessed', after: -1 }), '{"kind":"edit","seq":1,"edit":{"do":"setHead","title":"Stolen"}}'].forEach(x => w.send(x)) })()`)
	d.Until("answers.includes('closed') && answers.some(a => a.includes('not known')) && !answers.some(a => a.includes('saved'))")
	if after, _ := json.Marshal(s.file(d.path)); !bytes.Equal(before, after) {
		t.Error("the map changed")
	}
}

func TestHomePage(t *testing.T) {
	s := start(t, "demo")
	p := browser.Start(t).Open(s.URL + "/")
	titles := "[...document.querySelectorAll('.card h2')].map(h => h.textContent).join('|')"
	p.Until(titles +
		" === 'A street light is out|Who is who in street lighting|Lend a cargo bike' && [...document.images].every(i => i.naturalWidth > 0)")
	p.ClickOn(".card:nth-child(3) summary")
	p.ClickOn(".card:nth-child(3) form[action$=copy] button")
	p.Until(titles + " === 'Copy of Lend a cargo bike|A street light is out|Who is who in street lighting|Lend a cargo bike'")
	p.ClickOn(".card:first-child summary")
	p.ClickOn(".card:first-child [data-rename]")
	p.Key("Bikes" + browser.Enter)
	p.Until(titles + ".startsWith('Bikes|')")
	p.ClickOn(".card:first-child summary")
	p.ClickOn(".card:first-child form[action$=delete] button")
	p.Until(titles + " === 'A street light is out|Who is who in street lighting|Lend a cargo bike'")
	p.ClickOn(".tree a[href='/bin']")
	p.Until("document.querySelector('.rows')?.textContent.includes('Bikes')")
	p.ClickOn(".rows button")
	p.Until(titles + ".includes('Bikes')")
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the page reports %q", faults)
	}
}
