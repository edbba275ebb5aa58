package e2e

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"plaintracer/bench/gallery"
	"plaintracer/e2e/browser"
	"plaintracer/exchange/carrier"
)

// seen is what holds once the preview of an export is there.
const seen = "document.querySelector('#export-sight > *') && !document.querySelector('#export-sight.waiting')"

// choose takes a format, or another value of a choice, as a click and a pick in a list do.
func (d *desk) choose(name, value string) {
	d.s.Helper()
	browser.Eval[any](d.Page,
		fmt.Sprintf(`(() => { const f = %[1]q === 'format' ? document.querySelector('#export-form [value=%[2]s]') : document.querySelector('#export-form [data-name=%[1]s]')
		if (f.type === 'radio') f.click(); else { if (f.type === 'checkbox') f.checked = %[2]q === 'yes'; else f.value = %[2]q; f.dispatchEvent(new Event('change', { bubbles: true })) } })()`, name, value))
	d.Until(seen)
}

// What comes out is shown before, page by page; what was chosen is there again the next time.
func TestWhatGoesOutIsShownBefore(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.ClickOn("#export")
	d.Until(seen)
	d.Until("document.querySelector('#export-sight img').naturalWidth > 0 && document.getElementById('export-page').textContent === '1 of 4'")
	d.ClickOn("#export-next")
	d.Until("document.getElementById('export-page').textContent === '2 of 4' && " + seen)
	d.choose("paper", "A5")
	d.Until("document.getElementById('export-notes').textContent.includes('points')")
	d.choose("use", "tiles")
	d.Until("document.getElementById('export-page').textContent === '1 of 11' && document.getElementById('export-notes').textContent === ''")
	d.choose("look", "print")
	d.choose("numbers", "no")
	d.Key(browser.Escape)
	d.Until("!document.getElementById('export-dialog').open")
	d.Go(s.URL + d.path)
	d.ready()
	if len(d.s.file(d.path).Look) != 0 || !d.s.file(d.path).Numbers {
		t.Error("the map was changed by an export")
	}
	d.ClickOn("#export")
	d.Until("document.getElementById('export-page').textContent === '1 of 11' && " + seen)
	if got := browser.Eval[string](d.Page,
		"document.querySelector('#export-form [data-name=look]').value + document.querySelector('#export-form [data-name=numbers]').checked"); got != "printfalse" {
		t.Errorf("the next time it says %s", got)
	}
	for _, format := range []string{"html", "procedure-html", "procedure-pdf", "procedure-docx", "procedure-odt",
		"procedure-markdown",
		"register-xlsx", "register-ods", "register-csv", "lanes-csv", "connectors-csv", "svg", "png", "jpeg", "map"} {
		d.choose("format", format)
		const shown = "document.querySelectorAll('#export-sight > :is(img, iframe, pre)').length"
		if n := browser.Eval[int](d.Page, shown); n != 1 {
			t.Errorf("%s: no preview; %s", format, d.Text("#export-notes"))
		}
	}

	// What reaches beyond its own paper is scaled to fit, and it says so.
	d.Key(browser.Escape)
	d.Until("!document.getElementById('export-dialog').open")
	browser.Eval[any](d.Page,
		`(() => { const a = plainTracerApp; a.core.perform(JSON.stringify({ do: 'moveItems', sheet: a.bars.state.sheet, ids: [a.drawing.nodes.get('fault') ? 'fault' : [...a.drawing.nodes.keys()].find(k => a.core.textOf(k, '')[0] === 'Restore the supply to the pole')], by: { x: 60000, y: 30000 } }), ''); a.flush() })()`)
	d.saved()
	d.ClickOn("#export")
	d.choose("format", "pdf")
	d.choose("paper", "")
	d.choose("use", "")
	d.Until("document.getElementById('export-notes').textContent.includes('goes beyond its paper and is scaled to')")
	d.sound()
}

