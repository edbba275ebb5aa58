// Package web is the application's server: its pages, the live editing of
// maps, and the links by which others read them.
package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log"
	"log/slog"
	"net"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"plaintracer/core/diagram"
	"plaintracer/core/editor"
	"plaintracer/core/symbols"
	"plaintracer/exchange"
	"plaintracer/exchange/tracerjson"
	"plaintracer/store"
)

// keeper is what the server asks of where maps are kept.
type keeper interface {
	// Document opens a map that is not in the bin; Create stores a new one and returns its id.
	Document(id string) (*store.Document, error)
	Create(m *diagram.Map) (id string, err error)
	// List returns a page of the maps in use or in the bin, and how many there are in all.
	List(binned bool, after, limit int) (list []store.Info, all int, err error)
	Bin(id string) error
	Restore(id string) error
	// Links to read a map: those in force, a new one, the end of one, and where one leads.
	Links(id string) ([]store.Link, error)
	CreateLink(id string, c store.Choices, passcode string) (token string, err error)
	Withdraw(id, link string) error
	Follow(token string) (f store.Followed, ended time.Time, err error)
	CountUse(link string) error
	// Proof is what a browser shows to have given the passcode of a link.
	Proof(f *store.Followed) string
	Proved(f *store.Followed, proof string) bool
	// ReadOnly says why nothing can be saved; empty where it can.
	ReadOnly() string
}

// Server holds what all pages share.
type Server struct {
	store    keeper
	assets   *assets
	views    *template.Template
	hub      *hub
	drawings *drawings
	attempts *attempts
	// BehindProxy has the links believe what a proxy on this machine says of who asks.
	BehindProxy bool
	// LinksURL is where the second listener can be reached, without a slash at
	// the end; empty when there is none.
	LinksURL string
}

// New prepares the server. It fails when the program was built without its
// browser core.
func New(s *store.Store) (*Server, error) {
	core, err := fs.Sub(files, "core")
	if err != nil {
		return nil, err
	}
	return withCore(s, core)
}

// withCore returns a server that hands out a browser core.
func withCore(s *store.Store, core fs.FS) (*Server, error) {
	a, err := loadAssets(core)
	if err != nil {
		return nil, err
	}
	s.Vet = vet
	srv := &Server{store: s, assets: a, hub: newHub(), drawings: newDrawings(), attempts: newAttempts()}
	srv.views, err = template.New("").Funcs(template.FuncMap{
		"asset": func(name string) (string, error) {
			if p := a.names[name]; p != "" {
				return p, nil
			}
			return "", fmt.Errorf("there is no asset %q", name)
		},
		"icon": func(name string) template.HTML {
			return template.HTML(`<svg class="icon" aria-hidden="true"><use href="` + a.names["icons.svg"] + `#` + template.HTMLEscapeString(name) + `"></use></svg>`)
		},
		"key":     key,
		"ago":     ago,
		"day":     func(t time.Time) string { return t.Format("2 January 2006, 15:04") },
		"outline": outline, "line": lineShape,
	}).ParseFS(files, "views/*.html")
	return srv, err
}

// policy lets pages use only what the application ships.
const policy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self'; font-src 'self'; img-src 'self' blob: data:; connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// picturePolicy is for SVG files, which carry their own styles and font.
const picturePolicy = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"

