// Package gallery holds maps that between them show everything that can be drawn, and compares pictures of them.
package gallery

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	scaling "golang.org/x/image/draw"

	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/symbols"
	"plaintracer/exchange/picturefile"
)

const px = geometry.Px

// Maps are the maps of the gallery, each of one sheet, under their names.
func Maps() (map[string]*model.Map, error) {
	out := map[string]*model.Map{"kinds": kinds(), "lines": lines(), "lanes": lanes(false), "lanes down": lanes(true),
		"scripts": scripts()}
	for _, l := range looks.All {
		m := lanes(false)
		m.Look = l.Name
		out["look "+l.Name] = m
	}
	m, err := withPictures()
	out["pictures"] = m
	return out, err
}

func sheet(title string) (*model.Map, *model.Sheet) {
	m := model.New(title, model.Rightwards, "A3", true)
	m.Numbers = true
	return m, m.Sheets[0]
}

// kinds shows every symbol with a text, some of them coloured, emphasised or dashed.
func kinds() *model.Map {
	m, s := sheet("Kinds")
	i := 0
	for _, k := range model.Kinds {
		def := symbols.Of(k)
		if k.ShowsPicture() || k.Explains() || k.Holds() {
			continue
		}
		sym := &model.Symbol{ID: fmt.Sprint("k", i), Kind: k, Text: def.Name,
			Box: geometry.Box{X: (40 + i%9*168) * px, Y: (40 + i/9*160) * px, W: def.W, H: def.H}}
		sym.Fill = model.Fills[i%len(model.Fills)]
		sym.Emphasis, sym.Dashed = i%5 == 1, i%7 == 2
		sym.Bold, sym.Italic, sym.Underline = i%4 == 1, i%4 == 2, i%4 == 3
		s.Symbols = append(s.Symbols, sym)
		i++
	}
	return m
}

// lines shows every end, pattern, course and crossing of connectors, and their labels.
func lines() *model.Map {
	m, s := sheet("Lines")
	add := func(x, y int) string {
		id := fmt.Sprint("s", len(s.Symbols))
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process, Text: id,
			Box: geometry.Box{X: x * px, Y: y * px, W: 80 * px, H: 50 * px}})
		return id
	}
	patterns := []model.Line{model.Solid, model.DashLine, model.DotLine, model.DashDot, model.Transfer, model.Link}
	for i, mark := range model.Marks {
		x, y := 40+i%4*380, 30+i/4*90
		c := &model.Connector{ID: fmt.Sprint("c", i), From: model.End{Symbol: add(x, y)},
			To: model.End{Symbol: add(x+240, y)}, Text: "label " + fmt.Sprint(i)}
		c.FromMark, c.ToMark, c.Line = mark, model.Marks[(i+5)%len(model.Marks)], patterns[i%len(patterns)]
		c.Weight, c.Ink = []int{0, 250, 100}[i%3], []string{"", "lake", "#aa3311"}[i%3]
		s.Connectors = append(s.Connectors, c)
	}
	// Crossings of each kind, and the three courses.
	for i, hop := range []model.Crossing{model.CrossArc, model.CrossGap, model.CrossPlain} {
		x := 60 + i*480
		a, b, c, d := add(x, 560), add(x+280, 560), add(x+140, 440), add(x+140, 680)
		level := &model.Connector{ID: fmt.Sprint("l", i), From: model.End{Symbol: a}, To: model.End{Symbol: b}}
		upright := &model.Connector{ID: fmt.Sprint("u", i), From: model.End{Symbol: c}, To: model.End{Symbol: d},
			Text: "over"}
		level.Hop, upright.Hop = hop, hop
		s.Connectors = append(s.Connectors, level, upright)
	}
	for i, course := range []model.Run{model.Angled, model.Straight, model.Curved} {
		x := 60 + i*480
		c := &model.Connector{ID: fmt.Sprint("r", i), From: model.End{Symbol: add(x, 800)},
			To: model.End{Symbol: add(x+260, 950)}, FromText: "from", ToText: "to"}
		c.Course, c.Radius = course, 12*px
		s.Connectors = append(s.Connectors, c)
	}
	return m
}

