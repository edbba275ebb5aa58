package web

import (
	"cmp"
	"crypto/rand"
	"errors"
	"fmt"
	"html/template"
	"math/big"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/core/model"
	"plaintracer/mail"
	"plaintracer/store"
)

// linkView is a link as its owner sees it in the list.
type linkView struct {
	store.Link
	Over bool
	// LastDay is the last day on which it is in force; By who made it.
	LastDay time.Time
	By      string
	What    string
}

// madeLink is a link that was just made: its address, and what other pages write to show the map, where they may.
type madeLink struct {
	URL, Frame, Picture string
	// Sites are those in whose frames it may be shown.
	Sites string
}

func (s *Server) links(c fiber.Ctx) error { return s.showLinks(c, nil, "") }

// showLinks lists the links of a map, with one that was just made, or why none was.
func (s *Server) showLinks(c fiber.Ctx, made *madeLink, refusal string) error {
	v := at(c)
	list, err := s.house.Links.Of(v.id)
	if err != nil {
		return err
	}
	names, err := s.names()
	if err != nil {
		return err
	}
	now := time.Now()
	var views []linkView
	for _, l := range list {
		what := "to " + l.Right.String()
		if !l.As.IsZero() {
			what += ", as it was on " + l.As.Format("2 January 2006, 15:04")
		}
		views = append(views, linkView{l, l.Ended(now), l.Until.Add(-time.Second), names[l.Author], what})
	}
	return s.page(c, "links.html", map[string]any{"Base": v.base, "Links": views, "URL": s.linksURL(), "Made": made, "Refusal": refusal, "Kinds": linkForms,
		"Tomorrow": now.AddDate(0, 0, 1).Format(time.DateOnly)})
}

// linksURL is where links begin.
func (s *Server) linksURL() string { return cmp.Or(s.LinksURL, s.Address) }

func (s *Server) createLink(c fiber.Ctx) error {
	v := at(c)
	d, err := v.document()
	if err != nil {
		return err
	}
	choices, code, err := s.readChoices(c)
	var wrong *unfit
	if errors.As(err, &wrong) {
		return s.showLinks(c, nil, wrong.text)
	}
	if err != nil {
		return err
	}
	if c.FormValue("state") == "fixed" {
		if choices.Right > account.Remark {
			return s.showLinks(c, nil, "A state that stays as it is cannot be edited: choose another kind of link, or the latest state.")
		}
		if choices.Version, err = d.KeepVersion(v.who.ID); err != nil {
			return err
		}
	}
	token, err := s.house.Links.Create(v.id, v.who.ID, choices, code)
	if err != nil {
		return err
	}
	s.note(c, "made a link "+"to "+choices.Right.String(), s.titleOf(d))
	made := &madeLink{URL: s.linksURL() + formFor(choices.Right).Prefix + "/" + token, Sites: choices.Sites}
	if choices.Embed {
		title := template.HTMLEscapeString(flat(strings.Trim(s.titleOf(d), "“”")))
		if made.Picture = fmt.Sprintf(`<img src="%s/picture.svg" alt="%s">`, made.URL, title); choices.Sites != "" {
			made.Frame = fmt.Sprintf(`<iframe src="%s/frame" title="%s" width="960" height="720" loading="lazy"></iframe>`, made.URL, title)
		}
	}
	return s.showLinks(c, made, "")
}

// unfit says what in a form is not as it has to be.
type unfit struct{ text string }

func (u *unfit) Error() string { return u.text }

