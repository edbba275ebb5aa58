package reviews

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/exchange/changes"
	"plaintracer/exchange/svg"
	"plaintracer/store"
	"plaintracer/web/site"
)

// A state of a map is named in addresses: "now", the id of a version, "r12" for a revision, or "visit" for what it was
// when the person was there before, "d2026-11-20" for the end of a day.

// moment is a state of a map.
type moment struct {
	name, title string
	m           *model.Map
	revision    int
	version     *store.Version
}

// stateNamed returns a state of the map of a visit by its name. By a link that shows a state that stays as it is there
// is that one alone, by its id and as what is so now.
func stateNamed(v *site.Visit, name string) (*moment, error) {
	if fixed := v.Chosen.Version; fixed != "" {
		before, err := askedBefore(v)
		if err != nil {
			return nil, err
		}
		switch {
		case name != "" && name == before:
			fixed = before
		case name != "" && name != "now" && name != "visit" && name != fixed:
			return nil, site.ErrNoState
		}
		kept, m, err := v.Site.House.Versions.Get(fixed)
		if err != nil {
			return nil, err
		}
		return &moment{fixed, "as it was on " + kept.Created.Format("2 January 2006"), m, kept.Revision, &kept}, nil
	}
	d, err := v.Document()
	if err != nil {
		return nil, err
	}
	revision := -1
	day, isDay := dayNamed(name)
	switch digits, isRevision := strings.CutPrefix(name, "r"); {
	case name == "" || name == "now" || name == "visit" && v.Who == nil && v.Before < 0:
		m, r := d.Snapshot()
		return &moment{"now", "now", m, r, nil}, nil
	case name == "visit" && v.Who == nil:
		revision = v.Before
	case name == "visit":
		if revision, err = v.Site.House.Visits.Since(v.Who.ID, v.Map); err != nil {
			return nil, err
		}
		revision = max(revision, 0) // since the beginning, for who was never there before
	case v.Right < account.Remark: // whoever reads sees what changed since they looked last, and no other state
		return nil, site.ErrNoState
	case isDay:
		if revision, err = v.Site.House.Logs.RevisionAt(v.Map, day.AddDate(0, 0, 1)); err != nil {
			return nil, err
		}
	case isRevision && len(digits) < 10:
		if n, err := strconv.Atoi(digits); err == nil {
			revision = n
		}
	}
	if revision >= 0 {
		m, err := d.At(revision)
		if err != nil {
			return nil, site.ErrNoState
		}
		at := &moment{"r" + strconv.Itoa(revision), fmt.Sprint("revision ", revision), m, revision, nil}
		switch {
		case name == "visit":
			at.title = "your last visit"
			if v.Right < account.Remark {
				at.name = name
			}
		case isDay:
			at.name, at.title = name, "the evening of "+day.Format("2 January 2006")
		}
		return at, nil
	}
	kept, m, err := v.Site.House.Versions.Get(name)
	if errors.Is(err, store.ErrNotFound) || err == nil && kept.Map != v.Map {
		return nil, site.ErrNoState
	}
	if err != nil {
		return nil, err
	}
	title := kept.Title()
	return &moment{name, strings.ToLower(title[:1]) + title[1:], m, kept.Revision, &kept}, nil
}

// askedBefore is the version that a visitor by a link was asked about before, by their name; empty for none.
func askedBefore(v *site.Visit) (string, error) {
	held, err := v.Rounds()
	if err != nil {
		return "", err
	}
	for i := range held {
		for _, one := range held[i].Asked() {
			if one.Link != "" && one.Link == v.Link {
				return rounds.BeforeIn(held, held[i].Number, one.Who), nil
			}
		}
	}
	return "", nil
}

// dayNamed reads the name of the state of a map at the end of a day: "d2026-11-20".
func dayNamed(name string) (time.Time, bool) {
	digits, ok := strings.CutPrefix(name, "d")
	if !ok {
		return time.Time{}, false
	}
	t, err := time.ParseInLocation(time.DateOnly, digits, time.Local)
	return t, err == nil
}

// keepAs keeps the map of a visit as it is now, with its pictures.
func (s *Reviews) keepAs(c fiber.Ctx, k store.Keep) (store.Version, error) {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return store.Version{}, err
	}
	k.Author = v.Author()
	return site.Made(s.Site, c, func(ctx context.Context) (store.Version, error) {
		k.Draw = rounds.DrawSheets(ctx)
		kept, err := d.KeepAs(k)
		if errors.Is(err, rounds.ErrLong) {
			err = site.ErrLong
		}
		return kept, err
	})
}

