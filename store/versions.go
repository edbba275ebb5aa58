package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

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

// Versions are the states of maps that are kept.
type Versions struct{ *database }

// Keep keeps a map as it is at a revision. A state that was kept is kept once; it gets a number when people are to see
// it.
func (s *Versions) Keep(of string, m *model.Map, revision int, k Keep) (Version, error) {
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
	err = s.transact(func(tx *sql.Tx) error {
		err := tx.QueryRow("SELECT id FROM versions WHERE map = ? AND revision = ?", of, revision).Scan(&id)
		switch {
		case errors.Is(err, sql.ErrNoRows):
			if err := keep(tx, contents); err != nil {
				return err
			}
			if _, err := tx.Exec(`INSERT INTO versions (id, map, revision, created, author, document, hash,
					reason) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
				id, of, revision, now(), k.Author, packed, hex.EncodeToString(sum[:]), ForLink); err != nil {
				return err
			}
		case err != nil:
			return err
		}
		if k.Reason == ForLink {
			return nil
		}
		if _, err := tx.Exec(`UPDATE versions SET
			number = CASE number WHEN 0 THEN (SELECT coalesce(max(number), 0) + 1 FROM versions WHERE map = ?)
				ELSE number END,
			name = CASE ? WHEN '' THEN name ELSE ? END, word = CASE ? WHEN '' THEN word ELSE ? END,
			reason = CASE WHEN reason = 'round' THEN reason ELSE ? END,
			created = CASE number WHEN 0 THEN ? ELSE created END, author = CASE number WHEN 0 THEN ? ELSE author END,
			hash = ? WHERE id = ?`, of, k.Name, k.Name, k.Word, k.Word, k.Reason, now(), k.Author,
			hex.EncodeToString(sum[:]), id); err != nil {
			return err
		}
		for i, sheet := range sheets {
			if _, err := tx.Exec(`INSERT INTO version_sheets (version, place, sheet, name, picture) VALUES (?,
					?, ?, ?, ?) ON CONFLICT DO NOTHING`, id, i, sheet.Sheet, sheet.Name, sheet.Picture); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Version{}, err
	}
	v, _, err := s.Get(id)
	return v, err
}

const versionColumns = "id, map, revision, number, created, author, name, word, reason, hash"

func scanVersion(scan scanner, more ...any) (v Version, err error) {
	var created int64
	err = scan(append([]any{&v.ID, &v.Map, &v.Revision, &v.Number, &created, &v.Author, &v.Name, &v.Word, &v.Reason,
		&v.Hash}, more...)...)
	v.Created = time.UnixMilli(created)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return v, err
}

// Get returns a version with the map as it was.
func (s *Versions) Get(id string) (Version, *model.Map, error) {
	var packed []byte
	v, err := scanVersion(s.db.QueryRow("SELECT "+versionColumns+", document FROM versions WHERE id = ?", id).Scan,
		&packed)
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

// Of are those of a map that people see, the latest first.
func (s *Versions) Of(id string) (list []Version, err error) {
	return gather(s.db, func(scan scanner) (Version, error) { return scanVersion(scan) },
		"SELECT "+versionColumns+" FROM versions WHERE map = ? AND number > 0 ORDER BY number DESC", id)
}

// Sheets are the sheets of a version as they looked, without their pictures.
func (s *Versions) Sheets(id string) (list []VersionSheet, err error) {
	return gather(s.db, func(scan scanner) (one VersionSheet, err error) {
		err = scan(&one.Sheet, &one.Name)
		return one, err
	}, "SELECT sheet, name FROM version_sheets WHERE version = ? ORDER BY place", id)
}

// Picture is what a sheet of a version looked like.
func (s *Versions) Picture(id, sheet string) (picture []byte, err error) {
	err = s.db.QueryRow("SELECT picture FROM version_sheets WHERE version = ? AND sheet = ?", id, sheet).Scan(&picture)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return picture, err
}
