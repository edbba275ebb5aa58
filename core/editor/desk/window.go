package desk

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
	"plaintracer/core/paint"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/session"
)

// Px is a CSS pixel in the unit of lengths.
const Px = geometry.Px

// Window is the map that a window shows, with what is selected in it. Its state is grouped by topic; the groups are
// embedded, so that a method reads e.sel or e.textField whatever the group is called.
type Window struct {
	// Doc is the window's copy of the map, m the map in it, sheetID the sheet that is shown.
	Doc     *session.Session
	M       *model.Map
	SheetID string

	selection
	pointer
	writer
	quiet quiet
	requests
	previews
	defaults
	drawing

	Search sought
	// Link is a connector being led by keys.
	Link Link
	// Gap is the step just deleted whose gap can be closed, offered the one for which that was said.
	Gap, Offered string
	// Tracing is the way a case has come so far; empty when none is traced.
	Tracing []visit
	job     job
	// Reached, where it is set, hears how far Open and the first picture have come: "map read", "numbers",
	// "routing" and "picture", after which it is forgotten. A host that has a clock can tell from it where the time
	// goes.
	Reached func(stage string)
}

// TellReached tells who listens how far opening has come.
func (e *Window) TellReached(stage string) {
	if e.Reached != nil {
		e.Reached(stage)
	}
}

// selection is what commands act on.
type selection struct {
	// Sel are the ids of selected items, the last selected last; lane is a selected lane or stage.
	Sel  []string
	Lane string
	// Blank is the cell of a journey that is selected as long as nothing else is.
	Blank Spot
	// Inside is the path of the group whose members are taken one by one.
	Inside string
	// looked are the things of sel while something is put together that asks for them again and again.
	looked *looked
}

type looked struct {
	symbols []*model.Symbol
	lines   []*model.Connector
}

// pointer is what the pointer does and where.
type pointer struct {
	// InHand is the gesture under way; nil for none.
	InHand InHand
	At     geometry.Point
	Scale  int    // thousandths of a screen pixel for one sheet pixel
	Hover  string // the symbol under it
	// Hand is the kind that the next click sets down.
	Hand model.Kind
	// Stick keeps it in the hand for more than one. OneByOne says that clicks in the tray set symbols down one after
	// the other.
	Stick, OneByOne bool
	// Seen is the part of the sheet that is seen in the window; empty where that is not known.
	Seen geometry.Box
	// armed says that the next segment dragged makes room; free that nothing snaps to the grid;
	// coarse that a finger points.
	Armed, Free, coarse bool
	// Still says that since the last picture the pointer only moved about.
	Still bool
}

// InHand is what the pointer does between down and up, as far as the window has to know of it.
type InHand interface {
	// Moves reports whether it takes a symbol along.
	Moves(id string) bool
}

// writer is the text under way, and the question for an answer.
type writer struct {
	// InField says that a text field is open, textField asks for one.
	InField   bool
	TextField *write
	// CameTo is the line, lane or stage that was come to by keys.
	CameTo string
	// Worded is the text that is being written, once some of its words were set otherwise; nil before.
	Worded *worded
	Ask    *ask
	// Coming is the step whose kind is asked for; nil for none.
	Coming *Coming
}

// requests are what the page is asked to do with the next picture.
type requests struct {
	// Words is something to tell the person, suggest what is offered beside it; hush takes what was
	// said off the page.
	Words   string
	Suggest *Offer
	Hush    bool
	// Centre is an item to bring into sight, toOpen a part of the page to open; sight are symbols and
	// pools to bring into sight together.
	Centre, ToOpen string
	Sight          []string
	// Task is what the page is to have computed by a worker, as JSON.
	Task string
}

// previews are changes shown but not made.
type previews struct {
	// Proposed is what can be kept or left, trying the look that is tried.
	Proposed *proposal
	Trying   string
	// Peeking says that an edit is to be shown, not made; Peeked that one is shown because of that.
	Peeking, Peeked bool
	// Again makes the preview anew after somebody else's edit came in.
	Again func()
}

