package looks_test

import (
	"math"
	"strconv"
	"testing"

	"plaintracer/core/looks"
	"plaintracer/core/model"
)

// luminance is that of a colour #rrggbb (WCAG 2.2, relative luminance).
func luminance(t *testing.T, colour string) float64 {
	t.Helper()
	n, err := strconv.ParseUint(colour[1:], 16, 32)
	if err != nil || len(colour) != 7 {
		t.Fatalf("%q is no colour: %v", colour, err)
	}
	linear := func(c uint64) float64 {
		v := float64(c&255) / 255
		if v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*linear(n>>16) + 0.7152*linear(n>>8) + 0.0722*linear(n)
}

func contrast(t *testing.T, a, b string) float64 {
	x, y := luminance(t, a), luminance(t, b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

// Text in the ink of a look can be read on its paper, its heads and its lanes, lines can be seen there, and every
// colour of the palette has its two tones, of which the dark one can be read on the light one (WCAG 2.2, 1.4.3 and
// 1.4.11).
func TestLooksCanBeRead(t *testing.T) {
	for _, l := range looks.All {
		for _, ground := range []string{l.Paper, l.Head, l.Lane} {
			if got := contrast(t, l.Ink, ground); got < 4.5 {
				t.Errorf("%s: ink on %s has a contrast of %.2f", l.Name, ground, got)
			}
			if got := contrast(t, l.Soft, ground); got < 4.5 {
				t.Errorf("%s: what is secondary has a contrast of %.2f on %s", l.Name, got, ground)
			}
		}
		for _, name := range model.Fills[1:] {
			tone, ok := l.Tones[name]
			if !ok {
				t.Errorf("%s has no %s", l.Name, name)
				continue
			}
			if got := contrast(t, tone.Dark, l.Paper); got < 4.5 {
				t.Errorf("%s: a line of %s has a contrast of %.2f on paper", l.Name, name, got)
			}
			if got := contrast(t, l.Ink, tone.Light); got < 4.5 {
				t.Errorf("%s: text on %s has a contrast of %.2f", l.Name, name, got)
			}
		}
		if len(l.Tones) != len(model.Fills)-1 || l.Weight <= 0 || l.Heavy <= l.Weight || l.Size < model.MinType {
			t.Errorf("%s: %d tones, lines of %d and %d, type of %d", l.Name, len(l.Tones), l.Weight, l.Heavy, l.Size)
		}
	}
}

// On the black-and-white printer the fills are greys, and stay apart by more than a tenth of the way from one to the
// next.
func TestGreysStayApart(t *testing.T) {
	l := looks.Named("print")
	last := luminance(t, l.Paper)
	for _, name := range model.Fills[1:] {
		light := l.Tones[name].Light
		if light[1:3] != light[3:5] || light[3:5] != light[5:7] {
			t.Errorf("%s is no grey: %s", name, light)
		}
		now := luminance(t, light)
		if now >= last*0.95 {
			t.Errorf("%s, %s, is as light as the one before", name, light)
		}
		last = now
	}
}

func TestNamed(t *testing.T) {
	for _, l := range looks.All {
		if looks.Named(l.Name) != l || !looks.Known(l.Name) {
			t.Errorf("%s is not found by its name", l.Name)
		}
	}
	if looks.Named("none") != looks.Standard || looks.Known("none") || !looks.Known("") {
		t.Error("a look that there is not is known")
	}
	m := &model.Map{Head: model.Head{Look: "slate"}}
	if looks.Of(m).Name != "slate" || looks.For(m, &model.Symbol{Look: "wall"}).Name != "wall" ||
		looks.For(m, &model.Symbol{}).Name != "slate" {
		t.Error("the look of a map or of a symbol is another one")
	}
}
