// Package png draws a sheet as a bitmap.
package png

import (
	"bytes"
	"fmt"
	"image/color"
	"image/png"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"
	"github.com/tdewolff/font"

	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/exchange/typeface"
)

// MaxSide is the largest width or height of a bitmap.
const MaxSide = 20000

// Write returns the picture of a sheet as a PNG file, scale bitmap pixels for
// one CSS pixel.
func Write(d *scene.Drawing, scale float64) ([]byte, error) {
	w, h := float64(d.Extent.W)/geometry.Px, float64(d.Extent.H)/geometry.Px
	if scale <= 0 || w*scale > MaxSide || h*scale > MaxSide {
		return nil, fmt.Errorf("a picture of %.0f by %.0f pixels is too large; choose a smaller scale", w*scale, h*scale)
	}
	// The canvas counts in millimetres from the lower left; here one of them
	// stands for a CSS pixel, and y is turned.
	c := canvas.New(w, h)
	p := painter{ctx: canvas.NewContext(c), d: d, height: h}
	p.ctx.SetFillColor(canvas.White)
	p.ctx.DrawPath(0, 0, canvas.Rectangle(w, h))
	p.ctx.SetStrokeJoiner(canvas.RoundJoin)
	for i := range d.Nodes {
		if err := p.node(&d.Nodes[i]); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	err := png.Encode(&out, rasterizer.Draw(c, canvas.DPMM(scale), canvas.DefaultColorSpace))
	return out.Bytes(), err
}

type painter struct {
	ctx    *canvas.Context
	d      *scene.Drawing
	height float64
}

func (p *painter) at(q geometry.Point) (x, y float64) {
	return float64(q.X-p.d.Extent.X) / geometry.Px, p.height - float64(q.Y-p.d.Extent.Y)/geometry.Px
}

func (p *painter) node(n *scene.Node) error {
	for i := range n.Shapes {
		p.shape(n.At, &n.Shapes[i])
	}
	for i := range n.Texts {
		if err := p.text(n.At, &n.Texts[i]); err != nil {
			return err
		}
	}
	return nil
}

func (p *painter) shape(at geometry.Point, s *scene.Shape) {
	path := &canvas.Path{}
	for _, op := range s.Path {
		x, y := p.at(op.P.Add(at))
		switch op.Verb {
		case 'M':
			path.MoveTo(x, y)
		case 'L':
			path.LineTo(x, y)
		case 'C':
			ax, ay := p.at(op.A.Add(at))
			bx, by := p.at(op.B.Add(at))
			path.CubeTo(ax, ay, bx, by, x, y)
		case 'Z':
			path.Close()
		}
	}
	p.ctx.SetFillColor(colour(s.Fill))
	p.ctx.SetStrokeColor(colour(s.Stroke))
	p.ctx.SetStrokeWidth(float64(s.Width) / geometry.Px)
	if s.Dashed {
		p.ctx.SetDashes(0, 6, 4)
	} else {
		p.ctx.SetDashes(0)
	}
	p.ctx.DrawPath(0, 0, path)
}

// text draws each character at the place the core's own widths give it.
func (p *painter) text(at geometry.Point, t *scene.Text) error {
	face, err := typeface.Face(t.Style.Bold)
	if err != nil {
		return err
	}
	size := float64(t.Style.Size) / geometry.Px
	scale := size / float64(face.Head.UnitsPerEm)
	x := -float64(typeset.Measure(t.Text, t.Style)) / 2 / geometry.Px
	line := &canvas.Path{}
	for _, r := range t.Text {
		glyph := face.GlyphIndex(r)
		if err := face.GlyphPath(line, glyph, 0, x, 0, scale, font.NoHinting); err != nil {
			return fmt.Errorf("drawing %q: %w", r, err)
		}
		x += float64(face.GlyphAdvance(glyph)) * scale
	}
	if t.Turned {
		line = line.Transform(canvas.Identity.Rotate(90))
	}
	px, py := p.at(geometry.Point{X: t.X, Y: t.Y}.Add(at))
	p.ctx.SetFillColor(colour(t.Fill))
	p.ctx.SetStrokeColor(canvas.Transparent)
	p.ctx.DrawPath(px, py, line)
	return nil
}

// colour reads #rrggbb; empty is no colour.
func colour(hex string) color.RGBA {
	if hex == "" {
		return canvas.Transparent
	}
	return canvas.Hex(hex)
}
