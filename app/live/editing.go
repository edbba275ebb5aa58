package live

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"log"
	"slices"
	"time"

	"plaintracer/app/documents"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"

	"golang.org/x/time/rate"
)

// A window may send messages at this rate, and so many at once after a pause. Faster ones wait; none is dropped.
const (
	messageRate  = 250 // a second
	messageBurst = 500
)

// ServeReader serves the window of a reader: it is told that the map has changed. There is no document for a state that
// stays as it is.
func (l *Live) ServeReader(conn Conn, who Who, id string, d *documents.Document) {
	serve(conn, who, func(w *Window) {
		if d != nil {
			var now int
			d.View(func(_ *model.Map, revision int) { now = revision })
			none := func(documents.Committed) {}
			if err := d.Join(now, "", none, nil, func() { l.hear(id, w) }); err != nil {
				log.Printf("map %s: following it: %v", id, err)
				return
			}
		}
		defer l.leave(id, w)
		defer l.watch(id, w)()
		l.join(id, w)
		pace := newPace(w)
		for {
			raw, err := w.conn.Read(0)
			if err != nil || !pace.wait() {
				return
			}
			if what, ok := showingOf(raw); ok && w.Person != "" && !w.deal(func() { l.Show(id, w, what) }) {
				<-w.ended
				return
			}
		}
	})
}

// showingOf reads what a reader's window shows in a meeting; false where it says anything else.
func showingOf(raw []byte) (what Showing, ok bool) {
	const most = 300
	var m request
	if len(raw) > most || json.Unmarshal(raw, &m) != nil || m.Kind != "showing" ||
		m.Stop != "" && !model.ValidID(m.Stop) || m.At != "" && !model.ValidID(m.At) {
		return what, false
	}
	return Showing{Stop: m.Stop, At: m.At}, true
}

// ServeEditor serves a window of the editor, whose edits are signed by an author. Its first message says which one it
// is, and what it has.
func (l *Live) ServeEditor(conn Conn, who Who, d *documents.Document, author string) {
	serve(conn, who, func(w *Window) {
		defer l.watch(d.ID, w)()
		l.edit(d, w, author)
	})
}

func (l *Live) edit(d *documents.Document, w *Window, author string) {
	w.answer(Hello{l.build})
	var named request
	if raw, err := w.conn.Read(nameWait); err != nil || json.Unmarshal(raw, &named) != nil || named.Kind != "window" ||
		!d.Owns(named.Window, named.Secret) {
		w.shut(Ended{"This window is not known to the server. Load the page again."})
		<-w.ended
		return
	}
	defer l.leave(d.ID, w)
	err := d.Join(named.After, named.Window, func(c documents.Committed) { w.send(Edited{&c}) },
		func(f documents.Fresh) { w.send(Fresh{f.Map, f.Revision, f.Seq}) }, func() { l.hear(d.ID, w) })
	if err != nil {
		log.Printf("map %s: %v", d.ID, err)
		w.send(Trouble{troubled(err, "The map could not be read just now.")})
		w.waitForEnd()
		return
	}
	w.send(CaughtUp{})
	l.join(d.ID, w)
	defer l.relay(d.ID, w, Writing{Window: named.Window})
	pace := newPace(w)
	for {
		raw, err := w.conn.Read(0)
		if err != nil || !pace.wait() {
			return
		}
		l.keepUsed(w)
		var a Event
		if !w.deal(func() { a = l.said(d, w, author, named.Window, raw) }) {
			<-w.ended
			return
		}
		switch a := a.(type) {
		case nil:
		case Ended:
			w.shut(a)
			<-w.ended
			return
		case Trouble:
			w.answer(a)
			w.waitForEnd() // what follows may build on it: the window offers all of it again
			return
		default:
			w.answer(a)
		}
	}
}

