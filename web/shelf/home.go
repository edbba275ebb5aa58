// Package shelf is the home screen: the maps of the organisation in their folders, and how a new one begins.
package shelf

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/edited"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/intake"
	"plaintracer/exchange/starts"
	"plaintracer/exchange/steptable"
	"plaintracer/exchange/tracerjson"
	"plaintracer/store"
	"plaintracer/web/site"
)

// How many maps stand on a page of the home screen, and in the bin.
const (
	HomePage = 60
	binPage  = 200
)

// entry is a map as the home screen shows it.
type entry struct {
	store.Info
	Right account.Right
	// OwnerName and By are who owns it and who changed it last, Place the folders it stands in.
	OwnerName, By, Place string
	// Review says where the review of it stands, Unseen how many remarks the person who looks has not seen.
	Review string
	Unseen int
	// Hits are the texts in it that were sought, at most hitsShown, and More how many others.
	Hits []store.Hit
	More int
}

// Mine reports whether the person who looks may change, move or share it.
func (e *entry) Mine() bool { return e.Right >= account.Manage }

// Changes reports whether the person who looks may change it.
func (e *entry) Changes() bool { return e.Right >= account.Edit }

const hitsShown = 3

// order is a way to sort maps, with what it is called.
type order struct {
	Name, Title string
	less        func(a, b *entry) int
}

var orders = []order{
	{"changed", "Changed last", func(a, b *entry) int { return b.Changed.Compare(a.Changed) }},
	{"opened", "Opened last", func(a, b *entry) int { return b.Opened.Compare(a.Opened) }},
	{"title", "Title", func(a, b *entry) int { return cmp.Compare(account.Folded(a.Title), account.Folded(b.Title)) }},
	{"owner", "Owner",
		func(a, b *entry) int { return cmp.Compare(account.Folded(a.OwnerName), account.Folded(b.OwnerName)) }},
	{"steps", "Number of steps", func(a, b *entry) int { return cmp.Compare(b.Steps, a.Steps) }},
}

// choice is a selection of maps: what it is called, and which maps it holds.
type choice struct {
	Name, Title, Icon, Empty string
	holds                    func(e *entry, me string) bool
}

// shelves are the selections of maps beside those of folders.
var shelves = []choice{
	{"", "All maps", "layers", "No maps yet. Begin one, or drop a file here.",
		func(*entry, string) bool { return true }},
	{"recent", "Opened last", "rotate-ccw", "The maps that you open stand here.",
		func(e *entry, _ string) bool { return !e.Opened.IsZero() }},
	{"pinned", "Pinned", "pin", "Nothing is pinned. Pin the maps that you want at hand.",
		func(e *entry, _ string) bool { return e.Pinned }},
	{"mine", "Mine", "user", "You own no map yet.", func(e *entry, me string) bool { return e.Owner == me }},
	{"shared", "Shared with me", "users", "Nobody has shared a map with you yet.",
		func(e *entry, me string) bool { return e.Owner != me }},
}

// looking is what somebody wants to see of the maps.
type looking struct {
	Shelf, Folder, Query, Sort, View string
	Page                             int
}

// With is the address of the home screen with one thing changed. It is used by its page.
func (l looking) With(name, value string) template.URL {
	set := map[string]*string{"show": &l.Shelf, "folder": &l.Folder, "q": &l.Query, "sort": &l.Sort, "view": &l.View}
	if name == "show" || name == "folder" {
		l.Shelf, l.Folder, l.Query = "", "", ""
	}
	*set[name] = value
	q := url.Values{}
	for _, k := range []string{"show", "folder", "q", "sort", "view"} {
		if *set[k] != "" {
			q.Set(k, *set[k])
		}
	}
	return template.URL("/?" + q.Encode())
}

