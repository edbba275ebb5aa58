package diagram

import (
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/pictures"
)

// Edit is one named change of a map, such as a person makes with one gesture.
// The edits of this package are the only way a map changes.
type Edit interface {
	change(t *trial) error
}

// Apply makes the edit on m and returns the edit that takes it back. When the
// edit would break the map it is refused with the reason, and m is unchanged.
func Apply(m *Map, e Edit) (inverse Edit, err error) {
	t, err := Attempt(m, e)
	if err != nil {
		return nil, err
	}
	return t.Inverse(), nil
}

// Trial is an edit made on a map that can still be unmade to the very byte, as
// long as nothing else has changed the map since.
type Trial struct{ t *trial }

// Attempt makes the edit like Apply, and keeps the means to unmake it.
func Attempt(m *Map, e Edit) (*Trial, error) { return attempt(m, e, (*trial).verify) }

// Preview is Attempt for an edit that is only shown, such as in every frame of a drag: it
// checks the things that the edit changed, but not the sheets they stand on as a whole.
func Preview(m *Map, e Edit) (*Trial, error) {
	return attempt(m, e, func(*trial) error { return nil })
}

func attempt(m *Map, e Edit, verify func(*trial) error) (*Trial, error) {
	t := &trial{m: m, words: Words(m, e)}
	err := t.change(e)
	if err == nil {
		err = t.finish()
	}
	if err == nil {
		err = verify(t)
	}
	if err != nil {
		t.rollback()
		return nil, err
	}
	return &Trial{t}, nil
}

// Rollback puts the map back exactly as it was before the attempt.
func (t *Trial) Rollback() { t.t.rollback() }

// Inverse returns the edit that takes this one back.
func (t *Trial) Inverse() *Revert {
	return &Revert{Of: t.t.words, Changes: t.t.done, Skipped: t.t.skipped}
}

// Refusal is an edit that cannot be made, with the thing it is about.
type Refusal struct {
	// ID is the item refused; empty when the refusal is about the map.
	ID   string
	Text string
}

func (r *Refusal) Error() string { return r.Text }

func refuse(id, format string, args ...any) error {
	return &Refusal{ID: id, Text: fmt.Sprintf(format, args...)}
}

// Span is a thing before and after an edit. Before is nil for a thing that the
// edit made, After for one that it removed.
type Span[T any] struct {
	Before *T `json:"before,omitempty"`
	After  *T `json:"after,omitempty"`
}

// Change is one thing an edit changed. Exactly one of the spans is set.
type Change struct {
	// ID is the id of the thing; empty for the map itself and for orders.
	ID string `json:"id,omitempty"`
	// Sheet is the id of the sheet the thing stands on.
	Sheet string `json:"sheet,omitempty"`
	// At is the place in its list of a thing made or removed.
	At        int                     `json:"at,omitempty"`
	Symbol    *Span[Symbol]           `json:"symbol,omitempty"`
	Connector *Span[Connector]        `json:"connector,omitempty"`
	Picture   *Span[pictures.Picture] `json:"picture,omitempty"`
	Font      *Span[fonts.Font]       `json:"font,omitempty"`
	Pool      *Span[Pool]             `json:"pool,omitempty"`
	Whole     *Span[Sheet]            `json:"whole,omitempty"`
	SheetHead *Span[SheetHead]        `json:"sheetHead,omitempty"`
	Head      *Span[Head]             `json:"head,omitempty"`
	// Order holds the ids of a list before and after it was put in another
	// order: the symbols of Sheet, or the sheets themselves if Sheet is empty.
	Order *Span[[]string] `json:"order,omitempty"`
}