func (s *Server) app() *fiber.App {
	config := fiber.Config{
		AppName:      "Plain Tracer",
		BodyLimit:    tracerjson.MaxSize + 1<<20,
		ErrorHandler: s.fail,
		ReadTimeout:  time.Minute,
		// Values of a request outlive it here: they become keys and ids.
		Immutable: true,
	}
	if s.BehindProxy {
		config.TrustProxy, config.ProxyHeader = true, fiber.HeaderXForwardedFor
		config.TrustProxyConfig = fiber.TrustProxyConfig{Loopback: true}
	}
	app := fiber.New(config)
	// Upgraded connections are ours from then on: the library neither closes them nor uses
	// them for another window while one of our goroutines may still write.
	app.Server().KeepHijackedConns = true
	app.Use(noted)
	app.Use(recover.New())
	app.Get("/healthz", s.health)
	app.Use(func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy", policy)
		c.Set("X-Content-Type-Options", "nosniff")
		// Not "no-referrer": browsers then send forms without their origin.
		c.Set("Referrer-Policy", "same-origin")
		c.Set("Cross-Origin-Opener-Policy", "same-origin")
		c.Set("Cross-Origin-Resource-Policy", "same-origin")
		if c.Method() != fiber.MethodGet && c.Method() != fiber.MethodHead && !ownOrigin(c) {
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
	if path := c.Route().Path; path != "/static/*" && path != "/healthz" {
		slog.Info("request", "method", c.Method(), "route", path, "status", status, "ms", time.Since(begun).Milliseconds(), "bytes", len(c.Response().Body()))
	}
	return nil
}

// health says whether the application works, and whether it can save.
func (s *Server) health(c fiber.Ctx) error {
	c.Set("Cache-Control", "no-store")
	if why := s.store.ReadOnly(); why != "" {
		return c.Status(fiber.StatusServiceUnavailable).JSON(map[string]any{"answers": true, "saves": false, "why": why})
	}
	return c.JSON(map[string]any{"answers": true, "saves": true})
}

// ownOrigin reports whether a request was made by a page of this server.
func ownOrigin(c fiber.Ctx) bool {
	return sameOrigin(c.Get("Origin"), c.Host()) && ownFetch(c.Get("Sec-Fetch-Site"))
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

// Editor returns the application for the person who maps: it answers only to
// names of this machine.
func (s *Server) Editor() *fiber.App {
	app := s.app()
	app.Use(func(c fiber.Ctx) error {
		if host := c.Hostname(); host != "localhost" {
			if ip := net.ParseIP(strings.Trim(host, "[]")); ip == nil || !ip.IsLoopback() {
				return fiber.NewError(fiber.StatusForbidden, "The editor answers on this machine only.")
			}
		}
		return c.Next()
	})
	app.Get("/", s.home)
	app.Get("/bin", s.bin)
	app.Get("/symbols", s.symbols)
	app.Post("/maps", s.create)
	app.Post("/maps/open", s.openFile)
	app.Post("/maps/export", s.exportMaps)
	app.Post("/fonts", s.readFont)
	s.routes(app, "/maps/:id", s.owner, mapRoutes())
	return app
}

// mapRoutes are what the editor's application answers for a map.
func mapRoutes() []route {
	list := []route{
		{"GET", "", mayEdit, (*Server).editor},
		{"GET", "/state", mayEdit, (*Server).state},
		{"GET", "/socket", mayEdit, (*Server).socket},
		{"GET", "/export/:format", mayRead, (*Server).export},
		{"GET", "/thumbnail.svg", mayRead, (*Server).thumbnail},
		{"POST", "/work", mayEdit, (*Server).work},
		{"POST", "/export/:format", mayRead, (*Server).export},
		{"GET", "/preview/:format", mayRead, (*Server).preview},
		{"POST", "/preview/:format", mayRead, (*Server).preview},
		{"GET", "/print/:format", mayRead, (*Server).print},
		{"POST", "/print/:format", mayRead, (*Server).print},
		{"GET", "/aside", mayEdit, (*Server).aside},
		{"POST", "/rename", mayEdit, (*Server).rename},
		{"POST", "/copy", mayRead, (*Server).copy},
		{"POST", "/delete", mayOwn, (*Server).delete},
		{"POST", "/restore", mayOwn, (*Server).restore},
		{"GET", "/links", mayOwn, (*Server).links},
		{"POST", "/links", mayOwn, (*Server).createLink},
		{"POST", "/links/:link/withdraw", mayOwn, (*Server).withdrawLink},
	}
	for i := range panels {
		list = append(list, route{"GET", "/" + panels[i].Name, mayRead, panels[i].answer})
	}
	return list
}

// Links returns the application for readers. It knows no other route than
// those behind a link, and the files their pages use.
func (s *Server) Links() *fiber.App {
	app := s.app()
	app.Use(func(c fiber.Ctx) error {
		c.Set("X-Robots-Tag", "noindex, nofollow")
		c.Set("Cache-Control", "private, no-store")
		return c.Next()
	})
	app.Post("/read/:token/enter", s.enter)
	s.routes(app, "/read/:token", s.reader, []route{
		{"GET", "", mayRead, (*Server).read},
		{"GET", "/export/:format", mayRead, (*Server).download},
		{"GET", "/picture.:format", mayRead, (*Server).embedded},
		{"GET", "/frame", mayRead, (*Server).frame},
		{"GET", "/sheet/:sheet", mayRead, (*Server).readSheet},
		{"GET", "/face/:face", mayRead, (*Server).readFace},
		{"GET", "/socket", mayRead, (*Server).readSocket},
	})
	return app
}

// fail shows an error in plain words: as a page, or as a line of text to a
// script that asked.
func (s *Server) fail(c fiber.Ctx, err error) error {
	if l := asLocked(err); l != nil {
		return s.unlock(c, l)
	}
	code, text := fiber.StatusInternalServerError, "Something went wrong on our side. What you saved is safe; try again."
	var known *fiber.Error
	var refusal *diagram.Refusal
	var fault *tracerjson.Fault
	var wrong *exchange.Wrong
	switch {
	case errors.Is(err, context.Canceled): // nobody is there to read it
		return c.SendStatus(fiber.StatusServiceUnavailable)
	case store.Trouble(err) != "":
		code, text = fiber.StatusServiceUnavailable, store.Trouble(err)+". What was saved before is safe; try again once that is mended."
		log.Printf("%s %s: %v", c.Method(), c.Path(), err)
	case errors.Is(err, store.ErrNotFound):
		code, text = fiber.StatusNotFound, "This map is not here. It may be in the bin."
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
		log.Printf("%s %s: %v", c.Method(), c.Path(), err)
	}
	c.Status(code)
	if c.Get("HX-Request") != "" || strings.Contains(c.Get("Accept"), "application/json") {
		return c.SendString(text)
	}
	return s.page(c, "message.html", map[string]any{"Title": "Plain Tracer", "Text": text})
}

// sentence begins a text with a capital and ends it with a full stop.
func sentence(text string) string {
	if text == "" {
		return ""
	}
	r := []rune(text)
	return strings.ToUpper(string(r[0])) + strings.TrimSuffix(string(r[1:]), ".") + "."
}

func (s *Server) page(c fiber.Ctx, name string, data any) error {
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