// readLooking reads what somebody wants to see; how they arranged it last is kept.
func (s *Shelf) readLooking(c fiber.Ctx) (looking, error) {
	m := site.WhoAsks(c)
	l := looking{c.Query("show"), c.Query("folder"), phrase.Clip(strings.TrimSpace(c.Query("q")), 200), c.Query("sort"),
		c.Query("view"), max(fiber.Query(c, "page", 1), 1)}
	kept, err := s.House.Visits.Arrangement(m.ID)
	if err != nil {
		return l, err
	}
	changed := map[string]string{}
	pick := func(value *string, name string, known func(string) bool) {
		if !known(*value) {
			*value = kept[name]
		} else if kept[name] != *value {
			changed[name] = *value
		}
	}
	pick(&l.Sort, "sort", func(v string) bool {
		return slices.ContainsFunc(orders, func(o order) bool { return o.Name == v })
	})
	pick(&l.View, "view", func(v string) bool { return v == "cards" || v == "list" })
	l.Sort, l.View = cmp.Or(l.Sort, "changed"), cmp.Or(l.View, "cards")
	if len(changed) > 0 && s.House.ReadOnly() == "" {
		err = s.House.Visits.Arrange(m.ID, changed)
	}
	return l, err
}

// visible are the maps that a person may see, with what they may do with each.
func (s *Shelf) visible(m *site.Me, binned bool) ([]entry, *account.Rules, error) {
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return nil, nil, err
	}
	all, err := s.House.List(m.ID, binned)
	if err != nil {
		return nil, nil, err
	}
	names, err := s.Names()
	if err != nil {
		return nil, nil, err
	}
	var list []entry
	for _, info := range all {
		e := entry{Info: info, Right: rules.OnMap(m.ID, info.Map)}
		if info.Damaged && m.Role == account.Owner { // whose it is cannot be read
			e.Right = account.Read
		}
		if e.Right == account.None {
			continue
		}
		e.OwnerName, e.By = names[info.Owner], names[info.Author]
		if strings.HasPrefix(info.Author, "link:") {
			e.By = "somebody by a link"
		}
		list = append(list, e)
	}
	return list, rules, nil
}

// Home is the home screen.
func (s *Shelf) Home(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	l, err := s.readLooking(c)
	if err != nil {
		return err
	}
	list, rules, err := s.visible(m, false)
	if err != nil {
		return err
	}
	if l.Folder != "" && rules.OnFolder(m.ID, l.Folder) == account.None && !s.seenBelow(rules, m.ID, l.Folder) {
		return store.ErrNotFound
	}
	shelf := shelves[0]
	for _, one := range shelves {
		if one.Name == l.Shelf {
			shelf = one
		}
	}
	shown := list[:0:0]
	for _, e := range list {
		if l.Folder == "" && shelf.holds(&e, m.ID) ||
			l.Folder != "" && (e.Folder == l.Folder || l.Query != "" && rules.Within(e.Folder, l.Folder)) {
			shown = append(shown, e)
		}
	}
	if l.Query != "" {
		found, err := s.House.Search.Find(l.Query)
		if err != nil {
			return err
		}
		shown = slices.DeleteFunc(shown, func(e entry) bool { return !found[e.Number] })
	}
	if l.Shelf == "recent" && c.Query("sort") == "" {
		l.Sort = "opened"
	}
	for _, o := range orders {
		if o.Name == l.Sort {
			slices.SortStableFunc(shown, func(a, b entry) int { return o.less(&a, &b) })
		}
	}
	pages, part := paged(shown, l.Page, HomePage, l.With("view", ""))
	if len(part) == 0 && l.Page > 1 {
		return c.Redirect().Status(fiber.StatusSeeOther).To(string(l.With("view", "")))
	}
	if l.Query != "" {
		if err := s.showHits(part, l.Query); err != nil {
			return err
		}
	}
	unseen, err := s.House.Remarks.Unseen(m.ID)
	if err != nil {
		return err
	}
	latest, err := s.House.Rounds.Latest()
	if err != nil {
		return err
	}
	lives, err := s.House.Lives.All()
	if err != nil {
		return err
	}
	for i := range part {
		part[i].Review = rounds.State(latest[part[i].ID], part[i].Revision, lives[part[i].ID])
		if part[i].Right >= account.Remark {
			part[i].Unseen = unseen[part[i].ID].Count
		}
		var names []string
		for _, f := range rules.Way(part[i].Folder) {
			names = append(names, f.Name)
		}
		part[i].Place = strings.Join(names, " / ")
	}
	waiting, err := s.waiting(m, list)
	if err != nil {
		return err
	}
	title := "Maps"
	if len(waiting) > 0 {
		title = fmt.Sprintf("(%d) Maps", len(waiting))
	}
	data := &homePage{Frame: site.Frame{Title: title}, Waiting: waiting, Maps: part, Formats: exchange.Formats,
		ReadOnly: s.House.ReadOnly(), Pages: pages, Look: l, Shelves: shelves, Shelf: shelf, Orders: orders,
		Tree: s.tree(rules, m.ID, l.Folder), All: len(list)}
	if l.Folder != "" {
		folder := rules.Folder(l.Folder)
		data.Way, data.Folder, data.FolderRight = rules.Way(l.Folder), &folder, rules.OnFolder(m.ID, l.Folder)
	}
	return s.Page(c, "home.html", data)
}

