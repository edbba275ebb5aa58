package sharing

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
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
	// Sheets are the sheets of the map, Looks the looks, of which such a picture can be; Whole is the size of all
	// sheets together. Current says that it shows the map as it is at any time.
	Title   string
	Current bool
	Sheets  []sheetSize
	Whole   sheetSize
	Looks   []looks.Look
}

// sheetSize is a sheet and its size in pixels.
type sheetSize struct {
	Name string
	W, H int
}

// embedding completes a link with what other pages write, of the first sheet.
func (l *madeLink) embedding(m *model.Map) {
	l.Title = model.Flat(strings.Trim(m.Title, "“”"))
	for _, s := range m.Sheets {
		b := s.Extent()
		one := sheetSize{s.Name, b.W / geometry.Px, b.H / geometry.Px}
		l.Sheets = append(l.Sheets, one)
		l.Whole.W, l.Whole.H = max(l.Whole.W, one.W), l.Whole.H+one.H+24
	}
	for _, look := range looks.All {
		l.Looks = append(l.Looks, *look)
	}
	const width, words = 960, 48 // in pixels; under the picture stands as of when it is
	title := template.HTMLEscapeString(l.Title)
	height := width * l.Sheets[0].H / max(l.Sheets[0].W, 1)
	l.Picture = fmt.Sprintf(`<img src="%s/picture.svg" alt="%s" title="%s" width="%d" height="%d">`, l.URL, title,
		title, width,
		height)
	if l.Sites != "" {
		l.Frame = fmt.Sprintf(`<iframe src="%s/frame" title="%s" width="%d" height="%d" loading="lazy"><a href="%s">%s</a></iframe>`,
			l.URL, title, width, height+words, l.URL, l.Picture)
	}
}

// Links lists the links to a map.
func (s *Sharing) Links(c fiber.Ctx) error { return s.showLinks(c, nil, "") }

// showLinks lists the links of a map, with one that was just made, or why none was.
func (s *Sharing) showLinks(c fiber.Ctx, made *madeLink, refusal string) error {
	v := site.At(c)
	list, err := s.House.Links.Of(v.Map)
	if err != nil {
		return err
	}
	names, err := s.Names()
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
	return s.Page(c, "links.html", &linksPage{Base: v.Base, Links: views, URL: s.LinksBegin(), Made: made,
		Refusal: refusal, Kinds: site.LinkForms, Tomorrow: now.AddDate(0, 0, 1).Format(time.DateOnly)})
}

// CreateLink makes a link.
func (s *Sharing) CreateLink(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return err
	}
	choices, code, err := s.readChoices(c)
	var wrong *site.FormFault
	if errors.As(err, &wrong) {
		return s.showLinks(c, nil, wrong.Error())
	}
	if err != nil {
		return err
	}
	if c.FormValue("state") == "fixed" {
		if choices.Right > account.Remark {
			return s.showLinks(c, nil,
				"A state that stays as it is cannot be edited: choose another kind of link, or the latest state.")
		}
		if choices.Version, err = d.KeepVersion(v.Who.ID); err != nil {
			return err
		}
	}
	token, err := s.House.Links.Create(v.Map, v.Who.ID, choices, code)
	if err != nil {
		return err
	}
	s.Note(c, "made a link "+"to "+choices.Right.String(), s.TitleOf(d))
	made := &madeLink{URL: s.LinksBegin() + site.FormFor(choices.Right).Prefix + "/" + token, Sites: choices.Sites}
	if choices.Embed {
		m, _ := d.Snapshot()
		made.embedding(m)
		made.Current = choices.Version == ""
	}
	return s.showLinks(c, made, "")
}

// readChoices reads the form for a new link.
func (s *Sharing) readChoices(c fiber.Ctx) (choices store.Choices, code string, err error) {
	wrong := func(text string, with ...any) (store.Choices, string, error) {
		return store.Choices{}, "", site.FormError(fmt.Sprintf(text, with...))
	}
	choices = store.Choices{Note: model.Flat(c.FormValue("note")), Download: c.FormValue("download") == "yes",
		Changes: c.FormValue("changes") == "yes",
		Embed:   c.FormValue("embed") == "yes", Sites: model.Flat(strings.ReplaceAll(c.FormValue("sites"), ",", " "))}
	choices.Right, _ = account.RightNamed(cmp.Or(c.FormValue("purpose"), "read"))
	if site.FormFor(choices.Right) == nil {
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
	for _, one := range strings.FieldsFunc(c.FormValue("addresses"),
		func(r rune) bool { return strings.ContainsRune(" ,;\r\n\t", r) }) {
		_, folded, err := account.Address(one)
		if err != nil {
			return wrong("%s", phrase.Sentence(err.Error()))
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

// WithdrawLink ends a link.
func (s *Sharing) WithdrawLink(c fiber.Ctx) error {
	v, link := site.At(c), c.Params("link")
	if err := s.House.Links.Withdraw(v.Map, link); err != nil {
		return err
	}
	s.Live.LinkEnded(v.Map, link)
	if d, err := v.Document(); err == nil {
		s.Note(c, "withdrew a link", s.TitleOf(d))
	}
	return s.Links(c)
}

// linksPage is what links.html shows.
type linksPage struct {
	site.Frame
	Base     string
	Links    []linkView
	URL      string
	Made     *madeLink
	Refusal  string
	Kinds    []site.LinkForm
	Tomorrow string
}