// trial is an edit under way: every change goes through it and is logged, so
// that a refused edit leaves nothing behind.
type trial struct {
	m       *Map
	words   string
	log     []Change
	touched map[string]int // key of a thing -> its entry in log
	// done is the log without what came to nothing, once the edit is made. Taking the
	// trial back needs the whole log.
	done    []Change
	skipped []string
	// used holds the ids of the map, once many have been looked up; looked counts those.
	used   map[string]bool
	looked int
	// work counts what the edit has cost so far, parts and depth the edits in its batches.
	work, parts, depth int
	// exact leaves the lanes as the edit says, because it restores a state
	// in which they already held their steps.
	exact bool
	// restoring leaves everything that follows from something else as the edit
	// says, because it takes an earlier one back.
	restoring bool
	// following says that what is changed now follows from the edit, such as
	// steps moved down by a lane: this reaches what is locked, too.
	following bool
	// leaving are the connectors that taking an edit back removes.
	leaving map[string]bool
}

func (t *trial) entry(key string) *Change {
	if i, ok := t.touched[key]; ok {
		return &t.log[i]
	}
	return nil
}

func (t *trial) note(key string, c Change) {
	if t.touched == nil {
		t.touched = map[string]int{}
	}
	t.touched[key] = len(t.log)
	t.log = append(t.log, c)
}

// last moves the entry of a thing that is being removed to the end of the log:
// taking it back inserts it at its place among what was there at that moment.
func (t *trial) last(key string) *Change {
	i := t.touched[key]
	c := t.log[i]
	t.log = append(slices.Delete(t.log, i, i+1), c)
	for k, j := range t.touched {
		if j > i {
			t.touched[k] = j - 1
		}
	}
	t.touched[key] = len(t.log) - 1
	return &t.log[len(t.log)-1]
}

func (t *trial) sheet(id string) (*Sheet, error) {
	if s := t.m.Sheet(id); s != nil {
		return s, nil
	}
	return nil, refuse(id, "there is no sheet %q any more", id)
}

// editSymbol returns the symbol for changing.
func (t *trial) editSymbol(s *Sheet, id string) (*Symbol, error) {
	sym := s.Symbol(id)
	if sym == nil {
		return nil, refuse(id, "the symbol %q is not there any more", id)
	}
	return sym, t.touch(s, sym)
}

// touch notes that a symbol is going to change.
func (t *trial) touch(s *Sheet, sym *Symbol) error {
	if sym.Locked && !t.following && !t.restoring {
		return refuse(sym.ID, "%s is locked; unlock it first", describe(sym))
	}
	if t.entry(sym.ID) == nil {
		t.note(sym.ID, Change{ID: sym.ID, Sheet: s.ID, Symbol: &Span[Symbol]{Before: sym.clone()}})
	}
	return nil
}

func (t *trial) editConnector(s *Sheet, id string) (*Connector, error) {
	c := s.Connector(id)
	if c == nil {
		return nil, refuse(id, "the connector %q is not there any more", id)
	}
	if c.Locked && !t.following && !t.restoring {
		return nil, refuse(id, "the connector is locked; unlock it first")
	}
	if t.entry(id) == nil {
		t.note(id, Change{ID: id, Sheet: s.ID, Connector: &Span[Connector]{Before: c.clone()}})
	}
	return c, nil
}

func (t *trial) editPool(s *Sheet, id string) (*Pool, error) {
	p := s.Pool(id)
	if p == nil {
		return nil, refuse(id, "the pool %q is not there any more", id)
	}
	if p.Locked && !t.following && !t.restoring {
		return nil, refuse(id, "the pool %s is locked; unlock it first", quote(p.Title))
	}
	if t.entry(id) == nil {
		t.note(id, Change{ID: id, Sheet: s.ID, Pool: &Span[Pool]{Before: p.clone()}})
	}
	return p, nil
}

func (t *trial) editSheetHead(s *Sheet) *SheetHead {
	if key := "head of " + s.ID; t.entry(key) == nil && t.entry(s.ID) == nil {
		before := s.SheetHead
		t.note(key, Change{ID: s.ID, Sheet: s.ID, SheetHead: &Span[SheetHead]{Before: &before}})
	}
	return &s.SheetHead
}

