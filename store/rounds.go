package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"plaintracer/account"
	"plaintracer/review"
)

// Verdict is what one of those who were asked says.
type Verdict struct {
	// Who is the id of a person, or "name:" and how somebody by a link calls themselves. Visitor is the browser in
	// which they said it, by a link: nobody else says anything in their place then.
	Who, Name       string
	Visitor         string
	Verdict, Reason string
	At, Reminded    time.Time
	// Link is the id of the link of somebody who is known by name only; empty in rounds from before there were such
	// links. Opens says that it is in force, Email is where it was sent, if anywhere.
	Link, Email string
	Opens       bool
	// Turn is when they are asked: those of a later turn when all of the earlier ones have answered. Told and Looked
	// are when they were told, and when they first looked at what they were asked about.
	Turn         int
	Told, Looked time.Time
	// Signature is the sentence that they signed; Unasked says that nobody asked them, so that their word does not
	// count.
	Signature string
	Unasked   bool
}

// ByLink reports whether it is of somebody who is known by name only.
func (v Verdict) ByLink() bool { return strings.HasPrefix(v.Who, "name:") }

// Round is a review of a version by certain people.
type Round struct {
	ID, Map string
	Number  int
	Version Version
	// Asker is the id of the person who asked for it, Word what they said.
	Asker, Word string
	// Needs is how many of those who are asked have to agree.
	Needs review.Rule
	At    time.Time
	Until time.Time
	Ended time.Time
	// Open counts the remarks of the round that are not settled; of one that has ended, those that were not when it
	// did.
	Open int
	// Headed is the revision in which the outcome was written into the heading of the map as it was reviewed; zero for
	// none.
	Headed int
	// Remind is after how many days those who have not answered are reminded again; zero for never. Final says that an
	// answer stays as it is, Signed that whoever agrees gives their password again.
	Remind        int
	Final, Signed bool
	// Since are the changes from the version to the end of the round, in words. TakenIn is the id of the version with
	// them, where they are part of what was agreed, and takenAt its revision.
	Since   []string
	TakenIn string
	takenAt int
	// Talk is what was said in a round that has ended, as it is filed.
	Talk     string
	Verdicts []Verdict
}

// Stands reports whether a map at a revision is as the round saw it, but for the heading that says so.
func (r *Round) Stands(revision int) bool {
	return revision == r.Version.Revision || r.Headed > 0 && revision == r.Headed ||
		r.TakenIn != "" && revision == r.takenAt
}

// Case is what the outcome of the round depends on, for a map at a revision.
func (r *Round) Case(revision int) *review.Case {
	c := &review.Case{Version: r.Version.Number, Open: r.Open, Needs: r.Needs, Ended: !r.Ended.IsZero(),
		Changed: !r.Stands(revision), Since: r.Since, TakenIn: r.TakenIn != ""}
	for _, v := range r.Asked() {
		c.Voices = append(c.Voices, review.Voice{Name: v.Name, Verdict: v.Verdict})
	}
	return c
}

// Asked are those who were asked, without those who only said a word.
func (r *Round) Asked() (list []Verdict) {
	for _, v := range r.Verdicts {
		if !v.Unasked {
			list = append(list, v)
		}
	}
	return list
}

// Missing are those who were asked and have not said anything yet.
func (r *Round) Missing() (list []Verdict) {
	for _, v := range r.Asked() {
		if v.Verdict == "" {
			list = append(list, v)
		}
	}
	return list
}

// ErrRunning is returned where a round is under way already; ErrOver where it has ended.
var (
	ErrRunning = errors.New("a round is under way")
	ErrOver    = errors.New("the round has ended")
)

// Rounds are the reviews of maps, with what was said in them.
type Rounds struct{ *database }

