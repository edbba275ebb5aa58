package web

import (
	"encoding/json"
	"errors"
	"log"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"

	"plaintracer"
	"plaintracer/core/diagram"
	"plaintracer/core/findings"
	"plaintracer/core/looks"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/store"
)

func (s *Server) editor(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	var title string
	d.View(func(m *diagram.Map, _ int) { title = m.Title })
	return s.page(c, "editor.html", map[string]any{
		"Title": title, "ID": d.ID, "Tray": tray(), "Build": plaintracer.EditorSource(), "Fills": diagram.Fills, "Looks": lookCards(), "Papers": diagram.Papers,
		"Wasm": s.assets.names["editor.wasm"], "HasLinks": s.LinksURL != "",
	})
}

// lookCard shows a look by a few strokes.
type lookCard struct {
	Name, Title, About, Ink, Paper, Straw, Lake, Clay string
	Line                                              float64
}

func lookCards() []lookCard {
	var out []lookCard
	for _, l := range looks.All {
		out = append(out, lookCard{l.Name, l.Title, l.About, l.Ink, l.Paper, l.Fill("straw"), l.Fill("lake"), l.Fill("clay"), float64(l.Weight) / 100})
	}
	return out
}

// state gives a window all it needs to begin: the map, its revision, and a
// name for the window.
func (s *Server) state(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	window, err := d.NewWindow()
	if err != nil {
		return err
	}
	out := struct {
		Window   string          `json:"window"`
		Revision int             `json:"revision"`
		Map      json.RawMessage `json:"map"`
	}{Window: window}
	d.View(func(m *diagram.Map, revision int) {
		out.Revision = revision
		out.Map, err = json.Marshal(m)
	})
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "no-store")
	return c.JSON(out)
}

// hub knows the windows that are open on each map.
type hub struct {
	mu    sync.Mutex
	rooms map[string]map[*peer]bool
}

// peer is one connected window. Messages to it wait in a queue; a window that
// does not take them is cut off and catches up when it comes back.
type peer struct {
	queue  chan any
	ended  chan struct{}
	once   sync.Once
	reader bool
}

func newHub() *hub { return &hub{rooms: map[string]map[*peer]bool{}} }

func newPeer(reader bool) *peer {
	return &peer{queue: make(chan any, 512), ended: make(chan struct{}), reader: reader}
}

func (p *peer) end() { p.once.Do(func() { close(p.ended) }) }

func (p *peer) send(message any) {
	select {
	case p.queue <- message:
	default:
		p.end()
	}
}

func (h *hub) join(id string, p *peer) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.rooms[id] == nil {
		h.rooms[id] = map[*peer]bool{}
	}
	h.rooms[id][p] = true
	h.presence(id)
}

func (h *hub) leave(id string, p *peer) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.rooms[id], p)
	h.presence(id)
	if len(h.rooms[id]) == 0 {
		delete(h.rooms, id)
	}
}

// presence tells every window how many there are.
func (h *hub) presence(id string) {
	editors, readers := 0, 0
	for p := range h.rooms[id] {
		if p.reader {
			readers++
		} else {
			editors++
		}
	}
	for p := range h.rooms[id] {
		p.send(message{Kind: "here", Editors: editors, Readers: readers})
	}
}

// end closes every window on a map, with a word why.
func (h *hub) end(id, why string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.rooms[id] {
		p.send(message{Kind: "ended", Why: why})
	}
}

// message is what travels over a window's socket, either way.
type message struct {
	Kind     string            `json:"kind"`
	Window   string            `json:"window,omitempty"`
	Seq      int               `json:"seq,omitempty"`
	Revision int               `json:"revision,omitempty"`
	Edit     *diagram.Envelope `json:"edit,omitempty"`
	Why      string            `json:"why,omitempty"`
	Editors  int               `json:"editors,omitempty"`
	Readers  int               `json:"readers,omitempty"`
	Build    string            `json:"build,omitempty"`
}

// The bounds of a socket.
const (
	maxMessage   = 8 << 20
	pingInterval = 20 * time.Second
	writeWait    = 10 * time.Second
)

func (s *Server) upgrade(c fiber.Ctx, serve func(conn *websocket.Conn)) error {
	up := websocket.FastHTTPUpgrader{CheckOrigin: func(ctx *fasthttp.RequestCtx) bool {
		return sameOrigin(string(ctx.Request.Header.Peek("Origin")), string(ctx.Host()))
	}}
	if err := up.Upgrade(c.RequestCtx(), serve); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "This address is for the editor's live connection.")
	}
	return nil
}

// write sends a peer's queue until it ends.
func (p *peer) write(conn *websocket.Conn) {
	ping := time.NewTicker(pingInterval)
	defer ping.Stop()
	defer conn.Close()
	for {
		var err error
		select {
		case m := <-p.queue:
			conn.SetWriteDeadline(time.Now().Add(writeWait))
			err = conn.WriteJSON(m)
		case <-ping.C:
			conn.SetWriteDeadline(time.Now().Add(writeWait))
			err = conn.WriteMessage(websocket.PingMessage, nil)
		case <-p.ended:
			return
		}
		if err != nil {
			return
		}
	}
}

