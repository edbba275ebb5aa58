package units

import (
	"math"
	"testing"

	"plaintracer/core/model"
)

// TestLengths checks lengths against what the CSS specification says of its units: 1in = 2.54cm = 96px = 72pt
// (CSS Values and Units Module Level 4, section 6.2).
func TestLengths(t *testing.T) {
	for _, c := range []struct {
		text string
		unit model.Units
		want int
	}{
		{"96", model.Pixels, 9600}, {"1 in", model.Pixels, 9600}, {"25.4", model.Millimetres, 9600},
		{"72pt", model.Inches, 9600},
		{"25,4 MM", model.Pixels, 9600}, {"1", model.Inches, 9600}, {"-1in", model.Millimetres, -9600},
	} {
		if got, ok := Parse(c.text, c.unit); !ok || got != c.want {
			t.Errorf("%q in %s is %d, not %d", c.text, Name(c.unit), got, c.want)
		}
	}
	for _, text := range []string{"", "mm", "1e9", "NaN", "two", "1 ft"} {
		if _, ok := Parse(text, model.Pixels); ok {
			t.Errorf("%q is read as a length", text)
		}
	}
	if got := Points(1600); got != "12" {
		t.Errorf("16 px are %s pt", got)
	}
	if got, _ := ParsePoints("12"); got != 1600 {
		t.Errorf("12 pt are %d", got)
	}
}

// TestWrittenIsRead writes lengths and reads them back: they come out as close as their digits say.
func TestWrittenIsRead(t *testing.T) {
	for _, u := range []model.Units{model.Pixels, model.Millimetres, model.Inches} {
		step := map[model.Units]float64{model.Pixels: 1, model.Millimetres: per(model.Millimetres) * 0.05,
			model.Inches: per(model.Inches) * 0.005}[u]
		for n := -40000; n < 40000; n += 37 {
			got, ok := Parse(Format(n, u), u)
			if !ok || math.Abs(float64(got-n)) > step+1 {
				t.Fatalf("%d is written %q in %s and read as %d", n, Format(n, u), Name(u), got)
			}
		}
	}
}
