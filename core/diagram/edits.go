package diagram

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/pictures"
)

// The edits. Each names the sheet it is about by its id.
type (
	// SetHead changes what belongs to the map; nil leaves a value alone.
	SetHead struct {
		Title     *string    `json:"title,omitempty"`
		Direction *Direction `json:"direction,omitempty"`
		Answers   []string   `json:"answers,omitempty"`
		Numbers   *bool      `json:"numbers,omitempty"`
		Units     *Units     `json:"units,omitempty"`
		Look      *string    `json:"look,omitempty"`
		Heading   *Heading   `json:"heading,omitempty"`
		Above     *bool      `json:"above,omitempty"`
		// Colours replaces the house's colours, unless it is nil.
		Colours *[]HouseColour `json:"colours,omitempty"`
		// Faces replaces the fonts the map is written in, unless it is nil.
		Faces *[]string `json:"faces,omitempty"`
	}
	// AddSheet puts a sheet, empty or with content, at place At.
	AddSheet struct {
		At    int   `json:"at"`
		Sheet Sheet `json:"sheet"`
	}
	// SetSheet changes a sheet's name or paper; nil leaves a value alone.
	SetSheet struct {
		Sheet     string    `json:"sheet"`
		Name      *string   `json:"name,omitempty"`
		Paper     *string   `json:"paper,omitempty"`
		Across    *bool     `json:"across,omitempty"`
		Fitting   *Fitting  `json:"fitting,omitempty"`
		Crossings *Crossing `json:"crossings,omitempty"`
		Merging   *bool     `json:"merging,omitempty"`
		Edge      *Edge     `json:"edge,omitempty"`
		Ground    *Ground   `json:"ground,omitempty"`
		Headed    *bool     `json:"headed,omitempty"`
	}
	// MoveSheet takes a sheet to place To.
	MoveSheet struct {
		Sheet string `json:"sheet"`
		To    int    `json:"to"`
	}
	// RemoveSheet takes a sheet away with all it holds.
	RemoveSheet struct {
		Sheet string `json:"sheet"`
	}
	// AddItems sets down symbols and the connectors among them and to what is
	// there already.
	AddItems struct {
		Sheet      string      `json:"sheet"`
		Symbols    []Symbol    `json:"symbols,omitempty"`
		Connectors []Connector `json:"connectors,omitempty"`
		// As says in words what was done, such as "paste".
		As string `json:"as,omitempty"`
		// Behind sets the symbols down behind all others.
		Behind bool `json:"behind,omitempty"`
		// Pictures are those the symbols show, as far as the map may lack them.
		Pictures []pictures.Picture `json:"pictures,omitempty"`
	}
	// RemoveItems takes symbols, connectors and pools away, and every
	// connector glued to one of the symbols. A connector that joined one of
	// those taken away leads to where that one led.
	RemoveItems struct {
		Sheet string   `json:"sheet"`
		IDs   []string `json:"ids"`
	}
	// MoveItems shifts symbols, and pools with all that stands in them.
	MoveItems struct {
		Sheet string         `json:"sheet"`
		IDs   []string       `json:"ids"`
		By    geometry.Point `json:"by"`
		// Held leaves lanes as they are while the items are still in the hand.
		Held bool `json:"-"`
	}
	// PlaceItems gives symbols new boxes.
	PlaceItems struct {
		Sheet string `json:"sheet"`
		// As says in words what the places came from, such as "align left".
		As    string  `json:"as,omitempty"`
		Boxes []Place `json:"boxes"`
		Held  bool    `json:"-"`
	}
	// SetText writes the text of a symbol or a label of a connector: the one in
	// the middle, or with At set to "from" or "to" the one at that end.
	SetText struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		At    string `json:"at,omitempty"`
		Text  string `json:"text"`
	}
	// SetPlace puts a label of a connector to a place chosen by hand; the zero
	// place lets it find its own again.
	SetPlace struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		At    string `json:"at,omitempty"`
		Place Spot   `json:"place"`
	}
	// SetBends lays stretches of a connector by hand; none gives its whole
	// course back to the router.
	SetBends struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		Bends []Bend `json:"bends,omitempty"`
	}
	// SetKind makes a symbol another kind; all else stays.
	SetKind struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		Kind  Kind   `json:"kind"`
	}
	// SetStyle changes how symbols and connectors are drawn and their texts
	// set; nil leaves a value alone, and what a thing does not have is passed
	// over.
	SetStyle struct {
		Sheet     string    `json:"sheet"`
		IDs       []string  `json:"ids"`
		Fill      *string   `json:"fill,omitempty"`
		Look      *string   `json:"look,omitempty"`
		Dashed    *bool     `json:"dashed,omitempty"`
		Emphasis  *bool     `json:"emphasis,omitempty"`
		Trunk     *bool     `json:"trunk,omitempty"`
		Picture   *string   `json:"picture,omitempty"`
		Tip       *Tip      `json:"tip,omitempty"`
		Bold      *bool     `json:"bold,omitempty"`
		Italic    *bool     `json:"italic,omitempty"`
		Underline *bool     `json:"underline,omitempty"`
		Size      *int      `json:"size,omitempty"`
		Colour    *string   `json:"colour,omitempty"`
		Align     *string   `json:"align,omitempty"`
		Stand     *string   `json:"stand,omitempty"`
		Margin    *int      `json:"margin,omitempty"`
		Bullets   *bool     `json:"bullets,omitempty"`
		Line      *Line     `json:"line,omitempty"`
		Weight    *int      `json:"weight,omitempty"`
		Ink       *string   `json:"ink,omitempty"`
		Course    *Run      `json:"course,omitempty"`
		Radius    *int      `json:"radius,omitempty"`
		Hop       *Crossing `json:"hop,omitempty"`
		Merge     *Merging  `json:"merge,omitempty"`
		FromMark  *Mark     `json:"fromMark,omitempty"`
		ToMark    *Mark     `json:"toMark,omitempty"`
		MarkSize  *MarkSize `json:"markSize,omitempty"`
	}
	// SetEnds glues the ends of a connector; nil leaves an end alone.
	SetEnds struct {
		Sheet string `json:"sheet"`
		ID    string `json:"id"`
		From  *End   `json:"from,omitempty"`
		To    *End   `json:"to,omitempty"`
	}
	// Order brings symbols to the front of the sheet, or sends them to its
	// back, keeping their order among each other. With Step they pass only the
	// next symbol that they overlap, or the next one at all if there is none.
	Order struct {
		Sheet string   `json:"sheet"`
		IDs   []string `json:"ids"`
		Back  bool     `json:"back,omitempty"`
		Step  bool     `json:"step,omitempty"`
	}
	// AddPool sets down a pool with its lanes.
	AddPool struct {
		Sheet string `json:"sheet"`
		Pool  Pool   `json:"pool"`
	}
	// SetPool changes a pool's title or width, or the way the names of its lanes are
	// set; nil leaves a value alone.
	SetPool struct {
		Sheet string  `json:"sheet"`
		Pool  string  `json:"pool"`
		Title *string `json:"title,omitempty"`
		W     *int    `json:"w,omitempty"`
		Level *bool   `json:"level,omitempty"`
	}
	// InsertLane puts a lane at place At of a pool.
	InsertLane struct {
		Sheet string `json:"sheet"`
		Pool  string `json:"pool"`
		At    int    `json:"at"`
		Lane  Lane   `json:"lane"`
	}
	// SetLane changes a lane's name, height or colours, or what it is a part of; nil
	// leaves a value alone.
	SetLane struct {
		Sheet string  `json:"sheet"`
		Pool  string  `json:"pool"`
		Lane  string  `json:"lane"`
		Name  *string `json:"name,omitempty"`
		H     *int    `json:"h,omitempty"`
		Of    *string `json:"of,omitempty"`
		Fill  *string `json:"fill,omitempty"`
		Head  *string `json:"head,omitempty"`
	}
	// RemoveLane takes a lane away; its steps join the neighbouring lane.
	RemoveLane struct {
		Sheet string `json:"sheet"`
		Pool  string `json:"pool"`
		Lane  string `json:"lane"`
	}
	// Batch makes several edits as one: all of them or none.
	Batch struct {
		As    string     `json:"as"`
		Edits []Envelope `json:"edits"`
	}
)

