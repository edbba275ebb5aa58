package routing

import (
	"math"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/scratch"
)

// packer joins segments into blocks until none are closer than they may be. How close blocks
// are is kept block by block, not segment by segment: of all pairs of segments between two of them
// only the one that asks for most counts, whatever their places.
type packer struct {
	// blocks has one for each segment that began one, under the segment's place in order; of
	// says which block an edge is in.
	blocks []block
	of     []int
}

// block is a run of segments that lie as close together as they may.
type block struct {
	members     []int // places in order
	at          int
	least, most int
	// sum is that of the places its members want its origin at, by their weight.
	sum, weight int
	// ties are with all blocks it could come too close to, in the order of their numbers.
	ties []tie
}

// tie is what one block asks of another: that its origin lies at least right after that
// one's, and at least left before it. The first pair of segments to ask for so much is known by
// its turn, which is the member's place and that of the other among those beside it: of equal
// demands the first is met first.
type tie struct {
	other               int
	right, left         int
	rightTurn, leftTurn int
}

// snug is how close to a symbol a segment may come for the full spacing, beside hard: so that it stays Verge away.
const snug = Verge - hard

// nothing is what a block asks that asks for nothing.
const nothing = math.MinInt / 4

// pairTurn makes the turn of a pair of segments.
func pairTurn(member, beside int) int { return member<<24 + beside }

// demand raises what a tie asks for.
func demand(most, turn *int, by, at int) {
	if by > *most || by == *most && at < *turn {
		*most, *turn = by, at
	}
}

// include adds the demands of another tie with the same block.
func (t *tie) include(o *tie) {
	demand(&t.right, &t.rightTurn, o.right, o.rightTurn)
	demand(&t.left, &t.leftTurn, o.left, o.leftTurn)
}

// tied returns the tie with a block, which is made where there is none.
func (b *block) tied(other int) *tie {
	i, there := slices.BinarySearchFunc(b.ties, other, func(t tie, other int) int { return t.other - other })
	if !there {
		b.ties = slices.Insert(b.ties, i, tie{other: other, right: nothing, left: nothing})
	}
	return &b.ties[i]
}

// release forgets the tie with a block and returns it.
func (b *block) release(other int) tie {
	i, there := slices.BinarySearchFunc(b.ties, other, func(t tie, other int) int { return t.other - other })
	if !there {
		return tie{right: nothing, left: nothing}
	}
	t := b.ties[i]
	b.ties = slices.Delete(b.ties, i, i+1)
	return t
}

// pack merges segments into blocks from the left until none touch. It reports
// false when a block has more segments than room, whose gaps it has narrowed.
func (n *nudger) pack() bool {
	k := &n.packer
	k.blocks, k.of = scratch.Resized(k.blocks, len(n.segments)), scratch.Resized(k.of, len(n.segments))
	for i := range n.segments {
		k.of[i] = i
		n.begin(i)
		for now := i; ; {
			other, shift := k.violated(now)
			if other < 0 {
				break
			}
			n.merge(other, now, shift)
			now = other
		}
	}
	roomy := true
	for i := range k.blocks {
		b := &k.blocks[i]
		if k.of[b.members[0]] != i || len(b.members) < 2 {
			continue
		}
		if b.least > b.most {
			n.squeeze(b)
			roomy = false
		}
	}
	return roomy
}

// squeeze narrows the gaps of a block between the two segments for which there is no room: the one that may go back the
// least and the one that may go on the least.
func (n *nudger) squeeze(b *block) {
	first, last := b.members[0], b.members[0]
	for _, m := range b.members {
		least, most := n.room(m)
		if from, _ := n.room(first); least-n.segments[m].off > from-n.segments[first].off {
			first = m
		}
		if _, to := n.room(last); most-n.segments[m].off < to-n.segments[last].off {
			last = m
		}
	}
	lo, hi := n.segments[first].off, n.segments[last].off
	for _, m := range b.members {
		if off := n.segments[m].off; min(lo, hi) <= off && off <= max(lo, hi) {
			n.gap[m] /= 2
		}
	}
}

