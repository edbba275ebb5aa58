package editor

import (
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// Key handles a key pressed on the desk and reports whether it was used.
func (e *Editor) Key(key string, mods int) bool {
	command := mods&Ctrl != 0
	if len(e.tracing) > 0 {
		return !command && e.traceKey(key)
	}
	if e.link.on && !command && e.linkKey(key) {
		return true
	}
	switch {
	case command && mods&Shift == 0 && strings.EqualFold(key, "z"):
		e.Undo()
	case command && (strings.EqualFold(key, "y") || strings.EqualFold(key, "z")):
		e.Redo()
	case command && strings.EqualFold(key, "a"):
		e.Command("select-all", "")
	case command && strings.EqualFold(key, "d"):
		e.Command("duplicate", "")
	case command && key == "Enter":
		e.nextEmpty()
	case command && strings.EqualFold(key, "l"):
		e.lead(mods&Shift != 0)
	case command && strings.EqualFold(key, "b"):
		e.Command("text", "bold")
	case command && strings.EqualFold(key, "i"):
		e.Command("text", "italic")
	case command && strings.EqualFold(key, "u"):
		e.Command("text", "underline")
	case command && key == "Backspace":
		e.Command("give-back", "")
	case key == "Insert":
		e.Command("between", "")
	case key == "Delete" && mods&Shift != 0:
		e.Command("delete-close", "")
	case strings.HasPrefix(key, "Arrow"):
		return e.arrow(key, mods)
	case command:
		return false
	case key == "Escape":
		e.escape()
	case key == "Delete" || key == "Backspace":
		e.Command("delete", "")
	case key == "Enter":
		if len(e.sel) == 1 && e.one() == nil {
			e.startWriting(e.sel[0], false)
			return true
		}
		if e.lane != "" {
			e.startWriting(e.lane, false)
			return true
		}
		e.appendStep(diagram.Process)
	case key == "F2":
		e.Command("write", "")
	case key == "/" && mods == 0:
		e.swapAnswers()
	case len(key) == 1 && mods&Alt != 0:
		kind, ok := symbols.ByKey(key[0])
		if !ok {
			return false
		}
		e.Command("kind", string(kind))
	case len([]rune(key)) == 1 && mods&Alt == 0:
		if kind, ok := symbols.ByKey(key[0]); ok && e.one() != nil {
			e.appendStep(kind)
			return true
		}
		if len(e.sel) != 1 || e.Sheet().Pool(e.sel[0]) != nil {
			return false
		}
		// The key itself goes into the field, by way of the browser: so dead keys
		// and input methods work for the first letter too.
		e.startWriting(e.sel[0], true)
	default:
		return false
	}
	return true
}

func (e *Editor) escape() {
	switch {
	case e.g.mode != idle:
		e.cancel()
	case e.hand != "":
		e.hand, e.stick = "", false
	case e.ask != nil:
		e.ask = nil
	default:
		e.sel, e.lane = nil, ""
	}
}

// arrow moves what is selected: symbols and pools; of a single connector a
// stretch of its line or, with Shift, its label.
func (e *Editor) arrow(key string, mods int) bool {
	n := arrange.Grid
	if mods&Alt != 0 {
		n = px
	}
	d := map[string]geometry.Point{"ArrowLeft": {X: -n}, "ArrowRight": {X: n}, "ArrowUp": {Y: -n}, "ArrowDown": {Y: n}}[key]
	if e.connector() != nil {
		if mods&Shift != 0 {
			return e.nudgeLabel(d)
		}
		return e.nudgeStretch(d)
	}
	if len(e.movable()) == 0 {
		return false
	}
	return e.doMoving(&diagram.MoveItems{Sheet: e.sheetID, IDs: e.movable(), By: d})
}

// movable returns the selected symbols and pools.
func (e *Editor) movable() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.sel), func(id string) bool { return s.Connector(id) != nil })
}

// command is what a button or a key asks for. Needs says what to select when
// the command does not apply now; empty when it does.
type command struct {
	needs func(e *Editor) string
	do    func(e *Editor, arg string)
}

func needSymbols(n int, text string) func(*Editor) string {
	return func(e *Editor) string {
		if len(e.chosen()) < n {
			return text
		}
		return ""
	}
}

func needLane(e *Editor) string {
	if p, _ := e.laneSelected(); p == nil {
		return "Select a lane by its name first."
	}
	return ""
}

func always(*Editor) string { return "" }

const (
	needStep  = "Select a symbol first."
	needTwo   = "Select two or more symbols to line up."
	needThree = "Select three or more symbols to space out."
)

