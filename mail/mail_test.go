package mail

import (
	"context"
	"errors"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net"
	netmail "net/mail"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
)

// A server for mail that keeps what it is handed.
type server struct {
	mu   sync.Mutex
	from string
	to   []string
	data []byte
}

func (s *server) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{s}, nil }

type session struct{ s *server }

func (c *session) Mail(from string, _ *smtp.MailOptions) error { c.s.from = from; return nil }
func (c *session) Rcpt(to string, _ *smtp.RcptOptions) error   { c.s.to = append(c.s.to, to); return nil }
func (c *session) Reset()                                      {}
func (c *session) Logout() error                               { return nil }
func (c *session) Data(r io.Reader) (err error) {
	c.s.mu.Lock()
	defer c.s.mu.Unlock()
	c.s.data, err = io.ReadAll(r)
	return err
}

// A message arrives at a server with its umlauts, as plain text and as HTML, and nobody can smuggle a line into its
// head.
func TestMessagesArrive(t *testing.T) {
	kept := &server{}
	real := smtp.NewServer(kept)
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go real.Serve(ln)
	defer real.Close()
	m, err := Write(Invite, "jürgen@town.example", map[string]any{"Name": "Jürgen <b>",
		"By": "Ida\r\nBcc: spy@else.example", "Link": "https://maps.town.example/invited/ABC",
		"Until": "1 May 2026, 10:00"})
	if err != nil {
		t.Fatal(err)
	}
	m.To = "jurgen@town.example"
	carrier := &Server{Address: ln.Addr().String(), From: "maps@town.example", Plain: true}
	if err := carrier.Carry(context.Background(), m); err != nil {
		t.Fatal(err)
	}
	kept.mu.Lock()
	defer kept.mu.Unlock()
	if kept.from != "maps@town.example" || len(kept.to) != 1 || kept.to[0] != m.To {
		t.Errorf("it went from %q to %q", kept.from, kept.to)
	}
	letter, err := netmail.ReadMessage(strings.NewReader(string(kept.data)))
	if err != nil {
		t.Fatal(err)
	}
	if letter.Header.Get("Bcc") != "" || letter.Header.Get("Message-Id") == "" || letter.Header.Get("Date") == "" {
		t.Errorf("its head is %v", letter.Header)
	}
	_, with, err := mime.ParseMediaType(letter.Header.Get("Content-Type"))
	if err != nil {
		t.Fatal(err)
	}
	parts := multipart.NewReader(letter.Body, with["boundary"])
	var texts []string
	for {
		part, err := parts.NextRawPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(quotedprintable.NewReader(part))
		if err != nil {
			t.Fatal(err)
		}
		texts = append(texts, part.Header.Get("Content-Type")+"\n"+string(text))
	}
	if len(texts) != 2 || !strings.HasPrefix(texts[0], "text/plain") || !strings.HasPrefix(texts[1], "text/html") {
		t.Fatalf("its parts are %q", texts)
	}
	for i, want := range []string{"Hello Jürgen <b>,", "Hello Jürgen &lt;b&gt;,"} {
		if !strings.Contains(texts[i], want) || !strings.Contains(texts[i], "https://maps.town.example/invited/ABC") {
			t.Errorf("part %d is\n%s", i, texts[i])
		}
	}
	for _, to := range []string{"a@b.example\r\nBcc: c@d.example", "no address", ""} {
		m.To = to
		if err := carrier.Carry(context.Background(), m); err == nil {
			t.Errorf("a message to %q was sent", to)
		}
	}
	for _, address := range []string{"127.0.0.1", "127.0.0.1:mail"} {
		if err := (&Server{Address: address, From: "a@b.example"}).Carry(context.Background(), m); err == nil {
			t.Errorf("a server at %q took a message", address)
		}
	}
}

// Every text can be written with what it names.
func TestTexts(t *testing.T) {
	for kind := range texts {
		m, err := Write(kind, "a@town.example", map[string]any{"Name": "N", "By": "B", "Link": "https://l.example",
			"Until": "U", "Code": "123456", "Title": "T", "Verb": "read", "Word": "W", "Verdict": "agreed",
			"Reason": "R", "Count": "2 remarks", "Maps": "1 map", "When": "today", "What": "set up", "Did": "done it"})
		if err != nil || strings.Contains(m.Plain+m.Subject, "<no value>") || m.Subject == "" ||
			!strings.Contains(m.HTML, "<p>") {
			t.Errorf("%s: %v %q", kind, err, m.Plain)
		}
	}
	if _, err := Write("nothing", "", nil); err == nil {
		t.Error("a message of no kind was written")
	}
}

// failing takes a message at a try.
type failing struct {
	at int
	n  int
}

func (f *failing) Carry(context.Context, Message) error {
	if f.n++; f.n >= f.at {
		return nil
	}
	return errors.New("not now")
}

// box is a box in memory, for one letter.
type box struct {
	Letter
	due    time.Time
	became chan string
}

func (b *box) Due(at time.Time, _ int) ([]Letter, time.Time, error) {
	if b.due.IsZero() || b.due.After(at) {
		return nil, b.due, nil
	}
	return []Letter{b.Letter}, time.Time{}, nil
}
func (b *box) Fresh(l Letter) (Letter, bool) { return l, l.Plain != "" }
func (b *box) over(what string) error        { b.due = time.Time{}; b.became <- what; return nil }
func (b *box) Sent(Letter) error             { return b.over("sent") }
func (b *box) Drop(Letter) error             { return b.over("dropped") }
func (b *box) GiveUp(_ Letter, why error) error {
	return b.over("given up: " + why.Error())
}
func (b *box) Later(_ Letter, _ error, next time.Time) error {
	b.Tries++
	b.due = next
	return nil
}

// A message that is not taken is tried again, and given up when it never is, or is of no use any more; what says
// nothing any more is not sent.
func TestMessagesAreTriedAgain(t *testing.T) {
	for _, c := range []struct {
		text  string
		at    int
		life  time.Duration
		tries int
		want  string
	}{
		{"text", 1, time.Hour, 1, "sent"}, {"text", 3, time.Hour, 3, "sent"},
		{"text", 99, time.Hour, 3, "given up: not now"},
		{"text", 99, -time.Hour, 1, "given up: not now"}, {"", 1, time.Hour, 0, "dropped"},
	} {
		f, b := &failing{at: c.at}, &box{due: time.Now(), became: make(chan string, 9)}
		b.Plain, b.Until = c.text, time.Now().Add(c.life)
		q := NewQueue(f, b)
		q.pauses = []time.Duration{time.Millisecond, time.Millisecond}
		ctx, stop := context.WithCancel(context.Background())
		done := make(chan struct{})
		go func() { q.Run(ctx); close(done) }()
		if got := <-b.became; got != c.want {
			t.Errorf("%+v: it is %s", c, got)
		}
		stop()
		<-done
		if f.n != c.tries {
			t.Errorf("%+v: it was tried %d times", c, f.n)
		}
	}
}
