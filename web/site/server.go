package site

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
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"plaintracer"
	"plaintracer/app/house"
	"plaintracer/app/live"
	"plaintracer/app/phrase"
	"plaintracer/app/post"
	"plaintracer/background"
	"plaintracer/core/editor/command"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/tracerjson"
	"plaintracer/store"
)

// Site is what all pages share.
type Site struct {
	Settings
	House    *house.House
	Live     *live.Live
	Post     *post.Post
	assets   *assets
	views    *template.Template
	Drawings *drawings
	Attempts *attempts
	codes    *codes
	// Beside is what the server does beside answering.
	Beside *background.Group
}

// New prepares what all pages share, of the files of the application and a browser core.
func New(h *house.House, files, core fs.FS, settings Settings) (*Site, error) {
	a, err := LoadAssets(files, core)
	if err != nil {
		return nil, err
	}
	views, err := loadViews(files, a)
	if err != nil {
		return nil, err
	}
	settings.FirstKey = cmp.Or(settings.FirstKey, rand.Text())
	s := &Site{Settings: settings, House: h, Live: live.New(h.Store, plaintracer.EditorSource()), assets: a,
		views:    views,
		Attempts: NewAttempts(h.Attempts), codes: NewCodes(), Beside: background.New()}
	s.Drawings = NewDrawings(s.Beside)
	h.Documents.Tell(s.Live)
	h.Sessions.Ended = s.Live.SessionsEnded
	s.Post = post.New(h.Store, s.Live, settings.Address, settings.Mail)
	s.Beside.Go("sending messages", s.Post.Run)
	s.Beside.Every(10*time.Minute, "tidying up", func(context.Context) {
		if h.ReadOnly() != "" {
			return
		}
		if err := errors.Join(h.Letters.Tidy(time.Now()), h.Attempts.Forget(time.Now().Add(-remembered))); err != nil {
			log.Printf("tidying up: %v", err)
		}
	})
	return s, nil
}

// loadViews reads the pages, and gives them what they ask for by name.
func loadViews(files fs.FS, a *assets) (*template.Template, error) {
	icon, err := icons(files)
	if err != nil {
		return nil, err
	}
	return template.New("").Funcs(template.FuncMap{
		"asset": func(name string) (string, error) {
			if p := a.names[name]; p != "" {
				return p, nil
			}
			return "", fmt.Errorf("there is no asset %q", name)
		},
		"icon":   icon,
		"colour": model.ColourName,
		"key":    key,
		"bar":    command.Bar,
		"values": values,
		"token":  formToken,
		"inc":    func(n int) int { return n + 1 },
		"add":    func(a, b int) int { return a + b },
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
		"ago":     phrase.Ago,
		"until":   phrase.Until,
		"day":     func(t time.Time) string { return t.Format("2 January 2006, 15:04") },
		"outline": outline, "line": lineShape,
	}).ParseFS(files, "views/*.html")
}

// Close ends what runs beside answering.
func (s *Site) Close() { s.Beside.Close() }

// Policy lets pages use only what the application ships.
const Policy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self'; font-src 'self'; img-src 'self' blob: data:; connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// picturePolicy is for SVG files, which carry their own styles and font.
const picturePolicy = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"

// App is what both applications have in common. Local has it answer to names of this machine alone.
func (s *Site) App(local bool) *fiber.App {
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
	app.Use(logRequest)
	app.Use(recover.New())
	if local {
		app.Use(onThisMachine)
	}
	app.Get("/healthz", s.health)
	app.Use(func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy", Policy)
		c.Set("X-Content-Type-Options", "nosniff")
		// Not "no-referrer": browsers then send forms without their origin.
		c.Set("Referrer-Policy", "same-origin")
		c.Set("Cross-Origin-Opener-Policy", "same-origin")
		c.Set("Cross-Origin-Resource-Policy", "same-origin")
		// It holds for all ports of a host, so that it is said only where the application has the host's own.
		if u, err := url.Parse(s.Address); err == nil && u.Scheme == "https" && u.Port() == "" && s.From(c).https {
			c.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if c.Method() != fiber.MethodGet && c.Method() != fiber.MethodHead && !s.OwnOrigin(c) {
			return fiber.NewError(fiber.StatusForbidden, "This request came from another site and was refused.")
		}
		return c.Next()
	})
	app.Get("/static/*", s.assets.serve)
	app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool {
		// made while they are sent
		return strings.HasSuffix(c.Path(), "/socket") || strings.Contains(c.Path(), "/files/")
	}}))
	return app
}

// logRequest writes what was asked and answered into the log: the address as it is declared, never as it was asked,
// since that holds what opens a map.
func logRequest(c fiber.Ctx) error {
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
		slog.Info("request", "method", c.Method(), "route", path, "status", status, "ms",
			time.Since(begun).Milliseconds(), "bytes", answered(c))
	}
	return nil
}

// answered is how many bytes an answer has, without reading one that is made while it is sent.
func answered(c fiber.Ctx) int {
	if c.Response().IsBodyStream() {
		return c.Response().Header.ContentLength()
	}
	return len(c.Response().Body())
}

