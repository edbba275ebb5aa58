package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log"

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

// entry is an entry of a log as it is stored.
type entry struct {
	revision, seq, format int
	window                string
	edit, changes         []byte
}

// entries returns the entries of logs that a condition selects, in order.
func (s *Store) entries(where string, args ...any) (list []entry, err error) {
	rows, err := s.db.Query("SELECT revision, window, seq, format, edit, changes FROM edits WHERE "+where+" ORDER BY revision", args...)
	if err != nil {
		return nil, err
	}
	for rows.Next() {
		var e entry
		if err = rows.Scan(&e.revision, &e.window, &e.seq, &e.format, &e.edit, &e.changes); err != nil {
			break
		}
		list = append(list, e)
	}
	return list, errors.Join(err, rows.Err(), rows.Close()) // the one connection is needed for the contents
}

// committed returns the edit of an entry as it was committed.
func (e *entry) committed(content func(string) ([]byte, error)) (Committed, error) {
	edit, err := decode(e.edit, content)
	return Committed{Revision: e.revision, Window: e.window, Seq: e.seq, Edit: edit}, err
}

// did returns what the edit of an entry did; nothing where the entry does not say it.
func (e *entry) did(content func(string) ([]byte, error)) (changes []edit.Change, err error) {
	if e.format < 2 {
		return nil, nil
	}
	raw, err := unpack(e.changes, content)
	if err != nil {
		return nil, err
	}
	return changes, json.Unmarshal(raw, &changes)
}

// enact makes on a map what an entry says. Judged asks after it whether the map is sound.
func (e *entry) enact(m *model.Map, content func(string) ([]byte, error), judged bool) error {
	if e.format > entryFormat {
		return fmt.Errorf("it has the format %d, of a newer program", e.format)
	}
	if e.format < 2 {
		c, err := e.committed(content)
		if err != nil {
			return err
		}
		if err := edit.Lift(m, c.Edit.Edit); err != nil || !judged {
			return err
		}
		return m.Sound()
	}
	changes, err := e.did(content)
	if err == nil {
		err = edit.Enact(m, changes)
	}
	if err == nil && judged {
		err = m.Sound()
	}
	return err
}

// state is a map as far as it could be made of a snapshot and the log.
type state struct {
	m        *model.Map
	revision int
	// edits and bytes count what was made since the snapshot.
	edits, bytes int
	// lifted says that some of it was of an earlier format.
	lifted bool
	// fault says why it does not go on to the end of the log, and at which entry.
	fault error
	at    int
}

// load reads the map: the latest snapshot and the entries after it. Entries are trusted; if the
// outcome does not hang together after all, they are read again with every check, to find the
// first that is to blame. A map that ends before its log does goes on from there: the rest of its
// log is kept aside. A rule that the map breaks, since it is younger than the map or for any other
// reason, keeps nobody from opening it; it is among the findings.
func (d *Document) load() error {
	s, err := d.rebuild(false, -1)
	if err != nil {
		return err
	}
	if s.fault == nil {
		if fault := s.m.Sound(); fault != nil {
			if s, err = d.rebuild(true, -1); err != nil {
				return err
			}
			if s.fault == nil {
				return fmt.Errorf("no state of it is sound: %w", fault)
			}
		}
	}
	if s.fault != nil { // what the faulty entry has begun is left out
		fault, at := s.fault, s.at
		if s, err = d.rebuild(false, s.revision); err != nil {
			return err
		}
		s.fault, s.at = fault, at
	}
	d.m, d.revision, d.sinceEdits, d.sinceBytes, d.damage, d.last = s.m, s.revision, s.edits, s.bytes, "", nil
	if s.fault == nil {
		d.keepLifted(s)
		return nil
	}
	log.Printf("map %s: its log ends at revision %d, since entry %d is faulty: %v", d.ID, s.revision, s.at, s.fault)
	if damaged(s.fault) {
		d.damage = fmt.Sprintf("a part of the data file cannot be read. This is the last state that can, revision %d.", s.revision)
		return nil
	}
	if err := d.setAside(s); err != nil {
		log.Printf("map %s: keeping the rest of its log aside: %v", d.ID, err)
		d.damage = fmt.Sprintf("its log is faulty after revision %d, and the rest of it cannot be kept aside: %v.", s.revision, err)
	}
	return nil
}

