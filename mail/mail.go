// Package mail writes and sends what the application tells people by mail: the texts stand in texts.go, each once, as
// plain text and as HTML. Sending goes through a Carrier: an outbox that keeps what would be sent, or a server for
// mail.
package mail

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"log/slog"
	"maps"
	"net"
	"strconv"
	"strings"
	"sync"
	texttemplate "text/template"
	"time"

	gomail "github.com/wneessen/go-mail"

	"plaintracer/background"
)

// Message is what is sent to one person.
type Message struct {
	To, Subject, Plain, HTML string
	// Picture is one that the HTML shows, as PNG; nil for none.
	Picture []byte
}

// Sender brings a message on its way.
type Sender interface {
	Carry(ctx context.Context, m Message) error
}

// Write returns a message of a kind to an address. Its items are what it tells of, the latest last: its text names the
// fields of that one, and those of all as Items.
func Write(kind, to string, items ...map[string]any) (Message, error) {
	t, ok := texts[kind]
	if !ok || len(items) == 0 {
		return Message{}, fmt.Errorf("there is no message %q of %d things", kind, len(items))
	}
	with := maps.Clone(items[len(items)-1])
	with["Items"] = items
	plain := func(name, text string) (string, error) {
		var out bytes.Buffer
		parsed, err := texttemplate.New(name).Parse(text)
		if err == nil {
			err = parsed.Execute(&out, with)
		}
		return out.String(), err
	}
	m := Message{To: to}
	var err error
	if m.Subject, err = plain("subject", t.subject); err != nil {
		return m, err
	}
	m.Subject = strings.Join(strings.Fields(m.Subject), " ")
	if m.Plain, err = plain("text", strings.TrimSpace(t.text)+"\n"); err != nil {
		return m, err
	}
	m.HTML, err = asPage(m.Subject, m.Plain)
	return m, err
}

