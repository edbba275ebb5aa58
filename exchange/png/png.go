// Package png draws a sheet as a bitmap.
package png

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/png"
	"math"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/picturefile"
	"plaintracer/exchange/typeface"
)

// MaxSide is the largest width or height of a bitmap, MaxPixels the largest number of its
// pixels.
const (
	MaxSide   = 20_000
	MaxPixels = 64_000_000
)

// TooLarge is a picture that would have more pixels than are drawn.
type TooLarge struct {
	W, H float64
	// Scale is the largest one that is drawn.
	Scale float64
}

func (e *TooLarge) Error() string {
	return fmt.Sprintf("a picture of %.0f by %.0f pixels is too large; choose a scale of %.2g or less", e.W, e.H,
		e.Scale)
}

// Options say how a bitmap is drawn.
type Options struct {
	// Scale is how many pixels of it there are to one CSS pixel.
	Scale float64
	// Area is the part of the drawing that is shown; the zero box is all of it.
	Area geometry.Box
	// Clear leaves the ground transparent.
	Clear bool
}

// Write returns the picture of a sheet as a PNG file, scale bitmap pixels for
// one CSS pixel. It ends early, with the error of the context, when that has ended.
func Write(ctx context.Context, d *scene.Drawing, scale float64) ([]byte, error) {
	img, err := Draw(ctx, d, Options{Scale: scale})
	if err != nil {
		return nil, err
	}
	return Encode(img)
}

// Encode writes a bitmap; a large one less tightly, since that would take seconds.
func Encode(img image.Image) ([]byte, error) {
	var out bytes.Buffer
	encoder := png.Encoder{}
	if b := img.Bounds(); b.Dx()*b.Dy() > MaxPixels/8 {
		encoder.CompressionLevel = png.BestSpeed
	}
	err := encoder.Encode(&out, img)
	return out.Bytes(), err
}

// Fits returns a *TooLarge where a bitmap of an area would have more pixels than are drawn.
func Fits(area geometry.Box, scale float64) error {
	w, h := float64(area.W)/geometry.Px, float64(area.H)/geometry.Px
	if !(scale > 0) || w*scale > MaxSide || h*scale > MaxSide || w*h*scale*scale > MaxPixels {
		most := min(MaxSide/w, MaxSide/h, math.Sqrt(MaxPixels/(w*h)))
		return &TooLarge{w * scale, h * scale, math.Floor(most*100) / 100}
	}
	return nil
}

// Draw draws a sheet as a bitmap. It ends early, with the error of the context, when that has ended.
func Draw(ctx context.Context, d *scene.Drawing, o Options) (image.Image, error) {
	area, scale := o.Area, o.Scale
	if area == (geometry.Box{}) {
		area = d.Extent
	}
	w, h := float64(area.W)/geometry.Px, float64(area.H)/geometry.Px
	if err := Fits(area, scale); err != nil {
		return nil, err
	}
	// Whole pixels, so that what lies on whole pixels of the sheet does so in the picture: lengths are counted
	// from the foot here.
	w, h = math.Ceil(w*scale-0.01)/scale, math.Ceil(h*scale-0.01)/scale
	// The canvas counts in millimetres from the lower left; here one of them
	// stands for a CSS pixel, and y is turned.
	c := canvas.New(w, h)
	set, err := typeface.Of(d)
	if err != nil {
		return nil, err
	}
	p := painter{draw: ctx, scale: scale, ctx: canvas.NewContext(c), corner: area.Corner(), fonts: set, height: h}
	if !o.Clear {
		p.ctx.SetFillColor(canvas.White)
		p.ctx.DrawPath(0, 0, canvas.Rectangle(w, h))
	}
	p.ctx.SetStrokeJoiner(canvas.RoundJoin)
	for i := range d.Nodes {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if !area.Meets(d.Nodes[i].Bounds()) {
			continue
		}
		if err := p.node(&d.Nodes[i]); err != nil {
			return nil, err
		}
	}
	bitmap := rasterizer.New(w, h, canvas.DPMM(scale), canvas.DefaultColorSpace)
	c.RenderTo(&stopping{bitmap, ctx})
	bitmap.Close()
	return bitmap.Image, ctx.Err()
}

// stopping draws nothing more once the context has ended.
type stopping struct {
	*rasterizer.Rasterizer
	ctx context.Context
}

func (s *stopping) RenderPath(path *canvas.Path, style canvas.Style, m canvas.Matrix) {
	if s.ctx.Err() == nil {
		s.Rasterizer.RenderPath(path, style, m)
	}
}

