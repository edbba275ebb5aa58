package web

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"html"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/oauth2-proxy/mockoidc"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/mail"
	"plaintracer/store"
	"plaintracer/web/site"
)

// browser keeps cookies and the token of the last page, as a browser and our pages do.
type browser struct {
	*testing.T
	app     *fiber.App
	cookies map[string]string
	token   string
}

func newBrowser(t *testing.T, app *fiber.App) *browser {
	return &browser{T: t, app: app, cookies: map[string]string{}}
}

func (b *browser) do(method, path, body, kind string) (*http.Response, string) {
	b.Helper()
	req := fromPageOf(method, path, body)
	req.Header.Set("Accept", "text/html")
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	req.Header.Set(site.TokenHeader, b.token)
	for name, value := range b.cookies {
		req.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	r, err := b.app.Test(req, fiber.TestConfig{Timeout: time.Minute})
	if err != nil {
		b.Fatal(err)
	}
	defer r.Body.Close()
	raw, err := io.ReadAll(r.Body)
	if err != nil {
		b.Fatal(err)
	}
	for _, c := range r.Cookies() {
		if b.cookies[c.Name] = c.Value; c.Value == "" {
			delete(b.cookies, c.Name)
		}
	}
	if m := pageToken.FindSubmatch(raw); m != nil {
		b.token = string(m[1])
	}
	return r, html.UnescapeString(string(raw))
}

func (b *browser) get(path string) (int, string) {
	b.Helper()
	r, body := b.do("GET", path, "", "")
	for n := 0; r.StatusCode == http.StatusSeeOther && n < 5; n++ {
		r, body = b.do("GET", strings.TrimPrefix(r.Header.Get("Location"), "http://127.0.0.1:8080"), "", "")
	}
	return r.StatusCode, body
}

// post sends a form, in pairs of a field and a value, and follows where it leads.
func (b *browser) post(path string, pairs ...string) (int, string) {
	b.Helper()
	form := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		form.Add(pairs[i], pairs[i+1])
	}
	r, body := b.do("POST", path, form.Encode(), "")
	if r.StatusCode == http.StatusSeeOther {
		return b.get(r.Header.Get("Location"))
	}
	return r.StatusCode, body
}

// says fails where an answer is not of a status, or does not hold a text.
func (b *browser) says(code int, body string, want int, text string) {
	b.Helper()
	if code != want || !strings.Contains(body, text) {
		b.Fatalf("it answers %d, not %d with %q:\n%.1500s", code, want, text, body)
	}
}

// quiet keeps the log from what a test prints.
func quiet(t *testing.T) {
	before := slog.Default()
	slog.SetDefault(slog.New(slog.DiscardHandler))
	t.Cleanup(func() { slog.SetDefault(before) })
}

func newHouse(t *testing.T, settings site.Settings) (*Server, *house.House, *fiber.App) {
	t.Helper()
	return houseIn(t, filepath.Join(t.TempDir(), "data"), settings)
}

// houseIn opens a house that keeps its maps in a folder.
func houseIn(t *testing.T, folder string, settings site.Settings) (*Server, *house.House, *fiber.App) {
	t.Helper()
	quiet(t)
	s, err := house.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	srv := serverOver(t, s, settings)
	return srv, s, srv.Editor()
}

// letter waits for the latest message to an address and returns it.
func letter(t *testing.T, s *house.House, to, subject string) store.Letter {
	t.Helper()
	for late := time.Now().Add(10 * time.Second); time.Now().Before(late); time.Sleep(5 * time.Millisecond) {
		list, err := s.Letters.Outbox()
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range list {
			if l.To == to && strings.Contains(l.Subject, subject) {
				return l
			}
		}
	}
	t.Fatalf("no message to %s about %q", to, subject)
	return store.Letter{}
}

var inLetter = regexp.MustCompile(`http://127\.0\.0\.1:8080(/\S+)`)

const word = "seven grey lamp posts"