// A saved file is a whole one, and the dialog says where it went and how large it is. What is selected goes out alone.
func TestFilesAreSavedFromTheDialog(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	dir := t.TempDir()
	d.Downloads(dir)
	d.ClickOn("#export")
	d.Until(seen)
	d.ClickOn("#export-save")
	d.Until("/^Saved as Lend a cargo bike.pdf, \\d+ KB/.test(document.getElementById('export-words').textContent)")
	file := arrived(t, filepath.Join(dir, "Lend a cargo bike.pdf"))
	if inside, err := carrier.Inside(file); err != nil || !bytes.Contains(inside, []byte("Hand over bike")) {
		t.Errorf("the PDF carries no map: %v", err)
	}
	d.Key(browser.Escape)
	x, y := d.Middle("#symbols .symbol")
	d.Click(x, y)
	d.ClickOn("#export")
	d.choose("format", "svg")
	d.Until("document.querySelector('#export-form [data-name=what]').value === 'selection'")
	d.ClickOn("#export-save")
	d.Until("document.getElementById('export-words').textContent.includes('.svg')")
	picture := arrived(t, filepath.Join(dir, "Lend a cargo bike.svg"))
	if inside, err := carrier.Inside(picture); err != nil || bytes.Contains(inside, []byte("Hand over bike")) ||
		bytes.Contains(picture, []byte("Hang the key")) {
		t.Errorf("more than what is selected went out: %v", err)
	}
	d.sound()
}

