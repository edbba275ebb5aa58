package web

import (
	"time"

	"github.com/gofiber/fiber/v3"
)

// cookie is one of those that the application keeps in a browser.
type cookie struct {
	name string
	// age is how long the browser keeps it; zero for until it is closed.
	age time.Duration
	// forLink says that it goes along below the address of a link or map alone, and not with every request; path names
	// another part of the application.
	forLink bool
	path    string
}

// The cookies there are.
var (
	// sessionCookie holds the token of a session.
	sessionCookie = cookie{name: "session", age: 30 * 24 * time.Hour}
	// outCookie says that a browser has signed out where everybody would be taken for one person.
	outCookie = cookie{name: "signed-out"}
	// deviceCookie says in which accounts a browser has signed in before, so that it has tries of its own.
	deviceCookie = cookie{name: "device", age: 365 * 24 * time.Hour}
	// directoryCookie holds what an answer of the directory has to fit to.
	directoryCookie = cookie{name: "directory", age: 10 * time.Minute, path: "/directory"}
	// proofCookie and addressCookie show that what a link asks for was given.
	proofCookie   = cookie{name: "passed", forLink: true}
	addressCookie = cookie{name: "addressed", forLink: true}
	// visitorCookie says which visitor by a link a browser is of, calledCookie how they call themselves.
	visitorCookie = cookie{name: "visitor", age: 365 * 24 * time.Hour, forLink: true}
	calledCookie  = cookie{name: "called", age: 365 * 24 * time.Hour, forLink: true}
)

// pathOf is below which addresses a browser sends a cookie along.
func (k *cookie) pathOf(c fiber.Ctx) string {
	switch {
	case k.forLink:
		return linkBase(c)
	case k.path != "":
		return k.path
	}
	return "/"
}

// called is the name of a cookie for a browser. Where the connection is encrypted it binds the cookie to encrypted
// connections, and to this host and all of its paths if it is for all of them (RFC 6265bis, 4.1.3): browsers take such names
// with these attributes only.
func (k *cookie) called(https bool) string {
	switch {
	case !https:
		return k.name
	case k.forLink || k.path != "":
		return "__Secure-" + k.name
	}
	return "__Host-" + k.name
}

// keep has the browser that asks keep a cookie, in place of an earlier one; with an empty value it forgets it. Nothing else
// sets a cookie.
func (s *Server) keep(c fiber.Ctx, k cookie, value string) {
	https := s.from(c).https
	out := &fiber.Cookie{Name: k.called(https), Value: value, Path: k.pathOf(c), HTTPOnly: true, Secure: https,
		SameSite: fiber.CookieSameSiteLaxMode} // Lax, since the directory and messages lead here from elsewhere
	switch {
	case value == "":
		out.Expires = time.Unix(1, 0)
	case k.age > 0:
		out.Expires = time.Now().Add(k.age)
	}
	c.Cookie(out)
	c.Locals(keptKey(k.name), value)
}

// keptKey is under which a request remembers a cookie that it has set.
type keptKey string

// kept is the value of a cookie that the browser brings along, or was just given; empty for none.
func (s *Server) kept(c fiber.Ctx, k cookie) string {
	if value, ok := c.Locals(keptKey(k.name)).(string); ok {
		return value
	}
	return c.Cookies(k.called(s.from(c).https))
}