// A house begins with its first owner, who has the key; others come by invitations, which are good once. A forgotten
// password is chosen anew by mail, and ends what sessions there are; a person who is switched off is out at once.
func TestPeopleComeAndGo(t *testing.T) {
	_, s, app := newHouse(t, site.Settings{FirstKey: "the key"})
	ida := newBrowser(t, app)
	code, body := ida.get("/")
	ida.says(code, body, 200, "You are the first here")
	for _, wrong := range [][2]string{{"key", "another"}, {"password", "short"}, {"password", "aaaaaaaaaaaaaaaa"},
		{"password", "123456789012"}, {"password", "ida.brandt-123"}, {"email", "ida"},
		{"email", "a@b.example\r\nBcc: c@d.example"}, {"name", strings.Repeat("n", 10000)}, {"name", "Ida\u202e"}} {
		form := map[string]string{"key": "the key", "name": "Ida Brandt", "email": "ida.brandt@town.example",
			"password": word}
		form[wrong[0]] = wrong[1]
		var pairs []string
		for k, v := range form {
			pairs = append(pairs, k, v)
		}
		if code, _ := ida.post("/first", pairs...); code != 400 {
			t.Errorf("the first owner with the %s %.20q: %d", wrong[0], wrong[1], code)
		}
	}
	code, body = ida.post("/first", "key", "the key", "name", "Ida Brandt", "email", "Ida.Brandt@town.example",
		"password", word)
	ida.says(code, body, 200, "No maps yet")
	code, body = newBrowser(t, app).post("/first", "key", "the key", "name", "Second", "email", "second@town.example",
		"password", word)
	ida.says(code, body, 200, "Sign in")

	code, body = ida.post("/people/invite", "name", "Jonas Petri", "email", "jonas@town.example", "role", "member")
	ida.says(code, body, 200, "An invitation to jonas@town.example waits in the outbox")
	code, body = ida.post("/people/invite", "name", "Jonas", "email", "JONAS@town.example")
	ida.says(code, body, 400, "is in the organisation already")
	first := inLetter.FindStringSubmatch(letter(t, s, "jonas@town.example", "invites you").Plain)[1]
	jonas := newBrowser(t, app)
	code, body = jonas.post(first, "password", "jonas@town.example")
	jonas.says(code, body, 400, "easy to guess")
	code, body = jonas.post(first, "password", word+" too")
	jonas.says(code, body, 200, "No maps yet")
	for _, ticket := range []string{first, "/invited/AAAAAAAAAAAAAAAAAAAAAAAAAA",
		"/reset/" + strings.TrimPrefix(first, "/invited/"), "/invited/%00"} {
		if code, body := newBrowser(t, app).get(ticket); code != 410 || !strings.Contains(body, "This link is over") {
			t.Errorf("the ticket %s answers %d", ticket, code)
		}
	}

	// A known and an unknown address have the same answer.
	other := newBrowser(t, app)
	_, known := other.post("/sign-in", "email", "jonas@town.example", "password", "wrong")
	_, unknown := other.post("/sign-in", "email", "nobody@town.example", "password", "wrong")
	if strings.ReplaceAll(known, "jonas", "nobody") != unknown {
		t.Error("the page for a known address is another than that for an unknown one")
	}
	_, known = other.post("/forgot", "email", "jonas@town.example")
	_, unknown = other.post("/forgot", "email", "nobody@town.example")
	if strings.ReplaceAll(known, "jonas", "nobody") != unknown {
		t.Error("the page for a forgotten password tells who is there")
	}
	reset := inLetter.FindStringSubmatch(letter(t, s, "jonas@town.example", "A new password").Plain)[1]
	code, body = other.post(reset, "password", "another good word")
	other.says(code, body, 200, "No maps yet")
	if code, body := jonas.get("/"); !strings.Contains(body, "Sign in") {
		t.Errorf("the session from before the new password: %d", code)
	}
	code, body = jonas.post("/sign-in", "email", " jonas@town.example", "password", "another good word", "to",
		"//elsewhere.example")
	jonas.says(code, body, 200, "No maps yet")

	// Wrong tries slow down one account from one address; not the others.
	for range site.ByAccount.Free + 1 {
		newBrowser(t, app).post("/sign-in", "email", "jonas@town.example", "password", "guess")
	}
	code, body = newBrowser(t, app).post("/sign-in", "email", "jonas@town.example", "password", "another good word")
	jonas.says(code, body, 401, "Too many tries")
	// where he was before
	code, body = jonas.post("/sign-in", "email", "jonas@town.example", "password", "another good word")
	jonas.says(code, body, 200, "No maps yet")
	code, body = newBrowser(t, app).post("/sign-in", "email", "ida.brandt@town.example", "password", word)
	jonas.says(code, body, 200, "No maps yet")

	// The password is changed only by who knows it, and ends the other sessions.
	code, body = jonas.post("/me/password", "old", "wrong", "password", "a third good word")
	jonas.says(code, body, 400, "The present password is another one")
	code, body = jonas.post("/me/password", "old", "another good word", "password", "a third good word")
	jonas.says(code, body, 200, "signed out everywhere else")
	letter(t, s, "jonas@town.example", "Your password was changed")
	if _, body := other.get("/"); !strings.Contains(body, "Sign in") {
		t.Error("another session outlasts the change")
	}
	// A page of an earlier session changes nothing.
	old := jonas.token
	jonas.token = strings.Repeat("0", 64)
	code, body = jonas.post("/me/name", "name", "Somebody")
	jonas.says(code, body, 403, "This page is of an earlier session")
	jonas.token = old
	code, body = jonas.post("/me/name", "name", "Jonas P.")
	jonas.says(code, body, 200, "Jonas P.")

	// The organisation keeps an owner; maps are handed over; who is switched off is out.
	p, _, err := s.People.ByMail("jonas@town.example")
	if err != nil {
		t.Fatal(err)
	}
	i, _, err := s.People.ByMail("ida.brandt@town.example")
	if err != nil {
		t.Fatal(err)
	}
	jonas.post("/maps", "title", "The map of Jonas", "kind", "flowchart")
	code, body = ida.post("/people/"+i.ID+"/role", "role", "member")
	ida.says(code, body, 400, "is the only administrator")
	code, body = ida.post("/people/" + i.ID + "/switch")
	ida.says(code, body, 400, "You cannot deactivate yourself")
	code, body = ida.post("/people/" + p.ID + "/switch")
	ida.says(code, body, 200, "is deactivated")
	if _, body := jonas.get("/"); !strings.Contains(body, "Sign in") {
		t.Error("a person who is switched off is still signed in")
	}
	code, body = jonas.post("/sign-in", "email", "jonas@town.example", "password", "a third good word")
	jonas.says(code, body, 401, "Sign in")
	code, body = ida.post("/people/"+p.ID+"/hand-over", "to", i.ID)
	ida.says(code, body, 200, "now has the 1 map of")
	code, body = ida.get("/")
	ida.says(code, body, 200, "The map of Jonas")

	// All of it is in the list of what was done, which is a table as well.
	r, file := ida.do("GET", "/audit.csv", "", "")
	rows, err := csv.NewReader(strings.NewReader(file)).ReadAll()
	if err != nil || r.Header.Get("Content-Type") != "text/csv; charset=utf-8" || len(rows) < 10 {
		t.Errorf("the table of what was done: %v, %d rows", err, len(rows))
	}
	for _, what := range []string{"became the first administrator", "invited a person as member", "chose a password",
		"tried to sign in in vain", "changed their password", "deactivated a person", "handed 1 map over"} {
		if !strings.Contains(file, what) {
			t.Errorf("the table does not say %q", what)
		}
	}
	for _, secret := range []string{word, "good word", strings.TrimPrefix(first, "/invited/")} {
		if strings.Contains(file, secret) {
			t.Errorf("the table says %q", secret)
		}
	}
}