var page = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{{.Subject}}</title></head>
<body style="margin:0;padding:24px;background:#faf8f3;color:#22303c;font:15px/1.5 sans-serif"><div style="max-width:560px">
{{range .Parts}}{{if .Link}}<p><a href="{{.Link}}" style="color:#1f6b57">{{.Link}}</a></p>{{else}}<p>{{.Text}}</p>{{end}}
{{end}}</div></body></html>
`))

// asPage sets a plain text as HTML: its paragraphs, and addresses that stand alone as links.
func asPage(subject, plain string) (string, error) {
	type part struct {
		Text string
		Link string
	}
	var parts []part
	for _, text := range strings.Split(strings.TrimSpace(plain), "\n\n") {
		text = strings.TrimSpace(text)
		if (strings.HasPrefix(text, "http://") || strings.HasPrefix(text, "https://")) &&
			!strings.ContainsAny(text, " \n") {
			parts = append(parts, part{Link: text})
		} else {
			parts = append(parts, part{Text: text})
		}
	}
	var out bytes.Buffer
	err := page.Execute(&out, map[string]any{"Subject": subject, "Parts": parts})
	return out.String(), err
}

// pictureName names the picture within a message (RFC 2392).
const pictureName = "map.png"

// WithPicture has the HTML of a message show the picture that goes with it, below its words.
func WithPicture(page string) string {
	return strings.Replace(page, "</div></body>",
		`<p><img src="cid:`+pictureName+`" alt="The map" style="max-width:100%;border:1px solid #d8d2c5"></p></div></body>`, 1)
}

// Server is a server for mail that messages are handed to (RFC 5321).
type Server struct {
	// Address is its host and port, From whom messages come from. Name and Password sign in to it, where it asks for
	// that.
	Address, From, Name, Password string
	// Plain allows a connection without TLS, for a server on this machine.
	Plain bool
}

// carryTime is how long a server may take for a message.
const carryTime = 20 * time.Second

// Carry implements Carrier.
func (s *Server) Carry(ctx context.Context, m Message) error {
	host, port, err := net.SplitHostPort(s.Address)
	if err != nil {
		return fmt.Errorf("the server for mail %q is written as HOST:PORT", s.Address)
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the port of the server for mail is a number, not %q", port)
	}
	letter := gomail.NewMsg()
	if err := letter.From(s.From); err != nil {
		return err
	}
	if err := letter.To(m.To); err != nil {
		return err
	}
	letter.Subject(m.Subject)
	letter.SetDate()
	letter.SetMessageID()
	letter.SetBodyString(gomail.TypeTextPlain, m.Plain)
	letter.AddAlternativeString(gomail.TypeTextHTML, m.HTML)
	if len(m.Picture) > 0 {
		if err := letter.EmbedReader(pictureName, bytes.NewReader(m.Picture),
			gomail.WithFileContentID(pictureName)); err != nil {
			return err
		}
	}
	options := []gomail.Option{gomail.WithPort(number), gomail.WithTimeout(carryTime),
		gomail.WithTLSPolicy(gomail.TLSMandatory)}
	switch {
	case s.Plain:
		options = append(options, gomail.WithTLSPolicy(gomail.TLSOpportunistic))
	case number == 465: // TLS from the start (RFC 8314)
		options = append(options, gomail.WithSSL())
	}
	if s.Name != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.Name),
			gomail.WithPassword(s.Password))
	}
	client, err := gomail.NewClient(host, options...)
	if err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(ctx, carryTime)
	defer stop()
	return client.DialAndSendWithContext(ctx, letter)
}

// Letter is a message that is kept until it is sent or given up.
type Letter struct {
	Message
	// N names it, Kind says what it is, Tries how often it was tried in vain. After Until it is of no use.
	N     int64
	Kind  string
	Tries int
	Until time.Time
}

// Box keeps letters, so that none is lost with the program.
type Box interface {
	// Due are letters to be sent by a time, at most so many, and when the next one after them is; zero for none.
	Due(at time.Time, most int) (list []Letter, next time.Time, err error)
	// Fresh is a letter as it is to be sent now; false where it says nothing any more.
	Fresh(l Letter) (Letter, bool)
	// Sent, Later, GiveUp and Drop note what became of one.
	Sent(l Letter) error
	Later(l Letter, why error, next time.Time) error
	GiveUp(l Letter, why error) error
	Drop(l Letter) error
}

// Queue brings the letters of a box on their way, so that nobody waits for a server that hangs. One that is not taken
// is tried again, after a restart of the program as well; one that never is, is given up.
type Queue struct {
	carrier Sender
	box     Box
	wake    chan struct{}
	pauses  []time.Duration
}

// atOnce is how many letters are sent at a time.
const atOnce = 4

// pauses are how long a letter waits from one try to the next.
var pauses = []time.Duration{5 * time.Second, time.Minute, 10 * time.Minute, time.Hour, 6 * time.Hour}

// NewQueue returns a queue for a carrier over a box.
func NewQueue(c Sender, b Box) *Queue {
	return &Queue{carrier: c, box: b, wake: make(chan struct{}, 1), pauses: pauses}
}

// Wake says that there is a new letter in the box. It does not wait.
func (q *Queue) Wake() {
	select {
	case q.wake <- struct{}{}:
	default:
	}
}

// Run sends what is due until the context ends.
func (q *Queue) Run(ctx context.Context) {
	const most, idle = 20, time.Minute
	for ctx.Err() == nil {
		list, next, err := q.box.Due(time.Now(), most)
		if err != nil {
			slog.Error("reading the outbox", "error", err)
		}
		if len(list) > 0 {
			q.sendAll(ctx, list)
			continue
		}
		wait := idle
		if err == nil && !next.IsZero() {
			wait = min(time.Until(next), idle)
		}
		timer := time.NewTimer(max(wait, 0))
		select {
		case <-q.wake:
		case <-timer.C:
		case <-ctx.Done():
		}
		timer.Stop()
	}
}

func (q *Queue) sendAll(ctx context.Context, list []Letter) {
	var all sync.WaitGroup
	turns := make(chan struct{}, atOnce)
	for _, l := range list {
		turns <- struct{}{}
		all.Go(func() {
			defer func() { <-turns }()
			defer background.Caught("sending a message")
			q.send(ctx, l)
		})
	}
	all.Wait()
}

func (q *Queue) send(ctx context.Context, l Letter) {
	note := func(err error) {
		if err != nil {
			slog.Error("noting what became of a message", "error", err)
		}
	}
	l, says := q.box.Fresh(l)
	if !says {
		note(q.box.Drop(l))
		return
	}
	err := q.carrier.Carry(ctx, l.Message)
	if ctx.Err() != nil {
		return // it is tried again when the program runs again
	}
	if err == nil {
		note(q.box.Sent(l))
		return
	}
	slog.Warn("a message was not sent", "kind", l.Kind, "try", l.Tries+1, "error", err)
	if l.Tries < len(q.pauses) {
		if next := time.Now().Add(q.pauses[l.Tries]); next.Before(l.Until) {
			note(q.box.Later(l, err, next))
			return
		}
	}
	note(q.box.GiveUp(l, err))
}
