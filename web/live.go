package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"log"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"

	"plaintracer"
	"plaintracer/account"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// The bounds of a socket.
const (
	maxMessage   = 8 << 20
	pingInterval = 20 * time.Second
	// pongWait is how long a window may be silent: twice it has then answered no ping.
	pongWait  = 45 * time.Second
	writeWait = 10 * time.Second
	// nameWait is how long a window may take to say which one it is.
	nameWait = 10 * time.Second
	// queueLength is how many messages wait for a window before it is cut off.
	queueLength = 512
	// A window may send messages at this rate, and so many at once after a pause. Faster
	// ones wait; none is dropped.
	messageRate  = 250 // a second
	messageBurst = 500
)

// peer is one connected window. Its connection is used by two goroutines, one that reads and
// one that writes, and by nobody once serve has returned. Messages wait in a queue; a window
// that does not take them is cut off and catches up when it comes back.
type peer struct {
	conn  *websocket.Conn
	queue chan event
	ended chan struct{}
	once  sync.Once
	// link is the link a visitor came by, person the id of somebody of the house; one of them is empty.
	link, person string
	// session is the token of the session that the window belongs to; empty where everybody is taken for one person, and by a
	// link. touched is when it was last known to stand.
	session string
	touched time.Time
	// needs is the right that what the window does takes; a reader is told of changes alone.
	needs account.Right
	// right is what the visitor may do with the map, name what they are called for the others.
	right account.Right
	name  string
	// pointed is when the window last told where it points.
	pointed time.Time
	// over says that the window may not go on: nothing it says counts from then on, and last is its last word. dealing is held
	// while something it said is dealt with.
	over    atomic.Bool
	last    chan event
	dealing sync.Mutex
}

// reads reports whether the window is that of a reader.
func (p *peer) reads() bool { return p.needs < account.Edit }

// end closes the connection, which ends both goroutines.
func (p *peer) end() {
	p.once.Do(func() {
		close(p.ended)
		p.conn.Close()
	})
}

// send queues a message for a window, and cuts it off if it has fallen too far behind.
func (p *peer) send(m event) {
	select {
	case p.queue <- m:
	default:
		p.end()
	}
}

// lastTime is how long the last word to a window may take, which does not wait for what stands before it.
const lastTime = time.Second

// shut ends a window with a last word. When it returns, nothing the window says is dealt with any more, whatever it has sent
// already, and nothing else is told to it. The caller holds no lock that dealing with a message takes.
func (p *peer) shut(last event) {
	if p.over.CompareAndSwap(false, true) {
		p.last <- last
		time.AfterFunc(lastTime, p.end)
	}
	p.dealing.Lock() // what is being dealt with was said before
	defer p.dealing.Unlock()
}

// deal does something that the window has asked for, and reports whether it still may.
func (p *peer) deal(do func()) bool {
	p.dealing.Lock()
	defer p.dealing.Unlock()
	if p.over.Load() {
		return false
	}
	do()
	return true
}

// answer queues a message for the window that has asked for it. While many wait, its next
// message is not read, so that whoever floods waits for the answers.
func (p *peer) answer(m event) {
	for len(p.queue) > queueLength/2 {
		select {
		case <-p.ended:
			return
		case <-time.After(5 * time.Millisecond):
		}
	}
	p.send(m)
}

// outlast reads, and hears nothing, until the connection ends.
func (p *peer) outlast() {
	for {
		if _, _, err := p.conn.ReadMessage(); err != nil {
			return
		}
	}
}

// write sends what is queued until the connection ends.
func (p *peer) write() {
	ping := time.NewTicker(pingInterval)
	defer ping.Stop()
	say := func(m event, wait time.Duration) error {
		raw, err := encoded(m)
		if err == nil {
			p.conn.SetWriteDeadline(time.Now().Add(wait))
			err = p.conn.WriteMessage(websocket.TextMessage, raw)
		}
		return err
	}
	for {
		select { // the last word does not wait for others
		case m := <-p.last:
			say(m, lastTime)
			return
		default:
		}
		var err error
		select {
		case m := <-p.last:
			say(m, lastTime)
			return
		case m := <-p.queue:
			if !p.over.Load() {
				err = say(m, writeWait)
			}
		case <-ping.C:
			p.conn.SetWriteDeadline(time.Now().Add(writeWait))
			err = p.conn.WriteMessage(websocket.PingMessage, nil)
		case <-p.ended:
			return
		}
		if err != nil {
			return
		}
	}
}

