package web

import (
	"encoding/json"
	"fmt"
	"log"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/mail"
	"plaintracer/store"
)

// letterTime is how long a message is of use that says no other time.
const letterTime = 7 * 24 * time.Hour

// sendMail brings a message about something on its way; what comes about the same in a short time is gathered in one message.
// Nobody waits for it to be sent.
func (s *Server) sendMail(kind, to, about string, with map[string]any) {
	s.sendUntil(kind, to, about, time.Now().Add(letterTime), with)
}

// sendUntil brings a message on its way that is of no use after a time.
func (s *Server) sendUntil(kind, to, about string, until time.Time, with map[string]any) {
	item, err := json.Marshal(with)
	if err == nil {
		err = s.house.Letters.Post(store.Letter{To: to, Kind: kind, About: about, Until: until, Items: []json.RawMessage{item}}, mail.Pauses[kind], written)
	}
	if err != nil {
		log.Printf("writing a message: %v", err)
		return
	}
	if s.letters != nil {
		s.letters.Wake()
	}
}

// written writes a letter of what it tells of.
func written(l *store.Letter) error {
	var items []map[string]any
	for _, raw := range l.Items {
		var one map[string]any
		if err := json.Unmarshal(raw, &one); err != nil {
			return err
		}
		items = append(items, one)
	}
	m, err := mail.Write(l.Kind, l.To, items...)
	l.Subject, l.Plain, l.HTML = m.Subject, m.Plain, m.HTML
	return err
}

// box is the outbox as what sends messages sees it.
type box struct{ *Server }

// Due implements mail.Box.
func (b box) Due(at time.Time, most int) (out []mail.Letter, next time.Time, err error) {
	list, next, err := b.house.Letters.Due(at, most)
	for _, l := range list {
		out = append(out, mail.Letter{Message: mail.Message{To: l.To, Subject: l.Subject, Plain: l.Plain, HTML: l.HTML}, N: l.N, Kind: l.Kind, Tries: l.Tries, Until: l.Until})
	}
	return out, next, err
}

// Fresh implements mail.Box: how many remarks somebody has not seen is counted when they are told.
func (b box) Fresh(l mail.Letter) (mail.Letter, bool) {
	if l.Until.Before(time.Now()) {
		return l, false
	}
	if l.Kind != mail.Digest {
		return l, true
	}
	p, _, err := b.house.People.ByMail(l.To)
	if err != nil {
		return l, false
	}
	with, some := b.digest(p)
	if !some {
		return l, false
	}
	m, err := mail.Write(l.Kind, l.To, with)
	if err == nil {
		l.Message = m
	}
	return l, err == nil
}

// Sent implements mail.Box.
func (b box) Sent(l mail.Letter) error { return b.house.Letters.Sent(l.N) }

// Later implements mail.Box.
func (b box) Later(l mail.Letter, why error, next time.Time) error {
	return b.house.Letters.Later(l.N, why.Error(), next)
}

// Drop implements mail.Box.
func (b box) Drop(l mail.Letter) error { return b.house.Letters.Drop(l.N) }

// GiveUp implements mail.Box. Owners of the house read of it in the list of what was done, and on the page of people.
func (b box) GiveUp(l mail.Letter, why error) error {
	log.Printf("a message of the kind %s was given up: %v", l.Kind, why)
	if err := b.house.Audit.Note(store.Event{Who: "the server", What: "gave up sending a message: " + why.Error(), About: l.To}); err != nil {
		log.Print(err)
	}
	return b.house.Letters.GiveUp(l.N, why.Error())
}

// outboxPage shows the messages that wait, and what became of the others.
func (s *Server) outboxPage(c fiber.Ctx) error {
	list, err := s.house.Letters.Outbox()
	if err != nil {
		return err
	}
	type letter struct {
		store.Letter
		Parts []string
		State string
		Over  bool
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
			one.State = "sent " + ago(l.Sent)
		case one.Over && l.Failed != "":
			one.State = "given up: " + l.Failed
		case one.Over:
			one.State = "kept by an earlier program"
		case l.Tries > 0:
			one.State = fmt.Sprintf("tried %s in vain (%s); the next try is at %s", times(l.Tries), l.Failed, l.Due.Format("15:04"))
		case real && l.Due.After(time.Now()):
			one.State = "gathered with others until " + l.Due.Format("15:04")
		case real:
			one.State = "on its way"
		default:
			one.State = "waits; it is of use until " + l.Until.Format("2 January 2006, 15:04")
		}
		letters = append(letters, one)
	}
	return s.page(c, "outbox.html", map[string]any{"Title": "Outbox", "Letters": letters, "Real": real})
}

// times says how often.
func times(n int) string {
	if n == 1 {
		return "once"
	}
	return fmt.Sprint(n, " times")
}
