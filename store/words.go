package store

import (
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"log"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/values"
)

// What is written in maps is noted for the search (SQLite FTS5) soon after it has changed, by a goroutine of its own, so
// that no edit waits for it. A search first notes what has changed since.

// indexWait is how long changes are gathered before their words are noted.
const indexWait = time.Second

// besideShare is how much of the time is spent on it while nobody waits for it.
const besideShare = 0.1

// wake tells that maps have changed.
func (s *Store) wake() {
	select {
	case s.changes <- struct{}{}:
	default:
	}
}

// keepIndex notes the words of maps as they change, until the store is closed.
func (s *Store) keepIndex() {
	for {
		if err := s.catchUp(time.Hour, besideShare); err != nil && s.alive() {
			log.Printf("noting words for the search: %v", err)
		}
		select {
		case <-s.changes:
		case <-s.closed:
			return
		}
		select {
		case <-time.After(indexWait):
		case <-s.closed:
			return
		}
	}
}

func (s *Store) alive() bool {
	select {
	case <-s.closed:
		return false
	default:
		return true
	}
}

// catchUp notes the words of all maps that have changed since theirs were noted, as far as it comes in a time. Of that time it
// works a share, from 0 to 1, so that those who edit meanwhile hardly wait for it.
func (s *Store) catchUp(within time.Duration, share float64) error {
	late := time.Now().Add(within)
	for last := ""; s.alive() && time.Now().Before(late); {
		begun := time.Now()
		next, err := s.catchUpAfter(last)
		if err != nil || next == "" {
			return err
		}
		last = next
		if rest := time.Duration(float64(time.Since(begun)) * (1/share - 1)); rest > 0 {
			select {
			case <-time.After(rest):
			case <-s.closed:
			}
		}
	}
	return nil
}

