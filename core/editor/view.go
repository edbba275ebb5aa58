package editor

import (
	"encoding/json"
	"slices"
	"strconv"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/paint"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/core/units"
)

// view is what the window shows at present.
type view struct {
	painter        paint.Painter
	adopt          bool // the page shows the first picture already
	overlay, state string
	buf, over      []byte
}

// Flush returns what has changed since the last call, as JSON:
//
//	patch: a list of patches (package paint)
//	overlay: the SVG of selection, guides and handles, if it changed
//	state: everything around the drawing, if it changed
//	send: edits for the server
//	write, ask, say, offer, centre: requests to the script
//	task: what to have done by Work, beside the page; its answer goes to Worked
//	settle: courses are sketched or findings not counted, and nothing is in the hand: call Pause, after so many milliseconds
//
// Lengths are in pixels of the sheet. The result is valid until the next call.
func (e *View) Flush() []byte {
	e.refresh()
	v := &e.view
	b := append(v.buf[:0], `{"patch":[`...)
	if e.stale.all {
		v.overlay = "-"
	}
	picture := &paint.Picture{Map: e.m, Sheet: e.Sheet(), Courses: e.courses, Facts: &e.facts, Touched: &e.unpainted, Sketched: e.stale.drag}
	if e.stale.all && v.adopt {
		b = v.painter.Adopt(b, picture)
	} else {
		b = v.painter.Patch(b, picture, e.stale.all)
	}
	e.unpainted.Looked()
	e.stale.all, v.adopt = false, false
	b = append(b, ']')
	e.reached("picture")
	e.Reached = nil

	v.over = e.appendOverlay(v.over[:0])
	if string(v.over) != v.overlay {
		v.overlay = string(v.over)
		b = paint.AppendString(append(b, `,"overlay":`...), v.overlay)
	}
	if !e.still && (!e.doc.Showing() || e.proposed != nil) && e.inHand == nil || v.state == "" {
		if state := e.state(); state != v.state {
			v.state = state
			b = append(append(b, `,"state":`...), state...)
		}
	}
	e.still = false
	b = e.appendRequests(b)
	v.buf = append(b, '}')
	return v.buf
}

// countLater is after how many milliseconds without an event the findings are counted. By then the answer of the server to
// what was done is there, as a rule, and does not wait for it.
const countLater = 150

func (e *View) appendRequests(b []byte) []byte {
	add := func(name string, value any) {
		if raw, err := json.Marshal(value); err == nil {
			b = append(append(append(append(b, `,"`...), name...), `":`...), raw...)
		}
	}
	if e.write == nil && !e.writing {
		e.doc.Hold(0)
	}
	if send := e.doc.Take(); len(send) > 0 {
		add("send", send)
	}
	if e.write != nil {
		add("write", e.write)
		e.write, e.writing = nil, true
	}
	if e.ask != nil {
		add("ask", e.ask)
	}
	if e.inHand == nil && e.stale.drag {
		add("settle", 0)
	} else if e.inHand == nil && e.uncounted() {
		add("settle", countLater)
	}
	if e.task != "" {
		add("task", e.task)
		e.task = ""
	}
	if e.open != "" {
		add("open", e.open)
		e.open = ""
	}
	if e.words != "" {
		add("say", e.words)
	} else if e.hush {
		add("hush", true)
	}
	e.words, e.hush = "", false
	if e.suggest != nil {
		add("offer", e.suggest)
		e.suggest = nil
	} else if e.gap != "" && e.offered != e.gap {
		add("offer", offer{"close-gap", "Close the gap"})
	}
	e.offered = e.gap
	if len(e.sight) > 0 && e.centre == "" {
		var all geometry.Box
		for _, id := range e.sight {
			if sym := e.symbol(id); sym != nil {
				all = all.Union(sym.Box)
			} else if pool := e.Sheet().Pool(id); pool != nil {
				all = all.Union(pool.Box())
			}
		}
		add("centre", all)
	}
	e.sight = nil
	if e.centre != "" {
		if sym := e.symbol(e.centre); sym != nil {
			add("centre", sym.Box)
		} else if _, course := e.courseOf(e.centre); course != nil {
			add("centre", course.Points.Bounds())
		}
		e.centre = ""
	}
	return b
}

// offer is a command that is offered beside what is said.
type offer struct {
	Command string `json:"command"`
	Text    string `json:"text"`
}

