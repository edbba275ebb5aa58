package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/background"
	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/intake"
	"plaintracer/store"
	"plaintracer/web/shelf"
	"plaintracer/web/site"
)

// What belongs to one person is kept by no cache, and no other site can bring a browser to
// change anything or to show what is here as its own.
func TestRequestsFromElsewhere(t *testing.T) {
	editor, _, _, id := application(t)
	for _, path := range []string{"/export/map", "/export/svg", "/export/png", "/state", "/aside", "/register"} {
		r, _ := ask(t, editor, "GET", "/maps/"+id+path)
		if r.StatusCode != 200 || !strings.Contains(r.Header.Get("Cache-Control"), "no-store") ||
			r.Header.Get("Cross-Origin-Resource-Policy") != "same-origin" {
			t.Errorf("%s: %d, kept %q, for %q", path, r.StatusCode, r.Header.Get("Cache-Control"),
				r.Header.Get("Cross-Origin-Resource-Policy"))
		}
	}
	for _, c := range []struct {
		headers []string
		code    int
	}{
		{nil, 303}, {[]string{"Sec-Fetch-Site", "same-origin"}, 303}, {[]string{"Sec-Fetch-Site", "none"}, 303},
		{[]string{"Sec-Fetch-Site", "cross-site"}, 403}, {[]string{"Sec-Fetch-Site", "same-site"}, 403},
		{[]string{"Origin", "http://elsewhere.example"}, 403}, {[]string{"Origin", "http://127.0.0.1:8080"}, 303},
		{[]string{"Origin", "null"}, 403},
	} {
		if r, _ := ask(t, editor, "POST", "/maps/"+id+"/copy", c.headers...); r.StatusCode != c.code {
			t.Errorf("a change with %v is answered by %d, not %d", c.headers, r.StatusCode, c.code)
		}
	}
}

// Many maps come by pages.
func TestHomeComesByPages(t *testing.T) {
	editor, _, s, id := application(t) // with one map
	where, _, err := s.Maps.Where(id)
	if err != nil {
		t.Fatal(err)
	}
	for k := range 2*shelf.HomePage + 5 {
		if _, err := s.Maps.CreateFor(model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true), where.Owner,
			""); err != nil {
			t.Fatal(err)
		}
	}
	all := map[string]bool{}
	for page, want := range []int{shelf.HomePage, shelf.HomePage, 6} {
		_, body := ask(t, editor, "GET", fmt.Sprint("/?page=", page+1))
		if got := strings.Count(body, `class="card"`); got != want {
			t.Errorf("page %d shows %d maps, not %d", page+1, got, want)
		}
		for _, part := range strings.Split(body, `data-id="`)[1:] {
			all[part[:10]] = true
		}
		if newer, older := strings.Contains(body, `rel="prev"`), strings.Contains(body,
			`rel="next"`); newer != (page > 0) || older != (page < 2) {
			t.Errorf("page %d leads back %v, on %v", page+1, newer, older)
		}
	}
	if len(all) != 2*shelf.HomePage+6 {
		t.Errorf("the pages show %d maps", len(all))
	}
	for path, code := range map[string]int{"/?page=99": 303, "/?page=0": 200, "/?page=x": 200, "/?page=9999999999": 303,
		"/bin?page=2": 303} {
		if r, _ := ask(t, editor, "GET", path); r.StatusCode != code {
			t.Errorf("%s answers %d, not %d", path, r.StatusCode, code)
		}
	}
}

