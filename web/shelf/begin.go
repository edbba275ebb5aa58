package shelf

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/starts"
	"plaintracer/exchange/svg"
	"plaintracer/store"
	"plaintracer/web/site"
)

// ownStart begins the name of a starting point of the organisation in a form.
const ownStart = "own-"

// Begin shows the starting points.
func (s *Shelf) Begin(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	kept, err := s.House.Visits.Arrangement(m.ID)
	if err != nil {
		return err
	}
	own, err := s.House.Starts.List()
	if err != nil {
		return err
	}
	names, err := s.Names()
	if err != nil {
		return err
	}
	var house []houseStart
	for _, one := range own {
		house = append(house, houseStart{one, names[one.Owner], one.Owner == m.ID || m.Role == account.Owner})
	}
	direction := cmp.Or(kept["direction"], "right")
	return s.Page(c, "begin.html", &beginPage{Frame: site.Frame{Title: "Begin a map"}, Starts: starts.All, House: house,
		Folder: c.Query("folder"), Papers: model.Papers, Direction: direction, Paper: cmp.Or(kept["paper"], "A4"),
		Upright: kept["orientation"] == "upright" || kept["orientation"] == "" && direction == "down"})
}

// startPictures are the small pictures of starting points, drawn once.
type startPictures struct {
	mu   sync.Mutex
	kept map[string][]byte
}

func newPictures() *startPictures { return &startPictures{kept: map[string][]byte{}} }

// Shelf is the home screen: maps in folders, and what a new one begins from.
type Shelf struct {
	*site.Site
	pictures *startPictures
	rounds   *rounds.Rounds
}

// New returns it.
func New(s *site.Site, r *rounds.Rounds) *Shelf { return &Shelf{s, newPictures(), r} }

// StartPicture is the small picture of a starting point in a direction.
func (s *Shelf) StartPicture(c fiber.Ctx) error {
	name, down := c.Params("start"), c.Query("direction") == "down"
	key := fmt.Sprint(name, " ", down)
	s.pictures.mu.Lock()
	packed := s.pictures.kept[key]
	s.pictures.mu.Unlock()
	if packed == nil {
		out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
			m, err := s.startMap(ctx, name, "", choicesOf(down))
			if err != nil {
				return nil, err
			}
			m.Heading = model.Heading{}
			d := scene.DrawKnowing(m, m.Sheets[0], scene.Know(m))
			return svg.Write(d, svg.Options{Area: content(m.Sheets[0], d.Extent)})
		})
		if err != nil {
			return err
		}
		if packed, err = svg.Zipped(out); err != nil {
			return err
		}
		if !strings.HasPrefix(name, ownStart) { // those of the organisation come and go
			s.pictures.mu.Lock()
			s.pictures.kept[key] = packed
			s.pictures.mu.Unlock()
		}
	}
	return site.SendPicture(c, packed)
}

// content is the part of a sheet on which something stands.
func content(s *model.Sheet, page geometry.Box) geometry.Box {
	var all geometry.Box
	for _, p := range s.Pools {
		all = all.Union(p.Box())
	}
	for _, sym := range s.Symbols {
		all = all.Union(sym.Box)
	}
	if all == (geometry.Box{}) {
		return page
	}
	return all.Grown(16 * geometry.Px)
}

// beginning is what is chosen for a new map.
type beginning struct {
	direction model.Direction
	paper     starts.Paper
	roles     string
}

func choicesOf(down bool) beginning {
	if down {
		return beginning{model.Downwards, starts.Paper{Name: "A4"}, ""}
	}
	return beginning{model.Rightwards, starts.Paper{Name: "A4", Across: true}, ""}
}

