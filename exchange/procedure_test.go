package exchange_test

import (
	"os"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"plaintracer/core/procedure"
)

// An office program reads the procedure from a text document of either form as it was meant: its parts, every step by
// its number, what stands under it, and a picture for each sheet.
func TestAnOfficeProgramReadsTheProcedure(t *testing.T) {
	soffice, err := exec.LookPath("soffice")
	if _, missing := os.Stat("/usr/lib/libreoffice/program/libswlo.so"); err != nil || missing != nil {
		if testing.Short() {
			t.Skip("no office program for texts here; make soak installs one")
		}
		t.Fatal(err, missing)
	}
	m := two(t)
	for _, ending := range []string{"docx", "odt"} {
		text, paper := asPaper(t, soffice, made(t, m, "procedure-"+ending).Data, ending)
		for _, s := range procedure.Of(m).Steps {
			if want := s.Number + ". " + s.Text; !strings.Contains(text, want) {
				t.Errorf("%s: an office program shows no %q in %s", ending, want, text)
			}
		}
		for _, want := range []string{"Contents", "Purpose Lamps burn again within three days.", "Who takes part",
			"After the repair",
			"go to step", "Register No. Step Who Goes on to"} {
			if !strings.Contains(text, want) {
				t.Errorf("%s: an office program shows no %q in %s", ending, want, text)
			}
		}
		if !regexp.MustCompile(`\b1 ?/ ?\d`).MatchString(text) {
			t.Errorf("%s: pages have no numbers", ending)
		}
		pictures := said(t, "pdfimages", "-list", paper)
		if n := strings.Count(pictures, " image "); n != len(m.Sheets) {
			t.Errorf("%s: %d pictures of %d sheets:\n%s", ending, n, len(m.Sheets), pictures)
		}
	}
}