// bars is what the bars around the drawing show.
type bars struct {
	Title    string     `json:"title"`
	Answers  []string   `json:"answers"`
	Sheet    string     `json:"sheet"`
	Sheets   []SheetTab `json:"sheets"`
	Selected []string   `json:"selected"`
	Hand     string     `json:"hand"`
	Undo     string     `json:"undo"`
	Redo     string     `json:"redo"`
	Findings int        `json:"findings"`
	// Plain is how many connectors of the sheet are drawn plainly.
	Plain int               `json:"plain,omitempty"`
	Needs map[string]string `json:"needs"`
	On    map[string]bool   `json:"on"`
	// Now holds the values of what is selected, by the names commands give them.
	Now map[string]string `json:"now"`
	// Trace is the case under way; nil while drawing.
	Trace *Trace `json:"trace"`
	// Units is the name of the unit lengths are shown in, Look of the look.
	Units   string              `json:"units"`
	Look    string              `json:"look"`
	Styles  []StyleTab          `json:"styles"`
	Colours []model.HouseColour `json:"colours"`
	// Faces are the fonts of the house.
	Faces []FontTab    `json:"faces"`
	Cuts  []fonts.Face `json:"cuts"`
	// Proposal says what is shown and can be kept or left.
	Proposal string `json:"proposal"`
	// Other is what a further way to keep what is proposed is called.
	Other string `json:"other"`
	// Longer says that the flow could go on over further sheets.
	Longer bool    `json:"longer"`
	Search *Search `json:"search"`
	// Spoken says what is selected to those who do not see it.
	Spoken string `json:"spoken"`
	// Palette are the colours of the palette in the look of the map, light and
	// dark.
	Palette map[string]string `json:"palette"`
	// Owners are all that own steps of the map.
	Owners []string `json:"owners"`
	// Trying is the look that is shown and not yet kept.
	Trying string `json:"trying"`
	// Numbers is what is set about numbers.
	Numbers Numbers `json:"numbers"`
}

// StyleTab is a saved style as the bars list it.
type StyleTab struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Fill string `json:"fill"`
	Line string `json:"line"`
	Text string `json:"text"`
	// Wears counts the symbols and connectors that wear it.
	Wears int `json:"wears"`
}

// SheetTab is a sheet as the foot lists it.
type SheetTab struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Paper     string `json:"paper"`
	Across    bool   `json:"across"`
	Fitting   string `json:"fitting"`
	Ground    string `json:"ground"`
	Crossings string `json:"crossings"`
	Merging   string `json:"merging"`
	Middle    string `json:"middle"`
	Edge      string `json:"edge"`
}

// State returns what the bars around the drawing show at present, as JSON.
func (e *View) State() []byte { return []byte(e.state()) }

func (e *View) state() string {
	defer e.lookUp()()
	st := bars{Title: e.m.Title, Answers: e.m.Answers, Sheet: e.sheetID,
		Selected: append([]string{}, e.sel...), Hand: string(e.hand), Findings: e.found, Needs: map[string]string{}, On: map[string]bool{"number": e.m.Numbers}, Trace: e.Tracing.trace()}
	st.Plain = routing.CountPlain(e.courses)
	for _, s := range e.m.Sheets {
		tab := SheetTab{s.ID, s.Name, s.Paper, s.Across, string(s.Fitting), s.Ground.Fill, string(s.Crossings), "", "", string(s.Edge)}
		if s.Merging {
			tab.Merging = string(model.MergeAlways)
		}
		if s.Middle {
			tab.Middle = "middle"
		}
		st.Sheets = append(st.Sheets, tab)
	}
	st.Undo, st.Redo = e.doc.Next()
	st.Now = map[string]string{}
	for _, name := range slices.Concat(model.HeadingFields, model.HeadingTexts) {
		st.Now[name] = *e.m.Heading.Field(name)
	}
	st.On["heading"] = e.Sheet().Headed
	if pool, i := e.laneSelected(); pool != nil {
		st.Now["part"] = pool.Lanes[i].Of
	}
	look := looks.Of(e.m)
	st.Units, st.Look, st.Colours, st.Search, st.Spoken = units.Name(e.m.Units), look.Name, e.m.Colours, e.Searching.searched(), e.Selecting.Spoken()
	st.Palette = map[string]string{}
	for _, name := range model.Fills[1:] {
		st.Palette["light-"+name], st.Palette["dark-"+name] = look.Fill(name), look.Line(name, look.Ink)
	}
	st.Numbers = e.Numbering.numbers()
	for _, k := range st.Numbers.Also {
		st.On["also-"+k] = true
	}
	st.Now["scheme"], st.Now["prefix"], st.Now["badge"] = string(st.Numbers.Scheme), st.Numbers.Prefix, st.Numbers.Badge
	st.Now["first"], st.Now["step"], st.Now["digits"] = strconv.Itoa(max(st.Numbers.First, 1)), strconv.Itoa(max(st.Numbers.Step, 1)), strconv.Itoa(max(st.Numbers.Digits, 1))
	st.On["held"] = e.m.Held.On()
	st.Trying, st.Owners = e.trying, e.m.Owners()
	st.Faces, st.Cuts = e.Styling.faces()
	st.Styles = e.styleTabs(look)
	if e.proposed != nil {
		st.Proposal, st.Longer = e.proposed.words, e.proposed.longer
		if o := e.proposed.other; o != nil {
			st.Other = o.words
		}
	}
	st.On["grid"], st.On["room"] = !e.free, e.armed
	if len(e.sel) > 0 {
		e.describe(&st)
	}
	for name, c := range commands {
		if needs := c.lacks(e.Desk); needs != "" {
			st.Needs[name] = needs
		}
	}
	raw, err := json.Marshal(st)
	if err != nil {
		return "{}"
	}
	return string(raw)
}

