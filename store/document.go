package store

import (
	"bytes"
	"crypto/hmac"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"log"
	"maps"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// A snapshot is written after this many edits, or this much text of edits.
const (
	snapshotEdits = 200
	snapshotBytes = 256 << 10
)

// Document is an open map: the state after the last committed edit.
type Document struct {
	ID       string
	store    *Store
	mu       sync.Mutex
	m        *model.Map
	revision int
	// sinceEdits and sinceBytes count the edits and their bytes after the last snapshot.
	sinceEdits, sinceBytes int
	damage                 string
	listeners              map[int]func(Committed)
	nextListener           int
	// known says that it is there; away that it is in the bin, or gone, which is asked without holding it.
	known bool
	away  atomic.Bool
	// last are the highest numbers of edits of windows that have come since it was read.
	last map[string]int
	// used is when it was last asked for anything.
	used time.Time
}

// idleTime is how long a map that nobody follows is kept in memory.
const idleTime = 10 * time.Minute

// letGo forgets the state of a map that nobody follows and nobody has asked for since a time. It is
// read again when it is asked for.
func (d *Document) letGo(since time.Time) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.listeners) == 0 && d.used.Before(since) && d.damage == "" {
		d.m, d.last = nil, nil
	}
}

// inMemory reports whether the state of the map is in memory.
func (d *Document) inMemory() bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.m != nil
}

// hold locks the document with its state in memory. Whoever calls it unlocks it.
func (d *Document) hold() error {
	d.mu.Lock()
	return d.holding()
}

// holding has the state of the document in memory. The caller holds it.
func (d *Document) holding() error {
	d.used = time.Now()
	if d.m != nil {
		return nil
	}
	if err := d.load(); err != nil {
		return fmt.Errorf("opening map %s: %w", d.ID, err)
	}
	return nil
}

