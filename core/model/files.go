package model

import (
	"encoding/base64"
	"fmt"
	"iter"
	"slices"
	"strings"
)

// The bounds of files kept with a map, in bytes, and how many there are.
const (
	MaxFile      = 20 << 20
	MaxFiles     = 200 << 20
	MaxFileCount = 500
)

// File is a file kept with a map: what it is called and what it is. Its content is kept beside the map, once, under its
// id, which says what the content is. Links lead to it by that.
type File struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Type is the media type of the content, Size its length in bytes.
	Type string `json:"type"`
	Size int    `json:"size"`
	// By is who brought it.
	By string `json:"by,omitempty"`
}

// fileMark begins the ids of files, so that they are told from those of steps and sheets.
const fileMark = "file-"

// FileID is the id of a file: the SHA-256 sum of its content, in the alphabet of ids (RFC 4648, 5).
func FileID(sum [32]byte) string { return fileMark + base64.RawURLEncoding.EncodeToString(sum[:]) }

// IsFileID reports whether an id is one that a file can have.
func IsFileID(id string) bool {
	code, ok := strings.CutPrefix(id, fileMark)
	if !ok {
		return false
	}
	sum, err := base64.RawURLEncoding.Strict().DecodeString(code)
	return err == nil && len(sum) == 32
}

// Check reports the first fault of a file's record.
func (f *File) Check() error {
	switch {
	case !IsFileID(f.ID):
		return fault("id", "%.80q is no id of a file", f.ID)
	case strings.TrimSpace(f.Name) == "" || len([]rune(f.Name)) > MaxName || strings.ContainsFunc(f.Name, isControl) ||
		strings.ContainsAny(f.Name, `/\`):
		return fault("name", "%.80q is no name of a file", f.Name)
	case f.Type == "" || len(f.Type) > 200 || strings.ContainsFunc(f.Type, func(r rune) bool {
		return r < ' ' || r > '~'
	}):
		return fault("type", "%.80q is no type of a file", f.Type)
	case f.Size < 1 || f.Size > MaxFile:
		return fault("size", "a file kept with a map has 1 byte to %d MB", MaxFile>>20)
	case len([]rune(f.By)) > MaxName || strings.ContainsFunc(f.By, isControl):
		return fault("by", "the name of who brought it is too long, or holds signs that cannot be shown")
	}
	return nil
}

// File returns the file with this id, or nil.
func (m *Map) File(id string) *File {
	if i := slices.IndexFunc(m.Files, func(f File) bool { return f.ID == id }); i >= 0 {
		return &m.Files[i]
	}
	return nil
}

// Lead is a link with the sheet and the id of what it stands on.
type Lead struct {
	Sheet *Sheet
	On    string
	Link  Hyperlink
}

// Leads yields every link that stands on something of the map, sheet by sheet.
func (m *Map) Leads() iter.Seq[Lead] {
	return func(yield func(Lead) bool) {
		for _, s := range m.Sheets {
			for l := range s.LeadsOut() {
				if !yield(l) {
					return
				}
			}
		}
	}
}

// LeadsOut yields every link that stands on a symbol, connector or lane of the sheet.
func (s *Sheet) LeadsOut() iter.Seq[Lead] {
	return func(yield func(Lead) bool) {
		all := func(on string, list []Hyperlink) bool {
			return !slices.ContainsFunc(list, func(l Hyperlink) bool { return !yield(Lead{s, on, l}) })
		}
		for _, sym := range s.Symbols {
			if !all(sym.ID, sym.Links) {
				return
			}
		}
		for _, c := range s.Connectors {
			if !all(c.ID, c.Links) {
				return
			}
		}
		for _, p := range s.Pools {
			for i := range p.Lanes {
				if !all(p.Lanes[i].ID, p.Lanes[i].Links) {
					return
				}
			}
		}
	}
}

// Attached returns the files to which a link leads, in their order. What no link leads to any more stays in the map for
// those who take back what they did, and is neither shown nor handed on.
func (m *Map) Attached() []File {
	if len(m.Files) == 0 {
		return nil
	}
	led := map[string]bool{}
	for l := range m.Leads() {
		if id, ok := strings.CutPrefix(l.Link.To, "#"); ok {
			led[id] = true
		}
	}
	return slices.DeleteFunc(slices.Clone(m.Files), func(f File) bool { return !led[f.ID] })
}

// AdmitFile reports why a file cannot come to the map. One that is there already can.
func (m *Map) AdmitFile(f *File) error {
	if err := f.Check(); err != nil || m.File(f.ID) != nil {
		return err
	}
	list := m.Attached()
	if len(list) >= MaxFileCount {
		return fault("files", "at most %d files are kept with a map", MaxFileCount)
	}
	return roomFor(append(list, *f))
}

func roomFor(list []File) error {
	size := 0
	for i := range list {
		size += list[i].Size
	}
	if size > MaxFiles {
		return fault("files", "the files kept with a map take at most %d MB together", MaxFiles>>20)
	}
	return nil
}

func (m *Map) validateFiles() error {
	seen := map[string]bool{}
	for i := range m.Files {
		f := &m.Files[i]
		if err := f.Check(); err != nil {
			return fault(fmt.Sprintf("files[%d]", i), "%s", err)
		}
		if seen[f.ID] {
			return fault(fmt.Sprintf("files[%d].id", i), "the file stands there twice")
		}
		seen[f.ID] = true
	}
	return nil
}
