package model

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/values"
)

// JourneySheet is a sheet of journeys: each is a pool whose lanes are rows of a type, whose stages are columns, and
// whose cells hold symbols. Where these stand follows from their cells.
const JourneySheet SheetKind = "journey"

// RowType says what the cells of a row of a journey hold.
type RowType string

// The types of rows.
const (
	StepsRow    RowType = "steps"
	ContactsRow RowType = "contacts"
	WordsRow    RowType = "words"
	MoodRow     RowType = "mood"
	IdeasRow    RowType = "ideas"
	BehindRow   RowType = "behind"
	PicturesRow RowType = "pictures"
	SumRow      RowType = "sum"
)

// RowKind describes a type of rows.
type RowKind struct {
	Type RowType
	// Name is what a new row of the type is called, Hint what stands in its cells.
	Name, Hint string
	// Kind is that of the symbols in its cells; empty where these only show what is computed.
	Kind Kind
	// Words are those in the name of a row by which a table is guessed to mean the type.
	Words []string
}

// RowKinds are all types of rows, in the order in which they are offered.
var RowKinds = []RowKind{
	{StepsRow, "What happens", "Steps, which can lead to a step of a map", MomentCell,
		[]string{"step", "does", "doing", "happens", "action", "activit"}},
	{ContactsRow, "Contact points", "Where the person meets us, each with a small sign", ContactCell,
		[]string{"contact", "touch", "channel", "meets"}},
	{WordsRow, "Thoughts", "A list of what is thought or said", WordsCell,
		[]string{"thought", "think", "says", "question", "feel", "need", "expect", "goal"}},
	{MoodRow, "Mood", "Points of a curve, which can be dragged", MoodCell,
		[]string{"mood", "emotion", "satisfaction", "curve"}},
	{IdeasRow, "Opportunities", "What could be better", MomentCell,
		[]string{"opportunit", "idea", "improve", "better", "pain"}},
	{BehindRow, "Behind the scenes", "Who does what that the person does not see", MomentCell,
		[]string{"behind", "back", "internal", "staff", "support"}},
	{PicturesRow, "Pictures", "What it looks like", Picture, []string{"picture", "photo", "image"}},
	{SumRow, "Time or cost", "A field, summed over the cells of each stage", "",
		[]string{"time", "cost", "duration", "effort", "sum"}},
}

// Row describes a type of rows; one that is not known is taken for words.
func (t RowType) Row() RowKind {
	for _, k := range RowKinds {
		if k.Type == t {
			return k
		}
	}
	return RowKinds[2]
}

// Known reports whether there is such a type of rows.
func (t RowType) Known() bool { return t.Row().Type == t }

// GuessRow returns the type that the name of a row speaks of.
func GuessRow(name string) RowType {
	name = strings.ToLower(name)
	for _, k := range RowKinds {
		if slices.ContainsFunc(k.Words, func(w string) bool { return strings.Contains(name, w) }) {
			return k.Type
		}
	}
	return WordsRow
}

// Cell is the place of a symbol in a journey. On other sheets it is empty. Those in one cell follow each other by their
// ranks.
type Cell struct {
	// Row and Stage are the ids of the lane and the stage it stands in.
	Row   string `json:"row,omitempty"`
	Stage string `json:"stage,omitempty"`
	// Span is over how many stages it reaches; zero is one.
	Span int `json:"span,omitempty"`
	// Mood is the height of a point of a curve, in per cent from the middle.
	Mood int `json:"mood,omitempty"`
	// Sign is the sign of a contact point, of Signs; empty is the one that its words speak of.
	Sign string `json:"sign,omitempty"`
}

// MostMood is the height of the highest point of a curve of mood; the lowest is as far below.
const MostMood = 100

// NoSign is the sign of a contact point that shows none.
const NoSign = "none"

