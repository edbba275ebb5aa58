package numbering_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"gonum.org/v1/gonum/graph/simple"
	"gonum.org/v1/gonum/graph/topo"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// sketch builds a map of "a > b" lines, with answers as "a -Yes> b".
func sketch(lines ...string) *model.Map {
	m := model.New("", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	add := func(name string) string {
		name = strings.TrimSpace(name)
		if s.Symbol(name) == nil {
			kind := model.Process
			switch {
			case name == "start" || name == "end":
				kind = model.Terminator
			case strings.HasSuffix(name, "?"):
				kind = model.Decision
			case strings.HasPrefix(name, "doc"):
				kind = model.Document
			}
			s.Symbols = append(s.Symbols, &model.Symbol{ID: name, Kind: kind, Text: name,
				Box: geometry.Box{X: len(s.Symbols) * 1000, W: 1000, H: 1000}})
		}
		return name
	}
	for _, l := range lines {
		from, to, _ := strings.Cut(l, ">")
		from, answer, _ := strings.Cut(from, " -")
		c := &model.Connector{ID: fmt.Sprint("k", len(s.Connectors)), From: model.End{Symbol: add(from)},
			To: model.End{Symbol: add(to)}, Text: answer}
		s.Connectors = append(s.Connectors, c)
	}
	return m
}

func numbered(m *model.Map) string {
	var out []string
	for _, s := range numbering.Number(m) {
		out = append(out, fmt.Sprint(s.Symbol.ID, " ", s.Number))
	}
	return strings.Join(out, ", ")
}

func TestOrderOfSteps(t *testing.T) {
	for _, c := range []struct {
		name, want string
		lines      []string
	}{
		{"choice, merge and loop back", "Log 1, Known? 2, Look up 3, Confirm 4, Register 5, Merge 6, Right? 7",
			[]string{
				"start > Log", "Log > Known?", "Known? -No> Register", "Known? -Yes> Look up", "Look up > Confirm",
				"Confirm > Merge",
				"Register > Merge", "Merge > Right?", "Right? -No> Log", "Right? -Yes> end"}},
		{"what is no step carries no number", "A 1, B 2", []string{"start > A", "A > doc1", "doc1 > B", "B > end"}},
		{"a ring without a start", "A 1, B 2, C 3", []string{"A > B", "B > C", "C > A"}},
		{"parts that do not hang together", "A 1, B 2, X 3, Y 4", []string{"start > A", "A > B", "X > Y"}},
	} {
		if got := numbered(sketch(c.lines...)); got != c.want {
			t.Errorf("%s: %s, not %s", c.name, got, c.want)
		}
	}
}

func TestFlowGoesOnAtThePartnerOnAnotherSheet(t *testing.T) {
	m := sketch("start > A", "A > r1", "r2 > B", "B > end")
	s := m.Sheets[0]
	s.Symbol("r1").Kind, s.Symbol("r1").Text = model.SheetReference, "A"
	two := &model.Sheet{SheetHead: model.SheetHead{ID: "two", Paper: "A4"}}
	m.Sheets = append([]*model.Sheet{two}, m.Sheets...) // the second part stands first
	two.Symbols = []*model.Symbol{s.Symbol("r2"), s.Symbol("B"), s.Symbol("end")}
	two.Connectors = s.Connectors[2:]
	two.Symbol("r2").Kind, two.Symbol("r2").Text = model.SheetReference, "A"
	s.Connectors = s.Connectors[:2]
	s.Symbols = slices.DeleteFunc(s.Symbols, func(sym *model.Symbol) bool { return two.Symbol(sym.ID) != nil })
	if got := numbered(m); got != "A 1, B 2" {
		t.Errorf("numbers are %s", got)
	}
}

// Numbers rise along every connector that does not lead back; every step has
// exactly one; and what leads back is what makes the flow cyclic, as gonum
// finds when it sorts the rest.
func TestNumbersRiseAlongForwardConnectors(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 500 {
		var lines []string
		n := 2 + r.IntN(12)
		for range n + r.IntN(n) {
			a, b := r.IntN(n), r.IntN(n)
			if a != b {
				lines = append(lines, fmt.Sprintf("p%d > p%d", a, b))
			}
		}
		m := sketch(lines...)
		s := m.Sheets[0]
		number := map[string]int{}
		for _, step := range numbering.Number(m) {
			number[step.Symbol.ID], _ = strconv.Atoi(step.Number)
		}
		if len(number) != len(s.Symbols) {
			t.Fatalf("%v: %d steps, %d numbers", lines, len(s.Symbols), len(number))
		}
		graph := flow.New(m)
		g := simple.NewDirectedGraph()
		for _, c := range s.Connectors {
			from, to := number[c.From.Symbol], number[c.To.Symbol]
			if graph.Exit(c).Back {
				continue
			}
			if from >= to {
				t.Fatalf("%v: %s %d leads forward to %s %d", lines, c.From.Symbol, from, c.To.Symbol, to)
			}
			if !g.HasEdgeFromTo(int64(from), int64(to)) {
				g.SetEdge(g.NewEdge(simple.Node(from), simple.Node(to)))
			}
		}
		if _, err := topo.Sort(g); err != nil {
			t.Fatalf("%v: without what leads back the flow still goes round: %v", lines, err)
		}
	}
}

// A connector that joins another one carries the flow to where that one leads;
// loose ends and remarks carry none.
func TestTheFlowGoesOnOverJoinedLines(t *testing.T) {
	m := sketch("start > a", "a > b", "c > b")
	s := m.Sheets[0]
	s.Connectors[2].To = model.End{Connector: "k1"} // c now joins the line from a to b
	if got := numbered(m); got != "a 1, c 2, b 3" {
		t.Errorf("joined: %s", got)
	}
	s.Connectors = append(s.Connectors, &model.Connector{ID: "loose", From: model.End{Symbol: "b"},
		To: model.End{At: geometry.Point{X: 1}}})
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "n", Kind: model.Note, Box: geometry.Box{W: 1000, H: 1000}})
	s.Connectors = append(s.Connectors, &model.Connector{ID: "said", From: model.End{Symbol: "n"},
		To: model.End{Symbol: "a"}})
	if got := numbered(m); got != "a 1, c 2, b 3" {
		t.Errorf("with a loose end and a note: %s", got)
	}
}
