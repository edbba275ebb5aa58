// Package diagram is the document: a map with its sheets, symbols, connectors
// and lanes, and the edits that change it.
//
// A map is plain data. What can be computed from it (courses, wrapped lines,
// numbers, which lane a step stands in) is never stored. Lengths are in
// hundredths of a CSS pixel.
package diagram

import (
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/pictures"
)

// Map is one workflow, drawn on one or more sheets.
type Map struct {
	Head
	// Pictures are the pictures its symbols show, each kept once.
	Pictures []pictures.Picture `json:"pictures,omitempty"`
	// Fonts are the font files its texts are drawn with, each kept once.
	Fonts  []fonts.Font `json:"fonts,omitempty"`
	Sheets []*Sheet     `json:"sheets"`
}

// Head is what belongs to the map as a whole.
type Head struct {
	Title string `json:"title"`
	// Direction is the way the flow normally runs.
	Direction Direction `json:"direction"`
	// Heading is what headed sheets say about the map.
	Heading Heading `json:"heading,omitzero"`
	// Answers are the words a decision's exits take, the first one leading on.
	Answers []string `json:"answers"`
	// Above says that the layout turns the other answers upwards, or to the left.
	Above bool `json:"above,omitempty"`
	// Numbers says whether step numbers are shown.
	Numbers bool `json:"numbers"`
	// Units are those in which lengths are shown.
	Units Units `json:"units,omitempty"`
	// Look names the look the map is drawn in; empty is the standard one.
	Look string `json:"look,omitempty"`
	// Colours are the house's own.
	Colours []HouseColour `json:"colours,omitempty"`
	// Faces are the ids of the fonts the map is written in, all of one
	// typeface; none are the shipped one.
	Faces []string `json:"faces,omitempty"`
	// Styles are those saved under a name.
	Styles []Style `json:"styles,omitempty" earlier:"parts"`
	// Numbering is how the steps are numbered.
	Numbering Numbering `json:"numbering,omitzero"`
	// Held says since when the numbers are held, and by whom; the zero value that they are not.
	Held Held `json:"held,omitzero"`
	// Next are the numbers that steps take next while numbers are held, one for each row of numbers.
	Next []Row `json:"next,omitempty" undo:"quiet"`
	// Fields are the columns that the map adds to its steps, Currency the one in which their money counts.
	Fields   []Field `json:"fields,omitempty"`
	Currency string  `json:"currency,omitempty"`
	// Shown are the ids of the fields whose values stand under their symbols, ColourBy that of the choice that colours them.
	Shown    []string `json:"shown,omitempty"`
	ColourBy string   `json:"colourBy,omitempty"`
}

// HouseColour is a colour of the house: #rrggbb under a name.
type HouseColour struct {
	Name  string `json:"name"`
	Value string `json:"value"`
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
	// Fitting says what gives way when a text does not fit its symbol.
	Fitting Fitting `json:"fitting,omitempty"`
	// Crossings says how a connector passes over another one.
	Crossings Crossing `json:"crossings,omitempty"`
	// Merging lets connectors that lead into the same side of a symbol run into
	// one line before it.
	Merging bool `json:"merging,omitempty"`
	// Middle has Lay out set the whole drawing in the middle of the page, instead of at its upper left.
	Middle bool `json:"middle,omitempty"`
	// Edge says what happens where the drawing reaches the edge of the paper.
	Edge Edge `json:"edge,omitempty"`
	// Headed shows a frame with the heading of the map.
	Headed bool `json:"headed,omitempty"`
	// Ground lies behind everything and cannot be grabbed.
	Ground Ground `json:"ground,omitzero"`
}

// Ground is what a sheet is drawn on: a colour of the palette or #rrggbb, and
// over it a picture that fills the page as far as its proportions allow.
type Ground struct {
	Fill    string `json:"fill,omitempty"`
	Picture string `json:"picture,omitempty"`
}

