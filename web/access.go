package web

import (
	"errors"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/core/model"
	"plaintracer/store"
)

// visit is a request for one map, by somebody who may do something with it. Handlers ask it for
// what they need and never see how the map is named in the store.
type visit struct {
	s     *Server
	id    string
	where account.Map
	right account.Right
	// base is the address below which everything of the map is found, for pages and scripts.
	base string
	// link is the id of the link a visitor came by; empty for people of the house. Chosen says what it allows.
	link   string
	chosen store.Choices
	// who is the person who asks; nil for a visitor by a link.
	who *me
	// visitor tells those who came by the same link apart: a name that their browser shows. It is empty for people of the house.
	visitor string
}

type visitKey struct{}

// at returns the visit of a request.
func at(c fiber.Ctx) *visit { return c.Locals(visitKey{}).(*visit) }

// document opens the map as it can be worked on. By a link that shows a state that stays as it is there is none: what such a
// visit sees goes through shown, and stateNamed for what was before.
func (v *visit) document() (*documents.Document, error) {
	if v.chosen.Version != "" {
		return nil, errNoState
	}
	return v.s.house.Documents.Open(v.id)
}

// author is how what the visitor changes is signed.
func (v *visit) author() string {
	if v.who == nil {
		return "link:" + v.link
	}
	return v.who.ID
}

// source is what is shown of a map: as it is now, or a version that stays as it was.
type source interface {
	// Key names it among all others, but for its revision.
	Key() string
	View(look func(m *model.Map, revision int))
	Snapshot() (*model.Map, int)
}

