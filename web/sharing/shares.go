// Package sharing is how maps and folders are shared, with people in the organisation and by links.
package sharing

import (
	"errors"
	"slices"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/mail"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Sharing are the pages on which a map or folder is shared, with people in the organisation and by links.
type Sharing struct{ *site.Site }

// New returns them.
func New(s *site.Site) *Sharing { return &Sharing{s} }

// place is a map or folder that is shared.
type place struct {
	account.Place
	// base is its address, title what it is called, link where somebody finds it.
	base, title, link string
	shares            []account.Share
}

// placeOf is the map of a visit, as it is shared.
func placeOf(v *site.Visit) (place, error) {
	rules, err := v.Site.House.Folders.Rules()
	if err != nil {
		return place{}, err
	}
	d, err := v.Document()
	if err != nil {
		return place{}, err
	}
	m, _ := d.Snapshot()
	return place{account.Place{Map: v.Map}, v.Base, m.Title, v.Site.Address + v.Base, rules.SharesOfMap(v.Where)}, nil
}

// shareView is a line of who may do what.
type shareView struct {
	account.Share
	Name, Email string
	// Where is the folder it comes from; empty where it was granted at this very place.
	Where string
	// Everyone stands for all of the organisation; Here says that it can be taken back here.
	Everyone, Here, Off bool
}

// Shares lists with whom a map is shared.
func (s *Sharing) Shares(c fiber.Ctx) error {
	p, err := placeOf(site.At(c))
	if err != nil {
		return err
	}
	return s.showShares(c, p, "")
}

// Share gives or takes back a right to a map.
func (s *Sharing) Share(c fiber.Ctx) error {
	v := site.At(c)
	p, err := placeOf(v)
	if err != nil {
		return err
	}
	refusal, err := s.grant(c, p)
	if err != nil || refusal != "" {
		return s.orShares(c, p, refusal, err)
	}
	if p, err = placeOf(v); err != nil {
		return err
	}
	return s.showShares(c, p, "")
}

func (s *Sharing) orShares(c fiber.Ctx, p place, refusal string, err error) error {
	if err != nil {
		return err
	}
	return s.showShares(c, p, refusal)
}

// grant reads a form that gives or takes back a right at a place. It returns why that cannot be.
func (s *Sharing) grant(c fiber.Ctx, p place) (refusal string, err error) {
	person := c.FormValue("person")
	who := "everyone in the organisation"
	var to account.Person
	switch {
	case person == "everyone":
		person = ""
	case person != "":
		if to, err = s.House.People.Get(person); err != nil {
			return "", err
		}
		who = to.Email
	default:
		if to, _, err = s.House.People.ByMail(c.FormValue("email")); errors.Is(err, store.ErrNotFound) {
			return "Nobody in the organisation has this address. An administrator can invite them; a link opens the map to others.", nil
		} else if err != nil {
			return "", err
		}
		person, who = to.ID, to.Email
	}
	if slices.ContainsFunc(p.shares,
		func(one account.Share) bool { return one.Owned && one.Person == person && person != "" }) {
		return to.Name + " owns this, or the folder it is in, and may do everything.", nil
	}
	if c.FormValue("right") == "inherit" {
		if err := s.House.Folders.Revoke(p.Place, person); err != nil {
			return "", err
		}
		s.Note(c, "took back a right on "+p.title, who)
	} else {
		right, ok := account.RightNamed(c.FormValue("right"))
		if !ok {
			return "Choose what they may do.", nil
		}
		if err := s.House.Folders.Grant(account.Grant{Place: p.Place, Person: person, Right: right}); err != nil {
			return "", err
		}
		s.Note(c, "gave the right to "+account.Rights[right].Verb+" "+p.title, who)
		if to.ID != "" && right > account.None && c.FormValue("email") != "" {
			s.Post.Send(mail.Shared, to.Email, p.Map+p.Folder,
				map[string]any{"Name": to.Name, "By": site.WhoAsks(c).Name, "Title": p.title,
					"Verb": account.Rights[right].Verb, "Link": p.link})
		}
	}
	s.Live.RightsChanged()
	return "", nil
}

// showShares lists who may do what at a place.
func (s *Sharing) showShares(c fiber.Ctx, p place, refusal string) error {
	people, err := s.House.People.List()
	if err != nil {
		return err
	}
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return err
	}
	byID := map[string]account.Person{}
	for _, one := range people {
		byID[one.ID] = one
	}
	everyone := shareView{Everyone: true, Name: "Everyone in the organisation"}
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
	return s.Page(c, "shares.html", &sharesPage{Base: p.base, List: append([]shareView{everyone}, list...),
		Others: others, Rights: account.Rights, Refusal: refusal, Folder: p.Folder != ""})
}

// folderPlace is a folder as it is shared.
func (s *Sharing) folderPlace(f account.Folder) (place, error) {
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return place{}, err
	}
	return place{account.Place{Folder: f.ID}, "/folders/" + f.ID, f.Name, s.Address + "/?folder=" + f.ID,
		rules.SharesOfFolder(f.ID)}, nil
}

// FolderShares lists with whom a folder is shared.
func (s *Sharing) FolderShares(c fiber.Ctx, f account.Folder) error {
	p, err := s.folderPlace(f)
	return s.orShares(c, p, "", err)
}

// ShareFolder shares a folder with a person.
func (s *Sharing) ShareFolder(c fiber.Ctx, f account.Folder) error {
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

// sharesPage is what shares.html shows.
type sharesPage struct {
	site.Frame
	Base    string
	List    []shareView
	Others  []account.Person
	Rights  []account.RightWords
	Refusal string
	Folder  bool
}