// room returns where a segment may lie: as long as it asks for the full spacing it stays clear of symbols, if it can.
func (n *nudger) room(i int) (least, most int) {
	p := &n.segments[i]
	if least, most = max(p.least, p.before+snug), min(p.most, p.after-snug); n.gap[i] <= Separation || least > most {
		return p.least, p.most
	}
	return least, most
}

// begin makes a block of one segment, and ties it to those of the segments beside it that have
// been placed.
func (n *nudger) begin(i int) {
	k := &n.packer
	b, p := &k.blocks[i], &n.segments[i]
	p.off, p.member = 0, 0
	b.members, b.ties = append(b.members[:0], i), b.ties[:0]
	b.least, b.most = n.room(i)
	b.at = geometry.Clamp(p.want, b.least, b.most)
	b.sum, b.weight = p.want*p.weight, p.weight
	for at, j := range n.beside[n.from[i]:n.from[i+1]] {
		if j > i {
			continue
		}
		q, gap := &n.segments[j], min(n.gap[i], n.gap[j])
		o := &k.blocks[k.of[j]]
		by := q.off + gap - p.off
		t := b.tied(k.of[j])
		demand(&t.right, &t.rightTurn, by, pairTurn(0, at))
		back := o.tied(i)
		demand(&back.left, &back.leftTurn, by, pairTurn(q.member, n.placeBeside(j, i)))
	}
}

// placeBeside returns the place of segment i, the latest, among those beside segment j. Those that
// come later stand before it.
func (n *nudger) placeBeside(j, i int) int {
	list := n.beside[n.from[j]:n.from[j+1]]
	at, _ := slices.BinarySearchFunc(list, i, func(a, b int) int { return b - a })
	return at
}

// violated returns a block to which one is closer than it may be, and where its origin has to
// lie seen from that one's; -1 for none. The worst comes first.
func (k *packer) violated(block int) (other, shift int) {
	other = -1
	worst, turn := 0, 0
	b := &k.blocks[block]
	for i := range b.ties {
		t := &b.ties[i]
		apart := b.at - k.blocks[t.other].at
		if short := t.right - apart; short > worst || short == worst && other >= 0 && t.rightTurn < turn {
			worst, turn, other, shift = short, t.rightTurn, t.other, t.right
		}
		if short := t.left + apart; short > worst || short == worst && other >= 0 && t.leftTurn < turn {
			worst, turn, other, shift = short, t.leftTurn, t.other, -t.left
		}
	}
	return other, shift
}

// merge joins a block to another, its origin shift away from that one's.
func (n *nudger) merge(into, from, shift int) {
	k := &n.packer
	a, b := &k.blocks[into], &k.blocks[from]
	after := pairTurn(len(a.members), 0)
	for at, i := range b.members {
		p := &n.segments[i]
		p.off += shift
		p.member = len(a.members) + at
		k.of[i] = into
	}
	a.members = append(a.members, b.members...)
	a.least, a.most = max(a.least, b.least-shift), min(a.most, b.most-shift)
	a.sum, a.weight = a.sum+b.sum-shift*b.weight, a.weight+b.weight
	a.at = max(min(geometry.FloorDiv(a.sum, a.weight), a.most), a.least)
	a.release(from)
	for i := range b.ties {
		t := b.ties[i]
		if t.other == into {
			continue
		}
		t.right, t.left, t.rightTurn, t.leftTurn = t.right-shift, t.left+shift, t.rightTurn+after, t.leftTurn+after
		a.tied(t.other).include(&t)
		o := &k.blocks[t.other]
		back := o.release(from)
		back.right, back.left = back.right+shift, back.left-shift
		o.tied(into).include(&back)
	}
	b.ties = b.ties[:0]
}
