// Package web is the application's server: its pages, the live editing of
// maps, and the links by which others read them.
package web

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log"
	"log/slog"
	"net/netip"
	"net/url"
	"strings"
	"sync"
	"time"

	"plaintracer"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"plaintracer/app/house"
	"plaintracer/app/live"
	"plaintracer/background"
	"plaintracer/core/editor"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/exchange"
	"plaintracer/exchange/tracerjson"
	"plaintracer/mail"
	"plaintracer/store"
)

// Server holds what all pages share.
type Server struct {
	house    *house.House
	live     *live.Live
	assets   *assets
	views    *template.Template
	drawings *drawings
	attempts *attempts
	codes    *codes
	pictures *startPictures
	// letters sends the messages that wait in the outbox; nil where they only lie there.
	letters *mail.Queue
	// seen is up to when people had seen the remarks on a map when they opened its page.
	seen sync.Map
	// asked are the tokens of links that were made for those who are asked by name, by the ids of the links, while it runs.
	asked sync.Map
	// beside is what the server does beside answering.
	beside *background.Group
	Settings
}

// Settings are how the application is served.
type Settings struct {
	// Address is where people find it, such as https://maps.town.example, without a slash at the end. LinksURL is where
	// links are found that are served apart; empty where they are not.
	Address, LinksURL string
	// Proxies are the addresses of the proxies by which it is reached, which are believed to say who asks, and by which host
	// and scheme.
	Proxies []netip.Prefix
	// Local has it answer to names of this machine alone, LinksLocal where links are served apart.
	Local, LinksLocal bool
	// As is the id of the person whom it takes everybody for who is not signed in, and then answers on this machine only;
	// empty for nobody. Demo lets people choose whom to be.
	As   string
	Demo bool
	// FirstKey is what the first owner of a new house has to show. One is made where none is given.
	FirstKey string
	// Mail carries messages; nil to let them lie in the outbox, which owners of the house can look into.
	Mail mail.Carrier
	// Directory signs people in who are known to the house's own directory; nil for none.
	Directory *Directory
}

// New prepares the server. It fails when the program was built without its
// browser core.
func New(h *house.House, settings Settings) (*Server, error) {
	core, err := fs.Sub(files, "core")
	if err != nil {
		return nil, err
	}
	return withCore(h, core, settings)
}

// Close ends what the server does beside answering.
func (s *Server) Close() { s.beside.Close() }

// withCore returns a server that hands out a browser core.
func withCore(h *house.House, core fs.FS, settings Settings) (*Server, error) {
	a, err := loadAssets(core)
	if err != nil {
		return nil, err
	}
	settings.FirstKey = cmp.Or(settings.FirstKey, rand.Text())
	srv := &Server{house: h, live: live.New(h.Store, plaintracer.EditorSource()), assets: a, attempts: newAttempts(h.Attempts), codes: newCodes(), pictures: newPictures(), beside: background.New(), Settings: settings}
	srv.drawings = newDrawings(srv.beside)
	h.Documents.Audience, h.Sessions.Ended = srv.live, srv.live.SessionsEnded
	icon, err := icons()
	if err != nil {
		return nil, err
	}
	srv.views, err = template.New("").Funcs(template.FuncMap{
		"asset": func(name string) (string, error) {
			if p := a.names[name]; p != "" {
				return p, nil
			}
			return "", fmt.Errorf("there is no asset %q", name)
		},
		"icon":  icon,
		"key":   key,
		"token": formToken,
		"inc":   func(n int) int { return n + 1 },
		"dict": func(pairs ...any) map[string]any {
			out := map[string]any{}
			for i := 0; i+1 < len(pairs); i += 2 {
				out[fmt.Sprint(pairs[i])] = pairs[i+1]
			}
			return out
		},
		"isLink": func(text string) bool {
			return strings.HasPrefix(text, "http://") || strings.HasPrefix(text, "https://")
		},
		"ago":     ago,
		"day":     func(t time.Time) string { return t.Format("2 January 2006, 15:04") },
		"outline": outline, "line": lineShape,
	}).ParseFS(files, "views/*.html")
	if err != nil {
		return nil, err
	}
	if settings.Mail != nil {
		srv.letters = mail.NewQueue(settings.Mail, box{srv})
		srv.beside.Go("sending messages", srv.letters.Run)
	}
	srv.beside.Every(10*time.Minute, "tidying up", func(context.Context) {
		if h.ReadOnly() != "" {
			return
		}
		if err := errors.Join(h.Letters.Tidy(time.Now()), h.Attempts.Forget(time.Now().Add(-remembered))); err != nil {
			log.Printf("tidying up: %v", err)
		}
	})
	return srv, nil
}

