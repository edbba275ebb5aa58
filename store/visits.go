package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"plaintracer/core/model"
)

// Thumbnails are small pictures of maps.
type Thumbnails struct{ *database }

// Get returns the small picture of a map as of a revision, as it was kept; nil for none.
func (s *Thumbnails) Get(id string, revision int) (picture []byte, err error) {
	err = s.db.QueryRow("SELECT picture FROM thumbnails WHERE map = ? AND revision = ?", id, revision).Scan(&picture)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return picture, err
}

// Keep keeps the small picture of a map as of a revision, in place of an earlier one.
func (s *Thumbnails) Keep(id string, revision int, picture []byte) error {
	_, err := s.db.Exec(`INSERT INTO thumbnails (map, revision, picture) VALUES (?, ?, ?) ON CONFLICT DO UPDATE
			SET revision = excluded.revision, picture = excluded.picture WHERE revision < excluded.revision`,
		id, revision, picture)
	return err
}

// Arrangement is how a person has arranged the pages of the organisation, and what they begin maps with: names and
// values.
func (s *Visits) Arrangement(person string) (map[string]string, error) {
	var raw string
	if err := s.db.QueryRow("SELECT arrangement FROM people WHERE id = ?", person).Scan(&raw); err != nil {
		return nil, err
	}
	out := map[string]string{}
	if json.Unmarshal([]byte(raw), &out) != nil {
		return map[string]string{}, nil
	}
	return out, nil
}

// Arrange keeps values of a person's arrangement beside the others.
func (s *Visits) Arrange(person string, values map[string]string) error {
	return s.transact(func(tx *sql.Tx) error {
		patch, err := json.Marshal(values)
		if err != nil {
			return err
		}
		_, err = tx.Exec("UPDATE people SET arrangement = json_patch(arrangement, ?) WHERE id = ?", string(patch),
			person)
		return err
	})
}

// Start is a map of the organisation that others begin from.
type Start struct {
	ID, Title, About, Owner string
	Created                 time.Time
}

// Starts are the maps of the organisation to begin from.
type Starts struct{ *database }

// List are those of the organisation, by their titles.
func (s *Starts) List() ([]Start, error) {
	return gather(s.db, func(scan scanner) (one Start, err error) {
		var created int64
		err = scan(&one.ID, &one.Title, &one.About, &one.Owner, &created)
		one.Created = time.UnixMilli(created)
		return one, err
	}, "SELECT id, title, about, owner, created FROM starts ORDER BY title, id")
}

// Add keeps a copy of a map to begin others from.
func (s *Starts) Add(m *model.Map, about, owner string) (string, error) {
	raw, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	packed, contents := pack(raw)
	id := token(10)
	return id, s.transact(func(tx *sql.Tx) error {
		if err := keep(tx, contents); err != nil {
			return err
		}
		_, err := tx.Exec("INSERT INTO starts (id, title, about, owner, created, document) VALUES (?, ?, ?, ?, ?, ?)",
			id, m.Title, about, owner, now(), packed)
		return err
	})
}

// Get returns the map of one.
func (s *Starts) Get(id string) (*model.Map, error) {
	var packed []byte
	err := s.db.QueryRow("SELECT document FROM starts WHERE id = ?", id).Scan(&packed)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	raw, err := unpack(packed, content(s.db))
	if err != nil {
		return nil, err
	}
	return model.ReadMap(raw)
}

// Remove removes one; owner is whose it has to be, or empty for anybody's.
func (s *Starts) Remove(id, owner string) error {
	return found(s.db.Exec("DELETE FROM starts WHERE id = ? AND (? = '' OR owner = ?)", id, owner, owner))
}
