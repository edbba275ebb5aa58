package main

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// The quantiles are those of Student's distribution: its density, integrated, gives 0.975 up to them.
func TestQuantilesOfStudent(t *testing.T) {
	for freedom := 1; freedom <= 15; freedom++ {
		n := float64(freedom)
		a, _ := math.Lgamma((n + 1) / 2)
		b, _ := math.Lgamma(n / 2)
		scale := math.Exp(a-b) / math.Sqrt(n*math.Pi)
		density := func(x float64) float64 { return scale * math.Pow(1+x*x/n, -(n+1)/2) }
		const steps = 20000
		h, sum := student(freedom)/steps, 0.0
		for i := range steps { // by Simpson's rule
			x := float64(i) * h
			sum += h / 6 * (density(x) + 4*density(x+h/2) + density(x+h))
		}
		if math.Abs(0.5+sum-0.975) > 1e-4 {
			t.Errorf("%d degrees: %.5f lie below %.3f", freedom, 0.5+sum, student(freedom))
		}
	}
}

// Of made-up rounds with a known ratio, on a machine that gets slower and faster, the interval holds it in about 95 of
// 100.
func TestTheIntervalHoldsTheRatio(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	held := 0
	for range 2000 {
		one := &row{}
		for range 5 {
			machine := 1 + r.Float64()
			one.older = append(one.older, machine*math.Exp(r.NormFloat64()*0.05))
			one.newer = append(one.newer, 1.2*machine*math.Exp(r.NormFloat64()*0.05))
		}
		if _, lo, hi := one.ratio(); lo <= 1.2 && 1.2 <= hi {
			held++
		}
	}
	if held < 1860 || held > 1940 {
		t.Errorf("of 2000 intervals %d hold the ratio", held)
	}
}

func TestWhatBenchmarksPrint(t *testing.T) {
	const older = `goos: linux
BenchmarkDrag/aligned-2         	     100	   1346680 ns/op	         1.150 median-ms	  158813 B/op
BenchmarkGone-2                 	     100	        10 ns/op
PASS`
	newer := strings.ReplaceAll(strings.ReplaceAll(older, "Gone", "New"), "1.150", "2.300")
	var table table
	table.add(figures(older), figures(newer))
	var out strings.Builder
	table.print(&out, "abc")
	for _, want := range []string{"| Drag/aligned | ns/op | 1.347e+06 | 1.347e+06 | 1.00 |",
		"| Drag/aligned | median-ms | 1.15 | 2.3 | 2.00 |"} {
		if !strings.Contains(out.String(), want) {
			t.Errorf("%q is not in\n%s", want, out.String())
		}
	}
	if strings.Contains(out.String(), "Gone") || strings.Contains(out.String(), "New") {
		t.Errorf("what is in one tree alone is listed:\n%s", out.String())
	}
}
