package e2e

import (
	"errors"
	"fmt"
	"net/http"
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
		browser.Eval[any](d.Page, fmt.Sprintf(`(() => { const f = document.querySelector('.new-link [name=%s]'); if (f.type === 'checkbox') f.checked = true; else f.value = %q })()`, pairs[i], pairs[i+1]))
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

// A link says whom it is for, asks for its passcode, and is followed until it is withdrawn; the owner sees how often, and
// the link itself only once.
func TestALinkWithAPasscode(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	link := d.link("note", "The roads department", "passcode", "lamp post", "until", time.Now().AddDate(0, 0, 3).Format(time.DateOnly))
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
		if code, body := get(t, link+path); code != http.StatusUnauthorized || strings.Contains(string(body), "Inspect") {
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
	d.Until("document.querySelector('#links li')?.textContent.includes('The roads department') && document.querySelector('#links li').textContent.includes('with a passcode') && document.querySelector('#links li').textContent.includes('followed 2 times')")
	if token := link[strings.LastIndex(link, "/")+1:]; strings.Contains(browser.Eval[string](d.Page, "document.documentElement.outerHTML"), token) || !strings.Contains(d.Text("#links li code"), token[:4]) {
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
	if r := ask(open + "/picture.svg"); r.StatusCode != 200 || r.Header.Get("Cross-Origin-Resource-Policy") != "cross-origin" || !strings.Contains(r.Header.Get("X-Robots-Tag"), "noindex") {
		t.Errorf("the picture: %d %v", r.StatusCode, r.Header)
	}
	if r := ask(open + "/frame"); r.StatusCode != 200 || !strings.Contains(r.Header.Get("Content-Security-Policy"), "frame-ancestors https://wiki.example http://127.0.0.1:9") {
		t.Errorf("the frame: %d %v", r.StatusCode, r.Header)
	}
	frame := b.Open(open + "/frame")
	frame.Until("document.querySelector('img').naturalWidth > 0 && /as of .*revision \\d+/.test(document.body.textContent)")
	frame.Close()
	reader := b.Open(open)
	reader.Until("document.querySelectorAll('.saves a').length === 2")
	reader.Close()
	for _, wrong := range [][2]string{{"sites", "javascript:alert(1)"}, {"passcode", "abc"}, {"until", "2020-01-01"}} {
		if code, body, _ := s.Post(d.path+"/links", url.Values{wrong[0]: {wrong[1]}}); code != 200 || !strings.Contains(body, "refusal") {
			t.Errorf("a link with %v: %d", wrong, code)
		}
	}
	d.ClickOn("#share")
	d.Until("document.querySelectorAll('#links li').length === 2") // none of the wrong ones was made
	d.sound()
}
