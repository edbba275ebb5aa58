package edit

import (
	"plaintracer/core/fields"
	"plaintracer/core/model"
)

// What belongs to the map as a whole.

func init() {
	register("setHead", says[*SetHead]("change the map"))
}

// SetHead changes what belongs to the map; nil leaves a value alone.
type SetHead struct {
	Title     *string          `json:"title,omitempty"`
	Direction *model.Direction `json:"direction,omitempty"`
	Answers   []string         `json:"answers,omitempty"`
	Numbers   *bool            `json:"numbers,omitempty"`
	Units     *model.Units     `json:"units,omitempty"`
	Look      *string          `json:"look,omitempty"`
	Heading   *model.Heading   `json:"heading,omitempty"`
	Above     *bool            `json:"above,omitempty"`
	// Colours replaces the organisation's colours, unless it is nil.
	Colours *[]model.HouseColour `json:"colours,omitempty"`
	// Faces replaces the fonts the map is written in, unless it is nil.
	Faces *[]string `json:"faces,omitempty"`
	// Also replaces those of its further typefaces, unless it is nil.
	Also *[]string `json:"also,omitempty"`
	// Numbering is how steps are numbered, Shown and ColourBy which fields stand on the drawing.
	Numbering *model.Numbering `json:"numbering,omitempty"`
	Currency  *string          `json:"currency,omitempty"`
	Day       *int             `json:"day,omitempty"`
	Week      *int             `json:"week,omitempty"`
	Shown     *[]string        `json:"shown,omitempty"`
	ColourBy  *string          `json:"colourBy,omitempty"`
}

func (e *SetHead) change(t *transaction) error {
	fields.Assign(mapHead.edit(t, nil), e)
	return nil
}
