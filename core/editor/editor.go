// Package editor turns pointer and key events into edits. It holds the map a
// window shows, the selection and the gesture under way, and says what has to
// be redrawn. It knows nothing of the document object model: a thin script
// passes events in and draws what comes out.
package editor

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/findings"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/session"
)

const px = geometry.Px

// Window is the map that a window shows, with what is selected in it. Its state is grouped by topic; the groups are embedded, so that a method
// reads e.sel or e.write whatever the group is called.
type Window struct {
	// doc is the window's copy of the map, m the map in it, sheetID the sheet that is shown.
	doc     *session.Session
	m       *model.Map
	sheetID string

	selection
	pointer
	writer
	quiet quiet
	requests
	previews
	defaults
	drawing

	search search
	// link is a connector being led by keys.
	link link
	// gap is the step just deleted whose gap can be closed, offered the one for which that was said.
	gap, offered string
	// tracing is the way a case has come so far; empty when none is traced.
	tracing []visit
	job     job
	// Reached, where it is set, hears how far Open and the first picture have come: "map read", "numbers",
	// "routing" and "picture", after which it is forgotten. A host that has a clock can tell from it where the time goes.
	Reached func(stage string)
}

func (e *Window) reached(stage string) {
	if e.Reached != nil {
		e.Reached(stage)
	}
}

// selection is what commands act on.
type selection struct {
	// sel are the ids of selected items, the last selected last; lane is a selected lane or stage.
	sel  []string
	lane string
	// inside is the path of the group whose members are taken one by one.
	inside string
	// looked are the things of sel while something is put together that asks for them again and again.
	looked *looked
}

type looked struct {
	symbols []*model.Symbol
	lines   []*model.Connector
}

// pointer is what the pointer does and where.
type pointer struct {
	// inHand is the gesture under way; nil for none.
	inHand InHand
	at     geometry.Point
	scale  int    // thousandths of a screen pixel for one sheet pixel
	hover  string // the symbol under it
	// hand is the kind that the next click sets down.
	hand model.Kind
	// stick keeps it in the hand for more than one.
	stick bool
	// armed says that the next segment dragged makes room; free that nothing snaps to the grid;
	// coarse that a finger points.
	armed, free, coarse bool
	// still says that since the last picture the pointer only moved about.
	still bool
}

// InHand is what the pointer does between down and up, as far as the window has to know of it.
type InHand interface {
	// Moves reports whether it takes a symbol along.
	Moves(id string) bool
}

// writer is the text under way, and the question for an answer.
type writer struct {
	writing bool
	write   *write
	ask     *ask
}

// requests are what the page is asked to do with the next picture.
type requests struct {
	// words is something to tell the person, suggest what is offered beside it; hush takes what was
	// said off the page.
	words   string
	suggest *offer
	hush    bool
	// centre is an item to bring into sight, open a part of the page to open; sight are symbols and
	// pools to bring into sight together.
	centre, open string
	sight        []string
	// task is what the page is to have computed by a worker, as JSON.
	task string
}

// previews are changes shown but not made.
type previews struct {
	// proposed is what can be kept or left, trying the look that is tried.
	proposed *proposal
	trying   string
	// again makes the preview anew after somebody else's edit came in.
	again func()
}

// defaults are the styles that new things get.
type defaults struct {
	// taken is the style last picked up, last the style last given to a symbol and to a connector.
	taken *copiedStyle
	last  copiedStyle
}

// drawing is what is drawn, and what is known of the map for it.
type drawing struct {
	router  routing.Router
	links   scene.Linker
	courses []routing.Course
	facts   scene.Facts
	graph   *flow.Graph // nil until it is asked for
	found   int         // findings
	stale   stale
	// unlinked and unpainted are what may have changed of the map since links and the painter saw it.
	unlinked, unpainted edit.Touched
	view                view
	// ground says that the next picture is for the background.
	ground bool
}

