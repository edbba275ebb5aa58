package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// entryFormat and documentFormat are the formats in which entries of the log and snapshots are
// written. Whatever was written earlier is lifted when it is read.
//
// Entries of format 1 hold an edit alone; what it did is found by making it, under the rules of
// today. Those of format 2 hold what the edit did.
const (
	entryFormat    = 2
	documentFormat = 1
)

// Logs are the logs of maps: the edits with what they did, and a snapshot now and then. Each map is named by its id.
type Logs struct{ *database }

// Entry is an entry of a log.
type Entry struct {
	Revision, Seq int
	Window        string
	format        int
	edit, changes []byte
	db            querier
}

// select returns the entries that a condition selects, in order.
func (s *Logs) entries(where string, args ...any) (list []Entry, err error) {
	rows, err := s.db.Query("SELECT revision, window, seq, format, edit, changes FROM edits WHERE "+where+
		" ORDER BY revision", args...)
	if err != nil {
		return nil, err
	}
	for rows.Next() {
		e := Entry{db: s.db}
		if err = rows.Scan(&e.Revision, &e.Window, &e.Seq, &e.format, &e.edit, &e.changes); err != nil {
			break
		}
		list = append(list, e)
	}
	return list, errors.Join(err, rows.Err(), rows.Close()) // the one connection is needed for the contents
}

// After returns the entries after a revision, in order. With an error come those read before it.
func (s *Logs) After(id string, revision int) ([]Entry, error) {
	return s.entries("map = ? AND revision > ?", id, revision)
}

// Numbered returns the entry of the edit that a window sent under a number; none where there was no such edit.
func (s *Logs) Numbered(id, window string, seq int) ([]Entry, error) {
	return s.entries("map = ? AND window = ? AND seq = ?", id, window, seq)
}

// Knows reports whether an edit with this window and number was committed.
func (s *Logs) Knows(id, window string, seq int) bool {
	var n int
	err := s.db.QueryRow("SELECT count(*) FROM edits WHERE map = ? AND window = ? AND seq = ?", id, window,
		seq).Scan(&n)
	return err == nil && n > 0
}

// Last returns the highest number under which a window sent an edit, or zero.
func (s *Logs) Last(id, window string) (seq int, err error) {
	err = s.db.QueryRow("SELECT coalesce(max(seq), 0) FROM edits WHERE map = ? AND window = ?", id, window).Scan(&seq)
	return seq, err
}

// Edit returns the edit of an entry as it came.
func (e *Entry) Edit() (edit.Envelope, error) { return decode(e.edit, content(e.db)) }

// Earlier reports whether the entry is of an earlier format, which holds the edit alone.
func (e *Entry) Earlier() bool { return e.format < entryFormat }

// Size is how much of the log the entry takes, in bytes.
func (e *Entry) Size() int { return len(e.edit) + len(e.changes) }

// Did returns what the edit of an entry did; nothing where the entry does not say it.
func (e *Entry) Did() (changes []edit.Change, err error) {
	if e.format > entryFormat {
		return nil, fmt.Errorf("it has the format %d, of a newer program", e.format)
	}
	if e.Earlier() {
		return nil, nil
	}
	raw, err := unpack(e.changes, content(e.db))
	if err != nil {
		return nil, err
	}
	return changes, json.Unmarshal(raw, &changes)
}

func decode(packed []byte, content func(string) ([]byte, error)) (e edit.Envelope, err error) {
	raw, err := unpack(packed, content)
	if err != nil {
		return e, err
	}
	return e, json.Unmarshal(raw, &e)
}

// Addition is an entry that is to be committed.
type Addition struct {
	Map, Window, Author, Title string
	Revision, Seq              int
	edit, changes              []byte
	contents                   []map[string][]byte
}

// Append takes the edit and what it did into the entry.
func (a *Addition) Append(e edit.Envelope, changes []edit.Change) error {
	raw, err := json.Marshal(e)
	if err != nil {
		return err
	}
	rawChanges, err := json.Marshal(changes)
	if err != nil {
		return err
	}
	packed, contents := pack(raw)
	did, more := pack(rawChanges)
	a.edit, a.changes, a.contents = packed, did, []map[string][]byte{contents, more}
	return nil
}

// Size is how much of the log the entry takes, in bytes.
func (a *Addition) Size() int { return len(a.edit) + len(a.changes) }

// Append commits an entry, with a snapshot of the map after it where one is given, together with what others commit at
// the same time.
func (s *Logs) Append(a *Addition, snapshot *model.Map) error {
	err := s.commitTogether(func(tx *sql.Tx) error {
		for _, contents := range a.contents {
			if err := keep(tx, contents); err != nil {
				return err
			}
		}
		if err := s.together.in(tx, s.together.insert, insertEdit,
			a.Map, a.Revision, a.Window, a.Seq, now(), a.Author, entryFormat, a.edit, a.changes); err != nil {
			return err
		}
		if snapshot != nil {
			doc, err := json.Marshal(snapshot)
			if err != nil {
				return err
			}
			if err := addSnapshot(tx, a.Map, a.Revision, doc); err != nil {
				return err
			}
			if err := prune(tx, a.Map); err != nil {
				return err
			}
		}
		return s.together.in(tx, s.together.note, noteEdit, a.Revision, now(), a.Title, a.Author, a.Map)
	})
	if err == nil {
		s.wake()
	}
	return err
}

