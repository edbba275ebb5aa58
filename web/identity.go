package web

import (
	"cmp"
	"errors"
	"log"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/store"
)

// me is the person who asks.
type me struct {
	account.Person
	// session is the token of their session; empty where the application takes everybody on this machine for one person.
	session string
	// ends is when that session comes to its end if it is not used any more; zero where there is none.
	ends time.Time
}

type meKey struct{}

// whoAsks returns the person who asks; nil for nobody who is known.
func whoAsks(c fiber.Ctx) *me {
	m, _ := c.Locals(meKey{}).(*me)
	return m
}

// identify finds out who asks.
func (s *Server) identify(c fiber.Ctx) error {
	if token := s.kept(c, sessionCookie); token != "" {
		session, err := s.house.Sessions.Get(token)
		switch {
		case err == nil:
			c.Locals(meKey{}, &me{session.Person, token, session.Ends()})
			return c.Next()
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
		s.keep(c, sessionCookie, "") // it is over
	}
	if s.As != "" && s.kept(c, outCookie) == "" {
		p, err := s.house.People.Get(s.As)
		if err != nil {
			return err
		}
		c.Locals(meKey{}, &me{Person: p})
	}
	return c.Next()
}

// signIn begins a session of a person in the browser that asks.
func (s *Server) signIn(c fiber.Ctx, p account.Person) error {
	if old := whoAsks(c); old != nil && old.session != "" {
		if err := s.house.Sessions.End(old.session); err != nil {
			return err
		}
	}
	token, err := s.house.Sessions.Begin(p.ID, browserOf(c.Get("User-Agent")))
	if err != nil {
		return err
	}
	s.keep(c, sessionCookie, token)
	s.rememberDevice(c, p.ID)
	s.keep(c, outCookie, "")
	return nil
}

// browserOf says in a few words what kind of browser somebody uses.
func browserOf(agent string) string {
	first := func(names ...string) string {
		for _, n := range names {
			if sign, name, ok := strings.Cut(n, "="); ok && strings.Contains(agent, sign) {
				return name
			}
		}
		return ""
	}
	browser := first("Edg/=Edge", "OPR/=Opera", "Firefox/=Firefox", "Chrome/=Chrome", "Safari/=Safari")
	system := first("Android=Android", "iPhone=iPhone", "iPad=iPad", "Windows=Windows", "Mac OS X=Mac", "Linux=Linux")
	switch {
	case browser == "" && system == "":
		return "another program"
	case system == "":
		return browser
	}
	return cmp.Or(browser, "a browser") + " on " + system
}

// token is what a form of a page brings along, so that it can only come from a page of this person's session.
func (s *Server) token(m *me) string {
	if m == nil {
		return ""
	}
	return s.house.Sign("form", m.ID, m.session)
}

// TokenHeader carries the token of a page in what its scripts send.
const TokenHeader = "X-Page-Token"

// ownPage refuses what somebody who is signed in would change by a page that is not theirs.
func (s *Server) ownPage(c fiber.Ctx) error {
	m := whoAsks(c)
	if m == nil || c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead {
		return c.Next()
	}
	said := c.Get(TokenHeader)
	if said == "" {
		said = c.FormValue("token")
	}
	if !s.house.Signed(said, "form", m.ID, m.session) {
		return fiber.NewError(fiber.StatusForbidden, "This page is of an earlier session. Load it again, and try once more.")
	}
	return c.Next()
}

// standing is what somebody has to be to ask for a page of the house.
type standing uint8

const (
	anybody    standing = iota
	somebody            // signed in
	houseOwner          // an owner of the house
)

// houseRoute is a page of the house that belongs to no map.
type houseRoute struct {
	method, path string
	needs        standing
	answer       func(*Server, fiber.Ctx) error
}

// houses adds the pages of the house to an application, each behind what it takes to ask for it.
func (s *Server) houses(app *fiber.App, list []houseRoute) {
	for _, r := range list {
		app.Add([]string{r.method}, r.path, func(c fiber.Ctx) error {
			m := whoAsks(c)
			switch {
			case r.needs >= somebody && m == nil:
				return s.askWho(c)
			case r.needs == houseOwner && m.Role != account.Owner:
				return fiber.NewError(fiber.StatusForbidden, "Only an owner of the house may do this.")
			}
			return r.answer(s, c)
		})
	}
}

// askWho turns to the page for signing in, or tells a script that it is needed.
func (s *Server) askWho(c fiber.Ctx) error {
	if some, err := s.house.People.Any(); err != nil {
		return err
	} else if !some && c.Method() == fiber.MethodGet {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/first")
	}
	if c.Method() != fiber.MethodGet || isScript(c) || strings.HasSuffix(c.Path(), "/socket") {
		return fiber.NewError(fiber.StatusUnauthorized, "You are not signed in any more. Sign in in another window, and try again.")
	}
	to := "/sign-in"
	if c.Path() != "/" {
		to += "?to=" + url.QueryEscape(c.OriginalURL())
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(to)
}

func isScript(c fiber.Ctx) bool {
	return c.Get("HX-Request") != "" || strings.Contains(c.Get("Accept"), "application/json")
}

// inside returns an address of this application that somebody wanted to go to, or the first page.
func inside(to string) string {
	if u, err := url.Parse(to); err == nil && u.Scheme == "" && u.Host == "" && strings.HasPrefix(to, "/") && !strings.HasPrefix(to, "//") && !strings.Contains(to, "\\") {
		return to
	}
	return "/"
}

// note keeps what was done to people and rights, for the owners of the house.
func (s *Server) note(c fiber.Ctx, what, about string) {
	who := "somebody"
	if m := whoAsks(c); m != nil {
		who = m.Name + " <" + m.Email + ">"
	}
	s.noteBy(c, who, what, about)
}

func (s *Server) noteBy(c fiber.Ctx, who, what, about string) {
	if err := s.house.Audit.Note(store.Event{Who: who, What: what, About: about, Origin: s.from(c).ip.String()}); err != nil {
		log.Print(err)
	}
}
