package command

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/trace"
)

// Key handles a key pressed on the desk and reports whether it was used.
func (e *Commands) Key(key string, mods int) bool {
	e.InField, e.OneByOne = false, false // the keys of a text go to its field
	if len(e.Tracing) > 0 {
		return mods&desk.Ctrl == 0 && e.Cases.TraceKey(key)
	}
	if e.Link.On && mods&desk.Ctrl == 0 && e.Lines.LinkKey(key, mods) {
		return true
	}
	if e.Hushed(key, mods) {
		return true
	}
	if e.Coming != nil && e.Placing.ComingKey(key, mods) {
		return true
	}
	used := false
	e.Refusals(func() { used = e.key(key, mods) })
	return used
}

// key handles a key when no case is traced, no connector led and nothing was refused just now.
func (e *Commands) key(key string, mods int) bool {
	if e.Proposed != nil && (key == "Enter" || key == "Escape") {
		if key == "Enter" {
			e.Layout.Keep(false)
		} else {
			e.Drop()
			e.Again = nil
		}
		return true
	}
	if e.Charted() && e.Hand == "" && e.Cards.Key(key, mods) {
		return true
	}
	if e.OnJourney() && e.Hand == "" && e.Journeys.Key(key, mods) {
		return true
	}
	name := keyName(key, mods)
	switch {
	case name == "Enter":
		return e.enterKey()
	case name == "Escape":
		e.escape()
		return true
	case name == "?" && len(e.Sel) == 1: // it begins a text
	case name == "Alt+Enter" && len(e.Chosen()) == 0:
		return false
	case keyed[name] != nil:
		e.Command(keyed[name].command.name, keyed[name].arg)
		return true
	}
	switch {
	case strings.HasPrefix(key, "Arrow") && mods&desk.Ctrl == 0:
		return e.arrow(key, mods)
	case mods&desk.Ctrl != 0:
		return false
	case len(key) == 1 && mods&desk.Alt != 0:
		kind, ok := symbols.ByKey(key[0])
		if ok {
			e.Command("kind", string(kind))
		}
		return ok
	case len([]rune(key)) == 1:
		return e.typed(key)
	}
	return false
}

// enterKey goes on: after a step with the next one, on anything else with its
// text.
func (e *Commands) enterKey() bool {
	switch {
	case e.Hand != "": // set down without the pointer
		at := e.At
		if page := e.Sheet().Page(); !page.Contains(at) || e.Seen != (geometry.Box{}) && !e.Seen.Contains(at) {
			at = e.InSight()
		}
		e.Placing.Place(at, nil, 0)
	case len(e.Sel) == 1 && e.One() == nil:
		e.Writing.StartWriting(e.Sel[0], false)
	case e.Lane != "":
		e.Writing.StartWriting(e.Lane, false)
	case e.OnJourney():
	default:
		e.Writing.AppendStep(model.Process)
	}
	return true
}

// typed is a character typed on the desk: a digit adds that symbol of the tray
// after the selected one, any other begins to write on it.
func (e *Commands) typed(key string) bool {
	if e.OnJourney() { // digits are text there
		if len(e.Sel) == 1 && e.Sheet().Pool(e.Sel[0]) == nil && !e.Locked(e.Sel[0]) {
			e.Writing.StartWriting(e.Sel[0], true)
			return true
		}
		return false
	}
	if kind, ok := symbols.ByKey(key[0]); ok && e.Charted() && (e.OneCard() != nil || len(e.Sheet().Symbols) == 0) {
		e.Cards.AddKind(kind)
		return true
	} else if ok && (e.One() != nil || len(e.Sheet().Symbols) == 0) {
		e.Writing.AppendStep(kind)
		return true
	}
	if len(e.Sel) != 1 || e.Sheet().Pool(e.Sel[0]) != nil || e.Locked(e.Sel[0]) {
		return false
	}
	// The key itself goes into the field, by way of the browser: so dead keys
	// and input methods work for the first letter too.
	e.Writing.StartWriting(e.Sel[0], true)
	return true
}

func (e *Commands) escape() {
	switch {
	case e.InHand != nil:
		e.Cancel()
	case e.Hand != "":
		e.Hand, e.Stick = "", false
	case e.Armed:
		e.Armed = false
	case e.Ask != nil:
		e.Ask = nil
	case e.Inside != "" && len(e.Sel) > 0:
		e.Selecting.Leave()
	default:
		e.Sel, e.Lane, e.Blank = nil, "", desk.Spot{}
	}
}

