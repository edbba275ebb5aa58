package outline_test

import (
	"fmt"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/outline"
)

// A sheet in words: every step with where it leads.
func ExampleOf() {
	m := model.New("Lamp out", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, text := range []string{"Take the report", "Is it our lamp?", "Repair it"} {
		kind := model.Process
		if i == 1 {
			kind = model.Decision
		}
		s.Symbols = append(s.Symbols, &model.Symbol{ID: text, Kind: kind, Text: text,
			Box: geometry.Box{W: 100, H: 100, X: i * 300}})
	}
	s.Connectors = append(s.Connectors,
		&model.Connector{ID: "1", From: model.End{Symbol: "Take the report"}, To: model.End{Symbol: "Is it our lamp?"}},
		&model.Connector{ID: "2", From: model.End{Symbol: "Is it our lamp?"}, To: model.End{Symbol: "Repair it"},
			Text: "Yes"})
	for _, step := range outline.Of(m, flow.New(m), s) {
		fmt.Println(step.Text, "-", step.Exits)
	}
	// Output:
	// 1. Take the report, process - leads to 2. Is it our lamp?
	// 2. Is it our lamp?, decision - leads to Yes: 3. Repair it
	// 3. Repair it, process - leads nowhere yet
}
