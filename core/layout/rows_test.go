package layout

import (
	"fmt"
	"math/rand/v2"
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
		{7, 660, nil, "[0 0 0 0 1 1 1]"},
		{9, 660, nil, "[0 0 0 0 0 1 1 1 1]"},
		{9, 660, [][2]int{{3, 6}}, "[0 0 0 1 1 1 1 1 1]"}, // not between 3 and 6
		{9, 760, [][2]int{{2, 6}}, "[0 0 0 0 0 0 0 1 1]"}, // rather two alone than a broken decision
		{12, 460, nil, "[0 0 0 0 1 1 1 1 2 2 2 2]"},
		{3, 99, nil, "[]"},
	} {
		gaps := gapsOf(c.steps, chain(c.steps, c.more...))
		if got := fmt.Sprint(rowOf(rows(gaps, c.line*px))); got != c.want {
			t.Errorf("%d steps in lines of %d px, with %v: rows %s, want %s", c.steps, c.line, c.more, got, c.want)
		}
	}
}

// gapsOf are those between steps in columns of 100 px each, with the two ends.
func gapsOf(steps int, edges []layered.Edge) []gap {
	several := map[int]bool{}
	for _, e := range edges {
		several[e.From] = several[e.From] || e.Exit > 0
	}
	out := make([]gap, steps+1)
	for i := range out {
		out[i] = gap{x: i * 100 * px, before: i * 100 * px, after: i * 100 * px, stand: i}
		for _, e := range edges {
			if lo, hi := min(e.From, e.To), max(e.From, e.To); lo < i && i <= hi {
				out[i].cut++
				if e.From > e.To || e.Exit == 0 && several[e.From] {
					out[i].parted++
				}
			}
		}
	}
	return out
}

// rowOf numbers the rows of steps that are broken at some of the gaps between them.
func rowOf(broken []int) []int {
	out := []int{}
	for r := 1; r < len(broken); r++ {
		for len(out) < broken[r] {
			out = append(out, r-1)
		}
	}
	return out
}

// Where as many rows can be broken without parting a decision from the step of its first answer or cutting a loop, they
// are. All ways to break are looked at beside.
func TestRowsPartNoDecisionAndNoLoop(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	avoided := 0
	for range 400 {
		n, line := 6+r.IntN(7), 500+r.IntN(500)
		var edges []layered.Edge
		for i := range n {
			if i > 0 {
				edges = append(edges, layered.Edge{From: i - 1, To: i})
			}
		}
		for range 1 + r.IntN(3) {
			from, to := r.IntN(n), r.IntN(n)
			if from != to {
				edges = append(edges, layered.Edge{From: from, To: to, Exit: 1})
			}
		}
		bad := func(at int) bool { // whether a break before a layer parts something
			several := map[int]bool{}
			for _, e := range edges {
				several[e.From] = several[e.From] || e.Exit > 0
			}
			for _, e := range edges {
				if lo, hi := min(e.From, e.To), max(e.From, e.To); lo < at && at <= hi &&
					(e.From > e.To || e.Exit == 0 && several[e.From]) {
					return true
				}
			}
			return false
		}
		got := rowOf(rows(gapsOf(n, edges), line*px))
		if len(got) == 0 {
			continue
		}
		var ways func(from, left int) bool // whether the rest can be set in so many rows without parting anything
		ways = func(from, left int) bool {
			room := line * px
			for to := n; to > from; to-- {
				if (to-from)*100*px > room {
					continue
				}
				if to == n && left == 1 || to < n && left > 1 && !bad(to) && ways(to, left-1) {
					return true
				}
			}
			return false
		}
		clean := true
		for i := 1; i < n; i++ {
			clean = clean && (got[i] == got[i-1] || !bad(i))
		}
		if can := ways(0, got[n-1]+1); can && !clean {
			t.Fatalf("%v in lines of %d px: rows %v part something, and need not", edges, line, got)
		} else if can && got[n-1] > 0 {
			avoided++
		}
	}
	if avoided < 30 {
		t.Errorf("only %d drawings could be broken without parting anything", avoided)
	}
}