// arrow moves what is selected: symbols and pools; of a single connector a
// stretch of its line or, with Shift, its label.
func (e *Commands) arrow(key string, mods int) bool {
	n := arrange.Grid
	if mods&desk.Alt != 0 {
		n = desk.Px
	}
	d := desk.Arrows[key].Step()
	d.X, d.Y = d.X*n, d.Y*n
	if len(e.Sel) == 0 && e.Lane != "" && mods == 0 {
		return e.Selecting.Walk(key == "ArrowUp" || key == "ArrowLeft")
	}
	if e.Connector() != nil {
		if mods&desk.Shift != 0 {
			return e.Lines.NudgeLabel(d)
		}
		return e.Lines.NudgeStretch(d)
	}
	if len(e.Movable()) == 0 {
		if len(e.Sel) > 0 {
			e.Say("It is locked. Unlock it to move it.")
		}
		return len(e.Sel) > 0
	}
	return e.DoMoving(&edit.MoveItems{Sheet: e.SheetID, IDs: e.Movable(), By: d})
}

// Command does what a button or a menu entry asks for.
func (e *Commands) Command(name, arg string) {
	e.InField = e.InField && name == "answer" // the answer is asked for while a step is written
	e.OneByOne = e.OneByOne && name == "tray"
	c := commands[name]
	if c == nil {
		e.Say("There is no command %q.", name)
		return
	}
	if name != "next-kind" && !c.reading {
		e.Placing.Bring(model.Process, false)
	}
	e.Refusals(func() {
		if needs := c.lacks(e.Desk); needs != "" {
			e.Say("%s", needs)
			return
		}
		c.do(e, arg)
	})
}

// Peek shows what a command would do, until EndPeek, and reports whether it does: where something else is shown or
// under way, and of commands that do more than change how things are drawn, it shows nothing.
func (e *Commands) Peek(name, arg string) bool {
	e.EndPeek()
	c := commands[name]
	if c == nil || !c.peeks || c.lacks(e.Desk) != "" || e.Doc.Showing() || e.InHand != nil || e.InField ||
		e.TextField != nil || e.Coming != nil {
		return false
	}
	words, offer, opens := e.Words, e.Suggest, e.ToOpen
	e.Peeking = true
	c.do(e, arg)
	e.Peeking, e.Words, e.Suggest, e.ToOpen = false, words, offer, opens
	e.Peeked = e.Doc.Showing()
	return e.Peeked
}

// EndPeek takes back what Peek shows.
func (e *Commands) EndPeek() {
	if e.Peeked {
		e.Drop()
	}
}

func (e *Commands) selectAll() {
	e.Sel, e.Lane = nil, ""
	for _, sym := range e.Sheet().Symbols {
		e.Sel = append(e.Sel, sym.ID)
	}
	for _, c := range e.Sheet().Connectors {
		e.Sel = append(e.Sel, c.ID)
	}
}

func (e *Commands) delete(string) {
	if e.OnJourney() {
		e.Journeys.Delete()
		return
	}
	if pool, _ := e.LaneSelected(); pool != nil {
		e.Lanes.RemoveLane("")
		return
	}
	if pool, _ := e.StageSelected(); pool != nil {
		e.Lanes.RemoveStage()
		return
	}
	if len(e.ChosenCards()) > 0 {
		e.Cards.Delete()
		return
	}
	gap := ""
	if sym := e.One(); sym != nil && len(e.Work().GapEdits(sym.ID)) > 0 {
		gap = sym.ID
	}
	if e.Do(&edit.RemoveItems{Sheet: e.SheetID, IDs: slices.Clone(e.Sel)}) && gap != "" {
		e.Gap = gap // changed() has cleared it
		e.Say("Deleted, and with it the connectors it had.")
	}
}

