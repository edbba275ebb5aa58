package e2e

import (
	"bytes"
	"errors"
	"fmt"
	"image/png"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"plaintracer/e2e/browser"
	"plaintracer/exchange/carrier"
)

// link makes a link with what is written into the form, in pairs of a field and a value, and returns it.
func (d *desk) link(pairs ...string) string {
	d.s.Helper()
	d.ClickOn("#share")
	d.Until("document.querySelector('#links .new-link') && !document.querySelector('.htmx-request')")
	for i := 0; i < len(pairs); i += 2 {
		browser.Eval[any](d.Page,
			fmt.Sprintf(`(() => { const f = document.querySelector('.new-link [name=%s]'); if (f.type === 'checkbox') f.checked = true; else f.value = %q })()`, pairs[i], pairs[i+1]))
	}
	d.ClickOn("#links .new-link button")
	d.Until("document.querySelector('#links [data-made], #links .refusal')")
	made := browser.Eval[string](d.Page, "document.querySelector('#links [data-made]')?.value ?? ''")
	if made == "" {
		d.s.Fatalf("no link was made: %s", d.Text("#links .refusal"))
	}
	d.ClickOn("#share-dialog .end button")
	return made
}

// A link says whom it is for, asks for its passcode, and is followed until it is withdrawn; the owner sees how often,
// and the link itself only once.
func TestALinkWithAPasscode(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	link := d.link("note", "The roads department", "passcode", "lamp post", "until",
		time.Now().AddDate(0, 0, 3).Format(time.DateOnly))
	reader := b.Open(link)
	reader.Until("document.querySelector('[name=passcode]')")
	if strings.Contains(reader.Text("body"), "street light") {
		t.Error("the page before the passcode shows the title of the map")
	}
	reader.ClickOn("[name=passcode]")
	reader.Key("lamp pole" + browser.Enter)
	reader.Until("document.body.textContent.includes('not the passcode')")
	reader.ClickOn("[name=passcode]")
	reader.Key("lamp post" + browser.Enter)
	reader.Until("document.getElementById('live')?.textContent === 'Live'")
	for _, path := range []string{"", "/export/pdf", "/picture.svg", "/sheet/x", "/face/x"} {
		if code, body := get(t, link+path); code != http.StatusUnauthorized ||
			strings.Contains(string(body), "Inspect") {
			t.Errorf("%s without the passcode answers %d", path, code)
		}
	}
	// Who goes on guessing waits longer and longer; who has it already does not.
	slowed := false
	for range 6 {
		r, err := http.PostForm(link+"/enter", url.Values{"passcode": {"wrong one"}})
		if err != nil {
			t.Fatal(err)
		}
		r.Body.Close()
		_, body := get(t, link)
		slowed = slowed || r.StatusCode == http.StatusUnauthorized && !strings.Contains(string(body), "street light")
	}
	r, err := http.PostForm(link+"/enter", url.Values{"passcode": {"lamp post"}})
	if err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	if r.StatusCode != http.StatusUnauthorized || !slowed {
		t.Errorf("after many wrong tries the right one answers %d at once", r.StatusCode)
	}
	reader.Go(link)
	reader.Until("document.getElementById('live')?.textContent === 'Live'")
	d.ClickOn("#share")
	d.Until("['The roads department', 'with a passcode', 'opened 2 times'].every(" +
		"said => document.querySelector('#links li')?.textContent.includes(said))")
	if token := link[strings.LastIndex(link, "/")+1:]; strings.Contains(browser.Eval[string](d.Page,
		"document.documentElement.outerHTML"), token) || !strings.Contains(d.Text("#links li code"), token[:4]) {
		t.Error("the list shows the link itself, or not how it begins")
	}
	d.ClickOn("#links li button")
	reader.Until("document.body.textContent.includes('This link ended on')")
	reader.Close()
	d.sound()
}