// stale says what has to be computed again before the next picture.
type stale struct {
	all, facts, courses bool
	// findings says that they are to be counted at the next pause: nothing that is drawn depends on them.
	findings bool
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
func (e *Window) Open(doc []byte, revision int, window string) error {
	own, err := session.Open(doc, revision, window)
	if err != nil {
		return err
	}
	sheet, free := e.sheetID, e.free
	*e = Window{doc: own, m: own.Map(), pointer: pointer{scale: 1000, free: free}, Reached: e.Reached}
	e.reached("map read")
	e.sheetID = e.m.Sheets[0].ID
	if e.m.Sheet(sheet) != nil {
		e.sheetID = sheet
	}
	e.stale = stale{all: true, facts: true, courses: true}
	return nil
}

// Adopt says, after Open, that the page shows the sheet already as it is in the map that was opened: the first Flush takes
// that picture over.
func (e *Window) Adopt() { e.view.adopt = true }

// Map returns the map as this window sees it. It must not be changed.
func (e *Window) Map() *model.Map { return e.m }

// Sheet returns the sheet that is shown.
func (e *Window) Sheet() *model.Sheet { return e.m.Sheet(e.sheetID) }

// Selection returns the ids of the selected items, the last selected last.
func (e *Window) Selection() []string { return e.sel }

// Courses returns the courses of the shown sheet's connectors, computed anew
// where needed.
func (e *Window) Courses() []routing.Course {
	e.refresh()
	return e.courses
}

func (e *Window) newID() string { return e.doc.NewID() }

func (e *Window) say(format string, args ...any) { e.words = fmt.Sprintf(format, args...) }

// refuse says why something was not done.
func (e *Window) refuse(err error) {
	if sentence, ok := err.(compose.Refusal); ok {
		e.say("%s", string(sentence))
		return
	}
	e.say("Not done: %s.", err)
}

// do makes an edit for good: it can be undone and is sent to the server.
func (e *Window) do(edit edit.Edit) bool {
	if len(e.tracing) > 0 { // whichever way the edit came: by paste, too
		e.say(tracingWords)
		return false
	}
	edit = e.growing(edit)
	e.drop()
	err := e.doc.Do(edit)
	if err != nil {
		e.say("Not done: %s.", err)
	}
	e.changed()
	return err == nil
}

// changed marks everything that depends on the document.
func (e *Window) changed() {
	e.stale.facts, e.stale.courses = true, true
	e.graph = nil
	e.ask, e.gap = nil, ""
	if e.m.Sheet(e.sheetID) == nil {
		e.show(e.m.Sheets[0].ID)
	}
	e.prune()
}

// prune forgets selected things that are gone.
func (e *Window) prune() {
	s := e.Sheet()
	e.sel = slices.DeleteFunc(e.sel, func(id string) bool {
		return s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil
	})
	if p, _ := e.laneSelected(); p == nil {
		if q, _ := e.stageSelected(); q == nil {
			e.lane = ""
		}
	}
	if e.inside != "" && !slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.InGroup(e.inside) }) {
		e.inside = ""
	}
}

// try shows what an edit would do without making it for good.
func (e *Window) try(edit edit.Edit) {
	e.drop()
	if e.doc.Show(edit) {
		e.graph = nil
	}
	e.stale.courses = true
}

// drop takes the preview back.
func (e *Window) drop() {
	if e.proposed != nil && e.proposed.numbers != nil {
		e.stale.facts = true
	}
	e.proposed, e.trying = nil, ""
	if e.doc.Hide() {
		e.graph = nil
		e.stale.courses = true
	}
}

// Undo takes the latest edit of this window back; Redo makes it again.
func (e *Window) Undo() { e.step(e.doc.Undo, "undo") }

// Redo makes the edit again that was taken back last.
func (e *Window) Redo() { e.step(e.doc.Redo, "redo") }

func (e *Window) step(do func() (*edit.Revert, []string, error), what string) {
	e.cancel()
	made, skipped, err := do()
	switch {
	case made == nil:
		e.say("There is nothing to %s.", what)
		return
	case err != nil:
		e.say("Not done: %s.", err)
		e.changed()
		return
	case len(skipped) > 0:
		e.say("Left as it is: %s.", strings.Join(skipped, "; "))
	}
	e.changed()
	e.reveal(made)
}

