package attack

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/fasthttp/websocket"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/e2e/program"
)

// answer is a message of the server, as far as it is looked at here.
type answer struct {
	Kind     string          `json:"kind"`
	Window   string          `json:"window"`
	Seq      int             `json:"seq"`
	Revision int             `json:"revision"`
	Why      string          `json:"why"`
	Edit     json.RawMessage `json:"edit"`
	Map      json.RawMessage `json:"map"`
	Editors  int             `json:"editors"`
	Readers  int             `json:"readers"`
}

// window is a window of the editor without a page: it sends whatever it is told.
type window struct {
	Window   string          `json:"window"`
	Secret   string          `json:"secret"`
	Revision int             `json:"revision"`
	Map      json.RawMessage `json:"map"`
	address  string
	conn     *websocket.Conn
	raw      net.Conn
}

// patience is how long an answer may take on a busy machine.
const patience = 60 * time.Second

// newWindow asks for a window on a map, and does not connect it.
func newWindow(s *program.Server, id string) (*window, error) {
	r, err := http.Get(s.URL + "/maps/" + id + "/state")
	if err != nil {
		return nil, err
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	if r.StatusCode != 200 {
		return nil, fmt.Errorf("%d: %s", r.StatusCode, body)
	}
	w := &window{address: strings.Replace(s.URL, "http", "ws", 1) + "/maps/" + id + "/socket"}
	return w, json.Unmarshal(body, w)
}

// dial opens a socket; the connection under it can be dropped without a word.
func dial(address string) (conn *websocket.Conn, raw net.Conn, err error) {
	d := websocket.Dialer{HandshakeTimeout: patience, NetDial: func(network, addr string) (net.Conn, error) {
		raw, err = net.Dial(network, addr)
		return raw, err
	}}
	conn, _, err = d.Dial(address, nil)
	return conn, raw, err
}

// connect connects the window, and reads until it has caught up with what is after its
// revision.
func (w *window) connect(after int) error {
	var err error
	if w.conn, w.raw, err = dial(w.address); err != nil {
		return err
	}
	if err := w.conn.WriteJSON(map[string]any{"kind": "window", "window": w.Window, "secret": w.Secret,
		"after": after}); err != nil {
		return err
	}
	_, err = w.until("caught-up")
	return err
}

// until reads messages up to one of a kind, and returns it.
func (w *window) until(kinds ...string) (answer, error) {
	for {
		a, err := w.read()
		if err != nil {
			return a, err
		}
		for _, k := range kinds {
			if a.Kind == k {
				return a, nil
			}
		}
		if a.Kind == "ended" {
			return a, errors.New(a.Why)
		}
	}
}

func (w *window) read() (a answer, err error) {
	w.conn.SetReadDeadline(time.Now().Add(patience))
	err = w.conn.ReadJSON(&a)
	return a, err
}

// send sends an edit, given as JSON.
func (w *window) send(seq int, edit []byte) error {
	w.conn.SetWriteDeadline(time.Now().Add(patience))
	return w.conn.WriteMessage(websocket.TextMessage, fmt.Appendf(nil, `{"kind":"edit","seq":%d,"edit":%s}`, seq, edit))
}

// drop ends the connection at once, as a lid that is shut or a cable that is pulled does in
// the end: with a reset, and no closing frame.
func (w *window) drop() { reset(w.raw) }

func reset(c net.Conn) {
	if tcp, ok := c.(*net.TCPConn); ok {
		tcp.SetLinger(0)
	}
	c.Close()
}

// create makes a map and returns its id.
func create(t testing.TB, s *program.Server, n int) string {
	t.Helper()
	code, _, to := s.Post("/maps", url.Values{"title": {title(n)}, "kind": {[]string{"swimlanes", "flowchart"}[n%2]}})
	id, ok := strings.CutPrefix(to, "/maps/")
	if !ok {
		t.Fatalf("a map was not made: %d", code)
	}
	return id
}

var linkAddress = regexp.MustCompile(`http://[^"]*/r/[A-Z0-9]+`)

// share makes a link to read a map and returns the address of its socket.
func share(t testing.TB, s *program.Server, id string) string {
	t.Helper()
	code, body, _ := s.Post("/maps/"+id+"/links", nil)
	link := linkAddress.FindString(body)
	if link == "" {
		t.Fatalf("no link was made: %d %s", code, body)
	}
	return strings.Replace(link, "http", "ws", 1) + "/live"
}

// addStep is an edit that adds a step with a text to the first sheet.
func addStep(w *window, n int, text string) []byte {
	raw, err := json.Marshal(edit.Envelope{Edit: &edit.AddItems{Sheet: "sheet-1",
		Symbols: []model.Symbol{step(fmt.Sprintf("%s-%d", w.Window, n), text, n)}}})
	if err != nil {
		panic(err)
	}
	return raw
}

func step(id, text string, n int) model.Symbol {
	s := model.Symbol{ID: id, Kind: model.Process, Text: text}
	s.X, s.Y, s.W, s.H = n%40*2000, n/40*1500, 12000, 8000
	return s
}

// move is an edit that moves a step back and forth.
func move(id string, n int) []byte {
	return fmt.Appendf(nil, `{"do":"moveItems","sheet":"sheet-1","ids":[%q],"by":{"x":%d,"y":0}}`, id, 100-200*(n%2))
}
