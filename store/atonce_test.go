package store_test

import (
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"plaintracer/app/documents"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// What many commit at once is on the disk when each is answered, in fewer transactions than there are edits; what one
// of them cannot do harms none of the others.
func TestCommitsAtOnce(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	const maps, edits = 12, 25
	var docs []*documents.Document
	for k := range maps {
		id, err := s.Maps.Create(model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true))
		if err != nil {
			t.Fatal(err)
		}
		d, err := s.Documents.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		docs = append(docs, d)
	}
	before := s.Transactions()
	var all sync.WaitGroup
	for k, d := range docs {
		all.Go(func() {
			for n := 1; n <= edits; n++ {
				title := fmt.Sprintf("Map %d, edit %d", k, n)
				if revision, err := d.Apply("w1", n, &edit.SetHead{Title: &title}); err != nil || revision != n {
					t.Errorf("map %d, edit %d: revision %d, %v", k, n, revision, err)
					return
				}
			}
		})
	}
	wrong := errors.New("not this one")
	for n := range 40 {
		all.Go(func() {
			var want error
			if n%2 == 0 {
				want = wrong
			}
			if err := s.CommitTogether(func(tx *sql.Tx) error {
				if _, err := tx.Exec("INSERT INTO settings (name, value) VALUES (?, x'00') ON CONFLICT DO NOTHING",
					fmt.Sprint("mark ", n)); err != nil {
					return err
				}
				return want
			}); !errors.Is(err, want) {
				t.Errorf("job %d: %v, not %v", n, err, want)
			}
		})
	}
	all.Go(func() {
		if err := s.CommitTogether(func(*sql.Tx) error { panic("a fault") }); err == nil {
			t.Error("a panic is answered as done")
		}
	})
	all.Wait()
	if n := s.Transactions() - before; n >= maps*edits {
		t.Errorf("%d edits took %d transactions", maps*edits, n)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if err := s.CommitTogether(func(*sql.Tx) error { return nil }); err == nil {
		t.Error("after the end something is answered as done")
	}
	db, err := sql.Open("sqlite", filepath.Join(folder, "plaintracer.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var marks int
	if err := db.QueryRow("SELECT count(*) FROM settings WHERE name LIKE 'mark %'").Scan(&marks); err != nil ||
		marks != 20 {
		t.Errorf("%d marks are there, %v", marks, err)
	}
	r := open(t, folder)
	for k, d := range docs {
		again, err := r.Documents.Open(d.ID)
		if err != nil {
			t.Fatal(err)
		}
		if m, revision := again.Snapshot(); revision != edits || m.Title != fmt.Sprintf("Map %d, edit %d", k, edits) {
			t.Errorf("map %d is at %d, %q", k, revision, m.Title)
		}
	}
}

// A map that takes long to read keeps nobody from others, from opening them, from moving them to the bin or from
// tidying up; and an edit is told at once that its map is in the bin.
func TestASlowMapHoldsUpNobodyAtOnce(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "data"))
	var ids []string
	for k := range 3 {
		id, err := s.Maps.Create(model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true))
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	slow, err := s.Documents.Open(ids[0])
	if err != nil {
		t.Fatal(err)
	}
	held, over := make(chan bool), make(chan bool)
	go slow.View(func(*model.Map, int) {
		close(held)
		<-over
	})
	<-held
	done := make(chan error, 1)
	go func() {
		done <- func() error {
			other, err := s.Documents.Open(ids[1])
			if err != nil {
				return err
			}
			title := "Other"
			if _, err := other.Apply("w1", 1, &edit.SetHead{Title: &title}); err != nil {
				return err
			}
			if _, err := s.Documents.Open("NOTTHERE"); !errors.Is(err, store.ErrNotFound) {
				return fmt.Errorf("what is not there: %w", err)
			}
			if err := errors.Join(s.Documents.Bin(ids[2]), s.Documents.Bin(ids[0])); err != nil {
				return err
			}
			if !slow.Away() {
				return errors.New("the slow one is not known to be in the bin")
			}
			if _, err := s.Documents.Open(ids[2]); !errors.Is(err, store.ErrNotFound) {
				return fmt.Errorf("one in the bin: %w", err)
			}
			if err := errors.Join(s.Documents.Restore(ids[2]), s.Documents.Restore(ids[0])); err != nil {
				return err
			}
			_, err = s.Documents.Open(ids[2])
			return err
		}()
	}()
	select {
	case err := <-done:
		if err != nil {
			t.Error(err)
		}
	case <-time.After(30 * time.Second):
		t.Error("everybody waits for the map that is held")
	}
	close(over)
	if _, err := s.Documents.Open(ids[0]); err != nil {
		t.Error(err)
	}
}
