package exchange_test

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// place is where a word stands on a page, in points, as another program reads it.
type place struct {
	word           string
	x0, y0, x1, y1 float64
	width, height  float64
}

var wordOf = regexp.MustCompile(`<word xMin="([\d.-]+)" yMin="([\d.-]+)" xMax="([\d.-]+)" yMax="([\d.-]+)">([^<]*)</word>`)
var pageOf = regexp.MustCompile(`<page width="([\d.]+)" height="([\d.]+)">`)

// places reads the words of a PDF with their places (poppler's pdftotext).
func places(t *testing.T, file []byte) []place {
	t.Helper()
	var out []place
	var w, h float64
	number := func(s string) float64 {
		v, err := strconv.ParseFloat(s, 64)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	for _, line := range strings.Split(run(t, file, "pdftotext", "-bbox", "IN", "-"), "\n") {
		if m := pageOf.FindStringSubmatch(line); m != nil {
			w, h = number(m[1]), number(m[2])
		}
		if m := wordOf.FindStringSubmatch(line); m != nil {
			out = append(out, place{word: m[5], x0: number(m[1]), y0: number(m[2]), x1: number(m[3]), y1: number(m[4]),
				width: w, height: h})
		}
	}
	return out
}

// What reaches beyond its paper is scaled until it fits, on its own paper as on another one: nothing is cut, and the
// heading stays at the foot of the paper, as large as ever.
func TestWhatIsLargerThanItsPaperFits(t *testing.T) {
	m := model.New("Larger than its paper", model.Rightwards, "A4", true)
	m.Heading.Author = "Heading-author"
	s := m.Sheets[0]
	s.Headed = true
	for i := range 9 {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: "s" + strconv.Itoa(i), Kind: model.Process,
			Text: "Word" + strconv.Itoa(i),
			Box:  geometry.Box{X: (40 + 200*i) * px, Y: (60 + 90*i) * px, W: 140 * px, H: 80 * px}})
	}
	for _, settings := range [][]string{{"use", "one"}, {"paper", "A3"}, {"paper", "A5", "way", "upright", "use",
		"one"}} {
		made := made(t, m, "pdf", settings...)
		words := places(t, made.Data)
		found := 0
		for _, w := range words {
			if w.x0 < 0 || w.y0 < 0 || w.x1 > w.width || w.y1 > w.height {
				t.Errorf("%v: %q stands at %v, off the page", settings, w.word, w)
			}
			if strings.HasPrefix(w.word, "Word") {
				found++
			}
			if w.word == "Heading-author" && len(settings) == 2 && settings[0] == "use" && (w.y0 < w.height-80 ||
				w.y1-w.y0 < 10) {
				t.Errorf("the heading stands at %v", w)
			}
		}
		if found != 9 {
			t.Errorf("%v: %d of 9 steps are there", settings, found)
		}
		if !strings.Contains(strings.Join(made.Words, " "), "scaled to") {
			t.Errorf("%v: said is %q", settings, made.Words)
		}
	}
	// What fits is as large as it is.
	s.Symbols = s.Symbols[:5]
	if out := made(t, m, "pdf"); len(out.Words) > 0 {
		t.Errorf("of what fits it is said: %q", out.Words)
	}
}

// What would be too small to be read on one page is spread over several unasked, at its own size: every step is whole
// on one of them, the frame and the heading are on each, and no page is empty.
func TestWhatWouldBeTooSmallIsSpread(t *testing.T) {
	m := model.New("Larger than its paper", model.Rightwards, "A4", true)
	m.Heading.Author = "Heading-author"
	s := m.Sheets[0]
	s.Headed = true
	for i := range 9 { // from the upper left to the lower right, so that two corners are empty
		s.Symbols = append(s.Symbols, &model.Symbol{ID: "s" + strconv.Itoa(i), Kind: model.Process,
			Text: "Word" + strconv.Itoa(i),
			Box:  geometry.Box{X: (40 + 400*i) * px, Y: (60 + 240*i) * px, W: 140 * px, H: 80 * px}})
	}
	for _, settings := range [][]string{nil, {"paper", "A4"}, {"paper", "A5", "way", "upright"}} {
		out := made(t, m, "pdf", settings...)
		words := places(t, out.Data)
		pages, found := 0, map[string]bool{}
		for _, w := range words {
			if len(w.word) == 5 && strings.HasPrefix(w.word, "Word") {
				found[w.word] = true
				if size := w.y1 - w.y0; size < 9 {
					t.Errorf("%v: %q is %.1f points high", settings, w.word, size)
				}
			}
			if w.word == "Heading-author" {
				pages++
				if w.y0 < w.height-80 || w.x1 > w.width {
					t.Errorf("%v: a heading stands at %v", settings, w)
				}
			}
		}
		if len(found) != 9 {
			t.Errorf("%v: %d of 9 steps are there", settings, len(found))
		}
		said := strings.Join(out.Words, " ")
		if !strings.Contains(said, "spread over "+strconv.Itoa(pages)+" pages") {
			t.Errorf("%v: %d headings; said is %q", settings, pages, said)
		}
		info := run(t, out.Data, "pdfinfo", "IN")
		if m := regexp.MustCompile(`Pages: +(\d+)`).FindStringSubmatch(info); m == nil || m[1] != strconv.Itoa(pages) ||
			pages > 18 {
			t.Errorf("%v: %d headings on %v", settings, pages, m)
		}
	}
}
