package accounts

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/exchange/cell"
	"plaintracer/mail"
	"plaintracer/review"
	"plaintracer/store"
	"plaintracer/web/site"
)

// PeoplePage lists the people in the organisation.
func (s *Accounts) PeoplePage(c fiber.Ctx) error { return s.peopleForm(c, "", "") }

// peopleForm shows the people in the organisation, with what was done or why not.
func (s *Accounts) peopleForm(c fiber.Ctx, done, refusal string) error {
	people, err := s.House.People.List()
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	given, err := s.House.Letters.GivenUp(time.Now().AddDate(0, 0, -7))
	if err != nil {
		return err
	}
	lost := ""
	if given > 0 {
		lost = phrase.Count(given, "message")
	}
	page := &peoplePage{Lost: lost, Frame: site.Frame{Title: "People"}, People: people,
		Done: done, Refusal: refusal, Until: time.Now().Add(inviteTime).Format(time.DateOnly),
		Tomorrow: time.Now().AddDate(0, 0, 1).Format(time.DateOnly)}
	if err := s.reviewing(page); err != nil {
		return err
	}
	return s.Page(c, "people.html", page)
}

// Invite adds a person to the organisation, who chooses their password by a link that is sent to them.
func (s *Accounts) Invite(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return s.peopleForm(c, "", phrase.Sentence(err.Error()))
	}
	email, _, err := account.Address(c.FormValue("email"))
	if err != nil {
		return s.peopleForm(c, "", phrase.Sentence(err.Error()))
	}
	until, err := phrase.InDays(c.FormValue("until"), inviteTime)
	if err != nil {
		return s.peopleForm(c, "", phrase.Sentence(err.Error()))
	}
	role := account.Member
	if c.FormValue("role") == string(account.Owner) {
		role = account.Owner
	}
	id, err := s.House.People.Add(store.NewPerson{Name: name, Email: email, Role: role})
	if errors.Is(err, store.ErrTaken) {
		return s.peopleForm(c, "", "Somebody with the address "+email+" is in the organisation already.")
	}
	if err != nil {
		return err
	}
	p, err := s.House.People.Get(id)
	if err != nil {
		return err
	}
	if err := s.sendTicket(mail.Invite, store.Invitation, p, until, site.WhoAsks(c).Name); err != nil {
		return err
	}
	s.Note(c, "invited a person as "+string(role), p.Email)
	return s.peopleForm(c,
		"An invitation to "+p.Email+" "+s.way()+". It is good until "+until.Add(-time.Second).Format("2 January 2006")+
			".", "")
}

// way says what becomes of a message.
func (s *Accounts) way() string {
	if s.Settings.Mail == nil {
		return "waits in the outbox, since no server for mail is set"
	}
	return "is on its way"
}

// onPerson does something to the person of a request and shows the list again.
func (s *Accounts) onPerson(c fiber.Ctx, do func(p account.Person) (done string, err error)) error {
	p, err := s.House.People.Get(c.Params("person"))
	if err != nil {
		return err
	}
	done, err := do(p)
	var wrong *site.FormFault
	switch {
	case errors.Is(err, store.ErrLastOwner):
		return s.peopleForm(c, "", p.Name+" is the only administrator. Make somebody else an administrator first.")
	case errors.As(err, &wrong):
		return s.peopleForm(c, "", wrong.Error())
	case err != nil:
		return err
	}
	s.Live.RightsChanged()
	return s.peopleForm(c, done, "")
}

// ChangeRole makes somebody an administrator, or not any more.
func (s *Accounts) ChangeRole(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		role, what := account.Member, "a member"
		if c.FormValue("role") == string(account.Owner) {
			role, what = account.Owner, "an administrator"
		}
		if err := s.House.People.SetRole(p.ID, role); err != nil {
			return "", err
		}
		s.Note(c, "made a person "+what, p.Email)
		return p.Name + " is now " + what + ".", nil
	})
}

// ResetPerson sends a person a ticket for a new password, or a new invitation.
func (s *Accounts) ResetPerson(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		kind, purpose, until := mail.Reset, store.NewWord, time.Now().Add(24*time.Hour)
		if !p.Locked && !p.Directory {
			kind, purpose, until = mail.Invite, store.Invitation, time.Now().Add(inviteTime)
		}
		if !p.Off.IsZero() {
			return "", site.FormError(p.Name + " is deactivated.")
		}
		if err := s.sendTicket(kind, purpose, p, until, site.WhoAsks(c).Name); err != nil {
			return "", err
		}
		s.Note(c, "sent a link for a new password", p.Email)
		return "A link for " + p.Name + ", to " + p.Email + ", " + s.way() + ".", nil
	})
}

// SwitchPerson switches a person off, or on again.
func (s *Accounts) SwitchPerson(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		off := p.Off.IsZero()
		if off && p.ID == site.WhoAsks(c).ID {
			return "", site.FormError("You cannot deactivate yourself.")
		}
		if err := s.House.People.SetOff(p.ID, off); err != nil {
			return "", err
		}
		what := "deactivated"
		if !off {
			what = "reactivated"
		}
		s.Note(c, what+" a person", p.Email)
		return p.Name + " is " + what + ".", nil
	})
}