// arrived waits for a file that the browser saves.
func arrived(t *testing.T, name string) []byte {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); ; {
		if data, err := os.ReadFile(name); err == nil && len(data) > 0 {
			return data
		} else if time.Now().After(end) {
			t.Fatalf("%s did not arrive", filepath.Base(name))
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// drop drops a file on an element.
func drop(p *browser.Page, selector, name, mediaType string, data []byte) {
	browser.Eval[any](p,
		fmt.Sprintf(`(() => { const t = new DataTransfer(); t.items.add(new File([Uint8Array.from(atob(%q), c => c.charCodeAt(0))], %q, { type: %q }))
		const on = document.querySelector(%q), box = on.getBoundingClientRect()
		on.dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true, clientX: box.x + box.width / 2, clientY: box.y + box.height / 2 })) })()`, base64.StdEncoding.EncodeToString(data), name, mediaType, selector))
}

// A picture or a document with a map inside opens it, dropped on the home page; on the desk it is asked. One without
// says so.
func TestMapsInsideFilesOpen(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	_, whole := get(t, s.URL+path+"/export/png")
	_, bare := get(t, s.URL+path+"/export/png?inside=no")
	_, paper := get(t, s.URL+path+"/export/pdf")
	home := b.Open(s.URL + "/")
	drop(home, "main", "bare.png", "image/png", bare)
	home.Until("document.getElementById('refusal').textContent.includes('no map inside')")
	drop(home, "main", "lend.pdf", "application/pdf", paper)
	home.Until("location.pathname.startsWith('/maps/') && document.documentElement.dataset.ready")
	if got := browser.Eval[string](home, "location.pathname"); got == path {
		t.Error("the PDF opened the map it was made of, not a new one")
	}
	d := s.desk(b, path)
	drop(d.Page, "#drawing", "lend.png", "image/png", whole)
	d.Until("document.getElementById('carries-dialog').open")
	d.ClickOn("#carries-dialog [value=place]")
	d.Until("document.querySelector('#symbols image')")
	d.saved()
	drop(d.Page, "#drawing", "lend.png", "image/png", whole)
	d.Until("document.getElementById('carries-dialog').open")
	d.ClickOn("#carries-dialog [value=open]")
	d.Until("location.pathname !== " + fmt.Sprintf("%q", path) + " && document.documentElement.dataset.ready")
	d.sound()
}

// Several maps go out together from the home page.
func TestSeveralMapsAreExportedTogether(t *testing.T) {
	s := start(t, "demo")
	p := browser.Start(t).Open(s.URL + "/")
	if browser.Eval[bool](p, "document.getElementById('marked-bar').checkVisibility()") {
		t.Error("there is something to export before a map is marked")
	}
	dir := t.TempDir()
	p.Downloads(dir)
	browser.Eval[any](p, "document.querySelectorAll('.pick').forEach(m => m.click())")
	p.Until("document.getElementById('marked').textContent === '3 maps are selected'")
	p.ClickOn("#marked-bar button:not([formaction], [type])")
	archive := arrived(t, filepath.Join(dir, "maps.zip"))
	for _, name := range []string{"A street light is out.pdf", "Lend a cargo bike.pdf"} {
		if !bytes.Contains(archive, []byte(name)) {
			t.Errorf("%s is not among them", name)
		}
	}
}

// What the browser prints are the pages of the PDF: as many, of the same size, and they show the same.
func TestPrintedPagesAreThoseOfThePDF(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	for _, choices := range []string{"", "?paper=A5&use=tiles"} {
		p := b.Open(s.URL + "/")
		printed := p.Printed(s.URL+path+"/print/pdf"+choices,
			"document.images.length && [...document.images].every(i => i.complete && i.naturalWidth)")
		_, file := get(t, s.URL+path+"/export/pdf"+choices)
		mine, theirs := pageSizes(t, file), pageSizes(t, printed)
		if len(mine) < 2 || len(mine) != len(theirs) {
			t.Errorf("%s: %d pages, printed %d", choices, len(mine), len(theirs))
			continue
		}
		for i := range mine {
			if mine[i].Sub(theirs[i]).X > 1 || theirs[i].Sub(mine[i]).X > 1 || mine[i].Sub(theirs[i]).Y > 1 ||
				theirs[i].Sub(mine[i]).Y > 1 {
				t.Errorf("%s: page %d has %v points, printed %v", choices, i+1, mine[i], theirs[i])
			}
		}
		// Poppler moves thin lines to whole pixels, here of pages that are placed by other matrices.
		if differ, _ := gallery.Compare(gallery.Halved(firstPage(t, file)),
			gallery.Halved(firstPage(t, printed))); !gallery.Same(differ / 10) {
			t.Errorf("%s: %d pixels of a million of the first page differ", choices, differ)
		}
		p.Close()
	}
}

// Print in the dialog brings the pages into a frame of their own, which prints itself; of a large selection, too.
func TestPrintFromTheDialog(t *testing.T) {
	s, path := stock(t, hall(300, true))
	d := s.desk(browser.Start(t), path)
	d.Click(640, 400)
	d.Key("a", ctrl)
	d.ClickOn("#export")
	d.Until(seen)
	d.choose("format", "pdf")
	d.choose("what", "selection")
	d.ClickOn("#export-print")
	d.Until("document.getElementById('printing')?.contentDocument?.querySelectorAll('.page img').length === 1")
	d.sound()
}

// pageSizes are the sizes of the pages of a PDF file, in points.
func pageSizes(t *testing.T, file []byte) []image.Point {
	t.Helper()
	name := filepath.Join(t.TempDir(), "in.pdf")
	if err := os.WriteFile(name, file, 0o600); err != nil {
		t.Fatal(err)
	}
	said, err := exec.Command("pdfinfo", "-f", "1", "-l", "999", name).CombinedOutput()
	if err != nil {
		t.Fatalf("pdfinfo: %v: %s", err, said)
	}
	var out []image.Point
	for _, m := range regexp.MustCompile(`Page +\d+ size: +([\d.]+) x ([\d.]+)`).FindAllStringSubmatch(string(said),
		-1) {
		var w, h float64
		fmt.Sscan(m[1], &w)
		fmt.Sscan(m[2], &h)
		out = append(out, image.Pt(int(w+0.5), int(h+0.5)))
	}
	return out
}

// The web page is read without a network and without the application: its links lead on, its search finds steps on the
// drawings and in the register, and without scripts all of it is there.
func TestTheWebPageNeedsNothing(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	_, page := get(t, s.URL+s.demo(b, "A street light is out")+"/export/html")
	file := filepath.Join(t.TempDir(), "light.html")
	if err := os.WriteFile(file, page, 0o600); err != nil {
		t.Fatal(err)
	}
	s.kill()
	p := b.Open("file://" + file)
	p.Until("!document.getElementById('search').hidden")
	if n := browser.Eval[int](p, "document.querySelectorAll('.sheet svg g[id]').length"); n < 30 {
		t.Errorf("the page shows %d things", n)
	}
	p.ClickOn("#find")
	p.Key("fault in")
	p.Until("document.querySelectorAll('#register tbody tr:not([hidden])').length === 1 && document.querySelectorAll('.sheet g.found').length === 1")
	browser.Eval[any](p,
		"document.querySelector('.sheet a[href^=\"#n-\"]').dispatchEvent(new MouseEvent('click', { bubbles: true }))")
	p.Until("location.hash.startsWith('#n-')")
	inSight := browser.Eval[bool](p,
		"(() => { const r = document.getElementById(location.hash.slice(1)).getBoundingClientRect(); return r.y >= 0 && r.bottom <= innerHeight })()")
	if !inSight {
		t.Error("the partner of a reference is not brought into sight")
	}
	if faults := p.Faults(); len(faults) > 0 {
		t.Error(faults)
	}
	for _, want := range []string{"Look up the pole number", "Lamp burning?", "id=\"register\""} {
		if !bytes.Contains(page, []byte(want)) {
			t.Errorf("without scripts there is no %q", want)
		}
	}
}

// firstPage draws the first page of a PDF file.
func firstPage(t *testing.T, file []byte) image.Image {
	t.Helper()
	img, err := gallery.FirstPage(file, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	return img
}