// readChoices reads the form for a new link.
func (s *Server) readChoices(c fiber.Ctx) (choices store.Choices, code string, err error) {
	wrong := func(text string, with ...any) (store.Choices, string, error) {
		return store.Choices{}, "", &unfit{fmt.Sprintf(text, with...)}
	}
	choices = store.Choices{Note: flat(c.FormValue("note")), Download: c.FormValue("download") == "yes",
		Embed: c.FormValue("embed") == "yes", Sites: flat(strings.ReplaceAll(c.FormValue("sites"), ",", " "))}
	choices.Right, _ = account.RightNamed(cmp.Or(c.FormValue("purpose"), "read"))
	if formFor(choices.Right) == nil {
		return wrong("A link is to read, to remark or to edit.")
	}
	if len([]rune(choices.Note)) > model.MaxName {
		return wrong("The note is longer than %d characters.", model.MaxName)
	}
	if !store.ValidSites(choices.Sites) {
		return wrong("The sites that may frame the map are written as https://wiki.example, with spaces between.")
	}
	const mostAddresses = 200
	var addresses []string
	for _, one := range strings.FieldsFunc(c.FormValue("addresses"), func(r rune) bool { return strings.ContainsRune(" ,;\r\n\t", r) }) {
		_, folded, err := account.Address(one)
		if err != nil {
			return wrong("%s", sentence(err.Error()))
		}
		if !slices.Contains(addresses, folded) {
			addresses = append(addresses, folded)
		}
	}
	if len(addresses) > mostAddresses {
		return wrong("A link opens to at most %d addresses.", mostAddresses)
	}
	choices.Addresses = strings.Join(addresses, " ")
	if choices.Embed && choices.Addresses != "" {
		return wrong("Other pages cannot show a map that opens to named addresses only.")
	}
	code = c.FormValue("passcode")
	if code != "" && (len([]rune(code)) < leastPasscode || len(code) > 400) {
		return wrong("A passcode has at least %d characters.", leastPasscode)
	}
	if day := c.FormValue("until"); day != "" {
		t, err := time.ParseInLocation(time.DateOnly, day, time.Local)
		if err != nil || !t.AddDate(0, 0, 1).After(time.Now()) {
			return wrong("Choose a day that is still to come.")
		}
		choices.Until = t.AddDate(0, 0, 1) // until the end of that day
	}
	return choices, code, nil
}

// leastPasscode is the shortest passcode: it keeps out who found a link, not who can try a billion times.
const leastPasscode = 6

func (s *Server) withdrawLink(c fiber.Ctx) error {
	v, link := at(c), c.Params("link")
	if err := s.house.Links.Withdraw(v.id, link); err != nil {
		return err
	}
	s.live.LinkEnded(v.id, link)
	if d, err := v.document(); err == nil {
		s.note(c, "withdrew a link", s.titleOf(d))
	}
	return s.links(c)
}

// locked says what a link asks for that was not given: an address, the code that was sent there, or a passcode.
type locked struct{ asks, address, text string }

func (l *locked) Error() string { return "this link asks for " + l.asks }

// asksFor returns what a link asks for that the visitor has not given yet; nil for nothing.
func (s *Server) asksFor(c fiber.Ctx, f *store.Followed) error {
	if f.Addresses != "" && !s.isAddressed(c, f) {
		return &locked{asks: "an address"}
	}
	if f.Locked && !s.house.Links.Proved(f, s.kept(c, proofCookie)) {
		return &locked{asks: "a passcode"}
	}
	return nil
}

// isAddressed reports whether the browser has shown to be of one of the addresses that a link names.
func (s *Server) isAddressed(c fiber.Ctx, f *store.Followed) bool {
	sign, address, _ := strings.Cut(s.kept(c, addressCookie), " ")
	return slices.Contains(strings.Fields(f.Addresses), address) && s.house.Signed(sign, "address", f.ID, address)
}

