// Package editor turns pointer and key events into edits. It holds the map a
// window shows, the selection and the gesture under way, and says what has to
// be redrawn. It knows nothing of the document object model: a thin script
// passes events in and draws what comes out.
package editor

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/findings"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
)

const px = geometry.Px

// Editor is one window on a map.
type Editor struct {
	m       *diagram.Map
	sheetID string
	// window is the prefix the server gave this window; ids are made from it.
	window   string
	counter  int
	seq      int
	revision int
	// pending are edits made here that the server has not confirmed yet, in
	// order; their trials can be unmade to let somebody else's edit in first.
	pending []pending
	outbox  []pending
	// writing says that a text is being written, and holding how many edits at the end of
	// the outbox wait for it: those that made the step it stands on. A window that is closed
	// in the middle of a word leaves no empty step behind.
	writing bool
	holding int
	preview *diagram.Trial
	// again makes the preview anew after somebody else's edit came in.
	again      func()
	undo, redo []*diagram.Revert

	sel    []string
	lane   string // or the stage
	hand   diagram.Kind
	stick  bool
	hover  string
	scale  int // thousandths of a screen pixel for one sheet pixel
	at     geometry.Point
	g      gesture
	ask    *ask
	write  *write
	words  string // something to tell the person
	centre string // an item to bring into sight

	// inside is the path of the group whose members are taken one by one.
	inside string
	// proposed is what the preview shows while it can be kept or left.
	proposed *proposal
	// trying is the look that is proposed.
	trying string
	search search
	// taken is the style last picked up, last the style last given to a
	// symbol and to a connector: what comes new has it.
	taken *outfit
	last  outfit
	// armed says that the next stretch dragged makes room; free that nothing
	// goes to the grid; coarse that a finger points.
	armed, free, coarse bool
	// ground says that the next picture is for the background.
	ground bool
	// open asks the page to open something of its own.
	open string
	// task is what the page is to have done beside it, as JSON.
	task string
	job  job
	// still says that since the last picture the pointer only moved about.
	still bool

	router  routing.Router
	links   scene.Linker
	courses []routing.Course
	facts   scene.Facts
	graph   *flow.Graph // nil until it is asked for
	found   int
	stale   stale
	view    view
	// link is a connector being led by keys.
	link link
	// gap is the step just deleted whose gap can be closed.
	gap, offered string
	// hush takes what was said off the page: the hint how to connect, when that is over.
	hush bool
	// suggest is what is offered beside what is said.
	suggest *offer
	// tracing is the way a case has come so far; empty when none is traced.
	tracing []visit
}

type pending struct {
	Seq  int              `json:"seq"`
	Edit diagram.Envelope `json:"edit"`
	// trial is nil while somebody else's edit stands in the way of this one.
	trial *diagram.Trial
}

// stale says what has to be computed again before the next picture.
type stale struct {
	all, facts, courses bool
	// drag says that the courses are only sketched, exact that the next ones
	// have to be computed completely.
	drag, exact bool
}

// ask offers the answers of a decision for a new exit.
type ask struct {
	ID      string   `json:"id"`
	X       int      `json:"x"`
	Y       int      `json:"y"`
	Options []string `json:"options"`
	// Chosen is the answer the exit has been given to begin with.
	Chosen string `json:"chosen"`
}

// write asks for a text: the script lays a text field over the box.
type write struct {
	ID   string `json:"id"`
	X    int    `json:"x"`
	Y    int    `json:"y"`
	W    int    `json:"w"`
	H    int    `json:"h"`
	Text string `json:"text"`
	// Base is what stood there when writing began, also where the text begins anew.
	Base string `json:"base"`
	Name string `json:"name"`
	// At names the label of a connector.
	At     string `json:"at,omitempty"`
	Bold   bool   `json:"bold,omitempty"`
	Italic bool   `json:"italic,omitempty"`
	Size   int    `json:"size,omitempty"`
	// Replace begins with nothing: the key that was pressed comes next.
	Replace bool `json:"replace,omitempty"`
}

