package shelf

import (
	"context"
	"log"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/model"
	"plaintracer/exchange/svg"
	"plaintracer/web/site"
)

// drawn returns the drawing of a sheet of a map as it is now, by the sheet's number from 1.
func (s *Shelf) drawn(ctx context.Context, c fiber.Ctx, number int) (*site.Drawn, error) {
	d, err := site.At(c).Document()
	if err != nil {
		return nil, err
	}
	return s.Drawings.Of(ctx, d, func(m *model.Map) *model.Sheet {
		if number < 1 || number > len(m.Sheets) {
			return nil
		}
		return m.Sheets[number-1]
	})
}

// Thumbnail is the small picture of a map. It is drawn once for a revision and kept, compressed.
func (s *Shelf) Thumbnail(c fiber.Ctx) error {
	v := site.At(c)
	revision := fiber.Query(c, "r", -1)
	packed, err := s.House.Thumbnails.Get(v.Map, revision)
	if err != nil {
		return err
	}
	if packed == nil {
		if packed, err = s.drawThumbnail(c); err != nil {
			return err
		}
	}
	return site.SendPicture(c, packed)
}

// drawThumbnail draws the first sheet of a map small, and keeps it.
func (s *Shelf) drawThumbnail(c fiber.Ctx) ([]byte, error) {
	ctx, stop := site.WhileThere(c)
	defer stop()
	d, err := s.drawn(ctx, c, 1)
	if err != nil {
		return nil, err
	}
	out, err := site.Made(s.Site, c,
		func(context.Context) ([]byte, error) { return svg.Write(d.Drawing, svg.Options{}) })
	if err != nil {
		return nil, err
	}
	packed, err := svg.Zipped(out)
	if err == nil && s.House.ReadOnly() == "" {
		if fault := s.House.Thumbnails.Keep(site.At(c).Map, d.Revision, packed); fault != nil {
			log.Printf("keeping a thumbnail: %v", fault)
		}
	}
	return packed, err
}
