package store

import (
	"database/sql"
	"testing"
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

// CommitTogether commits something with others that come at the same time.
func (s *Store) CommitTogether(do func(tx *sql.Tx) error) error { return s.commitTogether(do) }

// Transactions is how many there were.
func (s *Store) Transactions() int64 { return s.committed.Load() }
