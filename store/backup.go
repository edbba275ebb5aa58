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
)

// Backup writes a copy of the maps of a folder, as they are at one moment, to a file. A program may be working on the
// folder: it is not held up. The file must not be there yet; it is whole or not there.
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
	db, err := sql.Open("sqlite", address(from, "_pragma=busy_timeout(30000)&mode=ro"))
	if err != nil {
		return err
	}
	defer db.Close()
	// Reads one state of the database, whatever is committed meanwhile (SQLite, VACUUM INTO).
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", part); err != nil {
		return fmt.Errorf("the copy was not made: %w", cause(err))
	}
	if err := soundCopy(part); err != nil {
		return fmt.Errorf("the copy is not sound: %w", err)
	}
	return settled(part, out)
}

// Restore makes a data folder of a backup. The folder must not hold maps yet.
func Restore(in, folder string) error {
	if err := soundCopy(in); err != nil {
		return fmt.Errorf("%s cannot be restored: %w", in, err)
	}
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return fmt.Errorf("the data folder %s cannot be made: %w", folder, cause(err))
	}
	lock, err := hold(folder)
	if err != nil {
		return err
	}
	defer lock.Unlock()
	to := filepath.Join(folder, dataFile)
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("the folder %s holds maps already; restore into another one, and begin with that", folder)
	}
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

// soundCopy checks a database from elsewhere: that it is one of ours, no newer than this program, and undamaged.
func soundCopy(file string) error {
	if _, err := os.Stat(file); err != nil {
		return cause(err)
	}
	db, err := sql.Open("sqlite", address(file, "mode=ro&immutable=1"))
	if err != nil {
		return err
	}
	defer db.Close()
	var version, tables int
	if err := db.QueryRow("PRAGMA user_version").Scan(&version); err != nil {
		return errors.New("it is no backup of Plain Tracer")
	}
	if err := db.QueryRow("SELECT count(*) FROM sqlite_master WHERE name IN ('maps', 'edits', 'snapshots')").Scan(&tables); err != nil || tables != 3 {
		return errors.New("it is no backup of Plain Tracer")
	}
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		return err
	}
	if version > len(files) {
		return fmt.Errorf("it is of version %d, written by a newer program; this one knows up to %d", version, len(files))
	}
	var said string
	if err := db.QueryRow("PRAGMA integrity_check(1)").Scan(&said); err != nil || said != "ok" {
		return errors.Join(errors.New("it is damaged"), err)
	}
	return nil
}

// address returns how the driver names a database file.
func address(path, query string) string {
	u := url.URL{Scheme: "file", OmitHost: true, Path: path, RawQuery: query}
	if !filepath.IsAbs(path) {
		u = url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: query}
	}
	return u.String()
}
