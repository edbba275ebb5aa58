package web

import (
	"errors"
	"slices"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/mail"
	"plaintracer/store"
)

// place is a map or folder that is shared.
type place struct {
	account.Place
	// base is its address, title what it is called, link where somebody finds it.
	base, title, link string
	shares            []account.Share
}

// placeOf is the map of a visit, as it is shared.
func (v *visit) placeOf() (place, error) {
	rules, err := v.s.house.Folders.Rules()
	if err != nil {
		return place{}, err
	}
	d, err := v.document()
	if err != nil {
		return place{}, err
	}
	m, _ := d.Snapshot()
	return place{account.Place{Map: v.id}, v.base, m.Title, v.s.Address + v.base, rules.SharesOfMap(v.where)}, nil
}

// shareView is a line of who may do what.
type shareView struct {
	account.Share
	Name, Email string
	// Where is the folder it comes from; empty where it was granted at this very place.
	Where string
	// Everyone stands for all of the house; Here says that it can be taken back here.
	Everyone, Here, Off bool
}

func (s *Server) shares(c fiber.Ctx) error {
	p, err := at(c).placeOf()
	if err != nil {
		return err
	}
	return s.showShares(c, p, "")
}

// share gives or takes back a right to a map.
func (s *Server) share(c fiber.Ctx) error {
	v := at(c)
	p, err := v.placeOf()
	if err != nil {
		return err
	}
	refusal, err := s.grant(c, p)
	if err != nil || refusal != "" {
		return s.orShares(c, p, refusal, err)
	}
	if p, err = v.placeOf(); err != nil {
		return err
	}
	return s.showShares(c, p, "")
}

func (s *Server) orShares(c fiber.Ctx, p place, refusal string, err error) error {
	if err != nil {
		return err
	}
	return s.showShares(c, p, refusal)
}

// grant reads a form that gives or takes back a right at a place. It returns why that cannot be.
func (s *Server) grant(c fiber.Ctx, p place) (refusal string, err error) {
	person := c.FormValue("person")
	who := "everyone of the house"
	var to account.Person
	switch {
	case person == "everyone":
		person = ""
	case person != "":
		if to, err = s.house.People.Get(person); err != nil {
			return "", err
		}
		who = to.Email
	default:
		if to, _, err = s.house.People.ByMail(c.FormValue("email")); errors.Is(err, store.ErrNotFound) {
			return "Nobody of the house has this address. An owner of the house can invite them; a link opens the map to others.", nil
		} else if err != nil {
			return "", err
		}
		person, who = to.ID, to.Email
	}
	if slices.ContainsFunc(p.shares, func(one account.Share) bool { return one.Owned && one.Person == person && person != "" }) {
		return to.Name + " owns this, or the folder it is in, and may do everything.", nil
	}
	if c.FormValue("right") == "inherit" {
		if err := s.house.Folders.Revoke(p.Place, person); err != nil {
			return "", err
		}
		s.note(c, "took back a right on "+p.title, who)
	} else {
		right, ok := account.RightNamed(c.FormValue("right"))
		if !ok {
			return "Choose what they may do.", nil
		}
		if err := s.house.Folders.Grant(account.Grant{Place: p.Place, Person: person, Right: right}); err != nil {
			return "", err
		}
		s.note(c, "gave the right to "+account.Rights[right].Verb+" "+p.title, who)
		if to.ID != "" && right > account.None && c.FormValue("email") != "" {
			s.sendMail(mail.Shared, to.Email, p.Map+p.Folder, map[string]any{"Name": to.Name, "By": whoAsks(c).Name, "Title": p.title, "Verb": account.Rights[right].Verb, "Link": p.link})
		}
	}
	s.live.RightsChanged()
	return "", nil
}

// showShares lists who may do what at a place.
func (s *Server) showShares(c fiber.Ctx, p place, refusal string) error {
	people, err := s.house.People.List()
	if err != nil {
		return err
	}
	rules, err := s.house.Folders.Rules()
	if err != nil {
		return err
	}
	byID := map[string]account.Person{}
	for _, one := range people {
		byID[one.ID] = one
	}
	everyone := shareView{Everyone: true, Name: "Everyone of the house"}
	var list []shareView
	for _, one := range p.shares {
		view := shareView{Share: one, Here: one.From == p.Place && !one.Owned}
		if one.From != p.Place {
			view.Where = rules.Folder(one.From.Folder).Name
		}
		if one.Person == "" {
			view.Everyone, view.Name = true, everyone.Name
			everyone = view
			continue
		}
		who := byID[one.Person]
		view.Name, view.Email, view.Off = who.Name, who.Email, !who.Off.IsZero()
		list = append(list, view)
	}
	var others []account.Person
	for _, one := range people {
		if one.Off.IsZero() && !slices.ContainsFunc(list, func(v shareView) bool { return v.Person == one.ID }) {
			others = append(others, one)
		}
	}
	return s.page(c, "shares.html", map[string]any{"Base": p.base, "List": append([]shareView{everyone}, list...), "Others": others, "Rights": account.Rights, "Refusal": refusal,
		"Folder": p.Folder != ""})
}