// serve runs a connection: read in this goroutine, a writer and whatever else is started by
// also in others. It returns when all of them have ended and the connection is closed, so that
// nothing outlives it; a fault in one of them ends this connection alone.
func serve(conn *websocket.Conn, v *visit, needs account.Right, read func(p *peer), also ...func(p *peer)) {
	p := &peer{conn: conn, queue: make(chan event, queueLength), ended: make(chan struct{}), last: make(chan event, 1), link: v.link, needs: needs, right: v.right, touched: time.Now()}
	if v.who != nil {
		p.person, p.name, p.session = v.who.ID, v.who.Name, v.who.session
	} else {
		p.name = "somebody by a link"
	}
	conn.SetReadLimit(maxMessage)
	alive := func(string) error { return conn.SetReadDeadline(time.Now().Add(pongWait)) }
	alive("")
	conn.SetPongHandler(alive)
	var all sync.WaitGroup
	run := func(do func(p *peer)) {
		defer p.end()
		defer func() {
			if fault := recover(); fault != nil {
				log.Printf("a connection: %v\n%s", fault, debug.Stack())
			}
		}()
		do(p)
	}
	for _, do := range append(also, (*peer).write) {
		all.Go(func() { run(do) })
	}
	run(read)
	all.Wait()
}

func (s *Server) upgrade(c fiber.Ctx, serve func(conn *websocket.Conn)) error {
	own := s.ownOrigin(c)
	up := websocket.FastHTTPUpgrader{CheckOrigin: func(*fasthttp.RequestCtx) bool { return own }}
	if err := up.Upgrade(c.RequestCtx(), serve); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "This address is for the editor's live connection.")
	}
	return nil
}

// socket carries edits up, and down what has been committed, from whichever window it came.
func (s *Server) socket(c fiber.Ctx) error {
	d, err := at(c).document()
	if err != nil {
		return err
	}
	v := at(c)
	return s.upgrade(c, func(conn *websocket.Conn) {
		serve(conn, v, account.Edit, func(p *peer) {
			defer s.watch(v, p)()
			s.edit(d, p, v.author())
		})
	})
}

// edit serves a window of the editor. Its first message says which one it is, and what it has.
func (s *Server) edit(d *store.Document, p *peer, author string) {
	p.answer(hello{plaintracer.EditorSource()})
	p.conn.SetReadDeadline(time.Now().Add(nameWait))
	var who request
	if _, raw, err := p.conn.ReadMessage(); err != nil || json.Unmarshal(raw, &who) != nil || who.Kind != "window" || !d.Owns(who.Window, who.Secret) {
		p.shut(ended{"This window is not known to the server. Load the page again."})
		<-p.ended
		return
	}
	p.conn.SetReadDeadline(time.Now().Add(pongWait))
	stop, err := d.Listen(who.After, who.Window, func(c store.Committed) {
		p.send(edited{&c})
	}, func(f store.Fresh) {
		p.send(fresh{f.Map, f.Revision, f.Seq})
	})
	if err != nil {
		log.Printf("map %s: %v", d.ID, err)
		p.send(trouble{troubled(err, "The map could not be read just now.")})
		p.outlast()
		return
	}
	defer stop()
	p.send(caughtUp{})
	s.joined(d.ID, p)
	defer s.hub.relay(d.ID, p, writing{Window: who.Window})
	defer s.hub.leave(d.ID, p)
	pace := pace{p: p, room: messageBurst, at: time.Now()}
	for {
		_, raw, err := p.conn.ReadMessage()
		if err != nil {
			return
		}
		p.conn.SetReadDeadline(time.Now().Add(pongWait))
		if !pace.wait() {
			return
		}
		s.keepUsed(p)
		var a event
		if !p.deal(func() { a = s.said(d, p, author, who.Window, raw) }) {
			<-p.ended
			return
		}
		switch a := a.(type) {
		case nil:
		case ended:
			p.shut(a)
			<-p.ended
			return
		case trouble:
			p.answer(a)
			p.outlast() // what follows may build on it: the window offers all of it again
			return
		default:
			p.answer(a)
		}
	}
}

// said deals with a message of a window of the editor and returns the answer; nil for none.
func (s *Server) said(d *store.Document, p *peer, author, window string, raw []byte) event {
	if item, ok := writingOn(raw); ok {
		s.hub.relay(d.ID, p, writing{window, item})
		return nil
	}
	if where, ok := p.pointsAt(raw); ok {
		if where != nil {
			where.Window, where.Name = window, p.name
			s.hub.relay(d.ID, p, *where)
		}
		return nil
	}
	return s.receive(d, author, window, raw)
}

// writingOn returns the item of a message that says what a window is writing on.
func writingOn(raw []byte) (item string, ok bool) {
	const most = 300 // an edit is longer as a rule, and need not be read twice
	var m request
	if len(raw) > most || json.Unmarshal(raw, &m) != nil || m.Kind != "writing" || m.Item != "" && !model.ValidID(m.Item) {
		return "", false
	}
	return m.Item, true
}

// The bounds of what windows tell of where they point: at most 2 KB a second come to another one of each.
const (
	pointingPause = 150 * time.Millisecond
	pointedItems  = 20
)

// pointsAt returns what a message says of where a window points, or nothing where it says so too often.
func (p *peer) pointsAt(raw []byte) (where *pointing, ok bool) {
	const most = 1500
	var m request
	if len(raw) > most || !bytes.HasPrefix(raw, []byte(`{"kind":"pointing"`)) || json.Unmarshal(raw, &m) != nil {
		return nil, false
	}
	if now := time.Now(); now.Sub(p.pointed) < pointingPause || !model.ValidID(m.Sheet) || len(m.Items) > pointedItems ||
		slices.ContainsFunc(m.Items, func(id string) bool { return !model.ValidID(id) }) {
		return nil, true
	} else {
		p.pointed = now
	}
	return &pointing{Sheet: m.Sheet, X: m.X, Y: m.Y, Items: m.Items}, true
}

