package desk

import (
	"cmp"
	"encoding/json"
	"html/template"
	"log"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/outline"
	"plaintracer/core/scene"
	"plaintracer/core/trace"
	"plaintracer/store"
	"plaintracer/web/site"
)

// sheetView is a sheet as the reader's page draws it.
type sheetView struct {
	ID, Name   string
	Width      template.HTMLAttr
	Height     template.HTMLAttr
	ViewBox    template.HTMLAttr
	Nodes      template.HTML
	Faces      string
	References []reference
	// Way are the steps through which one comes to the sheet, where it is a detail.
	Way []outline.Stage
	// Stops are those of the map, as JSON.
	Stops string
	// Words is the sheet in words, in the order in which it is read.
	Words []outline.Step
}

// reference says where a reference leads, or into which sheet a step opens: that has no partner.
type reference struct{ ID, Sheet, Partner string }

// ViewSheet is a sheet as a reader sees it.
func ViewSheet(m *model.Map, s *model.Sheet, d *scene.Drawing) sheetView {
	size := func(n int) string { return string(scene.AppendPx(nil, n)) }
	v := sheetView{
		ID: s.ID, Name: s.Name, Faces: facesOf(m),
		ViewBox: template.HTMLAttr(`viewBox="` + size(d.Extent.X) + " " + size(d.Extent.Y) + " " + size(d.Extent.W) +
			" " + size(d.Extent.H) + `"`),
		Width:  template.HTMLAttr(`width="` + size(d.Extent.W) + `"`),
		Height: template.HTMLAttr(`height="` + size(d.Extent.H) + `"`),
	}
	buf := append([]byte(`<path class="page" fill="#ffffff" d="`), scene.AppendPath(nil, d.Extent.Outline())...)
	buf = append(buf, `"/>`...)
	buf = d.AppendSVG(buf)
	for i := range d.Nodes { // shown where a case goes on on the line of another connector
		if n := &d.Nodes[i]; n.Rest != nil {
			buf = append(scene.AppendPath(append(append(append(buf, `<path class="rest" id="r-`...), n.ID...),
				`" d="`...), n.Rest), `"/>`...)
		}
	}
	v.Nodes = template.HTML(buf)
	for _, sym := range s.Symbols {
		if where, partner := m.Partner(sym); partner != nil {
			v.References = append(v.References, reference{sym.ID, where.ID, partner.ID})
		} else if to := m.DetailOf(sym); to != nil {
			v.References = append(v.References, reference{ID: sym.ID, Sheet: to.ID})
		}
	}
	v.Way = outline.Way(m, s, d.Facts.Numbers)
	v.Words = outline.Of(m, flow.New(m), s)
	if stops := outline.Stops(m); len(stops) > 0 {
		if raw, err := json.Marshal(stops); err == nil {
			v.Stops = string(raw)
		}
	}
	return v
}

// Show shows a map over the whole window, for a meeting.
func (s *Desk) Show(c fiber.Ctx) error { return s.readPage(c, "read.html", "") }

// Open shows a map: to change it where one may, or else to read it.
func (s *Desk) Open(c fiber.Ctx) error {
	v := site.At(c)
	if v.Link != "" {
		if err := s.House.Links.CountUse(v.Link); err != nil {
			log.Printf("counting the use of a link: %v", err)
		}
	} else if err := s.House.Visits.Opened(v.Who.ID, v.Map); err != nil {
		log.Printf("noting who opened a map: %v", err)
	}
	if v.Right >= account.Edit && !c.RequestCtx().QueryArgs().Has("reading") {
		return s.editor(c)
	}
	return s.readPage(c, "read.html", "")
}

// ReadSheet is one sheet of the reader's page.
func (s *Desk) ReadSheet(c fiber.Ctx) error { return s.readPage(c, "sheet", c.Params("sheet")) }