// lanes shows a pool with lanes and stages, badges, a heading, a legend, a note, and a pair of references.
func lanes(down bool) *model.Map {
	m, s := sheet("Lanes")
	m.Heading = model.Heading{Project: "Street lighting", Process: "Repair", Author: "A. Writer", Version: "3",
		Date: "27 November 2026"}
	s.Headed = true
	pool := &model.Pool{ID: "pool", Title: "Public works", X: 40 * px, Y: 40 * px, W: 1100 * px, Down: down}
	for i, name := range []string{"Resident", "Service desk", "Field crew"} {
		pool.Lanes = append(pool.Lanes, model.Lane{ID: fmt.Sprint("lane", i), Name: name, H: 180 * px,
			Fill: []string{"", "moss", ""}[i], Of: []string{"", "City", "City"}[i]})
	}
	pool.Stages = []model.Stage{{ID: "st1", Name: "Report", L: 500 * px}, {ID: "st2", Name: "Repair", L: 500 * px}}
	if down {
		pool.W = 860 * px
		pool.Stages[0].L, pool.Stages[1].L = 340*px, 440*px
	}
	s.Pools = append(s.Pools, pool)
	add := func(id string, k model.Kind, text string, lane, at int) {
		def := symbols.Of(k)
		b := pool.Own(pool.LaneBox(lane))
		x, y := pool.Content()+at*px, b.Y+(b.H-def.H)/2
		box := geometry.Box{X: x, Y: y, W: def.W, H: def.H}
		if down {
			box = pool.Own(geometry.Box{X: x, Y: b.Y + (b.H-def.W)/2, W: def.H, H: def.W})
		}
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: k, Text: text, Box: box})
	}
	add("a", model.Terminator, "Lamp is out", 0, 40)
	add("b", model.Process, "Log the report", 1, 40)
	add("c", model.Decision, "Dangerous?", 1, 240)
	add("d", model.Process, "Close the lane at once", 2, 240)
	add("e", model.Document, "Work order", 2, 460)
	add("f", model.Terminator, "It burns", 2, 640)
	lead := func(id, from, to, text string) {
		s.Connectors = append(s.Connectors, &model.Connector{ID: id, From: model.End{Symbol: from},
			To: model.End{Symbol: to}, Text: text})
	}
	lead("1", "a", "b", "")
	lead("2", "b", "c", "")
	lead("3", "c", "d", "Yes")
	lead("4", "d", "e", "")
	lead("8", "e", "f", "")
	if !down {
		s.Symbols = append(s.Symbols,
			&model.Symbol{ID: "note", Kind: model.Annotation, Text: "By day only",
				Box: geometry.Box{X: 1180 * px, Y: 80 * px, W: 140 * px, H: 50 * px}},
			&model.Symbol{ID: "legend", Kind: model.Legend, Box: geometry.Box{X: 1180 * px, Y: 200 * px, W: 300 * px,
				H: 260 * px}})
	}
	return m
}

// scripts shows texts that the shipped typeface has not.
func scripts() *model.Map {
	m, s := sheet("Scripts")
	for i, text := range []string{"Überprüfen", "Проверить", "مصباح الشارع مطفأ", "שלום עולם", "नमस्ते", "สวัสดี",
		"Check שלום 12"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("t", i), Kind: model.Process, Text: text,
			Box: geometry.Box{X: (40 + i%4*220) * px, Y: (40 + i/4*160) * px, W: 180 * px, H: 100 * px}})
	}
	return m
}

