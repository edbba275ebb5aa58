package web

import (
	"encoding/json"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/diagram"
	"plaintracer/core/fonts"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/typeface"
)

// readFont unpacks and checks a font file and returns it as the editor takes it.
// It changes nothing: the window that asked makes the edit.
func (s *Server) readFont(c fiber.Ctx) error {
	f, err := fontfile.Read(c.Body())
	if err != nil {
		return fiber.NewError(fiber.StatusBadRequest, sentence(err.Error()))
	}
	return c.JSON(f)
}

// facesOf lists the fonts that draw each cut of a map, as JSON for the page.
func facesOf(m *diagram.Map) string {
	type face struct {
		ID     string `json:"id"`
		Weight string `json:"weight"`
		Style  string `json:"style"`
	}
	list := []face{}
	for _, cut := range typeface.Cuts {
		if f := fonts.Pick(m.HouseFonts(), cut.Bold, cut.Italic); f != nil {
			list = append(list, face{f.ID, cut.Weight(), cut.Style()})
		}
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return "[]"
	}
	return string(raw)
}

// readFace is a font file for the reader's page.
func (s *Server) readFace(c fiber.Ctx) error {
	d, err := s.follow(c)
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
