package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"time"
)

// Letter is a message to somebody, as it is kept until it is sent or given up.
type Letter struct {
	N                        int64
	At                       time.Time
	To, Subject, Plain, HTML string
	// Kind is what it is, About what it is about: those of one kind to one person about one thing are gathered in one.
	Kind, About string
	// Items are what it tells of, the latest last, each what its text is made of.
	Items []json.RawMessage
	// Picture is one that goes with it, as PNG; nil for none.
	Picture []byte
	// Due is when it is to be sent; zero where it was sent or given up. After Until it is of no use.
	Due, Until time.Time
	Tries      int
	// Sent is when it was sent, Failed why not.
	Sent   time.Time
	Failed string
}

// Waits reports whether it is still to be sent.
func (l *Letter) Waits() bool { return !l.Due.IsZero() }

const letterColumns = "n, at, receiver, subject, plain, html, kind, about, items, due, until, tries, sent, failed, picture"

func scanLetter(scan scanner) (l Letter, err error) {
	var at, until int64
	var due, sent sql.NullInt64
	var items string
	err = scan(&l.N, &at, &l.To, &l.Subject, &l.Plain, &l.HTML, &l.Kind, &l.About, &items, &due, &until, &l.Tries,
		&sent, &l.Failed, &l.Picture)
	if err == nil {
		err = json.Unmarshal([]byte(items), &l.Items)
	}
	l.At, l.Due, l.Until, l.Sent = time.UnixMilli(at), timeOf(due), time.UnixMilli(until), timeOf(sent)
	return l, err
}

// mostItems is how many things a message tells of; the earliest are left out.
const mostItems = 50

// Letters are the messages that are to be sent, and those that were.
type Letters struct{ *database }

// Post keeps a message to be sent, whose text is written of its items. Where one of its kind to the same person about
// the same thing still waits, it is added to that; where one was sent less than a pause ago, it waits until the pause
// is over. A message about nothing goes by itself.
func (s *Letters) Post(l Letter, pause time.Duration, write func(l *Letter) error) error {
	return s.transact(func(tx *sql.Tx) error {
		l.At, l.Due = time.Now(), time.Now()
		if l.About != "" {
			waiting, err := scanLetter(tx.QueryRow("SELECT "+letterColumns+
				" FROM outbox WHERE receiver = ? AND kind = ? AND about = ? AND due IS NOT NULL"+
				" ORDER BY n DESC LIMIT 1",
				l.To, l.Kind, l.About).Scan)
			switch {
			case err == nil:
				waiting.Items = append(waiting.Items, l.Items...)
				waiting.Items = waiting.Items[max(len(waiting.Items)-mostItems, 0):]
				waiting.Until = l.Until
				if err := write(&waiting); err != nil {
					return err
				}
				items, err := json.Marshal(waiting.Items)
				if err != nil {
					return err
				}
				_, err = tx.Exec("UPDATE outbox SET subject = ?, plain = ?, html = ?, items = ?, until = ? WHERE n = ?",
					waiting.Subject, waiting.Plain, waiting.HTML, string(items), waiting.Until.UnixMilli(), waiting.N)
				return err
			case !errors.Is(err, sql.ErrNoRows):
				return err
			}
			var last sql.NullInt64
			if err := tx.QueryRow("SELECT max(sent) FROM outbox WHERE receiver = ? AND kind = ? AND about = ?", l.To,
				l.Kind, l.About).Scan(&last); err != nil {
				return err
			}
			if next := timeOf(last).Add(pause); last.Valid && next.After(l.Due) {
				l.Due = next
			}
		}
		if err := write(&l); err != nil {
			return err
		}
		items, err := json.Marshal(l.Items)
		if err != nil {
			return err
		}
		_, err = tx.Exec(`INSERT INTO outbox (at, receiver, subject, plain, html, kind, about, items, due,
				until, picture) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			l.At.UnixMilli(), l.To, l.Subject, l.Plain, l.HTML, l.Kind, l.About, string(items), l.Due.UnixMilli(),
			l.Until.UnixMilli(), l.Picture)
		return err
	})
}

// Due are messages that are to be sent by a time, at most so many, and when the next one after them is; zero for none.
func (s *Letters) Due(at time.Time, most int) (list []Letter, next time.Time, err error) {
	list, err = gather(s.db, scanLetter, "SELECT "+letterColumns+" FROM outbox WHERE due <= ? ORDER BY due LIMIT ?",
		at.UnixMilli(), most)
	if err != nil {
		return nil, time.Time{}, err
	}
	var then sql.NullInt64
	err = s.db.QueryRow("SELECT min(due) FROM outbox WHERE due > ?", at.UnixMilli()).Scan(&then)
	return list, timeOf(then), err
}

// Sent notes that a message was sent. Its text, which may open what only its receiver may, is not kept.
func (s *Letters) Sent(n int64) error {
	_, err := s.db.Exec("UPDATE outbox SET due = NULL, sent = ?, plain = '', html = '', items = '[]', picture = NULL WHERE n = ?",
		now(), n)
	return err
}

// Later notes that a message could not be sent, and when it is to be tried again.
func (s *Letters) Later(n int64, why string, next time.Time) error {
	_, err := s.db.Exec("UPDATE outbox SET due = ?, tries = tries + 1, failed = ? WHERE n = ?", next.UnixMilli(), why,
		n)
	return err
}

// GiveUp notes that a message will not be sent, and why.
func (s *Letters) GiveUp(n int64, why string) error {
	_, err := s.db.Exec(`UPDATE outbox SET due = NULL, tries = tries + 1, failed = ?, plain = '', html = '',
			items = '[]', picture = NULL WHERE n = ?`, why, n)
	return err
}

// Drop takes out a message that says nothing any more.
func (s *Letters) Drop(n int64) error {
	_, err := s.db.Exec("DELETE FROM outbox WHERE n = ?", n)
	return err
}

// keptLetters is how many messages are listed that were sent or given up; those that wait are all.
const keptLetters = 500

// Tidy takes the texts out of messages that are of no use any more, and the oldest ones that are over out of the list.
func (s *Letters) Tidy(at time.Time) error {
	return s.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec(`UPDATE outbox SET due = NULL, plain = '', html = '', items = '[]', picture = NULL, failed =
				'its time had passed' WHERE until < ? AND sent IS NULL AND (due IS NOT NULL OR plain <> '')`,
			at.UnixMilli()); err != nil {
			return err
		}
		_, err := tx.Exec(`DELETE FROM outbox WHERE due IS NULL AND n <= (SELECT n FROM outbox WHERE due IS NULL
				ORDER BY n DESC LIMIT 1 OFFSET ?)`, keptLetters)
		return err
	})
}

// GivenUp is how many messages were given up since a time.
func (s *Letters) GivenUp(since time.Time) (n int, err error) {
	err = s.db.QueryRow("SELECT count(*) FROM outbox WHERE due IS NULL AND sent IS NULL AND failed <> '' AND at > ?",
		since.UnixMilli()).Scan(&n)
	return n, err
}

// shownLetters is how many messages the list shows.
const shownLetters = 500

// Outbox are the messages in it, the latest first.
func (s *Letters) Outbox() ([]Letter, error) {
	return gather(s.db, scanLetter, "SELECT "+letterColumns+" FROM outbox ORDER BY n DESC LIMIT ?", shownLetters)
}