// A map that is damaged says so and offers what is left; changes kept aside can be saved.
func TestHarmedMapsSayWhatIsLeft(t *testing.T) {
	editor, _, _, id := application(t)
	if _, page := ask(t, editor, "GET", "/maps/"+id); strings.Contains(page, "kept aside") {
		t.Error("a sound map speaks of changes kept aside")
	}
	if r, body := ask(t, editor, "GET", "/maps/"+id+"/aside"); r.StatusCode != 200 || body != "[]" {
		t.Errorf("nothing is kept aside, but it answers %d %s", r.StatusCode, body)
	}
	id, editor = damagedMap(t)
	for path, words := range map[string]string{"": "This map is damaged",
		"/state": "is damaged: a part of the data file"} {
		if _, page := ask(t, editor, "GET", "/maps/"+id+path, "HX-Request",
			map[string]string{"": "", "/state": "true"}[path]); !strings.Contains(page, words) {
			t.Errorf("%s does not say %q: %.400s", path, words, page)
		}
	}
	if r, _ := ask(t, editor, "GET", "/maps/"+id+"/export/map"); r.StatusCode != 200 {
		t.Errorf("what is left cannot be saved: %d", r.StatusCode)
	}
	if r, page := ask(t, editor, "GET", "/"); r.StatusCode != 200 || !strings.Contains(page, "Damaged here") {
		t.Errorf("the home page: %d", r.StatusCode)
	}
}