// seen locks the document as hold does, for those who have opened it just now. What cannot be read
// after all is shown as an empty map that takes no edits.
func (d *Document) seen() {
	if err := d.hold(); err != nil {
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

// Document opens a map that is not in the bin. All callers share one Document for each map. A map that takes long to read
// keeps nobody from others.
func (s *Store) Document(id string) (*Document, error) {
	// It is listed before it is asked for, so that nobody moves it to the bin unnoticed between.
	s.mu.Lock()
	d := s.open[id]
	if d == nil {
		d = &Document{ID: id, store: s, listeners: map[int]func(Committed){}}
		s.open[id] = d
	}
	s.mu.Unlock()
	if d.away.Load() {
		return nil, ErrNotFound
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if !d.known {
		var binned sql.NullInt64
		err := s.db.QueryRow("SELECT binned FROM maps WHERE id = ?", id).Scan(&binned)
		switch {
		case errors.Is(err, sql.ErrNoRows):
			s.forgets(d)
			return nil, ErrNotFound
		case err != nil && !damaged(err):
			return nil, err
		case binned.Valid:
			s.forgets(d)
			return nil, ErrNotFound
		}
	}
	if err := d.holding(); err != nil {
		return nil, err
	}
	d.known = true
	if d.away.Load() {
		return nil, ErrNotFound
	}
	return d, nil
}

// forgets takes a map out of the list of those that are open, since it is not there.
func (s *Store) forgets(d *Document) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.open[d.ID] == d {
		delete(s.open, d.ID)
	}
}

// Away reports whether the map is in the bin, or gone.
func (d *Document) Away() bool { return d.away.Load() }

// tidy lets the maps go that nobody has asked for in a while, and empties the bin.
func (s *Store) tidy(now time.Time) {
	s.letGo(now.Add(-idleTime))
	if err := s.empty(now); err != nil {
		log.Printf("emptying the bin: %v", err)
	}
}

// letGo lets the maps go that nobody follows and nobody has asked for since a time.
func (s *Store) letGo(since time.Time) {
	s.mu.Lock()
	list := slices.Collect(maps.Values(s.open))
	s.mu.Unlock()
	for _, d := range list {
		d.letGo(since)
	}
}

// Damage says what of the map could not be read; empty where all is well. A damaged map is
// the last state that could be read, and takes no edits.
func (d *Document) Damage() string {
	d.seen()
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
	err = d.hold()
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
	for _, tell := range d.listeners {
		tell(c)
	}
	return c.Revision, nil
}

// Knows reports whether an edit with this window and number was committed before.
func (d *Document) Knows(window string, seq int) bool {
	var n int
	err := d.store.db.QueryRow("SELECT count(*) FROM edits WHERE map = ? AND window = ? AND seq = ?", d.ID, window, seq).Scan(&n)
	return err == nil && n > 0
}

// mostLast is of how many windows a map knows the last edit without asking.
const mostLast = 1000

// isNew reports whether a window has not sent an edit with this number, nor a higher one: then it need not be looked for.
func (d *Document) isNew(window string, seq int) (bool, error) {
	last, known := d.last[window]
	if !known {
		if err := d.store.db.QueryRow("SELECT coalesce(max(seq), 0) FROM edits WHERE map = ? AND window = ?", d.ID, window).Scan(&last); err != nil {
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
	var packed []byte
	err = d.store.db.QueryRow("SELECT revision, edit FROM edits WHERE map = ? AND window = ? AND seq = ?", d.ID, window, seq).Scan(&revision, &packed)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	old, err := decode(packed, content(d.store.db))
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
	return revision, nil
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
	err = d.prove(c, trial.Changes())
	if err == nil && d.store.Vet != nil {
		err = d.store.Vet(trial.Inverse())
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

// prove refuses an edit that claims to take another one back and restores what never was: only
// what an edit of the same window did can be taken back, to states that the map has had.
func (d *Document) prove(c Committed, changes []edit.Change) error {
	if edit.Reverts(c.Edit.Edit) == 0 {
		return nil
	}
	r, ok := c.Edit.Edit.(*edit.Revert)
	if !ok {
		return &model.Refusal{Text: "taking back goes alone, not together with other changes"}
	}
	var past edit.Past
	known, err := d.store.entries("map = ? AND window = ? AND seq = ?", d.ID, c.Window, r.Seq)
	if err != nil {
		return err
	}
	if len(known) == 0 {
		return &model.Refusal{Text: "the change that is to be taken back is not known"}
	}
	for _, entries := range []func() ([]entry, error){
		func() ([]entry, error) { return known, nil },
		// Others may have changed the same things before it reached us.
		func() ([]entry, error) {
			return d.store.entries("map = ? AND revision > ?", d.ID, d.revision-maxBacklog)
		},
	} {
		list, err := entries()
		if err != nil {
			return err
		}
		for i := range list {
			did, err := list[i].did(content(d.store.db))
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

func (d *Document) commit(c Committed, changes []edit.Change) error {
	raw, err := json.Marshal(c.Edit)
	if err != nil {
		return err
	}
	rawChanges, err := json.Marshal(changes)
	if err != nil {
		return err
	}
	packed, contents := pack(raw)
	did, more := pack(rawChanges)
	size := len(packed) + len(did)
	snapshot := d.sinceEdits+1 >= snapshotEdits || d.sinceBytes+size >= snapshotBytes
	err = d.store.commitTogether(func(tx *sql.Tx) error {
		if err := errors.Join(keep(tx, contents), keep(tx, more)); err != nil {
			return err
		}
		edits := &d.store.together
		if err := edits.in(tx, edits.insert, insertEdit,
			d.ID, c.Revision, c.Window, c.Seq, now(), c.Author, entryFormat, packed, did); err != nil {
			return err
		}
		if snapshot {
			doc, err := json.Marshal(d.m)
			if err != nil {
				return err
			}
			if err := addSnapshot(tx, d.ID, c.Revision, doc); err != nil {
				return err
			}
			if err := prune(tx, d.ID); err != nil {
				return err
			}
		}
		return edits.in(tx, edits.note, noteEdit, c.Revision, now(), d.m.Title, c.Author, d.ID)
	})
	if err != nil {
		return err
	}
	d.store.wake()
	d.sinceEdits, d.sinceBytes = d.sinceEdits+1, d.sinceBytes+size
	if snapshot {
		d.sinceEdits, d.sinceBytes = 0, 0
	}
	return nil
}

// Key is the id of the map.
func (d *Document) Key() string { return d.ID }

// View calls look with the map as it is now. The map must not be changed or
// kept.
func (d *Document) View(look func(m *model.Map, revision int)) {
	d.seen()
	defer d.mu.Unlock()
	look(d.m, d.revision)
}

// Snapshot returns a copy of the map as it is now.
func (d *Document) Snapshot() (*model.Map, int) {
	d.seen()
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
	name = "w" + strings.ToLower(token(windowName-1))
	return name, d.secret(name)
}

func (d *Document) secret(name string) string {
	code := hmac.New(sha256.New, d.store.key)
	fmt.Fprintf(code, "%s %s", d.ID, name)
	return base64.RawURLEncoding.EncodeToString(code.Sum(nil))
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

// Listen calls tell with every edit committed after a revision: first those there are
// already, then each new one, in order. Where the revision is too far back, or none the log
// leads on from, fresh is called first with the map as it is; a revision below zero asks for
// new edits alone. Both must not block or call back. The returned function ends it.
func (d *Document) Listen(after int, window string, tell func(Committed), fresh func(Fresh)) (stop func(), err error) {
	err = d.hold()
	defer d.mu.Unlock()
	if err != nil {
		return nil, err
	}
	missed, whole, err := d.missed(after)
	if err != nil {
		return nil, err
	}
	if !whole {
		f := Fresh{Revision: d.revision}
		if f.Map, err = json.Marshal(d.m); err != nil {
			return nil, err
		}
		if err := d.store.db.QueryRow("SELECT coalesce(max(seq), 0) FROM edits WHERE map = ? AND window = ?", d.ID, window).Scan(&f.Seq); err != nil {
			return nil, err
		}
		fresh(f)
	}
	for _, c := range missed {
		tell(c)
	}
	id := d.nextListener
	d.nextListener++
	d.listeners[id] = tell
	return func() {
		d.mu.Lock()
		defer d.mu.Unlock()
		delete(d.listeners, id)
	}, nil
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
	entries, err := d.store.entries("map = ? AND revision > ?", d.ID, after)
	if err != nil || len(entries) != behind {
		return nil, false, err
	}
	for i := range entries {
		c, err := entries[i].committed(content(d.store.db))
		if err != nil { // the map is whole all the same
			log.Printf("map %s: entry %d cannot be told: %v", d.ID, entries[i].revision, err)
			return nil, false, nil
		}
		list = append(list, c)
	}
	return list, true, nil
}
