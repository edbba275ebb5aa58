package web

import (
	"fmt"
	"log/slog"
	"path/filepath"
	"runtime"
	"sort"
	"sync"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account/passcode"
	"plaintracer/app/house"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// empty returns a house without maps, and its owner.
func empty(b *testing.B) (*house.House, string) {
	b.Helper()
	slog.SetDefault(slog.New(slog.DiscardHandler))
	s, err := house.Open(filepath.Join(b.TempDir(), "data"))
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { s.Close() })
	owner, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"})
	if err != nil {
		b.Fatal(err)
	}
	return s, owner
}

// full returns a house with many maps of forty steps, half of them in folders, and its owner's application.
func full(b *testing.B, maps int) (*house.House, *fiber.App, []string) {
	b.Helper()
	s, owner := empty(b)
	var folders []string
	for k := range 40 {
		parent := ""
		if k%4 > 0 {
			parent = folders[k-1]
		}
		id, err := s.Folders.Add(fmt.Sprint("Folder ", k), parent, owner)
		if err != nil {
			b.Fatal(err)
		}
		folders = append(folders, id)
	}
	verbs, things := []string{"Check", "Write", "Send", "File", "Sign", "Count"}, []string{"report", "lamp", "invoice",
		"order", "pole", "request", "key"}
	var ids []string
	for k := range maps {
		m := model.New(fmt.Sprintf("%s the %s, part %d", verbs[k%len(verbs)], things[k%len(things)], k),
			model.Rightwards, "A3", true)
		for n := range 40 {
			sym := &model.Symbol{ID: fmt.Sprint("s", n), Kind: model.Process,
				Text: fmt.Sprintf("%s the %s number %d", verbs[(k+n)%len(verbs)], things[(k*n+n)%len(things)], n)}
			sym.X, sym.Y, sym.W, sym.H = 4000+n%8*18000, 4000+n/8*12000, 13000, 7000
			m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, sym)
			if n > 0 {
				m.Sheets[0].Connectors = append(m.Sheets[0].Connectors,
					&model.Connector{ID: fmt.Sprint("c", n), From: model.End{Symbol: fmt.Sprint("s", n-1)},
						To: model.End{Symbol: fmt.Sprint("s", n)}})
			}
		}
		folder := ""
		if k%2 == 0 {
			folder = folders[k%len(folders)]
		}
		id, err := s.Maps.CreateFor(m, owner, folder)
		if err != nil {
			b.Fatal(err)
		}
		ids = append(ids, id)
	}
	if _, err := s.Search.Find("nothing"); err != nil { // which notes all words
		b.Fatal(err)
	}
	return s, serverOver(b, s, site.Settings{As: owner}).Editor(), ids
}

func visitPage(b *testing.B, app *fiber.App, path string) {
	b.Helper()
	r, err := app.Test(fromPage(app, "GET", path, nil), fiber.TestConfig{Timeout: time.Minute})
	if err != nil || r.StatusCode != 200 {
		b.Fatalf("%s: %v, %v", path, r, err)
	}
	r.Body.Close()
}

// The first page with 2,000 maps, as a list of sixty; the limit is 200 ms.
func BenchmarkHome(b *testing.B) {
	_, app, _ := full(b, 2000)
	for _, path := range []string{"/", "/?view=list&sort=title&page=20"} {
		b.Run(path, func(b *testing.B) {
			for b.Loop() {
				visitPage(b, app, path)
			}
		})
	}
}

// A search over 2,000 maps of 40 steps; the limit is 100 ms. The words are seldom, common, and the beginning of many.
func BenchmarkSearch(b *testing.B) {
	_, app, _ := full(b, 2000)
	for _, words := range []string{"pole+number+39", "lamp", "n"} {
		b.Run(words, func(b *testing.B) {
			for b.Loop() {
				visitPage(b, app, "/?view=cards&q="+words)
			}
		})
	}
}

// 200 maps opened in turn; the limit is 200 MB for the whole program.
func BenchmarkManyMaps(b *testing.B) {
	_, app, ids := full(b, 200)
	for b.Loop() {
		for _, id := range ids {
			visitPage(b, app, "/maps/"+id)
		}
	}
	var m runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&m)
	b.ReportMetric(float64(m.HeapAlloc)/1e6, "MB-used")
	b.ReportMetric(float64(m.Sys)/1e6, "MB-taken")
}

// Edits while twenty people sign in at once: the slowest of a hundred should be acknowledged within 50 ms at 95 %.
func BenchmarkEditsWhileSigningIn(b *testing.B) {
	s, _, ids := full(b, 1)
	d, err := s.Documents.Open(ids[0])
	if err != nil {
		b.Fatal(err)
	}
	hash := passcode.Hash("seven grey lamp posts")
	window, _ := d.NewWindow()
	var took []time.Duration
	n := 0
	for b.Loop() {
		var all sync.WaitGroup
		for range 20 {
			all.Go(func() { passcode.Matches("seven grey lamp posts", hash) })
		}
		for range 100 {
			n++
			begun := time.Now()
			text := fmt.Sprint("Edit ", n)
			if _, err := d.Apply(window, n, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: text}); err != nil {
				b.Fatal(err)
			}
			took = append(took, time.Since(begun))
			time.Sleep(5 * time.Millisecond)
		}
		all.Wait()
	}
	sort.Slice(took, func(i, j int) bool { return took[i] < took[j] })
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms-95%")
	b.ReportMetric(float64(took[len(took)-1].Microseconds())/1000, "ms-most")
}

