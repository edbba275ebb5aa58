package web

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

	"plaintracer/core/compare"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/exchange/changes"
	"plaintracer/exchange/svg"
	"plaintracer/store"
)

// A state of a map is named in addresses: "now", the id of a version, "r12" for a revision, or "visit" for what it was when
// the person was there before.

// moment is a state of a map.
type moment struct {
	name, title string
	m           *model.Map
	revision    int
	version     *store.Version
}

var errNoState = fiber.ErrNotFound

// stateNamed returns a state of the map of a visit by its name. By a link that shows a state that stays as it is there is that
// one alone, by its id and as what is so now.
func (v *visit) stateNamed(name string) (*moment, error) {
	if fixed := v.chosen.Version; fixed != "" {
		if name != "" && name != "now" && name != "visit" && name != fixed {
			return nil, errNoState
		}
		kept, m, err := v.s.house.Versions.Get(fixed)
		if err != nil {
			return nil, err
		}
		return &moment{fixed, "as it was on " + kept.Created.Format("2 January 2006"), m, kept.Revision, &kept}, nil
	}
	d, err := v.document()
	if err != nil {
		return nil, err
	}
	revision := -1
	switch digits, isRevision := strings.CutPrefix(name, "r"); {
	case name == "" || name == "now" || name == "visit" && v.who == nil:
		m, r := d.Snapshot()
		return &moment{"now", "now", m, r, nil}, nil
	case name == "visit" && v.who != nil:
		if revision, err = v.s.house.Visits.Since(v.who.ID, v.id); err != nil {
			return nil, err
		}
		revision = max(revision, 0) // since the beginning, for who was never there before
	case isRevision && len(digits) < 10:
		if n, err := strconv.Atoi(digits); err == nil {
			revision = n
		}
	}
	if revision >= 0 {
		m, err := d.At(revision)
		if err != nil {
			return nil, errNoState
		}
		title := fmt.Sprint("revision ", revision)
		if name == "visit" {
			title = "your last visit"
		}
		return &moment{"r" + strconv.Itoa(revision), title, m, revision, nil}, nil
	}
	kept, m, err := v.s.house.Versions.Get(name)
	if errors.Is(err, store.ErrNotFound) || err == nil && kept.Map != v.id {
		return nil, errNoState
	}
	if err != nil {
		return nil, err
	}
	title := kept.Title()
	return &moment{name, strings.ToLower(title[:1]) + title[1:], m, kept.Revision, &kept}, nil
}

// drawSheets draws all sheets of a map, to be kept with a version.
func (s *Server) drawSheets(ctx context.Context) func(m *model.Map) ([]store.VersionSheet, error) {
	return func(m *model.Map) (list []store.VersionSheet, err error) {
		facts := scene.Know(m)
		for _, sheet := range m.Sheets {
			d, ok := scene.DrawUntil(m, sheet, facts, func() bool { return ctx.Err() != nil })
			if !ok {
				return nil, errLong
			}
			out, err := svg.Write(d, svg.Options{})
			if err != nil {
				return nil, err
			}
			packed, err := zipped(out)
			if err != nil {
				return nil, err
			}
			list = append(list, store.VersionSheet{Sheet: sheet.ID, Name: sheet.Name, Picture: packed})
		}
		return list, nil
	}
}

// keepAs keeps the map of a visit as it is now, with its pictures.
func (s *Server) keepAs(c fiber.Ctx, k store.Keep) (store.Version, error) {
	v := at(c)
	d, err := v.document()
	if err != nil {
		return store.Version{}, err
	}
	k.Author = v.author()
	return made(s, c, func(ctx context.Context) (store.Version, error) {
		k.Draw = s.drawSheets(ctx)
		return d.KeepAs(k)
	})
}

