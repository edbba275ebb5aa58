package layered

import (
	"cmp"
	"slices"
)

// net is a graph whose edges all lead from one layer to the next: the longer ones
// run over a vertex of their own in every layer between. The vertices of the
// nodes come first.
type net struct {
	g *Graph
	// layer, band and pos say where a vertex stands.
	layer, band, pos []int
	// up and down are the vertices of the layer before and after that it is tied to.
	up, down [][]tie
	// order holds the vertices of each layer.
	order [][]int
	// back marks the edges that lead back.
	back []bool
	// pendant marks nodes at the ends of branches, from which nothing leads on into
	// the rest. They are put in when that has its order: so a step more at the end
	// of a branch changes the order of no others.
	pendant []bool
	// chain holds the vertices of each edge.
	chain [][]int
	// loose are the ties of pendants, until those are put in.
	loose []looseTie
	// mean is the mean place of a vertex's neighbours, negative without any.
	mean []float64
	free []int
	tree []int
}

// tie is one step of an edge to the next layer.
type tie struct{ v, edge int }

type looseTie struct{ a, b, edge int }

// newNet finds the layers of a graph and builds the net.
func newNet(g *Graph, back []bool) *net {
	n := &net{g: g, back: back}
	n.pendant = pendants(g, back)
	n.layer = layersOf(g, back, n.pendant)
	n.build()
	return n
}

// pendants marks the nodes that hang at the rest by one edge only, and lead
// nowhere else than to such.
func pendants(g *Graph, back []bool) []bool {
	count := len(g.Nodes)
	marks := make([]bool, count)
	in, out := make([]int, count), make([]int, count)
	parent := make([]int, count)
	for k, e := range g.Edges {
		if e.From == e.To {
			continue
		}
		from, to := e.From, e.To
		if back[k] {
			from, to = to, from
		}
		out[from]++
		in[to]++
		parent[to] = from
		if back[k] { // it leads somewhere, the wrong way round
			in[to]++
			out[from]++
		}
	}
	for _, nd := range g.Nodes {
		if nd.Stage != None { // a stage is as long as all that is in it
			return marks
		}
	}
	var list []int
	for v := range count {
		if out[v] == 0 && in[v] == 1 {
			list = append(list, v)
		}
	}
	for i := 0; i < len(list); i++ {
		v := list[i]
		marks[v] = true
		p := parent[v]
		if out[p]--; out[p] == 0 && in[p] == 1 {
			list = append(list, p)
		}
	}
	return marks
}

// layersOf gives every node its layer.
func layersOf(g *Graph, back, pendant []bool) []int {
	count := len(g.Nodes)
	var arcs []arc
	stages := 0
	for _, nd := range g.Nodes {
		stages = max(stages, nd.Stage+1)
	}
	for k, e := range g.Edges {
		switch {
		case e.From == e.To || pendant[e.From] || pendant[e.To]:
		case back[k]:
			arcs = append(arcs, arc{e.To, e.From, 1, 1})
		case e.Exit == 0:
			arcs = append(arcs, arc{e.From, e.To, 3, 1})
		default:
			arcs = append(arcs, arc{e.From, e.To, 2, 1})
		}
	}
	// Between two stages lies a border that no step of either crosses.
	for v, nd := range g.Nodes {
		if nd.Stage == None {
			continue
		}
		if nd.Stage > 0 {
			arcs = append(arcs, arc{count + nd.Stage - 1, v, 0, 1})
		}
		if nd.Stage < stages-1 {
			arcs = append(arcs, arc{v, count + nd.Stage, 0, 0})
		}
	}
	for k := 1; k < stages-1; k++ {
		arcs = append(arcs, arc{count + k - 1, count + k, 0, 1})
	}
	layer := ranks(count+max(stages-1, 0), arcs)[:count]
	// Pendants stand right after what they hang at.
	for changed := true; changed; {
		changed = false
		for k, e := range g.Edges {
			if pendant[e.To] && !back[k] && layer[e.To] != layer[e.From]+1 {
				layer[e.To], changed = layer[e.From]+1, true
			}
		}
	}
	return layer
}

