package store_test

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"plaintracer/app/documents"
	"plaintracer/app/house"
	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/store"
)

func open(t testing.TB, folder string) *house.House {
	t.Helper()
	s, err := house.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	s.Documents.Tell(audience)
	t.Cleanup(func() { s.Close() })
	return s
}

// ears are an audience of functions, by the ids of the maps they hear of.
type ears struct {
	mu  sync.Mutex
	all map[string]map[int]func(documents.Committed)
	n   int
}

var audience = &ears{all: map[string]map[int]func(documents.Committed){}}

// Committed implements documents.Audience.
func (e *ears) Committed(id string, c documents.Committed) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for _, tell := range e.all[id] {
		tell(c)
	}
}

// Follows implements documents.Audience.
func (e *ears) Follows(id string) bool {
	e.mu.Lock()
	defer e.mu.Unlock()
	return len(e.all[id]) > 0
}

// listen calls tell with every edit of a map after a revision, until it is stopped.
func listen(d *documents.Document, after int, tell func(documents.Committed),
	fresh func(documents.Fresh)) (stop func(), err error) {
	n := 0
	err = d.Join(after, "w1", tell, fresh, func() {
		audience.mu.Lock()
		defer audience.mu.Unlock()
		audience.n++
		if n = audience.n; audience.all[d.ID] == nil {
			audience.all[d.ID] = map[int]func(documents.Committed){}
		}
		audience.all[d.ID][n] = tell
	})
	return func() {
		audience.mu.Lock()
		defer audience.mu.Unlock()
		delete(audience.all[d.ID], n)
	}, err
}

// copied returns a copy of a data folder as a machine would leave it that is switched off.
func copied(t testing.TB, folder string) string {
	t.Helper()
	to := filepath.Join(t.TempDir(), "copy")
	if err := os.CopyFS(to, os.DirFS(folder)); err != nil {
		t.Fatal(err)
	}
	return to
}

