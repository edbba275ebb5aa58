package desk

import (
	"encoding/json"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/intake"
	"plaintracer/web/site"
)

// ReadFont unpacks and checks a font file and returns it as the editor takes it.
// It changes nothing: the window that asked makes the edit.
func (s *Desk) ReadFont(c fiber.Ctx) error {
	ctx, stop := site.WhileThere(c)
	defer stop()
	f, err := intake.Font(ctx, c.Body())
	if err != nil {
		return site.OrUnread(err)
	}
	return c.JSON(f)
}

// facesOf lists the fonts that draw each cut of a map, as JSON for the page.
func facesOf(m *model.Map) string {
	raw, err := json.Marshal(scene.Faces(m))
	if err != nil {
		return "[]"
	}
	return string(raw)
}

// ReadFace is a font file for the reader's page.
func (s *Desk) ReadFace(c fiber.Ctx) error {
	d, err := site.At(c).Shown()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	f := m.Font(c.Params("face"))
	if f == nil {
		return fiber.ErrNotFound
	}
	c.Set("Content-Type", "font/sfnt")
	c.Set("Cache-Control", "private, max-age=31536000, immutable")
	return c.Send(f.Data)
}
