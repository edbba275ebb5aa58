package main

import (
	"bytes"
	"encoding/json"
	"image/png"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"plaintracer/core/findings"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/tracerjson"
)

func written(t *testing.T) string {
	t.Helper()
	data, err := tracerjson.Write(streetLight())
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "light.tracer.json")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

func TestExportWritesPictures(t *testing.T) {
	file := written(t)
	vector, bitmap := filepath.Join(t.TempDir(), "two.svg"), filepath.Join(t.TempDir(), "one.png")
	if err := run([]string{"export", file, vector, "--sheet", "2"}, nil); err != nil {
		t.Fatal(err)
	}
	if text, _ := os.ReadFile(vector); !bytes.Contains(text, []byte("Lamp burning?")) {
		t.Error("the second sheet's picture does not show its steps")
	}
	if err := run([]string{"export", "--scale", "0.5", file, bitmap}, nil); err != nil {
		t.Fatal(err)
	}
	raw, _ := os.ReadFile(bitmap)
	if img, err := png.Decode(bytes.NewReader(raw)); err != nil || img.Bounds().Dx() != 562 {
		t.Errorf("the bitmap: %v", err)
	}
	for _, c := range [][]string{
		{"export", file}, {"export", file, "x.gif"}, {"export", file, vector, "--sheet", "9"},
		{"export", file, vector, "--scale", "-1"},
		{"export", "missing.tracer.json", vector}, {"geometry"}, {"paint"}, {"serve", "--listen", "0.0.0.0:0"},
	} {
		if err := run(c, &bytes.Buffer{}); err == nil {
			t.Errorf("%v is taken", c)
		}
	}
}

// Several files come of one call, out of a file with a map inside as well; a wish that cannot be met leaves none, and
// choices are flags.
func TestExportMakesSeveralFiles(t *testing.T) {
	dir := t.TempDir()
	in := func(name string) string { return filepath.Join(dir, name) }
	var out bytes.Buffer
	if err := run([]string{"export", written(t), in("a.pdf"), in("a.procedure.html"), in("a.xlsx"), in("a.md")},
		&out); err != nil {
		t.Fatal(err)
	}
	if err := run([]string{"export", in("a.pdf"), in("again.tracer.json")}, &out); err != nil {
		t.Fatal(err)
	}
	// Pictures lie beside the text that shows them; one file that cannot be made leaves the others.
	text, err := os.ReadFile(in("a.md"))
	shown := regexp.MustCompile(`!\[.*\]\(<(.*)>\)`).FindSubmatch(text)
	if err != nil || shown == nil {
		t.Fatalf("%v %.600s", err, text)
	}
	if picture, err := os.ReadFile(in(string(shown[1]))); err != nil || !bytes.HasPrefix(picture, []byte("\x89PNG")) {
		t.Errorf("%s: %v", shown[1], err)
	}
	if err := run([]string{"export", written(t), in("only.md"), "--pictures", "no"}, &out); err != nil {
		t.Error(err)
	}
	if text, err := os.ReadFile(in("only.md")); err != nil || bytes.Contains(text, []byte("![")) {
		t.Errorf("%v %.600s", err, text)
	}
	if err := run([]string{"export", written(t), in("c.svg"), in("c.pdf"), "--what", "map"}, &out); err == nil ||
		!strings.Contains(err.Error(), "c.svg: ") {
		t.Errorf("a picture of many sheets: %v", err)
	}
	if _, err := os.Stat(in("c.pdf")); err != nil {
		t.Error(err)
	}
	before, _ := os.ReadFile(written(t))
	if again, err := os.ReadFile(in("again.tracer.json")); err != nil || !bytes.Equal(again, before) {
		t.Errorf("the map came back as other bytes: %v", err)
	}
	if err := run([]string{"export", in("a.pdf"), "-", "--format", "register-csv"}, &out); err != nil ||
		!strings.Contains(out.String(), "Look up the pole number") {
		t.Errorf("%v: %s", err, &out)
	}
	// The register goes out as a table, with the ids last; a table of steps is laid out, from a spreadsheet too.
	for _, name := range []string{"r.csv", "r.tsv", "r.xlsx"} {
		if err := run([]string{"register", written(t), in(name)}, &out); err != nil {
			t.Fatal(err)
		}
	}
	if table, err := os.ReadFile(in("r.tsv")); err != nil || !strings.Contains(string(table), "Number\tStep\tKind") ||
		!strings.Contains(string(table), "\tid\r\n") {
		t.Errorf("the register is %.200s, %v", table, err)
	}
	for _, c := range [][]string{
		{"register", written(t), in("r.pdf")}, {"register", in("a.md"), in("r.csv")},
		{"register", written(t), in("s.csv"), "--separator", "bar"},
		{"export", written(t), in("b.svg"), in("b.gif")}, {"export", written(t), in("b.svg"), in("b.pdf"), "--paper",
			"A0"}, {"export", written(t), "-"},
		{"export", written(t), in("b.svg"), filepath.Join(dir, "no", "such", "folder.svg")},
		{"export", in("a.md"), in("b.svg")},
	} {
		if err := run(c, &out); err == nil {
			t.Errorf("%v is taken", c)
		}
	}
	list, err := filepath.Glob(in(".plaintracer-*"))
	if err != nil || len(list) > 0 {
		t.Errorf("left behind: %v %v", list, err)
	}
	if err := run([]string{"completion", "bash"}, &out); err != nil {
		t.Error(err)
	}
}

