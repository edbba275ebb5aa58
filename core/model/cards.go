package model

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
)

// SheetKind is what a sheet shows. It is chosen when the sheet is made.
type SheetKind string

// The kinds of sheets: a flow of work, cards of which each stands under its superior, or journeys.
const (
	FlowSheet      SheetKind = ""
	HierarchySheet SheetKind = "hierarchy"
)

// Chart is how the cards of a hierarchy stand and what is shown of them.
type Chart struct {
	// Below is how the cards under a card stand, Last how those stand of whom none has anybody under it; empty is down,
	// and as the others.
	Below hierarchy.Arrangement `json:"below,omitempty"`
	Last  hierarchy.Arrangement `json:"last,omitempty"`
	// Aligned lets all cards of a level begin on one line.
	Aligned bool `json:"aligned,omitempty"`
	// Square shows the pictures on cards square, instead of round.
	Square bool `json:"square,omitempty"`
	// Counted shows on each card how many people are under it.
	Counted bool `json:"counted,omitempty"`
	// ByLevel colours the cards by their levels.
	ByLevel bool `json:"byLevel,omitempty"`
	// Numbered numbers the cards by their places: 1, 1.1, 1.2.
	Numbered bool `json:"numbered,omitempty"`
}

// Seat is the place of a card in a hierarchy. On other sheets it is empty.
type Seat struct {
	// Under is the id of the card it stands under; empty at the head. Rank orders those under the same one.
	Under string `json:"under,omitempty"`
	Rank  int    `json:"rank,omitempty"`
	// Assistant sets it beside the line that leads down from its superior.
	Assistant bool `json:"assistant,omitempty"`
	// Post says that nobody holds the post at present.
	Post Post `json:"post,omitempty"`
	// Via is what stands on the line that leads to it.
	Via string `json:"via,omitempty"`
	// Below and Last are as for the chart, from this card on.
	Below hierarchy.Arrangement `json:"below,omitempty"`
	Last  hierarchy.Arrangement `json:"last,omitempty"`
	// Folded hides what is under it.
	Folded bool `json:"folded,omitempty"`
}

// ByRank compares two cards by their places among those under the same one.
func ByRank(a, b *Symbol) int { return cmp.Or(cmp.Compare(a.Rank, b.Rank), cmp.Compare(a.ID, b.ID)) }

// Post is what a card says of a post that nobody holds.
type Post string

// The posts: held, free at present, and yet to be made.
const (
	Filled  Post = ""
	Vacant  Post = "vacant"
	Planned Post = "planned"
)

// maxRank bounds the ranks of cards, and RankStep is how far those are apart that are given anew.
const (
	maxRank  = 1 << 40
	RankStep = 1 << 12
)

// IsCard reports whether a symbol of the kind stands in a hierarchy as a card, so that its place follows.
func (k Kind) IsCard() bool {
	return !k.IsAside() && !k.StandsAnywhere() && !k.Explains()
}

// IsCard reports whether the place of a symbol on the sheet follows from who is under whom.
func (s *Sheet) IsCard(sym *Symbol) bool { return s.Kind == HierarchySheet && sym.Kind.IsCard() }

// Seated reports whether the place of a symbol on the sheet follows, in a hierarchy or a journey.
func (s *Sheet) Seated(sym *Symbol) bool { return s.IsCard(sym) || s.IsCell(sym) }

// Tree is how the cards of a sheet stand at present.
type Tree struct {
	*hierarchy.Chart
	// Cards are in the order of the lists of the chart; those under one are in the order of their ranks.
	Cards []*Symbol
	at    map[string]int
	// seen is how each card is drawn beside what it says itself.
	seen []Seen
}

// Seen is what is drawn of a card because of where it stands.
type Seen struct {
	// Lines are those that are drawn with the card, from its upper left corner: their points in hundredths of a pixel,
	// with spaces between them and commas between x and y, each line after a stroke.
	Lines string
	// Via is where the middle of the words on the line to it stands.
	Via geometry.Point
	// Hidden says that it is in a folded branch. Folded is how many cards are folded under it.
	Hidden bool
	Folded int
	// Level is how many stand above it, Direct and All how many people are directly under it, and in all.
	Level, Direct, All int
	// Counted, Square and ByLevel are as for the chart.
	Counted, Square, ByLevel bool
	// Number is that of the card; empty where they are not numbered.
	Number string
}

