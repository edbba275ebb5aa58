package edit

import (
	"plaintracer/core/model"
)

// Touched says what of a map may have changed since somebody last looked at it: some symbols, connectors and pools,
// each at its place in its list, or anything. The zero value says anything. It is what lets a frame of a drag look at
// the fifty items in the hand instead of at the whole sheet.
type Touched struct {
	few   bool // only items
	items map[string]bool
}

// Everything notes that anything may have changed.
func (t *Touched) Everything() { t.few = false }

// Add notes what an edit changed.
func (t *Touched) Add(by *Transaction) {
	if !t.few {
		return
	}
	for i := range by.t.log {
		c := &by.t.log[i]
		switch c.before.(type) {
		case *model.Symbol, *model.Connector, *model.Pool:
		default:
			t.few = false
		}
		if !t.few || c.after == nil {
			t.few = false
			return
		}
		t.note(c.ID)
	}
	for _, id := range by.t.moved {
		t.note(id)
	}
}

// Join notes what another one says.
func (t *Touched) Join(other *Touched) {
	if t.few = t.few && other.few; t.few {
		for id := range other.items {
			t.note(id)
		}
	}
}

func (t *Touched) note(id string) {
	if t.items == nil {
		t.items = map[string]bool{}
	}
	t.items[id] = true
}

// Looked notes that somebody has looked: from here on nothing is touched.
func (t *Touched) Looked() {
	t.few = true
	clear(t.items)
}

// Few returns the ids of the items that may have changed, and reports whether nothing else may have.
func (t *Touched) Few() (items map[string]bool, few bool) { return t.items, t.few }
