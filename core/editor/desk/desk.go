// Package desk is the map that a window shows with what is selected in it, and all that can be done to it. It knows
// neither pointer nor keys.
package desk

// Desk is a window with all that can be done to what it shows. Each topic is a type of its own.
type Desk struct {
	Window
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
	Cards     *Cards
	Journeys  *Journeys
}

// New returns the desk of a window that shows nothing yet.
func New() *Desk {
	d := new(Desk)
	d.Writing = &Writing{&d.Window, d}
	d.Lines = &Lines{&d.Window, d}
	d.Placing = &Placing{&d.Window, d}
	d.Styling = &Styling{&d.Window, d}
	d.Lanes = &Lanes{&d.Window, d}
	d.Sheets = &Sheets{&d.Window, d}
	d.Selecting = &Selecting{&d.Window, d}
	d.Clipboard = &Clipboard{&d.Window, d}
	d.Searching = &Searching{&d.Window, d}
	d.Layout = &Layout{&d.Window, d}
	d.Numbering = &Numbering{&d.Window, d}
	d.Cases = &Cases{&d.Window, d}
	d.Cards = &Cards{&d.Window, d}
	d.Journeys = &Journeys{&d.Window, d}
	return d
}

// The topics. Each has the window at hand, and the desk for the others.
type (
	// Writing is what is written on items, and the steps that writing goes on with.
	Writing struct {
		*Window
		*Desk
	}
	// Lines are what is done to connectors.
	Lines struct {
		*Window
		*Desk
	}
	// Placing is where symbols are set down.
	Placing struct {
		*Window
		*Desk
	}
	// Styling is how items look, and the styles that are kept.
	Styling struct {
		*Window
		*Desk
	}
	// Lanes are what is done to pools, lanes and stages.
	Lanes struct {
		*Window
		*Desk
	}
	// Sheets are what is done to sheets, and what all of a map are set by.
	Sheets struct {
		*Window
		*Desk
	}
	// Selecting is what is selected, and what is held together.
	Selecting struct {
		*Window
		*Desk
	}
	// Clipboard is what is copied and pasted.
	Clipboard struct {
		*Window
		*Desk
	}
	// Searching finds texts in all sheets, and replaces them.
	Searching struct {
		*Window
		*Desk
	}
	// Layout is what is arranged as a whole, and shown before it is kept.
	Layout struct {
		*Window
		*Desk
	}
	// Numbering is how steps are numbered.
	Numbering struct {
		*Window
		*Desk
	}
	// Cases are traced: walked through the map.
	Cases struct {
		*Window
		*Desk
	}
	// Cards are what is done to hierarchies.
	Cards struct {
		*Window
		*Desk
	}
	// Journeys are what is done to journeys.
	Journeys struct {
		*Window
		*Desk
	}
)
