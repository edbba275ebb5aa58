package web

import (
	"bytes"
	"compress/gzip"
	"io"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/andybalholm/brotli"
	"github.com/gofiber/fiber/v3"

	"plaintracer"
	"plaintracer/app/house"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// application returns the two applications over a store with one map.
func application(t *testing.T) (editor, links *fiber.App, s *house.House, id string) {
	t.Helper()
	s, err := house.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	owner, err := s.People.AddFirst(store.NewPerson{Name: "<Ida> & co", Email: "ida@town.example"})
	if err != nil {
		t.Fatal(err)
	}
	if id, err = s.Maps.CreateFor(model.New("<Map> & \"more\"", model.Rightwards, "A4", true), owner, ""); err != nil {
		t.Fatal(err)
	}
	srv := serverOver(t, s, site.Settings{As: owner})
	return srv.Editor(), srv.Links(), s, id
}

// tokens are what the pages of applications bring along that take everybody for one person.
var tokens = map[*fiber.App]string{}

// serverOver returns a server over a store, which ends with the test.
func serverOver(t testing.TB, s *house.House, settings site.Settings) *Server {
	t.Helper()
	settings.Address = "http://127.0.0.1:8080"
	srv, err := withCore(s, standIn(t), settings)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(srv.Close)
	return srv
}

// fromPage makes a request of a page of the application.
func fromPage(app *fiber.App, method, path string, body io.Reader) *http.Request {
	req := httptest.NewRequest(method, path, body)
	req.Host = "127.0.0.1:8080"
	if method == "GET" {
		return req
	}
	token, known := tokens[app]
	if !known {
		first := httptest.NewRequest("GET", "/", nil)
		first.Host = req.Host
		if r, err := app.Test(first, fiber.TestConfig{Timeout: time.Minute}); err == nil {
			page, _ := io.ReadAll(r.Body)
			if m := pageToken.FindSubmatch(page); m != nil {
				token = string(m[1])
			}
		}
		tokens[app] = token
	}
	req.Header.Set(site.TokenHeader, token)
	return req
}

var pageToken = regexp.MustCompile(`name="page-token" content="([0-9a-f]+)"`)

// standIn takes the place of the browser core, which these tests do not run.
func standIn(t testing.TB) fs.FS {
	t.Helper()
	var packed bytes.Buffer
	w := brotli.NewWriter(&packed)
	if _, err := w.Write([]byte("core")); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return fstest.MapFS{
		"stamp.txt":      {Data: []byte(plaintracer.EditorSource() + " " + runtime.Version())},
		"editor.wasm.br": {Data: packed.Bytes()}, "worker.wasm.br": {Data: packed.Bytes()},
		"wasm_exec.js": {Data: []byte("// the loader")},
	}
}

// A core of other sources, or none, is not handed out.
func TestAnotherCoreIsNotHandedOut(t *testing.T) {
	for name, core := range map[string]fs.FS{
		"none":          fstest.MapFS{},
		"another":       fstest.MapFS{"stamp.txt": {Data: []byte("0123456789abcdef " + runtime.Version())}},
		"by another Go": fstest.MapFS{"stamp.txt": {Data: []byte(plaintracer.EditorSource() + " go0.1")}},
	} {
		if _, err := site.LoadAssets(files, core); err == nil || !strings.Contains(err.Error(), "run make") {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func ask(t *testing.T, app *fiber.App, method, path string, headers ...string) (*http.Response, string) {
	t.Helper()
	req := fromPage(app, method, path, nil)
	for i := 0; i < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	r, err := app.Test(req, fiber.TestConfig{Timeout: time.Minute}) // it takes long under the race detector
	if err != nil {
		t.Fatal(err)
	}
	body, err := io.ReadAll(r.Body)
	if err != nil {
		t.Fatal(err)
	}
	return r, string(body)
}

var address = regexp.MustCompile(`(?:src|href)="(/static/[^"#]+)`)

// Every file a page names is there, under a name with its hash, to be kept for
// good, compressed as the browser likes it.
func TestFilesAreHashedKeptAndCompressed(t *testing.T) {
	editor, _, _, id := application(t)
	_, page := ask(t, editor, "GET", "/maps/"+id)
	found := address.FindAllStringSubmatch(page, -1)
	if len(found) < 7 {
		t.Fatalf("the editor's page names %d files", len(found))
	}
	hash := regexp.MustCompile(`\.[0-9a-f]{12}\.`)
	for _, m := range found {
		path := m[1]
		if !hash.MatchString(path) {
			t.Errorf("%s carries no hash", path)
		}
		r, plain := ask(t, editor, "GET", path)
		if r.StatusCode != 200 || !strings.Contains(r.Header.Get("Cache-Control"), "immutable") {
			t.Errorf("%s: %d, kept %q", path, r.StatusCode, r.Header.Get("Cache-Control"))
		}
		if strings.HasSuffix(path, ".woff2") {
			continue // compressed in itself
		}
		r, packed := ask(t, editor, "GET", path, "Accept-Encoding", "gzip, br")
		unpacked, err := io.ReadAll(brotli.NewReader(strings.NewReader(packed)))
		if r.Header.Get("Content-Encoding") != "br" || err != nil || string(unpacked) != plain {
			t.Errorf("%s: compressed as %q, %v", path, r.Header.Get("Content-Encoding"), err)
		}
		if strings.HasSuffix(path, ".wasm") {
			continue
		}
		r, packed = ask(t, editor, "GET", path, "Accept-Encoding", "gzip")
		z, err := gzip.NewReader(bytes.NewReader([]byte(packed)))
		if r.Header.Get("Content-Encoding") != "gzip" || err != nil {
			t.Errorf("%s: compressed as %q, %v", path, r.Header.Get("Content-Encoding"), err)
		} else if unpacked, _ := io.ReadAll(z); string(unpacked) != plain {
			t.Errorf("%s: unpacked it differs", path)
		}
	}
}

func TestPagesAreGuardedAndHoldNothingInline(t *testing.T) {
	editor, links, s, id := application(t)
	token, err := s.Links.Create(id, "", store.Choices{}, "")
	if err != nil {
		t.Fatal(err)
	}
	inline := regexp.MustCompile(`(?i)<script>|<style|\sstyle=|\son(click|load|error)=|javascript:|https?://`)
	for _, c := range []struct {
		app  *fiber.App
		path string
	}{{editor, "/"}, {editor, "/bin"}, {editor, "/begin"}, {editor, "/people"}, {editor, "/audit"}, {editor, "/outbox"},
		{editor, "/me"}, {editor, "/sign-in"}, {editor, "/forgot"}, {editor, "/maps/" + id + "/people"},
		{editor, "/maps/" + id}, {links, "/read/" + token}, {editor, "/nowhere"}} {
		r, page := ask(t, c.app, "GET", c.path)
		csp := r.Header.Get("Content-Security-Policy")
		if !strings.Contains(csp, "script-src 'self' 'wasm-unsafe-eval'") ||
			!strings.Contains(csp, "default-src 'none'") || strings.Contains(csp, "unsafe-inline") {
			t.Errorf("%s: the policy is %q", c.path, csp)
		}
		page = strings.ReplaceAll(page, "http://www.w3.org/2000/svg", "")
		if found := inline.FindString(page); found != "" {
			t.Errorf("%s holds %q", c.path, found)
		}
		if strings.Contains(page, "<Map>") {
			t.Errorf("%s shows a title unescaped", c.path)
		}
	}
}

func TestPanelsSayWhatIsThere(t *testing.T) {
	editor, _, s, id := application(t)
	d, err := s.Documents.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	step := model.Symbol{ID: "a", Kind: model.Process}
	step.W, step.H, step.Text = 12000, 8000, "Log <it>"
	if _, err := d.Apply("w1", 1, &edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{step}}); err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]string{"register": "Log &lt;it&gt;", "findings": "is a dead end",
		"links": "Make a link"} {
		if r, body := ask(t, editor, "GET", "/maps/"+id+"/"+path); r.StatusCode != 200 ||
			!strings.Contains(body, want) {
			t.Errorf("%s: %d %s", path, r.StatusCode, body)
		}
	}
	for path, code := range map[string]int{"/export/gif": 404, "/export/svg?scale=99": 400, "/export/svg?sheet=7": 400,
		"/export/png?scale=NaN": 400, "/export/map": 200} {
		if r, _ := ask(t, editor, "GET", "/maps/"+id+path); r.StatusCode != code {
			t.Errorf("%s answers %d, not %d", path, r.StatusCode, code)
		}
	}
}