func (s *stopping) RenderImage(img image.Image, m canvas.Matrix) {
	if s.ctx.Err() == nil {
		s.Rasterizer.RenderImage(img, m)
	}
}

type painter struct {
	draw   context.Context
	scale  float64
	ctx    *canvas.Context
	corner geometry.Point
	fonts  *typeface.Set
	height float64
}

func (p *painter) at(q geometry.Point) (x, y float64) {
	return float64(q.X-p.corner.X) / geometry.Px, p.height - float64(q.Y-p.corner.Y)/geometry.Px
}

func (p *painter) node(n *scene.Node) error {
	for i := range n.Shapes {
		p.shape(n.At, &n.Shapes[i])
	}
	for i := range n.Images {
		if err := p.image(n.At, &n.Images[i]); err != nil {
			return err
		}
		if over, covered := n.Images[i].Over(); covered {
			p.shape(n.At, &over)
		}
	}
	for i := range n.Texts {
		for _, one := range n.Texts[i].Split() {
			if err := p.text(n.At, &one); err != nil {
				return err
			}
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
// allow. In the place of one that cannot be drawn stands a crossed frame.
func (p *painter) image(at geometry.Point, i *scene.Image) error {
	x, y := p.at(i.Corner().Add(at))
	w, h := float64(i.W)/geometry.Px, float64(i.H)/geometry.Px
	fit := min(w/float64(i.Picture.W), h/float64(i.Picture.H))
	pw, ph := fit*float64(i.Picture.W), fit*float64(i.Picture.H)
	// The lower left corner of the picture itself.
	x += (w - pw) / 2
	y -= (h + ph) / 2
	across := max(int(pw*p.scale+0.5), 1)
	bitmap, err := picturefile.Bitmap(p.draw, i.Picture, across, max(int(ph*p.scale+0.5), 1))
	if p.draw.Err() != nil {
		return p.draw.Err()
	}
	if err != nil {
		frame := canvas.Rectangle(pw, ph)
		frame.MoveTo(0, 0)
		frame.LineTo(pw, ph)
		frame.MoveTo(0, ph)
		frame.LineTo(pw, 0)
		p.ctx.SetFillColor(canvas.Transparent)
		p.ctx.SetStrokeColor(canvas.Gray)
		p.ctx.SetStrokeWidth(1)
		p.ctx.SetDashes(0)
		p.ctx.DrawPath(x, y, frame)
		return nil
	}
	p.ctx.DrawImage(x, y, bitmap, canvas.DPMM(float64(across)/pw))
	return nil
}

// text draws the glyphs of a line.
func (p *painter) text(at geometry.Point, t *scene.Text) error {
	set, err := p.fonts.Line(t.Text, t.Style)
	if err != nil {
		return err
	}
	size := float64(t.Style.Size) / geometry.Px
	x := set.Begin(t.Anchor) * size
	line := &canvas.Path{}
	if t.Style.Underline {
		line = line.Append(canvas.Rectangle(set.Width*size, size*typeface.UnderlineThick).Translate(x,
			-size*(typeface.UnderlineBelow+typeface.UnderlineThick)))
	}
	for _, g := range set.Glyphs {
		outline, err := g.Font.Outline(g.ID)
		if err != nil {
			return err
		}
		trace(line, outline, x+g.X*size, g.Y*size, size/float64(g.Font.UnitsPerEm()))
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

// trace adds the outline of a glyph to a path, its origin at x and y.
func trace(path *canvas.Path, glyph sfnt.Segments, x, y, scale float64) {
	at := func(p fixed.Point26_6) (float64, float64) {
		return x + float64(p.X)/64*scale, y - float64(p.Y)/64*scale
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

// colour reads #rrggbb; empty is no colour.
func colour(hex string) color.RGBA {
	if hex == "" {
		return canvas.Transparent
	}
	return canvas.Hex(hex)
}

// WithDots returns a PNG file that says how many of its pixels there are to the inch (PNG, third edition, 11.3.4.3).
func WithDots(file []byte, perInch float64) []byte {
	const head = 8 + 12 + 13 // the signature, and the chunk with the size, which comes first
	perMetre := uint32(perInch/0.0254 + 0.5)
	chunk := []byte("pHYs")
	for range 2 {
		chunk = binary.BigEndian.AppendUint32(chunk, perMetre)
	}
	chunk = append(chunk, 1) // by the metre
	out := append([]byte(nil), file[:head]...)
	out = binary.BigEndian.AppendUint32(out, uint32(len(chunk)-4))
	out = append(out, chunk...)
	out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(chunk))
	return append(out, file[head:]...)
}
