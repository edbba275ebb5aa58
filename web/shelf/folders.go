package shelf

import (
	"errors"
	"fmt"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/store"
	"plaintracer/web/site"
)

// intoFolder returns a folder that somebody wants to put something into, and refuses one where they may not. It is
// empty for the top of their own.
func (s *Shelf) intoFolder(c fiber.Ctx, id string) error {
	if id == "" {
		return nil
	}
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return err
	}
	if rules.OnFolder(site.WhoAsks(c).ID, id) < account.Edit {
		return fiber.NewError(fiber.StatusForbidden, "You may not put anything into this folder. Ask its owner.")
	}
	return nil
}

// AddFolder makes a folder.
func (s *Shelf) AddFolder(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return site.FormError(err.Error())
	}
	parent := c.FormValue("folder")
	if err := s.intoFolder(c, parent); err != nil {
		return err
	}
	id, err := s.House.Folders.Add(name, parent, site.WhoAsks(c).ID)
	if err != nil {
		return folderFault(err, name)
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + id)
}

// folderFault says why a folder cannot be as somebody wants it.
func folderFault(err error, name string) error {
	switch {
	case errors.Is(err, store.ErrTaken):
		return site.FormError(fmt.Sprintf("There is a folder “%s” in this place already. Choose another name.", name))
	case errors.Is(err, store.ErrNotFound), store.Trouble(err) != "":
		return err
	}
	return site.FormError(err.Error())
}

// RenameFolder gives a folder another name.
func (s *Shelf) RenameFolder(c fiber.Ctx, f account.Folder) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return site.FormError(err.Error())
	}
	if err := s.House.Folders.Rename(f.ID, name); err != nil {
		return folderFault(err, name)
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + f.ID)
}

// MoveFolder puts a folder into another one.
func (s *Shelf) MoveFolder(c fiber.Ctx, f account.Folder) error {
	to := c.FormValue("folder")
	if err := s.intoFolder(c, to); err != nil {
		return err
	}
	if err := s.House.Folders.Move(f.ID, to); err != nil {
		return folderFault(err, f.Name)
	}
	s.Live.RightsChanged()
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + f.ID)
}

// RemoveFolder removes a folder in which nothing stands any more that is in use.
func (s *Shelf) RemoveFolder(c fiber.Ctx, f account.Folder) error {
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return err
	}
	maps, err := s.House.List("", false)
	if err != nil {
		return err
	}
	n := 0
	for _, m := range maps {
		if m.Folder == f.ID {
			n++
		}
	}
	if n > 0 || len(rules.Children(f.ID)) > 0 {
		return site.FormError(fmt.Sprintf("The folder “%s” still holds %s and %s. Move them out, or into the bin, first", f.Name, phrase.Count(n, "map"), phrase.Count(len(rules.Children(f.ID)), "folder")))
	}
	if err := s.House.Folders.Remove(f.ID); err != nil {
		return err
	}
	s.Live.RightsChanged()
	to := "/"
	if f.Parent != "" {
		to = "/?folder=" + f.Parent
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}
