// Package bundle writes and reads *.tracer.zip: a ZIP archive with a map file and the files kept with the map, as
// docs/format.md describes it. Nothing of an archive is ever written to a disk by the name it has there, and none of
// its entries is believed about its size.
package bundle

import (
	"archive/zip"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"strings"

	"plaintracer/core/model"
	"plaintracer/exchange/tracerjson"
)

// Ending is that of the names of such archives.
const Ending = ".tracer.zip"

const (
	mapName = "map.tracer.json"
	folder  = "files/"
	// MaxSize is the largest archive that is read.
	MaxSize = tracerjson.MaxSize + model.MaxFiles + 8<<20
	// directory is how much may be read of an archive to learn what is in it; some 20,000 entries have room in that.
	directory = 2 << 20
)

// Write writes an archive of a map file and the files that go with it. Content opens one; what is not there is left
// out.
func Write(w io.Writer, file []byte, files []model.File, content func(id string) (io.Reader, error)) error {
	z := zip.NewWriter(w)
	add := func(name string, r io.Reader) error {
		out, err := z.Create(name)
		if err == nil {
			_, err = io.Copy(out, r)
		}
		return err
	}
	if err := add(mapName, strings.NewReader(string(file))); err != nil {
		return err
	}
	used := map[string]bool{}
	for _, f := range files {
		r, err := content(f.ID)
		if errors.Is(err, ErrMissing) {
			continue
		}
		if err == nil {
			err = add(folder+unused(used, f.Name), r)
		}
		if err != nil {
			return err
		}
	}
	return z.Close()
}

// ErrMissing is returned for the content of a file that is not kept.
var ErrMissing = errors.New("the file is not kept here")

// unused returns a name that no other entry has, also where capital and small letters are the same.
func unused(used map[string]bool, name string) string {
	try := name
	for n := 2; used[strings.ToLower(try)]; n++ {
		try = fmt.Sprintf("%d %s", n, name)
	}
	used[strings.ToLower(try)] = true
	return try
}

// Looks reports whether data begins like an archive of files.
func Looks(begin []byte) bool { return strings.HasPrefix(string(begin), "PK\x03\x04") }

// Bundle is an archive that is read.
type Bundle struct {
	// Map is the map file in it.
	Map     []byte
	entries map[string]*zip.File
}

// Open reads what is in an archive: its map file, and which files there are, by their contents. Every error that is the
// archive's is a *tracerjson.Fault.
func Open(r io.ReaderAt, size int64) (*Bundle, error) {
	if size > MaxSize {
		return nil, wrong("the archive is larger than %d MB", MaxSize>>20)
	}
	limited := &rationed{r: r, left: directory}
	z, err := zip.NewReader(limited, size)
	if err != nil {
		return nil, wrong("the archive cannot be read: %s", err)
	}
	limited.left = -1
	b := &Bundle{entries: map[string]*zip.File{}}
	left := int64(model.MaxFiles)
	for _, e := range z.File {
		if strings.HasSuffix(e.Name, "/") {
			continue
		}
		if strings.EqualFold(e.Name, mapName) {
			if b.Map, err = read(e, tracerjson.MaxSize); err != nil {
				return nil, err
			}
			continue
		}
		if !strings.HasPrefix(e.Name, folder) {
			continue
		}
		sum := sha256.New()
		n, err := pour(sum, e, min(model.MaxFile, left))
		if err != nil {
			return nil, err
		}
		left -= n
		b.entries[model.FileID([32]byte(sum.Sum(nil)))] = e
	}
	if b.Map == nil {
		return nil, wrong("there is no %s in the archive", mapName)
	}
	return b, nil
}

// Has returns how large the file with an id is, and whether it is in the archive.
func (b *Bundle) Has(id string) (size int, ok bool) {
	e := b.entries[id]
	if e == nil {
		return 0, false
	}
	return int(e.UncompressedSize64), true
}

// File opens the file with an id; the error is ErrMissing where it is not in the archive.
func (b *Bundle) File(id string) (io.ReadCloser, error) {
	if e := b.entries[id]; e != nil {
		return e.Open()
	}
	return nil, ErrMissing
}

func read(e *zip.File, most int64) ([]byte, error) {
	var out strings.Builder
	if _, err := pour(&out, e, most); err != nil {
		return nil, err
	}
	return []byte(out.String()), nil
}

// pour writes an entry, of so many bytes at most, which have to be as many as it says.
func pour(w io.Writer, e *zip.File, most int64) (int64, error) {
	r, err := e.Open()
	if err != nil {
		return 0, wrong("%.80q in the archive cannot be read: %s", e.Name, err)
	}
	defer r.Close()
	n, err := io.Copy(w, io.LimitReader(r, most+1))
	switch {
	case n > most:
		return n, wrong("%.80q in the archive is larger than it may be", e.Name)
	case err != nil:
		return n, wrong("%.80q in the archive cannot be read: %s", e.Name, err)
	case uint64(n) != e.UncompressedSize64:
		return n, wrong("%.80q in the archive is not as long as it says", e.Name)
	}
	return n, nil
}

func wrong(format string, args ...any) error {
	return &tracerjson.Fault{Text: fmt.Sprintf(format, args...)}
}

// rationed lets so many bytes be read; less than none is no bound.
type rationed struct {
	r    io.ReaderAt
	left int
}

func (l *rationed) ReadAt(p []byte, off int64) (int, error) {
	if l.left >= 0 {
		if len(p) > l.left {
			return 0, errors.New("there are too many entries in it")
		}
		l.left -= len(p)
	}
	return l.r.ReadAt(p, off)
}
