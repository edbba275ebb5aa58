package web

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/exchange"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/tracerjson"
)

// How many maps stand on a page of the home screen, and in the bin.
const (
	homePage = 60
	binPage  = 200
)

func (s *Server) home(c fiber.Ctx) error { return s.list(c, "home.html", "Maps", false, homePage) }

func (s *Server) bin(c fiber.Ctx) error { return s.list(c, "bin.html", "Bin", true, binPage) }

// list shows a page of the maps: ?page=2, from 1.
func (s *Server) list(c fiber.Ctx, view, title string, binned bool, size int) error {
	number := max(fiber.Query(c, "page", 1), 1)
	if number > 1<<20 {
		return fiber.ErrNotFound
	}
	maps, all, err := s.store.List(binned, (number-1)*size, size)
	if err != nil {
		return err
	}
	if len(maps) == 0 && number > 1 {
		return c.Redirect().Status(fiber.StatusSeeOther).To(c.Path())
	}
	return s.page(c, view, map[string]any{"Title": title, "Maps": maps, "Papers": diagram.Papers, "Formats": exchange.Formats, "ReadOnly": s.store.ReadOnly(),
		"Pages": pages{c.Path(), number, (all + size - 1) / size, (number-1)*size + 1, (number-1)*size + len(maps), all}})
}

// pages says which page of a list is shown.
type pages struct {
	Path            string
	Number, Count   int
	First, Last, Of int
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

func (s *Server) create(c fiber.Ctx) error {
	title := strings.TrimSpace(c.FormValue("title"))
	if title == "" {
		title = "Untitled map"
	}
	direction := diagram.Direction(c.FormValue("direction", string(diagram.Rightwards)))
	upright := "across"
	if direction == diagram.Downwards {
		upright = "upright"
	}
	m := diagram.New(title, direction, c.FormValue("paper", "A4"), c.FormValue("orientation", upright) != "upright")
	if c.FormValue("kind") == "swimlanes" {
		page := m.Sheets[0].Page()
		pool := &diagram.Pool{ID: "pool-1", Title: title, X: 40 * geometry.Px, Y: 40 * geometry.Px, Down: m.Direction == diagram.Downwards}
		pool.W = page.Turned(pool.Down).W - 80*geometry.Px
		names := roles(c.FormValue("roles"))
		if len(names) == 0 {
			names = diagram.FirstLanes
		}
		for i, name := range names {
			pool.Lanes = append(pool.Lanes, diagram.Lane{ID: fmt.Sprintf("lane-%d", i+1), Name: name, H: pool.LaneStart()})
		}
		m.Sheets[0].Pools = append(m.Sheets[0].Pools, pool)
	}
	return s.storeNew(c, m)
}

// roles reads a list of lanes, one a line; what stands there twice counts once.
func roles(list string) []string {
	var names []string
	for _, line := range strings.FieldsFunc(list, func(r rune) bool { return r == '\n' || r == '\r' || r == ';' }) {
		if name := flat(line); name != "" && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// storeNew stores a new map and turns to it.
func (s *Server) storeNew(c fiber.Ctx, m *diagram.Map) error {
	if err := m.Validate(); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "The map was not created. "+sentence(err.Error()))
	}
	id, err := s.store.Create(m)
	if err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/maps/" + id)
}

func (s *Server) openFile(c fiber.Ctx) error {
	h, err := c.FormFile("file")
	if err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "Choose a file to open first.")
	}
	f, err := h.Open()
	if err != nil {
		return err
	}
	defer f.Close()
	data, err := io.ReadAll(f)
	if err != nil {
		return err
	}
	if data, err = carrier.Inside(data); err != nil {
		return &exchange.Wrong{Text: err.Error()}
	}
	m, err := tracerjson.Read(data)
	if err != nil {
		return err
	}
	if err := vetMap(m); err != nil {
		return &tracerjson.Fault{Text: err.Error()}
	}
	return s.storeNew(c, m)
}