// KeepVersion keeps the map as a version with a name and a word: by hand, or quietly before something large.
func (s *Reviews) KeepVersion(c fiber.Ctx) error {
	name, word := model.Flat(c.FormValue("name")), strings.TrimSpace(c.FormValue("word"))
	if len([]rune(name)) > model.MaxName || len([]rune(word)) > model.MaxText {
		return site.FormError(fmt.Sprintf("the name of a version has at most %d characters, its word %d", model.MaxName,
			model.MaxText))
	}
	reason := store.ByHand
	if c.FormValue("before") != "" {
		reason, name = store.Before, "before “"+phrase.Clip(model.Flat(c.FormValue("before")), 60)+"”"
	}
	if _, err := s.keepAs(c, store.Keep{Name: name, Word: word, Reason: reason}); err != nil {
		return err
	}
	return s.History(c)
}

// deed is a line of the history: what somebody did, one thing after the other.
type deed struct {
	At       time.Time
	Who      string
	Words    string
	Revision int
}

// mostDeeds is how many entries of the log the history tells.
const mostDeeds = 400

// History shows the versions of a map, and who did what when.
func (s *Reviews) History(c fiber.Ctx) error {
	v := site.At(c)
	versions, err := s.House.Versions.Of(v.Map)
	if err != nil {
		return err
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	entries, err := d.Deeds(revision+1, mostDeeds)
	if err != nil {
		return err
	}
	names, err := s.Names()
	if err != nil {
		return err
	}
	deeds := told(entries, m, names)
	if q := strings.ToLower(model.Flat(c.Query("q"))); q != "" {
		deeds = slices.DeleteFunc(deeds,
			func(d deed) bool { return !strings.Contains(strings.ToLower(d.Words+" "+d.Who), q) })
	}
	var list []versionView
	for _, one := range versions {
		sheets, err := s.House.Versions.Sheets(one.ID)
		if err != nil {
			return err
		}
		view := versionView{one, phrase.ByName(names, one.Author), m.Sheets[0].ID}
		if len(sheets) > 0 {
			view.First = sheets[0].Sheet
		}
		list = append(list, view)
	}
	return s.Page(c, "history.html", &historyPage{Base: v.Base, Versions: list, Deeds: deeds, Query: c.Query("q"),
		Person: v.Who != nil, Changes: v.Right >= 3})
}

// told merges the entries of a log, the latest first, into sentences: what one author did of one kind in a row.
func told(entries []store.Deed, m *model.Map, names map[string]string) (list []deed) {
	numbers := numbering.Labels(flow.New(m))
	type run struct {
		store.Deed
		verb  string
		ids   []string
		n     int
		plain string
	}
	var runs []run
	for _, e := range entries {
		verb, ids := doing(e.Edit)
		if n := len(runs); n > 0 && verb != "" && runs[n-1].verb == verb && runs[n-1].Author == e.Author &&
			runs[n-1].At.Sub(e.At) < 10*time.Minute {
			r := &runs[n-1]
			for _, id := range ids {
				if !slices.Contains(r.ids, id) {
					r.ids = append(r.ids, id)
				}
			}
			r.n++
			continue
		}
		plain := edit.Words(m, e.Edit)
		if r, ok := e.Edit.(*edit.Revert); ok {
			plain = "took back: " + r.Of
		}
		runs = append(runs, run{e, verb, ids, 1, plain})
	}
	for _, r := range runs {
		words := r.plain
		if r.verb != "" {
			words = r.verb + " " + called(r.ids, numbers)
		}
		list = append(list, deed{r.At, phrase.ByName(names, r.Author), words, r.Revision})
	}
	return list
}

// doing says what an edit does to which things, for those that come in rows; nothing for others.
func doing(e edit.Edit) (verb string, ids []string) {
	switch e := e.(type) {
	case *edit.SetText:
		return "reworded", []string{e.ID}
	case *edit.MoveItems:
		return "moved", e.IDs
	case *edit.RemoveItems:
		return "removed", e.IDs
	case *edit.SetStyle:
		return "styled", e.IDs
	case *edit.SetKind:
		return "changed the kind of", []string{e.ID}
	case *edit.AddItems:
		for i := range e.Symbols {
			ids = append(ids, e.Symbols[i].ID)
		}
		for i := range e.Connectors {
			ids = append(ids, e.Connectors[i].ID)
		}
		return "added", ids
	case *edit.Batch:
		if len(e.Edits) > 0 {
			return doing(e.Edits[0].Edit)
		}
	}
	return "", nil
}

// called says things by the numbers of the steps among them, and counts the others.
func called(ids []string, numbers map[string]string) string {
	var steps []int
	for _, id := range ids {
		if n, err := strconv.Atoi(numbers[id]); err == nil {
			steps = append(steps, n)
		}
	}
	slices.Sort(steps)
	others := len(ids) - len(steps)
	var words []string
	for i, n := range steps {
		if i == 8 {
			others += len(steps) - i
			break
		}
		words = append(words, strconv.Itoa(n))
	}
	text := ""
	switch len(words) {
	case 0:
		return phrase.Count(others, "thing")
	case 1:
		text = "step " + words[0]
	default:
		text = "steps " + strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
	}
	if others > 0 {
		text += fmt.Sprintf(" and %d more", others)
	}
	return text
}

// ShowVersion shows a state of a map as it was seen then.
func (s *Reviews) ShowVersion(c fiber.Ctx) error {
	v := site.At(c)
	state, err := stateNamed(v, c.Params("state"))
	if err != nil {
		return err
	}
	names, err := s.Names()
	if err != nil {
		return err
	}
	number := min(max(fiber.Query(c, "sheet", 1), 1), len(state.m.Sheets))
	data := &versionPage{Frame: site.Frame{Title: state.m.Title, Place: strings.TrimSuffix(phrase.Sentence(state.title),
		".")}, Base: v.Base, State: state.name, Called: state.title,
		Sheets: state.m.Sheets, Number: number, Sheet: state.m.Sheets[number-1], Version: state.version,
		Changes: v.Right >= 3, Person: v.Who != nil}
	if state.version != nil {
		data.By = phrase.ByName(names, state.version.Author)
	}
	return s.Page(c, "version.html", data)
}

// VersionSheet is what a sheet of a state looked like: as it was kept, or drawn anew where it was not.
func (s *Reviews) VersionSheet(c fiber.Ctx) error {
	state, err := stateNamed(site.At(c), c.Params("state"))
	if err != nil {
		return err
	}
	sheet := state.m.Sheet(c.Query("sheet"))
	if sheet == nil {
		return fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
	}
	if state.version != nil {
		if packed, err := s.House.Versions.Picture(state.version.ID, sheet.ID); err == nil {
			return site.SendPicture(c, packed)
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	packed, err := s.pictureOf(c, state.m, sheet, geometry.Box{})
	if err != nil {
		return err
	}
	err = site.SendPicture(c, packed)
	if state.name == "now" {
		c.Set("Cache-Control", "private, no-store")
	}
	return err
}

// pictureOf draws a part of a sheet, compressed.
func (s *Reviews) pictureOf(c fiber.Ctx, m *model.Map, sheet *model.Sheet, area geometry.Box) ([]byte, error) {
	return site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		d, ok := scene.DrawUntil(m, sheet, scene.Know(m), func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, site.ErrLong
		}
		out, err := svg.Write(d, svg.Options{Area: area})
		if err != nil {
			return nil, err
		}
		return svg.Zipped(out)
	})
}

// ReturnTo gives a window the edit that brings the map back to a state; the window makes it, so that it can be undone
// there.
func (s *Reviews) ReturnTo(c fiber.Ctx) error {
	v := site.At(c)
	state, err := stateNamed(v, c.Params("state"))
	if err != nil {
		return err
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	var raw []byte
	d.View(func(m *model.Map, _ int) {
		raw, err = json.Marshal(edit.Envelope{Edit: edit.ReturnTo(m, state.m, "return to "+state.title)})
	})
	if err != nil {
		return err
	}
	return site.SendFile(c, "application/json", raw, nil)
}

// CopyVersion makes a new map of a state.
func (s *Reviews) CopyVersion(c fiber.Ctx) error {
	state, err := stateNamed(site.At(c), c.Params("state"))
	if err != nil {
		return err
	}
	m := state.m.Clone()
	m.Title = phrase.Clip(m.Title+", "+state.title, model.MaxName)
	return s.shelf.StoreNew(c, m)
}

// sides are the two states that are compared.
func sides(v *site.Visit, c fiber.Ctx) (from, to *moment, err error) {
	if since, _ := v.MayCompare(); !since {
		return nil, nil, fiber.NewError(fiber.StatusForbidden, "By this link the map is read as it is now.")
	}
	if from, err = stateNamed(v, c.Query("from", "visit")); err != nil {
		return nil, nil, err
	}
	to, err = stateNamed(v, c.Query("to", "now"))
	return from, to, err
}

// mark shows on the drawing where something changed.
type mark struct {
	Form, ID   string
	X, Y, W, H template.HTMLAttr
}

// versionChoice is a version that can be compared, with the round that it was kept for.
type versionChoice struct {
	store.Version
	Round int
}

// Words say which one it is.
func (c *versionChoice) Words() string {
	words := c.Title() + ", " + c.Created.Format("2 January 2006")
	if c.Round > 0 {
		words += fmt.Sprintf(" (round %d)", c.Round)
	}
	return words
}

// choices are the versions that whoever may compare any states can choose among.
func (s *Reviews) choices(v *site.Visit) (list []versionChoice, err error) {
	if _, any := v.MayCompare(); !any || v.Chosen.Version != "" {
		return nil, nil
	}
	versions, err := s.House.Versions.Of(v.Map)
	if err != nil {
		return nil, err
	}
	held, err := v.Rounds()
	if err != nil {
		return nil, err
	}
	for _, one := range versions {
		c := versionChoice{Version: one}
		for i := range held {
			if held[i].Version.ID == one.ID {
				c.Round = held[i].Number
			}
		}
		list = append(list, c)
	}
	return list, nil
}

// Changes shows what changed between two states: in words, and on the drawing.
func (s *Reviews) Changes(c fiber.Ctx) error {
	v := site.At(c)
	from, to, err := sides(v, c)
	if err != nil {
		return err
	}
	account := changes.Between(from.m, to.m, from.title, to.title)
	versions, err := s.choices(v)
	if err != nil {
		return err
	}
	var sheets []*sheetChanges
	bySheet := map[string]*sheetChanges{}
	for _, m := range []*model.Map{to.m, from.m} {
		for _, sheet := range m.Sheets {
			if bySheet[sheet.ID] != nil {
				continue
			}
			area := areaOf(sheet.ID, from.m, to.m)
			one := &sheetChanges{ID: sheet.ID, Name: sheet.Name, ViewBox: template.HTMLAttr(fmt.Sprintf(
				`viewBox="%s %s %s %s"`, px(area.X), px(area.Y), px(area.W), px(area.H)))}
			for _, at := range account.Marks(sheet.ID) {
				attr := func(name string, n int) template.HTMLAttr {
					return template.HTMLAttr(name + `="` + px(n) +
						`"`)
				}
				one.Marks = append(one.Marks, mark{at.Form, strconv.Itoa(at.Line), attr("x", at.X), attr("y", at.Y),
					attr("width", at.W), attr("height", at.H)})
			}
			sheets, bySheet[sheet.ID] = append(sheets, one), one
		}
	}
	for i := range account.Lines {
		if one := bySheet[account.Lines[i].Sheet]; one != nil {
			one.N++
		}
	}
	now := c.Query("sheet")
	if bySheet[now] == nil {
		now = sheets[0].ID
		for _, one := range sheets { // the first on which something changed
			if one.N > 0 {
				now = one.ID
				break
			}
		}
	}
	page := &changesPage{Frame: site.Frame{Title: "Changes: " + to.m.Title}, Map: to.m.Title,
		Base: v.Base, Account: account, FromTitle: from.title, ToTitle: to.title, FromName: from.name, ToName: to.name,
		Versions: versions, Sheets: sheets, Sheet: bySheet[now], Since: v.Who != nil || v.Before >= 0,
		First: len(account.Lines), Files: changesFiles}
	if _, any := v.MayCompare(); any && v.Chosen.Version == "" { // the same two states, whoever looks and whenever
		page.Sent = template.URL(fmt.Sprintf("?from=%s&to=%s", from.fixed(), to.fixed()))
	}
	return s.Page(c, "changes.html", page)
}

// fixed names a state so that it stays what it is.
func (m *moment) fixed() string {
	if m.version != nil {
		return m.name
	}
	return "r" + strconv.Itoa(m.revision)
}

func px(n int) string { return string(scene.AppendPx(nil, n)) }

// areaOf is the part of the plane that a sheet takes in two states together.
func areaOf(id string, maps ...*model.Map) (area geometry.Box) {
	for _, m := range maps {
		if sheet := m.Sheet(id); sheet != nil {
			area = area.Union(sheet.Extent())
		}
	}
	return area
}

// ChangesSide is a sheet in one of the two states that are compared, over the part of the plane that both take.
func (s *Reviews) ChangesSide(c fiber.Ctx) error {
	from, to, err := sides(site.At(c), c)
	if err != nil {
		return err
	}
	id, side := c.Query("sheet"), to
	if c.Query("side") == "marked" {
		return s.markedPicture(c, from, to, id)
	}
	if c.Query("side") == "old" {
		side = from
	}
	area, sheet := areaOf(id, from.m, to.m), side.m.Sheet(id)
	if area == (geometry.Box{}) {
		return fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
	}
	m := side.m
	if sheet == nil { // it is not in this state
		m = model.New("", model.Rightwards, "A4", true)
		sheet = m.Sheets[0]
	}
	packed, err := s.pictureOf(c, m, sheet, area)
	if err != nil {
		return err
	}
	err = site.SendPicture(c, packed)
	c.Set("Cache-Control", "private, no-store")
	return err
}

// markedPicture is a sheet with what changed marked, as a file.
func (s *Reviews) markedPicture(c fiber.Ctx, from, to *moment, id string) error {
	out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		d, ok := changes.Between(from.m, to.m, from.title, to.title).Drawing(ctx, id)
		switch {
		case !ok:
			return nil, site.ErrLong
		case d == nil:
			return nil, fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
		}
		return svg.Write(d, svg.Options{})
	})
	if err != nil {
		return err
	}
	site.Attach(c, fmt.Sprintf("Changes from %s to %s.svg", from.title, to.title))
	return site.SendFile(c, "image/svg+xml", out, nil)
}

