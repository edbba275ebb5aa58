package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"sync"

	"plaintracer/core/diagram"
)

// Document is an open map: the state after the last committed edit.
type Document struct {
	ID       string
	store    *Store
	mu       sync.Mutex
	m        *diagram.Map
	revision int
	// since counts the edits and their bytes after the last snapshot.
	sinceEdits, sinceBytes int
	listeners              map[int]func(Committed)
	nextListener           int
}

// Committed is an edit that has been made for good.
type Committed struct {
	Revision int              `json:"revision"`
	Window   string           `json:"window"`
	Seq      int              `json:"seq"`
	Edit     diagram.Envelope `json:"edit"`
}

// Document opens a map that is not in the bin. All callers share one Document
// for each map.
func (s *Store) Document(id string) (*Document, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	var binned sql.NullInt64
	err := s.db.QueryRow("SELECT binned FROM maps WHERE id = ?", id).Scan(&binned)
	if errors.Is(err, sql.ErrNoRows) || err == nil && binned.Valid {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	if d := s.open[id]; d != nil {
		return d, nil
	}
	d := &Document{ID: id, store: s, listeners: map[int]func(Committed){}}
	if err := d.load(); err != nil {
		return nil, fmt.Errorf("opening map %s: %w", id, err)
	}
	s.open[id] = d
	return d, nil
}

func (d *Document) load() error {
	var doc []byte
	err := d.store.db.QueryRow("SELECT revision, document FROM snapshots WHERE map = ? ORDER BY revision DESC LIMIT 1", d.ID).Scan(&d.revision, &doc)
	if err != nil {
		return err
	}
	d.m = new(diagram.Map)
	if err := json.Unmarshal(doc, d.m); err != nil {
		return err
	}
	edits, err := d.read(d.revision)
	if err != nil {
		return err
	}
	for _, c := range edits {
		if _, err := diagram.Apply(d.m, c.Edit.Edit); err != nil {
			return fmt.Errorf("edit %d: %w", c.Revision, err)
		}
		d.revision = c.Revision
	}
	d.sinceEdits = len(edits)
	return nil
}

// read returns the committed edits after a revision.
func (d *Document) read(after int) ([]Committed, error) {
	rows, err := d.store.db.Query("SELECT revision, window, seq, edit FROM edits WHERE map = ? AND revision > ? ORDER BY revision", d.ID, after)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []Committed
	for rows.Next() {
		var c Committed
		var edit []byte
		if err := rows.Scan(&c.Revision, &c.Window, &c.Seq, &edit); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(edit, &c.Edit); err != nil {
			return nil, err
		}
		list = append(list, c)
	}
	return list, rows.Err()
}

// Apply makes an edit and commits it before it returns. An edit with a window
// and number that came before is not made again: the revision it had is
// returned. A *diagram.Refusal says that the edit cannot be made.
func (d *Document) Apply(window string, seq int, edit diagram.Edit) (revision int, err error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	err = d.store.db.QueryRow("SELECT revision FROM edits WHERE map = ? AND window = ? AND seq = ?", d.ID, window, seq).Scan(&revision)
	if !errors.Is(err, sql.ErrNoRows) {
		return revision, err
	}
	trial, err := diagram.Attempt(d.m, edit)
	if err != nil {
		return 0, err
	}
	c := Committed{d.revision + 1, window, seq, diagram.Envelope{Edit: edit}}
	if err := d.commit(c); err != nil {
		trial.Rollback()
		return 0, err
	}
	d.revision = c.Revision
	for _, tell := range d.listeners {
		tell(c)
	}
	return c.Revision, nil
}

func (d *Document) commit(c Committed) error {
	raw, err := json.Marshal(c.Edit)
	if err != nil {
		return err
	}
	snapshot := d.sinceEdits+1 >= snapshotEdits || d.sinceBytes+len(raw) >= snapshotBytes
	err = d.store.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec("INSERT INTO edits (map, revision, window, seq, at, edit) VALUES (?, ?, ?, ?, ?, ?)", d.ID, c.Revision, c.Window, c.Seq, now(), raw); err != nil {
			return err
		}
		if snapshot {
			doc, err := json.Marshal(d.m)
			if err != nil {
				return err
			}
			if _, err := tx.Exec("INSERT INTO snapshots (map, revision, document) VALUES (?, ?, ?)", d.ID, c.Revision, doc); err != nil {
				return err
			}
		}
		_, err := tx.Exec("UPDATE maps SET revision = ?, changed = ?, title = ? WHERE id = ?", c.Revision, now(), d.m.Title, d.ID)
		return err
	})
	if err != nil {
		return err
	}
	d.sinceEdits, d.sinceBytes = d.sinceEdits+1, d.sinceBytes+len(raw)
	if snapshot {
		d.sinceEdits, d.sinceBytes = 0, 0
	}
	return nil
}

// View calls look with the map as it is now. The map must not be changed or
// kept.
func (d *Document) View(look func(m *diagram.Map, revision int)) {
	d.mu.Lock()
	defer d.mu.Unlock()
	look(d.m, d.revision)
}

// Snapshot returns a copy of the map as it is now.
func (d *Document) Snapshot() (*diagram.Map, int) {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.m.Clone(), d.revision
}

// NewWindow returns a prefix for ids that no other window on this map has.
func (d *Document) NewWindow() (string, error) {
	var n int
	err := d.store.db.QueryRow("UPDATE maps SET windows = windows + 1 WHERE id = ? RETURNING windows", d.ID).Scan(&n)
	return fmt.Sprintf("w%d", n), err
}

// Listen calls tell with every edit committed after a revision: first those
// there are already, then each new one, in order. Tell must not block or call
// back. The returned function ends it.
func (d *Document) Listen(after int, tell func(Committed)) (stop func(), err error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if after < d.revision {
		missed, err := d.read(after)
		if err != nil {
			return nil, err
		}
		for _, c := range missed {
			tell(c)
		}
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