// The directory of the organisation signs people in; what it does not vouch for, or what was not asked here, does not.
func TestTheDirectorySignsIn(t *testing.T) {
	provider, err := mockoidc.Run()
	if err != nil {
		t.Fatal(err)
	}
	defer provider.Shutdown()
	_, s, app := newHouse(t,
		site.Settings{Directory: &site.Directory{Issuer: provider.Issuer(), Client: provider.Config().ClientID,
			Secret: provider.Config().ClientSecret}})
	if _, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"}); err != nil {
		t.Fatal(err)
	}
	// through goes to the directory and back, as a browser does.
	through := func(b *browser, user *mockoidc.MockUser) string {
		t.Helper()
		provider.QueueUser(user)
		r, _ := b.do("GET", "/directory", "", "")
		client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error {
			return http.ErrUseLastResponse
		}}
		answer, err := client.Get(r.Header.Get("Location"))
		if err != nil {
			t.Fatal(err)
		}
		answer.Body.Close()
		return strings.TrimPrefix(answer.Header.Get("Location"), "http://127.0.0.1:8080")
	}
	selma := &mockoidc.MockUser{Subject: "s1", Email: "selma@town.example", EmailVerified: true}
	b := newBrowser(t, app)
	back := through(b, selma)
	code, body := b.get(back)
	b.says(code, body, 200, "No maps yet")
	p, _, err := s.People.ByMail("selma@town.example")
	if err != nil || p.Role != account.Member || !p.Directory {
		t.Errorf("who came by the directory: %+v, %v", p, err)
	}
	code, body = b.get(back) // once more
	b.says(code, body, 401, "belongs to no sign-in")
	code, body = newBrowser(t, app).get(back) // in another browser
	b.says(code, body, 401, "belongs to no sign-in")
	// An answer to another sign-in than the one that was begun here.
	b = newBrowser(t, app)
	other := newBrowser(t, app)
	foreign := through(other, &mockoidc.MockUser{Subject: "s9", Email: "mallory@else.example", EmailVerified: true})
	b.do("GET", "/directory", "", "")
	code, body = b.get(foreign)
	b.says(code, body, 401, "belongs to no sign-in")
	for name, user := range map[string]*mockoidc.MockUser{"unverified": {Subject: "s2", Email: "ida@town.example"},
		"without an address":          {Subject: "s3", EmailVerified: true},
		"another one of that address": {Subject: "s4", Email: "selma@town.example", EmailVerified: true}} {
		b := newBrowser(t, app)
		if code, body := b.get(through(b, user)); code != 401 || !strings.Contains(body, "The directory") {
			t.Errorf("%s: %d %.400s", name, code, body)
		}
	}
	// Whoever is in the organisation already is the same person by the directory.
	b = newBrowser(t, app)
	code, body = b.get(through(b, &mockoidc.MockUser{Subject: "i1", Email: "Ida@town.example", EmailVerified: true}))
	b.says(code, body, 200, "People")
	if err := s.People.SetOff(p.ID, true); err != nil {
		t.Fatal(err)
	}
	b = newBrowser(t, app)
	code, body = b.get(through(b, selma))
	b.says(code, body, 401, "deactivated")
}

