package looks

import "plaintracer/core/model"

// The contrast of colours after W3C WCAG 2.2, relative luminance and contrast
// ratio.

// AA is the least contrast of text (WCAG 2.2, 1.4.3).
const AA = 4.5

// Contrast returns the contrast ratio of two colours #rrggbb, from 1 to 21.
func Contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	if x < y {
		x, y = y, x
	}
	return (x + 0.05) / (y + 0.05)
}

// Legible returns the colour of text on a background: the look's ink, or its
// paper where the background is so dark that ink falls short and paper does
// better.
func (l *Look) Legible(background string) string {
	if background == "" {
		return l.Ink
	}
	if ink := Contrast(l.Ink, background); ink < AA && Contrast(l.Paper, background) > ink {
		return l.Paper
	}
	return l.Ink
}

// TextOf returns the colour of a symbol's text: the one chosen, else ink, or paper on a fill too dark for ink.
func (l *Look) TextOf(sym *model.Symbol) string {
	return l.Line(sym.Colour, l.Legible(l.Fill(sym.Fill)))
}

// LabelOf returns the colour of a connector's labels.
func (l *Look) LabelOf(c *model.Connector) string { return l.Line(c.Colour, l.Ink) }

// Readable returns the colour to give a text so that it can be read on a background: none, where what follows by itself
// can be, else black or white.
func (l *Look) Readable(background string) string {
	best := ""
	for _, colour := range [...]string{"", "#000000", "#ffffff"} {
		seen := l.Line(colour, l.Legible(background))
		if Contrast(seen, background) >= AA {
			return colour
		}
		if best == "" || Contrast(seen, background) > Contrast(best, background) {
			best = seen
		}
	}
	return best
}

func luminance(colour string) float64 {
	r, g, b := linear(channel(colour, 1)), linear(channel(colour, 3)), linear(channel(colour, 5))
	return float64(0.2126*r) + float64(0.7152*g) + float64(0.0722*b)
}

// channel reads the two hexadecimal digits at a place, as 0 to 1.
func channel(colour string, at int) float64 {
	n := 0
	for i := at; i < at+2 && i < len(colour); i++ {
		c := colour[i] | 0x20
		d := int(c) - '0'
		if c >= 'a' {
			d = int(c) - 'a' + 10
		}
		n = n*16 + d
	}
	return float64(n) / 255
}

// linear undoes the curve of sRGB: ((v + 0.055) / 1.055) to the power of 2.4,
// the fifth root of its twelfth power, by Newton's steps. It needs no power
// function, whose last digit differs from machine to machine.
func linear(v float64) float64 {
	if v <= 0.04045 {
		return v / 12.92
	}
	b := (v + 0.055) / 1.055
	b2 := float64(b * b)
	b4 := float64(b2 * b2)
	b12 := float64(float64(b4*b4) * b4)
	x := b2
	for range 30 {
		x2 := float64(x * x)
		x4 := float64(x2 * x2)
		x = (float64(4*x) + b12/x4) / 5
	}
	return x
}
