package web

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/web/site"
)

// attach keeps a file with a map, and returns what the server says of it.
func (h *household) attach(who, id, name, content string) (f model.File) {
	h.Helper()
	_, text := h.ask(who, "POST", "/maps/"+id+"/files", fmt.Sprintf("name=%s&size=%d", name, len(content)))
	var begun struct{ Upload string }
	h.must(json.Unmarshal([]byte(text), &begun))
	_, text = h.ask(who, "POST", "/maps/"+id+"/files/"+begun.Upload+"?at=0", content)
	h.must(json.Unmarshal([]byte(text), &f))
	return f
}

// lead has a new document on a map lead to a file, as a window of somebody would.
func (h *household) lead(who, id string, f model.File) error {
	h.Helper()
	d, err := h.s.Documents.Open(id)
	h.must(err)
	window, _ := d.NewWindow()
	m, _ := d.Snapshot()
	_, err = d.ApplyAs(h.ids[who], window, 1, &edit.AddItems{Sheet: m.Sheets[0].ID, Files: []model.File{f},
		Symbols: []model.Symbol{{ID: window + "-1", Kind: model.Document, Text: "Form",
			Box: geometry.Box{X: 10000, Y: 10000, W: 12000, H: 8000}, Links: []model.Hyperlink{{To: "#" + f.ID}}}}})
	return err
}

// Who knows only the id of a file does not get at it: neither by an edit, nor by a map file that names it, nor as a
// reader of a map that once had it. Who may read a map that holds it can take it into another one.
func TestFilesFollowTheRightsOfTheirMaps(t *testing.T) {
	h := openHouse(t)
	theirs := h.share()
	f := h.attach("edit", theirs, "secret.txt", "Nobody else's business")
	h.must(h.lead("edit", theirs, f))
	own, err := h.s.Maps.CreateFor(model.New("Own", model.Rightwards, "A4", true), h.ids["stranger"], "")
	h.must(err)
	if err := h.lead("stranger", own, f); err == nil || !strings.Contains(err.Error(), "not kept here") {
		t.Errorf("a stranger takes the file by its id: %v", err)
	}
	r, text := h.ask("stranger", "GET", "/maps/"+own+"/files/"+f.ID, "")
	if r.StatusCode != 404 {
		t.Errorf("the stranger's map gives it: %d %s", r.StatusCode, text)
	}
	m, _ := must1(h.s.Documents.Open(theirs)).Snapshot()
	m.Title = "Rebuilt"
	rebuilt, err := h.s.Add(m, h.ids["stranger"], "")
	h.must(err)
	if r, text := h.ask("stranger", "GET", "/maps/"+rebuilt+"/files/"+f.ID, ""); r.StatusCode != 410 ||
		strings.Contains(text, "business") {
		t.Errorf("a map rebuilt of its file gives it: %d %s", r.StatusCode, text)
	}
	copied, err := h.s.Maps.CreateFor(model.New("Copied", model.Rightwards, "A4", true), h.ids["read"], "")
	h.must(err)
	h.must(h.lead("read", copied, f))
	if r, text := h.ask("read", "GET", "/maps/"+copied+"/files/"+f.ID, ""); r.StatusCode != 200 ||
		text != "Nobody else's business" {
		t.Errorf("who may read it cannot take it along: %d %s", r.StatusCode, text)
	}
	lie := f
	lie.Type = "image/png"
	another := h.share()
	if err := h.lead("edit", another, lie); err == nil || !strings.Contains(err.Error(), "what it is said to be") {
		t.Errorf("an edit lies about the type: %v", err)
	}
	// A copy in the organisation, and a map to begin others from, have it with them.
	h.must(h.s.AddStart(m, "", h.ids["edit"]))
	starts, err := h.s.Starts.List()
	h.must(err)
	from, err := h.s.Starts.Get(starts[0].ID)
	h.must(err)
	begun, err := h.s.Add(from, h.ids["stranger"], "")
	h.must(err)
	if r, _ := h.ask("stranger", "GET", "/maps/"+begun+"/files/"+f.ID, ""); r.StatusCode != 200 {
		t.Errorf("a map begun from one of the organisation lacks its file: %d", r.StatusCode)
	}
}

