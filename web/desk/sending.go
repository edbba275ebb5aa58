package desk

import (
	"errors"
	"fmt"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// SendSheet copies a sheet to another map, behind its last one, or moves it there. Both maps have to be ones that the
// person who asks may edit.
func (s *Desk) SendSheet(c fiber.Ctx) error {
	v := site.At(c)
	from, err := v.Document()
	if err != nil {
		return err
	}
	m, _ := from.Snapshot()
	sheet := m.Sheet(c.Params("sheet"))
	if sheet == nil {
		return fiber.NewError(fiber.StatusConflict, "This sheet is not there any more.")
	}
	move := c.FormValue("move") != ""
	if move && len(m.Sheets) == 1 {
		return fiber.NewError(fiber.StatusConflict, "A map keeps at least one sheet: copy it.")
	}
	id := c.FormValue("to")
	if id == "" {
		return fiber.NewError(fiber.StatusBadRequest, "Choose a map to send the sheet to.")
	}
	where, binned, err := s.House.Maps.Where(id)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	right := account.None
	if err == nil {
		if right, err = s.RightOn(v.Who.ID, where); err != nil {
			return err
		}
	}
	if right < account.Edit || binned || id == v.Map {
		return fiber.NewError(fiber.StatusForbidden, "Choose another map that you may edit. Nothing was changed.")
	}
	to, err := s.House.Documents.Open(id)
	if err != nil {
		return err
	}
	target, _ := to.Snapshot()
	window, _ := to.NewWindow()
	made := 0
	work := &compose.Work{Map: target, Sheet: target.Sheets[0], NewID: func() string {
		made++
		return fmt.Sprintf("%s-%d", window, made)
	}}
	clip := compose.SheetClip(m, sheet)
	sent, before := work.Unclipped(&clip)
	all := append(before, &edit.AddSheet{At: len(target.Sheets), Sheet: *sent})
	if _, err := to.ApplyAs(v.Author(), window, 1, edit.Together("bring the sheet "+model.Quote(sheet.Name),
		all...)); err != nil {
		return err
	}
	if move {
		window, _ := from.NewWindow()
		if _, err := from.ApplyAs(v.Author(), window, 1, &edit.RemoveSheet{Sheet: sheet.ID}); err != nil {
			return err
		}
	}
	return c.JSON(otherMap{id, target.Title, true})
}
