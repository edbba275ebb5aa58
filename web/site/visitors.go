package site

import (
	"crypto/rand"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/store"
)

// Those who come by a link have no account. Their browser shows by a signed cookie which of them it is, so that what
// one has said is theirs alone; what they call themselves is only a name.

// visitorOf is the name of the visitor by a link whose browser asks, as it was given to them; empty for none.
func (s *Site) visitorOf(c fiber.Ctx, link string) string {
	name, sign, _ := strings.Cut(s.Kept(c, visitorCookie), ".")
	if !s.House.Signed(sign, "visitor", link, name) {
		return ""
	}
	return name
}

// knowVisitor is the name of the visitor whose browser asks; one that is here for the first time is given one.
func (s *Site) knowVisitor(c fiber.Ctx, link string) string {
	name := s.visitorOf(c, link)
	if name == "" {
		name = rand.Text()
		s.Keep(c, visitorCookie, name+"."+s.House.Sign("visitor", link, name))
	}
	return name
}

// looked is what a browser keeps of its visits by a link: the revision that was seen at the time before, and at the
// last time, when that was, and the signature of all this.
func (s *Site) looked(c fiber.Ctx, link string) (before, last int, at time.Time, known bool) {
	raw := strings.Split(s.Kept(c, lookedCookie), ".")
	if len(raw) != 4 || !s.House.Signed(raw[3], "looked", link, raw[0], raw[1], raw[2]) {
		return -1, -1, time.Time{}, false
	}
	before, err := strconv.Atoi(raw[0])
	last, also := strconv.Atoi(raw[1])
	unix, too := strconv.ParseInt(raw[2], 10, 64)
	return before, last, time.Unix(unix, 0), errors.Join(err, also, too) == nil
}

func (s *Site) lookedBefore(c fiber.Ctx, link string) int {
	before, _, _, _ := s.looked(c, link)
	return before
}

// Looks notes in the browser of a visitor by a link that they look at a revision of the map now.
func (v *Visit) Looks(c fiber.Ctx, revision int) {
	before, last, at, known := v.Site.looked(c, v.Link)
	if known && time.Since(at) > store.VisitTime {
		before = last
	}
	v.Before = before
	words := []string{strconv.Itoa(before), strconv.Itoa(revision), strconv.FormatInt(time.Now().Unix(), 10)}
	v.Site.Keep(c, lookedCookie, strings.Join(append(words, v.Site.House.Sign(append([]string{"looked", v.Link},
		words...)...)), "."))
}

// IsAuthor reports whether something was said by the visitor: by their account, or in their browser.
func (v *Visit) IsAuthor(author, visitor string) bool {
	return author == v.Author() && (v.Who != nil || visitor != "" && visitor == v.Visitor)
}

// isOfTheHouse reports whether a name looks like that of somebody in the organisation.
func (s *Site) isOfTheHouse(name string) (bool, error) {
	people, err := s.House.People.List()
	return slices.ContainsFunc(people, func(p account.Person) bool { return account.Alike(p.Name, name) }), err
}

// AnswersAs has a visitor by a link who has answered for a name be called so from then on, where they have not said a
// name yet.
func (v *Visit) AnswersAs(c fiber.Ctx, name string) {
	if taken, err := v.Site.isOfTheHouse(name); v.Who == nil && v.Site.Kept(c, CalledCookie) == "" && err == nil &&
		!taken {
		v.Site.Keep(c, CalledCookie, name)
	}
}

// CallsOneself returns how the visitor is called. Somebody by a link says it with the first remark, and not by a name
// that looks like that of somebody in the organisation.
func (v *Visit) CallsOneself(c fiber.Ctx) (name string, err error) {
	if v.Who != nil {
		return v.Who.Name, nil
	}
	kept := v.Site.Kept(c, CalledCookie)
	said := c.FormValue("called")
	if said == "" {
		said = kept
	}
	if name, err = account.Name(said); err != nil {
		return "", FormError("say first what you are called: " + err.Error())
	}
	if taken, err := v.Site.isOfTheHouse(name); err != nil {
		return "", err
	} else if taken {
		return "",
			FormError("somebody in the organisation is called so, or nearly; add where you are from, such as “Jo, Roads”")
	}
	if kept != name {
		v.Site.Keep(c, CalledCookie, name)
	}
	return name, nil
}
