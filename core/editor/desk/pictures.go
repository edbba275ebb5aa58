package desk

import (
	"plaintracer/core/scene"
)

// Picture returns a sheet as a small SVG picture, with nothing in it that could be pressed; empty where the map has no
// such sheet, or its connectors take too long to be found.
func (e *Sheets) Picture(id string) string {
	s := e.M.Sheet(id)
	if s == nil {
		return ""
	}
	asked := 0
	d, ok := scene.DrawUntil(e.M, s, e.Facts, func() bool { asked++; return asked > 2 })
	if !ok {
		return ""
	}
	b := []byte(`<svg xmlns="http://www.w3.org/2000/svg" aria-hidden="true" viewBox="`)
	for i, n := range [...]int{d.Extent.X, d.Extent.Y, d.Extent.W, d.Extent.H} {
		if i > 0 {
			b = append(b, ' ')
		}
		b = scene.AppendPx(b, n)
	}
	b = append(b, `"><path class="page" fill="#ffffff" d="`...)
	b = append(scene.AppendPath(b, d.Page.Outline()), `"/>`...)
	for i := range d.Nodes {
		n := &d.Nodes[i]
		n.Hint, n.Leads = "", nil
		b = scene.AppendPx(append(b, `<g transform="translate(`...), n.At.X)
		b = append(n.AppendInner(append(scene.AppendPx(append(b, ' '), n.At.Y), `)">`...)), `</g>`...)
	}
	return string(append(b, `</svg>`...))
}
