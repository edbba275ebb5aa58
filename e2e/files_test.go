package e2e

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// leadOf is where the sign of a file leads, once somebody is about to follow it.
const leadOf = `(() => { const a = [...document.querySelectorAll('a.lead')].find(a => a.textContent.includes(%q))
	a.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true })); return new URL(a.getAttribute("href"), location).href })()`

// A file is dropped on a step, another on the free desk, a third is chosen in the dialog. Each opens from its sign, for
// readers as well; undoing takes it off, and the map goes out with its files and comes back with them.
func TestFilesAreAttached(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	x, y, _, _ := d.where("Log the report")
	dropAt := func(x, y float64, name, content string) {
		t.Helper()
		browser.Eval[any](d.Page,
			fmt.Sprintf(`(() => { const t = new DataTransfer(); t.items.add(new File([%q], %q, { type: 'text/plain' }))
			document.getElementById('drawing').dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true, clientX: %f, clientY: %f })) })()`, content, name, x, y))
		d.Until(fmt.Sprintf("[...document.querySelectorAll('a.lead')].some(a => a.textContent.includes(%q)) && %s",
			name, saved))
	}
	dropAt(x, y, "Notes of the desk.txt", "Ask for the pole number.")
	if sym := d.called("Log the report"); len(sym.Links) != 1 {
		t.Errorf("the step leads to %v", sym.Links)
	}
	x, y, _, _ = d.where("Restore the supply to the pole")
	dropAt(x-280, y, "Plan_of the poles.txt", "One to forty")
	plan := d.called("Plan of the poles")
	if plan.Kind != model.Document || len(plan.Links) != 1 {
		t.Errorf("the file on the free desk became %+v", plan)
	}
	d.Key("z", ctrl)
	d.Until("![...document.querySelectorAll('a.lead')].some(a => a.textContent.includes('Plan_of')) && " + saved)
	d.clickStep("Log the report")
	d.Key("a", alt)
	d.Until("document.getElementById('links-dialog').open")
	large := filepath.Join(t.TempDir(), "Photo.jpg")
	photo := bytes.Repeat([]byte("\xff\xd8\xff\xe0 a photograph "), 150_000) // of three parts
	if err := os.WriteFile(large, photo, 0o600); err != nil {
		t.Fatal(err)
	}
	d.Choose("#attach-file", large)
	d.Until("document.getElementById('links-list').textContent.includes('Photo.jpg') && " + saved)
	d.Key(browser.Escape)
	for name, want := range map[string]string{"Photo.jpg": string(photo),
		"Notes of the desk.txt": "Ask for the pole number."} {
		address := browser.Eval[string](d.Page, fmt.Sprintf(leadOf, name))
		if _, body := get(t, address); string(body) != want {
			t.Errorf("%s opens %d bytes at %s", name, len(body), address)
		}
	}
	d.ClickOn("[aria-controls=attached]")
	d.Until("document.getElementById('attached').textContent.includes('Photo.jpg')")
	if text := d.Text("#attached"); !strings.Contains(text, "Form 12, work order.pdf") ||
		!strings.Contains(text, "2.6 MB") || !strings.Contains(text, "Ida Brandt") {
		t.Errorf("the page of files says %q", text)
	}
	link := d.link("purpose", "read")
	reader := b.Open(link)
	reader.Until("document.querySelectorAll('.symbol a.lead').length === 8")
	address := browser.Eval[string](reader, fmt.Sprintf(leadOf, "Notes of the desk.txt"))
	if status, body := get(t, address); status != 200 ||
		string(body) != "Ask for the pole number." {
		t.Errorf("a reader is given %d %s at %s", status, body, address)
	}
	dir := t.TempDir()
	d.Key(browser.Escape)
	_, archive := get(t, s.URL+d.path+"/export/map-files")
	name := filepath.Join(dir, "light.tracer.zip")
	if err := os.WriteFile(name, archive, 0o600); err != nil {
		t.Fatal(err)
	}
	home := b.Open(s.URL + "/begin")
	home.Choose("[name=opened]", name)
	home.Until("location.pathname.startsWith('/maps/') && document.documentElement.dataset.ready")
	home.ClickOn("[aria-controls=attached]")
	home.Until("document.getElementById('attached').textContent.includes('Photo.jpg')")
	if strings.Contains(home.Text("#attached"), "not kept here") {
		t.Error("the map came back without its files")
	}
	d.ClickOn("#attached [aria-label='Take Photo.jpg off the map']")
	d.Until("!document.getElementById('attached').textContent.includes('Photo.jpg') && " + saved)
	d.sound()
}