// Signs are those that contact points have, with the words that speak of them.
var Signs = []struct {
	Name  string
	Title string
	Words []string
}{
	{"phone", "Telephone", []string{"phone", "call", "hotline", "rings", "line"}},
	{"message", "Message", []string{"message", "chat", "text", "sms"}},
	{"mail", "Mail", []string{"mail", "letter", "post", "envelope"}},
	{"screen", "Screen", []string{"web", "site", "app", "online", "page", "form", "portal", "screen"}},
	{"person", "Person", []string{"person", "crew", "desk", "counter", "clerk", "visit", "meets", "staff",
		"neighbour"}},
	{"paper", "Paper", []string{"paper", "leaflet", "notice", "bill", "invoice", "sticker", "card"}},
	{"place", "Place", []string{"street", "place", "office", "shop", "site", "door", "hall", "lamp"}},
}

// spoken are the signs of which words speak; begun are those of which words speak that begin so, by their first
// letters.
var spoken, begun = func() (whole, begin map[string]string) {
	whole, begin = map[string]string{}, map[string]string{}
	for _, sign := range slices.Backward(Signs) {
		for _, word := range sign.Words {
			whole[word], whole[word+"s"] = sign.Name, sign.Name
			if len(word) >= shortest {
				begin[word] = sign.Name
			}
		}
	}
	return whole, begin
}()

// shortest is how many letters a word has at least that longer ones may begin with.
const shortest = 4

// SignOf returns the sign of a contact point: the one chosen, or that of the first word that speaks of one; NoSign for
// none.
func (s *Symbol) SignOf() string {
	if s.Sign != "" {
		return s.Sign
	}
	for _, word := range strings.FieldsFunc(strings.ToLower(s.Text), func(r rune) bool { return r < 'a' || r > 'z' }) {
		if sign := spoken[word]; sign != "" {
			return sign
		}
		for n := shortest; n < len(word); n++ {
			if sign := begun[word[:n]]; sign != "" {
				return sign
			}
		}
	}
	return NoSign
}

// Sizes of the parts of a journey.
const (
	// PersonaWidth is the width of the strip with the person whose journey it is, RowHead that of the names of rows.
	PersonaWidth = 144 * geometry.Px
	RowHead      = 116 * geometry.Px
	// JourneyStage is the length with which a stage begins; FoldedStage and FoldedRow are what is left of what is
	// folded.
	JourneyStage = 150 * geometry.Px
	FoldedStage  = 26 * geometry.Px
	FoldedRow    = 24 * geometry.Px
	// CellPad is the room between the cells and what stands in them, CellGap that between those in one cell.
	CellPad = 8 * geometry.Px
	CellGap = 6 * geometry.Px
	// CellLeast is the least height of a symbol in a cell.
	CellLeast = 30 * geometry.Px
	// MoodHeight is the least height of a row with a curve, MoodDot the size of a point of it, and MoodEdge how far the
	// highest and the lowest point stay from the edges.
	MoodHeight = 132 * geometry.Px
	MoodDot    = 12 * geometry.Px
	MoodEdge   = 16 * geometry.Px
	// MoodRoom is the least length of a stage for each point of a curve in it, MaxHead the greatest height to which the
	// name of a row or a stage makes it grow.
	MoodRoom = MoodDot + CellPad
	MaxHead  = 120 * geometry.Px
	// PersonaPicture is the size of the picture of the person.
	PersonaPicture = 88 * geometry.Px
	journeyGap     = 32 * geometry.Px
	// MaxColumn is the greatest length of a stage of a journey, so that as many as there may be have their places.
	MaxColumn = (MaxPlace - PersonaWidth - RowHead) / MaxLanes
)

// measure returns how high a text is that is set into a symbol of a width. Package typeset says so, which knows how
// wide letters are; without it a symbol has its least height.
var measure = func(*Map, *Symbol, int) int { return 0 }

// persona is measure for the words on the person of a journey, heading for the name of a row or a stage.
var (
	persona = func(*Map, *Pool) int { return 0 }
	heading = func(m *Map, name string, w int) int { return 0 }
	// valueLines counts the lines that the values of a symbol of a width take, inside it or under it.
	valueLines = func(_ *Map, _ *Symbol, text string, _ int, _ bool) int { return 1 + strings.Count(text, "\n") }
)

