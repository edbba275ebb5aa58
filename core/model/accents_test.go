package model_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/model"
)

// shown writes a text with its stretches in brackets, b, i and a colour before each.
func shown(a model.Accented) string {
	text, out, at := []rune(a.Text), "", 0
	for _, one := range a.Accents {
		out += string(text[at:one.From]) + one.Colour
		if one.Bold {
			out += "b"
		}
		if one.Italic {
			out += "i"
		}
		out += "[" + string(text[one.From:one.To]) + "]"
		at = one.To
	}
	return out + string(text[at:])
}

func TestAccentsGoWithTheirWords(t *testing.T) {
	bold := func(a *model.Accent) { a.Bold = true }
	for _, c := range []struct{ was, words, now, want string }{
		{"Pay now please", "now", "Pay it now please", "Pay it b[now] please"},
		{"Pay now please", "now", "Pay nowadays please", "Pay b[nowadays] please"},
		{"Pay now please", "now", "Pay now, please", "Pay b[now], please"},
		{"Pay now please", "now", "Pay soon please", "Pay soon please"},
		{"Pay teh bill", "teh", "Pay the bill", "Pay b[the] bill"},
		{"Pay teh bill", "teh bill", "Pay the bill", "Pay b[the bill]"},
		{"Pay now", "now", "Pay now or later", "Pay b[now] or later"},
		{"Pay now", "Pay", "Do Pay now", "Do b[Pay] now"},
		{"Pay now", "now", "Pay", "Pay"},
		{"Pay now", "now", "", ""},
		{"Pay the bill for the lamp", "bill", "Pay a bill for a lamp", "Pay a b[bill] for a lamp"},
		{"Pay the bill", "bill", "Then pay the bill at once", "Then pay the b[bill] at once"},
		{"Pay now", "ay n", "Pay it now", "Pb[ay it n]ow"},
		{"Größe prüfen", "prüfen", "Die Größe prüfen", "Die Größe b[prüfen]"},
	} {
		at := len([]rune(c.was[:strings.Index(c.was, c.words)]))
		a := model.Accented{Text: c.was}.Set(at, at+len([]rune(c.words)), bold)
		if got := shown(a.Rewritten(c.now)); got != c.want {
			t.Errorf("%s, then %q: %s, not %s", shown(a), c.now, got, c.want)
		}
	}
}

// Whatever is done to a text, its stretches stay sound; each character is set as the last that was said of it.
func TestAccentsStaySound(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	random := func(n int) string {
		var b strings.Builder
		for range n {
			b.WriteRune([]rune("ab ü\n")[r.IntN(5)])
		}
		return b.String()
	}
	for range 2000 {
		a := model.Accented{Text: random(r.IntN(30))}
		set := make([]model.Accent, len([]rune(a.Text))) // how each character is set
		for range r.IntN(8) {
			from, to := r.IntN(len(set)+1), r.IntN(len(set)+4)
			way := [...]func(*model.Accent){
				func(a *model.Accent) { a.Bold = true }, func(a *model.Accent) { a.Bold = false },
				func(a *model.Accent) { a.Italic = true }, func(a *model.Accent) { a.Italic = false },
				func(a *model.Accent) { a.Colour = "#c00000" }, func(a *model.Accent) { a.Colour = "" },
			}[r.IntN(6)]
			a = a.Set(from, to, way)
			for k := from; k < min(to, len(set)); k++ {
				way(&set[k])
			}
		}
		for k, want := range set {
			got := model.Accent{}
			for _, one := range a.Accents {
				if one.From <= k && k < one.To {
					got = one
				}
			}
			if want.From, want.To = got.From, got.To; got != want {
				t.Fatalf("character %d of %q is set %+v, not %+v: %+v", k, a.Text, got, want, a.Accents)
			}
		}
		for _, now := range []string{random(r.IntN(30)), a.Text + random(3), random(2) + a.Text,
			strings.Replace(a.Text, "a", random(2), 1)} {
			after := a.Rewritten(now)
			sym := model.Symbol{ID: "s", Kind: model.Process, Text: after.Text, Accents: after.Accents}
			sym.W, sym.H = 12000, 6000
			if err := sym.Validate("s"); err != nil {
				t.Fatalf("%s as %q: %v", shown(a), now, err)
			}
			if n := len(after.Accents); n > 0 && after.Accents[n-1].To > len([]rune(now)) {
				t.Fatalf("%s as %q reaches over its end: %+v", shown(a), now, after.Accents)
			}
			if again := after.Rewritten(now); !slices.Equal(again.Accents, after.Accents) {
				t.Fatal("the same text changes its stretches")
			}
		}
	}
}
