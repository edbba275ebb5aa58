package web

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"log"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/account/passcode"
	"plaintracer/mail"
	"plaintracer/store"
)

// How long tickets are good: those for a new password, and invitations where nothing else is chosen.
const (
	resetTime  = time.Hour
	inviteTime = 14 * 24 * time.Hour
)

func (s *Server) signInPage(c fiber.Ctx) error {
	if some, err := s.house.People.Any(); err != nil {
		return err
	} else if !some {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/first")
	}
	return s.signInForm(c, "", "")
}

// signInForm shows the page for signing in, with why it did not work.
func (s *Server) signInForm(c fiber.Ctx, email, refusal string) error {
	data := map[string]any{"Title": "Sign in", "To": inside(cmp.Or(c.FormValue("to"), c.Query("to"))), "Email": email, "Refusal": refusal, "Directory": s.Directory}
	if s.Demo {
		people, err := s.house.People.List()
		if err != nil {
			return err
		}
		data["People"] = people
	}
	if refusal != "" {
		c.Status(fiber.StatusUnauthorized)
	}
	return s.page(c, "sign-in.html", data)
}

// signInBy signs somebody in by their password. A known address and an unknown one take the same time and have the same
// answer. A device in which somebody has signed in to an account before has tries of its own; others share theirs by account
// and network, so that a colleague behind the same address keeps nobody out.
func (s *Server) signInBy(c fiber.Ctx) error {
	email, word := c.FormValue("email"), c.FormValue("password")
	p, hash, err := s.house.People.ByMail(email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	tries := s.signInTries(c, email, p.ID)
	if wait := s.attempts.begin(tries...); wait > 0 {
		return s.signInForm(c, email, "Too many tries. Try again in "+inWords(wait)+".")
	}
	right := len(word) <= 1000 && passcode.Matches(word, hash)
	if err != nil || !right || !p.Off.IsZero() {
		if err == nil {
			s.noteBy(c, "somebody", "tried to sign in in vain", p.Email)
		}
		return s.signInForm(c, email, "This address and this password do not go together.")
	}
	s.proved(tries)
	if p.Second {
		return s.askSecond(c, p, hash)
	}
	if err := s.signIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(inside(c.FormValue("to")))
}

// signInTries is what a try to sign in counts against. The person is empty where there is none of that address.
func (s *Server) signInTries(c fiber.Ctx, email, person string) []try {
	if device := s.deviceOf(c, person); device != "" {
		return []try{byDevice.of(device + " " + person)}
	}
	_, folded, _ := account.Address(email)
	network := s.from(c).network()
	return []try{byAccount.of(folded + " " + network), ofAccount.of(folded), fromHere.of(network)}
}

// proved takes back a try that was right: those of that account from there are forgotten, those of all are as they were.
func (s *Server) proved(tries []try) {
	s.attempts.forget(tries[0])
	s.attempts.giveBack(tries[1:]...)
}

// mostDeviceAccounts is for how many accounts a device is known.
const mostDeviceAccounts = 8

// deviceOf is the name of the device that asks, if the person has signed in from it before.
func (s *Server) deviceOf(c fiber.Ctx, person string) string {
	parts := strings.Split(s.kept(c, deviceCookie), ".")
	for _, sign := range parts[1:] {
		if person != "" && s.house.Signed(sign, "device", parts[0], person) {
			return parts[0]
		}
	}
	return ""
}

// rememberDevice has a device be known for a person from now on.
func (s *Server) rememberDevice(c fiber.Ctx, person string) {
	if s.deviceOf(c, person) != "" {
		return
	}
	parts := strings.Split(s.kept(c, deviceCookie), ".")
	if len(parts) < 2 || len(parts[0]) != len(rand.Text()) {
		parts = []string{rand.Text()}
	}
	signs := append(parts[1:], s.house.Sign("device", parts[0], person))
	signs = signs[max(len(signs)-mostDeviceAccounts, 0):]
	s.keep(c, deviceCookie, strings.Join(append([]string{parts[0]}, signs...), "."))
}

// signInDemo lets somebody be one of the people of the demo.
func (s *Server) signInDemo(c fiber.Ctx) error {
	if !s.Demo || s.As == "" {
		return fiber.ErrNotFound
	}
	p, err := s.house.People.Get(c.FormValue("person"))
	if err != nil {
		return err
	}
	if !p.Off.IsZero() {
		return fiber.NewError(fiber.StatusForbidden, p.Name+" is switched off.")
	}
	if err := s.signIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(inside(c.FormValue("to")))
}

func (s *Server) signOut(c fiber.Ctx) error {
	m := whoAsks(c)
	if m.session != "" {
		if err := s.house.Sessions.End(m.session); err != nil {
			return err
		}
	}
	s.leave(c)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

// leave has the browser forget who it was.
func (s *Server) leave(c fiber.Ctx) {
	s.keep(c, sessionCookie, "")
	if s.As != "" {
		s.keep(c, outCookie, "yes")
		s.live.Left(s.As)
	}
}

func (s *Server) firstPage(c fiber.Ctx) error { return s.firstForm(c, "") }

func (s *Server) firstForm(c fiber.Ctx, refusal string) error {
	if some, err := s.house.People.Any(); err != nil {
		return err
	} else if some {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	return s.page(c, "first.html", map[string]any{"Title": "Welcome", "Refusal": refusal, "Key": cmp.Or(c.FormValue("key"), c.Query("key")),
		"Name": c.FormValue("name"), "Email": c.FormValue("email")})
}

// makeFirst makes the first person of the house, its owner.
func (s *Server) makeFirst(c fiber.Ctx) error {
	if subtle.ConstantTimeCompare([]byte(c.FormValue("key")), []byte(s.FirstKey)) != 1 {
		return s.firstForm(c, "This is not the key that the program wrote when it started.")
	}
	p, hash, err := s.newPerson(c)
	if err != nil {
		return s.firstForm(c, sentence(err.Error()))
	}
	id, err := s.house.People.AddFirst(store.NewPerson{Name: p.Name, Email: p.Email, Password: hash})
	switch {
	case errors.Is(err, store.ErrTaken):
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	case err != nil:
		return err
	}
	if p, err = s.house.People.Get(id); err != nil {
		return err
	}
	s.noteBy(c, p.Name+" <"+p.Email+">", "became the first owner of the house", p.Email)
	if err := s.signIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// newPerson reads who somebody is, and the hash of the password they choose.
func (s *Server) newPerson(c fiber.Ctx) (p account.Person, hash string, err error) {
	if p.Name, err = account.Name(c.FormValue("name")); err != nil {
		return p, "", err
	}
	if p.Email, _, err = account.Address(c.FormValue("email")); err != nil {
		return p, "", err
	}
	if err = account.Password(c.FormValue("password"), &p); err != nil {
		return p, "", err
	}
	return p, passcode.Hash(c.FormValue("password")), nil
}

func (s *Server) forgotPage(c fiber.Ctx) error {
	return s.page(c, "forgot.html", map[string]any{"Title": "A new password"})
}

// forgot sends a ticket for a new password, if there is such a person. The answer does not tell.
func (s *Server) forgot(c fiber.Ctx) error {
	if wait := s.attempts.begin(resetsFrom.of(s.from(c).network())); wait > 0 {
		return fiber.NewError(fiber.StatusTooManyRequests, "Too many tries. Try again in "+inWords(wait)+".")
	}
	email := c.FormValue("email")
	s.beside.Go("sending a link for a new password", func(context.Context) { // so that it takes as long for everybody
		p, _, err := s.house.People.ByMail(email)
		if err != nil || !p.Off.IsZero() || s.attempts.begin(resetsTo.of(p.ID)) > 0 {
			return
		}
		if err := s.sendTicket(mail.Reset, store.NewWord, p, time.Now().Add(resetTime), ""); err != nil {
			log.Printf("sending a ticket: %v", err)
		}
	})
	return s.page(c, "forgot.html", map[string]any{"Title": "A new password", "Email": email})
}

// sendTicket sends somebody a ticket by which they choose a password.
func (s *Server) sendTicket(kind, purpose string, p account.Person, until time.Time, by string) error {
	token, err := s.house.Sessions.NewTicket(purpose, p.ID, until)
	if err != nil {
		return err
	}
	path := "/reset/"
	if purpose == store.Invitation {
		path = "/invited/"
	}
	s.sendUntil(kind, p.Email, "a password", until, map[string]any{"Name": p.Name, "By": by, "Link": s.Address + path + token, "Until": until.Format("2 January 2006, 15:04")})
	return nil
}

// tellChanged tells somebody by mail that their password was changed.
func (s *Server) tellChanged(p account.Person) {
	s.sendMail(mail.Changed, p.Email, "", map[string]any{"Name": p.Name, "When": time.Now().Format("2 January 2006, 15:04"), "Link": s.Address + "/forgot"})
}

// ticketPage shows the page on which the holder of a ticket chooses a password.
func ticketPage(purpose string) func(*Server, fiber.Ctx) error {
	return func(s *Server, c fiber.Ctx) error { return s.ticketForm(c, purpose, "") }
}

func (s *Server) ticketForm(c fiber.Ctx, purpose, refusal string) error {
	p, err := s.house.Sessions.Ticket(purpose, c.Params("ticket"))
	if errors.Is(err, store.ErrNotFound) {
		return fiber.NewError(fiber.StatusGone, "This link is over: it was used, its time has passed, or there is a newer one. Ask for another.")
	}
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	c.Set("Referrer-Policy", "same-origin")
	return s.page(c, "ticket.html", map[string]any{"Title": "Choose a password", "Person": p, "Invited": purpose == store.Invitation, "Path": c.Path(), "Refusal": refusal})
}

// useTicket takes the password that the holder of a ticket chooses, and signs them in.
func useTicket(purpose string) func(*Server, fiber.Ctx) error {
	return func(s *Server, c fiber.Ctx) error {
		p, err := s.house.Sessions.Ticket(purpose, c.Params("ticket"))
		if err != nil {
			return s.ticketForm(c, purpose, "")
		}
		if err := account.Password(c.FormValue("password"), &p); err != nil {
			return s.ticketForm(c, purpose, sentence(err.Error()))
		}
		if p, err = s.house.Sessions.UseTicket(purpose, c.Params("ticket"), passcode.Hash(c.FormValue("password"))); err != nil {
			return s.ticketForm(c, purpose, "")
		}
		s.live.RightsChanged()
		s.noteBy(c, p.Name+" <"+p.Email+">", "chose a password", p.Email)
		if purpose == store.NewWord {
			s.tellChanged(p)
		}
		if p.Second { // a ticket stands for the password alone
			return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
		}
		if err := s.signIn(c, p); err != nil {
			return err
		}
		return c.Redirect().Status(fiber.StatusSeeOther).To("/")
	}
}

func (s *Server) mePage(c fiber.Ctx) error { return s.meForm(c, "", "") }

// meForm shows somebody what there is about them, with what was done or why not.
func (s *Server) meForm(c fiber.Ctx, done, refusal string) error {
	m := whoAsks(c)
	sessions, err := s.house.Sessions.Of(m.ID, m.session)
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	kept, err := s.house.Visits.Arrangement(m.ID)
	if err != nil {
		return err
	}
	return s.page(c, "me.html", map[string]any{"MailChoices": mailChoices, "MailChoice": kept["mail"], "Title": "You", "Sessions": sessions, "Done": done, "Refusal": refusal, "Least": account.LeastPassword})
}

// changeMail keeps which messages about remarks somebody wants.
func (s *Server) changeMail(c fiber.Ctx) error {
	choice := c.FormValue("mail")
	for _, one := range mailChoices {
		if one.Name == choice {
			if err := s.house.Visits.Arrange(whoAsks(c).ID, map[string]string{"mail": choice}); err != nil {
				return err
			}
			return s.meForm(c, "That is how it will be.", "")
		}
	}
	return s.meForm(c, "", "Choose which messages you want.")
}

func (s *Server) changeName(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return s.meForm(c, "", sentence(err.Error()))
	}
	if err := s.house.People.SetName(whoAsks(c).ID, name); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/me")
}

// changePassword gives somebody another password, who knows the one they have, and ends their other sessions.
func (s *Server) changePassword(c fiber.Ctx) error {
	m := whoAsks(c)
	if refusal, err := s.knowsPassword(c); err != nil || refusal != "" {
		return s.orMe(c, refusal, err)
	}
	if err := account.Password(c.FormValue("password"), &m.Person); err != nil {
		return s.meForm(c, "", sentence(err.Error()))
	}
	if err := s.house.People.SetPassword(m.ID, passcode.Hash(c.FormValue("password")), m.session); err != nil {
		return err
	}
	s.note(c, "changed their password", m.Email)
	if m.Locked {
		s.tellChanged(m.Person)
	}
	return s.meForm(c, "Your password is changed, and you are signed out everywhere else.", "")
}

func (s *Server) signOutEverywhere(c fiber.Ctx) error {
	m := whoAsks(c)
	if err := s.house.Sessions.EndAll(m.ID); err != nil {
		return err
	}
	s.note(c, "signed out everywhere", m.Email)
	s.leave(c)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

// inDays is an end in so many days, as a form gives it.
func inDays(text string, usual time.Duration) (time.Time, error) {
	if text == "" {
		return time.Now().Add(usual), nil
	}
	t, err := time.ParseInLocation(time.DateOnly, text, time.Local)
	if err != nil || !t.AddDate(0, 0, 1).After(time.Now()) || t.After(time.Now().AddDate(1, 0, 0)) {
		return t, fmt.Errorf("choose a day that is still to come, within a year")
	}
	return t.AddDate(0, 0, 1), nil
}
