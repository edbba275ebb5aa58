package pictures_test

import (
	"bytes"
	"encoding/xml"
	"image"
	"image/color/palette"
	"image/jpeg"
	"image/png"
	"io"
	"strings"
	"testing"

	"plaintracer/core/pictures"
)

func TestBitmapsAreReadBySize(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 30, 20))
	for name, encode := range map[string]func(w io.Writer) error{
		"image/png":  func(w io.Writer) error { return png.Encode(w, img) },
		"image/jpeg": func(w io.Writer) error { return jpeg.Encode(w, img, nil) },
	} {
		var file bytes.Buffer
		if err := encode(&file); err != nil {
			t.Fatal(err)
		}
		p, err := pictures.Read(file.Bytes())
		if err != nil || p.Type != name || p.W != 30 || p.H != 20 {
			t.Errorf("%s is read as %s, %d by %d: %v", name, p.Type, p.W, p.H, err)
		}
		if err := p.Check(); err != nil {
			t.Error(err)
		}
		p.W++
		if p.Check() == nil {
			t.Errorf("%s of a wrong size is taken", name)
		}
	}
}

// What could run, load or reach outside is left out of a drawing; what draws
// stays.
func TestDrawingsAreCleaned(t *testing.T) {
	const dirty = `<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY x "y">]><?xml-stylesheet href="http://elsewhere.example/a.css"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40mm" viewBox="0 0 80 60" onload="alert(1)">
<script>alert(2)</script><style>@import "http://elsewhere.example/b.css"</style>
<defs><linearGradient id="g"><stop offset="0" stop-color="red"/></linearGradient></defs>
<rect width="10" height="10" fill="url(#g)" onclick="alert(3)" style="fill:url(http://elsewhere.example/c)"/>
<circle r="5" fill="url(http://elsewhere.example/d)"/><image href="http://elsewhere.example/e.png"/>
<use xlink:href="#g"/><use href="http://elsewhere.example/f#g"/><a href="javascript:alert(4)"><text>in a link</text></a>
<foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><script>alert(5)</script></body></foreignObject>
<text x="1" y="2">5 &lt; 6</text></svg>`
	p, err := pictures.Read([]byte(dirty))
	if err != nil {
		t.Fatal(err)
	}
	out := string(p.Data)
	for _, bad := range []string{"alert", "elsewhere", "script", "style", "onload", "onclick", "foreignObject", "image",
		"javascript", "ENTITY"} {
		if strings.Contains(out, bad) {
			t.Errorf("%q is left in %s", bad, out)
		}
	}
	for _, good := range []string{`fill="url(#g)"`, `<stop offset="0"`, `href="#g"`, "5 &lt; 6", `<circle r="5"`} {
		if !strings.Contains(out, good) {
			t.Errorf("%q is missing in %s", good, out)
		}
	}
	if p.W != 80 || p.H != 60 { // 40 mm without a height: the view box counts
		t.Errorf("it is %d by %d", p.W, p.H)
	}
	again, err := pictures.Read(p.Data)
	if err != nil || again.ID != p.ID {
		t.Errorf("cleaned again it changes: %v", err)
	}
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	for _, c := range []string{"", "GIF89a", "<svg", "<svg xmlns='http://www.w3.org/2000/svg'/>", "<html><svg/></html>",
		"<svg width='1' height='1'>" + strings.Repeat("<g>", 500) + strings.Repeat("</g>", 500) + "</svg>",
		"<svg width='1e9' height='5'/>"} {
		if p, err := pictures.Read([]byte(c)); err == nil {
			t.Errorf("%.40q is read as %s, %d by %d", c, p.Type, p.W, p.H)
		}
	}
}

// Whatever comes in, what goes out is well formed, clean, and stays as it is
// when it is cleaned again.
func FuzzDrawings(f *testing.F) {
	f.Add(`<svg width="5" height="5"><path d="M0 0"/></svg>`)
	f.Add(`<svg viewBox="0 0 9 9"><a xlink:href="#x" fill='url( "http://x" )'/><g:rect/></svg>`)
	f.Fuzz(func(t *testing.T, file string) {
		p, err := pictures.Read([]byte(file))
		if err != nil || p.Type != "image/svg+xml" {
			return
		}
		dec := xml.NewDecoder(bytes.NewReader(p.Data))
		for {
			tok, err := dec.Token()
			if err == io.EOF {
				break
			}
			if err != nil {
				t.Fatalf("%q becomes %q: %v", file, p.Data, err)
			}
			if e, ok := tok.(xml.StartElement); ok {
				for _, a := range e.Attr {
					if strings.HasPrefix(strings.ToLower(a.Name.Local), "on") || a.Name.Local == "style" {
						t.Fatalf("%q keeps %s", file, a.Name.Local)
					}
				}
			}
		}
		if again, err := pictures.Read(p.Data); err != nil || !bytes.Equal(again.Data, p.Data) {
			t.Fatalf("%q becomes %q and then %q: %v", file, p.Data, again.Data, err)
		}
	})
}

// The sizes of bitmaps are those that the standard library reads, and what it takes for a bitmap is taken.
func FuzzBitmaps(f *testing.F) {
	for _, img := range []image.Image{image.NewGray(image.Rect(0, 0, 30, 20)), image.NewNRGBA(image.Rect(0, 0, 3, 700)),
		image.NewPaletted(image.Rect(0, 0, 8, 8), palette.Plan9), image.NewRGBA64(image.Rect(0, 0, 1, 1)),
		image.NewCMYK(image.Rect(0, 0, 5, 5))} {
		var a, b bytes.Buffer
		if err := png.Encode(&a, img); err != nil {
			f.Fatal(err)
		}
		if err := jpeg.Encode(&b, img, nil); err != nil {
			f.Fatal(err)
		}
		f.Add(a.Bytes())
		f.Add(b.Bytes())
	}
	f.Add([]byte("\xff\xd8\xff\xff\xff\xfe\x00\x04ab\xff\xc2\x00\x0b\x08\x00\x02\x00\x03\x01\x01\x11\x00\xff\xd9"))
	f.Fuzz(func(t *testing.T, file []byte) {
		head, format, err := image.DecodeConfig(bytes.NewReader(file))
		p, fault := pictures.Read(file)
		if err != nil || head.Width < 1 || head.Height < 1 || max(head.Width, head.Height) > pictures.MaxSide {
			return
		}
		if fault != nil || p.Type != "image/"+format || p.W != head.Width || p.H != head.Height {
			t.Errorf("a %s of %d by %d is read as %s of %d by %d: %v", format, head.Width, head.Height, p.Type, p.W,
				p.H, fault)
		}
	})
}
