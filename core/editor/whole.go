package editor

// Editor is one window on a map: what the pointer and keys do in it, and what is drawn of it.
type Editor struct {
	*Desk
	*Pointer
	*Commands
	*View
}

// New returns a window that shows nothing yet.
func New() *Editor {
	d := NewDesk()
	return &Editor{d, &Pointer{d}, &Commands{d}, &View{d}}
}

// The parts of a window beside what is done to the map.
type (
	// Pointer is what the pointer does.
	Pointer struct{ *Desk }
	// Commands are what buttons, menus and keys do.
	Commands struct{ *Desk }
	// View is what the page is told to draw and to show in its bars.
	View struct{ *Desk }
)
