package web

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/account/passcode"
	"plaintracer/app/house"
	"plaintracer/app/live"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// served serves an application over a real socket until the test ends, encrypted or not, and returns its address.
func served(t *testing.T, app *fiber.App, encrypted bool) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	address := "http://" + ln.Addr().String()
	if encrypted {
		key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
		if err != nil {
			t.Fatal(err)
		}
		like := &x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour),
			IPAddresses: []net.IP{{127, 0, 0, 1}}}
		raw, err := x509.CreateCertificate(rand.Reader, like, like, &key.PublicKey, key)
		if err != nil {
			t.Fatal(err)
		}
		ln = tls.NewListener(ln,
			&tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{raw}, PrivateKey: key}}})
		address = strings.Replace(address, "http", "https", 1)
	}
	done := make(chan error, 1)
	go func() { done <- app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() {
		app.ShutdownWithTimeout(time.Second)
		<-done
	})
	return address
}

// guest is a browser over real sockets: it keeps cookies as browsers do, Secure and paths among them.
type guest struct {
	*testing.T
	base   string
	client http.Client
	token  string
}

func newGuest(t *testing.T, base string) *guest {
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &guest{T: t, base: base, client: http.Client{Jar: jar, Timeout: time.Minute,
		Transport:     &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// do sends a form or asks for a page, with headers in pairs, and follows nothing.
func (g *guest) do(method, path string, form url.Values, headers ...string) (*http.Response, string) {
	g.Helper()
	req, err := http.NewRequest(method, g.base+path, strings.NewReader(form.Encode()))
	if err != nil {
		g.Fatal(err)
	}
	if method == "POST" {
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set(site.TokenHeader, g.token)
	}
	for i := 0; i < len(headers); i += 2 {
		if req.Header.Add(headers[i], headers[i+1]); headers[i] == "Host" {
			req.Host = headers[i+1]
		}
	}
	r, err := g.client.Do(req)
	if err != nil {
		g.Fatal(err)
	}
	defer r.Body.Close()
	raw, err := io.ReadAll(r.Body)
	if err != nil {
		g.Fatal(err)
	}
	if m := pageToken.FindSubmatch(raw); m != nil {
		g.token = string(m[1])
	}
	return r, string(raw)
}

// signIn signs in by the password of the tests, and takes the token of a page along.
func (g *guest) signIn(email, word string, headers ...string) *http.Response {
	g.Helper()
	r, _ := g.do("POST", "/sign-in", url.Values{"email": {email}, "password": {word}}, headers...)
	if r.StatusCode == http.StatusSeeOther {
		if _, body := g.do("GET", "/me", nil, headers...); g.token == "" {
			g.Fatalf("signed in, but the page has no token: %.300s", body)
		}
	}
	return r
}

// dial opens a socket as the browser would.
func (g *guest) dial(path string, headers ...string) (*websocket.Conn, *http.Response, error) {
	h := http.Header{}
	u, err := url.Parse(g.base + path)
	if err != nil {
		return nil, nil, err
	}
	for _, c := range g.client.Jar.Cookies(u) {
		h.Add("Cookie", c.String())
	}
	for i := 0; i < len(headers); i += 2 {
		h.Set(headers[i], headers[i+1])
	}
	d := websocket.Dialer{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}, HandshakeTimeout: 10 * time.Second}
	return d.Dial("ws"+strings.TrimPrefix(g.base, "http")+path, h)
}

// window is a window of the editor on a map, connected.
type window struct {
	*websocket.Conn
	name string
	seq  int
}

func (g *guest) window(at string) *window {
	g.Helper()
	r, body := g.do("GET", at+"/state", nil)
	var state struct {
		Window, Secret string
		Revision       int
	}
	if err := json.Unmarshal([]byte(body), &state); err != nil {
		g.Fatalf("%d %.200s: %v", r.StatusCode, body, err)
	}
	conn, _, err := g.dial(at + "/socket")
	if err != nil {
		g.Fatal(err)
	}
	g.Cleanup(func() { conn.Close() })
	w := &window{Conn: conn, name: state.Window}
	if err := conn.WriteJSON(map[string]any{"kind": "window", "window": state.Window, "secret": state.Secret,
		"after": state.Revision}); err != nil {
		g.Fatal(err)
	}
	if kind, _ := w.hear("here"); kind != "here" {
		g.Fatalf("the window hears %q", kind)
	}
	return w
}

// hear reads up to a message of one of some kinds, or the end of the connection, for which it returns no kind.
func (w *window) hear(kinds ...string) (kind string, all string) {
	w.SetReadDeadline(time.Now().Add(20 * time.Second))
	for {
		_, raw, err := w.ReadMessage()
		if err != nil {
			return "", err.Error()
		}
		var m struct{ Kind string }
		json.Unmarshal(raw, &m)
		for _, k := range kinds {
			if m.Kind == k {
				return k, string(raw)
			}
		}
	}
}

// say sends an edit, which gives the map other answers.
func (w *window) say() error {
	w.seq++
	return w.WriteMessage(websocket.TextMessage,
		fmt.Appendf(nil, `{"kind":"edit","window":%q,"seq":%d,"edit":{"do":"setHead","answers":["Yes","No %d"]}}`,
			w.name, w.seq, w.seq))
}

// town is a house with people who sign in by password, and a map.
type town struct {
	*testing.T
	s      *house.House
	server *Server
	folder string
	base   string
	id     string
	people map[string]string
}

func openTown(t *testing.T, settings site.Settings, encrypted bool) *town {
	t.Helper()
	quiet(t)
	folder := filepath.Join(t.TempDir(), "data")
	s, err := house.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	h := &town{T: t, s: s, folder: folder, people: map[string]string{}}
	for i, name := range []string{"ida", "jonas", "mara"} {
		role := account.Member
		if i == 0 {
			role = account.Owner
		}
		if h.people[name], err = s.People.Add(store.NewPerson{Name: name, Email: name + "@town.example", Role: role,
			Password: wordHash}); err != nil {
			t.Fatal(err)
		}
	}
	if h.id, err = s.Maps.CreateFor(model.New("Their map", model.Rightwards, "A4", true), h.people["ida"],
		""); err != nil {
		t.Fatal(err)
	}
	if err := s.Folders.Grant(account.Grant{Place: account.Place{Map: h.id}, Person: h.people["jonas"],
		Right: account.Edit}); err != nil {
		t.Fatal(err)
	}
	if err := s.Folders.Grant(account.Grant{Place: account.Place{Map: h.id}, Person: h.people["mara"],
		Right: account.Read}); err != nil {
		t.Fatal(err)
	}
	h.server = serverOver(t, s, settings)
	h.base = served(t, h.server.Editor(), encrypted)
	return h
}

// wordHash is the hash of the password that all of them have.
var wordHash = passcode.Hash(word)

// enter returns a browser in which somebody is signed in, as it is after their password was taken.
func (h *town) enter(name string) *guest {
	h.Helper()
	token, err := h.s.Sessions.Begin(h.people[name], "a test")
	if err != nil {
		h.Fatal(err)
	}
	g := newGuest(h.T, h.base)
	u, err := url.Parse(h.base)
	if err != nil {
		h.Fatal(err)
	}
	const id = "AAAAAAAAAAAAAAAAAAAAAAAAAA"
	g.client.Jar.SetCookies(u, []*http.Cookie{{Name: "session", Value: token, Path: "/"},
		{Name: "device", Value: id + "." + h.s.Sign("device", id, h.people[name]), Path: "/"}})
	if r, _ := g.do("GET", "/me", nil); r.StatusCode != http.StatusOK || g.token == "" {
		h.Fatalf("%s does not get in: %d", name, r.StatusCode)
	}
	return g
}

// revision is that of the map.
func (h *town) revision() (n int) {
	h.Helper()
	d, err := h.s.Documents.Open(h.id)
	if err != nil {
		h.Fatal(err)
	}
	d.View(func(_ *model.Map, revision int) { n = revision })
	return n
}

// Every cookie is bound to encrypted connections where there are such, by its attributes and by its name (RFC 6265bis,
// 4.1.3), whether the program encrypts itself or a proxy does; and a browser in which it came gets in by it.
func TestCookiesAreBound(t *testing.T) {
	proxies := []netip.Prefix{netip.MustParsePrefix("127.0.0.1/32")}
	for _, one := range []struct {
		name     string
		settings site.Settings
		tls      bool
		headers  []string
		secure   bool
	}{
		{"plain", site.Settings{}, false, nil, false},
		{"encrypted", site.Settings{}, true, nil, true},
		{"behind a proxy that encrypts", site.Settings{Proxies: proxies}, false,
			[]string{"X-Forwarded-Proto", "https", "X-Forwarded-For", "192.0.2.7"}, true},
		{"behind a proxy that does not", site.Settings{Proxies: proxies}, false, []string{"X-Forwarded-Proto", "http"},
			false},
		{"of somebody who says so themselves", site.Settings{}, false, []string{"X-Forwarded-Proto", "https"}, false},
	} {
		h := openTown(t, one.settings, one.tls)
		token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Remark}, "lamp post")
		if err != nil {
			t.Fatal(err)
		}
		g := newGuest(t, h.base)
		seen := map[string]bool{}
		look := func(r *http.Response) {
			t.Helper()
			for _, c := range r.Cookies() {
				plain := regexp.MustCompile(`^__(Host|Secure)-`).ReplaceAllString(c.Name, "")
				if c.MaxAge >= 0 && c.Value != "" {
					seen[plain] = true
				}
				want := plain
				switch {
				case one.secure && c.Path == "/":
					want = "__Host-" + plain
				case one.secure:
					want = "__Secure-" + plain
				}
				if c.Name != want || c.Secure != one.secure || !c.HttpOnly || c.SameSite != http.SameSiteLaxMode ||
					c.Domain != "" || c.Path == "" {
					t.Errorf("%s: %+v", one.name, c)
				}
				if (plain == "session") != (c.Path == "/") && plain != "device" && plain != "signed-out" {
					t.Errorf("%s: the cookie %s is for %s", one.name, c.Name, c.Path)
				}
			}
		}
		r, _ := g.do("POST", "/sign-in", url.Values{"email": {"ida@town.example"}, "password": {word}}, one.headers...)
		look(r)
		r, _ = g.do("POST", "/m/"+token+"/enter", url.Values{"passcode": {"lamp post"}}, one.headers...)
		look(r)
		r, _ = g.do("POST", "/m/"+token+"/remarks", url.Values{"text": {"Good."}, "called": {"Jo"}},
			append([]string{"Cookie", cookiesOf(r)}, one.headers...)...)
		look(r)
		for _, name := range []string{"session", "device", "passed", "visitor", "called"} {
			if !seen[name] {
				t.Errorf("%s: the cookie %s did not come", one.name, name)
			}
		}
		if one.tls || !one.secure { // where the client would send it along
			g.signIn("ida@town.example", word, one.headers...)
			if r, body := g.do("GET", "/", nil, one.headers...); r.StatusCode != 200 ||
				!strings.Contains(body, "Their map") {
				t.Errorf("%s: the cookie does not let in: %d", one.name, r.StatusCode)
			}
		}
	}
}

