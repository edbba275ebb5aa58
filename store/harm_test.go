package store_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/app/documents"
	"plaintracer/app/house"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/store"
)

// The name of a data folder means what it says, whatever the characters in it mean elsewhere.
func TestFoldersOfAnyName(t *testing.T) {
	for _, name := range []string{"a#b", "a?b", "a%25b", "a b", "ä&c=d", "mode=memory"} {
		for _, relative := range []bool{false, true} {
			folder := filepath.Join(t.TempDir(), name)
			if relative {
				t.Chdir(filepath.Dir(folder))
				folder = name
			}
			s := open(t, folder)
			if _, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true)); err != nil {
				t.Fatal(err)
			}
			info, err := os.Stat(filepath.Join(folder, "plaintracer.db"))
			if err != nil || info.Mode().Perm() != 0o600 {
				t.Errorf("%s: %v, %v", name, info, err)
			}
			if _, err := os.Stat(filepath.Join(folder, "plaintracer.db-wal")); err != nil {
				t.Errorf("%s: there is no log beside the database: %v", name, err)
			}
			if list, err := os.ReadDir(filepath.Dir(folder)); err != nil || len(list) != 1 {
				t.Errorf("%s: beside the folder there is %v, %v", name, list, err)
			}
			s.Close()
		}
	}
}

func TestOneProgramHoldsAFolder(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	s.Holder("http://127.0.0.1:8080")
	other, err := house.Open(folder)
	if err == nil {
		other.Close()
		t.Fatal("a second one opened it")
	}
	for _, word := range []string{folder, "in use", "http://127.0.0.1:8080", fmt.Sprint(os.Getpid())} {
		if !strings.Contains(err.Error(), word) {
			t.Errorf("%q does not say %q", err, word)
		}
	}
	s.Close()
	if other, err = house.Open(folder); err != nil {
		t.Errorf("after the first let go: %v", err)
	} else {
		other.Close()
	}
}

func TestAFolderThatLostItsMapsDoesNotBeginAnew(t *testing.T) {
	for name, lose := range map[string]func(file string) error{
		"has been emptied": func(file string) error { return os.Truncate(file, 0) },
		"is gone":          os.Remove,
		"not a database": func(file string) error {
			return os.WriteFile(file, bytes.Repeat([]byte("x"), 8192),
				0o600)
		},
		"holds no maps": func(file string) error {
			f, err := os.OpenFile(file, os.O_RDWR, 0)
			if err != nil {
				return err
			}
			defer f.Close()
			_, err = f.WriteAt(make([]byte, 4), 60)
			return err
		},
	} {
		folder, _, _ := begin(t)
		folder = copied(t, folder)
		if err := lose(filepath.Join(folder, "plaintracer.db")); err != nil {
			t.Fatal(err)
		}
		s, err := house.Open(folder)
		if err == nil {
			s.Close()
			t.Errorf("%s: it began anew", name)
		} else if !strings.Contains(err.Error(), name) || !strings.Contains(err.Error(), folder) {
			t.Errorf("%s: %v", name, err)
		}
	}
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if s, err := house.Open(filepath.Join(file, "data")); err == nil || !strings.Contains(err.Error(), file) {
		t.Errorf("a folder that cannot be made: %v, %v", s, err)
	}
}

// An edit that came before under its number is saved once; another one under that number is
// refused, and so is one from a window that is none.
func TestANumberStandsForOneEdit(t *testing.T) {
	_, _, d := begin(t)
	if _, err := d.Apply("w1", 1, add(1)); err != nil {
		t.Fatal(err)
	}
	before, _ := state(t, d)
	for name, try := range map[string]func() (int, error){
		"another edit":     func() (int, error) { return d.Apply("w1", 1, add(2)) },
		"no window":        func() (int, error) { return d.Apply("", 2, add(2)) },
		"a long window":    func() (int, error) { return d.Apply(strings.Repeat("w", 100), 2, add(2)) },
		"a negative count": func() (int, error) { return d.Apply("w1", -1, add(2)) },
	} {
		var refusal *model.Refusal
		if r, err := try(); !errors.As(err, &refusal) {
			t.Errorf("%s: revision %d, %v", name, r, err)
		}
	}
	if after, _ := state(t, d); after != before {
		t.Error("the map changed")
	}
}

