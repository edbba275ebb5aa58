package store

import (
	"database/sql"
	"testing"
	"time"
)

// Fill lets the database grow no further, as on a full disk.
func (s *Store) Fill(t testing.TB) { s.pages(t, "1") } // never less than there are

// Room lets it grow again.
func (s *Store) Room(t testing.TB) { s.pages(t, "1073741823") }

func (s *Store) pages(t testing.TB, most string) {
	t.Helper()
	if _, err := s.db.Exec("PRAGMA max_page_count = " + most); err != nil {
		t.Fatal(err)
	}
}

// LetGo lets all maps go that nobody follows.
func (s *Store) LetGo() { s.letGo(time.Now().Add(time.Hour)) }

// Held reports whether the state of a map is in memory.
func (s *Store) Held(id string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.open[id] != nil && s.open[id].m != nil
}

// Hold holds a map as one that is being read does, until it is let go.
func (d *Document) Hold() (letGo func()) {
	d.mu.Lock()
	return d.mu.Unlock
}

// CommitTogether commits something with others that come at the same time.
func (s *Store) CommitTogether(do func(tx *sql.Tx) error) error { return s.commitTogether(do) }

// Transactions is how many there were.
func (s *Store) Transactions() int64 { return s.committed.Load() }