// socket carries edits up, and down what has been committed, from whichever
// window it came.
func (s *Server) socket(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	after := fiber.Query[int](c, "after")
	id := d.ID
	return s.upgrade(c, func(conn *websocket.Conn) {
		p := newPeer(false)
		defer p.end()
		p.send(message{Kind: "hello", Build: plaintracer.EditorSource()})
		stop, err := d.Listen(after, func(c store.Committed) {
			p.send(message{Kind: "edit", Window: c.Window, Seq: c.Seq, Revision: c.Revision, Edit: &c.Edit})
		})
		if err != nil {
			log.Printf("map %s: %v", id, err)
			return
		}
		defer stop()
		p.send(message{Kind: "caught-up"})
		s.hub.join(id, p)
		defer s.hub.leave(id, p)
		go p.write(conn)
		conn.SetReadLimit(maxMessage)
		for {
			_, raw, err := conn.ReadMessage()
			if err != nil {
				return
			}
			s.receive(d, p, raw)
		}
	})
}

func (s *Server) receive(d *store.Document, p *peer, raw []byte) {
	var m message
	if err := json.Unmarshal(raw, &m); err != nil || m.Kind != "edit" || m.Edit == nil || m.Edit.Edit == nil || m.Window == "" || m.Seq < 1 {
		why := "the edit could not be read"
		if err != nil {
			why += ": " + err.Error()
		}
		p.send(message{Kind: "refused", Window: m.Window, Seq: m.Seq, Why: why})
		return
	}
	if _, err := s.store.Document(d.ID); err != nil {
		p.send(message{Kind: "ended", Why: "This map was moved to the bin."})
		return
	}
	revision, err := d.Apply(m.Window, m.Seq, m.Edit.Edit)
	var refusal *diagram.Refusal
	switch {
	case errors.As(err, &refusal):
		p.send(message{Kind: "refused", Window: m.Window, Seq: m.Seq, Why: refusal.Text})
	case err != nil:
		// The window keeps the edit and offers it again.
		log.Printf("map %s: edit %s/%d: %v", d.ID, m.Window, m.Seq, err)
		p.send(message{Kind: "trouble", Why: "The map could not be saved just now."})
	default:
		// An edit offered again after a break may have been committed before.
		p.send(message{Kind: "saved", Window: m.Window, Seq: m.Seq, Revision: revision})
	}
}

// row is a step as the register shows it.
type row struct {
	ID, Text, Kind, Lane, Stage string
	Number                      int
}

func (s *Server) register(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	var rows []row
	d.View(func(m *diagram.Map, _ int) {
		for _, step := range numbering.Number(m) {
			r := row{ID: step.Symbol.ID, Text: flat(step.Symbol.Text), Kind: symbols.Of(step.Symbol.Kind).Name, Number: step.Number, Lane: step.Sheet.OwnerOf(step.Symbol)}
			if stage := step.Sheet.StageOf(step.Symbol); stage != nil {
				r.Stage = stage.Name
			}
			rows = append(rows, r)
		}
	})
	return s.page(c, "register.html", rows)
}

func flat(text string) string { return strings.Join(strings.Fields(text), " ") }

func (s *Server) findings(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	type item struct{ ID, What, Text, Sheet string }
	var list []item
	d.View(func(m *diagram.Map, _ int) {
		for _, f := range findings.Check(m) {
			sheet := m.Sheet(f.Sheet)
			what := "A connector"
			if sym := sheet.Symbol(f.Symbol); sym != nil {
				if what = flat(sym.Text); what == "" {
					what = symbols.Of(sym.Kind).Name
				}
			}
			list = append(list, item{f.Symbol, what, f.Text, sheet.Name})
		}
	})
	return s.page(c, "findings.html", list)
}

// missing says which characters of a sheet an export cannot draw.
func (s *Server) missing(c fiber.Ctx) error {
	number, _ := strconv.Atoi(c.Query("sheet", "1"))
	_, m, sheet, err := s.drawn(c, number)
	if err != nil {
		return err
	}
	return s.page(c, "missing.html", scene.Named(scene.Draw(m, sheet).Missing()))
}

func (s *Server) links(c fiber.Ctx) error {
	list, err := s.store.Links(c.Params("id"))
	if err != nil {
		return err
	}
	return s.page(c, "links.html", map[string]any{"ID": c.Params("id"), "Links": list, "URL": s.LinksURL})
}

func (s *Server) createLink(c fiber.Ctx) error {
	if s.LinksURL == "" {
		return fiber.NewError(fiber.StatusConflict, "Links are switched off: start the program with --links and an address.")
	}
	if _, err := s.store.Document(c.Params("id")); err != nil {
		return err
	}
	if _, err := s.store.CreateLink(c.Params("id")); err != nil {
		return err
	}
	return s.links(c)
}

func (s *Server) withdrawLink(c fiber.Ctx) error {
	if err := s.store.Withdraw(c.Params("id"), c.Params("token")); err != nil {
		return err
	}
	s.hub.endReaders(c.Params("id"))
	return s.links(c)
}

// endReaders asks every reader of a map to load its page anew, which shows
// those whose link has ended what happened.
func (h *hub) endReaders(id string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.rooms[id] {
		if p.reader {
			p.send(message{Kind: "again"})
		}
	}
}
