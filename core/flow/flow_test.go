package flow_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/graph/path"
	"gonum.org/v1/gonum/graph/simple"
	"gonum.org/v1/gonum/graph/topo"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// scatter makes a map of two sheets with steps, notes, joined connectors, loose ends and a pair of
// references.
func scatter(seed uint64) *model.Map {
	r := rand.New(rand.NewPCG(seed, 9))
	m := model.New("Random", model.Rightwards, "A4", true)
	two := m.Sheets[0].Clone()
	two.ID = "sheet-2"
	m.Sheets = append(m.Sheets, two)
	for k, s := range m.Sheets {
		n := 3 + r.IntN(9)
		for i := range n {
			kind := []model.Kind{model.Process, model.Decision, model.Terminator, model.Note, model.Document}[r.IntN(5)]
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprintf("s%d-%d", k, i), Kind: kind,
				Box: geometry.Box{X: r.IntN(90000), Y: r.IntN(90000), W: 12000, H: 8000}})
		}
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("ref", k), Kind: model.SheetReference, Text: "A",
			Box: geometry.Box{W: 4000, H: 4000}})
		for i := range r.IntN(2 * n) {
			c := &model.Connector{ID: fmt.Sprintf("k%d-%d", k, i), Text: []string{"", "Yes", "No"}[r.IntN(3)]}
			c.From.Symbol = s.Symbols[r.IntN(len(s.Symbols))].ID
			switch target := s.Symbols[r.IntN(len(s.Symbols))].ID; {
			case i > 0 && r.IntN(5) == 0:
				c.To.Connector = s.Connectors[r.IntN(i)].ID
			case r.IntN(6) == 0 || target == c.From.Symbol:
				c.To.At = geometry.Point{X: 1, Y: 1}
			default:
				c.To.Symbol = target
			}
			s.Connectors = append(s.Connectors, c)
		}
	}
	return m
}

// The graph without what leads back has no circle, and what can be reached is what gonum's
// traversal of the same edges reaches; the edges are those that Sheet.Leads names.
func TestTheGraphAgreesWithGonum(t *testing.T) {
	for seed := range uint64(400) {
		m := scatter(seed)
		if err := m.Sound(); err != nil {
			continue // a connector may join what leads back to it
		}
		g := flow.New(m)
		number := map[*flow.Node]int64{}
		all, forward := simple.NewDirectedGraph(), simple.NewDirectedGraph()
		for i, n := range g.Nodes() {
			number[n] = int64(i)
			all.AddNode(simple.Node(i))
			forward.AddNode(simple.Node(i))
		}
		edges := map[string]bool{}
		for _, n := range g.Nodes() {
			for _, x := range n.Exits {
				if x.From != n || !slices.Contains(x.To.Entries, x) {
					t.Fatalf("seed %d: an exit of %s is not known where it leads", seed, n.Symbol.ID)
				}
				if x.Connector != nil {
					edges[x.Connector.ID+" "+n.Symbol.ID+" "+x.To.Symbol.ID] = true
				}
				if n == x.To { // a line that joins another one leads back to where it began
					if !x.Back {
						t.Fatalf("seed %d: a circle of one leads forward", seed)
					}
					continue
				}
				all.SetEdge(simple.Edge{F: simple.Node(number[n]), T: simple.Node(number[x.To])})
				if !x.Back {
					forward.SetEdge(simple.Edge{F: simple.Node(number[n]), T: simple.Node(number[x.To])})
				}
			}
		}
		if _, err := topo.Sort(forward); err != nil {
			t.Fatalf("seed %d: without what leads back the flow goes round: %v", seed, err)
		}
		if sccs := topo.TarjanSCC(all); len(sccs) == len(g.Nodes()) {
			for _, n := range g.Nodes() {
				if n.Symbol.Kind != "" && len(n.Forward()) != len(n.Exits) &&
					!slices.ContainsFunc(n.Exits, func(x *flow.Exit) bool { return x.To == n }) {
					t.Fatalf("seed %d: %s leads back where there is no circle", seed, n.Symbol.ID)
				}
			}
		}
		for _, n := range g.Nodes() {
			reached, against := g.Reach(false, n), g.Reach(true, n)
			shortest := path.DijkstraFrom(simple.Node(number[n]), all)
			for _, o := range g.Nodes() {
				_, weight := shortest.To(number[o])
				if want := weight < 1e9; reached[o] != want {
					t.Fatalf("seed %d: from %s to %s is %v", seed, n.Symbol.ID, o.Symbol.ID, reached[o])
				}
				if back := g.Reach(false, o)[n]; against[o] != back {
					t.Fatalf("seed %d: against the flow from %s to %s is %v", seed, n.Symbol.ID, o.Symbol.ID,
						against[o])
				}
			}
		}
		for _, s := range m.Sheets {
			for _, c := range s.Connectors {
				from, to := s.Leads(c)
				a, b := s.Symbol(from), s.Symbol(to)
				want := a != nil && b != nil && !a.Kind.IsAside() && !b.Kind.IsAside()
				if got := edges[c.ID+" "+from+" "+to]; got != want || (g.Exit(c) != nil) != want {
					t.Fatalf("seed %d: the connector %s from %s to %s is an edge: %v", seed, c.ID, from, to, got)
				}
			}
		}
	}
}

// A decision's first exit is that of the first answer, and the loop back is known as one.
func ExampleNew() {
	m := model.New("Lend a bike", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, kind := range []model.Kind{model.Terminator, model.Decision, model.Process, model.Process} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: string(rune('a' + i)), Kind: kind,
			Text: []string{"Resident asks", "Card valid?", "Renew the card", "Hand over"}[i]})
	}
	for i, c := range [][3]string{{"a", "", "b"}, {"b", "No", "c"}, {"b", "Yes", "d"}, {"c", "", "b"}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint(i), From: model.End{Symbol: c[0]},
			Text: c[1], To: model.End{Symbol: c[2]}})
	}
	for _, n := range flow.New(m).Nodes() {
		for _, x := range n.Exits {
			fmt.Println(n.Symbol.Text, "-", x.Answer(), "->", x.To.Symbol.Text, x.Back)
		}
	}
	// Output:
	// Resident asks -  -> Card valid? false
	// Card valid? - Yes -> Hand over false
	// Card valid? - No -> Renew the card false
	// Renew the card -  -> Card valid? true
}
