package record

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// An office program opens the text document, and finds in it what the PDF of ours says: the outcome, who said what, the
// remarks with their answers, what changed, and a picture of every sheet.
func TestAnOfficeProgramReadsTheRecord(t *testing.T) {
	soffice, err := exec.LookPath("soffice")
	if _, missing := os.Stat("/usr/lib/libreoffice/program/libswlo.so"); err != nil || missing != nil {
		if testing.Short() {
			t.Skip("no office program for texts here; make soak installs one")
		}
		t.Fatal(err, missing)
	}
	m := model.New("A street light is out", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{{ID: "a", Kind: model.Process, Text: "Log the report",
		Box: geometry.Box{X: 10000, Y: 10000, W: 12000, H: 8000}}}
	r := &Record{Title: "A street light <is> & out", Subtitle: "Round 1 of review, of version 1",
		Facts: [][2]string{{"Outcome", "Not agreed: Selma Kurt, 1 has not answered."}, {"Nothing", ""}},
		Voices: []Voice{{Name: "Selma Kurt", Way: "as a member of the organisation", Said: "not agreed",
			Why: "“Größe” & more"}, {Name: "Jo", Said: "agreed", Unasked: true}},
		Threads: []Thread{{About: "1 Log the report", Saying: Saying{By: "Jonas Petri", At: "14 November 2026, 09:00",
			Text: "By hand?\nNo."},
			Answers: []Saying{{By: "Ida Brandt", At: "14 November 2026, 10:00", Text: "In the tool."}},
			Settled: "resolved by Ida Brandt"}},
		Before: "version 0", Changes: []string{"Step 1 “Note” was reworded: “Log the report”."}, Map: m}
	dir := t.TempDir()
	words := func(format string) string {
		t.Helper()
		out, err := r.Write(t.Context(), format)
		if err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(dir, "record."+format)
		if err := os.WriteFile(file, out, 0o600); err != nil {
			t.Fatal(err)
		}
		if format != "pdf" {
			c := exec.Command(soffice, "-env:UserInstallation=file://"+dir+"/office", "--headless", "--convert-to",
				"pdf", "--outdir", dir, file)
			if said, err := c.CombinedOutput(); err != nil {
				t.Fatalf("%v: %s", err, said)
			}
			file = filepath.Join(dir, "record.pdf")
			images, err := exec.Command("pdfimages", "-list", file).Output()
			if err != nil || !strings.Contains(string(images), "image") {
				t.Errorf("no picture is in what the office program shows: %v %s", err, images)
			}
		}
		text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(strings.Fields(string(text)), " ")
	}
	ours, theirs := words("pdf"), words("docx")
	for _, want := range []string{"A street light <is> & out", "Round 1 of review, of version 1",
		"Outcome: Not agreed: Selma Kurt, 1 has not answered.",
		"Selma Kurt: not agreed", "Why: “Größe” & more", "Jo: agreed (was not asked, does not count)",
		"1 Log the report, resolved by Ida Brandt",
		"Jonas Petri, 14 November 2026, 09:00: By hand?", "Ida Brandt, 14 November 2026, 10:00: In the tool.",
		"What changed since version 0", "Step 1 “Note” was reworded: “Log the report”."} {
		if !strings.Contains(theirs, want) {
			t.Errorf("the office program does not find %q in %s", want, theirs)
		}
		if !strings.Contains(ours, want) {
			t.Errorf("the PDF does not say %q: %s", want, ours)
		}
	}
}
