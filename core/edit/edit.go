// Package edit changes maps. Every edit is a type that says what is wanted; Attempt makes one in a transaction, which
// logs what changed, adds what follows from it, checks the outcome, and can be unmade to the byte. What an edit did
// can be enacted on another copy (Enact), taken back later (Revert), and is what the log of a map holds (Change).
package edit

import (
	"errors"
	"slices"

	"plaintracer/core/model"
)

// Edit is one named change of a map, such as a person makes with one gesture.
// The edits of this package are the only way a map changes.
type Edit interface {
	change(t *transaction) error
}

// Apply makes the edit on m and returns the edit that takes it back. When the
// edit would break the map it is refused with the reason, and m is unchanged.
func Apply(m *model.Map, e Edit) (inverse Edit, err error) {
	t, err := Attempt(m, e)
	if err != nil {
		return nil, err
	}
	return t.Inverse(), nil
}

// Transaction is an edit made on a map that can still be unmade to the very byte, as
// long as nothing else has changed the map since.
type Transaction struct{ t *transaction }

// Attempt makes the edit like Apply, and keeps the means to unmake it.
func Attempt(m *model.Map, e Edit) (*Transaction, error) {
	return (&transaction{m: m, words: Words(m, e)}).attempt(e, (*transaction).verify)
}

// Preview is Attempt for an edit that is only shown, such as in every frame of a drag: it
// checks the things that the edit changed, but not the sheets they stand on as a whole, and its inverse has no words.
func Preview(m *model.Map, e Edit) (*Transaction, error) {
	return (&transaction{m: m}).attempt(e, unchecked)
}

func unchecked(*transaction) error { return nil }

// Lift makes an edit of a log that holds nothing but the edits (format 1), as the programs did that
// wrote it: they let undo pass locks, and took changes of stages and styles back as a whole.
func Lift(m *model.Map, e Edit) error {
	_, err := (&transaction{m: m, words: Words(m, e), earlier: true}).attempt(e, unchecked)
	return err
}

func (t *transaction) attempt(e Edit, verify func(*transaction) error) (*Transaction, error) {
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
	return &Transaction{t}, nil
}

// Rollback puts the map back exactly as it was before the attempt.
func (t *Transaction) Rollback() { t.t.rollback() }

// Inverse returns the edit that takes this one back.
func (t *Transaction) Inverse() *Revert {
	return &Revert{Of: t.t.words, Changes: t.t.done, Skipped: t.t.skipped}
}

// transaction is an edit under way: every change goes through it and is logged, so
// that a refused edit leaves nothing behind.
type transaction struct {
	m       *model.Map
	words   string
	log     []Change
	touched map[string]int // key of a thing -> its entry in log
	// done is the log without what came to nothing, once the edit is made. Taking the
	// transaction back needs the whole log.
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
	// earlier makes edits as Lift says.
	earlier bool
	// moved are the cards that are drawn in another way or place for what the edit did.
	moved []string
	// leaving are the symbols and connectors that taking an edit back removes,
	leaving map[string]bool
	// coming the symbols that it brings back.
	coming map[string]bool
}

func (t *transaction) entry(key string) *Change {
	if i, ok := t.touched[key]; ok {
		return &t.log[i]
	}
	return nil
}

func (t *transaction) note(key string, c Change) {
	if t.touched == nil {
		t.touched = map[string]int{}
	}
	t.touched[key] = len(t.log)
	t.log = append(t.log, c)
}

