package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"log"
	"os"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/gofrs/flock"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// The files of a data folder.
const (
	dataFile = "plaintracer.db"
	// lockFile is held by the program that works on the folder. It tells who that is, and,
	// by not being empty, that the folder has held maps.
	lockFile = "plaintracer.lock"
)

// pragmas are set on every connection: synchronous=FULL makes what is committed outlast the
// machine.
const pragmas = "_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)&_pragma=journal_size_limit(16777216)&_pragma=wal_autocheckpoint(20000)&_txlock=immediate"

// reading is set on the connections that only read.
const reading = "_pragma=query_only(1)&_pragma=busy_timeout(5000)"

// Open opens the data folder, and makes it where there is none. One program at a time can
// hold it.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w", folder, cause(err))
	}
	lock, err := lockFolder(folder)
	if err != nil {
		return nil, err
	}
	s, err := open(folder, lock)
	if err != nil {
		return nil, errors.Join(err, lock.Unlock())
	}
	return s, nil
}

// OpenBeside opens a data folder that another program may be working on, to look after the people in the organisation.
// It holds nothing up; maps are left to whoever holds the folder.
func OpenBeside(folder string) (*Store, error) {
	path := filepath.Join(folder, dataFile)
	if _, err := os.Stat(path); err != nil {
		return nil, fmt.Errorf("there is no data in the folder %s: %w", folder, cause(err))
	}
	if err := whole(path); err != nil {
		return nil, err
	}
	s := newStore()
	db, err := openPool(path, pragmas, "")
	if err != nil {
		return nil, err
	}
	s.db = db
	var version int
	if err := db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return nil, errors.Join(cause(err), db.Close())
	}
	if files, err := migrations.ReadDir("migrations"); err != nil || version != len(files) {
		return nil,
			errors.Join(fmt.Errorf("the data is of version %d, and this program works with %d: start it once, or use the one that serves it", version, len(files)), err, db.Close())
	}
	return s, nil
}

// lockFolder locks the folder, or says who has it.
func lockFolder(folder string) (*flock.Flock, error) {
	path := filepath.Join(folder, lockFile)
	lock := flock.New(path, flock.SetPermissions(0o600))
	got, err := lock.TryLock()
	switch {
	case err != nil:
		return nil, fmt.Errorf("the data folder %s cannot be used: %w", folder, cause(err))
	case !got:
		who, _ := os.ReadFile(path)
		return nil,
			fmt.Errorf("the data folder %s is in use by %s; end that first, or choose another folder with --data",
				folder, orElse(strings.TrimSpace(string(who)), "another program"))
	}
	return lock, nil
}

func orElse(text, other string) string {
	if text == "" {
		return other
	}
	return text
}

// Holder notes for others who holds the folder, such as by its address.
func (s *Store) Holder(name string) {
	if err := note(s.lock.Path(), fmt.Sprintf("%s (process %d)\n", name, os.Getpid())); err != nil {
		log.Printf("noting who holds the data folder: %v", err)
	}
}

// note writes a text into the lock file. What stood there is not cut off before the new text
// is written, so that on a full disk the file does not become empty.
func note(path, text string) error {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	_, err = f.WriteAt([]byte(text), 0)
	if err == nil {
		err = f.Truncate(int64(len(text)))
	}
	return errors.Join(err, f.Close())
}

func open(folder string, lock *flock.Flock) (*Store, error) {
	path := filepath.Join(folder, dataFile)
	if err := begin(path, lock.Path()); err != nil {
		return nil, err
	}
	s := newStore()
	s.lock = lock
	err := s.connect(path, pragmas, reading)
	if reason := cannotWrite(err); reason != "" {
		// What there is can still be read: nobody else writes, since the folder is held.
		if probe(folder) {
			reason = "The disk of the server is full"
		}
		s.readOnly = fmt.Sprintf("%s (%s), so that nothing can be saved now. Maps can be read and exported.", reason,
			folder)
		log.Printf("%s", s.readOnly)
		err = s.connect(path, "mode=ro&immutable=1", "")
	}
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", path, cause(err))
	}
	if s.readOnly == "" {
		s.beside.Go("carrying the log over", func(ctx context.Context) { s.carry(ctx, path) })
		s.beside.Go("committing", func(context.Context) { s.keepCommitting() })
	}
	return s, nil
}

// probe reports whether the disk of a folder is full.
func probe(folder string) bool {
	f, err := os.CreateTemp(folder, "probe")
	if err != nil {
		return errors.Is(err, syscall.ENOSPC)
	}
	defer os.Remove(f.Name())
	_, err = f.Write(make([]byte, 64<<10)) // as much as SQLite needs to begin
	return errors.Is(errors.Join(err, f.Close()), syscall.ENOSPC)
}

// connect opens the database; readers as the second query says, or with the writer where it is empty.
func (s *Store) connect(path, query, reading string) error {
	db, err := openPool(path, query, reading)
	if err != nil {
		return err
	}
	s.db = db
	if s.readOnly == "" {
		if err := s.migrate(); err != nil {
			db.Close()
			return err
		}
		if err := s.Links.hashLinks(); err != nil {
			db.Close()
			return fmt.Errorf("carrying links over: %w", err)
		}
		if err := s.People.refold(); err != nil {
			db.Close()
			return fmt.Errorf("comparing addresses anew: %w", err)
		}
	}
	if err := s.readKey(); err != nil {
		db.Close()
		return err
	}
	if s.readOnly == "" {
		if err := s.prepare(); err != nil {
			db.Close()
			return err
		}
	}
	return nil
}