// defaults are the styles that new things get.
type defaults struct {
	// Taken is the style last picked up, last the style last given to a symbol and to a connector.
	Taken *CopiedStyle
	Last  CopiedStyle
}

// drawing is what is drawn, and what is known of the map for it.
type drawing struct {
	router routing.Router
	links  scene.Linker
	// Routed are the courses of the connectors of the sheet.
	Routed []routing.Course
	Facts  scene.Facts
	graph  *flow.Graph // nil until it is asked for
	Found  int         // findings
	Stale  stale
	// unlinked and unpainted are what may have changed of the map since links and the painter saw it.
	unlinked, Unpainted edit.Touched
	Shown               shown
	// ToBackground says that the next picture is for the background.
	ToBackground bool
}

// stale says what has to be computed again before the next picture.
type stale struct {
	All, Facts, courses bool
	// findings says that they are to be counted at the next pause: nothing that is drawn depends on them.
	findings bool
	// drag says that the courses are only sketched, exact that the next ones
	// have to be computed completely.
	Drag, exact bool
}

// ask offers answers to a question: those of a decision for a new exit, as a rule.
type ask struct {
	// Name is what is asked, Command what takes the answer behind the id and a colon; empty for an exit.
	Name    string   `json:"name,omitempty"`
	Command string   `json:"command,omitempty"`
	ID      string   `json:"id"`
	X       int      `json:"x"`
	Y       int      `json:"y"`
	Options []string `json:"options"`
	// Kinds are the symbols offered; then there are no options.
	Kinds []model.Kind `json:"kinds,omitempty"`
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
	// Lanes says that Ctrl and an arrow take the step to another lane meanwhile.
	Lanes bool `json:"lanes,omitempty"`
	// Goes says that a key that ends writing goes on to another card, cell or step.
	Goes bool `json:"goes,omitempty"`
}

// Open shows a map from its JSON form. The window prefix must be new.
func (e *Window) Open(doc []byte, revision int, window string) error {
	own, err := session.Open(doc, revision, window)
	if err != nil {
		return err
	}
	sheet, free := e.SheetID, e.Free
	*e = Window{Doc: own, M: own.Map(), pointer: pointer{Scale: 1000, Free: free}, Reached: e.Reached}
	e.TellReached("map read")
	e.SheetID = e.M.Sheets[0].ID
	if e.M.Sheet(sheet) != nil {
		e.SheetID = sheet
	}
	e.Stale = stale{All: true, Facts: true, courses: true}
	return nil
}

// Adopt says, after Open, that the page shows the sheet already as it is in the map that was opened: the first Flush
// takes that picture over.
func (e *Window) Adopt() { e.Shown.Adopt = true }

// Map returns the map as this window sees it. It must not be changed.
func (e *Window) Map() *model.Map { return e.M }

// Sheet returns the sheet that is shown.
func (e *Window) Sheet() *model.Sheet { return e.M.Sheet(e.SheetID) }

// Selection returns the ids of the selected items, the last selected last.
func (e *Window) Selection() []string { return e.Sel }

// Courses returns the courses of the shown sheet's connectors, computed anew
// where needed.
func (e *Window) Courses() []routing.Course {
	e.Refresh()
	return e.Routed
}

// NewID returns an id that no other window makes.
func (e *Window) NewID() string { return e.Doc.NewID() }

// Say tells the person something with the next picture.
func (e *Window) Say(format string, args ...any) { e.Words = fmt.Sprintf(format, args...) }

// Refuse says why something was not done.
func (e *Window) Refuse(err error) {
	if sentence, ok := err.(compose.Refusal); ok {
		e.Say("%s", string(sentence))
		return
	}
	e.Say("Not done: %s.", err)
}