func (t *trial) editHead() *Head {
	if t.entry("map") == nil {
		before := t.m.Head.clone()
		t.note("map", Change{Head: &Span[Head]{Before: &before}})
	}
	return &t.m.Head
}

func (t *trial) addSymbol(s *Sheet, at int, sym Symbol) error {
	if err := t.fresh(sym.ID); err != nil {
		return err
	}
	if err := asRefusal(sym.ID, sym.validate(fmt.Sprintf("%q", sym.ID))); err != nil {
		return err
	}
	if len(s.Symbols) >= MaxSymbols {
		return refuse(sym.ID, "this sheet is full: it holds %d symbols", MaxSymbols)
	}
	s.Symbols = slices.Insert(s.Symbols, at, &sym)
	t.note(sym.ID, Change{ID: sym.ID, Sheet: s.ID, At: at, Symbol: &Span[Symbol]{}})
	return nil
}

func (t *trial) addConnector(s *Sheet, at int, c Connector) error {
	if err := t.fresh(c.ID); err != nil {
		return err
	}
	if len(s.Connectors) >= MaxConnectors {
		return refuse(c.ID, "this sheet is full: it holds %d connectors", MaxConnectors)
	}
	s.Connectors = slices.Insert(s.Connectors, at, &c)
	t.note(c.ID, Change{ID: c.ID, Sheet: s.ID, At: at, Connector: &Span[Connector]{}})
	return nil
}

// addPicture keeps a picture, unless the map has it already.
func (t *trial) addPicture(p pictures.Picture) error {
	if err := p.Check(); err != nil {
		return refuse(p.ID, "%s", err)
	}
	if t.m.Picture(p.ID) != nil {
		return nil
	}
	if len(t.m.Pictures) >= MaxPictureCount {
		return refuse(p.ID, "a map shows at most %d pictures", MaxPictureCount)
	}
	size := len(p.Data)
	for i := range t.m.Pictures {
		size += len(t.m.Pictures[i].Data)
	}
	if size > MaxPictures {
		return refuse(p.ID, "the pictures of a map take at most %d MB together", MaxPictures>>20)
	}
	t.m.Pictures = append(t.m.Pictures, p)
	t.note(p.ID, Change{ID: p.ID, At: len(t.m.Pictures) - 1, Picture: &Span[pictures.Picture]{}})
	return nil
}

func (t *trial) removePicture(id string) {
	if i := slices.IndexFunc(t.m.Pictures, func(p pictures.Picture) bool { return p.ID == id }); i >= 0 {
		was := t.m.Pictures[i]
		t.note(id, Change{ID: id, At: i, Picture: &Span[pictures.Picture]{Before: &was}})
		t.m.Pictures = slices.Delete(t.m.Pictures, i, i+1)
	}
}

func (t *trial) addPool(s *Sheet, at int, p *Pool) error {
	used := map[string]bool{}
	for _, id := range p.ids() {
		if err := t.fresh(id); err != nil {
			return err
		}
		if used[id] {
			return refuse(id, "the id %q is used twice", id)
		}
		used[id] = true
	}
	if err := asRefusal(p.ID, p.validate(fmt.Sprintf("%q", p.ID))); err != nil {
		return err
	}
	s.Pools = slices.Insert(s.Pools, at, p)
	t.note(p.ID, Change{ID: p.ID, Sheet: s.ID, At: at, Pool: &Span[Pool]{}})
	return nil
}

