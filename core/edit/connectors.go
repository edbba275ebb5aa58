package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
)

// The edits of connectors.

func init() {
	register("setEnds", says[*SetEnds]("reconnect"))
	register("setBends", func(_ *model.Map, e *SetBends) string {
		if len(e.Bends) == 0 {
			return "give the course back"
		}
		return "bend the connector"
	})
	register("setPlace", says[*SetPlace]("move the label"))
}

// connector returns the connector an edit is about.
func (t *transaction) connector(sheet, id string) (*model.Connector, error) {
	s, err := t.sheet(sheet)
	if err != nil {
		return nil, err
	}
	return t.editConnector(s, id)
}

// SetEnds glues the ends of a connector; nil leaves an end alone.
type SetEnds struct {
	Sheet string     `json:"sheet"`
	ID    string     `json:"id"`
	From  *model.End `json:"from,omitempty"`
	To    *model.End `json:"to,omitempty"`
}

func (e *SetEnds) change(t *transaction) error {
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
	fields.Assign(c, e)
	return nil
}

// SetBends lays stretches of a connector by hand; none gives its whole
// course back to the router.
type SetBends struct {
	Sheet string       `json:"sheet"`
	ID    string       `json:"id"`
	Bends []model.Bend `json:"bends,omitempty"`
}

func (e *SetBends) change(t *transaction) error {
	c, err := t.connector(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	c.Bends = slices.Clone(e.Bends)
	return nil
}

// SetPlace puts a label of a connector to a place chosen by hand; the zero
// place lets it find its own again.
type SetPlace struct {
	Sheet string     `json:"sheet"`
	ID    string     `json:"id"`
	At    string     `json:"at,omitempty"`
	Place model.Spot `json:"place"`
}

func (e *SetPlace) change(t *transaction) error {
	c, err := t.connector(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	l, err := c.Label(e.At)
	if err != nil {
		return err
	}
	*l.Place = e.Place
	return nil
}
