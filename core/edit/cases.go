package edit

import (
	"slices"

	"plaintracer/core/model"
)

func init() {
	register("addCase", func(_ *model.Map, e *AddCase) string { return "keep the case " + model.Quote(e.Case.Name) })
	register("nameCase", says[*NameCase]("name the case"))
	register("removeCase", says[*RemoveCase]("remove the case"))
}

type (
	// AddCase keeps a case with the map, behind the others.
	AddCase struct {
		Case model.Case `json:"case"`
	}
	// NameCase calls a case something else.
	NameCase struct {
		ID   string `json:"id"`
		Name string `json:"name"`
	}
	// RemoveCase removes a case.
	RemoveCase struct {
		ID string `json:"id"`
	}
)

// kept returns the head of the map for changing, with its list of cases as one of its own, and the place of a case in
// it.
func (t *transaction) kept(id string) (*model.Head, int, error) {
	i := slices.IndexFunc(t.m.Cases, func(c model.Case) bool { return c.ID == id })
	if i < 0 {
		return nil, 0, model.Refuse(id, "the case is not there any more")
	}
	h := mapHead.edit(t, nil)
	h.Cases = slices.Clone(h.Cases)
	return h, i, nil
}

func (e *AddCase) change(t *transaction) error {
	h := mapHead.edit(t, nil)
	c := e.Case
	c.Way = slices.Clone(c.Way)
	h.Cases = append(slices.Clone(h.Cases), c)
	return nil
}

func (e *NameCase) change(t *transaction) error {
	h, i, err := t.kept(e.ID)
	if err == nil {
		h.Cases[i].Name = e.Name
	}
	return err
}

func (e *RemoveCase) change(t *transaction) error {
	h, i, err := t.kept(e.ID)
	if err == nil {
		h.Cases = slices.Delete(h.Cases, i, i+1)
	}
	return err
}
