package site

import (
	"time"

	"github.com/gofiber/fiber/v3"
)

// Cookie is one of those that the application keeps in a browser.
type Cookie struct {
	Name string
	// Age is how long the browser keeps it; zero for until it is closed.
	Age time.Duration
	// forLink says that it goes along below the address of a link or map alone, and not with every request; path names
	// another part of the application.
	forLink bool
	Path    string
}

// The cookies there are.
var (
	// SessionCookie holds the token of a session.
	SessionCookie = Cookie{Name: "session", Age: 30 * 24 * time.Hour}
	// OutCookie says that a browser has signed out where everybody would be taken for one person.
	OutCookie = Cookie{Name: "signed-out"}
	// deviceCookie says in which accounts a browser has signed in before, so that it has tries of its own.
	deviceCookie = Cookie{Name: "device", Age: 365 * 24 * time.Hour}
	// DirectoryCookie holds what an answer of the directory has to fit to.
	DirectoryCookie = Cookie{Name: "directory", Age: 10 * time.Minute, Path: "/directory"}
	// proofCookie and addressCookie show that what a link asks for was given.
	proofCookie   = Cookie{Name: "passed", forLink: true}
	addressCookie = Cookie{Name: "addressed", forLink: true}
	// visitorCookie says which visitor by a link a browser is of, calledCookie how they call themselves.
	visitorCookie = Cookie{Name: "visitor", Age: 365 * 24 * time.Hour, forLink: true}
	CalledCookie  = Cookie{Name: "called", Age: 365 * 24 * time.Hour, forLink: true}
	// lookedCookie says which revisions a visitor by a link saw, now and at the time before.
	lookedCookie = Cookie{Name: "looked", Age: 365 * 24 * time.Hour, forLink: true}
)

// pathOf is below which addresses a browser sends a cookie along.
func (k *Cookie) pathOf(c fiber.Ctx) string {
	switch {
	case k.forLink:
		return linkBase(c)
	case k.Path != "":
		return k.Path
	}
	return "/"
}

// called is the name of a cookie for a browser. Where the connection is encrypted it binds the cookie to encrypted
// connections, and to this host and all of its paths if it is for all of them (RFC 6265bis, 4.1.3): browsers take such
// names with these attributes only.
func (k *Cookie) called(https bool) string {
	switch {
	case !https:
		return k.Name
	case k.forLink || k.Path != "":
		return "__Secure-" + k.Name
	}
	return "__Host-" + k.Name
}

// Keep has the browser that asks keep a cookie, in place of an earlier one; with an empty value it forgets it. Nothing
// else sets a cookie.
func (s *Site) Keep(c fiber.Ctx, k Cookie, value string) {
	https := s.From(c).https
	out := &fiber.Cookie{Name: k.called(https), Value: value, Path: k.pathOf(c), HTTPOnly: true, Secure: https,
		SameSite: fiber.CookieSameSiteLaxMode} // Lax, since the directory and messages lead here from elsewhere
	switch {
	case value == "":
		out.Expires = time.Unix(1, 0)
	case k.Age > 0:
		out.Expires = time.Now().Add(k.Age)
	}
	c.Cookie(out)
	c.Locals(keptKey(k.Name), value)
}

// keptKey is under which a request remembers a cookie that it has set.
type keptKey string

// Kept is the value of a cookie that the browser brings along, or was just given; empty for none.
func (s *Site) Kept(c fiber.Ctx, k Cookie) string {
	if value, ok := c.Locals(keptKey(k.Name)).(string); ok {
		return value
	}
	return c.Cookies(k.called(s.From(c).https))
}
