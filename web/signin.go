package web

import (
	"cmp"
	"crypto/subtle"
	"errors"
	"fmt"
	"log"
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

// outbox keeps messages instead of sending them.
type outbox struct{ store *store.Store }

func (s *Server) notSent(m mail.Message, err error) {
	log.Printf("a message to %s was not sent: %v", m.To, err)
	if fault := s.store.Note(store.Event{Who: "the server", What: "could not send a message: " + err.Error(), About: m.To}); fault != nil {
		log.Print(fault)
	}
}

// sendMail brings a message on its way. Nobody waits for that.
func (s *Server) sendMail(kind, to string, with any) {
	m, err := mail.Write(kind, to, with)
	if err != nil {
		log.Printf("writing a message: %v", err)
		return
	}
	s.mail.Send(m)
}

func (s *Server) signInPage(c fiber.Ctx) error {
	if some, err := s.store.HasPeople(); err != nil {
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
		people, err := s.store.People()
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
// answer. Tries are slowed down by account and by address of the network together, so that nobody is kept out by others.
func (s *Server) signInBy(c fiber.Ctx) error {
	email, word := c.FormValue("email"), c.FormValue("password")
	_, folded, _ := account.Address(email)
	keys := []string{"sign in " + folded + " " + c.IP(), "sign in from " + c.IP()}
	for _, k := range keys {
		if wait := s.attempts.wait(k); wait > 0 {
			return s.signInForm(c, email, "Too many tries. Try again in "+inWords(wait)+".")
		}
	}
	p, hash, err := s.store.PersonAt(email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	right := len(word) <= 1000 && passcode.Matches(word, hash)
	if err != nil || !right || !p.Off.IsZero() {
		s.attempts.failed(keys[0])
		s.attempts.failedOf(keys[1], freeTriesOfAll)
		if err == nil {
			s.noteBy(c, "somebody", "tried to sign in in vain", p.Email)
		}
		return s.signInForm(c, email, "This address and this password do not go together.")
	}
	s.attempts.forget(keys[0])
	if err := s.signIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(inside(c.FormValue("to")))
}

// freeTriesOfAll is how many tries one address of the network has for all accounts together before they are slowed down.
const freeTriesOfAll = 30

// signInDemo lets somebody be one of the people of the demo.
func (s *Server) signInDemo(c fiber.Ctx) error {
	if !s.Demo || s.As == "" {
		return fiber.ErrNotFound
	}
	p, err := s.store.Person(c.FormValue("person"))
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
		if err := s.store.EndSession(m.session); err != nil {
			return err
		}
	}
	s.leave(c)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

// leave has the browser forget who it was.
func (s *Server) leave(c fiber.Ctx) {
	s.setCookie(c, "", time.Unix(1, 0))
	if s.As != "" {
		c.Cookie(&fiber.Cookie{Name: outCookie, Value: "yes", Path: "/", HTTPOnly: true, SameSite: fiber.CookieSameSiteLaxMode})
	}
}

func (s *Server) firstPage(c fiber.Ctx) error { return s.firstForm(c, "") }

func (s *Server) firstForm(c fiber.Ctx, refusal string) error {
	if some, err := s.store.HasPeople(); err != nil {
		return err
	} else if some {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	return s.page(c, "first.html", map[string]any{"Title": "Welcome", "Refusal": refusal, "NeedsKey": s.FirstKey != "", "Key": cmp.Or(c.FormValue("key"), c.Query("key")),
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
	id, err := s.store.AddFirst(store.NewPerson{Name: p.Name, Email: p.Email, Password: hash})
	switch {
	case errors.Is(err, store.ErrTaken):
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	case err != nil:
		return err
	}
	if p, err = s.store.Person(id); err != nil {
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
	key := "forgot " + c.IP()
	if wait := s.attempts.wait(key); wait > 0 {
		return fiber.NewError(fiber.StatusTooManyRequests, "Too many tries. Try again in "+inWords(wait)+".")
	}
	s.attempts.failed(key)
	email := c.FormValue("email")
	go func() { // so that it takes as long for everybody
		p, _, err := s.store.PersonAt(email)
		if err != nil || !p.Off.IsZero() {
			return
		}
		if err := s.sendTicket(mail.Reset, store.NewWord, p, time.Now().Add(resetTime), ""); err != nil {
			log.Printf("sending a ticket: %v", err)
		}
	}()
	return s.page(c, "forgot.html", map[string]any{"Title": "A new password", "Email": email})
}

// sendTicket sends somebody a ticket by which they choose a password.
func (s *Server) sendTicket(kind, purpose string, p account.Person, until time.Time, by string) error {
	token, err := s.store.NewTicket(purpose, p.ID, until)
	if err != nil {
		return err
	}
	path := "/reset/"
	if purpose == store.Invitation {
		path = "/invited/"
	}
	s.sendMail(kind, p.Email, map[string]any{"Name": p.Name, "By": by, "Link": s.Address + path + token, "Until": until.Format("2 January 2006, 15:04")})
	return nil
}

// tellChanged tells somebody by mail that their password was changed.
func (s *Server) tellChanged(p account.Person) {
	s.sendMail(mail.Changed, p.Email, map[string]any{"Name": p.Name, "When": time.Now().Format("2 January 2006, 15:04"), "Link": s.Address + "/forgot"})
}

// ticketPage shows the page on which the holder of a ticket chooses a password.
func ticketPage(purpose string) func(*Server, fiber.Ctx) error {
	return func(s *Server, c fiber.Ctx) error { return s.ticketForm(c, purpose, "") }
}

func (s *Server) ticketForm(c fiber.Ctx, purpose, refusal string) error {
	p, err := s.store.Ticket(purpose, c.Params("ticket"))
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
		p, err := s.store.Ticket(purpose, c.Params("ticket"))
		if err != nil {
			return s.ticketForm(c, purpose, "")
		}
		if err := account.Password(c.FormValue("password"), &p); err != nil {
			return s.ticketForm(c, purpose, sentence(err.Error()))
		}
		if p, err = s.store.UseTicket(purpose, c.Params("ticket"), passcode.Hash(c.FormValue("password"))); err != nil {
			return s.ticketForm(c, purpose, "")
		}
		s.rightsChanged()
		s.noteBy(c, p.Name+" <"+p.Email+">", "chose a password", p.Email)
		if purpose == store.NewWord {
			s.tellChanged(p)
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
	sessions, err := s.store.Sessions(m.ID, m.session)
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	kept, err := s.store.Arrangement(m.ID)
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
			if err := s.store.Arrange(whoAsks(c).ID, map[string]string{"mail": choice}); err != nil {
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
	if err := s.store.SetName(whoAsks(c).ID, name); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/me")
}

// changePassword gives somebody another password, who knows the one they have, and ends their other sessions.
func (s *Server) changePassword(c fiber.Ctx) error {
	m := whoAsks(c)
	key := "password " + m.ID + " " + c.IP()
	if wait := s.attempts.wait(key); wait > 0 {
		return s.meForm(c, "", "Too many tries. Try again in "+inWords(wait)+".")
	}
	hash, err := s.store.Password(m.ID)
	if err != nil {
		return err
	}
	if hash != "" && !passcode.Matches(c.FormValue("old"), hash) {
		s.attempts.failed(key)
		return s.meForm(c, "", "The present password is another one.")
	}
	if err := account.Password(c.FormValue("password"), &m.Person); err != nil {
		return s.meForm(c, "", sentence(err.Error()))
	}
	if err := s.store.SetPassword(m.ID, passcode.Hash(c.FormValue("password")), m.session); err != nil {
		return err
	}
	s.attempts.forget(key)
	s.note(c, "changed their password", m.Email)
	if hash != "" {
		s.tellChanged(m.Person)
	}
	return s.meForm(c, "Your password is changed, and you are signed out everywhere else.", "")
}

func (s *Server) signOutEverywhere(c fiber.Ctx) error {
	m := whoAsks(c)
	if err := s.store.EndSessions(m.ID); err != nil {
		return err
	}
	s.hub.review(func(_ string, p *peer) bool { return p.person != m.ID })
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
