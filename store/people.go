package store

import (
	"crypto/subtle"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"plaintracer/account"
)

// ErrTaken is returned for an address or name that is in use.
var ErrTaken = errors.New("taken")

// ErrLastOwner is returned where a house would be left without an owner.
var ErrLastOwner = errors.New("the organisation needs an administrator")

// NewPerson is what a person begins with.
type NewPerson struct {
	Name, Email string
	Role        account.Role
	// Password is its hash; empty for none yet. Subject names the person in the organisation's directory, where there
	// is one.
	Password, Subject string
}

// People are those who have an account.
type People struct {
	*database
	first sync.Mutex // lets one be the first person
}

// Add adds a person to the organisation and returns their id. The first one becomes the owner of all maps there are.
func (s *People) Add(p NewPerson) (string, error) {
	written, folded, err := account.Address(p.Email)
	if err != nil {
		return "", err
	}
	id := token(10)
	return id, s.transact(func(tx *sql.Tx) error {
		var taken, all int
		if err := tx.QueryRow("SELECT coalesce(sum(address = ?), 0), count(*) FROM people", folded).Scan(&taken,
			&all); err != nil {
			return err
		}
		if taken > 0 {
			return ErrTaken
		}
		if _, err := tx.Exec(`INSERT INTO people (id, name, email, address, role, password, subject, created)
				VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
			id, p.Name, written, folded, p.Role, p.Password, sql.NullString{String: p.Subject, Valid: p.Subject != ""},
			now()); err != nil {
			return err
		}
		if all == 0 {
			_, err := tx.Exec("UPDATE maps SET owner = ? WHERE owner IS NULL", id)
			return err
		}
		return nil
	})
}

// AddFirst adds the first person of the organisation, its owner. Once there is somebody it returns ErrTaken.
func (s *People) AddFirst(p NewPerson) (string, error) {
	s.first.Lock()
	defer s.first.Unlock()
	if some, err := s.Any(); err != nil || some {
		return "", errors.Join(err, ErrTaken)
	}
	p.Role = account.Owner
	return s.Add(p)
}

// Any reports whether there is anybody in the organisation.
func (s *People) Any() (some bool, err error) {
	err = s.db.QueryRow("SELECT EXISTS (SELECT 1 FROM people)").Scan(&some)
	return some, err
}

const personColumns = "p.id, p.name, p.email, p.role, p.created, p.seen, p.off, p.password, p.subject, p.factor <> ''"

func scanPerson(scan func(...any) error, more ...any) (p account.Person, password string, err error) {
	var created int64
	var seen, off sql.NullInt64
	var subject sql.NullString
	err = scan(append([]any{&p.ID, &p.Name, &p.Email, &p.Role, &created, &seen, &off, &password, &subject, &p.Second},
		more...)...)
	p.Created, p.Seen, p.Off = time.UnixMilli(created), timeOf(seen), timeOf(off)
	p.Locked, p.Directory = password != "", subject.Valid
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return p, password, err
}

// List are all of the organisation, by their names.
func (s *People) List() ([]account.Person, error) {
	list, err := gather(s.db, func(scan scanner) (account.Person, error) {
		p, _, err := scanPerson(scan)
		return p, err
	}, "SELECT "+personColumns+" FROM people p")
	account.Sort(list)
	return list, err
}

// Get returns a person by their id.
func (s *People) Get(id string) (account.Person, error) {
	p, _, err := scanPerson(s.db.QueryRow("SELECT "+personColumns+" FROM people p WHERE id = ?", id).Scan)
	return p, err
}

// ByMail returns the person with an address for mail, and the hash of their password.
func (s *People) ByMail(email string) (account.Person, string, error) {
	_, folded, err := account.Address(email)
	if err != nil {
		return account.Person{}, "", ErrNotFound
	}
	return scanPerson(s.db.QueryRow("SELECT "+personColumns+" FROM people p WHERE address = ?", folded).Scan)
}

// BySubject returns the person whom the organisation's directory calls by a subject.
func (s *People) BySubject(subject string) (account.Person, error) {
	p, _, err := scanPerson(s.db.QueryRow("SELECT "+personColumns+" FROM people p WHERE subject = ?", subject).Scan)
	return p, err
}

// Password returns the hash of a person's password; empty for none.
func (s *People) Password(id string) (hash string, err error) {
	err = s.db.QueryRow("SELECT password FROM people WHERE id = ?", id).Scan(&hash)
	return hash, err
}

// Factor returns the secret of a person's second factor; empty for none.
func (s *People) Factor(id string) (secret string, err error) {
	err = s.db.QueryRow("SELECT factor FROM people WHERE id = ?", id).Scan(&secret)
	return secret, err
}

// SetFactor gives a person a second factor, with words that stand in for it once each; none where secret is empty. The
// step is that of the code by which they showed to have it.
func (s *People) SetFactor(id, secret string, step int64, spares []string) error {
	var hashes []string
	for _, word := range spares {
		hashes = append(hashes, hex.EncodeToString(hashed(account.PlainSpare(word))))
	}
	return found(s.db.Exec("UPDATE people SET factor = ?, factor_step = ?, spares = ? WHERE id = ?", secret, step,
		strings.Join(hashes, " "), id))
}

// UseStep notes that the code of a step was used. It reports false where that or a later one was used before.
func (s *People) UseStep(id string, step int64) (bool, error) {
	err := found(s.db.Exec("UPDATE people SET factor_step = ? WHERE id = ? AND factor <> '' AND factor_step < ?", step,
		id, step))
	if errors.Is(err, ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

// UseSpare takes a word that stands in for the second factor. It is good once.
func (s *People) UseSpare(id, word string) (good bool, err error) {
	sum := hex.EncodeToString(hashed(account.PlainSpare(word)))
	return good, s.transact(func(tx *sql.Tx) error {
		var list string
		if err := tx.QueryRow("SELECT spares FROM people WHERE id = ?", id).Scan(&list); err != nil {
			return err
		}
		left := slices.DeleteFunc(strings.Fields(list),
			func(one string) bool { return subtle.ConstantTimeCompare([]byte(one), []byte(sum)) == 1 })
		if good = len(left) < len(strings.Fields(list)); !good {
			return nil
		}
		_, err := tx.Exec("UPDATE people SET spares = ? WHERE id = ?", strings.Join(left, " "), id)
		return err
	})
}

// SetSubject notes how the organisation's directory calls a person.
func (s *People) SetSubject(id, subject string) error {
	return found(s.db.Exec("UPDATE people SET subject = ? WHERE id = ?", subject, id))
}

// SetName gives a person another name.
func (s *People) SetName(id, name string) error {
	return found(s.db.Exec("UPDATE people SET name = ? WHERE id = ?", name, id))
}

// SetPassword gives a person another password, by its hash, and ends all their sessions but the one of a token.
func (s *People) SetPassword(id, hash, but string) error {
	return s.all.Sessions.tell(id, s.transact(func(tx *sql.Tx) error {
		if err := found(tx.Exec("UPDATE people SET password = ? WHERE id = ?", hash, id)); err != nil {
			return err
		}
		if _, err := tx.Exec("DELETE FROM tickets WHERE person = ?", id); err != nil {
			return err
		}
		_, err := tx.Exec("DELETE FROM sessions WHERE person = ? AND hash <> ?", id, hashed(but))
		return err
	}))
}

// SetRole makes a person an administrator, or not.
func (s *People) SetRole(id string, role account.Role) error {
	return s.transact(func(tx *sql.Tx) error {
		if err := found(tx.Exec("UPDATE people SET role = ? WHERE id = ?", role, id)); err != nil {
			return err
		}
		return owned(tx)
	})
}

// SetOff switches a person off, which ends their sessions, or on again.
func (s *People) SetOff(id string, off bool) error {
	return s.all.Sessions.tell(id, s.transact(func(tx *sql.Tx) error {
		var at sql.NullInt64
		if off {
			at = sql.NullInt64{Int64: now(), Valid: true}
		}
		if err := found(tx.Exec("UPDATE people SET off = ? WHERE id = ?", at, id)); err != nil {
			return err
		}
		for _, what := range []string{"sessions", "tickets"} {
			if _, err := tx.Exec("DELETE FROM "+what+" WHERE person = ?", id); err != nil {
				return err
			}
		}
		return owned(tx)
	}))
}

func owned(tx *sql.Tx) error {
	var n int
	if err := tx.QueryRow("SELECT count(*) FROM people WHERE role = ? AND off IS NULL",
		account.Owner).Scan(&n); err != nil {
		return err
	}
	if n == 0 {
		return ErrLastOwner
	}
	return nil
}

// HandOver makes one person the owner of all maps and folders of another, and returns how many maps that are.
func (s *People) HandOver(from, to string) (maps int64, err error) {
	defer s.all.Folders.rulesChanged()
	return maps, s.transact(func(tx *sql.Tx) error {
		if err := found(tx.Exec("UPDATE people SET id = id WHERE id = ? AND off IS NULL", to)); err != nil {
			return err
		}
		r, err := tx.Exec("UPDATE maps SET owner = ? WHERE owner = ?", to, from)
		if err != nil {
			return err
		}
		maps, _ = r.RowsAffected()
		// At the top two folders of one name may meet.
		if _, err := tx.Exec(`UPDATE folders SET name = name || ' ' || id, folded = folded || ' ' || lower(id) WHERE owner = ? AND parent IS NULL
			AND folded IN (SELECT folded FROM folders WHERE owner = ? AND parent IS NULL)`, from, to); err != nil {
			return err
		}
		_, err = tx.Exec("UPDATE folders SET owner = ? WHERE owner = ?", to, from)
		return err
	})
}

// How long a session lasts: unused, and in all (OWASP ASVS 4.0.3, 3.3.2: 30 days at most).
const (
	sessionIdle = 7 * 24 * time.Hour
	sessionAge  = 30 * 24 * time.Hour
)

// Session is a browser in which somebody is signed in.
type Session struct {
	Person        account.Person
	Created, Used time.Time
	About         string
	// This says that it is the one that asks.
	This bool
}

// Sessions are the browsers in which people are signed in, and the tickets by which they come to a new password.
type Sessions struct {
	*database
	// Ended is told that sessions of a person have ended before their time; it may be nil.
	Ended func(person string)
}

// Begin begins a session of a person and returns its token. About says what kind of browser it is in.
func (s *Sessions) Begin(person, about string) (string, error) {
	t := token(26)
	return t, s.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec("INSERT INTO sessions (hash, person, created, used, about) VALUES (?, ?, ?, ?, ?)",
			hashed(t), person, now(), now(), about); err != nil {
			return err
		}
		_, err := tx.Exec("UPDATE people SET seen = ? WHERE id = ?", now(), person)
		return err
	})
}

// Ends is when a session comes to its end if it is not used any more.
func (s *Session) Ends() time.Time {
	idle, age := s.Used.Add(sessionIdle), s.Created.Add(sessionAge)
	if idle.Before(age) {
		return idle
	}
	return age
}

// tell tells that sessions of a person have ended, where err says that it was done.
func (s *Sessions) tell(person string, err error) error {
	if err == nil && s.Ended != nil {
		s.Ended(person)
	}
	return err
}

// Get returns the session of a token, as long as it lasts and its person is not switched off.
func (s *Sessions) Get(t string) (Session, error) {
	var out Session
	var created, used int64
	p, _, err := scanPerson(s.db.QueryRow("SELECT "+personColumns+
		", s.created, s.used, s.about FROM sessions s JOIN people p ON p.id = s.person WHERE s.hash = ?",
		hashed(t)).Scan, &created, &used, &out.About)
	out.Person, out.Created, out.Used = p, time.UnixMilli(created), time.UnixMilli(used)
	if err == nil && (!p.Off.IsZero() || !out.Ends().After(time.Now())) {
		err = ErrNotFound
	}
	const seldom = 10 * time.Minute
	if err == nil && time.Since(out.Used) > seldom && s.readOnly == "" {
		err = s.transact(func(tx *sql.Tx) error {
			if _, err := tx.Exec("UPDATE sessions SET used = ? WHERE hash = ?", now(), hashed(t)); err != nil {
				return err
			}
			_, err := tx.Exec("UPDATE people SET seen = ? WHERE id = ?", now(), p.ID)
			return err
		})
	}
	return out, err
}

// Of are those of a person, the latest used first; that of a token is marked.
func (s *Sessions) Of(person, this string) ([]Session, error) {
	return gather(s.db, func(scan scanner) (one Session, err error) {
		var created, used int64
		err = scan(&created, &used, &one.About, &one.This)
		one.Created, one.Used = time.UnixMilli(created), time.UnixMilli(used)
		return one, err
	},
		`SELECT created, used, about, hash = ? FROM sessions WHERE person = ? AND used > ? AND created > ? ORDER
				BY used DESC`,
		hashed(this), person, now()-sessionIdle.Milliseconds(), now()-sessionAge.Milliseconds())
}

// End ends the session of a token; EndSessions all of a person.
func (s *Sessions) End(t string) error {
	var person string
	err := s.db.write.QueryRow("DELETE FROM sessions WHERE hash = ? RETURNING person", hashed(t)).Scan(&person)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	return s.tell(person, err)
}

// EndAll ends all sessions of a person.
func (s *Sessions) EndAll(person string) error {
	_, err := s.db.Exec("DELETE FROM sessions WHERE person = ?", person)
	return s.tell(person, err)
}

// What a ticket is for.
const (
	Invitation = "invitation"
	NewWord    = "reset"
)

// NewTicket returns the token of a ticket that lets a person set their password, once and until a time. Earlier ones
// for the same are void.
func (s *Sessions) NewTicket(purpose, person string, until time.Time) (string, error) {
	t := token(26)
	return t, s.transact(func(tx *sql.Tx) error {
		if _, err := tx.Exec("DELETE FROM tickets WHERE person = ? AND purpose = ?", person, purpose); err != nil {
			return err
		}
		_, err := tx.Exec("INSERT INTO tickets (hash, purpose, person, until) VALUES (?, ?, ?, ?)", hashed(t), purpose,
			person, until.UnixMilli())
		return err
	})
}

// Ticket returns whose a ticket is, as long as it is good.
func (s *Sessions) Ticket(purpose, t string) (account.Person, error) {
	p, _, err := scanPerson(s.db.QueryRow("SELECT "+personColumns+
		" FROM tickets t JOIN people p ON p.id = t.person WHERE t.hash = ? AND t.purpose = ? AND t.until > ? AND p.off IS NULL",
		hashed(t), purpose, now()).Scan)
	return p, err
}

// UseTicket takes a ticket and sets the password of its person, by its hash. It is good once.
func (s *Sessions) UseTicket(purpose, t, hash string) (account.Person, error) {
	p, err := s.Ticket(purpose, t)
	if err != nil {
		return p, err
	}
	r, err := s.db.Exec("DELETE FROM tickets WHERE hash = ?", hashed(t))
	if err := found(r, err); err != nil {
		return p, err
	}
	return p, s.all.People.SetPassword(p.ID, hash, "")
}

// Event is something that was done to people and rights.
type Event struct {
	At time.Time
	// Who did it, What it was and What it was done to, in words; Origin is the address of the network it came from.
	Who, What, About, Origin string
}

// Audit is the record of what was done with accounts and rights.
type Audit struct{ *database }

// Note keeps an event.
func (s *Audit) Note(e Event) error {
	_, err := s.db.Exec("INSERT INTO audit (at, who, what, about, origin) VALUES (?, ?, ?, ?, ?)", now(), e.Who, e.What,
		e.About, e.Origin)
	if err != nil {
		return fmt.Errorf("noting what was done: %w", err)
	}
	return nil
}

// Events are at most so many events, after so many others, the latest first.
func (s *Audit) Events(after, limit int) ([]Event, error) {
	return gather(s.db, func(scan scanner) (e Event, err error) {
		var at int64
		err = scan(&at, &e.Who, &e.What, &e.About, &e.Origin)
		e.At = time.UnixMilli(at)
		return e, err
	}, "SELECT at, who, what, about, origin FROM audit ORDER BY n DESC LIMIT ? OFFSET ?", limit, after)
}

// refold compares addresses by the rule of today, where an earlier one took different addresses for the same.
func (s *People) refold() error {
	type one struct{ id, email, address string }
	list, err := gather(s.db, func(scan scanner) (o one, err error) {
		err = scan(&o.id, &o.email, &o.address)
		return o, err
	}, "SELECT id, email, address FROM people")
	if err != nil {
		return err
	}
	for _, o := range list {
		if _, folded, err := account.Address(o.email); err == nil && folded != o.address {
			if _, err := s.db.Exec("UPDATE OR IGNORE people SET address = ? WHERE id = ?", folded, o.id); err != nil {
				return err
			}
		}
	}
	return nil
}