// Place is the box a symbol is to have.
type Place struct {
	ID string `json:"id"`
	geometry.Box
}

// Together returns one edit that makes all the given ones, called as.
func Together(as string, edits ...Edit) Edit {
	if len(edits) == 1 {
		return edits[0]
	}
	b := &Batch{As: as}
	for _, e := range edits {
		b.Edits = append(b.Edits, Envelope{e})
	}
	return b
}

func count(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Words of each edit, as they stand after "Undo".
func (e *SetHead) Words() string     { return "change the map" }
func (e *AddSheet) Words() string    { return "add a sheet" }
func (e *SetSheet) Words() string    { return "change the sheet" }
func (e *MoveSheet) Words() string   { return "move the sheet" }
func (e *RemoveSheet) Words() string { return "remove the sheet" }
func (e *AddItems) Words() string {
	if e.As != "" {
		return e.As
	}
	if len(e.Symbols) == 0 {
		return "connect"
	}
	return "add " + count(len(e.Symbols), "a symbol", "symbols")
}
func (e *RemoveItems) Words() string { return "delete " + count(len(e.IDs), "one item", "items") }
func (e *MoveItems) Words() string   { return "move " + count(len(e.IDs), "one item", "items") }
func (e *OpenSpace) Words() string {
	if e.By < 0 {
		return "close a gap"
	}
	return "make room"
}
func (e *PlaceItems) Words() string {
	if e.As != "" {
		return e.As
	}
	return "resize " + count(len(e.Boxes), "one symbol", "symbols")
}
func (e *SetText) Words() string  { return "write" }
func (e *SetPlace) Words() string { return "move the label" }
func (e *SetBends) Words() string {
	if len(e.Bends) == 0 {
		return "give the course back"
	}
	return "bend the connector"
}
func (e *SetKind) Words() string    { return "change the kind" }
func (e *SetStyle) Words() string   { return "style " + count(len(e.IDs), "one item", "items") }
func (e *SetEnds) Words() string    { return "reconnect" }
func (e *Order) Words() string      { return "change the order" }
func (e *AddPool) Words() string    { return "add lanes" }
func (e *SetPool) Words() string    { return "change the pool" }
func (e *InsertLane) Words() string { return "insert a lane" }
func (e *SetLane) Words() string    { return "change the lane" }
func (e *RemoveLane) Words() string { return "remove a lane" }
func (e *Batch) Words() string      { return e.As }

// wordsOn returns the words of an edit that names things of a map by what they
// are: "move 3 steps".
func wordsOn(m *Map, e Edit) string {
	switch e := e.(type) {
	case *MoveItems:
		return "move " + m.speak(e.Sheet, e.IDs)
	case *RemoveItems:
		return "delete " + m.speak(e.Sheet, e.IDs)
	case *SetStyle:
		return "style " + m.speak(e.Sheet, e.IDs)
	case *SetLock:
		if e.Locked {
			return "lock " + m.speak(e.Sheet, e.IDs)
		}
		return "unlock " + m.speak(e.Sheet, e.IDs)
	case *Batch:
		if e.As == "" && len(e.Edits) > 0 {
			return wordsOn(m, e.Edits[0].Edit)
		}
	}
	if e == nil {
		return ""
	}
	return e.Words()
}

// speak says in words what ids stand for.
func (m *Map) speak(sheet string, ids []string) string {
	s := m.Sheet(sheet)
	if s == nil {
		return count(len(ids), "one item", "items")
	}
	steps, symbols, connectors := 0, 0, 0
	for _, id := range ids {
		switch sym := s.Symbol(id); {
		case sym != nil && sym.Kind.IsStep():
			steps++
		case sym != nil:
			symbols++
		case s.Connector(id) != nil:
			connectors++
		}
	}
	switch len(ids) {
	case steps:
		return count(steps, "a step", "steps")
	case symbols + steps:
		return count(len(ids), "a symbol", "symbols")
	case connectors:
		return count(connectors, "a connector", "connectors")
	}
	return count(len(ids), "one item", "items")
}

func set[T any](to *T, from *T) {
	if from != nil {
		*to = *from
	}
}

func (e *SetHead) change(t *trial) error {
	h := t.editHead()
	set(&h.Title, e.Title)
	set(&h.Direction, e.Direction)
	set(&h.Numbers, e.Numbers)
	set(&h.Units, e.Units)
	set(&h.Look, e.Look)
	set(&h.Heading, e.Heading)
	set(&h.Above, e.Above)
	if e.Colours != nil {
		h.Colours = slices.Clone(*e.Colours)
	}
	if e.Faces != nil {
		h.Faces = slices.Clone(*e.Faces)
	}
	if e.Answers != nil {
		h.Answers = slices.Clone(e.Answers)
	}
	return nil
}

func (e *AddSheet) change(t *trial) error {
	if e.At < 0 || e.At > len(t.m.Sheets) {
		return refuse(e.Sheet.ID, "there is no place %d among %d sheets", e.At, len(t.m.Sheets))
	}
	return t.addSheet(e.At, &e.Sheet)
}

func (e *SetSheet) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	h := t.editSheetHead(s)
	set(&h.Name, e.Name)
	set(&h.Paper, e.Paper)
	set(&h.Across, e.Across)
	set(&h.Fitting, e.Fitting)
	set(&h.Crossings, e.Crossings)
	set(&h.Merging, e.Merging)
	set(&h.Edge, e.Edge)
	set(&h.Ground, e.Ground)
	set(&h.Headed, e.Headed)
	return nil
}

