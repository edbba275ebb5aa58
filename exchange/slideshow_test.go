package exchange_test

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"io"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// withStops is a map with two stops, of which one has words with signs that XML does not take as they are.
func withStops() *model.Map {
	m := model.New("Street lights & poles", model.Rightwards, "A4", true)
	m.Heading.Author = "Ida <Brandt>"
	for i, text := range []string{"Log the report", "Repair the light"} {
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: "s" + text[:1], Kind: model.Process,
			Text: text,
			Box:  geometry.Box{X: 10000 + 40000*i, Y: 20000, W: 12000, H: 8000}})
	}
	m.Stops = []model.Stop{{ID: "one", Sheet: m.Sheets[0].ID, Box: geometry.Box{X: 5000, Y: 15000, W: 30000, H: 20000},
		Title: "What comes in <here>", Words: "Two in five & more.\nSecond line \"quoted\"."},
		{ID: "two", Sheet: m.Sheets[0].ID, Box: geometry.Box{X: 45000, Y: 15000, W: 3000, H: 60000}, Title: "The end"},
		{ID: "gone", Sheet: "nowhere", Box: geometry.Box{W: 100, H: 100}, Title: "Never shown"}}
	return m
}

// Each stop is a page of 16:9 with its title and words as text.
func TestStopsAsPages(t *testing.T) {
	out := madeWith(t, withStops(), "slides-pdf", nil)
	name := filepath.Join(t.TempDir(), "stops.pdf")
	if err := os.WriteFile(name, out.Data, 0o600); err != nil {
		t.Fatal(err)
	}
	said(t, "qpdf", "--check", name)
	info := said(t, "pdfinfo", name)
	if !strings.Contains(strings.Join(strings.Fields(info), " "), "Pages: 2") ||
		!strings.Contains(info, "960 x 540 pts") {
		t.Errorf("the file is %s", info)
	}
	text := said(t, "pdftotext", "-layout", name, "-")
	for _, want := range []string{"What comes in <here>", "Two in five & more.", "Second line \"quoted\".", "The end",
		"Repair the light"} {
		if !strings.Contains(text, want) {
			t.Errorf("the pages lack %q:\n%s", want, text)
		}
	}
	m := withStops()
	m.Stops[0].Words = strings.Repeat("Many words. ", 300)
	if out := madeWith(t, m, "slides-pdf", nil); !strings.Contains(strings.Join(out.Words, " "), "words of slide 1") {
		t.Errorf("of words that are cut is said %q", out.Words)
	}
	m.Stops = nil
	if out := madeWith(t, m, "slides-pdf", nil); !strings.Contains(strings.Join(out.Words, " "), "no stops yet") {
		t.Errorf("of a map without stops is said %q", out.Words)
	}
}

// A presentation is whole: every part has its type, every relationship its target (ECMA-376, part 2), and all of it is
// XML that a reader takes. An office program reads titles, pictures and notes out of it.
func TestStopsAsPresentation(t *testing.T) {
	out := madeWith(t, withStops(), "slides-pptx", nil)
	z, err := zip.NewReader(bytes.NewReader(out.Data), int64(len(out.Data)))
	if err != nil {
		t.Fatal(err)
	}
	parts := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if parts[f.Name] = string(data); !strings.HasSuffix(f.Name, ".png") {
			for d := xml.NewDecoder(bytes.NewReader(data)); ; {
				if _, err := d.Token(); err == io.EOF {
					break
				} else if err != nil {
					t.Fatalf("%s: %v", f.Name, err)
				}
			}
		}
	}
	for name, text := range parts {
		if !strings.HasSuffix(name, ".rels") {
			if ext := path.Ext(name); ext == ".xml" && name != "[Content_Types].xml" &&
				!strings.Contains(parts["[Content_Types].xml"], `PartName="/`+name+`"`) {
				t.Errorf("%s has no type", name)
			}
			continue
		}
		var list struct {
			Relationship []struct {
				Target string `xml:",attr"`
			}
		}
		if err := xml.Unmarshal([]byte(text), &list); err != nil {
			t.Fatal(err)
		}
		for _, r := range list.Relationship {
			if target := path.Join(path.Dir(path.Dir(name)), r.Target); parts[target] == "" {
				t.Errorf("%s leads to %s, which is not there", name, target)
			}
		}
	}
	if parts["ppt/slides/slide2.xml"] == "" || parts["ppt/slides/slide3.xml"] != "" {
		t.Error("there are not two slides")
	}
	soffice, err := exec.LookPath("soffice")
	if err != nil {
		if testing.Short() {
			t.Skip("no office program here; make soak installs one")
		}
		t.Fatal(err)
	}
	dir := t.TempDir()
	name := filepath.Join(dir, "stops.pptx")
	if err := os.WriteFile(name, out.Data, 0o600); err != nil {
		t.Fatal(err)
	}
	for _, to := range []string{"pdf", "fodp"} {
		said(t, soffice, "-env:UserInstallation=file://"+dir+"/office", "--headless", "--convert-to", to, "--outdir",
			dir,
			name)
	}
	if text := said(t, "pdftotext", filepath.Join(dir, "stops.pdf"), "-"); !strings.Contains(text,
		"What comes in <here>") || !strings.Contains(text, "The end") {
		t.Errorf("an office program shows %q", text)
	}
	flat, err := os.ReadFile(filepath.Join(dir, "stops.fodp"))
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"Two in five &amp; more.", "Second line &quot;quoted&quot;.",
		"Sheet Sheet 1: Log the report"} {
		if !bytes.Contains(flat, []byte(want)) &&
			!bytes.Contains(flat, []byte(strings.ReplaceAll(want, "&quot;", `"`))) {
			t.Errorf("an office program does not find %q", want)
		}
	}
}
