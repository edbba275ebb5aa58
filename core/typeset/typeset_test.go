package typeset_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

var words = strings.Fields("log the report of a street light that is out Straßenbeleuchtung straightforwardness I x, – “quoted” 12½ naïve Ørsted Ελλάδα Донесение Донаудампфшифффартсгезельшафт")

func text(r *rand.Rand) string {
	var b strings.Builder
	for range 1 + r.IntN(14) {
		b.WriteString(words[r.IntN(len(words))])
		b.WriteString([]string{" ", " ", " ", "\n", "-"}[r.IntN(5)])
	}
	return strings.TrimSpace(b.String())
}

// inside reports whether p lies inside the outline, by the even-odd rule.
func inside(p geometry.Point, outline []geometry.Polyline) bool {
	in := false
	for _, l := range outline {
		for k := 1; k < len(l); k++ {
			a, b := l[k-1], l[k]
			if (a.Y > p.Y) != (b.Y > p.Y) && float64(p.X) < float64(b.X-a.X)*float64(p.Y-a.Y)/float64(b.Y-a.Y)+float64(a.X) {
				in = !in
			}
		}
	}
	return in
}

// No line of any text leaves the outline of the symbol grown for it, and no
// character gets lost.
func TestTextStaysInsideTheOutline(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	n := 400
	if testing.Short() {
		n = 50
	}
	for range n {
		s := text(r)
		st := typeset.Style{Size: typeset.Body.Size, Bold: r.IntN(3) == 0}
		for _, sym := range symbols.All() {
			w, h := typeset.Grow(sym, s, st, sym.W, sym.H)
			lines, ok := typeset.Fit(s, st, sym.Text(w, h))
			if !ok {
				t.Fatalf("%s grown to %d by %d does not hold %q", sym.Name, w, h, s)
			}
			outline := sym.Outline(w, h).Flatten()
			var set []string
			for _, l := range lines {
				set = append(set, l.Text)
				for _, p := range [...]geometry.Point{
					{X: l.CX - l.Width/2, Y: l.Top}, {X: l.CX + l.Width/2, Y: l.Top},
					{X: l.CX - l.Width/2, Y: l.Top + st.LineHeight()}, {X: l.CX + l.Width/2, Y: l.Top + st.LineHeight()},
				} {
					if !inside(p, outline) {
						t.Fatalf("%s at %d by %d: the corner %v of line %q of %q lies outside", sym.Name, w, h, p, l.Text, s)
					}
				}
			}
			if got, want := strings.Join(strings.Fields(strings.Join(set, "")), ""), strings.Join(strings.Fields(s), ""); got != want {
				t.Fatalf("%s: set as %q, written %q", sym.Name, set, s)
			}
		}
	}
}

func TestWrapKeepsHardBreaksAndBreaksLongWords(t *testing.T) {
	st := typeset.Body
	wide := func(int) int { return 1000 * geometry.Px }
	if lines, _ := typeset.Wrap("one\n\ntwo", st, 0, wide); len(lines) != 3 || lines[1].Text != "" {
		t.Errorf("hard breaks give %v", lines)
	}
	narrow := func(int) int { return 40 * geometry.Px }
	lines, ok := typeset.Wrap("Straßenbeleuchtungsamt", st, 0, narrow)
	if !ok || len(lines) < 3 {
		t.Errorf("a long word gives %v, %v", lines, ok)
	}
	for _, l := range lines {
		if l.Width > 40*geometry.Px {
			t.Errorf("the line %q is %d wide", l.Text, l.Width)
		}
	}
	if _, ok := typeset.Wrap("W", st, 0, func(int) int { return geometry.Px }); ok {
		t.Error("a letter fits into one pixel")
	}
}

func FuzzFit(f *testing.F) {
	f.Add("Log the report", uint8(0))
	f.Add("\u202eabc \u0301\u200d👩‍👩‍👧 \n\n\t", uint8(1))
	f.Fuzz(func(t *testing.T, s string, which uint8) {
		sym := symbols.All()[int(which)%len(symbols.All())]
		if len(s) > 300 {
			return
		}
		w, h := typeset.Grow(sym, s, typeset.Body, sym.W, sym.H)
		if w < sym.W || h < sym.H {
			t.Fatalf("%q shrinks %s", s, sym.Name)
		}
		typeset.Fit(s, typeset.Body, sym.Text(w, h))
	})
}
