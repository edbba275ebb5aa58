package main

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"plaintracer/app/house"
	"plaintracer/core/edit"
	"plaintracer/core/scene"
)

// older are the folders of testdata with what earlier programs have written: a database, and
// what the maps in it were and looked like then.
var older = []string{"format-1"}

// inflated returns what a compressed file of testdata holds.
func inflated(t *testing.T, path string) []byte {
	t.Helper()
	f, err := os.Open(filepath.Join("testdata", path))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// hints are what the pointer finds in a picture, which are none of its looks.
var hints = regexp.MustCompile(`(<g [^>]*>)<title>[^<]*</title>`)

// A database of an earlier program opens: every map is what it was, to the byte of its file and
// of its pictures; it takes edits, and is the same when it is opened once more. Where a later
// program draws lines better, the pictures here are those it makes.
func TestOlderDatabasesOpen(t *testing.T) {
	for _, name := range older {
		folder := t.TempDir()
		if err := os.WriteFile(filepath.Join(folder, "plaintracer.db"), inflated(t, name+"/plaintracer.db.gz"),
			0o600); err != nil {
			t.Fatal(err)
		}
		var maps []struct {
			ID, Title string
			Revision  int
			Map       json.RawMessage
			SVG       []string
		}
		if err := json.Unmarshal(inflated(t, name+"/maps.json.gz"), &maps); err != nil {
			t.Fatal(err)
		}
		for pass := range 2 {
			s, err := house.Open(folder)
			if err != nil {
				t.Fatal(err)
			}
			for _, was := range maps {
				d, err := s.Documents.Open(was.ID)
				if err != nil {
					t.Fatalf("%s: %q: %v", name, was.Title, err)
				}
				m, revision := d.Snapshot()
				var want bytes.Buffer
				if err := json.Compact(&want, was.Map); err != nil {
					t.Fatal(err)
				}
				got, err := json.Marshal(m)
				if err != nil {
					t.Fatal(err)
				}
				if !bytes.Equal(got, want.Bytes()) || revision != was.Revision+2*pass || d.Damage() != "" {
					t.Errorf("%s: %q is at revision %d, not %d; damage %q; it is\n%s\nnot\n%s", name, was.Title,
						revision, was.Revision+2*pass, d.Damage(), got, want.Bytes())
				}
				for i, sheet := range m.Sheets {
					picture := hints.ReplaceAll(scene.Draw(m, sheet).AppendSVG(nil), []byte("$1"))
					if sum := sha256.Sum256(picture); hex.EncodeToString(sum[:]) != was.SVG[i] {
						t.Errorf("%s: sheet %q of %q looks different: %x", name, sheet.Name, was.Title, sum)
					}
				}
				if pass == 0 { // an edit that changes nothing of what is compared
					numbers := m.Numbers
					other := !numbers
					for k, v := range []*bool{&other, &numbers} {
						if _, err := d.Apply("wlater0001", 1+k, &edit.SetHead{Numbers: v}); err != nil {
							t.Errorf("%s: %q takes no edit: %v", name, was.Title, err)
						}
					}
				}
			}
			if err := s.Close(); err != nil {
				t.Fatal(err)
			}
		}
	}
}
