package edited_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/bench/hands"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/edited"
	"plaintracer/exchange/svg"
)

func picture(t *testing.T, m *model.Map) []byte {
	t.Helper()
	out, err := svg.Write(scene.Draw(m, m.Sheets[0]), svg.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// What a picture shows is found to be what its map says, as it is saved and when another program has written it anew.
func TestWhatWasNotChangedIsNotFound(t *testing.T) {
	for _, h := range hands.All() {
		m := h.Map()
		file := picture(t, m)
		if got := edited.Texts(file, m); len(got) > 0 {
			t.Errorf("%s: in a picture as it was saved these are changed: %+v", h.Name, got)
		}
		name := filepath.Join(t.TempDir(), "in.svg")
		if err := os.WriteFile(name, file, 0o600); err != nil {
			t.Fatal(err)
		}
		anew, err := exec.Command("xmllint", "--format", name).Output()
		if err != nil {
			t.Fatal(err)
		}
		if got := edited.Texts(anew, m); len(got) > 0 {
			t.Errorf("%s: in a picture that was indented these are changed: %+v", h.Name, got)
		}
	}
}

// A text of several lines and the label of a connector that were changed in the picture are found, and taken on wish.
func TestChangedTextsAreFoundAndTaken(t *testing.T) {
	m := model.New("Lamps", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, text := range []string{"Report the light by phone or form", "Is it damaged?", "Close the report"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: "s" + string(rune('1'+i)), Kind: model.Process, Text: text})
		s.Symbols[i].X, s.Symbols[i].Y, s.Symbols[i].W, s.Symbols[i].H = 4000+i*24000, 6000, 12000, 8000
	}
	s.Connectors = append(s.Connectors, &model.Connector{ID: "c1", Text: "Yes", From: model.End{Symbol: "s1"},
		To: model.End{Symbol: "s2"}}, &model.Connector{ID: "c2", From: model.End{Symbol: "s2"}, To: model.End{Symbol: "s3"}})
	file := string(picture(t, m))
	for _, change := range [][2]string{{">phone or form<", ">letter<"}, {">Yes<", ">Surely<"}} {
		if !strings.Contains(file, change[0]) {
			t.Fatalf("the picture has no %q: %s", change[0], file)
		}
		file = strings.Replace(file, change[0], change[1], 1)
	}
	got := edited.Texts([]byte(file), m)
	if len(got) != 2 {
		t.Fatalf("found are %+v", got)
	}
	edited.Take(m, got)
	if s.Symbols[0].Text != "Report the light by letter" || s.Connectors[0].Text != "Surely" ||
		s.Symbols[1].Text != "Is it damaged?" {
		t.Errorf("taken are %q, %q, %q", s.Symbols[0].Text, s.Connectors[0].Text, s.Symbols[1].Text)
	}
	// What was deleted or is broken is nothing that was changed.
	for _, broken := range []string{"", "<svg", strings.Replace(file, "</text>", "", 3), file[:len(file)/2]} {
		edited.Texts([]byte(broken), m)
	}
}