// build makes the vertices and ties.
func (n *net) build() {
	g := n.g
	n.band = make([]int, len(g.Nodes))
	for v, nd := range g.Nodes {
		n.band[v] = nd.Band
	}
	n.up, n.down = make([][]tie, len(g.Nodes)), make([][]tie, len(g.Nodes))
	n.chain = make([][]int, len(g.Edges))
	deepest := 0
	for _, l := range n.layer {
		deepest = max(deepest, l)
	}
	for k, e := range g.Edges {
		from, to := e.From, e.To
		if from == to {
			continue
		}
		if n.layer[from] > n.layer[to] {
			from, to = to, from
		}
		at := from
		n.chain[k] = append(n.chain[k], from)
		for l := n.layer[from] + 1; l < n.layer[to]; l++ {
			v := len(n.layer)
			n.layer = append(n.layer, l)
			band := g.Nodes[e.From].Band
			if e.Exit > 0 {
				band = g.Nodes[e.To].Band
			}
			n.band = append(n.band, band)
			n.up, n.down = append(n.up, nil), append(n.down, nil)
			n.tie(at, v, k)
			at = v
			n.chain[k] = append(n.chain[k], v)
		}
		n.tie(at, to, k)
		n.chain[k] = append(n.chain[k], to)
	}
	n.order = make([][]int, deepest+1)
	n.pos, n.mean = make([]int, len(n.layer)), make([]float64, len(n.layer))
}

func (n *net) tie(a, b, edge int) {
	if n.hangs(b) {
		n.loose = append(n.loose, looseTie{a, b, edge})
		return
	}
	n.join(a, b, edge)
}

func (n *net) join(a, b, edge int) {
	n.down[a] = append(n.down[a], tie{b, edge})
	n.up[b] = append(n.up[b], tie{a, edge})
}

func (n *net) real(v int) bool  { return v < len(n.g.Nodes) }
func (n *net) hangs(v int) bool { return n.real(v) && n.pendant[v] }

// beginnings is how many orders to begin with are tried, sweeps how often the
// layers are ordered by their neighbours from each.
const (
	beginnings = 8
	sweeps     = 4
)

// arrange orders the layers: by barycentres, to and fro (Sugiyama, Tagawa and Toda
// 1981), with an exchange of neighbours after each sweep (Gansner et al. 1993,
// section 3); the best order of these is then threaded. It begins with two walks
// along the flow and one aside of it, and then again with the best order so far,
// shaken. It reports whether it was allowed to come to its end.
func (n *net) arrange() bool {
	var w weaver
	var best [][]int
	threads := n.threads()
	least := -1
	note := func() {
		if c := n.crossings(); least < 0 || c < least {
			least, best = c, copyOrder(best, n.order)
		}
	}
	for begin := 0; begin < beginnings && least != 0; begin++ {
		switch begin {
		case 0, 1:
			n.begin(begin == 1)
		case 2:
			n.beginAside()
			note()
		default:
			n.shake(best, begin)
		}
		for i := 0; i < sweeps && least != 0; i++ {
			if !n.g.tell(begin*sweeps+i, beginnings*sweeps) {
				return false
			}
			n.sweep(i%2 == 1)
			n.exchange()
			note()
		}
		n.take(best)
		for saved := least; saved > 0; {
			saved = 0
			for _, thread := range threads {
				if !n.g.tell(begin*sweeps+sweeps-1, beginnings*sweeps) {
					return false
				}
				saved += n.weave(thread, &w)
			}
		}
		n.exchange()
		note()
	}
	n.take(best)
	n.hang()
	return true
}

// take sets the layers in an order.
func (n *net) take(order [][]int) {
	copyOrder(n.order, order)
	n.number()
}

// shake begins with the best order so far, some of its layers turned round within
// their bands: every so many of them, another number each time.
func (n *net) shake(best [][]int, begin int) {
	copyOrder(n.order, best)
	for l := range n.order {
		if l%begin == begin/2 {
			slices.Reverse(n.order[l])
			n.inBands(n.order[l])
		}
	}
	n.number()
}

// copyOrder copies the order of the layers, and returns the copy.
func copyOrder(to, from [][]int) [][]int {
	if to == nil {
		to = make([][]int, len(from))
	}
	for l := range from {
		to[l] = append(to[l][:0], from[l]...)
	}
	return to
}

// empty takes everything out of the layers.
func (n *net) empty() {
	for l := range n.order {
		n.order[l] = n.order[l][:0]
	}
}

// inBands puts the bands of a layer in their order.
func (n *net) inBands(layer []int) {
	slices.SortStableFunc(layer, func(a, b int) int { return n.band[a] - n.band[b] })
}

func (n *net) number() {
	for _, layer := range n.order {
		for i, v := range layer {
			n.pos[v] = i
		}
	}
}

