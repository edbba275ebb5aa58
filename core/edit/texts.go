package edit

// The edit that writes texts.

func init() {
	register("setText", says[*SetText]("write"))
}

// SetText writes the text of a symbol or a label of a connector: the one in
// the middle, or with At set to "from" or "to" the one at that end.
type SetText struct {
	Sheet string `json:"sheet"`
	ID    string `json:"id"`
	At    string `json:"at,omitempty"`
	Text  string `json:"text"`
}

func (e *SetText) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	if s.Connector(e.ID) != nil {
		c, err := t.editConnector(s, e.ID)
		if err != nil {
			return err
		}
		l, err := c.Label(e.At)
		if err != nil {
			return err
		}
		*l.Text = e.Text
		return nil
	}
	sym, err := t.editSymbol(s, e.ID)
	if err != nil {
		return err
	}
	sym.Text = e.Text
	return nil
}
