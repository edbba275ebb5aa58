package web

import (
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// What each address takes. People in the organisation are nobody (not signed in), a stranger to the map, those with a
// right to it, its owner, and the administrator, who has no right to the map of their own.
var rightsTable = map[string]string{
	"GET /healthz": "all", "GET /static/*": "all", "GET /help": "all", "GET /help/:picture.png": "all",
	"GET /sign-in": "all", "POST /sign-in": "all", "POST /sign-in/demo": "none", "POST /sign-in/code": "all",
	"GET /directory": "none", "GET /directory/back": "none",
	"GET /first": "all", "POST /first": "all", "GET /forgot": "all", "POST /forgot": "all",
	"GET /reset/:ticket": "ticket", "POST /reset/:ticket": "ticket", "GET /invited/:ticket": "ticket",
	"POST /invited/:ticket": "ticket",

	"GET /": "somebody", "GET /bin": "somebody", "GET /symbols": "somebody", "GET /begin": "somebody",
	"GET /begin/:start.svg":     "somebody",
	"POST /begin/:start/remove": "start", "POST /maps": "somebody", "POST /maps/open": "somebody",
	"POST /folders":  "somebody",
	"POST /sign-out": "somebody", "GET /me": "somebody", "POST /me/name": "somebody", "POST /me/mail": "somebody",
	"POST /me/letters":  "somebody",
	"POST /me/password": "somebody", "POST /me/sign-out": "somebody", "POST /me/factor": "somebody",
	"POST /me/factor/keep": "somebody", "POST /me/factor/remove": "somebody",
	"POST /uploads": "somebody", "POST /uploads/:upload": "somebody",
	"GET /maps/:id/files/:file": "read", "POST /maps/:id/files": "edit", "POST /maps/:id/files/:upload": "edit",
	"GET /maps/:id/attached": "read", "GET /maps/:id/map/:other": "read", "POST /maps/:id/sheet/:sheet/send": "edit",
	"GET /maps/:id/maps": "read",
	"POST /maps/export":  "read", "POST /maps/pin": "read", "POST /maps/move": "manage",
	"POST /maps/delete": "manage",

	"GET /people": "house owner", "POST /people/invite": "house owner", "POST /people/:person/role": "house owner",
	"POST /people/:person/reset":  "house owner",
	"POST /people/:person/switch": "house owner", "POST /people/:person/factor": "house owner",
	"POST /people/reviews": "house owner", "POST /people/groups": "house owner",
	"POST /people/groups/:group/remove": "house owner",
	"POST /people/:person/hand-over":    "house owner", "GET /audit": "house owner", "GET /audit.csv": "house owner",
	"GET /outbox": "house owner",

	"GET /maps/:id": "read", "GET /maps/:id/sheet/:sheet": "read", "GET /maps/:id/face/:face": "read",
	"GET /maps/:id/live": "read", "GET /maps/:id/thumbnail.svg": "read",
	"GET /maps/:id/export/:format": "read", "POST /maps/:id/export/:format": "read",
	"GET /maps/:id/preview/:format": "read", "POST /maps/:id/preview/:format": "read",
	"GET /maps/:id/print/:format": "read", "POST /maps/:id/print/:format": "read", "GET /maps/:id/register": "read",
	"GET /maps/:id/trace": "read", "GET /maps/:id/show": "read",
	"GET /maps/:id/findings": "read", "POST /maps/:id/copy": "read",
	"GET /maps/:id/talk": "remark", "POST /maps/:id/talk": "remark", "POST /maps/:id/talk/writing": "remark",
	"GET /maps/:id/remarks": "remark", "POST /maps/:id/remarks": "remark",
	"GET /maps/:id/remarks/:remark/picture": "remark", "POST /maps/:id/remarks/:remark/settle": "remark",
	"GET /maps/:id/table": "edit", "POST /maps/:id/table": "edit", "POST /maps/:id/arrangement": "edit",
	"POST /maps/:id/remarks/:remark/pin": "remark", "POST /maps/:id/rounds/:round/heading": "manage",
	"POST /maps/:id/remarks/:remark/edit": "remark", "POST /maps/:id/remarks/:remark/delete": "remark",
	"POST /maps/:id/remarks/:remark/proposal": "edit", "GET /maps/:id/rounds/:round": "remark",
	"GET /maps/:id/rounds/:round/page.:format": "remark", "POST /maps/:id/rounds/:round/say": "remark",
	"POST /maps/:id/rounds": "manage", "POST /maps/:id/rounds/:round/remind": "manage",
	"POST /maps/:id/rounds/:round/end": "manage", "POST /maps/:id/rounds/:round/link": "manage",
	"POST /maps/:id/rounds/:round/again": "manage", "POST /maps/:id/life": "manage",
	"GET /maps/:id/history": "edit", "POST /maps/:id/versions": "edit", "GET /maps/:id/versions/:state/return": "edit",
	"GET /maps/:id/versions/:state":           "remark",
	"GET /maps/:id/versions/:state/sheet.svg": "remark", "GET /maps/:id/changes": "read",
	"GET /maps/:id/changes/side.svg": "read", "GET /maps/:id/changes/account.:format": "read",
	"POST /maps/:id/versions/:state/copy": "remark",
	"GET /maps/:id/state":                 "edit", "GET /maps/:id/socket": "edit", "POST /maps/:id/work": "edit",
	"POST /maps/:id/fonts": "edit", "GET /maps/:id/aside": "edit", "POST /maps/:id/rename": "edit",
	"POST /maps/:id/start": "manage", "POST /maps/:id/delete": "manage", "POST /maps/:id/restore": "manage",
	"GET /maps/:id/people": "manage", "POST /maps/:id/people": "manage",
	"GET /maps/:id/links": "manage", "POST /maps/:id/links": "manage", "POST /maps/:id/links/:link/withdraw": "manage",

	"POST /folders/:folder/rename": "folder", "POST /folders/:folder/move": "folder",
	"POST /folders/:folder/remove": "folder", "GET /folders/:folder/people": "folder",
	"POST /folders/:folder/people": "folder",
}

// What each address below a link takes of the link.
var linkTable = map[string]string{
	"GET ": "read", "GET /sheet/:sheet": "read", "GET /face/:face": "read", "GET /live": "read", "GET /trace": "read",
	"GET /show": "read", "GET /files/:file": "read", "POST /files": "edit", "POST /files/:upload": "edit",
	"GET /attached": "saves", "GET /maps": "read",
	"POST /enter":         "read",
	"GET /export/:format": "saves", "POST /export/:format": "saves", "GET /preview/:format": "saves",
	"POST /preview/:format": "saves", "GET /print/:format": "saves", "POST /print/:format": "saves",
	"GET /register": "saves", "GET /findings": "saves", "GET /picture.:format": "embeds", "GET /frame": "embeds",
	"GET /remarks": "remarks", "POST /remarks": "remarks", "GET /remarks/:remark/picture": "remarks",
	"POST /remarks/:remark/settle": "remarks", "POST /remarks/:remark/edit": "remarks",
	"GET /table": "edit", "POST /table": "edit", "POST /arrangement": "edit",
	"POST /remarks/:remark/pin": "remarks", "GET /talk": "remarks", "POST /talk": "remarks",
	"POST /talk/writing":           "remarks",
	"POST /remarks/:remark/delete": "remarks", "POST /remarks/:remark/proposal": "edit",
	"GET /rounds/:round": "remarks", "GET /rounds/:round/page.:format": "remarks", "POST /rounds/:round/say": "remarks",
	"GET /history": "edit", "POST /versions": "edit", "GET /versions/:state/return": "edit",
	"GET /versions/:state": "remarks", "GET /versions/:state/sheet.svg": "remarks",
	"GET /changes": "changed", "GET /changes/side.svg": "changed", "GET /changes/account.:format": "changed",
	"GET /state": "edit", "GET /socket": "edit", "POST /work": "edit", "POST /fonts": "edit", "GET /aside": "edit",
}

// household is a house with everybody in it, to try what they may do.
type household struct {
	*testing.T
	s      *house.House
	app    *fiber.App
	server *Server
	ids    map[string]string // of people, by what they are
	tokens map[string]string // of their sessions
	folder string
	data   string // folder that keeps the maps
}

var houseRoles = []string{"house owner", "owner", "manage", "edit", "remark", "read", "stranger", "off"}

func openHouse(t *testing.T) *household {
	t.Helper()
	data := filepath.Join(t.TempDir(), "data")
	server, s, app := houseIn(t, data, site.Settings{})
	var err error
	h := &household{T: t, s: s, data: data, server: server, app: app, ids: map[string]string{},
		tokens: map[string]string{}}
	for i, name := range houseRoles {
		role := account.Member
		if i == 0 {
			role = account.Owner
		}
		if h.ids[name], err = s.People.Add(store.NewPerson{Name: name,
			Email: strings.ReplaceAll(name, " ", ".") + "@town.example", Role: role}); err != nil {
			t.Fatal(err)
		}
		if h.tokens[name], err = s.Sessions.Begin(h.ids[name], "a test"); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.People.SetOff(h.ids["off"], true); err != nil {
		t.Fatal(err)
	}
	return h
}

func (h *household) must(err error) {
	h.Helper()
	if err != nil {
		h.Fatal(err)
	}
}

// share makes a map in a folder of its own, with every right on both granted to the one it is called after.
func (h *household) share() (id string) {
	h.Helper()
	var err error
	h.folder, err = h.s.Folders.Add(fmt.Sprint("Folder ", time.Now().UnixNano()), "", h.ids["owner"])
	h.must(err)
	id, err = h.s.Maps.CreateFor(model.New("Their map", model.Rightwards, "A4", true), h.ids["owner"], "")
	h.must(err)
	for _, r := range account.Rights {
		if person := h.ids[r.Name]; person != "" {
			h.must(h.s.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: person, Right: r.Right}))
			h.must(h.s.Folders.Grant(account.Grant{Place: account.Place{Folder: h.folder}, Person: person,
				Right: r.Right}))
		}
	}
	h.must(h.s.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: h.ids["off"], Right: account.Manage}))
	return id
}