// HandOver gives all maps and folders of a person to another.
func (s *Accounts) HandOver(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		to, err := s.House.People.Get(c.FormValue("to"))
		if errors.Is(err, store.ErrNotFound) || err == nil && to.ID == p.ID {
			return "", site.FormError("Choose who takes the maps of " + p.Name + ".")
		}
		if err != nil {
			return "", err
		}
		n, err := s.House.People.HandOver(p.ID, to.ID)
		if errors.Is(err, store.ErrNotFound) {
			return "", site.FormError(to.Name + " is deactivated.")
		}
		if err != nil {
			return "", err
		}
		s.Note(c, fmt.Sprintf("handed %s over to %s", phrase.Count(int(n), "map"), to.Email), p.Email)
		return fmt.Sprintf("%s now has the %s of %s.", to.Name, phrase.Count(int(n), "map"), p.Name), nil
	})
}

// auditPage is how many events stand on a page.
const auditPage = 100

// Audit shows what was done to people and rights.
func (s *Accounts) Audit(c fiber.Ctx) error {
	number := min(max(fiber.Query(c, "page", 1), 1), 1<<20)
	list, err := s.House.Audit.Events((number-1)*auditPage, auditPage+1)
	if err != nil {
		return err
	}
	older := 0
	if len(list) > auditPage {
		list, older = list[:auditPage], number+1
	}
	return s.Page(c, "audit.html", &deedsPage{Frame: site.Frame{Title: "Activity log"}, Events: list,
		Newer: number - 1, Older: older})
}

// AuditFile is the list of what was done as a table (RFC 4180). What a spreadsheet would take for a formula is quoted.
func (s *Accounts) AuditFile(c fiber.Ctx) error {
	list, err := s.House.Audit.Events(0, 1<<20)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	rows := [][]string{{"when", "who", "what", "about", "from"}}
	for _, e := range list {
		rows = append(rows, cell.Row(e.At.UTC().Format(time.RFC3339), e.Who, e.What, e.About, e.Origin))
	}
	if err := w.WriteAll(rows); err != nil {
		return err
	}
	site.Attach(c, "activity log.csv")
	return site.SendFile(c, "text/csv", out.Bytes(), nil)
}

// OutboxPage shows the messages that wait, and what became of the others.
func (s *Accounts) OutboxPage(c fiber.Ctx) error {
	list, err := s.House.Letters.Outbox()
	if err != nil {
		return err
	}
	real := s.Settings.Mail != nil
	var letters []letter
	for _, l := range list {
		one := letter{Letter: l, Over: !l.Waits()}
		if l.Plain != "" {
			one.Parts = strings.Split(strings.TrimSpace(l.Plain), "\n\n")
		}
		switch {
		case !l.Sent.IsZero():
			one.State = "sent " + phrase.Ago(l.Sent)
		case one.Over && l.Failed != "":
			one.State = "given up: " + l.Failed
		case one.Over:
			one.State = "kept by an earlier program"
		case l.Tries > 0:
			one.State = fmt.Sprintf("tried %s in vain (%s); the next try is at %s", phrase.Times(l.Tries), l.Failed,
				l.Due.Format("15:04"))
		case real && l.Due.After(time.Now()):
			one.State = "gathered with others until " + l.Due.Format("15:04")
		case real:
			one.State = "on its way"
		default:
			one.State = "waits; it is of use until " + l.Until.Format("2 January 2006, 15:04")
		}
		letters = append(letters, one)
	}
	return s.Page(c, "outbox.html", &outboxPage{Frame: site.Frame{Title: "Outbox"}, Letters: letters, Real: real})
}

// mailChoice is which messages about remarks a person wants.
type mailChoice struct{ Name, Title string }

// The choices of a person for messages about remarks.
var mailChoices = []mailChoice{{"", "remarks that concern me, at most once an hour"},
	{"spoken", "only where my name is mentioned"}, {"none", "none"}}

// deedsPage is what audit.html shows.
type deedsPage struct {
	site.Frame
	Events []store.Event
	Newer  int
	Older  int
}

// outboxPage is what outbox.html shows.
type outboxPage struct {
	site.Frame
	Letters []letter
	Real    bool
}

// peoplePage is what people.html shows.
type peoplePage struct {
	site.Frame
	// Habits are how rounds of review are held, Rules those by which a version can be agreed, Groups those of the
	// organisation and an empty one for a new one.
	Habits   review.Habits
	Rules    []review.RuleWords
	Groups   []groupView
	Lost     string
	People   []account.Person
	Done     string
	Refusal  string
	Until    string
	Tomorrow string
}

// letter is a message in the outbox, with what became of it.
type letter struct {
	store.Letter
	Parts []string
	State string
	Over  bool
}
