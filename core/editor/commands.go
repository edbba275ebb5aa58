package editor

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/trace"
)

// Key handles a key pressed on the desk and reports whether it was used.
func (e *Commands) Key(key string, mods int) bool {
	e.writing = false // the keys of a text go to its field
	if len(e.tracing) > 0 {
		return mods&Ctrl == 0 && e.Tracing.traceKey(key)
	}
	if e.link.on && mods&Ctrl == 0 && e.Lines.linkKey(key, mods) {
		return true
	}
	if e.hushed(key, mods) {
		return true
	}
	used := false
	e.refusals(func() { used = e.key(key, mods) })
	return used
}

// key handles a key when no case is traced, no connector led and nothing was refused just now.
func (e *Commands) key(key string, mods int) bool {
	if e.proposed != nil && (key == "Enter" || key == "Escape") {
		if key == "Enter" {
			e.Layout.keep(false)
		} else {
			e.drop()
			e.again = nil
		}
		return true
	}
	name := keyName(key, mods)
	switch {
	case name == "Enter":
		return e.enterKey()
	case name == "Escape":
		e.escape()
		return true
	case name == "?" && len(e.sel) == 1: // it begins a text
	case name == "Alt+Enter" && len(e.chosen()) == 0:
		return false
	case keyed[name] != nil:
		e.Command(keyed[name].command.name, keyed[name].arg)
		return true
	}
	switch {
	case strings.HasPrefix(key, "Arrow") && mods&Ctrl == 0:
		return e.arrow(key, mods)
	case mods&Ctrl != 0:
		return false
	case len(key) == 1 && mods&Alt != 0:
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
	case e.hand != "": // set down without the pointer
		at := e.at
		if page := e.Sheet().Page(); !page.Contains(at) {
			at = page.Centre()
		}
		e.Placing.place(at, nil, 0)
	case len(e.sel) == 1 && e.one() == nil:
		e.Writing.startWriting(e.sel[0], false)
	case e.lane != "":
		e.Writing.startWriting(e.lane, false)
	default:
		e.Writing.appendStep(model.Process)
	}
	return true
}

// typed is a character typed on the desk: a digit adds that symbol of the tray
// after the selected one, any other begins to write on it.
func (e *Commands) typed(key string) bool {
	if kind, ok := symbols.ByKey(key[0]); ok && (e.one() != nil || len(e.Sheet().Symbols) == 0) {
		e.Writing.appendStep(kind)
		return true
	}
	if len(e.sel) != 1 || e.Sheet().Pool(e.sel[0]) != nil || e.locked(e.sel[0]) {
		return false
	}
	// The key itself goes into the field, by way of the browser: so dead keys
	// and input methods work for the first letter too.
	e.Writing.startWriting(e.sel[0], true)
	return true
}

func (e *Commands) escape() {
	switch {
	case e.inHand != nil:
		e.cancel()
	case e.hand != "":
		e.hand, e.stick = "", false
	case e.armed:
		e.armed = false
	case e.ask != nil:
		e.ask = nil
	case e.inside != "" && len(e.sel) > 0:
		e.Selecting.leave()
	default:
		e.sel, e.lane = nil, ""
	}
}

// arrow moves what is selected: symbols and pools; of a single connector a
// stretch of its line or, with Shift, its label.
func (e *Commands) arrow(key string, mods int) bool {
	n := arrange.Grid
	if mods&Alt != 0 {
		n = px
	}
	d := arrows[key].Step()
	d.X, d.Y = d.X*n, d.Y*n
	if e.connector() != nil {
		if mods&Shift != 0 {
			return e.Lines.nudgeLabel(d)
		}
		return e.Lines.nudgeStretch(d)
	}
	if len(e.movable()) == 0 {
		if len(e.sel) > 0 {
			e.say("It is locked. Unlock it to move it.")
		}
		return len(e.sel) > 0
	}
	return e.doMoving(&edit.MoveItems{Sheet: e.sheetID, IDs: e.movable(), By: d})
}

// movable returns the selected symbols and pools that are not locked.
func (e *Window) movable() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.sel), func(id string) bool { return s.Connector(id) != nil || e.locked(id) })
}

// tracingWords says why nothing can be changed at present.
const tracingWords = "A case is being traced. Turn to Draw to change the map."

// Command does what a button or a menu entry asks for.
func (e *Commands) Command(name, arg string) {
	e.writing = e.writing && name == "answer" // the answer is asked for while a step is written
	c := commands[name]
	if c == nil {
		e.say("There is no command %q.", name)
		return
	}
	e.refusals(func() {
		if needs := c.lacks(e.Desk); needs != "" {
			e.say("%s", needs)
			return
		}
		c.do(e, arg)
	})
}

func (e *Window) connector() *model.Connector {
	if len(e.sel) != 1 {
		return nil
	}
	return e.Sheet().Connector(e.sel[0])
}

