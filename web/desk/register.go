package desk

import (
	"encoding/json"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/exchange/intake"
	"plaintracer/web/site"
)

// mostArrangement is how large the arrangement of a register's columns may be, in bytes.
const mostArrangement = 8 << 10

// arrangementOf is how the visitor has arranged the register of the map, as JSON; empty for nothing.
func (s *Desk) arrangementOf(v *site.Visit) string {
	if v.Who == nil {
		return ""
	}
	kept, err := s.House.Visits.Arrangement(v.Who.ID)
	if err != nil {
		return ""
	}
	return kept["register "+v.Map]
}

// ArrangeRegister keeps how a person has arranged the columns of the register. By a link nothing is kept.
func (s *Desk) ArrangeRegister(c fiber.Ctx) error {
	v := site.At(c)
	value := c.FormValue("arrangement")
	var shape struct {
		Order  []string       `json:"order"`
		Widths map[string]int `json:"widths"`
		Hidden []string       `json:"hidden"`
	}
	if len(value) > mostArrangement || json.Unmarshal([]byte(value), &shape) != nil {
		return fiber.NewError(fiber.StatusBadRequest, "This is no arrangement of columns.")
	}
	if v.Who != nil {
		if err := s.House.Visits.Arrange(v.Who.ID, map[string]string{"register " + v.Map: value}); err != nil {
			return err
		}
	}
	return c.SendStatus(fiber.StatusNoContent)
}

// ReadTable reads a table that was filled in elsewhere, and sends it to the page as it is: the page's core compares it
// with the map.
func (s *Desk) ReadTable(c fiber.Ctx) error {
	d, err := site.At(c).Document()
	if err != nil {
		return err
	}
	name, data, err := site.FileOf(c)
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	ctx, stop := site.WhileThere(c)
	defer stop()
	table, err := intake.Register(ctx, name, c.FormValue("encoding"), data, &m.Head)
	if err != nil {
		return site.OrUnread(err)
	}
	return c.JSON(table)
}

// wide reports whether a page of the editor begins with the register over the whole window.
func wide(c fiber.Ctx) bool { return strings.HasSuffix(c.Path(), "/table") }