// begin orders the layers by a walk along the flow, the first exit first, in
// depth or in breadth; in each layer the bands come in their order.
func (n *net) begin(breadth bool) {
	n.empty()
	seen := make([]bool, len(n.layer))
	var list []int
	for v := range n.g.Nodes {
		if len(n.up[v]) == 0 && !n.hangs(v) {
			list = append(list, v)
		}
	}
	if !breadth {
		slices.Reverse(list)
	}
	for len(list) > 0 {
		var v int
		if breadth {
			v, list = list[0], list[1:]
		} else {
			v, list = list[len(list)-1], list[:len(list)-1]
		}
		if seen[v] {
			continue
		}
		seen[v] = true
		n.order[n.layer[v]] = append(n.order[n.layer[v]], v)
		down := make([]int, len(n.down[v]))
		for i := range down {
			down[i] = i
		}
		slices.SortStableFunc(down, func(a, b int) int {
			return n.g.Edges[n.down[v][a].edge].Exit - n.g.Edges[n.down[v][b].edge].Exit
		})
		if !breadth {
			slices.Reverse(down)
		}
		for _, i := range down {
			if t := n.down[v][i]; !seen[t.v] {
				list = append(list, t.v)
			}
		}
	}
	for _, layer := range n.order {
		n.inBands(layer)
	}
	n.number()
}

// beginAside orders the layers by a walk in breadth along ties either way, from an end
// of what hangs together, those with the fewest ties first (Cuthill and McKee, 1969,
// from memory). Where several lines of work run into each other it keeps together
// what a walk along the flow comes to at different times.
func (n *net) beginAside() {
	n.empty()
	seen := make([]int, len(n.layer))
	walk := func(from, turn int) []int {
		list := []int{from}
		seen[from] = turn
		for i := 0; i < len(list); i++ {
			first := len(list)
			for _, ties := range [2][]tie{n.up[list[i]], n.down[list[i]]} {
				for _, t := range ties {
					if seen[t.v] != turn {
						seen[t.v] = turn
						list = append(list, t.v)
					}
				}
			}
			slices.SortStableFunc(list[first:], func(a, b int) int {
				return len(n.up[a]) + len(n.down[a]) - len(n.up[b]) - len(n.down[b])
			})
		}
		return list
	}
	for v := range n.g.Nodes {
		if seen[v] == 0 && !n.hangs(v) {
			list := walk(v, 1)
			for _, w := range walk(list[len(list)-1], 2) {
				n.order[n.layer[w]] = append(n.order[n.layer[w]], w)
			}
		}
	}
	for _, layer := range n.order {
		n.inBands(layer)
	}
	n.number()
}

// sweep orders every layer by the mean places of its vertices' neighbours in the
// layer before, or after. What has none keeps its place.
func (n *net) sweep(backwards bool) {
	for i := range n.order {
		ties := n.up
		if backwards {
			i, ties = len(n.order)-1-i, n.down
		}
		layer := n.order[i]
		n.free = n.free[:0]
		for _, v := range layer {
			sum, count := 0, 0
			for _, t := range ties[v] {
				sum += n.pos[t.v]
				count++
			}
			n.mean[v] = -1
			if count > 0 {
				n.mean[v] = float64(sum) / float64(count)
				n.free = append(n.free, v)
			}
		}
		slices.SortStableFunc(n.free, func(a, b int) int {
			return cmp.Or(cmp.Compare(n.band[a], n.band[b]), cmp.Compare(n.mean[a], n.mean[b]))
		})
		// Those without neighbours hold their places among the others.
		next := 0
		for at, v := range layer {
			if n.mean[v] >= 0 {
				layer[at] = n.free[next]
				next++
			}
		}
		n.inBands(layer)
		for at, v := range layer {
			n.pos[v] = at
		}
	}
}

// exchange lets neighbours in a layer change places as long as less crosses then.
func (n *net) exchange() {
	for range 10 {
		better := false
		for _, layer := range n.order {
			for i := 0; i+1 < len(layer); i++ {
				a, b := layer[i], layer[i+1]
				if n.band[a] != n.band[b] {
					continue
				}
				if n.crossed(a, b) > n.crossed(b, a) {
					layer[i], layer[i+1] = b, a
					n.pos[a], n.pos[b] = i+1, i
					better = true
				}
			}
		}
		if !better {
			return
		}
	}
}

// crossed counts how often the ties of a and b cross when a stands before b.
func (n *net) crossed(a, b int) int {
	count := 0
	for _, ties := range [2][][]tie{n.up, n.down} {
		for _, s := range ties[a] {
			for _, t := range ties[b] {
				if n.pos[s.v] > n.pos[t.v] {
					count++
				}
			}
		}
	}
	return count
}