func TestOnlyItsSecretOpensAWindow(t *testing.T) {
	folder, id, d := begin(t)
	name, secret := d.NewWindow()
	other, _ := d.NewWindow()
	if !d.Owns(name, secret) || d.Owns(other, secret) || d.Owns(name, "") || d.Owns("", secret) || name == other {
		t.Error("a secret opens another window than its own")
	}
	again, err := open(t, copied(t, folder)).Documents.Open(id)
	if err != nil || !again.Owns(name, secret) {
		t.Errorf("after a restart the window is not known any more: %v", err)
	}
}

// A fault of the program in an edit is answered, and the map is then as it was committed.
func TestAPanicInAnEditHarmsNothing(t *testing.T) {
	_, _, d := begin(t)
	if _, err := d.Apply("w1", 1, add(1)); err != nil {
		t.Fatal(err)
	}
	before, revision := state(t, d)
	var refusal *model.Refusal
	if _, err := d.Apply("w1", 2, (*edit.SetText)(nil)); !errors.As(err, &refusal) ||
		!strings.Contains(refusal.Text, "fault of the program") {
		t.Errorf("it is answered by %v", err)
	}
	if after, r := state(t, d); after != before || r != revision {
		t.Errorf("the map is now %s", after)
	}
	if _, err := d.Apply("w1", 3, add(2)); err != nil {
		t.Errorf("the map takes no edits any more: %v", err)
	}
}

// A map whose log has an entry that cannot be made opens as far as it goes. The rest is kept
// aside, by name, and the map goes on; a window that has seen the rest is brought back.
func TestABadEntryIsKeptAside(t *testing.T) {
	const early, late = "UPDATE edits SET edit = ?, format = 1, changes = NULL WHERE revision = 7",
		"UPDATE edits SET changes = ? WHERE revision = 7"
	lost := `"data":"@` + strings.Repeat("0", 64) + `"`
	joins := func(one, other string) string {
		return `{"id":"` + one + `","from":{"at":{"x":1,"y":1}},"to":{"connector":"` + other + `"}}`
	}
	for name, harm := range map[string][2]string{
		"no edit at all": {early, `{"do":"explode"}`},
		"no JSON":        {early, `{"do":`},
		"a refused edit": {early, `{"do":"setText","sheet":"sheet-1","id":"nobody","text":"x"}`},
		"one that leaves a fault": {early,
			`{"do":"addItems","sheet":"sheet-1","connectors":[` + joins("k1", "k2") + `,` + joins("k2", "k1") + `]}`},
		"a lost picture": {early,
			`{"do":"addItems","sheet":"sheet-1","pictures":[{"id":"p","type":"image/png","w":1,"h":1,` + lost + `}]}`},
		"changes that are no JSON": {late, `[{"id":`},
		"a change of nothing":      {late, `[{"id":"s6","sheet":"sheet-1","dragon":{}}]`},
		"a change elsewhere": {late,
			`[{"id":"s6","sheet":"sheet-9","symbol":{"after":{"id":"s6","kind":"process","x":0,"y":0,"w":1,"h":1}}}]`},
		"changes that leave a fault": {late,
			`[{"id":"k1","sheet":"sheet-1","connector":{"after":` + joins("k1", "k2") +
				`}},{"id":"k2","sheet":"sheet-1","connector":{"after":` + joins("k2", "k1") + `}}]`},
		"a lost picture in the changes": {late,
			`[{"id":"p","picture":{"after":{"id":"p","type":"image/png","w":1,"h":1,` + lost + `}}}]`},
		"a format of a newer program": {"UPDATE edits SET format = 9, changes = ? WHERE revision = 7", `[]`},
	} {
		folder, id, d := begin(t)
		want := ""
		for i := range 10 {
			if i == 6 {
				want, _ = state(t, d)
			}
			if _, err := d.Apply("w1", i+1, add(i)); err != nil {
				t.Fatal(err)
			}
		}
		folder = copied(t, folder)
		if _, err := database(t, folder).Exec(harm[0], []byte(harm[1])); err != nil {
			t.Fatal(err)
		}
		s := open(t, folder)
		d, err := s.Documents.Open(id)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		got, revision := state(t, d)
		if got != want || revision <= 10 || d.Damage() != "" {
			t.Errorf("%s: revision %d, damage %q, map %s", name, revision, d.Damage(), got)
		}
		list, err := d.Asides()
		if err != nil || len(list) != 4 || list[0].Revision != 7 || list[0].Why == "" {
			t.Errorf("%s: aside is %v, %v", name, list, err)
		}
		if next, err := d.Apply("w2", 1, add(20)); err != nil || next != revision+1 {
			t.Errorf("%s: the next edit has revision %d: %v", name, next, err)
		}
		for _, after := range []int{3, 6, 10, revision, 1000} {
			told, begun := 0, 0
			if _, err := listen(d, after, func(documents.Committed) { told++ },
				func(f documents.Fresh) { begun = f.Revision }); err != nil {
				t.Fatal(err)
			}
			if after == revision && (told != 1 || begun != 0) ||
				after != revision && (told != 0 || begun != revision+1) {
				t.Errorf("%s: a window that was at revision %d is told %d edits and given the map at %d", name, after,
					told, begun)
			}
		}
		want, _ = state(t, d)
		s.Close()
		if again, err := open(t, folder).Documents.Open(id); err != nil {
			t.Error(err)
		} else if got, _ := state(t, again); got != want {
			t.Errorf("%s: opened again it is %s", name, got)
		}
	}
}

