package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
)

func init() {
	register("addStop", says[*AddStop]("add a stop"))
	register("setStop", says[*SetStop]("change the stop"))
	register("moveStop", says[*MoveStop]("move the stop"))
	register("removeStop", says[*RemoveStop]("remove the stop"))
}

type (
	// AddStop adds a stop at a place among those there are; beyond the last it is put behind them.
	AddStop struct {
		Stop model.Stop `json:"stop"`
		At   int        `json:"at"`
	}
	// SetStop changes the title or the words of a stop; nil leaves a value alone.
	SetStop struct {
		ID    string  `json:"id"`
		Title *string `json:"title,omitempty"`
		Words *string `json:"words,omitempty"`
	}
	// MoveStop puts a stop at another place.
	MoveStop struct {
		ID string `json:"id"`
		At int    `json:"at"`
	}
	// RemoveStop removes a stop.
	RemoveStop struct {
		ID string `json:"id"`
	}
)

// stop returns the head of the map for changing, with its list of stops as one of its own, and the place of a stop in
// it.
func (t *transaction) stop(id string) (*model.Head, int, error) {
	i := slices.IndexFunc(t.m.Stops, func(s model.Stop) bool { return s.ID == id })
	if i < 0 {
		return nil, 0, model.Refuse(id, "the stop is not there any more")
	}
	h := mapHead.edit(t, nil)
	h.Stops = slices.Clone(h.Stops)
	return h, i, nil
}

func (e *AddStop) change(t *transaction) error {
	if t.m.Sheet(e.Stop.Sheet) == nil {
		return model.Refuse(e.Stop.ID, "there is no sheet %q any more", e.Stop.Sheet)
	}
	h := mapHead.edit(t, nil)
	h.Stops = slices.Insert(slices.Clone(h.Stops), max(0, min(e.At, len(h.Stops))), e.Stop)
	return nil
}

func (e *SetStop) change(t *transaction) error {
	h, i, err := t.stop(e.ID)
	if err == nil {
		fields.Assign(&h.Stops[i], &struct{ Title, Words *string }{e.Title, e.Words})
	}
	return err
}

func (e *MoveStop) change(t *transaction) error {
	h, i, err := t.stop(e.ID)
	if err != nil {
		return err
	}
	s := h.Stops[i]
	rest := slices.Delete(h.Stops, i, i+1)
	h.Stops = slices.Insert(rest, max(0, min(e.At, len(rest))), s)
	return nil
}

func (e *RemoveStop) change(t *transaction) error {
	h, i, err := t.stop(e.ID)
	if err == nil {
		h.Stops = slices.Delete(h.Stops, i, i+1)
	}
	return err
}
