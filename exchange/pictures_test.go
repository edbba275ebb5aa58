// Package exchange_test checks the exported pictures with programs that did
// not write them.
package exchange_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	topng "plaintracer/exchange/png"
	"plaintracer/exchange/svg"
)

func sheet() *scene.Drawing {
	m := diagram.New("Picture", diagram.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Symbols = []*diagram.Symbol{
		{ID: "a", Kind: diagram.Process, Text: "Log the report", Fill: "moss", Box: geometry.Box{X: 10000, Y: 10000, W: 12000, H: 8000}},
		{ID: "b", Kind: diagram.Decision, Text: "Known?", Type: diagram.Type{Bold: true}, Box: geometry.Box{X: 30000, Y: 10000, W: 12000, H: 8000}},
	}
	s.Connectors = []*diagram.Connector{{ID: "c", From: diagram.End{Symbol: "a"}, To: diagram.End{Symbol: "b"}}}
	return scene.Draw(m, s)
}

func rsvg(t *testing.T, data []byte) image.Image {
	t.Helper()
	if _, err := exec.LookPath("rsvg-convert"); err != nil {
		t.Skip("rsvg-convert is not installed; make test installs it")
	}
	file := filepath.Join(t.TempDir(), "sheet.svg")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("rsvg-convert", file).Output()
	if err != nil {
		t.Fatalf("rsvg-convert: %v", err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

func near(a, b color.Color) bool {
	r, g, bl, _ := a.RGBA()
	r2, g2, b2, _ := b.RGBA()
	d := func(x, y uint32) float64 { return math.Abs(float64(x) - float64(y)) }
	return d(r, r2) < 2000 && d(g, g2) < 2000 && d(bl, b2) < 2000
}

// The SVG as librsvg draws it and the bitmap show the same: paper, fill, line
// and outline where the geometry says they are.
func TestBothPicturesShowTheSheet(t *testing.T) {
	vector, err := svg.Write(sheet(), svg.Options{Scale: 2})
	if err != nil {
		t.Fatal(err)
	}
	raw, err := topng.Write(sheet(), 2)
	if err != nil {
		t.Fatal(err)
	}
	bitmap, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	ink := color.RGBA{0x22, 0x30, 0x3c, 255}
	for name, img := range map[string]image.Image{"svg": rsvg(t, vector), "png": bitmap} {
		if w, h := img.Bounds().Dx(), img.Bounds().Dy(); math.Abs(float64(w)-2245) > 1 || math.Abs(float64(h)-1587) > 1 {
			t.Errorf("%s: A4 across at twice the size is %d x %d", name, w, h)
		}
		for _, c := range []struct {
			what string
			x, y int // of the sheet
			want color.Color
		}{
			{"paper", 50, 50, color.White}, {"fill", 110, 170, color.RGBA{0xdc, 0xeb, 0xd7, 255}},
			{"connector", 260, 140, ink}, {"outline", 160, 180, ink}, {"paper beside the diamond", 305, 105, color.White},
		} {
			if got := img.At(2*c.x, 2*c.y); !near(got, c.want) {
				t.Errorf("%s: %s at %d, %d is %v, not %v", name, c.what, c.x, c.y, got, c.want)
			}
		}
		dark := 0 // the text stands in the middle of the step
		for x := 230; x < 410; x++ {
			for y := 264; y < 296; y++ {
				if r, _, _, _ := img.At(x, y).RGBA(); r < 0x8000 {
					dark++
				}
			}
		}
		if dark < 150 {
			t.Errorf("%s: only %d dark pixels where the text should be", name, dark)
		}
	}
}

func TestSVGIsSelfContainedAndItsTextIsText(t *testing.T) {
	out, err := svg.Write(sheet(), svg.Options{})
	if err != nil {
		t.Fatal(err)
	}
	text := string(out)
	for _, want := range []string{">Log the report</text>", "font/ttf;base64,", `width="1122.52"`} {
		if !strings.Contains(text, want) {
			t.Errorf("the file lacks %s", want)
		}
	}
	if strings.Contains(strings.ReplaceAll(text, "http://www.w3.org/2000/svg", ""), "http") {
		t.Error("the file refers to something outside")
	}
	if _, err := exec.LookPath("xmllint"); err != nil {
		t.Skip("xmllint is not installed; make test installs it")
	}
	lint := exec.Command("xmllint", "--noout", "-")
	lint.Stdin = bytes.NewReader(out)
	if said, err := lint.CombinedOutput(); err != nil {
		t.Errorf("xmllint: %v: %s", err, said)
	}
}
