// Package live decides which windows hear of what happens on a map: of edits, of each other, of what is said of it, and
// of their own end. How they are connected is left to a Conn.
package live

import (
	"log"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

	"plaintracer/account"
)

// Conn is the connection to a window. Read is called by one goroutine, Write and Ping by another one; Close ends both.
type Conn interface {
	// Read waits for the next message, at most so long for anything; zero for as long as the connection is answered.
	Read(atMost time.Duration) ([]byte, error)
	Write(raw []byte, within time.Duration) error
	Ping(within time.Duration) error
	Close() error
}

// The bounds of a connection.
const (
	pingInterval = 20 * time.Second
	writeWait    = 10 * time.Second
	// nameWait is how long a window may take to say which one it is.
	nameWait = 10 * time.Second
	// queueLength is how many messages wait for a window before it is cut off.
	queueLength = 512
)

// Who is whoever has a window open.
type Who struct {
	// Link is the link a visitor came by, Person the id of somebody in the organisation; one of them is empty.
	Link, Person string
	// Session is the token of the session that the window belongs to; empty where everybody is taken for one person,
	// and by a link.
	Session string
	// Needs is the right that what the window does takes; a reader is told of changes alone. Right is what the visitor
	// may do with the map.
	Needs, Right account.Right
	// Name is what they are called for the others.
	Name string
	// Ends is when the session or link comes to its end by itself; zero for not.
	Ends time.Time
}

// Reads reports whether it is a reader.
func (w *Who) Reads() bool { return w.Needs < account.Edit }

// Window is one connected window. Its connection is used by two goroutines, one that reads and
// one that writes, and by nobody once Serve has returned. Messages wait in a queue; a window
// that does not take them is cut off and catches up when it comes back.
type Window struct {
	Who
	conn  Conn
	queue chan Event
	ended chan struct{}
	once  sync.Once
	// news tells the window of a reader that the map has changed.
	news chan struct{}
	// touched is when its session was last known to stand, pointed when it last told where it points.
	touched, pointed time.Time
	// over says that the window may not go on: nothing it says counts from then on, and last is its last word. dealing
	// is held while something it said is dealt with.
	over    atomic.Bool
	last    chan Event
	dealing sync.Mutex
}

// end closes the connection, which ends both goroutines.
func (w *Window) end() {
	w.once.Do(func() {
		close(w.ended)
		w.conn.Close()
	})
}

// send queues a message for a window, and cuts it off if it has fallen too far behind.
func (w *Window) send(m Event) {
	select {
	case w.queue <- m:
	default:
		w.end()
	}
}

// lastTime is how long the last word to a window may take, which does not wait for what stands before it.
const lastTime = time.Second

// shut ends a window with a last word. When it returns, nothing the window says is dealt with any more, whatever it has
// sent already, and nothing else is told to it. The caller holds no lock that dealing with a message takes.
func (w *Window) shut(last Event) {
	if w.over.CompareAndSwap(false, true) {
		w.last <- last
		time.AfterFunc(lastTime, w.end)
	}
	w.dealing.Lock() // what is being dealt with was said before
	defer w.dealing.Unlock()
}

// deal does something that the window has asked for, and reports whether it still may.
func (w *Window) deal(do func()) bool {
	w.dealing.Lock()
	defer w.dealing.Unlock()
	if w.over.Load() {
		return false
	}
	do()
	return true
}

// answer queues a message for the window that has asked for it. While many wait, its next
// message is not read, so that whoever floods waits for the answers.
func (w *Window) answer(m Event) {
	for len(w.queue) > queueLength/2 {
		select {
		case <-w.ended:
			return
		case <-time.After(5 * time.Millisecond):
		}
	}
	w.send(m)
}

// waitForEnd reads, and hears nothing, until the connection ends.
func (w *Window) waitForEnd() {
	for {
		if _, err := w.conn.Read(0); err != nil {
			return
		}
	}
}

// write sends what is queued until the connection ends.
func (w *Window) write() {
	ping := time.NewTicker(pingInterval)
	defer ping.Stop()
	say := func(m Event, wait time.Duration) error {
		raw, err := encoded(m)
		if err == nil {
			err = w.conn.Write(raw, wait)
		}
		return err
	}
	for {
		select { // the last word does not wait for others
		case m := <-w.last:
			say(m, lastTime)
			return
		default:
		}
		var err error
		select {
		case m := <-w.last:
			say(m, lastTime)
			return
		case m := <-w.queue:
			if !w.over.Load() {
				err = say(m, writeWait)
			}
		case <-ping.C:
			err = w.conn.Ping(writeWait)
		case <-w.ended:
			return
		}
		if err != nil {
			return
		}
	}
}

// tellNews tells a reader of changes, at most five times a second.
func (w *Window) tellNews() {
	for {
		select {
		case <-w.news:
			w.send(Changed{})
		case <-w.ended:
			return
		}
		select {
		case <-time.After(200 * time.Millisecond):
		case <-w.ended:
			return
		}
	}
}

// serve runs a connection: read in this goroutine, a writer, and what tells a reader of changes, in others. It returns
// when all of them have ended and the connection is closed, so that nothing outlives it; a fault in one of them ends
// this connection alone.
func serve(conn Conn, who Who, read func(w *Window)) {
	w := &Window{Who: who, conn: conn, queue: make(chan Event, queueLength), ended: make(chan struct{}),
		news: make(chan struct{}, 1),
		last: make(chan Event, 1), touched: time.Now()}
	var all sync.WaitGroup
	run := func(do func(w *Window)) {
		defer w.end()
		defer func() {
			if fault := recover(); fault != nil {
				log.Printf("a connection: %v\n%s", fault, debug.Stack())
			}
		}()
		do(w)
	}
	all.Go(func() { run((*Window).write) })
	if who.Reads() {
		all.Go(func() { run((*Window).tellNews) })
	}
	run(read)
	all.Wait()
}
