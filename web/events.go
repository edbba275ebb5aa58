package web

import (
	"encoding/json"

	"plaintracer/core/edit"
	"plaintracer/store"
)

// event is something a window is told. On the wire it is its fields, with its kind as "kind".
type event interface{ kind() string }

// The events.
type (
	// hello comes first and says which browser core the server goes with.
	hello struct {
		Build string `json:"build"`
	}
	// edited is an edit that has been committed, from whichever window it came.
	edited struct{ *store.Committed }
	// fresh is the map as it is, for a window that has missed too much, with the last edit of that
	// window that is in it.
	fresh struct {
		Map      json.RawMessage `json:"map"`
		Revision int             `json:"revision,omitempty"`
		Seq      int             `json:"seq,omitempty"`
	}
	// caughtUp says that all a window had missed has been told.
	caughtUp struct{}
	// saved and refused answer an edit of the window.
	saved struct {
		Window   string `json:"window"`
		Seq      int    `json:"seq"`
		Revision int    `json:"revision"`
	}
	refused struct {
		Window string `json:"window"`
		Seq    int    `json:"seq,omitempty"`
		Why    string `json:"why"`
	}
	// trouble says that something cannot be done just now; slow that it takes a moment.
	trouble struct {
		Why string `json:"why"`
	}
	slow struct {
		Why string `json:"why"`
	}
	// writing says what another window is writing on; nothing any more where Item is empty.
	writing struct {
		Window string `json:"window"`
		Item   string `json:"item,omitempty"`
	}
	// here says how many windows are open on the map, and who of the house has them, or by a link.
	here struct {
		Editors int      `json:"editors,omitempty"`
		Readers int      `json:"readers,omitempty"`
		Who     []string `json:"who,omitempty"`
	}
	// pointing says where in another window somebody points, and what they have selected.
	pointing struct {
		Window string   `json:"window"`
		Name   string   `json:"name"`
		Sheet  string   `json:"sheet"`
		X      int      `json:"x"`
		Y      int      `json:"y"`
		Items  []string `json:"items,omitempty"`
	}
	// remarked says that something was said of the map.
	remarked struct{}
	// changed tells a reader that the map is another now.
	changed struct{}
	// ended is the last word to a window; after again it may come back.
	ended struct {
		Why string `json:"why"`
	}
	again struct{}
)

func (hello) kind() string    { return "hello" }
func (edited) kind() string   { return "edit" }
func (fresh) kind() string    { return "fresh" }
func (caughtUp) kind() string { return "caught-up" }
func (saved) kind() string    { return "saved" }
func (refused) kind() string  { return "refused" }
func (trouble) kind() string  { return "trouble" }
func (slow) kind() string     { return "slow" }
func (writing) kind() string  { return "writing" }
func (pointing) kind() string { return "pointing" }
func (here) kind() string     { return "here" }
func (remarked) kind() string { return "remarked" }
func (changed) kind() string  { return "changed" }
func (ended) kind() string    { return "ended" }
func (again) kind() string    { return "again" }

// encoded writes an event for the wire; an edit once for all windows.
func encoded(e event) ([]byte, error) {
	if one, ok := e.(edited); ok {
		return one.Once(func() ([]byte, error) { return onWire(e) })
	}
	return onWire(e)
}

func onWire(e event) ([]byte, error) {
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
}
