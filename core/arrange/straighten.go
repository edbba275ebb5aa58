package arrange

import (
	"cmp"
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// nearly is how far from a common line middles may lie to be put onto it.
const nearly = 24 * px

// leastGap is the smallest gap between two neighbours that are straightened.
const leastGap = 2 * Grid

// piece is a symbol being straightened.
type piece struct {
	*model.Symbol
	box   geometry.Box
	lane  string
	fixed bool
	row   int
}

// Straighten returns the places that put what stands nearly in rows and columns
// exactly so, with equal gaps and nothing overlapping, and the arrangement
// kept: the given symbols, or all of the sheet when none are given. Rows are
// those of a lane; columns run through all lanes. Locked symbols stay, and the
// rest lines up with them. Doing it twice changes nothing more.
//
// Middles that lie close together make a row or column at their median. Going
// along the columns, each stands as far from its neighbour in a row as the
// median gap says; a gap more than two and a half times as wide was meant to be
// one and stays. The same is then done with the rows of each lane.
func Straighten(s *model.Sheet, ids []string) []edit.Place {
	if len(s.Pools) > 0 && s.Pools[0].Down {
		out := Straighten(s.Turned(), ids)
		for i := range out {
			out[i].Box = out[i].Box.Turned(true)
		}
		return out
	}
	var list []*piece
	for _, sym := range s.Symbols {
		if len(ids) > 0 && !slices.Contains(ids, sym.ID) || sym.Kind.StandsAnywhere() {
			continue
		}
		p := &piece{Symbol: sym, box: sym.Box, fixed: sym.Locked}
		if lane := s.LaneOf(sym); lane != nil {
			p.lane = lane.ID
		}
		list = append(list, p)
	}
	for range 12 { // each time from what came out, until nothing moves
		before := boxesOf(list)
		straightenOnce(list)
		if slices.Equal(before, boxesOf(list)) {
			break
		}
	}
	var out []edit.Place
	for _, p := range list {
		if p.box != p.Box {
			out = append(out, edit.Place{ID: p.ID, Box: p.box})
		}
	}
	return out
}

func boxesOf(list []*piece) []geometry.Box {
	out := make([]geometry.Box, len(list))
	for i, p := range list {
		out[i] = p.box
	}
	return out
}

func middle(b geometry.Box, across bool) int {
	return geometry.FloorDiv(begin(b, across)+end(b, across), 2)
}

// shift moves a piece so that its middle lies at a coordinate.
func (p *piece) shift(to int, across bool) {
	d := geometry.Point{X: to - middle(p.box, across)}
	if !across {
		d = geometry.Point{Y: d.X}
	}
	p.box = p.box.Moved(d)
}

func overlap(a, b geometry.Box, across bool) bool {
	return begin(a, across) < end(b, across) && begin(b, across) < end(a, across)
}

// stacked reports whether of two boxes one stands above the other rather than
// beside it.
func stacked(a, b geometry.Box) bool {
	dx, dy := geometry.Abs(middle(a, true)-middle(b, true)), geometry.Abs(middle(a, false)-middle(b, false))
	return overlap(a, b, true) && dy >= dx
}

// close reports whether the middles of two boxes lie nearly on one line.
func near(a, b geometry.Box, across bool) bool {
	size := min(end(a, across)-begin(a, across), end(b, across)-begin(b, across))
	return geometry.Abs(middle(a, across)-middle(b, across)) <= min(nearly, size/2)
}

func straightenOnce(list []*piece) {
	byLane := map[string][]*piece{}
	var lanes []string
	for _, p := range list {
		if byLane[p.lane] == nil {
			lanes = append(lanes, p.lane)
		}
		byLane[p.lane] = append(byLane[p.lane], p)
	}
	rows := map[string][][]*piece{}
	n := 0
	for _, lane := range lanes {
		rows[lane] = lines(byLane[lane], false, func(a, b *piece) bool { return !stacked(a.box, b.box) })
		for _, row := range rows[lane] {
			for _, p := range row {
				p.row = n
			}
			n++
		}
	}
	columns := lines(list, true, func(a, b *piece) bool { return a.row != b.row })
	// Side by side is what shares a row, or reaches into another's height.
	space(columns, true, func(a, b *piece) bool {
		return a.row == b.row || a.lane == b.lane && overlap(a.box, b.box, false) && !stacked(a.box, b.box)
	})
	for _, lane := range lanes {
		space(rows[lane], false, func(a, b *piece) bool { return overlap(a.box, b.box, true) })
	}
}

// lines gathers pieces whose middles lie nearly on one line and puts them on it.
// Two that may not be together come onto different lines.
func lines(list []*piece, across bool, together func(a, b *piece) bool) [][]*piece {
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b *piece) int {
		return cmp.Or(cmp.Compare(middle(a.box, across), middle(b.box, across)),
			cmp.Compare(begin(a.box, !across), begin(b.box, !across)), cmp.Compare(a.ID, b.ID))
	})
	var out [][]*piece
	for _, p := range list {
		last := len(out) - 1
		if last >= 0 && near(out[last][0].box, p.box, across) &&
			!slices.ContainsFunc(out[last], func(o *piece) bool {
				return !together(o, p) || o.fixed && p.fixed && middle(o.box, across) != middle(p.box, across)
			}) {
			out[last] = append(out[last], p)
			continue
		}
		out = append(out, []*piece{p})
	}
	for _, line := range out {
		at := middle(line[(len(line)-1)/2].box, across)
		on := 0
		for _, p := range line {
			if middle(p.box, across) == at {
				on++
			}
		}
		if 2*on <= len(line) { // a line that most stand on already stays
			at = geometry.Snap(at, Grid/2)
		}
		if i := slices.IndexFunc(line, func(p *piece) bool { return p.fixed }); i >= 0 {
			at = middle(line[i].box, across)
		}
		for _, p := range line {
			if !p.fixed {
				p.shift(at, across)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b []*piece) int {
		return cmp.Compare(middle(a[0].box, across), middle(b[0].box, across))
	})
	return out
}

