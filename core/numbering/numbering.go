// Package numbering numbers the steps of a map in the order of its flow, by the scheme the map has chosen.
//
// Reading puts all nodes of a flow in order, so that numbers rise along every forward connector. Number and Of give
// each step its number: the one pinned on it, the one it keeps while the numbers are held, or else the one that its
// row counts up to. A row is what numbers stand in one after the other: the whole map in the plain scheme, a lane, a
// stage, an answer of a decision.
//
// While numbers are held, edits keep them in the map; this package computes which: All where they begin to be, Missing
// for what comes later.
package numbering

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/model"
)

// Step is a step with its number and its place in the map.
type Step struct {
	// Number is empty for a step that is left out of the count.
	Number string
	Sheet  *model.Sheet
	Symbol *model.Symbol
}

// Number returns the steps of a map in order, with their numbers.
func Number(m *model.Map) []Step { return Of(flow.New(m)) }

// Of returns the steps of a flow in order, with their numbers.
//
// The order begins at the starts and goes depth first along the first answer of every decision. A
// step is counted once all that leads forward into it has been; what leads back to an earlier step
// does not count. So numbers rise along every forward connector.
func Of(g *flow.Graph) []Step {
	var steps []Step
	labels := Labels(g)
	for _, n := range Reading(g) {
		if n.Symbol.Kind.IsStep() {
			steps = append(steps, Step{labels[n.Symbol.ID], n.Sheet, n.Symbol})
		}
	}
	return steps
}

// Labels returns the numbers of all symbols that have one, by their ids.
func Labels(g *flow.Graph) map[string]string {
	m := g.Map()
	out := map[string]string{}
	var count []model.Number
	if m.Held.On() {
		count, _ = missingIn(g)
	} else {
		count, _ = fresh(g).held()
	}
	for _, n := range count {
		out[n.Symbol.ID] = n.Text
	}
	for _, n := range g.Nodes() {
		switch sym := n.Symbol; {
		case !Counts(m, sym):
		case sym.Pinned != "":
			out[sym.ID] = sym.Pinned
		case m.Held.On() && sym.Kept != "":
			out[sym.ID] = sym.Kept
		}
	}
	return out
}

// Fresh returns the numbers that all symbols have once nothing is held, by their ids.
func Fresh(g *flow.Graph) map[string]string {
	out := map[string]string{}
	list, _ := fresh(g).held()
	for _, n := range list {
		out[n.Symbol.ID] = cmp.Or(n.Symbol.Pinned, n.Text)
	}
	return out
}

// classes are the kinds of things that are numbered in rows of their own, with the letter before their numbers.
var classes = []struct {
	name, letter string
	holds        func(k model.Kind) bool
}{
	{"ends", "T", model.Kind.IsEnd},
	{"documents", "D", func(k model.Kind) bool { return k == model.Document || k == model.Documents }},
	{"data", "S", func(k model.Kind) bool {
		return k.IsInformation() && k != model.Document && k != model.Documents
	}},
	{"references", "R", model.Kind.IsReference},
}

// classOf returns the letter of the row in which a symbol is numbered besides the steps; empty for a step, and where
// its kind is not numbered ok is false.
func classOf(m *model.Map, k model.Kind) (letter string, ok bool) {
	if k.IsStep() {
		return "", true
	}
	for _, c := range classes {
		if c.holds(k) {
			return c.letter, slices.Contains(m.Numbering.Also, c.name)
		}
	}
	return "", false
}

// Counts reports whether a map numbers a symbol.
func Counts(m *model.Map, s *model.Symbol) bool {
	_, ok := classOf(m, s.Kind)
	return ok && !s.Uncounted
}

// within marks the rows of details: "4./" is that of 4.1, 4.2.
const within = "/"

// row counts the numbers that stand one after the other.
type row struct {
	id                 string
	next, step, digits int
}

func (r *row) take() string {
	text := fmt.Sprintf("%s%0*d", strings.TrimSuffix(r.id, within), r.digits, r.next)
	r.next += r.step
	return text
}

// branch is an answer of a decision, inside those of decisions before it.
type branch struct {
	in     *branch
	depth  int
	begins *flow.Node
	letter string
}

// count numbers the nodes of a flow.
type count struct {
	m     *model.Map
	rows  map[string]*row
	order []string // of the rows, as they came up
	// labels are by the index in list.
	list   []model.Number
	labels map[string]string
	// branches are the innermost answers after which nodes stand; lanes are the letters of lanes and owners.
	branches map[*flow.Node]*branch
	lanes    map[string]string
	stages   map[*model.Stage]int
	sheets   map[*model.Sheet]string
	// under are the steps of whose details nodes are part.
	under map[*flow.Node]*flow.Node
}

