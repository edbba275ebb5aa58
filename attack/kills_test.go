package attack

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sync"
	"syscall"
	"testing"
	"time"

	_ "modernc.org/sqlite"

	"plaintracer/e2e/program"
)

// The server is killed at random moments while windows edit, and its disk is full in
// between; every edit it has acknowledged is in the database afterwards, once, and every map
// opens and is as its windows were told.
func TestHardKillsLoseNothing(t *testing.T) {
	data, small := smallDisk(t)
	s := program.StartAt(t, "serve", data)
	rnd := rand.New(rand.NewPCG(*firstSeed, 3))
	type known struct {
		id      string
		w       *window
		seq     int
		saved   map[int]int // the revision of every edit that was acknowledged
		highest int
	}
	var windows []*known
	for k := range 4 {
		id := create(t, s, k)
		w, err := newWindow(s, id)
		if err != nil {
			t.Fatal(err)
		}
		windows = append(windows, &known{id: id, w: w, saved: map[int]int{}})
	}
	acknowledged := func() (n int) {
		for _, k := range windows {
			n += len(k.saved)
		}
		return n
	}
	kills := 0
	for ; kills < *hardKills || acknowledged() < *killEdits; kills++ {
		if kills > 50*(*hardKills)+*killEdits {
			t.Fatalf("after %d kills only %d edits were acknowledged", kills, acknowledged())
		}
		var all sync.WaitGroup
		for _, k := range windows {
			if err := k.w.connect(k.highest); err != nil {
				t.Fatalf("kill %d: %v", kills, err)
			}
			all.Go(func() {
				defer k.w.conn.Close()
				for {
					k.seq++
					edit := addStep(k.w, 1, "0")
					if k.seq > 1 {
						edit = fmt.Appendf(nil, `{"do":"setText","sheet":"sheet-1","id":"%s-1","text":"%d"}`,
							k.w.Window, k.seq)
					}
					if k.w.send(k.seq, edit) != nil {
						break
					}
					a, err := k.w.until("saved", "refused", "trouble")
					if err != nil || a.Kind == "trouble" {
						break
					}
					if a.Kind == "refused" {
						t.Errorf("an edit was refused: %s", a.Why)
						break
					}
					k.saved[a.Seq], k.highest = a.Revision, max(k.highest, a.Revision)
				}
				k.seq-- // it is offered again, by the same number
			})
		}
		filled := small && kills%3 == 2
		killed := make(chan struct{})
		time.AfterFunc(time.Duration(100+rnd.IntN(600))*time.Millisecond, func() { s.Kill(); close(killed) })
		if filled {
			fill(t, data)
		}
		all.Wait()
		<-killed
		if filled {
			if err := os.Remove(filepath.Join(data, "filler")); err != nil {
				t.Fatal(err)
			}
		}
		s.Again()
		for _, k := range windows {
			now, err := newWindow(s, k.id)
			if err != nil {
				t.Fatalf("kill %d: the map does not open: %v", kills, err)
			}
			if now.Revision < k.highest {
				t.Fatalf("kill %d: revision %d was acknowledged, but the map is at %d", kills, k.highest, now.Revision)
			}
			s.File("/maps/" + k.id)
		}
	}
	s.Kill()
	db, err := sql.Open("sqlite", filepath.Join(data, "plaintracer.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, k := range windows {
		for seq, revision := range k.saved {
			var there int
			if err := db.QueryRow(
				"SELECT count(*) FROM edits WHERE map = ? AND window = ? AND seq = ? AND revision = ?",
				k.id, k.w.Window, seq, revision).Scan(&there); err != nil || there != 1 {
				t.Fatalf("map %s: edit %d, acknowledged as revision %d, is there %d times: %v", k.id, seq, revision,
					there, err)
			}
		}
	}
	t.Logf("%d edits were acknowledged over %d kills, with a disk that fills: %v", acknowledged(), kills, small)
}

// smallDisk returns a data folder on a disk of its own of a few megabytes, where this
// process may mount one; else an ordinary folder.
func smallDisk(t *testing.T) (folder string, small bool) {
	folder = filepath.Join(t.TempDir(), "data")
	if err := os.Mkdir(folder, 0o700); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mount("tmpfs", folder, "tmpfs", 0, "size=24m"); err != nil {
		t.Logf("no small disk: %v", err)
		return folder, false
	}
	t.Cleanup(func() {
		if err := syscall.Unmount(folder, 0); err != nil {
			t.Error(err)
		}
	})
	return folder, true
}

// fill takes all room on the disk of a folder.
func fill(t *testing.T, folder string) {
	f, err := os.Create(filepath.Join(folder, "filler"))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for size := 1 << 20; size > 0; size /= 2 {
		for {
			if _, err := f.Write(make([]byte, size)); err != nil {
				break
			}
		}
	}
}

// On a full disk the program starts, maps open to be read, and it says why nothing is saved.
func TestAFullDiskIsReadFrom(t *testing.T) {
	data, small := smallDisk(t)
	if !small {
		t.Skip("no disk can be filled here; the store's own tests fill the database")
	}
	s := program.StartAt(t, "serve", data)
	id := create(t, s, 1)
	for round := range 2 { // with the files of a killed program beside the data, and without
		fill(t, data)
		if code, body := program.Get(t, s.URL+"/maps/"+id+"/state"); code != 200 {
			t.Errorf("round %d: the map opens with %d: %s", round, code, body)
		}
		if round == 0 {
			s.Kill()
		} else {
			if err := os.Remove(filepath.Join(data, "filler")); err != nil {
				t.Fatal(err)
			}
			s.Stop()
			fill(t, data)
		}
		s.Again()
		w, err := newWindow(s, id)
		if err != nil {
			t.Fatalf("round %d: %v", round, err)
		}
		if err := w.connect(w.Revision); err != nil {
			t.Fatal(err)
		}
		// What the log of the database has room for already is saved; then it says why nothing is.
		var kept []string
		var a answer
		for n := 1; n < 2000 && a.Kind != "trouble"; n++ {
			if err := w.send(n, addStep(w, n, fmt.Sprintf("%03900d", 7))); err != nil {
				t.Fatal(err)
			}
			if a, err = w.until("saved", "trouble", "refused"); err != nil {
				t.Fatalf("round %d, edit %d: %v", round, n, err)
			}
			if a.Kind == "saved" {
				kept = append(kept, fmt.Sprintf("%s-%d", w.Window, n))
			}
		}
		if a.Kind != "trouble" || a.Why == "" {
			t.Errorf("round %d: an edit is answered by %+v", round, a)
		}
		t.Logf("round %d: %d edits are saved, then: %s", round, len(kept), a.Why)
		w.conn.Close()
		if err := os.Remove(filepath.Join(data, "filler")); err != nil {
			t.Fatal(err)
		}
		s.Kill()
		s.Again()
		m := s.File("/maps/" + id)
		for _, id := range kept {
			if m.Sheets[0].Symbol(id) == nil {
				t.Errorf("round %d: what was saved is gone", round)
			}
		}
		again, err := newWindow(s, id)
		if err != nil {
			t.Fatal(err)
		}
		if err := again.connect(again.Revision); err != nil {
			t.Fatal(err)
		}
		if err := again.send(1, addStep(again, 1, "room again")); err != nil {
			t.Fatal(err)
		}
		if a, err := again.until("saved", "trouble", "refused"); err != nil || a.Kind != "saved" {
			t.Errorf("with room again: %+v, %v", a, err)
		}
		again.conn.Close()
	}
}
