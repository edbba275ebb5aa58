package site

import (
	"cmp"
	"crypto/rand"
	"errors"
	"log"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/account/passcode"
	"plaintracer/app/phrase"
	"plaintracer/store"
)

// Me is the person who asks.
type Me struct {
	account.Person
	// Session is the token of their session; empty where the application takes everybody on this machine for one
	// person.
	Session string
	// ends is when that session comes to its end if it is not used any more; zero where there is none.
	ends time.Time
}

type meKey struct{}

// WhoAsks returns the person who asks; nil for nobody who is known.
func WhoAsks(c fiber.Ctx) *Me {
	m, _ := c.Locals(meKey{}).(*Me)
	return m
}

// Identify finds out who asks.
func (s *Site) Identify(c fiber.Ctx) error {
	if token := s.Kept(c, SessionCookie); token != "" {
		session, err := s.House.Sessions.Get(token)
		switch {
		case err == nil:
			c.Locals(meKey{}, &Me{session.Person, token, session.Ends()})
			return c.Next()
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
		s.Keep(c, SessionCookie, "") // it is over
	}
	if s.As != "" && s.Kept(c, OutCookie) == "" {
		p, err := s.House.People.Get(s.As)
		if err != nil {
			return err
		}
		c.Locals(meKey{}, &Me{Person: p})
	}
	return c.Next()
}

// SignIn begins a session of a person in the browser that asks.
func (s *Site) SignIn(c fiber.Ctx, p account.Person) error {
	if old := WhoAsks(c); old != nil && old.Session != "" {
		if err := s.House.Sessions.End(old.Session); err != nil {
			return err
		}
	}
	token, err := s.House.Sessions.Begin(p.ID, browserOf(c.Get("User-Agent")))
	if err != nil {
		return err
	}
	s.Keep(c, SessionCookie, token)
	s.rememberDevice(c, p.ID)
	s.Keep(c, OutCookie, "")
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
func (s *Site) token(m *Me) string {
	if m == nil {
		return ""
	}
	return s.House.Sign("form", m.ID, m.Session)
}

// TokenHeader carries the token of a page in what its scripts send.
const TokenHeader = "X-Page-Token"

// OwnPage refuses what somebody who is signed in would change by a page that is not theirs.
func (s *Site) OwnPage(c fiber.Ctx) error {
	m := WhoAsks(c)
	if m == nil || c.Method() == fiber.MethodGet || c.Method() == fiber.MethodHead {
		return c.Next()
	}
	said := c.Get(TokenHeader)
	if said == "" {
		said = c.FormValue("token")
	}
	if !s.House.Signed(said, "form", m.ID, m.Session) {
		return fiber.NewError(fiber.StatusForbidden,
			"This page is of an earlier session. Load it again, and try once more.")
	}
	return c.Next()
}

// KnowsPassword reports whether the form brings the password of the person who asks, as "old"; refusal says why not.
// Who has none here passes.
func (s *Site) KnowsPassword(c fiber.Ctx) (refusal string, err error) {
	m := WhoAsks(c)
	one := OfPassword.Of(m.ID + " " + s.From(c).Network())
	if wait := s.Attempts.Begin(one); wait > 0 {
		return "Too many tries. Try again in " + phrase.InWords(wait) + ".", nil
	}
	hash, err := s.House.People.Password(m.ID)
	if err != nil {
		return "", err
	}
	if hash != "" && !passcode.Matches(c.FormValue("old"), hash) {
		return "The present password is another one.", nil
	}
	s.Attempts.Forget(one)
	return "", nil
}

// AskWho turns to the page for signing in, or tells a script that it is needed.
func (s *Site) AskWho(c fiber.Ctx) error {
	if some, err := s.House.People.Any(); err != nil {
		return err
	} else if !some && c.Method() == fiber.MethodGet {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/first")
	}
	if c.Method() != fiber.MethodGet || isScript(c) || strings.HasSuffix(c.Path(), "/socket") {
		return fiber.NewError(fiber.StatusUnauthorized,
			"You are not signed in any more. Sign in in another window, and try again.")
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

// Inside returns an address of this application that somebody wanted to go to, or the first page.
func Inside(to string) string {
	if u, err := url.Parse(to); err == nil && u.Scheme == "" && u.Host == "" && strings.HasPrefix(to, "/") &&
		!strings.HasPrefix(to, "//") && !strings.Contains(to, "\\") {
		return to
	}
	return "/"
}

// Note keeps what was done to people and rights, for the administrators.
func (s *Site) Note(c fiber.Ctx, what, about string) {
	who := "somebody"
	if m := WhoAsks(c); m != nil {
		who = m.Name + " <" + m.Email + ">"
	}
	s.NoteBy(c, who, what, about)
}

// NoteBy keeps what somebody did who is not signed in.
func (s *Site) NoteBy(c fiber.Ctx, who, what, about string) {
	if err := s.House.Audit.Note(store.Event{Who: who, What: what, About: about,
		Origin: s.From(c).Ip.String()}); err != nil {
		log.Print(err)
	}
}

// rememberDevice has a device be known for a person from now on.
func (s *Site) rememberDevice(c fiber.Ctx, person string) {
	if s.DeviceOf(c, person) != "" {
		return
	}
	parts := strings.Split(s.Kept(c, deviceCookie), ".")
	if len(parts) < 2 || len(parts[0]) != len(rand.Text()) {
		parts = []string{rand.Text()}
	}
	signs := append(parts[1:], s.House.Sign("device", parts[0], person))
	signs = signs[max(len(signs)-mostDeviceAccounts, 0):]
	s.Keep(c, deviceCookie, strings.Join(append([]string{parts[0]}, signs...), "."))
}

// mostDeviceAccounts is for how many accounts a device is known.
const mostDeviceAccounts = 8

// DeviceOf is the name of the device that asks, if the person has signed in from it before.
func (s *Site) DeviceOf(c fiber.Ctx, person string) string {
	parts := strings.Split(s.Kept(c, deviceCookie), ".")
	for _, sign := range parts[1:] {
		if person != "" && s.House.Signed(sign, "device", parts[0], person) {
			return parts[0]
		}
	}
	return ""
}