func newCount(g *flow.Graph, reading []*flow.Node, under map[*flow.Node]*flow.Node) *count {
	c := &count{m: g.Map(), rows: map[string]*row{}, labels: map[string]string{}, under: under}
	c.row(c.m.Numbering.Prefix, true)
	switch c.m.Numbering.Scheme {
	case model.Branched:
		c.branch(reading)
	case model.ByLane:
		c.letters(g, reading)
	case model.BySheet:
		c.sheets = map[*model.Sheet]string{}
		for _, s := range c.m.Sheets {
			if s.Kind == model.FlowSheet {
				c.sheets[s] = strings.ToUpper(letters(len(c.sheets) + 1))
			}
		}
	case model.ByStage:
		c.stages = map[*model.Stage]int{}
		for p := range c.m.Laned() {
			for i := range p.Stages {
				c.stages[&p.Stages[i]] = len(c.stages) + 1
			}
		}
	}
	return c
}

// row returns a row by what its numbers begin with. Outer rows count as the map says, inner ones 1, 2, 3.
func (c *count) row(id string, outer bool) *row {
	r := c.rows[id]
	if r == nil {
		r = &row{id: id, next: 1, step: 1}
		if n := c.m.Numbering; outer {
			r.next, r.step, r.digits = cmp.Or(n.First, 1), cmp.Or(n.Step, 1), n.Digits
		}
		c.rows[id], c.order = r, append(c.order, id)
	}
	return r
}

// fresh numbers a flow by the scheme of its map.
func fresh(g *flow.Graph) *count {
	reading, under := read(g)
	c := newCount(g, reading, under)
	if c.m.Numbering.Scheme == model.ByPlace {
		reading = nested(byPlace(c.m, reading), under)
	}
	for _, n := range reading {
		if Counts(c.m, n.Symbol) {
			c.add(n, c.rowOf(n).take())
		}
	}
	return c
}

func (c *count) add(n *flow.Node, text string) {
	c.list = append(c.list, model.Number{Sheet: n.Sheet, Symbol: n.Symbol, Text: text})
	c.labels[n.Symbol.ID] = cmp.Or(n.Symbol.Pinned, text)
}

// held returns what is counted in the form in which a map keeps it.
func (c *count) held() ([]model.Number, []model.Row) {
	var rows []model.Row
	for _, id := range c.order {
		rows = append(rows, model.Row{ID: id, Next: c.rows[id].next})
	}
	return c.list, rows
}

// rowOf returns the row in which a node is numbered.
func (c *count) rowOf(n *flow.Node) *row {
	prefix := c.m.Numbering.Prefix
	if letter, _ := classOf(c.m, n.Symbol.Kind); letter != "" {
		return c.row(prefix+letter, true)
	}
	inside := ""
	if step := c.under[n]; step != nil {
		inside = c.labels[step.Symbol.ID]
	}
	switch scheme := c.m.Numbering.Scheme; {
	case scheme == model.Branched:
		for b := c.branches[n]; b != nil && c.under[b.begins] == c.under[n]; b = b.in {
			if label := c.labels[b.begins.Symbol.ID]; label != "" {
				return c.row(label+b.letter, false)
			}
		}
	case inside != "":
	case scheme == model.ByLane:
		return c.row(prefix+c.lanes[n.Owner()], true)
	case scheme == model.BySheet:
		return c.row(prefix+c.sheets[n.Sheet], true)
	case scheme == model.ByStage:
		if i := c.stages[n.Sheet.StageOf(n.Symbol)]; i > 0 {
			return c.row(fmt.Sprintf("%s%d.", prefix, i), true)
		}
	}
	if inside != "" {
		return c.row(inside+"."+within, false)
	}
	return c.row(prefix, true)
}

// branch finds after which answers nodes stand: those through which every way from the starts leads. Over the forward
// exits, in reading order, they are what all ways into a node have in common; the answers form a tree, so that this is
// where the ways part (the dominators of a graph without cycles; Aho, Sethi and Ullman, Compilers, 1986, section
// 10.9).
func (c *count) branch(reading []*flow.Node) {
	c.branches = map[*flow.Node]*branch{}
	made := map[*flow.Exit]*branch{}
	for _, n := range reading {
		var at *branch
		first := true
		for _, e := range n.Entries {
			if e.Back {
				continue
			}
			by := c.branches[e.From]
			if forward := e.From.Forward(); e.From.Symbol.Kind.Asks() && len(forward) > 1 &&
				Counts(c.m, e.From.Symbol) {
				if made[e] == nil {
					depth := 0
					if by != nil {
						depth = by.depth
					}
					made[e] = &branch{by, depth + 1, e.From, letters(slices.Index(forward, e) + 1)}
				}
				by = made[e]
			}
			if first {
				at, first = by, false
			} else {
				at = common(at, by)
			}
		}
		c.branches[n] = at
	}
}

// common returns the innermost branch in which two lie.
func common(a, b *branch) *branch {
	for a != b {
		switch {
		case a == nil || b == nil:
			return nil
		case a.depth >= b.depth:
			a = a.in
		default:
			b = b.in
		}
	}
	return a
}

// letters returns a, b … z, aa, ab … for 1, 2 …
func letters(n int) string {
	text := ""
	for ; n > 0; n = (n - 1) / 26 {
		text = string(rune('a'+(n-1)%26)) + text
	}
	return text
}

