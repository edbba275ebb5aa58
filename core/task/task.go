// Package task says what can be computed beside the page, since it can take a while, and what it comes to. The page
// goes on answering meanwhile, and can stop it. Package worker does it; whoever asks for it needs only this package.
package task

import (
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// Task is to lay out a sheet, with all that is needed for it.
type Task struct {
	Map   *model.Map `json:"map"`
	Sheet string     `json:"sheet"`
	IDs   []string   `json:"ids,omitempty"`
	Down  bool       `json:"down,omitempty"`
	// Afresh lets steps leave the rows and columns in which they stand.
	Afresh bool `json:"afresh,omitempty"`
	// Over lets the flow go on over further sheets; what comes new gets ids that
	// begin with Prefix.
	Over   bool   `json:"over,omitempty"`
	Prefix string `json:"prefix,omitempty"`
}

// Lines counts what the lines of a sheet are like; Length, in hundredths of a pixel, is that of all together.
type Lines struct{ Bends, Crossings, Length int }

// Outcome is what a task comes to: an edit, and what the lines of the sheet are like before and after it; and once the
// sheet is straightened instead, with the edit that does it where something moves. There is none where nothing is to
// change.
type Outcome struct {
	Edit                    edit.Envelope `json:"edit"`
	Before, After, Straight *Lines        `json:",omitempty"`
	Straightened            []edit.Place  `json:",omitempty"`
	// Simpler says that the sheet is simpler straightened than laid out.
	Simpler bool `json:",omitempty"`
	// Longer lays the flow out in one row, where rows have many more bends; Fresh leaves the places in which the steps
	// stand.
	Longer, Fresh *edit.Envelope `json:",omitempty"`
}

// Straightening is the edit that straightens a sheet.
func Straightening(sheet string, boxes []edit.Place) *edit.PlaceItems {
	return &edit.PlaceItems{Sheet: sheet, As: "straighten", Boxes: boxes}
}
