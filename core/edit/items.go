package edit

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// The edits that set down, remove, move and order what stands on a sheet.

func init() {
	register("addItems", func(_ *model.Map, e *AddItems) string {
		if e.As != "" {
			return e.As
		}
		if len(e.Symbols) == 0 {
			return "connect"
		}
		return "add " + count(len(e.Symbols), "a symbol", "symbols")
	})
	register("removeItems", func(m *model.Map, e *RemoveItems) string { return "delete " + speak(m, e.Sheet, e.IDs) })
	register("moveItems", func(m *model.Map, e *MoveItems) string { return "move " + speak(m, e.Sheet, e.IDs) })
	register("placeItems", func(_ *model.Map, e *PlaceItems) string {
		if e.As != "" {
			return e.As
		}
		return "resize " + count(len(e.Boxes), "one symbol", "symbols")
	})
	register("setKind", says[*SetKind]("change the kind"))
	register("order", says[*Order]("change the order"))
}

// AddItems sets down symbols and the connectors among them and to what is
// there already.
type AddItems struct {
	Sheet      string            `json:"sheet"`
	Symbols    []model.Symbol    `json:"symbols,omitempty"`
	Connectors []model.Connector `json:"connectors,omitempty"`
	// As says in words what was done, such as "paste".
	As string `json:"as,omitempty"`
	// Behind sets the symbols down behind all others.
	Behind bool `json:"behind,omitempty"`
	// Pictures are those the symbols show, as far as the map may lack them.
	Pictures []pictures.Picture `json:"pictures,omitempty"`
	// Files are those their links lead to, as far as the map may lack them.
	Files []model.File `json:"files,omitempty"`
}

func (e *AddItems) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, p := range e.Pictures {
		if err := pictureList.add(t, len(t.m.Pictures), p); err != nil {
			return err
		}
	}
	if err := t.bring(e.Files); err != nil {
		return err
	}
	for i, sym := range e.Symbols {
		at := len(s.Symbols)
		if e.Behind {
			at = i
		}
		t.renumber(&sym)
		if err := symbolList.add(t, s, at, &sym); err != nil {
			return err
		}
	}
	for _, c := range e.Connectors {
		c.Bends = slices.Clone(c.Bends)
		if err := connectorList.add(t, s, len(s.Connectors), &c); err != nil {
			return err
		}
	}
	return nil
}

// renumber takes the number of a symbol that comes to the map away, so that it gets one of its own. One that only
// changes its sheet in this edit keeps it.
func (t *transaction) renumber(sym *model.Symbol) {
	if sym.Kept == "" {
		return
	}
	for i := range t.log {
		if s := spanOf[model.Symbol](&t.log[i]); s.Before != nil && s.Before.ID == sym.ID && s.Before.Kept == sym.Kept {
			return
		}
		if s := spanOf[model.Sheet](&t.log[i]); s.Before != nil {
			if was := s.Before.Symbol(sym.ID); was != nil && was.Kept == sym.Kept && t.m.Sheet(s.Before.ID) == nil {
				return
			}
		}
	}
	sym.Kept = ""
}

// RemoveItems takes symbols, connectors and pools away, and every
// connector glued to one of the symbols. A connector that joined one of
// those taken away leads to where that one led.
type RemoveItems struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
}

func (e *RemoveItems) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	gone := map[string]bool{}
	ids := e.IDs
	for _, p := range s.Pools { // what stands in the cells of a journey goes with it
		if p.Journey && slices.Contains(e.IDs, p.ID) {
			ids = append(slices.Clip(ids), cellsOf(s, p, func(sym *model.Symbol) bool {
				return !slices.Contains(e.IDs, sym.ID)
			})...)
		}
	}
	for _, id := range ids {
		if s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil {
			return model.Refuse(id, "%q is not there any more", id)
		}
		if c := s.Connector(id); c != nil && c.Locked {
			return model.Refuse(id, "the connector is locked; unlock it first")
		}
		gone[id] = true
	}
	if err := t.orphans(s, gone); err != nil {
		return err
	}
	if err := t.detach(s, gone); err != nil {
		return err
	}
	for _, id := range ids {
		switch {
		case s.Symbol(id) != nil:
			err = symbolList.remove(t, s, id)
		case s.Pool(id) != nil:
			err = poolList.remove(t, s, id)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// detach removes the connectors that are gone or glued to something gone, and
// lets those that joined one of them lead to where that one led.
func (t *transaction) detach(s *model.Sheet, gone map[string]bool) error {
	t.following = true
	defer func() { t.following = false }()
	dropped := map[string]bool{}
	onward := func(c *model.Connector) model.End {
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
			if !dropped[c.ID] && (gone[c.ID] || gone[c.From.Symbol] || gone[to.Symbol] ||
				c.From.Symbol != "" && c.From.Symbol == to.Symbol) {
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
			if err := connectorList.remove(t, s, c.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// MoveItems shifts symbols, and pools with all that stands in them.
type MoveItems struct {
	Sheet string         `json:"sheet"`
	IDs   []string       `json:"ids"`
	By    geometry.Point `json:"by"`
	// Held leaves lanes as they are while the items are still in the hand.
	Held bool `json:"-"`
}

func (e *MoveItems) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.exact = t.exact || e.Held
	moving, along := map[string]bool{}, map[string]bool{}
	var pools []*model.Pool
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
			return model.Refuse(id, "the symbol %q is not there any more", id)
		}
		moving[id] = true
		if sym.Kind.Holds() {
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
func (t *transaction) moveConnector(s *model.Sheet, id string, by geometry.Point) error {
	c, err := t.editConnector(s, id)
	if err != nil {
		return err
	}
	for _, end := range [...]*model.End{&c.From, &c.To} {
		if end.Loose() {
			end.At = end.At.Add(by)
		}
	}
	return nil
}

// PlaceItems gives symbols new boxes.
type PlaceItems struct {
	Sheet string `json:"sheet"`
	// As says in words what the places came from, such as "align left".
	As    string  `json:"as,omitempty"`
	Boxes []Place `json:"boxes"`
	Held  bool    `json:"-"`
}

// Place is the box a symbol is to have.
type Place struct {
	ID string `json:"id"`
	geometry.Box
}

func (e *PlaceItems) change(t *transaction) error {
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

// SetKind makes a symbol another kind; all else stays.
type SetKind struct {
	Sheet string     `json:"sheet"`
	ID    string     `json:"id"`
	Kind  model.Kind `json:"kind"`
}

func (e *SetKind) change(t *transaction) error {
	sym, err := t.symbolOn(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	sym.Kind = e.Kind
	return nil
}

// Order brings symbols to the front of the sheet, or sends them to its
// back, keeping their order among each other. With Step they pass only the
// next symbol that they overlap, or the next one at all if there is none.
type Order struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Back  bool     `json:"back,omitempty"`
	Step  bool     `json:"step,omitempty"`
}

func (e *Order) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	chosen := map[string]bool{}
	for _, id := range e.IDs {
		chosen[id] = true
	}
	var moved, rest []*model.Symbol
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
				return model.Refuse(id, "the symbol %q is not there any more", id)
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
	orderOf.set(t, s, model.IDsOf(slices.Concat(rest[:at], moved, rest[at:])))
	return nil
}

// stepTo returns the place among the rest one step nearer to the front or the
// back: just past the next symbol that one of those moved overlaps.
func (e *Order) stepTo(moved, rest []*model.Symbol, below int) int {
	overlaps := func(o *model.Symbol) bool {
		return slices.ContainsFunc(moved, func(m *model.Symbol) bool { return m.Meets(o.Box) })
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
