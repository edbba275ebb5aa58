// Package e2e drives the real program through a real browser.
package e2e

import (
	"fmt"
	"os"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
	"plaintracer/e2e/program"
)

func TestMain(m *testing.M) {
	code := program.Main(m, "..")
	browser.Stop()
	os.Exit(code)
}

// server is the program, running.
type server struct{ *program.Server }

func start(t testing.TB, command string) *server {
	t.Helper()
	return &server{program.Start(t, command)}
}

func (s *server) kill()  { s.Kill() }
func (s *server) again() { s.Helper(); s.Again() }

func (s *server) file(path string) *model.Map { s.Helper(); return s.File(path) }

func get(t testing.TB, url string) (int, []byte) { t.Helper(); return program.Get(t, url) }

// desk is the editor's page.
type desk struct {
	*browser.Page
	s *server
	// path is the address of the map on the server.
	path string
}

const saved = "document.getElementById('saved').textContent === 'Saved'"

func (s *server) desk(b *browser.Browser, path string) *desk {
	s.Helper()
	d := &desk{Page: b.Open(s.URL + path), s: s, path: path}
	d.ready()
	return d
}

func (d *desk) ready() {
	d.s.Helper()
	d.Until("document.documentElement.dataset.ready && " + saved)
}

// create makes a new map from the home page, with mouse and keyboard.
func (s *server) create(b *browser.Browser, title, kind, paper string) *desk {
	s.Helper()
	p := b.Open(s.URL + "/")
	p.ClickOn("#begin")
	p.Until("document.getElementById('create')")
	p.ClickOn("input[name=title]")
	p.Key(title)
	p.ClickOn("label:has([value=" + kind + "])")
	p.ClickOn("select[name=paper]")
	p.Key(paper + browser.Enter)
	p.ClickOn("#create")
	p.Until("location.pathname.startsWith('/maps/')")
	d := &desk{Page: p, s: s}
	d.ready()
	d.path = browser.Eval[string](p, "location.pathname")
	return d
}

// symbolJS finds the group of a symbol by its text.
const symbolJS = `[...document.querySelectorAll('#symbols .symbol')].find(g => [...g.querySelectorAll('text')].map(x => x.textContent).join(' ').split(' ').filter(w => !/^[A-Z]?[0-9]+[0-9a-z]*$/.test(w)).join(' ') === %q)`

// where returns the middle of a symbol in the window, and half its size.
func (d *desk) where(text string) (x, y, rx, ry float64) {
	d.s.Helper()
	q := fmt.Sprintf(symbolJS, text)
	d.Until(q)
	v := browser.Eval[[]float64](d.Page, "(r => [r.x + r.width / 2, r.y + r.height / 2, r.width / 2, r.height / 2])("+q+
		".querySelector('path').getBoundingClientRect())")
	return v[0], v[1], v[2], v[3]
}

func (d *desk) clickStep(text string) {
	d.s.Helper()
	x, y, _, _ := d.where(text)
	d.Click(x, y)
}

// glue returns a glue point of a symbol in the window.
func (d *desk) glue(text, side string) (x, y float64) {
	d.s.Helper()
	x, y, rx, ry := d.where(text)
	switch side {
	case "top":
		y -= ry
	case "right":
		x += rx
	case "bottom":
		y += ry
	case "left":
		x -= rx
	}
	return x, y
}

// writeHere types a text into the field that is open and ends with Enter.
func (d *desk) writeHere(text string) {
	d.s.Helper()
	d.Until("document.activeElement.id === 'writing'")
	d.Key(text)
	d.Key(browser.Enter)
	d.Until("document.activeElement.id === 'drawing'")
}

// rewrite replaces the text of a step.
func (d *desk) rewrite(step, text string) {
	d.s.Helper()
	d.clickStep(step)
	d.Key(browser.F2)
	d.Until("document.activeElement.id === 'writing'")
	d.Key("a", ctrl)
	d.Key(text + browser.Enter)
}

// then appends steps after the selected one, by Enter alone.
func (d *desk) then(texts ...string) {
	d.s.Helper()
	for _, text := range texts {
		d.Key(browser.Enter)
		d.writeHere(text)
	}
}

// connect drags from a glue point to the middle of another symbol.
func (d *desk) connect(from, side, to string) {
	d.s.Helper()
	x, y := d.glue(from, side)
	tx, ty, _, _ := d.where(to)
	d.Drag(x, y, tx, ty)
}

// lane returns the height of a lane's middle in the window.
func (d *desk) lane(name string) float64 {
	d.s.Helper()
	return browser.Eval[float64](d.Page,
		fmt.Sprintf("(r => r.y + r.height / 2)([...document.querySelectorAll('#pools text')].find(t => t.textContent === %q).getBoundingClientRect())", name))
}

// down drags from the foot of a step into a lane, where a new step appears.
func (d *desk) down(from, lane, text string) {
	d.s.Helper()
	x, y := d.glue(from, "bottom")
	d.Drag(x, y, x, d.lane(lane))
	d.Key(browser.Enter) // a process
	d.writeHere(text)
}

func (d *desk) saved() {
	d.s.Helper()
	d.Until(saved)
}

func (d *desk) sound() {
	d.s.Helper()
	if faults := d.Faults(); len(faults) > 0 {
		d.s.Errorf("the page reports %q", faults)
	}
}