// Tree returns how the cards of the sheet stand; nil where it is no hierarchy.
func (s *Sheet) Tree() *Tree { return s.tree }

// Place returns the place of a card in the lists of the tree, or -1.
func (t *Tree) Place(id string) int {
	if t != nil {
		if i, ok := t.at[id]; ok {
			return i
		}
	}
	return -1
}

// Seen returns how a card is drawn.
func (t *Tree) Seen(id string) Seen {
	if i := t.Place(id); i >= 0 {
		return t.seen[i]
	}
	return Seen{}
}

// Hides reports whether a symbol is in a folded branch.
func (t *Tree) Hides(id string) bool {
	i := t.Place(id)
	return i >= 0 && t.Hidden[i]
}

// Superior returns the card above one; nil at the head.
func (t *Tree) Superior(id string) *Symbol {
	if i := t.Place(id); i >= 0 {
		return t.Card(t.Cards[i].Under)
	}
	return nil
}

// Card returns the card with an id; nil where there is none.
func (t *Tree) Card(id string) *Symbol {
	if i := t.Place(id); i >= 0 {
		return t.Cards[i]
	}
	return nil
}

// Below returns the cards directly under one, or those at the head for an empty id, in their order.
func (t *Tree) Below(id string) (list []*Symbol) {
	if t == nil {
		return nil
	}
	if id == "" {
		for i, c := range t.Cards {
			if t.Level[i] == 0 {
				list = append(list, c)
			}
		}
		return list
	}
	if i := t.Place(id); i >= 0 {
		for _, k := range t.Under[i] {
			list = append(list, t.Cards[k])
		}
	}
	return list
}

// Branch returns a card and all that are under it, superiors before those under them.
func (t *Tree) Branch(id string) (list []*Symbol) {
	i := t.Place(id)
	if i < 0 {
		return nil
	}
	todo := []int{i}
	for len(todo) > 0 {
		k := todo[0]
		todo = append(slices.Clone(t.Under[k]), todo[1:]...)
		list = append(list, t.Cards[k])
	}
	return list
}

// Order returns all cards, each before those under it.
func (t *Tree) Order() (list []*Symbol) {
	if t == nil {
		return nil
	}
	for _, c := range t.Below("") {
		list = append(list, t.Branch(c.ID)...)
	}
	return list
}

// Heads returns how many people a card stands for: one, several on the card of a team, none while the post is free.
func (s *Symbol) Heads() int {
	switch {
	case s.Post != Filled:
		return 0
	case s.Kind == TeamCard:
		_, list, _ := strings.Cut(s.Text, "\n")
		return len(strings.FieldsFunc(list, func(r rune) bool { return r == '\n' }))
	}
	return 1
}

// CardName returns the name and the role that a card shows. On the card of a free post there is only a role.
func (s *Symbol) CardName() (name, role string) {
	name, role, _ = strings.Cut(s.Text, "\n")
	if s.Post != Filled && role == "" {
		return "", name
	}
	return name, strings.TrimSpace(role)
}

// CardTitle names a card: by the name on it, or the role where there is none.
func (s *Symbol) CardTitle() string {
	name, role := s.CardName()
	if name == "" {
		name = role
	}
	return Flat(name)
}

// Posts returns the names of the posts and teams of the map's hierarchies, or where there are only people their roles;
// each once, at most as many as a pool has lanes.
func (m *Map) Posts() (list []string) {
	seen := map[string]bool{"": true}
	for _, people := range [2]bool{false, true} {
		for _, s := range m.Sheets {
			for _, c := range s.Tree().Order() {
				name := c.CardTitle()
				if c.Kind == PersonCard {
					_, role := c.CardName()
					name = Flat(role)
				}
				if (c.Kind == PersonCard) == people && !seen[name] && len(list) < MaxLanes {
					seen[name] = true
					list = append(list, name)
				}
			}
		}
		if len(list) > 0 {
			break
		}
	}
	return list
}

