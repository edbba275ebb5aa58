package exchange_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/bundle"
	"plaintracer/exchange/carrier"
)

// withFiles is a map of which a step leads to two files, one of which is not kept.
func withFiles() (*model.Map, exchange.Files, map[string]string) {
	m := model.New("Work orders", model.Rightwards, "A4", true)
	contents := map[string]string{"Form 12 (ü).txt": "Form twelve", "Gone.txt": "Gone", "map.tracer.json": "{}"}
	sym := &model.Symbol{ID: "order", Kind: model.Process, Text: "Write the order",
		Box: geometry.Box{X: 20000, Y: 20000, W: 12000, H: 8000}}
	byID := map[string]string{}
	for name, content := range contents {
		f := model.File{ID: model.FileID(sha256.Sum256([]byte(content))), Name: name, Type: "text/plain",
			Size: len(content)}
		m.Files = append(m.Files, f)
		sym.Links = append(sym.Links, model.Hyperlink{To: "#" + f.ID})
		if byID[f.ID] = content; name == "Gone.txt" {
			delete(byID, f.ID)
			delete(contents, name)
		}
	}
	m.Sheets[0].Symbols = []*model.Symbol{sym}
	return m, func(id string) (io.Reader, error) {
		if content, ok := byID[id]; ok {
			return strings.NewReader(content), nil
		}
		return nil, bundle.ErrMissing
	}, contents
}

// An independent reader of PDF files finds the files kept with a map inside, where that is wished; a sign opens its
// own.
func TestFilesGoIntoPDF(t *testing.T) {
	m, files, contents := withFiles()
	out := madeWith(t, m, "pdf", files, "files", "yes", "date", "")
	dir := t.TempDir()
	name := filepath.Join(dir, "orders.pdf")
	if err := os.WriteFile(name, out.Data, 0o600); err != nil {
		t.Fatal(err)
	}
	said(t, "qpdf", "--check", name)
	said(t, "pdfdetach", "-saveall", "-o", dir, name)
	for file, content := range contents {
		if got, err := os.ReadFile(filepath.Join(dir, file)); file != carrier.Attachment &&
			(err != nil || string(got) != content) {
			t.Errorf("%s comes out as %q, %v", file, got, err)
		}
	}
	list := said(t, "pdfdetach", "-list", name)
	// three by name, two at their signs
	if !strings.HasPrefix(list, "5 embedded files") || !strings.Contains(list, "2 map.tracer.json") {
		t.Errorf("inside are %s", list)
	}
	if inside, err := carrier.Inside(out.Data); err != nil || !bytes.Contains(inside, []byte("Write the order")) {
		t.Errorf("a file of the same name hides the map: %v", err)
	}
	objects := func(file []byte) string { return run(t, file, "qpdf", "--qdf", "--object-streams=disable", "IN", "-") }
	if n := strings.Count(objects(out.Data), "/Subtype /FileAttachment"); n != 2 {
		t.Errorf("%d signs open a file", n)
	}
	if !strings.Contains(strings.Join(out.Words, " "), "Gone.txt is not inside") {
		t.Errorf("of what is missing is said: %q", out.Words)
	}
	without := madeWith(t, m, "pdf", files, "date", "")
	if strings.Contains(objects(without.Data), "/FileAttachment") {
		t.Error("the files go along unasked")
	}
}

// The page holds the files to be saved, never to be run; without them it says that they are with the map.
func TestFilesGoIntoWebPages(t *testing.T) {
	m, files, contents := withFiles()
	page := string(madeWith(t, m, "html", files, "files", "yes").Data)
	for name, content := range contents {
		link := `<a href="data:application/octet-stream;base64,` +
			base64.StdEncoding.EncodeToString([]byte(content)) + `" download="` + name + `">`
		if !strings.Contains(strings.ReplaceAll(page, "&#43;", "+"), link) {
			t.Errorf("the page lacks %s", link)
		}
	}
	if strings.Count(page, ", kept with the map</li>") != 1 {
		t.Error("the page does not say which file did not go along")
	}
	bare := string(madeWith(t, m, "html", files).Data)
	if strings.Contains(bare, "data:application") || strings.Count(bare, ", kept with the map</li>") != 3 {
		t.Error("the files go along unasked")
	}
	for _, f := range m.Files { // no sign leads nowhere
		if !strings.Contains(bare, `href="#n-`+f.ID+`"`) || !strings.Contains(bare, `id="n-`+f.ID+`"`) {
			t.Errorf("the sign of %s leads nowhere", f.Name)
		}
	}
}

// A file that cannot be read is no file that is missing.
func TestFilesThatFail(t *testing.T) {
	m, _, _ := withFiles()
	broken := errors.New("the disk is broken")
	fail := func(string) (io.Reader, error) { return nil, broken }
	f := exchange.Named("pdf")
	settings, err := exchange.Read(f, func(name string) (string, bool) { return "yes", name == "files" })
	if err != nil {
		t.Fatal(err)
	}
	if _, err := exchange.Make(t.Context(), m, f, settings, fail); !errors.Is(err, broken) {
		t.Errorf("the fault is %v", err)
	}
	var whole bytes.Buffer
	f = exchange.Named("map-files")
	settings, err = exchange.Read(f, func(string) (string, bool) { return "", false })
	if err != nil {
		t.Fatal(err)
	}
	out, err := exchange.Make(t.Context(), m, f, settings, fail)
	if err != nil {
		t.Fatal(err)
	}
	if err := out.Pour(&whole); !errors.Is(err, broken) {
		t.Errorf("the fault is %v", err)
	}
}

// madeWith makes a file, of settings in pairs of a name and a value.
func madeWith(t *testing.T, m *model.Map, format string, files exchange.Files, pairs ...string) *exchange.Result {
	t.Helper()
	f := exchange.Named(format)
	settings, err := exchange.Read(f, func(name string) (string, bool) {
		for i := 0; i < len(pairs); i += 2 {
			if pairs[i] == name {
				return pairs[i+1], true
			}
		}
		return "", false
	})
	if err != nil {
		t.Fatal(err)
	}
	out, err := exchange.Make(t.Context(), m, f, settings, files)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func said(t *testing.T, program string, words ...string) string {
	t.Helper()
	out, err := exec.Command(program, words...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s: %v\n%s", program, err, out)
	}
	return string(out)
}