func TestWindowsFarBehindGetTheMapAsItIs(t *testing.T) {
	_, _, d := begin(t)
	for i := range 450 {
		if _, err := d.Apply("w1", i+1, add(i)); err != nil {
			t.Fatal(err)
		}
	}
	for after, fresh := range map[int]bool{0: true, 49: true, 50: false, 449: false, 450: false, 451: true, -1: false} {
		var told []int
		var got *documents.Fresh
		stop, err := listen(d, after, func(c documents.Committed) { told = append(told, c.Revision) },
			func(f documents.Fresh) { got = &f })
		if err != nil {
			t.Fatal(err)
		}
		stop()
		switch {
		case fresh != (got != nil):
			t.Errorf("after %d: a fresh map is %v", after, got)
		case fresh && (len(told) > 0 || got.Revision != 450 || got.Seq != 450):
			t.Errorf("after %d: told %v, fresh at %d, %d", after, told, got.Revision, got.Seq)
		case !fresh && after >= 0 && len(told) != 450-after:
			t.Errorf("after %d: told %d edits", after, len(told))
		}
	}
}

// noise returns a picture of about n bytes that cannot be packed.
func noise(t testing.TB, n int) pictures.Picture {
	t.Helper()
	side := 1
	for side*side < n {
		side++
	}
	img := image.NewGray(image.Rect(0, 0, side, side))
	x := uint32(n)
	for i := range img.Pix {
		x = x*1664525 + 1013904223
		img.Pix[i] = uint8(x >> 24)
	}
	img.SetGray(0, 0, color.Gray{Y: 1})
	var file bytes.Buffer
	if err := png.Encode(&file, img); err != nil {
		t.Fatal(err)
	}
	p, err := pictures.Read(file.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// A picture is kept once, however long the map is worked on; snapshots are few; and every
// revision the map has had can still be made from one of them and the log.
func TestPicturesAreKeptOnceAndSnapshotsPruned(t *testing.T) {
	folder, id, d := begin(t)
	p := noise(t, 1<<20)
	sym := model.Symbol{ID: "pic", Kind: model.Picture, Picture: p.ID, Box: geometry.Box{W: 20000, H: 20000}}
	if _, err := d.Apply("w1", 1, &edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{sym},
		Pictures: []pictures.Picture{p}}); err != nil {
		t.Fatal(err)
	}
	states := map[int]string{}
	const moves = 5000
	for i := range moves {
		r, err := d.Apply("w1", i+2, &edit.MoveItems{Sheet: "sheet-1", IDs: []string{"pic"},
			By: geometry.Point{X: 1 - 2*(i%2), Y: (i % 3) - 1}})
		if err != nil {
			t.Fatal(err)
		}
		if r%777 == 0 {
			states[r], _ = state(t, d)
		}
	}
	want, _ := state(t, d)
	folder = copied(t, folder)
	db := database(t, folder)
	var size, snapshots, contents int
	if err := db.QueryRow(`SELECT (SELECT sum(length(document)) FROM snapshots) +
			(SELECT sum(length(edit)) FROM edits),
			(SELECT count(*) FROM snapshots), (SELECT count(*) FROM blobs)`).Scan(
		&size, &snapshots, &contents); err != nil {
		t.Fatal(err)
	}
	if size > 1<<20 || snapshots > 12 || contents != 1 {
		t.Errorf("snapshots and log take %d bytes, there are %d snapshots and %d contents", size, snapshots, contents)
	}
	s := open(t, folder)
	if again, err := s.Documents.Open(id); err != nil {
		t.Fatal(err)
	} else if got, _ := state(t, again); got != want {
		t.Error("opened again the map is another")
	}
	s.Close()
	for r, want := range states { // as if the log ended there
		part := copied(t, folder)
		db := database(t, part)
		for _, q := range []string{"DELETE FROM edits WHERE revision > ?", "DELETE FROM snapshots WHERE revision > ?"} {
			if _, err := db.Exec(q, r); err != nil {
				t.Fatal(err)
			}
		}
		db.Close()
		if again, err := open(t, part).Documents.Open(id); err != nil {
			t.Error(err)
		} else if got, at := state(t, again); got != want || at != r {
			t.Errorf("revision %d cannot be made again", r)
		}
	}
}

// Whatever page of the file is damaged, the program starts, the list of maps comes, and every
// map opens, as it is or as it last could be read, or says that it cannot.
func TestADamagedPageHarmsFewMaps(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	var ids []string
	whole := map[string]string{}
	for k := range 6 {
		id, err := s.Maps.Create(model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true))
		if err != nil {
			t.Fatal(err)
		}
		d, err := s.Documents.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		for i := range 250 {
			if _, err := d.Apply("w1", i+1, add(i)); err != nil {
				t.Fatal(err)
			}
		}
		ids = append(ids, id)
		whole[id], _ = state(t, d)
	}
	s.Close()
	raw, err := os.ReadFile(filepath.Join(folder, "plaintracer.db"))
	if err != nil {
		t.Fatal(err)
	}
	page := int(binary.BigEndian.Uint16(raw[16:]))
	harmed, hidden := 0, 0
	for n := 2; n < len(raw)/page; n += 1 + len(raw)/page/40 {
		bad := bytes.Clone(raw)
		for i := range page {
			bad[n*page+i] = byte(i*7 + n)
		}
		part := copied(t, folder)
		if err := os.WriteFile(filepath.Join(part, "plaintracer.db"), bad, 0o600); err != nil {
			t.Fatal(err)
		}
		s, err := house.Open(part)
		if err != nil {
			if store.Trouble(err) == "" && !strings.Contains(err.Error(), part) {
				t.Errorf("page %d: %v", n, err)
			}
			hidden++
			continue
		}
		if list, err := s.List("", false); err != nil || len(list) == 0 {
			t.Errorf("page %d: the list is %v, %v", n, list, err)
		}
		for _, id := range ids {
			d, err := s.Documents.Open(id)
			if err != nil {
				if store.Trouble(err) == "" {
					t.Errorf("page %d: map %s: %v", n, id, err)
				}
				harmed++
				continue
			}
			if got, _ := state(t, d); got != whole[id] {
				if harmed++; d.Damage() == "" {
					if list, _ := d.Asides(); len(list) == 0 {
						t.Errorf("page %d: map %s is another, and does not say so", n, id)
					}
				}
			}
		}
		s.Close()
	}
	if harmed == 0 || hidden > 5 {
		t.Errorf("%d maps were harmed, %d times the program did not start", harmed, hidden)
	}
}

// With a full disk, which is what a bound on the pages of the database looks like to it, an
// edit fails and the map stays; when there is room again, the same edit is saved.
func TestAFullDiskLosesNothing(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.Documents.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	s.Fill(t)
	want, seq := "", 0
	for seq = 1; ; seq++ {
		want, _ = state(t, d)
		if _, err = d.Apply("w1", seq, add(seq)); err != nil {
			break
		}
	}
	if !strings.Contains(store.Trouble(err), "full") {
		t.Errorf("a full disk is reported as %v", err)
	}
	if got, _ := state(t, d); got != want {
		t.Errorf("after the failure the map is %s", got)
	}
	if name, secret := d.NewWindow(); !d.Owns(name, secret) {
		t.Error("no window can be opened")
	}
	if again, err := open(t, copied(t, folder)).Documents.Open(id); err != nil {
		t.Error(err)
	} else if got, _ := state(t, again); got != want {
		t.Errorf("opened again the map is %s", got)
	}
	s.Room(t)
	if _, err := d.Apply("w1", seq, add(seq)); err != nil {
		t.Errorf("with room again: %v", err)
	}
}
