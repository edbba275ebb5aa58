package edit

import (
	"errors"
	"slices"

	"plaintracer/core/model"
)

func init() {
	register("revert", func(_ *model.Map, r *Revert) string { return r.Of })
}

// Revert takes an earlier edit back on the map as it is now: whatever still
// holds the value that edit gave it gets its former value again, and the rest,
// which somebody else has changed since, is skipped and named.
type Revert struct {
	// Of says what is taken back, in words.
	Of string `json:"of"`
	// Seq is the number of the edit that is taken back, among those of the window. Whoever keeps
	// the map for others looks up by it what that edit did.
	Seq     int      `json:"seq,omitempty"`
	Changes []Change `json:"changes"`
	// Skipped names what was left alone when this inverse was made by taking
	// back another edit.
	Skipped []string `json:"-"`
}

func (r *Revert) change(t *transaction) error {
	t.exact, t.restoring = true, true
	t.leaving, t.coming = map[string]bool{}, map[string]bool{}
	for i := range r.Changes {
		c := &r.Changes[i]
		if c.of == nil || c.At < 0 || c.of.onSheet() == (c.Sheet == "") && c.of != orderOf {
			return incomplete(c)
		}
		if err := c.of.sound(c); err != nil {
			return err
		}
		if (c.of == symbolList || c.of == connectorList) && c.before == nil {
			t.leaving[c.ID] = true
		}
		if c.of == symbolList && c.after == nil {
			t.coming[c.ID] = true
		}
	}
	done := make([]bool, len(r.Changes))
	one := func(i int) error {
		c := &r.Changes[i]
		s := t.m.Sheet(c.Sheet)
		switch {
		case done[i]:
			return nil
		case c.Sheet != "" && s == nil:
			t.skip("the sheet", goneSince)
			return nil
		}
		done[i] = true
		return c.of.revert(t, s, c)
	}
	pooled := map[string]bool{} // the sheets whose rows and stages came back before what stands in them
	for i := len(r.Changes) - 1; i >= 0; i-- {
		if c := &r.Changes[i]; c.of == symbolList && !pooled[c.Sheet] && t.m.Sheet(c.Sheet) != nil {
			pooled[c.Sheet] = true
			for k := i - 1; k >= 0; k-- {
				if r.Changes[k].of == poolList && r.Changes[k].Sheet == c.Sheet {
					if err := one(k); err != nil {
						return err
					}
				}
			}
		}
		if err := one(i); err != nil {
			return err
		}
	}
	return nil
}

func (t *transaction) skip(what, why string) { t.skipped = append(t.skipped, what+" "+why) }

const (
	changedSince = "was changed by somebody else since"
	goneSince    = "is gone"
	usedSince    = "is used by something newer"
	lockedSince  = "is locked"
)

// joined reports whether a connector that stays ends on the one called id.
func (t *transaction) joined(s *model.Sheet, id string) bool {
	return slices.ContainsFunc(s.Connectors,
		func(c *model.Connector) bool { return c.To.Connector == id && !t.leaving[c.ID] })
}

// skipRefused skips what cannot be taken back for a reason of its own.
func (t *transaction) skipRefused(what string, err error) error {
	var r *model.Refusal
	if errors.As(err, &r) {
		t.skip(what, r.Text)
		return nil
	}
	return err
}