// enter takes what a link asks for: an address, a code, or a passcode.
func (s *Server) enter(c fiber.Ctx) error {
	f, err := s.followed(c)
	if err != nil {
		return err
	}
	network := s.from(c).network()
	tooMany := func(wait time.Duration) error {
		return &locked{asks: "a pause", text: fmt.Sprintf("Too many tries. Try again in %s.", inWords(wait))}
	}
	_, address, _ := account.Address(c.FormValue("address"))
	named := slices.Contains(strings.Fields(f.Addresses), address)
	switch code := flat(c.FormValue("code")); {
	case f.Addresses != "" && address != "" && code == "":
		if wait := s.attempts.begin(byLink.of(f.ID + " " + network)); wait > 0 {
			return tooMany(wait)
		}
		// Each costs a message, however it was asked for. Whether the address is one of those named is not told.
		if named && s.attempts.begin(codesSent.of(f.ID+" "+address), codesTo.of(address)) == 0 {
			s.sendUntil(mail.Code, address, "link "+f.ID, time.Now().Add(codeTime), map[string]any{"Code": s.codes.make(f.ID + " " + address)})
		}
		return &locked{asks: "the code", address: address}
	case f.Addresses != "" && code != "":
		tries := []try{byLink.of(f.ID + " " + network), codesWrong.of(f.ID + " " + address)}
		if wait := s.attempts.begin(tries...); wait > 0 {
			return tooMany(wait)
		}
		if !named || !s.codes.take(f.ID+" "+address, code) {
			return &locked{asks: "the code", address: address, text: "That is not the code, or it is over. Ask for a new one with your address."}
		}
		s.attempts.forget(append(tries, codesSent.of(f.ID+" "+address))...)
		s.keep(c, addressCookie, s.house.Sign("address", f.ID, address)+" "+address)
	case f.Addresses != "" && !s.isAddressed(c, f):
		return &locked{asks: "an address", text: "Write your address for mail, such as name@town.example."}
	case f.Locked:
		tries := []try{byLink.of(f.ID + " " + network), ofLink.of(f.ID)}
		if wait := s.attempts.begin(tries...); wait > 0 {
			return tooMany(wait)
		}
		if !f.Opens(c.FormValue("passcode")) {
			return &locked{asks: "a passcode", text: "That is not the passcode."}
		}
		s.proved(tries)
		s.keep(c, proofCookie, s.house.Links.Proof(f))
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(linkBase(c))
}

// codes are those that were sent to addresses and are good for a while, once.
type codes struct {
	mu   sync.Mutex
	list map[string]sentCode
}

type sentCode struct {
	code  string
	until time.Time
	tries int
}

// The bounds of codes (OWASP ASVS 4.0.3, 2.7: short-lived, and tried a few times only).
const (
	codeTime  = 10 * time.Minute
	codeTries = 5
	keptCodes = 10_000
)

func newCodes() *codes { return &codes{list: map[string]sentCode{}} }

// make returns a new code of six digits under a key, in place of an earlier one.
func (k *codes) make(key string) string {
	n, err := rand.Int(rand.Reader, big.NewInt(1_000_000))
	if err != nil {
		panic(err) // crypto/rand does not fail
	}
	code := fmt.Sprintf("%06d", n)
	k.mu.Lock()
	defer k.mu.Unlock()
	for old, c := range k.list {
		if time.Now().After(c.until) || len(k.list) >= keptCodes {
			delete(k.list, old)
		}
	}
	k.list[key] = sentCode{code, time.Now().Add(codeTime), 0}
	return code
}

// take reports whether a code is the one that was made under a key. It is good once.
func (k *codes) take(key, code string) bool {
	k.mu.Lock()
	defer k.mu.Unlock()
	c, ok := k.list[key]
	if !ok || time.Now().After(c.until) {
		return false
	}
	if c.tries++; c.code == code || c.tries >= codeTries {
		delete(k.list, key)
		return c.code == code
	}
	k.list[key] = c
	return false
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
	d, err := v.shown()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	when := asOf(d)
	if when.IsZero() {
		when = time.Now()
	}
	c.Set("Content-Security-Policy", strings.Replace(policy, "frame-ancestors 'none'", "frame-ancestors "+cmp.Or(v.chosen.Sites, "'none'"), 1))
	return s.page(c, "frame.html", map[string]any{"Title": m.Title, "Base": template.URL(v.base), "Revision": revision, "Now": when})
}

// unlock shows the page that asks for what is missing, or tells a script.
func (s *Server) unlock(c fiber.Ctx, l *locked) error {
	c.Status(fiber.StatusUnauthorized)
	if strings.Contains(c.Get("Accept"), "json") {
		return c.SendString(cmp.Or(l.text, "This link asks for "+l.asks+"."))
	}
	return s.page(c, "passcode.html", map[string]any{"Title": "This map asks for " + l.asks, "Base": linkBase(c), "Text": l.text, "Asks": l.asks, "Mail": l.address})
}

func asLocked(err error) *locked {
	var l *locked
	if errors.As(err, &l) {
		return l
	}
	return nil
}

// titleOf is the title of a map as it is now.
func (s *Server) titleOf(d *documents.Document) (title string) {
	d.View(func(m *model.Map, _ int) { title = m.Title })
	return "“" + title + "”"
}
