// Package numbering counts the steps of a map in the order of its flow.
package numbering

import (
	"cmp"
	"slices"

	"plaintracer/core/diagram"
)

// Step is a numbered step with its place in the map.
type Step struct {
	Number int
	Sheet  *diagram.Sheet
	Symbol *diagram.Symbol
}

// node is a symbol in the flow of the whole map; a reference leads on to its
// partner as if a connector did.
type node struct {
	sheet *diagram.Sheet
	sym   *diagram.Symbol
	out   []int
	// forward marks, for each of out, the exits that do not lead back.
	forward []bool
	in      int
}

// Number returns the steps in order, numbered from 1.
//
// The order begins at the starts and goes depth first along the first answer
// of every decision. A step is counted once all that leads forward into it has
// been; what leads back to an earlier step does not count. So numbers rise
// along every forward connector.
func Number(m *diagram.Map) []Step {
	nodes := flow(m)
	order := roots(m, nodes)
	mark(nodes, order)

	waiting := make([]int, len(nodes))
	for i := range nodes {
		for k, to := range nodes[i].out {
			if nodes[i].forward[k] {
				waiting[to]++
			}
		}
	}
	var steps []Step
	var visit func(i int)
	visit = func(i int) {
		n := &nodes[i]
		if n.sym.Kind.IsStep() {
			steps = append(steps, Step{len(steps) + 1, n.sheet, n.sym})
		}
		for k, to := range n.out {
			if !n.forward[k] {
				continue
			}
			if waiting[to]--; waiting[to] == 0 {
				visit(to)
			}
		}
	}
	begins := make([]bool, len(nodes))
	for i, w := range waiting {
		begins[i] = w == 0
	}
	for _, i := range order {
		if begins[i] {
			visit(i)
		}
	}
	return steps
}

// Starts returns the ids of the symbols at which the flow of the map begins,
// the first of them first.
func Starts(m *diagram.Map) []string {
	nodes := flow(m)
	var out []string
	for _, i := range roots(m, nodes) {
		if nodes[i].in == 0 || len(out) == 0 {
			out = append(out, nodes[i].sym.ID)
		}
	}
	return out
}

// Backward returns the ids of the connectors that lead back to an earlier
// step: the loops.
func Backward(m *diagram.Map) map[string]bool {
	nodes := flow(m)
	mark(nodes, roots(m, nodes))
	back := map[string]bool{}
	place := places(nodes)
	for _, s := range m.Sheets {
		for _, c := range s.Connectors {
			source, target := s.Leads(c)
			from, ok := place[source]
			to, ok2 := place[target]
			if !ok || !ok2 {
				continue
			}
			for k, t := range nodes[from].out {
				if t == to && !nodes[from].forward[k] {
					back[c.ID] = true
				}
			}
		}
	}
	return back
}

func places(nodes []node) map[string]int {
	place := make(map[string]int, len(nodes))
	for i := range nodes {
		place[nodes[i].sym.ID] = i
	}
	return place
}

// flow returns the graph of the whole map, exits in the order of the answers.
func flow(m *diagram.Map) []node {
	var nodes []node
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			nodes = append(nodes, node{sheet: s, sym: sym})
		}
	}
	place := places(nodes)
	type exit struct{ rank, to int }
	exits := make([][]exit, len(nodes))
	for _, s := range m.Sheets {
		for _, c := range s.Connectors {
			source, target := s.Leads(c)
			from, ok := place[source]
			to, ok2 := place[target]
			if !ok || !ok2 || nodes[from].sym.Kind.IsRemark() || nodes[to].sym.Kind.IsRemark() {
				continue // a loose end leads nowhere, a remark is not part of the work
			}
			rank := slices.Index(m.Answers, c.Text)
			if rank < 0 {
				rank = len(m.Answers)
			}
			exits[from] = append(exits[from], exit{rank, to})
			nodes[to].in++
		}
	}
	for i := range nodes {
		// Stable: exits without an answer keep the order they were drawn in.
		slices.SortStableFunc(exits[i], func(a, b exit) int { return cmp.Compare(a.rank, b.rank) })
		for _, e := range exits[i] {
			nodes[i].out = append(nodes[i].out, e.to)
		}
	}
	for i := range nodes {
		// The reference that is led into goes on at the one that leads out.
		if _, partner := m.Partner(nodes[i].sym); partner != nil && len(exits[i]) == 0 {
			to := place[partner.ID]
			if len(exits[to]) > 0 || to > i {
				nodes[i].out = append(nodes[i].out, to)
				nodes[to].in++
			}
		}
	}
	for i := range nodes {
		nodes[i].forward = make([]bool, len(nodes[i].out))
	}
	return nodes
}

// roots returns all nodes in the order in which a flow may begin at them:
// terminators nothing leads into, other nodes nothing leads into, the rest;
// each by sheet and then by place in the direction of the flow.
func roots(m *diagram.Map, nodes []node) []int {
	order := make([]int, len(nodes))
	for i := range order {
		order[i] = i
	}
	class := func(n *node) int {
		switch {
		case n.in == 0 && n.sym.Kind.IsEnd():
			return 0
		case n.in == 0:
			return 1
		case n.sym.Kind.IsEnd():
			return 2
		}
		return 3
	}
	sheet := map[*diagram.Sheet]int{}
	for i, s := range m.Sheets {
		sheet[s] = i
	}
	slices.SortStableFunc(order, func(i, j int) int {
		a, b := &nodes[i], &nodes[j]
		p, q := a.sym.Centre(), b.sym.Centre()
		if m.Direction == diagram.Downwards {
			p.X, p.Y, q.X, q.Y = p.Y, p.X, q.Y, q.X
		}
		return cmp.Or(cmp.Compare(class(a), class(b)), cmp.Compare(sheet[a.sheet], sheet[b.sheet]),
			cmp.Compare(p.X, q.X), cmp.Compare(p.Y, q.Y), cmp.Compare(a.sym.ID, b.sym.ID))
	})
	return order
}

// mark finds the exits that lead forward: all but those that lead back to a
// node from which the walk has come (depth-first search, whose back edges are
// exactly the edges that close a cycle; see Tarjan 1972).
func mark(nodes []node, order []int) {
	const (
		unseen = iota
		open
		done
	)
	state := make([]uint8, len(nodes))
	var walk func(i int)
	walk = func(i int) {
		state[i] = open
		for k, to := range nodes[i].out {
			switch state[to] {
			case unseen:
				nodes[i].forward[k] = true
				walk(to)
			case done:
				nodes[i].forward[k] = true
			}
		}
		state[i] = done
	}
	for _, i := range order {
		if state[i] == unseen {
			walk(i)
		}
	}
}
