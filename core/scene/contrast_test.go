package scene_test

import (
	"math"
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/core/scene"
)

// Contrast ratios W3C publishes (WCAG 2.2, understanding 1.4.3): black on white
// is 21 : 1, #767676 on white just passes with 4.54 : 1, #777777 just fails.
func TestContrastIsThatOfWCAG(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"#000000", "#ffffff", 21}, {"#767676", "#ffffff", 4.54}, {"#777777", "#ffffff", 4.48}, {"#ffffff", "#ffffff", 1}, {"#FFFFFF", "#767676", 4.54}} {
		if got := scene.Contrast(c.a, c.b); math.Abs(got-c.want) > 0.005 {
			t.Errorf("%s on %s: %.3f, not %.2f", c.a, c.b, got, c.want)
		}
	}
	// The curve of sRGB against the power function itself.
	for v := range 256 {
		grey := "#" + hex(v) + hex(v) + hex(v)
		x := float64(v) / 255
		l := x / 12.92
		if x > 0.04045 {
			l = math.Pow((x+0.055)/1.055, 2.4)
		}
		if got, want := scene.Contrast("#000000", grey), (l+0.05)/0.05; math.Abs(got-want) > 1e-9 {
			t.Errorf("%s against black: %v, not %v", grey, got, want)
		}
	}
}

func hex(v int) string {
	const digits = "0123456789abcdef"
	return string([]byte{digits[v>>4], digits[v&15]})
}

// On every grey and every fill of the palette the text reads with at least AA
// where that is possible at all, and a chosen colour is left as it is.
func TestTextStaysLegibleOnItsFill(t *testing.T) {
	for _, name := range diagram.Fills {
		if got := scene.Contrast(scene.Legible(scene.Fill(name)), scene.Fill(name)); got < scene.AA {
			t.Errorf("on %q text has a contrast of %.2f", name, got)
		}
	}
	for v := range 256 {
		grey := "#" + hex(v) + hex(v) + hex(v)
		best := max(scene.Contrast(scene.Ink, grey), scene.Contrast(scene.Paper, grey))
		if got := scene.Contrast(scene.Legible(grey), grey); got < min(best, scene.AA) {
			t.Errorf("on %s text has a contrast of %.2f, it could have %.2f", grey, got, best)
		}
	}
	if got := scene.Contrast(scene.InkSoft, scene.Paper); got < scene.AA {
		t.Errorf("soft ink on paper has a contrast of %.2f", got)
	}
	dark := &diagram.Symbol{Kind: diagram.Process, Fill: "#22303c"}
	if got := scene.TextColour(dark); got != scene.Paper {
		t.Errorf("text on a dark fill is %s", got)
	}
	dark.Colour = "#ff0000"
	if got := scene.TextColour(dark); got != "#ff0000" {
		t.Errorf("a chosen colour becomes %s", got)
	}
}
