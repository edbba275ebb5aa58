package model

import (
	"iter"
	"slices"

	"plaintracer/core/geometry"
)

// FirstLanes are the names of the lanes a new map begins with.
var FirstLanes = []string{"Customer", "Office", "Back office"}

// LaneStart is the width with which a lane of the pool begins: down the sheet it
// has to hold the length of a step.
func (p *Pool) LaneStart() int {
	if p.Down {
		return LaneHeight * 3 / 2
	}
	return LaneHeight
}

// PartAt returns what a lane at place i is a part of: of the same as both its
// neighbours, where they agree; of what it was, while one of them is; of nothing,
// where it has left the others.
func (p *Pool) PartAt(i int) string {
	of := func(k int) string {
		if k < 0 || k >= len(p.Lanes) {
			return ""
		}
		return p.Lanes[k].Of
	}
	mine := of(i)
	if before, behind := of(i-1), of(i+1); before == behind && before != "" {
		return before
	} else if before == mine || behind == mine {
		return mine
	}
	for k, l := range p.Lanes {
		if k != i && l.Of == mine {
			return ""
		}
	}
	return mine
}

// Pool is a frame of lanes beside each other without gaps. They lie across the
// sheet, one below the other, with their names at the left; or Down it, one to the
// right of the other, with their names at the top.
type Pool struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	X     int    `json:"x"`
	Y     int    `json:"y"`
	// W is the length of the lanes, along the flow.
	W     int    `json:"w"`
	Lanes []Lane `json:"lanes" keep:"one"`
	Down  bool   `json:"down,omitempty"`
	// Level sets the names of lanes that lie across level instead of turned.
	Level bool `json:"level,omitempty"`
	// Stages are the phases of the work, one after the other across all lanes.
	Stages []Stage `json:"stages,omitempty" earlier:"whole"`
	// Locked keeps the pool and its lanes as they are; the steps in it can be
	// changed.
	Locked bool `json:"locked,omitempty"`
	// Journey says that it is a journey: its lanes are rows, its title is the name of the person whose journey it is,
	// Picture and Words are of that person.
	Journey bool   `json:"journey,omitempty"`
	Picture string `json:"picture,omitempty"`
	Words   string `json:"words,omitempty"`
	// head and wide are what the names and the curves of a journey need: the width of the strip with the names of its
	// stages, and the length of each stage.
	head int
	wide []int
}

// Lane is the strip of one role, department or person.
type Lane struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// H is its width across the flow: the height of a lane that lies across.
	H int `json:"h"`
	// Grown is how much of H came about by itself, to hold steps; when one of them leaves the lane, it goes again.
	Grown int `json:"grown,omitempty"`
	// Of names what the lane is a part of. Lanes beside each other that are part of
	// the same share a head before their own: so lanes are nested, two deep.
	Of string `json:"of,omitempty"`
	// Fill and Head are the colours of the lane and of the strip with its name, of
	// the palette or #rrggbb; empty are those of the look.
	Fill string `json:"fill,omitempty"`
	Head string `json:"head,omitempty"`
	// Links are where it leads beside the flow.
	Links []Hyperlink `json:"links,omitempty"`
	// Row says what its cells hold where it is a row of a journey, Field is the one whose values it sums up.
	Row   RowType `json:"row,omitempty"`
	Field string  `json:"field,omitempty"`
	// Folded hides what stands in it.
	Folded bool `json:"folded,omitempty"`
}

// Stage is a section across the lanes: a period or phase of the work.
type Stage struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// L is its length along the flow; the last one reaches to the end of the pool
	// whatever it says.
	L int `json:"l"`
	// Fill is its colour, of the palette or #rrggbb; Folded hides what stands in it, in journeys.
	Fill   string `json:"fill,omitempty"`
	Folded bool   `json:"folded,omitempty"`
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
	// LevelHead is its width where the names are level, PartHead that of the strip
	// with the names of what lanes are parts of.
	LevelHead = 112 * geometry.Px
	PartHead  = 28 * geometry.Px
	// StageHead is the width of the strip with the names of the stages.
	StageHead = 26 * geometry.Px
	// MinStage is the smallest length of a stage, StageLength that with which one
	// begins.
	MinStage    = 80 * geometry.Px
	StageLength = 320 * geometry.Px
	// MinPool is the smallest width of a pool.
	MinPool = 200 * geometry.Px
)

// Box returns the frame of the pool.
func (p *Pool) Box() geometry.Box {
	h := p.StageHead()
	for _, l := range p.Lanes {
		h += l.H
	}
	corner := p.Corner()
	return geometry.Box{X: corner.X, Y: corner.Y, W: p.W, H: h}.Turned(p.Down)
}

