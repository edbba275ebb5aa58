package scene_test

import (
	"encoding/xml"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

func TestAppendPx(t *testing.T) {
	for n, want := range map[int]string{0: "0", 5: "0.05", 50: "0.5", 1234: "12.34", -1230: "-12.3", -7: "-0.07",
		4000: "40"} {
		if got := string(scene.AppendPx(nil, n)); got != want {
			t.Errorf("%d is written %q, not %q", n, got, want)
		}
	}
}

func TestSVGIsWellFormedWhateverTheText(t *testing.T) {
	m := model.New("<&\">", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Name = "</title><script>"
	s.Pools = []*model.Pool{{ID: "p", Title: "<script>", W: 50000,
		Lanes: []model.Lane{{ID: "l", Name: "a & b", H: 10000}}}}
	for i, kind := range model.Kinds {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: string(kind), Kind: kind, Text: `"quoted" & <b>bold</b> ]]>`,
			Box: geometry.Box{X: i * 15000, W: 12000, H: 8000}})
	}
	s.Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "process"}, To: model.End{Symbol: "decision"},
		Text: "<&"}}
	out := append([]byte(`<svg xmlns="http://www.w3.org/2000/svg">`), scene.Draw(m, s).AppendSVG(nil)...)
	dec := xml.NewDecoder(strings.NewReader(string(out) + "</svg>"))
	elements, links := 0, 0
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatalf("%v in %s", err, out)
		}
		if e, ok := tok.(xml.StartElement); ok {
			elements++
			if e.Name.Local == "a" { // that of the sheet in the table of contents
				if links++; links > 1 || e.Attr[1].Value != "#n-"+s.ID {
					t.Errorf("a link came in by a text: %v", e.Attr)
				}
				continue
			}
			if name := e.Name.Local; !slices.Contains([]string{"svg", "g", "path", "text", "title"}, name) {
				t.Errorf("the element <%s> came in by a text", name)
			}
			for _, a := range e.Attr {
				if a.Name.Local == "style" || strings.HasPrefix(a.Name.Local, "on") {
					t.Errorf("<%s> carries %s", e.Name.Local, a.Name.Local)
				}
			}
		}
	}
	if elements < 40 {
		t.Errorf("only %d elements were drawn", elements)
	}
}
