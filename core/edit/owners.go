package edit

func init() {
	register("setOwner", says[*SetOwner]("set the owner"))
}

// SetOwner says who does steps that stand in no lane: a role, a department or a
// person; empty for nobody.
type SetOwner struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Owner string   `json:"owner"`
}

func (e *SetOwner) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		sym.Owner = e.Owner
	}
	return nil
}