// Begin asks people for a review of a version, and returns its id. One round at a time runs on a map. Those who are
// asked by name get a link each; the tokens of these, by the ids of the links, cannot be had again.
func (s *Rounds) Begin(r Round) (id string, tokens map[string]string, err error) {
	id, tokens = token(10), map[string]string{}
	err = s.transact(func(tx *sql.Tx) error {
		var running, number int
		if err := tx.QueryRow(`SELECT coalesce(sum(ended IS NULL), 0), coalesce(max(number), 0) FROM rounds
				WHERE map = ?`, r.Map).Scan(&running, &number); err != nil {
			return err
		}
		if running > 0 {
			return ErrRunning
		}
		if _, err := tx.Exec(`INSERT INTO rounds (id, map, number, version, asker, at, until, word, needs, remind, final,
				signed) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			id, r.Map, number+1, r.Version.ID, r.Asker, now(), moment(r.Until), r.Word, r.Needs, r.Remind, r.Final,
			r.Signed); err != nil {
			return err
		}
		var names []string
		for _, v := range r.Verdicts {
			if v.ByLink() {
				var t string
				if v.Link, t, err = askedLink(tx, &r, number+1, v.Name); err != nil {
					return err
				}
				tokens[v.Link] = t
			}
			if _, err := tx.Exec(`INSERT INTO verdicts (round, who, name, link, email, turn) VALUES (?, ?, ?, ?, ?, ?)
					ON CONFLICT DO NOTHING`, id, v.Who, v.Name, v.Link, v.Email, v.Turn); err != nil {
				return err
			}
			names = append(names, v.Name)
		}
		return logRound(tx, id, r.Asker, LogBegun, map[string]string{"version": fmt.Sprint(r.Version.Number),
			"sha256": r.Version.Hash, "asked": strings.Join(names, "; "), "rule": string(r.Needs), "word": r.Word})
	})
	return id, tokens, err
}

// askedLink makes the link of somebody who is asked by name, and returns its id and its token. It leads to the version
// that is asked about.
func askedLink(tx *sql.Tx, r *Round, number int, name string) (link, t string, err error) {
	link, t = token(10), token(tokenLetters)
	_, err = tx.Exec(`INSERT INTO shares (id, map, hash, begins, note, created, purpose, version, author) VALUES
			(?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		link, r.Map, hashed(t), t[:begins], fmt.Sprintf("Round %d of review: %s", number, name), now(),
		account.Remark.String(), r.Version.ID, r.Asker)
	return link, t, err
}

// AskAgain makes a new link for somebody who was asked by name in a round that runs, in place of one there was, and
// returns its id and its token.
func (s *Rounds) AskAgain(r *Round, who string) (link, t string, err error) {
	err = s.transact(func(tx *sql.Tx) error {
		var name, old string
		err := tx.QueryRow("SELECT name, link FROM verdicts WHERE round = ? AND who = ? AND who LIKE 'name:%'", r.ID,
			who).Scan(&name, &old)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrNotAsked
		} else if err != nil {
			return err
		}
		if _, err := tx.Exec("UPDATE shares SET withdrawn = ? WHERE id = ? AND withdrawn IS NULL", now(),
			old); err != nil {
			return err
		}
		if link, t, err = askedLink(tx, r, r.Number, name); err != nil {
			return err
		}
		if _, err = tx.Exec("UPDATE verdicts SET link = ? WHERE round = ? AND who = ?", link, r.ID, who); err != nil {
			return err
		}
		return logRound(tx, r.ID, r.Asker, LogLink, map[string]string{"for": name})
	})
	return link, t, err
}

// Running is the id of the round that runs on a map; empty for none.
func (s *Rounds) Running(id string) (round string, err error) {
	err = s.db.QueryRow("SELECT id FROM rounds WHERE map = ? AND ended IS NULL", id).Scan(&round)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return round, err
}

// openRemarks counts the remarks of a round r that are not settled, or were not when it ended.
const openRemarks = `coalesce(r.open, (SELECT count(*) FROM remarks m WHERE m.round = r.id AND m.thread IS NULL AND m.settled IS NULL
	AND (m.deleted IS NULL OR EXISTS (SELECT 1 FROM remarks a WHERE a.thread = m.id AND a.deleted IS NULL))))`

const roundColumns = "r.id, r.map, r.number, r.version, r.asker, r.at, r.until, r.word, r.needs, r.ended, r.headed, " +
	"r.remind, r.final, r.signed, r.since, r.taken_in, coalesce((SELECT revision FROM versions WHERE id = r.taken_in), 0), r.talk, " +
	openRemarks

func scanRound(scan scanner) (r Round, err error) {
	var at int64
	var until, ended sql.NullInt64
	var since string
	err = scan(&r.ID, &r.Map, &r.Number, &r.Version.ID, &r.Asker, &at, &until, &r.Word, &r.Needs, &ended, &r.Headed,
		&r.Remind, &r.Final, &r.Signed, &since, &r.TakenIn, &r.takenAt, &r.Talk, &r.Open)
	if err == nil {
		err = json.Unmarshal([]byte(since), &r.Since)
	}
	r.At, r.Until, r.Ended = time.UnixMilli(at), timeOf(until), timeOf(ended)
	return r, err
}

// Latest are the latest rounds of all maps, by the ids of these, with who said what. Of their versions they have the
// number and the revision.
func (s *Rounds) Latest() (map[string]*Round, error) {
	const latest = " r.number = (SELECT max(number) FROM rounds o WHERE o.map = r.map)"
	out, byID := map[string]*Round{}, map[string]*Round{}
	list, err := gather(s.db, func(scan scanner) (r Round, err error) {
		var v Version
		r, err = scanRound(func(into ...any) error { return scan(append(into, &v.Number, &v.Revision)...) })
		r.Version.Number, r.Version.Revision = v.Number, v.Revision
		return r, err
	}, "SELECT "+roundColumns+", v.number, v.revision FROM rounds r JOIN versions v ON v.id = r.version WHERE"+latest)
	if err != nil {
		return nil, err
	}
	for i := range list {
		out[list[i].Map], byID[list[i].ID] = &list[i], &list[i]
	}
	_, err = gather(s.db, func(scan scanner) (struct{}, error) {
		var round string
		var v Verdict
		err := scan(&round, &v.Who, &v.Name, &v.Verdict, &v.Unasked)
		if r := byID[round]; r != nil {
			r.Verdicts = append(r.Verdicts, v)
		}
		return struct{}{}, err
	},
		"SELECT v.round, v.who, v.name, v.verdict, NOT v.asked FROM rounds r JOIN verdicts v ON v.round = r.id WHERE"+
			latest+
			" ORDER BY v.rowid")
	return out, err
}

// Waiting are the rounds that run in which a person was asked and has not said anything yet, the latest first.
func (s *Rounds) Waiting(person string) ([]Round, error) {
	return gather(s.db, scanRound,
		"SELECT "+roundColumns+` FROM rounds r JOIN verdicts v ON v.round = r.id JOIN maps m ON m.id = r.map
		WHERE v.who = ? AND v.verdict = '' AND v.told IS NOT NULL AND r.ended IS NULL AND m.binned IS NULL ORDER BY r.at DESC`, person)
}

// IsAsked reports whether a person was asked for a review of a map that runs, and has not said anything yet.
func (s *Rounds) IsAsked(person, id string) (asked bool, err error) {
	err = s.db.QueryRow(`SELECT EXISTS (SELECT 1 FROM rounds r JOIN verdicts v ON v.round = r.id
		WHERE r.map = ? AND r.ended IS NULL AND v.who = ? AND v.verdict = '' AND v.told IS NOT NULL)`, id,
		person).Scan(&asked)
	return asked, err
}

// Of are those of a map, the latest first.
func (s *Rounds) Of(id string) (list []Round, err error) {
	list, err = gather(s.db, scanRound, "SELECT "+roundColumns+" FROM rounds r WHERE r.map = ? ORDER BY r.number DESC",
		id)
	if err != nil {
		return nil, err
	}
	for i := range list {
		if list[i].Version, err = scanVersion(s.db.QueryRow("SELECT "+versionColumns+" FROM versions WHERE id = ?",
			list[i].Version.ID).Scan); err != nil {
			return nil, err
		}
		if list[i].Verdicts, err = s.verdicts(list[i].ID); err != nil {
			return nil, err
		}
	}
	return list, nil
}

func (s *Rounds) verdicts(round string) (list []Verdict, err error) {
	return gather(s.db, scanVerdict, "SELECT "+verdictColumns+" FROM verdicts WHERE round = ? ORDER BY turn, rowid",
		round)
}

const verdictColumns = "who, name, visitor, verdict, reason, at, reminded, link, email, turn, told, looked, signature, NOT asked, " +
	"EXISTS (SELECT 1 FROM shares WHERE id = link AND withdrawn IS NULL)"

func scanVerdict(scan scanner) (v Verdict, err error) {
	var at, reminded, told, looked sql.NullInt64
	err = scan(&v.Who, &v.Name, &v.Visitor, &v.Verdict, &v.Reason, &at, &reminded, &v.Link, &v.Email, &v.Turn, &told,
		&looked, &v.Signature, &v.Unasked, &v.Opens)
	v.At, v.Reminded, v.Told, v.Looked = timeOf(at), timeOf(reminded), timeOf(told), timeOf(looked)
	return v, err
}

// What may be wrong with what somebody says of a round: they were not asked, or another has answered in their place; or
// they have answered, and an answer stays as it is.
var (
	ErrNotAsked = errors.New("not asked")
	ErrSaid     = errors.New("answered already")
)

// mostUnasked is how many people may say a word who were not asked.
const mostUnasked = 200

// Say notes what somebody says of a round that runs. Only those who were asked count; what others say is kept beside
// it.
func (s *Rounds) Say(round string, v Verdict) error {
	return s.transact(func(tx *sql.Tx) error {
		var ended, final bool
		if err := tx.QueryRow("SELECT ended IS NOT NULL, final FROM rounds WHERE id = ?", round).Scan(&ended,
			&final); errors.Is(err, sql.ErrNoRows) {
			return ErrNotFound
		} else if err != nil {
			return err
		}
		if ended {
			return ErrOver
		}
		was, visitor, others := "", "", 0
		err := tx.QueryRow("SELECT verdict, visitor FROM verdicts WHERE round = ? AND who = ?", round, v.Who).Scan(&was,
			&visitor)
		known := !errors.Is(err, sql.ErrNoRows)
		switch {
		case known && err != nil:
			return err
		case !known && !v.Unasked, visitor != "" && visitor != v.Visitor:
			return ErrNotAsked
		case final && was != "":
			return ErrSaid
		case !known:
			if err := tx.QueryRow("SELECT count(*) FROM verdicts WHERE round = ? AND asked = 0",
				round).Scan(&others); err != nil {
				return err
			} else if others >= mostUnasked {
				return ErrFull
			}
		}
		if _, err = tx.Exec(`INSERT INTO verdicts (round, who, name, verdict, reason, at, visitor, signature, asked, looked)
				VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, 0, ?6) ON CONFLICT DO UPDATE SET verdict = ?4, reason = ?5, at = ?6,
				visitor = ?7, signature = ?8, looked = coalesce(looked, ?6)`,
			round, v.Who, v.Name, v.Verdict, v.Reason, now(), v.Visitor, v.Signature); err != nil {
			return err
		}
		return logRound(tx, round, v.Name, LogSaid, map[string]string{"by": v.Who, "verdict": v.Verdict,
			"reason":    v.Reason,
			"signature": v.Signature})
	})
}

// Looked notes that somebody who was asked in a round that runs has looked at it; the first time counts.
func (s *Rounds) Looked(round, who string) error {
	return s.transact(func(tx *sql.Tx) error {
		var name string
		err := tx.QueryRow(`UPDATE verdicts SET looked = ? WHERE round = ? AND who = ? AND looked IS NULL AND EXISTS
				(SELECT 1 FROM rounds WHERE id = round AND ended IS NULL) RETURNING name`, now(), round,
			who).Scan(&name)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return err
		}
		return logRound(tx, round, name, LogLooked, nil)
	})
}

// Tell returns those whose turn it is in a round that runs and who were not told yet, and notes that they are now.
func (s *Rounds) Tell(round string) (list []Verdict, err error) {
	err = s.transact(func(tx *sql.Tx) error {
		rows, err := tx.Query("SELECT "+verdictColumns+` FROM verdicts WHERE round = ?1 AND asked AND told IS NULL AND turn =
				(SELECT min(turn) FROM verdicts WHERE round = ?1 AND asked AND verdict = '')
				AND EXISTS (SELECT 1 FROM rounds WHERE id = ?1 AND ended IS NULL) ORDER BY rowid`, round)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			v, err := scanVerdict(rows.Scan)
			if err != nil {
				return err
			}
			list = append(list, v)
		}
		if err := rows.Err(); err != nil {
			return err
		}
		for _, v := range list {
			if _, err := tx.Exec("UPDATE verdicts SET told = ? WHERE round = ? AND who = ?", now(), round,
				v.Who); err != nil {
				return err
			}
			if err := logRound(tx, round, "the server", LogTold, map[string]string{"whom": v.Name}); err != nil {
				return err
			}
		}
		return nil
	})
	return list, err
}