// Readers save what they see, and other pages show the current picture, only where the link says so; the map itself
// never goes out by a link.
func TestWhatALinkAllows(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	plain := d.link()
	open := d.link("download", "yes", "embed", "yes", "sites", "https://wiki.example http://127.0.0.1:9")
	ask := func(address string) *http.Response {
		t.Helper()
		r, err := http.Get(address)
		if err != nil {
			t.Fatal(err)
		}
		r.Body.Close()
		return r
	}
	for _, path := range []string{"/export/pdf", "/export/map", "/picture.svg", "/picture.png", "/frame"} {
		if r := ask(plain + path); r.StatusCode != http.StatusForbidden {
			t.Errorf("a link to read answers %s with %d", path, r.StatusCode)
		}
	}
	code, file := get(t, open+"/export/pdf?inside=yes")
	if _, err := carrier.Inside(file); code != 200 || !errors.Is(err, carrier.ErrNone) {
		t.Errorf("the PDF of a reader answers %d, with a map inside: %v", code, err)
	}
	if r := ask(open + "/export/map"); r.StatusCode != http.StatusForbidden {
		t.Errorf("a reader can save the map: %d", r.StatusCode)
	}
	if r := ask(open + "/picture.svg"); r.StatusCode != 200 ||
		r.Header.Get("Cross-Origin-Resource-Policy") != "cross-origin" ||
		!strings.Contains(r.Header.Get("X-Robots-Tag"), "noindex") {
		t.Errorf("the picture: %d %v", r.StatusCode, r.Header)
	}
	if r := ask(open + "/frame"); r.StatusCode != 200 || !strings.Contains(r.Header.Get("Content-Security-Policy"),
		"frame-ancestors https://wiki.example http://127.0.0.1:9") {
		t.Errorf("the frame: %d %v", r.StatusCode, r.Header)
	}
	frame := b.Open(open + "/frame")
	frame.Until("document.querySelector('img').naturalWidth > 0 && /as of .*revision \\d+/.test(document.body.textContent)")
	frame.Close()
	reader := b.Open(open)
	reader.Until("document.querySelectorAll('.saves a').length === 2")
	reader.Close()
	for _, wrong := range [][2]string{{"sites", "javascript:alert(1)"}, {"passcode", "abc"}, {"until", "2020-01-01"}} {
		if code, body, _ := s.Post(d.path+"/links", url.Values{wrong[0]: {wrong[1]}}); code != 200 ||
			!strings.Contains(body, "refusal") {
			t.Errorf("a link with %v: %d", wrong, code)
		}
	}
	d.ClickOn("#share")
	d.Until("document.querySelectorAll('#links li').length === 2") // none of the wrong ones was made
	d.sound()
}

// What Share gives for other pages works as it is given: in a frame on a page of another origin, and as a picture on
// any.
func TestAMapOnAnotherPage(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	var page string
	wiki := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprint(w, "<!doctype html><title>A wiki</title>", page)
	}))
	defer wiki.Close()
	site := strings.Replace(wiki.URL, "127.0.0.1", "localhost", 1) // another host than that of the map
	given := func(what string) string {
		return browser.Eval[string](d.Page, "document.querySelector('#links [data-"+what+"]')?.value ?? ''")
	}
	d.link("embed", "yes", "sites", site, "note", "The wiki")
	frame, picture := given("frame"), given("picture")
	if !strings.HasPrefix(frame, "<iframe ") || !strings.HasPrefix(picture, "<img ") {
		t.Fatalf("Share gives %q and %q", frame, picture)
	}
	page = frame + picture
	p := b.Open(site)
	p.Until("document.querySelector('img').naturalWidth > 100 && document.querySelector('iframe')")
	// What stands in a frame of another origin cannot be asked; what is painted there can be seen.
	x, y := p.Middle("iframe")
	dark := func() bool {
		img, err := png.Decode(bytes.NewReader(p.PictureOf(x-200, y-150, 400, 300, 1)))
		if err != nil {
			t.Fatal(err)
		}
		ink := 0
		for py := img.Bounds().Min.Y; py < img.Bounds().Max.Y; py++ {
			for px := img.Bounds().Min.X; px < img.Bounds().Max.X; px++ {
				if r, g, bl, _ := img.At(px, py).RGBA(); r+g+bl < 3*0x7000 {
					ink++
				}
			}
		}
		return ink > 300
	}
	shown := false
	for late := time.Now().Add(20 * time.Second); !shown && time.Now().Before(late); {
		shown = dark()
	}
	if !shown {
		t.Error("the frame on another page shows nothing")
	}
	// Another sheet, size, look and format are chosen there; where frames are taken out, their picture stays.
	browser.Eval[any](d.Page,
		`(() => { for (const [part, value] of [['width', 640], ['look', 'print'], ['format', 'png']]) { const f = document.querySelector('#links [data-part=' + part + ']'); f.value = value; f.dispatchEvent(new Event('input', { bubbles: true })) } })()`)
	frame, picture = given("frame"), given("picture")
	if !strings.Contains(picture, "/picture.png?look=print&amp;width=640") || !strings.Contains(picture,
		`width="640" height="`) ||
		!strings.Contains(frame, "/frame?look=print") || !strings.Contains(frame, `title="Lend a cargo bike"`) ||
		!strings.Contains(frame, picture) {
		t.Errorf("chosen, Share gives %q and %q", frame, picture)
	}
	page = strings.NewReplacer("<iframe", "<div", "</iframe>", "</div>").Replace(frame)
	stripped := b.Open(site)
	stripped.Until("(i => Math.abs(i.naturalWidth - 640) < 2 && Math.abs(i.naturalHeight - i.height) < 2)(document.querySelector('a img'))")
	stripped.Close()
	page = frame + picture
	// A page that is not named shows nothing in a frame, and its picture all the same.
	other := b.Open(wiki.URL)
	other.Until("document.querySelector('img').naturalWidth > 100")
	d.sound()
}

