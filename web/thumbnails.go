package web

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"io"
	"log"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/model"
	"plaintracer/exchange/svg"
)

// drawn returns the drawing of a sheet of a map as it is now, by the sheet's number from 1.
func (s *Server) drawn(ctx context.Context, c fiber.Ctx, number int) (*drawn, error) {
	d, err := at(c).document()
	if err != nil {
		return nil, err
	}
	return s.drawings.of(ctx, d, func(m *model.Map) *model.Sheet {
		if number < 1 || number > len(m.Sheets) {
			return nil
		}
		return m.Sheets[number-1]
	})
}

// thumbnail is the small picture of a map. It is drawn once for a revision and kept, compressed.
func (s *Server) thumbnail(c fiber.Ctx) error {
	v := at(c)
	revision := fiber.Query(c, "r", -1)
	packed, err := s.house.Thumbnails.Get(v.id, revision)
	if err != nil {
		return err
	}
	if packed == nil {
		if packed, err = s.drawThumbnail(c); err != nil {
			return err
		}
	}
	return sendPicture(c, packed)
}

// sendPicture answers with an SVG picture that was compressed, and that its address stands for.
func sendPicture(c fiber.Ctx, packed []byte) error {
	c.Set("Content-Security-Policy", picturePolicy)
	c.Set("Cache-Control", "private, max-age=31536000") // the address carries the revision
	c.Set("Content-Type", "image/svg+xml")
	if strings.Contains(c.Get("Accept-Encoding"), "gzip") {
		c.Set("Content-Encoding", "gzip")
		c.Set("Vary", "Accept-Encoding")
		return c.Send(packed)
	}
	r, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return err
	}
	out, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	return c.Send(out)
}

// drawThumbnail draws the first sheet of a map small, and keeps it.
func (s *Server) drawThumbnail(c fiber.Ctx) ([]byte, error) {
	ctx, stop := whileThere(c)
	defer stop()
	d, err := s.drawn(ctx, c, 1)
	if err != nil {
		return nil, err
	}
	out, err := made(s, c, func(context.Context) ([]byte, error) { return svg.Write(d.drawing, svg.Options{}) })
	if err != nil {
		return nil, err
	}
	packed, err := zipped(out)
	if err == nil && s.house.ReadOnly() == "" {
		if fault := s.house.Thumbnails.Keep(at(c).id, d.revision, packed); fault != nil {
			log.Printf("keeping a thumbnail: %v", fault)
		}
	}
	return packed, err
}

func zipped(data []byte) ([]byte, error) {
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, err := w.Write(data)
	err = errors.Join(err, w.Close())
	return packed.Bytes(), err
}
