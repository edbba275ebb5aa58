// Package numbering counts the steps of a map in the order of its flow.
package numbering

import (
	"plaintracer/core/diagram"
	"plaintracer/core/flow"
)

// Step is a numbered step with its place in the map.
type Step struct {
	Number int
	Sheet  *diagram.Sheet
	Symbol *diagram.Symbol
}

// Number returns the steps of a map in order, numbered from 1.
func Number(m *diagram.Map) []Step { return Of(flow.New(m)) }

// Of returns the steps of a flow in order, numbered from 1.
//
// The order begins at the starts and goes depth first along the first answer of every decision. A
// step is counted once all that leads forward into it has been; what leads back to an earlier step
// does not count. So numbers rise along every forward connector.
func Of(g *flow.Graph) []Step {
	var steps []Step
	for _, n := range Reading(g) {
		if n.Symbol.Kind.IsStep() {
			steps = append(steps, Step{len(steps) + 1, n.Sheet, n.Symbol})
		}
	}
	return steps
}

// Reading returns all nodes of a flow in the order in which they are read, which is that of the numbers.
func Reading(g *flow.Graph) []*flow.Node {
	waiting := map[*flow.Node]int{} // entries that have not been counted yet
	for _, n := range g.Nodes() {
		for _, e := range n.Exits {
			if !e.Back {
				waiting[e.To]++
			}
		}
	}
	var begins []*flow.Node
	for _, n := range g.Order() {
		if waiting[n] == 0 {
			begins = append(begins, n)
		}
	}
	var out []*flow.Node
	var visit func(n *flow.Node)
	visit = func(n *flow.Node) {
		out = append(out, n)
		for _, e := range n.Exits {
			if e.Back {
				continue
			}
			if waiting[e.To]--; waiting[e.To] == 0 {
				visit(e.To)
			}
		}
	}
	for _, n := range begins {
		visit(n)
	}
	return out
}