// Whoever reads a map traces a case through it: by a link, on a phone, by touch and by keys, over sheets, and while it
// changes.
func TestReadersTrace(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	link := d.link()
	other := browser.Start(t)
	p := other.Open("about:blank")
	p.Phone(390, 780)
	p.Go(link)
	p.Until("document.getElementById('live')?.textContent === 'Live'")
	p.ClickOn("#trace")
	p.Until("!document.getElementById('case').hidden && document.getElementById('case-at').textContent.includes('A street light is out')")
	if wide := browser.Eval[float64](p, "document.documentElement.scrollWidth"); wide > 390 {
		t.Errorf("while a case is traced the page is %v pixels wide on a phone of 390", wide)
	}
	on := func(label, at string) {
		t.Helper()
		browser.Eval[any](p,
			fmt.Sprintf("[...document.querySelectorAll('#case-exits button')].find(b => b.textContent.startsWith(%q))?.click()", label))
		p.Until(fmt.Sprintf("document.getElementById('case-at').textContent.includes(%q) && document.querySelectorAll('#sheet .standing').length === 1", at))
	}
	on("Report the light", "Report the light")
	on("Log the report", "Log the report")
	on("Look up", "Look up the pole number")
	on("Reported before?", "Reported before?")
	if exits := browser.Eval[string](p,
		"[...document.querySelectorAll('#case-exits button')].map(b => b.textContent).join('; ')"); exits != "Yes: Give the date of the repair; No: Inspect the light on site" {
		t.Errorf("the ways on are %s", exits)
	}
	at := browser.Eval[[]float64](p,
		"(r => [r.left, r.right, r.top, r.bottom])(document.querySelector('#sheet .standing').getBoundingClientRect())")
	if at[0] < 0 || at[1] > 390 || at[2] < 0 || at[3] > 780 {
		t.Errorf("where the case is lies out of sight: %v", at)
	}
	p.ClickOn("#case-back")
	p.Until("document.getElementById('case-at').textContent.includes('Look up')")
	browser.Eval[any](p, "document.getElementById('reading').focus()")
	p.Key(browser.Enter)
	p.Until("document.getElementById('case-at').textContent.includes('Reported before?')")
	p.Key("2")
	p.Until("document.getElementById('case-at').textContent.includes('Inspect the light')")
	// The map changes meanwhile: the way stays marked.
	walked := browser.Eval[int](p, "document.querySelectorAll('#sheet .walked').length")
	d.rewrite("Inspect the light on site", "Inspect the lamp on site")
	p.Until("document.getElementById('sheet').textContent.includes('Inspect the lamp') && document.getElementById('case-at').textContent.includes('lamp on site') && document.querySelectorAll('#sheet .standing').length === 1")
	if n := browser.Eval[int](p, "document.querySelectorAll('#sheet .walked').length"); n != walked || n < 4 {
		t.Errorf("%d connectors are walked, %d before the change", n, walked)
	}
	on("Fault in the lamp?", "Fault in the lamp?")
	on("Yes", "Write the work order")
	tab := "document.querySelector('.reader-bar .tabs [aria-current]').textContent"
	for range 8 { // on to the other sheet, by the references
		if browser.Eval[string](p, tab) == "Repair" {
			break
		}
		was := browser.Eval[string](p, "document.getElementById('case-who').textContent")
		browser.Eval[any](p, "document.querySelector('#case-exits button')?.click()")
		p.Until(fmt.Sprintf("document.getElementById('case-who').textContent !== %q && document.querySelectorAll('#sheet .standing').length === 1", was))
	}
	if on := browser.Eval[string](p, tab); on != "Repair" {
		t.Errorf("the case goes on on %s", on)
	}
	p.Key(browser.Escape)
	p.Until("document.getElementById('case').hidden && !document.querySelector('#sheet .walked, #sheet .standing')")
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the phone reports %q", faults)
	}
}