// Measure sets how the heights of texts in the cells of journeys, on their persons and in the heads of rows and stages
// are found, and how many lines the values of a symbol of a width take. It is called once, as the program starts.
func Measure(cell func(m *Map, sym *Symbol, w int) int, person func(m *Map, p *Pool) int,
	head func(m *Map, name string, w int) int,
	values func(m *Map, sym *Symbol, text string, w int, inside bool) int) {
	measure, persona, heading, valueLines = cell, person, head, values
}

// IsCell reports whether the place of a symbol on the sheet follows from the cell of a journey.
func (s *Sheet) IsCell(sym *Symbol) bool { return s.Kind == JourneySheet && sym.Row != "" }

// Board is how the cells of the journeys of a sheet stand at present.
type Board struct {
	seen map[string]SeenCell
	// curves and sums are those of each row, by its id.
	curves map[string]geometry.Polyline
	sums   map[string][]string
	// tall are the heights that were measured, which hold as long as the fonts are the same.
	tall  map[measured]int
	faces []string
}

type measured struct {
	text  string
	kind  Kind
	style Type
	w     int
	shown int
}

// SeenCell is what is drawn of a symbol because of the cell it stands in.
type SeenCell struct {
	Row RowType
	// Hidden says that its row or stage is folded.
	Hidden bool
	// Sign is that of a contact point, Dot where the point of a curve is, from its upper left corner.
	Sign string
	Dot  geometry.Point
	// Fill is the colour of its stage.
	Fill string
}

// Board returns how the cells of the sheet stand; nil where it shows no journeys.
func (s *Sheet) Board() *Board { return s.board }

// Seen returns how a symbol in a cell is drawn.
func (b *Board) Seen(id string) SeenCell {
	if b == nil {
		return SeenCell{}
	}
	return b.seen[id]
}

// Curve returns the points of the curve of a row, from left to right.
func (b *Board) Curve(row string) geometry.Polyline {
	if b == nil {
		return nil
	}
	return b.curves[row]
}

// Sums returns what a row with sums shows in its stages, and last what all of them come to.
func (b *Board) Sums(row string) []string {
	if b == nil {
		return nil
	}
	return b.sums[row]
}

// Drawn says in one text what is drawn in a journey beside what its pool says itself, to tell whether it changed.
func (b *Board) Drawn(p *Pool) string {
	if b == nil || !p.Journey {
		return ""
	}
	var out strings.Builder
	fmt.Fprintln(&out, p.head, p.wide)
	for _, l := range p.Lanes {
		for _, at := range b.curves[l.ID] {
			out.WriteString(strconv.Itoa(at.X) + " " + strconv.Itoa(at.Y) + " ")
		}
		out.WriteString(strings.Join(b.sums[l.ID], "\t") + "\n")
	}
	return out.String()
}

// Hides reports whether a symbol is in a folded branch, row or stage.
func (s *Sheet) Hides(id string) bool { return s.tree.Hides(id) || s.board.Seen(id).Hidden }

// CellBox is the box of a symbol in a cell as long as its place is not known.
var CellBox = geometry.Box{W: 100 * geometry.Px, H: CellLeast}

// Sums reports whether something of the sheet is summed up.
func (s *Sheet) Sums() bool {
	return slices.ContainsFunc(s.Pools, func(p *Pool) bool {
		return slices.ContainsFunc(p.Lanes, func(l Lane) bool { return l.Row == SumRow && l.Field != "" })
	})
}

// RowOf returns the journey and the row that a lane with an id is; nil and -1 for none.
func (s *Sheet) RowOf(lane string) (*Pool, int) {
	for _, p := range s.Pools {
		if i := p.LaneIndex(lane); i >= 0 && p.Journey {
			return p, i
		}
	}
	return nil, -1
}

// InCell returns the symbols of a cell that begin in its stage, in their order.
func (s *Sheet) InCell(row, stage string) (list []*Symbol) {
	for _, sym := range s.Symbols {
		if sym.Row == row && sym.Stage == stage && s.IsCell(sym) {
			list = append(list, sym)
		}
	}
	slices.SortStableFunc(list, ByRank)
	return list
}

