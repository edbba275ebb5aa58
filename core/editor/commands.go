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
	e.writing = false // the keys of a text go to its field
	if len(e.tracing) > 0 {
		return mods&Ctrl == 0 && e.traceKey(key)
	}
	if e.link.on && mods&Ctrl == 0 && e.linkKey(key, mods) {
		return true
	}
	if e.proposed != nil && (key == "Enter" || key == "Escape") {
		if key == "Enter" {
			e.keep(false)
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
		e.Command(keyed[name].Command, keyed[name].Arg)
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
func (e *Editor) enterKey() bool {
	switch {
	case e.hand != "": // set down without the pointer
		at := e.at
		if page := e.Sheet().Page(); !page.Contains(at) {
			at = page.Centre()
		}
		e.place(at, gesture{})
	case len(e.sel) == 1 && e.one() == nil:
		e.startWriting(e.sel[0], false)
	case e.lane != "":
		e.startWriting(e.lane, false)
	default:
		e.appendStep(diagram.Process)
	}
	return true
}

// typed is a character typed on the desk: a digit adds that symbol of the tray
// after the selected one, any other begins to write on it.
func (e *Editor) typed(key string) bool {
	if kind, ok := symbols.ByKey(key[0]); ok && (e.one() != nil || len(e.Sheet().Symbols) == 0) {
		e.appendStep(kind)
		return true
	}
	if len(e.sel) != 1 || e.Sheet().Pool(e.sel[0]) != nil || e.locked(e.sel[0]) {
		return false
	}
	// The key itself goes into the field, by way of the browser: so dead keys
	// and input methods work for the first letter too.
	e.startWriting(e.sel[0], true)
	return true
}

func (e *Editor) escape() {
	switch {
	case e.g.mode != idle:
		e.cancel()
	case e.hand != "":
		e.hand, e.stick = "", false
	case e.armed:
		e.armed = false
	case e.ask != nil:
		e.ask = nil
	case e.inside != "" && len(e.sel) > 0:
		e.leave()
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
	d := arrows[key].Step()
	d.X, d.Y = d.X*n, d.Y*n
	if e.connector() != nil {
		if mods&Shift != 0 {
			return e.nudgeLabel(d)
		}
		return e.nudgeStretch(d)
	}
	if len(e.movable()) == 0 {
		if len(e.sel) > 0 {
			e.say("It is locked. Unlock it to move it.")
		}
		return len(e.sel) > 0
	}
	return e.doMoving(&diagram.MoveItems{Sheet: e.sheetID, IDs: e.movable(), By: d})
}

// movable returns the selected symbols and pools that are not locked.
func (e *Editor) movable() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.sel), func(id string) bool { return s.Connector(id) != nil || e.locked(id) })
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
	needFrom  = "Select the one step that the next one follows."
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
				return "Select a symbol or connector to format its text."
			}
			return ""
		}, (*Editor).styleText},
		"emphasis": {needSymbols(1, needStep), func(e *Editor, _ string) {
			v := !e.chosen()[0].Emphasis
			e.style(&diagram.SetStyle{Emphasis: &v}, false)
		}},
		"fill": {func(e *Editor) string {
			if p, _ := e.laneSelected(); p != nil || len(e.chosen()) > 0 {
				return ""
			}
			return "Select a symbol or a lane first."
		}, (*Editor).fill},
		"outline": {needSymbols(1, needStep), (*Editor).styleOutline},
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
		"merging": {always, func(e *Editor, arg string) {
			v := arg == string(diagram.MergeAlways)
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Merging: &v})
		}},
		"edge":  {always, (*Editor).setEdge},
		"align": {needSymbols(1, "Select what to line up: two or more symbols, or one for the sheet."), (*Editor).align},
		"distribute": {func(e *Editor) string {
			if len(e.units()) < 3 {
				return needThree
			}
			return ""
		}, (*Editor).distribute},
		"order": {needSymbols(1, needStep), func(e *Editor, arg string) {
			e.do(&diagram.Order{Sheet: e.sheetID, IDs: e.symbolIDs(), Back: strings.HasPrefix(arg, "back"), Step: strings.HasSuffix(arg, "ward")})
		}},
		"group":    {needSymbols(2, "Select two or more symbols to group."), func(e *Editor, _ string) { e.group() }},
		"ungroup":  {needGroup, func(e *Editor, _ string) { e.ungroup() }},
		"group-in": {needGroup, func(e *Editor, _ string) { e.enter(e.sel[len(e.sel)-1]) }},
		"lock": {func(e *Editor) string {
			if len(e.sel) == 0 {
				return "Select something to lock or unlock."
			}
			return ""
		}, func(e *Editor, _ string) { e.lock() }},
		"straighten": {needAny, func(e *Editor, _ string) { e.straighten() }},
		"lay-out":    {needAny, (*Editor).layOut},
		"others": {always, func(e *Editor, arg string) {
			v := arg == "above"
			e.do(&diagram.SetHead{Above: &v})
		}},
		"keep":  {always, func(e *Editor, arg string) { e.keep(arg == "other") }},
		"leave": {always, func(e *Editor, _ string) { e.drop(); e.again = nil }},
		"room": {needAny, func(e *Editor, _ string) {
			e.cancel()
			e.hand, e.armed = "", true
			e.say("Press where you need room and drag: right or down opens a gap, back closes it.")
		}},
		"frame": {needSymbols(1, needStep), (*Editor).setFrame},
		"grid": {always, func(e *Editor, arg string) {
			e.free = arg == "off" || arg == "" && !e.free
		}},
		"units": {always, (*Editor).setUnits},

		"font-drop": {func(e *Editor) string {
			if len(e.m.Faces) == 0 {
				return "The map uses the built-in typeface."
			}
			return ""
		}, (*Editor).dropFont},

		"style-take": {needStyled, func(e *Editor, _ string) { e.takeStyle() }},
		"style-give": {func(e *Editor) string {
			if e.taken == nil {
				return "Copy the style of something first."
			}
			return needStyled(e)
		}, func(e *Editor, _ string) { e.giveStyle(*e.taken, "give the style") }},
		"style-plain":  {needStyled, func(e *Editor, _ string) { e.giveStyle(outfit{}, "plain style"); e.last = outfit{} }},
		"style-save":   {needStyled, (*Editor).saveStyle},
		"style-wear":   {needStyled, (*Editor).wear},
		"style-change": {needStyled, (*Editor).changeStyle},
		"style-name":   {always, (*Editor).nameStyle},
		"style-remove": {always, func(e *Editor, arg string) { e.do(&diagram.RemoveStyle{ID: arg}) }},
		"look":         {always, func(e *Editor, arg string) { e.look(arg, false) }},
		"look-try":     {always, func(e *Editor, arg string) { e.look(arg, true) }},
		"look-keep":    {needSymbols(1, needStep), func(e *Editor, _ string) { e.keepLook() }},
		"house":        {always, (*Editor).setHouse},
		"ground": {always, func(e *Editor, arg string) {
			g := e.Sheet().Ground
			g.Fill = arg
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Ground: &g})
		}},
		"ground-picture": {always, func(e *Editor, _ string) { e.ground, e.open = true, "picture-open" }},
		"ground-none": {func(e *Editor) string {
			if e.Sheet().Ground == (diagram.Ground{}) {
				return "This sheet has no background."
			}
			return ""
		}, func(e *Editor, _ string) { e.do(&diagram.SetSheet{Sheet: e.sheetID, Ground: &diagram.Ground{}}) }},

		"next":      {always, func(e *Editor, _ string) { e.along(false) }},
		"previous":  {always, func(e *Editor, _ string) { e.along(true) }},
		"sibling":   {needOne, func(e *Editor, _ string) { e.sibling() }},
		"first":     {always, func(e *Editor, _ string) { e.toEnd(false) }},
		"last":      {always, func(e *Editor, _ string) { e.toEnd(true) }},
		"exit":      {needBranch, func(e *Editor, _ string) { e.furtherExit() }},
		"lane-up":   {needInLane, func(e *Editor, _ string) { e.toLane(-1) }},
		"lane-down": {needInLane, func(e *Editor, _ string) { e.toLane(1) }},
		"select-kind": {func(e *Editor) string {
			if len(e.sel) == 0 {
				return "Select a symbol or a connector first."
			}
			return ""
		}, func(e *Editor, _ string) { e.selectKind() }},
		"select-lane": {func(e *Editor) string {
			if len(e.lanesChosen()) == 0 {
				return "Select a lane, or a step that stands in one."
			}
			return ""
		}, func(e *Editor, _ string) { e.selectLane() }},
		"select-onward":   {needSymbols(1, needStep), func(e *Editor, _ string) { e.pick(e.reachable(false)) }},
		"select-upstream": {needSymbols(1, needStep), func(e *Editor, _ string) { e.pick(e.reachable(true)) }},

		"search":        {always, (*Editor).searchFor},
		"find-next":     {needSearch, func(e *Editor, _ string) { e.jump(1) }},
		"find-previous": {needSearch, func(e *Editor, _ string) { e.jump(-1) }},
		"replace":       {needSearch, (*Editor).replace},
		"replace-all":   {needSearch, (*Editor).replaceAll},
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
				return "Select a connector to reverse."
			}
			return ""
		}, func(e *Editor, _ string) {
			c := e.connector()
			from, to := c.To, c.From
			if from.Connector != "" {
				e.say("This connector ends on another connector, so it cannot be reversed.")
				return
			}
			e.do(&diagram.SetEnds{Sheet: e.sheetID, ID: c.ID, From: &from, To: &to})
		}},
		"swap":    {needDecision, func(e *Editor, _ string) { e.swapAnswers() }},
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
		"hold": {always, func(e *Editor, arg string) { e.hand, e.stick = diagram.Kind(arg), diagram.Kind(arg).Known() }},
		"put":  {always, func(e *Editor, _ string) { e.hand, e.stick = "", false }},
		"append": {func(e *Editor) string {
			if e.one() == nil && len(e.Sheet().Symbols) > 0 {
				return needFrom
			}
			return ""
		}, func(e *Editor, arg string) { e.appendStep(diagram.Kind(arg)) }},
		"lanes":       {always, func(e *Editor, _ string) { e.addLanes() }},
		"lane-above":  {needLane, func(e *Editor, _ string) { e.insertLane(0) }},
		"lane-below":  {needLane, func(e *Editor, _ string) { e.insertLane(1) }},
		"lane-remove": {needLane, (*Editor).removeLane},
		"lane-move": {needLane, func(e *Editor, arg string) {
			if arg == "up" {
				e.moveLane(-1)
			} else {
				e.moveLane(1)
			}
		}},
		"heading":      {always, (*Editor).setHeading},
		"pool-add":     {always, func(e *Editor, _ string) { e.addPool() }},
		"stage-add":    {needPool, func(e *Editor, _ string) { e.addStage() }},
		"stage-remove": {needStage, func(e *Editor, _ string) { e.removeStage() }},
		"stage-move": {needStage, func(e *Editor, arg string) {
			if arg == "back" {
				e.moveStage(-1)
			} else {
				e.moveStage(1)
			}
		}},
		"lane-head": {needLane, func(e *Editor, arg string) { e.setLane(&diagram.SetLane{Head: &arg}) }},
		"lane-part": {needLane, func(e *Editor, arg string) {
			arg = strings.Join(strings.Fields(arg), " ")
			e.setLane(&diagram.SetLane{Of: &arg})
		}},
		"names-level":  {needPool, func(e *Editor, _ string) { e.levelNames() }},
		"lanes-turn":   {needPool, func(e *Editor, _ string) { e.turnLanes() }},
		"lanes-list":   {always, (*Editor).lanesFromList},
		"owner":        {needOwned, (*Editor).setOwner},
		"owners-lanes": {needNoLanes, func(e *Editor, _ string) { e.ownersIntoLanes() }},
		"lanes-owners": {needPool, func(e *Editor, _ string) { e.lanesIntoOwners() }},
		"title":        {always, func(e *Editor, arg string) { arg = strings.TrimSpace(arg); e.do(&diagram.SetHead{Title: &arg}) }},
		"find":         {always, (*Editor).find},
		"sheet": {always, func(e *Editor, arg string) {
			if e.m.Sheet(arg) != nil && arg != e.sheetID {
				e.show(arg)
			}
		}},
		"sheet-add":  {always, func(e *Editor, _ string) { e.addSheet() }},
		"sheet-copy": {always, func(e *Editor, _ string) { e.copySheet() }},
		"sheet-to": {always, func(e *Editor, arg string) { // id:place
			id, place, _ := strings.Cut(arg, ":")
			if to, err := strconv.Atoi(place); err == nil {
				e.do(&diagram.MoveSheet{Sheet: id, To: to})
			}
		}},
		"sheet-name": {always, func(e *Editor, arg string) {
			arg = strings.TrimSpace(arg)
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Name: &arg})
		}},
		"sheet-paper": {always, func(e *Editor, arg string) { e.do(&diagram.SetSheet{Sheet: e.sheetID, Paper: &arg}) }},
		"sheet-turn": {always, func(e *Editor, arg string) {
			across := arg == "across"
			e.do(&diagram.SetSheet{Sheet: e.sheetID, Across: &across})
		}},
		"paper-larger": {always, (*Editor).enlarge},
		"onto-page":    {always, (*Editor).ontoPage},
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
	// What the page opens itself.
	for _, name := range []string{"find-open", "search-open", "keys-open", "styles-open", "looks-open", "house-open", "answers-open", "sheet-open", "roles-open", "owner-open", "part-open",
		"picture-open", "share-open", "export-open", "paste-here", "sheet-take", "zoom-in", "zoom-out", "zoom-fit"} {
		commands[name] = command{always, func(e *Editor, _ string) { e.open = name }}
	}
	commands["styles-open"] = command{needStyled, commands["styles-open"].do}
	commands["owner-open"] = command{needOwned, commands["owner-open"].do}
	commands["part-open"] = command{needLane, commands["part-open"].do}
}