// Reminded notes that somebody was reminded of a round.
func (s *Rounds) Reminded(round, who, by string) error {
	return s.transact(func(tx *sql.Tx) error {
		var name string
		err := tx.QueryRow("UPDATE verdicts SET reminded = ? WHERE round = ? AND who = ? RETURNING name", now(), round,
			who).Scan(&name)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrNotFound
		} else if err != nil {
			return err
		}
		return logRound(tx, round, by, LogReminded, map[string]string{"whom": name})
	})
}

// ToRemind are those who are to be reminded at a time: asked in rounds that run and remind in a rhythm, told or
// reminded last longer ago than that, and silent until now. It returns them by the ids of the rounds, with these.
func (s *Rounds) ToRemind(at time.Time) (rounds []Round, err error) {
	const day = 24 * 60 * 60 * 1000
	rounds, err = gather(s.db, scanRound, "SELECT "+roundColumns+` FROM rounds r JOIN maps m ON m.id = r.map
			WHERE r.ended IS NULL AND r.remind > 0 AND m.binned IS NULL`)
	if err != nil {
		return nil, err
	}
	kept := rounds[:0]
	for _, r := range rounds {
		r.Verdicts, err = gather(s.db, scanVerdict, "SELECT "+verdictColumns+` FROM verdicts WHERE round = ? AND asked AND
				verdict = '' AND told IS NOT NULL AND coalesce(reminded, told) <= ? ORDER BY rowid`, r.ID,
			at.UnixMilli()-int64(r.Remind)*day)
		if err != nil {
			return nil, err
		}
		if len(r.Verdicts) > 0 {
			kept = append(kept, r)
		}
	}
	return kept, nil
}