// pace holds a window to the rate of messages.
type pace struct {
	p    *peer
	room float64
	at   time.Time
	told bool
}

// wait waits until a message may be dealt with, and says so to the window the first time it
// has to; it returns false when the connection ended meanwhile.
func (w *pace) wait() bool {
	now := time.Now()
	if w.room += now.Sub(w.at).Seconds() * messageRate; w.room >= messageBurst {
		w.room, w.told = messageBurst, false
	}
	w.at = now
	if w.room--; w.room >= 0 {
		return true
	}
	if !w.told {
		w.told = true
		w.p.answer(slow{"So many changes at once take a moment; they are made one after the other."})
	}
	select {
	case <-time.After(time.Duration(-w.room / messageRate * float64(time.Second))):
		return true
	case <-w.p.ended:
		return false
	}
}

// receive deals with a message of a window and returns the answer.
func (s *Server) receive(d *store.Document, author, window string, raw []byte) event {
	var m request
	err := model.Bounded(raw)
	if err == nil {
		err = json.Unmarshal(raw, &m)
	}
	refuse := func(why string) event { return refused{window, m.Seq, why} }
	switch {
	case err != nil:
		return refuse("the edit could not be read: " + err.Error())
	case m.Kind != "edit" || m.Edit == nil || m.Edit.Edit == nil || m.Seq < 1:
		return refuse("the edit could not be read")
	case m.Window != "" && m.Window != window:
		return refuse("the edit is of another window")
	}
	if d.Away() {
		return ended{"This map was moved to the bin."}
	}
	if name := keptBefore(m.Edit.Edit); name != "" && !d.Knows(window, m.Seq) { // what it was before is kept, quietly
		if _, err := d.KeepAs(store.Keep{Author: author, Name: name, Reason: store.Before}); err != nil {
			log.Printf("map %s: keeping it %s: %v", d.ID, name, err)
		}
	}
	revision, err := d.ApplyAs(author, window, m.Seq, m.Edit.Edit)
	var refusal *model.Refusal
	switch {
	case errors.As(err, &refusal):
		return refuse(refusal.Text)
	case err != nil:
		// The window keeps the edit and offers it again.
		log.Printf("map %s: edit %s/%d: %v", d.ID, window, m.Seq, err)
		return trouble{orElse(s.store.ReadOnly(), troubled(err, "The map could not be saved just now."))}
	}
	// An edit offered again after a break may have been committed before.
	return saved{window, m.Seq, revision}
}

// keptBefore is what the version is called that is kept before an edit changes much of a map at once; empty for all others.
func keptBefore(e edit.Edit) string {
	switch e := e.(type) {
	case *edit.LayOut:
		return "before a layout"
	case *edit.Batch:
		if e.As == compose.FromTable {
			return "before a table was read back"
		}
	}
	return ""
}

// troubled says what is wrong with the disk, or else what could not be done.
func troubled(err error, what string) string {
	if words := store.Trouble(err); words != "" {
		return words + "."
	}
	return what
}

func orElse(text, other string) string {
	if text == "" {
		return other
	}
	return text
}

// hub knows the windows that are open on each map.
type hub struct {
	mu    sync.Mutex
	rooms map[string]map[*peer]bool
}

func newHub() *hub { return &hub{rooms: map[string]map[*peer]bool{}} }

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
	var who []string
	for p := range h.rooms[id] {
		if !slices.Contains(who, p.name) {
			who = append(who, p.name)
		}
		if p.reads() {
			readers++
		} else {
			editors++
		}
	}
	slices.Sort(who)
	for p := range h.rooms[id] {
		told := who
		if p.right < account.Remark { // a reader does not learn who else is there
			told = nil
		}
		p.send(here{editors, readers, told})
	}
}

// relay passes a message of one window of the editor on to the others on the map.
func (h *hub) relay(id string, from *peer, m event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.rooms[id] {
		if p != from && !p.reads() {
			p.send(m)
		}
	}
}

// tell tells the windows on a map that which holds for.
func (h *hub) tell(id string, m event, which func(p *peer) bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for p := range h.rooms[id] {
		if which(p) {
			p.send(m)
		}
	}
}

// windows are those on a map, or on all maps where id is empty, that which holds for. They are asked about and ended without
// the hub held, which dealing with their messages takes.
func (h *hub) windows(id string, which func(p *peer) bool) (list []seat) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for room, peers := range h.rooms {
		if id != "" && room != id {
			continue
		}
		for p := range peers {
			if which(p) {
				list = append(list, seat{room, p})
			}
		}
	}
	return list
}

// seat is a window on a map.
type seat struct {
	id string
	*peer
}

// end ends the windows on a map that which holds for, with a last word.
func (h *hub) end(id string, last event, which func(p *peer) bool) {
	for _, w := range h.windows(id, which) {
		w.shut(last)
	}
}