// last moves the entry of a thing that is being removed to the end of the log:
// taking it back inserts it at its place among what was there at that moment.
func (t *transaction) last(key string) *Change {
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

func (t *transaction) sheet(id string) (*model.Sheet, error) {
	if s := t.m.Sheet(id); s != nil {
		return s, nil
	}
	return nil, model.Refuse(id, "there is no sheet %q any more", id)
}

// fresh refuses an id that is no id or stands in the map already.
func (t *transaction) fresh(id string) error {
	if !model.ValidID(id) {
		return model.Refuse(id, "%q is no id", id)
	}
	if t.taken(id) {
		return model.Refuse(id, "the id %q is used already", id)
	}
	return nil
}

// fewIDs is how many ids are looked for one by one before all of the map are listed.
const fewIDs = 8

// taken reports whether an id stands in the map, or did before this edit. An id that was
// just removed stays taken, so that the edit can be taken back step by step.
func (t *transaction) taken(id string) bool {
	if t.entry(id) != nil {
		return true
	}
	if t.looked++; t.looked <= fewIDs {
		return t.m.Sheet(id) != nil || t.m.SheetOf(id) != nil
	}
	if t.used == nil {
		t.used = map[string]bool{}
		for _, s := range t.m.Sheets {
			for id := range s.IDs() {
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
func (t *transaction) spend(work int) error {
	if t.work += work; t.work > maxWork || work < 0 {
		return model.Refuse("", "this is too much for one change; do it in several")
	}
	return nil
}

// finish lets the lanes hold their steps, takes bends along with the symbols
// they lie between, checks what was touched, and completes the log with the
// state after the edit.
func (t *transaction) finish() error {
	t.following = true
	var touchedSheets []string
	for i := range t.log {
		if t.restoring {
			break
		}
		if c := &t.log[i]; c.of == symbolList || c.of == poolList {
			if !slices.Contains(touchedSheets, c.Sheet) {
				touchedSheets = append(touchedSheets, c.Sheet)
			}
		}
	}
	if !t.restoring && slices.ContainsFunc(t.log, func(c Change) bool { return c.of == sheetList }) {
		for _, s := range t.m.Sheets {
			if err := t.sizeLegends(s); err != nil {
				return err
			}
		}
	}
	if c := t.entry("head of "); c != nil && !t.restoring { // what legends explain may have changed
		was, _ := Changed[model.Head](c)
		coloured, shown := !slices.Equal(was.Before.ColourKey(), t.m.ColourKey()), !slices.Equal(was.Before.Shown,
			t.m.Shown)
		for _, s := range t.m.Sheets {
			if coloured {
				if err := t.sizeLegends(s); err != nil {
					return err
				}
			}
			if shown && !t.exact {
				if err := t.growLanes(s); err != nil {
					return err
				}
			}
		}
	}
	for _, id := range touchedSheets {
		s := t.m.Sheet(id)
		if s == nil {
			continue
		}
		if err := t.sizeLegends(s); err != nil {
			return err
		}
		if !t.exact {
			if err := t.shrinkLanes(s); err != nil {
				return err
			}
			if err := t.growLanes(s); err != nil {
				return err
			}
		}
		if err := t.carryBends(s); err != nil {
			return err
		}
	}
	if err := t.numberNew(); err != nil {
		return err
	}
	t.settle()
	made := map[string]bool{} // the sheets that this edit adds
	idle := 0
	for i := range t.log {
		c := &t.log[i]
		if err := t.complete(c); err != nil {
			return err
		}
		if c.of == sheetList && c.before == nil {
			made[c.ID] = true
		}
		if c.of.idle(c) {
			idle++
		}
	}
	if t.done = t.log; idle > 0 || len(made) > 0 {
		t.done = make([]Change, 0, len(t.log)-idle)
		for _, c := range t.log {
			// Activity log on a sheet that came in the same edit goes with it.
			on := c.Sheet
			if c.of == sheetList && t.m.Sheet(c.ID) == nil {
				on = c.ID
			}
			if !c.of.idle(&c) && !made[on] {
				t.done = append(t.done, c)
			}
		}
	}
	if len(t.done) == 0 && len(t.skipped) > 0 {
		return model.Refuse("", "“%s” cannot be taken back: %s", t.words, t.skipped[0])
	}
	return nil
}

// removed returns a sheet that the edit took away, as it then was; nil if there is none.
func (t *transaction) removed(id string) *model.Sheet {
	for i := range t.log {
		if s, ok := Changed[model.Sheet](&t.log[i]); ok && s.Before != nil && s.Before.ID == id {
			return s.Before
		}
	}
	return nil
}

// asRefusal turns a fault in the map that an edit would lead to into the reason why the
// edit cannot be made. Other errors stay as they are.
func asRefusal(id string, err error) error {
	var f *model.Fault
	if errors.As(err, &f) {
		return model.Refuse(id, "%s", f.Text)
	}
	return err
}

// verify validates as a whole whatever the edit has touched: a fault can lie in how things
// go together that are sound by themselves.
func (t *transaction) verify() error {
	touched, heavier, brought := map[string]bool{}, false, false
	for i := range t.done {
		c := &t.done[i]
		touched[c.Sheet] = true
		if c.of == sheetList {
			touched[c.ID] = true
		}
		// Lanes and stages have ids of their own.
		brought = brought || c.before == nil && c.after != nil || c.of == poolList
		heavier = heavier || c.after != nil && (c.of == sheetList || c.of.onSheet())
	}
	if sheet, err := t.m.SoundSheets(touched, brought); err != nil {
		return asRefusal(sheet, err)
	}
	if !heavier {
		return nil
	}
	if err := t.m.CheckDetails(); err != nil {
		return asRefusal("", err)
	}
	return asRefusal("", t.m.CheckWeight())
}

// symbolOn returns a symbol of a sheet that is going to change.
func (t *transaction) symbolOn(sheet, id string) (*model.Symbol, error) {
	s, err := t.sheet(sheet)
	if err != nil {
		return nil, err
	}
	return t.editSymbol(s, id)
}

func (t *transaction) editSymbol(s *model.Sheet, id string) (*model.Symbol, error) {
	return symbolList.edit(t, s, id)
}

func (t *transaction) editConnector(s *model.Sheet, id string) (*model.Connector, error) {
	return connectorList.edit(t, s, id)
}

func (t *transaction) editPool(s *model.Sheet, id string) (*model.Pool, error) {
	return poolList.edit(t, s, id)
}

func (t *transaction) touch(s *model.Sheet, sym *model.Symbol) error {
	return symbolList.touch(t, s, sym)
}

// complete fills in what a change led to, and checks it.
func (t *transaction) complete(c *Change) error {
	s := t.m.Sheet(c.Sheet)
	if s == nil && c.Sheet != "" {
		// The sheet went later in the same edit. What it held when it went is what
		// this change led to.
		if s = t.removed(c.Sheet); s == nil {
			return nil
		}
	}
	return asRefusal(c.ID, c.of.complete(t, s, c))
}

// rollback unmakes the logged changes, latest first, without asking.
func (t *transaction) rollback() {
	for i := len(t.log) - 1; i >= 0; i-- {
		c := &t.log[i]
		if s := t.m.Sheet(c.Sheet); s != nil || c.Sheet == "" {
			c.of.rollback(t.m, s, c)
		}
	}
	t.settle()
	t.log, t.done, t.moved = nil, nil, nil
}