// letters gives each lane of the map a letter, in their order, then those who do steps outside of lanes. Lanes of one
// name are those of one who does the work.
func (c *count) letters(g *flow.Graph, reading []*flow.Node) {
	c.lanes = map[string]string{"": ""}
	give := func(name string) {
		if _, known := c.lanes[name]; !known {
			c.lanes[name] = strings.ToUpper(letters(len(c.lanes)))
		}
	}
	for p := range g.Map().Laned() {
		for i := range p.Lanes {
			give(p.Lanes[i].Name)
		}
	}
	for _, n := range reading {
		give(n.Owner())
	}
}

// byPlace puts nodes in the order in which they stand on their sheets: row by row, each from the left. A row are those
// whose middle lies within the first of it, from above.
func byPlace(m *model.Map, nodes []*flow.Node) []*flow.Node {
	sheet := map[*model.Sheet]int{}
	for i, s := range m.Sheets {
		sheet[s] = i
	}
	out := slices.Clone(nodes)
	slices.SortFunc(out, func(a, b *flow.Node) int {
		p, q := a.Symbol.Centre(), b.Symbol.Centre()
		return cmp.Or(cmp.Compare(sheet[a.Sheet], sheet[b.Sheet]), cmp.Compare(p.Y, q.Y), cmp.Compare(p.X, q.X),
			cmp.Compare(a.Symbol.ID, b.Symbol.ID))
	})
	for i := 0; i < len(out); {
		first, k := out[i], i
		for k < len(out) && out[k].Sheet == first.Sheet && out[k].Symbol.Centre().Y <= first.Symbol.Bottom() {
			k++
		}
		slices.SortFunc(out[i:k], func(a, b *flow.Node) int {
			return cmp.Or(cmp.Compare(a.Symbol.Centre().X, b.Symbol.Centre().X),
				cmp.Compare(a.Symbol.Centre().Y, b.Symbol.Centre().Y), cmp.Compare(a.Symbol.ID, b.Symbol.ID))
		})
		i = k
	}
	return out
}

// nested puts the nodes of details behind the step that opens into them, in the order in which they are.
func nested(nodes []*flow.Node, under map[*flow.Node]*flow.Node) []*flow.Node {
	if len(under) == 0 {
		return nodes
	}
	in := map[*flow.Node][]*flow.Node{}
	for _, n := range nodes {
		in[under[n]] = append(in[under[n]], n)
	}
	out := make([]*flow.Node, 0, len(nodes))
	var put func(of *flow.Node)
	put = func(of *flow.Node) {
		for _, n := range in[of] {
			out = append(out, n)
			put(n)
		}
	}
	put(nil)
	return out
}

// Reading returns all nodes of a flow in the order in which they are read, which is that of the numbers. The flow of a
// detail is read when the first step has been that opens into it.
func Reading(g *flow.Graph) []*flow.Node {
	out, _ := read(g)
	return out
}

// read returns the reading order, and of which steps nodes are details: those of their sheet, and of those on which
// its flow goes on.
func read(g *flow.Graph) (out []*flow.Node, under map[*flow.Node]*flow.Node) {
	waiting := map[*flow.Node]int{} // entries that have not been counted yet
	begins, begin := map[*model.Sheet][]*flow.Node{}, map[*flow.Node]bool{}
	opens := map[*model.Sheet]bool{}
	m := g.Map()
	for _, n := range g.Nodes() {
		for _, e := range n.Exits {
			if !e.Back {
				waiting[e.To]++
			}
		}
		if to := m.DetailOf(n.Symbol); to != nil {
			opens[to] = true
		}
	}
	for _, n := range g.Order() {
		if waiting[n] == 0 {
			begins[n.Sheet], begin[n] = append(begins[n.Sheet], n), true
		}
	}
	under = map[*flow.Node]*flow.Node{}
	seen := map[*flow.Node]bool{}
	var visit func(n *flow.Node, way []*flow.Node)
	visit = func(n *flow.Node, way []*flow.Node) {
		if seen[n] {
			return
		}
		seen[n] = true
		for len(way) > 0 && slices.ContainsFunc(way, func(o *flow.Node) bool { return o.Sheet == n.Sheet }) {
			way = way[:len(way)-1] // it led out of the detail
		}
		if len(way) > 0 {
			under[n] = way[len(way)-1]
		}
		out = append(out, n)
		if to := m.DetailOf(n.Symbol); to != nil && opens[to] {
			opens[to] = false
			for _, b := range begins[to] {
				visit(b, append(slices.Clone(way), n))
			}
		}
		for _, e := range n.Exits {
			if e.Back {
				continue
			}
			if waiting[e.To]--; waiting[e.To] == 0 {
				visit(e.To, way)
			}
		}
	}
	for _, inner := range [2]bool{false, true} { // a detail that no flow comes to is read in the end
		for _, n := range g.Order() {
			if begin[n] && opens[n.Sheet] == inner {
				visit(n, nil)
			}
		}
	}
	return out, under
}
