// Package store keeps maps in SQLite. A map is a log of edits with a snapshot
// now and then; opening it reads the last snapshot and what follows. Whatever
// is acknowledged has been committed to disk.
package store

import (
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	_ "modernc.org/sqlite" // the driver registers itself

	"plaintracer/core/diagram"
)

// ErrNotFound is returned for a map or link that does not exist.
var ErrNotFound = errors.New("not found")

// A snapshot is written after this many edits, or this much text of edits.
const (
	snapshotEdits = 200
	snapshotBytes = 256 << 10
)

// migrations bring a database of any earlier version up to date, in order.
var migrations = []string{
	`CREATE TABLE maps (
		id TEXT PRIMARY KEY, title TEXT NOT NULL, created INTEGER NOT NULL, changed INTEGER NOT NULL,
		binned INTEGER, revision INTEGER NOT NULL DEFAULT 0, windows INTEGER NOT NULL DEFAULT 0) STRICT;
	CREATE TABLE snapshots (
		map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE, revision INTEGER NOT NULL, document BLOB NOT NULL,
		PRIMARY KEY (map, revision)) STRICT;
	CREATE TABLE edits (
		map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE, revision INTEGER NOT NULL,
		window TEXT NOT NULL, seq INTEGER NOT NULL, at INTEGER NOT NULL, edit BLOB NOT NULL,
		PRIMARY KEY (map, revision), UNIQUE (map, window, seq)) STRICT;
	CREATE TABLE links (
		token TEXT PRIMARY KEY, map TEXT NOT NULL REFERENCES maps(id) ON DELETE CASCADE,
		created INTEGER NOT NULL, withdrawn INTEGER) STRICT;`,
}

// Store is an open database. It is safe for concurrent use.
type Store struct {
	db   *sql.DB
	mu   sync.Mutex
	open map[string]*Document
}

// Open opens or creates the database file at path.
func Open(path string) (*Store, error) {
	db, err := sql.Open("sqlite", "file:"+path+"?_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)&_txlock=immediate")
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1) // one writer; reads are short
	s := &Store{db: db, open: map[string]*Document{}}
	if err := s.migrate(); err != nil {
		db.Close()
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return s, nil
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

func (s *Store) migrate() error {
	var version int
	if err := s.db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return err
	}
	if version > len(migrations) {
		return fmt.Errorf("the data is of version %d, written by a newer program; this one knows up to %d", version, len(migrations))
	}
	for ; version < len(migrations); version++ {
		if err := s.transact(func(tx *sql.Tx) error {
			if _, err := tx.Exec(migrations[version]); err != nil {
				return err
			}
			_, err := tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", version+1))
			return err
		}); err != nil {
			return fmt.Errorf("migration %d: %w", version+1, err)
		}
	}
	return nil
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
		_, err := tx.Exec("INSERT INTO snapshots (map, revision, document) VALUES (?, 0, ?)", id, doc)
		return err
	})
}

// token returns a random name of n characters, five bits each.
func token(n int) string { return rand.Text()[:n] }

// List returns the maps, the latest changed first: those in use, or those in
// the bin.
func (s *Store) List(binned bool) ([]Info, error) {
	rows, err := s.db.Query("SELECT id, title, changed, revision FROM maps WHERE (binned IS NOT NULL) = ? ORDER BY changed DESC, rowid DESC", binned)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []Info
	for rows.Next() {
		var i Info
		var changed int64
		if err := rows.Scan(&i.ID, &i.Title, &changed, &i.Revision); err != nil {
			return nil, err
		}
		i.Changed = time.UnixMilli(changed)
		list = append(list, i)
	}
	return list, rows.Err()
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

// Link is a link to read a map.
type Link struct {
	Token   string
	Created time.Time
}

// CreateLink returns the token of a new link to read a map.
func (s *Store) CreateLink(id string) (string, error) {
	t := token(26)
	_, err := s.db.Exec("INSERT INTO links (token, map, created) SELECT ?, id, ? FROM maps WHERE id = ?", t, now(), id)
	return t, err
}

// Links returns the links of a map that are in force, the latest first.
func (s *Store) Links(id string) ([]Link, error) {
	rows, err := s.db.Query("SELECT token, created FROM links WHERE map = ? AND withdrawn IS NULL ORDER BY created DESC, token", id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []Link
	for rows.Next() {
		var l Link
		var created int64
		if err := rows.Scan(&l.Token, &created); err != nil {
			return nil, err
		}
		l.Created = time.UnixMilli(created)
		list = append(list, l)
	}
	return list, rows.Err()
}

// Withdraw ends a link.
func (s *Store) Withdraw(id, token string) error {
	return found(s.db.Exec("UPDATE links SET withdrawn = ? WHERE token = ? AND map = ? AND withdrawn IS NULL", now(), token, id))
}

// Follow returns the map a link leads to. For a withdrawn link it returns when
// it ended, and ErrNotFound; also for one whose map is in the bin.
func (s *Store) Follow(token string) (id string, ended time.Time, err error) {
	var withdrawn, binned sql.NullInt64
	err = s.db.QueryRow("SELECT m.id, l.withdrawn, m.binned FROM links l JOIN maps m ON m.id = l.map WHERE token = ?", token).Scan(&id, &withdrawn, &binned)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return "", time.Time{}, ErrNotFound
	case err != nil:
		return "", time.Time{}, err
	case withdrawn.Valid:
		return "", time.UnixMilli(withdrawn.Int64), ErrNotFound
	case binned.Valid:
		return "", time.UnixMilli(binned.Int64), ErrNotFound
	}
	return id, time.Time{}, nil
}
