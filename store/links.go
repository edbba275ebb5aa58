package store

import (
	"crypto/hmac"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"strings"
	"time"

	"plaintracer/account"
	"plaintracer/account/passcode"
)

// Link is a link to a map, as its owner sees it: its token is not known any more.
type Link struct {
	// ID names it to its owner; nothing is opened by it. Begins is how its token begins.
	ID, Begins string
	Choices
	// Locked says that it asks for a passcode.
	Locked bool
	// Created is when it was made, Used when it was last followed (zero for never), Uses how often.
	Created, Used time.Time
	Uses          int
	// Author is the id of the person who made it.
	Author string
	// As is when the fixed version was kept that it shows; zero where it shows the latest state.
	As time.Time
}

// Choices are what is chosen for a link.
type Choices struct {
	// Right is what the link lets its visitors do.
	Right account.Right
	// Addresses are those for mail to whom alone it opens, with spaces between; empty for anyone who has it.
	Addresses string
	// Version is the id of the version that it shows; empty for the latest state.
	Version string
	// Note is for its owner.
	Note string
	// Until is when it ends; zero for not by itself.
	Until time.Time
	// Download lets readers save what they see; Embed lets other pages show the current picture, in frames those of
	// Sites, which are origins with spaces between.
	Download, Embed bool
	// Changes shows readers what changed since they looked last; others see that anyway.
	Changes bool
	Sites   string
}

// Ended reports whether a link has come to its end.
func (c *Choices) Ended(now time.Time) bool { return !c.Until.IsZero() && !now.Before(c.Until) }

// Followed is where a link leads.
type Followed struct {
	Map string
	Link
	// passcode is its hash.
	passcode string
}

const tokenLetters = 26 // 130 bits

const begins = 4 // letters of a token that its owner still sees

func hashed(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// Links are those by which others come to a map.
type Links struct{ *database }

// Create returns the token of a new link to read a map. It cannot be had again.
func (s *Links) Create(id, author string, c Choices, code string) (string, error) {
	t := token(tokenLetters)
	lock := ""
	if code != "" {
		lock = passcode.Hash(code)
	}
	return t,
		found(s.db.Exec(`INSERT INTO shares (id, map, hash, begins, note, until, passcode, download, sites, embed, tells_changes, created, purpose, addresses, version, author)
		SELECT ?, id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ? FROM maps WHERE id = ?`,
			token(10), hashed(t), t[:begins], c.Note, moment(c.Until), lock, c.Download, c.Sites, c.Embed, c.Changes,
			now(),
			max(c.Right, account.Read).String(), c.Addresses, optional(c.Version), author, id))
}

func moment(t time.Time) sql.NullInt64 {
	return sql.NullInt64{Int64: t.UnixMilli(), Valid: !t.IsZero()}
}

func timeOf(n sql.NullInt64) time.Time {
	if !n.Valid {
		return time.Time{}
	}
	return time.UnixMilli(n.Int64)
}

const linkColumns = `l.id, l.begins, l.note, l.until, l.passcode, l.download, l.sites, l.embed, l.tells_changes, l.created, l.used, l.uses, l.purpose, l.addresses, coalesce(l.version, ''), l.author,
	(SELECT created FROM versions WHERE id = l.version)`

func scanLink(scan func(...any) error, more ...any) (l Link, lock string, err error) {
	var until, used, as sql.NullInt64
	var created int64
	var purpose string
	err = scan(append([]any{&l.ID, &l.Begins, &l.Note, &until, &lock, &l.Download, &l.Sites, &l.Embed, &l.Changes,
		&created, &used,
		&l.Uses, &purpose, &l.Addresses, &l.Version, &l.Author, &as}, more...)...)
	l.Until, l.Used, l.Created, l.As, l.Locked = timeOf(until), timeOf(used), time.UnixMilli(created), timeOf(as),
		lock != ""
	l.Right, _ = account.RightNamed(purpose)
	return l, lock, err
}

// Of returns the links of a map that were not withdrawn, the latest first; among them those that have ended.
func (s *Links) Of(id string) ([]Link, error) {
	return gather(s.db, func(scan scanner) (Link, error) {
		l, _, err := scanLink(scan)
		return l, err
	}, "SELECT "+linkColumns+" FROM shares l WHERE map = ? AND withdrawn IS NULL ORDER BY created DESC, id", id)
}

// Withdraw ends a link, by the id its owner knows it by.
func (s *Links) Withdraw(id, link string) error {
	return found(s.db.Exec("UPDATE shares SET withdrawn = ? WHERE id = ? AND map = ? AND withdrawn IS NULL", now(),
		link, id))
}

// Follow returns where a link leads. For a withdrawn one, or one that has come to its end, it returns when that was,
// and ErrNotFound; also for one whose map is in the bin.
func (s *Links) Follow(token string) (f Followed, ended time.Time, err error) {
	var withdrawn, binned sql.NullInt64
	row := s.db.QueryRow("SELECT "+linkColumns+
		", m.id, l.withdrawn, m.binned FROM shares l JOIN maps m ON m.id = l.map WHERE l.hash = ?", hashed(token))
	f.Link, f.passcode, err = scanLink(row.Scan, &f.Map, &withdrawn, &binned)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return Followed{}, time.Time{}, ErrNotFound
	case err != nil:
		return Followed{}, time.Time{}, err
	case withdrawn.Valid:
		return Followed{}, timeOf(withdrawn), ErrNotFound
	case f.Ended(time.Now()):
		return Followed{}, f.Until, ErrNotFound
	case binned.Valid:
		return Followed{}, timeOf(binned), ErrNotFound
	}
	return f, time.Time{}, nil
}