// shown returns what the visitor sees of the map.
func (v *visit) shown() (source, error) {
	if v.chosen.Version == "" {
		return v.document()
	}
	kept, m, err := v.s.house.Versions.Get(v.chosen.Version)
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

// route is a page or file of a map: its address below that of the map, and what it takes to ask
// for it. Saves says that it hands out files, which a link may not allow.
type route struct {
	method, path string
	needs        account.Right
	answer       func(*Server, fiber.Ctx) error
	saves        bool
}

// routes adds the addresses of a map to an application, each behind its right. Who finds out who
// asks, and what they may do; it is the only place that turns an address into a map.
func (s *Server) routes(app *fiber.App, prefix string, who func(c fiber.Ctx) (*visit, error), list []route) {
	for _, r := range list {
		app.Add([]string{r.method}, prefix+r.path, func(c fiber.Ctx) error {
			v, err := who(c)
			if v == nil || err != nil {
				return err
			}
			if v.right < r.needs {
				return fiber.NewError(fiber.StatusForbidden, "You may "+account.Rights[v.right].Verb+" this map, and this takes the right to "+account.Rights[r.needs].Verb+" it. Ask its owner.")
			}
			if r.saves && v.link != "" && !v.chosen.Download && v.right < account.Edit {
				return fiber.NewError(fiber.StatusForbidden, "This link is for reading; its owner does not let readers save the map.")
			}
			c.Locals(visitKey{}, v)
			return r.answer(s, c)
		})
	}
}

// mapRoutes are what is answered for a map, to people of the house and by links.
func mapRoutes() []route {
	list := []route{
		{"GET", "", account.Read, (*Server).open, false},
		{"GET", "/sheet/:sheet", account.Read, (*Server).readSheet, false},
		{"GET", "/face/:face", account.Read, (*Server).readFace, false},
		{"GET", "/trace", account.Read, (*Server).trace, false},
		{"GET", "/live", account.Read, (*Server).readSocket, false},
		{"GET", "/state", account.Edit, (*Server).state, false},
		{"GET", "/socket", account.Edit, (*Server).socket, false},
		{"GET", "/table", account.Edit, (*Server).open, false},
		{"POST", "/table", account.Edit, (*Server).readTable, false},
		{"POST", "/arrangement", account.Edit, (*Server).arrangeRegister, false},
		{"POST", "/work", account.Edit, (*Server).work, false},
		{"POST", "/fonts", account.Edit, (*Server).readFont, false},
		{"GET", "/aside", account.Edit, (*Server).aside, false},
		{"POST", "/remarks", account.Remark, (*Server).addRemark, false},
		{"GET", "/remarks/:remark/picture", account.Remark, (*Server).remarkPicture, false},
		{"POST", "/remarks/:remark/settle", account.Remark, (*Server).settleRemark, false},
		{"POST", "/remarks/:remark/pin", account.Remark, (*Server).pinRemark, false},
		{"POST", "/remarks/:remark/edit", account.Remark, (*Server).rewordRemark, false},
		{"POST", "/remarks/:remark/delete", account.Remark, (*Server).deleteRemark, false},
		{"POST", "/remarks/:remark/proposal", account.Edit, (*Server).answerProposal, false},
		{"GET", "/rounds/:round", account.Remark, (*Server).showRound, false},
		{"GET", "/rounds/:round/page.:format", account.Remark, (*Server).roundFile, false},
		{"POST", "/rounds/:round/say", account.Remark, (*Server).sayInRound, false},
		{"POST", "/versions", account.Edit, (*Server).keepVersion, false},
		{"GET", "/versions/:state", account.Remark, (*Server).showVersion, false},
		{"GET", "/versions/:state/return", account.Edit, (*Server).returnTo, false},
		{"GET", "/versions/:state/sheet.svg", account.Remark, (*Server).versionSheet, false},
		{"GET", "/changes", account.Remark, (*Server).changes, false},
		{"GET", "/changes/side.svg", account.Remark, (*Server).changesSide, false},
		{"GET", "/changes/account.:format", account.Remark, (*Server).changesFile, false},
	}
	for _, method := range []string{"GET", "POST"} {
		list = append(list, route{method, "/export/:format", account.Read, (*Server).export, true},
			route{method, "/preview/:format", account.Read, (*Server).preview, true}, route{method, "/print/:format", account.Read, (*Server).print, true})
	}
	for i := range panels {
		list = append(list, route{"GET", "/" + panels[i].Name, panels[i].needs, panels[i].answer, panels[i].needs == account.Read})
	}
	return list
}

// linkRoutes are what is answered by links alone.
func linkRoutes() []route {
	return []route{
		{"GET", "/picture.:format", account.Read, (*Server).embedded, false},
		{"GET", "/frame", account.Read, (*Server).frame, false},
	}
}

// ownRoutes are what is answered for a map to people of the house alone.
func ownRoutes() []route {
	return []route{
		{"GET", "/thumbnail.svg", account.Read, (*Server).thumbnail, false},
		{"POST", "/rename", account.Edit, (*Server).rename, false},
		{"POST", "/copy", account.Read, (*Server).copy, false},
		{"POST", "/versions/:state/copy", account.Remark, (*Server).copyVersion, false},
		{"POST", "/start", account.Manage, (*Server).saveStart, false},
		{"POST", "/delete", account.Manage, (*Server).delete, false},
		{"POST", "/rounds", account.Manage, (*Server).beginRound, false},
		{"POST", "/rounds/:round/link", account.Manage, (*Server).linkInRound, false},
		{"POST", "/rounds/:round/remind", account.Manage, (*Server).remindRound, false},
		{"POST", "/rounds/:round/heading", account.Manage, (*Server).headRound, false},
		{"POST", "/rounds/:round/end", account.Manage, (*Server).endRound, false},
		{"POST", "/restore", account.Manage, (*Server).restore, false},
		{"GET", "/people", account.Manage, (*Server).shares, false},
		{"POST", "/people", account.Manage, (*Server).share, false},
		{"GET", "/links", account.Manage, (*Server).links, false},
		{"POST", "/links", account.Manage, (*Server).createLink, false},
		{"POST", "/links/:link/withdraw", account.Manage, (*Server).withdrawLink, false},
	}
}

// person finds out what somebody of the house may do with a map. Whether one is not there or not for them is answered alike.
func (s *Server) person(c fiber.Ctx) (*visit, error) {
	m := whoAsks(c)
	if m == nil {
		return nil, s.askWho(c)
	}
	v := &visit{s: s, id: c.Params("id"), base: "/maps/" + c.Params("id"), who: m}
	where, binned, err := s.house.Maps.Where(v.id)
	if err != nil {
		return nil, err
	}
	if v.right, err = s.rightOn(m.ID, where); err != nil {
		return nil, err
	}
	if v.right == account.None || binned && v.right < account.Manage {
		return nil, store.ErrNotFound
	}
	v.where = where
	return v, nil
}

// rightOn is the right a person has to a map.
func (s *Server) rightOn(person string, m account.Map) (account.Right, error) {
	rules, err := s.house.Folders.Rules()
	if err != nil {
		return account.None, err
	}
	return rules.OnMap(person, m), nil
}

// visitor lets whoever has a link do with the map it leads to what it is for, once they have shown what it asks for.
func (s *Server) visitor(c fiber.Ctx) (*visit, error) {
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
	return &visit{s: s, id: f.Map, right: right, base: linkBase(c), link: f.ID, chosen: f.Choices, visitor: s.knowVisitor(c, f.ID)}, nil
}

// linkForm is what a link can be for: how its address begins, the right it gives, and what it is called where one is made.
type linkForm struct {
	Prefix string
	account.Right
	Title string
}

// linkForms are those there are. All links once began with /read, which is not made any more.
var linkForms = []linkForm{{"/r", account.Read, "to read"}, {"/m", account.Remark, "to remark"}, {"/e", account.Edit, "to edit"}, {"/read", account.None, ""}}

// formFor is the form of a link that gives a right; nil where there is none.
func formFor(right account.Right) *linkForm {
	for i := range linkForms {
		if f := &linkForms[i]; f.Title != "" && f.Right == right {
			return f
		}
	}
	return nil
}

// linkBase is the address of the link of a request.
func linkBase(c fiber.Ctx) string {
	path, token := c.Path(), c.Params("token")
	for _, f := range linkForms {
		if base := f.Prefix + "/" + token; path == base || len(path) > len(base) && path[:len(base)+1] == base+"/" {
			return base
		}
	}
	return linkForms[0].Prefix + "/" + token
}

// followed returns where the link of a request leads.
func (s *Server) followed(c fiber.Ctx) (*store.Followed, error) {
	f, ended, err := s.house.Links.Follow(c.Params("token"))
	guess := guesses.of(s.from(c).network())
	wait := s.attempts.wait(guess)
	switch {
	case err == nil && s.visitorOf(c, f.ID) != "": // who was here before guesses nothing
	case wait > 0:
		return nil, fiber.NewError(fiber.StatusTooManyRequests, "Too many links that lead nowhere were tried from where you are. Try again in "+inWords(wait)+".")
	case errors.Is(err, store.ErrNotFound) && ended.IsZero():
		s.attempts.beginOnce(guess, c.Params("token"))
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
