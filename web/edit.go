package web

import (
	"encoding/json"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer"
	"plaintracer/core/diagram"
	"plaintracer/core/findings"
	"plaintracer/core/looks"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
)

func (s *Server) editor(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	if damage := d.Damage(); damage != "" {
		return s.page(c, "damaged.html", map[string]any{"Title": "Plain Tracer", "ID": d.ID, "Text": sentence(damage)})
	}
	var title string
	d.View(func(m *diagram.Map, _ int) { title = m.Title })
	aside, err := d.Asides()
	if err != nil {
		return err
	}
	return s.page(c, "editor.html", map[string]any{
		"Title": title, "ID": d.ID, "Tray": tray(), "Build": plaintracer.EditorSource(), "Fills": diagram.Fills, "Looks": lookCards(), "Papers": diagram.Papers,
		"Wasm": s.assets.names["editor.wasm"], "HasLinks": s.LinksURL != "", "Aside": len(aside), "ReadOnly": s.store.ReadOnly(),
	})
}

// aside gives the changes of a map that could not be made again after a fault, as a file.
func (s *Server) aside(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	list, err := d.Asides()
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, no-store")
	attach(c, "changes kept aside.json")
	return c.JSON(list)
}

// lookCard shows a look by a few strokes.
type lookCard struct {
	Name, Title, About, Ink, Paper, Straw, Lake, Clay string
	Line                                              float64
}

func lookCards() []lookCard {
	var out []lookCard
	for _, l := range looks.All {
		out = append(out, lookCard{l.Name, l.Title, l.About, l.Ink, l.Paper, l.Fill("straw"), l.Fill("lake"), l.Fill("clay"), float64(l.Weight) / 100})
	}
	return out
}

// state gives a window all it needs to begin: the map, its revision, and a
// name for the window.
func (s *Server) state(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	if damage := d.Damage(); damage != "" {
		return &diagram.Refusal{Text: "this map is damaged: " + damage}
	}
	var out struct {
		Window   string          `json:"window"`
		Secret   string          `json:"secret"`
		Revision int             `json:"revision"`
		Map      json.RawMessage `json:"map"`
	}
	out.Window, out.Secret = d.NewWindow()
	d.View(func(m *diagram.Map, revision int) {
		out.Revision = revision
		out.Map, err = json.Marshal(m)
	})
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "no-store")
	return c.JSON(out)
}

// row is a step as the register shows it.
type row struct {
	ID, Text, Kind, Lane, Stage string
	Number                      int
}

func (s *Server) register(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	var rows []row
	m, _ := d.Snapshot() // so that nobody waits for the numbers
	for _, step := range numbering.Number(m) {
		r := row{ID: step.Symbol.ID, Text: flat(step.Symbol.Text), Kind: symbols.Of(step.Symbol.Kind).Name, Number: step.Number, Lane: step.Sheet.OwnerOf(step.Symbol)}
		if stage := step.Sheet.StageOf(step.Symbol); stage != nil {
			r.Stage = stage.Name
		}
		rows = append(rows, r)
	}
	return s.page(c, "register.html", rows)
}

func flat(text string) string { return strings.Join(strings.Fields(text), " ") }

func (s *Server) findings(c fiber.Ctx) error {
	d, err := s.store.Document(c.Params("id"))
	if err != nil {
		return err
	}
	type item struct {
		ID, What, Text, Sheet string
		Mends                 []findings.Mend
	}
	var list []item
	m, _ := d.Snapshot()
	for _, f := range findings.Check(m) {
		sheet := m.Sheet(f.Sheet)
		if sheet == nil {
			list = append(list, item{"", "The map", f.Text, "", f.Mends})
			continue
		}
		what := "A connector"
		if sym := sheet.Symbol(f.Symbol); sym != nil {
			if what = flat(sym.Text); what == "" {
				what = symbols.Of(sym.Kind).Name
			}
		}
		list = append(list, item{f.Symbol, what, f.Text, sheet.Name, f.Mends})
	}
	return s.page(c, "findings.html", list)
}

// missing says which characters of a sheet an export cannot draw.
func (s *Server) missing(c fiber.Ctx) error {
	ctx, stop := whileThere(c)
	defer stop()
	number, _ := strconv.Atoi(c.Query("sheet", "1"))
	d, err := s.drawn(ctx, c, number)
	if err != nil {
		return err
	}
	return s.page(c, "missing.html", scene.Named(d.drawing.Missing()))
}

func (s *Server) links(c fiber.Ctx) error {
	list, err := s.store.Links(c.Params("id"))
	if err != nil {
		return err
	}
	return s.page(c, "links.html", map[string]any{"ID": c.Params("id"), "Links": list, "URL": s.LinksURL})
}

func (s *Server) createLink(c fiber.Ctx) error {
	if s.LinksURL == "" {
		return fiber.NewError(fiber.StatusConflict, "Links are switched off: start the program with --links and an address.")
	}
	if _, err := s.store.Document(c.Params("id")); err != nil {
		return err
	}
	if _, err := s.store.CreateLink(c.Params("id")); err != nil {
		return err
	}
	return s.links(c)
}

func (s *Server) withdrawLink(c fiber.Ctx) error {
	if err := s.store.Withdraw(c.Params("id"), c.Params("token")); err != nil {
		return err
	}
	token := c.Params("token")
	s.hub.end(c.Params("id"), message{Kind: "again"}, func(p *peer) bool { return p.link == token })
	return s.links(c)
}