// readKey reads the key of which the secrets of windows are made. The first time it is made.
func (s *database) readKey() error {
	err := s.db.QueryRow("SELECT value FROM settings WHERE name = 'window key'").Scan(&s.key)
	if err == nil || s.readOnly != "" && !errors.Is(err, sql.ErrNoRows) && Damaged(err) {
		return err
	}
	s.key = make([]byte, 32)
	if _, err := rand.Read(s.key); err != nil {
		return err
	}
	if s.readOnly != "" {
		return nil
	}
	_, err = s.db.Exec("INSERT INTO settings (name, value) VALUES ('window key', ?)", s.key)
	return err
}

// begin makes the database of a new folder, under another name until it is whole. One that
// has been emptied since is reported: to begin anew in its place would hide that maps are lost.
func begin(path, lock string) error {
	used, err := os.ReadFile(lock)
	if err != nil {
		return fmt.Errorf("the data folder cannot be read: %w", cause(err))
	}
	info, err := os.Stat(path)
	switch {
	case err == nil && info.Size() > 0:
		return whole(path)
	case err == nil:
		return fmt.Errorf("%s has been emptied: the maps in it are gone. Put a backup in its place, or choose another folder with --data", path)
	case !errors.Is(err, fs.ErrNotExist):
		return fmt.Errorf("%s cannot be read: %w", path, cause(err))
	case len(used) > 0:
		return fmt.Errorf("%s is gone, although the folder has held maps. Put it or a backup back in its place; to begin anew, delete %s too", path, lock)
	}
	half := path + ".new"
	if err := os.Remove(half); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return cause(err)
	}
	f, err := os.OpenFile(half, os.O_CREATE|os.O_EXCL, 0o600) // its mode is that of all files beside it
	if err != nil {
		return fmt.Errorf("the data folder cannot be written: %w", cause(err))
	}
	if err := f.Close(); err != nil {
		return err
	}
	s := newStore()
	if err := s.connect(half, "_pragma=synchronous(FULL)", ""); err != nil {
		return fmt.Errorf("making %s: %w", path, cause(err))
	}
	if err := s.db.Close(); err != nil {
		return err
	}
	if err := os.Rename(half, path); err != nil {
		return err
	}
	return note(lock, "a program that is starting\n")
}

// whole reports a file that is no database of ours any more.
func whole(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return fmt.Errorf("%s cannot be read: %w", path, cause(err))
	}
	defer f.Close()
	head := make([]byte, 100)
	if n, _ := f.Read(head); n < len(head) || string(head[:15]) != "SQLite format 3" {
		return fmt.Errorf("%s is not a database any more: its beginning is damaged or overwritten. Put a backup in its place, or choose another folder with --data", path)
	}
	// The header keeps the version at byte 60 (sqlite.org/fileformat.html, 1.3); ours begin at 1.
	if string(head[60:64]) == "\x00\x00\x00\x00" {
		return fmt.Errorf("%s holds no maps: it has been emptied, or is not ours. Put a backup in its place, or choose another folder with --data", path)
	}
	return nil
}

// cause leaves only what matters to a person of an error of the file system.
func cause(err error) error {
	var path *fs.PathError
	if errors.As(err, &path) {
		return path.Err
	}
	return err
}

// code returns the primary result code of SQLite (sqlite.org/rescode.html), or zero.
func code(err error) int {
	var e *sqlite.Error
	if errors.As(err, &e) {
		return e.Code() & 0xff
	}
	return 0
}

// Damaged reports that a part of the database cannot be read any more.
func Damaged(err error) bool {
	c := code(err)
	return c == sqlite3.SQLITE_CORRUPT || c == sqlite3.SQLITE_NOTADB || c == sqlite3.SQLITE_IOERR
}

// CannotWrite reports whether an error says that nothing can be written now.
func CannotWrite(err error) bool { return cannotWrite(err) != "" }

// cannotWrite says in words why a database can be read at best; empty for other errors.
func cannotWrite(err error) string {
	switch {
	case err == nil:
		return ""
	case errors.Is(err, syscall.ENOSPC) || code(err) == sqlite3.SQLITE_FULL:
		return "The disk of the server is full"
	case code(err) == sqlite3.SQLITE_READONLY:
		return "The data folder is read-only"
	case code(err) == sqlite3.SQLITE_CANTOPEN:
		return "Files in the data folder cannot be made: its disk is full, or it is read-only"
	case code(err) == sqlite3.SQLITE_IOERR:
		return "The disk of the server reports an error"
	}
	return ""
}

// Trouble says in words why something could not be saved or read, as far as that lies with
// the disk; empty for other errors.
func Trouble(err error) string {
	if c := code(err); c == sqlite3.SQLITE_CORRUPT || c == sqlite3.SQLITE_NOTADB {
		return "A part of the data file is damaged"
	}
	return cannotWrite(err)
}
