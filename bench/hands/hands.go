// Package hands holds maps that were arranged by hand, as the yardstick of Lay out: it lays each out from
// its bare flow and measures both drawings by the same rules.
package hands

import (
	"embed"
	"path"
	"slices"
	"strings"

	"plaintracer/bench/score"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/tracerjson"
)

//go:embed *.tracer.json
var files embed.FS

// Hand is a map as it was arranged by hand.
type Hand struct {
	Name string
	raw  []byte
}

// All returns the maps in the order of their names.
func All() []Hand {
	names, err := files.ReadDir(".")
	if err != nil {
		panic(err)
	}
	var out []Hand
	for _, f := range names {
		raw, err := files.ReadFile(f.Name())
		if err != nil {
			panic(err)
		}
		out = append(out, Hand{strings.TrimSuffix(path.Base(f.Name()), ".tracer.json"), raw})
	}
	slices.SortFunc(out, func(a, b Hand) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// Map returns a new copy of the map.
func (h Hand) Map() *model.Map {
	m, err := tracerjson.Read(h.raw)
	if err != nil {
		panic(h.Name + ": " + err.Error())
	}
	return m
}

// Bare returns the map as nobody has arranged it: all steps on one spot of the sheet or of their lane.
func (h Hand) Bare() *model.Map {
	m := h.Map()
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kind.StandsAnywhere() {
				continue
			}
			at := geometry.Point{X: 15000, Y: 1000}
			if pool, i := s.LaneAt(sym.Centre()); pool != nil {
				lane := pool.LaneBox(i)
				at = geometry.Point{X: lane.X + 15000, Y: lane.Y + (lane.H-sym.H)/2}
			}
			sym.Box = sym.At(at)
		}
		for _, c := range s.Connectors {
			c.From.Side, c.To.Side, c.Bends = "", "", nil
		}
	}
	return m
}

// LaidOut returns the map laid out from its bare flow.
func (h Hand) LaidOut() *model.Map {
	m := h.Bare()
	if plan := layout.Find(m, m.Sheets[0], layout.Options{Down: m.Direction == model.Downwards,
		Above: m.Above}); plan != nil {
		if _, err := edit.Apply(m, plan); err != nil {
			panic(h.Name + ": " + err.Error())
		}
	}
	return m
}

// Numbers are what a drawing is judged by; lengths in pixels.
type Numbers struct {
	Bends, Crossings, Hits int
	// Touching are the stretches that run closer to others than they need to.
	Touching int
	// Lines is the number of connectors, Straight of those without a bend.
	Lines, Straight       int
	Length, Width, Height float64
}

// Of measures the first sheet of a map: its symbols and lines, without the lanes.
func Of(m *model.Map) Numbers {
	const px = geometry.Px
	d := scene.Draw(m, m.Sheets[0])
	at := map[string]int{}
	var out score.Drawing
	var all geometry.Box
	for i, sym := range d.Sheet.Symbols {
		at[sym.ID] = i
		all = all.Union(sym.Box)
		out.Nodes = append(out.Nodes, score.Box{X: float64(sym.X) / px, Y: float64(sym.Y) / px, W: float64(sym.W) / px,
			H: float64(sym.H) / px})
	}
	n := Numbers{Lines: len(d.Courses)}
	for i, c := range d.Courses {
		con := d.Sheet.Connectors[i]
		e := score.Edge{From: at[con.From.Symbol], To: at[con.To.Symbol]}
		for _, p := range c.Points {
			all = all.Union(geometry.Box{X: p.X, Y: p.Y, W: 1, H: 1})
			e.Points = append(e.Points, score.Point{float64(p.X) / px, float64(p.Y) / px})
		}
		if c.Points.Bends() == 0 {
			n.Straight++
		}
		out.Edges = append(out.Edges, e)
	}
	for _, p := range d.Sheet.Pools {
		b := p.Box()
		x, y, w, h := float64(b.X)/px, float64(b.Y)/px, float64(b.W)/px, float64(b.H)/px
		out.Borders = append(out.Borders, score.Box{X: x, Y: y, W: w}, score.Box{X: x, Y: y + h, W: w},
			score.Box{X: x, Y: y, H: h}, score.Box{X: x + w, Y: y, H: h})
		for i := range p.Lanes {
			lane := p.LaneBox(i)
			out.Borders = append(out.Borders, score.Box{X: float64(lane.X) / px, Y: float64(lane.Y) / px,
				W: float64(lane.W) / px},
				score.Box{X: float64(lane.X) / px, Y: float64(lane.Y) / px, H: float64(lane.H) / px})
		}
	}
	s := score.Of(out)
	n.Bends, n.Crossings, n.Hits, n.Touching, n.Length = s.Bends, s.Crossings, s.Hits, s.Touching, s.Length
	n.Width, n.Height = float64(all.W)/px, float64(all.H)/px
	return n
}

// Plus adds up two drawings.
func (n Numbers) Plus(o Numbers) Numbers {
	return Numbers{n.Bends + o.Bends, n.Crossings + o.Crossings, n.Hits + o.Hits, n.Touching + o.Touching,
		n.Lines + o.Lines, n.Straight + o.Straight,
		n.Length + o.Length, n.Width + o.Width, n.Height + o.Height}
}