// damagedMap returns a map of which the end of the log cannot be read, and the application it
// is in: one page of the database after the other is overwritten until there is one.
func damagedMap(t *testing.T) (string, *fiber.App) {
	t.Helper()
	folder := filepath.Join(t.TempDir(), "data")
	s, err := house.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	owner, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"})
	if err != nil {
		t.Fatal(err)
	}
	id, err := s.Maps.CreateFor(model.New("Damaged here", model.Rightwards, "A4", true), owner, "")
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.Documents.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	for n := 1; n <= 150; n++ {
		if _, err := d.Apply("w1", n,
			&edit.SetHead{Answers: []string{"Yes", strings.Repeat("No ", 1+n%60)}}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(folder, "plaintracer.db")
	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	const page = 4096
	for at := len(whole) - page; at > page; at -= page {
		bad := bytes.Clone(whole)
		copy(bad[at:at+page], bytes.Repeat([]byte("harm"), page/4))
		if err := os.WriteFile(file, bad, 0o600); err != nil {
			t.Fatal(err)
		}
		s, err := house.Open(folder)
		if err != nil {
			continue
		}
		if d, err := s.Documents.Open(id); err == nil && d.Damage() != "" {
			t.Cleanup(func() { s.Close() })
			people, err := s.People.List()
			if err != nil || len(people) == 0 {
				s.Close()
				continue
			}
			return id, serverOver(t, s, site.Settings{As: people[0].ID}).Editor()
		}
		s.Close()
	}
	t.Fatal("no page harms the end of the log")
	return "", nil
}

// What a map brings from outside is used once before it is taken.
func TestUnsoundPicturesAndFontsAreRefused(t *testing.T) {
	face, err := os.ReadFile(filepath.Join("..", "exchange", "typeface", "IBMPlexSans-Regular.woff2"))
	if err != nil {
		t.Fatal(err)
	}
	m := model.New("Map", model.Rightwards, "A4", true)
	m.Fonts = []fonts.Font{{ID: "f", Family: "Cut short", Data: face[:len(face)/2]}}
	if err := intake.Sound(context.Background(), nil, append(m.Fonts, m.Fonts[0])); err == nil ||
		!strings.Contains(err.Error(), "fonts[0]") {
		t.Errorf("half a font: %v", err)
	}
	m.Fonts = nil
	m.Pictures = []pictures.Picture{{ID: "p", Type: "image/png", W: 3, H: 2, Data: []byte("\x89PNG")}}
	if err := intake.Sound(context.Background(), m.Pictures, nil); err == nil ||
		!strings.Contains(err.Error(), "cut short") {
		t.Errorf("a piece of a picture: %v", err)
	}
	var refusal *model.Refusal
	if err := intake.Vet(&edit.Revert{Changes: []edit.Change{edit.NewChange("p", "",
		edit.Span[pictures.Picture]{After: &m.Pictures[0]})}}); !errors.As(err, &refusal) {
		t.Errorf("an edit that brings it: %v", err)
	}
	if err := intake.Vet(&edit.Revert{Changes: []edit.Change{edit.NewChange("p", "",
		edit.Span[pictures.Picture]{Before: &m.Pictures[0]})}}); err != nil {
		t.Errorf("an edit that takes it away: %v", err)
	}
}

// As many drawings as there are processors are made at once. The others wait, and whoever
// does not want one any more does not keep them waiting.
func TestDrawingsTakeTurns(t *testing.T) {
	beside := background.New()
	defer beside.Close()
	w := site.NewDrawings(beside)
	release := make(chan struct{})
	var ends []chan error
	for range cap(w.Slots) {
		end, begun := make(chan error, 1), make(chan struct{})
		go func() {
			end <- w.Run(context.Background(), func(context.Context) error { close(begun); <-release; return nil })
		}()
		<-begun
		ends = append(ends, end)
	}
	ctx, stop := context.WithCancel(context.Background())
	waiting := make(chan error, 1)
	go func() { waiting <- w.Run(ctx, func(context.Context) error { t.Error("it was run"); return nil }) }()
	stop()
	if err := <-waiting; !errors.Is(err, context.Canceled) {
		t.Errorf("who has gone is answered by %v", err)
	}
	close(release)
	for _, end := range ends {
		if err := <-end; err != nil {
			t.Error(err)
		}
	}
	if err := w.Run(context.Background(), func(context.Context) error { panic("a fault") }); err == nil {
		t.Error("a fault in a drawing is not reported")
	}
	ctx, stop = context.WithTimeout(context.Background(), time.Millisecond)
	defer stop()
	if err := w.Run(ctx, func(ctx context.Context) error { <-ctx.Done(); return ctx.Err() }); err == nil {
		t.Error("a drawing that takes too long does not end")
	}
	if err := w.Run(context.Background(), func(context.Context) error { return nil }); err != nil {
		t.Errorf("afterwards: %v", err)
	}
}

// Whatever fails, the log names the route and nothing that opens a map or an account.
func TestFaultsAreNotedWithoutSecrets(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	secrets := map[string]string{}
	add := func(name, value string, err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		secrets[name] = value
	}
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Edit, Download: true,
		Embed: true}, "")
	add(":token", token, err)
	ticket, err := h.s.Sessions.NewTicket(store.NewWord, h.people["jonas"], time.Now().Add(time.Hour))
	add(":ticket", ticket, err)
	ida := h.enter("ida")
	secrets["key"], secrets["password"], secrets["code"] = "KEYKEYKEYKEYKEYKEY", "a very secret word", "987654"
	var noted syncBuffer
	before := slog.Default()
	defer slog.SetDefault(before)
	slog.SetDefault(slog.New(slog.NewJSONHandler(&noted, &slog.HandlerOptions{Level: slog.LevelDebug})))
	routes := h.server.Editor().GetRoutes(true)
	if err := h.s.Close(); err != nil { // from now on nothing can be read
		t.Fatal(err)
	}
	failed := 0
	for _, route := range routes {
		if route.Method == "HEAD" || route.Path == "/static/*" {
			continue
		}
		path := strings.NewReplacer(":token", token, ":ticket", ticket, ":id", h.id, ":format",
			"svg").Replace(route.Path)
		for _, g := range []*guest{ida, newGuest(t, h.base)} { // somebody who is signed in, and nobody
			r, _ := g.do(route.Method, path+"?key="+secrets["key"],
				url.Values{"password": {secrets["password"]}, "old": {secrets["password"]}, "code": {secrets["code"]},
					"key": {secrets["key"]}, "email": {"jonas@town.example"}})
			if r.StatusCode >= 500 {
				failed++
			}
		}
	}
	if failed < 60 {
		t.Errorf("only %d routes fail", failed)
	}
	said := noted.String()
	for name, secret := range secrets {
		if strings.Contains(said, secret) {
			at := strings.Index(said, secret)
			t.Errorf("the log holds the %s: …%s…", name, said[max(0, at-200):min(len(said), at+50)])
		}
	}
	for _, want := range []string{`"route":"/e/:token"`, `"route":"/reset/:ticket"`, "database is closed"} {
		if !strings.Contains(said, want) {
			t.Errorf("the log does not say %s", want)
		}
	}
}

