package edit

import "plaintracer/core/model"

func init() {
	register("setDetail", func(_ *model.Map, e *SetDetail) string {
		if e.Detail == "" {
			return "take the detail off"
		}
		return "open a step into a sheet"
	})
}

// SetDetail says on which sheet a step is told as a flow of its own; empty is none.
type SetDetail struct {
	Sheet  string `json:"sheet"`
	ID     string `json:"id"`
	Detail string `json:"detail"`
}

func (e *SetDetail) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	if e.Detail != "" && t.m.Sheet(e.Detail) == nil {
		return model.Refuse(e.ID, "there is no sheet %q any more", e.Detail)
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	if e.Detail != "" && !sym.Kind.IsStep() {
		return model.Refuse(e.ID, "only a step opens into a sheet of its own")
	}
	sym.Detail = e.Detail
	return nil
}