func (t *trial) addSheet(at int, s *Sheet) error {
	if len(t.m.Sheets) >= MaxSheets {
		return refuse(s.ID, "a map has at most %d sheets", MaxSheets)
	}
	if at < 0 || at > len(t.m.Sheets) {
		return refuse(s.ID, "there is no place %d among %d sheets", at, len(t.m.Sheets))
	}
	if t.entry(s.ID) != nil {
		return refuse(s.ID, "the id %q is used already", s.ID)
	}
	used := map[string]string{}
	for i, other := range t.m.Sheets {
		if err := other.claim(fmt.Sprintf("sheets[%d]", i), used); err != nil {
			return asRefusal(s.ID, err)
		}
	}
	if err := asRefusal(s.ID, s.validate("sheet", used)); err != nil {
		return err
	}
	t.m.Sheets = slices.Insert(t.m.Sheets, at, s.Clone())
	t.note(s.ID, Change{ID: s.ID, At: at, Whole: &Span[Sheet]{}})
	return nil
}

func (t *trial) removeSymbol(s *Sheet, id string) error {
	if _, err := t.editSymbol(s, id); err != nil {
		return err
	}
	at := index(s.Symbols, id)
	s.Symbols = slices.Delete(s.Symbols, at, at+1)
	t.last(id).At = at
	return nil
}

func (t *trial) removeConnector(s *Sheet, id string) error {
	if _, err := t.editConnector(s, id); err != nil {
		return err
	}
	at := index(s.Connectors, id)
	s.Connectors = slices.Delete(s.Connectors, at, at+1)
	t.last(id).At = at
	return nil
}

func (t *trial) removePool(s *Sheet, id string) error {
	if _, err := t.editPool(s, id); err != nil {
		return err
	}
	at := index(s.Pools, id)
	s.Pools = slices.Delete(s.Pools, at, at+1)
	t.last(id).At = at
	return nil
}

func (t *trial) removeSheet(id string) error {
	at := index(t.m.Sheets, id)
	if at < 0 {
		return refuse(id, "there is no sheet %q any more", id)
	}
	t.note(id, Change{ID: id, At: at, Whole: &Span[Sheet]{Before: t.m.Sheets[at].Clone()}})
	t.m.Sheets = slices.Delete(t.m.Sheets, at, at+1)
	return nil
}

// reorder puts the symbols of a sheet (or the sheets, if s is nil) into the
// given order of ids.
func (t *trial) reorder(s *Sheet, order []string) {
	var before []string
	key, sheet := "order", ""
	if s == nil {
		before = ids(t.m.Sheets)
		t.m.Sheets = ordered(t.m.Sheets, order)
	} else {
		key, sheet = "order of "+s.ID, s.ID
		before = ids(s.Symbols)
		s.Symbols = ordered(s.Symbols, order)
	}
	t.note(key, Change{Sheet: sheet, Order: &Span[[]string]{Before: &before, After: &order}})
}

func ids[T identified](list []T) []string {
	out := make([]string, len(list))
	for i, v := range list {
		out[i] = v.id()
	}
	return out
}

func ordered[T identified](list []T, order []string) []T {
	at := make(map[string]int, len(list))
	for i, v := range list {
		at[v.id()] = i
	}
	out := make([]T, 0, len(list))
	for _, id := range order {
		if i, there := at[id]; there {
			out = append(out, list[i])
		}
	}
	return out
}

// fresh refuses an id that is no id or stands in the map already.
func (t *trial) fresh(id string) error {
	if !ValidID(id) {
		return refuse(id, "%q is no id", id)
	}
	if t.taken(id) {
		return refuse(id, "the id %q is used already", id)
	}
	return nil
}

// fewIDs is how many ids are looked for one by one before all of the map are listed.
const fewIDs = 8

// taken reports whether an id stands in the map, or did before this edit. An id that was
// just removed stays taken, so that the edit can be taken back step by step.
func (t *trial) taken(id string) bool {
	if t.entry(id) != nil {
		return true
	}
	if t.looked++; t.looked <= fewIDs {
		return t.m.Sheet(id) != nil || t.m.SheetOf(id) != nil
	}
	if t.used == nil {
		t.used = map[string]bool{}
		for _, s := range t.m.Sheets {
			for id := range s.ids() {
				t.used[id] = true
			}
		}
	}
	taken := t.used[id]
	t.used[id] = true
	return taken
}

