// Package picturefile turns the pictures a map carries into bitmaps. What is in them comes
// from anywhere: bitmaps are bounded by their pixels, and drawings, of which a short one can
// ask for endless work, are drawn by a process of their own that is ended when it takes too
// long or too much.
package picturefile

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // pictures come as JPEG
	"image/png"

	"golang.org/x/image/draw"

	"plaintracer/core/pictures"
)

// maxPixels is how many pixels a bitmap may have.
const maxPixels = 25_000_000

// soundSide is the larger side of the drawing that is made to see whether one can be drawn.
const soundSide = 300

// Sound reports what is wrong with a picture, in words that follow "the picture": it is
// decoded, or drawn once.
func Sound(ctx context.Context, p *pictures.Picture) error {
	w, h := p.W, p.H
	if largest := max(w, h); largest > soundSide {
		w, h = max(w*soundSide/largest, 1), max(h*soundSide/largest, 1)
	}
	_, err := Bitmap(ctx, p, w, h)
	return err
}

// Bitmap returns a picture as a bitmap of w by h pixels, whose proportions should be those of
// the picture. An error says, in words that follow "the picture", why it cannot be drawn.
func Bitmap(ctx context.Context, p *pictures.Picture, w, h int) (image.Image, error) {
	if w < 1 || h < 1 || w*h > maxPixels {
		return nil, fmt.Errorf("would be %d by %d pixels", w, h)
	}
	if p.Type == "image/svg+xml" {
		return drawing(ctx, p.Data, w, h)
	}
	if p.W*p.H > maxPixels {
		return nil, fmt.Errorf("has %d by %d pixels; at most %d million can be shown. Save it in a smaller size", p.W,
			p.H, maxPixels/1_000_000)
	}
	whole, _, err := image.Decode(bytes.NewReader(p.Data))
	if err != nil {
		return nil, errors.New("is cut short or damaged")
	}
	if size := whole.Bounds().Size(); size.X == w && size.Y == h {
		return whole, nil
	}
	scaled := image.NewRGBA(image.Rect(0, 0, w, h))
	by := draw.Interpolator(draw.CatmullRom)
	if p.W*p.H > 4*w*h || w*h > p.W*p.H { // much smaller, or larger: softer does as well
		by = draw.ApproxBiLinear
	}
	if p.W*p.H > 4*w*h { // halved first, so that no line of it is lost
		half := whole
		for b := half.Bounds(); b.Dx() > 2*w && b.Dy() > 2*h; b = half.Bounds() {
			next := image.NewRGBA(image.Rect(0, 0, b.Dx()/2, b.Dy()/2))
			draw.ApproxBiLinear.Scale(next, next.Bounds(), half, b, draw.Src, nil)
			half = next
		}
		whole = half
	}
	by.Scale(scaled, scaled.Bounds(), whole, whole.Bounds(), draw.Src, nil)
	return scaled, nil
}

// decodeDrawn reads the bitmap that the process of its own has made.
func decodeDrawn(out []byte, w, h int) (image.Image, error) {
	head, err := png.DecodeConfig(bytes.NewReader(out))
	if err != nil || head.Width != w || head.Height != h {
		return nil, errDrawing
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		return nil, errDrawing
	}
	return img, nil
}