// database opens the database of a folder that no store holds.
func database(t testing.TB, folder string) *sql.DB {
	t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(folder, "plaintracer.db"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

func begin(t testing.TB) (folder, id string, d *documents.Document) {
	t.Helper()
	folder = filepath.Join(t.TempDir(), "data")
	s := open(t, folder)
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	if d, err = s.Documents.Open(id); err != nil {
		t.Fatal(err)
	}
	return folder, id, d
}

// letGo lets all maps go that nobody follows.
func letGo(s *house.House) { s.Documents.LetGo(time.Now().Add(time.Hour)) }

func add(i int) edit.Edit {
	return &edit.AddItems{Sheet: "sheet-1",
		Symbols: []model.Symbol{{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Step ", i),
			Box: geometry.Box{X: i * 100, W: 12000, H: 8000}}}}
}

func state(t testing.TB, d *documents.Document) (string, int) {
	t.Helper()
	m, revision := d.Snapshot()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw), revision
}

// What was acknowledged is there for whoever opens the file next, across
// snapshots, without the first program having closed it.
func TestAcknowledgedEditsAreThereAfterReopening(t *testing.T) {
	path, id, d := begin(t)
	for i := range 450 {
		if revision, err := d.Apply("w1", i+1, add(i)); err != nil || revision != i+1 {
			t.Fatalf("edit %d: revision %d, %v", i, revision, err)
		}
		if i%149 != 0 {
			continue
		}
		other := open(t, copied(t, path))
		again, err := other.Documents.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		want, _ := state(t, d)
		if got, revision := state(t, again); got != want || revision != i+1 {
			t.Errorf("after %d edits another program reads revision %d\n%s\nnot\n%s", i+1, revision, got, want)
		}
		other.Close()
	}
	db := database(t, copied(t, path))
	var snapshots int
	if err := db.QueryRow("SELECT count(*) FROM snapshots").Scan(&snapshots); err != nil || snapshots != 3 {
		t.Errorf("there are %d snapshots, not 3 (%v)", snapshots, err)
	}
}

func TestARetriedEditIsMadeOnce(t *testing.T) {
	_, _, d := begin(t)
	first, err := d.Apply("w1", 1, add(1))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := d.Apply("w2", 1, add(2)); err != nil {
		t.Fatal(err)
	}
	again, err := d.Apply("w1", 1, add(1))
	if err != nil || again != first {
		t.Errorf("offered again it has revision %d, not %d (%v)", again, first, err)
	}
	if m, revision := d.Snapshot(); len(m.Sheets[0].Symbols) != 2 || revision != 2 {
		t.Errorf("there are %d symbols at revision %d", len(m.Sheets[0].Symbols), revision)
	}
}

func TestRefusedEditsLeaveNoTrace(t *testing.T) {
	_, _, d := begin(t)
	before, _ := state(t, d)
	var refusal *model.Refusal
	if _, err := d.Apply("w1", 1, &edit.SetText{Sheet: "sheet-1", ID: "nobody", Text: "x"}); !errors.As(err, &refusal) {
		t.Errorf("the edit was refused by %v", err)
	}
	if after, revision := state(t, d); after != before || revision != 0 {
		t.Errorf("revision %d, map %s", revision, after)
	}
}

// Listeners hear of every edit once and in order, those before they came
// included, while others are editing.
func TestListenersMissNothing(t *testing.T) {
	_, _, d := begin(t)
	var all sync.WaitGroup
	for w := range 4 {
		all.Go(func() {
			for i := range 25 {
				if _, err := d.Apply(fmt.Sprint("w", w), i+1, add(w*1000+i)); err != nil {
					t.Error(err)
				}
			}
		})
	}
	var mu sync.Mutex
	var heard [3][]int
	for k := range heard {
		all.Go(func() {
			if _, err := listen(d, 0, func(c documents.Committed) {
				mu.Lock()
				defer mu.Unlock()
				heard[k] = append(heard[k], c.Revision)
			}, nil); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	for k := range heard {
		if len(heard[k]) != 100 {
			t.Fatalf("listener %d heard of %d edits", k, len(heard[k]))
		}
		for i, revision := range heard[k] {
			if revision != i+1 {
				t.Fatalf("listener %d heard %v", k, heard[k])
			}
		}
	}
}

func TestBinAndLinks(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "data"))
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	token, err := s.Links.Create(id, "", store.Choices{Note: "For the desk", Download: true}, "")
	if err != nil || len(token) < 26 {
		t.Fatalf("link %q, %v", token, err)
	}
	if got, _, err := s.Links.Follow(token); got.Map != id || err != nil || !got.Download || got.Locked {
		t.Errorf("the link leads to %+v, %v", got, err)
	}
	if _, ended, err := s.Links.Follow("AAAA"); !errors.Is(err, store.ErrNotFound) || !ended.IsZero() {
		t.Errorf("an unknown link: %v", err)
	}
	list, err := s.Links.Of(id)
	if err != nil || len(list) != 1 || list[0].Note != "For the desk" || list[0].Begins != token[:4] ||
		list[0].Uses != 0 {
		t.Fatalf("the links are %+v, %v", list, err)
	}
	if err := s.Links.CountUse(list[0].ID); err != nil {
		t.Fatal(err)
	}
	if list, err = s.Links.Of(id); err != nil || list[0].Uses != 1 || list[0].Used.IsZero() {
		t.Errorf("after it was followed: %+v, %v", list, err)
	}
	if err := s.Documents.Bin(id); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Documents.Open(id); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a map in the bin opens: %v", err)
	}
	if _, _, err := s.Links.Follow(token); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("the link to a map in the bin leads on: %v", err)
	}
	if list, err := s.List("", true); len(list) != 1 || err != nil {
		t.Errorf("the bin has %v, %v", list, err)
	}
	if err := s.Documents.Restore(id); err != nil {
		t.Fatal(err)
	}
	if err := s.Links.Withdraw(id, list[0].ID); err != nil {
		t.Fatal(err)
	}
	if _, ended, err := s.Links.Follow(token); !errors.Is(err, store.ErrNotFound) || ended.IsZero() {
		t.Errorf("a withdrawn link: %v, ended %v", err, ended)
	}
	if err := s.Links.Withdraw(id, list[0].ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("withdrawn twice: %v", err)
	}
}