// CellAt returns the cell of a row and a stage of a journey; both by their places.
func (p *Pool) CellAt(row, stage int) geometry.Box {
	b := p.Strip(row)
	from, to := p.Span(stage)
	return geometry.Box{X: from, Y: b.Y, W: to - from, H: b.H}
}

// over returns from where to where a symbol that begins in a stage reaches, and whether it can be seen.
func (p *Pool) over(sym *Symbol) (stage, from, to int, seen bool) {
	stage = p.StageIndex(sym.Stage)
	if stage < 0 {
		return 0, 0, 0, false
	}
	last := min(stage+max(sym.Span, 1), len(p.Stages)) - 1
	from, _ = p.Span(stage)
	_, to = p.Span(last)
	for _, st := range p.Stages[stage : last+1] {
		seen = seen || !st.Folded
	}
	return stage, from, to, seen
}

// heights are how high texts are at a width: what stands in a cell, and the name of a row or a stage.
type heights struct {
	cell func(sym *Symbol, w int) int
	name func(text string, w int) int
}

// settleHeads finds how long each stage is with the points of its curves beside each other, and how wide the strip with
// the names of the stages.
func (p *Pool) settleHeads(cells map[string][]*Symbol, tall func(name string, w int) int) {
	p.head, p.wide = 0, make([]int, len(p.Stages))
	for i := range p.Lanes {
		if p.Lanes[i].Row != MoodRow {
			continue
		}
		points := make([]int, len(p.Stages))
		for _, sym := range cells[p.Lanes[i].ID] {
			if k := p.StageIndex(sym.Stage); k >= 0 {
				points[k]++
				p.wide[k] = max(p.wide[k], points[k]*MoodRoom)
			}
		}
	}
	for k := range p.Stages {
		if !p.Stages[k].Folded {
			p.head = max(p.head, min(tall(p.Stages[k].Name, p.length(k)), MaxHead))
		}
	}
}

// settleJourneys gives the journeys of a sheet and what stands in their cells their places, and returns the ids of the
// symbols that are drawn in another way or place than before.
func (m *Map) settleJourneys(s *Sheet) (changed []string) {
	before := s.board
	b := &Board{seen: map[string]SeenCell{}, curves: map[string]geometry.Polyline{}, sums: map[string][]string{},
		tall: map[measured]int{}, faces: slices.Concat(m.Faces, m.Also)}
	cells := map[string][]*Symbol{} // by row
	was := map[string]geometry.Box{}
	for _, sym := range s.Symbols {
		if sym != nil && sym.Row != "" {
			cells[sym.Row] = append(cells[sym.Row], sym)
			was[sym.ID] = sym.Box
		}
	}
	var earlier map[measured]int
	if before != nil && slices.Equal(before.faces, b.faces) {
		earlier = before.tall
	}
	recall := func(key measured, find func() int) int {
		h, known := earlier[key]
		if !known {
			h = find()
		}
		b.tall[key] = h
		return h
	}
	tall := heights{
		cell: func(sym *Symbol, w int) int {
			if len(sym.Accents) > 0 { // few are, and no key says how
				return m.cellHeight(sym, w)
			}
			return recall(measured{sym.Text, sym.Kind, sym.Type, w, m.LinesIn(sym, w)},
				func() int { return m.cellHeight(sym, w) })
		},
		name: func(text string, w int) int {
			return recall(measured{text: text, w: w}, func() int { return heading(m, text, w) })
		},
	}
	y := chartMargin
	for _, p := range s.Pools {
		if p == nil || !p.Journey {
			continue
		}
		p.settleHeads(cells, tall.name)
		p.W = p.Heads()
		for i := range p.Stages {
			p.W += p.length(i)
		}
		p.W = max(p.W, MinPool)
		p.X, p.Y = chartMargin, min(y, MaxPlace)
		if page := s.Page(); s.Middle && page.W-p.W >= 2*chartMargin {
			p.X = geometry.Snap((page.W-p.W)/2, geometry.Px)
		}
		for i := range p.Lanes {
			m.settleRow(b, p, i, cells[p.Lanes[i].ID], tall)
		}
		if short := persona(m, p) - p.Box().H; short > 0 {
			p.Lanes[len(p.Lanes)-1].H += short
		}
		for i := range p.Lanes {
			m.settleMood(b, p, i, cells[p.Lanes[i].ID])
		}
		y = p.Box().Bottom() + journeyGap
	}
	s.board = b
	for _, sym := range s.Symbols {
		if sym != nil && sym.Row != "" && (sym.Box != was[sym.ID] || b.seen[sym.ID] != before.Seen(sym.ID)) {
			changed = append(changed, sym.ID)
		}
	}
	return changed
}