// The list of 2,000 remarks on a map of forty steps.
func BenchmarkRemarks(b *testing.B) {
	s, app, ids := full(b, 1)
	for k := range 2000 {
		r := store.Remark{Map: ids[0], Author: "link:x", Name: fmt.Sprint("Reader ", k%7),
			Text:   fmt.Sprintf("What about this, see https://town.example/%d?", k),
			Anchor: store.Anchor{Item: fmt.Sprint("s", k%40), Sheet: "sheet-1"}}
		if _, err := s.Remarks.Add(r, nil); err != nil {
			b.Fatal(err)
		}
	}
	for b.Loop() {
		visitPage(b, app, "/maps/"+ids[0]+"/remarks")
	}
}

// What changed between two versions of a map of 300 steps, one in three of them reworded or moved: the page with the
// list, and the two pictures that lie over each other. Target: 300 ms together.
func BenchmarkChanges(b *testing.B) {
	s, app, ids := full(b, 1)
	d, err := s.Documents.Open(ids[0])
	if err != nil {
		b.Fatal(err)
	}
	m := model.New("", model.Rightwards, "A3", false)
	steps := m.Sheets[0]
	for k := range 300 {
		sym := &model.Symbol{ID: fmt.Sprint("n", k), Kind: model.Process, Text: fmt.Sprint("Step ", k),
			Box: geometry.Box{X: 10000 + k%20*16000, Y: 10000 + k/20*12000, W: 12000, H: 6000}}
		steps.Symbols = append(steps.Symbols, sym)
		if k > 0 {
			steps.Connectors = append(steps.Connectors, &model.Connector{ID: fmt.Sprint("l", k),
				From: model.End{Symbol: fmt.Sprint("n", k-1)}, To: model.End{Symbol: sym.ID}})
		}
	}
	head := steps.SheetHead
	head.ID, head.Name = "large", "Large"
	if _, err := d.Apply("w9", 1,
		&edit.AddSheet{Sheet: model.Sheet{SheetHead: head, Pools: []*model.Pool{}, Symbols: steps.Symbols,
			Connectors: steps.Connectors}}); err != nil {
		b.Fatal(err)
	}
	before, err := d.KeepAs(store.Keep{Reason: store.ByHand})
	if err != nil {
		b.Fatal(err)
	}
	for k := 0; k < 300; k += 3 {
		var e edit.Edit = &edit.SetText{Sheet: "large", ID: fmt.Sprint("n", k),
			Text: fmt.Sprint("Another word for ", k)}
		if k%2 == 0 {
			e = &edit.SetKind{Sheet: "large", ID: fmt.Sprint("n", k), Kind: model.Document}
		}
		if _, err := d.Apply("w9", k+2, e); err != nil {
			b.Fatal(err)
		}
	}
	after, err := d.KeepAs(store.Keep{Reason: store.ByHand})
	if err != nil {
		b.Fatal(err)
	}
	q := fmt.Sprintf("from=%s&to=%s&sheet=large", before.ID, after.ID)
	for b.Loop() {
		visitPage(b, app, "/maps/"+ids[0]+"/changes?"+q)
		visitPage(b, app, "/maps/"+ids[0]+"/changes/side.svg?"+q+"&side=old")
		visitPage(b, app, "/maps/"+ids[0]+"/changes/side.svg?"+q+"&side=new")
	}
}

// The editor's page of a sheet of 1,000 symbols, with its picture; the limit is 60 ms. Where somebody has just changed
// the map, the picture is drawn afresh, for which the page waits no longer than firstWait.
func BenchmarkEditorPage(b *testing.B) {
	s, owner := empty(b)
	app := serverOver(b, s, site.Settings{As: owner}).Editor()
	m := model.New("Hall", model.Rightwards, "A3", true)
	sheet := m.Sheets[0]
	for n := range 1000 {
		sym := &model.Symbol{ID: fmt.Sprint("s", n), Kind: model.Process, Text: fmt.Sprint("Handle case ", n)}
		sym.Box = geometry.Box{X: 4000 + n%40*17000, Y: 4000 + n/40*14000, W: 12000, H: 8000}
		sheet.Symbols = append(sheet.Symbols, sym)
	}
	for n := range 1250 {
		from, to := n%999, n%999+1
		if n >= 999 {
			from, to = (n-999)*3, (n-999)*3+17
		}
		ends := [2]model.End{{Symbol: fmt.Sprint("s", from)}, {Symbol: fmt.Sprint("s", to)}}
		sheet.Connectors = append(sheet.Connectors, &model.Connector{ID: fmt.Sprint("c", n), From: ends[0],
			To: ends[1]})
	}
	id, err := s.Maps.CreateFor(m, owner, "")
	if err != nil {
		b.Fatal(err)
	}
	d, err := s.Documents.Open(id)
	if err != nil {
		b.Fatal(err)
	}
	window, _ := d.NewWindow()
	b.Run("again", func(b *testing.B) {
		for b.Loop() {
			visitPage(b, app, "/maps/"+id)
		}
	})
	b.Run("changed", func(b *testing.B) {
		n := 0
		for b.Loop() {
			n++
			if _, err := d.Apply(window, n, &edit.SetText{Sheet: sheet.ID, ID: "s7",
				Text: fmt.Sprint("Case ", n)}); err != nil {
				b.Fatal(err)
			}
			visitPage(b, app, "/maps/"+id)
		}
	})
}