// syncBuffer is a buffer that several write to.
type syncBuffer struct {
	mu sync.Mutex
	bytes.Buffer
}

func (b *syncBuffer) Write(p []byte) (int, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.Buffer.Write(p)
}

func (b *syncBuffer) String() string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.Buffer.String()
}

// The log says what was asked and answered, and nothing that opens a map.
func TestTheLogHoldsNoSecrets(t *testing.T) {
	editor, links, s, id := application(t)
	token, err := s.Links.Create(id, "", store.Choices{}, "lamp post")
	if err != nil {
		t.Fatal(err)
	}
	var noted bytes.Buffer
	before := slog.Default()
	defer slog.SetDefault(before)
	slog.SetDefault(slog.New(slog.NewJSONHandler(&noted, nil)))
	if r, body := ask(t, links, "GET", "/read/"+token); r.StatusCode != 401 {
		t.Errorf("%d %s", r.StatusCode, body)
	}
	ask(t, links, "POST", "/read/"+token+"/enter?passcode=lamp+post")
	ask(t, editor, "GET", "/maps/"+id+"/export/svg?ids=secret")
	if r, body := ask(t, editor, "GET", "/healthz"); r.StatusCode != 200 || !strings.Contains(body, `"saves":true`) {
		t.Errorf("health: %d %s", r.StatusCode, body)
	}
	said := noted.String()
	for _, secret := range []string{token, "lamp", "secret", id} {
		if strings.Contains(said, secret) {
			t.Errorf("the log holds %q:\n%s", secret, said)
		}
	}
	for _, want := range []string{`"route":"/read/:token"`, `"status":401`, `"route":"/maps/:id/export/:format"`} {
		if !strings.Contains(said, want) {
			t.Errorf("the log does not say %s:\n%s", want, said)
		}
	}
}

// What no window sends as a task is refused, or fails by itself, and leaves the server well.
func TestTasksThatNoWindowSends(t *testing.T) {
	editor, _, _, id := application(t)
	for _, task := range []string{"", "null", "{}", "[]", "0", `{"map":null,"sheet":"s"}`, `{"map":{}}`, `{"sheet":""}`,
		`{"map":{"sheets":[{"id":"s"}]},"sheet":"s"}`, `{"map":{},"sheet":"x"}`, strings.Repeat("[", 100000),
		`{"map":{"answers":["Yes","No"],"sheets":[{"id":"s","symbols":[{"id":"a","kind":"nothing","w":-5}],"connectors":[{"id":"c","from":{"symbol":"b"},"to":{"connector":"c"}}]}]},"sheet":"s","ids":["a","zz"]}`} {
		r, body := send(t, editor, "/maps/"+id+"/work", task)
		if r.StatusCode < 400 && body != "null" && !strings.HasPrefix(body, "{") {
			t.Errorf("%.60s: %d %.200s", task, r.StatusCode, body)
		}
	}
	if r, _ := ask(t, editor, "GET", "/healthz"); r.StatusCode != 200 {
		t.Error("the server is not well after that")
	}
}

func send(t *testing.T, app *fiber.App, path, body string) (*http.Response, string) {
	t.Helper()
	r := fromPage(app, "POST", path, strings.NewReader(body))
	r.Header.Set("Content-Type", "application/json")
	out, err := app.Test(r, fiber.TestConfig{Timeout: 30 * time.Second})
	if err != nil {
		t.Fatal(err)
	}
	defer out.Body.Close()
	raw, err := io.ReadAll(out.Body)
	if err != nil {
		t.Fatal(err)
	}
	return out, string(raw)
}