// Symbol is one standard symbol with its text.
type Symbol struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	geometry.Box
	Text string `json:"text,omitempty"`
	// Owner says who does it, a role, department or person, where it stands in
	// no lane.
	Owner string `json:"owner,omitempty"`
	// Pinned is a number chosen by hand, Uncounted leaves the step out of the count; Kept is its number while the numbers of
	// the map are held.
	Pinned    string `json:"pinned,omitempty"`
	Uncounted bool   `json:"uncounted,omitempty"`
	Kept      string `json:"kept,omitempty"`
	// Values are those of the map's own fields. The list is never changed in place.
	Values []Value `json:"values,omitempty"`
	Type
	// Fill names a colour of the palette or is #rrggbb; empty is the plain paper.
	Fill string `json:"fill,omitempty"`
	// Ink is the colour of the outline, of the palette or #rrggbb, and Weight
	// its width; empty and zero are the standard.
	Ink    string `json:"ink,omitempty"`
	Weight int    `json:"weight,omitempty"`
	// Dashed draws the outline broken.
	Dashed bool `json:"dashed,omitempty"`
	// Emphasis sets the unusual step apart by a heavier outline.
	Emphasis bool `json:"emphasis,omitempty"`
	// Trunk lets the exits share a first stretch.
	Trunk bool `json:"trunk,omitempty"`
	// Picture is the id of the picture a picture symbol shows.
	Picture string `json:"picture,omitempty"`
	// Tip is where a call-out points; the zero value is its usual tip.
	Tip Tip `json:"tip,omitzero"`
	// Style is the id of the saved style it wears. What the style says stands
	// in the symbol itself; it follows when the style changes.
	Style string `json:"style,omitempty"`
	// Look is the look the symbol keeps whatever look the map takes.
	Look string `json:"look,omitempty"`
	// Group is the path of the groups it belongs to, the outermost first,
	// with slashes between their ids.
	Group string `json:"group,omitempty"`
	// Locked keeps it as it is until it is unlocked.
	Locked bool `json:"locked,omitempty"`
}

// Tip is what a call-out points at: the symbol or connector it names, or a place
// beside the call-out.
type Tip struct {
	// On is the id of a symbol or connector on the same sheet. A tip whose symbol or
	// connector is no longer there is drawn as usual.
	On string `json:"on,omitempty"`
	// At is the place, from the centre of the symbol, or from the corner of the call-out
	// where On is empty.
	At geometry.Point `json:"at,omitzero"`
	// Along is the place on a connector, in ten-thousandths of its length.
	Along int `json:"along,omitempty"`
}

// Type is how a text is set. The zero value is the kind's own way.
type Type struct {
	Bold      bool `json:"bold,omitempty"`
	Italic    bool `json:"italic,omitempty"`
	Underline bool `json:"underline,omitempty"`
	// Size is the type size; zero is the standard.
	Size int `json:"size,omitempty"`
	// Colour is of the palette or #rrggbb; empty follows from what is behind
	// the text.
	Colour string `json:"colour,omitempty"`
	// Align stands the lines left, centre or right, Stand all of them top,
	// middle or bottom; empty is the kind's own way.
	Align string `json:"align,omitempty"`
	Stand string `json:"stand,omitempty"`
	// Margin is room kept free all round, beside what the outline needs.
	Margin int `json:"margin,omitempty"`
	// Bullets makes every paragraph an item of a list.
	Bullets bool `json:"bullets,omitempty"`
}

// Connector leads from one symbol to another. Its course is computed; what was
// bent by hand is stored.
type Connector struct {
	ID   string `json:"id"`
	From End    `json:"from"`
	To   End    `json:"to"`
	// Text is the label in the middle, or by the decision it leaves; FromText
	// and ToText stand at the ends. A place that is not zero was chosen by hand.
	Text      string `json:"text,omitempty"`
	Place     Spot   `json:"place,omitzero"`
	FromText  string `json:"fromText,omitempty"`
	FromPlace Spot   `json:"fromPlace,omitzero"`
	ToText    string `json:"toText,omitempty"`
	ToPlace   Spot   `json:"toPlace,omitzero"`
	Type
	Stroke
	// Bends are the stretches that were laid by hand, in their order.
	Bends []Bend `json:"bends,omitempty"`
	// Style and Locked are as for symbols.
	Style  string `json:"style,omitempty"`
	Locked bool   `json:"locked,omitempty"`
}

