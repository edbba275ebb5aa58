package scene_test

import (
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// The line of an annotation ends on the long stretch of its bracket, wherever the annotation
// stands (ISO 5807, annotation: the line joins the bracket; from memory).
func TestAnAnnotationTurnsItsBracketToItsLine(t *testing.T) {
	const px = geometry.Px
	turned := map[geometry.Box]bool{}
	for _, at := range []geometry.Point{{X: 700, Y: 300}, {X: 100, Y: 300}, {X: 400, Y: 80}, {X: 400, Y: 560},
		{X: 640, Y: 120}, {X: 120, Y: 500}} {
		for _, side := range []string{"", "top", "right", "bottom", "left"} {
			m := &model.Map{Sheets: []*model.Sheet{{SheetHead: model.SheetHead{ID: "s", Name: "S"}}}}
			s := m.Sheets[0]
			s.Symbols = []*model.Symbol{
				{ID: "a", Kind: model.Process, Box: geometry.Around(geometry.Point{X: 400 * px, Y: 300 * px}, 120*px,
					80*px)},
				{ID: "r", Kind: model.Annotation, Text: "By phone too",
					Box: geometry.Around(geometry.Point{X: at.X * px, Y: at.Y * px}, 140*px, 50*px)},
			}
			s.Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "r", Side: side},
				To: model.End{Symbol: "a"}}}
			d := scene.Draw(m, s)
			end := d.Courses[0].Points[0]
			var path geometry.Polyline
			for _, n := range d.Nodes {
				if n.ID == "r" {
					for _, p := range n.Shapes[0].Path.Flatten()[0] {
						path = append(path, p.Add(n.At))
					}
				}
			}
			if len(path) != 4 {
				t.Fatalf("the bracket is %v", path)
			}
			back := geometry.Between(path[1], path[2])
			turned[geometry.Box{W: back.W, H: back.H, X: geometry.Abs(back.X - s.Symbols[1].X),
				Y: geometry.Abs(back.Y - s.Symbols[1].Y)}] = true
			if end.X < back.X || end.X > back.Right() || end.Y < back.Y || end.Y > back.Bottom() {
				t.Errorf("at %v by %q: the line begins at %v, and the back of the bracket is %v", at, side, end, back)
			}
		}
	}
	if len(turned) != 4 {
		t.Errorf("it turned to %d sides, not 4", len(turned))
	}
}