// ChangesFile gives what changed as a file.
func (s *Reviews) ChangesFile(c fiber.Ctx) error {
	from, to, err := sides(site.At(c), c)
	if err != nil {
		return err
	}
	account := changes.Between(from.m, to.m, from.title, to.title)
	var out []byte
	mediaType, format := "", c.Params("format")
	switch format {
	case "html":
		mediaType = "text/html"
		out, err = site.Made(s.Site, c, account.HTML)
	case "pdf":
		mediaType = "application/pdf"
		out, err = site.Made(s.Site, c, account.PDF)
	case "md":
		mediaType, out = "text/markdown", account.Markdown()
	case "json":
		mediaType = "application/json"
		out, err = account.JSON()
	default:
		return fiber.NewError(fiber.StatusNotFound, "")
	}
	if err != nil {
		return err
	}
	site.Attach(c, fmt.Sprintf("Changes from %s to %s.%s", from.title, to.title, format))
	return site.SendFile(c, mediaType, out, nil)
}

// changesPage is what changes.html shows.
type changesPage struct {
	site.Frame
	Map       string
	Base      string
	Account   *changes.Account
	FromTitle string
	ToTitle   string
	FromName  string
	ToName    string
	// Versions are those that can be chosen; none for readers.
	Versions []versionChoice
	Sheets   []*sheetChanges
	Sheet    *sheetChanges
	Since    bool
	// Sent is the part of the address that says which states these are, to send; empty where it would open for nobody.
	Sent template.URL
	// First is the number of the first line of those that changed on the page alone.
	First int
	Files []changesFile
}

// changesFile is a form in which what changed can be saved.
type changesFile struct{ Ending, Title string }

var changesFiles = []changesFile{{"pdf", "PDF"}, {"html", "Web page"}, {"md", "Markdown"}, {"json", "JSON"}}

// historyPage is what history.html shows.
type historyPage struct {
	site.Frame
	Base     string
	Versions []versionView
	Deeds    []deed
	Query    string
	Person   bool
	Changes  bool
}

// versionPage is what version.html shows.
type versionPage struct {
	site.Frame
	Base    string
	State   string
	Called  string
	Sheets  []*model.Sheet
	Number  int
	Sheet   *model.Sheet
	Version *store.Version
	Changes bool
	Person  bool
	By      string
}

// sheetChanges is a sheet on which something changed, with where.
type sheetChanges struct {
	ID, Name string
	N        int
	Marks    []mark
	ViewBox  template.HTMLAttr
}

// versionView is a version as the history lists it: whose it is, and the sheet whose picture it shows.
type versionView struct {
	store.Version
	By, First string
}
