package web

import (
	"cmp"
	"html/template"
	"log"
	"time"

	"github.com/fasthttp/websocket"
	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/core/trace"
	"plaintracer/store"
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
}

// reference says where a reference leads.
type reference struct{ ID, Sheet, Partner, Name string }

func viewSheet(m *model.Map, s *model.Sheet, d *scene.Drawing) sheetView {
	size := func(n int) string { return string(scene.AppendPx(nil, n)) }
	v := sheetView{
		ID: s.ID, Name: s.Name, Faces: facesOf(m),
		ViewBox: template.HTMLAttr(`viewBox="` + size(d.Extent.X) + " " + size(d.Extent.Y) + " " + size(d.Extent.W) + " " + size(d.Extent.H) + `"`),
		Width:   template.HTMLAttr(`width="` + size(d.Extent.W) + `"`),
		Height:  template.HTMLAttr(`height="` + size(d.Extent.H) + `"`),
	}
	page := geometry.Polygon(d.Extent.Corner(), geometry.Point{X: d.Extent.Right(), Y: d.Extent.Y},
		geometry.Point{X: d.Extent.Right(), Y: d.Extent.Bottom()}, geometry.Point{X: d.Extent.X, Y: d.Extent.Bottom()})
	buf := append([]byte(`<path class="page" fill="#ffffff" d="`), scene.AppendPath(nil, page)...)
	buf = append(buf, `"/>`...)
	buf = d.AppendSVG(buf)
	for i := range d.Nodes { // shown where a case goes on on the line of another connector
		if n := &d.Nodes[i]; n.Rest != nil {
			buf = append(scene.AppendPath(append(append(append(buf, `<path class="rest" id="r-`...), n.ID...), `" d="`...), n.Rest), `"/>`...)
		}
	}
	v.Nodes = template.HTML(buf)
	for _, sym := range s.Symbols {
		if where, partner := m.Partner(sym); partner != nil {
			v.References = append(v.References, reference{sym.ID, where.ID, partner.ID, where.Name})
		}
	}
	return v
}

// open shows a map: to change it where one may, or else to read it.
func (s *Server) open(c fiber.Ctx) error {
	v := at(c)
	if v.link != "" {
		if err := s.store.CountUse(v.link); err != nil {
			log.Printf("counting the use of a link: %v", err)
		}
	} else if err := s.store.Opened(v.who.ID, v.id); err != nil {
		log.Printf("noting who opened a map: %v", err)
	}
	if v.right >= account.Edit {
		return s.editor(c)
	}
	return s.readPage(c, "read.html", "")
}

// readSheet is one sheet of the reader's page.
func (s *Server) readSheet(c fiber.Ctx) error { return s.readPage(c, "sheet", c.Params("sheet")) }

// readPage shows a sheet by its id or that of something on it, or the first if there is none of that id.
func (s *Server) readPage(c fiber.Ctx, view, id string) error {
	v := at(c)
	doc, err := v.shown()
	if err != nil {
		return err
	}
	ctx, stop := whileThere(c)
	defer stop()
	d, err := s.drawings.of(ctx, doc, func(m *model.Map) *model.Sheet {
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
	if v.right >= account.Remark {
		if asked, err = s.isAsked(v); err != nil {
			return err
		}
	}
	return s.page(c, view, map[string]any{"Asked": asked, "Title": d.m.Title, "Base": v.base, "Sheets": d.m.Sheets, "Sheet": viewSheet(d.m, d.sheet, d.drawing),
		"Download": v.link == "" || v.chosen.Download, "House": v.link == "", "As": asOf(doc), "Remarks": v.right >= account.Remark})
}

// trace says, as JSON, where a case is that is traced, by the id of a symbol, and what ways lead on; without one, where it begins.
// The page keeps the way it has come.
func (s *Server) trace(c fiber.Ctx) error {
	doc, err := at(c).shown()
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
		place = trace.At(g, numbers, cmp.Or(c.Query("at"), trace.Begin(g)))
	})
	if place == nil && c.Query("at") == "" {
		return fiber.NewError(fiber.StatusNotFound, "There is nothing to trace yet.")
	}
	if place == nil {
		return fiber.NewError(fiber.StatusNotFound, "The step is not there any more. Begin the trace again.")
	}
	return c.JSON(place)
}

// asOf is when the version was kept that is shown; zero for the latest state.
func asOf(shown source) time.Time {
	if f, ok := shown.(*fixed); ok {
		return f.version.Created
	}
	return time.Time{}
}

// readSocket tells a reader that the map has changed. Changes that come close
// together are told once.
func (s *Server) readSocket(c fiber.Ctx) error {
	v := at(c)
	var d *store.Document // none for a state that stays as it is
	if v.chosen.Version == "" {
		var err error
		if d, err = v.document(); err != nil {
			return err
		}
	}
	return s.upgrade(c, func(conn *websocket.Conn) {
		news := make(chan struct{}, 1)
		if d != nil {
			var now int
			d.View(func(_ *model.Map, revision int) { now = revision })
			stop, err := d.Listen(now, "", func(store.Committed) {
				select {
				case news <- struct{}{}:
				default:
				}
			}, nil)
			if err != nil {
				log.Printf("map %s: following it: %v", d.ID, err)
				conn.Close()
				return
			}
			defer stop()
		}
		serve(conn, v, account.Read, func(p *peer) {
			defer s.watch(v, p)()
			s.joined(v.id, p)
			defer s.hub.leave(v.id, p)
			conn.SetReadLimit(4096)
			p.outlast()
		}, func(p *peer) { tellReader(p, news) })
	})
}

// tellReader tells a reader of changes, at most five times a second.
func tellReader(p *peer, news <-chan struct{}) {
	for {
		select {
		case <-news:
			p.send(changed{})
		case <-p.ended:
			return
		}
		select {
		case <-time.After(200 * time.Millisecond):
		case <-p.ended:
			return
		}
	}
}
