package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"plaintracer/core/diagram"
)

// Version is a state of a map that is kept as it was.
type Version struct {
	ID, Map  string
	Revision int
	Created  time.Time
	// Author is who kept it.
	Author string
}

// KeepVersion keeps the map as it is now and returns the id of the version. The same state is kept once.
func (d *Document) KeepVersion(author string) (string, error) {
	m, revision := d.Snapshot()
	raw, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	packed, contents := pack(raw)
	id := token(10)
	return id, d.store.transact(func(tx *sql.Tx) error {
		err := tx.QueryRow("SELECT id FROM versions WHERE map = ? AND revision = ?", d.ID, revision).Scan(&id)
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if err := keep(tx, contents); err != nil {
			return err
		}
		_, err = tx.Exec("INSERT INTO versions (id, map, revision, created, author, document) VALUES (?, ?, ?, ?, ?, ?)", id, d.ID, revision, now(), author, packed)
		return err
	})
}

// Version returns a version with the map as it was.
func (s *Store) Version(id string) (Version, *diagram.Map, error) {
	v := Version{ID: id}
	var created int64
	var packed []byte
	err := s.db.QueryRow("SELECT map, revision, created, author, document FROM versions WHERE id = ?", id).Scan(&v.Map, &v.Revision, &created, &v.Author, &packed)
	if errors.Is(err, sql.ErrNoRows) {
		return v, nil, ErrNotFound
	}
	if err != nil {
		return v, nil, err
	}
	v.Created = time.UnixMilli(created)
	raw, err := unpack(packed, content(s.db))
	if err != nil {
		return v, nil, err
	}
	m := new(diagram.Map)
	if err := json.Unmarshal(raw, m); err != nil {
		return v, nil, fmt.Errorf("version %s: %w", id, err)
	}
	return v, m, nil
}
