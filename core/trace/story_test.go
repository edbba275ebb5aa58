package trace

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/sergi/go-diff/diffmatchpatch"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/values"
)

// work is a map of a start, steps in two hands, a decision with two answers and an end, with a field of times.
func work() *model.Map {
	m := model.New("Work", model.Rightwards, "A3", true)
	m.Fields = []model.Field{{ID: "t", Name: "Time", Type: values.Duration}}
	s := m.Sheets[0]
	for i, c := range []struct {
		id, who string
		kind    model.Kind
	}{{"start", "", model.Terminator}, {"ask", "Desk", model.Process}, {"known", "Desk", model.Decision},
		{"fix", "Crew", model.Process}, {"tell", "Desk", model.Process}, {"end", "", model.Terminator}} {
		sym := &model.Symbol{ID: c.id, Kind: c.kind, Text: c.id, Owner: c.who,
			Box: geometry.Box{X: 20000 * i, W: 12000, H: 8000}}
		if c.who != "" {
			sym.Values = []model.Value{{ID: "t", Text: "10"}}
		}
		s.Symbols = append(s.Symbols, sym)
	}
	for i, c := range [][3]string{{"start", "ask", ""}, {"ask", "known", ""}, {"known", "tell", "Yes"},
		{"known", "fix", "No"},
		{"fix", "tell", ""}, {"tell", "end", ""}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i), From: model.End{Symbol: c[0]},
			To: model.End{Symbol: c[1]}, Text: c[2]})
	}
	return m
}

func way(text string) *model.Case {
	return &model.Case{ID: "c", Name: text, Way: strings.Fields(text)}
}

// A case is told with its answers, sums and hand-overs, and says where the map has changed under it.
func TestTell(t *testing.T) {
	m := work()
	g := flow.New(m)
	s := Tell(g, nil, way("start ask known fix tell end"))
	if s.Fault != "" || len(s.Steps) != 6 || s.Steps[2].Answer != "No" || s.Handovers != 2 || s.Amounts["t"] != "40" ||
		len(s.Sums) != 1 || s.Sums[0].Value != "40 min" {
		t.Errorf("it is told as %+v", s)
	}
	for text, want := range map[string]string{
		"start ask tell":            "“ask” does not lead to “tell” any more.",
		"start gone known tell end": "A step on its way is gone.",
		"gone away":                 "2 steps on its way are gone.",
	} {
		if got := Tell(g, nil, way(text)).Fault; got != want {
			t.Errorf("of %q is said %q, not %q", text, got, want)
		}
	}
}

// Two cases side by side keep both whole and in order, and have as much in common as an independent difference finds.
func TestBeside(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	story := func() *Story {
		s := &Story{}
		for range random.IntN(25) {
			s.Steps = append(s.Steps, Told{Symbol: string(rune('a' + random.IntN(6)))})
		}
		return s
	}
	names := func(list []Told) (out string) {
		for _, s := range list {
			out += s.Symbol
		}
		return out
	}
	for range 500 {
		a, b := story(), story()
		var left, right []Told
		common := 0
		for _, p := range Beside(a, b) {
			if p.A != nil && p.B != nil {
				if common++; p.A.Symbol != p.B.Symbol {
					t.Fatalf("%v stands beside %v", p.A, p.B)
				}
			}
			if p.A != nil {
				left = append(left, *p.A)
			}
			if p.B != nil {
				right = append(right, *p.B)
			}
		}
		same := func(x, y Told) bool { return x.Symbol == y.Symbol }
		if !slices.EqualFunc(left, a.Steps, same) || !slices.EqualFunc(right, b.Steps, same) {
			t.Fatalf("%s and %s become %s and %s", names(a.Steps), names(b.Steps), names(left), names(right))
		}
		found := 0
		for _, d := range diffmatchpatch.New().DiffMain(names(a.Steps), names(b.Steps), false) {
			if d.Type == diffmatchpatch.DiffEqual {
				found += len(d.Text)
			}
		}
		if common < found {
			t.Fatalf("%s and %s have %d in common, an independent difference finds %d", names(a.Steps), names(b.Steps),
				common,
				found)
		}
	}
}