// addressFor is the address of a request as the log has it: as it is declared, never as it was asked, since that holds
// what opens a map or an account.
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
func (s *Site) health(c fiber.Ctx) error {
	c.Set("Cache-Control", "no-store")
	if why := s.House.ReadOnly(); why != "" {
		return c.Status(fiber.StatusServiceUnavailable).JSON(map[string]any{"answers": true, "saves": false,
			"why": why})
	}
	return c.JSON(map[string]any{"answers": true, "saves": true})
}

// OwnOrigin reports whether a request was made by a page of this server.
func (s *Site) OwnOrigin(c fiber.Ctx) bool {
	return sameOrigin(c.Get("Origin"), s.From(c).host) && ownFetch(c.Get("Sec-Fetch-Site"))
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

// fail shows an error in plain words: as a page, or as a line of text to a
// script that asked.
func (s *Site) fail(c fiber.Ctx, err error) error {
	if l := asLocked(err); l != nil {
		return s.unlock(c, l)
	}
	code, text := fiber.StatusInternalServerError,
		"Something went wrong on our side. What you saved is safe; try again."
	var known *fiber.Error
	var refusal *model.Refusal
	var fault *tracerjson.Fault
	var wrong *exchange.ChoiceError
	switch {
	case errors.Is(err, context.Canceled): // nobody is there to read it
		return c.SendStatus(fiber.StatusServiceUnavailable)
	case store.Trouble(err) != "":
		code, text = fiber.StatusServiceUnavailable,
			store.Trouble(err)+". What was saved before is safe; try again once that is mended."
		logged(c, err)
	case errors.Is(err, store.ErrNotFound):
		code, text = fiber.StatusNotFound,
			"There is nothing here for you: it may be in the bin, or not shared with you. Ask its owner."
	case errors.As(err, new(*FormFault)):
		code, text = fiber.StatusBadRequest, phrase.Sentence(err.Error())
	case errors.As(err, &refusal):
		code, text = fiber.StatusConflict, phrase.Sentence(refusal.Text)
	case errors.As(err, &fault):
		code, text = fiber.StatusBadRequest, "The file was not opened. "+phrase.Sentence(fault.Error())
	case errors.As(err, &wrong):
		code, text = fiber.StatusBadRequest, phrase.Sentence(wrong.Error())
	case errors.As(err, &known):
		code, text = known.Code, known.Message
		switch known.Code {
		case fiber.StatusNotFound:
			text = "There is no such page."
		case fiber.StatusMethodNotAllowed:
			text = "There is no page here to look at; this address only takes what a page of ours sends."
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
	title := "That did not work"
	switch code {
	case fiber.StatusNotFound, fiber.StatusGone:
		title = "Not here"
	case fiber.StatusForbidden, fiber.StatusUnauthorized:
		title = "Not allowed"
	}
	return s.Page(c, "message.html", &messagePage{Frame: Frame{Title: title}, Text: text,
		Home: WhoAsks(c) != nil})
}

// formToken is the hidden field of a form that shows it to be of a page of this person.
func formToken(token string) template.HTML {
	return template.HTML(`<input type="hidden" name="token" value="` + template.HTMLEscapeString(token) + `">`)
}

// Frame is what every page knows: its title, who asks, and the token that its forms bring along. Page sets the last
// two.
type Frame struct {
	Title string
	// Place is what of that is seen, such as a version; empty for all of it.
	Place string
	Me    *Me
	Token string
	// NoLetters says that the person has switched off keys of a single letter, digit or sign.
	NoLetters bool
}

func (f *Frame) know(who *Me, token string, noLetters bool) {
	f.Me, f.Token, f.NoLetters = who, token, noLetters
}

// LettersKept is the name under which a person's arrangement says that keys of a single letter are "off".
const LettersKept = "letters"

// Page answers with a page. Data is what it shows: a page of its own kind has a Frame in it, a part of a page has not.
func (s *Site) Page(c fiber.Ctx, name string, data any) error {
	if p, ok := data.(interface{ know(*Me, string, bool) }); ok {
		who, kept := WhoAsks(c), map[string]string{}
		if who != nil {
			var err error
			if kept, err = s.House.Visits.Arrangement(who.ID); err != nil {
				return err
			}
		}
		p.know(who, s.token(who), kept[LettersKept] == "off")
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
func key(e string) (template.HTML, error) {
	pressed := command.KeyOf(e)
	if pressed == "" {
		return "", fmt.Errorf("there is no key for the command %q", e)
	}
	var caps []string
	for _, name := range strings.Split(pressed, "+") {
		if c := map[string]string{"Shift": "⇧", "Enter": "↵", "Backspace": "⌫", "Delete": "Del", "Insert": "Ins",
			"ArrowUp": "↑", "ArrowDown": "↓",
			"PageUp": "PgUp", "PageDown": "PgDn"}[name]; c != "" {
			name = c
		}
		caps = append(caps, name)
	}
	return template.HTML("<kbd>" + template.HTMLEscapeString(strings.Join(caps, " ")) + "</kbd>"), nil
}

// messagePage is what message.html shows.
type messagePage struct {
	Frame
	Text string
	Home bool
}