// Do makes an edit for good: it can be undone and is sent to the server.
func (e *Window) Do(edit edit.Edit) bool {
	if len(e.Tracing) > 0 { // whichever way the edit came: by paste, too
		e.Say(TracingWords)
		return false
	}
	if e.Peeking {
		e.Try(edit)
		return false
	}
	edit = e.growing(edit)
	e.Drop()
	err := e.Doc.Do(edit)
	if err != nil {
		e.Say("Not done: %s.", err)
	}
	e.changed()
	return err == nil
}

// changed marks everything that depends on the document.
func (e *Window) changed() {
	e.Stale.Facts, e.Stale.courses = true, true
	e.graph = nil
	e.Ask, e.Gap = nil, ""
	if e.M.Sheet(e.SheetID) == nil {
		e.Show(e.M.Sheets[0].ID)
	}
	e.prune()
}

// prune forgets selected things that are gone.
func (e *Window) prune() {
	s := e.Sheet()
	e.Sel = slices.DeleteFunc(e.Sel, func(id string) bool {
		return s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil
	})
	if p, _ := e.LaneSelected(); p == nil {
		if q, _ := e.StageSelected(); q == nil {
			e.Lane = ""
		}
	}
	if e.Inside != "" && !slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool {
		return sym.InGroup(e.Inside)
	}) {
		e.Inside = ""
	}
}

// Try shows what an edit would do without making it for good.
func (e *Window) Try(edit edit.Edit) {
	e.Drop()
	if e.Doc.Show(edit) {
		e.graph = nil
	}
	e.Stale.courses = true
}

// Drop takes the preview back.
func (e *Window) Drop() {
	if e.Proposed != nil && e.Proposed.numbers != nil {
		e.Stale.Facts = true
	}
	e.Proposed, e.Trying, e.Peeked = nil, "", false
	if e.Doc.Hide() {
		e.graph = nil
		e.Stale.courses = true
	}
}

// Undo takes the latest edit of this window back; Redo makes it again.
func (e *Window) Undo() { e.step(e.Doc.Undo, "undo") }

// Redo makes the edit again that was taken back last.
func (e *Window) Redo() { e.step(e.Doc.Redo, "redo") }

func (e *Window) step(do func() (*edit.Revert, []string, error), what string) {
	e.Cancel()
	made, skipped, err := do()
	switch {
	case made == nil:
		e.Say("There is nothing to %s.", what)
		return
	case err != nil:
		e.Say("Not done: %s.", err)
		e.changed()
		return
	case len(skipped) > 0:
		e.Say("Left as it is: %s.", strings.Join(skipped, "; "))
	}
	e.changed()
	e.reveal(made)
}

// reveal shows the sheet an undone edit was about.
func (e *Window) reveal(r *edit.Revert) {
	for _, c := range r.Changes {
		if c.Sheet != "" && e.M.Sheet(c.Sheet) != nil {
			if c.Sheet != e.SheetID {
				e.Show(c.Sheet)
			}
			return
		}
	}
}

// Confirm notes that the server has committed an edit of this window as
// revision.
func (e *Window) Confirm(seq, revision int) {
	if err := e.told(func() (bool, error) { return e.Doc.Confirm(seq, revision) }); err != nil {
		e.Say("This window no longer shows what was saved; load it again: %s.", err)
	}
}

// Refused notes that the server did not take an edit. It is unmade here too,
// with a word to the person who made it.
func (e *Window) Refused(seq int, why string) {
	_ = e.told(func() (bool, error) { e.Doc.Refused(seq); return true, nil })
	e.Say("Not done: %s.", why)
}

// Foreign makes somebody else's edit, which the server has put before this
// window's pending ones.
func (e *Window) Foreign(edit edit.Edit, revision int) error {
	return e.told(func() (bool, error) { return true, e.Doc.Foreign(edit, revision) })
}

// Fresh puts the map as it is on the server under this window's pending edits, of which the
// map holds all up to number seq already.
func (e *Window) Fresh(doc []byte, revision, seq int) error {
	err := e.told(func() (bool, error) { return true, e.Doc.Fresh(doc, revision, seq) })
	if err == nil {
		e.Stale.All = true
	}
	return err
}

