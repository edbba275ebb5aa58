package diagram

import "slices"

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

func (e *SetText) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	if s.Connector(e.ID) != nil {
		c, err := t.editConnector(s, e.ID)
		if err != nil {
			return err
		}
		l, err := c.label(e.At)
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

// label returns the label of a connector that an edit names: "" for the one in
// the middle, "from" or "to".
func (c *Connector) label(at string) (Label, error) {
	i := slices.Index(LabelNames[:], at)
	if i < 0 {
		return Label{}, refuse(c.ID, "a connector has no label %q", at)
	}
	return c.Labels()[i], nil
}

// LabelNames are the names of the labels in the order of Labels.
var LabelNames = [3]string{"", "from", "to"}
