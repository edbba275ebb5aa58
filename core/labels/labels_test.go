package labels

import (
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
)

// A label meets nothing wherever a search of every place within reach finds one that is free.
func TestLabelsFindAFreePlace(t *testing.T) {
	const step = px // of the search of every place
	crowded := 0
	for seed := range 60 {
		r := rand.New(rand.NewPCG(uint64(seed), 3))
		line := geometry.Polyline{{X: 0, Y: 0}, {X: (60 + r.IntN(80)) * px, Y: 0}}
		line = append(line, geometry.Point{X: line[1].X, Y: (40 + r.IntN(60)) * px})
		var boxes []geometry.Box
		for range 4 + r.IntN(140) {
			at := geometry.Point{X: (r.IntN(260) - 60) * px, Y: (r.IntN(220) - 60) * px}
			boxes = append(boxes, geometry.Around(at, (10+r.IntN(30))*px, (10+r.IntN(30))*px))
		}
		other := geometry.Polyline{{X: -40 * px, Y: (r.IntN(80) - 20) * px}, {X: 180 * px, Y: (r.IntN(80) - 20) * px}}
		other[1].Y = other[0].Y
		var s Sheet
		s.Begin(line.Bounds())
		for _, b := range boxes {
			s.AddBox(b)
		}
		s.AddLine(line, 0)
		s.AddLine(other, 1)
		size := geometry.Point{X: 30 * px, Y: 14 * px}
		meets := func(b geometry.Box) bool {
			for _, o := range boxes {
				if o.Meets(b) {
					return true
				}
			}
			in := b.Grown(-1)
			return in.Touches(line[0], line[1]) || in.Touches(line[1], line[2]) || in.Touches(other[0], other[1])
		}
		free := false
		around := line.Bounds().Grown(Reach)
		for y := around.Y - size.Y; y <= around.Bottom() && !free; y += step {
			for x := around.X - size.X; x <= around.Right() && !free; x += step {
				b := geometry.Box{X: x, Y: y, W: size.X, H: size.Y}
				free = !meets(b) && Away(line, b) <= Reach
			}
		}
		for _, from := range []Begin{Middle, Start, End} {
			b := s.Find(size, line, 0, from)
			if b.W != size.X || b.H != size.Y || Away(line, b) > Reach {
				t.Fatalf("seed %d: the label lies at %v", seed, b)
			}
			if free && meets(b) {
				t.Errorf("seed %d: the label at %v meets something although there is a free place", seed, b)
			}
		}
		if !free {
			crowded++
		}
	}
	if crowded == 0 || crowded > 50 {
		t.Errorf("%d of 60 sheets have no free place", crowded)
	}
}