func cookiesOf(r *http.Response) string {
	var all []string
	for _, c := range r.Cookies() {
		all = append(all, c.Name+"="+c.Value)
	}
	return strings.Join(all, "; ")
}

// No code sets a cookie, or asks where a request comes from, but by the one function for it.
func TestCookiesAndOriginsAreOfOnePlace(t *testing.T) {
	files, err := filepath.Glob("*/*.go")
	if err != nil || len(files) < 20 {
		t.Fatal(files, err)
	}
	for _, path := range append(files, "routes.go") {
		if strings.HasSuffix(path, "_test.go") {
			continue
		}
		name := strings.TrimPrefix(path, "site/")
		raw, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		for _, call := range []struct{ text, only string }{{"fiber.Cookie{", "cookies.go"}, {"c.Cookie(", "cookies.go"},
			{"c.Cookies(", "cookies.go"}, {"Set-Cookie", ""},
			{"c.Secure()", ""}, {"c.IP()", ""}, {"c.IPs()", ""}, {"c.Host()", ""}, {"c.Hostname()", ""},
			{"c.Scheme()", ""}, {"c.Protocol()", ""}, {"RemoteIP()", "origin.go"}} {
			if name != call.only && strings.Contains(string(raw), call.text) {
				t.Errorf("%s has %s", name, call.text)
			}
		}
	}
}

