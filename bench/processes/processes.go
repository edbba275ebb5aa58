// Package processes makes up process graphs such as people draw: steps in a row,
// nested choices whose branches meet again or end, loops back to an earlier step,
// and now and then a way from one place to quite another. They serve tests and
// comparisons; the same numbers make the same graph.
package processes

import (
	"fmt"
	"math/rand/v2"
)

// Kind of a step.
type Kind int

// The kinds that are made up.
const (
	Step Kind = iota
	Decision
	Terminator
)

// Node is one step; Lane counts from 0, and is 0 for all in a graph without lanes.
type Node struct {
	Kind Kind
	Text string
	Lane int
}

// Edge leads from one step to another; Exit is its place among the exits of a
// decision, Label what it says.
type Edge struct {
	From, To, Exit int
	Label          string
}

// Graph is a made-up process. Lanes is 0 for one without.
type Graph struct {
	Nodes []Node
	Edges []Edge
	Lanes int
}

// Shape says how a process is to be.
type Shape struct {
	// Steps is the number of steps, about.
	Steps, Lanes int
	// Strays is how many of a hundred steps lead somewhere else as well.
	Strays int
}

type maker struct {
	*Graph
	r    *rand.Rand
	left int
	lane int
}

// loose is an exit that leads nowhere yet.
type loose struct {
	from, exit int
	label      string
}

// Make makes up a process.
func Make(seed uint64, s Shape) *Graph {
	m := &maker{Graph: &Graph{Lanes: s.Lanes}, r: rand.New(rand.NewPCG(seed, uint64(s.Steps)<<8|uint64(s.Lanes))),
		left: s.Steps - 2}
	ends := []loose{{from: m.add(Terminator, "Start")}}
	for m.left > 0 {
		ends = m.sequence(ends, 0)
		if len(ends) == 0 { // every branch has ended: something else begins
			ends = []loose{{from: m.add(Terminator, "Start")}}
		}
	}
	end := m.add(Terminator, "End")
	m.join(ends, end)
	for range s.Steps * s.Strays / 100 {
		from, to := m.r.IntN(len(m.Nodes)), m.r.IntN(len(m.Nodes))
		if from != to && m.Nodes[from].Kind == Step && m.Nodes[to].Kind == Step {
			m.Edges = append(m.Edges, Edge{from, to, 1, ""})
		}
	}
	return m.Graph
}

func (m *maker) add(k Kind, text string) int {
	m.left--
	if m.Lanes > 0 && m.r.IntN(100) < 30 {
		m.lane = m.r.IntN(m.Lanes)
	}
	m.Nodes = append(m.Nodes, Node{k, fmt.Sprintf("%s %d", text, len(m.Nodes)), m.lane})
	return len(m.Nodes) - 1
}

func (m *maker) join(ends []loose, to int) {
	for _, e := range ends {
		m.Edges = append(m.Edges, Edge{e.from, to, e.exit, e.label})
	}
}

// sequence lets some steps follow, and returns what is left loose.
func (m *maker) sequence(ends []loose, depth int) []loose {
	var row []int
	for n := 1 + m.r.IntN(5); n > 0 && m.left > 0 && len(ends) > 0; n-- {
		switch x := m.r.IntN(100); {
		case x < 62 || depth >= 4:
			v := m.add(Step, "Handle case")
			m.join(ends, v)
			ends = []loose{{from: v}}
			row = append(row, v)
		case x < 76 && len(row) > 0: // a loop
			d := m.add(Decision, "In order?")
			m.join(ends, d)
			m.Edges = append(m.Edges, Edge{d, row[m.r.IntN(len(row))], 1, "No"})
			ends = []loose{{d, 0, "Yes"}}
		default: // a choice
			d := m.add(Decision, "Which one?")
			m.join(ends, d)
			ends = nil
			branches := 2
			if m.r.IntN(6) == 0 {
				branches = 3
			}
			for b := range branches {
				branch := []loose{{d, b, [...]string{"Yes", "No", "Later"}[b]}}
				if b == 0 || m.r.IntN(4) > 0 {
					branch = m.sequence(branch, depth+1)
				}
				if b > 0 && m.r.IntN(7) == 0 && m.left > 0 {
					m.join(branch, m.add(Terminator, "Refused"))
					branch = nil
				}
				ends = append(ends, branch...)
			}
		}
	}
	return ends
}
