package scene_test

import (
	"encoding/xml"
	"errors"
	"io"
	"strings"
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
)

// luminance and contrast after WCAG 2.2.
func luminance(hex string) float64 {
	var sum float64
	for i, weight := range []float64{0.2126, 0.7152, 0.0722} {
		v := 0
		for _, c := range strings.ToLower(hex[1+2*i : 3+2*i]) {
			v = v*16 + strings.IndexRune("0123456789abcdef", c)
		}
		s := float64(v) / 255
		if s <= 0.04045 {
			s /= 12.92
		} else {
			s = pow((s+0.055)/1.055, 2.4)
		}
		sum += weight * s
	}
	return sum
}

// pow by repeated squaring of roots is enough for a check to two digits.
func pow(x, y float64) float64 {
	root, out := x, 1.0
	for bit := y; bit > 0; {
		if bit >= 1 {
			out *= x
			bit--
			continue
		}
		root = sqrt(root)
		if bit *= 2; bit >= 1 {
			out *= root
			bit--
		}
		if root > 0.999999 {
			break
		}
	}
	return out
}

func sqrt(x float64) float64 {
	r := x
	for range 40 {
		r = (r + x/r) / 2
	}
	return r
}

func contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

func TestInkCanBeReadOnEveryFill(t *testing.T) {
	// WCAG's published values first: black on white 21:1, #767676 4.54:1.
	if c := contrast("#000000", "#ffffff"); c < 20.9 || c > 21.1 {
		t.Fatalf("black on white comes out as %.2f", c)
	}
	if c := contrast("#767676", "#ffffff"); c < 4.5 || c > 4.58 {
		t.Fatalf("#767676 on white comes out as %.2f", c)
	}
	for _, name := range diagram.Fills {
		if c := contrast(scene.Ink, scene.Fill(name)); c < 4.5 {
			t.Errorf("ink on %q has a contrast of %.2f", name, c)
		}
	}
	if c := contrast(scene.InkSoft, scene.Paper); c < 4.5 {
		t.Errorf("soft ink on paper has a contrast of %.2f", c)
	}
}

func TestAppendPx(t *testing.T) {
	for n, want := range map[int]string{0: "0", 5: "0.05", 50: "0.5", 1234: "12.34", -1230: "-12.3", -7: "-0.07", 4000: "40"} {
		if got := string(scene.AppendPx(nil, n)); got != want {
			t.Errorf("%d is written %q, not %q", n, got, want)
		}
	}
}

func TestSVGIsWellFormedWhateverTheText(t *testing.T) {
	m := diagram.New("<&\">", diagram.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Pools = []*diagram.Pool{{ID: "p", Title: "<script>", W: 50000, Lanes: []diagram.Lane{{ID: "l", Name: "a & b", H: 10000}}}}
	for i, kind := range diagram.Kinds {
		s.Symbols = append(s.Symbols, &diagram.Symbol{ID: string(kind), Kind: kind, Text: `"quoted" & <b>bold</b> ]]>`, Box: geometry.Box{X: i * 15000, W: 12000, H: 8000}})
	}
	s.Connectors = []*diagram.Connector{{ID: "c", From: diagram.End{Symbol: "process"}, To: diagram.End{Symbol: "decision"}, Text: "<&"}}
	out := append([]byte(`<svg xmlns="http://www.w3.org/2000/svg">`), scene.Draw(m, s).AppendSVG(nil)...)
	dec := xml.NewDecoder(strings.NewReader(string(out) + "</svg>"))
	elements := 0
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
			if name := e.Name.Local; name != "svg" && name != "g" && name != "path" && name != "text" {
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
