package model

import (
	"fmt"
	"slices"
)

// The bounds of cases kept with a map, and of the way of one.
const (
	MaxCases = 100
	MaxWay   = 500
)

// Case is a case that was traced through the map and kept under a name: the ids of the symbols it came by, in order.
type Case struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	Way  []string `json:"way"`
}

// checkCases reports the first fault in the cases of a map.
func (h *Head) checkCases() error {
	if len(h.Cases) > MaxCases {
		return fault("cases", "a map keeps at most %d cases, not %d", MaxCases, len(h.Cases))
	}
	for i, c := range h.Cases {
		path := fmt.Sprintf("cases[%d]", i)
		switch {
		case !ValidID(c.ID) || slices.ContainsFunc(h.Cases[:i], func(o Case) bool { return o.ID == c.ID }):
			return fault(path+".id", "%q is no id, or stands there twice", c.ID)
		case c.Name == "" || len([]rune(c.Name)) > MaxName:
			return fault(path+".name", "a case has a name of at most %d characters", MaxName)
		case len(c.Way) == 0 || len(c.Way) > MaxWay:
			return fault(path+".way", "a case has 1 to %d steps, not %d", MaxWay, len(c.Way))
		case slices.ContainsFunc(c.Way, func(id string) bool { return !ValidID(id) }):
			return fault(path+".way", "it holds what is no id of a step")
		}
	}
	return nil
}
