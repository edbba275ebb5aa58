package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// A backup made while somebody edits holds every edit that was acknowledged before it began, and is a sound map at one
// moment; edits go on meanwhile.
func TestBackupUnderLoad(t *testing.T) {
	dir := t.TempDir()
	s := open(t, filepath.Join(dir, "data"))
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.Documents.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	var done atomic.Int64
	stop, ended := make(chan struct{}), make(chan error, 1)
	go func() {
		for i := 1; ; i++ {
			select {
			case <-stop:
				ended <- nil
				return
			default:
			}
			title := fmt.Sprint("Map ", i)
			if _, err := d.Apply("w1", i, &edit.SetHead{Title: &title}); err != nil {
				ended <- err
				return
			}
			done.Store(int64(i))
		}
	}()
	for k := range 5 {
		for done.Load() < int64(20*(k+1)) { // somebody is at it
			select {
			case err := <-ended:
				t.Fatal(err)
			default:
			}
		}
		before := done.Load()
		out := filepath.Join(dir, fmt.Sprint("copy", k))
		if err := store.Backup(context.Background(), filepath.Join(dir, "data"), out); err != nil {
			t.Fatal(err)
		}
		after := done.Load()
		folder := filepath.Join(dir, fmt.Sprint("restored", k))
		if err := store.Restore(out, folder); err != nil {
			t.Fatal(err)
		}
		r := open(t, folder)
		doc, err := r.Documents.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		m, revision := doc.Snapshot()
		if int64(revision) < before || int64(revision) > after+1 || m.Title != fmt.Sprint("Map ", revision) {
			t.Errorf("the copy is at %d, %q; it began after %d and ended before %d", revision, m.Title, before, after+1)
		}
	}
	close(stop)
	if err := <-ended; err != nil {
		t.Fatal(err)
	}
}

// What is no backup, is damaged or of a newer program is refused, and what is there is not written over.
func TestBackupsThatCannotBeRestored(t *testing.T) {
	dir := t.TempDir()
	path := func(name string) string { return filepath.Join(dir, name) }
	s := open(t, path("data"))
	if _, err := s.Maps.Create(model.New(strings.Repeat("Map ", 40), model.Rightwards, "A4", true)); err != nil {
		t.Fatal(err)
	}
	if err := store.Backup(context.Background(), path("data"), path("good")); err != nil {
		t.Fatal(err)
	}
	good, err := os.ReadFile(path("good"))
	if err != nil {
		t.Fatal(err)
	}
	newer := append([]byte(nil), good...)
	newer[63] = 200 // the version, at byte 60 of the head (SQLite file format, 1.3)
	broken := append([]byte(nil), good...)
	for i := 4096; i < 8192 && i < len(broken); i++ {
		broken[i] = 0x55
	}
	// altered is the good one with something done to it.
	altered := func(statements ...string) []byte {
		t.Helper()
		file := path("altered.db")
		if err := os.WriteFile(file, good, 0o600); err != nil {
			t.Fatal(err)
		}
		db, err := sql.Open("sqlite", "file:"+file)
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range statements {
			if _, err := db.Exec(s); err != nil {
				t.Fatal(s, err)
			}
		}
		if err := db.Close(); err != nil {
			t.Fatal(err)
		}
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	for reason, data := range map[string][]byte{
		"trigger spy":     altered("CREATE TRIGGER spy AFTER INSERT ON sessions BEGIN UPDATE people SET role = 'owner'; END"),
		"view ways":       altered("CREATE VIEW ways AS SELECT * FROM people"),
		"table more":      altered("CREATE TABLE more (x)"),
		"lacks the table": altered("DROP TABLE audit"),
		"table settings is no": altered("DROP TABLE settings",
			"CREATE TABLE settings (name TEXT PRIMARY KEY, value BLOB)"),
		"no backup":     altered("PRAGMA user_version = 0"),
		"newer program": altered("PRAGMA user_version = 999"),
	} {
		reason = strings.TrimSuffix(reason, " no")
		if err := os.WriteFile(path("bad"), data, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := store.Restore(path("bad"), path("into bad")); err == nil || !strings.Contains(err.Error(), reason) {
			t.Errorf("with %s: %v", reason, err)
		}
		if _, err := os.Stat(path("into bad")); err == nil {
			t.Errorf("with %s a folder was left", reason)
		}
	}
	for name, data := range map[string][]byte{"text": []byte("no database"), "empty": nil, "newer": newer,
		"broken": broken, "half": good[:len(good)/2]} {
		if err := os.WriteFile(path(name), data, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := store.Restore(path(name), path("into "+name)); err == nil {
			t.Errorf("%s is restored", name)
		}
		if _, err := os.Stat(filepath.Join(path("into "+name), "plaintracer.db")); err == nil {
			t.Errorf("%s left a file", name)
		}
	}
	if err := store.Restore(path("good"), path("data")); err == nil {
		t.Error("a folder in use is written over")
	}
	if err := store.Backup(context.Background(), path("data"), path("good")); err == nil {
		t.Error("a backup is written over")
	}
	if err := store.Backup(context.Background(), path("nowhere"), path("other")); err == nil {
		t.Error("a folder that is not there has a backup")
	}
}

// A backup is for its owner alone, and holds no session, no ticket in the open, and no message that waits.
func TestBackupsHoldNoSecrets(t *testing.T) {
	dir := t.TempDir()
	s := open(t, filepath.Join(dir, "data"))
	person, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"})
	if err != nil {
		t.Fatal(err)
	}
	session, err := s.Sessions.Begin(person, "a browser of ida")
	if err != nil {
		t.Fatal(err)
	}
	ticket, err := s.Sessions.NewTicket(store.NewWord, person, time.Now().Add(time.Hour))
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Repeat("Choose a password: /reset/"+ticket+" ", 200) // over more than one page of the file
	if err := s.Letters.Post(store.Letter{To: "ida@town.example", Kind: "reset", Until: time.Now().Add(time.Hour)}, 0,
		func(l *store.Letter) error {
			l.Subject, l.Plain, l.HTML = "A new password", text, text
			return nil
		}); err != nil {
		t.Fatal(err)
	}
	out := filepath.Join(dir, "copy.db")
	if err := store.Backup(context.Background(), filepath.Join(dir, "data"), out); err != nil {
		t.Fatal(err)
	}
	info, err := os.Stat(out)
	if err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("its mode is %v, %v", info.Mode(), err)
	}
	raw, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	for _, secret := range []string{ticket, session, "a browser of ida", "/reset/"} {
		if strings.Contains(string(raw), secret) {
			t.Errorf("it holds %q", secret)
		}
	}
	if !strings.Contains(string(raw), "ida@town.example") {
		t.Error("it does not hold the people")
	}
	if err := store.Restore(out, filepath.Join(dir, "restored")); err != nil {
		t.Fatal(err)
	}
	r := open(t, filepath.Join(dir, "restored"))
	if _, err := r.Sessions.Get(session); err == nil {
		t.Error("a session goes on after restoring")
	}
	if _, err := r.Sessions.Ticket(store.NewWord, ticket); err != nil {
		t.Errorf("the ticket, of which only a hash was kept: %v", err)
	}
	if list, err := s.Letters.Outbox(); err != nil || len(list) != 1 || list[0].Plain != text {
		t.Errorf("the message is gone from where it waits: %v", err)
	}
}
