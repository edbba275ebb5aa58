// Package session is one window's copy of a map.
//
// A window makes edits at once and sends them to the server, which puts the edits of all windows
// into one order. A Session holds the map as the server has confirmed it, with the window's own
// edits that are still under way on top, and on top of these what is only shown. Do makes an edit
// that can be undone; Take returns what is to be sent; Confirm, Refused, Foreign and Fresh bring in
// what the server says: the pending edits are unmade, the confirmed map is changed, and they are
// made again.
package session

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// Pending is an edit of this window that the server has not confirmed yet.
type Pending struct {
	Seq  int           `json:"seq"`
	Edit edit.Envelope `json:"edit"`
	// trial is nil while somebody else's edit stands in the way of this one.
	trial *edit.Transaction
}

// Session is a window's copy of a map. Open makes it ready for use.
type Session struct {
	m *model.Map
	// window is the prefix the server gave this window; ids are made from it.
	window        string
	counter       int
	seq, revision int
	// pending are the edits under way, in order; their trials can be unmade to let somebody
	// else's edit in first. Outbox are those that have not been sent.
	pending, outbox []Pending
	// held is how many edits at the end of the outbox wait.
	held int
	// shown is what is only shown.
	shown      *edit.Transaction
	undo, redo []*edit.Revert
	// touched is what has changed since Touched was last asked.
	touched edit.Touched
}

// Open begins a session on a map in its JSON form, as it was at a revision. The window prefix must
// be new.
func Open(doc []byte, revision int, window string) (*Session, error) {
	m, err := read(doc)
	if err != nil {
		return nil, err
	}
	return &Session{m: m, revision: revision, window: window}, nil
}

// read returns the map that the server sent. It may break rules younger than itself.
func read(doc []byte) (*model.Map, error) {
	m, err := model.ReadMap(doc)
	if err != nil {
		return nil, fmt.Errorf("the map could not be read: %w", err)
	}
	if err := m.Sound(); err != nil {
		return nil, fmt.Errorf("the map is broken: %w", err)
	}
	return m, nil
}

// Map returns the map as this window sees it. It is the same all the time, and must not be changed.
func (s *Session) Map() *model.Map { return s.m }

// Touched tells each of some who show the map what has changed since this was last asked. What is only shown and taken
// away again is told item by item; any other change may have changed anything.
func (s *Session) Touched(tell ...*edit.Touched) {
	for _, to := range tell {
		to.Join(&s.touched)
	}
	s.touched.Looked()
}

// Made returns how many edits were made in this window.
func (s *Session) Made() int { return s.seq }

// NewID returns an id that no other window makes.
func (s *Session) NewID() string {
	s.counter++
	return s.window + "-" + strconv.FormatInt(int64(s.counter), 36)
}

// Do makes an edit that is sent and can be undone. An edit that changes nothing is neither.
func (s *Session) Do(edit edit.Edit) error {
	inverse, err := s.make(edit)
	if err == nil && len(inverse.Changes) > 0 {
		s.undo, s.redo = append(s.undo, inverse), nil
	}
	return err
}

func (s *Session) make(e edit.Edit) (*edit.Revert, error) {
	s.Hide()
	s.touched.Everything()
	trial, err := edit.Attempt(s.m, e)
	if err != nil {
		return nil, err
	}
	inverse := trial.Inverse()
	if len(inverse.Changes) > 0 {
		s.seq++
		inverse.Seq = s.seq
		p := Pending{s.seq, edit.Envelope{Edit: e}, trial}
		s.pending, s.outbox = append(s.pending, p), append(s.outbox, p)
	}
	return inverse, nil
}

// Show makes an edit that is only shown, in place of the one shown before, and reports whether it
// can be made. Hide unmakes it again, and reports whether anything was shown.
func (s *Session) Show(e edit.Edit) bool {
	s.Hide()
	trial, err := edit.Preview(s.m, e)
	if err != nil {
		return false
	}
	s.shown = trial
	s.touched.Add(trial)
	return true
}

// Hide unmakes what is only shown.
func (s *Session) Hide() bool {
	if s.shown == nil {
		return false
	}
	s.touched.Add(s.shown)
	s.shown.Rollback()
	s.shown = nil
	return true
}

// Showing reports whether something is only shown.
func (s *Session) Showing() bool { return s.shown != nil }

// Undo takes the latest edit of this window back, Redo makes it again that was taken back last. They
// return the edit that was made for it, nil where there is nothing to take back, and what of it was
// left as it is.
func (s *Session) Undo() (made *edit.Revert, skipped []string, err error) {
	return s.step(&s.undo, &s.redo)
}

// Redo makes the edit again that was taken back last.
func (s *Session) Redo() (made *edit.Revert, skipped []string, err error) {
	return s.step(&s.redo, &s.undo)
}

func (s *Session) step(from, to *[]*edit.Revert) (*edit.Revert, []string, error) {
	if len(*from) == 0 {
		return nil, nil, nil
	}
	last := (*from)[len(*from)-1]
	*from = (*from)[:len(*from)-1]
	inverse, err := s.make(last)
	if err != nil {
		return last, nil, err
	}
	*to = append(*to, inverse)
	return last, inverse.Skipped, nil
}

