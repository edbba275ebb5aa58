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
	"sync/atomic"
	"time"

	"github.com/gofrs/flock"

	"plaintracer/account"
	"plaintracer/background"
	"plaintracer/core/model"
)

// ErrNotFound is returned for a map or link that does not exist.
var ErrNotFound = errors.New("not found")

// migrations bring a database of any earlier version up to date, in the order of their names.
//
//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open data folder. It is safe for concurrent use. Each part of it keeps one kind of thing.
type Store struct {
	*database
	Maps       *Maps
	Logs       *Logs
	Versions   *Versions
	Thumbnails *Thumbnails
	Words      *Words
	Starts     *Starts
	Folders    *Folders
	People     *People
	Sessions   *Sessions
	Visits     *Visits
	Links      *Links
	Remarks    *Remarks
	Rounds     *Rounds
	Lives      *Lives
	Groups     *Groups
	Letters    *Letters
	Attempts   *Attempts
	Audit      *Audit
	Files      *Files
}

// newStore returns a store without a database.
func newStore() *Store {
	db := &database{closed: make(chan struct{}), ended: make(chan struct{}), changes: make(chan struct{}, 1),
		beside: background.New()}
	db.all = &Store{
		database: db, Maps: &Maps{db}, Logs: &Logs{db},
		Versions: &Versions{db}, Thumbnails: &Thumbnails{db}, Words: &Words{db}, Starts: &Starts{db},
		Folders: &Folders{database: db}, People: &People{database: db}, Sessions: &Sessions{database: db},
		Visits: &Visits{db}, Links: &Links{db},
		Remarks: &Remarks{db}, Rounds: &Rounds{db}, Letters: &Letters{db}, Attempts: &Attempts{db}, Audit: &Audit{db},
		Files: &Files{db}, Lives: &Lives{db}, Groups: &Groups{db},
	}
	return db.all
}

// database is the open database, which all parts of the store work on.
type database struct {
	db   *pool
	lock *flock.Flock
	key  []byte // of which the secrets of windows are made
	// closed ends what runs beside; ended says that nothing is committed any more.
	closed, ended chan struct{}
	closing       sync.Once
	together      together
	// committed counts transactions.
	committed atomic.Int64
	beside    *background.Group
	// readOnly says why nothing can be written; empty where all is well.
	readOnly string
	// changes wakes what notes the words of maps that have changed.
	changes chan struct{}
	// all is the store, by which one part reaches another.
	all *Store
}

// ReadOnly says why nothing can be saved, in words for a person; empty where it can.
func (s *database) ReadOnly() string { return s.readOnly }

// Close closes the database and lets the folder go.
func (s *Store) Close() error {
	s.closing.Do(func() { close(s.closed) })
	s.beside.Close()
	err := s.db.Close()
	if s.lock != nil {
		err = errors.Join(err, s.lock.Unlock())
	}
	return err
}

func (s *database) transact(do func(tx *sql.Tx) error) error {
	tx, err := s.db.Begin()
	if err != nil {
		return err
	}
	done := false
	defer func() { // a panic keeps nobody else from the one connection
		if !done {
			tx.Rollback()
		}
	}()
	err = do(tx)
	done = true
	if err != nil {
		return errors.Join(err, tx.Rollback())
	}
	s.committed.Add(1)
	return tx.Commit()
}

// scanner reads the columns of a row.
type scanner = func(...any) error

// gather reads all rows of a query, each by a function, and lets the one connection go.
func gather[T any](db querier, read func(scanner) (T, error), query string, args ...any) (list []T, err error) {
	rows, err := db.Query(query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		one, err := read(rows.Scan)
		if err != nil {
			return nil, err
		}
		list = append(list, one)
	}
	return list, rows.Err()
}

// clock tells the time of what is kept.
var clock = time.Now

// SetClock has what is kept from now on bear the times of another clock, before a house is served: for a past that is
// made up.
func SetClock(c func() time.Time) { clock = c }

func now() int64 { return clock().UnixMilli() }

// Info is what the list of maps shows of one.
type Info struct {
	account.Map
	Title   string
	Changed time.Time
	// Author is who changed it last: the id of a person, or "link:" and that of a link; empty where that is not known.
	Author                  string
	Revision, Sheets, Steps int
	// Number is by what the search knows it.
	Number int64
	// Binned is when it was moved to the bin; zero for not.
	Binned time.Time
	// Opened is when the person who asks last had it open, and Pinned that they want it at hand.
	Opened time.Time
	Pinned bool
	// Damaged says that not even this can be read of the map.
	Damaged bool
}

// Maps is the list of maps. What is in one is in its log.
type Maps struct{ *database }

// Create stores a new map that belongs to nobody; CreateFor one of an owner in a folder, which may be none. They return
// its id.
func (s *Maps) Create(m *model.Map) (string, error) { return s.CreateFor(m, "", "") }

// CreateFor stores a new map of an owner in a folder.
func (s *Maps) CreateFor(m *model.Map, owner, folder string) (string, error) {
	if err := m.Validate(); err != nil {
		return "", err
	}
	doc, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	id := token(10)
	err = s.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec(`INSERT INTO maps (id, title, created, changed, owner, folder, author, number)
				SELECT ?, ?, ?, ?, ?, ?, ?, coalesce(max(number), 0) + 1 FROM maps`,
			id, m.Title, now(), now(), optional(owner), optional(folder), owner); err != nil {
			return err
		}
		return addSnapshot(tx, id, 0, doc)
	})
	s.wake()
	return id, err
}

// token returns a random name of n characters, five bits each.
func token(n int) string { return rand.Text()[:n] }

