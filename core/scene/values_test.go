package scene_test

import (
	"fmt"
	"math/rand"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/values"
)

// The values under symbols are part of what lines and labels keep clear of: no course runs through them, none begins or
// ends in them, and no label lies on them.
func TestLinesKeepClearOfValues(t *testing.T) {
	for seed := range 30 {
		r := rand.New(rand.NewSource(int64(seed)))
		m := model.New("Values", model.Rightwards, "A3", true)
		m.Fields = []model.Field{{ID: "t", Name: "Time", Type: values.Duration}, {ID: "s", Name: "System",
			Type: values.Text}}
		m.Shown = []string{"t", "s"}
		s := m.Sheets[0]
		for i := range 12 {
			sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: "Step", Box: geometry.Box{
				X: (60 + i%4*240) * geometry.Px, Y: (60 + i/4*200) * geometry.Px, W: 120 * geometry.Px,
				H: 80 * geometry.Px}}
			if r.Intn(4) > 0 {
				sym.SetValue(&m.Head, "t", "90")
				sym.SetValue(&m.Head, "s", "The permit database of the traffic desk")
			}
			s.Symbols = append(s.Symbols, sym)
		}
		for i := range 16 {
			a, b := r.Intn(12), r.Intn(12)
			if a != b {
				s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i), Text: []string{"", "Yes",
					"No, it burns"}[r.Intn(3)],
					From: model.End{Symbol: fmt.Sprint("s", a)}, To: model.End{Symbol: fmt.Sprint("s", b)}})
			}
		}
		under := func(sym *model.Symbol) geometry.Box {
			return geometry.Box{X: sym.X + geometry.Px, Y: sym.Bottom() + geometry.Px, W: sym.W - 2*geometry.Px,
				H: m.LinesUnder(sym)*model.ValueLine - 2*geometry.Px}
		}
		for i, course := range new(routing.Router).Route(scene.Links(m, s)) {
			for _, sym := range s.Symbols {
				if m.LinesUnder(sym) == 0 {
					continue
				}
				for k := range course.Points[1:] {
					if under(sym).CutBy(course.Points[k], course.Points[k+1]) {
						t.Errorf("seed %d: %s runs through the values of %s", seed, s.Connectors[i].ID, sym.ID)
					}
				}
				for _, label := range course.Labels {
					if label.W > 0 && label.Meets(under(sym)) {
						t.Errorf("seed %d: a label of %s lies on the values of %s", seed, s.Connectors[i].ID, sym.ID)
					}
				}
			}
		}
	}
}