// Stroke is how the line of a connector is drawn.
type Stroke struct {
	// Dashed marks the exceptional path: broken and lighter, unless Line or
	// Ink say otherwise.
	Dashed bool `json:"dashed,omitempty"`
	Line   Line `json:"line,omitempty"`
	// Weight is the width of the line; zero is the standard.
	Weight int `json:"weight,omitempty"`
	// Ink is the colour of the line, of the palette or #rrggbb; empty is the
	// standard.
	Ink    string `json:"ink,omitempty"`
	Course Run    `json:"course,omitempty"`
	// Radius rounds the corners of a right-angled course.
	Radius int `json:"radius,omitempty"`
	// Hop is how it passes over others; empty follows the sheet.
	Hop Crossing `json:"hop,omitempty"`
	// Merge says whether it merges with others that lead into the same side; empty
	// follows the sheet.
	Merge    Merging  `json:"merge,omitempty"`
	FromMark Mark     `json:"fromMark,omitempty"`
	ToMark   Mark     `json:"toMark,omitempty"`
	MarkSize MarkSize `json:"markSize,omitempty"`
}

// End says what one end of a connector is glued to. An end that names neither
// a symbol nor a connector is loose and lies at At.
type End struct {
	Symbol string `json:"symbol,omitempty"`
	// Side names the glue point; empty glues to the symbol as a whole, so that
	// the best side is chosen anew as things move.
	Side string `json:"side,omitempty"`
	// Connector is one whose line this end joins.
	Connector string         `json:"connector,omitempty"`
	At        geometry.Point `json:"at,omitzero"`
}

// Loose reports whether the end is glued to nothing.
func (e End) Loose() bool { return e.Symbol == "" && e.Connector == "" }

// WholeCourse is the length of any course, in the parts in which places on it are given.
const WholeCourse = 10000

// Spot is a place of a label chosen by hand: the middle of the label lies Off
// the point of the course at Along, in ten-thousandths of its length.
type Spot struct {
	Along int            `json:"along,omitempty"`
	Off   geometry.Point `json:"off,omitzero"`
}

// Bend is a stretch laid by hand: upright at x, or level at y.
type Bend struct {
	Upright bool `json:"upright,omitempty"`
	At      int  `json:"at"`
}

// Label is one of the three labels of a connector.
type Label struct {
	Text  *string
	Place *Spot
}

// Labels returns the labels in the middle, at the beginning and at the end.
func (c *Connector) Labels() [3]Label {
	return [3]Label{{&c.Text, &c.Place}, {&c.FromText, &c.FromPlace}, {&c.ToText, &c.ToPlace}}
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
}

// Lane is the strip of one role, department or person.
type Lane struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// H is its width across the flow: the height of a lane that lies across.
	H int `json:"h"`
	// Of names what the lane is a part of. Lanes beside each other that are part of
	// the same share a head before their own: so lanes are nested, two deep.
	Of string `json:"of,omitempty"`
	// Fill and Head are the colours of the lane and of the strip with its name, of
	// the palette or #rrggbb; empty are those of the look.
	Fill string `json:"fill,omitempty"`
	Head string `json:"head,omitempty"`
}

// Stage is a section across the lanes: a period or phase of the work.
type Stage struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// L is its length along the flow; the last one reaches to the end of the pool
	// whatever it says.
	L int `json:"l"`
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
	h := p.stageHead()
	for _, l := range p.Lanes {
		h += l.H
	}
	corner := p.corner()
	return geometry.Box{X: corner.X, Y: corner.Y, W: p.W, H: h}.Turned(p.Down)
}

