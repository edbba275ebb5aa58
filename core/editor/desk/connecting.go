package desk

import (
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// ConnectInto makes the edit that leads a connector somewhere, a new one or the end of one that is
// there, unless another one says the same already: from the same symbol to the same, with the
// same label. It reports whether the edit was made.
func (e *Lines) ConnectInto(change edit.Edit) bool {
	var led model.Connector
	switch edit := change.(type) {
	case *edit.AddItems:
		led = edit.Connectors[0]
	case *edit.SetEnds:
		if c := e.Sheet().Connector(edit.ID); c != nil {
			led = *c
		}
		before := [2]string{led.From.Symbol, led.To.Symbol}
		if edit.From != nil {
			led.From = *edit.From
		}
		if edit.To != nil {
			led.To = *edit.To
		}
		if before == [2]string{led.From.Symbol, led.To.Symbol} { // only another side
			return e.Do(edit)
		}
	}
	for _, c := range e.Sheet().Connectors {
		if c.ID == led.ID || led.From.Symbol == "" || led.To.Symbol == "" || c.From.Symbol != led.From.Symbol ||
			c.To.Symbol != led.To.Symbol || c.Text != led.Text {
			continue
		}
		if led.Text == "" {
			e.Say("A connector without a label leads there already. Write a label on it first, or lead this one elsewhere.")
		} else {
			e.Say("A connector labelled “%s” leads there already. Label one of the two differently first, or lead this one elsewhere.", led.Text)
		}
		return false
	}
	return e.Do(change)
}
