package scene_test

import (
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
)

const px = geometry.Px

func straight(weight int, mark model.Mark) *model.Connector {
	return &model.Connector{ID: "k", Stroke: model.Stroke{Weight: weight, ToMark: mark, FromMark: mark}}
}

var level = geometry.Polyline{{X: 0, Y: 0}, {X: 400 * px, Y: 0}}

// Whatever the weight, mark and size, the drawing's bounds hold all of it, and no
// mark reaches beyond the end it stands at.
func TestNothingOfAConnectorIsClipped(t *testing.T) {
	for _, mark := range model.Marks {
		for _, weight := range []int{50, 150, 400, model.MaxWeight} {
			for _, size := range []model.MarkSize{model.MarkSmall, "", model.MarkLarge} {
				c := straight(weight, mark)
				c.MarkSize = size
				n := scene.ViewOf(new(model.Map), new(model.Sheet)).Connector(c, &routing.Course{Points: level},
					scene.Meeting{})
				b := n.Bounds()
				for _, s := range n.Shapes {
					for _, line := range s.Path.Flatten() {
						for _, p := range line {
							if !b.Contains(geometry.Point{X: p.X, Y: p.Y - s.Width/2}) ||
								!b.Contains(geometry.Point{X: p.X, Y: p.Y + s.Width/2}) {
								t.Fatalf("%s at weight %d: %v lies outside %v", mark, weight, p, b)
							}
							if p.X < -1 || p.X > 400*px+1 {
								t.Errorf("%s at weight %d reaches to %d, beyond the symbol's edge", mark, weight, p.X)
							}
						}
					}
				}
			}
		}
	}
}

// Marks follow the weight of the line, and come in three sizes.
func TestMarksFollowTheWeight(t *testing.T) {
	height := func(weight int, size model.MarkSize) int {
		c := straight(weight, model.MarkArrow)
		c.MarkSize = size
		n := scene.ViewOf(new(model.Map), new(model.Sheet)).Connector(c, &routing.Course{Points: level},
			scene.Meeting{})
		return n.Shapes[len(n.Shapes)-1].Path.Flatten()[0].Bounds().H
	}
	last := 0
	for _, weight := range []int{100, 200, 400, 800, 1200} {
		if h := height(weight, ""); h <= last || h <= weight {
			t.Errorf("at weight %d the arrow is %d high", weight, h)
		} else {
			last = h
		}
		if s, m, l := height(weight, model.MarkSmall), height(weight, ""), height(weight, model.MarkLarge); s >= m ||
			m >= l {
			t.Errorf("at weight %d the three sizes are %d, %d, %d", weight, s, m, l)
		}
	}
}

// A crossing is drawn as the connector says, else as the sheet does: an arc that
// leaves the line, a gap in it, or nothing.
func TestCrossingsAreDrawnAsAsked(t *testing.T) {
	course := &routing.Course{Points: level, Hops: []routing.Hop{{At: geometry.Point{X: 200 * px}}}}
	verbs := func(own, sheet model.Crossing) string {
		c := straight(0, model.MarkNone)
		c.Hop = own
		n := scene.ViewOf(new(model.Map), &model.Sheet{SheetHead: model.SheetHead{Crossings: sheet}}).Connector(c,
			course, scene.Meeting{})
		var out string
		for _, op := range n.Shapes[0].Path {
			out += string(op.Verb)
		}
		return out
	}
	for _, c := range []struct {
		own, sheet model.Crossing
		want       string
	}{
		{"", "", "MLCL"}, {"", model.CrossGap, "MLML"}, {"", model.CrossPlain, "ML"},
		{model.CrossPlain, "", "ML"}, {model.CrossGap, model.CrossPlain, "MLML"},
		{model.CrossArc, model.CrossGap, "MLCL"}, {"", model.CrossSquare, "MLLLLL"}, {model.CrossSquare, "", "MLLLLL"},
	} {
		if got := verbs(c.own, c.sheet); got != c.want {
			t.Errorf("connector %q, sheet %q: drawn by %s, not %s", c.own, c.sheet, got, c.want)
		}
	}
	// Two crossings close to each other become one arc; beside a corner there is
	// no room for any.
	course.Hops = append(course.Hops, routing.Hop{At: geometry.Point{X: 206 * px}})
	if got := verbs("", ""); got != "MLCL" {
		t.Errorf("two near crossings are drawn by %s", got)
	}
	course.Hops = []routing.Hop{{At: geometry.Point{X: px}}}
	if got := verbs("", ""); got != "ML" {
		t.Errorf("a crossing at the very end is drawn by %s", got)
	}
}

// A rounded or curved course stays within the corners of the right-angled one,
// and starts and ends where it does.
func TestRoundedCoursesStayInsideTheirCorners(t *testing.T) {
	pts := geometry.Polyline{{X: 0, Y: 0}, {X: 100 * px, Y: 0}, {X: 100 * px, Y: 40 * px}, {X: 300 * px, Y: 40 * px}}
	for _, c := range []model.Stroke{{Radius: 10 * px}, {Radius: 60 * px}, {Course: model.Curved}} {
		c.FromMark, c.ToMark = model.MarkNone, model.MarkNone
		n := scene.ViewOf(new(model.Map), new(model.Sheet)).Connector(&model.Connector{ID: "k", Stroke: c},
			&routing.Course{Points: pts}, scene.Meeting{})
		line := n.Shapes[0].Path.Flatten()[0]
		if line[0] != pts[0] || line[len(line)-1] != pts[3] {
			t.Errorf("%+v runs from %v to %v", c, line[0], line[len(line)-1])
		}
		curves := 0
		for _, op := range n.Shapes[0].Path {
			if op.Verb == 'C' {
				curves++
			}
		}
		if curves != 2 {
			t.Errorf("%+v has %d rounded corners", c, curves)
		}
		for _, p := range line {
			if !pts.Bounds().Contains(p) {
				t.Errorf("%+v leaves its corners at %v", c, p)
			}
		}
	}
}