// policy lets pages use only what the application ships.
const policy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self'; font-src 'self'; img-src 'self' blob: data:; connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// picturePolicy is for SVG files, which carry their own styles and font.
const picturePolicy = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"

// app is what both applications have in common. Local has it answer to names of this machine alone.
func (s *Server) app(local bool) *fiber.App {
	config := fiber.Config{
		AppName:      "Plain Tracer",
		BodyLimit:    tracerjson.MaxSize + 1<<20,
		ErrorHandler: s.fail,
		ReadTimeout:  time.Minute,
		// Values of a request outlive it here: they become keys and ids.
		Immutable: true,
	}
	app := fiber.New(config)
	// Upgraded connections are ours from then on: the library neither closes them nor uses
	// them for another window while one of our goroutines may still write.
	app.Server().KeepHijackedConns = true
	app.Use(noted)
	app.Use(recover.New())
	if local {
		app.Use(onThisMachine)
	}
	app.Get("/healthz", s.health)
	app.Use(func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy", policy)
		c.Set("X-Content-Type-Options", "nosniff")
		// Not "no-referrer": browsers then send forms without their origin.
		c.Set("Referrer-Policy", "same-origin")
		c.Set("Cross-Origin-Opener-Policy", "same-origin")
		c.Set("Cross-Origin-Resource-Policy", "same-origin")
		// It holds for all ports of a host, so that it is said only where the application has the host's own.
		if u, err := url.Parse(s.Address); err == nil && u.Scheme == "https" && u.Port() == "" && s.from(c).https {
			c.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if c.Method() != fiber.MethodGet && c.Method() != fiber.MethodHead && !s.ownOrigin(c) {
			return fiber.NewError(fiber.StatusForbidden, "This request came from another site and was refused.")
		}
		return c.Next()
	})
	app.Get("/static/*", s.assets.serve)
	app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool { return strings.HasSuffix(c.Path(), "/socket") }}))
	return app
}

// noted writes what was asked and answered into the log: the address as it is declared, never as it was asked, since
// that holds what opens a map.
func noted(c fiber.Ctx) error {
	begun := time.Now()
	err := c.Next()
	status := c.Response().StatusCode()
	if err != nil {
		if fault := c.App().ErrorHandler(c, err); fault != nil {
			return fault
		}
		status = c.Response().StatusCode()
	}
	if path := addressFor(c); path != "/static/*" && path != "/healthz" {
		slog.Info("request", "method", c.Method(), "route", path, "status", status, "ms", time.Since(begun).Milliseconds(), "bytes", len(c.Response().Body()))
	}
	return nil
}

// addressFor is the address of a request as the log has it: as it is declared, never as it was asked, since that holds what
// opens a map or an account.
func addressFor(c fiber.Ctx) string { return c.Route().Path }

// logged notes a fault, without what the request held: neither its address nor what an error repeats of it.
func logged(c fiber.Ctx, err error) {
	text := err.Error()
	hide := func(name, value string) {
		if len(value) > 3 {
			text = strings.ReplaceAll(text, value, "("+name+")")
		}
	}
	hide("address", c.OriginalURL())
	hide("path", c.Path())
	for _, name := range c.Route().Params {
		hide(name, c.Params(name))
	}
	for key, value := range c.Request().URI().QueryArgs().All() {
		hide(string(key), string(value))
	}
	for key, value := range c.Request().PostArgs().All() {
		hide(string(key), string(value))
	}
	slog.Error("a request failed", "method", c.Method(), "route", addressFor(c), "error", text)
}

// health says whether the application works, and whether it can save.
func (s *Server) health(c fiber.Ctx) error {
	c.Set("Cache-Control", "no-store")
	if why := s.house.ReadOnly(); why != "" {
		return c.Status(fiber.StatusServiceUnavailable).JSON(map[string]any{"answers": true, "saves": false, "why": why})
	}
	return c.JSON(map[string]any{"answers": true, "saves": true})
}

// ownOrigin reports whether a request was made by a page of this server.
func (s *Server) ownOrigin(c fiber.Ctx) bool {
	return sameOrigin(c.Get("Origin"), s.from(c).host) && ownFetch(c.Get("Sec-Fetch-Site"))
}

// ownFetch reports whether a browser says that a request was made by a page of this server,
// or by the person; without a word it was no browser (W3C Fetch Metadata Request Headers).
func ownFetch(site string) bool { return site == "" || site == "same-origin" || site == "none" }

func sameOrigin(origin, host string) bool {
	if origin == "" {
		return true // no browser page sends a changing request without one
	}
	u, err := url.Parse(origin)
	return err == nil && u.Host == host
}