// corner returns the corner in the pool's own frame, in which the flow runs along
// x and the lanes follow each other along y.
func (p *Pool) corner() geometry.Point { return geometry.Point{X: p.X, Y: p.Y}.Turned(p.Down) }

// Own returns a box in the pool's own frame, in which the flow runs along x and
// the lanes follow each other along y; and one of that frame on the sheet.
func (p *Pool) Own(b geometry.Box) geometry.Box { return b.Turned(p.Down) }

// LaneBox returns the strip of lane i, its head included.
func (p *Pool) LaneBox(i int) geometry.Box { return p.Own(p.strip(i)) }

// strip returns the strip of lane i in the pool's own frame.
func (p *Pool) strip(i int) geometry.Box {
	corner := p.corner()
	y := corner.Y + p.stageHead()
	for _, l := range p.Lanes[:i] {
		y += l.H
	}
	return geometry.Box{X: corner.X + PoolHead, Y: y, W: p.W - PoolHead, H: p.Lanes[i].H}
}

// Content returns where steps may begin to stand in the pool, along the flow.
func (p *Pool) Content() int { return p.corner().X + p.Heads() }

// Heads returns the width of all strips with names: that of the pool, of what the
// lanes are parts of, and of the lanes.
func (p *Pool) Heads() int { return p.LaneHeadAt() + p.laneHead() }

// LaneHeadAt returns where the strips with the names of the lanes begin, counted
// from the pool's.
func (p *Pool) LaneHeadAt() int {
	if slices.ContainsFunc(p.Lanes, func(l Lane) bool { return l.Of != "" }) {
		return PoolHead + PartHead
	}
	return PoolHead
}

func (p *Pool) laneHead() int {
	if p.Level && !p.Down {
		return LevelHead
	}
	return LaneHead
}

// Inner returns the part of lane i in which steps may stand.
func (p *Pool) Inner(i int) geometry.Box {
	b := p.strip(i)
	b.X, b.W = b.X+p.Heads()-PoolHead, b.W-p.Heads()+PoolHead
	return p.Own(b)
}

// Turned returns a copy of the sheet with its axes exchanged: what lies across
// lies down. Symbols and pools have exchanged width and height; nothing else is
// changed. It serves computations that know one direction only.
func (s *Sheet) Turned() *Sheet {
	t := s.Clone()
	t.Across = !t.Across
	for _, sym := range t.Symbols {
		sym.Box = sym.Box.Turned(true)
	}
	for _, p := range t.Pools {
		p.X, p.Y, p.Down = p.Y, p.X, !p.Down
	}
	return t
}

// LaneIndex returns the place of the lane with this id, or -1.
func (p *Pool) LaneIndex(id string) int {
	return slices.IndexFunc(p.Lanes, func(l Lane) bool { return l.ID == id })
}

