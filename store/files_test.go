package store_test

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"io"
	"testing"
	"testing/iotest"
	"time"

	"plaintracer/core/model"
	"plaintracer/store"
)

func plainType([]byte) (string, error) { return "text/plain", nil }

// A file comes in parts, is kept once for all maps that hold it, and goes when none does.
func TestFiles(t *testing.T) {
	s := open(t, t.TempDir())
	m := model.New("One", model.Rightwards, "A4", true)
	one, err := s.Maps.Create(m)
	two, err2 := s.Maps.Create(m)
	if err = errors.Join(err, err2); err != nil {
		t.Fatal(err)
	}
	data := bytes.Repeat([]byte("0123456789abcdef"), 150_000) // two parts and a bit
	upload, err := s.Files.Begin(one, "a.txt", len(data), 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Files.Complete(one, upload, plainType); err == nil {
		t.Error("a file is whole of which nothing has come")
	}
	var fault *store.PartFault
	if _, err := s.Files.Add(one, upload, 5, data[5:10]); !errors.As(err, &fault) {
		t.Errorf("a part from further on is taken: %v", err)
	}
	if _, err := s.Files.Add(two, upload, 0, data[:10]); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another map takes the part: %v", err)
	}
	for at := 0; at < len(data); {
		part := data[at:min(at+store.MaxPart, len(data))]
		come, err := s.Files.Add(one, upload, at, part)
		if err != nil || come != at+len(part) {
			t.Fatalf("%d have come, %v", come, err)
		}
		if again, err := s.Files.Add(one, upload, at, part); err != nil || again != come { // its answer was lost
			t.Fatalf("sent again, %d have come, %v", again, err)
		}
		at = come
	}
	if _, err := s.Files.Add(one, upload, len(data), []byte("more")); !errors.As(err, &fault) {
		t.Errorf("more is taken than there is: %v", err)
	}
	f, err := s.Files.Complete(one, upload, plainType)
	if err != nil || f.ID != model.FileID(sha256.Sum256(data)) || f.Size != len(data) || f.Name != "a.txt" {
		t.Fatalf("%+v, %v", f, err)
	}
	if _, err := s.Files.Open(two, f.ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a map that does not hold the file opens it: %v", err)
	}
	if g, err := s.Files.Put(two, "b.txt", len(data), 0, bytes.NewReader(data), plainType); err != nil || g.ID != f.ID {
		t.Fatalf("%+v, %v", g, err)
	}
	if n, err := s.Files.Total(); err != nil || n != int64(len(data)) {
		t.Errorf("kept once it takes %d, %v", n, err)
	}
	if _, err := s.Files.Begin(one, "c", 10, int64(len(data))+5); !errors.Is(err, store.ErrNoRoom) {
		t.Errorf("there is room: %v", err)
	}
	for range 5 { // many on their way at once count together
		_, err = s.Files.Begin(one, "large", model.MaxFiles, 0)
	}
	if !errors.Is(err, store.ErrHeldTooMuch) {
		t.Errorf("a map takes more than it may ever keep: %v", err)
	}
	if err := s.Files.Tidy(time.Now().Add(25 * time.Hour)); err != nil {
		t.Fatal(err)
	}
	c, err := s.Files.Open(two, f.ID)
	if err != nil {
		t.Fatal(err)
	}
	if err := iotest.TestReader(io.NewSectionReader(c, 1<<20-100, 300), data[1<<20-100:1<<20+200]); err != nil {
		t.Error(err)
	}
	if got, err := io.ReadAll(c); err != nil || !bytes.Equal(got, data) {
		t.Errorf("%d bytes come back, %v", len(got), err)
	}
	for _, id := range []string{one, two} {
		if err := s.Files.Tidy(time.Now()); err != nil {
			t.Fatal(err)
		}
		if n, _ := s.Files.Total(); n != int64(len(data)) {
			t.Errorf("%d are left while %s holds it", n, id)
		}
		if err := s.Maps.Bin(id); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Maps.Empty(time.Now().Add(store.BinTime + time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.Files.Begin(one, "left", 10, 0); err != nil {
		t.Fatal(err)
	}
	if err := s.Files.Tidy(time.Now().Add(25 * time.Hour)); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Files.Total(); err != nil || n != 0 {
		t.Errorf("%d are left, %v", n, err)
	}
}
