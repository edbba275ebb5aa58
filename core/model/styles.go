package model

import (
	"slices"

	"plaintracer/core/fields"
)

// Style is a way of drawing saved under a name. Fill and Emphasis are for
// symbols, the rest for connectors as well.
type Style struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Fill     string `json:"fill,omitempty"`
	Ink      string `json:"ink,omitempty"`
	Weight   int    `json:"weight,omitempty"`
	Dashed   bool   `json:"dashed,omitempty"`
	Emphasis bool   `json:"emphasis,omitempty"`
	Type
}

// StyleNamed returns the saved style with this id, or nil.
func (h *Head) StyleNamed(id string) *Style {
	if i := slices.IndexFunc(h.Styles, func(s Style) bool { return s.ID == id }); i >= 0 {
		return &h.Styles[i]
	}
	return nil
}

// Validate returns the first fault of a style.
func (y *Style) Validate(path string) error {
	switch {
	case !ValidID(y.ID):
		return fault(path+".id", "%q is no id", y.ID)
	case y.Name == "":
		return fault(path+".name", "a style needs a name")
	case !isColour(y.Fill):
		return fault(path+".fill", "%q is no colour of the palette and no #rrggbb", y.Fill)
	case !isColour(y.Ink):
		return fault(path+".ink", "%q is no colour of the palette and no #rrggbb", y.Ink)
	case !isWeight(y.Weight):
		return fault(path+".weight", "a line is a half to %d px wide", MaxWeight/100)
	}
	if err := checkText(path+".name", y.Name, MaxName); err != nil {
		return err
	}
	return y.Type.Validate(path)
}

// StyleOf returns the style a symbol has, without a name.
func (s *Symbol) StyleOf() Style { return StyleOf(s) }

// StyleOf returns the style a connector has, without a name.
func (c *Connector) StyleOf() Style { return StyleOf(c) }

// StyleOf returns the style that a record has, without a name.
func StyleOf(record any) (s Style) {
	fields.Give(&s, record)
	return s
}
