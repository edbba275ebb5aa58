package cell

import (
	"strings"
	"testing"
)

// Whatever a text is, the cell begins with no sign of a formula unless it is a number, and comes back as it was.
func FuzzHarmless(f *testing.F) {
	for _, text := range []string{"", "=1+1", "-3.25", "+49 30 1", "@SUM(A1)", "\t=1", "'=1", "''=1", " =1", "＝1", "-",
		"1e5", "-1E-7", "- a list", "\n=1", "=cmd|' /C calc'!A0", "-2+3", "O'Brien", "'quoted'"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		cell := Harmless(text)
		if begins(cell) && !number.MatchString(cell) {
			t.Errorf("%q becomes %q", text, cell)
		}
		if got := Plain(cell); got != text && !strings.HasPrefix(text, "'") {
			t.Errorf("%q comes back as %q", text, got)
		}
	})
}

// Numbers stay numbers.
func TestNumbersStay(t *testing.T) {
	for _, text := range []string{"-3.25", "+1", "-0,5", "-1e-7", "12"} {
		if got := Harmless(text); got != text {
			t.Errorf("%q becomes %q", text, got)
		}
	}
}
