// Package diagram is the document: a map with its sheets, symbols, connectors
// and lanes, and the edits that change it.
//
// A map is plain data. What can be computed from it (courses, wrapped lines,
// numbers, which lane a step stands in) is never stored. Lengths are in
// hundredths of a CSS pixel.
package diagram

import (
	"slices"

	"plaintracer/core/geometry"
)

// Map is one workflow, drawn on one or more sheets.
type Map struct {
	Head
	Sheets []*Sheet `json:"sheets"`
}

// Head is what belongs to the map as a whole.
type Head struct {
	Title string `json:"title"`
	// Direction is the way the flow normally runs.
	Direction Direction `json:"direction"`
	// Answers are the words a decision's exits take, the first one leading on.
	Answers []string `json:"answers"`
	// Numbers says whether step numbers are shown.
	Numbers bool `json:"numbers"`
}

// Direction is the way a flow runs over the sheet.
type Direction string

// The two directions of normal flow (ISO 5807).
const (
	Rightwards Direction = "right"
	Downwards  Direction = "down"
)

// Sheet is one page of a map. Symbols are in drawing order, the last on top.
type Sheet struct {
	SheetHead
	Pools      []*Pool      `json:"pools"`
	Symbols    []*Symbol    `json:"symbols"`
	Connectors []*Connector `json:"connectors"`
}

// SheetHead is what a sheet has beside its content.
type SheetHead struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Paper string `json:"paper"`
	// Across lays the paper on its long side.
	Across bool `json:"across"`
}

// Symbol is one standard symbol with its text.
type Symbol struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	geometry.Box
	Text string `json:"text,omitempty"`
	// Fill names a colour of the palette; empty is the plain paper.
	Fill string `json:"fill,omitempty"`
	// Dashed draws the outline broken.
	Dashed bool `json:"dashed,omitempty"`
	// Emphasis sets the unusual step apart by a heavier outline.
	Emphasis bool `json:"emphasis,omitempty"`
	// Bold sets the text in the heavier weight.
	Bold bool `json:"bold,omitempty"`
}

// Connector leads from one symbol to another. Its course is computed.
type Connector struct {
	ID   string `json:"id"`
	From End    `json:"from"`
	To   End    `json:"to"`
	Text string `json:"text,omitempty"`
	// Dashed marks the exceptional path.
	Dashed bool `json:"dashed,omitempty"`
}

// End says what one end of a connector is glued to.
type End struct {
	Symbol string `json:"symbol"`
	// Side names the glue point; empty glues to the symbol as a whole, so that
	// the best side is chosen anew as things move.
	Side string `json:"side,omitempty"`
}

// Pool is a frame of horizontal lanes, stacked without gaps.
type Pool struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	X     int    `json:"x"`
	Y     int    `json:"y"`
	W     int    `json:"w"`
	Lanes []Lane `json:"lanes"`
}

// Lane is the strip of one role, department or person.
type Lane struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	H    int    `json:"h"`
}

// Sizes of the parts of a pool.
const (
	// LaneHeight is the height a lane begins with (common practice, no source).
	LaneHeight = 100 * geometry.Px
	// MinLane is the smallest height of a lane.
	MinLane = 40 * geometry.Px
	// LanePad is the space a lane keeps above and below its steps.
	LanePad = 10 * geometry.Px
	// PoolHead is the width of the strip with the pool's title.
	PoolHead = 28 * geometry.Px
	// LaneHead is the width of the strip with a lane's name.
	LaneHead = 32 * geometry.Px
	// MinPool is the smallest width of a pool.
	MinPool = 200 * geometry.Px
)

// Box returns the frame of the pool.
func (p *Pool) Box() geometry.Box {
	h := 0
	for _, l := range p.Lanes {
		h += l.H
	}
	return geometry.Box{X: p.X, Y: p.Y, W: p.W, H: h}
}

// LaneBox returns the strip of lane i, its head included.
func (p *Pool) LaneBox(i int) geometry.Box {
	y := p.Y
	for _, l := range p.Lanes[:i] {
		y += l.H
	}
	return geometry.Box{X: p.X + PoolHead, Y: y, W: p.W - PoolHead, H: p.Lanes[i].H}
}

// Content returns the x at which steps may stand in the pool.
func (p *Pool) Content() int { return p.X + PoolHead + LaneHead }

// LaneIndex returns the place of the lane with this id, or -1.
func (p *Pool) LaneIndex(id string) int {
	return slices.IndexFunc(p.Lanes, func(l Lane) bool { return l.ID == id })
}

// LaneAt returns the pool and the number of the lane that p lies in, or nil.
func (s *Sheet) LaneAt(p geometry.Point) (*Pool, int) {
	for _, pool := range s.Pools {
		if p.X < pool.X || p.X > pool.X+pool.W {
			continue
		}
		for i := range pool.Lanes {
			if b := pool.LaneBox(i); p.Y >= b.Y && p.Y < b.Bottom() {
				return pool, i
			}
		}
	}
	return nil, 0
}

