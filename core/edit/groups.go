package edit

import (
	"plaintracer/core/model"
)

func init() {
	register("setGroups", func(_ *model.Map, e *SetGroups) string { return e.As })
	register("setLock", func(m *model.Map, e *SetLock) string {
		if e.Locked {
			return "lock " + speak(m, e.Sheet, e.IDs)
		}
		return "unlock " + speak(m, e.Sheet, e.IDs)
	})
}

// Groups hold symbols together. A symbol names the groups it belongs to, so
// that a group is there as long as it has members, and nowhere else.

type (
	// SetGroups puts symbols into groups and takes them out of them.
	SetGroups struct {
		Sheet string `json:"sheet"`
		// As says in words what is done: "group 3 steps".
		As     string       `json:"as"`
		Groups []Membership `json:"groups"`
	}
	// SetLock locks symbols, connectors and pools against change, or unlocks
	// them.
	SetLock struct {
		Sheet  string   `json:"sheet"`
		IDs    []string `json:"ids"`
		Locked bool     `json:"locked"`
	}
)

// Membership is the path of groups that a symbol is to have.
type Membership struct {
	ID    string `json:"id"`
	Group string `json:"group,omitempty"`
}

func (e *SetGroups) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.following = true // being held together does not change what is locked
	defer func() { t.following = false }()
	for _, m := range e.Groups {
		sym, err := t.editSymbol(s, m.ID)
		if err != nil {
			return err
		}
		sym.Group = m.Group
	}
	return nil
}

func (e *SetLock) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.following = true // how else could it be unlocked
	defer func() { t.following = false }()
	for _, id := range e.IDs {
		switch {
		case s.Connector(id) != nil:
			c, err := t.editConnector(s, id)
			if err != nil {
				return err
			}
			c.Locked = e.Locked
		case s.Pool(id) != nil:
			p, err := t.editPool(s, id)
			if err != nil {
				return err
			}
			p.Locked = e.Locked
		default:
			sym, err := t.editSymbol(s, id)
			if err != nil {
				return err
			}
			sym.Locked = e.Locked
		}
	}
	return nil
}
