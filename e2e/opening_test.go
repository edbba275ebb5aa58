package e2e

import (
	"flag"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"testing"

	"plaintracer/e2e/browser"
)

// What is clicked and typed while the core is still on its way is done once it is there.
func TestWhatIsDoneBeforeTheCoreIsThereIsNotLost(t *testing.T) {
	s, path := stock(t, lamp())
	came := make(chan struct{}) // closed when the core may come
	between := s.through(func(r *http.Request) bool {
		if strings.HasSuffix(r.URL.Path, ".wasm") {
			select {
			case <-came:
			case <-r.Context().Done():
			}
		}
		return true
	})
	d := &desk{browser.Start(t).Open(between + path), s, path}
	d.Until(firstPaint + " > 0 && document.readyState === 'complete'")
	x, y := d.Middle("#n-date")
	d.Click(x, y)
	for _, letter := range "Set a day" {
		d.Key(string(letter))
	}
	d.Key(browser.Enter)
	x, y = d.Middle("#n-look")
	d.Drag(x, y, x, y+60)
	d.Until("window.plainTracerAhead")
	if browser.Eval[bool](d.Page, "!!window.plainTracer") {
		t.Fatal("the core is there before it was let through")
	}
	x, y = d.Middle("#numbers")
	d.Click(x, y)
	below := s.file(path).Sheets[0].Symbol("look").Y
	close(came)
	d.Until("document.documentElement.dataset.ready")
	d.saved()
	if text := d.symbol("date").Text; text != "Set a day" {
		t.Errorf("the text that was typed reads %q", text)
	}
	if moved := d.symbol("look").Y; moved <= below {
		t.Errorf("the step that was dragged stands at %d, before at %d", moved, below)
	}
	if !browser.Eval[bool](d.Page, "document.getElementById('numbers').getAttribute('aria-expanded') === 'true'") {
		t.Error("the menu that was clicked is not open")
	}
	d.sound()
}

// through returns an address at which the server is reached as far as a request is let through, which may take a while.
func (s *server) through(let func(r *http.Request) bool) string {
	s.Helper()
	to, err := url.Parse(s.URL)
	if err != nil {
		s.Fatal(err)
	}
	proxy := httputil.NewSingleHostReverseProxy(to)
	between := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if let(r) {
			proxy.ServeHTTP(w, r)
		} else {
			w.WriteHeader(http.StatusServiceUnavailable)
		}
	}))
	s.Cleanup(between.Close)
	return between.URL
}

// A library of the page that does not come takes its menus, and nothing else: the page says so, and the map can be
// drawn.
func TestAMapOpensWithoutItsMenus(t *testing.T) {
	s, path := stock(t, lamp())
	between := s.through(func(r *http.Request) bool { return !strings.Contains(r.URL.Path, "alpine") })
	d := &desk{browser.Start(t).Open(between + path), s, path}
	d.ready()
	if said := d.Text("#words"); !strings.Contains(said, "could not be fetched") {
		t.Errorf("it says %q", said)
	}
	d.clickStep("Known?")
	d.Key(browser.Delete)
	d.saved()
	if n := len(s.file(path).Sheets[0].Symbols); n != len(lamp().Sheets[0].Symbols)-1 {
		t.Errorf("after one was removed there are %d", n)
	}
}

var opened = flag.Int("opened", 200, "how many symbols the sheet has whose opening is measured")

// stages are the marks that the page sets while it opens a map, in order.
var stages = []struct{ mark, what string }{
	{"responseStart", "the page begins to arrive"},
	{"responseEnd", "the page is there"},
	{"scripts", "its scripts have run"},
	{"core compiled", "the core is fetched and compiled"},
	{"core began", "its runtime and packages have started"},
	{"core started", "its functions are set up"},
	{"map there", "the map is there"},
	{"map read", "it is read and checked"},
	{"cleared up", "what reading left is cleared up"},
	{"numbers", "the flow and the numbers are known"},
	{"routing", "all connectors are routed"},
	{"picture", "the picture is written"},
	{"drawn", "the page has drawn it"},
	{"ready", "the first key is answered"},
}

// firstPaint is when the page that opens a map is first seen, which is not before it holds the picture; -1 before that.
const firstPaint = "(performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? -1)"

// The marks are all set and in order. With -v it prints where the time goes, as the median of some openings.
func TestOpeningIsMarked(t *testing.T) {
	s, path := stock(t, hall(*opened, true))
	p := browser.Start(t).Open(s.URL + "/")
	rounds := 1
	if testing.Verbose() {
		rounds = 9
	}
	times := make([][]float64, len(stages))
	var seen []float64
	for range rounds {
		p.Go(s.URL + path)
		p.Until("document.documentElement.dataset.ready")
		p.Until(firstPaint + " > 0")
		seen = append(seen, browser.Eval[float64](p, firstPaint))
		last := 0.0
		for i, at := range stages {
			now := browser.Eval[float64](p,
				fmt.Sprintf("performance.getEntriesByName(%q)[0]?.startTime ?? performance.getEntriesByType('navigation')[0][%[1]q] ?? -1", at.mark))
			if now < last {
				t.Fatalf("%s is marked at %.1f ms, and what comes before it at %.1f", at.mark, now, last)
			}
			times[i], last = append(times[i], now), now
		}
	}
	if !testing.Verbose() {
		return
	}
	fmt.Printf("Opening a sheet of %d symbols, ms, median of %d\n\n| until | at | took |\n| --- | --- | --- |\n",
		*opened, rounds)
	before := 0.0
	for i, at := range stages {
		now := quantile(times[i], 0.5)
		fmt.Printf("| %s | %.0f | %.0f |\n", at.what, now, now-before)
		before = now
	}
	fmt.Printf("\nThe picture is seen after %.0f ms.\n", quantile(seen, 0.5))
}