// told brings in what the server says. Where that makes another map, what is only shown is taken
// away for it, and the gesture shows it again.
func (e *Window) told(bring func() (changed bool, err error)) error {
	held, proposed, trying := e.Doc.Showing(), e.Proposed, e.Trying
	changed, err := bring()
	if !changed {
		return err
	}
	e.Drop()
	e.changed()
	if held && e.Again != nil {
		e.Again()
		if e.Doc.Showing() {
			e.Proposed, e.Trying = proposed, trying
		}
	}
	return err
}

// Show turns to a sheet.
func (e *Window) Show(id string) {
	e.Cancel()
	e.SheetID = id
	e.Sel, e.Lane, e.Hover, e.Inside, e.Blank = nil, "", "", "", Spot{}
	e.Stale = stale{All: true, Facts: e.Stale.Facts, findings: e.Stale.findings, courses: true}
}

// Cancel ends the gesture under way without a trace.
func (e *Window) Cancel() {
	e.Drop()
	e.InHand, e.Again, e.Ask, e.Coming, e.Link, e.Armed = nil, nil, nil, nil, Link{}, false
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
	e.Refresh()
	if e.Stale.Drag {
		if !e.router.Working() {
			e.router.Begin(e.links.Scene)
		}
		if !e.router.Step(slice) {
			return true
		}
		e.Routed, e.Stale.Drag = e.router.Courses(), false
		e.links.Keep()
		return false
	}
	if e.Uncounted() {
		e.Found, e.Stale.findings = len(findings.CheckFlow(e.M, e.Flow())), false
	}
	return false
}

// Uncounted reports whether the findings are to be counted, which can be while nothing is only shown.
func (e *Window) Uncounted() bool { return e.Stale.findings && !e.Doc.Showing() }

// Refresh computes what is stale.
func (e *Window) Refresh() {
	s := e.Sheet()
	e.Doc.Touched(&e.unlinked, &e.Unpainted)
	if e.Stale.Facts && (!e.Doc.Showing() || e.Proposed != nil && e.Proposed.numbers != nil) {
		e.Facts = scene.KnowFlow(e.M, e.Flow())
		e.Unpainted.Everything()
		e.TellReached("numbers")
		e.Stale.Facts, e.Stale.findings = false, true
	}
	if !e.Stale.courses {
		return
	}
	e.links.Follow(e.M, s, &e.unlinked)
	e.unlinked.Looked()
	moving := func(i int) bool { return i < len(s.Symbols) && e.InHand != nil && e.InHand.Moves(s.Symbols[i].ID) }
	dragging := e.Doc.Showing() && e.InHand != nil
	e.Stale.Drag = false
	switch {
	case len(s.Connectors) == 0: // a chart of a thousand cards has none, as a rule
		e.Routed = nil
		e.links.Forget()
	case !dragging && e.links.Kept(): // what was changed is nothing that courses depend on
	case e.Stale.exact || e.Stale.All:
		e.Routed = e.router.Route(e.links.Scene)
		e.links.Keep()
	case !dragging && e.begin():
		e.Routed = e.router.Courses()
		e.links.Keep()
	default:
		e.Routed = e.router.Drag(e.links.Scene, moving)
		e.Stale.Drag = true
		e.links.Forget()
	}
	e.Stale.courses, e.Stale.exact = false, false
	e.TellReached("routing")
}

// begin tries to find all courses at once, and reports whether it could.
func (e *Window) begin() bool {
	e.router.Begin(e.links.Scene)
	return e.router.Step(atOnce)
}

// Work returns the sheet that is shown for composing edits on it, workOn another one.
func (e *Window) Work() *compose.Work { return e.WorkOn(e.Sheet()) }

// WorkOn returns a sheet for composing edits on it.
func (e *Window) WorkOn(s *model.Sheet) *compose.Work {
	w := &compose.Work{Map: e.M, Sheet: s, NewID: e.NewID}
	if card := s.Symbol(e.last()); card != nil && s.IsCard(card) {
		w.Under = card.ID
	}
	if at, p := e.SpotNow(); p != nil && s.ID == e.SheetID {
		w.Row, w.Stage = at.Row, at.Stage
	}
	return w
}

