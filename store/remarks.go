package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"
)

// Anchor is what a remark is about, on its map. The thing is known by its id: a remark stays with it wherever it goes,
// and finds it again when it comes back.
type Anchor struct {
	// Item is the id of a step, connector, lane or stage; empty for the whole map, or for a place.
	Item string `json:"item,omitempty"`
	// Sheet is where it stood. X and Y are a place on it, in hundredths of a pixel, from the corner of Item where there
	// is one.
	Sheet string `json:"sheet,omitempty"`
	X     int    `json:"x,omitempty"`
	Y     int    `json:"y,omitempty"`
	// Column is that of the register where the remark is about a cell, Field its title.
	Column string `json:"column,omitempty"`
	Field  string `json:"field,omitempty"`
	// Also are further things that it is about, by their ids; Words are those of the text that it points at.
	Also  []string `json:"also,omitempty"`
	Words string   `json:"words,omitempty"`
	// Stroke is a line that was drawn with it, from point to point on the sheet, each an x and a y in hundredths of a
	// pixel; it ends in an arrow. It is no part of the map.
	Stroke []int `json:"stroke,omitempty"`
	// Text and Number are what it said and its number when the remark was made.
	Text   string `json:"text,omitempty"`
	Number string `json:"number,omitempty"`
}

// What became of a proposal.
const (
	Taken    = "taken"
	Declined = "declined"
)

// Remark is what somebody said of a map.
type Remark struct {
	ID, Map string
	// Thread is the id of the remark that this one answers; empty for one that begins a thread.
	Thread string
	// Author is the id of a person, or "link:" and that of a link; Visitor tells those apart who came by the same one.
	// Name is what they are called.
	Author, Visitor, Name string
	At                    time.Time
	Edited                time.Time
	Deleted               bool
	Text                  string
	Anchor                Anchor
	// Proposal is a text that a step should have; Answered what became of it, with a word.
	Proposal, Answered string
	Settled            time.Time
	Settler            string
	// Round is the id of the round in which it was made.
	Round string
	// HasPicture says that there is one with it.
	HasPicture bool
	// Answers are those of a thread, in their order.
	Answers []Remark
}

// ByLink reports whether it was made by somebody who came by a link.
func (r Remark) ByLink() bool { return strings.HasPrefix(r.Author, "link:") }

const remarkColumns = "id, map, coalesce(thread, ''), author, visitor, name, at, changed, deleted IS NOT NULL, text, anchor, proposal, answered, settled, settler, coalesce(round, ''), picture IS NOT NULL"

func scanRemark(scan scanner) (r Remark, err error) {
	var at int64
	var changed, settled sql.NullInt64
	var anchor string
	err = scan(&r.ID, &r.Map, &r.Thread, &r.Author, &r.Visitor, &r.Name, &at, &changed, &r.Deleted, &r.Text, &anchor,
		&r.Proposal, &r.Answered, &settled, &r.Settler, &r.Round, &r.HasPicture)
	if errors.Is(err, sql.ErrNoRows) {
		return r, ErrNotFound
	}
	if err == nil {
		err = json.Unmarshal([]byte(anchor), &r.Anchor)
	}
	r.At, r.Edited, r.Settled = time.UnixMilli(at), timeOf(changed), timeOf(settled)
	if r.Deleted {
		r.Text, r.Proposal, r.HasPicture = "", "", false
	}
	return r, err
}

// The bounds of what is said on a map: threads, answers in one, and all together.
const (
	MostThreads = 5000
	MostAnswers = 1000
	MostRemarks = 20_000
)

// ErrFull is returned where more has been said than is kept.
var ErrFull = errors.New("full")

// Remarks are what people say of maps.
type Remarks struct{ *database }

