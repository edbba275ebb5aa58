package editor_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// One frame of a drag, all of it: the gesture, the courses, the patches. The
// symbol has eight connectors on a sheet of 300 symbols and 375 connectors, in
// line or all slightly off. Targets at the median: 2 ms in line, 4 ms off. What
// it allocates is what the garbage collector will have to clear up.
func BenchmarkDragFrame(b *testing.B) {
	for _, aligned := range []bool{true, false} {
		b.Run(map[bool]string{true: "aligned", false: "off"}[aligned], func(b *testing.B) {
			r := rand.New(rand.NewPCG(1, 2))
			m := diagram.New("Crowded", diagram.Rightwards, "A3", true)
			s := m.Sheets[0]
			for i := range 300 {
				box := geometry.Box{X: (40 + i%20*170) * px, Y: (40 + i/20*140) * px, W: 120 * px, H: 80 * px}
				if !aligned {
					box = box.Moved(geometry.Point{X: r.IntN(3000) - 1500, Y: r.IntN(3000) - 1500})
				}
				s.Symbols = append(s.Symbols, &diagram.Symbol{ID: fmt.Sprint("s", i), Kind: diagram.Process, Text: fmt.Sprint("Step ", i), Box: box})
			}
			join := func(from, to int) {
				s.Connectors = append(s.Connectors, &diagram.Connector{ID: fmt.Sprint("k", len(s.Connectors)), From: diagram.End{Symbol: fmt.Sprint("s", from)}, To: diagram.End{Symbol: fmt.Sprint("s", to)}})
			}
			for i := range 299 {
				join(i, i+1) // two of them at 105
			}
			for _, to := range []int{64, 83, 88, 126, 144, 147} {
				join(105, to)
			}
			for len(s.Connectors) < 375 {
				from, d := r.IntN(280), 1+r.IntN(45)
				if to := (from + d) % 300; from != 105 && to != 105 {
					join(from, to)
				}
			}
			d := open(b, m)
			from := s.Symbols[105].Centre()
			d.Move(from, 1000, 0)
			d.Down(from, 1000, 0)
			b.ReportAllocs()
			var frames []time.Duration
			i := 0
			for b.Loop() {
				i++
				begun := time.Now()
				d.Move(from.Add(at(i%61-30, i%47-23)), 1000, 0)
				d.Flush()
				frames = append(frames, time.Since(begun))
			}
			slices.Sort(frames)
			b.ReportMetric(float64(frames[len(frames)/2].Microseconds())/1000, "median-ms")
		})
	}
}
