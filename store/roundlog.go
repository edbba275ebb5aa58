package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"time"
)

// LogEntry is what happened in a round. Entries are only ever added, each with a hash over what it says and the hash of
// the one before, so that one that is changed or left out later shows.
type LogEntry struct {
	N    int       `json:"n"`
	At   time.Time `json:"at"`
	Who  string    `json:"who"`
	What string    `json:"what"`
	// Of says more, by names.
	Of map[string]string `json:"of,omitempty"`
	// Hash is the one of the entry: SHA-256, in hexadecimal digits.
	Hash string `json:"-"`
}

// What happens in a round.
const (
	LogBegun    = "begun"
	LogTold     = "told"
	LogLooked   = "looked"
	LogSaid     = "said"
	LogReminded = "reminded"
	LogLink     = "new link"
	LogRemark   = "remark"
	LogReworded = "remark changed"
	LogDeleted  = "remark deleted"
	LogSettled  = "remark settled"
	LogReopened = "remark opened again"
	LogAnswered = "proposal answered"
	LogEnded    = "ended"
)

// chained is the hash of an entry after one with a hash.
func chained(before, entry string) string {
	sum := sha256.Sum256([]byte(before + "\n" + entry))
	return hex.EncodeToString(sum[:])
}

// fingerprint stands in the log for a text that may be taken back.
func fingerprint(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}

// logRound adds to the log of a round what happened in it. Nothing is added for no round.
func logRound(tx *sql.Tx, round, who, what string, of map[string]string) error {
	if round == "" {
		return nil
	}
	var n int
	before := round
	if err := tx.QueryRow("SELECT count(*), coalesce((SELECT hash FROM round_log WHERE round = ?1 ORDER BY n DESC LIMIT 1), ?1)"+
		" FROM round_log WHERE round = ?1", round).Scan(&n, &before); err != nil {
		return err
	}
	raw, err := json.Marshal(LogEntry{N: n + 1, At: clock().UTC().Truncate(time.Millisecond), Who: who, What: what,
		Of: of})
	if err != nil {
		return err
	}
	_, err = tx.Exec("INSERT INTO round_log (round, n, entry, hash) VALUES (?, ?, ?, ?)", round, n+1, string(raw),
		chained(before, string(raw)))
	return err
}

// Log is what happened in a round, the earliest first; none for rounds from before this was kept.
func (s *Rounds) Log(round string) ([]LogEntry, error) {
	return gather(s.db, func(scan scanner) (e LogEntry, err error) {
		var raw string
		if err = scan(&raw, &e.Hash); err == nil {
			err = json.Unmarshal([]byte(raw), &e)
		}
		return e, err
	}, "SELECT entry, hash FROM round_log WHERE round = ? ORDER BY n", round)
}

// Checked is what came of looking through a round: its log, and what stands beside it.
type Checked struct {
	Map    string
	Number int
	// Entries is how long the log is, Head the hash of its last entry; whoever filed that can tell whether the log was
	// written anew.
	Entries int
	Head    string
	// Faults say what does not agree; none where all does.
	Faults []string
}

// Verify looks through the logs of all rounds: that no entry was changed or left out, and that who said what, the
// version that was asked about, and the end of the round are as the log says.
func (s *Rounds) Verify() (list []Checked, err error) {
	type round struct {
		id, version string
		Checked
		ended bool
	}
	rounds, err := gather(s.db, func(scan scanner) (r round, err error) {
		err = scan(&r.id, &r.Map, &r.Number, &r.version, &r.ended)
		return r, err
	}, "SELECT id, map, number, version, ended IS NOT NULL FROM rounds ORDER BY map, number")
	if err != nil {
		return nil, err
	}
	for _, r := range rounds {
		if err := s.check(&r.Checked, r.id, r.version, r.ended); err != nil {
			return nil, err
		}
		list = append(list, r.Checked)
	}
	return list, nil
}

func (s *Rounds) check(c *Checked, id, version string, ended bool) error {
	fault := func(format string, args ...any) { c.Faults = append(c.Faults, fmt.Sprintf(format, args...)) }
	type kept struct {
		entry, hash string
		n           int
	}
	entries, err := gather(s.db, func(scan scanner) (k kept, err error) {
		err = scan(&k.n, &k.entry, &k.hash)
		return k, err
	}, "SELECT n, entry, hash FROM round_log WHERE round = ? ORDER BY n", id)
	if err != nil {
		return err
	}
	verdicts, err := s.verdicts(id)
	if err != nil {
		return err
	}
	before, over := id, false
	said := map[string]string{}
	asked := ""
	for i, k := range entries {
		var e LogEntry
		switch {
		case k.n != i+1:
			fault("entry %d of the log is missing", i+1)
		case chained(before, k.entry) != k.hash:
			fault("entry %d of the log is not as it was written", k.n)
		case json.Unmarshal([]byte(k.entry), &e) != nil || e.N != k.n:
			fault("entry %d of the log cannot be read", k.n)
		}
		before = k.hash
		switch e.What {
		case LogBegun:
			asked = e.Of["sha256"]
		case LogSaid:
			said[e.Of["by"]] = e.Of["verdict"] + "\n" + e.Of["reason"] + "\n" + e.Of["signature"]
		case LogEnded:
			over = true
		}
	}
	c.Entries, c.Head = len(entries), before
	if len(entries) == 0 { // a round from before there were logs
		c.Head = ""
		return nil
	}
	for _, v := range verdicts {
		if now := v.Verdict + "\n" + v.Reason + "\n" + v.Signature; v.Verdict != "" && said[v.Who] != now {
			fault("what %s said is not what the log says", v.Name)
		} else if v.Verdict == "" && said[v.Who] != "" {
			fault("what %s said is gone", v.Name)
		}
		delete(said, v.Who)
	}
	for who := range said {
		fault("somebody who said something is gone (%s)", who)
	}
	if ended != over {
		fault("the round is ended in one place and not in the other")
	}
	var packed []byte
	var hash string
	if err := s.db.QueryRow("SELECT document, hash FROM versions WHERE id = ?", version).Scan(&packed,
		&hash); err != nil {
		return err
	}
	raw, err := unpack(packed, content(s.db))
	if err != nil {
		fault("the version that was asked about cannot be read: %v", err)
		return nil
	}
	if now := fingerprint(string(raw)); now != hash || asked != "" && asked != hash {
		fault("the version that was asked about is not as it was")
	}
	return nil
}
