// Package mail writes and sends what the application tells people by mail: the texts stand in texts.go, each once, as plain
// text and as HTML. Sending goes through a Carrier: an outbox that keeps what would be sent, or a server for mail.
package mail

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"log/slog"
	"net"
	"strconv"
	"strings"
	"sync"
	texttemplate "text/template"
	"time"

	gomail "github.com/wneessen/go-mail"
)

// Message is what is sent to one person.
type Message struct{ To, Subject, Plain, HTML string }

// Carrier brings a message on its way.
type Carrier interface {
	Carry(ctx context.Context, m Message) error
}

// Write returns a message of a kind to an address, with what its text names.
func Write(kind, to string, with any) (Message, error) {
	t, ok := texts[kind]
	if !ok {
		return Message{}, fmt.Errorf("there is no message %q", kind)
	}
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
		if (strings.HasPrefix(text, "http://") || strings.HasPrefix(text, "https://")) && !strings.ContainsAny(text, " \n") {
			parts = append(parts, part{Link: text})
		} else {
			parts = append(parts, part{Text: text})
		}
	}
	var out bytes.Buffer
	err := page.Execute(&out, map[string]any{"Subject": subject, "Parts": parts})
	return out.String(), err
}

// Server is a server for mail that messages are handed to (RFC 5321).
type Server struct {
	// Address is its host and port, From whom messages come from. Name and Password sign in to it, where it asks for that.
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
	options := []gomail.Option{gomail.WithPort(number), gomail.WithTimeout(carryTime), gomail.WithTLSPolicy(gomail.TLSMandatory)}
	switch {
	case s.Plain:
		options = append(options, gomail.WithTLSPolicy(gomail.TLSOpportunistic))
	case number == 465: // TLS from the start (RFC 8314)
		options = append(options, gomail.WithSSL())
	}
	if s.Name != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.Name), gomail.WithPassword(s.Password))
	}
	client, err := gomail.NewClient(host, options...)
	if err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(ctx, carryTime)
	defer stop()
	return client.DialAndSendWithContext(ctx, letter)
}

// Queue brings messages on their way one after the other, so that nobody waits for a server that hangs. A message that is
// not taken is tried again; one that never is, is told of.
type Queue struct {
	carrier Carrier
	waiting chan Message
	// Failed is told of a message that could not be brought on its way.
	Failed func(m Message, err error)
	pauses []time.Duration
	ctx    context.Context
	stop   context.CancelFunc
	done   sync.WaitGroup
}

// The bounds of a queue: how many messages wait, and how long between tries.
const queued = 1000

var pauses = []time.Duration{5 * time.Second, time.Minute, 10 * time.Minute}

// NewQueue starts a queue for a carrier.
func NewQueue(c Carrier, failed func(Message, error)) *Queue {
	q := &Queue{carrier: c, waiting: make(chan Message, queued), Failed: failed, pauses: pauses}
	q.ctx, q.stop = context.WithCancel(context.Background())
	q.done.Go(q.run)
	return q
}

// Send puts a message into the queue. It does not wait.
func (q *Queue) Send(m Message) {
	select {
	case q.waiting <- m:
	default:
		q.Failed(m, fmt.Errorf("%d messages are waiting already", queued))
	}
}

// Close ends the queue. What still waits is not sent.
func (q *Queue) Close() {
	q.stop()
	q.done.Wait()
}

func (q *Queue) run() {
	for {
		select {
		case m := <-q.waiting:
			q.done.Go(func() { q.bring(m) })
		case <-q.ctx.Done():
			return
		}
	}
}

func (q *Queue) bring(m Message) {
	for try := 0; ; try++ {
		err := q.carrier.Carry(q.ctx, m)
		if err == nil || q.ctx.Err() != nil {
			return
		}
		slog.Warn("a message was not sent", "subject", m.Subject, "try", try+1, "error", err)
		if try == len(q.pauses) {
			q.Failed(m, err)
			return
		}
		select {
		case <-time.After(q.pauses[try]):
		case <-q.ctx.Done():
			return
		}
	}
}
