package routing

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/labels"
)

const (
	// hopReach is how far a hop reaches around a crossing, tipReach how long an arrowhead is: beside the line a label
	// may stand by it, on the line not.
	hopReach = 6 * px
	tipReach = 10 * px
)

// placeLabels stands every label of the connectors that are routed anew by its own line: first those placed by hand,
// then one after the other the rest.
func (r *Router) placeLabels() {
	if !slices.ContainsFunc(r.scene.Links, func(l Link) bool { return l.Labels != [3]labels.Label{} }) {
		return
	}
	r.layLabels()
	for _, held := range [...]bool{true, false} {
		for _, i := range r.work.order {
			if !r.work.anew[i] {
				continue
			}
			for k, l := range r.scene.Links[i].Labels {
				if l.Size == (geometry.Point{}) || l.Held != held {
					continue
				}
				line := r.out[i].Points
				var b geometry.Box
				if held {
					b = l.At(line)
				} else {
					b = r.labels.Find(l.Size, line, i, r.scene.Links[i].labelBegins(k))
				}
				r.out[i].Labels[k] = b
				r.labels.AddBox(b)
			}
		}
	}
}

// labelBegins says from where the place of a link's label is looked for: a decision's exit is labelled close to the
// decision, others in the middle of the longest segment or near the end they belong to.
func (l *Link) labelBegins(k int) labels.Begin {
	switch {
	case k == 1 || k == 0 && l.Branch:
		return labels.Start
	case k == 2:
		return labels.End
	}
	return labels.Middle
}

// layLabels gathers what labels keep clear of: boxes, lines, borders, hops, arrowheads and the labels that stay.
func (r *Router) layLabels() {
	var bounds geometry.Box
	for i := range r.out {
		bounds = bounds.Union(r.out[i].Points.Bounds().Grown(px))
	}
	r.labels.Begin(bounds)
	for i, b := range r.scene.Boxes {
		if !r.scene.open(i) {
			r.labels.AddBox(b)
		}
	}
	for i := range r.out {
		r.labels.AddLine(r.out[i].Points, i)
	}
	for _, b := range r.scene.Borders {
		p, q := geometry.Point{X: b.Lo, Y: b.At}, geometry.Point{X: b.Hi, Y: b.At}
		if b.Upright {
			p, q = geometry.Point{X: b.At, Y: b.Lo}, geometry.Point{X: b.At, Y: b.Hi}
		}
		r.labels.AddLine(geometry.Polyline{p, q}, labels.None)
	}
	for i := range r.out {
		for _, h := range r.out[i].Hops {
			r.labels.AddBox(geometry.Around(h.At, 2*hopReach, 2*hopReach))
		}
		if pts := r.out[i].Points; len(pts) > 1 && r.scene.Links[i].To != None {
			tip, back := pts[len(pts)-1], r.out[i].ToSide.Step()
			end := tip.Add(geometry.Point{X: back.X * tipReach, Y: back.Y * tipReach})
			r.labels.AddBox(geometry.Between(tip, end).Grown(labels.Gap - px))
		}
		for _, b := range r.out[i].Labels {
			if b.W > 0 && !r.work.anew[i] {
				r.labels.AddBox(b)
			}
		}
	}
}
