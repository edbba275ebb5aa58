package web

import (
	"fmt"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/live"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// rename gives a map another title.
func (s *Server) rename(c fiber.Ctx) error {
	v := at(c)
	d, err := v.document()
	if err != nil {
		return err
	}
	title := strings.TrimSpace(c.FormValue("title"))
	if title == "" {
		return fiber.NewError(fiber.StatusBadRequest, "A map needs a title.")
	}
	window, _ := d.NewWindow()
	if _, err := d.ApplyAs(v.author(), window, 1, &edit.SetHead{Title: &title}); err != nil {
		return err
	}
	return s.back(c)
}

// back turns to the page of the house that a form was sent from.
func (s *Server) back(c fiber.Ctx) error {
	return c.Redirect().Status(fiber.StatusSeeOther).To(inside(c.FormValue("back")))
}

func (s *Server) copy(c fiber.Ctx) error {
	v := at(c)
	d, err := v.document()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	m.Title = clip("Copy of "+m.Title, model.MaxName)
	folder := v.where.Folder
	if s.intoFolder(c, folder) != nil {
		folder = "" // the copy is theirs all the same
	}
	id, err := s.house.Maps.CreateFor(m, v.who.ID, folder)
	if err != nil {
		return err
	}
	if c.FormValue("remarks") != "" && v.right >= account.Remark {
		if err := s.house.Remarks.Copy(v.id, id); err != nil {
			return err
		}
	}
	return s.back(c)
}

func clip(text string, n int) string {
	if r := []rune(text); len(r) > n {
		return string(r[:n])
	}
	return text
}

// putAway moves a map to the bin, and tells who has it open.
func (s *Server) putAway(id string) error {
	if err := s.house.Documents.Bin(id); err != nil {
		return err
	}
	s.live.End(id, live.InBin, func(*live.Window) bool { return true })
	return nil
}

func (s *Server) delete(c fiber.Ctx) error {
	if err := s.putAway(at(c).id); err != nil {
		return err
	}
	return s.back(c)
}

func (s *Server) restore(c fiber.Ctx) error {
	if err := s.house.Documents.Restore(at(c).id); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// mine opens a map by its id with which the person who asks may do something.
func (s *Server) mine(c fiber.Ctx, id string, needs account.Right) (*documents.Document, error) {
	where, _, err := s.house.Maps.Where(id)
	if err != nil {
		return nil, err
	}
	right, err := s.rightOn(whoAsks(c).ID, where)
	if err != nil {
		return nil, err
	}
	if right == account.None {
		return nil, store.ErrNotFound
	}
	d, err := s.house.Documents.Open(id)
	if err == nil && right < needs {
		return nil, fiber.NewError(fiber.StatusForbidden, "You may not "+account.Rights[needs].Verb+" "+s.titleOf(d)+". Ask its owner. Nothing was changed.")
	}
	return d, err
}

// mostMarked is how many maps can be dealt with at once.
const mostMarked = 200

// marked are the maps that a form names, with each of which the person who asks may do something; or none at all.
func (s *Server) marked(c fiber.Ctx, needs account.Right) (ids []string, err error) {
	for _, raw := range c.Request().PostArgs().PeekMulti("id") {
		ids = append(ids, string(raw))
	}
	if len(ids) == 0 || len(ids) > mostMarked {
		return nil, fiber.NewError(fiber.StatusBadRequest, fmt.Sprintf("Mark the maps first, up to %d.", mostMarked))
	}
	for _, id := range ids {
		if _, err := s.mine(c, id, needs); err != nil {
			return nil, err
		}
	}
	return ids, nil
}

func (s *Server) moveMaps(c fiber.Ctx) error {
	ids, err := s.marked(c, account.Manage)
	if err != nil {
		return err
	}
	folder := c.FormValue("folder")
	if err := s.intoFolder(c, folder); err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.house.Maps.Move(id, folder); err != nil {
			return err
		}
	}
	s.live.RightsChanged()
	return s.back(c)
}

func (s *Server) deleteMaps(c fiber.Ctx) error {
	ids, err := s.marked(c, account.Manage)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.putAway(id); err != nil {
			return err
		}
	}
	return s.back(c)
}

func (s *Server) pinMaps(c fiber.Ctx) error {
	ids, err := s.marked(c, account.Read)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.house.Visits.Pin(whoAsks(c).ID, id, c.FormValue("pinned") != "no"); err != nil {
			return err
		}
	}
	return s.back(c)
}
