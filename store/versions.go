package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// Why a version was kept.
const (
	ForLink  = "link"  // a link that shows this state
	ByHand   = "hand"  // somebody wanted it
	ForRound = "round" // it is reviewed
	Before   = "before"
)

// Version is a state of a map that is kept as it was. It does not change, and goes only with its map.
type Version struct {
	ID, Map  string
	Revision int
	// Number counts the versions of the map that people see, from 1; zero for one that was kept for a link.
	Number  int
	Created time.Time
	// Author is who kept it, Name and Word what they called it and said of it, Reason why it was kept.
	Author, Name, Word, Reason string
	// Hash is the SHA-256 of the map as it is kept, in hexadecimal digits.
	Hash string
}

// Title is what a version is called.
func (v *Version) Title() string {
	if v.Number == 0 {
		return "the state of " + v.Created.Format("2 January 2006, 15:04")
	}
	if v.Name == "" {
		return fmt.Sprintf("Version %d", v.Number)
	}
	return fmt.Sprintf("Version %d, %s", v.Number, v.Name)
}

// VersionSheet is what a sheet of a version looked like when it was kept: an SVG picture, compressed.
type VersionSheet struct {
	Sheet, Name string
	Picture     []byte
}

// Keep is how a version is kept.
type Keep struct {
	Author, Name, Word, Reason string
	// Draw draws the sheets of the map; nil where the version is not shown to people.
	Draw func(m *model.Map) ([]VersionSheet, error)
}

// KeepVersion keeps the map as it is now for a link and returns the id of the version. The same state is kept once.
func (d *Document) KeepVersion(author string) (string, error) {
	v, err := d.KeepAs(Keep{Author: author, Reason: ForLink})
	return v.ID, err
}

// KeepAs keeps the map as it is now. A state that was kept is kept once; it gets a number when people are to see it.
func (d *Document) KeepAs(k Keep) (Version, error) {
	m, revision := d.Snapshot()
	raw, err := json.Marshal(m)
	if err != nil {
		return Version{}, err
	}
	var sheets []VersionSheet
	if k.Draw != nil {
		if sheets, err = k.Draw(m); err != nil {
			return Version{}, err
		}
	}
	sum := sha256.Sum256(raw)
	packed, contents := pack(raw)
	id := token(10)
	err = d.store.transact(func(tx *sql.Tx) error {
		err := tx.QueryRow("SELECT id FROM versions WHERE map = ? AND revision = ?", d.ID, revision).Scan(&id)
		switch {
		case errors.Is(err, sql.ErrNoRows):
			if err := keep(tx, contents); err != nil {
				return err
			}
			if _, err := tx.Exec("INSERT INTO versions (id, map, revision, created, author, document, hash, reason) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
				id, d.ID, revision, now(), k.Author, packed, hex.EncodeToString(sum[:]), ForLink); err != nil {
				return err
			}
		case err != nil:
			return err
		}
		if k.Reason == ForLink {
			return nil
		}
		if _, err := tx.Exec(`UPDATE versions SET number = CASE number WHEN 0 THEN (SELECT coalesce(max(number), 0) + 1 FROM versions WHERE map = ?) ELSE number END,
			name = CASE ? WHEN '' THEN name ELSE ? END, word = CASE ? WHEN '' THEN word ELSE ? END,
			reason = CASE WHEN reason = 'round' THEN reason ELSE ? END, created = CASE number WHEN 0 THEN ? ELSE created END, author = CASE number WHEN 0 THEN ? ELSE author END,
			hash = ? WHERE id = ?`, d.ID, k.Name, k.Name, k.Word, k.Word, k.Reason, now(), k.Author, hex.EncodeToString(sum[:]), id); err != nil {
			return err
		}
		for i, s := range sheets {
			if _, err := tx.Exec("INSERT INTO version_sheets (version, place, sheet, name, picture) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING", id, i, s.Sheet, s.Name, s.Picture); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Version{}, err
	}
	v, _, err := d.store.Version(id)
	return v, err
}

const versionColumns = "id, map, revision, number, created, author, name, word, reason, hash"

func scanVersion(scan scanner, more ...any) (v Version, err error) {
	var created int64
	err = scan(append([]any{&v.ID, &v.Map, &v.Revision, &v.Number, &created, &v.Author, &v.Name, &v.Word, &v.Reason, &v.Hash}, more...)...)
	v.Created = time.UnixMilli(created)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return v, err
}

// Version returns a version with the map as it was.
func (s *Store) Version(id string) (Version, *model.Map, error) {
	var packed []byte
	v, err := scanVersion(s.db.QueryRow("SELECT "+versionColumns+", document FROM versions WHERE id = ?", id).Scan, &packed)
	if err != nil {
		return v, nil, err
	}
	raw, err := unpack(packed, content(s.db))
	if err != nil {
		return v, nil, err
	}
	m, err := model.ReadMap(raw)
	if err != nil {
		return v, nil, fmt.Errorf("version %s: %w", id, err)
	}
	return v, m, nil
}

// Versions are those of a map that people see, the latest first.
func (s *Store) Versions(id string) (list []Version, err error) {
	return gather(s.db, func(scan scanner) (Version, error) { return scanVersion(scan) }, "SELECT "+versionColumns+" FROM versions WHERE map = ? AND number > 0 ORDER BY number DESC", id)
}

// VersionSheets are the sheets of a version as they looked, without their pictures.
func (s *Store) VersionSheets(id string) (list []VersionSheet, err error) {
	return gather(s.db, func(scan scanner) (one VersionSheet, err error) {
		err = scan(&one.Sheet, &one.Name)
		return one, err
	}, "SELECT sheet, name FROM version_sheets WHERE version = ? ORDER BY place", id)
}

// VersionPicture is what a sheet of a version looked like.
func (s *Store) VersionPicture(id, sheet string) (picture []byte, err error) {
	err = s.db.QueryRow("SELECT picture FROM version_sheets WHERE version = ? AND sheet = ?", id, sheet).Scan(&picture)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return picture, err
}

// Deed is an entry of a map's log as the history tells it.
type Deed struct {
	Revision int
	At       time.Time
	Author   string
	Window   string
	Edit     edit.Edit
}

// Deeds are the entries of a map's log before a revision, the latest first, at most so many. What cannot be read is left
// out.
func (d *Document) Deeds(before, most int) (list []Deed, err error) {
	rows, err := d.store.db.Query("SELECT revision, at, author, window, edit FROM edits WHERE map = ? AND revision < ? ORDER BY revision DESC LIMIT ?", d.ID, before, most)
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
		e, err := decode(one.edit, content(d.store.db))
		if err != nil {
			continue
		}
		one.Edit = e.Edit
		list = append(list, one.Deed)
	}
	return list, nil
}

// At returns the map as it was at a revision.
func (d *Document) At(revision int) (*model.Map, error) {
	s, err := d.rebuild(false, revision)
	if err != nil {
		return nil, err
	}
	if s.fault != nil || s.revision != revision {
		return nil, ErrNotFound
	}
	return s.m, nil
}