// LaneOf returns the lane the symbol stands in, which is where its centre
// lies; nil when it stands outside every lane.
func (s *Sheet) LaneOf(sym *Symbol) *Lane {
	if pool, i := s.LaneAt(sym.Centre()); pool != nil {
		return &pool.Lanes[i]
	}
	return nil
}

// Page returns the sheet's paper as a box with its corner at zero.
func (s *Sheet) Page() geometry.Box {
	w, h := PaperSize(s.Paper, s.Across)
	return geometry.Box{W: w, H: h}
}

// Extent returns the page together with whatever stands beyond its edges.
func (s *Sheet) Extent() geometry.Box {
	b := s.Page()
	for _, sym := range s.Symbols {
		b = b.Union(sym.Box)
	}
	for _, p := range s.Pools {
		b = b.Union(p.Box())
	}
	return b
}

// Symbol returns the symbol with this id, or nil.
func (s *Sheet) Symbol(id string) *Symbol { return find(s.Symbols, id) }

// Connector returns the connector with this id, or nil.
func (s *Sheet) Connector(id string) *Connector { return find(s.Connectors, id) }

// Pool returns the pool with this id, or nil.
func (s *Sheet) Pool(id string) *Pool { return find(s.Pools, id) }

// Sheet returns the sheet with this id, or nil.
func (m *Map) Sheet(id string) *Sheet { return find(m.Sheets, id) }

// SheetOf returns the sheet on which the symbol, connector, pool or lane
// stands, or nil.
func (m *Map) SheetOf(id string) *Sheet {
	for _, s := range m.Sheets {
		if s.Symbol(id) != nil || s.Connector(id) != nil || s.Pool(id) != nil {
			return s
		}
		for _, p := range s.Pools {
			if p.LaneIndex(id) >= 0 {
				return s
			}
		}
	}
	return nil
}

// Partner returns the other half of a reference pair: the reference of the
// same kind that carries the same letter, with the sheet it stands on. It is
// nil when the reference stands alone, carries no letter, or is one of three.
func (m *Map) Partner(sym *Symbol) (*Sheet, *Symbol) {
	if !sym.Kind.IsReference() || sym.Text == "" {
		return nil, nil
	}
	var where *Sheet
	var partner *Symbol
	for _, s := range m.Sheets {
		for _, other := range s.Symbols {
			if other.ID == sym.ID || other.Kind != sym.Kind || other.Text != sym.Text {
				continue
			}
			if partner != nil {
				return nil, nil
			}
			where, partner = s, other
		}
	}
	return where, partner
}

type identified interface{ id() string }

func (s *Sheet) id() string     { return s.ID }
func (s *Symbol) id() string    { return s.ID }
func (c *Connector) id() string { return c.ID }
func (p *Pool) id() string      { return p.ID }

func index[T identified](list []T, id string) int {
	return slices.IndexFunc(list, func(v T) bool { return v.id() == id })
}

func find[T identified](list []T, id string) (none T) {
	if i := index(list, id); i >= 0 {
		return list[i]
	}
	return none
}

// Clone returns a copy that shares nothing with m.
func (m *Map) Clone() *Map {
	out := &Map{Head: m.Head.clone(), Sheets: make([]*Sheet, len(m.Sheets))}
	for i, s := range m.Sheets {
		out.Sheets[i] = s.Clone()
	}
	return out
}

// Clone returns a copy that shares nothing with s.
func (s *Sheet) Clone() *Sheet {
	return &Sheet{SheetHead: s.SheetHead, Pools: cloneAll(s.Pools, (*Pool).clone),
		Symbols: cloneAll(s.Symbols, (*Symbol).clone), Connectors: cloneAll(s.Connectors, (*Connector).clone)}
}

func (h Head) clone() Head {
	h.Answers = slices.Clone(h.Answers)
	return h
}

func (s *Symbol) clone() *Symbol       { c := *s; return &c }
func (c *Connector) clone() *Connector { d := *c; return &d }
func (p *Pool) clone() *Pool {
	c := *p
	c.Lanes = slices.Clone(p.Lanes)
	return &c
}

func cloneAll[T any](list []*T, clone func(*T) *T) []*T {
	out := make([]*T, len(list))
	for i, v := range list {
		out[i] = clone(v)
	}
	return out
}

// New returns a map with one empty sheet.
func New(title string, direction Direction, paper string, across bool) *Map {
	return &Map{
		Head: Head{Title: title, Direction: direction, Answers: []string{"Yes", "No"}, Numbers: true},
		Sheets: []*Sheet{{
			SheetHead:  SheetHead{ID: "sheet-1", Name: "Sheet 1", Paper: paper, Across: across},
			Pools:      []*Pool{},
			Symbols:    []*Symbol{},
			Connectors: []*Connector{},
		}},
	}
}
