package score

import (
	"math"
	"slices"
)

// What lines that have nothing to do with each other keep from each other, and from nodes, where there is room.
const (
	closest  = 12
	spacing  = 16
	overlap  = 8   // for less than that nobody takes them for one line
	farthest = 200 // where no node stands, room ends there
)

// stretch is part of a line, upright at x or level at y.
type stretch struct {
	upright    bool
	at, lo, hi float64
}

func stretches(line []Point) (out []stretch) {
	for k := 1; k < len(line); k++ {
		p, q := line[k-1], line[k]
		switch {
		case math.Abs(p[0]-q[0]) < tiny:
			out = append(out, stretch{true, p[0], min(p[1], q[1]), max(p[1], q[1])})
		case math.Abs(p[1]-q[1]) < tiny:
			out = append(out, stretch{false, p[1], min(p[0], q[0]), max(p[0], q[0])})
		}
	}
	return out
}

// beside reports whether two stretches run beside each other.
func (s stretch) beside(o stretch) bool {
	return s.upright == o.upright && min(s.hi, o.hi)-max(s.lo, o.lo) > overlap
}

// touching counts the pairs of stretches of two lines that run too close without need.
func touching(d *Drawing, lines [][]Point, i, j int) (n int) {
	for _, s := range stretches(lines[i]) {
		for _, o := range stretches(lines[j]) {
			apart := math.Abs(s.at - o.at)
			if !s.beside(o) || apart < 0.5 || apart >= closest-tiny {
				continue
			}
			// The free space beside both, and how many lines share it.
			from, to := min(s.at, o.at)-farthest, max(s.at, o.at)+farthest
			lo, hi := max(s.lo, o.lo), min(s.hi, o.hi)
			for _, b := range slices.Concat(d.Nodes, d.Borders) {
				near, far, first, last := b.X, b.X+b.W, b.Y, b.Y+b.H
				if !s.upright {
					near, far, first, last = first, last, near, far
				}
				if last <= lo || first >= hi {
					continue
				}
				if far <= min(s.at, o.at) {
					from = max(from, far)
				}
				if near >= max(s.at, o.at) {
					to = min(to, near)
				}
			}
			count := 0
			for _, line := range lines {
				for _, t := range stretches(line) {
					if t.upright == s.upright && t.at > from && t.at < to && t.hi > lo && t.lo < hi {
						count++
					}
				}
			}
			if to-from >= spacing*float64(count-1)+2*closest {
				n++
			}
		}
	}
	return n
}
