package edit_test

import (
	"fmt"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// An edit is applied whole or not at all, and returns the edit that undoes it.
func ExampleApply() {
	m := model.New("Lamp out", model.Rightwards, "A4", true)
	sheet := m.Sheets[0].ID
	undo, err := edit.Apply(m, &edit.AddItems{Sheet: sheet, Symbols: []model.Symbol{
		{ID: "a", Kind: model.Process, Text: "Take the report",
			Box: geometry.Box{X: 8000, Y: 8000, W: 12000, H: 6400}}}})
	fmt.Println(len(m.Sheets[0].Symbols), err)

	_, err = edit.Apply(m, &edit.SetText{Sheet: sheet, ID: "b", Text: "Nobody has this id"})
	fmt.Println(err)

	_, err = edit.Apply(m, undo)
	fmt.Println(len(m.Sheets[0].Symbols), err)
	// Output:
	// 1 <nil>
	// the symbol "b" is not there any more
	// 0 <nil>
}