// cellHeight is that of a symbol in a cell at a width.
func (m *Map) cellHeight(sym *Symbol, w int) int {
	if sym.Kind.ShowsPicture() {
		h := w * 3 / 4
		if p := m.Picture(sym.Picture); p != nil && p.W > 0 && p.H > 0 {
			h = min(w*p.H/p.W, w*3/2)
		}
		if sym.Text != "" {
			h += 24 * geometry.Px
		}
		return max(h, CellLeast)
	}
	return max(measure(m, sym, w), CellLeast) + m.LinesIn(sym, w)*ValueLine
}

// ShowsOwner reports whether a symbol in a cell says who does it.
func (s *Symbol) ShowsOwner() bool {
	return s.Owner != "" && (s.Kind == MomentCell || s.Kind == ContactCell)
}

// settleRow gives a row its height, and what stands in it its places, each symbol below those that are there before it.
func (m *Map) settleRow(b *Board, p *Pool, i int, list []*Symbol, tall heights) {
	lane := &p.Lanes[i]
	lane.H = MinLane
	top := p.Strip(i).Y
	slices.SortStableFunc(list, func(a, c *Symbol) int { // what reaches over several stages comes first
		return cmp.Or(cmp.Compare(min(c.Span, 2), min(a.Span, 2)), cmp.Compare(p.StageIndex(a.Stage),
			p.StageIndex(c.Stage)), ByRank(a, c))
	})
	foot := make([]int, len(p.Stages))
	shown := 0
	for _, sym := range list {
		stage, from, to, seen := p.over(sym)
		cell := SeenCell{Row: lane.Row, Hidden: lane.Folded || !seen}
		if stage < len(p.Stages) {
			cell.Fill = p.Stages[stage].Fill
		}
		if sym.Kind == ContactCell {
			cell.Sign = sym.SignOf()
		}
		b.seen[sym.ID] = cell
		w := bounded(to-from-2*CellPad, 2*CellLeast)
		sym.Box = geometry.Box{X: from + CellPad, Y: top + CellPad, W: w, H: CellLeast}
		if cell.Hidden {
			continue
		}
		sym.H = bounded(tall.cell(sym, w), CellLeast)
		if lane.Row == MoodRow {
			lane.H = max(lane.H, 2*(sym.H+MoodEdge))
			continue
		}
		last := min(stage+max(sym.Span, 1), len(p.Stages))
		at := 0
		for _, h := range foot[stage:last] {
			at = max(at, h)
		}
		sym.Y += at
		for k := stage; k < last; k++ {
			foot[k] = at + sym.H + CellGap
		}
		shown = max(shown, at+sym.H)
	}
	switch {
	case lane.Folded:
		lane.H = FoldedRow
	case lane.Row == MoodRow:
		lane.H = max(lane.H, MoodHeight)
	default:
		lane.H = max(lane.H, shown+2*CellPad, min(tall.name(lane.Called(), RowHead), MaxHead))
	}
	lane.H = min(lane.H, MaxPlace)
	if lane.Row == SumRow {
		b.sums[lane.ID] = m.stageSums(p, lane)
	}
}

// bounded returns a length of a symbol that is at least so long and at most what a symbol may be.
func bounded(length, least int) int { return geometry.Clamp(length, least, MaxSymbol) }