var commands map[string]command

func init() {
	commands = map[string]command{
		"undo": {always, func(e *Editor, _ string) { e.Undo() }},
		"redo": {always, func(e *Editor, _ string) { e.Redo() }},
		"delete": {func(e *Editor) string {
			if len(e.sel) == 0 && e.lane == "" {
				return "Select something to delete."
			}
			return ""
		}, (*Editor).delete},
		"duplicate":  {needSymbols(1, needStep), func(e *Editor, _ string) { e.copyBy(geometry.Point{X: 2 * arrange.Grid, Y: 2 * arrange.Grid}) }},
		"select-all": {always, func(e *Editor, _ string) { e.selectAll() }},
		"write": {func(e *Editor) string {
			if len(e.sel) != 1 && e.lane == "" {
				return "Select one symbol, connector or lane to write on."
			}
			return ""
		}, func(e *Editor, _ string) {
			if e.lane != "" {
				e.startWriting(e.lane, false)
			} else {
				e.startWriting(e.sel[0], false)
			}
		}},
		"text": {func(e *Editor) string {
			if len(e.chosen()) == 0 && len(e.lines()) == 0 {
				return "Select a symbol or connector whose text to set."
			}
			return ""
		}, (*Editor).styleText},
		"emphasis": {needSymbols(1, needStep), func(e *Editor, _ string) {
			v := !e.chosen()[0].Emphasis
			e.style(&diagram.SetStyle{Emphasis: &v}, false)
		}},
		"fill": {needSymbols(1, needStep), func(e *Editor, arg string) { e.style(&diagram.SetStyle{Fill: &arg}, false) }},
		"dashed": {needSymbols(1, needStep), func(e *Editor, _ string) {
			v := !e.chosen()[0].Dashed
			e.style(&diagram.SetStyle{Dashed: &v}, false)
		}},
		"trunk": {func(e *Editor) string {
			if len(e.sources()) == 0 {
				return "Select an exit, or the symbol whose exits are to share a trunk."
			}
			return ""
		}, func(e *Editor, _ string) {
			list := e.sources()
			v := !list[0].Trunk
			s := &diagram.SetStyle{Sheet: e.sheetID, Trunk: &v}
			for _, sym := range list {
				s.IDs = append(s.IDs, sym.ID)
			}
			e.do(s)
		}},
		"line": {needLine, (*Editor).styleLine},
		"exceptional": {needLine, func(e *Editor, _ string) {
			v := !e.lines()[0].Dashed
			e.style(&diagram.SetStyle{Dashed: &v}, true)
		}},
		"ends": {needLine, func(e *Editor, _ string) { e.bothWays() }},
		"give-back": {func(e *Editor) string {
			for _, c := range e.lines() {
				if len(c.Bends) > 0 {
					return ""
				}
			}
			return "Select a connector that was bent by hand."
		}, func(e *Editor, _ string) {
			var edits []diagram.Edit
			for _, c := range e.lines() {
				if len(c.Bends) > 0 {
					edits = append(edits, &diagram.SetBends{Sheet: e.sheetID, ID: c.ID})
				}
			}
			e.do(diagram.Together("give the course back", edits...))
		}},
		"labels-home": {func(e *Editor) string {
			for _, c := range e.lines() {
				if c.Place != (diagram.Spot{}) || c.FromPlace != (diagram.Spot{}) || c.ToPlace != (diagram.Spot{}) {
					return ""
				}
			}
			return "Select a connector whose label was moved by hand."
		}, func(e *Editor, _ string) {
			var edits []diagram.Edit
			for _, c := range e.lines() {
				for _, at := range diagram.LabelNames {
					edits = append(edits, &diagram.SetPlace{Sheet: e.sheetID, ID: c.ID, At: at})
				}
			}
			e.do(diagram.Together("let labels find their place", edits...))
		}},
		"label": {func(e *Editor) string {
			if e.connector() == nil {
				return "Select a connector to label."
			}
			return ""
		}, func(e *Editor, arg string) { e.startWritingAt(e.sel[0], arg, false) }},
		"between": {func(e *Editor) string {
			if len(e.lines()) != 1 {
				return "Select a connector to put a step into."
			}
			return ""
		}, func(e *Editor, _ string) { e.insertBetween() }},
		"connect": {func(e *Editor) string {
			if e.one() == nil && e.connector() == nil {
				return "Select the symbol to connect from, or a connector to lead elsewhere."
			}
			return ""
		}, func(e *Editor, arg string) { e.lead(arg == "from") }},
		"delete-close": {func(e *Editor) string {
			if e.one() == nil {
				return "Select the one step to delete."
			}
			return ""
		}, func(e *Editor, _ string) { e.removeClosing() }},
		"close-gap": {always, func(e *Editor, _ string) { e.closeGap() }},
		"same":      {needSymbols(2, "Select two or more symbols to make the same size; the first one sets it."), (*Editor).sameSize},
		"snug":      {needSymbols(1, needStep), func(e *Editor, _ string) { e.sizeToText() }},
		"legend":    {always, func(e *Editor, _ string) { e.addLegend() }},
		"fitting":   {always, (*Editor).setFitting},
		"crossings": {always, func(e *Editor, arg string) {
			v := diagram.Crossing(arg)
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Crossings: &v})
		}},
		"align":      {needSymbols(2, needTwo), (*Editor).align},
		"distribute": {needSymbols(3, needThree), (*Editor).distribute},
		"order": {needSymbols(1, needStep), func(e *Editor, arg string) {
			o := &diagram.Order{Sheet: e.sheetID, Back: arg == "back"}
			for _, sym := range e.chosen() {
				o.IDs = append(o.IDs, sym.ID)
			}
			e.do(o)
		}},
		"kind": {func(e *Editor) string {
			if len(e.chosen()) == 0 {
				return "Select a symbol to change its kind."
			}
			return ""
		}, (*Editor).changeKind},
		"glue": {func(e *Editor) string {
			if c := e.connector(); c == nil || c.From.Side == "" && c.To.Side == "" {
				return "Select a connector that is glued to a fixed point."
			}
			return ""
		}, func(e *Editor, _ string) {
			c := e.connector()
			from, to := c.From, c.To
			from.Side, to.Side = "", ""
			e.do(&diagram.SetEnds{Sheet: e.sheetID, ID: c.ID, From: &from, To: &to})
		}},
		"turn": {func(e *Editor) string {
			if e.connector() == nil {
				return "Select a connector to turn round."
			}
			return ""
		}, func(e *Editor, _ string) {
			c := e.connector()
			from, to := c.To, c.From
			if from.Connector != "" {
				e.say("This connector joins another one; it cannot be turned round.")
				return
			}
			e.do(&diagram.SetEnds{Sheet: e.sheetID, ID: c.ID, From: &from, To: &to})
		}},
		"swap":    {always, func(e *Editor, _ string) { e.swapAnswers() }},
		"answer":  {always, (*Editor).answer},
		"answers": {always, (*Editor).setAnswers},
		"number": {always, func(e *Editor, _ string) {
			v := !e.m.Numbers
			e.do(&diagram.SetHead{Numbers: &v})
		}},
		"take": {always, func(e *Editor, arg string) {
			e.cancel()
			e.hand, e.stick = diagram.Kind(arg), false
			if !e.hand.Known() {
				e.hand = ""
			}
		}},
		"keep": {always, func(e *Editor, arg string) { e.hand, e.stick = diagram.Kind(arg), diagram.Kind(arg).Known() }},
		"put":  {always, func(e *Editor, _ string) { e.hand, e.stick = "", false }},
		"append": {func(e *Editor) string {
			if e.one() == nil {
				return "Select the one step that the next one follows."
			}
			return ""
		}, func(e *Editor, arg string) { e.appendStep(diagram.Kind(arg)) }},
		"lanes":       {always, func(e *Editor, _ string) { e.addLanes() }},
		"lane-above":  {needLane, func(e *Editor, _ string) { e.insertLane(0) }},
		"lane-below":  {needLane, func(e *Editor, _ string) { e.insertLane(1) }},
		"lane-remove": {needLane, func(e *Editor, _ string) { e.delete("") }},
		"title":       {always, func(e *Editor, arg string) { arg = strings.TrimSpace(arg); e.do(&diagram.SetHead{Title: &arg}) }},
		"find":        {always, (*Editor).find},
		"sheet": {always, func(e *Editor, arg string) {
			if e.m.Sheet(arg) != nil && arg != e.sheetID {
				e.show(arg)
			}
		}},
		"sheet-add": {always, func(e *Editor, _ string) { e.addSheet() }},
		"sheet-name": {always, func(e *Editor, arg string) {
			arg = strings.TrimSpace(arg)
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Name: &arg})
		}},
		"sheet-paper": {always, func(e *Editor, arg string) { e.do(&diagram.SetSheet{Sheet: e.sheetID, Paper: &arg}) }},
		"sheet-turn": {always, func(e *Editor, arg string) {
			across := arg == "across"
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Across: &across})
		}},
		"sheet-left":   {always, func(e *Editor, _ string) { e.moveSheet(-1) }},
		"sheet-right":  {always, func(e *Editor, _ string) { e.moveSheet(1) }},
		"sheet-remove": {always, func(e *Editor, _ string) { e.removeSheet() }},
		"follow": {func(e *Editor) string {
			if sym := e.one(); sym == nil || !sym.Kind.IsReference() {
				return "Select a reference to follow."
			}
			return ""
		}, func(e *Editor, _ string) {
			where, partner := e.m.Partner(e.one())
			if partner == nil {
				e.say("This reference has no partner yet.")
				return
			}
			if where.ID != e.sheetID {
				e.show(where.ID)
			}
			e.sel, e.centre = []string{partner.ID}, partner.ID
		}},
		"draw":       {always, func(e *Editor, _ string) { e.tracing = nil }},
		"trace":      {always, func(e *Editor, _ string) { e.traceBegin() }},
		"trace-go":   {always, func(e *Editor, arg string) { i, _ := strconv.Atoi(arg); e.traceGo(i) }},
		"trace-back": {always, func(e *Editor, _ string) { e.traceBack() }},
		"next-empty": {always, func(e *Editor, _ string) { e.nextEmpty() }},
	}
}

