// Package desk is the map that a window shows with what is selected in it, and all that can be done to it. It knows neither
// pointer nor keys.
package desk

// Desk is a window with all that can be done to what it shows. Each topic is a type of its own.
type Desk struct {
	*Window
	Writing   *Writing
	Lines     *Lines
	Placing   *Placing
	Styling   *Styling
	Lanes     *Lanes
	Sheets    *Sheets
	Selecting *Selecting
	Clipboard *Clipboard
	Searching *Searching
	Layout    *Layout
	Numbering *Numbering
	Cases     *Cases
}

// New returns the desk of a window that shows nothing yet.
func New() *Desk {
	d := &Desk{Window: new(Window)}
	d.Writing = &Writing{d}
	d.Lines = &Lines{d}
	d.Placing = &Placing{d}
	d.Styling = &Styling{d}
	d.Lanes = &Lanes{d}
	d.Sheets = &Sheets{d}
	d.Selecting = &Selecting{d}
	d.Clipboard = &Clipboard{d}
	d.Searching = &Searching{d}
	d.Layout = &Layout{d}
	d.Numbering = &Numbering{d}
	d.Cases = &Cases{d}
	return d
}

// The topics.
type (
	// Writing is what is written on items, and the steps that writing goes on with.
	Writing struct{ *Desk }
	// Lines are what is done to connectors.
	Lines struct{ *Desk }
	// Placing is where symbols are set down.
	Placing struct{ *Desk }
	// Styling is how items look, and the styles that are kept.
	Styling struct{ *Desk }
	// Lanes are what is done to pools, lanes and stages.
	Lanes struct{ *Desk }
	// Sheets are what is done to sheets, and what all of a map are set by.
	Sheets struct{ *Desk }
	// Selecting is what is selected, and what is held together.
	Selecting struct{ *Desk }
	// Clipboard is what is copied and pasted.
	Clipboard struct{ *Desk }
	// Searching finds texts in all sheets, and replaces them.
	Searching struct{ *Desk }
	// Layout is what is arranged as a whole, and shown before it is kept.
	Layout struct{ *Desk }
	// Numbering is how steps are numbered.
	Numbering struct{ *Desk }
	// Cases are traced: walked through the map.
	Cases struct{ *Desk }
)