// Whoever comes first to a new house has to show its key, wherever they come from and whatever they say; and a program
// that is for this machine answers to no other name.
func TestANewHouseAsksForItsKey(t *testing.T) {
	s, err := house.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	server := serverOver(t, s, site.Settings{Local: true, LinksLocal: true})
	if len(server.FirstKey) < 20 {
		t.Fatalf("the key is %q", server.FirstKey)
	}
	g := newGuest(t, served(t, server.Editor(), false))
	form := url.Values{"name": {"Eve"}, "email": {"eve@elsewhere.example"}, "password": {word}}
	_, port, _ := net.SplitHostPort(strings.TrimPrefix(g.base, "http://"))
	for _, one := range []struct {
		why, key string
		headers  []string
		code     int
	}{
		{"without a word", "", nil, 400},
		{"with another key", "AAAAAAAAAAAAAAAAAAAAAAAAAA", nil, 400},
		{"through a bare proxy", "", []string{"X-Forwarded-For", "127.0.0.1", "X-Forwarded-Host", "localhost"}, 400},
		{"by a name that was pointed here", "", []string{"Host", "rebound.example:" + port, "Origin",
			"http://rebound.example:" + port}, 403},
		{"by that name, with the key", server.FirstKey, []string{"Host", "rebound.example:" + port, "Origin",
			"http://rebound.example:" + port}, 403},
		{"from a page elsewhere", server.FirstKey, []string{"Origin", "http://elsewhere.example"}, 403},
	} {
		form.Set("key", one.key)
		if r, _ := g.do("POST", "/first", form, one.headers...); r.StatusCode != one.code {
			t.Errorf("%s it answers %d, not %d", one.why, r.StatusCode, one.code)
		}
	}
	if some, err := s.People.Any(); err != nil || some {
		t.Fatal("somebody came in", err)
	}
	for _, app := range []string{g.base, served(t, server.Links(), false)} {
		for host, code := range map[string]int{"rebound.example": 403, "127.0.0.1.rebound.example": 403,
			"192.0.2.1": 403, "[2001:db8::1]:80": 403, "localhost.": 403, "": 0,
			"localhost:" + port: 200, "127.0.0.1": 200, "[::1]:" + port: 200, "127.9.9.9:1": 200, "LOCALHOST": 200} {
			if host == "" {
				continue
			}
			if r, _ := newGuest(t, app).do("GET", "/static/app.css", nil, "Host", host); r.StatusCode != code &&
				!(code == 200 && r.StatusCode == 404) {
				t.Errorf("asked as %q it answers %d", host, r.StatusCode)
			}
		}
	}
	form.Set("key", server.FirstKey)
	form.Set("email", "ida@town.example")
	if r, body := g.do("POST", "/first", form); r.StatusCode != 303 {
		t.Errorf("with the key: %d %.300s", r.StatusCode, body)
	}
}

