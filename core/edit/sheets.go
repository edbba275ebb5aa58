package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
)

// The edits of sheets.

func init() {
	register("addSheet", says[*AddSheet]("add a sheet"))
	register("setSheet", says[*SetSheet]("change the sheet"))
	register("moveSheet", says[*MoveSheet]("move the sheet"))
	register("removeSheet", says[*RemoveSheet]("remove the sheet"))
}

// AddSheet puts a sheet, empty or with content, at place At.
type AddSheet struct {
	At    int         `json:"at"`
	Sheet model.Sheet `json:"sheet"`
}

func (e *AddSheet) change(t *transaction) error {
	if e.At < 0 || e.At > len(t.m.Sheets) {
		return model.Refuse(e.Sheet.ID, "there is no place %d among %d sheets", e.At, len(t.m.Sheets))
	}
	s := e.Sheet
	s.Symbols = slices.Clone(s.Symbols)
	for i, sym := range s.Symbols {
		if sym != nil && sym.Kept != "" {
			s.Symbols[i] = sym.Clone()
			t.renumber(s.Symbols[i])
		}
	}
	return sheetList.add(t, e.At, &s)
}

// SetSheet changes a sheet's name or paper; nil leaves a value alone.
type SetSheet struct {
	Sheet      string            `json:"sheet"`
	Name       *string           `json:"name,omitempty"`
	Paper      *string           `json:"paper,omitempty"`
	Across     *bool             `json:"across,omitempty"`
	Fitting    *model.Fitting    `json:"fitting,omitempty"`
	Crossings  *model.Crossing   `json:"crossings,omitempty"`
	Merging    *bool             `json:"merging,omitempty"`
	Middle     *bool             `json:"middle,omitempty"`
	Edge       *model.Edge       `json:"edge,omitempty"`
	Background *model.Background `json:"ground,omitempty"`
	Headed     *bool             `json:"headed,omitempty"`
	Colour     *string           `json:"colour,omitempty"`
}

func (e *SetSheet) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	fields.Assign(sheetHead.edit(t, s), e)
	return nil
}

// MoveSheet takes a sheet to place To.
type MoveSheet struct {
	Sheet string `json:"sheet"`
	To    int    `json:"to"`
}

func (e *MoveSheet) change(t *transaction) error {
	order := model.IDsOf(t.m.Sheets)
	at := slices.Index(order, e.Sheet)
	if at < 0 {
		return model.Refuse(e.Sheet, "there is no sheet %q any more", e.Sheet)
	}
	if e.To < 0 || e.To >= len(order) {
		return model.Refuse(e.Sheet, "there is no place %d among %d sheets", e.To, len(order))
	}
	orderOf.set(t, nil, slices.Insert(slices.Delete(order, at, at+1), e.To, e.Sheet))
	return nil
}

// RemoveSheet takes a sheet away with all it holds.
type RemoveSheet struct {
	Sheet string `json:"sheet"`
}

func (e *RemoveSheet) change(t *transaction) error { return sheetList.remove(t, e.Sheet) }