func needOne(e *Editor) string {
	if e.one() == nil {
		return needStep
	}
	return ""
}

func needDecision(e *Editor) string {
	id := ""
	if sym := e.one(); sym != nil {
		id = sym.ID
	} else if c := e.connector(); c != nil {
		id = c.From.Symbol
	}
	if sym := e.symbol(id); sym == nil || !sym.Kind.Asks() {
		return "Select a decision or one of its exits to swap the answers."
	}
	return ""
}

func needBranch(e *Editor) string {
	if e.one() == nil {
		return needStep
	}
	if e.openDecision() == "" {
		return "No decision before this step has an unused answer."
	}
	return ""
}

func needAny(e *Editor) string {
	if len(e.Sheet().Symbols) == 0 {
		return "There is nothing on this sheet yet."
	}
	return ""
}

func needInLane(e *Editor) string {
	s := e.Sheet()
	for _, sym := range e.chosen() {
		if s.LaneOf(sym) != nil {
			return ""
		}
	}
	return "Select a step that stands in a lane."
}

func needSearch(e *Editor) string {
	if e.search.query == "" {
		return "Write what to find first."
	}
	return ""
}

// kindEntries lists every kind of symbol as a command: to take it in hand, or to
// make the selected symbols of that kind.
func (e *Editor) kindEntries() []Entry {
	var out []Entry
	needs := e.needs("kind", commands["kind"])
	for _, kind := range diagram.Kinds {
		def := symbols.Of(kind)
		name := strings.ToLower(def.Name)
		out = append(out, Entry{Part: "Symbols", Command: "take", Arg: string(kind), Title: "Set down: " + name, Words: "draw add " + string(kind)},
			Entry{Part: "Symbols", Command: "kind", Arg: string(kind), Title: "Make it: " + name, Words: "change kind " + string(kind), Needs: needs})
	}
	return out
}