func must1[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// A file is what its content is, and does nothing in a browser, whatever it is called.
func TestFilesThatLie(t *testing.T) {
	h := openHouse(t)
	id := h.share()
	png := "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x06\x00\x00\x00"
	for _, c := range []struct{ name, content, kind, shown string }{
		{"photo.png", "<html><script>alert(1)</script></html>", "text/html", "attachment"},
		{"photo.png", `<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`, "image/svg+xml",
			"attachment"},
		{"form.pdf", "GIF89a\x01\x00\x01\x00\x80\x00\x00", "image/gif", "inline"},
		{"page.html", png, "image/png", "inline"},
		{"form.txt", "%PDF-1.7\n%\xe2\xe3\xcf\xd3\n", "application/pdf", "inline"},
		{"..%2F..%2Fetc%2Fpasswd", "root", "text/plain", "attachment"},
		{"a%0D%0AX-Evil: 1", "x", "text/plain", "attachment"},
	} {
		f := h.attach("edit", id, c.name, c.content)
		if f.Type != c.kind || f.Check() != nil || strings.ContainsAny(f.Name, "/\\\r\n") {
			t.Errorf("%s of %s is %+v, %v", c.name, c.kind, f, f.Check())
		}
		h.must(h.lead("edit", id, f))
		r, text := h.ask("read", "GET", "/maps/"+id+"/files/"+f.ID+"?look=1", "")
		policy := r.Header.Get("Content-Security-Policy")
		if text != c.content || !strings.HasPrefix(r.Header.Get("Content-Disposition"), c.shown+";") ||
			r.Header.Get("X-Content-Type-Options") != "nosniff" || !strings.HasPrefix(policy, "default-src 'none'") ||
			strings.Contains(policy, "script-src") || r.Header.Get("Content-Type") != c.kind ||
			r.Header.Get("X-Evil") != "" {
			t.Errorf("%s comes as %v", c.name, r.Header)
		}
		if r, _ := h.ask("read", "GET", "/maps/"+id+"/files/"+f.ID, ""); !strings.HasPrefix(
			r.Header.Get("Content-Disposition"), "attachment;") || !strings.HasSuffix(
			r.Header.Get("Content-Security-Policy"), "sandbox") {
			t.Errorf("%s is saved as %v", c.name, r.Header)
		}
	}
	for _, body := range []string{"name=a&size=0", "name=a&size=-1", "name=a&size=x", "name=a",
		fmt.Sprintf("name=a&size=%d", model.MaxFile+1)} {
		if r, text := h.ask("edit", "POST", "/maps/"+id+"/files", body); r.StatusCode < 400 || text == "" {
			t.Errorf("%s is taken: %d %s", body, r.StatusCode, text)
		}
	}
}

// A map saved with its files and opened again is the same, files and all; what is in no archive is said to be missing.
func TestMapToArchiveToMap(t *testing.T) {
	h := openHouse(t)
	id := h.share()
	large := strings.Repeat("0123456789", 200_000)
	for name, content := range map[string]string{"form.txt": "Form 12", "large.txt": large[:900_000]} {
		h.must(h.lead("edit", id, h.attach("edit", id, name, content)))
	}
	_, archive := h.ask("read", "GET", "/maps/"+id+"/export/map-files", "")
	open := func(who, archive string) string {
		t.Helper()
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		w, err := form.CreateFormFile("file", "their map.tracer.zip")
		h.must(err)
		_, err = io.WriteString(w, archive)
		h.must(err)
		h.must(form.Close())
		req := fromPageOf("POST", "/maps/open", body.String())
		req.Header.Set("Content-Type", form.FormDataContentType())
		req.AddCookie(&http.Cookie{Name: "session", Value: h.tokens[who]})
		req.Header.Set(site.TokenHeader, h.s.Sign("form", h.ids[who], h.tokens[who]))
		r, err := h.app.Test(req, fiber.TestConfig{Timeout: time.Minute})
		h.must(err)
		defer r.Body.Close()
		if r.StatusCode != 303 {
			text, _ := io.ReadAll(r.Body)
			t.Fatalf("it is not opened: %d %s", r.StatusCode, text)
		}
		return strings.TrimPrefix(r.Header.Get("Location"), "/maps/")
	}
	again := open("stranger", archive)
	was, _ := must1(h.s.Documents.Open(id)).Snapshot()
	is, _ := must1(h.s.Documents.Open(again)).Snapshot()
	a, b := must1(json.Marshal(was)), must1(json.Marshal(is))
	if !bytes.Equal(a, b) {
		t.Errorf("the map is another one:\n%s\n%s", a, b)
	}
	for _, f := range is.Attached() {
		_, one := h.ask("read", "GET", "/maps/"+id+"/files/"+f.ID, "")
		r, two := h.ask("stranger", "GET", "/maps/"+again+"/files/"+f.ID, "")
		if r.StatusCode != 200 || one != two {
			t.Errorf("%s is another one: %d", f.Name, r.StatusCode)
		}
	}
	_, second := h.ask("stranger", "GET", "/maps/"+again+"/export/map-files", "")
	if second != archive {
		t.Error("the archive of the map that was opened is another one")
	}
	// Without the files, by somebody who may read no map that has them.
	z := must1(zip.NewReader(strings.NewReader(archive), int64(len(archive))))
	var bare bytes.Buffer
	w := zip.NewWriter(&bare)
	for _, f := range z.File {
		if !strings.HasPrefix(f.Name, "files/") {
			h.must(w.Copy(f))
		}
	}
	h.must(w.Close())
	empty := open("house owner", bare.String())
	if _, text := h.ask("house owner", "GET", "/maps/"+empty+"/attached", ""); strings.Count(text,
		"its content is not kept here") != 2 {
		t.Errorf("nothing is said of what is missing: %s", text)
	}
}

// A link to another map is found wherever that map is kept and by the title it has now; who may not read it is told so,
// and learns nothing of it.
func TestLinksToOtherMaps(t *testing.T) {
	h := openHouse(t)
	one, two := h.share(), h.share()
	lead := func(id, to string) error {
		d := must1(h.s.Documents.Open(id))
		window, _ := d.NewWindow()
		m, _ := d.Snapshot()
		_, err := d.ApplyAs(h.ids["owner"], window, 1, &edit.AddItems{Sheet: m.Sheets[0].ID,
			Symbols: []model.Symbol{{ID: window + "-1", Kind: model.Process, Text: "See there",
				Box:   geometry.Box{X: 10000, Y: 10000, W: 12000, H: 8000},
				Links: []model.Hyperlink{{Title: "Old", To: to}}}}})
		return err
	}
	h.must(lead(one, "map:"+two))
	for _, to := range []string{"map:", "map:../x", "map:a b", "maps:x"} {
		if lead(one, to) == nil {
			t.Errorf("a link to %q is taken", to)
		}
	}
	d := must1(h.s.Documents.Open(two))
	window, _ := d.NewWindow()
	title := "Renamed since"
	must1(d.Apply(window, 1, &edit.SetHead{Title: &title}))
	if _, text := h.ask("read", "GET", "/maps/"+one+"/attached", ""); !strings.Contains(text, "Renamed since") ||
		strings.Contains(text, "Old") {
		t.Errorf("the page of files says %s", text)
	}
	if _, text := h.ask("read", "GET", "/maps/"+one+"/maps", ""); !strings.Contains(text, `"title":"Renamed since"`) {
		t.Errorf("the maps one can lead to are %s", text)
	}
	if r, _ := h.ask("read", "GET", "/maps/"+one+"/map/"+two, ""); r.Header.Get("Location") != "/maps/"+two {
		t.Errorf("it leads to %d %s", r.StatusCode, r.Header.Get("Location"))
	}
	// Somebody who may read the one alone.
	h.must(h.s.Folders.Grant(account.Grant{Place: account.Place{Map: one}, Person: h.ids["stranger"],
		Right: account.Read}))
	for path, want := range map[string]string{"/attached": "not for you", "/map/" + two: "may not read", "/maps": ""} {
		if _, text := h.ask("stranger", "GET", "/maps/"+one+path, ""); strings.Contains(text, "Renamed") ||
			!strings.Contains(text, want) {
			t.Errorf("who may not read it is told %s", text)
		}
	}
}

// A sheet is copied or moved to another map with all that it needs, where the person who asks may edit both.
func TestSheetsAreSentToOtherMaps(t *testing.T) {
	h := openHouse(t)
	one, two := h.share(), h.share()
	h.must(h.lead("edit", one, h.attach("edit", one, "form.txt", "Form 12")))
	d := must1(h.s.Documents.Open(one))
	window, _ := d.NewWindow()
	more := model.New("", model.Rightwards, "A4", true).Sheets[0]
	more.ID, more.Name = "more", "More"
	must1(d.Apply(window, 1, &edit.AddSheet{At: 1, Sheet: *more}))
	first := func(id string) *model.Map { m, _ := must1(h.s.Documents.Open(id)).Snapshot(); return m }
	sheet := first(one).Sheets[0].ID
	send := "/maps/" + one + "/sheet/" + sheet + "/send"
	closed, err := h.s.Maps.CreateFor(model.New("Closed", model.Rightwards, "A4", true), h.ids["owner"], "")
	h.must(err)
	for _, to := range []string{closed, one, "nowhere"} {
		if r, text := h.ask("edit", "POST", send, "to="+to+"&move=yes"); r.StatusCode != 403 {
			t.Errorf("to %q: %d %s", to, r.StatusCode, text)
		}
	}
	if len(first(closed).Sheets) != 1 || len(first(one).Sheets) != 2 {
		t.Error("what was refused was done all the same")
	}
	if r, text := h.ask("edit", "POST", send, "to="+two); r.StatusCode != 200 {
		t.Fatalf("%d %s", r.StatusCode, text)
	}
	got := first(two)
	if n := len(got.Sheets); n != 2 || len(got.Sheets[1].Symbols) != 1 || len(got.Attached()) != 1 ||
		len(first(one).Sheets) != 2 {
		t.Fatalf("after copying the map has %d sheets and %d files", n, len(got.Attached()))
	}
	if r, text := h.ask("edit", "GET", "/maps/"+two+"/files/"+got.Attached()[0].ID, ""); text != "Form 12" {
		t.Errorf("its file is %d %s", r.StatusCode, text)
	}
	if r, text := h.ask("edit", "POST", send, "to="+two+"&move=yes"); r.StatusCode != 200 ||
		len(first(one).Sheets) != 1 || len(first(two).Sheets) != 3 {
		t.Errorf("moved: %d %s", r.StatusCode, text)
	}
	last := "/maps/" + one + "/sheet/more/send"
	if r, _ := h.ask("edit", "POST", last, "to="+two+"&move=yes"); r.StatusCode != 409 || len(first(one).Sheets) != 1 {
		t.Errorf("the last sheet is moved away: %d", r.StatusCode)
	}
}