// Snapshots returns the revisions of which a map has a snapshot, the latest first. With an error come those read before
// it.
func (s *Logs) Snapshots(id string) ([]int, error) { return snapshots(s.db, id) }

// Snapshot reads the map as it was at a revision of which there is a snapshot.
func (s *Logs) Snapshot(id string, revision int) (*model.Map, error) {
	var doc []byte
	var format int
	if err := s.db.QueryRow("SELECT document, format FROM snapshots WHERE map = ? AND revision = ?", id,
		revision).Scan(&doc, &format); err != nil {
		return nil, err
	}
	if format > documentFormat {
		return nil, fmt.Errorf("it has the format %d, of a newer program", format)
	}
	doc, err := unpack(doc, content(s.db))
	if err != nil {
		return nil, err
	}
	return model.ReadMap(doc)
}

// KeepSnapshot keeps the map as it is at a revision.
func (s *Logs) KeepSnapshot(id string, revision int, m *model.Map) error {
	doc, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return s.transact(func(tx *sql.Tx) error { return addSnapshot(tx, id, revision, doc) })
}

// SetAside takes the entries after a revision out of the log, which cannot be made for a reason, and lets the map go on
// from the state before them: under a revision of its own, which it returns, so that no window takes what it has for
// the same.
func (s *Logs) SetAside(id string, m *model.Map, revision int, why string) (last int, err error) {
	if s.readOnly != "" {
		return 0, errors.New("nothing can be written")
	}
	doc, err := json.Marshal(m)
	if err != nil {
		return 0, err
	}
	return last, s.transact(func(tx *sql.Tx) error {
		if err := tx.QueryRow("SELECT max(revision) FROM edits WHERE map = ?", id).Scan(&last); err != nil {
			return err
		}
		last++
		if _, err := tx.Exec(`INSERT INTO aside (map, revision, window, seq, at, author, format, edit, changes, why)
			SELECT map, revision, window, seq, at, author, format, edit, changes, ? FROM edits WHERE map = ? AND revision > ?`, why, id, revision); err != nil {
			return err
		}
		if _, err := tx.Exec("DELETE FROM edits WHERE map = ? AND revision > ?", id, revision); err != nil {
			return err
		}
		if _, err := tx.Exec("DELETE FROM snapshots WHERE map = ? AND revision > ?", id, revision); err != nil {
			return err
		}
		if err := addSnapshot(tx, id, last, doc); err != nil {
			return err
		}
		_, err := tx.Exec("UPDATE maps SET revision = ?, title = ? WHERE id = ?", last, m.Title, id)
		return err
	})
}

// Aside is an entry of a map's log that could not be made again.
type Aside struct {
	Revision int             `json:"revision"`
	Window   string          `json:"window"`
	Seq      int             `json:"seq"`
	At       int64           `json:"at"` // in milliseconds since 1970
	Why      string          `json:"why"`
	Edit     json.RawMessage `json:"edit"`
}

// Asides returns the entries of a map's log that are kept aside, in their order.
func (s *Logs) Asides(id string) ([]Aside, error) {
	rows, err := s.db.Query("SELECT revision, window, seq, at, why, edit FROM aside WHERE map = ? ORDER BY revision",
		id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	list := []Aside{}
	for rows.Next() {
		var a Aside
		var edit []byte
		if err := rows.Scan(&a.Revision, &a.Window, &a.Seq, &a.At, &a.Why, &edit); err != nil {
			return nil, err
		}
		if a.Edit = edit; !json.Valid(edit) {
			if a.Edit, err = json.Marshal(string(edit)); err != nil {
				return nil, err
			}
		}
		list = append(list, a)
	}
	return list, rows.Err()
}

// Deed is an entry of a map's log as the history tells it.
type Deed struct {
	Revision int
	At       time.Time
	Author   string
	Window   string
	Edit     edit.Edit
}

// RevisionAt is the revision of a map at a time; 0 for before all that is known of it.
func (s *Logs) RevisionAt(id string, at time.Time) (revision int, err error) {
	err = s.db.QueryRow("SELECT revision FROM edits WHERE map = ? AND at < ? ORDER BY revision DESC LIMIT 1", id,
		at.UnixMilli()).Scan(&revision)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return revision, err
}

// Deeds are the entries of a map's log before a revision, the latest first, at most so many. What cannot be read is
// left out.
func (s *Logs) Deeds(id string, before, most int) (list []Deed, err error) {
	rows, err := s.db.Query(`SELECT revision, at, author, window, edit FROM edits WHERE map = ? AND revision < ?
			ORDER BY revision DESC LIMIT ?`, id, before, most)
	if err != nil {
		return nil, err
	}
	type raw struct {
		Deed
		edit []byte
	}
	var all []raw
	for rows.Next() {
		var one raw
		var at int64
		if err = rows.Scan(&one.Revision, &at, &one.Author, &one.Window, &one.edit); err != nil {
			break
		}
		one.At = time.UnixMilli(at)
		all = append(all, one)
	}
	if err := errors.Join(err, rows.Err(), rows.Close()); err != nil {
		return nil, err
	}
	for _, one := range all {
		e, err := decode(one.edit, content(s.db))
		if err != nil {
			continue
		}
		one.Edit = e.Edit
		list = append(list, one.Deed)
	}
	return list, nil
}
