package layout

import (
	"fmt"
	"testing"

	"plaintracer/core/layered"
)

// A flow of columns of 100 px each breaks into rows of about equal length, not inside a decision and its branches
// where another break costs no further row, and leaves no step alone.
func TestRowsBreakWhereAReaderWould(t *testing.T) {
	chain := func(n int, more ...[2]int) []layered.Edge {
		var out []layered.Edge
		for i := range n - 1 {
			out = append(out, layered.Edge{From: i, To: i + 1})
		}
		for _, m := range more {
			out = append(out, layered.Edge{From: m[0], To: m[1]})
		}
		return out
	}
	for _, c := range []struct {
		steps, line int
		more        [][2]int
		want        string
	}{
		{7, 660, nil, "[0 0 0 1 1 1 1]"},
		{9, 660, nil, "[0 0 0 0 0 1 1 1 1]"},
		{9, 660, [][2]int{{3, 6}}, "[0 0 0 1 1 1 1 1 1]"}, // not between 3 and 6
		{9, 760, [][2]int{{2, 6}}, "[0 0 0 0 0 0 0 1 1]"}, // rather two alone than a broken decision
		{12, 460, nil, "[0 0 0 0 1 1 1 1 2 2 2 2]"},
		{3, 99, nil, "[]"},
	} {
		d := &layered.Drawing{}
		for i := range c.steps {
			d.Layer = append(d.Layer, i)
			d.Layers = append(d.Layers, layered.Span{From: i * 100 * px, To: (i*100 + 100) * px})
		}
		if got := fmt.Sprint(rows(d, chain(c.steps, c.more...), c.line*px)); got != c.want {
			t.Errorf("%d steps in lines of %d px, with %v: rows %s, want %s", c.steps, c.line, c.more, got, c.want)
		}
	}
}