// Editor returns the application for the people of the house, and for those who come by links.
func (s *Server) Editor() *fiber.App {
	app := s.app(s.Local || s.As != "")
	s.linked(app)
	app.Use(s.identify, s.ownPage)
	s.houses(app, houseRoutes())
	s.routes(app, "/maps/:id", s.person, append(mapRoutes(), ownRoutes()...))
	s.folderRoutes(app)
	return app
}

// houseRoutes are the pages of the house.
func houseRoutes() []houseRoute {
	return []houseRoute{
		{"GET", "/", somebody, (*Server).home},
		{"GET", "/bin", somebody, (*Server).bin},
		{"GET", "/symbols", somebody, (*Server).symbols},
		{"GET", "/begin", somebody, (*Server).begin},
		{"GET", "/begin/:start.svg", somebody, (*Server).startPicture},
		{"POST", "/begin/:start/remove", somebody, (*Server).removeStart},
		{"POST", "/maps", somebody, (*Server).create},
		{"POST", "/maps/open", somebody, (*Server).openFile},
		{"POST", "/maps/export", somebody, (*Server).exportMaps},
		{"POST", "/maps/move", somebody, (*Server).moveMaps},
		{"POST", "/maps/delete", somebody, (*Server).deleteMaps},
		{"POST", "/maps/pin", somebody, (*Server).pinMaps},
		{"POST", "/folders", somebody, (*Server).addFolder},

		{"GET", "/sign-in", anybody, (*Server).signInPage},
		{"POST", "/sign-in", anybody, (*Server).signInBy},
		{"POST", "/sign-in/code", anybody, (*Server).signInSecond},
		{"POST", "/sign-in/demo", anybody, (*Server).signInDemo},
		{"GET", "/directory", anybody, (*Server).toDirectory},
		{"GET", "/directory/back", anybody, (*Server).fromDirectory},
		{"GET", "/first", anybody, (*Server).firstPage},
		{"POST", "/first", anybody, (*Server).makeFirst},
		{"GET", "/forgot", anybody, (*Server).forgotPage},
		{"POST", "/forgot", anybody, (*Server).forgot},
		{"GET", "/reset/:ticket", anybody, ticketPage(store.NewWord)},
		{"POST", "/reset/:ticket", anybody, useTicket(store.NewWord)},
		{"GET", "/invited/:ticket", anybody, ticketPage(store.Invitation)},
		{"POST", "/invited/:ticket", anybody, useTicket(store.Invitation)},
		{"POST", "/sign-out", somebody, (*Server).signOut},

		{"GET", "/me", somebody, (*Server).mePage},
		{"POST", "/me/name", somebody, (*Server).changeName},
		{"POST", "/me/mail", somebody, (*Server).changeMail},
		{"POST", "/me/password", somebody, (*Server).changePassword},
		{"POST", "/me/factor", somebody, (*Server).beginFactor},
		{"POST", "/me/factor/keep", somebody, (*Server).keepFactor},
		{"POST", "/me/factor/remove", somebody, (*Server).dropFactor},
		{"POST", "/me/sign-out", somebody, (*Server).signOutEverywhere},

		{"GET", "/people", houseOwner, (*Server).peoplePage},
		{"POST", "/people/invite", houseOwner, (*Server).invite},
		{"POST", "/people/:person/role", houseOwner, (*Server).changeRole},
		{"POST", "/people/:person/reset", houseOwner, (*Server).resetPerson},
		{"POST", "/people/:person/factor", houseOwner, (*Server).takeFactor},
		{"POST", "/people/:person/switch", houseOwner, (*Server).switchPerson},
		{"POST", "/people/:person/hand-over", houseOwner, (*Server).handOver},
		{"GET", "/audit", houseOwner, (*Server).audit},
		{"GET", "/audit.csv", houseOwner, (*Server).auditFile},
		{"GET", "/outbox", houseOwner, (*Server).outboxPage},
	}
}

// Links returns the application for those who come by links alone. It knows no other route than
// those behind a link, and the files their pages use.
func (s *Server) Links() *fiber.App {
	app := s.app(s.LinksLocal)
	s.linked(app)
	return app
}

// linked adds what is behind links to an application.
func (s *Server) linked(app *fiber.App) {
	for _, form := range linkForms {
		prefix := form.Prefix + "/:token"
		app.Use(form.Prefix, func(c fiber.Ctx) error {
			c.Set("X-Robots-Tag", "noindex, nofollow")
			c.Set("Cache-Control", "private, no-store")
			return c.Next()
		})
		app.Post(prefix+"/enter", s.enter)
		s.routes(app, prefix, s.visitor, append(mapRoutes(), linkRoutes()...))
	}
}

