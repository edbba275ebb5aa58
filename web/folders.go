package web

import (
	"errors"
	"fmt"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/store"
)

// folderRoute is what is answered for a folder, to people of the house.
type folderRoute struct {
	method, path string
	needs        account.Right
	answer       func(*Server, fiber.Ctx, account.Folder) error
}

func folderRouteList() []folderRoute {
	return []folderRoute{
		{"POST", "/rename", account.Manage, (*Server).renameFolder},
		{"POST", "/move", account.Manage, (*Server).moveFolder},
		{"POST", "/remove", account.Manage, (*Server).removeFolder},
		{"GET", "/people", account.Manage, (*Server).folderShares},
		{"POST", "/people", account.Manage, (*Server).shareFolder},
	}
}

// folderRoutes adds what is answered for folders, each behind its right.
func (s *Server) folderRoutes(app *fiber.App) {
	for _, r := range folderRouteList() {
		app.Add([]string{r.method}, "/folders/:folder"+r.path, func(c fiber.Ctx) error {
			m := whoAsks(c)
			if m == nil {
				return s.askWho(c)
			}
			rules, err := s.house.Folders.Rules()
			if err != nil {
				return err
			}
			f := rules.Folder(c.Params("folder"))
			right := rules.OnFolder(m.ID, f.ID)
			if right == account.None {
				return store.ErrNotFound
			}
			if right < r.needs {
				return fiber.NewError(fiber.StatusForbidden, "You may "+account.Rights[right].Verb+" what is in this folder, and this takes the right to manage it. Ask its owner.")
			}
			return r.answer(s, c, f)
		})
	}
}

// intoFolder returns a folder that somebody wants to put something into, and refuses one where they may not. It is empty for
// the top of their own.
func (s *Server) intoFolder(c fiber.Ctx, id string) error {
	if id == "" {
		return nil
	}
	rules, err := s.house.Folders.Rules()
	if err != nil {
		return err
	}
	if rules.OnFolder(whoAsks(c).ID, id) < account.Edit {
		return fiber.NewError(fiber.StatusForbidden, "You may not put anything into this folder. Ask its owner.")
	}
	return nil
}

func (s *Server) addFolder(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return &unfit{err.Error()}
	}
	parent := c.FormValue("folder")
	if err := s.intoFolder(c, parent); err != nil {
		return err
	}
	id, err := s.house.Folders.Add(name, parent, whoAsks(c).ID)
	if err != nil {
		return folderFault(err, name)
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + id)
}

// folderFault says why a folder cannot be as somebody wants it.
func folderFault(err error, name string) error {
	switch {
	case errors.Is(err, store.ErrTaken):
		return &unfit{fmt.Sprintf("There is a folder “%s” in this place already. Choose another name.", name)}
	case errors.Is(err, store.ErrNotFound), store.Trouble(err) != "":
		return err
	}
	return &unfit{err.Error()}
}

func (s *Server) renameFolder(c fiber.Ctx, f account.Folder) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return &unfit{err.Error()}
	}
	if err := s.house.Folders.Rename(f.ID, name); err != nil {
		return folderFault(err, name)
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + f.ID)
}

func (s *Server) moveFolder(c fiber.Ctx, f account.Folder) error {
	to := c.FormValue("folder")
	if err := s.intoFolder(c, to); err != nil {
		return err
	}
	if err := s.house.Folders.Move(f.ID, to); err != nil {
		return folderFault(err, f.Name)
	}
	s.live.RightsChanged()
	return c.Redirect().Status(fiber.StatusSeeOther).To("/?folder=" + f.ID)
}

// removeFolder removes a folder in which nothing stands any more that is in use.
func (s *Server) removeFolder(c fiber.Ctx, f account.Folder) error {
	rules, err := s.house.Folders.Rules()
	if err != nil {
		return err
	}
	maps, err := s.house.List("", false)
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
		return &unfit{fmt.Sprintf("The folder “%s” still holds %s and %s. Move them out, or into the bin, first", f.Name, count(n, "map"), count(len(rules.Children(f.ID)), "folder"))}
	}
	if err := s.house.Folders.Remove(f.ID); err != nil {
		return err
	}
	s.live.RightsChanged()
	to := "/"
	if f.Parent != "" {
		to = "/?folder=" + f.Parent
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

// folderPlace is a folder as it is shared.
func (s *Server) folderPlace(f account.Folder) (place, error) {
	rules, err := s.house.Folders.Rules()
	if err != nil {
		return place{}, err
	}
	return place{account.Place{Folder: f.ID}, "/folders/" + f.ID, f.Name, s.Address + "/?folder=" + f.ID, rules.SharesOfFolder(f.ID)}, nil
}

func (s *Server) folderShares(c fiber.Ctx, f account.Folder) error {
	p, err := s.folderPlace(f)
	return s.orShares(c, p, "", err)
}

func (s *Server) shareFolder(c fiber.Ctx, f account.Folder) error {
	p, err := s.folderPlace(f)
	if err != nil {
		return err
	}
	refusal, err := s.grant(c, p)
	if err == nil && refusal == "" {
		p, err = s.folderPlace(f)
	}
	return s.orShares(c, p, refusal, err)
}