func (e *Commands) selectAll() {
	e.sel, e.lane = nil, ""
	for _, sym := range e.Sheet().Symbols {
		e.sel = append(e.sel, sym.ID)
	}
	for _, c := range e.Sheet().Connectors {
		e.sel = append(e.sel, c.ID)
	}
}

func (e *Commands) delete(string) {
	if pool, _ := e.laneSelected(); pool != nil {
		e.Lanes.removeLane("")
		return
	}
	if pool, _ := e.stageSelected(); pool != nil {
		e.Lanes.removeStage()
		return
	}
	gap := ""
	if sym := e.one(); sym != nil && len(e.work().GapEdits(sym.ID)) > 0 {
		gap = sym.ID
	}
	if e.do(&edit.RemoveItems{Sheet: e.sheetID, IDs: slices.Clone(e.sel)}) && gap != "" {
		e.gap = gap // changed() has cleared it
		e.say("Deleted, and with it the connectors it had.")
	}
}

// align lines the selected units up by an edge with the one selected last, or,
// with "sheet" behind the edge, with the sheet. What would leave its lane for
// that stays.
func (e *Commands) align(arg string) {
	edge, to, _ := strings.Cut(arg, " ")
	by, list := arrange.Edge(edge), e.Selecting.places()
	if !slices.Contains(arrange.Edges, by) {
		e.say("There is no edge %q.", edge)
		return
	}
	box := list[len(list)-1].Box
	if to == "sheet" {
		box = e.Sheet().Page().Grown(-4 * arrange.Grid)
	} else if len(list) < 2 {
		e.say(needTwo)
		return
	}
	moved := arrange.Align(list, by, box)
	if on, under := e.piled(moved); on != "" {
		e.say("Lined up so, “%s” would lie on “%s”. Line them up by another edge, or space them out first.", on, under)
		return
	}
	e.moveUnits("align", moved, !by.Across())
}

// piled returns the names of two selected steps of which one would hide the other once units are moved, and does not now.
func (e *Commands) piled(moved []edit.Place) (on, under string) {
	to := map[string]geometry.Box{}
	for _, p := range e.Selecting.spread(moved) {
		to[p.ID] = p.Box
	}
	after := func(sym *model.Symbol) geometry.Box {
		if b, ok := to[sym.ID]; ok {
			return b
		}
		return sym.Box
	}
	list := e.chosen()
	for i, sym := range list {
		for _, o := range list[:i] {
			if !sym.Kind.IsAside() && !o.Kind.IsAside() && arrange.Covers(after(sym), after(o)) && !arrange.Covers(sym.Box, o.Box) {
				return trace.Title(sym), trace.Title(o)
			}
		}
	}
	return "", ""
}

// moveUnits moves units to new places; where they go up or down, what would leave
// its lane stays.
func (e *Commands) moveUnits(as string, moved []edit.Place, upright bool) {
	boxes := e.Selecting.spread(moved)
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
			e.say("Steps that would have left their lane stay where they are.")
		}
	}
	if len(boxes) > 0 {
		e.doMoving(&edit.PlaceItems{Sheet: e.sheetID, As: as, Boxes: boxes})
	}
}

func (e *Commands) distribute(arg string) {
	across := strings.HasPrefix(arg, "across")
	e.moveUnits("distribute", arrange.Distribute(e.Selecting.places(), across, strings.HasSuffix(arg, "centres")), !across)
}

func (e *Commands) changeKind(arg string) {
	kind := model.Kind(arg)
	if !kind.Known() {
		e.say("There is no symbol %q.", arg)
		return
	}
	if edit := e.work().ChangeKind(e.chosen(), kind); edit != nil {
		e.do(edit)
	}
}

// answer writes an answer on an exit: the argument is the connector's id, a
// colon and the answer.
func (e *Commands) answer(arg string) {
	id, text, _ := strings.Cut(arg, ":")
	e.do(&edit.SetText{Sheet: e.sheetID, ID: id, Text: text})
}

// setAnswers sets the map's own answer words, one a line.
func (e *Commands) setAnswers(arg string) {
	var words []string
	for _, w := range strings.FieldsFunc(arg, func(r rune) bool { return r == '\n' || r == ',' }) {
		if w = strings.TrimSpace(w); w != "" {
			words = append(words, w)
		}
	}
	e.do(&edit.SetHead{Answers: words})
}

// find selects a symbol wherever it stands and brings it into sight.
func (e *Commands) find(id string) {
	s := e.m.SheetOf(id)
	if s == nil {
		return
	}
	if s.ID != e.sheetID {
		e.show(s.ID)
	}
	e.cancel()
	e.centre = id
	if len(e.tracing) == 0 {
		e.sel, e.lane = []string{id}, ""
	}
}