// waiting lists what waits for a person, on the maps that they see.
func (s *Shelf) waiting(m *site.Me, list []entry) (out []rounds.Wait, err error) {
	all, err := s.rounds.Waiting(m.ID, m.Name)
	if err != nil {
		return nil, err
	}
	for _, w := range all {
		if i := slices.IndexFunc(list, func(e entry) bool { return e.ID == w.Map }); i >= 0 {
			w.Title = list[i].Title
			out = append(out, w)
		}
	}
	return out, nil
}

// paged cuts a page out of a list, by its number from 1.
func paged(list []entry, number, size int, address template.URL) (pages, []entry) {
	number = min(number, 1<<20)
	from := min((number-1)*size, len(list))
	to := min(from+size, len(list))
	return pages{address, number, (len(list) + size - 1) / size, from + 1, to, len(list)}, list[from:to]
}

// showHits notes where in maps the words of a query stand.
func (s *Shelf) showHits(list []entry, query string) error {
	for i := range list {
		found, err := s.House.Search.Hits(query, list[i].Number, 100)
		if err != nil {
			return err
		}
		for _, h := range found {
			switch {
			case h.Item == "": // its title, which is seen anyway
			case len(list[i].Hits) < hitsShown:
				list[i].Hits = append(list[i].Hits, h)
			default:
				list[i].More++
			}
		}
	}
	return nil
}

// node is a folder in the tree of those that a person sees.
type node struct {
	account.Folder
	Right    account.Right
	Depth    int
	Here     bool
	Open     bool
	Children []node
}

// Indent shows in a list how deep the folder stands.
func (n node) Indent() string { return strings.Repeat("\u2003", n.Depth) }

// tree is the folders that a person sees: their own, and those shared with them.
func (s *Shelf) tree(rules *account.Rules, person, here string) []node {
	open := map[string]bool{}
	for _, f := range rules.Way(here) {
		open[f.ID] = true
	}
	var grow func(parent string, depth int) []node
	grow = func(parent string, depth int) []node {
		var list []node
		for _, id := range rules.Children(parent) {
			n := node{Folder: rules.Folder(id), Right: rules.OnFolder(person, id), Depth: depth, Here: id == here,
				Open: open[id]}
			n.Children = grow(id, depth+1)
			if n.Right > account.None || len(n.Children) > 0 {
				list = append(list, n)
			}
		}
		return list
	}
	return grow("", 0)
}

// seenBelow reports whether a person sees a folder that stands in another one, so that the way to it is shown.
func (s *Shelf) seenBelow(rules *account.Rules, person, folder string) bool {
	for _, id := range rules.Children(folder) {
		if rules.OnFolder(person, id) > account.None || s.seenBelow(rules, person, id) {
			return true
		}
	}
	return false
}

// Bin shows the maps in the bin that a person may bring back.
func (s *Shelf) Bin(c fiber.Ctx) error {
	list, _, err := s.visible(site.WhoAsks(c), true)
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(e entry) bool { return !e.Mine() })
	number := max(fiber.Query(c, "page", 1), 1)
	pages, part := paged(list, number, binPage, "/bin?")
	if len(part) == 0 && number > 1 {
		return c.Redirect().Status(fiber.StatusSeeOther).To(c.Path())
	}
	return s.Page(c, "bin.html", &binnedPage{Frame: site.Frame{Title: "Bin"}, Maps: part, Pages: pages,
		Days: int(store.BinTime.Hours() / 24)})
}

// Ends is when a map in the bin is deleted for good.
func (e *entry) Ends() time.Time { return e.Binned.Add(store.BinTime) }

// pages says which page of a list is shown.
type pages struct {
	Path            template.URL
	Number, Count   int
	First, Last, Of int
}

