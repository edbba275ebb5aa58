package exchange_test

import (
	"encoding/base64"
	"html"
	"regexp"
	"strings"
	"testing"

	"golang.org/x/image/font/sfnt"

	"plaintracer/core/model"
	"plaintracer/core/values"
)

// The page is set in one face: what stands around the drawings has all its letters in it as well, in both weights, and
// the register has a column for each field, for what steps use and make, and for their sheets.
func TestAWebPageHasAllItsLetters(t *testing.T) {
	m := two(t)
	m.Title = "Bestellung über große Çiçek"
	m.Fields = []model.Field{{ID: "time", Name: "Zeitaufwand", Type: values.Duration},
		{ID: "how", Name: "Žádost", Type: values.Text}}
	m.Sheets[0].Symbol("b").Values = []model.Value{{ID: "time", Text: "90"}, {ID: "how", Text: "by hand"}}
	for _, format := range []string{"html", "procedure-html"} {
		page := string(made(t, m, format).Data)
		faces := map[string]*sfnt.Font{}
		for _, f := range regexp.MustCompile(`font-weight:(\d+);font-style:normal;src:url\(data:font/ttf;base64,([^)]*)\)`).
			FindAllStringSubmatch(page, -1) {
			data, err := base64.StdEncoding.DecodeString(f[2])
			if err != nil {
				t.Fatal(err)
			}
			if faces[f[1]], err = sfnt.Parse(data); err != nil {
				t.Fatal(err)
			}
		}
		words := html.UnescapeString(regexp.MustCompile(`(?s)<svg.*?</svg>|<script.*?</script>|<style.*?</style>|<[^>]*>`).
			ReplaceAllString(page, " "))
		for _, weight := range []string{"400", "600"} {
			face := faces[weight]
			if face == nil {
				t.Fatalf("%s has no face of weight %s", format, weight)
			}
			var buf sfnt.Buffer
			for _, r := range words {
				if g, err := face.GlyphIndex(&buf, r); r > ' ' && (err != nil || g == 0) {
					t.Errorf("%s: the face of weight %s lacks %q", format, weight, r)
				}
			}
		}
		if format != "html" {
			continue
		}
		head := page[strings.Index(page, "<thead>"):strings.Index(page, "</thead>")]
		for _, want := range []string{"Sheet", "Goes on to", "Zeitaufwand", "Žádost"} {
			if !strings.Contains(head, ">"+want+"<") {
				t.Errorf("the register has no column %s: %s", want, head)
			}
		}
		if !strings.Contains(page, `data-title="Zeitaufwand">1 h 30 min<`) || !strings.Contains(page,
			"size: landscape") {
			t.Error("a value does not stand under its field, or the page is not printed across")
		}
	}
}
