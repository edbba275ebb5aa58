// Package flow is the directed graph of the work in a map: its steps and where each leads, over
// all sheets. Numbers, findings, the trace of a case, selection along the flow and the layout ask
// it.
//
// New builds a Graph with one Node for every symbol that is part of the work. A connector becomes an Exit of the node
// it leads from; where it joins another connector, the flow goes on to where that one leads, and the half of a pair of
// references that is led into leads on to its partner. Notes and other asides, the connectors to them, and sheets that
// show no flow are left out. A Graph is of one state of the map and does not follow its changes.
package flow

import (
	"cmp"
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Node is a symbol in the flow.
type Node struct {
	Sheet  *model.Sheet
	Symbol *model.Symbol
	// Exits are the ways on, in the order of the map's answers, then in that of drawing. Entries
	// are the exits of other nodes that lead here, in the order of drawing.
	Exits, Entries []*Exit
	// Loose are the connectors that leave the symbol and lead nowhere.
	Loose []*model.Connector
	// index is its place among the nodes.
	index int
	// sheet is the place of its sheet among those of the map.
	sheet int
}

// Exit is a way on from one node to another.
type Exit struct {
	From, To *Node
	// Connector is the one that leads there; nil from a reference to its partner.
	Connector *model.Connector
	// Back says that it leads back to a node that leads here: that it closes a loop.
	Back bool
}

// Answer is the label of the exit, by which a decision tells its exits apart.
func (e *Exit) Answer() string {
	if e.Connector == nil {
		return ""
	}
	return e.Connector.Text
}

// Owner returns who does the step: its lane, or its own owner where it stands in none.
func (n *Node) Owner() string { return n.Sheet.OwnerOf(n.Symbol) }

// Forward returns the exits that do not lead back.
func (n *Node) Forward() []*Exit {
	return slices.DeleteFunc(slices.Clone(n.Exits), func(e *Exit) bool { return e.Back })
}

// Graph is the flow of a map.
type Graph struct {
	m     *model.Map
	nodes []*Node
	byID  map[string]*Node
	// order are the nodes in the order in which a flow may begin at them.
	order []*Node
	// letters are the references of the map.
	letters model.Letters
}

// New returns the flow of a map as it is now.
func New(m *model.Map) *Graph {
	size := 0
	for _, s := range m.Sheets {
		size += len(s.Symbols)
	}
	g := &Graph{m: m, byID: make(map[string]*Node, size), nodes: make([]*Node, 0, size)}
	for i, s := range m.Sheets {
		if s.Kind != model.FlowSheet {
			continue
		}
		for _, sym := range s.Symbols {
			if !sym.Kind.IsAside() {
				n := &Node{Sheet: s, Symbol: sym, index: len(g.nodes), sheet: i}
				g.nodes = append(g.nodes, n)
				g.byID[sym.ID] = n
			}
		}
	}
	for _, s := range m.Sheets {
		for _, l := range Links(s) {
			from, to := g.node(l.From), g.node(l.To)
			switch {
			case from == nil || l.To != nil && to == nil: // to or from an aside, or from nowhere
			case to == nil:
				from.Loose = append(from.Loose, l.Connector)
			default:
				g.join(from, to, l.Connector)
			}
		}
	}
	rank := func(e *Exit) int {
		if i := slices.Index(m.Answers, e.Answer()); i >= 0 {
			return i
		}
		return len(m.Answers)
	}
	for _, n := range g.nodes {
		slices.SortStableFunc(n.Exits, func(a, b *Exit) int { return cmp.Compare(rank(a), rank(b)) })
	}
	g.pair()
	g.arrange()
	g.markBack()
	return g
}

func (g *Graph) node(sym *model.Symbol) *Node {
	if sym == nil {
		return nil
	}
	return g.byID[sym.ID]
}

func (g *Graph) join(from, to *Node, c *model.Connector) {
	e := &Exit{From: from, To: to, Connector: c}
	from.Exits, to.Entries = append(from.Exits, e), append(to.Entries, e)
}

// pair leads references on to their partners: the one that is led into goes on at the one that
// leads out.
func (g *Graph) pair() {
	g.letters = g.m.Letters()
	led := make([]bool, len(g.nodes)) // whether a connector leads on from it
	for i, n := range g.nodes {
		led[i] = len(n.Exits) > 0
	}
	for i, n := range g.nodes {
		if !n.Symbol.Kind.IsReference() || led[i] {
			continue
		}
		if _, partner := g.partner(n.Symbol); partner != nil {
			if to := g.byID[partner.ID]; led[to.index] || to.index > i {
				g.join(n, to, nil)
			}
		}
	}
}

// partner returns the first partner of a reference.
func (g *Graph) partner(sym *model.Symbol) (*model.Sheet, *model.Symbol) {
	if list := g.letters.Partners(sym); len(list) > 0 {
		return list[0].Sheet, list[0].Symbol
	}
	return nil, nil
}

// arrange puts the nodes into the order in which a flow may begin at them: terminators that
// nothing leads into, other nodes that nothing leads into, the rest; each by sheet and then by
// place in the direction of the flow.
func (g *Graph) arrange() {
	class := func(n *Node) int {
		switch begins := len(n.Entries) == 0; {
		case begins && n.Symbol.Kind.IsEnd():
			return 0
		case begins:
			return 1
		case n.Symbol.Kind.IsEnd():
			return 2
		}
		return 3
	}
	type placed struct {
		class int
		at    geometry.Point
		n     *Node
	}
	list := make([]placed, len(g.nodes))
	down := g.m.Direction == model.Downwards
	for i, n := range g.nodes {
		list[i] = placed{class(n), n.Symbol.Centre().Turned(down), n}
	}
	slices.SortStableFunc(list, func(a, b placed) int {
		switch {
		case a.class != b.class:
			return a.class - b.class
		case a.n.sheet != b.n.sheet:
			return a.n.sheet - b.n.sheet
		case a.at.X != b.at.X:
			return a.at.X - b.at.X
		case a.at.Y != b.at.Y:
			return a.at.Y - b.at.Y
		}
		return strings.Compare(a.n.Symbol.ID, b.n.Symbol.ID)
	})
	g.order = make([]*Node, len(list))
	for i := range list {
		g.order[i] = list[i].n
	}
}

// markBack finds the exits that lead back: those to a node from which a depth-first search has
// come. They are exactly the edges that close a cycle (Tarjan, Depth-First Search and Linear Graph
// Algorithms, 1972).
func (g *Graph) markBack() {
	const (
		unseen = iota
		open
		done
	)
	state := make([]uint8, len(g.nodes))
	var walk func(n *Node)
	walk = func(n *Node) {
		state[n.index] = open
		for _, e := range n.Exits {
			switch state[e.To.index] {
			case unseen:
				walk(e.To)
			case open:
				e.Back = true
			}
		}
		state[n.index] = done
	}
	for _, n := range g.order {
		if state[n.index] == unseen {
			walk(n)
		}
	}
}

// Map returns the map whose flow it is.
func (g *Graph) Map() *model.Map { return g.m }

// Nodes returns the nodes by sheet and in the order of drawing.
func (g *Graph) Nodes() []*Node { return g.nodes }

// Order returns the nodes in the order in which a flow may begin at them.
func (g *Graph) Order() []*Node { return g.order }

// Node returns the node of the symbol with this id; nil for what is not part of the work.
func (g *Graph) Node(id string) *Node { return g.byID[id] }

// Starts returns the nodes at which the flow begins, the first of them first. Where something
// leads into every node, it begins at the first one.
func (g *Graph) Starts() []*Node {
	var out []*Node
	for _, n := range g.order {
		if len(n.Entries) == 0 || len(out) == 0 {
			out = append(out, n)
		}
	}
	return out
}

// StartOf returns the node at which the flow of a sheet begins: the first to which nothing leads there, else the
// first; nil where there is none.
func (g *Graph) StartOf(s *model.Sheet) *Node {
	for _, n := range g.order {
		if n.Sheet == s {
			return n
		}
	}
	return nil
}

// Exit returns the exit that a connector is; nil for one that carries no flow.
func (g *Graph) Exit(c *model.Connector) *Exit {
	if n := g.byID[c.From.Symbol]; n != nil {
		for _, e := range n.Exits {
			if e.Connector == c {
				return e
			}
		}
	}
	return nil
}

// Reach returns the nodes that can be reached from some along the flow, these included; against
// it with upstream.
func (g *Graph) Reach(upstream bool, from ...*Node) map[*Node]bool {
	seen := map[*Node]bool{}
	for stack := slices.Clone(from); len(stack) > 0; {
		n := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if seen[n] {
			continue
		}
		seen[n] = true
		if upstream {
			for _, e := range n.Entries {
				stack = append(stack, e.From)
			}
		} else {
			for _, e := range n.Exits {
				stack = append(stack, e.To)
			}
		}
	}
	return seen
}

// Link is a connector of a sheet with the symbols between which it leads, part of the work or not.
// An end that leads nowhere is nil.
type Link struct {
	Connector *model.Connector
	From, To  *model.Symbol
}

// Links returns the connectors of a sheet in the order of drawing. One that joins another leads to
// where that one leads.
func Links(s *model.Sheet) []Link {
	if len(s.Connectors) == 0 {
		return nil
	}
	symbols := make(map[string]*model.Symbol, len(s.Symbols))
	for _, sym := range s.Symbols {
		symbols[sym.ID] = sym
	}
	var connectors map[string]*model.Connector
	if slices.ContainsFunc(s.Connectors, func(c *model.Connector) bool { return c.To.Connector != "" }) {
		connectors = make(map[string]*model.Connector, len(s.Connectors))
		for _, c := range s.Connectors {
			connectors[c.ID] = c
		}
	}
	out := make([]Link, len(s.Connectors))
	for i, c := range s.Connectors {
		last := c
		for range s.Connectors { // no more than there are, whatever a broken map holds
			if last.To.Connector == "" || connectors[last.To.Connector] == nil {
				break
			}
			last = connectors[last.To.Connector]
		}
		out[i] = Link{Connector: c}
		if c.From.Symbol != "" {
			out[i].From = symbols[c.From.Symbol]
		}
		if last.To.Symbol != "" {
			out[i].To = symbols[last.To.Symbol]
		}
	}
	return out
}

// Exits returns where the flow goes on from a symbol on its sheet, in the order of the map's
// answers.
func (g *Graph) Exits(id string) []*Exit {
	n := g.Node(id)
	if n == nil {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(n.Exits), func(x *Exit) bool { return x.Connector == nil })
}

// Onward returns the ways on from a symbol on its sheet that a next step may come into: none that
// leads back, none that is drawn as an exceptional path, and none to a document or data that is only
// made there, where the flow goes on elsewhere.
func (g *Graph) Onward(id string) []*Exit {
	list := slices.DeleteFunc(g.Exits(id), func(x *Exit) bool { return x.Back || x.Connector.Dashed })
	if len(list) < 2 {
		return list
	}
	return slices.DeleteFunc(list,
		func(x *Exit) bool { return x.To.Symbol.Kind.IsInformation() && len(x.To.Exits) == 0 })
}

// Entries returns where the flow comes from to a symbol on its sheet.
func (g *Graph) Entries(id string) []*Exit {
	n := g.Node(id)
	if n == nil {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(n.Entries), func(x *Exit) bool { return x.Connector == nil })
}