// withPictures shows a bitmap and a drawing as symbols, and one as the ground.
func withPictures() (*model.Map, error) {
	m, s := sheet("Pictures")
	img := image.NewNRGBA(image.Rect(0, 0, 120, 80))
	for y := range 80 {
		for x := range 120 {
			img.Set(x, y, color.NRGBA{uint8(2 * x), uint8(3 * y), 120, uint8(255 - x)})
		}
	}
	var file bytes.Buffer
	if err := png.Encode(&file, img); err != nil {
		return nil, err
	}
	drawing := []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><circle cx="50" cy="50" r="45" fill="#1f6b57"/><path d="M20 50h60" stroke="#fff" stroke-width="8"/></svg>`)
	for i, data := range [][]byte{file.Bytes(), drawing} {
		p, err := pictures.Read(data)
		if err != nil {
			return nil, err
		}
		if err := picturefile.Sound(context.Background(), &p); err != nil {
			return nil, err
		}
		m.Pictures = append(m.Pictures, p)
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("p", i), Kind: model.Picture, Picture: p.ID,
			Box: geometry.Box{X: (60 + 300*i) * px, Y: 60 * px, W: 240 * px, H: 200 * px}})
	}
	return m, nil
}

// The tolerance of a comparison: a pixel counts as another one when no pixel around it, at most one away, is within so
// many levels of 255 in every colour; and so many of a million may be.
const (
	levels     = 90
	perMillion = 100
)

// Compare returns how many pixels of a million differ, and a picture in which these are red. Only what lies on both
// pictures is compared.
func Compare(a, b image.Image) (differ int, shown image.Image) {
	w, h := min(a.Bounds().Dx(), b.Bounds().Dx()), min(a.Bounds().Dy(), b.Bounds().Dy())
	p, q := flat(a, w, h), flat(b, w, h)
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	bad := 0
	for y := range h {
		for x := range w {
			grey := 255 - (255-p.Pix[y*p.Stride+4*x])/3
			out.SetNRGBA(x, y, color.NRGBA{grey, grey, grey, 255})
			if !near(p, q, x, y) || !near(q, p, x, y) {
				bad++
				out.SetNRGBA(x, y, color.NRGBA{220, 0, 0, 255})
			}
		}
	}
	return int(float64(bad) / float64(w*h) * 1e6), out
}

// Same reports whether a comparison is within the tolerance.
func Same(differ int) bool { return differ <= perMillion }

// FirstPage draws the first page of a PDF file by poppler, 192 pixels to the inch, in a folder for files in between.
// Poppler moves thin lines to whole pixels.
func FirstPage(file []byte, folder string) (image.Image, error) {
	in, out := filepath.Join(folder, "in.pdf"), filepath.Join(folder, "page")
	if err := os.WriteFile(in, file, 0o600); err != nil {
		return nil, err
	}
	if said, err := exec.Command("pdftoppm", "-r", "192", "-f", "1", "-l", "1", "-singlefile", "-png", in,
		out).CombinedOutput(); err != nil {
		return nil, fmt.Errorf("pdftoppm: %w: %s", err, said)
	}
	raw, err := os.ReadFile(out + ".png")
	if err != nil {
		return nil, err
	}
	return png.Decode(bytes.NewReader(raw))
}

// Difference writes a picture of a difference to a file among the temporary ones, and returns its name.
func Difference(what string, shown image.Image) (string, error) {
	file, err := os.Create(filepath.Join(os.TempDir(), "plaintracer-difference-"+strings.ReplaceAll(what, " ", "-")+
		".png"))
	if err != nil {
		return "", err
	}
	return file.Name(), errors.Join(png.Encode(file, shown), file.Close())
}

// Halved returns a picture at half its size. Drawn at twice its size and halved, a line is where it is whether or not
// a program moves it to whole pixels.
func Halved(img image.Image) image.Image {
	out := image.NewNRGBA(image.Rect(0, 0, img.Bounds().Dx()/2, img.Bounds().Dy()/2))
	scaling.ApproxBiLinear.Scale(out, out.Rect, img,
		image.Rect(0, 0, 2*out.Rect.Dx(), 2*out.Rect.Dy()).Add(img.Bounds().Min), scaling.Src, nil)
	return out
}

// flat returns a picture over white.
func flat(img image.Image, w, h int) *image.NRGBA {
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(out, out.Rect, img, img.Bounds().Min, draw.Over)
	return out
}

// near reports whether some pixel of q around a place is like that of p there.
func near(p, q *image.NRGBA, x, y int) bool {
	at := y*p.Stride + 4*x
	c := p.Pix[at : at+3 : at+3]
	if alike(c, q.Pix[at:at+3]) {
		return true
	}
	for dy := max(y-1, 0); dy <= min(y+1, q.Rect.Dy()-1); dy++ {
		for dx := max(x-1, 0); dx <= min(x+1, q.Rect.Dx()-1); dx++ {
			if o := dy*q.Stride + 4*dx; alike(c, q.Pix[o:o+3]) {
				return true
			}
		}
	}
	return false
}

func alike(a, b []uint8) bool {
	for i := range a {
		if d := int(a[i]) - int(b[i]); d > levels || d < -levels {
			return false
		}
	}
	return true
}