// Parts returns what lanes of the map are part of, and the teams of its hierarchies, each once, in the order of the
// map.
func (m *Map) Parts() (list []string) {
	seen := map[string]bool{"": true}
	add := func(name string) {
		if name = Flat(name); !seen[name] && len(list) < MaxLanes {
			seen[name] = true
			list = append(list, name)
		}
	}
	for p := range m.Laned() {
		for _, l := range p.Lanes {
			add(l.Of)
		}
	}
	for _, s := range m.Sheets {
		for _, c := range s.Tree().Order() {
			if c.Kind != PersonCard {
				add(c.CardTitle())
			}
		}
	}
	return list
}

// CardRole returns what a card says beside its title.
func (s *Symbol) CardRole() string {
	if name, role := s.CardName(); name != "" {
		return Flat(role)
	}
	return ""
}

// DottedLine is how a connector is drawn in a hierarchy: as the line to somebody else that a card also reports to.
func DottedLine() Stroke { return Stroke{Line: DotLine, ToMark: MarkNone} }

// CardCalled returns the first card of the map's hierarchies that is called so, whatever the case; nil for none.
func (m *Map) CardCalled(name string) *Symbol {
	if name = Flat(name); name == "" {
		return nil
	}
	for _, s := range m.Sheets {
		if s.Kind != HierarchySheet {
			continue
		}
		for _, c := range s.Symbols {
			first, _, _ := strings.Cut(c.Text, "\n")
			if c.Kind.IsCard() && strings.EqualFold(Flat(first), name) {
				return c
			}
		}
	}
	return nil
}

const chartMargin = 40 * geometry.Px

// ValueLine is the height of a line under a symbol that shows the value of a field.
const ValueLine = 15 * geometry.Px

// SettleAll gives the cards of all hierarchies and the cells of all journeys their places.
func (m *Map) SettleAll() {
	for _, s := range m.Sheets {
		if s != nil {
			m.Settle(s)
		}
	}
}

// Settle gives the cards of a hierarchy the places that follow from who is under whom, and what stands in the cells of
// journeys those that follow from these. It returns the ids of those that are drawn in another way or place than
// before, and does nothing to other sheets.
func (m *Map) Settle(s *Sheet) (changed []string) {
	if s.Kind == JourneySheet {
		return m.settleJourneys(s)
	}
	if s.Kind != HierarchySheet {
		return nil
	}
	before := s.tree
	t := m.newTree(s, before)
	t.standOn(s)
	s.tree = t
	for i, c := range t.Cards {
		at := t.Centre[i].Sub(geometry.Point{X: c.W / 2, Y: t.height(c, m) / 2})
		moved := at != c.Corner()
		c.X, c.Y = at.X, at.Y
		was := before.Place(c.ID)
		old := Seen{}
		if was >= 0 {
			old = before.seen[was]
			if !t.Hidden[i] && !old.Hidden && t.Alike(i, before.Chart, was) {
				t.seen[i].Lines = old.Lines
			}
		}
		t.see(s, i, at)
		if moved || was < 0 || old != t.seen[i] {
			changed = append(changed, c.ID)
		}
	}
	return changed
}

// newTree arranges the cards of a sheet, with the upper left corner of them all somewhere.
func (m *Map) newTree(s *Sheet, before *Tree) *Tree {
	t := &Tree{at: make(map[string]int, len(s.Symbols))}
	for _, sym := range s.Symbols {
		if sym != nil && sym.Kind.IsCard() {
			t.Cards = append(t.Cards, sym)
		}
	}
	slices.SortStableFunc(t.Cards, ByRank)
	for i, c := range t.Cards {
		t.at[c.ID] = i
	}
	nodes := make([]hierarchy.Node, len(t.Cards))
	for i, c := range t.Cards {
		under := -1
		if k, ok := t.at[c.Under]; ok && k != i {
			under = k
		}
		nodes[i] = hierarchy.Node{ID: c.ID, W: c.W, H: t.height(c, m), Under: under, Assistant: c.Assistant,
			Below: c.Seat.Below, Last: c.Last, Folded: c.Folded}
	}
	var earlier *hierarchy.Chart
	if before != nil {
		earlier = before.Chart
	}
	t.Chart = hierarchy.Place(nodes, hierarchy.Settings{Below: s.Chart.Below, Last: s.Chart.Last,
		Level: s.Chart.Aligned, Apart: hierarchy.Apart, Gap: hierarchy.Gap, Indent: hierarchy.Indent}, earlier)
	t.seen = make([]Seen, len(t.Cards))
	if t.count(); s.Chart.Numbered {
		t.number()
	}
	return t
}