// LaneAt returns the pool and the number of the lane that p lies in, or nil.
func (s *Sheet) LaneAt(p geometry.Point) (*Pool, int) {
	for _, pool := range s.Pools {
		corner, q := pool.corner(), p.Turned(pool.Down)
		if q.X < corner.X || q.X > corner.X+pool.W {
			continue
		}
		y := corner.Y + pool.stageHead()
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
func (s *Sheet) Extent() geometry.Box { return s.Page().Union(s.Drawn()) }

// Drawn returns the box around all symbols and pools.
func (s *Sheet) Drawn() geometry.Box {
	var b geometry.Box
	for _, sym := range s.Symbols {
		b = b.Union(sym.Box)
	}
	for _, p := range s.Pools {
		b = b.Union(p.Box())
	}
	return b
}

// Gaps reports whether a symbol, connector or pool is missing in its list, as it can be in what
// was read from outside.
func (s *Sheet) Gaps() bool {
	return slices.Contains(s.Symbols, nil) || slices.Contains(s.Connectors, nil) || slices.Contains(s.Pools, nil)
}

// Movables returns the ids of all that can be moved on the sheet: pools, symbols, and connectors
// with a loose end.
func (s *Sheet) Movables() []string {
	out := append(ids(s.Pools), ids(s.Symbols)...)
	for _, c := range s.Connectors {
		if c.From.Loose() || c.To.Loose() {
			out = append(out, c.ID)
		}
	}
	return out
}

// Symbol returns the symbol with this id, or nil.
func (s *Sheet) Symbol(id string) *Symbol {
	for _, sym := range s.Symbols { // the generic search is slower, and this one runs in every drag
		if sym.ID == id {
			return sym
		}
	}
	return nil
}

// Connector returns the connector with this id, or nil.
func (s *Sheet) Connector(id string) *Connector {
	for _, c := range s.Connectors {
		if c.ID == id {
			return c
		}
	}
	return nil
}

// Pool returns the pool with this id, or nil.
func (s *Sheet) Pool(id string) *Pool { return find(s.Pools, id) }

// Sheet returns the sheet with this id, or nil.
func (m *Map) Sheet(id string) *Sheet { return find(m.Sheets, id) }

// SheetOf returns the sheet on which the symbol, connector, pool, lane or stage
// stands, or nil.
func (m *Map) SheetOf(id string) *Sheet {
	for _, s := range m.Sheets {
		if s.Symbol(id) != nil || s.Connector(id) != nil || s.Pool(id) != nil {
			return s
		}
		for _, p := range s.Pools {
			if p.LaneIndex(id) >= 0 || p.StageIndex(id) >= 0 {
				return s
			}
		}
	}
	return nil
}

// Picture returns the picture with this id, or nil.
func (m *Map) Picture(id string) *pictures.Picture {
	for i := range m.Pictures {
		if m.Pictures[i].ID == id {
			return &m.Pictures[i]
		}
	}
	return nil
}

// Leads returns the symbols between which a connector carries the flow: where
// it joins another connector, the flow goes on to where that one leads. An
// end that leads nowhere is empty.
func (s *Sheet) Leads(c *Connector) (from, to string) {
	from = c.From.Symbol
	for range s.Connectors {
		if c.To.Connector == "" {
			break
		}
		next := s.Connector(c.To.Connector)
		if next == nil {
			return from, ""
		}
		c = next
	}
	return from, c.To.Symbol
}

// Inside returns the symbols that a frame takes along when it moves: those
// that lie wholly in it.
func (s *Sheet) Inside(frame *Symbol) []*Symbol {
	var out []*Symbol
	for _, sym := range s.Symbols {
		if sym != frame && frame.Holds(sym.Box) {
			out = append(out, sym)
		}
	}
	return out
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
	out := &Map{Head: m.Head.clone(), Pictures: slices.Clone(m.Pictures), Fonts: slices.Clone(m.Fonts), Sheets: make([]*Sheet, len(m.Sheets))}
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
	h.Answers, h.Colours, h.Styles, h.Faces = slices.Clone(h.Answers), slices.Clone(h.Colours), slices.Clone(h.Styles), slices.Clone(h.Faces)
	h.Numbering.Also, h.Next, h.Fields, h.Shown = slices.Clone(h.Numbering.Also), slices.Clone(h.Next), slices.Clone(h.Fields), slices.Clone(h.Shown)
	return h
}

func (s *Symbol) clone() *Symbol { c := *s; return &c }
func (c *Connector) clone() *Connector {
	d := *c
	d.Bends = slices.Clone(c.Bends)
	return &d
}
func (p *Pool) clone() *Pool {
	c := *p
	c.Lanes, c.Stages = slices.Clone(p.Lanes), slices.Clone(p.Stages)
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
			SheetHead:  SheetHead{ID: "sheet-1", Name: "Sheet 1", Paper: paper, Across: across, Merging: true, Middle: true},
			Pools:      []*Pool{},
			Symbols:    []*Symbol{},
			Connectors: []*Connector{},
		}},
	}
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
		return PoolHead
	}
	return p.LaneHeadAt()
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
