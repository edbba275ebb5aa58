package scene_test

import (
	"testing"

	"plaintracer/bench/hands"
	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// Where lines meet, all of them is drawn all the same: each stretch by one of them at least, and one of those that end
// at a place with its mark.
func TestLinesThatMeetAreDrawnOnce(t *testing.T) {
	var maps []*model.Map
	for _, h := range hands.All() {
		m := h.Map()
		m.Sheets[0].Merging = true
		maps = append(maps, m)
	}
	for seed := range uint64(8) {
		m := processes.Make(seed, processes.Shape{Steps: 60, Lanes: 3 * int(seed%2), Strays: 10}).Map()
		if _, err := edit.Apply(m, layout.Find(m, m.Sheets[0], layout.Options{})); err != nil {
			t.Fatal(err)
		}
		maps = append(maps, m)
	}
	met, turned := 0, 0
	for _, m := range maps {
		d := scene.Draw(m, m.Sheets[0])
		meetings := new(scene.Merger).Meet(d.Sheet, d.Courses)
		drawn := make([]geometry.Polyline, len(d.Courses))
		marked := map[geometry.Point]bool{}
		for i := range d.Courses {
			points := d.Courses[i].Points
			drawn[i] = points
			if meetings[i].Turn > 0 {
				turned++
			}
			if at := meetings[i]; at.Ends {
				met++
				drawn[i] = append(points[:at.Stretch+1:at.Stretch+1], at.Until)
				continue
			}
			marked[points[len(points)-1]] = true
		}
		for i := range d.Courses {
			points := d.Courses[i].Points
			if !marked[points[len(points)-1]] {
				t.Errorf("%s: nothing marks where %s ends", m.Title, d.Sheet.Connectors[i].ID)
			}
			for at := 0; at <= points.Length(); at += 500 {
				if p := points.Along(at); !onAny(drawn, p) {
					t.Fatalf("%s: %s is not drawn at %v", m.Title, d.Sheet.Connectors[i].ID, p)
				}
			}
		}
	}
	if met < 30 || turned < 30 {
		t.Errorf("only %d lines meet others, %d of them turn", met, turned)
	}
}

func onAny(lines []geometry.Polyline, p geometry.Point) bool {
	for _, line := range lines {
		for k := 1; k < len(line); k++ {
			a, b := line[k-1], line[k]
			if min(a.X, b.X) <= p.X && p.X <= max(a.X, b.X) && min(a.Y, b.Y) <= p.Y && p.Y <= max(a.Y, b.Y) {
				return true
			}
		}
	}
	return false
}
