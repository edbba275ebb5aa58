package web

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/exchange/cell"
	"plaintracer/mail"
	"plaintracer/store"
)

// names are what the people of the house are called, by their ids.
func (s *Server) names() (map[string]string, error) {
	people, err := s.house.People.List()
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for i := range people {
		out[people[i].ID] = people[i].Name
	}
	return out, nil
}

func (s *Server) peoplePage(c fiber.Ctx) error { return s.peopleForm(c, "", "") }

// peopleForm shows the people of the house, with what was done or why not.
func (s *Server) peopleForm(c fiber.Ctx, done, refusal string) error {
	people, err := s.house.People.List()
	if err != nil {
		return err
	}
	if refusal != "" {
		c.Status(fiber.StatusBadRequest)
	}
	given, err := s.house.Letters.GivenUp(time.Now().AddDate(0, 0, -7))
	if err != nil {
		return err
	}
	lost := ""
	if given > 0 {
		lost = count(given, "message")
	}
	return s.page(c, "people.html", map[string]any{"Lost": lost, "Title": "People", "People": people, "Done": done, "Refusal": refusal,
		"Until": time.Now().Add(inviteTime).Format(time.DateOnly), "Tomorrow": time.Now().AddDate(0, 0, 1).Format(time.DateOnly)})
}

// invite adds a person to the house, who chooses their password by a link that is sent to them.
func (s *Server) invite(c fiber.Ctx) error {
	name, err := account.Name(c.FormValue("name"))
	if err != nil {
		return s.peopleForm(c, "", sentence(err.Error()))
	}
	email, _, err := account.Address(c.FormValue("email"))
	if err != nil {
		return s.peopleForm(c, "", sentence(err.Error()))
	}
	until, err := inDays(c.FormValue("until"), inviteTime)
	if err != nil {
		return s.peopleForm(c, "", sentence(err.Error()))
	}
	role := account.Member
	if c.FormValue("role") == string(account.Owner) {
		role = account.Owner
	}
	id, err := s.house.People.Add(store.NewPerson{Name: name, Email: email, Role: role})
	if errors.Is(err, store.ErrTaken) {
		return s.peopleForm(c, "", "Somebody with the address "+email+" is in the house already.")
	}
	if err != nil {
		return err
	}
	p, err := s.house.People.Get(id)
	if err != nil {
		return err
	}
	if err := s.sendTicket(mail.Invite, store.Invitation, p, until, whoAsks(c).Name); err != nil {
		return err
	}
	s.note(c, "invited a person as "+string(role), p.Email)
	return s.peopleForm(c, "An invitation to "+p.Email+" "+s.way()+". It is good until "+until.Add(-time.Second).Format("2 January 2006")+".", "")
}

// way says what becomes of a message.
func (s *Server) way() string {
	if s.Settings.Mail == nil {
		return "waits in the outbox, since no server for mail is set"
	}
	return "is on its way"
}

// onPerson does something to the person of a request and shows the list again.
func (s *Server) onPerson(c fiber.Ctx, do func(p account.Person) (done string, err error)) error {
	p, err := s.house.People.Get(c.Params("person"))
	if err != nil {
		return err
	}
	done, err := do(p)
	var wrong *unfit
	switch {
	case errors.Is(err, store.ErrLastOwner):
		return s.peopleForm(c, "", p.Name+" is the only owner of the house. Make somebody else an owner first.")
	case errors.As(err, &wrong):
		return s.peopleForm(c, "", wrong.text)
	case err != nil:
		return err
	}
	s.live.RightsChanged()
	return s.peopleForm(c, done, "")
}

func (s *Server) changeRole(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		role, what := account.Member, "a member"
		if c.FormValue("role") == string(account.Owner) {
			role, what = account.Owner, "an owner"
		}
		if err := s.house.People.SetRole(p.ID, role); err != nil {
			return "", err
		}
		s.note(c, "made a person "+what, p.Email)
		return p.Name + " is now " + what + " of the house.", nil
	})
}

// resetPerson sends a person a ticket for a new password, or a new invitation.
func (s *Server) resetPerson(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		kind, purpose, until := mail.Reset, store.NewWord, time.Now().Add(24*time.Hour)
		if !p.Locked && !p.Directory {
			kind, purpose, until = mail.Invite, store.Invitation, time.Now().Add(inviteTime)
		}
		if !p.Off.IsZero() {
			return "", &unfit{p.Name + " is switched off."}
		}
		if err := s.sendTicket(kind, purpose, p, until, whoAsks(c).Name); err != nil {
			return "", err
		}
		s.note(c, "sent a link for a new password", p.Email)
		return "A link for " + p.Name + ", to " + p.Email + ", " + s.way() + ".", nil
	})
}

// switchPerson switches a person off, or on again.
func (s *Server) switchPerson(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		off := p.Off.IsZero()
		if off && p.ID == whoAsks(c).ID {
			return "", &unfit{"You cannot switch yourself off."}
		}
		if err := s.house.People.SetOff(p.ID, off); err != nil {
			return "", err
		}
		what := "off"
		if !off {
			what = "on"
		}
		s.note(c, "switched a person "+what, p.Email)
		return p.Name + " is switched " + what + ".", nil
	})
}

// handOver gives all maps and folders of a person to another.
func (s *Server) handOver(c fiber.Ctx) error {
	return s.onPerson(c, func(p account.Person) (string, error) {
		to, err := s.house.People.Get(c.FormValue("to"))
		if errors.Is(err, store.ErrNotFound) || err == nil && to.ID == p.ID {
			return "", &unfit{"Choose who takes the maps of " + p.Name + "."}
		}
		if err != nil {
			return "", err
		}
		n, err := s.house.People.HandOver(p.ID, to.ID)
		if errors.Is(err, store.ErrNotFound) {
			return "", &unfit{to.Name + " is switched off."}
		}
		if err != nil {
			return "", err
		}
		s.note(c, fmt.Sprintf("handed %s over to %s", count(int(n), "map"), to.Email), p.Email)
		return fmt.Sprintf("%s now has the %s of %s.", to.Name, count(int(n), "map"), p.Name), nil
	})
}

// count writes a number with what is counted.
func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// auditPage is how many events stand on a page.
const auditPage = 100

func (s *Server) audit(c fiber.Ctx) error {
	number := min(max(fiber.Query(c, "page", 1), 1), 1<<20)
	list, err := s.house.Audit.Events((number-1)*auditPage, auditPage+1)
	if err != nil {
		return err
	}
	older := 0
	if len(list) > auditPage {
		list, older = list[:auditPage], number+1
	}
	return s.page(c, "audit.html", map[string]any{"Title": "What was done", "Events": list, "Newer": number - 1, "Older": older})
}

// auditFile is the list of what was done as a table (RFC 4180). What a spreadsheet would take for a formula is quoted.
func (s *Server) auditFile(c fiber.Ctx) error {
	list, err := s.house.Audit.Events(0, 1<<20)
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
	attach(c, "what was done.csv")
	return sendFile(c, "text/csv", out.Bytes(), nil)
}