// Folders keep maps apart, and share them together; what two people do at once, or what cannot be, has a clear word.
func TestFoldersAndShares(t *testing.T) {
	h := openHouse(t)
	form := func(who, path string, pairs ...string) (int, string) {
		q := url.Values{}
		for i := 0; i < len(pairs); i += 2 {
			q.Add(pairs[i], pairs[i+1])
		}
		r, body := h.ask(who, "POST", path, q.Encode())
		return r.StatusCode, r.Header.Get("Location") + html.UnescapeString(body)
	}
	made := func(name, parent string) string {
		t.Helper()
		code, to := form("owner", "/folders", "name", name, "folder", parent)
		if code != 303 {
			t.Fatalf("making the folder %s: %d %s", name, code, to)
		}
		return strings.TrimPrefix(to, "/?folder=")
	}
	works := made("Works", "")
	light := made("Light", works)
	for _, c := range []struct{ path, name, parent, want string }{
		{"/folders", "WORKS", "", "There is a folder “WORKS” in this place already"},
		{"/folders", " ", "", "A name is needed"},
		{"/folders", strings.Repeat("long ", 2000), "", "longer than 100 characters"},
		{"/folders/" + works + "/move", "", works, "cannot be moved into itself"},
		{"/folders/" + works + "/move", "", light, "cannot be moved into itself"},
		{"/folders/" + works + "/remove", "", "", "still holds 0 maps and 1 folder"},
		{"/folders", "x", "nowhere", "You may not put anything"},
	} {
		if code, body := form("owner", c.path, "name", c.name, "folder", c.parent); code < 400 || code >= 500 ||
			!strings.Contains(body, c.want) {
			t.Errorf("%s %.20q: %d %s", c.path, c.name, code, body)
		}
	}
	deep := light
	for k := range account.MaxDepth - 2 {
		deep = made(fmt.Sprint("Level ", k), deep)
	}
	if code, body := form("owner", "/folders", "name", "Too deep", "folder", deep); code != 400 ||
		!strings.Contains(body, "at most 12 deep") {
		t.Errorf("one folder too deep: %d %s", code, body)
	}

	// A right to a folder is one to all in it, until a nearer one says otherwise.
	code, to := form("owner", "/maps", "title", "A street light", "kind", "flowchart", "folder", light)
	if code != 303 {
		t.Fatalf("a map in a folder: %d %s", code, to)
	}
	id := strings.TrimPrefix(to, "/maps/")
	sees := func(who string) bool {
		r, _ := h.ask(who, "GET", "/maps/"+id, "")
		_, list := h.ask(who, "GET", "/?q=street", "")
		if in := strings.Contains(list, `data-id="`+id); in != (r.StatusCode == 200) {
			t.Errorf("the map answers %d to %s, and it is in their list: %v", r.StatusCode, who, in)
		}
		return r.StatusCode == 200
	}
	steps := []struct {
		path, person, right string
		edit, read          bool
	}{
		{"", "", "", false, false},
		{"/folders/" + works, "edit", "edit", true, false},
		{"/folders/" + works, "everyone", "read", true, true},
		{"/maps/" + id, "everyone", "none", true, false},
		{"/maps/" + id, "edit", "none", false, false},
		{"/maps/" + id, "edit", "inherit", true, false},
		{"/maps/" + id, "everyone", "inherit", true, true},
		{"/folders/" + light, "edit", "read", true, true},
		{"/folders/" + works, "everyone", "inherit", true, false},
	}
	for i, c := range steps {
		if c.path != "" {
			person := c.person
			if h.ids[person] != "" {
				person = h.ids[person]
			}
			if code, body := form("owner", c.path+"/people", "person", person, "right", c.right); code != 200 {
				t.Fatalf("step %d: %d %s", i, code, body)
			}
		}
		if sees("edit") != c.edit || sees("read") != c.read || sees("stranger") != c.read {
			t.Errorf("after step %d (%v) the editor sees it: %v, the reader: %v, a stranger: %v", i, c, sees("edit"),
				sees("read"), sees("stranger"))
		}
	}
	if r, _ := h.ask("edit", "POST", "/maps/"+id+"/rename", "title=Mine"); r.StatusCode != 403 {
		t.Errorf("with the nearer right to read they rename it: %d", r.StatusCode)
	}
	// What one pins is pinned for oneself, until one takes the pin out; what one opened stands among those opened last.
	shelf := func(who, name string) bool {
		_, body := h.ask(who, "GET", "/?show="+name, "")
		return strings.Contains(body, `data-id="`+id)
	}
	form("owner", "/maps/pin", "id", id)
	if !shelf("owner", "pinned") || shelf("edit", "pinned") || !shelf("edit", "recent") || shelf("owner", "recent") ||
		!shelf("owner", "mine") || shelf("owner", "shared") || !shelf("edit", "shared") {
		t.Error("a map stands on a shelf where it does not belong, or not where it does")
	}
	form("owner", "/maps/pin", "id", id, "pinned", "no")
	if shelf("owner", "pinned") {
		t.Error("a map whose pin was taken out is pinned")
	}
	// Several maps move together or not at all.
	other := h.share()
	if code, _ := form("manage", "/maps/move", "id", other, "id", id, "folder", h.folder); code != 404 {
		t.Errorf("moving one's own and another's: %d", code)
	}
	if where, _, err := h.s.Maps.Where(other); err != nil || where.Folder != "" {
		t.Errorf("one of them was moved: %v %v", where, err)
	}
	if code, _ := form("manage", "/maps/move", "id", other, "folder", h.folder); code != 303 {
		t.Errorf("moving one's own: %d", code)
	}
	if code, _ := form("owner", "/maps/delete", "id", other, "id", id); code != 303 {
		t.Errorf("putting two away: %d", code)
	}
	if r, body := h.ask("owner", "GET", "/bin", ""); r.StatusCode != 200 ||
		strings.Count(body, "deleted for good on") != 2 {
		t.Errorf("the bin: %d", r.StatusCode)
	}
	if r, _ := h.ask("owner", "POST", "/maps/"+id+"/restore", ""); r.StatusCode != 303 || !sees("owner") {
		t.Errorf("bringing one back: %d", r.StatusCode)
	}
	if code, _ := form("owner", "/maps/"+id+"/people", "email", "nobody@town.example", "right", "read"); code != 200 {
		t.Errorf("a right for somebody unknown: %d", code)
	}
	if r, _ := h.ask("owner", "GET", "/?folder="+works+"&view=list&sort=title&page=2", ""); r.StatusCode != 303 {
		t.Errorf("a page that is not there: %d", r.StatusCode)
	}
}

