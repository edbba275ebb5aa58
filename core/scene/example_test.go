package scene_test

import (
	"fmt"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// A sheet becomes a tree of nodes with outlines and placed text, which is written as SVG.
func ExampleDraw() {
	m := model.New("Lamp out", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "a", Kind: model.Process, Text: "Take the report",
		Box: geometry.Box{X: 8000, Y: 8000, W: 14000, H: 6400}})
	svg := string(scene.Draw(m, s).AppendSVG(nil))
	fmt.Println(strings.HasPrefix(svg, "<g"), strings.Contains(svg, ">Take the report<"))
	// Output: true true
}
