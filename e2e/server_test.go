// Package e2e drives the real program through a real browser.
package e2e

import (
	"bufio"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/e2e/browser"
	"plaintracer/exchange/tracerjson"
)

var program string

// TestMain builds the program with its browser core once.
func TestMain(m *testing.M) {
	os.Exit(func() int {
		dir, err := os.MkdirTemp("", "plaintracer")
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		defer os.RemoveAll(dir)
		program = filepath.Join(dir, "plaintracer")
		for _, args := range [][]string{{"run", "./tools/browsercore"}, {"build", "-o", program, "./cmd/plaintracer"}} {
			cmd := exec.Command("go", args...)
			cmd.Dir = ".."
			if out, err := cmd.CombinedOutput(); err != nil {
				fmt.Fprintf(os.Stderr, "go %v: %v\n%s", args, err, out)
				return 1
			}
		}
		return m.Run()
	}())
}

// server is the program, running.
type server struct {
	testing.TB
	cmd        *exec.Cmd
	data       string
	URL, Links string
	listen     string
}

func start(t testing.TB, command string) *server {
	t.Helper()
	s := &server{TB: t, data: t.TempDir(), listen: "127.0.0.1:0"}
	s.run(command)
	t.Cleanup(s.kill)
	return s
}

// run starts the program and reads its addresses. Links are served on another
// loopback address than the editor.
func (s *server) run(command string) {
	s.Helper()
	s.cmd = exec.Command(program, command, "--data", s.data, "--listen", s.listen, "--links", "127.0.0.2:0")
	s.cmd.Stderr = os.Stderr
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		s.Fatal(err)
	}
	if err := s.cmd.Start(); err != nil {
		s.Fatal(err)
	}
	lines := bufio.NewScanner(out)
	for s.Links == "" || s.URL == "" {
		if !lines.Scan() {
			s.Fatal("the program ended before it gave its addresses")
		}
		if _, url, ok := strings.Cut(lines.Text(), "Plain Tracer is at "); ok {
			s.URL = url
		}
		if _, url, ok := strings.Cut(lines.Text(), "begin with "); ok {
			s.Links = url
		}
	}
	go io.Copy(io.Discard, out)
}

// kill ends the program at once, with no chance to tidy up.
func (s *server) kill() {
	if s.cmd.Process != nil {
		s.cmd.Process.Kill()
		s.cmd.Wait()
	}
}

// again starts the killed program at its old address.
func (s *server) again() {
	s.Helper()
	s.listen = strings.TrimPrefix(s.URL, "http://")
	s.URL, s.Links = "", ""
	s.run("serve")
}

func get(t testing.TB, url string) (int, []byte) {
	t.Helper()
	r, err := http.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		t.Fatal(err)
	}
	return r.StatusCode, body
}

// file returns the map at an address of the editor, as its file says.
func (s *server) file(path string) *diagram.Map {
	s.Helper()
	code, body := get(s, s.URL+path+"/file")
	m, err := tracerjson.Read(body)
	if code != 200 || err != nil {
		s.Fatalf("the file of %s: %d, %v: %.200s", path, code, err, body)
	}
	return m
}

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

// create makes a new map on the home page, with mouse and keyboard.
func (s *server) create(b *browser.Browser, title, kind, paper string) *desk {
	s.Helper()
	p := b.Open(s.URL + "/")
	p.ClickOn("input[name=title]")
	p.Key(title)
	p.ClickOn("input[value=" + kind + "]")
	p.ClickOn("select[name=paper]")
	p.Key(paper + browser.Enter)
	p.ClickOn(".new-map .primary")
	p.Until("location.pathname.startsWith('/maps/')")
	d := &desk{Page: p, s: s}
	d.ready()
	d.path = browser.Eval[string](p, "location.pathname")
	return d
}

// symbolJS finds the group of a symbol by its text.
const symbolJS = `[...document.querySelectorAll('#symbols .symbol')].find(g => [...g.querySelectorAll('text')].map(x => x.textContent).join(' ').split(' ').filter(w => !/^[0-9]+$/.test(w)).join(' ') === %q)`

// where returns the middle of a symbol in the window, and half its size.
func (d *desk) where(text string) (x, y, rx, ry float64) {
	d.s.Helper()
	q := fmt.Sprintf(symbolJS, text)
	d.Until(q)
	v := browser.Eval[[]float64](d.Page, "(r => [r.x + r.width / 2, r.y + r.height / 2, r.width / 2, r.height / 2])("+q+".querySelector('path').getBoundingClientRect())")
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
	return browser.Eval[float64](d.Page, fmt.Sprintf("(r => r.y + r.height / 2)([...document.querySelectorAll('#pools text')].find(t => t.textContent === %q).getBoundingClientRect())", name))
}

// down drags from the foot of a step into a lane, where a new step appears.
func (d *desk) down(from, lane, text string) {
	d.s.Helper()
	x, y := d.glue(from, "bottom")
	d.Drag(x, y, x, d.lane(lane))
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