// whileTracing lists the commands that leave the map as it is.
var whileTracing = map[string]bool{"draw": true, "trace": true, "trace-go": true, "trace-back": true, "sheet": true, "put": true, "find": true,
	"search": true, "find-next": true, "find-previous": true, "find-open": true, "search-open": true, "keys-open": true,
	"share-open": true, "export-open": true, "zoom-in": true, "zoom-out": true, "zoom-fit": true}

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
	e.writing = e.writing && name == "answer" // the answer is asked for while a step is written
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
	for _, c := range e.Sheet().Connectors {
		e.sel = append(e.sel, c.ID)
	}
}

func (e *Editor) delete(string) {
	if pool, _ := e.laneSelected(); pool != nil {
		e.removeLane("")
		return
	}
	if pool, _ := e.stageSelected(); pool != nil {
		e.removeStage()
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

// align lines the selected units up by an edge with the one selected last, or,
// with "sheet" behind the edge, with the sheet. What would leave its lane for
// that stays.
func (e *Editor) align(arg string) {
	edge, to, _ := strings.Cut(arg, " ")
	by, list := arrange.Edge(edge), e.places()
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
	e.moveUnits("align", arrange.Align(list, by, box), !by.Across())
}

// moveUnits moves units to new places; where they go up or down, what would leave
// its lane stays.
func (e *Editor) moveUnits(as string, moved []diagram.Place, upright bool) {
	boxes := e.spread(moved)
	if upright {
		s := e.Sheet()
		stay := 0
		boxes = slices.DeleteFunc(boxes, func(p diagram.Place) bool {
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
		e.doMoving(&diagram.PlaceItems{Sheet: e.sheetID, As: as, Boxes: boxes})
	}
}

func (e *Editor) distribute(arg string) {
	across := strings.HasPrefix(arg, "across")
	e.moveUnits("distribute", arrange.Distribute(e.places(), across, strings.HasSuffix(arg, "centres")), !across)
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
		if kind.Asks() {
			edits = append(edits, e.answered(e.Sheet(), sym.ID)...)
		}
		if old := symbols.Of(sym.Kind); sym.W == old.W && sym.H == old.H { // it had its standard size, and gets the other's
			after.Box = arrange.Standard(e.Sheet(), kind, sym.Centre())
		}
		after.Kind = kind
		places := []diagram.Place{{ID: sym.ID, Box: after.Box}}
		if fit := arrange.Fit(e.m, e.Sheet(), &after); len(fit) > 0 {
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
