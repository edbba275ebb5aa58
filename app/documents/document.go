package documents

import (
	"bytes"
	"crypto/hmac"
	"crypto/rand"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"log"
	"runtime/debug"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// A snapshot is written after this many edits, or this much text of edits.
const (
	snapshotEdits = 200
	snapshotBytes = 256 << 10
)

// Document is an open map: the state after the last committed edit.
type Document struct {
	ID       string
	all      *Documents
	mu       sync.Mutex // guards all below against those who ask for the map at once
	m        *model.Map
	revision int
	// sinceEdits and sinceBytes count the edits and their bytes after the last snapshot.
	sinceEdits, sinceBytes int
	damage                 string
	// known says that it is there; away that it is in the bin, or gone, which is asked without holding it.
	known bool
	away  atomic.Bool
	// last are the highest numbers of edits of windows that have come since it was read.
	last map[string]int
	// used is when it was last asked for anything.
	used time.Time
}

// letGo forgets the state of a map that nobody follows and nobody has asked for since a time. It is
// read again when it is asked for.
func (d *Document) letGo(since time.Time) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if !(*d.all.audience.Load()).Follows(d.ID) && d.used.Before(since) && d.damage == "" {
		d.m, d.last = nil, nil
	}
}

// lock locks the document with its state in memory. Whoever calls it unlocks it.
func (d *Document) lock() error {
	d.mu.Lock()
	return d.ensureLoaded()
}

// ensureLoaded has the state of the document in memory. The caller holds it.
func (d *Document) ensureLoaded() error {
	d.used = time.Now()
	if d.m != nil {
		return nil
	}
	if err := d.load(); err != nil {
		return fmt.Errorf("opening map %s: %w", d.ID, err)
	}
	return nil
}

// lockToShow locks the document as hold does, for those who have opened it just now. What cannot be read
// after all is shown as an empty map that takes no edits.
func (d *Document) lockToShow() {
	if err := d.lock(); err != nil {
		log.Print(err)
		d.m, d.damage = model.New("", model.Rightwards, "A4", true), err.Error()
	}
}

// Committed is an edit that has been made for good.
type Committed struct {
	Revision int           `json:"revision"`
	Window   string        `json:"window"`
	Seq      int           `json:"seq"`
	Edit     edit.Envelope `json:"edit"`
	Author   string        `json:"-"`
	told     *told
}

// told is what is made once of an edit for all who are told of it.
type told struct {
	once sync.Once
	raw  []byte
	err  error
}

// Once returns what make returns, which is made once for all who are told of the edit.
func (c *Committed) Once(make func() ([]byte, error)) ([]byte, error) {
	if c.told == nil {
		return make()
	}
	c.told.once.Do(func() { c.told.raw, c.told.err = make() })
	return c.told.raw, c.told.err
}

// Away reports whether the map is in the bin, or gone.
func (d *Document) Away() bool { return d.away.Load() }

// Damage says what of the map could not be read; empty where all is well. A damaged map is
// the last state that could be read, and takes no edits.
func (d *Document) Damage() string {
	d.lockToShow()
	defer d.mu.Unlock()
	return d.damage
}

// Apply makes an edit and commits it before it returns. The same edit with a window and
// number that came before is not made again: the revision it had is returned. A
// *model.Refusal says that the edit cannot be made.
func (d *Document) Apply(window string, seq int, edit edit.Edit) (revision int, err error) {
	return d.ApplyAs("", window, seq, edit)
}

// ApplyAs makes an edit of an author: the id of a person, or "link:" and that of a link.
func (d *Document) ApplyAs(author, window string, seq int, e edit.Edit) (revision int, err error) {
	err = d.lock()
	defer d.mu.Unlock()
	if err != nil {
		return 0, err
	}
	if d.damage != "" {
		return 0, &model.Refusal{Text: "this map is damaged and can only be read: " + d.damage}
	}
	if !model.ValidID(window) || seq < 1 {
		return 0, &model.Refusal{Text: "the edit does not say from which window it comes"}
	}
	if new, err := d.isNew(window, seq); err != nil {
		return 0, err
	} else if !new {
		if revision, err = d.before(window, seq, e); revision > 0 || err != nil {
			return revision, err
		}
	}
	c := Committed{d.revision + 1, window, seq, edit.Envelope{Edit: e}, author, new(told)}
	if err := d.make(c); err != nil {
		return 0, err
	}
	d.revision = c.Revision
	d.last[window] = max(d.last[window], seq)
	(*d.all.audience.Load()).Committed(d.ID, c)
	return c.Revision, nil
}

