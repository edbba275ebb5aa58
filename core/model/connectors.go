package model

import "slices"

// Free reports whether nothing about the course of the connector was chosen by
// hand.
func (c *Connector) Free() bool {
	for _, l := range c.Labels() {
		if *l.Place != (Spot{}) {
			return false
		}
	}
	return len(c.Bends) == 0 && (c.From.Symbol == "" || c.From.Side == "") && (c.To.Symbol == "" || c.To.Side == "")
}

// Label returns the label of a connector that an edit names: "" for the one in
// the middle, "from" or "to".
func (c *Connector) Label(at string) (Label, error) {
	i := slices.Index(LabelNames[:], at)
	if i < 0 {
		return Label{}, Refuse(c.ID, "a connector has no label %q", at)
	}
	return c.Labels()[i], nil
}

// LabelNames are the names of the labels in the order of Labels.
var LabelNames = [3]string{"", "from", "to"}