// A link ends by itself, asks for its passcode, and what is in the database opens nothing.
func TestLinksOneCanTrust(t *testing.T) {
	path := filepath.Join(t.TempDir(), "data")
	s := open(t, path)
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	over, err := s.Links.Create(id, "", store.Choices{Until: time.Now().Add(-time.Minute)}, "")
	if err != nil {
		t.Fatal(err)
	}
	if _, ended, err := s.Links.Follow(over); !errors.Is(err, store.ErrNotFound) || ended.IsZero() {
		t.Errorf("a link that has ended leads on: %v", err)
	}
	shut, err := s.Links.Create(id, "", store.Choices{}, "lamp post")
	if err != nil {
		t.Fatal(err)
	}
	other, err := s.Links.Create(id, "", store.Choices{}, "lamp post")
	if err != nil {
		t.Fatal(err)
	}
	f, _, err := s.Links.Follow(shut)
	if err != nil || !f.Locked || f.Opens("lamp posT") || f.Opens("") || !f.Opens("lamp post") {
		t.Errorf("%+v, %v", f, err)
	}
	g, _, err := s.Links.Follow(other)
	if err != nil || s.Links.Proved(&f, "") || s.Links.Proved(&g, s.Links.Proof(&f)) ||
		!s.Links.Proved(&f, s.Links.Proof(&f)) {
		t.Errorf("the proof of one link opens another: %v", err)
	}
	if _, err := s.Links.Create("no such map", "", store.Choices{}, ""); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a link to no map: %v", err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob(filepath.Join(path, "*"))
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range files {
		raw, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		for _, secret := range []string{shut, over, "lamp post"} {
			if bytes.Contains(raw, []byte(secret)) {
				t.Errorf("%s holds %q as it is", filepath.Base(name), secret)
			}
		}
	}
}

func TestDataOfANewerProgramIsRefused(t *testing.T) {
	path, _, _ := begin(t)
	path = copied(t, path)
	if _, err := database(t, path).Exec("PRAGMA user_version = 99"); err != nil {
		t.Fatal(err)
	}
	if s, err := house.Open(path); err == nil {
		s.Close()
		t.Error("it was opened")
	} else if !strings.Contains(err.Error(), "newer program") {
		t.Error(err)
	}
}

func BenchmarkApply(b *testing.B) {
	_, _, d := begin(b)
	i := 0
	for b.Loop() {
		i++
		if _, err := d.Apply("w1", i, &edit.SetHead{Answers: []string{"Yes", fmt.Sprint("No ", i)}}); err != nil {
			b.Fatal(err)
		}
	}
}

