package layered

// arc is an edge between layers: To lies at least Least layers after From.
type arc struct{ from, to, weight, least int }

// ranks gives every one of n nodes a layer, so that the arcs, each times its
// weight, are as short as can be in all; the first layer of what hangs together
// is 0. It is the network simplex of Gansner, Koutsofios, North and Vo, A
// Technique for Drawing Directed Graphs (1993), section 2. The arcs must not
// lead round.
func ranks(n int, arcs []arc) []int {
	s := &simplex{arcs: arcs, rank: make([]int, n), out: make([][]int, n), in: make([][]int, n)}
	for k, a := range arcs {
		s.out[a.from] = append(s.out[a.from], k)
		s.in[a.to] = append(s.in[a.to], k)
	}
	s.longest()
	s.tree = make([]bool, len(arcs))
	s.parent, s.low, s.lim, s.sum = make([]int, n), make([]int, n), make([]int, n), make([]int, n)
	part := make([]bool, n)
	var list []int
	for v := range n {
		if part[v] {
			continue
		}
		list = s.span(v, part, list[:0])
		s.root = v
		s.improve(list)
		least := s.rank[v]
		for _, w := range list {
			least = min(least, s.rank[w])
		}
		for _, w := range list {
			s.rank[w] -= least
		}
	}
	return s.rank
}

type simplex struct {
	arcs    []arc
	out, in [][]int
	rank    []int
	// tree marks the arcs of a spanning tree, all of them as short as can be.
	tree []bool
	// parent is the tree arc that leads to the root, None at the root; low and lim
	// number the nodes so that those below v have low[v] <= lim <= lim[v]; sum is
	// what the arcs below v pull forwards.
	parent, low, lim, sum []int
	root                  int
	below                 []int // in the order of lim
}

func (s *simplex) slack(k int) int {
	a := &s.arcs[k]
	return s.rank[a.to] - s.rank[a.from] - a.least
}

// longest puts every node as far to the front as the arcs allow.
func (s *simplex) longest() {
	left := make([]int, len(s.rank))
	var ready []int
	for v := range s.rank {
		if left[v] = len(s.in[v]); left[v] == 0 {
			ready = append(ready, v)
		}
	}
	for len(ready) > 0 {
		v := ready[0]
		ready = ready[1:]
		for _, k := range s.out[v] {
			a := &s.arcs[k]
			s.rank[a.to] = max(s.rank[a.to], s.rank[v]+a.least)
			if left[a.to]--; left[a.to] == 0 {
				ready = append(ready, a.to)
			}
		}
	}
}

// span builds a tree of tight arcs over all that hangs together with v: where no
// tight arc goes on, the tree moves until one does.
func (s *simplex) span(v int, part []bool, list []int) []int {
	part[v] = true
	list = append(list, v)
	next := 0
	for {
		for ; next < len(list); next++ {
			w := list[next]
			for _, k := range s.out[w] {
				if to := s.arcs[k].to; !part[to] && s.slack(k) == 0 {
					s.tree[k], part[to] = true, true
					list = append(list, to)
				}
			}
			for _, k := range s.in[w] {
				if from := s.arcs[k].from; !part[from] && s.slack(k) == 0 {
					s.tree[k], part[from] = true, true
					list = append(list, from)
				}
			}
		}
		// The arc with the least slack that leads out of the tree or into it.
		best, slack := None, 0
		for _, w := range list {
			for _, k := range s.out[w] {
				if !part[s.arcs[k].to] && (best == None || s.slack(k) < slack) {
					best, slack = k, s.slack(k)
				}
			}
			for _, k := range s.in[w] {
				if !part[s.arcs[k].from] && (best == None || s.slack(k) < slack) {
					best, slack = k, s.slack(k)
				}
			}
		}
		if best == None {
			return list
		}
		d := slack
		if part[s.arcs[best].to] {
			d = -slack
		}
		for _, w := range list {
			s.rank[w] += d
		}
		next = 0
		// What is tight now may be anywhere: walk once more over the tree.
	}
}

// improve exchanges arcs of the tree as long as that shortens the whole.
func (s *simplex) improve(list []int) {
	for range 40 * len(list) {
		s.number()
		leave, cut := None, 0
		for _, v := range s.below {
			k := s.parent[v]
			if k == None {
				continue
			}
			value := s.sum[v] // what shortens when those below v move on
			if s.arcs[k].to == v {
				value = -value
			}
			if value < cut {
				leave, cut = v, value
			}
		}
		if leave == None {
			return
		}
		// Those below move away from the tree arc, as far as another arc allows.
		k := s.parent[leave]
		forwards := s.arcs[k].to == leave // below is the head: it moves on
		enter, slack := None, 0
		for _, w := range s.below {
			if s.lim[w] < s.low[leave] || s.lim[w] > s.lim[leave] {
				continue
			}
			arcs := s.in[w]
			if forwards {
				arcs = s.out[w]
			}
			for _, j := range arcs {
				o := s.arcs[j].from
				if forwards {
					o = s.arcs[j].to
				}
				if s.lim[o] >= s.low[leave] && s.lim[o] <= s.lim[leave] {
					continue
				}
				if d := s.slack(j); enter == None || d < slack || d == slack && j < enter {
					enter, slack = j, d
				}
			}
		}
		if enter == None {
			return
		}
		d := slack
		if !forwards {
			d = -slack
		}
		for _, w := range s.below {
			if s.lim[w] >= s.low[leave] && s.lim[w] <= s.lim[leave] {
				s.rank[w] += d
			}
		}
		s.tree[k], s.tree[enter] = false, true
	}
}

// number walks over the tree from its root.
func (s *simplex) number() {
	s.below = s.below[:0]
	type frame struct{ v, i int }
	lim := 0
	s.parent[s.root] = None
	stack := []frame{{s.root, 0}}
	s.low[s.root] = 0
	s.sum[s.root] = 0
	for len(stack) > 0 {
		f := &stack[len(stack)-1]
		v := f.v
		n := len(s.out[v])
		if f.i == n+len(s.in[v]) {
			s.lim[v] = lim
			lim++
			s.below = append(s.below, v)
			for _, k := range s.out[v] {
				s.sum[v] += s.arcs[k].weight
			}
			for _, k := range s.in[v] {
				s.sum[v] -= s.arcs[k].weight
			}
			stack = stack[:len(stack)-1]
			if len(stack) > 0 {
				s.sum[stack[len(stack)-1].v] += s.sum[v]
			}
			continue
		}
		var k, w int
		if f.i < n {
			k = s.out[v][f.i]
			w = s.arcs[k].to
		} else {
			k = s.in[v][f.i-n]
			w = s.arcs[k].from
		}
		f.i++
		if s.tree[k] && k != s.parent[v] {
			s.parent[w], s.low[w], s.sum[w] = k, lim, 0
			stack = append(stack, frame{w, 0})
		}
	}
}
