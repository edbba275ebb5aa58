package store

import (
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"time"

	"plaintracer/core/model"
)

// PartFault says why a part of a file cannot be taken.
type PartFault struct{ text string }

func (f *PartFault) Error() string { return f.text }

// Files are the contents of the files kept with maps. Each is kept once, in parts, and as long as a map keeps it.
type Files struct{ *database }

// MaxPart is the most of a file that comes at once, in bytes.
const MaxPart = 1 << 20

// HeadSize is how much of a file says what it is, in bytes.
const HeadSize = 4 << 10

// uploadTime is how long a file may be on its way.
const uploadTime = 24 * time.Hour

// ErrNoRoom is returned where the files of the organisation take all the room they may.
var ErrNoRoom = errors.New("the files of this organisation take all the room that is given to them")

// mostEver is what the files take together that a map has ever kept, those included that were taken off it since and
// could be brought back: so much that nobody meets it in work, and nobody who sends files for their own sake fills the
// house.
const mostEver = 5 * model.MaxFiles

// ErrHeldTooMuch is returned where a map has kept too much.
var ErrHeldTooMuch = errors.New("this map has kept so many files, those included that were taken off it, that no more are taken")

// Begin notes that a file of a size is on its way to a map, and returns the name of its upload. All files of the
// organisation take at most so many bytes together; zero for no bound.
func (s *Files) Begin(id, name string, size int, most int64) (upload string, err error) {
	upload = token(20)
	return upload, s.transact(func(tx *sql.Tx) error {
		var all int64
		if err := tx.QueryRow("SELECT coalesce(sum(size), 0) FROM files").Scan(&all); err != nil {
			return err
		}
		if most > 0 && all+int64(size) > most {
			return ErrNoRoom
		}
		var own int64
		if err := tx.QueryRow(`SELECT (SELECT coalesce(sum(size), 0) FROM files WHERE map = ?) +
			(SELECT coalesce(sum(f.size), 0) FROM kept k JOIN files f ON f.id = k.file WHERE k.holder = ?)`, id,
			id).Scan(&own); err != nil {
			return err
		}
		if own+int64(size) > mostEver {
			return ErrHeldTooMuch
		}
		_, err := tx.Exec("INSERT INTO files (size, begun, upload, map, name) VALUES (?, ?, ?, ?, ?)",
			size, now(), upload, id, name)
		return err
	})
}

// Add keeps a part of a file that is on its way to a map, from a place on. It returns how much has come; a part that
// has come before is passed over, so that it can be sent again. The parts have to come one after the other.
func (s *Files) Add(id, upload string, at int, data []byte) (come int, err error) {
	return come, s.transact(func(tx *sql.Tx) error {
		var number int64
		var size int
		err := tx.QueryRow("SELECT number, size FROM files WHERE upload = ? AND map = ?", upload, id).Scan(&number,
			&size)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrNotFound
		}
		if err != nil {
			return err
		}
		if err := tx.QueryRow("SELECT coalesce(sum(length(data)), 0) FROM file_parts WHERE file = ?",
			number).Scan(&come); err != nil {
			return err
		}
		if at != come {
			if at < come {
				return nil
			}
			return &PartFault{fmt.Sprintf("%d bytes of the file have come, and this part begins at %d", come, at)}
		}
		if come += len(data); come > size || len(data) == 0 || len(data) > MaxPart {
			return &PartFault{fmt.Sprintf("the part of %d bytes from %d on is none of a file of %d", len(data), at,
				size)}
		}
		_, err = tx.Exec("INSERT INTO file_parts (file, at, data) VALUES (?, ?, ?)", number, at, data)
		return err
	})
}

// Complete ends an upload of which all has come: the file is kept with its map from then on. typeOf says what a content
// is by how it begins.
func (s *Files) Complete(id, upload string, typeOf func(begin []byte) (string, error)) (f model.File, err error) {
	var number int64
	err = s.db.QueryRow("SELECT number, name, size FROM files WHERE upload = ? AND map = ?", upload, id).
		Scan(&number, &f.Name, &f.Size)
	if errors.Is(err, sql.ErrNoRows) {
		return f, ErrNotFound
	}
	if err != nil {
		return f, err
	}
	sum, begin := sha256.New(), []byte(nil)
	content := &Content{parts: s, number: number, Size: int64(f.Size)}
	if _, err := io.Copy(sum, io.TeeReader(content, &head{&begin})); err != nil {
		return f, fmt.Errorf("the file has not come whole: %w", err)
	}
	if f.Type, err = typeOf(begin); err != nil {
		return f, err
	}
	f.ID = model.FileID([32]byte(sum.Sum(nil)))
	return f, s.transact(func(tx *sql.Tx) error {
		var known int
		err := tx.QueryRow("SELECT size FROM files WHERE id = ?", f.ID).Scan(&known)
		if err == nil {
			_, err = tx.Exec("DELETE FROM files WHERE number = ?", number)
		} else if errors.Is(err, sql.ErrNoRows) {
			_, err = tx.Exec("UPDATE files SET id = ?, type = ?, upload = NULL, map = NULL, name = '' WHERE number = ?",
				f.ID, f.Type, number)
		}
		if err != nil {
			return err
		}
		return hold(tx, id, f.ID)
	})
}