// maxWork bounds what one edit may do, about in things looked at: a second on a slow machine.
const maxWork = 400_000_000

// spend refuses an edit that would keep everybody waiting.
func (t *trial) spend(work int) error {
	if t.work += work; t.work > maxWork || work < 0 {
		return refuse("", "this is too much for one change; do it in several")
	}
	return nil
}

// finish lets the lanes hold their steps, takes bends along with the symbols
// they lie between, checks what was touched, and completes the log with the
// state after the edit.
func (t *trial) finish() error {
	t.following = true
	var touchedSheets []string
	for i := range t.log {
		if t.restoring {
			break
		}
		if c := &t.log[i]; c.Symbol != nil || c.Pool != nil {
			if !slices.Contains(touchedSheets, c.Sheet) {
				touchedSheets = append(touchedSheets, c.Sheet)
			}
		}
	}
	for _, id := range touchedSheets {
		s := t.m.Sheet(id)
		if s == nil {
			continue
		}
		if err := t.explain(s); err != nil {
			return err
		}
		if !t.exact {
			if err := t.settle(s); err != nil {
				return err
			}
		}
		if err := t.carry(s); err != nil {
			return err
		}
	}
	made := map[string]bool{} // the sheets that this edit adds
	idle := 0
	for i := range t.log {
		c := &t.log[i]
		if err := t.complete(c); err != nil {
			return err
		}
		if c.Whole != nil && c.Whole.Before == nil {
			made[c.ID] = true
		}
		if c.idle() {
			idle++
		}
	}
	if t.done = t.log; idle > 0 || len(made) > 0 {
		t.done = make([]Change, 0, len(t.log)-idle)
		for _, c := range t.log {
			// What was done on a sheet that came in the same edit goes with it.
			on := c.Sheet
			if c.Whole != nil && t.m.Sheet(c.ID) == nil {
				on = c.ID
			}
			if !c.idle() && !made[on] {
				t.done = append(t.done, c)
			}
		}
	}
	if len(t.done) == 0 && len(t.skipped) > 0 {
		return refuse("", "“%s” cannot be taken back: %s", t.words, t.skipped[0])
	}
	return nil
}

// complete fills in what a change led to and checks it.
func (t *trial) complete(c *Change) error {
	s := t.m.Sheet(c.Sheet)
	if s == nil && c.Sheet != "" {
		// The sheet went later in the same edit. What it held when it went is what
		// this change led to.
		if s = t.removed(c.Sheet); s == nil {
			return nil
		}
	}
	var err error
	path := fmt.Sprintf("%q", c.ID)
	switch {
	case c.Symbol != nil:
		if sym := s.Symbol(c.ID); sym != nil {
			c.Symbol.After = sym.clone()
			if err = sym.validate(path); err == nil && sym.Picture != "" && t.m.Picture(sym.Picture) == nil {
				err = refuse(c.ID, "the picture of the symbol is not in the map")
			}
		} else if i := slices.IndexFunc(s.Connectors, func(k *Connector) bool {
			return k.From.Symbol == c.ID || k.To.Symbol == c.ID
		}); i >= 0 {
			err = refuse(c.ID, "the connector %q is still glued to the symbol %q", s.Connectors[i].ID, c.ID)
		}
	case c.Connector != nil:
		if con := s.Connector(c.ID); con != nil {
			c.Connector.After = con.clone()
			err = con.validate(path, func(id string) bool { return s.Symbol(id) != nil }, s.Connector)
		} else if i := slices.IndexFunc(s.Connectors, func(k *Connector) bool { return k.To.Connector == c.ID }); i >= 0 {
			err = refuse(c.ID, "the connector %q still joins the connector %q", s.Connectors[i].ID, c.ID)
		}
	case c.Picture != nil:
		if p := t.m.Picture(c.ID); p != nil {
			after := *p
			c.Picture.After = &after
		}
	case c.Font != nil:
		if f := t.m.Font(c.ID); f != nil {
			after := *f
			c.Font.After = &after
		}
	case c.Pool != nil:
		if p := s.Pool(c.ID); p != nil {
			c.Pool.After = p.clone()
			err = p.validate(path)
		}
	case c.SheetHead != nil:
		after := s.SheetHead
		c.SheetHead.After = &after
		if err = after.validate(path); err == nil && after.Ground.Picture != "" && t.m.Picture(after.Ground.Picture) == nil {
			err = refuse(c.ID, "the picture of the ground is not in the map")
		}
	case c.Head != nil:
		after := t.m.Head.clone()
		c.Head.After = &after
		if err = after.validate(); err == nil {
			err = t.m.checkFaces()
		}
	case c.Whole != nil:
		if sheet := t.m.Sheet(c.ID); sheet != nil {
			c.Whole.After = sheet.Clone()
			err = sheet.validate(path, map[string]string{})
		}
		if err == nil && len(t.m.Sheets) == 0 {
			err = refuse("", "a map keeps at least one sheet")
		}
	}
	return asRefusal(c.ID, err)
}