// reveal shows the sheet an undone edit was about.
func (e *Window) reveal(r *edit.Revert) {
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
func (e *Window) Confirm(seq, revision int) {
	if err := e.told(func() (bool, error) { return e.doc.Confirm(seq, revision) }); err != nil {
		e.say("This window no longer shows what was saved; load it again: %s.", err)
	}
}

// Refused notes that the server did not take an edit. It is unmade here too,
// with a word to the person who made it.
func (e *Window) Refused(seq int, why string) {
	_ = e.told(func() (bool, error) { e.doc.Refused(seq); return true, nil })
	e.say("Not done: %s.", why)
}

// Foreign makes somebody else's edit, which the server has put before this
// window's pending ones.
func (e *Window) Foreign(edit edit.Edit, revision int) error {
	return e.told(func() (bool, error) { return true, e.doc.Foreign(edit, revision) })
}

// Fresh puts the map as it is on the server under this window's pending edits, of which the
// map holds all up to number seq already.
func (e *Window) Fresh(doc []byte, revision, seq int) error {
	err := e.told(func() (bool, error) { return true, e.doc.Fresh(doc, revision, seq) })
	if err == nil {
		e.stale.all = true
	}
	return err
}

// told brings in what the server says. Where that makes another map, what is only shown is taken
// away for it, and the gesture shows it again.
func (e *Window) told(bring func() (changed bool, err error)) error {
	held, proposed, trying := e.doc.Showing(), e.proposed, e.trying
	changed, err := bring()
	if !changed {
		return err
	}
	e.drop()
	e.changed()
	if held && e.again != nil {
		e.again()
		if e.doc.Showing() {
			e.proposed, e.trying = proposed, trying
		}
	}
	return err
}

// show turns to a sheet.
func (e *Window) show(id string) {
	e.cancel()
	e.sheetID = id
	e.sel, e.lane, e.hover, e.inside = nil, "", "", ""
	e.stale = stale{all: true, facts: e.stale.facts, findings: e.stale.findings, courses: true}
}

// cancel ends the gesture under way without a trace.
func (e *Window) cancel() {
	e.drop()
	e.inHand, e.again, e.ask, e.link, e.armed = nil, nil, nil, link{}, false
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
func (e *Window) Pause() (more bool) {
	e.refresh()
	if e.stale.drag {
		if !e.router.Working() {
			e.router.Begin(e.links.Scene)
		}
		if !e.router.Step(slice) {
			return true
		}
		e.courses, e.stale.drag = e.router.Courses(), false
		e.links.Keep()
		return false
	}
	if e.uncounted() {
		e.found, e.stale.findings = len(findings.CheckFlow(e.m, e.flow())), false
	}
	return false
}

// uncounted reports whether the findings are to be counted, which can be while nothing is only shown.
func (e *Window) uncounted() bool { return e.stale.findings && !e.doc.Showing() }

// refresh computes what is stale.
func (e *Window) refresh() {
	s := e.Sheet()
	e.doc.Touched(&e.unlinked, &e.unpainted)
	if e.stale.facts && (!e.doc.Showing() || e.proposed != nil && e.proposed.numbers != nil) {
		e.facts = scene.KnowFlow(e.m, e.flow())
		e.unpainted.Everything()
		e.reached("numbers")
		e.stale.facts, e.stale.findings = false, true
	}
	if !e.stale.courses {
		return
	}
	e.links.Follow(e.m, s, &e.unlinked)
	e.unlinked.Looked()
	moving := func(i int) bool { return i < len(s.Symbols) && e.inHand != nil && e.inHand.Moves(s.Symbols[i].ID) }
	dragging := e.doc.Showing() && e.inHand != nil
	e.stale.drag = false
	switch {
	case !dragging && e.links.Kept(): // what was changed is nothing that courses depend on
	case e.stale.exact || e.stale.all:
		e.courses = e.router.Route(e.links.Scene)
		e.links.Keep()
	case !dragging && e.begin():
		e.courses = e.router.Courses()
		e.links.Keep()
	default:
		e.courses = e.router.Drag(e.links.Scene, moving)
		e.stale.drag = true
		e.links.Forget()
	}
	e.stale.courses, e.stale.exact = false, false
	e.reached("routing")
}

// begin tries to find all courses at once, and reports whether it could.
func (e *Window) begin() bool {
	e.router.Begin(e.links.Scene)
	return e.router.Step(atOnce)
}

// work returns the sheet that is shown for composing edits on it, workOn another one.
func (e *Window) work() *compose.Work { return e.workOn(e.Sheet()) }

func (e *Window) workOn(s *model.Sheet) *compose.Work {
	return &compose.Work{Map: e.m, Sheet: s, NewID: e.newID}
}

// flow returns the flow of the map as it is now, with what is only shown.
func (e *Window) flow() *flow.Graph {
	if e.graph == nil {
		e.graph = flow.New(e.m)
	}
	return e.graph
}

func (e *Window) symbol(id string) *model.Symbol { return e.Sheet().Symbol(id) }

// one returns the selected symbol when exactly one symbol is selected.
func (e *Window) one() *model.Symbol {
	if len(e.sel) != 1 {
		return nil
	}
	return e.symbol(e.sel[0])
}

// chosen returns the selected symbols in the order they were selected.
func (e *Window) chosen() []*model.Symbol {
	if e.looked != nil {
		return e.looked.symbols
	}
	return among(e.sel, e.Sheet().Symbols, func(sym *model.Symbol) string { return sym.ID })
}

// lines returns the selected connectors in the order they were selected.
func (e *Window) lines() []*model.Connector {
	if e.looked != nil {
		return e.looked.lines
	}
	return among(e.sel, e.Sheet().Connectors, func(c *model.Connector) string { return c.ID })
}

// lookUp finds what is selected once for all until done is called; nothing may be changed until then.
func (e *Window) lookUp() (done func()) {
	e.looked = &looked{slices.Clip(e.chosen()), slices.Clip(e.lines())} // so that who adds to one gets a list of its own
	return func() { e.looked = nil }
}

// among returns those of a list that have one of some ids, in the order of the ids. It goes through the list once,
// however many they are.
func among[T any](ids []string, list []*T, id func(*T) string) []*T {
	if len(ids) == 0 {
		return nil
	}
	const few = 8
	found := make([]*T, len(ids))
	var at map[string]int
	if len(ids) > few {
		at = make(map[string]int, len(ids))
		for i, wanted := range ids {
			at[wanted] = i
		}
	}
	for _, v := range list {
		i, ok := 0, false
		if at != nil {
			i, ok = at[id(v)]
		} else if i = slices.Index(ids, id(v)); i >= 0 {
			ok = true
		}
		if ok {
			found[i] = v
		}
	}
	return slices.DeleteFunc(found, func(v *T) bool { return v == nil })
}

func (e *Window) laneSelected() (*model.Pool, int) {
	for _, p := range e.Sheet().Pools {
		if i := p.LaneIndex(e.lane); i >= 0 {
			return p, i
		}
	}
	return nil, -1
}

// reach is screen for what has to be hit: a finger needs more room.
func (e *Window) reach(pixels int) int {
	if e.coarse {
		pixels = pixels * 2
	}
	return e.screen(pixels)
}

// Coarse says whether a finger points rather than a mouse or a pen.
func (e *Window) Coarse(finger bool) { e.coarse = finger }

// Empty reports whether there is nothing at p that a press would take hold of.
func (e *Window) Empty(p geometry.Point, scale int) bool {
	e.scale = scale
	return e.hand == "" && !e.armed && e.hit(p) == hit{}
}

// screen converts a length on the screen to one on the sheet.
func (e *Window) screen(pixels int) int { return pixels * px * 1000 / max(e.scale, 1) }