// All of a sheet are moved, of a map of 40 such sheets and of a map of one. Target: no more than a fifth above.
func BenchmarkApplyToManySheets(b *testing.B) {
	for _, sheets := range []int{1, 40} {
		b.Run(fmt.Sprint(sheets, "-sheets"), func(b *testing.B) {
			s := open(b, b.TempDir())
			m := processes.Atlas(sheets, 60)
			id, err := s.Maps.Create(m)
			if err != nil {
				b.Fatal(err)
			}
			d, err := s.Documents.Open(id)
			if err != nil {
				b.Fatal(err)
			}
			ids := model.IDsOf(m.Sheets[0].Symbols)
			i := 0
			for b.Loop() {
				i++
				if _, err := d.Apply("w1", i, &edit.MoveItems{Sheet: "sheet-0", IDs: ids,
					By: geometry.Point{X: 100 - i%2*200}}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// A map that breaks a rule younger than itself opens; the break is a finding, whatever is done
// elsewhere on its sheet is accepted, and so is any change of the thing that mends or keeps it.
func TestAMapOpensWhateverRulesHaveComeSince(t *testing.T) {
	folder, id, _ := begin(t)
	folder = copied(t, folder)
	m := model.New("Old", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{{ID: "small", Kind: model.Process, Text: "A",
		Box: geometry.Box{X: 100, Y: 100, W: model.MinSymbol - 1, H: 8000}},
		{ID: "other", Kind: model.Process, Text: "B", Box: geometry.Box{X: 50000, Y: 100, W: 12000, H: 8000}}}
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	if m.Validate() == nil {
		t.Fatal("it breaks no rule")
	}
	if _, err := database(t, folder).Exec("UPDATE snapshots SET document = ? WHERE map = ?", raw, id); err != nil {
		t.Fatal(err)
	}
	s := open(t, folder)
	d, err := s.Documents.Open(id)
	if err != nil || d.Damage() != "" {
		t.Fatalf("it does not open: %v, damage %q", err, d.Damage())
	}
	found := false
	for _, f := range findings.Check(m) {
		found = found || f.Symbol == "small" && strings.Contains(f.Text, "8 to")
	}
	if !found {
		t.Errorf("the break is not among the findings: %v", findings.Check(m))
	}
	for k, c := range []struct {
		edit edit.Edit
		ok   bool
	}{
		{&edit.SetText{Sheet: "sheet-1", ID: "other", Text: "C"}, true},
		{&edit.MoveItems{Sheet: "sheet-1", IDs: []string{"small"}, By: geometry.Point{X: 1000}}, true},
		{&edit.PlaceItems{Sheet: "sheet-1",
			Boxes: []edit.Place{{ID: "small", Box: geometry.Box{X: 100, Y: 100, W: model.MinSymbol - 2, H: 8000}},
				{ID: "other", Box: geometry.Box{W: 1, H: 8000}}}}, false},
		{&edit.PlaceItems{Sheet: "sheet-1",
			Boxes: []edit.Place{{ID: "small", Box: geometry.Box{X: 100, Y: 100, W: 12000, H: 8000}}}}, true},
	} {
		if _, err := d.Apply("wold", k+1, c.edit); (err == nil) != c.ok {
			t.Errorf("edit %d: %v", k, err)
		}
	}
	want, _ := state(t, d)
	s.Close()
	if d, err = open(t, folder).Documents.Open(id); err != nil {
		t.Fatal(err)
	}
	if got, _ := state(t, d); got != want {
		t.Errorf("opened again it is %s", got)
	}
}

// What an edit of a window did can be taken back, by that window, once and again; what never was so
// cannot be brought in under that name.
func TestOnlyWhatWasSoIsBroughtBack(t *testing.T) {
	_, _, d := begin(t)
	var m *model.Map
	do := func(window string, seq int, e edit.Edit) (*edit.Revert, error) {
		m, _ = d.Snapshot()
		_, err := d.Apply(window, seq, e)
		if err != nil {
			return nil, err
		}
		inverse, err := edit.Apply(m, e)
		if err != nil {
			t.Fatal(err)
		}
		r := inverse.(*edit.Revert)
		r.Seq = seq
		return r, nil
	}
	must := func(r *edit.Revert, err error) *edit.Revert {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	must(do("w1", 1, add(1)))
	write := must(do("w1", 2, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Later"}))
	redo := must(do("w1", 3, write))
	must(do("w1", 4, redo))
	gone := must(do("w1", 5, &edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"s1"}}))
	before, _ := state(t, d)
	forged := func(change func(*model.Symbol)) *edit.Revert {
		r := *gone
		span, _ := edit.Changed[model.Symbol](&gone.Changes[0])
		sym := *span.Before
		change(&sym)
		r.Changes = []edit.Change{edit.NewChange(sym.ID, "sheet-1", edit.Span[model.Symbol]{Before: &sym})}
		return &r
	}
	made := model.Symbol{ID: "never", Kind: model.Process, Box: geometry.Box{W: 12000, H: 8000}}
	for name, e := range map[string]edit.Edit{
		"another text": forged(func(s *model.Symbol) { s.Text = "Never said" }),
		"a symbol that never was": &edit.Revert{Of: "x", Seq: 5, Changes: []edit.Change{
			edit.NewChange("never", "sheet-1", edit.Span[model.Symbol]{Before: &made})}},
		"no number":     &edit.Revert{Of: gone.Of, Changes: gone.Changes},
		"within others": edit.Together("several", gone, add(2)),
	} {
		if _, err := do("w1", 6, e); err == nil {
			t.Errorf("%s was brought in", name)
		}
	}
	if _, err := do("w2", 1, gone); err == nil {
		t.Error("another window took it back")
	}
	if after, _ := state(t, d); after != before {
		t.Errorf("the map became %s", after)
	}
	must(do("w1", 7, gone))
	must(do("w1", 8, forged(func(s *model.Symbol) {}))) // there already: nothing to bring back
	if m, _ = d.Snapshot(); m.Sheets[0].Symbol("s1") == nil || m.Sheets[0].Symbol("s1").Text != "Later" {
		t.Error("the symbol did not come back as it was")
	}
}

// A map that nobody follows is let go after a while, and is the same when it is asked for again, by
// whoever still has it; one that is followed stays.
func TestMapsAreLetGoAndComeBack(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "data"))
	id, err := s.Maps.Create(model.New("Map", model.Rightwards, "A4", true))
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.Documents.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := d.Apply("w1", 1, add(1)); err != nil {
		t.Fatal(err)
	}
	want, revision := state(t, d)
	stop, err := listen(d, revision, func(documents.Committed) {}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if letGo(s); !s.Documents.Held(id) {
		t.Error("a map that is followed was let go")
	}
	stop()
	if letGo(s); s.Documents.Held(id) {
		t.Error("a map that nobody follows is still held")
	}
	if got, r := state(t, d); got != want || r != revision {
		t.Errorf("it came back as %s", got)
	}
	letGo(s)
	if r, err := d.Apply("w1", 2, add(2)); err != nil || r != revision+1 {
		t.Errorf("the next edit: revision %d, %v", r, err)
	}
	letGo(s)
	if other, err := s.Documents.Open(id); err != nil || other != d {
		t.Errorf("opened again it is another document: %v", err)
	}
}