// NoteHeading notes the revision in which the outcome of a round was written into the heading of its map.
func (s *Rounds) NoteHeading(round string, revision int) error {
	return found(s.db.Exec("UPDATE rounds SET headed = ? WHERE id = ?", revision, round))
}

// Ending is how a round ends.
type Ending struct {
	// By is who ends it, by their name.
	By string
	// Since are the changes from the version until now, in words; TakenIn the id of the version with these, where they
	// are part of what was agreed.
	Since   []string
	TakenIn string
	// Talk is what was said, as it is filed.
	Talk string
}

// End ends a round. What came of it follows from what was said, and from what is open now.
func (s *Rounds) End(round string, e Ending) error {
	if e.Since == nil {
		e.Since = []string{}
	}
	since, err := json.Marshal(e.Since)
	if err != nil {
		return err
	}
	return s.transact(func(tx *sql.Tx) error {
		var open int
		err := tx.QueryRow("UPDATE rounds AS r SET open = "+openRemarks+`, ended = ?, since = ?, taken_in = ?, talk = ?
				WHERE id = ? AND ended IS NULL RETURNING open`, now(), string(since), e.TakenIn, e.Talk,
			round).Scan(&open)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrOver
		} else if err != nil {
			return err
		}
		return logRound(tx, round, e.By, LogEnded, map[string]string{"since": strings.Join(e.Since, "; "),
			"open":     fmt.Sprint(open),
			"taken in": e.TakenIn, "talk": fingerprint(e.Talk)})
	})
}
