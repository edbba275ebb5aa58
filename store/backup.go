package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"
)

// Backup writes a copy of the maps of a folder, as they are at one moment, to a file for its owner alone. A program may
// be working on the folder: it is not held up. The file must not be there yet; it is whole or not there. Sessions, and
// messages that wait, are not in it: they open what only their people may, and mean nothing once the copy is used.
func Backup(ctx context.Context, folder, out string) error {
	from := filepath.Join(folder, dataFile)
	if _, err := os.Stat(from); err != nil {
		return fmt.Errorf("there are no maps in the folder %s: %w", folder, cause(err))
	}
	if _, err := os.Stat(out); err == nil {
		return fmt.Errorf("%s is there already; choose another name", out)
	}
	part := out + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	defer os.Remove(part)
	// An empty file is written into as it is, with its mode (SQLite, VACUUM INTO).
	f, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("the copy was not made: %w", cause(err))
	}
	if err := f.Close(); err != nil {
		return err
	}
	db, err := sql.Open("sqlite", address(from, "_pragma=busy_timeout(30000)&mode=ro"))
	if err != nil {
		return err
	}
	defer db.Close()
	// Reads one state of the database, whatever is committed meanwhile.
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", part); err != nil {
		return fmt.Errorf("the copy was not made: %w", cause(err))
	}
	if err := withoutSecrets(ctx, part); err != nil {
		return fmt.Errorf("the copy was not made: %w", cause(err))
	}
	if err := soundCopy(part); err != nil {
		return fmt.Errorf("the copy is not sound: %w", err)
	}
	return settled(part, out)
}

// withoutSecrets takes sessions and the texts of messages out of a copy, so that no page of it holds them.
func withoutSecrets(ctx context.Context, file string) error {
	db, err := sql.Open("sqlite", address(file, "_pragma=journal_mode(MEMORY)&_pragma=secure_delete(1)"))
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	for _, statement := range []string{"DELETE FROM sessions",
		"DELETE FROM outbox WHERE due IS NOT NULL OR plain <> '' OR html <> '' OR items <> '[]'", "VACUUM"} {
		// A folder of an earlier program, which was not opened by this one yet, has other tables.
		if _, err := db.ExecContext(ctx, statement); err != nil && !strings.Contains(err.Error(), "no such") {
			return err
		}
	}
	return db.Close()
}

// Restore makes a data folder of a backup. The folder must not hold maps yet. It is left as it was where the backup is
// not what it has to be.
func Restore(in, folder string) (err error) {
	if err := soundCopy(in); err != nil {
		return fmt.Errorf("%s cannot be restored: %w", in, err)
	}
	to, lockPath := filepath.Join(folder, dataFile), filepath.Join(folder, lockFile)
	if _, err := os.Stat(to); err == nil {
		if lock, err := lockFolder(folder); err != nil { // a program is at work there
			return err
		} else if err := lock.Unlock(); err != nil {
			return err
		}
		return fmt.Errorf("the folder %s holds maps already; restore into another one, and begin with that", folder)
	}
	_, noFolder := os.Stat(folder)
	_, noLock := os.Stat(lockPath)
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return fmt.Errorf("the data folder %s cannot be made: %w", folder, cause(err))
	}
	lock, err := lockFolder(folder)
	if err != nil {
		return err
	}
	defer func() {
		err = errors.Join(err, lock.Unlock())
		if err != nil && noLock != nil {
			os.Remove(lockPath)
		}
		if err != nil && noFolder != nil {
			os.Remove(folder)
		}
	}()
	src, err := os.Open(in)
	if err != nil {
		return err
	}
	defer src.Close()
	part := to + ".part"
	dst, err := os.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return cause(err)
	}
	defer os.Remove(part)
	_, err = io.Copy(dst, src)
	if err = errors.Join(err, dst.Sync(), dst.Close()); err != nil {
		return fmt.Errorf("the maps were not restored: %w", cause(err))
	}
	if err := soundCopy(part); err != nil { // the file may have been changed since
		return fmt.Errorf("%s cannot be restored: %w", in, err)
	}
	return settled(part, to)
}

// settled moves a file to its place so that it outlasts the machine.
func settled(from, to string) error {
	if err := os.Rename(from, to); err != nil {
		return err
	}
	dir, err := os.Open(filepath.Dir(to))
	if err != nil {
		return err
	}
	defer dir.Close()
	return dir.Sync()
}

// soundCopy checks a database from elsewhere: that it is one of ours, no newer than this program, with the tables of
// its version and nothing beside them that would act on its own (triggers, views), and undamaged.
func soundCopy(file string) error {
	if _, err := os.Stat(file); err != nil {
		return cause(err)
	}
	db, err := sql.Open("sqlite",
		address(file, "mode=ro&immutable=1&_pragma=trusted_schema(0)&_pragma=cell_size_check(1)"))
	if err != nil {
		return err
	}
	defer db.Close()
	var version int
	if err := db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return errors.New("it is no backup of Plain Tracer")
	}
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	if version > len(files) {
		return fmt.Errorf("it is of version %d, written by a newer program; this one knows up to %d", version,
			len(files))
	}
	if version < 1 {
		return errors.New("it is no backup of Plain Tracer")
	}
	has, err := schemaOf(db)
	if err != nil {
		return errors.Join(errors.New("it is damaged"), err)
	}
	ought, err := schemaAt(version)
	if err != nil {
		return err
	}
	for what, how := range has {
		switch want, known := ought[what]; {
		case !known:
			return fmt.Errorf("it holds the %s, which is none of ours", what)
		case want != how:
			return fmt.Errorf("its %s is not as ours was in version %d", what, version)
		}
	}
	for what := range ought {
		if _, there := has[what]; !there {
			return fmt.Errorf("it lacks the %s: it is no backup of Plain Tracer, or not all of one", what)
		}
	}
	var said string
	if err := db.QueryRow("PRAGMA integrity_check(1)").Scan(&said); err != nil || said != "ok" {
		return errors.Join(errors.New("it is damaged"), err)
	}
	return nil
}

// schemaOf is what a database consists of, by kind and name, each with how it is made.
func schemaOf(db querier) (map[string]string, error) {
	out := map[string]string{}
	_, err := gather(db, func(scan scanner) (struct{}, error) {
		var kind, name, how string
		err := scan(&kind, &name, &how)
		out[kind+" "+name] = how
		return struct{}{}, err
	}, "SELECT type, name, coalesce(sql, '') FROM sqlite_master WHERE name NOT LIKE 'sqlite_stat%'")
	return out, err
}

// schemaAt is what a database of a version consists of.
func schemaAt(version int) (map[string]string, error) {
	w, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		return nil, err
	}
	defer w.Close()
	w.SetMaxOpenConns(1)
	s := newStore()
	s.db = &pool{w, w}
	if err := s.migrateTo(version); err != nil {
		return nil, err
	}
	return schemaOf(s.db)
}

// address returns how the driver names a database file.
func address(path, query string) string {
	u := url.URL{Scheme: "file", OmitHost: true, Path: path, RawQuery: query}
	if !filepath.IsAbs(path) {
		u = url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: query}
	}
	return u.String()
}