// Add keeps a remark, with a picture or none, and returns its id. It returns ErrFull beyond the bounds.
func (s *Remarks) Add(r Remark, picture []byte) (string, error) {
	anchor, err := json.Marshal(r.Anchor)
	if err != nil {
		return "", err
	}
	id := token(10)
	return id, s.transact(func(tx *sql.Tx) error {
		if r.Thread != "" { // an answer is to a remark on the same map that begins a thread
			var n int
			if err := tx.QueryRow("SELECT count(*) FROM remarks WHERE id = ? AND map = ? AND thread IS NULL", r.Thread,
				r.Map).Scan(&n); err != nil || n == 0 {
				return errors.Join(err, ErrNotFound)
			}
		}
		var threads, answers, all int
		if err := tx.QueryRow(`SELECT coalesce(sum(thread IS NULL), 0), coalesce(sum(thread = ?), 0), count(*)
				FROM remarks WHERE map = ? AND deleted IS NULL`,
			r.Thread, r.Map).Scan(&threads, &answers, &all); err != nil {
			return err
		}
		if r.Thread == "" && threads >= MostThreads || answers >= MostAnswers || all >= MostRemarks {
			return ErrFull
		}
		if _, err := tx.Exec(`INSERT INTO remarks (id, map, thread, author, visitor, name, at, text, anchor,
				proposal, round, picture) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			id, r.Map, optional(r.Thread), r.Author, r.Visitor, r.Name, now(), r.Text, string(anchor), r.Proposal,
			optional(r.Round), picture); err != nil {
			return err
		}
		return logRound(tx, r.Round, r.Name, LogRemark, map[string]string{"id": id, "answers": r.Thread,
			"about": r.Anchor.Text,
			"text":  fingerprint(r.Text), "proposal": r.Proposal})
	})
}

// Of are the threads on a map, the oldest first, each with its answers. Threads of which nothing is left are not among
// them.
func (s *Remarks) Of(id string) ([]Remark, error) { return s.list(id, remarkColumns) }

// Outlines are the same without what they say, which FillIn gets for those that are shown.
func (s *Remarks) Outlines(id string) ([]Remark, error) {
	return s.list(id, strings.NewReplacer(" text,", " '',", " proposal,", " '',").Replace(remarkColumns))
}

// FillIn gets what remarks say.
func (s *Remarks) FillIn(list []*Remark) error {
	for part := range slices.Chunk(list, 500) {
		args := make([]any, len(part))
		byID := map[string]*Remark{}
		for i, r := range part {
			args[i], byID[r.ID] = r.ID, r
		}
		if _, err := gather(s.db, func(scan scanner) (struct{}, error) {
			var id, text, proposal string
			err := scan(&id, &text, &proposal)
			if r := byID[id]; r != nil && !r.Deleted {
				r.Text, r.Proposal = text, proposal
			}
			return struct{}{}, err
		}, "SELECT id, text, proposal FROM remarks WHERE id IN (?"+strings.Repeat(", ?", len(part)-1)+")",
			args...); err != nil {
			return err
		}
	}
	return nil
}

func (s *Remarks) list(id, columns string) ([]Remark, error) {
	all, err := gather(s.db, scanRemark, "SELECT "+columns+" FROM remarks WHERE map = ? ORDER BY at, rowid", id)
	if err != nil {
		return nil, err
	}
	var list []Remark
	place := map[string]int{}
	for _, r := range all {
		if r.Thread == "" {
			place[r.ID] = len(list)
			list = append(list, r)
		} else if i, ok := place[r.Thread]; ok && !r.Deleted {
			list[i].Answers = append(list[i].Answers, r)
		}
	}
	out := list[:0]
	for _, r := range list {
		if !r.Deleted || len(r.Answers) > 0 {
			out = append(out, r)
		}
	}
	return out, nil
}

// Whole are what was said of the whole of a map, the latest so many, the latest last; without answers.
func (s *Remarks) Whole(id string, most int) ([]Remark, error) {
	list, err := gather(s.db, scanRemark, "SELECT "+remarkColumns+` FROM remarks WHERE map = ? AND thread IS NULL AND deleted IS NULL
			AND anchor = '{}' ORDER BY at DESC, rowid DESC LIMIT ?`, id, most)
	slices.Reverse(list)
	return list, err
}

// Authors are those of a thread, by their ids.
func (s *Remarks) Authors(thread string) ([]string, error) {
	return gather(s.db, func(scan scanner) (author string, err error) {
		err = scan(&author)
		return author, err
	}, "SELECT DISTINCT author FROM remarks WHERE id = ? OR thread = ? AND deleted IS NULL", thread, thread)
}

// Copy has a copy of a map take its remarks along. What was said there keeps its time and author.
func (s *Remarks) Copy(from, to string) error {
	return s.transact(func(tx *sql.Tx) error {
		_, err := tx.Exec(`INSERT INTO remarks (id, map, thread, author, visitor, name, at, changed, deleted, text, anchor, proposal, answered, settled, settler, picture)
			SELECT id || '-' || ?, ?, CASE WHEN thread IS NULL THEN NULL ELSE thread || '-' || ? END, author, visitor, name, at, changed, deleted, text, anchor, proposal, answered, settled, settler, picture
			FROM remarks WHERE map = ? ORDER BY thread IS NOT NULL, at`, to, to, to, from)
		return err
	})
}

// Get returns a remark on a map.
func (s *Remarks) Get(id, remark string) (Remark, error) {
	return scanRemark(s.db.QueryRow("SELECT "+remarkColumns+" FROM remarks WHERE map = ? AND id = ?", id, remark).Scan)
}

// Picture is the picture with a remark.
func (s *Remarks) Picture(id, remark string) (picture []byte, err error) {
	err = s.db.QueryRow(`SELECT picture FROM remarks WHERE map = ? AND id = ? AND picture IS NOT NULL AND
			deleted IS NULL`, id, remark).Scan(&picture)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return picture, err
}

// change does something to a remark, and notes it in the log of the round that it was made in, while that runs.
func (s *Remarks) change(remark, by, what string, of map[string]string, query string, args ...any) error {
	return s.transact(func(tx *sql.Tx) error {
		if err := found(tx.Exec(query, args...)); err != nil {
			return err
		}
		var round string
		if err := tx.QueryRow(`SELECT coalesce((SELECT r.id FROM remarks m JOIN rounds r ON r.id = m.round
				WHERE m.id = ? AND r.ended IS NULL), '')`, remark).Scan(&round); err != nil {
			return err
		}
		all := map[string]string{"id": remark}
		maps.Copy(all, of)
		return logRound(tx, round, by, what, all)
	})
}

// Reword gives a remark another text.
func (s *Remarks) Reword(remark, text, by string) error {
	return s.change(remark, by, LogReworded, map[string]string{"text": fingerprint(text)},
		"UPDATE remarks SET text = ?, changed = ? WHERE id = ? AND deleted IS NULL", text, now(), remark)
}

// Delete takes back what was said. What others answered stays.
func (s *Remarks) Delete(remark, by string) error {
	return s.change(remark, by, LogDeleted, nil, `UPDATE remarks SET deleted = ?, text = '', proposal = '', picture = NULL
			WHERE id = ? AND deleted IS NULL`, now(), remark)
}

// Settle notes that a thread is dealt with by somebody, or open again.
func (s *Remarks) Settle(remark, by string, settled bool) error {
	at := sql.NullInt64{Int64: now(), Valid: settled}
	what, settler := LogSettled, by
	if !settled {
		what, settler = LogReopened, ""
	}
	return s.change(remark, by, what, nil,
		"UPDATE remarks SET settled = ?, settler = ? WHERE id = ? AND thread IS NULL", at,
		settler, remark)
}

// Pin has a thread be about something else than it was.
func (s *Remarks) Pin(remark string, to Anchor) error {
	anchor, err := json.Marshal(to)
	if err != nil {
		return err
	}
	return found(s.db.Exec("UPDATE remarks SET anchor = ? WHERE id = ? AND thread IS NULL AND deleted IS NULL",
		string(anchor), remark))
}

// AnswerProposal notes what became of a proposal. It is answered once.
func (s *Remarks) AnswerProposal(remark, answer, by string) error {
	return s.change(remark, by, LogAnswered, map[string]string{"answer": answer}, `UPDATE remarks SET answered = ?, settled = ?,
			settler = ? WHERE id = ? AND proposal <> '' AND answered = ''`, answer, now(), by, remark)
}

// Unseen is what others said on a map that a person has not seen yet.
type Unseen struct {
	Map   string
	Count int
	// Latest is the thread of the latest of them, At when that was.
	Latest string
	At     time.Time
}

// Unseen is what others said that a person has not seen yet, by map, whatever they may see of it.
func (s *Remarks) Unseen(person string) (map[string]Unseen, error) {
	out := map[string]Unseen{}
	// The thread is that of the row with the latest time (sqlite.org/lang_select.html, bare columns with max).
	_, err := gather(s.db, func(scan scanner) (u Unseen, err error) {
		var at int64
		err = scan(&u.Map, &u.Count, &at, &u.Latest)
		u.At = time.UnixMilli(at)
		out[u.Map] = u
		return u, err
	},
		`SELECT r.map, count(*), max(r.at), coalesce(r.thread, r.id) FROM remarks r LEFT JOIN visits v ON v.map = r.map AND v.person = ? WHERE r.deleted IS NULL AND r.author <> ?
		AND r.at > coalesce(v.seen, 0) GROUP BY r.map`, person, person)
	return out, err
}

// SeenBefore returns up to when a person has seen the remarks on a map.
func (s *Remarks) SeenBefore(person, id string) (time.Time, error) {
	var seen int64
	err := s.db.QueryRow("SELECT coalesce((SELECT seen FROM visits WHERE person = ? AND map = ?), 0)", person,
		id).Scan(&seen)
	return time.UnixMilli(seen), err
}

// Seen returns up to when a person has seen the remarks on a map, and notes that they see them now.
func (s *Remarks) Seen(person, id string) (before time.Time, err error) {
	var seen int64
	if err := s.db.QueryRow("SELECT seen FROM visits WHERE person = ? AND map = ?", person,
		id).Scan(&seen); err != nil && !errors.Is(err, sql.ErrNoRows) {
		return before, err
	}
	_, err = s.db.Exec(`INSERT INTO visits (person, map, seen) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET seen =
			excluded.seen`, person, id, now())
	return time.UnixMilli(seen), err
}