// readPage shows a sheet by its id or that of something on it, or the first if there is none of that id.
func (s *Desk) readPage(c fiber.Ctx, view, id string) error {
	v := site.At(c)
	doc, err := v.Shown()
	if err != nil {
		return err
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	d, err := s.Drawings.Of(ctx, doc, func(m *model.Map) *model.Sheet {
		if sheet := m.Sheet(id); sheet != nil {
			return sheet
		}
		for _, sheet := range m.Sheets { // or that on which something of that id stands
			if sheet.Symbol(id) != nil || sheet.Connector(id) != nil {
				return sheet
			}
		}
		return m.Sheets[0]
	})
	if err != nil {
		return err
	}
	asked := false
	if v.Right >= account.Remark {
		if asked, err = s.reviews.IsAsked(v); err != nil {
			return err
		}
	}
	standing, err := s.reviews.Standing(v)
	if err != nil {
		return err
	}
	since, _ := v.MayCompare()
	before, now := v.Before, 0
	doc.View(func(_ *model.Map, revision int) { now = revision })
	switch {
	case !since:
	case v.Who == nil && view == "read.html":
		v.Looks(c, now)
		before = v.Before
	case v.Who != nil:
		if before, err = s.House.Visits.Since(v.Who.ID, v.Map); err != nil {
			return err
		}
	}
	return s.Page(c, view, &readPage{Compares: since && (before >= 0 || v.Right >= account.Remark), Changed: since &&
		before >= 0 && before < now,
		Standing: standing, Called: s.Kept(c, site.CalledCookie), Asked: asked, Showing: strings.HasSuffix(c.Path(),
			"/show"),
		Frame: site.Frame{Title: d.M.Title}, Base: v.Base,
		Sheets: d.M.Sheets, Sheet: ViewSheet(d.M, d.Sheet, d.Drawing), Download: v.Link == "" || v.Chosen.Download,
		House: v.Link == "", As: site.AsOf(doc), Remarks: v.Right >= account.Remark,
		Edits: v.Right >= account.Edit && view == "read.html" && !strings.HasSuffix(c.Path(), "/show")})
}

// maxWay is how many places of a way are added up.
const maxWay = 2000

// Trace says, as JSON, where a case is that is traced, by the id of a symbol, and what ways lead on; without one, where
// it begins. The page keeps the way it has come, and tells it with commas between the ids.
func (s *Desk) Trace(c fiber.Ctx) error {
	doc, err := site.At(c).Shown()
	if err != nil {
		return err
	}
	var place *trace.Place
	doc.View(func(m *model.Map, _ int) {
		g := flow.New(m)
		var numbers map[string]string
		if m.Numbers {
			numbers = numbering.Labels(g)
		}
		id := cmp.Or(c.Query("at"), trace.Begin(g))
		if place = trace.At(g, numbers, id); place != nil {
			way := strings.Split(c.Query("way"), ",")
			place.Along(g, append(way[:min(len(way), maxWay)], id))
		}
	})
	if place == nil && c.Query("at") == "" {
		return fiber.NewError(fiber.StatusNotFound, "There is nothing to trace yet.")
	}
	if place == nil {
		return fiber.NewError(fiber.StatusNotFound, "The step is not there any more. Begin the trace again.")
	}
	said, err := s.saidOn(site.At(c), place.Symbol)
	if err != nil {
		return err
	}
	return c.JSON(tracedPlace{place, said})
}

// tracedPlace is where a case is, with the open remarks on it, by whom and in what words.
type tracedPlace struct {
	*trace.Place
	Said []trace.Fact `json:"said,omitempty"`
}

// The most remarks that are shown with a step, and of each the most characters.
const (
	saidMost  = 3
	saidChars = 200
)

// saidOn are the latest open remarks on something, for those who may remark.
func (s *Desk) saidOn(v *site.Visit, id string) (out []trace.Fact, err error) {
	if v.Right < account.Remark || v.Chosen.Version != "" {
		return nil, nil
	}
	list, err := s.House.Remarks.Outlines(v.Map)
	if err != nil {
		return nil, err
	}
	var open []*store.Remark
	for i := range slices.Backward(list) {
		if r := &list[i]; r.Anchor.Item == id && !r.Deleted && r.Settled.IsZero() && len(open) < saidMost {
			open = append(open, r)
		}
	}
	if err := s.House.Remarks.FillIn(open); err != nil {
		return nil, err
	}
	for _, r := range open {
		out = append(out, trace.Fact{Name: r.Name, Value: phrase.Clip(model.Flat(r.Text), saidChars)})
	}
	return out, nil
}

// readPage is what read.html shows.
type readPage struct {
	site.Frame
	// Compares says that the visitor can see what changed, Changed that something did since they looked last.
	Compares, Changed bool
	Asked             bool
	// Standing is what readers have to know: that what they see was withdrawn or replaced.
	Standing string
	// Called is what a visitor by a link calls themselves.
	Called string
	// Showing says that it opens over the whole window, for a meeting.
	Showing  bool
	Base     string
	Sheets   []*model.Sheet
	Sheet    sheetView
	Download bool
	House    bool
	As       time.Time
	Remarks  bool
	// Edits says that the visitor may edit the map instead.
	Edits bool
}
