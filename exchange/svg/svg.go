// Package svg writes a sheet as a self-contained SVG 1.1 picture: text stays
// text, and the characters it needs of the typeface are inside the file.
package svg

import (
	"encoding/base64"

	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/typeface"
)

// Options say how the picture is made.
type Options struct {
	// Scale enlarges the picture; 1 shows a CSS pixel as one.
	Scale float64
}

// Write returns the picture of a sheet as an SVG document.
func Write(d *scene.Drawing, o Options) ([]byte, error) {
	b := d.Extent
	scale := o.Scale
	if !(scale > 0) {
		scale = 1
	}
	buf := []byte(`<?xml version="1.0" encoding="UTF-8"?>` + "\n" + `<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="`)
	buf = scene.AppendPx(buf, int(float64(b.W)*scale))
	buf = scene.AppendPx(append(buf, `" height="`...), int(float64(b.H)*scale))
	buf = append(buf, `" viewBox="`...)
	for i, n := range [...]int{b.X, b.Y, b.W, b.H} {
		if i > 0 {
			buf = append(buf, ' ')
		}
		buf = scene.AppendPx(buf, n)
	}
	buf = append(buf, `"><title>`...)
	buf = append(scene.AppendEscaped(buf, d.Sheet.Name), `</title><defs><style type="text/css">`...)
	set, err := typeface.Of(d)
	if err != nil {
		return nil, err
	}
	faces, err := set.Embedded(d)
	if err != nil {
		return nil, err
	}
	for _, f := range faces {
		buf = append(buf, `@font-face{font-family:"`+f.Family+`";font-weight:`+f.Weight()+`;font-style:`+f.Style()+`;src:url(data:font/ttf;base64,`...)
		buf = append(base64.StdEncoding.AppendEncode(buf, f.Data), `)}`...)
	}
	buf = append(buf, `text{font-kerning:none;font-variant-ligatures:none;text-rendering:geometricPrecision;white-space:pre}</style></defs>`...)
	buf = append(append(buf, `<path fill="#ffffff" d="`...), string(scene.AppendPath(nil, rectangle(b)))...)
	buf = append(buf, `"/><g font-family="`+typeface.Families(d)+`" xml:space="preserve">`+"\n"...)
	buf = d.AppendSVG(buf)
	return append(buf, "</g></svg>\n"...), nil
}

func rectangle(b geometry.Box) geometry.Path {
	return geometry.Polygon(b.Corner(), geometry.Point{X: b.Right(), Y: b.Y}, geometry.Point{X: b.Right(), Y: b.Bottom()}, geometry.Point{X: b.X, Y: b.Bottom()})
}
