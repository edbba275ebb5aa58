// Package compose makes edits from a map and what is selected in it, without any gesture: lanes from a
// list of roles, the gap a step leaves, the answer a new exit takes, the clipboard. The editor calls
// it, and so can whatever else changes maps for a person, such as a fix or an importer.
//
// A Work says on which sheet and how new things are named; its methods return edits, and errors in
// words for the person.
package compose

import "plaintracer/core/model"

// Refusal is an error in a whole sentence for the person; other errors are to be put into one.
type Refusal string

func (r Refusal) Error() string { return string(r) }

// Work is a sheet that is worked on.
type Work struct {
	Map   *model.Map
	Sheet *model.Sheet
	// NewID returns an id that nothing has yet.
	NewID func() string
	// Under is the card of a hierarchy under which what is pasted comes; empty for the head.
	Under string
	// Row and Stage are the cell of a journey into which what is pasted comes; empty for the one it was in.
	Row, Stage string
	// Numbers are the numbers by which cells of the register name steps; nil for those they have now.
	Numbers map[string]string
}