// crossings counts how often ties cross, with an accumulator tree (Barth, Mutzel
// and Jünger, Simple and Efficient Bilayer Cross Counting, 2004).
func (n *net) crossings() int {
	count := 0
	for l := 0; l+1 < len(n.order); l++ {
		size := 1
		for size < len(n.order[l+1]) {
			size *= 2
		}
		n.tree = append(n.tree[:0], make([]int, 2*size)...)
		var ends []int
		for _, v := range n.order[l] {
			ends = ends[:0]
			for _, t := range n.down[v] {
				ends = append(ends, n.pos[t.v])
			}
			slices.Sort(ends)
			for _, p := range ends {
				for i := p + size; i > 1; i /= 2 {
					if i%2 == 0 {
						count += n.tree[i+1]
					}
				}
			}
			for _, p := range ends {
				for i := p + size; i >= 1; i /= 2 {
					n.tree[i]++
				}
			}
		}
	}
	return count
}

// crossedEdges counts for every edge how often others cross it.
func (n *net) crossedEdges() []int {
	out := make([]int, len(n.g.Edges))
	type line struct{ a, b, edge int }
	var list []line
	for _, layer := range n.order {
		list = list[:0]
		for _, v := range layer {
			for _, t := range n.down[v] {
				for _, o := range list {
					if o.a != n.pos[v] && o.b > n.pos[t.v] { // those before it begin no later
						out[o.edge]++
						out[t.edge]++
					}
				}
				list = append(list, line{n.pos[v], n.pos[t.v], t.edge})
			}
		}
	}
	return out
}

// hang puts the pendants into their layers, each where the fewest ties of the rest
// are crossed by its own; of equals, where it goes straight on.
func (n *net) hang() {
	for _, t := range n.loose {
		n.join(t.a, t.b, t.edge)
	}
	n.loose = nil
	for l := range n.order {
		var list []int
		for v := range n.g.Nodes {
			if n.hangs(v) && n.layer[v] == l && len(n.up[v]) > 0 {
				list = append(list, v)
			}
		}
		if len(list) == 0 {
			continue
		}
		slices.SortStableFunc(list, func(a, b int) int {
			s, t := n.up[a][0], n.up[b][0]
			return cmp.Or(cmp.Compare(n.band[a], n.band[b]), cmp.Compare(n.pos[s.v], n.pos[t.v]),
				cmp.Compare(n.g.Edges[s.edge].Exit, n.g.Edges[t.edge].Exit), cmp.Compare(a, b))
		})
		core := n.order[l]
		gaps := make([]int, len(list))
		for i, v := range list {
			gaps[i] = n.gapFor(v, core)
			if i > 0 && n.band[list[i-1]] == n.band[v] {
				gaps[i] = max(gaps[i], gaps[i-1])
			}
		}
		merged := make([]int, 0, len(core)+len(list))
		next := 0
		for at := 0; at <= len(core); at++ {
			for next < len(list) && gaps[next] == at {
				merged = append(merged, list[next])
				next++
			}
			if at < len(core) {
				merged = append(merged, core[at])
			}
		}
		n.order[l] = merged
		for i, v := range merged {
			n.pos[v] = i
		}
	}
}

// gapFor returns before which place of the rest of its layer a pendant goes.
func (n *net) gapFor(v int, core []int) int {
	up := n.up[v][0]
	p, exit := n.pos[up.v], n.g.Edges[up.edge].Exit
	from, to := 0, len(core)
	for from < to && n.band[core[from]] < n.band[v] {
		from++
	}
	for to > from && n.band[core[to-1]] > n.band[v] {
		to--
	}
	// Ties of what stands before it that come from behind, and the other way
	// round, are crossed.
	crossed, wanted := 0, from
	for _, y := range core[from:to] {
		before, lower := 0, false // how many more of its ties come from before p
		for _, t := range n.up[y] {
			if n.pos[t.v] < p {
				crossed++
			}
			before += cmp.Compare(p, n.pos[t.v])
			lower = lower || t.v == up.v && n.g.Edges[t.edge].Exit < exit
		}
		if before > 0 || before == 0 && lower {
			wanted++
		}
	}
	best, least := from, crossed
	for at := from; at < to; at++ {
		for _, t := range n.up[core[at]] {
			if n.pos[t.v] > p {
				crossed++
			} else if n.pos[t.v] < p {
				crossed--
			}
		}
		if crossed < least || crossed == least && distance(at+1, wanted) < distance(best, wanted) {
			best, least = at+1, crossed
		}
	}
	return best
}

func distance(a, b int) int { return max(a-b, b-a) }
