package outline_test

import (
	"fmt"

	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/outline"
)

// A sheet in words: every step with where it leads.
func ExampleOf() {
	m := diagram.New("Lamp out", diagram.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, text := range []string{"Take the report", "Is it our lamp?", "Repair it"} {
		kind := diagram.Process
		if i == 1 {
			kind = diagram.Decision
		}
		s.Symbols = append(s.Symbols, &diagram.Symbol{ID: text, Kind: kind, Text: text, Box: geometry.Box{W: 100, H: 100, X: i * 300}})
	}
	s.Connectors = append(s.Connectors,
		&diagram.Connector{ID: "1", From: diagram.End{Symbol: "Take the report"}, To: diagram.End{Symbol: "Is it our lamp?"}},
		&diagram.Connector{ID: "2", From: diagram.End{Symbol: "Is it our lamp?"}, To: diagram.End{Symbol: "Repair it"}, Text: "Yes"})
	for _, step := range outline.Of(m, flow.New(m), s) {
		fmt.Println(step.Text, "-", step.Exits)
	}
	// Output:
	// 1. Take the report, process - leads to 2. Is it our lamp?
	// 2. Is it our lamp?, decision - leads to Yes: 3. Repair it
	// 3. Repair it, process - leads nowhere yet
}
