// Package svg writes a sheet as a self-contained SVG 1.1 picture: text stays
// text, and the characters it needs of the typeface are inside the file.
package svg

import (
	"encoding/base64"
	"fmt"
	"slices"
	"strings"

	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
	"plaintracer/exchange/typeface"
)

// Options say how the picture is made.
type Options struct {
	// Scale enlarges the picture; 1 shows a CSS pixel as one.
	Scale float64
	// Area is the part of the drawing that is shown; the zero box is all of it.
	Area geometry.Box
	// Clear leaves the ground transparent.
	Clear bool
	// Inside is what the picture carries as its metadata, as XML; empty for nothing.
	Inside []byte
	// Says tells in words what is seen.
	Says string
	// Letters says how texts are written.
	Letters Letters
}

// Letters says how texts are written.
type Letters string

// The ways: as text with the characters of its typeface inside, which web browsers draw with; as text alone, for
// programs that have the typeface or take another one; or as outlines, which look alike everywhere.
const (
	Embedded Letters = ""
	Named    Letters = "named"
	Outlined Letters = "outlines"
)

// Write returns the picture of a sheet as an SVG document.
func Write(d *scene.Drawing, o Options) ([]byte, error) {
	b := o.Area
	if b == (geometry.Box{}) {
		b = d.Extent
	}
	scale := o.Scale
	if !(scale > 0) {
		scale = 1
	}
	buf := begin(int(float64(b.W)*scale), int(float64(b.H)*scale), b)
	buf = append(buf, `<title>`...)
	buf = append(scene.AppendEscaped(buf, d.Sheet.Name), `</title>`...)
	if o.Says != "" {
		buf = append(scene.AppendEscaped(append(buf, `<desc>`...), o.Says), `</desc>`...)
	}
	if len(o.Inside) > 0 {
		buf = append(append(append(buf, `<metadata>`...), o.Inside...), `</metadata>`...)
	}
	set, err := typeface.Of(d)
	if err != nil {
		return nil, err
	}
	shown := d
	if o.Letters != Embedded {
		shown = &scene.Drawing{}
	}
	if o.Letters != Outlined { // there is no text then that a style would be for
		if buf, err = appendFaces(buf, set, shown); err != nil {
			return nil, err
		}
	}
	if !o.Clear {
		buf = append(append(buf, `<path fill="#ffffff" d="`...), string(scene.AppendPath(nil, b.Outline()))...)
		buf = append(buf, `"/>`...)
	}
	buf = append(buf, `<g font-family="`+typeface.Families(d)+`" xml:space="preserve">`+"\n"...)
	if buf, err = appendNodes(buf, alone(d.Nodes), set, o.Letters == Outlined); err != nil {
		return nil, err
	}
	return append(buf, "</g></svg>\n"...), nil
}

// alone returns nodes without what leads to files kept with the map and to other maps, which are not in the picture.
func alone(nodes []scene.Node) []scene.Node {
	out := slices.Clone(nodes)
	for i := range out {
		out[i].Leads = slices.DeleteFunc(slices.Clone(out[i].Leads), func(l scene.Lead) bool {
			link := model.Hyperlink{To: l.To}
			return link.OtherMap() != "" || model.IsFileID(strings.TrimPrefix(l.To, "#"))
		})
	}
	return out
}

// Inline returns the picture of a sheet as an element of an HTML page, which gives it its fonts. What stands in leads
// leads on, by the ids of nodes.
func Inline(d *scene.Drawing, name string, leads map[string]string) ([]byte, error) {
	set, err := typeface.Of(d)
	if err != nil {
		return nil, err
	}
	buf := []byte(`<svg xmlns="http://www.w3.org/2000/svg" role="group" aria-label="`)
	buf = append(scene.AppendEscaped(buf, name), `" viewBox="`...)
	buf = append(appendBox(buf, d.Extent), `" font-family="`...)
	buf = append(append(buf, typeface.Families(d)...),
		`" style="font-kerning:none;font-variant-ligatures:none;white-space:pre"><path fill="#ffffff" d="`...)
	buf = append(scene.AppendPath(buf, d.Extent.Outline()), `"/>`...)
	for i := range d.Nodes {
		to, ok := leads[d.Nodes[i].ID]
		if ok = ok && len(d.Nodes[i].Leads) == 0; ok { // links do not lie in each other
			buf = append(scene.AppendEscaped(append(buf, `<a href="#n-`...), to), `">`...)
		}
		if buf, err = appendNodes(buf, d.Nodes[i:i+1], set, false); err != nil {
			return nil, err
		}
		if ok {
			buf = append(buf, `</a>`...)
		}
	}
	return append(buf, `</svg>`...), nil
}