// Knows reports whether an edit with this window and number was committed before.
func (d *Document) Knows(window string, seq int) bool {
	return d.all.logs.Knows(d.ID, window, seq)
}

// mostLast is of how many windows a map knows the last edit without asking.
const mostLast = 1000

// isNew reports whether a window has not sent an edit with this number, nor a higher one: then it need not be looked
// for.
func (d *Document) isNew(window string, seq int) (bool, error) {
	last, known := d.last[window]
	if !known {
		var err error
		if last, err = d.all.logs.Last(d.ID, window); err != nil {
			return false, err
		}
		if d.last == nil || len(d.last) >= mostLast {
			d.last = map[string]int{}
		}
		d.last[window] = last
	}
	return seq > last, nil
}

// before returns the revision an edit had that was offered before, or zero. A number under
// which another edit came is refused.
func (d *Document) before(window string, seq int, e edit.Edit) (revision int, err error) {
	list, err := d.all.logs.Numbered(d.ID, window, seq)
	if err != nil || len(list) == 0 {
		return 0, err
	}
	old, err := list[0].Edit()
	if err != nil {
		return 0, err
	}
	was, err := json.Marshal(old)
	if err != nil {
		return 0, err
	}
	is, err := json.Marshal(edit.Envelope{Edit: e})
	if err != nil {
		return 0, err
	}
	if !bytes.Equal(was, is) {
		return 0, &model.Refusal{Text: "another change was saved under this number before"}
	}
	return list[0].Revision, nil
}

// make makes an edit in memory and commits it. If one of the two fails, neither is done; a
// fault of ours in between is caught, and the map read anew from what was committed.
func (d *Document) make(c Committed) (err error) {
	defer func() {
		if p := recover(); p != nil {
			log.Printf("map %s: edit %s/%d at revision %d: %v\n%s", d.ID, c.Window, c.Seq, c.Revision, p, debug.Stack())
			if err = d.load(); err != nil {
				d.damage = "it could not be read again: " + err.Error()
			}
			err = &model.Refusal{Text: "this change cannot be made; that is a fault of the program, and it has been noted"}
		}
	}()
	trial, err := edit.Attempt(d.m, c.Edit.Edit)
	if err != nil {
		return err
	}
	err = d.verifyRevert(c, trial.Changes())
	if err == nil && d.all.Vet != nil {
		err = d.all.Vet(d.ID, c.Author, trial.Inverse())
	}
	if err != nil {
		trial.Rollback()
		return err
	}
	if err := d.commit(c, trial.Changes()); err != nil {
		trial.Rollback()
		return err
	}
	return nil
}

// verifyRevert refuses an edit that claims to take another one back and restores what never was: only
// what an edit of the same window did can be taken back, to states that the map has had.
func (d *Document) verifyRevert(c Committed, changes []edit.Change) error {
	if edit.Reverts(c.Edit.Edit) == 0 {
		return nil
	}
	r, ok := c.Edit.Edit.(*edit.Revert)
	if !ok {
		return &model.Refusal{Text: "taking back goes alone, not together with other changes"}
	}
	var past edit.Past
	known, err := d.all.logs.Numbered(d.ID, c.Window, r.Seq)
	if err != nil {
		return err
	}
	if len(known) == 0 {
		return &model.Refusal{Text: "the change that is to be taken back is not known"}
	}
	for _, entries := range []func() ([]store.Entry, error){
		func() ([]store.Entry, error) { return known, nil },
		// Others may have changed the same things before it reached us.
		func() ([]store.Entry, error) { return d.all.logs.After(d.ID, d.revision-maxBacklog) },
	} {
		list, err := entries()
		if err != nil {
			return err
		}
		for i := range list {
			did, err := list[i].Did()
			if err != nil {
				return err
			}
			past.Note(did)
		}
		if past.Unknown(changes) == nil {
			return nil
		}
	}
	return &model.Refusal{ID: past.Unknown(changes).ID, Text: "this was never so, and cannot be brought back"}
}