// settleMood gives the points of a curve their places: those in one stage beside each other.
func (m *Map) settleMood(b *Board, p *Pool, i int, list []*Symbol) {
	lane := &p.Lanes[i]
	if lane.Row != MoodRow || lane.Folded {
		return
	}
	strip := p.Strip(i)
	of := map[string][]*Symbol{}
	for _, sym := range list {
		of[sym.Stage] = append(of[sym.Stage], sym)
	}
	for k, st := range p.Stages {
		points := of[st.ID]
		slices.SortStableFunc(points, ByRank)
		from, to := p.Span(k)
		for j, sym := range points {
			if st.Folded {
				continue
			}
			w := (to - from) / len(points)
			sym.Box = geometry.Box{X: from + j*w + CellPad/2, Y: strip.Y + CellPad/2, W: bounded(w-CellPad, MoodDot),
				H: bounded(strip.H-CellPad, MoodDot)}
			cell := b.seen[sym.ID]
			cell.Dot = geometry.Point{X: sym.W / 2, Y: MoodY(sym.H, sym.Mood)}
			b.seen[sym.ID] = cell
			b.curves[lane.ID] = append(b.curves[lane.ID], sym.Corner().Add(cell.Dot))
		}
	}
}

// MoodY returns how far below the upper edge of its box the point of a mood is.
func MoodY(h, mood int) int {
	reach := (h - 2*(MoodEdge-CellPad/2)) / 2
	return geometry.Snap(h/2-mood*reach/MostMood, geometry.Px)
}

// MoodAt returns the mood of a point so far below the upper edge of a box, in steps of five.
func MoodAt(h, y int) int {
	reach := max((h-2*(MoodEdge-CellPad/2))/2, 1)
	return geometry.Clamp(geometry.Snap((h/2-y)*MostMood/reach, 5), -MostMood, MostMood)
}

// stageSums returns the sums of the field of a row over the cells of each stage, and of all stages. A cell that has no
// value counts with that of the step it leads to; a step counts once in a stage, however many cells lead to it.
func (m *Map) stageSums(p *Pool, lane *Lane) []string {
	f := m.Field(lane.Field)
	if f == nil || !f.Type.Counts() {
		return nil
	}
	sums := make([]int64, len(p.Stages)+1)
	some := make([]bool, len(sums))
	counted := map[[2]string]bool{} // steps of the map, by stage
	for _, s := range m.Sheets {
		if s == nil || s.Pool(p.ID) != p {
			continue
		}
		for _, sym := range s.Symbols {
			k := p.StageIndex(sym.Stage)
			if k < 0 || p.LaneIndex(sym.Row) < 0 {
				continue
			}
			value := sym.Value(f.ID)
			if step := m.StepOf(sym); value == "" && step != nil {
				if once := [2]string{step.ID, sym.Stage}; !counted[once] {
					counted[once] = true
					value = step.Value(f.ID)
				}
			}
			if amount, ok := values.Amount(f.Type, value); ok {
				for _, at := range [...]int{k, len(p.Stages)} {
					sums[at] += amount
					some[at] = true
				}
			}
		}
	}
	out := make([]string, len(sums))
	for i, sum := range sums {
		if some[i] {
			out[i] = values.ShowSum(f.Type, sum, m.Measures())
		}
	}
	return out
}

// StepOf returns the first symbol of the map to which a cell leads; nil for none.
func (m *Map) StepOf(sym *Symbol) *Symbol {
	for _, l := range sym.Links {
		if id, inside := strings.CutPrefix(l.To, "#"); inside {
			for _, s := range m.Sheets {
				if s == nil {
					continue
				}
				if step := s.Symbol(id); step != nil {
					return step
				}
			}
		}
	}
	return nil
}

// Moments returns the cells of the map's journeys that lead to a symbol, with the sheets they stand on.
func (m *Map) Moments(id string) (list []Half) {
	for _, s := range m.Sheets {
		if s.Kind != JourneySheet {
			continue
		}
		for _, sym := range s.Symbols {
			if slices.ContainsFunc(sym.Links, func(l Hyperlink) bool { return l.To == "#"+id }) {
				list = append(list, Half{s, sym})
			}
		}
	}
	return list
}

