// Package site is what all pages of the application share: who asks and what they may, how pages, files and pictures
// are answered, and what is slowed down.
package site

import (
	"errors"
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/live"
	"plaintracer/app/phrase"
	"plaintracer/core/model"
	"plaintracer/store"
)

// Visit is a request for one map, by somebody who may do something with it. Handlers ask it for
// what they need and never see how the map is named in the store.
type Visit struct {
	Site  *Site
	Map   string
	Where account.Map
	Right account.Right
	// Base is the address below which everything of the map is found, for pages and scripts.
	Base string
	// Link is the id of the link a visitor came by; empty for people in the organisation. Chosen says what it allows.
	Link   string
	Chosen store.Choices
	// Who is the person who asks; nil for a visitor by a link.
	Who *Me
	// Visitor tells those who came by the same link apart: a name that their browser shows. It is empty for people of
	// the organisation.
	Visitor string
	// Before is the revision that the visitor saw when they looked at the map the time before; below zero where there
	// was none, or where that is not kept.
	Before int
}

// MayCompare reports whether the visitor may see what changed: between any two states, or as a reader since they looked
// last. By a link that is a matter of the link.
func (v *Visit) MayCompare() (since, any bool) {
	return v.Who != nil || v.Right >= account.Remark || v.Chosen.Changes && v.Chosen.Version == "",
		v.Right >= account.Remark
}

type visitKey struct{}

// Keep has a request know its visit.
func (v *Visit) Keep(c fiber.Ctx) { c.Locals(visitKey{}, v) }

// At returns the visit of a request.
func At(c fiber.Ctx) *Visit { return c.Locals(visitKey{}).(*Visit) }

// Document opens the map as it can be worked on. By a link that shows a state that stays as it is there is none: what
// such a visit sees goes through shown, and stateNamed for what was before.
func (v *Visit) Document() (*documents.Document, error) {
	if v.Chosen.Version != "" {
		return nil, ErrNoState
	}
	return v.Site.House.Documents.Open(v.Map)
}

// Author is how what the visitor changes is signed.
func (v *Visit) Author() string {
	if v.Who == nil {
		return "link:" + v.Link
	}
	return v.Who.ID
}

// source is what is shown of a map: as it is now, or a version that stays as it was.
type source interface {
	// Key names it among all others, but for its revision.
	Key() string
	View(look func(m *model.Map, revision int))
	Snapshot() (*model.Map, int)
}

// Shown returns what the visitor sees of the map.
func (v *Visit) Shown() (source, error) {
	if v.Chosen.Version == "" {
		return v.Document()
	}
	kept, m, err := v.Site.House.Versions.Get(v.Chosen.Version)
	if err != nil {
		return nil, err
	}
	return &fixed{kept, m}, nil
}

// fixed is a version of a map.
type fixed struct {
	version store.Version
	m       *model.Map
}

// Key implements source.
func (f *fixed) Key() string { return "version " + f.version.ID }

// View implements source.
func (f *fixed) View(look func(m *model.Map, revision int)) { look(f.m, f.version.Revision) }

// Snapshot implements source.
func (f *fixed) Snapshot() (*model.Map, int) { return f.m.Clone(), f.version.Revision }

// Person finds out what somebody in the organisation may do with a map. Whether one is not there or not for them is
// answered alike.
func (s *Site) Person(c fiber.Ctx) (*Visit, error) {
	m := WhoAsks(c)
	if m == nil {
		return nil, s.AskWho(c)
	}
	v := &Visit{Site: s, Map: c.Params("id"), Base: "/maps/" + c.Params("id"), Who: m, Before: -1}
	where, binned, err := s.House.Maps.Where(v.Map)
	if err != nil {
		return nil, err
	}
	if v.Right, err = s.RightOn(m.ID, where); err != nil {
		return nil, err
	}
	if v.Right == account.None || binned && v.Right < account.Manage {
		return nil, store.ErrNotFound
	}
	v.Where = where
	return v, nil
}

// RightOn is the right a person has to a map.
func (s *Site) RightOn(person string, m account.Map) (account.Right, error) {
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return account.None, err
	}
	return rules.OnMap(person, m), nil
}