// fail shows an error in plain words: as a page, or as a line of text to a
// script that asked.
func (s *Server) fail(c fiber.Ctx, err error) error {
	if l := asLocked(err); l != nil {
		return s.unlock(c, l)
	}
	code, text := fiber.StatusInternalServerError, "Something went wrong on our side. What you saved is safe; try again."
	var known *fiber.Error
	var refusal *model.Refusal
	var fault *tracerjson.Fault
	var wrong *exchange.Wrong
	switch {
	case errors.Is(err, context.Canceled): // nobody is there to read it
		return c.SendStatus(fiber.StatusServiceUnavailable)
	case store.Trouble(err) != "":
		code, text = fiber.StatusServiceUnavailable, store.Trouble(err)+". What was saved before is safe; try again once that is mended."
		logged(c, err)
	case errors.Is(err, store.ErrNotFound):
		code, text = fiber.StatusNotFound, "There is nothing here for you: it may be in the bin, or not shared with you. Ask its owner."
	case errors.As(err, new(*unfit)):
		code, text = fiber.StatusBadRequest, sentence(err.Error())
	case errors.As(err, &refusal):
		code, text = fiber.StatusConflict, sentence(refusal.Text)
	case errors.As(err, &fault):
		code, text = fiber.StatusBadRequest, "The file was not opened. "+sentence(fault.Error())
	case errors.As(err, &wrong):
		code, text = fiber.StatusBadRequest, sentence(wrong.Text)
	case errors.As(err, &known):
		code, text = known.Code, known.Message
		switch known.Code {
		case fiber.StatusNotFound:
			text = "There is no such page."
		case fiber.StatusRequestEntityTooLarge:
			text = fmt.Sprintf("The file is larger than %d MB and was not opened.", tracerjson.MaxSize>>20)
		}
	default:
		logged(c, err)
	}
	c.Status(code)
	if isScript(c) {
		return c.SendString(text)
	}
	return s.page(c, "message.html", map[string]any{"Title": "Plain Tracer", "Text": text, "Home": whoAsks(c) != nil})
}

// formToken is the hidden field of a form that shows it to be of a page of this person.
func formToken(token string) template.HTML {
	return template.HTML(`<input type="hidden" name="token" value="` + template.HTMLEscapeString(token) + `">`)
}

// sentence begins a text with a capital and ends it with a full stop.
func sentence(text string) string {
	if text == "" {
		return ""
	}
	r := []rune(text)
	return strings.ToUpper(string(r[0])) + strings.TrimSuffix(string(r[1:]), ".") + "."
}

// page answers with a page. Where its data is a map, it also knows who asks, and what its forms have to bring along.
func (s *Server) page(c fiber.Ctx, name string, data any) error {
	if m, ok := data.(map[string]any); ok {
		who := whoAsks(c)
		m["Me"], m["Token"] = who, s.token(who)
	}
	var out bytes.Buffer
	if err := s.views.ExecuteTemplate(&out, name, data); err != nil {
		return err
	}
	c.Set("Content-Type", "text/html; charset=utf-8")
	c.Set("Cache-Control", "no-store")
	return c.Send(out.Bytes())
}

// key shows the key of a command, as keyboards have it.
func key(command string) (template.HTML, error) {
	pressed := editor.KeyOf(command)
	if pressed == "" {
		return "", fmt.Errorf("there is no key for the command %q", command)
	}
	var caps []string
	for _, name := range strings.Split(pressed, "+") {
		if c := map[string]string{"Shift": "⇧", "Enter": "↵", "Backspace": "⌫", "Delete": "Del", "Insert": "Ins", "ArrowUp": "↑", "ArrowDown": "↓",
			"PageUp": "PgUp", "PageDown": "PgDn"}[name]; c != "" {
			name = c
		}
		caps = append(caps, name)
	}
	return template.HTML("<kbd>" + template.HTMLEscapeString(strings.Join(caps, " ")) + "</kbd>"), nil
}

// ago says how long something is past, in words.
func ago(t time.Time) string {
	d := time.Since(t)
	plural := func(n int, unit string) string {
		if n == 1 {
			return "1 " + unit + " ago"
		}
		return fmt.Sprintf("%d %ss ago", n, unit)
	}
	switch {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return plural(int(d.Minutes()), "minute")
	case d < 24*time.Hour:
		return plural(int(d.Hours()), "hour")
	case d < 14*24*time.Hour:
		return plural(int(d.Hours()/24), "day")
	}
	return t.Format("2 January 2006")
}

// trayEntry is a symbol as the tray shows it.
type trayEntry struct {
	*symbols.Symbol
	KeyName string
	Search  string
}

func tray() []trayEntry {
	var list []trayEntry
	for _, sym := range symbols.All() {
		e := trayEntry{Symbol: sym, Search: sym.Words()}
		if sym.Key != 0 {
			e.KeyName = string(rune(sym.Key))
		}
		list = append(list, e)
	}
	return list
}
