package accounts

import (
	"bytes"
	"encoding/base64"
	"html/template"
	"image/png"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/mail"
	"plaintracer/web/site"
)

// The second factor: beside the password, for those who want it, a code of an app (RFC 6238).

// halfTime is how long the code may take after the password.
const halfTime = 10 * time.Minute

// halfCookie says who has given their password and not yet the code.
var halfCookie = site.Cookie{Name: "half", Age: halfTime, Path: "/sign-in"}

// askSecond asks somebody who knows the password of a hash for the code.
func (s *Accounts) askSecond(c fiber.Ctx, p account.Person, hash string) error {
	until := strconv.FormatInt(time.Now().Add(halfTime).Unix(), 10)
	s.Keep(c, halfCookie, p.ID+"."+until+"."+s.House.Sign("half", p.ID, until, hash))
	return s.secondForm(c, "")
}

func (s *Accounts) secondForm(c fiber.Ctx, refusal string) error {
	if refusal != "" {
		c.Status(fiber.StatusUnauthorized)
	}
	return s.Page(c, "second.html", &secondPage{Frame: site.Frame{Title: "Sign in"}, To: site.Inside(c.FormValue("to")),
		Refusal: refusal})
}

// half is who has given their password in the browser that asks; false for nobody, or too long ago, or if the password
// has changed since.
func (s *Accounts) half(c fiber.Ctx) (p account.Person, ok bool) {
	parts := strings.Split(s.Kept(c, halfCookie), ".")
	if len(parts) != 3 {
		return p, false
	}
	until, err := strconv.ParseInt(parts[1], 10, 64)
	if err != nil || time.Now().Unix() > until {
		return p, false
	}
	hash, err := s.House.People.Password(parts[0])
	if err != nil || !s.House.Signed(parts[2], "half", parts[0], parts[1], hash) {
		return p, false
	}
	p, err = s.House.People.Get(parts[0])
	return p, err == nil && p.Off.IsZero() && p.Second
}

// SignInSecond takes the code, or one of the words that stand in for it.
func (s *Accounts) SignInSecond(c fiber.Ctx) error {
	p, ok := s.half(c)
	if !ok {
		return s.signInForm(c, "", "That took too long. Begin again with your password.")
	}
	one := site.OfSecond.Of(p.ID)
	if wait := s.Attempts.Begin(one); wait > 0 {
		return s.secondForm(c, "Too many tries. Try again in "+phrase.InWords(wait)+".")
	}
	good, err := s.takeCode(p.ID, c.FormValue("code"))
	if err != nil {
		return err
	}
	if !good {
		s.NoteBy(c, "somebody", "gave a wrong code after the right password", p.Email)
		return s.secondForm(c, "That is not the code, or it was used already. A new one comes every thirty seconds.")
	}
	s.Attempts.Forget(one)
	s.Keep(c, halfCookie, "")
	if err := s.SignIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(site.Inside(c.FormValue("to")))
}

// takeCode reports whether a code is that of a person now, or one of their words. Each is good once.
func (s *Accounts) takeCode(person, code string) (bool, error) {
	secret, err := s.House.People.Factor(person)
	if err != nil || secret == "" {
		return false, err
	}
	if step := account.CodeStep(secret, code, time.Now()); step > 0 {
		return s.House.People.UseStep(person, step)
	}
	if len(account.PlainSpare(code)) < 10 {
		return false, nil
	}
	return s.House.People.UseSpare(person, code)
}

// BeginFactor shows a new secret to somebody who wants a second factor.
func (s *Accounts) BeginFactor(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	if !m.Locked {
		return s.meForm(c, "", "A second factor goes with a password. Set one first.")
	}
	if refusal, err := s.KnowsPassword(c); err != nil || refusal != "" {
		return s.orMe(c, refusal, err)
	}
	f, err := account.NewFactor(m.Email)
	if err != nil {
		return err
	}
	return s.factorForm(c, f, "")
}

func (s *Accounts) orMe(c fiber.Ctx, refusal string, err error) error {
	if err != nil {
		return err
	}
	return s.meForm(c, "", refusal)
}

// factorForm shows a secret, and asks for its first code.
func (s *Accounts) factorForm(c fiber.Ctx, f account.Factor, refusal string) error {
	m := site.WhoAsks(c)
	img, err := f.Picture(220)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := png.Encode(&out, img); err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	return s.Page(c, "factor.html", &factorPage{Frame: site.Frame{Title: "A second factor"}, Secret: f.Secret(),
		Sign: s.House.Sign("factor", m.ID, m.Session, f.Secret()), Refusal: refusal,
		Picture: template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(out.Bytes()))})
}

// KeepFactor takes the first code of a new secret: from then on codes are asked for.
func (s *Accounts) KeepFactor(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	secret := c.FormValue("secret")
	if !s.House.Signed(c.FormValue("sign"), "factor", m.ID, m.Session, secret) {
		return s.meForm(c, "", "Begin anew: this page was an earlier one.")
	}
	step := account.CodeStep(secret, c.FormValue("code"), time.Now())
	if step == 0 {
		f, err := account.FactorOf(secret, m.Email)
		if err != nil {
			return err
		}
		return s.factorForm(c, f, "That is not the code of this secret. Look whether the clock of the phone is right.")
	}
	words := account.NewSpares()
	if err := s.House.People.SetFactor(m.ID, secret, step, words); err != nil {
		return err
	}
	s.Note(c, "began to use a second factor", m.Email)
	s.tellFactor(c, m.Person, "set up",
		"set up a second factor for your account: a code of an app is asked for beside your password now")
	return s.Page(c, "spares.html", &sparesPage{Frame: site.Frame{Title: "A second factor"}, Words: words})
}

// DropFactor ends the second factor of the person who asks.
func (s *Accounts) DropFactor(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	if refusal, err := s.KnowsPassword(c); err != nil || refusal != "" {
		return s.orMe(c, refusal, err)
	}
	if err := s.House.People.SetFactor(m.ID, "", 0, nil); err != nil {
		return err
	}
	m.Second = false
	s.Note(c, "uses no second factor any more", m.Email)
	s.tellFactor(c, m.Person, "taken away",
		"taken the second factor of your account away: your password alone signs you in now")
	return s.meForm(c, "Your password alone signs you in now.", "")
}

// tellFactor tells somebody by mail what became of their second factor.
func (s *Accounts) tellFactor(c fiber.Ctx, p account.Person, what, did string) {
	s.Post.Send(mail.Factor, p.Email, "", map[string]any{"Name": p.Name, "By": site.WhoAsks(c).Name, "What": what,
		"Did": did, "Link": s.Address + "/me"})
}

// TakeFactor ends the second factor of somebody who has lost it.
func (s *Accounts) TakeFactor(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		if err := s.House.People.SetFactor(p.ID, "", 0, nil); err != nil {
			return "", err
		}
		s.Note(c, "took the second factor of a person away", p.Email)
		s.tellFactor(c, p, "taken away",
			"taken the second factor of your account away: your password alone signs you in now")
		return p.Name + " signs in by the password alone now.", nil
	})
}

// factorPage is what factor.html shows.
type factorPage struct {
	site.Frame
	Secret  string
	Sign    string
	Refusal string
	Picture template.URL
}

// secondPage is what second.html shows.
type secondPage struct {
	site.Frame
	To      string
	Refusal string
}

// sparesPage is what spares.html shows.
type sparesPage struct {
	site.Frame
	Words []string
}
