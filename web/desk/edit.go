// Package desk is where a map is worked on, read and handed on.
package desk

import (
	"context"
	"encoding/json"
	"html/template"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer"
	"plaintracer/account"
	"plaintracer/app/documents"
	"plaintracer/app/phrase"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/core/worker"
	"plaintracer/exchange"
	"plaintracer/exchange/registerfile"
	"plaintracer/web/reviews"
	"plaintracer/web/site"
)

// Desk is where a map is worked on, read and handed on.
type Desk struct {
	*site.Site
	reviews *reviews.Reviews
}

// New returns it; reviews are shown on it.
func New(s *site.Site, r *reviews.Reviews) *Desk { return &Desk{s, r} }

func (s *Desk) editor(c fiber.Ctx) error {
	d, err := site.At(c).Document()
	if err != nil {
		return err
	}
	if damage := d.Damage(); damage != "" {
		return s.Page(c, "damaged.html", &damagedPage{Frame: site.Frame{Title: "This map cannot be opened"}, ID: d.ID,
			Text: phrase.Sentence(damage)})
	}
	var title string
	d.View(func(m *model.Map, _ int) { title = m.Title })
	aside, err := d.Asides()
	if err != nil {
		return err
	}
	asked, err := s.reviews.IsAsked(site.At(c))
	if err != nil {
		return err
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	standing, err := s.reviews.Standing(site.At(c))
	if err != nil {
		return err
	}
	return s.Page(c, "editor.html", &editorPage{Standing: standing, Called: s.Kept(c, site.CalledCookie), Asked: asked,
		First: s.firstPicture(ctx, d),
		Frame: site.Frame{Title: title}, ID: d.ID, Base: site.At(c).Base, Panels: Panels, Formats: exchange.Formats,
		Encodings: registerfile.Encodings,
		Choices:   exchange.Choices, Tray: tray(), Build: plaintracer.EditorSource(), Fills: model.Fills,
		Looks: lookCards(), Schemes: schemes(), Wide: wide(c), Arrangement: s.arrangementOf(site.At(c)),
		Papers: model.Papers, Shares: site.At(c).Right >= account.Manage, Aside: len(aside),
		ReadOnly: s.House.ReadOnly()})
}

// scheme is a way of numbering.
type scheme struct{ Name, Title string }

// schemes are the ways of numbering, as the strip offers them.
func schemes() (list []scheme) {
	for _, s := range model.Schemes {
		list = append(list, scheme{string(s), numbering.Name(s)})
	}
	return list
}

// firstPicture is a sheet as the editor's page shows it before the core is there.
type firstPicture struct {
	Width, Height string
	// Drawn is the box of what stands on it: left, top, width and height, with spaces between them.
	Drawn string
	// Revision is that of the map as it is drawn.
	Revision int
	// Layers are the insides of the layers of the drawing, by their names.
	Layers map[string]template.HTML
}

// firstPicture draws the first sheet with the same core as the browser's; nil where that takes too long to be worth it.
func (s *Desk) firstPicture(ctx context.Context, d *documents.Document) *firstPicture {
	ctx, stop := context.WithTimeout(ctx, firstWait)
	defer stop()
	drawn, err := s.Drawings.Of(ctx, d, func(m *model.Map) *model.Sheet { return m.Sheets[0] })
	if err != nil || len(drawn.Drawing.Nodes) > firstNodes || drawn.Drawing.HasFonts() {
		return nil // the core draws it in a moment, with fonts that are there by then
	}
	size := func(n int) string { return string(scene.AppendPx(nil, n)) }
	box := drawn.Sheet.Drawn()
	out := &firstPicture{
		Width: size(drawn.Drawing.Page.W), Height: size(drawn.Drawing.Page.H), Revision: drawn.Revision,
		Drawn:  strings.Join([]string{size(box.X), size(box.Y), size(box.W), size(box.H)}, " "),
		Layers: map[string]template.HTML{},
	}
	layers := map[string][]byte{}
	for i := range drawn.Drawing.Nodes {
		n := &drawn.Drawing.Nodes[i]
		layer := layerOf[n.Class]
		if layer == "ground" { // which has no group around it
			layers[layer] = n.AppendInner(layers[layer])
		} else if layer != "" {
			layers[layer] = n.AppendSVG(layers[layer])
		}
	}
	for name, inside := range layers {
		out.Layers[name] = template.HTML(inside)
	}
	return out
}

// layerOf names the layer of the page in which a node of a class stands.
var layerOf = map[string]string{"ground": "ground", "pool": "pools", "connector": "connectors", "symbol": "symbols"}

// The bounds of the first picture: how long the page waits for it, and how much it may hold.
const (
	firstWait  = 250 * time.Millisecond
	firstNodes = 6000
)

// Work does a task of a window, such as laying out a sheet, on the map as the window has it, and answers with the edit
// it comes to. The window falls back on its own core where this fails.
func (s *Desk) Work(c fiber.Ctx) error {
	task := c.Body()
	if err := model.Bounded(task); err != nil {
		return &model.Refusal{Text: err.Error()}
	}
	out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		out, err := worker.Do(task, func(int, int) bool { return ctx.Err() == nil })
		if err != nil {
			err = &model.Refusal{Text: "it could not be done: " + err.Error()}
		}
		return out, err
	})
	if err != nil {
		return err
	}
	return site.SendFile(c, "application/json", out, nil)
}

// Aside gives the changes of a map that could not be made again after a fault, as a file.
func (s *Desk) Aside(c fiber.Ctx) error {
	d, err := site.At(c).Document()
	if err != nil {
		return err
	}
	list, err := d.Asides()
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, no-store")
	site.Attach(c, "changes kept aside.json")
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
		out = append(out, lookCard{l.Name, l.Title, l.About, l.Ink, l.Paper, l.Fill("straw"), l.Fill("lake"),
			l.Fill("clay"), float64(l.Weight) / 100})
	}
	return out
}

// State gives a window all it needs to begin: the map, its revision, and a
// name for the window.
func (s *Desk) State(c fiber.Ctx) error {
	d, err := site.At(c).Document()
	if err != nil {
		return err
	}
	if damage := d.Damage(); damage != "" {
		return &model.Refusal{Text: "this map is damaged: " + damage}
	}
	var out struct {
		Window   string          `json:"window"`
		Secret   string          `json:"secret"`
		Revision int             `json:"revision"`
		Map      json.RawMessage `json:"map"`
	}
	out.Window, out.Secret = d.NewWindow()
	d.View(func(m *model.Map, revision int) {
		out.Revision = revision
		out.Map, err = json.Marshal(m)
	})
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "no-store")
	return c.JSON(out)
}

// damagedPage is what damaged.html shows.
type damagedPage struct {
	site.Frame
	ID   string
	Text string
}

// editorPage is what editor.html shows.
type editorPage struct {
	site.Frame
	// Standing is what readers have to know of the map.
	Standing string
	// Called is what a visitor by a link calls themselves.
	Called      string
	Asked       bool
	First       *firstPicture
	ID          string
	Base        string
	Panels      []panel
	Formats     []exchange.Format
	Encodings   []registerfile.Encoding
	Choices     []exchange.Choice
	Tray        []trayEntry
	Build       string
	Fills       []string
	Looks       []lookCard
	Schemes     []scheme
	Wide        bool
	Arrangement string
	Papers      []model.Paper
	Shares      bool
	Aside       int
	ReadOnly    string
}
