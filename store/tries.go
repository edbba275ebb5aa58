package store

import (
	"database/sql"
	"errors"
	"time"
)

// Tries are how often something was tried in vain, such as a password.
type Tries struct {
	Failures int
	// Next is when it may be tried again, Last when it was tried last.
	Next, Last time.Time
}

// Attempts are the tries to come in that are counted.
type Attempts struct{ *database }

// Keep keeps tries, by what they count against; none of it are forgotten. Only a hash of what is kept.
func (s *Attempts) Keep(what string, t Tries) error {
	if s.readOnly != "" {
		return nil
	}
	if t.Failures == 0 {
		_, err := s.db.Exec("DELETE FROM tries WHERE what = ?", hashed(what))
		return err
	}
	_, err := s.db.Exec(`INSERT INTO tries (what, failures, next, last) VALUES (?, ?, ?, ?) ON CONFLICT DO
			UPDATE SET failures = excluded.failures, next = excluded.next, last = excluded.last`,
		hashed(what), t.Failures, t.Next.UnixMilli(), t.Last.UnixMilli())
	return err
}

// Of are those that were kept; none where nothing is known.
func (s *Attempts) Of(what string) (t Tries, err error) {
	var next, last int64
	err = s.db.QueryRow("SELECT failures, next, last FROM tries WHERE what = ?", hashed(what)).Scan(&t.Failures, &next,
		&last)
	if errors.Is(err, sql.ErrNoRows) {
		return Tries{}, nil
	}
	t.Next, t.Last = time.UnixMilli(next), time.UnixMilli(last)
	return t, err
}

// Forget forgets those that were made before a time.
func (s *Attempts) Forget(before time.Time) error {
	_, err := s.db.Exec("DELETE FROM tries WHERE last < ?", before.UnixMilli())
	return err
}
