package store

import (
	"database/sql"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Words is the index of what is written in maps (SQLite FTS5).
type Words struct{ *database }

// MapTexts is what the search is to know of a map as of a revision.
type MapTexts struct {
	Map                     string
	Revision, Sheets, Steps int
	Texts                   []Hit
	// Same says that the texts are those that were noted last, so that only what else there is changes.
	Same bool
}

// mostLines is how many texts of a map are noted; rows of a map have numbers from its own times this.
const mostLines = 1 << 20

// Changed tells that maps have changed since it was last asked.
func (s *Words) Changed() <-chan struct{} { return s.changes }

// wake tells that maps have changed.
func (s *database) wake() {
	select {
	case s.changes <- struct{}{}:
	default:
	}
}

// Behind returns the ids of maps in use whose texts have changed since they were noted, at most so many that follow
// one.
func (s *Words) Behind(after string, most int) ([]string, error) {
	return gather(s.db, func(scan scanner) (id string, err error) {
		err = scan(&id)
		return id, err
	}, "SELECT id FROM maps WHERE indexed < revision AND binned IS NULL AND id > ? ORDER BY id LIMIT ?", after, most)
}

// Note notes the texts of maps, of all or of none.
func (s *Words) Note(list ...*MapTexts) error {
	return s.transact(func(tx *sql.Tx) error {
		for _, one := range list {
			if err := one.note(tx); err != nil {
				return err
			}
		}
		return nil
	})
}

// note notes the words of a map, and how much there is in it.
func (f *MapTexts) note(tx *sql.Tx) error {
	if f.Same {
		_, err := tx.Exec("UPDATE maps SET indexed = ?, sheets = ?, steps = ? WHERE id = ?", f.Revision, f.Sheets,
			f.Steps, f.Map)
		return err
	}
	var number int64
	if err := tx.QueryRow("SELECT number FROM maps WHERE id = ?", f.Map).Scan(&number); err != nil {
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
	for i, l := range f.Texts {
		text := strings.Join(strings.Fields(l.Text), " ")
		if text == "" || i >= mostLines {
			continue
		}
		if _, err := put.Exec(number*mostLines+int64(i), text, f.Map, l.Item, l.Kind); err != nil {
			return err
		}
	}
	_, err = tx.Exec("UPDATE maps SET indexed = ?, sheets = ?, steps = ? WHERE id = ?", f.Revision, f.Sheets, f.Steps,
		f.Map)
	return err
}

// unindex forgets the words of a map, by its number.
func unindex(tx *sql.Tx, number int64) error {
	_, err := tx.Exec("DELETE FROM words WHERE rowid >= ? AND rowid < ?", number*mostLines, (number+1)*mostLines)
	return err
}

// Search returns the maps, by their numbers, that hold a text in which all words of a query stand, or begin.
func (s *Words) Search(query string) (numbers map[int64]bool, err error) {
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

// Hits returns the texts of a map, by its number, in which all words of a query stand, at most so many. They are looked
// for among those of the map, which is quicker than to ask the index of all maps for each.
func (s *Words) Hits(query string, number int64, most int) (list []Hit, err error) {
	sought := wordsOf(query)
	rows, err := s.db.Query("SELECT item, kind, text FROM words WHERE rowid >= ? AND rowid < ? ORDER BY rowid",
		number*mostLines, (number+1)*mostLines)
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

// matching writes a query as FTS5 asks for it (sqlite.org/fts5.html, 3): every word, or its beginning. What is not a
// letter or number only parts words.
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