const infoColumns = "m.id, coalesce(m.owner, ''), coalesce(m.folder, ''), m.title, m.changed, m.author, m.revision, m.sheets, m.steps, m.binned, coalesce(m.number, 0)"

// List are all maps in use, or all in the bin, whoever may see them, the latest changed first; with what a person has
// to do with them.
func (s *Maps) List(person string, binned bool) (list []Info, err error) {
	rows, err := s.db.Query("SELECT "+infoColumns+
		", v.opened, coalesce(v.pinned, 0) FROM maps m LEFT JOIN visits v ON v.map = m.id AND v.person = ? WHERE (m.binned IS NOT NULL) = ? ORDER BY m.changed DESC, m.number DESC", person, binned)
	if err != nil {
		if !Damaged(err) {
			return nil, err
		}
		log.Printf("listing the maps: %v", err)
		return s.listSingly(binned)
	}
	for rows.Next() {
		var i Info
		var opened sql.NullInt64
		var pinned bool
		if i, err = scanInfo(rows.Scan, &opened, &pinned); err != nil {
			break
		}
		i.Opened, i.Pinned = timeOf(opened), pinned
		list = append(list, i)
	}
	if err = errors.Join(err, rows.Err(), rows.Close()); err != nil && Damaged(err) {
		log.Printf("listing the maps: %v", err)
		return s.listSingly(binned)
	}
	return list, err
}

func scanInfo(scan func(...any) error, more ...any) (i Info, err error) {
	var changed int64
	var binned sql.NullInt64
	err = scan(append([]any{&i.ID, &i.Owner, &i.Folder, &i.Title, &changed, &i.Author, &i.Revision, &i.Sheets, &i.Steps,
		&binned, &i.Number}, more...)...)
	i.Changed, i.Binned = time.UnixMilli(changed), timeOf(binned)
	return i, err
}

// listSingly reads the list where a page of it is damaged: the ids from their index, and
// whatever else can be had of each map.
func (s *Maps) listSingly(binned bool) ([]Info, error) {
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
		i, err := scanInfo(s.db.QueryRow("SELECT "+infoColumns+" FROM maps m WHERE id = ?", id).Scan)
		if err != nil {
			i = Info{Map: account.Map{ID: id}, Title: "A damaged map", Damaged: true}
		}
		if i.Binned.IsZero() != binned {
			list = append(list, i)
		}
	}
	return list, nil
}

// VisitTime is how long after somebody opened a map the next time counts as another visit.
const VisitTime = 30 * time.Minute

// Visits are what people have opened, and how they have arranged their home screen.
type Visits struct{ *database }

// Opened notes that a person has opened a map.
func (s *Visits) Opened(person, id string) error {
	_, err := s.db.Exec(`INSERT INTO visits (person, map, opened, latest) SELECT ?, id, ?, revision FROM maps WHERE id = ? ON CONFLICT DO UPDATE SET
		since = CASE WHEN excluded.opened - opened > ? THEN latest ELSE since END, latest = excluded.latest, opened = excluded.opened`, person, now(), id, VisitTime.Milliseconds())
	return err
}

// Since is the revision of a map when a person was there at the visit before this one; below zero where there was none.
func (s *Visits) Since(person, id string) (revision int, err error) {
	err = s.db.QueryRow("SELECT coalesce(since, -1) FROM visits WHERE person = ? AND map = ?", person,
		id).Scan(&revision)
	if errors.Is(err, sql.ErrNoRows) {
		return -1, nil
	}
	return revision, err
}

// Pin puts a map among those a person wants at hand, or takes it out.
func (s *Visits) Pin(person, id string, pinned bool) error {
	_, err := s.db.Exec(`INSERT INTO visits (person, map, pinned) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET
			pinned = excluded.pinned`, person, id, pinned)
	return err
}

// BinTime is how long maps stay in the bin before they are deleted for good.
const BinTime = 30 * 24 * time.Hour

// Empty deletes the maps for good that have been in the bin too long at a time, and returns their ids.
func (s *Maps) Empty(at time.Time) (gone []string, err error) {
	err = s.transact(func(tx *sql.Tx) error {
		type mapNumber struct {
			id     string
			number int64
		}
		over, err := gather(tx, func(scan scanner) (m mapNumber, err error) {
			err = scan(&m.id, &m.number)
			return m, err
		}, "SELECT id, number FROM maps WHERE binned < ?", at.Add(-BinTime).UnixMilli())
		if err != nil {
			return err
		}
		for _, m := range over {
			if err := unindex(tx, m.number); err != nil {
				return err
			}
			if _, err := tx.Exec("DELETE FROM maps WHERE id = ?", m.id); err != nil {
				return err
			}
			gone = append(gone, m.id)
		}
		return nil
	})
	return gone, err
}

// Bin puts a map into the bin.
func (s *Maps) Bin(id string) error {
	return s.setBinned(id, sql.NullInt64{Int64: now(), Valid: true})
}

// Restore takes a map out of the bin again.
func (s *Maps) Restore(id string) error { return s.setBinned(id, sql.NullInt64{}) }

func (s *Maps) setBinned(id string, at sql.NullInt64) error {
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

// migrate brings the database up to date.
func (s *Store) migrate() error {
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	return s.migrateTo(len(files))
}

// migrateTo brings the database up to a version.
func (s *Store) migrateTo(last int) error {
	var version int
	if err := s.db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return err
	}
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	if version > len(files) {
		return fmt.Errorf("the data is of version %d, written by a newer program; this one knows up to %d", version,
			len(files))
	}
	for ; version < last; version++ {
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