func (e *MoveSheet) change(t *trial) error {
	order := ids(t.m.Sheets)
	at := slices.Index(order, e.Sheet)
	if at < 0 {
		return refuse(e.Sheet, "there is no sheet %q any more", e.Sheet)
	}
	if e.To < 0 || e.To >= len(order) {
		return refuse(e.Sheet, "there is no place %d among %d sheets", e.To, len(order))
	}
	t.reorder(nil, slices.Insert(slices.Delete(order, at, at+1), e.To, e.Sheet))
	return nil
}

func (e *RemoveSheet) change(t *trial) error { return t.removeSheet(e.Sheet) }

func (e *AddItems) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, p := range e.Pictures {
		if err := t.addPicture(p); err != nil {
			return err
		}
	}
	for i, sym := range e.Symbols {
		at := len(s.Symbols)
		if e.Behind {
			at = i
		}
		if err := t.addSymbol(s, at, sym); err != nil {
			return err
		}
	}
	for _, c := range e.Connectors {
		c.Bends = slices.Clone(c.Bends)
		if err := t.addConnector(s, len(s.Connectors), c); err != nil {
			return err
		}
	}
	return nil
}

func (e *RemoveItems) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	gone := map[string]bool{}
	for _, id := range e.IDs {
		if s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil {
			return refuse(id, "%q is not there any more", id)
		}
		if c := s.Connector(id); c != nil && c.Locked {
			return refuse(id, "the connector is locked; unlock it first")
		}
		gone[id] = true
	}
	if err := t.detach(s, gone); err != nil {
		return err
	}
	for _, id := range e.IDs {
		switch {
		case s.Symbol(id) != nil:
			err = t.removeSymbol(s, id)
		case s.Pool(id) != nil:
			err = t.removePool(s, id)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// detach removes the connectors that are gone or glued to something gone, and
// lets those that joined one of them lead to where that one led.
func (t *trial) detach(s *Sheet, gone map[string]bool) error {
	t.following = true
	defer func() { t.following = false }()
	dropped := map[string]bool{}
	onward := func(c *Connector) End {
		to := c.To
		for range s.Connectors {
			next := s.Connector(to.Connector)
			if next == nil || !gone[next.ID] && !dropped[next.ID] {
				break
			}
			to = next.To
		}
		return to
	}
	for again := true; again; { // what goes can take others with it
		again = false
		for _, c := range s.Connectors {
			to := onward(c)
			if !dropped[c.ID] && (gone[c.ID] || gone[c.From.Symbol] || gone[to.Symbol] || c.From.Symbol != "" && c.From.Symbol == to.Symbol) {
				dropped[c.ID], again = true, true
			}
		}
	}
	for _, c := range slices.Clone(s.Connectors) {
		if dropped[c.ID] {
			continue
		}
		if to := onward(c); to != c.To {
			con, err := t.editConnector(s, c.ID)
			if err != nil {
				return err
			}
			con.To = to
		}
	}
	for _, c := range slices.Clone(s.Connectors) {
		if dropped[c.ID] {
			if err := t.removeConnector(s, c.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

func (e *MoveItems) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.exact = t.exact || e.Held
	moving, along := map[string]bool{}, map[string]bool{}
	var pools []*Pool
	for _, id := range e.IDs {
		sym := s.Symbol(id)
		if pool := s.Pool(id); sym == nil && pool != nil {
			pools = append(pools, pool)
			for _, sym := range s.Symbols {
				if p, _ := s.LaneAt(sym.Centre()); p == pool {
					along[sym.ID] = true
				}
			}
			continue
		}
		if sym == nil && s.Connector(id) != nil {
			if err := t.moveConnector(s, id, e.By); err != nil {
				return err
			}
			continue
		}
		if sym == nil {
			return refuse(id, "the symbol %q is not there any more", id)
		}
		moving[id] = true
		if sym.Kind == Frame {
			for _, inner := range s.Inside(sym) {
				if !inner.Locked {
					moving[inner.ID] = true
				}
			}
		}
	}
	for _, pool := range pools {
		p, err := t.editPool(s, pool.ID)
		if err != nil {
			return err
		}
		p.X, p.Y = p.X+e.By.X, p.Y+e.By.Y
	}
	for _, sym := range s.Symbols {
		if !moving[sym.ID] && !along[sym.ID] {
			continue
		}
		t.following = !moving[sym.ID] // what stands in a pool goes with it, locked or not
		err := t.touch(s, sym)
		t.following = false
		if err != nil {
			return err
		}
		sym.Box = sym.Moved(e.By)
	}
	return nil
}

// moveConnector shifts the loose ends of a connector.
func (t *trial) moveConnector(s *Sheet, id string, by geometry.Point) error {
	c, err := t.editConnector(s, id)
	if err != nil {
		return err
	}
	for _, end := range [...]*End{&c.From, &c.To} {
		if end.Loose() {
			end.At = end.At.Add(by)
		}
	}
	return nil
}

func (e *PlaceItems) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.exact = t.exact || e.Held
	for _, b := range e.Boxes {
		sym, err := t.editSymbol(s, b.ID)
		if err != nil {
			return err
		}
		sym.Box = b.Box
	}
	return nil
}

func (e *SetText) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	if s.Connector(e.ID) != nil {
		c, err := t.editConnector(s, e.ID)
		if err != nil {
			return err
		}
		l, err := c.label(e.At)
		if err != nil {
			return err
		}
		*l.Text = e.Text
		return nil
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	sym.Text = e.Text
	return nil
}

// label returns the label of a connector that an edit names: "" for the one in
// the middle, "from" or "to".
func (c *Connector) label(at string) (Label, error) {
	i := slices.Index(LabelNames[:], at)
	if i < 0 {
		return Label{}, refuse(c.ID, "a connector has no label %q", at)
	}
	return c.Labels()[i], nil
}

// LabelNames are the names of the labels in the order of Labels.
var LabelNames = [3]string{"", "from", "to"}

// connector returns the connector an edit is about.
func (t *trial) connector(sheet, id string) (*Connector, error) {
	s, err := t.sheet(sheet)
	if err != nil {
		return nil, err
	}
	return t.editConnector(s, id)
}

func (e *SetPlace) change(t *trial) error {
	c, err := t.connector(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	l, err := c.label(e.At)
	if err != nil {
		return err
	}
	*l.Place = e.Place
	return nil
}

func (e *SetBends) change(t *trial) error {
	c, err := t.connector(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	c.Bends = slices.Clone(e.Bends)
	return nil
}

func (e *SetKind) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	sym.Kind = e.Kind
	return nil
}

func (e *SetStyle) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		if s.Connector(id) != nil {
			c, err := t.editConnector(s, id)
			if err != nil {
				return err
			}
			set(&c.Dashed, e.Dashed)
			set(&c.Line, e.Line)
			set(&c.Weight, e.Weight)
			set(&c.Ink, e.Ink)
			set(&c.Course, e.Course)
			set(&c.Radius, e.Radius)
			set(&c.Hop, e.Hop)
			set(&c.Merge, e.Merge)
			set(&c.FromMark, e.FromMark)
			set(&c.ToMark, e.ToMark)
			set(&c.MarkSize, e.MarkSize)
			e.setType(&c.Type)
			continue
		}
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		set(&sym.Fill, e.Fill)
		set(&sym.Look, e.Look)
		set(&sym.Ink, e.Ink)
		set(&sym.Weight, e.Weight)
		set(&sym.Dashed, e.Dashed)
		set(&sym.Emphasis, e.Emphasis)
		set(&sym.Trunk, e.Trunk)
		set(&sym.Picture, e.Picture)
		set(&sym.Tip, e.Tip)
		e.setType(&sym.Type)
	}
	return nil
}

func (e *SetStyle) setType(y *Type) {
	set(&y.Bold, e.Bold)
	set(&y.Italic, e.Italic)
	set(&y.Underline, e.Underline)
	set(&y.Size, e.Size)
	set(&y.Colour, e.Colour)
	set(&y.Align, e.Align)
	set(&y.Stand, e.Stand)
	set(&y.Margin, e.Margin)
	set(&y.Bullets, e.Bullets)
}

func (e *SetEnds) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	c, err := t.editConnector(s, e.ID)
	if err != nil {
		return err
	}
	if e.From != nil && *e.From != c.From || e.To != nil && *e.To != c.To {
		c.Bends = nil // they were laid for the ends it had
	}
	set(&c.From, e.From)
	set(&c.To, e.To)
	return nil
}

func (e *Order) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	chosen := map[string]bool{}
	for _, id := range e.IDs {
		chosen[id] = true
	}
	var moved, rest []*Symbol
	below := 0 // how many of the rest lie below the topmost of those moved; backward, the lowest
	for _, sym := range s.Symbols {
		if !chosen[sym.ID] {
			rest = append(rest, sym)
			continue
		}
		if moved = append(moved, sym); !e.Back || len(moved) == 1 {
			below = len(rest)
		}
	}
	if len(moved) < len(chosen) {
		for _, id := range e.IDs {
			if s.Symbol(id) == nil {
				return refuse(id, "the symbol %q is not there any more", id)
			}
		}
	}
	if len(moved) == 0 {
		return nil
	}
	at := len(rest)
	if e.Back {
		at = 0
	}
	if e.Step {
		if err := t.spend(len(moved) * len(rest)); err != nil {
			return err
		}
		at = e.stepTo(moved, rest, below)
	}
	t.reorder(s, ids(slices.Concat(rest[:at], moved, rest[at:])))
	return nil
}

// stepTo returns the place among the rest one step nearer to the front or the
// back: just past the next symbol that one of those moved overlaps.
func (e *Order) stepTo(moved, rest []*Symbol, below int) int {
	overlaps := func(o *Symbol) bool {
		return slices.ContainsFunc(moved, func(m *Symbol) bool { return m.Meets(o.Box) })
	}
	if e.Back {
		for i := below - 1; i >= 0; i-- {
			if overlaps(rest[i]) {
				return i
			}
		}
		return max(below-1, 0)
	}
	for i := below; i < len(rest); i++ {
		if overlaps(rest[i]) {
			return i + 1
		}
	}
	return min(below+1, len(rest))
}

func (e *AddPool) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	return t.addPool(s, len(s.Pools), e.Pool.clone())
}

