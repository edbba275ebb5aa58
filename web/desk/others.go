package desk

import (
	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/web/site"
)

// Links to other maps of the organisation: by identity, so that a map that is called or kept elsewhere is still found,
// and with the title that it has now.

// titleFor is the title of another map as it is now; empty where it is not there, or not for who asks.
func (s *Desk) titleFor(v *site.Visit, id string) (string, error) {
	if v.Who == nil {
		return "", nil
	}
	if reads, err := s.House.Reads(v.Who.ID, id); err != nil || !reads {
		return "", err
	}
	d, err := s.House.Documents.Open(id)
	if err != nil {
		return "", err
	}
	return s.TitleOf(d), nil
}

// GoToMap turns to another map to which something leads, where the person who asks may read it.
func (s *Desk) GoToMap(c fiber.Ctx) error {
	v := site.At(c)
	title, err := s.titleFor(v, c.Params("other"))
	if err != nil {
		return err
	}
	if title == "" {
		return fiber.NewError(fiber.StatusGone,
			"This leads to a map that is not there any more, or that you may not read. Ask its owner.")
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/maps/" + c.Params("other"))
}

// otherMap is a map that something can lead to.
type otherMap struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// Edit says that the person who asks may edit it.
	Edit bool `json:"edit,omitempty"`
}

// OtherMaps lists the maps of the organisation that the person who asks may read, by which links to them are made and
// called.
func (s *Desk) OtherMaps(c fiber.Ctx) error {
	out := []otherMap{}
	if v := site.At(c); v.Who != nil {
		list, err := s.House.Maps.List(v.Who.ID, false)
		if err != nil {
			return err
		}
		rules, err := s.House.Folders.Rules()
		if err != nil {
			return err
		}
		for _, i := range list {
			if right := rules.OnMap(v.Who.ID, i.Map); i.ID != v.Map && right >= account.Read {
				out = append(out, otherMap{i.ID, i.Title, right >= account.Edit})
			}
		}
	}
	c.Set("Cache-Control", "private, no-store")
	return c.JSON(out)
}
