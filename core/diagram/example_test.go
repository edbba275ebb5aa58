package diagram_test

import (
	"fmt"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// An edit is applied whole or not at all, and returns the edit that undoes it.
func ExampleApply() {
	m := diagram.New("Lamp out", diagram.Rightwards, "A4", true)
	sheet := m.Sheets[0].ID
	undo, err := diagram.Apply(m, &diagram.AddItems{Sheet: sheet, Symbols: []diagram.Symbol{
		{ID: "a", Kind: diagram.Process, Text: "Take the report", Box: geometry.Box{X: 8000, Y: 8000, W: 12000, H: 6400}}}})
	fmt.Println(len(m.Sheets[0].Symbols), err)

	_, err = diagram.Apply(m, &diagram.SetText{Sheet: sheet, ID: "b", Text: "Nobody has this id"})
	fmt.Println(err)

	_, err = diagram.Apply(m, undo)
	fmt.Println(len(m.Sheets[0].Symbols), err)
	// Output:
	// 1 <nil>
	// the symbol "b" is not there any more
	// 0 <nil>
}
