package typeset_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
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
			if (a.Y > p.Y) != (b.Y > p.Y) &&
				float64(p.X) < float64(b.X-a.X)*float64(p.Y-a.Y)/float64(b.Y-a.Y)+float64(a.X) {
				in = !in
			}
		}
	}
	return in
}

// No line of any text leaves the outline of its symbol, however small that is,
// and none leaves its text area; in the symbol grown for it no character gets
// lost.
func TestTextStaysInsideTheOutline(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	n := 20000
	if testing.Short() {
		n = 1000
	}
	all := symbols.All()
	for i := range n {
		sym := all[i%len(all)]
		if sym.Kind.Explains() {
			continue // holds symbols or sheets, and a heading of its own
		}
		s := text(r)
		ty := model.Type{Bold: r.IntN(3) == 0, Italic: r.IntN(4) == 0, Bullets: r.IntN(6) == 0,
			Align: []string{"", "", "left", "centre", "right"}[r.IntN(5)],
			Stand: []string{"", "", "top", "bottom"}[r.IntN(4)]}
		written := model.Accented{Text: s}
		for range max(r.IntN(6)-2, 0) {
			from := r.IntN(len([]rune(s)) + 1)
			written = written.Set(from, from+r.IntN(12), accents[r.IntN(len(accents))])
		}
		w, h := sym.W, sym.H
		grown := i%2 == 0
		if grown {
			w, h = typeset.House{}.Grow(sym, written, ty, w, h)
		}
		block := typeset.House{}.Set(sym, written, ty, w, h)
		checkParts(t, &block, written)
		if grown && (block.Cut || block.Style != typeset.House{}.StyleOf(ty)) {
			t.Fatalf("%s grown to %d by %d does not hold %q", sym.Name, w, h, s)
		}
		outline := sym.Outline(w, h).Flatten()
		if sym.Kind == model.Person {
			outline = geometry.Polygon(geometry.Point{}, geometry.Point{X: w}, geometry.Point{X: w, Y: h},
				geometry.Point{Y: h}).Flatten()
		}
		var set []string
		for _, l := range block.Lines {
			set = append(set, l.Text)
			left := l.Left()
			if l.Listed {
				left = l.Bullet
			}
			for _, p := range [...]geometry.Point{
				{X: left, Y: l.Top}, {X: l.Left() + l.Width, Y: l.Top},
				{X: left, Y: l.Top + block.Style.LineHeight()},
				{X: l.Left() + l.Width, Y: l.Top + block.Style.LineHeight()},
			} {
				if !inside(p, outline) {
					t.Fatalf("%s at %d by %d: the corner %v of line %q of %q (%+v) lies outside", sym.Name, w, h, p,
						l.Text, s, ty)
				}
			}
		}
		if got, want := strings.Join(strings.Fields(strings.Join(set, "")), ""), strings.Join(strings.Fields(s),
			""); !block.Cut && got != want {
			t.Fatalf("%s: set as %q, written %q", sym.Name, set, s)
		}
	}
}

// accents are ways in which some words of a text are set.
var accents = []func(*model.Accent){
	func(a *model.Accent) { a.Bold = true }, func(a *model.Accent) { a.Italic = true },
	func(a *model.Accent) { a.Colour = "red" },
}