// whileTracing lists the commands that leave the map as it is.
var whileTracing = map[string]bool{"draw": true, "trace": true, "trace-go": true, "trace-back": true, "sheet": true, "put": true, "find": true}

// tracingWords says why nothing can be changed at present.
const tracingWords = "A case is being traced. Turn to Draw to change the map."

// needs says why a command does not apply now; empty when it does.
func (e *Editor) needs(name string, c command) string {
	if len(e.tracing) > 0 && !whileTracing[name] {
		return tracingWords
	}
	return c.needs(e)
}

// Command does what a button or a menu entry asks for.
func (e *Editor) Command(name, arg string) {
	c, ok := commands[name]
	if !ok {
		e.say("There is no command %q.", name)
		return
	}
	if needs := e.needs(name, c); needs != "" {
		e.say("%s", needs)
		return
	}
	c.do(e, arg)
}

func (e *Editor) connector() *diagram.Connector {
	if len(e.sel) != 1 {
		return nil
	}
	return e.Sheet().Connector(e.sel[0])
}

func (e *Editor) selectAll() {
	e.sel, e.lane = nil, ""
	for _, sym := range e.Sheet().Symbols {
		e.sel = append(e.sel, sym.ID)
	}
}

func (e *Editor) delete(string) {
	if pool, i := e.laneSelected(); pool != nil {
		name := pool.Lanes[i].Name
		e.do(&diagram.RemoveLane{Sheet: e.sheetID, Pool: pool.ID, Lane: e.lane})
		if e.words == "" {
			e.say("The lane “%s” is gone; its steps, if any, stay where they are.", name)
		}
		return
	}
	gap := ""
	if sym := e.one(); sym != nil && len(e.gapEdits(sym.ID)) > 0 {
		gap = sym.ID
	}
	if e.do(&diagram.RemoveItems{Sheet: e.sheetID, IDs: slices.Clone(e.sel)}) && gap != "" {
		e.gap = gap // changed() has cleared it
		e.say("Deleted, and with it the connectors it had.")
	}
}