// space sets lines apart: neighbours by the same gap, all others far enough.
// Beside says which pieces would get into each other's way.
func space(lines [][]*piece, across bool, beside func(a, b *piece) bool) {
	n := len(lines)
	at := make([]int, n)
	for i, line := range lines {
		at[i] = middle(line[0].box, across)
	}
	// apart is how far two lines stand apart when their pieces touch; none
	// when they are not beside each other. The slack of a line is how far it
	// stands from the nearest before it that it is beside.
	const none = -1
	apart, slack := make([][]int, n), make([]int, n)
	var gaps []int
	for k := range lines {
		apart[k] = make([]int, k)
		slack[k] = model.MaxPlace
		for j := range k {
			apart[k][j] = none
			for _, a := range lines[j] {
				for _, b := range lines[k] {
					if beside(a, b) {
						apart[k][j] = max(apart[k][j], end(a.box, across)-at[j]+at[k]-begin(b.box, across))
					}
				}
			}
			if apart[k][j] != none {
				slack[k] = min(slack[k], at[k]-at[j]-apart[k][j])
			}
		}
		if slack[k] != model.MaxPlace {
			gaps = append(gaps, slack[k])
		}
	}
	// set returns where the lines come to stand with a gap.
	set := func(gap int) []int {
		to := make([]int, n)
		for k := range lines {
			switch step := 0; {
			case k == 0:
				to[0] = at[0]
			case slack[k] == model.MaxPlace:
				to[k] = to[k-1] + at[k] - at[k-1]
			default:
				step = gap
				if 2*slack[k] > 5*gap {
					step = slack[k]
				}
				to[k] = to[k-1] + min(at[k]-at[k-1], Grid/2)
				for j, a := range apart[k] {
					if a != none {
						to[k] = max(to[k], to[j]+a+step)
					}
				}
			}
		}
		return to
	}
	to := at
	if len(gaps) > 0 {
		slices.Sort(gaps)
		median := gaps[(len(gaps)-1)/2]
		often := mode(gaps)
		straight := gaps[0] >= leastGap && (2*median <= 5*gaps[0] && slices.Equal(set(gaps[0]), at) ||
			slices.Equal(set(often), at))
		if !straight {
			gap := geometry.Snap(median, Grid/2)
			if geometry.Abs(often-median) <= Grid/4 { // what most of them have already stays
				gap = often
			}
			to = set(max(gap, leastGap))
		}
	}
	if &to[0] == &at[0] {
		to = slices.Clone(at)
	}
	hold(lines, at, to)
	for k, line := range lines {
		for _, p := range line {
			if !p.fixed {
				p.shift(to[k], across)
			}
		}
	}
}

// mode returns the most frequent of sorted numbers, the smallest of several.
func mode(sorted []int) int {
	best, most, run := sorted[0], 0, 0
	for i, v := range sorted {
		if run++; i > 0 && v != sorted[i-1] {
			run = 1
		}
		if run > most {
			best, most = v, run
		}
	}
	return best
}

// hold brings lines that hold something locked back to where they were, and
// those between two of them in proportion.
func hold(lines [][]*piece, at, to []int) {
	last := -1
	for k, line := range lines {
		if !slices.ContainsFunc(line, func(p *piece) bool { return p.fixed }) {
			continue
		}
		switch {
		case last < 0:
			d := at[k] - to[k]
			for i := range to {
				to[i] += d
			}
		case to[k] > to[last]:
			was, base := to[k]-to[last], to[last]
			d := at[k] - to[k]
			for i := last + 1; i < k; i++ {
				to[i] = base + (to[i]-base)*(at[k]-base)/was
			}
			for i := k; i < len(to); i++ {
				to[i] += d
			}
		}
		last = k
	}
}
