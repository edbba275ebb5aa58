package edit

import (
	"slices"

	"plaintracer/core/model"
)

// The edits that write texts.

func init() {
	register("setText", says[*SetText]("write"))
	register("setAccents", says[*SetAccents]("set words otherwise"))
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
	sym.Rewrite(e.Text)
	return nil
}

// SetAccents says which stretches of the text of a symbol are set otherwise than the rest. Text is the text that they
// were chosen in: where another one stands there by now, they go with its words.
type SetAccents struct {
	Sheet   string         `json:"sheet"`
	ID      string         `json:"id"`
	Text    string         `json:"text"`
	Accents []model.Accent `json:"accents,omitempty"`
}

func (e *SetAccents) change(t *transaction) error {
	sym, err := t.symbolOn(e.Sheet, e.ID)
	if err != nil {
		return err
	}
	chosen := model.Accented{Text: e.Text, Accents: slices.Clone(e.Accents)}
	sym.Accents = chosen.Rewritten(sym.Text).Accents
	return nil
}