// A window lives as long as its session: signing out, a new password, a reset, switching off, and the session's own end
// shut it at once, that of a reader too. Others stay.
func TestWindowsEndWithTheirSession(t *testing.T) {
	for _, one := range []struct {
		why string
		end func(h *town, g *guest)
	}{
		{"signing out", func(h *town, g *guest) { g.do("POST", "/sign-out", nil) }},
		{"signing out everywhere", func(h *town, g *guest) {
			h.enter("jonas").do("POST", "/me/sign-out", nil)
			other := newGuest(h.T, h.base)
			other.signIn("jonas@town.example", word)
			if r, _ := other.do("POST", "/me/sign-out", nil); r.StatusCode != 303 {
				h.Errorf("signing out everywhere answers %d", r.StatusCode)
			}
		}},
		{"a new password", func(h *town, g *guest) {
			if r, body := h.enter("jonas").do("POST", "/me/password",
				url.Values{"old": {word}, "password": {"another good word"}}); r.StatusCode != 200 {
				h.Errorf("a new password: %d %.300s", r.StatusCode, body)
			}
		}},
		{"a reset by a ticket", func(h *town, g *guest) {
			ticket, err := h.s.Sessions.NewTicket(store.NewWord, h.people["jonas"], time.Now().Add(time.Hour))
			if err != nil {
				h.Fatal(err)
			}
			if r, body := newGuest(h.T, h.base).do("POST", "/reset/"+ticket,
				url.Values{"password": {"another good word"}}); r.StatusCode != 303 {
				h.Errorf("a reset: %d %.300s", r.StatusCode, body)
			}
		}},
		{"switching off", func(h *town, g *guest) {
			if r, _ := h.enter("ida").do("POST", "/people/"+h.people["jonas"]+"/switch", nil); r.StatusCode != 200 {
				h.Errorf("switching off answers %d", r.StatusCode)
			}
		}},
		{"a right that is taken back", func(h *town, g *guest) {
			if r, _ := h.enter("ida").do("POST", "/maps/"+h.id+"/people",
				url.Values{"person": {h.people["jonas"]}, "right": {"read"}}); r.StatusCode != 200 {
				h.Errorf("taking a right back answers %d", r.StatusCode)
			}
		}},
		{"the session's own end", nil},
	} {
		h := openTown(t, site.Settings{}, false)
		jonas, mara := h.enter("jonas"), h.enter("mara")
		if one.end == nil { // it comes by itself
			h.age(h.people["jonas"], 30*24*time.Hour-3*time.Second)
			one.end = func(h *town, _ *guest) { h.untilGone("jonas") }
		}
		w := jonas.window("/maps/" + h.id)
		other := h.enter("ida").window("/maps/" + h.id)
		conn, _, err := mara.dial("/maps/" + h.id + "/live")
		if err != nil {
			t.Fatal(err)
		}
		reader := &window{Conn: conn}
		reader.hear("here")
		if err := w.say(); err != nil {
			t.Fatal(err)
		}
		if kind, all := w.hear("saved", "refused"); kind != "saved" {
			t.Fatalf("%s: before it, %s", one.why, all)
		}
		one.end(h, jonas)
		if err := w.say(); err == nil { // the connection may be closed already
			if kind, all := w.hear("saved", "refused", "ended"); kind == "saved" {
				t.Errorf("after %s the window still saves: %s", one.why, all)
			}
		}
		if n := h.revision(); n != 1 {
			t.Errorf("after %s the map is at revision %d", one.why, n)
		}
		if err := other.say(); err != nil {
			t.Errorf("after %s: %v", one.why, err)
		}
		if kind, all := other.hear("saved", "refused", "ended"); kind != "saved" {
			t.Errorf("%s ends the window of another: %s", one.why, all)
		}
		if kind, all := reader.hear("changed", "ended"); kind != "changed" {
			t.Errorf("%s ends the reader of another: %s", one.why, all)
		}
		// The reader's own.
		mara.do("POST", "/sign-out", nil)
		if kind, all := reader.hear("ended"); kind == "" {
			t.Errorf("a reader who signed out is not told: %s", all)
		}
		if err := other.say(); err != nil {
			t.Error(err)
		}
		if kind, all := reader.hear("changed", "ended"); kind != "" {
			t.Errorf("a reader who signed out hears %s", all)
		}
		conn.Close()
	}
}

