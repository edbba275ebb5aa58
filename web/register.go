package web

import (
	"encoding/json"
	"io"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/exchange/intake"
)

// mostArrangement is how large the arrangement of a register's columns may be, in bytes.
const mostArrangement = 8 << 10

// arrangementOf is how the visitor has arranged the register of the map, as JSON; empty for nothing.
func (s *Server) arrangementOf(v *visit) string {
	if v.who == nil {
		return ""
	}
	kept, err := s.house.Visits.Arrangement(v.who.ID)
	if err != nil {
		return ""
	}
	return kept["register "+v.id]
}

// arrangeRegister keeps how a person has arranged the columns of the register. By a link nothing is kept.
func (s *Server) arrangeRegister(c fiber.Ctx) error {
	v := at(c)
	value := c.FormValue("arrangement")
	var shape struct {
		Order  []string       `json:"order"`
		Widths map[string]int `json:"widths"`
		Hidden []string       `json:"hidden"`
	}
	if len(value) > mostArrangement || json.Unmarshal([]byte(value), &shape) != nil {
		return fiber.NewError(fiber.StatusBadRequest, "This is no arrangement of columns.")
	}
	if v.who != nil {
		if err := s.house.Visits.Arrange(v.who.ID, map[string]string{"register " + v.id: value}); err != nil {
			return err
		}
	}
	return c.SendStatus(fiber.StatusNoContent)
}

// readTable reads a table that was filled in elsewhere, and sends it to the page as it is: the page's core compares it with
// the map.
func (s *Server) readTable(c fiber.Ctx) error {
	d, err := at(c).document()
	if err != nil {
		return err
	}
	name, data, err := fileOf(c)
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	ctx, stop := whileThere(c)
	defer stop()
	table, err := intake.Register(ctx, name, data, &m.Head)
	if err != nil {
		return orUnread(err)
	}
	return c.JSON(table)
}

// fileOf is the file that comes with a form.
func fileOf(c fiber.Ctx) (name string, data []byte, err error) {
	h, err := c.FormFile("file")
	if err != nil {
		return "", nil, fiber.NewError(fiber.StatusBadRequest, "Choose a file first.")
	}
	f, err := h.Open()
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	data, err = io.ReadAll(f)
	return h.Filename, data, err
}

// wide reports whether a page of the editor begins with the register over the whole window.
func wide(c fiber.Ctx) bool { return strings.HasSuffix(c.Path(), "/table") }