// At is the address of another page.
func (p pages) At(number int) template.URL {
	return p.Path + template.URL(fmt.Sprintf("&page=%d", number))
}

// Newer and Older are the pages beside it, zero for none.
func (p pages) Newer() int { return p.Number - 1 }

// Older is the page after it.
func (p pages) Older() int {
	if p.Number >= p.Count {
		return 0
	}
	return p.Number + 1
}

// roles reads a list of lanes, one a line; what stands there twice counts once.
func roles(list string) []string {
	var names []string
	for _, line := range strings.FieldsFunc(list, func(r rune) bool { return r == '\n' || r == '\r' || r == ';' }) {
		if name := model.Flat(line); name != "" && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// StoreNew stores a new map in the folder that the form names, and turns to it.
func (s *Shelf) StoreNew(c fiber.Ctx, m *model.Map) error {
	if err := m.Validate(); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "The map was not created. "+phrase.Sentence(err.Error()))
	}
	folder := c.FormValue("folder")
	if err := s.intoFolder(c, folder); err != nil {
		return err
	}
	id, err := s.House.Add(m, site.WhoAsks(c).ID, folder)
	if err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/maps/" + id)
}

// OpenFile makes a map of a file.
func (s *Shelf) OpenFile(c fiber.Ctx) error {
	if upload := c.FormValue("upload"); upload != "" {
		return s.openUpload(c, upload)
	}
	name, data, err := site.FileOf(c)
	if err != nil {
		return err
	}
	if isBundle(name, data) {
		return s.openBundle(c, bytes.NewReader(data), int64(len(data)))
	}
	if steptable.IsTable(name, data) {
		return s.openTable(c, name, data)
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	opened, err := intake.Map(ctx, data)
	if words, ok := gate.Words("it ", err); ok && !errors.Is(err, gate.ErrBusy) {
		return &tracerjson.Fault{Text: words}
	}
	if err != nil {
		return site.OrUnread(err)
	}
	if len(opened.Edited) > 0 {
		switch c.FormValue("texts") {
		case "take":
			edited.Take(opened.Map, opened.Edited)
		case "leave":
		default:
			return s.ask(c, "edited.html", editedPage{opened.Map.Title, opened.Edited})
		}
	}
	return s.StoreNew(c, opened.Map)
}

// openTable makes a map of a table of steps, laid out.
func (s *Shelf) openTable(c fiber.Ctx, name string, data []byte) error {
	kept, err := s.House.Visits.Arrangement(site.WhoAsks(c).ID)
	if err != nil {
		return err
	}
	direction := model.Direction(cmp.Or(kept["direction"], string(model.Rightwards)))
	asked, said := askedOf(c)
	asked.Title = phrase.Clip(strings.TrimSuffix(name, path.Ext(name)), model.MaxName)
	asked.Direction = direction
	ctx, stop := site.WhileThere(c)
	defer stop()
	read, err := intake.Table(ctx, name, data, asked)
	if err != nil {
		return site.OrUnread(err)
	}
	if read.Map == nil && said == "" && len(read.Plan.Columns) < 2 { // there is nothing to be chosen
		return fiber.NewError(fiber.StatusBadRequest, read.Plan.Refusal)
	}
	if said != "take" && (said == "look" || !read.Known || read.Doubt != "") {
		return s.ask(c, "listed.html", listedOf(name, read))
	}
	if read.Map == nil {
		return fiber.NewError(fiber.StatusBadRequest, read.Plan.Refusal)
	}
	m, err := site.Made(s.Site, c, func(ctx context.Context) (*model.Map, error) {
		return read.Map, starts.OnPaper(read.Map, starts.Unless(func() bool { return ctx.Err() != nil }))
	})
	if err != nil {
		return err
	}
	return s.StoreNew(c, m)
}

// binnedPage is what bin.html shows.
type binnedPage struct {
	site.Frame
	Maps  []entry
	Pages pages
	Days  int
}

// homePage is what home.html shows.
type homePage struct {
	site.Frame
	Waiting     []rounds.Wait
	Maps        []entry
	Formats     []exchange.Format
	ReadOnly    string
	Pages       pages
	Look        looking
	Shelves     []choice
	Shelf       choice
	Orders      []order
	Tree        []node
	All         int
	Way         []account.Folder
	Folder      *account.Folder
	FolderRight account.Right
}
