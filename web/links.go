package web

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/diagram"
	"plaintracer/exchange"
	"plaintracer/store"
)

// linkView is a link as its owner sees it in the list.
type linkView struct {
	store.Link
	Over bool
	// LastDay is the last day on which it is in force.
	LastDay time.Time
}

func (s *Server) links(c fiber.Ctx) error { return s.showLinks(c, "", "") }

// showLinks lists the links of a map, with one that was just made, or why none was.
func (s *Server) showLinks(c fiber.Ctx, made, refusal string) error {
	v := at(c)
	list, err := s.store.Links(v.id)
	if err != nil {
		return err
	}
	now := time.Now()
	var views []linkView
	for _, l := range list {
		views = append(views, linkView{l, l.Ended(now), l.Until.Add(-time.Second)})
	}
	return s.page(c, "links.html", map[string]any{"Base": v.base, "Links": views, "URL": s.LinksURL, "Made": made, "Refusal": refusal,
		"Tomorrow": now.AddDate(0, 0, 1).Format(time.DateOnly)})
}

func (s *Server) createLink(c fiber.Ctx) error {
	if s.LinksURL == "" {
		return fiber.NewError(fiber.StatusConflict, "Links are switched off: start the program with --links and an address.")
	}
	v := at(c)
	if _, err := v.document(); err != nil {
		return err
	}
	choices := store.Choices{Note: strings.Join(strings.Fields(c.FormValue("note")), " "), Download: c.FormValue("download") == "yes",
		Embed: c.FormValue("embed") == "yes", Sites: strings.Join(strings.Fields(strings.ReplaceAll(c.FormValue("sites"), ",", " ")), " ")}
	if len([]rune(choices.Note)) > diagram.MaxName {
		return s.showLinks(c, "", fmt.Sprintf("The note is longer than %d characters.", diagram.MaxName))
	}
	if !store.ValidSites(choices.Sites) {
		return s.showLinks(c, "", "The sites that may frame the map are written as https://wiki.example, with spaces between.")
	}
	code := c.FormValue("passcode")
	if code != "" && (len([]rune(code)) < leastPasscode || len(code) > 400) {
		return s.showLinks(c, "", fmt.Sprintf("A passcode has at least %d characters.", leastPasscode))
	}
	if day := c.FormValue("until"); day != "" {
		t, err := time.ParseInLocation(time.DateOnly, day, time.Local)
		if err != nil || !t.AddDate(0, 0, 1).After(time.Now()) {
			return s.showLinks(c, "", "Choose a day that is still to come.")
		}
		choices.Until = t.AddDate(0, 0, 1) // until the end of that day
	}
	token, err := s.store.CreateLink(v.id, choices, code)
	if err != nil {
		return err
	}
	return s.showLinks(c, s.LinksURL+"/read/"+token, "")
}

// leastPasscode is the shortest passcode: it keeps out who found a link, not who can try a billion times.
const leastPasscode = 6

func (s *Server) withdrawLink(c fiber.Ctx) error {
	v, link := at(c), c.Params("link")
	if err := s.store.Withdraw(v.id, link); err != nil {
		return err
	}
	s.hub.end(v.id, again{}, func(p *peer) bool { return p.link == link })
	return s.links(c)
}

// locked says that a link asks for a passcode that was not given.
type locked struct{ text string }

func (l *locked) Error() string { return "this link asks for a passcode" }

// proofCookie is the cookie by which a browser shows that the passcode of a link was given. It goes along below the
// address of that link alone.
const proofCookie = "passed"

// enter takes the passcode of a link.
func (s *Server) enter(c fiber.Ctx) error {
	f, err := s.followed(c)
	if err != nil {
		return err
	}
	key := f.ID + " " + c.IP()
	if wait := s.attempts.wait(key); wait > 0 {
		return &locked{fmt.Sprintf("Too many tries. Try again in %s.", inWords(wait))}
	}
	if f.Locked && !f.Opens(c.FormValue("passcode")) {
		s.attempts.failed(key)
		return &locked{"That is not the passcode."}
	}
	s.attempts.forget(key)
	base := "/read/" + c.Params("token")
	c.Cookie(&fiber.Cookie{Name: proofCookie, Value: s.store.Proof(f), Path: base, HTTPOnly: true, Secure: c.Secure(), SameSite: fiber.CookieSameSiteLaxMode})
	return c.Redirect().Status(fiber.StatusSeeOther).To(base)
}