// commit commits an edit that has been made, with a snapshot when there was none for long.
func (d *Document) commit(c Committed, changes []edit.Change) error {
	entry := store.Addition{Map: d.ID, Window: c.Window, Author: c.Author, Title: d.m.Title, Revision: c.Revision,
		Seq: c.Seq}
	if err := entry.Append(c.Edit, changes); err != nil {
		return err
	}
	var snapshot *model.Map
	if d.sinceEdits+1 >= snapshotEdits || d.sinceBytes+entry.Size() >= snapshotBytes {
		snapshot = d.m
	}
	if err := d.all.logs.Append(&entry, snapshot); err != nil {
		return err
	}
	d.sinceEdits, d.sinceBytes = d.sinceEdits+1, d.sinceBytes+entry.Size()
	if snapshot != nil {
		d.sinceEdits, d.sinceBytes = 0, 0
	}
	return nil
}

// Key is the id of the map.
func (d *Document) Key() string { return d.ID }

// View calls look with the map as it is now. The map must not be changed or
// kept.
func (d *Document) View(look func(m *model.Map, revision int)) {
	d.lockToShow()
	defer d.mu.Unlock()
	look(d.m, d.revision)
}

// Snapshot returns a copy of the map as it is now.
func (d *Document) Snapshot() (*model.Map, int) {
	d.lockToShow()
	defer d.mu.Unlock()
	return d.m.Clone(), d.revision
}

// windowName is how many characters the name of a window has: so many that no two are the
// same by chance on one map.
const windowName = 10

// NewWindow returns the name of a new window on the map, which begins the ids it makes, and
// the secret by which it can show that the name is its own. Both outlast the server, and
// neither is written down: the secret is a code of the name under a key of the server.
func (d *Document) NewWindow() (name, secret string) {
	name = "w" + strings.ToLower(rand.Text()[:windowName-1])
	return name, d.secret(name)
}

func (d *Document) secret(name string) string {
	return base64.RawURLEncoding.EncodeToString(d.all.logs.Code(d.ID + " " + name))
}

// Owns reports whether a secret is that of a window.
func (d *Document) Owns(name, secret string) bool {
	return model.ValidID(name) && hmac.Equal([]byte(secret), []byte(d.secret(name)))
}

// maxBacklog is how many edits a window that comes back is told one by one. One that is
// further behind gets the map as it is.
const maxBacklog = 400

// Fresh is a map as it is now, for a window that has missed too much: with the last edit of
// that window that is in it.
type Fresh struct {
	Revision, Seq int
	Map           json.RawMessage
}

// Join has a window hear of every edit committed after a revision: tell is called with those there are already, and
// then enter, which has it among the audience before another edit is made. Where the revision is too far back, or none
// the log leads on from, fresh is called first with the map as it is; a revision below zero asks for new edits alone.
// None of them may block or call back.
func (d *Document) Join(after int, window string, tell func(Committed), fresh func(Fresh), enter func()) error {
	err := d.lock()
	defer d.mu.Unlock()
	if err != nil {
		return err
	}
	missed, whole, err := d.missed(after)
	if err != nil {
		return err
	}
	if !whole {
		f := Fresh{Revision: d.revision}
		if f.Map, err = json.Marshal(d.m); err != nil {
			return err
		}
		if f.Seq, err = d.all.logs.Last(d.ID, window); err != nil {
			return err
		}
		fresh(f)
	}
	for _, c := range missed {
		tell(c)
	}
	enter()
	return nil
}

// missed returns the edits after a revision, and whether they lead on from it without a gap.
func (d *Document) missed(after int) (list []Committed, whole bool, err error) {
	behind := d.revision - after
	if after < 0 || behind == 0 {
		return nil, true, nil
	}
	if behind < 0 || behind > maxBacklog {
		return nil, false, nil
	}
	entries, err := d.all.logs.After(d.ID, after)
	if err != nil || len(entries) != behind {
		return nil, false, err
	}
	for i := range entries {
		e := &entries[i]
		made, err := e.Edit()
		if err != nil { // the map is whole all the same
			log.Printf("map %s: entry %d cannot be told: %v", d.ID, e.Revision, err)
			return nil, false, nil
		}
		list = append(list, Committed{Revision: e.Revision, Window: e.Window, Seq: e.Seq, Edit: made})
	}
	return list, true, nil
}
