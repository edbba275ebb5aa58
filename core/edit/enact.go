package edit

import (
	"cmp"
	"fmt"
	"slices"

	"plaintracer/core/model"
)

// Enact makes on a map what an edit did, as its changes say: each record becomes what it was after
// the edit. It is how the log of a map is read. No rule is asked, so that what was once accepted
// can always be read, whatever rules have come since; an error says that the changes are not of
// this map. The places of cards do not follow: call SettleAll once the log is read.
func Enact(m *model.Map, changes []Change) error {
	gone, made := map[string]bool{}, []*Change{}
	var orders []*Change
	for i := range changes {
		if c := &changes[i]; c.of == sheetList && c.after == nil {
			gone[c.ID] = true
		}
	}
	for i := range changes {
		c := &changes[i]
		if c.of == nil {
			return fmt.Errorf("change %d is of nothing this program knows", i)
		}
		if err := c.of.sound(c); err != nil {
			return fmt.Errorf("change %d: %w", i, err)
		}
		switch {
		case gone[c.Sheet]: // it went with its sheet
		case c.Sheet != "" && m.Sheet(c.Sheet) == nil:
			return fmt.Errorf("change %d is on the sheet %q, which is not there", i, c.Sheet)
		case c.of == orderOf:
			orders = append(orders, c)
		case c.before == nil:
			made = append(made, c)
		default:
			c.of.enact(m, m.Sheet(c.Sheet), c)
		}
	}
	for _, c := range orders {
		c.of.enact(m, m.Sheet(c.Sheet), c)
	}
	// What was made says where it stands once all of it is there.
	slices.SortStableFunc(made, func(a, b *Change) int { return cmp.Compare(a.At, b.At) })
	for _, c := range made {
		c.of.enact(m, m.Sheet(c.Sheet), c)
	}
	return nil
}

// Changes returns what the edit did.
func (t *Transaction) Changes() []Change { return t.t.done }