// describe puts the values of the first thing selected into the bars.
func (e *View) describe(st *bars) {
	s := e.Sheet()
	look := looks.Of(e.m)
	var t *model.Type
	if sym := s.Symbol(e.sel[0]); sym != nil {
		t = &sym.Type
		st.On["emphasis"], st.On["dashed"], st.On["trunk"] = sym.Emphasis, sym.Dashed, sym.Trunk
		st.On["locked"], st.On["keeps"], st.On["uncounted"] = sym.Locked, sym.Look != "", sym.Uncounted
		st.Now["pinned"] = sym.Pinned
		look = looks.For(e.m, sym)
		b := e.Sheets.frame()
		st.Now["x"], st.Now["y"], st.Now["w"], st.Now["h"] = units.Format(b.X, e.m.Units), units.Format(b.Y, e.m.Units), units.Format(sym.W, e.m.Units), units.Format(sym.H, e.m.Units)
		st.Now["outline"] = look.Line(sym.Ink, look.Ink)
		st.Now["style"], st.Now["owner"] = sym.Style, s.OwnerOf(sym)
		width := sym.Weight
		if width == 0 {
			width = look.Weight
		}
		st.Now["outlineWeight"] = units.Format(width, e.m.Units)
		st.Now["fill"] = look.Fill(sym.Fill)
		st.Now["colour"] = scene.TextColour(look, sym)
	} else if c := s.Connector(e.sel[0]); c != nil {
		t = &c.Type
		if from := e.symbol(c.From.Symbol); from != nil {
			st.On["trunk"] = from.Trunk
		}
		st.On["exceptional"], st.On["bent"] = c.Dashed, len(c.Bends) > 0
		st.On["locked"] = c.Locked
		st.Now["style"] = c.Style
		st.Now["weight"], st.Now["ink"] = units.Format(scene.Weight(look, c), e.m.Units), scene.LineColour(look, c)
		st.Now["line"], st.Now["course"], st.Now["hop"], st.Now["radius"] = string(c.Line), string(c.Course), string(c.Hop), units.Format(c.Radius, e.m.Units)
		st.Now["merge"] = string(c.Merge)
		st.Now["fromMark"], st.Now["toMark"], st.Now["markSize"] = string(c.FromMark), string(c.ToMark), string(c.MarkSize)
		st.Now["colour"] = scene.LabelColour(look, c)
	}
	if t != nil {
		st.On["bold"], st.On["italic"], st.On["underline"], st.On["bullets"] = t.Bold, t.Italic, t.Underline, t.Bullets
		st.Now["size"] = units.Points(typeset.HouseOf(e.m).StyleOf(look.Type(*t)).Size)
		st.Now["align"], st.Now["stand"], st.Now["margin"] = t.Align, t.Stand, units.Format(t.Margin, e.m.Units)
	}
}

// styleTabs lists the saved styles.
func (e *View) styleTabs(look *looks.Look) []StyleTab {
	wears := map[string]int{}
	if len(e.m.Styles) > 0 {
		for _, s := range e.m.Sheets {
			for _, sym := range s.Symbols {
				wears[sym.Style]++
			}
			for _, c := range s.Connectors {
				wears[c.Style]++
			}
		}
	}
	out := []StyleTab{}
	for _, y := range e.m.Styles {
		fill := look.Fill(y.Fill)
		out = append(out, StyleTab{y.ID, y.Name, fill, look.Line(y.Ink, look.Ink), look.Line(y.Colour, scene.Legible(look, fill)), wears[y.ID]})
	}
	return out
}