// keepVersion keeps the map as a version with a name and a word: by hand, or quietly before something large.
func (s *Server) keepVersion(c fiber.Ctx) error {
	name, word := flat(c.FormValue("name")), strings.TrimSpace(c.FormValue("word"))
	if len([]rune(name)) > model.MaxName || len([]rune(word)) > model.MaxText {
		return &unfit{fmt.Sprintf("the name of a version has at most %d characters, its word %d", model.MaxName, model.MaxText)}
	}
	reason := store.ByHand
	if c.FormValue("before") != "" {
		reason, name = store.Before, "before “"+clip(flat(c.FormValue("before")), 60)+"”"
	}
	if _, err := s.keepAs(c, store.Keep{Name: name, Word: word, Reason: reason}); err != nil {
		return err
	}
	return s.history(c)
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

// history shows the versions of a map, and who did what when.
func (s *Server) history(c fiber.Ctx) error {
	v := at(c)
	versions, err := s.house.Versions.Of(v.id)
	if err != nil {
		return err
	}
	d, err := v.document()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	entries, err := d.Deeds(revision+1, mostDeeds)
	if err != nil {
		return err
	}
	names, err := s.names()
	if err != nil {
		return err
	}
	deeds := told(entries, m, names)
	if q := strings.ToLower(flat(c.Query("q"))); q != "" {
		deeds = slices.DeleteFunc(deeds, func(d deed) bool { return !strings.Contains(strings.ToLower(d.Words+" "+d.Who), q) })
	}
	type versionView struct {
		store.Version
		By, First string
	}
	var list []versionView
	for _, one := range versions {
		sheets, err := s.house.Versions.Sheets(one.ID)
		if err != nil {
			return err
		}
		view := versionView{one, byName(names, one.Author), m.Sheets[0].ID}
		if len(sheets) > 0 {
			view.First = sheets[0].Sheet
		}
		list = append(list, view)
	}
	return s.page(c, "history.html", map[string]any{"Base": v.base, "Versions": list, "Deeds": deeds, "Query": c.Query("q"), "Person": v.who != nil, "Changes": v.right >= 3})
}

// byName is what the author of something is called.
func byName(names map[string]string, author string) string {
	switch {
	case names[author] != "":
		return names[author]
	case strings.HasPrefix(author, "link:"):
		return "somebody by a link"
	}
	return "somebody"
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
		if n := len(runs); n > 0 && verb != "" && runs[n-1].verb == verb && runs[n-1].Author == e.Author && runs[n-1].At.Sub(e.At) < 10*time.Minute {
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
		list = append(list, deed{r.At, byName(names, r.Author), words, r.Revision})
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
		return count(others, "thing")
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

// showVersion shows a state of a map as it was seen then.
func (s *Server) showVersion(c fiber.Ctx) error {
	v := at(c)
	state, err := v.stateNamed(c.Params("state"))
	if err != nil {
		return err
	}
	names, err := s.names()
	if err != nil {
		return err
	}
	number := min(max(fiber.Query(c, "sheet", 1), 1), len(state.m.Sheets))
	data := map[string]any{"Title": state.m.Title, "Base": v.base, "State": state.name, "Called": state.title, "Sheets": state.m.Sheets, "Number": number, "Sheet": state.m.Sheets[number-1],
		"Version": state.version, "Changes": v.right >= 3, "Person": v.who != nil}
	if state.version != nil {
		data["By"] = byName(names, state.version.Author)
	}
	return s.page(c, "version.html", data)
}

// versionSheet is what a sheet of a state looked like: as it was kept, or drawn anew where it was not.
func (s *Server) versionSheet(c fiber.Ctx) error {
	state, err := at(c).stateNamed(c.Params("state"))
	if err != nil {
		return err
	}
	sheet := state.m.Sheet(c.Query("sheet"))
	if sheet == nil {
		return fiber.NewError(fiber.StatusNotFound, "There is no such sheet.")
	}
	if state.version != nil {
		if packed, err := s.house.Versions.Picture(state.version.ID, sheet.ID); err == nil {
			return sendPicture(c, packed)
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	packed, err := s.pictureOf(c, state.m, sheet, geometry.Box{})
	if err != nil {
		return err
	}
	err = sendPicture(c, packed)
	if state.name == "now" {
		c.Set("Cache-Control", "private, no-store")
	}
	return err
}

// pictureOf draws a part of a sheet, compressed.
func (s *Server) pictureOf(c fiber.Ctx, m *model.Map, sheet *model.Sheet, area geometry.Box) ([]byte, error) {
	return made(s, c, func(ctx context.Context) ([]byte, error) {
		d, ok := scene.DrawUntil(m, sheet, scene.Know(m), func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, errLong
		}
		out, err := svg.Write(d, svg.Options{Area: area})
		if err != nil {
			return nil, err
		}
		return zipped(out)
	})
}

// returnTo gives a window the edit that brings the map back to a state; the window makes it, so that it can be undone there.
func (s *Server) returnTo(c fiber.Ctx) error {
	v := at(c)
	state, err := v.stateNamed(c.Params("state"))
	if err != nil {
		return err
	}
	d, err := v.document()
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
	return sendFile(c, "application/json", raw, nil)
}

// copyVersion makes a new map of a state.
func (s *Server) copyVersion(c fiber.Ctx) error {
	state, err := at(c).stateNamed(c.Params("state"))
	if err != nil {
		return err
	}
	m := state.m.Clone()
	m.Title = clip(m.Title+", "+state.title, model.MaxName)
	return s.storeNew(c, m)
}

// sides are the two states that are compared.
func (v *visit) sides(c fiber.Ctx) (from, to *moment, err error) {
	if from, err = v.stateNamed(c.Query("from", "visit")); err != nil {
		return nil, nil, err
	}
	to, err = v.stateNamed(c.Query("to", "now"))
	return from, to, err
}

// mark shows on the drawing where something changed.
type mark struct {
	Form, ID   string
	X, Y, W, H template.HTMLAttr
}

// changes shows what changed between two states: in words, and on the drawing.
func (s *Server) changes(c fiber.Ctx) error {
	v := at(c)
	from, to, err := v.sides(c)
	if err != nil {
		return err
	}
	account := changes.Between(from.m, to.m, from.title, to.title)
	var versions []store.Version
	if v.chosen.Version == "" {
		if versions, err = s.house.Versions.Of(v.id); err != nil {
			return err
		}
	}
	type sheetChanges struct {
		ID, Name string
		N        int
		Marks    []mark
		ViewBox  template.HTMLAttr
	}
	var sheets []*sheetChanges
	bySheet := map[string]*sheetChanges{}
	for _, m := range []*model.Map{to.m, from.m} {
		for _, sheet := range m.Sheets {
			if bySheet[sheet.ID] == nil {
				area := areaOf(sheet.ID, from.m, to.m)
				one := &sheetChanges{ID: sheet.ID, Name: sheet.Name, ViewBox: template.HTMLAttr(fmt.Sprintf(`viewBox="%s %s %s %s"`, px(area.X), px(area.Y), px(area.W), px(area.H)))}
				sheets, bySheet[sheet.ID] = append(sheets, one), one
			}
		}
	}
	for i := range account.Lines {
		l := &account.Lines[i]
		one := bySheet[l.Sheet]
		if one == nil {
			continue
		}
		one.N++
		side := to.m
		if l.Kind == compare.Removed {
			side = from.m
		}
		if box, ok := boxOf(side.Sheet(l.Sheet), l.Thing.ID); ok {
			box = box.Grown(6 * geometry.Px)
			attr := func(name string, n int) template.HTMLAttr { return template.HTMLAttr(name + `="` + px(n) + `"`) }
			one.Marks = append(one.Marks, mark{l.Form(), strconv.Itoa(i), attr("x", box.X), attr("y", box.Y), attr("width", box.W), attr("height", box.H)})
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
	return s.page(c, "changes.html", map[string]any{"Title": "Changes: " + to.m.Title, "Map": to.m.Title, "Base": v.base, "Account": account, "FromTitle": from.title, "ToTitle": to.title, "FromName": from.name, "ToName": to.name,
		"Versions": versions, "Sheets": sheets, "Sheet": bySheet[now], "Since": v.who != nil})
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

// boxOf is where a thing stands on a sheet.
func boxOf(s *model.Sheet, id string) (geometry.Box, bool) {
	if s == nil {
		return geometry.Box{}, false
	}
	if sym := s.Symbol(id); sym != nil {
		return sym.Box, true
	}
	for _, p := range s.Pools {
		if p.ID == id {
			return p.Box(), true
		}
		if i := p.LaneIndex(id); i >= 0 {
			return p.LaneBox(i), true
		}
	}
	if c := s.Connector(id); c != nil {
		from, to := s.Symbol(c.From.Symbol), s.Symbol(c.To.Symbol)
		if from != nil && to != nil {
			a, b := from.Centre(), to.Centre()
			return geometry.Box{X: min(a.X, b.X), Y: min(a.Y, b.Y), W: max(a.X, b.X) - min(a.X, b.X), H: max(a.Y, b.Y) - min(a.Y, b.Y)}, true
		}
	}
	return geometry.Box{}, false
}

// changesSide is a sheet in one of the two states that are compared, over the part of the plane that both take.
func (s *Server) changesSide(c fiber.Ctx) error {
	from, to, err := at(c).sides(c)
	if err != nil {
		return err
	}
	id, side := c.Query("sheet"), to
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
	err = sendPicture(c, packed)
	c.Set("Cache-Control", "private, no-store")
	return err
}

// changesFile gives what changed as a file.
func (s *Server) changesFile(c fiber.Ctx) error {
	from, to, err := at(c).sides(c)
	if err != nil {
		return err
	}
	account := changes.Between(from.m, to.m, from.title, to.title)
	var out []byte
	mediaType, format := "", c.Params("format")
	switch format {
	case "html":
		mediaType = "text/html"
		out, err = account.HTML()
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
	attach(c, fmt.Sprintf("Changes from %s to %s.%s", from.title, to.title, format))
	return sendFile(c, mediaType, out, nil)
}
