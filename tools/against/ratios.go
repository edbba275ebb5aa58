package main

import (
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// figure is one value of a benchmark.
type figure struct {
	bench, unit string
	value       float64
}

// figures reads what a test program prints of its benchmarks: the name, how often it ran, then values with their units.
func figures(text string) (out []figure) {
	for line := range strings.Lines(text) {
		words := strings.Fields(line)
		if len(words) < 4 || !strings.HasPrefix(words[0], "Benchmark") {
			continue
		}
		name := words[0]
		if i := strings.LastIndexByte(name, '-'); i > 0 {
			if _, err := strconv.Atoi(name[i+1:]); err == nil { // the number of processors
				name = name[:i]
			}
		}
		for i := 2; i+1 < len(words); i += 2 {
			if v, err := strconv.ParseFloat(words[i], 64); err == nil {
				out = append(out, figure{strings.TrimPrefix(name, "Benchmark"), words[i+1], v})
			}
		}
	}
	return out
}

// row is a value of a benchmark in both trees, round by round.
type row struct {
	bench, unit  string
	older, newer []float64
}

type table struct{ rows []*row }

// add notes what both trees have, and is more than nothing.
func (t *table) add(older, newer []figure) {
	for _, a := range older {
		for _, b := range newer {
			if a.bench == b.bench && a.unit == b.unit && a.value > 0 && b.value > 0 {
				r := t.row(a.bench, a.unit)
				r.older, r.newer = append(r.older, a.value), append(r.newer, b.value)
			}
		}
	}
}

func (t *table) row(bench, unit string) *row {
	for _, r := range t.rows {
		if r.bench == bench && r.unit == unit {
			return r
		}
	}
	t.rows = append(t.rows, &row{bench: bench, unit: unit})
	return t.rows[len(t.rows)-1]
}

// widest is the width of the widest interval.
func (t *table) widest() (most float64) {
	for _, r := range t.rows {
		_, lo, hi := r.ratio()
		most = max(most, hi-lo)
	}
	return most
}

// print writes the table in Markdown.
func (t *table) print(out io.Writer, commit string) {
	fmt.Fprintf(out, "| Benchmark | | %s | this tree | ratio | 95 %% | rounds |\n|---|---|---|---|---|---|---|\n",
		commit)
	for _, r := range t.rows {
		ratio, lo, hi := r.ratio()
		fmt.Fprintf(out, "| %s | %s | %s | %s | %.2f | %.2f to %.2f | %d |\n", r.bench, r.unit,
			short(mean(r.older)), short(mean(r.newer)), ratio, lo, hi, len(r.older))
	}
}

// ratio is that of the newer tree to the older one, the geometric mean of all rounds, and the interval in which it lies
// with 95 %: that of Student's t of the logarithms of the rounds' ratios (The Probable Error of a Mean, 1908). One
// round tells nothing of that.
func (r *row) ratio() (ratio, lo, hi float64) {
	n := len(r.older)
	logs := make([]float64, n)
	for i := range logs {
		logs[i] = math.Log(r.newer[i] / r.older[i])
	}
	m := mean(logs)
	if n < 2 {
		return math.Exp(m), 0, math.Inf(1)
	}
	sum := 0.0
	for _, v := range logs {
		sum += (v - m) * (v - m)
	}
	half := student(n-1) * math.Sqrt(sum/float64(n-1)/float64(n))
	return math.Exp(m), math.Exp(m - half), math.Exp(m + half)
}

// student returns the 0.975 quantile of Student's t with so many degrees of freedom; for more than are listed that of
// the normal distribution, which is a little less. The values are from memory; a test compares them with the integral.
func student(freedom int) float64 {
	list := [...]float64{12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.160,
		2.145, 2.131}
	if freedom > len(list) {
		return 1.96
	}
	return list[freedom-1]
}

func mean(list []float64) float64 {
	sum := 0.0
	for _, v := range list {
		sum += v
	}
	return sum / float64(len(list))
}

// short writes a value with four digits that count.
func short(v float64) string { return strconv.FormatFloat(v, 'g', 4, 64) }