// ask asks as somebody in the organisation, or as nobody.
func (h *household) ask(who, method, path, body string) (*http.Response, string) {
	h.Helper()
	var req *http.Request
	if req = fromPageOf(method, path, body); h.tokens[who] != "" {
		req.AddCookie(&http.Cookie{Name: "session", Value: h.tokens[who]})
		req.Header.Set(site.TokenHeader, h.s.Sign("form", h.ids[who], h.tokens[who]))
	}
	r, err := h.app.Test(req, fiber.TestConfig{Timeout: time.Minute})
	h.must(err)
	defer r.Body.Close()
	text, err := io.ReadAll(r.Body)
	h.must(err)
	return r, string(text)
}

func fromPageOf(method, path, body string) *http.Request {
	req, err := http.NewRequest(method, "http://127.0.0.1:8080"+path, strings.NewReader(body))
	if err != nil {
		panic(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Accept", "application/json")
	return req
}

// let reports whether an answer is that to somebody who may ask.
func let(r *http.Response) bool {
	switch r.StatusCode {
	case http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusGone:
		return false
	}
	return !strings.HasPrefix(r.Header.Get("Location"), "/sign-in?")
}

// may reports whether somebody may ask for what takes this.
func may(who, takes string) bool {
	rank := map[string]int{"read": 1, "remark": 2, "edit": 3, "manage": 4, "owner": 5}
	switch takes {
	case "all":
		return true
	case "none", "ticket", "start":
		return false
	case "somebody":
		return who != "nobody" && who != "off"
	case "house owner":
		return who == takes
	case "folder":
		return rank[who] >= 4
	}
	return rank[who] >= rank[takes]
}

// Everybody is let in to what they may do, and to nothing else: every route there is has its row in the table.
func TestTableOfRights(t *testing.T) {
	h := openHouse(t)
	seen := map[string]bool{}
	for _, route := range h.app.GetRoutes(true) {
		if route.Method == "HEAD" || isLinkPath(route.Path) {
			continue
		}
		key := route.Method + " " + route.Path
		takes, known := rightsTable[key]
		if !known {
			t.Errorf("%s has no row in the table of rights", key)
			continue
		}
		seen[key] = true
		for _, who := range append([]string{"nobody"}, houseRoles...) {
			if strings.HasPrefix(route.Path, "/me/") || route.Path == "/sign-out" {
				if who != "nobody" && who != "off" {
					continue // they would not be signed in any more; tried elsewhere
				}
			}
			id := h.share()
			path := strings.NewReplacer(":id", id, ":folder", h.folder, ":format", "svg", ":sheet", "sheet-1", ":face",
				"none", ":link", "none", ":ticket", "none", ":start", "approval", ":state", "now", ":remark", "none",
				":round", "none",
				":person", h.ids["stranger"], ":picture", "editor", ":file", "none", ":upload", "none", ":other", id,
				"*",
				"app.css").Replace(route.Path)
			body := "id=" + id + "&size=5&format=svg&name=Name&title=Title&role=member"
			if route.Path == "/people/:person/switch" { // on again, for the others
				h.must(h.s.People.SetOff(h.ids["stranger"], true))
			}
			if route.Path == "/maps/:id/restore" {
				h.must(h.s.Documents.Bin(id))
			}
			r, text := h.ask(who, route.Method, path, body)
			got := let(r)
			switch { // what is let in and finds nothing there
			case strings.HasSuffix(route.Path, ":face") || strings.HasSuffix(route.Path, "/withdraw"):
				got = r.StatusCode == 404 && !strings.Contains(text, "There is nothing here for you") || got
				if strings.HasSuffix(route.Path, "/withdraw") && may(who, takes) {
					got = r.StatusCode == 404
				}
			case strings.HasPrefix(route.Path, "/maps/:id/"):
				got = got || strings.Contains(text, "There is no such page")
			case strings.HasPrefix(route.Path, "/sign-in") && r.StatusCode == 401:
				got = strings.Contains(text, "Wrong email address or password") || strings.Contains(text,
					"Too many tries") ||
					strings.Contains(text, "That took too long")
			case route.Path == "/static/*":
				got = true
			}
			if got != may(who, takes) {
				t.Errorf("%s as %s answers %d %.120s", key, who, r.StatusCode, text)
			}
		}
	}
	for key := range rightsTable {
		if !seen[key] {
			t.Errorf("the table of rights has %s, which is no route", key)
		}
	}
}

func isLinkPath(path string) bool {
	for _, form := range site.LinkForms {
		if strings.HasPrefix(path, form.Prefix+"/:token") {
			return true
		}
	}
	return false
}

// Every kind of link opens what it is for, and nothing else; one that is over opens nothing.
func TestTableOfLinks(t *testing.T) {
	h := openHouse(t)
	id := h.share()
	d, err := h.s.Documents.Open(id)
	h.must(err)
	version, err := d.KeepVersion(h.ids["owner"])
	h.must(err)
	links := map[string]string{}
	for name, c := range map[string]store.Choices{
		"read": {Right: account.Read}, "remark": {Right: account.Remark}, "edit": {Right: account.Edit},
		"fixed":   {Right: account.Edit, Version: version},
		"changed": {Right: account.Read, Changes: true}, "saves": {Right: account.Read, Download: true},
		"embeds":    {Right: account.Read, Embed: true},
		"over":      {Right: account.Edit, Until: time.Now().Add(-time.Second)},
		"withdrawn": {Right: account.Edit}, "named": {Right: account.Edit, Addresses: "jo@town.example"},
	} {
		links[name], err = h.s.Links.Create(id, h.ids["owner"], c, "")
		h.must(err)
	}
	links["locked"], err = h.s.Links.Create(id, "", store.Choices{Right: account.Edit}, "lamp post")
	h.must(err)
	list, err := h.s.Links.Of(id)
	h.must(err)
	for _, l := range list {
		if strings.HasPrefix(links["withdrawn"], l.Begins) && l.Right == account.Edit && !l.Locked && l.Version == "" &&
			l.Addresses == "" && l.Until.IsZero() && !strings.HasPrefix(links["edit"], l.Begins) {
			h.must(h.s.Links.Withdraw(id, l.ID))
		}
	}
	links["unknown"] = "AAAAAAAAAAAAAAAAAAAAAAAAAA"
	opens := func(link, takes string) bool {
		switch link {
		case "over", "withdrawn", "unknown", "locked", "named":
			return false
		case "edit":
			return takes != "embeds"
		}
		return takes == "read" || takes == link || (link == "remark" || link == "fixed") && (takes == "remarks" ||
			takes == "changed")
	}
	for _, app := range []*fiber.App{h.app, h.server.Links()} {
		h.app = app
		seen := map[string]bool{}
		for _, route := range app.GetRoutes(true) {
			if route.Method == "HEAD" || !isLinkPath(route.Path) {
				if app == h.app && !isLinkPath(route.Path) && route.Method != "HEAD" &&
					rightsTable[route.Method+" "+route.Path] == "" {
					t.Errorf("%s %s is in no table", route.Method, route.Path)
				}
				continue
			}
			prefix, rest, _ := strings.Cut(route.Path, "/:token")
			takes, known := linkTable[route.Method+" "+rest]
			if !known {
				t.Errorf("%s %s has no row in the table of links", route.Method, route.Path)
				continue
			}
			seen[route.Method+" "+rest] = true
			h.server.Attempts.Forget(site.Guesses.Of("0.0.0.0")) // the unknown one is asked for often here
			for name, token := range links {
				path := prefix + "/" + token + strings.NewReplacer(":format", "svg", ":sheet", "sheet-1", ":face",
					"none", ":state", "now", ":remark", "none", ":round", "none").Replace(rest)
				r, text := h.ask("nobody", route.Method, path, "")
				got := let(r) ||
					r.StatusCode == 404 && (rest == "/face/:face" || strings.Contains(text, "There is no such page"))
				if rest == "/enter" {
					got = r.StatusCode != 410
					if name == "locked" || name == "named" {
						continue
					}
				}
				if got != opens(name, takes) {
					t.Errorf("%s by the link %s answers %d %.120s", route.Path, name, r.StatusCode, text)
				}
				if !got && strings.Contains(text, "Their map") {
					t.Errorf("%s by the link %s shows the title", route.Path, name)
				}
			}
		}
		for key := range linkTable {
			if !seen[key] {
				t.Errorf("the table of links has %s, which is no route", key)
			}
		}
	}
	h.server.Attempts.Forget(site.Guesses.Of("0.0.0.0"))
	// The map itself goes out only by a link to edit.
	for name, want := range map[string]int{"saves": 403, "edit": 200, "read": 403} {
		if r, text := h.ask("nobody", "GET", "/r/"+links[name]+"/export/map", ""); r.StatusCode != want {
			t.Errorf("the file of the map by the link %s: %d %.80s", name, r.StatusCode, text)
		}
	}
}

// Whatever is sent to any route, by anybody, has an answer that is no fault of ours, and leaves the map as it can be
// read.
func FuzzRoutes(f *testing.F) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	s, err := house.Open(filepath.Join(f.TempDir(), "data"))
	if err != nil {
		f.Fatal(err)
	}
	f.Cleanup(func() { s.Close() })
	owner, err := s.People.AddFirst(store.NewPerson{Name: "Ida", Email: "ida@town.example"})
	if err != nil {
		f.Fatal(err)
	}
	id, err := s.Maps.CreateFor(model.New("Map", model.Rightwards, "A4", true), owner, "")
	if err != nil {
		f.Fatal(err)
	}
	folder, err := s.Folders.Add("Folder", "", owner)
	if err != nil {
		f.Fatal(err)
	}
	link, err := s.Links.Create(id, owner, store.Choices{Right: account.Edit, Download: true, Embed: true}, "")
	if err != nil {
		f.Fatal(err)
	}
	app := serverOver(f, s, site.Settings{As: owner}).Editor()
	var routes []fiber.Route
	for _, r := range app.GetRoutes(true) {
		// so that there is something left
		if r.Method != "HEAD" && !strings.HasSuffix(r.Path, "/delete") && !strings.HasSuffix(r.Path, "/switch") &&
			r.Path != "/directory" {
			routes = append(routes, r)
		}
	}
	for i := range routes {
		f.Add(uint16(i), "", "x=1", "q=1&page=2")
		f.Add(uint16(i), "%00", "id="+id+"&right=read&email=a@b.example&name=%F0%9F%98%80", "format=svg&sheet=../../x")
		f.Add(uint16(i), "../..", `{"map":{"sheets":[]},"sheet":"s"}`,
			"q=%22%22%22&sort=%27&view=list&show=x&folder="+folder)
		for _, body := range []string{"", "{}", "null", "[]", `""`} {
			f.Add(uint16(i), "x", body, "")
		}
		f.Add(uint16(i), strings.Repeat("9", 300), strings.Repeat("name=a&", 50),
			"page=-1&r=99999999999999999999&direction=up")
	}
	f.Fuzz(func(t *testing.T, n uint16, param, body, query string) {
		route := routes[int(n)%len(routes)]
		known := strings.NewReplacer(":id", id, ":folder", folder, ":token", link, ":person", owner)
		path := known.Replace(route.Path)
		for _, name := range []string{":format", ":sheet", ":face", ":link", ":ticket", ":start", "*"} {
			path = strings.Replace(path, name, url.PathEscape(param), 1)
		}
		u, err := url.Parse("http://127.0.0.1:8080" + path + "?" + query)
		if err != nil || len(body) > 1<<16 {
			return
		}
		req := fromPage(app, route.Method, "/", strings.NewReader(body))
		u.RawQuery = u.Query().Encode()
		req.URL, req.RequestURI = u, u.RequestURI()
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("X-Page-Token", s.Sign("form", owner, ""))
		r, err := app.Test(req, fiber.TestConfig{Timeout: time.Minute})
		if err != nil {
			return // no request that a server takes
		}
		defer r.Body.Close()
		if r.StatusCode >= 500 && r.StatusCode != 503 {
			text, _ := io.ReadAll(r.Body)
			t.Errorf("%s %s with %q answers %d %.200s", route.Method, u, body, r.StatusCode, text)
		}
	})
}
