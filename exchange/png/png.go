// Package png draws a sheet as a bitmap.
package png

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	_ "image/jpeg" // for pictures in the map
	"image/png"
	"strings"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
	"golang.org/x/text/unicode/bidi"

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
	set, err := typeface.Of(d)
	if err != nil {
		return nil, err
	}
	p := painter{canvas: c, ctx: canvas.NewContext(c), d: d, fonts: set, height: h}
	p.ctx.SetFillColor(canvas.White)
	p.ctx.DrawPath(0, 0, canvas.Rectangle(w, h))
	p.ctx.SetStrokeJoiner(canvas.RoundJoin)
	for i := range d.Nodes {
		if err := p.node(&d.Nodes[i]); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	err = png.Encode(&out, rasterizer.Draw(c, canvas.DPMM(scale), canvas.DefaultColorSpace))
	return out.Bytes(), err
}

type painter struct {
	canvas *canvas.Canvas
	ctx    *canvas.Context
	d      *scene.Drawing
	fonts  *typeface.Set
	height float64
}

func (p *painter) at(q geometry.Point) (x, y float64) {
	return float64(q.X-p.d.Extent.X) / geometry.Px, p.height - float64(q.Y-p.d.Extent.Y)/geometry.Px
}

func (p *painter) node(n *scene.Node) error {
	for i := range n.Shapes {
		p.shape(n.At, &n.Shapes[i])
	}
	for i := range n.Images {
		if err := p.image(n.At, &n.Images[i]); err != nil {
			return err
		}
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
	var dash []float64 // which the canvas counts in widths of the line
	for _, d := range s.Dash {
		dash = append(dash, float64(d)/float64(s.Width))
	}
	p.ctx.SetDashes(0, dash...)
	p.ctx.DrawPath(0, 0, path)
}

// image draws a picture in the middle of its box, as large as its proportions
// allow.
func (p *painter) image(at geometry.Point, i *scene.Image) error {
	x, y := p.at(i.Corner().Add(at))
	w, h := float64(i.W)/geometry.Px, float64(i.H)/geometry.Px
	scale := min(w/float64(i.Picture.W), h/float64(i.Picture.H))
	// The lower left corner of the picture itself.
	x += (w - scale*float64(i.Picture.W)) / 2
	y -= (h + scale*float64(i.Picture.H)) / 2
	if i.Picture.Type == "image/svg+xml" {
		drawing, err := canvas.ParseSVG(bytes.NewReader(i.Picture.Data))
		if err != nil {
			return fmt.Errorf("the drawing in the picture %s: %w", i.Picture.ID, err)
		}
		fit := scale * float64(i.Picture.W) / drawing.W
		drawing.RenderViewTo(p.canvas, canvas.Identity.Translate(x, y).Scale(fit, fit))
		return nil
	}
	picture, _, err := image.Decode(bytes.NewReader(i.Picture.Data))
	if err != nil {
		return fmt.Errorf("the picture %s: %w", i.Picture.ID, err)
	}
	p.ctx.DrawImage(x, y, picture, canvas.DPMM(1/scale))
	return nil
}

// text draws each character at the place the core's own widths give it, those
// of scripts that run leftwards in the order in which they are seen.
func (p *painter) text(at geometry.Point, t *scene.Text) error {
	cut := typeface.Cut{Bold: t.Style.Bold, Italic: t.Style.Italic}
	size := float64(t.Style.Size) / geometry.Px
	width := float64(typeset.Measure(t.Text, t.Style)) / geometry.Px
	x := -width / 2
	switch t.Anchor {
	case typeset.Start:
		x = 0
	case typeset.End:
		x = -width
	}
	line := &canvas.Path{}
	if t.Style.Underline {
		const below, thick = 0.12, 0.06 // of the type size
		line = line.Append(canvas.Rectangle(width, size*thick).Translate(x, -size*(below+thick)))
	}
	text, err := seen(t.Text)
	if err != nil {
		return err
	}
	for _, r := range text {
		f, err := p.fonts.Draws(cut, r)
		if err != nil {
			return err
		}
		glyph, ok, err := f.Glyph(r)
		if err != nil {
			return err
		}
		if ok {
			trace(line, glyph, x, size/float64(f.UnitsPerEm()))
		}
		large := t.Style
		large.Size = 1000 * geometry.Px
		x += float64(typeset.Measure(string(r), large)) / geometry.Px / 1000 * size
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

// trace adds the outline of a glyph to a path, its origin at x.
func trace(path *canvas.Path, glyph sfnt.Segments, x, scale float64) {
	at := func(p fixed.Point26_6) (float64, float64) {
		return x + float64(p.X)/64*scale, -float64(p.Y) / 64 * scale
	}
	begun := false
	for _, s := range glyph {
		ax, ay := at(s.Args[0])
		bx, by := at(s.Args[1])
		cx, cy := at(s.Args[2])
		switch s.Op {
		case sfnt.SegmentOpMoveTo:
			if begun {
				path.Close()
			}
			path.MoveTo(ax, ay)
			begun = true
		case sfnt.SegmentOpLineTo:
			path.LineTo(ax, ay)
		case sfnt.SegmentOpQuadTo:
			path.QuadTo(ax, ay, bx, by)
		case sfnt.SegmentOpCubeTo:
			path.CubeTo(ax, ay, bx, by, cx, cy)
		}
	}
	if begun {
		path.Close()
	}
}

// seen returns the characters of a line from left to right (UAX #9).
func seen(text string) (string, error) {
	var p bidi.Paragraph
	if _, err := p.SetString(text); err != nil {
		return "", fmt.Errorf("ordering %q: %w", text, err)
	}
	order, err := p.Order()
	if err != nil {
		return "", fmt.Errorf("ordering %q: %w", text, err)
	}
	var out strings.Builder
	for i := range order.NumRuns() {
		run := order.Run(i)
		if run.Direction() == bidi.RightToLeft {
			out.WriteString(bidi.ReverseString(run.String()))
		} else {
			out.WriteString(run.String())
		}
	}
	return out.String(), nil
}

// colour reads #rrggbb; empty is no colour.
func colour(hex string) color.RGBA {
	if hex == "" {
		return canvas.Transparent
	}
	return canvas.Hex(hex)
}
