package find

import (
	"math/rand"
	"regexp"
	"strings"
	"testing"
)

// TestIndexAgainstRegexp compares matches and replacements with those of the standard library's regular
// expressions, which fold case by the same tables of Unicode.
func TestIndexAgainstRegexp(t *testing.T) {
	r := rand.New(rand.NewSource(2))
	letters := []rune("aAbBéÉßı ")
	word := func(n int) string {
		var b strings.Builder
		for range n {
			b.WriteRune(letters[r.Intn(len(letters))])
		}
		return b.String()
	}
	found := 0
	for range 20000 {
		text, query := word(r.Intn(12)), word(1+r.Intn(3))
		re := regexp.MustCompile("(?i)" + regexp.QuoteMeta(query))
		at, size := index(text, query)
		want := re.FindStringIndex(text)
		if (want == nil) != (at < 0) || want != nil && (want[0] != at || want[1] != at+size) {
			t.Fatalf("%q in %q: at %d, %d bytes; the regular expression says %v", query, text, at, size, want)
		}
		got, changed := Replaced(text, query, "x")
		if want := re.ReplaceAllLiteralString(text, "x"); got != want || changed != (got != text) {
			t.Fatalf("%q in %q is replaced to %q, not %q", query, text, got, want)
		}
		if at >= 0 {
			found++
		}
	}
	if found < 2000 {
		t.Errorf("only %d texts held what was looked for", found)
	}
}
