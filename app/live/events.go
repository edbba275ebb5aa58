package live

import (
	"encoding/json"

	"plaintracer/app/documents"
	"plaintracer/core/edit"
)

// Event is something a window is told. On the wire it is its fields, with its kind as "kind".
type Event interface{ kind() string }

// The events.
type (
	// Hello comes first and says which browser core the server goes with.
	Hello struct {
		Build string `json:"build"`
	}
	// Edited is an edit that has been committed, from whichever window it came.
	Edited struct{ *documents.Committed }
	// Fresh is the map as it is, for a window that has missed too much, with the last edit of that
	// window that is in it.
	Fresh struct {
		Map      json.RawMessage `json:"map"`
		Revision int             `json:"revision,omitempty"`
		Seq      int             `json:"seq,omitempty"`
	}
	// CaughtUp says that all a window had missed has been told.
	CaughtUp struct{}
	// Saved and refused answer an edit of the window.
	Saved struct {
		Window   string `json:"window"`
		Seq      int    `json:"seq"`
		Revision int    `json:"revision"`
	}
	Refused struct {
		Window string `json:"window"`
		Seq    int    `json:"seq,omitempty"`
		Why    string `json:"why"`
	}
	// Trouble says that something cannot be done just now; Slow that it takes a moment.
	Trouble struct {
		Why string `json:"why"`
	}
	Slow struct {
		Why string `json:"why"`
	}
	// Writing says what another window is writing on; nothing any more where Item is empty.
	Writing struct {
		Window string `json:"window"`
		Item   string `json:"item,omitempty"`
	}
	// Here says how many windows are open on the map, and who of the organisation has them, or by a link.
	Here struct {
		Editors int      `json:"editors,omitempty"`
		Readers int      `json:"readers,omitempty"`
		Who     []string `json:"who,omitempty"`
	}
	// Pointing says where in another window somebody points, and what they have selected.
	Pointing struct {
		Window string   `json:"window"`
		Name   string   `json:"name"`
		Sheet  string   `json:"sheet"`
		X      int      `json:"x"`
		Y      int      `json:"y"`
		Items  []string `json:"items,omitempty"`
	}
	// Showing says that somebody in the organisation shows the map in a meeting, and what: a stop or a step. Nobody
	// does any more where both are empty. Name is empty for those who do not learn who else is there.
	Showing struct {
		Name string `json:"name,omitempty"`
		Stop string `json:"stop,omitempty"`
		At   string `json:"at,omitempty"`
	}
	// Remarked says that something was said of the map.
	Remarked struct{}
	// Talking says that somebody writes in the conversation on the map.
	Talking struct {
		Name string `json:"name"`
	}
	// Changed tells a reader that the map is another now.
	Changed struct{}
	// Ended is the last word to a window; after again it may come back.
	Ended struct {
		Why string `json:"why"`
	}
	Again struct{}
)

func (Hello) kind() string    { return "hello" }
func (Edited) kind() string   { return "edit" }
func (Fresh) kind() string    { return "fresh" }
func (CaughtUp) kind() string { return "caught-up" }
func (Saved) kind() string    { return "saved" }
func (Refused) kind() string  { return "refused" }
func (Trouble) kind() string  { return "trouble" }
func (Slow) kind() string     { return "slow" }
func (Writing) kind() string  { return "writing" }
func (Pointing) kind() string { return "pointing" }
func (Here) kind() string     { return "here" }
func (Showing) kind() string  { return "showing" }
func (Remarked) kind() string { return "remarked" }
func (Talking) kind() string  { return "talking" }
func (Changed) kind() string  { return "changed" }
func (Ended) kind() string    { return "ended" }
func (Again) kind() string    { return "again" }

// encoded writes an event for the wire; an edit once for all windows.
func encoded(e Event) ([]byte, error) {
	if one, ok := e.(Edited); ok {
		return one.Once(func() ([]byte, error) { return onWire(e) })
	}
	return onWire(e)
}

func onWire(e Event) ([]byte, error) {
	body, err := json.Marshal(e)
	if err != nil {
		return nil, err
	}
	out := append([]byte(`{"kind":"`), e.kind()...)
	out = append(out, '"')
	if len(body) > 2 {
		out = append(out, ',')
	}
	return append(out, body[1:]...), nil
}

// request is what a window says.
type request struct {
	Kind     string         `json:"kind"`
	Window   string         `json:"window"`
	Secret   string         `json:"secret"`
	After    int            `json:"after"`
	Seq      int            `json:"seq"`
	Revision int            `json:"revision"`
	Edit     *edit.Envelope `json:"edit"`
	// Item is what the window is writing on; empty for nothing any more.
	Item string `json:"item"`
	// Sheet, X, Y and Items say where the window points, and what is selected in it.
	Sheet string   `json:"sheet"`
	X     int      `json:"x"`
	Y     int      `json:"y"`
	Items []string `json:"items"`
	// Stop or At is what a window shows in a meeting.
	Stop string `json:"stop"`
	At   string `json:"at"`
}

// InBin is the last word to the windows of a map that was moved to the bin.
var InBin = Ended{"This map was moved to the bin."}
