package editor_test

import (
	"fmt"
	"testing"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// One frame of a drag, all of it: the gesture, the courses, the patches. What
// it allocates is what the garbage collector will have to clear up.
func BenchmarkDragFrame(b *testing.B) {
	m := diagram.New("Crowded", diagram.Rightwards, "A3", true)
	s := m.Sheets[0]
	for i := range 200 {
		s.Symbols = append(s.Symbols, &diagram.Symbol{ID: fmt.Sprint("s", i), Kind: diagram.Process, Text: fmt.Sprint("Step ", i),
			Box: geometry.Box{X: (40 + i%20*170) * px, Y: (40 + i/20*140) * px, W: 120 * px, H: 80 * px}})
	}
	for i := range 250 {
		s.Connectors = append(s.Connectors, &diagram.Connector{ID: fmt.Sprint("k", i), From: diagram.End{Symbol: fmt.Sprint("s", i%199)}, To: diagram.End{Symbol: fmt.Sprint("s", (i%199)+1)}, Text: "Yes"})
	}
	d := open(b, m)
	from := s.Symbols[105].Centre()
	d.Move(from, 1000, 0)
	d.Down(from, 1000, 0)
	b.ReportAllocs()
	i := 0
	for b.Loop() {
		i++
		d.Move(from.Add(at(i%60+5, i%40)), 1000, 0)
		d.Flush()
	}
}
