package web

import (
	"crypto/rand"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
)

// Those who come by a link have no account. Their browser shows by a signed cookie which of them it is, so that what one has
// said is theirs alone; what they call themselves is only a name.

// visitorOf is the name of the visitor by a link whose browser asks, as it was given to them; empty for none.
func (s *Server) visitorOf(c fiber.Ctx, link string) string {
	name, sign, _ := strings.Cut(s.kept(c, visitorCookie), ".")
	if !s.house.Signed(sign, "visitor", link, name) {
		return ""
	}
	return name
}

// knowVisitor is the name of the visitor whose browser asks; one that is here for the first time is given one.
func (s *Server) knowVisitor(c fiber.Ctx, link string) string {
	name := s.visitorOf(c, link)
	if name == "" {
		name = rand.Text()
		s.keep(c, visitorCookie, name+"."+s.house.Sign("visitor", link, name))
	}
	return name
}

// isAuthor reports whether something was said by the visitor: by their account, or in their browser.
func (v *visit) isAuthor(author, visitor string) bool {
	return author == v.author() && (v.who != nil || visitor != "" && visitor == v.visitor)
}

// isOfTheHouse reports whether a name looks like that of somebody of the house.
func (s *Server) isOfTheHouse(name string) (bool, error) {
	people, err := s.house.People.List()
	return slices.ContainsFunc(people, func(p account.Person) bool { return account.Alike(p.Name, name) }), err
}

// answersAs has a visitor by a link who has answered for a name be called so from then on, where they have not said a name yet.
func (v *visit) answersAs(c fiber.Ctx, name string) {
	if taken, err := v.s.isOfTheHouse(name); v.who == nil && v.s.kept(c, calledCookie) == "" && err == nil && !taken {
		v.s.keep(c, calledCookie, name)
	}
}

// callsOneself returns how the visitor is called. Somebody by a link says it with the first remark, and not by a name that
// looks like that of somebody of the house.
func (v *visit) callsOneself(c fiber.Ctx) (name string, err error) {
	if v.who != nil {
		return v.who.Name, nil
	}
	kept := v.s.kept(c, calledCookie)
	said := c.FormValue("called")
	if said == "" {
		said = kept
	}
	if name, err = account.Name(said); err != nil {
		return "", &unfit{"say first what you are called: " + err.Error()}
	}
	if taken, err := v.s.isOfTheHouse(name); err != nil {
		return "", err
	} else if taken {
		return "", &unfit{"somebody of the house is called so, or nearly; add where you are from, such as “Jo, Roads”"}
	}
	if kept != name {
		v.s.keep(c, calledCookie, name)
	}
	return name, nil
}