// Open shows a map from its JSON form. The window prefix must be new.
func (e *Editor) Open(doc []byte, revision int, window string) error {
	m, err := read(doc)
	if err != nil {
		return err
	}
	sheet, free := e.sheetID, e.free
	*e = Editor{m: m, revision: revision, window: window, scale: 1000, free: free}
	e.sheetID = m.Sheets[0].ID
	if m.Sheet(sheet) != nil {
		e.sheetID = sheet
	}
	e.stale = stale{all: true, facts: true, courses: true}
	return nil
}

// read returns the map that the server sent.
func read(doc []byte) (*diagram.Map, error) {
	m := new(diagram.Map)
	if err := json.Unmarshal(doc, m); err != nil {
		return nil, fmt.Errorf("the map could not be read: %w", err)
	}
	if err := m.Validate(); err != nil {
		return nil, fmt.Errorf("the map is broken: %w", err)
	}
	return m, nil
}

// Map returns the map as this window sees it. It must not be changed.
func (e *Editor) Map() *diagram.Map { return e.m }

// Sheet returns the sheet that is shown.
func (e *Editor) Sheet() *diagram.Sheet { return e.m.Sheet(e.sheetID) }

// Selection returns the ids of the selected items, the last selected last.
func (e *Editor) Selection() []string { return e.sel }

// Courses returns the courses of the shown sheet's connectors, computed anew
// where needed.
func (e *Editor) Courses() []routing.Course {
	e.refresh()
	return e.courses
}

func (e *Editor) newID() string {
	e.counter++
	return e.window + "-" + strconv.FormatInt(int64(e.counter), 36)
}

func (e *Editor) say(format string, args ...any) { e.words = fmt.Sprintf(format, args...) }

// do makes an edit for good: it can be undone and is sent to the server.
func (e *Editor) do(edit diagram.Edit) bool {
	if len(e.tracing) > 0 { // whichever way the edit came: by paste, too
		e.say(tracingWords)
		return false
	}
	inverse, ok := e.commit(e.growing(edit))
	if ok && len(inverse.Changes) > 0 {
		e.undo = append(e.undo, inverse)
		e.redo = nil
	}
	return ok
}

func (e *Editor) commit(edit diagram.Edit) (*diagram.Revert, bool) {
	e.drop()
	trial, err := diagram.Attempt(e.m, edit)
	if err != nil {
		e.say("Not done: %s.", err)
		e.changed()
		return nil, false
	}
	inverse := trial.Inverse()
	if len(inverse.Changes) > 0 {
		e.seq++
		inverse.Seq = e.seq
		p := pending{e.seq, diagram.Envelope{Edit: edit}, trial}
		e.pending = append(e.pending, p)
		e.outbox = append(e.outbox, p)
	}
	e.changed()
	return inverse, true
}

// changed marks everything that depends on the document.
func (e *Editor) changed() {
	e.stale.facts, e.stale.courses = true, true
	e.graph = nil
	e.ask, e.gap = nil, ""
	if e.m.Sheet(e.sheetID) == nil {
		e.show(e.m.Sheets[0].ID)
	}
	e.prune()
}

// prune forgets selected things that are gone.
func (e *Editor) prune() {
	s := e.Sheet()
	e.sel = slices.DeleteFunc(e.sel, func(id string) bool {
		return s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil
	})
	if p, _ := e.laneSelected(); p == nil {
		if q, _ := e.stageSelected(); q == nil {
			e.lane = ""
		}
	}
	if e.inside != "" && !slices.ContainsFunc(s.Symbols, func(sym *diagram.Symbol) bool { return sym.InGroup(e.inside) }) {
		e.inside = ""
	}
}

// try shows what an edit would do without making it for good.
func (e *Editor) try(edit diagram.Edit) {
	e.drop()
	if trial, err := diagram.Preview(e.m, edit); err == nil {
		e.preview, e.graph = trial, nil
	}
	e.stale.courses = true
}

// drop takes the preview back.
func (e *Editor) drop() {
	e.proposed, e.trying = nil, ""
	if e.preview != nil {
		e.preview.Rollback()
		e.preview, e.graph = nil, nil
		e.stale.courses = true
	}
}

// Undo takes the latest edit of this window back; Redo makes it again.
func (e *Editor) Undo() { e.undo, e.redo = e.step(e.undo, e.redo, "undo") }

