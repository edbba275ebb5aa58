package web

import (
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/live"
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
func (s *Server) connect(c fiber.Ctx, most int64, serve func(conn live.Conn)) error {
	own := s.ownOrigin(c)
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

// window is whoever has a window open, for what takes a right.
func (v *visit) window(needs account.Right) live.Who {
	w := live.Who{Link: v.link, Needs: needs, Right: v.right, Name: "somebody by a link"}
	switch {
	case v.who != nil:
		w.Person, w.Name, w.Session, w.Ends = v.who.ID, v.who.Name, v.who.session, v.who.ends
	case v.link != "":
		w.Ends = v.chosen.Until
	}
	return w
}

// socket carries edits up, and down what has been committed, from whichever window it came.
func (s *Server) socket(c fiber.Ctx) error {
	v := at(c)
	d, err := v.document()
	if err != nil {
		return err
	}
	who := v.window(account.Edit)
	return s.connect(c, maxMessage, func(conn live.Conn) { s.live.ServeEditor(conn, who, d, v.author()) })
}

// readSocket tells a reader that the map has changed. Changes that come close
// together are told once.
func (s *Server) readSocket(c fiber.Ctx) error {
	v := at(c)
	var d *documents.Document // none for a state that stays as it is
	if v.chosen.Version == "" {
		var err error
		if d, err = v.document(); err != nil {
			return err
		}
	}
	who := v.window(account.Read)
	return s.connect(c, maxRead, func(conn live.Conn) { s.live.ServeReader(conn, who, v.id, d) })
}