// A search finds the beginnings of words in titles, steps and lanes, whatever their accents, and only what one may see.
func TestSearch(t *testing.T) {
	h := openHouse(t)
	m := model.New("Straßen und Wege", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: "a", Kind: model.Process,
		Text: "Look up the café’s pole\nnumber"})
	m.Sheets[0].Symbols[0].W, m.Sheets[0].Symbols[0].H = 15000, 9000
	m.Fields = []model.Field{{ID: "f1", Name: "System", Type: "text"}, {ID: "f2", Name: "Time", Type: "duration"}}
	m.Sheets[0].Symbols[0].Values = []model.Value{{ID: "f1", Text: "Geoinfo"}, {ID: "f2", Text: "4711"}}
	id, err := h.s.Maps.CreateFor(m, h.ids["owner"], "")
	h.must(err)
	for query, want := range map[string]bool{"cafe": true, "CAFÉ num": true, "pole number": true, "strassen": false,
		"Straß": true, "wege": true, "geoinf": true, "4711": false, "ole": false, "pole straß": false,
		`"pole`: true, "pole* OR xyz": false, "look AND": false, "--": false, "''; DROP TABLE words": false,
		strings.Repeat("pole ", 40): true} {
		r, body := h.ask("owner", "GET", "/?view=list&q="+url.QueryEscape(query), "")
		if got := strings.Contains(body, `data-id="`+id); r.StatusCode != 200 ||
			got != want && strings.TrimSpace(query) != "--" {
			t.Errorf("%q: %d, found %v", query, r.StatusCode, got)
		}
	}
	if _, body := h.ask("owner", "GET", "/?q=pole", ""); !strings.Contains(body, "/maps/"+id+"#at=a") {
		t.Error("what was found does not lead to the step")
	}
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.Apply("w1", 1, &edit.RemoveItems{Sheet: m.Sheets[0].ID, IDs: []string{"a"}})
	h.must(err)
	if _, body := h.ask("owner", "GET", "/?q=pole", ""); strings.Contains(body, id) {
		t.Error("a step that is gone is found")
	}
	if _, body := h.ask("stranger", "GET", "/?q=wege", ""); strings.Contains(body, id) ||
		strings.Contains(body, "Straßen") {
		t.Error("a stranger finds it")
	}
}