// align lines the selected units up by an edge with the one selected last, or,
// with "sheet" behind the edge, with the sheet. What would leave its lane for
// that stays.
func (e *Commands) align(arg string) {
	edge, to, _ := strings.Cut(arg, " ")
	by, list := arrange.Edge(edge), e.Selecting.Places()
	if !slices.Contains(arrange.Edges, by) {
		e.Say("There is no edge %q.", edge)
		return
	}
	box := list[len(list)-1].Box
	if to == "sheet" {
		box = e.Sheet().Page().Grown(-4 * arrange.Grid)
	} else if len(list) < 2 {
		e.Say(desk.NeedTwo)
		return
	}
	moved := arrange.Align(list, by, box)
	if on, under := e.piled(moved); on != "" {
		e.Say("Lined up so, “%s” would lie on “%s”. Line them up by another edge, or space them out first.", on, under)
		return
	}
	e.moveUnits("align", moved, !by.Across())
}

// piled returns the names of two selected steps of which one would hide the other once units are moved, and does not
// now.
func (e *Commands) piled(moved []edit.Place) (on, under string) {
	to := map[string]geometry.Box{}
	for _, p := range e.Selecting.Spread(moved) {
		to[p.ID] = p.Box
	}
	after := func(sym *model.Symbol) geometry.Box {
		if b, ok := to[sym.ID]; ok {
			return b
		}
		return sym.Box
	}
	list := e.Chosen()
	for i, sym := range list {
		for _, o := range list[:i] {
			if !sym.Kind.IsAside() && !o.Kind.IsAside() && arrange.Covers(after(sym), after(o)) &&
				!arrange.Covers(sym.Box, o.Box) {
				return trace.Title(sym), trace.Title(o)
			}
		}
	}
	return "", ""
}

// moveUnits moves units to new places; where they go up or down, what would leave
// its lane stays.
func (e *Commands) moveUnits(as string, moved []edit.Place, upright bool) {
	boxes := e.Selecting.Spread(moved)
	if upright {
		s := e.Sheet()
		stay := 0
		boxes = slices.DeleteFunc(boxes, func(p edit.Place) bool {
			pool, i := s.LaneAt(p.Centre())
			was := s.LaneOf(s.Symbol(p.ID))
			leaves := was != nil && (pool == nil || &pool.Lanes[i] != was)
			if leaves {
				stay++
			}
			return leaves
		})
		if stay > 0 {
			e.Say("Steps that would have left their lane stay where they are.")
		}
	}
	if len(boxes) > 0 {
		e.DoMoving(&edit.PlaceItems{Sheet: e.SheetID, As: as, Boxes: boxes})
	}
}

func (e *Commands) distribute(arg string) {
	across := strings.HasPrefix(arg, "across")
	e.moveUnits("distribute", arrange.Distribute(e.Selecting.Places(), across, strings.HasSuffix(arg, "centres")),
		!across)
}

func (e *Commands) changeKind(arg string) {
	kind := model.Kind(arg)
	if !kind.Known() {
		e.Say("There is no symbol %q.", arg)
		return
	}
	if edit := e.Work().ChangeKind(e.Chosen(), kind); edit != nil {
		e.Do(edit)
	}
}

// answer writes an answer on an exit: the argument is the connector's id, a
// colon and the answer.
func (e *Commands) answer(arg string) {
	id, text, _ := strings.Cut(arg, ":")
	e.Do(&edit.SetText{Sheet: e.SheetID, ID: id, Text: text})
}

// setAnswers sets the map's own answer words, one a line.
func (e *Commands) setAnswers(arg string) {
	var words []string
	for _, w := range strings.FieldsFunc(arg, func(r rune) bool { return r == '\n' || r == ',' }) {
		if w = strings.TrimSpace(w); w != "" {
			words = append(words, w)
		}
	}
	e.Do(&edit.SetHead{Answers: words})
}

// find selects a symbol wherever it stands and brings it into sight.
func (e *Commands) find(id string) {
	s := e.M.SheetOf(id)
	if s == nil {
		if e.M.Sheet(id) != nil && id != e.SheetID { // a sheet as a whole
			e.Show(id)
		}
		return
	}
	if s.ID != e.SheetID {
		e.Show(s.ID)
	}
	e.Cancel()
	e.Centre = id
	if len(e.Tracing) == 0 {
		if e.Sel, e.Lane = []string{id}, ""; s.Symbol(id) == nil && s.Connector(id) == nil && s.Pool(id) == nil {
			e.Sel, e.Lane, e.Centre = nil, id, "" // a lane or a stage
		}
	}
	e.Cards.ShowCard(id)
	e.Journeys.ShowCell(id)
}

// Commands are what buttons, menus and keys do.
type Commands struct {
	*desk.Window
	*desk.Desk
}
