package picturefile_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"plaintracer/core/pictures"
	"plaintracer/exchange/picturefile"
)

func svg(t *testing.T, inside string) *pictures.Picture {
	t.Helper()
	p, err := pictures.Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="100" height="50">` + inside +
		`</svg>`))
	if err != nil {
		t.Fatal(err)
	}
	return &p
}

func bitmap(t *testing.T, img image.Image) *pictures.Picture {
	t.Helper()
	var file bytes.Buffer
	if err := png.Encode(&file, img); err != nil {
		t.Fatal(err)
	}
	p, err := pictures.Read(file.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	return &p
}

// inked counts the pixels of a part of a picture that are not clear.
func inked(img image.Image, r image.Rectangle) (n int) {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if _, _, _, a := img.At(x, y).RGBA(); a > 0 {
				n++
			}
		}
	}
	return n
}

func TestDrawingsAreDrawnAtTheSizeAskedFor(t *testing.T) {
	p := svg(t, `<rect width="50" height="50" fill="#ff0000"/>`)
	for _, w := range []int{50, 100, 400} {
		img, err := picturefile.Bitmap(context.Background(), p, w, w/2)
		if err != nil || img.Bounds() != image.Rect(0, 0, w, w/2) {
			t.Fatalf("at %d: %v, %v", w, img, err)
		}
		if c := color.NRGBAModel.Convert(img.At(w/4, w/4)); c != (color.NRGBA{255, 0, 0, 255}) {
			t.Errorf("at %d the left half is %v", w, c)
		}
		if n := inked(img, image.Rect(w/2+1, 0, w, w/2)); n != 0 {
			t.Errorf("at %d there are %d pixels on the right", w, n)
		}
	}
	// A text is drawn whatever font it names, and in the same one.
	with := func(font string) image.Image {
		img, err := picturefile.Bitmap(context.Background(),
			svg(t, `<text x="5" y="40" font-size="30"`+font+`>Hi</text>`), 200, 100)
		if err != nil {
			t.Fatalf("%s: %v", font, err)
		}
		return img
	}
	a, b := with(""), with(` font-family="Nobody Has This"`)
	if n := inked(a, a.Bounds()); n < 200 {
		t.Errorf("the text takes %d pixels", n)
	}
	if inked(a, a.Bounds()) != inked(b, b.Bounds()) {
		t.Error("a font nobody has makes another picture")
	}
}

// Made smaller, a bitmap keeps its mean colours; much larger ones than can be shown, and
// damaged ones, are refused with the reason.
func TestBitmapsAreScaled(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 800, 400))
	for i := range 400 * 800 {
		c := color.NRGBA{200, 40, 40, 255}
		if i%800 >= 400 {
			c = color.NRGBA{uint8(i % 2 * 255), uint8(i % 2 * 255), uint8(i % 2 * 255), 255} // fine stripes
		}
		img.Set(i%800, i/800, c)
	}
	p := bitmap(t, img)
	small, err := picturefile.Bitmap(context.Background(), p, 40, 20)
	if err != nil {
		t.Fatal(err)
	}
	if r, g, _, _ := small.At(10, 10).RGBA(); r>>8 < 195 || r>>8 > 205 || g>>8 > 45 {
		t.Errorf("the left half is %v", small.At(10, 10))
	}
	if r, _, _, _ := small.At(30, 10).RGBA(); r>>8 < 110 || r>>8 > 145 {
		t.Errorf("fine stripes become %v", small.At(30, 10))
	}
	if same, err := picturefile.Bitmap(context.Background(), p, 800, 400); err != nil ||
		color.NRGBAModel.Convert(same.At(501, 5)) != img.At(501, 5) {
		t.Errorf("at its own size it is another: %v", err)
	}
	for what, bad := range map[string]*pictures.Picture{
		"cut short":   {Type: "image/png", W: p.W, H: p.H, Data: p.Data[:len(p.Data)/2]},
		"at most 25":  {Type: "image/png", W: 6000, H: 6000, Data: p.Data},
		"as SVG says": {Type: "image/svg+xml", W: 10, H: 10, Data: []byte("<svg")},
	} {
		if err := picturefile.Sound(context.Background(), bad); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%q: %v", what, err)
		}
	}
	if _, err := picturefile.Bitmap(context.Background(), p, 0, 5); err == nil {
		t.Error("a picture of no width is made")
	}
	if err := picturefile.Sound(context.Background(), p); err != nil {
		t.Errorf("a sound picture: %v", err)
	}
}
