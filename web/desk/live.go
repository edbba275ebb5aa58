package desk

import (
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/live"
	"plaintracer/web/site"
)

// The bounds of a socket.
const (
	maxMessage = 8 << 20
	// maxRead is how long what a reader says may be.
	maxRead = 4096
	// pongWait is how long a window may be silent: twice it has then answered no ping.
	pongWait = 45 * time.Second
)

// socket is the connection to a window by a web socket.
type socket struct{ *websocket.Conn }

// Read implements live.Conn.
func (s socket) Read(atMost time.Duration) ([]byte, error) {
	if atMost > 0 {
		s.SetReadDeadline(time.Now().Add(atMost))
	}
	_, raw, err := s.ReadMessage()
	if err == nil {
		err = s.SetReadDeadline(time.Now().Add(pongWait))
	}
	return raw, err
}

// Write implements live.Conn.
func (s socket) Write(raw []byte, within time.Duration) error {
	s.SetWriteDeadline(time.Now().Add(within))
	return s.WriteMessage(websocket.TextMessage, raw)
}

// Ping implements live.Conn.
func (s socket) Ping(within time.Duration) error {
	s.SetWriteDeadline(time.Now().Add(within))
	return s.WriteMessage(websocket.PingMessage, nil)
}

// connect turns a request into the connection to a window, for messages up to a size, and has it served.
func (s *Desk) connect(c fiber.Ctx, most int64, serve func(conn live.Conn)) error {
	own := s.OwnOrigin(c)
	up := websocket.FastHTTPUpgrader{CheckOrigin: func(*fasthttp.RequestCtx) bool { return own }}
	if err := up.Upgrade(c.RequestCtx(), func(conn *websocket.Conn) {
		conn.SetReadLimit(most)
		alive := func(string) error { return conn.SetReadDeadline(time.Now().Add(pongWait)) }
		alive("")
		conn.SetPongHandler(alive)
		serve(socket{conn})
	}); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "This address is for the editor's live connection.")
	}
	return nil
}

// Socket carries edits up, and down what has been committed, from whichever window it came.
func (s *Desk) Socket(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return err
	}
	who := v.Window(account.Edit)
	return s.connect(c, maxMessage, func(conn live.Conn) { s.Live.ServeEditor(conn, who, d, v.Author()) })
}

// ReadSocket tells a reader that the map has changed. Changes that come close
// together are told once.
func (s *Desk) ReadSocket(c fiber.Ctx) error {
	v := site.At(c)
	var d *documents.Document // none for a state that stays as it is
	if v.Chosen.Version == "" {
		var err error
		if d, err = v.Document(); err != nil {
			return err
		}
	}
	who := v.Window(account.Read)
	return s.connect(c, maxRead, func(conn live.Conn) { s.Live.ServeReader(conn, who, v.Map, d) })
}