// Visitor lets whoever has a link do with the map it leads to what it is for, once they have shown what it asks for.
func (s *Site) Visitor(c fiber.Ctx) (*Visit, error) {
	f, err := s.followed(c)
	if err != nil {
		return nil, err
	}
	if want := s.asksFor(c, f); want != nil {
		return nil, want
	}
	right := f.Right
	if f.Version != "" {
		right = min(right, account.Remark)
	}
	return &Visit{Site: s, Map: f.Map, Right: right, Base: linkBase(c), Link: f.ID, Chosen: f.Choices,
		Visitor: s.knowVisitor(c, f.ID), Before: s.lookedBefore(c, f.ID)}, nil
}

// LinkForm is what a link can be for: how its address begins, the right it gives, and what it is called where one is
// made.
type LinkForm struct {
	Prefix string
	account.Right
	Title string
}

// LinkForms are those there are. All links once began with /read, which is not made any more.
var LinkForms = []LinkForm{{"/r", account.Read, "can read"}, {"/m", account.Remark, "can remark"},
	{"/e", account.Edit, "can edit"}, {"/read", account.None, ""}}

// FormFor is the form of a link that gives a right; nil where there is none.
func FormFor(right account.Right) *LinkForm {
	for i := range LinkForms {
		if f := &LinkForms[i]; f.Title != "" && f.Right == right {
			return f
		}
	}
	return nil
}

// linkBase is the address of the link of a request.
func linkBase(c fiber.Ctx) string {
	path, token := c.Path(), c.Params("token")
	for _, f := range LinkForms {
		if base := f.Prefix + "/" + token; path == base || len(path) > len(base) && path[:len(base)+1] == base+"/" {
			return base
		}
	}
	return LinkForms[0].Prefix + "/" + token
}

// followed returns where the link of a request leads.
func (s *Site) followed(c fiber.Ctx) (*store.Followed, error) {
	f, ended, err := s.House.Links.Follow(c.Params("token"))
	guess := Guesses.Of(s.From(c).Network())
	wait := s.Attempts.Wait(guess)
	switch {
	case err == nil && s.visitorOf(c, f.ID) != "": // who was here before guesses nothing
	case wait > 0:
		return nil, fiber.NewError(fiber.StatusTooManyRequests,
			"Too many links that lead nowhere were tried from where you are. Try again in "+phrase.InWords(wait)+".")
	case errors.Is(err, store.ErrNotFound) && ended.IsZero():
		s.Attempts.beginOnce(guess, c.Params("token"))
	}
	if errors.Is(err, store.ErrNotFound) {
		return nil, fiber.NewError(fiber.StatusGone, linkOver(ended))
	}
	return &f, err
}

// linkOver says why a link leads nowhere. A map in the bin and a link withdrawn are told alike.
func linkOver(ended time.Time) string {
	if ended.IsZero() {
		return "There is no map behind this link. Check that it was copied whole, or ask for a new one."
	}
	return "This link ended on " + ended.Format("2 January 2006") + ". Ask its owner for a new one."
}

// AsOf is when the version was kept that is shown; zero for the latest state.
func AsOf(shown source) time.Time {
	if f, ok := shown.(*fixed); ok {
		return f.version.Created
	}
	return time.Time{}
}

// ErrNoState is answered for a state of a map that there is not, or not for who asks.
var ErrNoState = fiber.ErrNotFound

// Rounds are those on the map of a visit, the latest first. By a link that shows a state that stays as it is, those
// about it alone.
func (v *Visit) Rounds() ([]store.Round, error) {
	rounds, err := v.Site.House.Rounds.Of(v.Map)
	if fixed := v.Chosen.Version; fixed != "" {
		rounds = slices.DeleteFunc(rounds, func(r store.Round) bool { return r.Version.ID != fixed })
	}
	return rounds, err
}

// Window is whoever has a window open, for what takes a right.
func (v *Visit) Window(needs account.Right) live.Who {
	w := live.Who{Link: v.Link, Needs: needs, Right: v.Right, Name: "somebody by a link"}
	switch {
	case v.Who != nil:
		w.Person, w.Name, w.Session, w.Ends = v.Who.ID, v.Who.Name, v.Who.Session, v.Who.ends
	case v.Link != "":
		w.Ends = v.Chosen.Until
	}
	return w
}
