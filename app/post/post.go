// Package post brings messages on their way, and tells people by them what they have not seen. Nobody waits for a
// message to be sent: it is kept in the outbox first.
package post

import (
	"context"
	"encoding/json"
	"log"
	"time"

	"plaintracer/account"
	"plaintracer/app/live"
	"plaintracer/app/phrase"
	"plaintracer/mail"
	"plaintracer/store"
)

// letterTime is how long a message is of use that says no other time.
const letterTime = 7 * 24 * time.Hour

// Post is the outbox with what empties it.
type Post struct {
	store *store.Store
	live  *live.Live
	// address is where people find the application.
	address string
	// queue sends the messages that wait; nil where they only lie there.
	queue *mail.Queue
}

// New returns the outbox of a store, whose messages a carrier brings; nil to let them lie.
func New(s *store.Store, l *live.Live, address string, carrier mail.Sender) *Post {
	p := &Post{store: s, live: l, address: address}
	if carrier != nil {
		p.queue = mail.NewQueue(carrier, box{p})
	}
	return p
}

// Run sends what waits until the context ends.
func (p *Post) Run(ctx context.Context) {
	if p.queue != nil {
		p.queue.Run(ctx)
	}
}

// Send brings a message about something on its way; what comes about the same in a short time is gathered in one
// message.
func (p *Post) Send(kind, to, about string, with map[string]any) {
	p.SendUntil(kind, to, about, time.Now().Add(letterTime), with)
}

// SendUntil brings a message on its way that is of no use after a time.
func (p *Post) SendUntil(kind, to, about string, until time.Time, with map[string]any) {
	p.send(store.Letter{To: to, Kind: kind, About: about, Until: until}, with)
}

// SendPicture brings a message on its way that shows a picture, as PNG; nil for none.
func (p *Post) SendPicture(kind, to, about string, picture []byte, with map[string]any) {
	p.send(store.Letter{To: to, Kind: kind, About: about, Until: time.Now().Add(letterTime), Picture: picture}, with)
}

func (p *Post) send(l store.Letter, with map[string]any) {
	item, err := json.Marshal(with)
	if err == nil {
		l.Items = []json.RawMessage{item}
		err = p.store.Letters.Post(l, mail.Pauses[l.Kind], written)
	}
	if err != nil {
		log.Printf("writing a message: %v", err)
		return
	}
	if p.queue != nil {
		p.queue.Wake()
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
	if err == nil && len(l.Picture) > 0 {
		m.HTML = mail.WithPicture(m.HTML)
	}
	l.Subject, l.Plain, l.HTML = m.Subject, m.Plain, m.HTML
	return err
}

// Digest tells a person by mail of remarks that they have not seen, if there are some.
func (p *Post) Digest(who account.Person) {
	if with, some := p.digest(who); some {
		p.Send(mail.Digest, who.Email, "remarks", with)
	}
}

// digest is what a person is told of remarks that they have not seen, on maps on which they may see them, with the way
// to the latest; false where there is nothing to tell.
func (p *Post) digest(who account.Person) (with map[string]any, some bool) {
	unseen, err := p.store.Remarks.Unseen(who.ID)
	if err != nil {
		log.Printf("counting remarks: %v", err)
		return nil, false
	}
	remarks, maps, latest := 0, 0, store.Unseen{}
	for id, one := range unseen {
		if !p.live.Still(who.ID, id, account.Remark) {
			continue
		}
		remarks, maps = remarks+one.Count, maps+1
		if one.At.After(latest.At) || one.At.Equal(latest.At) && one.Map > latest.Map {
			latest = one
		}
	}
	if remarks == 0 {
		return nil, false
	}
	return map[string]any{"Name": who.Name, "Count": phrase.Count(remarks, "remark"), "Maps": phrase.Count(maps, "map"),
		"Link": p.address + "/maps/" + latest.Map + "#remark=" + latest.Latest}, true
}

// box is the outbox as what sends messages sees it.
type box struct{ *Post }

// Due implements mail.Box.
func (b box) Due(at time.Time, most int) (out []mail.Letter, next time.Time, err error) {
	list, next, err := b.store.Letters.Due(at, most)
	for _, l := range list {
		out = append(out, mail.Letter{Message: mail.Message{To: l.To, Subject: l.Subject, Plain: l.Plain, HTML: l.HTML,
			Picture: l.Picture},
			N: l.N, Kind: l.Kind, Tries: l.Tries, Until: l.Until})
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
	p, _, err := b.store.People.ByMail(l.To)
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
func (b box) Sent(l mail.Letter) error { return b.store.Letters.Sent(l.N) }

// Later implements mail.Box.
func (b box) Later(l mail.Letter, why error, next time.Time) error {
	return b.store.Letters.Later(l.N, why.Error(), next)
}

// Drop implements mail.Box.
func (b box) Drop(l mail.Letter) error { return b.store.Letters.Drop(l.N) }

// GiveUp implements mail.Box. Administrators read of it in the list of what was done, and on the page of people.
func (b box) GiveUp(l mail.Letter, why error) error {
	log.Printf("a message of the kind %s was given up: %v", l.Kind, why)
	if err := b.store.Audit.Note(store.Event{Who: "the server", What: "gave up sending a message: " + why.Error(),
		About: l.To}); err != nil {
		log.Print(err)
	}
	return b.store.Letters.GiveUp(l.N, why.Error())
}