func (e *Editor) places() []diagram.Place {
	var out []diagram.Place
	for _, sym := range e.chosen() {
		out = append(out, diagram.Place{ID: sym.ID, Box: sym.Box})
	}
	return out
}

func (e *Editor) align(arg string) {
	if boxes := arrange.Align(e.places(), arrange.Edge(arg)); len(boxes) > 0 {
		e.do(&diagram.PlaceItems{Sheet: e.sheetID, As: "align", Boxes: boxes})
	}
}

func (e *Editor) distribute(arg string) {
	if boxes := arrange.Distribute(e.places(), arg == "across"); len(boxes) > 0 {
		e.do(&diagram.PlaceItems{Sheet: e.sheetID, As: "distribute", Boxes: boxes})
	}
}

func (e *Editor) changeKind(arg string) {
	kind := diagram.Kind(arg)
	if !kind.Known() {
		e.say("There is no symbol %q.", arg)
		return
	}
	var edits []diagram.Edit
	for _, sym := range e.chosen() {
		if sym.Kind == kind {
			continue
		}
		after := *sym
		edits = append(edits, &diagram.SetKind{Sheet: e.sheetID, ID: sym.ID, Kind: kind})
		if old := symbols.Of(sym.Kind); sym.W == old.W && sym.H == old.H { // it had its standard size, and gets the other's
			after.Box = arrange.Standard(e.Sheet(), kind, sym.Centre())
		}
		after.Kind = kind
		places := []diagram.Place{{ID: sym.ID, Box: after.Box}}
		if fit := arrange.Fit(e.Sheet(), &after); len(fit) > 0 {
			places = fit
		}
		if len(places) > 1 || places[0].Box != sym.Box {
			edits = append(edits, &diagram.PlaceItems{Sheet: e.sheetID, Boxes: places})
		}
	}
	if len(edits) > 0 {
		e.do(diagram.Together("change the kind", edits...))
	}
}