// said deals with a message of a window of the editor and returns the answer; nil for none.
func (l *Live) said(d *documents.Document, w *Window, author, window string, raw []byte) Event {
	if item, ok := writingOn(raw); ok {
		l.relay(d.ID, w, Writing{window, item})
		return nil
	}
	if where, ok := w.pointsAt(raw); ok {
		if where != nil {
			where.Window, where.Name = window, w.Name
			l.relay(d.ID, w, *where)
		}
		return nil
	}
	return l.receive(d, author, window, raw)
}

// writingOn returns the item of a message that says what a window is writing on.
func writingOn(raw []byte) (item string, ok bool) {
	const most = 300 // an edit is longer as a rule, and need not be read twice
	var m request
	if len(raw) > most || json.Unmarshal(raw, &m) != nil || m.Kind != "writing" ||
		m.Item != "" && !model.ValidID(m.Item) && len(model.CellIDs(m.Item)) == 0 {
		return "", false
	}
	return m.Item, true
}

// The bounds of what windows tell of where they point: at most 2 KB a second come to another one of each.
const (
	PointingPause = 150 * time.Millisecond
	pointedItems  = 20
)

// pointsAt returns what a message says of where a window points, or nothing where it says so too often.
func (w *Window) pointsAt(raw []byte) (where *Pointing, ok bool) {
	const most = 1500
	var m request
	if len(raw) > most || !bytes.HasPrefix(raw, []byte(`{"kind":"pointing"`)) || json.Unmarshal(raw, &m) != nil {
		return nil, false
	}
	now := time.Now()
	if now.Sub(w.pointed) < PointingPause || !model.ValidID(m.Sheet) || len(m.Items) > pointedItems ||
		slices.ContainsFunc(m.Items, func(id string) bool { return !model.ValidID(id) }) {
		return nil, true
	}
	w.pointed = now
	return &Pointing{Sheet: m.Sheet, X: m.X, Y: m.Y, Items: m.Items}, true
}

// pace holds a window to the rate of messages.
type pace struct {
	w     *Window
	limit *rate.Limiter
	told  bool
}

func newPace(w *Window) *pace {
	return &pace{w: w, limit: rate.NewLimiter(messageRate, messageBurst)}
}

// wait waits until a message may be dealt with, and says so to the window the first time it
// has to; it returns false when the connection ended meanwhile.
func (p *pace) wait() bool {
	if p.limit.Tokens() >= messageBurst {
		p.told = false
	}
	delay := p.limit.Reserve().Delay()
	if delay == 0 {
		return true
	}
	if !p.told {
		p.told = true
		p.w.answer(Slow{"So many changes at once take a moment; they are made one after the other."})
	}
	select {
	case <-time.After(delay):
		return true
	case <-p.w.ended:
		return false
	}
}

// receive deals with a message of a window and returns the answer.
func (l *Live) receive(d *documents.Document, author, window string, raw []byte) Event {
	var m request
	err := model.Bounded(raw)
	if err == nil {
		err = json.Unmarshal(raw, &m)
	}
	refuse := func(why string) Event { return Refused{window, m.Seq, why} }
	switch {
	case err != nil:
		return refuse("the edit could not be read: " + err.Error())
	case m.Kind != "edit" || m.Edit == nil || m.Edit.Edit == nil || m.Seq < 1:
		return refuse("the edit could not be read")
	case m.Window != "" && m.Window != window:
		return refuse("the edit is of another window")
	}
	if d.Away() {
		return InBin
	}
	if name := KeptBefore(m.Edit.Edit); name != "" && !d.Knows(window, m.Seq) { // what it was before is kept, quietly
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
		return Trouble{cmp.Or(l.store.ReadOnly(), troubled(err, "The map could not be saved just now."))}
	}
	// An edit offered again after a break may have been committed before.
	return Saved{window, m.Seq, revision}
}

// KeptBefore is what the version is called that is kept before an edit changes much of a map at once; empty for all
// others.
func KeptBefore(e edit.Edit) string {
	switch e := e.(type) {
	case *edit.LayOut:
		return "before a layout"
	case *edit.Batch:
		if e.As == compose.FromTable {
			return "before changes were imported from a table"
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