func (s *Server) rename(c fiber.Ctx) error {
	d, err := at(c).document()
	if err != nil {
		return err
	}
	title := strings.TrimSpace(c.FormValue("title"))
	if title == "" {
		return fiber.NewError(fiber.StatusBadRequest, "A map needs a title.")
	}
	window, _ := d.NewWindow()
	if _, err := d.Apply(window, 1, &diagram.SetHead{Title: &title}); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

func (s *Server) copy(c fiber.Ctx) error {
	d, err := at(c).document()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	m.Title = clip("Copy of "+m.Title, diagram.MaxName)
	if _, err := s.store.Create(m); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

func clip(text string, n int) string {
	if r := []rune(text); len(r) > n {
		return string(r[:n])
	}
	return text
}

func (s *Server) delete(c fiber.Ctx) error {
	if err := s.store.Bin(at(c).id); err != nil {
		return err
	}
	s.hub.end(at(c).id, ended{Why: "This map was moved to the bin."}, func(*peer) bool { return true })
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

func (s *Server) restore(c fiber.Ctx) error {
	if err := s.store.Restore(at(c).id); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/")
}

// drawn returns the drawing of a sheet of a map as it is now, by the sheet's number from 1.
func (s *Server) drawn(ctx context.Context, c fiber.Ctx, number int) (*drawn, error) {
	d, err := at(c).document()
	if err != nil {
		return nil, err
	}
	return s.drawings.of(ctx, d, func(m *diagram.Map) *diagram.Sheet {
		if number < 1 || number > len(m.Sheets) {
			return nil
		}
		return m.Sheets[number-1]
	})
}

func (s *Server) thumbnail(c fiber.Ctx) error {
	ctx, stop := whileThere(c)
	defer stop()
	d, err := s.drawn(ctx, c, 1)
	if err != nil {
		return err
	}
	out, err := made(s, c, func(context.Context) ([]byte, error) { return svg.Write(d.drawing, svg.Options{}) })
	if err != nil {
		return err
	}
	c.Set("Content-Security-Policy", picturePolicy)
	c.Set("Cache-Control", "private, max-age=31536000") // the address carries the revision
	c.Set("Content-Type", "image/svg+xml")
	return c.Send(out)
}

// outline draws a symbol for the tray.
func outline(sym *symbols.Symbol) template.HTML {
	w, h := sym.W, sym.H
	var b bytes.Buffer
	fmt.Fprintf(&b, `<svg class="tray-shape" viewBox="%d %d %d %d" aria-hidden="true">`, -6, -6, w/geometry.Px+12, h/geometry.Px+12)
	draw := func(class string, p geometry.Path) {
		fmt.Fprintf(&b, `<path class="%s" d="%s"/>`, class, scene.AppendPath(nil, p))
	}
	if sym.Back != nil {
		draw("face", sym.Back(w, h))
	}
	switch {
	case sym.Kind == diagram.PlainText:
		draw("line", geometry.Path{}.Move(0, 0).Line(0, h).Move(w/8, h/3).Line(w, h/3).Move(w/8, h*2/3).Line(w*3/4, h*2/3))
	case sym.Kind == diagram.Picture:
		draw("face", geometry.Polygon(geometry.Point{}, geometry.Point{X: w}, geometry.Point{X: w, Y: h}, geometry.Point{Y: h}))
		draw("line", geometry.Path{}.Move(0, h).Line(w/3, h/2).Line(w/2, h*2/3).Line(w*3/4, h/3).Line(w, h*3/4))
	case sym.Kind == diagram.Legend:
		h = sym.W * 2 / 3
		b.Reset()
		fmt.Fprintf(&b, `<svg class="tray-shape" viewBox="%d %d %d %d" aria-hidden="true">`, -6, -6, w/geometry.Px+12, h/geometry.Px+12)
		draw("face", sym.Outline(w, h))
		draw("line", geometry.Path{}.Move(w/8, h/4).Line(w/4, h/4).Move(w/3, h/4).Line(w*7/8, h/4).
			Move(w/8, h/2).Line(w/4, h/2).Move(w/3, h/2).Line(w*7/8, h/2).Move(w/8, h*3/4).Line(w/4, h*3/4).Move(w/3, h*3/4).Line(w*7/8, h*3/4))
	case !sym.Bare:
		draw("face", sym.Outline(w, h))
	}
	if sym.Inner != nil {
		draw("line", sym.Inner(w, h, false))
	}
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}

// symbols is the reference of all symbols: what each is called and means.
func (s *Server) symbols(c fiber.Ctx) error {
	type group struct {
		Source  symbols.Source
		Symbols []trayEntry
	}
	groups := []group{{Source: symbols.ISO5807}, {Source: symbols.Trade}, {Source: symbols.ASME}}
	for _, e := range tray() {
		for i := range groups {
			if groups[i].Source == e.Source {
				groups[i].Symbols = append(groups[i].Symbols, e)
			}
		}
	}
	return s.page(c, "symbols.html", map[string]any{"Title": "Symbols", "Groups": groups, "Lines": symbols.Lines})
}

// lineShape draws a line symbol.
func lineShape(l symbols.LineSymbol) template.HTML {
	c := &diagram.Connector{ID: "line", Stroke: diagram.Stroke{Line: l.Line}}
	if l.Line == diagram.DashLine {
		c.ToMark = diagram.MarkNone
	}
	n := scene.ViewOf(new(diagram.Map), new(diagram.Sheet)).Connector(c, &routing.Course{Points: geometry.Polyline{{X: 0, Y: 24 * geometry.Px}, {X: 64 * geometry.Px, Y: 24 * geometry.Px}}})
	return template.HTML(`<svg width="64" height="48" viewBox="0 0 64 48" aria-hidden="true">` + string(n.AppendInner(nil)) + `</svg>`)
}