// begin writes the head of a document of a width and height that shows a box.
func begin(w, h int, b geometry.Box) []byte {
	buf := []byte(`<?xml version="1.0" encoding="UTF-8"?>` + "\n" +
		`<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="`)
	buf = append(scene.AppendPx(buf, w), `" height="`...)
	buf = append(scene.AppendPx(buf, h), `" viewBox="`...)
	return append(appendBox(buf, b), `">`...)
}

func appendBox(buf []byte, b geometry.Box) []byte {
	for i, n := range [...]int{b.X, b.Y, b.W, b.H} {
		if i > 0 {
			buf = append(buf, ' ')
		}
		buf = scene.AppendPx(buf, n)
	}
	return buf
}

// appendFaces writes the fonts of a drawing into its document.
func appendFaces(buf []byte, set *typeface.Set, d *scene.Drawing) ([]byte, error) {
	faces, err := set.Embedded(d)
	if err != nil {
		return nil, err
	}
	buf = append(buf, `<defs><style type="text/css">`...)
	for _, f := range faces {
		buf = append(buf, `@font-face{font-family:"`+f.Family+`";font-weight:`+f.Weight()+`;font-style:`+f.Style()+
			`;src:url(data:font/ttf;base64,`...)
		buf = append(base64.StdEncoding.AppendEncode(buf, f.Data), `)}`...)
	}
	return append(buf,
		`text{font-kerning:none;font-variant-ligatures:none;text-rendering:geometricPrecision;white-space:pre}</style></defs>`...), nil
}

// appendGlyph writes the outline of a glyph at a place.
func appendGlyph(buf []byte, glyph sfnt.Segments, x, y, scale float64) []byte {
	point := func(p fixed.Point26_6) {
		buf = fmt.Appendf(buf, "%.2f %.2f ", x+float64(p.X)/64*scale, y+float64(p.Y)/64*scale)
	}
	begun := false
	for _, s := range glyph {
		n := 1
		switch s.Op {
		case sfnt.SegmentOpMoveTo:
			if begun {
				buf = append(buf, 'Z')
			}
			buf, begun = append(buf, 'M'), true
		case sfnt.SegmentOpLineTo:
			buf = append(buf, 'L')
		case sfnt.SegmentOpQuadTo:
			buf, n = append(buf, 'Q'), 2
		case sfnt.SegmentOpCubeTo:
			buf, n = append(buf, 'C'), 3
		}
		for _, p := range s.Args[:n] {
			point(p)
		}
	}
	if begun {
		buf = append(buf, 'Z')
	}
	return buf
}

// Page returns a page as it will be printed. Of several of one document each carries the fonts it needs.
func Page(p *pages.Page) ([]byte, error) {
	paper := geometry.Box{W: p.W, H: p.H}
	buf := begin(p.W, p.H, paper)
	buf = append(append(buf, `<path fill="#ffffff" d="`...), string(scene.AppendPath(nil, paper.Outline()))...)
	buf = append(buf, `"/>`...)
	for i := range p.Views {
		v := &p.Views[i]
		set, err := typeface.Of(v.Drawing)
		if err != nil {
			return nil, err
		}
		part := *v.Drawing
		part.Nodes = nil
		for _, n := range v.Drawing.Nodes {
			if v.From.Meets(n.Bounds()) {
				part.Nodes = append(part.Nodes, n)
			}
		}
		buf = scene.AppendPx(append(buf, `<svg x="`...), v.To.X)
		buf = scene.AppendPx(append(buf, `" y="`...), v.To.Y)
		buf = scene.AppendPx(append(buf, `" width="`...), v.To.W)
		buf = scene.AppendPx(append(buf, `" height="`...), v.To.H)
		buf = append(appendBox(append(buf, `" viewBox="`...), v.From), `" preserveAspectRatio="none">`...)
		if buf, err = appendFaces(buf, set, &part); err != nil {
			return nil, err
		}
		buf = append(buf, `<g font-family="`+typeface.Families(v.Drawing)+`" xml:space="preserve">`+"\n"...)
		if buf, err = appendNodes(buf, part.Nodes, set, false); err != nil {
			return nil, err
		}
		buf = append(buf, "</g></svg>\n"...)
	}
	own := &scene.Drawing{Nodes: p.Nodes}
	set := &typeface.Set{}
	buf, err := appendFaces(buf, set, own)
	if err != nil {
		return nil, err
	}
	buf = append(buf, `<g font-family="`+typeface.Families(own)+`" xml:space="preserve">`+"\n"...)
	if buf, err = appendNodes(buf, p.Nodes, set, false); err != nil {
		return nil, err
	}
	return append(buf, "</g></svg>\n"...), nil
}