// removed returns a sheet that the edit took away, as it then was; nil if there is none.
func (t *trial) removed(id string) *Sheet {
	for i := range t.log {
		if w := t.log[i].Whole; w != nil && w.Before != nil && w.Before.ID == id {
			return w.Before
		}
	}
	return nil
}

// asRefusal turns a fault in the map that an edit would lead to into the reason why the
// edit cannot be made. Other errors stay as they are.
func asRefusal(id string, err error) error {
	var f *Fault
	if errors.As(err, &f) {
		return refuse(id, "%s", f.Text)
	}
	return err
}

// verify validates as a whole whatever the edit has touched: a fault can lie in how things
// go together that are sound by themselves.
func (t *trial) verify() error {
	touched, heavier := map[string]bool{}, false
	for i := range t.done {
		c := &t.done[i]
		touched[c.Sheet] = true
		if c.Whole != nil {
			touched[c.ID] = true
		}
		heavier = heavier || c.weighs()
	}
	used := map[string]string{}
	for i, s := range t.m.Sheets {
		path := fmt.Sprintf("sheets[%d]", i)
		check := s.claim
		if touched[s.ID] {
			check = s.validate
		}
		if err := check(path, used); err != nil {
			return asRefusal(s.ID, err)
		}
	}
	if heavier {
		return asRefusal("", t.m.CheckWeight())
	}
	return nil
}

// weighs reports whether a change can make the map larger.
func (c *Change) weighs() bool {
	return c.Symbol != nil && c.Symbol.After != nil || c.Connector != nil && c.Connector.After != nil || c.Pool != nil && c.Pool.After != nil ||
		c.Whole != nil && c.Whole.After != nil
}

// idle reports whether a change came to nothing.
func (c *Change) idle() bool {
	switch {
	case c.Symbol != nil:
		return same(c.Symbol)
	case c.Connector != nil:
		b, a := c.Connector.Before, c.Connector.After
		return b == nil && a == nil || b != nil && a != nil && b.Equal(a)
	case c.Picture != nil:
		return c.Picture.Before == nil && c.Picture.After == nil
	case c.Font != nil:
		return c.Font.Before == nil && c.Font.After == nil
	case c.SheetHead != nil:
		return same(c.SheetHead)
	case c.Pool != nil:
		b, a := c.Pool.Before, c.Pool.After
		return b == nil && a == nil || b != nil && a != nil && b.equal(a)
	case c.Head != nil:
		return c.Head.Before.equal(c.Head.After)
	case c.Whole != nil:
		return c.Whole.Before == nil && c.Whole.After == nil
	case c.Order != nil:
		return slices.Equal(*c.Order.Before, *c.Order.After)
	}
	return true
}

func same[T comparable](s *Span[T]) bool {
	if s.Before == nil || s.After == nil {
		return s.Before == s.After
	}
	return *s.Before == *s.After
}