// keepLifted keeps the state that was made of entries of an earlier format, so that they are not
// asked again, when rules may be others.
func (d *Document) keepLifted(s state) {
	if !s.lifted || d.store.readOnly != "" {
		return
	}
	doc, err := json.Marshal(s.m)
	if err == nil {
		err = d.store.transact(func(tx *sql.Tx) error { return addSnapshot(tx, d.ID, s.revision, doc) })
	}
	if err != nil {
		log.Printf("map %s: keeping what was lifted: %v", d.ID, err)
		return
	}
	d.sinceEdits, d.sinceBytes = 0, 0
}

// rebuild makes the map from the latest snapshot that can be read and is sound, and the entries
// after it: up to a revision, or all of them if that is below zero. A fault in an entry leaves the
// map between two revisions.
func (d *Document) rebuild(judged bool, until int) (state, error) {
	list, err := snapshots(d.store.db, d.ID)
	if err != nil && len(list) == 0 {
		return state{}, err
	}
	for _, revision := range list {
		if until >= 0 && revision > until {
			continue
		}
		s := state{revision: revision}
		m, fault := d.snapshot(revision)
		if fault == nil {
			fault = m.Sound()
		}
		if fault != nil {
			log.Printf("map %s: the snapshot at revision %d: %v", d.ID, revision, fault)
			err = errors.Join(err, fault)
			continue
		}
		s.m = m
		entries, failed := d.store.entries("map = ? AND revision > ?", d.ID, revision)
		if failed != nil && !damaged(failed) {
			return state{}, failed
		}
		for i := range entries {
			e := &entries[i]
			if until >= 0 && e.revision > until {
				return s, nil
			}
			if s.fault = e.enact(s.m, content(d.store.db), judged); s.fault != nil {
				s.at = e.revision
				return s, nil
			}
			s.revision, s.lifted = e.revision, s.lifted || e.format < entryFormat
			s.edits, s.bytes = s.edits+1, s.bytes+len(e.edit)+len(e.changes)
		}
		s.at, s.fault = s.revision+1, failed
		return s, nil
	}
	if err == nil {
		err = errors.New("it has no snapshot")
	}
	return state{}, fmt.Errorf("no state of it can be read: %w", err)
}

// snapshot reads the map as it was at a revision.
func (d *Document) snapshot(revision int) (*model.Map, error) {
	var doc []byte
	var format int
	if err := d.store.db.QueryRow("SELECT document, format FROM snapshots WHERE map = ? AND revision = ?", d.ID, revision).Scan(&doc, &format); err != nil {
		return nil, err
	}
	if format > documentFormat {
		return nil, fmt.Errorf("it has the format %d, of a newer program", format)
	}
	doc, err := unpack(doc, content(d.store.db))
	if err != nil {
		return nil, err
	}
	return model.ReadMap(doc)
}

func decode(packed []byte, content func(string) ([]byte, error)) (e edit.Envelope, err error) {
	raw, err := unpack(packed, content)
	if err != nil {
		return e, err
	}
	return e, json.Unmarshal(raw, &e)
}

// setAside takes the entries of the log out that cannot be made, and lets the map go on from
// the state before them: under a revision of its own, so that no window takes what it has
// for the same.
func (d *Document) setAside(s state) error {
	if d.store.readOnly != "" {
		return errors.New("nothing can be written")
	}
	doc, err := json.Marshal(s.m)
	if err != nil {
		return err
	}
	last := s.revision
	err = d.store.transact(func(tx *sql.Tx) error {
		if err := tx.QueryRow("SELECT max(revision) FROM edits WHERE map = ?", d.ID).Scan(&last); err != nil {
			return err
		}
		last++
		if _, err := tx.Exec(`INSERT INTO aside (map, revision, window, seq, at, author, format, edit, changes, why)
			SELECT map, revision, window, seq, at, author, format, edit, changes, ? FROM edits WHERE map = ? AND revision > ?`, s.fault.Error(), d.ID, s.revision); err != nil {
			return err
		}
		if _, err := tx.Exec("DELETE FROM edits WHERE map = ? AND revision > ?", d.ID, s.revision); err != nil {
			return err
		}
		if _, err := tx.Exec("DELETE FROM snapshots WHERE map = ? AND revision > ?", d.ID, s.revision); err != nil {
			return err
		}
		if err := addSnapshot(tx, d.ID, last, doc); err != nil {
			return err
		}
		_, err := tx.Exec("UPDATE maps SET revision = ?, title = ? WHERE id = ?", last, s.m.Title, d.ID)
		return err
	})
	if err != nil {
		return err
	}
	d.revision, d.sinceEdits, d.sinceBytes = last, 0, 0
	return nil
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
func (d *Document) Asides() ([]Aside, error) {
	rows, err := d.store.db.Query("SELECT revision, window, seq, at, why, edit FROM aside WHERE map = ? ORDER BY revision", d.ID)
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