// answer writes an answer on an exit: the argument is the connector's id, a
// colon and the answer.
func (e *Editor) answer(arg string) {
	id, text, _ := strings.Cut(arg, ":")
	e.do(&diagram.SetText{Sheet: e.sheetID, ID: id, Text: text})
}

// setAnswers sets the map's own answer words, one a line.
func (e *Editor) setAnswers(arg string) {
	var words []string
	for _, w := range strings.FieldsFunc(arg, func(r rune) bool { return r == '\n' || r == ',' }) {
		if w = strings.TrimSpace(w); w != "" {
			words = append(words, w)
		}
	}
	e.do(&diagram.SetHead{Answers: words})
}

// find selects a symbol wherever it stands and brings it into sight.
func (e *Editor) find(id string) {
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

// addLanes sets down a pool of three lanes, or one more lane in a pool that is
// there.
func (e *Editor) addLanes() {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		pool := s.Pools[len(s.Pools)-1]
		lane := diagram.Lane{ID: e.newID(), Name: "Lane " + strconv.Itoa(len(pool.Lanes)+1), H: diagram.LaneHeight}
		if e.do(&diagram.InsertLane{Sheet: s.ID, Pool: pool.ID, At: len(pool.Lanes), Lane: lane}) {
			e.sel, e.lane = nil, lane.ID
			e.startWriting(lane.ID, false)
		}
		return
	}
	page := s.Page()
	pool := diagram.Pool{ID: e.newID(), Title: e.m.Title, X: 4 * arrange.Grid, Y: 4 * arrange.Grid, W: page.W - 8*arrange.Grid}
	for i := range 3 {
		pool.Lanes = append(pool.Lanes, diagram.Lane{ID: e.newID(), Name: "Lane " + strconv.Itoa(i+1), H: diagram.LaneHeight})
	}
	if e.do(&diagram.AddPool{Sheet: s.ID, Pool: pool}) {
		e.sel, e.lane = nil, pool.Lanes[0].ID
	}
}

func (e *Editor) insertLane(after int) {
	pool, i := e.laneSelected()
	lane := diagram.Lane{ID: e.newID(), Name: "New lane", H: diagram.LaneHeight}
	if e.do(&diagram.InsertLane{Sheet: e.sheetID, Pool: pool.ID, At: i + after, Lane: lane}) {
		e.lane = lane.ID
		e.startWriting(lane.ID, false)
	}
}

func (e *Editor) addSheet() {
	now := e.Sheet()
	at := slices.Index(e.m.Sheets, now) + 1
	s := diagram.Sheet{
		SheetHead: diagram.SheetHead{ID: e.newID(), Name: "Sheet " + strconv.Itoa(len(e.m.Sheets)+1), Paper: now.Paper, Across: now.Across},
		Pools:     []*diagram.Pool{}, Symbols: []*diagram.Symbol{}, Connectors: []*diagram.Connector{},
	}
	if e.do(&diagram.AddSheet{At: at, Sheet: s}) {
		e.show(s.ID)
	}
}

func (e *Editor) moveSheet(by int) {
	to := slices.Index(e.m.Sheets, e.Sheet()) + by
	if to < 0 || to >= len(e.m.Sheets) {
		e.say("The sheet is at the end already.")
		return
	}
	e.do(&diagram.MoveSheet{Sheet: e.sheetID, To: to})
}

func (e *Editor) removeSheet() {
	if len(e.m.Sheets) == 1 {
		e.say("A map keeps at least one sheet.")
		return
	}
	name := e.Sheet().Name
	if e.do(&diagram.RemoveSheet{Sheet: e.sheetID}) {
		e.say("The sheet “%s” is gone. Undo brings it back.", name)
	}
}
