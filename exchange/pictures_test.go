// Package exchange_test checks the exported pictures with programs that did
// not write them.
package exchange_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-fonts/latin-modern/lmmono10regular"
	"github.com/go-fonts/latin-modern/lmroman10regular"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	topng "plaintracer/exchange/png"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/typeface"
)

func sheet() *scene.Drawing {
	m := model.New("Picture", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Symbols = []*model.Symbol{
		{ID: "a", Kind: model.Process, Text: "Log the report", Fill: "moss",
			Box: geometry.Box{X: 10000, Y: 10000, W: 12000, H: 8000}},
		{ID: "b", Kind: model.Decision, Text: "Known?", Type: model.Type{Bold: true},
			Box: geometry.Box{X: 30000, Y: 10000, W: 12000, H: 8000}},
	}
	s.Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	return scene.Draw(m, s)
}

func rsvg(t *testing.T, data []byte, house ...[]byte) image.Image {
	t.Helper()
	if _, err := exec.LookPath("rsvg-convert"); err != nil {
		t.Skip("rsvg-convert is not installed; make test installs it")
	}
	file := filepath.Join(t.TempDir(), "sheet.svg")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	draw := exec.Command("rsvg-convert", file)
	draw.Env = append(os.Environ(), "FONTCONFIG_FILE="+fontconfig(t, house...))
	out, err := draw.Output()
	if err != nil {
		t.Fatalf("rsvg-convert: %v", err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// fontconfig returns a configuration of fonts that knows the shipped typeface and
// those of the organisation alone: librsvg takes no font out of a picture, and what a
// machine has installed is another matter.
func fontconfig(t *testing.T, house ...[]byte) string {
	t.Helper()
	dir := t.TempDir()
	named := ""
	families := [...]typeset.Face{typeset.OwnFace, typeset.FurtherFace}
	for i, data := range house {
		if err := os.WriteFile(filepath.Join(dir, fmt.Sprint("house", i, ".otf")), data, 0o600); err != nil {
			t.Fatal(err)
		}
		f, err := fonts.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		named += `<match><test name="family"><string>` + scene.Family(families[i]) +
			`</string></test><edit name="family" mode="prepend" binding="strong"><string>` + f.Family +
			`</string></edit></match>`
	}
	for i, cut := range typeface.Cuts {
		face, err := typeface.Shipped(cut)
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, fmt.Sprint("face", i, ".ttf")), face.Data(), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	file := filepath.Join(dir, "fonts.conf")
	conf := `<?xml version="1.0"?><!DOCTYPE fontconfig SYSTEM "fonts.dtd"><fontconfig><dir>` + dir +
		`</dir><cachedir>` + dir + `</cachedir>` + named + `</fontconfig>`
	if err := os.WriteFile(file, []byte(conf), 0o600); err != nil {
		t.Fatal(err)
	}
	return file
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
	raw, err := topng.Write(context.Background(), sheet(), 2)
	if err != nil {
		t.Fatal(err)
	}
	bitmap, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	ink := color.RGBA{0x22, 0x30, 0x3c, 255}
	for name, img := range map[string]image.Image{"svg": rsvg(t, vector), "png": bitmap} {
		if w, h := img.Bounds().Dx(), img.Bounds().Dy(); math.Abs(float64(w)-2245) > 1 ||
			math.Abs(float64(h)-1587) > 1 {
			t.Errorf("%s: A4 across at twice the size is %d x %d", name, w, h)
		}
		for _, c := range []struct {
			what string
			x, y int // of the sheet
			want color.Color
		}{
			{"paper", 50, 50, color.White}, {"fill", 110, 170, color.RGBA{0xdc, 0xeb, 0xd7, 255}},
			{"connector", 260, 140, ink}, {"outline", 160, 180, ink},
			{"paper beside the diamond", 305, 105, color.White},
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

// everything is a sheet with every symbol, pictures, and lines of all patterns,
// weights, marks and courses.
func everything(t *testing.T) *scene.Drawing {
	t.Helper()
	m := model.New("Everything", model.Rightwards, "A3", true)
	m.Numbers = false
	s := m.Sheets[0]
	var file bytes.Buffer
	red := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for i := range red.Pix {
		red.Pix[i] = []byte{200, 30, 30, 255}[i%4]
	}
	if err := png.Encode(&file, red); err != nil {
		t.Fatal(err)
	}
	for _, data := range [][]byte{file.Bytes(),
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><rect width="40" height="20" fill="#1e1ec8"/><circle cx="20" cy="10" r="6" fill="#ffffff"/></svg>`)} {
		p, err := pictures.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		m.Pictures = append(m.Pictures, p)
	}
	for i, kind := range model.Kinds {
		sym := &model.Symbol{ID: string(kind), Kind: kind, Text: "Read it",
			Box: geometry.Box{X: (20 + i%10*155) * geometry.Px, Y: (20 + i/10*150) * geometry.Px, W: 11000, H: 8000}}
		sym.Italic, sym.Underline, sym.Bold = i%3 == 0, i%4 == 0, i%5 == 0
		sym.Fill = []string{"", "moss", "#203040"}[i%3]
		if i%2 == 1 { // the word in the middle of the line, and half of the next one
			sym.Text = "Read it again"
			sym.Accents = []model.Accent{{From: 5, To: 7, Bold: true, Italic: true, Colour: "clay"}, {From: 9, To: 11,
				Italic: true}}
		}
		s.Symbols = append(s.Symbols, sym)
	}
	for i := range m.Pictures {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: m.Pictures[i].ID, Kind: model.Picture,
			Picture: m.Pictures[i].ID,
			Box:     geometry.Box{X: (40 + i*200) * geometry.Px, Y: 900 * geometry.Px, W: 12000, H: 9000}})
	}
	for i, mark := range model.Marks {
		from, to := model.Kinds[i%10], model.Kinds[10+(i*7)%20]
		c := &model.Connector{ID: "k" + string(mark), From: model.End{Symbol: string(from)},
			To: model.End{Symbol: string(to)}, Text: "when dark"}
		c.FromMark, c.ToMark, c.Weight = mark, mark, 100+i*60
		c.Line = []model.Line{"", model.DashLine, model.DotLine, model.DashDot, model.Transfer, model.Link}[i%6]
		c.Course = []model.Run{model.Angled, model.Curved, model.Straight}[i%3]
		c.Radius = i % 4 * 500
		s.Connectors = append(s.Connectors, c)
	}
	return scene.Draw(m, s)
}

// librsvg's drawing of the SVG and the bitmap agree on all but the edges of
// lines and letters, which the two smooth in their own ways.
func TestBothPicturesAgreeOnEverything(t *testing.T) {
	d := everything(t)
	vector, err := svg.Write(d, svg.Options{Scale: 2})
	if err != nil {
		t.Fatal(err)
	}
	raw, err := topng.Write(context.Background(), d, 2)
	if err != nil {
		t.Fatal(err)
	}
	a := rsvg(t, vector)
	b, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	apart, ink := compare(a, b)
	if ink < 2000 {
		t.Fatalf("only %d fields show anything", ink)
	}
	// librsvg stretches a picture to whole pixels, by up to one along its foot.
	if apart*400 > ink {
		t.Errorf("%d of %d fields differ", apart, ink)
	}
	t.Logf("%d of %d fields differ", apart, ink)
}

// A map in a font of the organisation shows the same in both pictures: its characters
// where its widths put them, and those it lacks from the shipped typeface.
func TestBothPicturesShowTheHouseFont(t *testing.T) {
	m := model.New("House", model.Rightwards, "A5", true)
	f, err := fonts.Read(lmroman10regular.TTF)
	if err != nil {
		t.Fatal(err)
	}
	mono, err := fonts.Read(lmmono10regular.TTF)
	if err != nil {
		t.Fatal(err)
	}
	m.Fonts, m.Faces, m.Also = []fonts.Font{f, mono}, []string{f.ID}, []string{mono.ID}
	s := m.Sheets[0]
	for i, text := range []string{"Look up the pole number", "Fault in the lamp?", "Лампа and pole",
		"Write the work order"} {
		s.Symbols = append(s.Symbols,
			&model.Symbol{ID: fmt.Sprint("s", i), Kind: []model.Kind{model.Process, model.Decision}[i%2], Text: text,
				Box: geometry.Box{X: (40 + i*180) * geometry.Px, Y: 8000, W: 15000, H: 11000}})
	}
	s.Symbols[0].Face, s.Symbols[1].Face = mono.Family, model.BuiltInFace // single texts in other typefaces
	d := scene.Draw(m, s)
	vector, err := svg.Write(d, svg.Options{Scale: 2})
	if err != nil {
		t.Fatal(err)
	}
	// its regular one, drawing bold numbers too, that of the single text, the shipped one, also for what these lack
	if n := strings.Count(string(vector), "@font-face"); n != 4 {
		t.Errorf("the file carries %d fonts", n)
	}
	raw, err := topng.Write(context.Background(), d, 2)
	if err != nil {
		t.Fatal(err)
	}
	b, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	apart, ink := compare(rsvg(t, vector, lmroman10regular.TTF, lmmono10regular.TTF), b)
	if ink < 500 || apart*100 > ink {
		t.Errorf("%d of %d fields differ", apart, ink)
	}
	// Without the font the pictures are apart: the comparison sees letters.
	if other, _ := compare(rsvg(t, vector), b); other < 20 || other < 5*apart {
		t.Errorf("in another font only %d of %d fields differ, in its own %d", other, ink, apart)
	}
}

// compare counts the fields of 8 by 8 pixels in which two pictures differ, and
// those that show anything.
func compare(a, b image.Image) (apart, ink int) {
	w, h := min(a.Bounds().Dx(), b.Bounds().Dx()), min(a.Bounds().Dy(), b.Bounds().Dy())
	grey := func(img image.Image, x, y int) int {
		r, g, bl, _ := img.At(x, y).RGBA()
		return int(r+g+bl) / 3 >> 8
	}
	// Compared by fields of 8 by 8 pixels: what stands a pixel off hardly shows,
	// what is missing or elsewhere does.
	for y := 0; y+8 <= h; y += 8 {
		for x := 0; x+8 <= w; x += 8 {
			sum, dark := 0, 0
			for i := range 64 {
				p, q := grey(a, x+i%8, y+i/8), grey(b, x+i%8, y+i/8)
				sum += p - q
				dark += 255 - p
			}
			if dark > 64*8 {
				ink++
			}
			if sum < 0 {
				sum = -sum
			}
			if sum > 64*40 {
				apart++
			}
		}
	}
	return apart, ink
}

// What the typeface lacks is named, once each, and nothing else.
func TestMissingCharactersAreNamed(t *testing.T) {
	m := model.New("Lack", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{{ID: "a", Kind: model.Process, Text: "Łódź 路灯 路 نور Ελλάδα",
		Box: geometry.Box{W: 30000, H: 9000}}}
	missing := scene.Draw(m, m.Sheets[0]).Missing()
	if got := scene.Named(missing); got != "ر (U+0631), ن (U+0646), و (U+0648), 灯 (U+706F), 路 (U+8DEF)" {
		t.Errorf("missing are %s", got)
	}
	if _, err := topng.Write(context.Background(), scene.Draw(m, m.Sheets[0]), 1); err != nil {
		t.Errorf("without them there is no picture: %v", err)
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
