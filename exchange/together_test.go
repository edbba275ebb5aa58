package exchange_test

import (
	"bytes"
	"context"
	"image/png"
	"strings"
	"testing"

	"plaintracer/exchange"
)

// All sheets come on one picture, as wide as it is wished, each of them below the one before.
func TestAllSheetsOnOnePicture(t *testing.T) {
	m := two(t)
	for _, format := range []string{"svg", "png", "jpeg"} {
		f := exchange.Named(format)
		s, err := exchange.Read(f, func(name string) (string, bool) {
			v, ok := map[string]string{"size": "pixels", "pixels": "700"}[name]
			return v, ok
		})
		if err != nil {
			t.Fatal(err)
		}
		out, err := exchange.Together(context.Background(), m, f, s)
		if err != nil {
			t.Fatal(err)
		}
		switch format {
		case "svg":
			run(t, out, "xmllint", "--noout", "IN")
			for _, sheet := range m.Sheets {
				for _, sym := range sheet.Symbols {
					if word, _, _ := strings.Cut(sym.Text, " "); !bytes.Contains(out, []byte(word)) {
						t.Errorf("the picture has no %q", word)
					}
				}
			}
		case "png":
			img, err := png.Decode(bytes.NewReader(out))
			if err != nil {
				t.Fatal(err)
			}
			// A3 over A4, both across: 420 by 297 mm, and 297 by 210 below it.
			if b := img.Bounds(); b.Dx() != 700 || b.Dy() < 700*(297+210)/420 || b.Dy() > 700*(297+220)/420 {
				t.Errorf("the picture is %v", b)
			}
		}
	}
}
