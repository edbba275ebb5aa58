package attack

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime/debug"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/scene"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/picturefile"
	topng "plaintracer/exchange/png"
	"plaintracer/exchange/steptable"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/tracerjson"
)

// harm changes some bytes of a file: turned over, taken out, doubled, cut off, or put in from
// elsewhere in it.
func harm(rnd *rand.Rand, file []byte) []byte {
	out := bytes.Clone(file)
	for range 1 + rnd.IntN(6) {
		if len(out) < 2 {
			return out
		}
		at := rnd.IntN(len(out))
		n := min(1+rnd.IntN(40), len(out)-at)
		switch rnd.IntN(6) {
		case 0:
			out[at] ^= 1 << rnd.IntN(8)
		case 1:
			out = append(out[:at:at], out[at+n:]...)
		case 2:
			out = append(out[:at+n:at+n], out[at:]...)
		case 3:
			if rnd.IntN(4) == 0 {
				out = out[:at]
			}
		case 4:
			from := rnd.IntN(len(out))
			copy(out[at:], out[from:min(from+n, len(out))])
		case 5:
			for _, k := range []int{at, at + 1, at + 2, at + 3} {
				if k < len(out) {
					out[k] = []byte{0, 0xff, 0x7f, 0x80}[rnd.IntN(4)]
				}
			}
		}
	}
	return out
}

// kept runs something on harmed files and reports a panic with the file that brought it about.
func kept(t *testing.T, name string, file []byte, do func(file []byte)) {
	rnd := rand.New(rand.NewPCG(*firstSeed, 8))
	for n := range *harmedFiles {
		bad := harm(rnd, file)
		func() {
			defer func() {
				if fault := recover(); fault != nil {
					t.Errorf("%s, try %d: %v\n%s\nthe file: %.3000q", name, n, fault, debug.Stack(), bad)
				}
			}()
			do(bad)
		}()
		if t.Failed() {
			return
		}
	}
}

// Of harmed files of every kind that is read, each is refused, or what is made of it is sound:
// a map validates and its file reads back, and whatever was let in is drawn by every export.
func TestHarmedFiles(t *testing.T) {
	w := &wild{rnd: rand.New(rand.NewPCG(*firstSeed, 7))}
	kept(t, "a map", mapFile(t, w.begin()), func(file []byte) {
		m, err := tracerjson.Read(file)
		if err != nil {
			return
		}
		if err := m.Validate(); err != nil {
			t.Errorf("a map is read that is not sound: %v", err)
		}
		out := mapFile(t, m)
		again, err := tracerjson.Read(out)
		if err != nil || !bytes.Equal(mapFile(t, again), out) {
			t.Errorf("a map does not read back: %v", err)
		}
		exported(t, m)
	})
	kept(t, "a table",
		[]byte("id,text,kind,lane,next\nask,A resident asks,terminator,Resident,free\nfree,\"A bike, free?\",,Counter,Yes:lend;No:ask\nlend,Hand over,,Counter,\n"), func(file []byte) {
			if m, err := steptable.Read(file, "Table", model.Rightwards); err == nil {
				exported(t, m)
			}
		})
	img := image.NewNRGBA(image.Rect(0, 0, 40, 30))
	for i := range img.Pix {
		img.Pix[i] = uint8(i * 7)
	}
	var bitmap, photo bytes.Buffer
	if png.Encode(&bitmap, img) != nil || jpeg.Encode(&photo, img, nil) != nil {
		t.Fatal("the pictures cannot be made")
	}
	drawing := `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="30"><defs><linearGradient id="g"><stop offset="0" stop-color="red"/></linearGradient></defs>
		<path d="M1 1L30 1A9 9 0 0 1 20 20Q1 2 3 4Z" stroke="#112233" stroke-dasharray="4 2" fill="url(#g)"/><g transform="rotate(20) scale(2)"><circle cx="5" cy="5" r="4"/><text x="3" y="9">Hi</text></g></svg>`
	for name, file := range map[string][]byte{"a PNG": bitmap.Bytes(), "a JPEG": photo.Bytes(),
		"a drawing": []byte(drawing)} {
		kept(t, name, file, func(file []byte) {
			p, err := pictures.Read(file)
			if err != nil || p.W*p.H > 1<<20 || p.Type == "image/svg+xml" && bytes.Contains(file, []byte("000")) {
				return // large ones are tried apart
			}
			if picturefile.Sound(context.Background(), &p) != nil {
				return
			}
			if err := p.Check(); err != nil {
				t.Errorf("%s is let in that does not check: %v", name, err)
			}
			m := model.New("Picture", model.Rightwards, "A4", true)
			m.Pictures = append(m.Pictures, p)
			m.Sheets[0].Symbols = append(m.Sheets[0].Symbols,
				&model.Symbol{ID: "a", Kind: model.Picture, Picture: p.ID, Box: geometry.Box{W: 9000, H: 6000}})
			exported(t, m)
		})
	}
	faces, err := filepath.Glob("../exchange/fontfile/testdata/*")
	if err != nil {
		t.Fatal(err)
	}
	faces = append(faces, "../exchange/typeface/IBMPlexSans-Regular.woff2")
	for _, name := range faces {
		file, err := os.ReadFile(name)
		if err != nil || len(file) > 300<<10 {
			continue
		}
		kept(t, name, file, func(file []byte) {
			f, err := fontfile.Read(file)
			if err != nil {
				return
			}
			m := model.New("Font", model.Rightwards, "A4", true)
			m.Fonts, m.Faces = append(m.Fonts, f), []string{f.ID}
			m.Sheets[0].Symbols = append(m.Sheets[0].Symbols,
				&model.Symbol{ID: "a", Kind: model.Process, Text: "Give the date",
					Box: geometry.Box{W: 12000, H: 8000}})
			if m.Validate() == nil {
				exported(t, m)
			}
		})
	}
}

// exported draws all sheets of a map and writes them in every format.
func exported(t *testing.T, m *model.Map) {
	for _, s := range m.Sheets {
		d := scene.Draw(m, s)
		if _, err := svg.Write(d, svg.Options{}); err != nil {
			t.Errorf("it was let in, but as SVG: %v", err)
		}
		if d.Extent.W*d.Extent.H > 3000*3000*geometry.Px*geometry.Px {
			continue
		}
		if _, err := topng.Write(context.Background(), d, 0.2); err != nil {
			t.Errorf("it was let in, but as PNG: %v", fmt.Sprintf("%.500s", err))
		}
	}
}
