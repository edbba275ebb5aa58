// Package editor turns pointer and key events into edits, and says what has to be redrawn. It knows nothing of the
// document object model: a thin script passes events in and draws what comes out.
package editor

import (
	"plaintracer/core/editor/command"
	"plaintracer/core/editor/desk"
	"plaintracer/core/editor/gesture"
)

// Editor is one window on a map: what the pointer and keys do in it, and what is drawn of it.
type Editor struct {
	*desk.Window
	*desk.Desk
	*gesture.Pointer
	*command.Commands
	*View
	Rows *Rows
}

// New returns a window that shows nothing yet.
func New() *Editor {
	d := desk.New()
	w := &d.Window
	return &Editor{w, d, &gesture.Pointer{Window: w, Desk: d}, &command.Commands{Window: w, Desk: d}, &View{w, d},
		&Rows{Window: w, Desk: d}}
}

// View is what the page is told to draw and to show in its bars.
type View struct {
	*desk.Window
	*desk.Desk
}
