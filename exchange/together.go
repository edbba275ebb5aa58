package exchange

import (
	"context"
	"image"
	"image/draw"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/exchange/png"
	"plaintracer/exchange/svg"
)

// between is the room between sheets that stand on one picture.
const between = 24 * px

// Together makes one picture of all sheets, below each other, in one of the formats of pictures. Errors are as those of
// Make.
func Together(ctx context.Context, m *model.Map, f *Format, s Settings) ([]byte, error) {
	j, err := New(m, f, with(s, "what", "map"))
	if err != nil {
		return nil, err
	}
	list, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	// One page as large as all of them.
	page := pages.Page{}
	for i, d := range list {
		if i > 0 {
			page.H += between
		}
		area := j.area(d)
		page.Views = append(page.Views, pages.View{Drawing: d, From: area,
			To: geometry.Box{Y: page.H, W: area.W, H: area.H}})
		page.W, page.H = max(page.W, area.W), page.H+area.H
	}
	whole := geometry.Box{W: page.W, H: page.H}
	scale := j.scale(whole)
	if f.Name == "svg" {
		return svg.Page(&page)
	}
	if err := png.Fits(whole, scale); err != nil {
		return nil, &ChoiceError{err.Error()}
	}
	at := func(n int) int { return int(float64(n)/px*scale + 0.5) }
	out := image.NewNRGBA(image.Rect(0, 0, at(page.W), at(page.H)))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	for i := range page.Views {
		v := &page.Views[i]
		one, err := png.Draw(ctx, v.Drawing, png.Options{Area: v.From, Scale: scale})
		if err != nil {
			return nil, err
		}
		draw.Draw(out, one.Bounds().Sub(one.Bounds().Min).Add(image.Pt(0, at(v.To.Y))), one, one.Bounds().Min,
			draw.Over)
	}
	if f.Name == "jpeg" {
		return j.asJPEG(out)
	}
	return png.Encode(out)
}