// Corner returns the corner in the pool's own frame, in which the flow runs along
// x and the lanes follow each other along y.
func (p *Pool) Corner() geometry.Point { return geometry.Point{X: p.X, Y: p.Y}.Turned(p.Down) }

// Own returns a box in the pool's own frame, in which the flow runs along x and
// the lanes follow each other along y; and one of that frame on the sheet.
func (p *Pool) Own(b geometry.Box) geometry.Box { return b.Turned(p.Down) }

// LaneBox returns the strip of lane i, its head included.
func (p *Pool) LaneBox(i int) geometry.Box { return p.Own(p.Strip(i)) }

// Strip returns the strip of lane i in the pool's own frame.
func (p *Pool) Strip(i int) geometry.Box {
	corner := p.Corner()
	y := corner.Y + p.StageHead()
	for _, l := range p.Lanes[:i] {
		y += l.H
	}
	return geometry.Box{X: corner.X + p.TitleWidth(), Y: y, W: p.W - p.TitleWidth(), H: p.Lanes[i].H}
}

// Content returns where steps may begin to stand in the pool, along the flow.
func (p *Pool) Content() int { return p.Corner().X + p.Heads() }

// Heads returns the width of all strips with names: that of the pool, of what the
// lanes are parts of, and of the lanes.
func (p *Pool) Heads() int { return p.laneHeadAt() + p.laneHead() }

// TitleWidth returns the width of the strip with the title.
func (p *Pool) TitleWidth() int {
	if p.Journey {
		return PersonaWidth
	}
	return PoolHead
}

// laneHeadAt returns where the strips with the names of the lanes begin, counted
// from the pool's.
func (p *Pool) laneHeadAt() int {
	if slices.ContainsFunc(p.Lanes, func(l Lane) bool { return l.Of != "" }) {
		return p.TitleWidth() + PartHead
	}
	return p.TitleWidth()
}

func (p *Pool) laneHead() int {
	switch {
	case p.Journey:
		return RowHead
	case p.Level && !p.Down:
		return LevelHead
	}
	return LaneHead
}

// Inner returns the part of lane i in which steps may stand.
func (p *Pool) Inner(i int) geometry.Box {
	b := p.Strip(i)
	b.X, b.W = b.X+p.Heads()-p.TitleWidth(), b.W-p.Heads()+p.TitleWidth()
	return p.Own(b)
}

// LaneIndex returns the place of the lane with this id, or -1.
func (p *Pool) LaneIndex(id string) int {
	return slices.IndexFunc(p.Lanes, func(l Lane) bool { return l.ID == id })
}

// Thickness returns the width of all lanes together.
func (p *Pool) Thickness() int {
	n := 0
	for _, l := range p.Lanes {
		n += l.H
	}
	return n
}

// NameAt returns where the strip with the name of lane i begins, counted from the
// pool's: that of a lane that is part of nothing begins right after the title.
func (p *Pool) NameAt(i int) int {
	if p.Lanes[i].Of == "" {
		return p.TitleWidth()
	}
	return p.laneHeadAt()
}

// PartRun returns the width of the lanes from i on that are parts of the same, zero
// where i is not the first of them.
func (p *Pool) PartRun(i int) int {
	of := p.Lanes[i].Of
	if of == "" || i > 0 && p.Lanes[i-1].Of == of {
		return 0
	}
	n := 0
	for ; i < len(p.Lanes) && p.Lanes[i].Of == of; i++ {
		n += p.Lanes[i].H
	}
	return n
}

// Laned goes through the pools of the map whose lanes are of those who do the work: all but journeys.
func (m *Map) Laned() iter.Seq[*Pool] {
	return func(yield func(*Pool) bool) {
		for _, s := range m.Sheets {
			for _, p := range s.Pools {
				if !p.Journey && !yield(p) {
					return
				}
			}
		}
	}
}

// LaneAt returns the pool and the number of the lane that p lies in, or nil.
func (s *Sheet) LaneAt(p geometry.Point) (*Pool, int) {
	for _, pool := range s.Pools {
		corner, q := pool.Corner(), p.Turned(pool.Down)
		if q.X < corner.X || q.X > corner.X+pool.W {
			continue
		}
		y := corner.Y + pool.StageHead()
		for i, l := range pool.Lanes {
			if q.Y >= y && q.Y < y+l.H {
				return pool, i
			}
			y += l.H
		}
	}
	return nil, 0
}

// LaneOf returns the lane the symbol stands in, which is where its centre
// lies; nil when it stands outside every lane.
func (s *Sheet) LaneOf(sym *Symbol) *Lane {
	if s.IsCell(sym) {
		if p, i := s.RowOf(sym.Row); p != nil {
			return &p.Lanes[i]
		}
		return nil
	}
	if pool, i := s.LaneAt(sym.Centre()); pool != nil {
		return &pool.Lanes[i]
	}
	return nil
}