func inWords(d time.Duration) string {
	if s := int(d.Seconds()) + 1; s < 90 {
		return fmt.Sprintf("%d seconds", s)
	}
	return fmt.Sprintf("%d minutes", int(d.Minutes())+1)
}

// attempts slows down who tries passcodes: after some tries each takes twice as long as the one before. It goes by what
// is tried from which address, so that nobody is kept out by the tries of others.
type attempts struct {
	mu   sync.Mutex
	list map[string]*attempt
}

type attempt struct {
	failures int
	next     time.Time
}

const (
	freeTries    = 5
	longestWait  = 15 * time.Minute
	keptAttempts = 10_000
)

func newAttempts() *attempts { return &attempts{list: map[string]*attempt{}} }

// wait returns how long it is until the next try may be made.
func (a *attempts) wait(key string) time.Duration {
	a.mu.Lock()
	defer a.mu.Unlock()
	if t := a.list[key]; t != nil {
		return max(time.Until(t.next), 0)
	}
	return 0
}

func (a *attempts) failed(key string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := time.Now()
	if len(a.list) >= keptAttempts {
		for k, t := range a.list {
			if now.Sub(t.next) > longestWait {
				delete(a.list, k)
			}
		}
	}
	t := a.list[key]
	if t == nil {
		if len(a.list) >= keptAttempts { // then everybody new waits
			t = &attempt{failures: freeTries}
		} else {
			t = &attempt{}
		}
		a.list[key] = t
	}
	t.failures++
	if over := t.failures - freeTries; over >= 0 {
		t.next = now.Add(min(time.Second<<min(over, 20), longestWait))
	}
}

func (a *attempts) forget(key string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.list, key)
}

// download is an export for readers, where their link allows it. It carries no map inside.
func (s *Server) download(c fiber.Ctx) error {
	if !at(c).chosen.Download {
		return fiber.NewError(fiber.StatusForbidden, "This link is for reading; its owner does not let readers save the map.")
	}
	c.Request().URI().QueryArgs().Set("inside", "no")
	if f := exchange.Named(c.Params("format")); f == nil || f.Name == "map" {
		return fiber.NewError(fiber.StatusForbidden, "Readers can save pictures and documents, not the map itself.")
	}
	return s.export(c)
}

// embedded is the current picture of the first sheet, for pages elsewhere.
func (s *Server) embedded(c fiber.Ctx) error {
	format := c.Params("format")
	if !at(c).chosen.Embed || format != "svg" && format != "png" {
		return fiber.NewError(fiber.StatusForbidden, "This link is not made to be shown on other pages.")
	}
	c.Set("Cross-Origin-Resource-Policy", "cross-origin")
	c.Request().URI().QueryArgs().Set("inside", "no")
	c.Request().URI().QueryArgs().Set("inline", "1")
	return s.export(c)
}

// frame is a small page with the current picture, for the sites that the link names, and says as of when it is.
func (s *Server) frame(c fiber.Ctx) error {
	v := at(c)
	if !v.chosen.Embed {
		return fiber.NewError(fiber.StatusForbidden, "This link is not made to be shown on other pages.")
	}
	d, err := v.document()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	c.Set("Content-Security-Policy", strings.Replace(policy, "frame-ancestors 'none'", "frame-ancestors "+cmp.Or(v.chosen.Sites, "'none'"), 1))
	return s.page(c, "frame.html", map[string]any{"Title": m.Title, "Base": template.URL(v.base), "Revision": revision, "Now": time.Now()})
}

// unlock shows the page that asks for a passcode, or tells a script.
func (s *Server) unlock(c fiber.Ctx, l *locked) error {
	c.Status(fiber.StatusUnauthorized)
	if strings.Contains(c.Get("Accept"), "json") {
		return c.SendString(cmp.Or(l.text, "This link asks for a passcode."))
	}
	return s.page(c, "passcode.html", map[string]any{"Title": "A passcode is needed", "Base": "/read/" + c.Params("token"), "Text": l.text})
}

func asLocked(err error) *locked {
	var l *locked
	if errors.As(err, &l) {
		return l
	}
	return nil
}
