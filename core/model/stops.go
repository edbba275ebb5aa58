package model

import (
	"fmt"
	"slices"

	"plaintracer/core/geometry"
)

// MaxStops is how many stops a map has at most.
const MaxStops = 200

// Stop is a place to which a presenter goes: what is seen of a sheet, with a few words.
type Stop struct {
	ID    string `json:"id"`
	Sheet string `json:"sheet"`
	// The box is the part of the sheet that is seen.
	geometry.Box
	Title string `json:"title,omitempty"`
	Words string `json:"words,omitempty"`
}

// StopsShown returns the stops on sheets that the map still has.
func (m *Map) StopsShown() []Stop {
	return slices.DeleteFunc(slices.Clone(m.Stops), func(s Stop) bool { return m.Sheet(s.Sheet) == nil })
}

// checkStops reports the first fault in the stops of a map.
func (h *Head) checkStops() error {
	if len(h.Stops) > MaxStops {
		return fault("stops", "a map has at most %d stops, not %d", MaxStops, len(h.Stops))
	}
	for i, s := range h.Stops {
		path := fmt.Sprintf("stops[%d]", i)
		switch {
		case !ValidID(s.ID) || slices.ContainsFunc(h.Stops[:i], func(o Stop) bool { return o.ID == s.ID }):
			return fault(path+".id", "%q is no id, or stands there twice", s.ID)
		case !ValidID(s.Sheet):
			return fault(path+".sheet", "%q is no id of a sheet", s.Sheet)
		case !placed(s.X) || !placed(s.Y) || s.W <= 0 || s.H <= 0 || !placed(s.Right()) || !placed(s.Bottom()):
			return fault(path, "the part of the sheet that is seen is empty, or beyond the desk")
		}
		if err := checkText(path+".title", s.Title, MaxName); err != nil {
			return err
		}
		if err := checkText(path+".words", s.Words, MaxText); err != nil {
			return err
		}
	}
	return nil
}
