// Package accounts is how people come in and look after their accounts, and how administrators look after people.
package accounts

import (
	"cmp"
	"context"
	"crypto/subtle"
	"errors"
	"log"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/account/passcode"
	"plaintracer/app/phrase"
	"plaintracer/mail"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Accounts are the pages by which people come in, and on which they look after their accounts.
type Accounts struct{ *site.Site }

// New returns them.
func New(s *site.Site) *Accounts { return &Accounts{s} }

// How long tickets are good: those for a new password, and invitations where nothing else is chosen.
const (
	resetTime  = time.Hour
	inviteTime = 14 * 24 * time.Hour
)

// SignInPage is the page for signing in.
func (s *Accounts) SignInPage(c fiber.Ctx) error {
	if some, err := s.House.People.Any(); err != nil {
		return err
	} else if !some {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/first")
	}
	return s.signInForm(c, "", "")
}

// signInForm shows the page for signing in, with why it did not work.
func (s *Accounts) signInForm(c fiber.Ctx, email, refusal string) error {
	data := &signInPage{Frame: site.Frame{Title: "Sign in"}, To: site.Inside(cmp.Or(c.FormValue("to"), c.Query("to"))),
		Email: email, Refusal: refusal, Directory: s.Directory}
	if s.Demo {
		people, err := s.House.People.List()
		if err != nil {
			return err
		}
		data.People = people
	}
	if refusal != "" {
		c.Status(fiber.StatusUnauthorized)
	}
	return s.Page(c, "sign-in.html", data)
}

// SignInBy signs somebody in by their password. A known address and an unknown one take the same time and have the same
// answer. A device in which somebody has signed in to an account before has tries of its own; others share theirs by
// account and network, so that a colleague behind the same address keeps nobody out.
func (s *Accounts) SignInBy(c fiber.Ctx) error {
	email, word := c.FormValue("email"), c.FormValue("password")
	p, hash, err := s.House.People.ByMail(email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	tries := s.signInTries(c, email, p.ID)
	if wait := s.Attempts.Begin(tries...); wait > 0 {
		return s.signInForm(c, email, "Too many tries. Try again in "+phrase.InWords(wait)+".")
	}
	right := len(word) <= 1000 && passcode.Matches(word, hash)
	if err != nil || !right || !p.Off.IsZero() {
		if err == nil {
			s.NoteBy(c, "somebody", "tried to sign in in vain", p.Email)
		}
		return s.signInForm(c, email, "Wrong email address or password.")
	}
	s.Proved(tries)
	if p.Second {
		return s.askSecond(c, p, hash)
	}
	if err := s.SignIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(site.Inside(c.FormValue("to")))
}

// signInTries is what a try to sign in counts against. The person is empty where there is none of that address.
func (s *Accounts) signInTries(c fiber.Ctx, email, person string) []site.Try {
	if device := s.DeviceOf(c, person); device != "" {
		return []site.Try{site.ByDevice.Of(device + " " + person)}
	}
	_, folded, _ := account.Address(email)
	network := s.From(c).Network()
	return []site.Try{site.ByAccount.Of(folded + " " + network), site.OfAccount.Of(folded), site.FromHere.Of(network)}
}

// SignInDemo lets somebody be one of the people of the demo.
func (s *Accounts) SignInDemo(c fiber.Ctx) error {
	if !s.Demo || s.As == "" {
		return fiber.ErrNotFound
	}
	p, err := s.House.People.Get(c.FormValue("person"))
	if err != nil {
		return err
	}
	if !p.Off.IsZero() {
		return fiber.NewError(fiber.StatusForbidden, p.Name+" is deactivated.")
	}
	if err := s.SignIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(site.Inside(c.FormValue("to")))
}

// SignOut ends the session that asks.
func (s *Accounts) SignOut(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	if m.Session != "" {
		if err := s.House.Sessions.End(m.Session); err != nil {
			return err
		}
	}
	s.leave(c)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

// leave has the browser forget who it was.
func (s *Accounts) leave(c fiber.Ctx) {
	s.Keep(c, site.SessionCookie, "")
	if s.As != "" {
		s.Keep(c, site.OutCookie, "yes")
		s.Live.Left(s.As)
	}
}

// FirstPage is the page on which a new house gets its owner.
func (s *Accounts) FirstPage(c fiber.Ctx) error { return s.firstForm(c, "") }

func (s *Accounts) firstForm(c fiber.Ctx, refusal string) error {
	if some, err := s.House.People.Any(); err != nil {
		return err
	} else if some {
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	return s.Page(c, "first.html", &firstPage{Frame: site.Frame{Title: "Welcome"}, Refusal: refusal,
		Key: cmp.Or(c.FormValue("key"), c.Query("key")), Name: c.FormValue("name"), Email: c.FormValue("email")})
}

// MakeFirst makes the first person of the organisation, its owner.
func (s *Accounts) MakeFirst(c fiber.Ctx) error {
	if subtle.ConstantTimeCompare([]byte(c.FormValue("key")), []byte(s.FirstKey)) != 1 {
		return s.firstForm(c, "This is not the key that the program wrote when it started.")
	}
	p, hash, err := s.newPerson(c)
	if err != nil {
		return s.firstForm(c, phrase.Sentence(err.Error()))
	}
	id, err := s.House.People.AddFirst(store.NewPerson{Name: p.Name, Email: p.Email, Password: hash})
	switch {
	case errors.Is(err, store.ErrTaken):
		return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
	case err != nil:
		return err
	}
	if p, err = s.House.People.Get(id); err != nil {
		return err
	}
	s.NoteBy(c, p.Name+" <"+p.Email+">", "became the first administrator", p.Email)
	if err := s.SignIn(c, p); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// newPerson reads who somebody is, and the hash of the password they choose.
func (s *Accounts) newPerson(c fiber.Ctx) (p account.Person, hash string, err error) {
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

// ForgotPage asks for the address of who has forgotten their password.
func (s *Accounts) ForgotPage(c fiber.Ctx) error {
	return s.Page(c, "forgot.html", &forgotPage{Frame: site.Frame{Title: "A new password"}})
}

// Forgot sends a ticket for a new password, if there is such a person. The answer does not tell.
func (s *Accounts) Forgot(c fiber.Ctx) error {
	if wait := s.Attempts.Begin(site.ResetsFrom.Of(s.From(c).Network())); wait > 0 {
		return fiber.NewError(fiber.StatusTooManyRequests, "Too many tries. Try again in "+phrase.InWords(wait)+".")
	}
	email := c.FormValue("email")
	s.Beside.Go("sending a link for a new password", func(context.Context) { // so that it takes as long for everybody
		p, _, err := s.House.People.ByMail(email)
		if err != nil || !p.Off.IsZero() || s.Attempts.Begin(site.ResetsTo.Of(p.ID)) > 0 {
			return
		}
		if err := s.sendTicket(mail.Reset, store.NewWord, p, time.Now().Add(resetTime), ""); err != nil {
			log.Printf("sending a ticket: %v", err)
		}
	})
	return s.Page(c, "forgot.html", &forgotPage{Frame: site.Frame{Title: "A new password"}, Email: email})
}

// sendTicket sends somebody a ticket by which they choose a password.
func (s *Accounts) sendTicket(kind, purpose string, p account.Person, until time.Time, by string) error {
	token, err := s.House.Sessions.NewTicket(purpose, p.ID, until)
	if err != nil {
		return err
	}
	path := "/reset/"
	if purpose == store.Invitation {
		path = "/invited/"
	}
	s.Post.SendUntil(kind, p.Email, "a password", until, map[string]any{"Name": p.Name, "By": by,
		"Link": s.Address + path + token, "Until": until.Format("2 January 2006, 15:04")})
	return nil
}

// tellChanged tells somebody by mail that their password was changed.
func (s *Accounts) tellChanged(p account.Person) {
	s.Post.Send(mail.Changed, p.Email, "",
		map[string]any{"Name": p.Name, "When": time.Now().Format("2 January 2006, 15:04"),
			"Link": s.Address + "/forgot"})
}

// TicketPage shows the page on which the holder of a ticket chooses a password.
func (s *Accounts) TicketPage(purpose string) func(fiber.Ctx) error {
	return func(c fiber.Ctx) error { return s.ticketForm(c, purpose, "") }
}

func (s *Accounts) ticketForm(c fiber.Ctx, purpose, refusal string) error {
	p, err := s.House.Sessions.Ticket(purpose, c.Params("ticket"))
	if errors.Is(err, store.ErrNotFound) {
		return fiber.NewError(fiber.StatusGone,
			"This link is over: it was used, its time has passed, or there is a newer one. Ask for another.")
	}
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	c.Set("Referrer-Policy", "same-origin")
	return s.Page(c, "ticket.html", &ticketPage{Frame: site.Frame{Title: "Choose a password"}, Person: p,
		Invited: purpose == store.Invitation, Path: c.Path(), Refusal: refusal})
}

// UseTicket takes the password that the holder of a ticket chooses, and signs them in.
func (s *Accounts) UseTicket(purpose string) func(fiber.Ctx) error {
	return func(c fiber.Ctx) error {
		p, err := s.House.Sessions.Ticket(purpose, c.Params("ticket"))
		if err != nil {
			return s.ticketForm(c, purpose, "")
		}
		if err := account.Password(c.FormValue("password"), &p); err != nil {
			return s.ticketForm(c, purpose, phrase.Sentence(err.Error()))
		}
		if p, err = s.House.Sessions.UseTicket(purpose, c.Params("ticket"),
			passcode.Hash(c.FormValue("password"))); err != nil {
			return s.ticketForm(c, purpose, "")
		}
		s.Live.RightsChanged()
		s.NoteBy(c, p.Name+" <"+p.Email+">", "chose a password", p.Email)
		if purpose == store.NewWord {
			s.tellChanged(p)
		}
		if p.Second { // a ticket stands for the password alone
			return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
		}
		if err := s.SignIn(c, p); err != nil {
			return err
		}
		return c.Redirect().Status(fiber.StatusSeeOther).To("/")
	}
}

// MePage is the page of the person who asks.
func (s *Accounts) MePage(c fiber.Ctx) error { return s.meForm(c, "", "") }

// meForm shows somebody what there is about them, with what was done or why not.
func (s *Accounts) meForm(c fiber.Ctx, done, refusal string) error {
	m := site.WhoAsks(c)
	sessions, err := s.House.Sessions.Of(m.ID, m.Session)
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	kept, err := s.House.Visits.Arrangement(m.ID)
	if err != nil {
		return err
	}
	return s.Page(c, "me.html", &mePage{MailChoices: mailChoices, MailChoice: kept["mail"],
		Frame: site.Frame{Title: "You"}, Sessions: sessions, Done: done, Refusal: refusal,
		Least: account.LeastPassword})
}

// ChangeMail keeps which messages about remarks somebody wants.
func (s *Accounts) ChangeMail(c fiber.Ctx) error {
	choice := c.FormValue("mail")
	for _, one := range mailChoices {
		if one.Name == choice {
			if err := s.House.Visits.Arrange(site.WhoAsks(c).ID, map[string]string{"mail": choice}); err != nil {
				return err
			}
			return s.meForm(c, "That is how it will be.", "")
		}
	}
	return s.meForm(c, "", "Choose which messages you want.")
}

// ChangeLetters switches keys of a single letter off, or on again.
func (s *Accounts) ChangeLetters(c fiber.Ctx) error {
	choice := c.FormValue("letters")
	if choice != "on" && choice != "off" {
		return s.meForm(c, "", "Say whether single-letter keys are on or off.")
	}
	if err := s.House.Visits.Arrange(site.WhoAsks(c).ID, map[string]string{site.LettersKept: choice}); err != nil {
		return err
	}
	return s.meForm(c, "Single-letter keys are "+choice+".", "")
}

// ChangeName gives the person who asks another name.
func (s *Accounts) ChangeName(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return s.meForm(c, "", phrase.Sentence(err.Error()))
	}
	if err := s.House.People.SetName(site.WhoAsks(c).ID, name); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/me")
}

// ChangePassword gives somebody another password, who knows the one they have, and ends their other sessions.
func (s *Accounts) ChangePassword(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	if refusal, err := s.KnowsPassword(c); err != nil || refusal != "" {
		return s.orMe(c, refusal, err)
	}
	if err := account.Password(c.FormValue("password"), &m.Person); err != nil {
		return s.meForm(c, "", phrase.Sentence(err.Error()))
	}
	if err := s.House.People.SetPassword(m.ID, passcode.Hash(c.FormValue("password")), m.Session); err != nil {
		return err
	}
	s.Note(c, "changed their password", m.Email)
	if m.Locked {
		s.tellChanged(m.Person)
	}
	return s.meForm(c, "Your password is changed, and you are signed out everywhere else.", "")
}

// SignOutEverywhere ends all sessions of the person who asks.
func (s *Accounts) SignOutEverywhere(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	if err := s.House.Sessions.EndAll(m.ID); err != nil {
		return err
	}
	s.Note(c, "signed out everywhere", m.Email)
	s.leave(c)
	return c.Redirect().Status(fiber.StatusSeeOther).To("/sign-in")
}

// firstPage is what first.html shows.
type firstPage struct {
	site.Frame
	Refusal string
	Key     string
	Name    string
	Email   string
}

// forgotPage is what forgot.html shows.
type forgotPage struct {
	site.Frame
	Email string
}

// mePage is what me.html shows.
type mePage struct {
	site.Frame
	MailChoices []mailChoice
	MailChoice  string
	Sessions    []store.Session
	Done        string
	Refusal     string
	Least       int
}

// signInPage is what sign-in.html shows.
type signInPage struct {
	site.Frame
	To        string
	Email     string
	Refusal   string
	Directory *site.Directory
	People    []account.Person
}

// ticketPage is what ticket.html shows.
type ticketPage struct {
	site.Frame
	Person  account.Person
	Invited bool
	Path    string
	Refusal string
}
