package shelf

import (
	"context"
	"fmt"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/live"
	"plaintracer/app/phrase"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Rename gives a map another title.
func (s *Shelf) Rename(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return err
	}
	title := strings.TrimSpace(c.FormValue("title"))
	if title == "" {
		return fiber.NewError(fiber.StatusBadRequest, "A map needs a title.")
	}
	window, _ := d.NewWindow()
	if _, err := d.ApplyAs(v.Author(), window, 1, &edit.SetHead{Title: &title}); err != nil {
		return err
	}
	return s.back(c)
}

// back turns to the page of the organisation that a form was sent from.
func (s *Shelf) back(c fiber.Ctx) error {
	return c.Redirect().Status(fiber.StatusSeeOther).To(site.Inside(c.FormValue("back")))
}

// Copy makes a map of another one.
func (s *Shelf) Copy(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	m.Title = phrase.Clip("Copy of "+m.Title, model.MaxName)
	folder := v.Where.Folder
	if s.intoFolder(c, folder) != nil {
		folder = "" // the copy is theirs all the same
	}
	id, err := s.House.Add(m, v.Who.ID, folder)
	if err != nil {
		return err
	}
	if c.FormValue("remarks") != "" && v.Right >= account.Remark {
		if err := s.House.Remarks.Copy(v.Map, id); err != nil {
			return err
		}
	}
	return s.back(c)
}

// putAway moves a map to the bin, and tells who has it open.
func (s *Shelf) putAway(id string) error {
	if err := s.House.Documents.Bin(id); err != nil {
		return err
	}
	s.Live.End(id, live.InBin, func(*live.Window) bool { return true })
	return nil
}

// Delete puts a map into the bin.
func (s *Shelf) Delete(c fiber.Ctx) error {
	if err := s.putAway(site.At(c).Map); err != nil {
		return err
	}
	return s.back(c)
}

// Restore takes a map out of the bin.
func (s *Shelf) Restore(c fiber.Ctx) error {
	if err := s.House.Documents.Restore(site.At(c).Map); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// mine opens a map by its id with which the person who asks may do something.
func (s *Shelf) mine(c fiber.Ctx, id string, needs account.Right) (*documents.Document, error) {
	where, _, err := s.House.Maps.Where(id)
	if err != nil {
		return nil, err
	}
	right, err := s.RightOn(site.WhoAsks(c).ID, where)
	if err != nil {
		return nil, err
	}
	if right == account.None {
		return nil, store.ErrNotFound
	}
	d, err := s.House.Documents.Open(id)
	if err == nil && right < needs {
		return nil, fiber.NewError(fiber.StatusForbidden, "You may not "+account.Rights[needs].Verb+" "+s.TitleOf(d)+
			". Ask its owner. Nothing was changed.")
	}
	return d, err
}

// mostMarked is how many maps can be dealt with at once.
const mostMarked = 200

// marked are the maps that a form names, with each of which the person who asks may do something; or none at all.
func (s *Shelf) marked(c fiber.Ctx, needs account.Right) (ids []string, err error) {
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

// MoveMaps puts maps into a folder.
func (s *Shelf) MoveMaps(c fiber.Ctx) error {
	ids, err := s.marked(c, account.Manage)
	if err != nil {
		return err
	}
	folder := c.FormValue("folder")
	if err := s.intoFolder(c, folder); err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.House.Maps.Move(id, folder); err != nil {
			return err
		}
	}
	s.Live.RightsChanged()
	return s.back(c)
}

// DeleteMaps puts maps into the bin.
func (s *Shelf) DeleteMaps(c fiber.Ctx) error {
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

// PinMaps has a person have maps at hand, or not any more.
func (s *Shelf) PinMaps(c fiber.Ctx) error {
	ids, err := s.marked(c, account.Read)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.House.Visits.Pin(site.WhoAsks(c).ID, id, c.FormValue("pinned") != "no"); err != nil {
			return err
		}
	}
	return s.back(c)
}

// ExportMaps gives several maps as one archive, each in a format as it is made where nothing else is chosen.
func (s *Shelf) ExportMaps(c fiber.Ctx) error {
	format, _ := site.Said(c)("format")
	f := exchange.Named(format)
	if f == nil {
		return fiber.NewError(fiber.StatusBadRequest, "Choose a format.")
	}
	ids, err := s.marked(c, account.Read)
	if err != nil {
		return err
	}
	settings, err := exchange.Read(f, func(name string) (string, bool) {
		if name == "what" {
			return "map", true
		}
		return "", false
	})
	if err != nil {
		return err
	}
	var maps []*model.Map
	for _, id := range ids {
		d, err := s.mine(c, id, account.Read)
		if err != nil {
			return err
		}
		m, _ := d.Snapshot()
		maps = append(maps, m)
	}
	out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		return site.Packed(ctx, maps, f, settings,
			func(i int) exchange.Files { return s.FilesOf(ids[i]) })
	})
	if err != nil {
		return err
	}
	site.Attach(c, "maps.zip")
	return site.SendFile(c, "application/zip", out, nil)
}
