package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log"

	"plaintracer/core/diagram"
)

// state is a map as far as it could be made of a snapshot and the log.
type state struct {
	m        *diagram.Map
	revision int
	// edits is how many edits were made since the snapshot.
	edits int
	// fault says why it does not go on to the end of the log, and at which entry.
	fault error
	at    int
}

// load reads the map: the latest snapshot and the edits after it. Entries are trusted and
// made without judging them anew; if the outcome is not sound after all, they are made again
// with every check, to find the first that is to blame. A map that ends before its log does
// goes on from there: the rest of its log is kept aside.
func (d *Document) load() error {
	s, err := d.rebuild(diagram.Preview)
	if err != nil {
		return err
	}
	if s.fault == nil {
		if fault := s.m.Validate(); fault != nil {
			if s, err = d.rebuild(diagram.Attempt); err != nil {
				return err
			}
			if s.fault == nil {
				return fmt.Errorf("no state of it is sound: %w", fault)
			}
		}
	}
	d.m, d.revision, d.sinceEdits, d.sinceBytes, d.damage = s.m, s.revision, s.edits, 0, ""
	if s.fault == nil {
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

// rebuild makes the map from the latest snapshot that can be read and is sound.
func (d *Document) rebuild(attempt func(*diagram.Map, diagram.Edit) (*diagram.Trial, error)) (state, error) {
	list, err := snapshots(d.store.db, d.ID)
	if err != nil && len(list) == 0 {
		return state{}, err
	}
	for _, revision := range list {
		s := state{revision: revision}
		m, fault := d.snapshot(revision)
		if fault == nil {
			fault = m.Validate()
		}
		if fault != nil {
			log.Printf("map %s: the snapshot at revision %d: %v", d.ID, revision, fault)
			err = errors.Join(err, fault)
			continue
		}
		s.m = m
		edits, fault, failed := d.read(revision)
		if failed != nil && !damaged(failed) {
			return state{}, failed
		}
		for _, c := range edits {
			if _, s.fault = attempt(s.m, c.Edit.Edit); s.fault != nil {
				s.at = c.Revision
				return s, nil
			}
			s.revision = c.Revision
			s.edits++
		}
		s.at = s.revision + 1
		if s.fault = fault; failed != nil {
			s.fault = failed
		}
		return s, nil
	}
	if err == nil {
		err = errors.New("it has no snapshot")
	}
	return state{}, fmt.Errorf("no state of it can be read: %w", err)
}

// snapshot reads the map as it was at a revision.
func (d *Document) snapshot(revision int) (*diagram.Map, error) {
	var doc []byte
	if err := d.store.db.QueryRow("SELECT document FROM snapshots WHERE map = ? AND revision = ?", d.ID, revision).Scan(&doc); err != nil {
		return nil, err
	}
	doc, err := unpack(doc, content(d.store.db))
	if err != nil {
		return nil, err
	}
	m := new(diagram.Map)
	return m, json.Unmarshal(doc, m)
}

// read returns the committed edits after a revision. A fault is what is wrong with the first
// entry that cannot be decoded; the entries before it are returned.
func (d *Document) read(after int) (list []Committed, fault, err error) {
	rows, err := d.store.db.Query("SELECT revision, window, seq, edit FROM edits WHERE map = ? AND revision > ? ORDER BY revision", d.ID, after)
	if err != nil {
		return nil, nil, err
	}
	type entry struct {
		Committed
		packed []byte
	}
	var entries []entry
	for rows.Next() {
		var e entry
		if err = rows.Scan(&e.Revision, &e.Window, &e.Seq, &e.packed); err != nil {
			break
		}
		entries = append(entries, e)
	}
	err = errors.Join(err, rows.Err(), rows.Close()) // the one connection is needed for the contents
	for _, e := range entries {
		if e.Edit, fault = decode(e.packed, content(d.store.db)); fault != nil {
			return list, fault, err
		}
		list = append(list, e.Committed)
	}
	return list, nil, err
}

func decode(packed []byte, content func(string) ([]byte, error)) (e diagram.Envelope, err error) {
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
		if _, err := tx.Exec(`INSERT INTO aside (map, revision, window, seq, at, edit, why)
			SELECT map, revision, window, seq, at, edit, ? FROM edits WHERE map = ? AND revision > ?`, s.fault.Error(), d.ID, s.revision); err != nil {
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