func TestGeometrySaysWhatIsDrawn(t *testing.T) {
	var out bytes.Buffer
	if err := run([]string{"geometry", written(t)}, &out); err != nil {
		t.Fatal(err)
	}
	var g struct{ Sheets []sheetGeometry }
	dec := json.NewDecoder(&out)
	dec.DisallowUnknownFields()
	if err := dec.Decode(&g); err != nil {
		t.Fatal(err)
	}
	if len(g.Sheets) != 3 || g.Sheets[0].W != 1122.52 || len(g.Sheets[0].Lanes) != 5 {
		t.Fatalf("the sheets are %+v", g.Sheets)
	}
	labels := 0
	for _, c := range g.Sheets[0].Connectors {
		if len(c.Points) < 2 {
			t.Errorf("the connector %s has no course", c.ID)
		}
		if c.Label != nil {
			labels++
		}
	}
	if labels != 4 {
		t.Errorf("%d labels for two decisions", labels)
	}
	for _, s := range g.Sheets[0].Symbols {
		if s.Text == "Log the report" && (s.Number != "2" || s.Lane != g.Sheets[0].Lanes[1].ID) {
			t.Errorf("the second step is %+v", s)
		}
	}
}

// The demo is the first thing anyone sees: nothing to find fault with, no
// connector through a symbol, none that crosses another.
func TestDemoMapsAreHandsome(t *testing.T) {
	for _, m := range []*model.Map{streetLight(), cargoBike()} {
		if fault := check(m); fault != "" {
			t.Errorf("%s: %s", m.Title, fault)
		}
	}
}

func check(m *model.Map) string {
	if err := m.Validate(); err != nil {
		return err.Error()
	}
	var out strings.Builder
	for _, f := range findings.Check(m) {
		out.WriteString(f.Symbol + " " + f.Text + "\n")
	}
	for _, s := range m.Sheets {
		courses := scene.Draw(m, s).Courses
		for i, a := range courses {
			if a.Obstructed {
				out.WriteString("a connector cuts a symbol\n")
			}
			for _, b := range courses[:i] {
				for k := 1; k < len(a.Points); k++ {
					for l := 1; l < len(b.Points); l++ {
						p, q, r, u := a.Points[k-1], a.Points[k], b.Points[l-1], b.Points[l]
						if (p.X == q.X) != (r.X == u.X) && min(p.X, q.X) < max(r.X, u.X) &&
							min(r.X, u.X) < max(p.X, q.X) &&
							min(p.Y, q.Y) < max(r.Y, u.Y) && min(r.Y, u.Y) < max(p.Y, q.Y) {
							out.WriteString("two connectors cross on " + s.Name + "\n")
						}
					}
				}
			}
		}
	}
	return out.String()
}