// Redo makes the edit again that was taken back last.
func (e *Editor) Redo() { e.redo, e.undo = e.step(e.redo, e.undo, "redo") }

func (e *Editor) step(from, to []*diagram.Revert, what string) (_, _ []*diagram.Revert) {
	e.cancel()
	if len(from) == 0 {
		e.say("There is nothing to %s.", what)
		return from, to
	}
	last := from[len(from)-1]
	from = from[:len(from)-1]
	inverse, ok := e.commit(last)
	if !ok {
		return from, to
	}
	if len(inverse.Skipped) > 0 {
		e.say("Left as it is: %s.", strings.Join(inverse.Skipped, "; "))
	}
	e.reveal(last)
	return from, append(to, inverse)
}

// reveal shows the sheet an undone edit was about.
func (e *Editor) reveal(r *diagram.Revert) {
	for _, c := range r.Changes {
		if c.Sheet != "" && e.m.Sheet(c.Sheet) != nil {
			if c.Sheet != e.sheetID {
				e.show(c.Sheet)
			}
			return
		}
	}
}

// Confirm notes that the server has committed an edit of this window as
// revision.
func (e *Editor) Confirm(seq, revision int) {
	e.revision = revision
	i := slices.IndexFunc(e.pending, func(p pending) bool { return p.Seq == seq })
	if i < 0 {
		return // confirmed before
	}
	done := e.pending[i]
	if i == 0 && done.trial != nil {
		e.pending = e.pending[1:]
		return
	}
	// It did not apply here for a while but did when its turn came, or one
	// before it is still open: put it under the others.
	e.between(func() {
		e.pending = slices.Delete(e.pending, i, i+1)
		if _, err := diagram.Apply(e.m, done.Edit.Edit); err != nil {
			e.say("This window no longer shows what was saved; load it again: %s.", err)
		}
	})
}

// Refused notes that the server did not take an edit. It is unmade here too,
// with a word to the person who made it.
func (e *Editor) Refused(seq int, why string) {
	e.between(func() {
		e.pending = slices.DeleteFunc(e.pending, func(p pending) bool { return p.Seq == seq })
	})
	e.say("Not done: %s.", why)
}

// Foreign makes somebody else's edit, which the server has put before this
// window's pending ones.
func (e *Editor) Foreign(edit diagram.Edit, revision int) error {
	var err error
	e.between(func() {
		_, err = diagram.Apply(e.m, edit)
	})
	e.revision = revision
	return err
}

// Fresh puts the map as it is on the server under this window's pending edits, of which the
// map holds all up to number seq already.
func (e *Editor) Fresh(doc []byte, revision, seq int) error {
	m, err := read(doc)
	if err != nil {
		return err
	}
	e.between(func() {
		e.pending = slices.DeleteFunc(e.pending, func(p pending) bool { return p.Seq <= seq })
		*e.m = *m
	})
	e.revision = revision
	e.stale.all = true
	return nil
}

// between unmakes the preview and the pending edits, does something to the
// confirmed map, and makes them again. What does not apply any more waits: the
// server has the last word on it.
func (e *Editor) between(do func()) {
	held, proposed, trying := e.preview != nil, e.proposed, e.trying
	e.drop()
	for i := len(e.pending) - 1; i >= 0; i-- {
		if t := e.pending[i].trial; t != nil {
			t.Rollback()
		}
	}
	do()
	for i := range e.pending {
		e.pending[i].trial, _ = diagram.Attempt(e.m, e.pending[i].Edit.Edit)
	}
	e.changed()
	if held && e.again != nil {
		e.again()
		if e.preview != nil {
			e.proposed, e.trying = proposed, trying
		}
	}
}

// show turns to a sheet.
func (e *Editor) show(id string) {
	e.cancel()
	e.sheetID = id
	e.sel, e.lane, e.hover, e.inside = nil, "", "", ""
	e.stale = stale{all: true, facts: e.stale.facts, courses: true}
}

// cancel ends the gesture under way without a trace.
func (e *Editor) cancel() {
	e.drop()
	e.g, e.again, e.ask, e.link, e.armed = gesture{}, nil, nil, link{}, false
}

