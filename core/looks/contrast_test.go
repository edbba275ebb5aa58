package looks_test

import (
	"math"
	"strconv"
	"testing"

	"plaintracer/core/looks"
	"plaintracer/core/model"
)

// Contrast ratios W3C publishes (WCAG 2.2, understanding 1.4.3): black on white
// is 21 : 1, #767676 on white just passes with 4.54 : 1, #777777 just fails.
func TestContrastIsThatOfWCAG(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"#000000", "#ffffff", 21}, {"#767676", "#ffffff", 4.54}, {"#777777", "#ffffff", 4.48}, {"#ffffff", "#ffffff", 1},
		{"#FFFFFF", "#767676", 4.54}} {
		if got := looks.Contrast(c.a, c.b); math.Abs(got-c.want) > 0.005 {
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
		if got, want := looks.Contrast("#000000", grey), (l+0.05)/0.05; math.Abs(got-want) > 1e-9 {
			t.Errorf("%s against black: %v, not %v", grey, got, want)
		}
	}
}

func hex(v int) string {
	const digits = "0123456789abcdef"
	return string([]byte{digits[v>>4], digits[v&15]})
}

// In every look, on every grey and every fill of the palette text reads with at
// least AA where that is possible at all; the dark tones do so on paper, for
// labels and lines, and on their own light tone.
func TestTextStaysLegibleInEveryLook(t *testing.T) {
	for _, l := range looks.All {
		for _, name := range model.Fills {
			if got := looks.Contrast(l.Legible(l.Fill(name)), l.Fill(name)); got < looks.AA {
				t.Errorf("%s: on %q text has a contrast of %.2f", l.Name, name, got)
			}
			if got := looks.Contrast(l.Line(name, l.Ink), l.Paper); got < looks.AA {
				t.Errorf("%s: %q on paper has a contrast of %.2f", l.Name, name, got)
			}
		}
		for v := range 256 {
			grey := "#" + hex(v) + hex(v) + hex(v)
			best := max(looks.Contrast(l.Ink, grey), looks.Contrast(l.Paper, grey))
			if got := looks.Contrast(l.Legible(grey), grey); got < min(best, looks.AA) {
				t.Errorf("%s: on %s text has a contrast of %.2f, it could have %.2f", l.Name, grey, got, best)
			}
		}
		for _, back := range []string{l.Paper, l.Head, l.Lane} {
			if got := min(looks.Contrast(l.Ink, back), looks.Contrast(l.Soft, back)); got < looks.AA {
				t.Errorf("%s: on %s text has a contrast of %.2f", l.Name, back, got)
			}
		}
	}
	dark := &model.Symbol{Kind: model.Process, Fill: "#22303c"}
	if got := looks.Standard.TextOf(dark); got != looks.Standard.Paper {
		t.Errorf("text on a dark fill is %s", got)
	}
	dark.Colour = "#ff0000"
	if got := looks.Standard.TextOf(dark); got != "#ff0000" {
		t.Errorf("a chosen colour becomes %s", got)
	}
}

// lab is a colour in CIE L*a*b* (CIE 15:2004, white D65), as a reader sees it
// who lacks one kind of cone: the simulation of Viénot, Brettel and Mollon,
// Digital video colourmaps for checking the legibility of displays by
// dichromats, 1999 (its matrices from memory).
func lab(colour, lacks string) [3]float64 {
	var rgb [3]float64
	for i := range rgb {
		v, _ := strconv.ParseUint(colour[1+2*i:3+2*i], 16, 8)
		x := float64(v) / 255
		rgb[i] = x / 12.92
		if x > 0.04045 {
			rgb[i] = math.Pow((x+0.055)/1.055, 2.4)
		}
	}
	r, g, b := rgb[0], rgb[1], rgb[2]
	l := 17.8824*r + 43.5161*g + 4.11935*b
	m := 3.45565*r + 27.1554*g + 3.86714*b
	s := 0.0299566*r + 0.184309*g + 1.46709*b
	switch lacks {
	case "red":
		l = 2.02344*m - 2.52581*s
	case "green":
		m = 0.494207*l + 1.24827*s
	}
	r = 0.0809444479*l - 0.130504409*m + 0.116721066*s
	g = -0.0102485335*l + 0.0540193266*m - 0.113614708*s
	b = -0.000365296938*l - 0.00412161469*m + 0.693511405*s
	f := func(v float64) float64 {
		if v > 216.0/24389 {
			return math.Cbrt(v)
		}
		return (24389.0/27*v + 16) / 116
	}
	x := f((0.4124*r + 0.3576*g + 0.1805*b) / 0.9505)
	y := f(0.2126*r + 0.7152*g + 0.0722*b)
	z := f((0.0193*r + 0.1192*g + 0.9505*b) / 1.089)
	return [3]float64{116*y - 16, 500 * (x - y), 200 * (y - z)}
}

// apart returns the smallest colour difference among the fills of a look.
func apart(l *looks.Look, lacks string) (least float64, between string) {
	least = math.Inf(1)
	for i, a := range model.Fills {
		for _, b := range model.Fills[:i] {
			p, q := lab(l.Fill(a), lacks), lab(l.Fill(b), lacks)
			if d := math.Sqrt((p[0]-q[0])*(p[0]-q[0]) + (p[1]-q[1])*(p[1]-q[1]) + (p[2]-q[2])*(p[2]-q[2])); d < least {
				least, between = d, b+" and "+a
			}
		}
	}
	return least, between
}

// In the look made for them the fills stay at least ten units of colour
// difference apart for readers without one kind of cone, where just noticeable
// is about two (common practice, no source). The greys of the look for the
// printer stay five units of lightness apart.
func TestFillsCanBeToldApart(t *testing.T) {
	for _, lacks := range []string{"", "red", "green"} {
		if d, which := apart(looks.Named("safe"), lacks); d < 10 {
			t.Errorf("without %q, %s are only %.1f apart", lacks, which, d)
		}
	}
	if d, which := apart(looks.Named("print"), ""); d < 5 {
		t.Errorf("in print %s are only %.1f apart", which, d)
	}
	print := looks.Named("print")
	for _, colour := range []string{print.Ink, print.Soft, print.Rule, print.Fill("moss"), print.Line("clay", ""),
		print.Fill("#c03020"), print.Line("#10a0ff", "")} {
		if colour[1:3] != colour[3:5] || colour[3:5] != colour[5:7] {
			t.Errorf("the look for black and white has the colour %s", colour)
		}
	}
}