// startMap returns the map of a starting point. An empty title is that of the starting point.
func (s *Shelf) startMap(ctx context.Context, name, title string, b beginning) (*model.Map, error) {
	if id, own := strings.CutPrefix(name, ownStart); own {
		m, err := s.House.Starts.Get(id)
		if err == nil && title != "" {
			m.Title = title
		}
		return m, err
	}
	switch name {
	case "flowchart", "swimlanes":
		return blank(cmp.Or(title, "Untitled map"), name == "swimlanes", b), nil
	}
	start := starts.Named(name)
	if start == nil {
		return nil, store.ErrNotFound
	}
	m, err := start.Make(cmp.Or(title, start.Title), b.direction, b.paper, func() bool { return ctx.Err() != nil })
	if errors.Is(err, starts.ErrLong) {
		return nil, site.ErrLong
	}
	return m, err
}

// blank is an empty map, with lanes where they are wanted.
func blank(title string, lanes bool, b beginning) *model.Map {
	m := model.New(title, b.direction, b.paper.Name, b.paper.Across)
	if !lanes {
		return m
	}
	page := m.Sheets[0].Page()
	pool := &model.Pool{ID: "pool-1", Title: title, X: 40 * geometry.Px, Y: 40 * geometry.Px,
		Down: m.Direction == model.Downwards}
	pool.W = page.Turned(pool.Down).W - 80*geometry.Px
	names := roles(b.roles)
	if len(names) == 0 {
		names = model.FirstLanes
	}
	for i, name := range names {
		pool.Lanes = append(pool.Lanes, model.Lane{ID: fmt.Sprintf("lane-%d", i+1), Name: name, H: pool.LaneStart()})
	}
	m.Sheets[0].Pools = append(m.Sheets[0].Pools, pool)
	return m
}

// Create makes a map of a starting point, and remembers how it was begun.
func (s *Shelf) Create(c fiber.Ctx) error {
	b := beginning{direction: model.Direction(c.FormValue("direction", string(model.Rightwards))),
		roles: c.FormValue("roles")}
	upright := "across"
	if b.direction == model.Downwards {
		upright = "upright"
	}
	orientation := c.FormValue("orientation", upright)
	b.paper = starts.Paper{Name: c.FormValue("paper", "A4"), Across: orientation != "upright"}
	m, err := site.Made(s.Site, c, func(ctx context.Context) (*model.Map, error) {
		return s.startMap(ctx, cmp.Or(c.FormValue("start"), c.FormValue("kind", "flowchart")),
			strings.TrimSpace(c.FormValue("title")), b)
	})
	if err != nil {
		return err
	}
	if err := m.Validate(); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "The map was not created. "+phrase.Sentence(err.Error()))
	}
	if s.House.ReadOnly() == "" {
		if err := s.House.Visits.Arrange(site.WhoAsks(c).ID,
			map[string]string{"direction": string(b.direction), "paper": b.paper.Name,
				"orientation": orientation}); err != nil {
			return err
		}
	}
	return s.StoreNew(c, m)
}

// SaveStart keeps a copy of a map as a starting point of the organisation.
func (s *Shelf) SaveStart(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Document()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	about := model.Flat(c.FormValue("about"))
	if len([]rune(about)) > model.MaxName {
		return site.FormError(fmt.Sprintf("what it is for is longer than %d characters", model.MaxName))
	}
	if err := s.House.AddStart(m, about, v.Who.ID); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/begin")
}

// RemoveStart takes a starting point of the organisation away: whoever made it, or an administrator.
func (s *Shelf) RemoveStart(c fiber.Ctx) error {
	m := site.WhoAsks(c)
	owner := m.ID
	if m.Role == account.Owner {
		owner = ""
	}
	id, _ := strings.CutPrefix(c.Params("start"), ownStart)
	if err := s.House.Starts.Remove(id, owner); err != nil {
		return err
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/begin")
}

// beginPage is what begin.html shows.
type beginPage struct {
	site.Frame
	Starts    []starts.Start
	House     []houseStart
	Folder    string
	Papers    []model.Paper
	Direction string
	Paper     string
	Upright   bool
}

// houseStart is a map that the organisation offers to begin with, and whether the person who looks may take it away.
type houseStart struct {
	store.Start
	By   string
	Mine bool
}
