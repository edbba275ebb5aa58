package typeset_test

import (
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// A text is broken into lines where its outline has room: a decision has less near its corners than a
// process of the same size.
func ExampleHouse_Set() {
	m := model.New("Lamp out", model.Rightwards, "A4", true)
	for _, kind := range []model.Kind{model.Process, model.Decision} {
		block := typeset.HouseOf(m).Set(symbols.Of(kind), model.Accented{Text: "Is the lamp one of ours?"},
			model.Type{}, 140*geometry.Px,
			96*geometry.Px)
		for _, line := range block.Lines {
			fmt.Printf("%s: %q\n", kind, line.Text)
		}
	}
	// Output:
	// process: "Is the lamp one of"
	// process: "ours?"
	// decision: "Is the lamp"
	// decision: "one of ours?"
}