// last returns the id of what was selected last; empty for nothing.
func (e *Window) last() string {
	if len(e.Sel) == 0 {
		return ""
	}
	return e.Sel[len(e.Sel)-1]
}

// Flow returns the flow of the map as it is now, with what is only shown.
func (e *Window) Flow() *flow.Graph {
	if e.graph == nil {
		e.graph = flow.New(e.M)
	}
	return e.graph
}

// Symbol returns a symbol of the sheet, or nil.
func (e *Window) Symbol(id string) *model.Symbol { return e.Sheet().Symbol(id) }

// One returns the selected symbol when exactly one symbol is selected.
func (e *Window) One() *model.Symbol {
	if len(e.Sel) != 1 {
		return nil
	}
	return e.Symbol(e.Sel[0])
}

// Chosen returns the selected symbols in the order they were selected.
func (e *Window) Chosen() []*model.Symbol {
	if e.looked != nil {
		return e.looked.symbols
	}
	return among(e.Sel, e.Sheet().Symbols, func(sym *model.Symbol) string { return sym.ID })
}

// ChosenLines returns the selected connectors in the order they were selected.
func (e *Window) ChosenLines() []*model.Connector {
	if e.looked != nil {
		return e.looked.lines
	}
	return among(e.Sel, e.Sheet().Connectors, func(c *model.Connector) string { return c.ID })
}

// LookUp finds what is selected once for all until done is called; nothing may be changed until then.
func (e *Window) LookUp() (done func()) {
	// so that who adds to one gets a list of its own
	e.looked = &looked{slices.Clip(e.Chosen()), slices.Clip(e.ChosenLines())}
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

// LaneSelected returns the pool and the place of the selected lane.
func (e *Window) LaneSelected() (*model.Pool, int) {
	for _, p := range e.Sheet().Pools {
		if i := p.LaneIndex(e.Lane); i >= 0 {
			return p, i
		}
	}
	return nil, -1
}

// Reach is screen for what has to be hit: a finger needs more room.
func (e *Window) Reach(pixels int) int {
	if e.coarse {
		pixels = pixels * 2
	}
	return e.Screen(pixels)
}

// Coarse says whether a finger points rather than a mouse or a pen.
func (e *Window) Coarse(finger bool) { e.coarse = finger }

// Empty reports whether there is nothing at p that a press would take hold of.
func (e *Window) Empty(p geometry.Point, scale int) bool {
	e.Scale = scale
	return e.Hand == "" && !e.Armed && e.Hit(p) == Hit{}
}

// Screen converts a length on the screen to one on the sheet.
func (e *Window) Screen(pixels int) int { return pixels * Px * 1000 / max(e.Scale, 1) }

// Movable returns the selected symbols and pools that are not locked.
func (e *Window) Movable() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.Sel),
		func(id string) bool { return s.Connector(id) != nil || e.Locked(id) })
}

// TracingWords says why nothing can be changed at present.
const TracingWords = "A case is being traced. Turn to Draw to change the map."

// Connector returns the selected connector when it alone is selected.
func (e *Window) Connector() *model.Connector {
	if len(e.Sel) != 1 {
		return nil
	}
	return e.Sheet().Connector(e.Sel[0])
}

const (
	NeedStep  = "Select a symbol first."
	NeedFrom  = "Select the one step that the next one follows."
	NeedTwo   = "Select two or more symbols to line up."
	NeedThree = "Select three or more symbols to space out."
)

// shown is what the window shows at present.
type shown struct {
	Painter        paint.Painter
	Adopt          bool // the page shows the first picture already
	Overlay, State string
	Buf, Over      []byte
}

// Offer is a command that is offered beside what is said.
type Offer struct {
	Command string `json:"command"`
	Text    string `json:"text"`
}