// Maps are begun from the ready ones, from those of the organisation, and from tables of steps.
func TestBeginnings(t *testing.T) {
	h := openHouse(t)
	for _, start := range []string{"approval", "two-rows", "swimlanes", "flowchart"} {
		r, body := h.ask("owner", "POST", "/maps",
			"start="+start+"&direction=down&paper=A3&orientation=upright&title=Begun&roles=One%0ATwo")
		if r.StatusCode != 303 {
			t.Fatalf("%s: %d %s", start, r.StatusCode, body)
		}
		d, err := h.s.Documents.Open(strings.TrimPrefix(r.Header.Get("Location"), "/maps/"))
		h.must(err)
		m, _ := d.Snapshot()
		if m.Title != "Begun" || m.Direction != model.Downwards || m.Sheets[0].Paper != "A3" || m.Sheets[0].Across {
			t.Errorf("%s became %q, %s, on %s", start, m.Title, m.Direction, m.Sheets[0].Paper)
		}
	}
	if _, body := h.ask("owner", "GET", "/begin",
		""); !regexp.MustCompile(`value="down"\s+checked`).MatchString(body) ||
		!regexp.MustCompile(`value="A3"\s+selected`).MatchString(body) {
		t.Error("how it was begun is not remembered")
	}
	id := h.share()
	if r, _ := h.ask("owner", "POST", "/maps/"+id+"/start", "about=For+everyone"); r.StatusCode != 303 {
		t.Fatalf("keeping a starting point: %d", r.StatusCode)
	}
	list, err := h.s.Starts.List()
	h.must(err)
	if r, _ := h.ask("stranger", "POST", "/maps",
		"start=own-"+list[0].ID+"&title=From+the+house"); r.StatusCode != 303 {
		t.Errorf("beginning from it: %d", r.StatusCode)
	}
	for who, code := range map[string]int{"stranger": 404, "house owner": 303} {
		if r, _ := h.ask(who, "POST", "/begin/own-"+list[0].ID+"/remove", ""); r.StatusCode != code {
			t.Errorf("%s takes it away: %d", who, r.StatusCode)
		}
	}
	table := func(name, text string) (int, string) {
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		part, err := form.CreateFormFile("file", name)
		h.must(err)
		_, err = io.WriteString(part, text)
		h.must(errorsJoin(err, form.Close()))
		b := newBrowser(t, h.app)
		b.cookies["session"], b.token = h.tokens["owner"], h.s.Sign("form", h.ids["owner"], h.tokens["owner"])
		r, answer := b.do("POST", "/maps/open", body.String(), form.FormDataContentType())
		return r.StatusCode, answer
	}
	if code, body := table("steps.csv",
		"id,text,kind,lane,next\na,Begin,terminator,One,b\nb,End,terminator,Two,\n"); code != 303 {
		t.Errorf("a table: %d %.300s", code, body)
	}
	if code, body := table("steps.csv", "id,text,next\na,Begin,z\n"); code != 400 ||
		!strings.Contains(body, "ine 2, column next: there is no step") {
		t.Errorf("a faulty table: %d %.800s", code, body)
	}
	if code, body := table("steps.xlsx", "PK\x03\x04 and no more"); code != 400 ||
		!strings.Contains(body, "spreadsheet cannot be read") {
		t.Errorf("a faulty spreadsheet: %d %.800s", code, body)
	}
}

func errorsJoin(list ...error) error {
	for _, err := range list {
		if err != nil {
			return err
		}
	}
	return nil
}

// A server for mail that hangs holds nobody up, and what could not be sent is told.
type hanging struct{ asked chan struct{} }

func (h hanging) Carry(ctx context.Context, _ mail.Message) error {
	close(h.asked)
	<-ctx.Done()
	return ctx.Err()
}

func TestAServerForMailThatHangs(t *testing.T) {
	asked := make(chan struct{})
	_, s, app := newHouse(t, site.Settings{Mail: hanging{asked}})
	id, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"})
	if err != nil {
		t.Fatal(err)
	}
	token, err := s.Sessions.Begin(id, "")
	if err != nil {
		t.Fatal(err)
	}
	b := newBrowser(t, app)
	b.cookies["session"] = token
	b.get("/people")
	code, body := b.post("/people/invite", "name", "Jo", "email", "jo@town.example")
	b.says(code, body, 200, "is on its way")
	<-asked
	if list, err := s.Letters.Outbox(); err != nil || len(list) != 1 || !list[0].Waits() {
		t.Errorf("while the server takes no message the outbox holds %+v, %v", list, err)
	}
}
