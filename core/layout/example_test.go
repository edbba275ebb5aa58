package layout_test

import (
	"fmt"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// Laying out a sheet gives every symbol a place, as an edit that can be applied and undone.
func ExampleFind() {
	m := model.New("Lamp out", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for _, id := range []string{"take", "check", "repair"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process, Text: id,
			Box: geometry.Box{X: 8000, Y: 8000, W: 12000, H: 6400}})
	}
	for i, pair := range [][2]string{{"take", "check"}, {"check", "repair"}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint(i), From: model.End{Symbol: pair[0]},
			To: model.End{Symbol: pair[1]}})
	}
	plan := layout.Find(m, s, layout.Options{})
	if _, err := edit.Apply(m, plan); err != nil {
		fmt.Println(err)
	}
	a, b, c := s.Symbol("take"), s.Symbol("check"), s.Symbol("repair")
	fmt.Println("in a row:", a.Centre().Y == b.Centre().Y && b.Centre().Y == c.Centre().Y)
	fmt.Println("in order:", a.Right() < b.X && b.Right() < c.X)
	// Output:
	// in a row: true
	// in order: true
}
