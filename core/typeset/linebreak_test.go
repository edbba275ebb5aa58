package typeset_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"plaintracer/core/typeset"
)

// published returns the test lines of Unicode's LineBreakTest.txt (UAX #14),
// which the module rivo/uniseg carries as a table: each as the parts between
// which a line may break.
func published(t *testing.T) [][]string {
	t.Helper()
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/rivo/uniseg").Output()
	if err != nil {
		t.Fatal(err)
	}
	table, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "linebreak_test.go"))
	if err != nil {
		t.Fatal(err)
	}
	row := regexp.MustCompile(`expected: \[\]\[\]rune\{((?:\{[^}]*\},? ?)+)\}`)
	part := regexp.MustCompile(`\{([^}]*)\}`)
	var out [][]string
	for _, m := range row.FindAllStringSubmatch(string(table), -1) {
		var parts []string
		for _, p := range part.FindAllStringSubmatch(m[1], -1) {
			var b strings.Builder
			for _, code := range strings.Split(p[1], ",") {
				n, err := strconv.ParseInt(strings.TrimSpace(code), 0, 32)
				if err != nil {
					t.Fatal(err)
				}
				b.WriteRune(rune(n))
			}
			parts = append(parts, b.String())
		}
		out = append(out, parts)
	}
	return out
}

// Wherever UAX #14 allows a break on its published test lines, a line of just
// that width ends there; and nowhere else does one end.
func TestLinesBreakWhereUnicodeAllowsIt(t *testing.T) {
	cases := published(t)
	if len(cases) < 5000 {
		t.Fatalf("found only %d published lines", len(cases))
	}
	checked := 0
	for _, parts := range cases {
		whole := strings.Join(parts, "")
		if strings.ContainsAny(whole, "\t\r\v\f\u0085\u2028\u2029") {
			continue // a map's text has none of these; they are taken as spaces or breaks of their own
		}
		ends := map[string]bool{}
		longest, before := 0, ""
		for _, p := range parts {
			before += p
			ends[strings.TrimRight(before, " \n")] = true
			longest = max(longest, typeset.Measure(strings.TrimRight(p, " \n"), typeset.Body))
		}
		before = ""
		for _, p := range parts[:len(parts)-1] {
			before += p
			head := strings.TrimRight(before, " \n")
			width := max(typeset.Measure(head, typeset.Body), longest)
			lines, ok := typeset.Wrap(whole, typeset.Body, 0, func(int) int { return width })
			if !ok {
				t.Fatalf("%q cannot be set %d wide", whole, width)
			}
			sofar, rest := "", whole
			for _, l := range lines {
				at := strings.Index(rest, l.Text)
				if at < 0 || strings.Trim(rest[:at], " \n") != "" {
					t.Fatalf("%q loses something in %q", whole, l.Text)
				}
				sofar += rest[:at] + l.Text
				rest = rest[at+len(l.Text):]
				if !ends[strings.TrimRight(sofar, " \n")] {
					t.Fatalf("%q breaks after %q, where UAX #14 allows none: %q", whole, sofar, parts)
				}
			}
			if first := lines[0].Text; typeset.Measure(head, typeset.Body) == width && len(first) < len(head) &&
				!strings.Contains(head, "\n") {
				t.Fatalf("%q does not break after %q but after %q", whole, head, first)
			}
			checked++
		}
	}
	if checked < 3000 {
		t.Errorf("only %d breaks were checked", checked)
	}
}