// untilGone waits until no window of somebody is open.
func (h *town) untilGone(name string) {
	h.Helper()
	for late := time.Now().Add(10 * time.Second); len(h.server.Live.Windows(h.id,
		func(w *live.Window) bool { return w.Person == h.people[name] })) > 0; time.Sleep(5 * time.Millisecond) {
		if time.Now().After(late) {
			h.Fatal("a window of " + name + " is still open")
		}
	}
}

// age has all sessions of a person be so old.
func (h *town) age(person string, old time.Duration) {
	h.Helper()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(h.folder, "plaintracer.db")+"?_pragma=busy_timeout(5000)")
	if err != nil {
		h.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("UPDATE sessions SET created = ? WHERE person = ?", time.Now().Add(-old).UnixMilli(),
		person); err != nil {
		h.Fatal(err)
	}
}

// A window that does not read what it is told, and has sent much before, is not dealt with any further once its right
// is gone.
func TestNothingIsReadAfterTheEnd(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	ida, jonas := h.enter("ida"), h.enter("jonas")
	w := jonas.window("/maps/" + h.id)
	// It never reads again, while others have much to tell it, so that its queue and the connection are full.
	d, err := h.s.Documents.Open(h.id)
	if err != nil {
		t.Fatal(err)
	}
	long := strings.Repeat("long ", model.MaxText/5)
	for n := 1; n <= 250; n++ {
		if _, err := d.Apply("w9", n,
			&edit.SetHead{Heading: &model.Heading{Author: fmt.Sprint(n), Purpose: long}}); err != nil {
			t.Fatal(err)
		}
	}
	stop := make(chan struct{})
	wrote := make(chan struct{})
	go func() {
		defer close(wrote)
		for {
			select {
			case <-stop:
				return
			default:
			}
			w.SetWriteDeadline(time.Now().Add(2 * time.Second))
			if w.say() != nil {
				return
			}
		}
	}()
	if r, _ := ida.do("POST", "/maps/"+h.id+"/people", url.Values{"person": {h.people["jonas"]},
		"right": {"inherit"}}); r.StatusCode != 200 {
		t.Fatal(r.StatusCode)
	}
	at := h.revision()
	h.untilGone("jonas")
	close(stop)
	<-wrote
	if n := h.revision(); n != at {
		t.Errorf("%d edits were saved after the right was gone", n-at)
	}
}