// catchUpAfter notes the words of some maps, those whose ids follow one, and returns the last of these; nothing where there was
// none left.
func (s *Store) catchUpAfter(id string) (last string, err error) {
	s.indexing.Lock()
	defer s.indexing.Unlock()
	behind, err := gather(s.db, func(scan scanner) (id string, err error) {
		err = scan(&id)
		return id, err
	}, "SELECT id FROM maps WHERE indexed < revision AND binned IS NULL AND id > ? ORDER BY id LIMIT ?", id, indexedTogether)
	if err != nil || len(behind) == 0 {
		return "", err
	}
	var list []*mapWords
	for _, id := range behind {
		one, err := s.read(id)
		if err != nil && !errors.Is(err, ErrNotFound) {
			log.Printf("map %s: reading its words: %v", id, err) // the others are noted all the same
		}
		if err == nil {
			list = append(list, one)
		}
	}
	last = behind[len(behind)-1]
	err = s.transact(func(tx *sql.Tx) error {
		for _, one := range list {
			if err := one.note(tx); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil && cannotWrite(err) != "" {
		return last, err
	}
	for _, one := range list {
		if err != nil { // one of them is at fault
			if fault := s.transact(one.note); fault != nil {
				log.Printf("map %s: noting its words: %v", one.id, fault)
				continue
			}
		}
		s.noted[one.id] = one.sum
	}
	return last, nil
}

// indexedTogether is how many maps are noted in one transaction.
const indexedTogether = 4

// How long those who look wait for what has changed to be noted: it is all of it, except just after a program that noted
// none has been replaced.
const (
	searchWait = 5 * time.Second
	listWait   = 100 * time.Millisecond
)

// indexChanges notes what has changed before somebody looks, as far as it comes in a time.
func (s *Store) indexChanges(within time.Duration) {
	if s.readOnly != "" {
		return
	}
	if err := s.catchUp(within, 1); err != nil {
		log.Printf("noting words for the search: %v", err)
	}
}

// line is a text of a map as the search finds it.
type line struct{ kind, item, text string }

// How a text is told what it is.
const (
	titleLine = "title"
	sheetLine = "sheet"
	laneLine  = "lane"
	stageLine = "stage"
	stepLine  = "step"
	labelLine = "answer"
	fieldLine = "field"
)

// lines are the texts of a map.
func lines(m *model.Map) []line {
	list := []line{{titleLine, "", m.Title}}
	for _, sheet := range m.Sheets {
		list = append(list, line{sheetLine, sheet.ID, sheet.Name})
		for _, p := range sheet.Pools {
			if p.Title != m.Title {
				list = append(list, line{laneLine, p.ID, p.Title})
			}
			for _, l := range p.Lanes {
				list = append(list, line{laneLine, l.ID, l.Name})
			}
			for _, st := range p.Stages {
				list = append(list, line{stageLine, st.ID, st.Name})
			}
		}
		for _, sym := range sheet.Symbols {
			list = append(list, line{stepLine, sym.ID, sym.Text})
			for _, v := range sym.Values {
				// Numbers, durations and the like are for the register's filters.
				if f := m.Field(v.ID); f != nil && slices.Contains([]values.Type{values.Text, values.Long, values.Person, values.Choice}, f.Type) {
					list = append(list, line{fieldLine, sym.ID, f.Name + ": " + v.Text})
				}
			}
		}
		for _, c := range sheet.Connectors {
			if len([]rune(c.Text)) > 3 { // Yes and No are found everywhere
				list = append(list, line{labelLine, c.ID, c.Text})
			}
		}
	}
	return list
}

// mostLines is how many texts of a map are noted; rows of a map have numbers from its own times this.
const mostLines = 1 << 20

// mapWords is what the search is to know of a map as of a revision.
type mapWords struct {
	id                string
	at, sheets, steps int
	texts             []line
	// sum is a hash of the texts; same says that it is what was noted last, so that only what else there is changes.
	sum  [32]byte
	same bool
}

// read reads what the search is to know of a map. One that was not in memory is not kept there.
func (s *Store) read(id string) (*mapWords, error) {
	s.mu.Lock()
	d := s.open[id]
	s.mu.Unlock()
	held := d != nil && d.inMemory()
	d, err := s.Document(id)
	if err != nil {
		return nil, err
	}
	out := &mapWords{id: id}
	d.View(func(m *model.Map, revision int) {
		out.at, out.sheets, out.texts = revision, len(m.Sheets), lines(m)
		out.steps = len(numbering.Of(flow.New(m)))
	})
	if !held {
		d.letGo(time.Now().Add(time.Second))
	}
	hash := sha256.New()
	for _, l := range out.texts {
		fmt.Fprintf(hash, "%q %q %q\n", l.kind, l.item, l.text)
	}
	hash.Sum(out.sum[:0])
	out.same = s.noted[id] == out.sum
	return out, nil
}

// note notes the words of a map, and how much there is in it.
func (f *mapWords) note(tx *sql.Tx) error {
	if f.same {
		_, err := tx.Exec("UPDATE maps SET indexed = ?, sheets = ?, steps = ? WHERE id = ?", f.at, f.sheets, f.steps, f.id)
		return err
	}
	var number int64
	if err := tx.QueryRow("SELECT number FROM maps WHERE id = ?", f.id).Scan(&number); err != nil {
		return err
	}
	if err := unindex(tx, number); err != nil {
		return err
	}
	put, err := tx.Prepare("INSERT INTO words (rowid, text, map, item, kind) VALUES (?, ?, ?, ?, ?)")
	if err != nil {
		return err
	}
	defer put.Close()
	for i, l := range f.texts {
		text := strings.Join(strings.Fields(l.text), " ")
		if text == "" || i >= mostLines {
			continue
		}
		if _, err := put.Exec(number*mostLines+int64(i), text, f.id, l.item, l.kind); err != nil {
			return err
		}
	}
	_, err = tx.Exec("UPDATE maps SET indexed = ?, sheets = ?, steps = ? WHERE id = ?", f.at, f.sheets, f.steps, f.id)
	return err
}

// unindex forgets the words of a map, by its number.
func unindex(tx *sql.Tx, number int64) error {
	_, err := tx.Exec("DELETE FROM words WHERE rowid >= ? AND rowid < ?", number*mostLines, (number+1)*mostLines)
	return err
}

// Search returns the maps, by their numbers, that hold a text in which all words of a query stand, or begin.
func (s *Store) Search(query string) (numbers map[int64]bool, err error) {
	s.indexChanges(searchWait)
	match := matching(query)
	if match == "" {
		return nil, nil
	}
	rows, err := s.db.Query("SELECT DISTINCT rowid / ? FROM words WHERE words MATCH ?", mostLines, match)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	numbers = map[int64]bool{}
	for rows.Next() {
		var n int64
		if err := rows.Scan(&n); err != nil {
			return nil, err
		}
		numbers[n] = true
	}
	return numbers, rows.Err()
}

// Hit is a text of a map in which all words that were sought stand: that of an item, or of the map itself where Item is
// empty.
type Hit struct{ Item, Kind, Text string }

// Hits returns the texts of a map, by its number, in which all words of a query stand, at most so many. They are looked for
// among those of the map, which is quicker than to ask the index of all maps for each.
func (s *Store) Hits(query string, number int64, most int) (list []Hit, err error) {
	sought := wordsOf(query)
	rows, err := s.db.Query("SELECT item, kind, text FROM words WHERE rowid >= ? AND rowid < ? ORDER BY rowid", number*mostLines, (number+1)*mostLines)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() && len(list) < most {
		var h Hit
		if err := rows.Scan(&h.Item, &h.Kind, &h.Text); err != nil {
			return nil, err
		}
		there := wordsOf(h.Text)
		if !slices.ContainsFunc(sought, func(w string) bool {
			return !slices.ContainsFunc(there, func(t string) bool { return strings.HasPrefix(t, w) })
		}) {
			list = append(list, h)
		}
	}
	return list, rows.Err()
}

// wordsOf parts a text into words as the index does: in small letters, without accents.
func wordsOf(text string) []string {
	plain := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFD.String(text))
	return strings.FieldsFunc(plain, noWord)
}

// noWord reports a character that parts words.
func noWord(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.IsMark(r) }

// matching writes a query as FTS5 asks for it (sqlite.org/fts5.html, 3): every word, or its beginning. What is not a letter
// or number only parts words.
func matching(query string) string {
	words := strings.FieldsFunc(query, noWord)
	if len(words) > 12 {
		words = words[:12]
	}
	for i, w := range words {
		if r := []rune(w); len(r) > 60 {
			w = string(r[:60])
		}
		words[i] = `"` + w + `"*`
	}
	return strings.Join(words, " ")
}