// Courses that cannot all be found at once are found in slices, between which the
// page can answer: atOnce and slice are how many states of the search one may look
// at, about 50 and 20 ms in a browser.
const (
	atOnce = 25_000
	slice  = 15_000
)

// Pause is called when nothing else happens: what a drag or a large change has
// only sketched is computed exactly. It does a slice of that and reports whether
// to call it again; after the last one there is something to draw.
func (e *Editor) Pause() (more bool) {
	e.refresh()
	if !e.stale.drag {
		return false
	}
	if !e.router.Working() {
		e.router.Begin(e.links.Scene)
	}
	if !e.router.Step(slice) {
		return true
	}
	e.courses, e.stale.drag = e.router.Courses(), false
	return false
}

// refresh computes what is stale.
func (e *Editor) refresh() {
	s := e.Sheet()
	if e.stale.facts && e.preview == nil {
		e.facts = scene.KnowFlow(e.m, e.flow())
		e.found = len(findings.CheckFlow(e.m, e.flow()))
		e.stale.facts = false
	}
	if !e.stale.courses {
		return
	}
	e.links.Fill(e.m, s)
	moving := func(i int) bool { return i < len(s.Symbols) && e.g.moving[s.Symbols[i].ID] }
	dragging := e.preview != nil && e.g.mode != idle
	e.stale.drag = false
	switch {
	case e.stale.exact || e.stale.all:
		e.courses = e.router.Route(e.links.Scene)
	case !dragging && e.begin():
		e.courses = e.router.Courses()
	default:
		e.courses = e.router.Drag(e.links.Scene, moving)
		e.stale.drag = true
	}
	e.stale.courses, e.stale.exact = false, false
}

// begin tries to find all courses at once, and reports whether it could.
func (e *Editor) begin() bool {
	e.router.Begin(e.links.Scene)
	return e.router.Step(atOnce)
}

// flow returns the flow of the map as it is now, with what is only shown.
func (e *Editor) flow() *flow.Graph {
	if e.graph == nil {
		e.graph = flow.New(e.m)
	}
	return e.graph
}

func (e *Editor) symbol(id string) *diagram.Symbol { return e.Sheet().Symbol(id) }

// one returns the selected symbol when exactly one symbol is selected.
func (e *Editor) one() *diagram.Symbol {
	if len(e.sel) != 1 {
		return nil
	}
	return e.symbol(e.sel[0])
}

// chosen returns the selected symbols in the order they were selected.
func (e *Editor) chosen() []*diagram.Symbol {
	var out []*diagram.Symbol
	if len(e.sel) > 8 { // too many to look each up in the list
		at := make(map[string]*diagram.Symbol, len(e.sel))
		for _, id := range e.sel {
			at[id] = nil
		}
		for _, sym := range e.Sheet().Symbols {
			if _, in := at[sym.ID]; in {
				at[sym.ID] = sym
			}
		}
		for _, id := range e.sel {
			if sym := at[id]; sym != nil {
				out = append(out, sym)
			}
		}
		return out
	}
	for _, id := range e.sel {
		if sym := e.symbol(id); sym != nil {
			out = append(out, sym)
		}
	}
	return out
}

func (e *Editor) laneSelected() (*diagram.Pool, int) {
	for _, p := range e.Sheet().Pools {
		if i := p.LaneIndex(e.lane); i >= 0 {
			return p, i
		}
	}
	return nil, -1
}

// reach is screen for what has to be hit: a finger needs more room.
func (e *Editor) reach(pixels int) int {
	if e.coarse {
		pixels = pixels * 2
	}
	return e.screen(pixels)
}

// Coarse says whether a finger points rather than a mouse or a pen.
func (e *Editor) Coarse(finger bool) { e.coarse = finger }

// Empty reports whether there is nothing at p that a press would take hold of.
func (e *Editor) Empty(p geometry.Point, scale int) bool {
	e.scale = scale
	return e.hand == "" && !e.armed && e.hit(p) == hit{}
}

// screen converts a length on the screen to one on the sheet.
func (e *Editor) screen(pixels int) int { return pixels * px * 1000 / max(e.scale, 1) }