// pool returns the sheet and the pool an edit is about.
func (t *trial) pool(sheet, id string) (*Sheet, *Pool, error) {
	s, err := t.sheet(sheet)
	if err != nil {
		return nil, nil, err
	}
	p, err := t.editPool(s, id)
	return s, p, err
}

func (e *SetPool) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	heads := p.Heads()
	set(&p.Title, e.Title)
	set(&p.W, e.W)
	set(&p.Level, e.Level)
	return t.headed(s, p, heads)
}

func (e *InsertLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	return t.insertLane(s, p, e.At, e.Lane)
}

func (e *SetLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	k := p.LaneIndex(e.Lane)
	if k < 0 {
		return refuse(e.Lane, "the lane %q is not there any more", e.Lane)
	}
	heads := p.Heads()
	set(&p.Lanes[k].Name, e.Name)
	set(&p.Lanes[k].Of, e.Of)
	set(&p.Lanes[k].Fill, e.Fill)
	set(&p.Lanes[k].Head, e.Head)
	if err := t.headed(s, p, heads); err != nil {
		return err
	}
	if e.H != nil {
		return t.resizeLane(s, p, e.Lane, *e.H)
	}
	return nil
}

func (e *RemoveLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	return t.removeLane(s, p, e.Lane)
}

// The bounds of batches: how many edits one may hold with all those in it, and how deep
// they may lie in each other.
const (
	maxParts = 20_000
	maxDepth = 4
)

