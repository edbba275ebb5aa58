package layered

import (
	"cmp"
	"slices"
)

// threads cuts the net into chains of vertices, one in each of some layers that
// follow each other, of which every one leads to the next alone and is led to by
// the one before alone: long lines, and steps in a row. Only the first can have
// several before it, only the last several after it.
func (n *net) threads() [][]int {
	only := func(ties []tie) int {
		if len(ties) == 1 {
			return ties[0].v
		}
		return None
	}
	var out [][]int
	for v := range n.layer {
		if u := only(n.up[v]); n.hangs(v) || u != None && only(n.down[u]) == v {
			continue
		}
		thread := []int{v}
		for w := only(n.down[v]); w != None && only(n.up[w]) == v; w = only(n.down[v]) {
			thread = append(thread, w)
			v = w
		}
		out = append(out, thread)
	}
	return out
}

// weaver keeps what is needed to weave threads in, from one to the next.
type weaver struct {
	// cost holds what it costs at least to come as far as every gap of a layer,
	// next that of the layer after; step what is crossed on the way to each from
	// one gap of the layer before.
	cost, next, step []int
	// from says for every vertex of the thread, and every gap of its layer, from
	// which gap of the layer before one comes there.
	from [][]int
	was  []int
}

// shut is the cost of a gap in another band.
const shut = 1 << 40

// weave takes a thread out of the order and puts it back where its ties are
// crossed least, all others keeping their order: the cheapest way through the
// gaps of its layers, by dynamic programming. It returns how many crossings that
// saves; without any the order stays.
func (n *net) weave(thread []int, w *weaver) int {
	last := thread[len(thread)-1]
	now := n.crossedTies(thread[0], n.up)
	for _, v := range thread {
		now += n.crossedTies(v, n.down)
	}
	if now == 0 {
		return 0
	}
	w.was = w.was[:0]
	for _, v := range thread {
		w.was = append(w.was, n.pos[v])
		n.takeOut(v)
	}
	for len(w.from) < len(thread) {
		w.from = append(w.from, nil)
	}
	w.cost = append(w.cost[:0], make([]int, len(n.order[n.layer[thread[0]]])+1)...)
	n.addSide(thread[0], n.up, w.cost)
	for i, v := range thread {
		if i > 0 {
			w.from[i] = n.cross(n.layer[v], w, w.from[i][:0])
		}
		n.keepBand(v, w.cost)
	}
	n.addSide(last, n.down, w.cost)
	gap := w.was[len(thread)-1]
	for q, c := range w.cost {
		if c < w.cost[gap] {
			gap = q
		}
	}
	saved := now - w.cost[gap]
	for i := len(thread) - 1; i >= 0; i-- {
		if saved == 0 {
			gap = w.was[i]
		}
		n.putIn(thread[i], gap)
		if i > 0 {
			gap = w.from[i][gap]
		}
	}
	return saved
}

func (n *net) takeOut(v int) {
	l, at := n.layer[v], n.pos[v]
	n.order[l] = slices.Delete(n.order[l], at, at+1)
	n.numberFrom(l, at)
}

func (n *net) putIn(v, at int) {
	l := n.layer[v]
	n.order[l] = slices.Insert(n.order[l], at, v)
	n.numberFrom(l, at)
}

func (n *net) numberFrom(l, at int) {
	for k := at; k < len(n.order[l]); k++ {
		n.pos[n.order[l][k]] = k
	}
}

// cross goes from the gaps of the layer before to those of layer l, of which the
// thread is taken out, and appends to from where one comes from to each. A tie is
// crossed from a gap before it to one behind it, or the other way round.
func (n *net) cross(l int, w *weaver, from []int) []int {
	layer := n.order[l]
	w.step = append(w.step[:0], make([]int, len(layer)+1)...)
	for q, b := range layer { // from the first gap all that comes in before q is crossed
		w.step[q+1] = w.step[q] + len(n.up[b])
	}
	w.next = append(w.next[:0], w.step...)
	for q := range w.next {
		w.next[q] += w.cost[0]
		from = append(from, 0)
	}
	for p, a := range n.order[l-1] {
		for _, t := range n.down[a] {
			b := n.pos[t.v]
			for q := range w.step[:b+1] {
				w.step[q]++
			}
			for q := b + 1; q < len(w.step); q++ {
				w.step[q]--
			}
		}
		for q, c := range w.step {
			if c += w.cost[p+1]; c < w.next[q] {
				w.next[q], from[q] = c, p+1
			}
		}
	}
	w.cost, w.next = w.next, w.cost
	return from
}

// keepBand shuts the gaps of a vertex's layer that are not in its band.
func (n *net) keepBand(v int, cost []int) {
	layer := n.order[n.layer[v]]
	for q := range cost {
		if q > 0 && n.band[layer[q-1]] > n.band[v] || q < len(layer) && n.band[layer[q]] < n.band[v] {
			cost[q] = shut
		}
	}
}

// addSide adds for every gap of a vertex's layer, from which it is taken out, how
// often its ties to one side are crossed when it stands there.
func (n *net) addSide(v int, ties [][]tie, cost []int) {
	sum := 0
	layer := n.order[n.layer[v]]
	for _, y := range layer {
		for _, t := range ties[y] {
			for _, s := range ties[v] {
				if n.pos[s.v] > n.pos[t.v] {
					sum++
				}
			}
		}
	}
	cost[0] += sum
	for q, y := range layer {
		for _, t := range ties[y] {
			for _, s := range ties[v] {
				sum += cmp.Compare(n.pos[t.v], n.pos[s.v])
			}
		}
		cost[q+1] += sum
	}
}

// crossedTies counts how often the ties of v to one side are crossed.
func (n *net) crossedTies(v int, ties [][]tie) int {
	count := 0
	for i, y := range n.order[n.layer[v]] {
		for _, t := range ties[y] {
			for _, s := range ties[v] {
				if a, b := cmp.Compare(n.pos[v], i), cmp.Compare(n.pos[s.v], n.pos[t.v]); a*b < 0 {
					count++
				}
			}
		}
	}
	return count
}
