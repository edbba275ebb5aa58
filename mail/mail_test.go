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

// A message arrives at a server with its umlauts, as plain text and as HTML, and nobody can smuggle a line into its head.
func TestMessagesArrive(t *testing.T) {
	kept := &server{}
	real := smtp.NewServer(kept)
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go real.Serve(ln)
	defer real.Close()
	m, err := Write(Invite, "jürgen@town.example", map[string]any{"Name": "Jürgen <b>", "By": "Ida\r\nBcc: spy@else.example", "Link": "https://maps.town.example/invited/ABC", "Until": "1 May 2026, 10:00"})
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
		m, err := Write(kind, "a@town.example", map[string]any{"Name": "N", "By": "B", "Link": "https://l.example", "Until": "U", "Code": "123456", "Title": "T", "Verb": "read", "Word": "W", "Verdict": "agreed", "Reason": "R", "Count": "2 remarks", "Maps": "1 map", "When": "today"})
		if err != nil || strings.Contains(m.Plain+m.Subject, "<no value>") || m.Subject == "" || !strings.Contains(m.HTML, "<p>") {
			t.Errorf("%s: %v %q", kind, err, m.Plain)
		}
	}
	if _, err := Write("nothing", "", nil); err == nil {
		t.Error("a message of no kind was written")
	}
}

// failing takes a message at a try.
type failing struct {
	tries chan int
	at    int
	n     int
}

func (f *failing) Carry(context.Context, Message) error {
	f.n++
	f.tries <- f.n
	if f.n >= f.at {
		return nil
	}
	return errors.New("not now")
}

// A message that is not taken is tried again, and told of when it never is.
func TestMessagesAreTriedAgain(t *testing.T) {
	for at, tells := range map[int]bool{1: false, 3: false, 99: true} {
		f := &failing{tries: make(chan int, 10), at: at}
		told := make(chan error, 1)
		q := NewQueue(f, func(_ Message, err error) { told <- err })
		q.pauses = []time.Duration{time.Millisecond, time.Millisecond}
		q.Send(Message{To: "a@town.example"})
		for n := 1; n <= min(at, 3); n++ {
			if got := <-f.tries; got != n {
				t.Errorf("try %d is the %d.", n, got)
			}
		}
		if tells {
			if err := <-told; err == nil {
				t.Error("it is told without a reason")
			}
		}
		q.Close()
		if !tells && len(told) > 0 {
			t.Errorf("taken at try %d, it is told of: %v", at, <-told)
		}
	}
}