// Cells returns the symbols in the cells of a journey in the order in which they are read: stage by stage, in each row
// by row.
func (s *Sheet) Cells(p *Pool) (list []*Symbol) {
	for _, sym := range s.Symbols {
		if s.IsCell(sym) && p.LaneIndex(sym.Row) >= 0 {
			list = append(list, sym)
		}
	}
	slices.SortStableFunc(list, func(a, b *Symbol) int {
		return cmp.Or(cmp.Compare(p.StageIndex(a.Stage), p.StageIndex(b.Stage)),
			cmp.Compare(p.LaneIndex(a.Row), p.LaneIndex(b.Row)), ByRank(a, b))
	})
	return list
}

// CellName says where a symbol stands: its row and its stage, or stages.
func (s *Sheet) CellName(sym *Symbol) string {
	p, i := s.RowOf(sym.Row)
	if p == nil {
		return ""
	}
	name := p.Lanes[i].Called()
	if k := p.StageIndex(sym.Stage); k >= 0 {
		name += ", " + Flat(p.Stages[k].Name)
		if last := min(k+max(sym.Span, 1), len(p.Stages)) - 1; last > k {
			name += " to " + Flat(p.Stages[last].Name)
		}
	}
	return name
}

// Called is the name of a row, or of its type where it has none.
func (l *Lane) Called() string { return cmp.Or(Flat(l.Name), l.Row.Row().Name) }

// validate reports what is wrong with a cell.
func (c *Cell) validate(path string) error {
	switch {
	case c.Row != "" && !ValidID(c.Row):
		return fault(path+".row", "%q is no id", c.Row)
	case c.Stage != "" && !ValidID(c.Stage):
		return fault(path+".stage", "%q is no id", c.Stage)
	case (c.Row == "") != (c.Stage == ""):
		return fault(path+".row", "a cell is in a row and in a stage, not in one of them alone")
	case c.Span < 0 || c.Span > MaxLanes:
		return fault(path+".span", "a cell reaches over at most %d stages, not %d", MaxLanes, c.Span)
	case c.Mood < -MostMood || c.Mood > MostMood:
		return fault(path+".mood", "a mood is from %d to %d, not %d", -MostMood, MostMood, c.Mood)
	}
	return checkSign(path, c.Sign)
}

func checkSign(path, sign string) error {
	if sign == "" || sign == NoSign {
		return nil
	}
	for _, s := range Signs {
		if s.Name == sign {
			return nil
		}
	}
	return fault(path+".sign", "%q is no sign of a contact point", sign)
}

// validateJourney reports what is wrong with what a pool says of a journey.
func (p *Pool) validateJourney(path string) error {
	if err := checkText(path+".words", p.Words, MaxText); err != nil {
		return err
	}
	if p.Picture != "" && !ValidID(p.Picture) {
		return fault(path+".picture", "%q is no id of a picture", p.Picture)
	}
	if !p.Journey {
		return nil
	}
	if p.Down {
		return fault(path+".down", "the rows of a journey lie across the sheet")
	}
	if len(p.Stages) == 0 {
		return broken(path+".stages", "a journey has 1 to %d stages, not none", MaxLanes)
	}
	for i, l := range p.Lanes {
		at := fmt.Sprintf("%s.lanes[%d]", path, i)
		if !l.Row.Known() {
			return fault(at+".row", "%q is no type of row this program knows", l.Row)
		}
		if l.Field != "" && !ValidID(l.Field) {
			return fault(at+".field", "%q is no id", l.Field)
		}
	}
	return nil
}

// cellFaults reports symbols in cells that are not there.
func (s *Sheet) cellFaults(on *reporter, path string) {
	for i, p := range s.Pools {
		if p != nil && p.Journey != (s.Kind == JourneySheet) && !on.done {
			on.report(s.ID, p.ID, broken(place{path: path, list: "pools", i: i}.String()+".journey",
				"journeys stand on sheets of their own"))
		}
	}
	if s.Kind != JourneySheet {
		return
	}
	for i, sym := range s.Symbols {
		if sym == nil || sym.Row == "" || on.done {
			continue
		}
		if p, _ := s.RowOf(sym.Row); p == nil || p.StageIndex(sym.Stage) < 0 {
			on.report(s.ID, sym.ID, broken(place{path: path, list: "symbols", i: i}.String()+".row",
				"there is no cell %q, %q on this sheet", sym.Row, sym.Stage))
		}
	}
}
