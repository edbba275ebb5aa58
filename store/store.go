// Package store keeps maps in SQLite. A map is a log of edits with a snapshot now and then;
// opening it reads the last snapshot and what follows. Whatever is acknowledged has been
// committed to disk.
//
// A Store is a folder that one program at a time may hold. What is damaged in it is set
// apart, so that all else can still be read and worked on: an entry of a log that cannot be
// made any more is kept aside, and a map of which a part cannot be read is shown as it last
// could be.
package store

import (
	"crypto/rand"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"log"
	"sync"
	"time"

	"github.com/gofrs/flock"

	"plaintracer/core/diagram"
)

// ErrNotFound is returned for a map or link that does not exist.
var ErrNotFound = errors.New("not found")

// migrations bring a database of any earlier version up to date, in the order of their names.
//
//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open data folder. It is safe for concurrent use.
type Store struct {
	db   *sql.DB
	lock *flock.Flock
	key  []byte // of which the secrets of windows are made
	mu   sync.Mutex
	open map[string]*Document
	// closed ends what runs beside.
	closed  chan struct{}
	closing sync.Once
	// Vet looks closer at what an edit brings into a map than its own checks do; it may
	// be nil. An edit it reports is refused with its reason.
	Vet func(added *diagram.Revert) error
	// readOnly says why nothing can be written; empty where all is well.
	readOnly string
}

// ReadOnly says why nothing can be saved, in words for a person; empty where it can.
func (s *Store) ReadOnly() string { return s.readOnly }

// Close closes the database and lets the folder go.
func (s *Store) Close() error {
	s.closing.Do(func() { close(s.closed) })
	err := s.db.Close()
	if s.lock != nil {
		err = errors.Join(err, s.lock.Unlock())
	}
	return err
}

func (s *Store) transact(do func(tx *sql.Tx) error) error {
	tx, err := s.db.Begin()
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

func now() int64 { return time.Now().UnixMilli() }

// Info is what the list of maps shows.
type Info struct {
	ID       string
	Title    string
	Changed  time.Time
	Revision int
	// Damaged says that not even this can be read of the map.
	Damaged bool
}

// Create stores a new map and returns its id.
func (s *Store) Create(m *diagram.Map) (string, error) {
	if err := m.Validate(); err != nil {
		return "", err
	}
	doc, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	id := token(10)
	return id, s.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec("INSERT INTO maps (id, title, created, changed) VALUES (?, ?, ?, ?)", id, m.Title, now(), now()); err != nil {
			return err
		}
		return addSnapshot(tx, id, 0, doc)
	})
}

// token returns a random name of n characters, five bits each.
func token(n int) string { return rand.Text()[:n] }

// List returns a page of the maps in use, or of those in the bin: at most limit, after so
// many others, the latest changed first; and how many there are in all.
func (s *Store) List(binned bool, after, limit int) (list []Info, all int, err error) {
	if err := s.db.QueryRow("SELECT count(*) FROM maps WHERE (binned IS NOT NULL) = ?", binned).Scan(&all); err != nil {
		if !damaged(err) {
			return nil, 0, err
		}
		log.Printf("listing the maps: %v", err)
		list, err = s.listSingly()
		return list, len(list), err
	}
	rows, err := s.db.Query("SELECT id, title, changed, revision FROM maps WHERE (binned IS NOT NULL) = ? ORDER BY changed DESC, rowid DESC LIMIT ? OFFSET ?", binned, limit, after)
	if err != nil {
		return nil, 0, err
	}
	defer rows.Close()
	for rows.Next() {
		i, err := scanInfo(rows.Scan)
		if err != nil {
			return nil, 0, err
		}
		list = append(list, i)
	}
	return list, all, rows.Err()
}

func scanInfo(scan func(...any) error) (Info, error) {
	var i Info
	var changed int64
	err := scan(&i.ID, &i.Title, &changed, &i.Revision)
	i.Changed = time.UnixMilli(changed)
	return i, err
}

// listSingly reads the list where a page of it is damaged: the ids from their index, and
// whatever else can be had of each map.
func (s *Store) listSingly() ([]Info, error) {
	rows, err := s.db.Query("SELECT id FROM maps INDEXED BY sqlite_autoindex_maps_1 ORDER BY id")
	if err != nil {
		return nil, err
	}
	var ids []string
	for rows.Next() {
		var id string
		if rows.Scan(&id) == nil {
			ids = append(ids, id)
		}
	}
	if err := rows.Err(); err != nil {
		log.Printf("listing the maps: %v", err)
	}
	rows.Close()
	var list []Info
	for _, id := range ids {
		i, err := scanInfo(s.db.QueryRow("SELECT id, title, changed, revision FROM maps WHERE id = ?", id).Scan)
		if err != nil {
			i = Info{ID: id, Title: "A damaged map", Damaged: true}
		}
		list = append(list, i)
	}
	return list, nil
}

// Bin puts a map into the bin, Restore takes it out again.
func (s *Store) Bin(id string) error {
	return s.setBinned(id, sql.NullInt64{Int64: now(), Valid: true})
}
func (s *Store) Restore(id string) error { return s.setBinned(id, sql.NullInt64{}) }

func (s *Store) setBinned(id string, at sql.NullInt64) error {
	return found(s.db.Exec("UPDATE maps SET binned = ? WHERE id = ?", at, id))
}

func found(r sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

func (s *Store) migrate() error {
	var version int
	if err := s.db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return err
	}
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	if version > len(files) {
		return fmt.Errorf("the data is of version %d, written by a newer program; this one knows up to %d", version, len(files))
	}
	for ; version < len(files); version++ {
		name := files[version].Name()
		statements, err := migrations.ReadFile("migrations/" + name)
		if err != nil {
			return err
		}
		if err := s.transact(func(tx *sql.Tx) error {
			if _, err := tx.Exec(string(statements)); err != nil {
				return err
			}
			_, err := tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", version+1))
			return err
		}); err != nil {
			return fmt.Errorf("migration %s: %w", name, err)
		}
	}
	return nil
}