// past is what a window leaves to the one that takes its place after the page was loaded again.
type past struct {
	Counter int             `json:"counter"`
	Seq     int             `json:"seq"`
	Undo    []edit.Envelope `json:"undo"`
	Redo    []edit.Envelope `json:"redo"`
}

// mostPast is how many steps of undo a window leaves behind at the most.
const mostPast = 200

// Past returns, in at most so many bytes, what Resume needs so that a session under the same name can go on where this
// one is: the latest of what can be undone and redone. It is empty where not even that fits.
func (s *Session) Past(most int) []byte {
	for n := mostPast; n > 0; n /= 2 {
		p := past{Counter: s.counter, Seq: s.seq}
		for _, list := range [...]struct {
			from []*edit.Revert
			to   *[]edit.Envelope
		}{{s.undo, &p.Undo}, {s.redo, &p.Redo}} {
			for _, r := range list.from[max(0, len(list.from)-n):] {
				*list.to = append(*list.to, edit.Envelope{Edit: r})
			}
		}
		if raw, err := json.Marshal(p); err == nil && len(raw) <= most {
			return raw
		}
	}
	return nil
}

// Resume takes up what Past returned, in a session that was opened under the same name and has done nothing yet. What
// cannot be read changes nothing.
func (s *Session) Resume(raw []byte) error {
	var p past
	if err := json.Unmarshal(raw, &p); err != nil {
		return fmt.Errorf("what the page was left with: %w", err)
	}
	var undo, redo []*edit.Revert
	for _, list := range [...]struct {
		from []edit.Envelope
		to   *[]*edit.Revert
	}{{p.Undo, &undo}, {p.Redo, &redo}} {
		for _, e := range list.from {
			r, ok := e.Edit.(*edit.Revert)
			if !ok {
				return errors.New("what the page was left with takes nothing back")
			}
			*list.to = append(*list.to, r)
		}
	}
	s.counter, s.seq = max(s.counter, p.Counter), max(s.seq, p.Seq)
	s.undo, s.redo = undo, redo
	return nil
}

// Next returns in words what Undo and Redo would take back and make again; empty for nothing.
func (s *Session) Next() (undo, redo string) {
	last := func(list []*edit.Revert) string {
		if len(list) == 0 {
			return ""
		}
		return list[len(list)-1].Of
	}
	return last(s.undo), last(s.redo)
}

// Hold lets so many of the latest edits wait, until it is called again; Held returns them.
func (s *Session) Hold(n int) { s.held = min(n, len(s.outbox)) }

// Held returns the edits that wait.
func (s *Session) Held() []Pending { return s.outbox[len(s.outbox)-s.held:] }

// Take returns what is to be sent, once.
func (s *Session) Take() []Pending {
	n := len(s.outbox) - s.held
	out := slices.Clone(s.outbox[:n])
	s.outbox = append(s.outbox[:0], s.outbox[n:]...)
	return out
}

// Confirm notes that the server has committed an edit of this window as revision, and reports
// whether the map is another for it, which is seldom. An error says that this window no longer shows
// what was saved.
func (s *Session) Confirm(seq, revision int) (changed bool, err error) {
	s.revision = revision
	i := slices.IndexFunc(s.pending, func(p Pending) bool { return p.Seq == seq })
	if i < 0 {
		return false, nil // confirmed before
	}
	done := s.pending[i]
	if i == 0 && done.trial != nil {
		s.pending = s.pending[1:]
		return false, nil
	}
	// It did not apply here for a while but did when its turn came, or one before it is still
	// open: put it under the others.
	s.beneath(func() {
		s.pending = slices.Delete(s.pending, i, i+1)
		_, err = edit.Apply(s.m, done.Edit.Edit)
	})
	return true, err
}

// Refused notes that the server did not take an edit. It is unmade here too.
func (s *Session) Refused(seq int) {
	s.beneath(func() {
		s.pending = slices.DeleteFunc(s.pending, func(p Pending) bool { return p.Seq == seq })
	})
}

// Foreign makes somebody else's edit, which the server has put before this window's pending ones.
func (s *Session) Foreign(e edit.Edit, revision int) (err error) {
	s.beneath(func() { _, err = edit.Apply(s.m, e) })
	s.revision = revision
	return err
}

// Fresh puts the map as it is on the server under this window's pending edits, of which the map
// holds all up to number seq already.
func (s *Session) Fresh(doc []byte, revision, seq int) error {
	m, err := read(doc)
	if err != nil {
		return err
	}
	s.beneath(func() {
		s.pending = slices.DeleteFunc(s.pending, func(p Pending) bool { return p.Seq <= seq })
		*s.m = *m
	})
	s.revision = revision
	return nil
}

// beneath unmakes what is shown and the pending edits, does something to the confirmed map, and
// makes the pending edits again. What does not apply any more waits: the server has the last word
// on it.
func (s *Session) beneath(do func()) {
	s.Hide()
	s.touched.Everything()
	for i := len(s.pending) - 1; i >= 0; i-- {
		if t := s.pending[i].trial; t != nil {
			t.Rollback()
		}
	}
	do()
	for i := range s.pending {
		s.pending[i].trial, _ = edit.Attempt(s.m, s.pending[i].Edit.Edit)
	}
}
