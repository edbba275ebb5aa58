package routing_test

import (
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/routing"
)

// Two boxes with a third between them: the connector goes round it.
func ExampleRouter_Route() {
	const px = geometry.Px
	scene := routing.Scene{Boxes: []geometry.Box{
		{X: 0, Y: 0, W: 100 * px, H: 60 * px}, {X: 200 * px, Y: 0, W: 100 * px, H: 60 * px},
		{X: 400 * px, Y: 0, W: 100 * px, H: 60 * px}}}
	for _, b := range scene.Boxes { // a glue point in the middle of each side: top, right, bottom, left
		c := b.Centre()
		scene.Glue = append(scene.Glue, [4]geometry.Point{{X: c.X, Y: b.Y}, {X: b.Right(), Y: c.Y},
			{X: c.X, Y: b.Bottom()}, {X: b.X, Y: c.Y}})
	}
	scene.Links = []routing.Link{{From: 0, To: 2, FromSide: routing.Any, ToSide: routing.Any}}
	var r routing.Router
	for _, p := range r.Route(scene)[0].Points {
		fmt.Print("(", p.X/px, " ", p.Y/px, ") ")
	}
	// Output: (50 60) (50 76) (450 76) (450 60)
}