func (e *Batch) change(t *trial) error {
	if t.depth++; t.depth > maxDepth {
		return refuse("", "the edits lie more than %d deep in each other", maxDepth)
	}
	defer func() { t.depth-- }()
	for _, part := range e.Edits {
		if t.parts++; t.parts > maxParts {
			return refuse("", "these are too many changes at once; at most %d go together", maxParts)
		}
		if err := t.change(part.Edit); err != nil {
			return err
		}
	}
	return nil
}

// change makes one edit, alone or of a batch.
func (t *trial) change(e Edit) error {
	if e == nil {
		return refuse("", "an edit is missing")
	}
	return e.change(t)
}

// Envelope carries an edit as JSON: the edit's fields, and its name as "do".
type Envelope struct{ Edit }

// names lists every edit by the name it has on the wire and in the log.
var names = map[string]func() Edit{
	"setHead":     func() Edit { return new(SetHead) },
	"addSheet":    func() Edit { return new(AddSheet) },
	"setSheet":    func() Edit { return new(SetSheet) },
	"moveSheet":   func() Edit { return new(MoveSheet) },
	"removeSheet": func() Edit { return new(RemoveSheet) },
	"addItems":    func() Edit { return new(AddItems) },
	"keepFont":    func() Edit { return new(KeepFont) },
	"removeItems": func() Edit { return new(RemoveItems) },
	"moveItems":   func() Edit { return new(MoveItems) },
	"placeItems":  func() Edit { return new(PlaceItems) },
	"layOut":      func() Edit { return new(LayOut) },
	"setText":     func() Edit { return new(SetText) },
	"setPlace":    func() Edit { return new(SetPlace) },
	"setBends":    func() Edit { return new(SetBends) },
	"setKind":     func() Edit { return new(SetKind) },
	"setStyle":    func() Edit { return new(SetStyle) },
	"setEnds":     func() Edit { return new(SetEnds) },
	"order":       func() Edit { return new(Order) },
	"addPool":     func() Edit { return new(AddPool) },
	"setPool":     func() Edit { return new(SetPool) },
	"insertLane":  func() Edit { return new(InsertLane) },
	"setLane":     func() Edit { return new(SetLane) },
	"removeLane":  func() Edit { return new(RemoveLane) },
	"moveLane":    func() Edit { return new(MoveLane) },
	"turnPool":    func() Edit { return new(TurnPool) },
	"insertStage": func() Edit { return new(InsertStage) },
	"setStage":    func() Edit { return new(SetStage) },
	"moveStage":   func() Edit { return new(MoveStage) },
	"removeStage": func() Edit { return new(RemoveStage) },
	"setOwner":    func() Edit { return new(SetOwner) },
	"setGroups":   func() Edit { return new(SetGroups) },
	"setLock":     func() Edit { return new(SetLock) },
	"openSpace":   func() Edit { return new(OpenSpace) },
	"saveStyle":   func() Edit { return new(SaveStyle) },
	"removeStyle": func() Edit { return new(RemoveStyle) },
	"wear":        func() Edit { return new(Wear) },
	"revert":      func() Edit { return new(Revert) },
}

// Names returns the names of all edits, in order.
func Names() []string { return slices.Sorted(maps.Keys(names)) }

func init() {
	// A batch holds envelopes, which read this table.
	names["batch"] = func() Edit { return new(Batch) }
}

// MarshalJSON writes {"do": name, ...fields}.
func (e Envelope) MarshalJSON() ([]byte, error) {
	body, err := json.Marshal(e.Edit)
	if err != nil {
		return nil, err
	}
	name := reflect.TypeOf(e.Edit).Elem().Name()
	out := append([]byte(`{"do":"`), name[0]|0x20)
	out = append(append(out, name[1:]...), '"')
	if len(body) > 2 {
		out = append(out, ',')
	}
	return append(out, body[1:]...), nil
}

// UnmarshalJSON reads what MarshalJSON wrote. Unknown edits are refused.
func (e *Envelope) UnmarshalJSON(data []byte) error {
	if err := Bounded(data); err != nil {
		return err
	}
	var head struct {
		Do string `json:"do"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return err
	}
	blank, ok := names[head.Do]
	if !ok {
		return fmt.Errorf("there is no edit called %q", head.Do)
	}
	e.Edit = blank()
	return json.Unmarshal(data, e.Edit)
}