// Equal reports whether two connectors are the same in every part.
func (c *Connector) Equal(d *Connector) bool {
	return c.ID == d.ID && c.From == d.From && c.To == d.To &&
		c.Text == d.Text && c.FromText == d.FromText && c.ToText == d.ToText &&
		c.Place == d.Place && c.FromPlace == d.FromPlace && c.ToPlace == d.ToPlace &&
		c.Type == d.Type && c.Stroke == d.Stroke && c.Style == d.Style && c.Locked == d.Locked && slices.Equal(c.Bends, d.Bends)
}

func (p *Pool) equal(q *Pool) bool {
	return p.ID == q.ID && p.Title == q.Title && p.X == q.X && p.Y == q.Y && p.W == q.W && p.Down == q.Down && p.Level == q.Level && p.Locked == q.Locked && slices.Equal(p.Lanes, q.Lanes) && slices.Equal(p.Stages, q.Stages)
}

func (h *Head) equal(o *Head) bool {
	return h.Title == o.Title && h.Direction == o.Direction && h.Numbers == o.Numbers && h.Units == o.Units && h.Look == o.Look && h.Heading == o.Heading && h.Above == o.Above &&
		slices.Equal(h.Answers, o.Answers) && slices.Equal(h.Faces, o.Faces) && slices.Equal(h.Colours, o.Colours) && slices.Equal(h.Styles, o.Styles)
}

// rollback unmakes the logged changes, latest first, without asking.
func (t *trial) rollback() {
	for i := len(t.log) - 1; i >= 0; i-- {
		c := &t.log[i]
		s := t.m.Sheet(c.Sheet)
		switch {
		case c.Whole != nil:
			t.m.Sheets = restore(t.m.Sheets, c.ID, c.At, c.Whole.Before)
		case c.Order != nil && c.Sheet == "":
			t.m.Sheets = ordered(t.m.Sheets, *c.Order.Before)
		case c.Head != nil:
			t.m.Head = c.Head.Before.clone()
		case c.Picture != nil:
			t.m.Pictures = slices.DeleteFunc(t.m.Pictures, func(p pictures.Picture) bool { return p.ID == c.ID })
			if c.Picture.Before != nil {
				t.m.Pictures = slices.Insert(t.m.Pictures, min(c.At, len(t.m.Pictures)), *c.Picture.Before)
			}
		case c.Font != nil:
			t.m.Fonts = slices.DeleteFunc(t.m.Fonts, func(f fonts.Font) bool { return f.ID == c.ID })
			if c.Font.Before != nil {
				t.m.Fonts = slices.Insert(t.m.Fonts, min(c.At, len(t.m.Fonts)), *c.Font.Before)
			}
		case s == nil:
		case c.Order != nil:
			s.Symbols = ordered(s.Symbols, *c.Order.Before)
		case c.Symbol != nil:
			s.Symbols = restore(s.Symbols, c.ID, c.At, c.Symbol.Before)
		case c.Connector != nil:
			s.Connectors = restore(s.Connectors, c.ID, c.At, c.Connector.Before)
		case c.Pool != nil:
			s.Pools = restore(s.Pools, c.ID, c.At, c.Pool.Before)
		case c.SheetHead != nil:
			s.SheetHead = *c.SheetHead.Before
		}
	}
	t.log, t.done = nil, nil
}

// item is a pointer to something that stands in a list of the document.
type item[T any] interface {
	*T
	identified
	comparable
}

// restore brings the thing called id back to what it was: gone, changed back
// in place, or standing again at its place in the list.
func restore[T any, P item[T]](list []P, id string, at int, before *T) []P {
	i := index(list, id)
	switch {
	case before == nil && i >= 0:
		return slices.Delete(list, i, i+1)
	case before != nil && i >= 0:
		was := *before
		*list[i] = was
		return list
	case before != nil:
		was := *before
		return slices.Insert(list, min(at, len(list)), P(&was))
	}
	return list
}