// checkParts checks that every character of a set text is set as its stretch says, and that lines are as wide as what
// stands in them.
func checkParts(t *testing.T, block *typeset.Block, written model.Accented) {
	t.Helper()
	type letter struct {
		r   rune
		way typeset.Part
	}
	var want, got []letter
	for i, r := range []rune(written.Text) {
		one := letter{r: r}
		for _, a := range written.Accents {
			if a.From <= i && i < a.To {
				one.way = typeset.Part{Bold: a.Bold, Italic: a.Italic, Colour: a.Colour}
			}
		}
		want = append(want, one)
	}
	for _, l := range block.Lines {
		parts, width := l.Parts, 0
		if len(parts) == 0 {
			parts = []typeset.Part{{Text: l.Text}}
		}
		set := ""
		for _, p := range parts {
			set += p.Text
			st := block.Style
			st.Bold, st.Italic = st.Bold || l.Strong || p.Bold, st.Italic || p.Italic
			width += typeset.Measure(p.Text, st)
			for _, r := range p.Text {
				got = append(got, letter{r, typeset.Part{Bold: p.Bold, Italic: p.Italic, Colour: p.Colour}})
			}
		}
		if set != l.Text || width < l.Width || width > l.Width+len(parts) {
			t.Fatalf("the line %q of %d is set as %q of %d", l.Text, l.Width, set, width)
		}
	}
	if block.Cut {
		return
	}
	seen := func(list []letter) []letter {
		return slices.DeleteFunc(list, func(l letter) bool { return unicode.IsSpace(l.r) })
	}
	if got, want := seen(got), seen(want); !slices.Equal(got, want) {
		t.Fatalf("%+v is set as %+v", written, got)
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

// Alignment, height, margin and bullets stand lines where they say, within the
// area.
func TestLinesStandWhereTheyAreAsked(t *testing.T) {
	process := symbols.Of(model.Process)
	w, h := 200*geometry.Px, 120*geometry.Px
	set := func(ty model.Type) []typeset.Placed {
		b := typeset.House{}.Set(process, model.Accented{Text: "Log\nthe report"}, ty, w, h)
		if b.Cut || len(b.Lines) != 2 {
			t.Fatalf("%+v is set in %d lines", ty, len(b.Lines))
		}
		return b.Lines
	}
	centred := set(model.Type{})
	for _, l := range centred {
		if mid := l.Left() + l.Width/2; geometry.Abs(mid-w/2) > 1 {
			t.Errorf("%q has its middle at %d of %d", l.Text, mid, w)
		}
	}
	left, right := set(model.Type{Align: "left"}), set(model.Type{Align: "right"})
	if left[0].Left() != left[1].Left() || left[0].Left() >= centred[0].Left() {
		t.Errorf("on the left the lines begin at %d and %d", left[0].Left(), left[1].Left())
	}
	if a, b := right[0].Left()+right[0].Width, right[1].Left()+right[1].Width; a != b ||
		a <= centred[0].Left()+centred[0].Width {
		t.Errorf("on the right they end at %d and %d", a, b)
	}
	top, bottom := set(model.Type{Stand: "top"}), set(model.Type{Stand: "bottom"})
	if top[0].Top >= centred[0].Top || bottom[0].Top <= centred[0].Top {
		t.Errorf("they stand at %d, %d and %d", top[0].Top, centred[0].Top, bottom[0].Top)
	}
	margin := 20 * geometry.Px
	if in := set(model.Type{Align: "left", Stand: "top", Margin: margin}); in[0].Left() != left[0].Left()+margin ||
		in[0].Top != top[0].Top+margin {
		t.Errorf("with a margin the first line stands at %d, %d", in[0].Left(), in[0].Top)
	}
	list := set(model.Type{Bullets: true})
	if !list[0].Listed || !list[1].Listed || list[0].Bullet >= list[0].Left() || list[0].Bullet != list[1].Bullet ||
		list[0].Left() != list[1].Left() {
		t.Errorf("as a list they are %+v", list)
	}
	// A paragraph that goes on over two lines has one bullet, and hangs.
	long := typeset.House{}.Set(process, model.Accented{Text: "Look up the pole number in the asset register"},
		model.Type{Bullets: true}, w,
		h).Lines
	if len(long) < 2 || !long[0].Listed || long[1].Listed || long[0].Left() != long[1].Left() {
		t.Errorf("a long item is %+v", long)
	}
}

// An entity's first line is its name, above the rule; the rest are its
// attributes, below it.
func TestEntitiesHaveANameAndAttributes(t *testing.T) {
	entity := symbols.Of(model.Entity)
	lines := typeset.House{}.Set(entity, model.Accented{Text: "Lamp\nnumber\nstreet"}, model.Type{}, entity.W,
		entity.H).Lines
	rule := entity.Inner(entity.W, entity.H, true).Flatten()[0][0].Y
	if len(lines) != 3 || lines[0].Top >= rule || lines[1].Top < rule || lines[1].Left() >= lines[0].Left() {
		t.Errorf("an entity is set as %+v, its rule lies at %d", lines, rule)
	}
}

// Set smaller, a text keeps above the legible limit; beyond that it is cut with
// an ellipsis, and says so.
func TestTooMuchTextIsCutNotSpilled(t *testing.T) {
	process := symbols.Of(model.Process)
	some := typeset.House{}.Set(process, model.Accented{Text: strings.Repeat("pole number ", 9)}, model.Type{},
		process.W, process.H)
	if some.Cut || some.Style.Size >= typeset.Body.Size || some.Style.Size < typeset.Legible {
		t.Errorf("a full symbol is set at %d, cut %v", some.Style.Size, some.Cut)
	}
	much := typeset.House{}.Set(process, model.Accented{Text: strings.Repeat("pole number ", 90)}, model.Type{},
		process.W, process.H)
	if !much.Cut || much.Style.Size != typeset.Legible || !strings.HasSuffix(much.Lines[len(much.Lines)-1].Text, "…") {
		t.Errorf("an overfull symbol is set at %d, cut %v", much.Style.Size, much.Cut)
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
		w, h := typeset.House{}.Grow(sym, model.Accented{Text: s}, model.Type{}, sym.W, sym.H)
		if w < sym.W || h < sym.H {
			t.Fatalf("%q shrinks %s", s, sym.Name)
		}
		typeset.House{}.Set(sym, model.Accented{Text: s}, model.Type{}, w, h)
	})
}

// Setting the texts of 1,000 symbols of every kind, grown to hold them.
func BenchmarkSet1000Symbols(b *testing.B) {
	type item struct {
		sym  *symbols.Symbol
		text string
		w, h int
	}
	r := rand.New(rand.NewPCG(3, 4))
	plain := strings.Fields("log the report of a street light that is out and check whether parts are in stock")
	var list []item
	for i := range 1000 {
		it := item{sym: symbols.All()[i%len(symbols.All())]}
		if i%2 == 0 { // half of any sheet is steps and decisions
			it.sym = symbols.Of([]model.Kind{model.Process, model.Decision}[i/2%2])
		}
		var words []string
		for range 2 + r.IntN(7) {
			words = append(words, plain[r.IntN(len(plain))])
		}
		it.text = strings.Join(words, " ")
		it.w, it.h = typeset.House{}.Grow(it.sym, model.Accented{Text: it.text}, model.Type{}, it.sym.W, it.sym.H)
		list = append(list, it)
	}
	for b.Loop() {
		for _, it := range list {
			typeset.House{}.Set(it.sym, model.Accented{Text: it.text}, model.Type{}, it.w, it.h)
		}
	}
}

// No word is broken that a wider outline could hold: the symbol grows, or, where it may not,
// the text is set smaller. Only a word too long for the widest symbol is.
func TestWordsStayWhole(t *testing.T) {
	words := func(text string) map[string]bool {
		set := map[string]bool{}
		for _, w := range strings.FieldsFunc(text,
			func(r rune) bool { return r == ' ' || r == '\n' || r == '-' || r == '–' }) {
			set[w] = true
		}
		return set
	}
	texts := []string{"Danger to traffic?", "Reported before?", "Is the electrician available tomorrow?",
		"Straßenbeleuchtungsamt zuständig?", "Straightforwardness, naturally"}
	for _, sym := range symbols.All() {
		if sym.Kind == model.Legend || sym.Body != nil {
			continue
		}
		for _, s := range texts {
			for _, size := range []int{0, 1300, 1600, 2000, 2400} {
				ty := model.Type{Size: size}
				for _, grown := range []bool{true, false} {
					w, h := sym.W, sym.H
					if grown {
						w, h = typeset.House{}.Grow(sym, model.Accented{Text: s}, ty, w, h)
					}
					block := typeset.House{}.Set(sym, model.Accented{Text: s}, ty, w, h)
					least := typeset.House{}.SettingOf(sym, model.Type{Size: typeset.Legible})
					if w >= 3*sym.W || !grown && !typeset.Holds(sym, model.Accented{Text: s}, least, w, h) {
						continue // nothing wide or small enough keeps them whole
					}
					whole := words(s)
					for _, l := range block.Lines {
						for word := range words(l.Text) {
							if !whole[word] {
								t.Fatalf("%s, %d by %d, type of %d: %q is broken at %q", sym.Name, w, h, size, s, word)
							}
						}
					}
				}
			}
		}
	}
}

// Words of a script that our fonts lack stand beside each other where there is room: six of them take two lines in a
// symbol of 120 px, and no word is parted.
func TestWordsOfOtherScriptsStandBesideEachOther(t *testing.T) {
	for _, text := range []string{"مصباح الشارع لا يعمل منذ أمس", "פנס הרחוב לא עובד מאז אתמול"} {
		sym := symbols.Of(model.Process)
		block := typeset.House{}.Set(sym, model.Accented{Text: text}, model.Type{}, 120*geometry.Px, sym.H)
		var set []string
		for _, l := range block.Lines {
			set = append(set, l.Text)
		}
		if block.Cut || len(set) != 2 || strings.Join(set, " ") != text {
			t.Errorf("%q is set as %q", text, set)
		}
	}
}