// Stands reports whether a link, by the id its owner knows it by, is in force.
func (s *Links) Stands(link string) (stands bool, err error) {
	err = s.db.QueryRow(`SELECT EXISTS (SELECT 1 FROM shares WHERE id = ? AND withdrawn IS NULL AND (until IS
			NULL OR until > ?))`, link, now()).Scan(&stands)
	return stands, err
}

// CountUse notes that a link was followed.
func (s *Links) CountUse(link string) error {
	return found(s.db.Exec("UPDATE shares SET used = ?, uses = uses + 1 WHERE id = ?", now(), link))
}

// Opens reports whether a word is the passcode of a link.
func (f *Followed) Opens(word string) bool { return passcode.Matches(word, f.passcode) }

// Proof is what a browser shows to have given the passcode of a link: it is of no use for another one, nor once the
// link has another passcode.
func (s *Links) Proof(f *Followed) string {
	return s.Sign("passcode", f.ID, f.passcode)
}

// Sign returns a code over words under a key of the data folder: whoever shows it had it from here.
func (s *database) Sign(words ...string) string {
	return hex.EncodeToString(s.Code(strings.Join(words, "\x00")))
}

// Code returns the code of a text under a key of the data folder (HMAC with SHA-256).
func (s *database) Code(text string) []byte {
	code := hmac.New(sha256.New, s.key)
	code.Write([]byte(text))
	return code.Sum(nil)
}

// Signed reports whether a code is that over words.
func (s *database) Signed(code string, words ...string) bool {
	return hmac.Equal([]byte(code), []byte(s.Sign(words...)))
}

// Proved reports whether a proof is that of a link.
func (s *Links) Proved(f *Followed, proof string) bool {
	return s.Signed(proof, "passcode", f.ID, f.passcode)
}

// hashLinks carries links over whose tokens were kept as they are. What held these is overwritten.
func (s *Links) hashLinks() error {
	rows, err := s.db.Query("SELECT token, map, created, withdrawn FROM links")
	if err != nil {
		return err
	}
	type old struct {
		token, id string
		created   int64
		withdrawn sql.NullInt64
	}
	var list []old
	for rows.Next() {
		var o old
		if err := rows.Scan(&o.token, &o.id, &o.created, &o.withdrawn); err != nil {
			rows.Close()
			return err
		}
		list = append(list, o)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil || len(list) == 0 {
		return err
	}
	if _, err := s.db.Exec("PRAGMA secure_delete = ON"); err != nil {
		return err
	}
	return s.transact(func(tx *sql.Tx) error {
		for _, o := range list {
			if _, err := tx.Exec(`INSERT INTO shares (id, map, hash, begins, created, withdrawn) VALUES (?, ?,
					?, ?, ?, ?)`,
				token(10), o.id, hashed(o.token), o.token[:min(begins, len(o.token))], o.created,
				o.withdrawn); err != nil {
				return err
			}
		}
		_, err := tx.Exec("DELETE FROM links")
		return err
	})
}

// ValidSites reports whether a list of sites holds origins alone, such as https://wiki.example.
func ValidSites(sites string) bool {
	for _, site := range strings.Fields(sites) {
		scheme, host, ok := strings.Cut(site, "://")
		if !ok || scheme != "https" && scheme != "http" || host == "" || strings.ContainsAny(host, "/?#'\";, *") {
			return false
		}
	}
	return len(sites) <= 1000
}