// height is that of a card with the lines of the fields that the map shows.
func (t *Tree) height(c *Symbol, m *Map) int { return c.H + m.LinesIn(c, c.W)*ValueLine }

// standOn moves the chart onto the paper: into the middle of its width, where that holds it, and below its upper edge.
func (t *Tree) standOn(s *Sheet) {
	var all geometry.Box
	for i, c := range t.Cards {
		if !t.Hidden[i] {
			all = all.Union(geometry.Around(t.Centre[i], c.W, c.H))
		}
	}
	page := s.Page()
	by := geometry.Point{X: chartMargin - all.X, Y: chartMargin - all.Y}
	if free := page.W - all.W; s.Middle && free >= 2*chartMargin {
		by.X = geometry.Snap(free/2, geometry.Px) - all.X
	}
	t.Move(by)
}

// see completes how card i is drawn with its upper left corner at a place; where its lines are known already, these
// stay.
func (t *Tree) see(s *Sheet, i int, at geometry.Point) {
	seen, c := &t.seen[i], t.Cards[i]
	seen.Hidden, seen.Level = t.Hidden[i], t.Level[i]
	seen.Counted, seen.Square, seen.ByLevel = s.Chart.Counted, s.Chart.Square, s.Chart.ByLevel
	if !c.Folded {
		seen.Folded = 0
	}
	if !c.Folded && !s.Chart.Counted {
		seen.Direct, seen.All = 0, 0
	}
	if seen.Hidden {
		return
	}
	if c.Via != "" {
		if way := t.Way(i); len(way) > 1 {
			a, b := way[len(way)-2], way[len(way)-1]
			seen.Via = geometry.Point{X: (a.X + b.X) / 2, Y: (a.Y + b.Y) / 2}.Sub(at)
		}
	}
	if seen.Lines != "" {
		return
	}
	var buf [256]byte
	b := buf[:0]
	for _, line := range [...]geometry.Polyline{t.Stem(i), t.Drop(i)} {
		if len(line) < 2 {
			continue
		}
		b = append(b, '|')
		for _, p := range line {
			p = p.Sub(at)
			b = append(strconv.AppendInt(append(strconv.AppendInt(b, int64(p.X), 10), ','), int64(p.Y), 10), ' ')
		}
	}
	seen.Lines = string(b)
}

// number numbers the cards, each behind its superior and by its place among those beside it.
func (t *Tree) number() {
	var below func(prefix string, list []*Symbol)
	below = func(prefix string, list []*Symbol) {
		for k, c := range list {
			number := prefix + strconv.Itoa(k+1)
			t.seen[t.at[c.ID]].Number = number
			below(number+".", t.Below(c.ID))
		}
	}
	below("", t.Below(""))
}

// count notes how many people are under each card, and how many cards.
func (t *Tree) count() {
	order := make([]int, 0, len(t.Cards))
	for i := range t.Cards {
		if t.Level[i] == 0 {
			order = append(order, i)
		}
	}
	for k := 0; k < len(order); k++ {
		order = append(order, t.Under[order[k]]...)
	}
	for _, i := range slices.Backward(order) {
		seen := &t.seen[i]
		for _, k := range t.Under[i] {
			heads := t.Cards[k].Heads()
			seen.Direct += heads
			seen.All += heads + t.seen[k].All
			seen.Folded += 1 + t.seen[k].Folded
		}
	}
}

// Band is a level of a hierarchy across the sheet.
type Band struct {
	Name     string
	From, To int
}