// Put keeps a file of a size with a map, or whatever else holds files, from a reader.
func (s *Files) Put(id, name string, size int, most int64, r io.Reader,
	typeOf func(begin []byte) (string, error)) (f model.File, err error) {
	upload, err := s.Begin(id, name, size, most)
	if err != nil {
		return f, err
	}
	buf := make([]byte, min(size, MaxPart))
	for at := 0; at < size; {
		n, err := io.ReadFull(r, buf[:min(len(buf), size-at)])
		if err != nil {
			return f, err
		}
		if at, err = s.Add(id, upload, at, buf[:n]); err != nil {
			return f, err
		}
	}
	return s.Complete(id, upload, typeOf)
}

// Whole reports whether all of an upload has come.
func (s *Files) Whole(id, upload string) (bool, error) {
	_, err := s.Upload(id, upload)
	if errors.Is(err, ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

// Upload returns what has come of an upload, to be read; it has to be whole.
func (s *Files) Upload(id, upload string) (*Content, error) {
	c := &Content{parts: s}
	var come int64
	err := s.db.QueryRow(`SELECT number, size, (SELECT coalesce(sum(length(data)), 0) FROM file_parts WHERE file = number)
		FROM files WHERE upload = ? AND map = ?`, upload, id).Scan(&c.number, &c.Size, &come)
	if errors.Is(err, sql.ErrNoRows) || err == nil && come != c.Size {
		return nil, ErrNotFound
	}
	return c, err
}

// Drop forgets an upload.
func (s *Files) Drop(id, upload string) error {
	return found(s.db.Exec("DELETE FROM files WHERE upload = ? AND map = ?", upload, id))
}

// head keeps how something begins.
type head struct{ begin *[]byte }

func (h *head) Write(p []byte) (int, error) {
	if room := HeadSize - len(*h.begin); room > 0 {
		*h.begin = append(*h.begin, p[:min(len(p), room)]...)
	}
	return len(p), nil
}

func hold(tx *sql.Tx, holder, file string) error {
	_, err := tx.Exec("INSERT INTO kept (holder, file) VALUES (?, ?) ON CONFLICT DO NOTHING", holder, file)
	return err
}

// Keep has a map, or a map to begin from, hold a file that is there.
func (s *Files) Keep(holder, file string) error {
	return s.transact(func(tx *sql.Tx) error { return hold(tx, holder, file) })
}

// Holders are the maps that hold a file, and the maps to begin from.
func (s *Files) Holders(file string) ([]string, error) {
	return gather(s.db, func(scan scanner) (holder string, err error) {
		err = scan(&holder)
		return holder, err
	}, "SELECT holder FROM kept WHERE file = ? ORDER BY holder", file)
}

// Total is what all files of the organisation take together, in bytes.
func (s *Files) Total() (size int64, err error) {
	err = s.db.QueryRow("SELECT coalesce(sum(size), 0) FROM files").Scan(&size)
	return size, err
}

// Open returns the content of a file that a map holds, with its type.
func (s *Files) Open(holder, id string) (*Content, error) {
	c := &Content{parts: s}
	err := s.db.QueryRow(`SELECT f.number, f.type, f.size FROM files f JOIN kept k ON k.file = f.id
		WHERE f.id = ? AND k.holder = ?`, id, holder).Scan(&c.number, &c.Type, &c.Size)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	return c, err
}

// Content reads a file part by part: no more of it than one is in memory. It serves one reader at a time.
type Content struct {
	Type   string
	Size   int64
	parts  *Files
	number int64
	// next is where Read goes on.
	next int64
	// part is the one that was read last, and where it begins.
	part []byte
	at   int64
}

// Read implements io.Reader.
func (c *Content) Read(p []byte) (int, error) {
	n, err := c.ReadAt(p[:min(len(p), MaxPart)], c.next)
	c.next += int64(n)
	if n > 0 {
		return n, nil
	}
	return n, err
}

// ReadAt implements io.ReaderAt.
func (c *Content) ReadAt(p []byte, off int64) (n int, err error) {
	for n < len(p) {
		if off >= c.Size || off < 0 {
			return n, io.EOF
		}
		if off < c.at || off >= c.at+int64(len(c.part)) {
			c.part = nil
			err := c.parts.db.QueryRow(`SELECT at, data FROM file_parts WHERE file = ? AND at <= ?
				ORDER BY at DESC LIMIT 1`, c.number, off).Scan(&c.at, &c.part)
			if errors.Is(err, sql.ErrNoRows) || err == nil && off >= c.at+int64(len(c.part)) {
				return n, io.ErrUnexpectedEOF
			}
			if err != nil {
				return n, err
			}
		}
		k := copy(p[n:], c.part[off-c.at:])
		n, off = n+k, off+int64(k)
	}
	return n, nil
}

// Tidy forgets uploads that did not come to an end within a day, and files that nothing holds.
func (s *Files) Tidy(at time.Time) error {
	return s.transact(func(tx *sql.Tx) error {
		_, err := tx.Exec(`DELETE FROM kept WHERE holder NOT IN (SELECT id FROM maps) AND
			holder NOT IN (SELECT 'start:' || id FROM starts)`)
		if err == nil {
			_, err = tx.Exec(`DELETE FROM files WHERE id IS NULL AND begun < ? OR
				id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM kept WHERE file = files.id)`,
				at.Add(-uploadTime).UnixMilli())
		}
		return err
	})
}