// Bands returns the levels that have a name, from the head down; none where the cards of a level do not begin on one
// line.
func (s *Sheet) Bands() (list []Band) {
	t := s.Tree()
	if t == nil || len(s.Levels) == 0 || !s.Chart.Aligned ||
		s.Chart.Below != "" && s.Chart.Below != hierarchy.Down || s.Chart.Last != "" {
		return nil
	}
	for level, name := range s.Levels {
		b := Band{Name: name}
		for i, c := range t.Cards {
			if t.Level[i] == level && !t.Hidden[i] && !c.Assistant {
				if b.To == 0 {
					b.From, b.To = c.Y, c.Bottom()
				}
				b.From, b.To = min(b.From, c.Y), max(b.To, c.Bottom())
			}
		}
		if b.To > 0 {
			list = append(list, b)
		}
	}
	return list
}

// seated reports whether the symbol has a seat, from which its place follows, however wide the chart is.
func (c *Seat) seated() bool { return c.Under != "" || c.Rank != 0 }

// validate reports what is wrong with a seat.
func (c *Seat) validate(path string) error {
	switch {
	case c.Under != "" && !ValidID(c.Under):
		return fault(path+".under", "%q is no id", c.Under)
	case c.Rank < -maxRank || c.Rank > maxRank:
		return fault(path+".rank", "the rank %d is beyond all ranks", c.Rank)
	case !slices.Contains([]Post{Filled, Vacant, Planned}, c.Post):
		return fault(path+".post", "%q is no state of a post; use vacant, planned, or nothing", c.Post)
	}
	if err := checkArrangement(path+".below", c.Below); err != nil {
		return err
	}
	if err := checkArrangement(path+".last", c.Last); err != nil {
		return err
	}
	return checkText(path+".via", c.Via, MaxName)
}

func checkArrangement(path string, a hierarchy.Arrangement) error {
	if a != "" && !slices.Contains(hierarchy.Arrangements, a) {
		return fault(path, "%q is no arrangement of cards", a)
	}
	return nil
}

// validateChart reports what is wrong with how a sheet shows a hierarchy.
func (h *SheetHead) validateChart(path string) error {
	if h.Kind != FlowSheet && h.Kind != HierarchySheet && h.Kind != JourneySheet {
		return fault(path+".kind", "%q is no kind of sheet this program knows", h.Kind)
	}
	if err := checkArrangement(path+".chart.below", h.Chart.Below); err != nil {
		return err
	}
	if err := checkArrangement(path+".chart.last", h.Chart.Last); err != nil {
		return err
	}
	if len(h.Levels) > maxLevels {
		return fault(path+".levels", "at most %d levels have a name, not %d", maxLevels, len(h.Levels))
	}
	for i, name := range h.Levels {
		if err := checkText(fmt.Sprintf("%s.levels[%d]", path, i), name, MaxName); err != nil {
			return err
		}
	}
	return nil
}

// maxLevels is how many levels of a hierarchy may have a name.
const maxLevels = 40

// seatFaults reports cards that stand under none of the sheet, or in a circle.
func (s *Sheet) seatFaults(on *reporter, path string, symbols map[string]*Symbol) {
	if s.Kind != HierarchySheet {
		return
	}
	sound := map[string]bool{} // those whose way to the head is known to be sound
	for i, sym := range s.Symbols {
		if sym == nil || sym.Under == "" || on.done {
			continue
		}
		at := place{path: path, list: "symbols", i: i}
		up := symbols[sym.Under]
		if up == nil || !up.Kind.IsCard() || !sym.Kind.IsCard() {
			on.report(s.ID, sym.ID, broken(at.String()+".under", "there is no card %q on this sheet", sym.Under))
			continue
		}
		var way []string
		for c := sym; c != nil && !sound[c.ID]; c = symbols[c.Under] {
			if way = append(way, c.ID); len(way) > len(s.Symbols) {
				on.report(s.ID, sym.ID, broken(at.String()+".under", "the card would be under itself"))
				way = nil
				break
			}
		}
		for _, id := range way {
			sound[id] = true
		}
	}
}
