package editor

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/editor/command"
	"plaintracer/core/editor/desk"
	"plaintracer/core/editor/gesture"
	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/outline"
	"plaintracer/core/paint"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/core/units"
)

// Flush returns what has changed since the last call, as JSON:
//
//	patch: a list of patches (package paint)
//	overlay: the SVG of selection, guides and handles, if it changed
//	state: everything around the drawing, if it changed
//	send: edits for the server
//	write, ask, say, offer, centre: requests to the script
//	task: what to have done by Work, beside the page; its answer goes to Worked
//	settle: courses are sketched or findings not counted, and nothing is in the hand: call Pause, after so many
//		milliseconds
//
// Lengths are in pixels of the sheet. The result is valid until the next call.
func (e *View) Flush() []byte {
	e.Refresh()
	v := &e.Shown
	b := append(v.Buf[:0], `{"patch":[`...)
	if e.Stale.All {
		v.Overlay = "-"
	}
	picture := &paint.Picture{Map: e.M, Sheet: e.Sheet(), Courses: e.Routed, Facts: &e.Facts, Touched: &e.Unpainted,
		Sketched: e.Stale.Drag}
	if e.Stale.All && v.Adopt {
		b = v.Painter.Adopt(b, picture)
	} else {
		b = v.Painter.Patch(b, picture, e.Stale.All)
	}
	e.Unpainted.Looked()
	e.Stale.All, v.Adopt = false, false
	b = append(b, ']')
	e.TellReached("picture")
	e.Reached = nil

	v.Over = gesture.AppendOverlay(e.Desk, v.Over[:0])
	if string(v.Over) != v.Overlay {
		v.Overlay = string(v.Over)
		b = paint.AppendString(append(b, `,"overlay":`...), v.Overlay)
	}
	if !e.Still && (!e.Doc.Showing() || e.Proposed != nil) && e.InHand == nil || v.State == "" {
		if state := e.state(); state != v.State {
			v.State = state
			b = append(append(b, `,"state":`...), state...)
		}
	}
	e.Still = false
	b = e.appendRequests(b)
	v.Buf = append(b, '}')
	return v.Buf
}

// countLater is after how many milliseconds without an event the findings are counted. By then the answer of the
// server to what was done is there, as a rule, and does not wait for it.
const countLater = 150

func (e *View) appendRequests(b []byte) []byte {
	add := func(name string, value any) {
		if raw, err := json.Marshal(value); err == nil {
			b = append(append(append(append(b, `,"`...), name...), `":`...), raw...)
		}
	}
	if e.TextField == nil && !e.InField {
		e.Doc.Hold(0)
	}
	if send := e.Doc.Take(); len(send) > 0 {
		add("send", send)
	}
	if e.TextField != nil {
		add("write", e.TextField)
		e.TextField, e.InField = nil, true
	}
	if e.Ask != nil {
		add("ask", e.Ask)
	}
	if e.InHand == nil && e.Stale.Drag {
		add("settle", 0)
	} else if e.InHand == nil && e.Uncounted() {
		add("settle", countLater)
	}
	if e.Task != "" {
		add("task", e.Task)
		e.Task = ""
	}
	if e.ToOpen != "" {
		add("open", e.ToOpen)
		e.ToOpen = ""
	}
	if e.Words != "" {
		add("say", e.Words)
	} else if e.Hush || e.Offered != "" && e.Gap == "" { // nothing is left to close
		add("hush", true)
	}
	e.Words, e.Hush = "", false
	if e.Suggest != nil {
		add("offer", e.Suggest)
		e.Suggest = nil
	} else if e.Gap != "" && e.Offered != e.Gap {
		add("offer", desk.Offer{Command: "close-gap", Text: "Close the gap"})
	}
	e.Offered = e.Gap
	if len(e.Sight) > 0 && e.Centre == "" {
		var all geometry.Box
		for _, id := range e.Sight {
			if sym := e.Symbol(id); sym != nil {
				all = all.Union(sym.Box)
			} else if pool := e.Sheet().Pool(id); pool != nil {
				all = all.Union(pool.Box())
			}
		}
		add("centre", all)
	}
	e.Sight = nil
	if e.Centre != "" {
		if sym := e.Symbol(e.Centre); sym != nil {
			add("centre", sym.Box)
		} else if b, ok := e.SpotBox(e.Centre); ok {
			add("centre", b)
		} else if _, course := e.CourseOf(e.Centre); course != nil {
			add("centre", course.Points.Bounds())
		}
		e.Centre = ""
	}
	return b
}

// BarState is what the bars around the drawing show.
type BarState struct {
	Title   string     `json:"title"`
	Answers []string   `json:"answers"`
	Sheet   string     `json:"sheet"`
	Sheets  []SheetTab `json:"sheets"`
	// Way are the steps through which one comes to the sheet, where it is a detail.
	Way []outline.Stage `json:"way,omitempty"`
	// Stops are the places to which a presenter goes.
	Stops []outline.Stop `json:"stops,omitempty"`
	// Links are where the one thing selected leads beside the flow.
	Links []desk.LinkTab `json:"links,omitempty"`
	// Files is how many files are kept with the map.
	Files    int      `json:"files,omitempty"`
	Selected []string `json:"selected"`
	Hand     string   `json:"hand"`
	Undo     string   `json:"undo"`
	Redo     string   `json:"redo"`
	Findings int      `json:"findings"`
	// Unrouted is how many connectors of the sheet are drawn plainly.
	Unrouted int               `json:"plain,omitempty"`
	Needs    map[string]string `json:"needs"`
	On       map[string]bool   `json:"on"`
	// Now holds the values of what is selected, by the names commands give them.
	Now map[string]string `json:"now"`
	// Trace is the case under way; nil while drawing.
	Trace *desk.Trace `json:"trace"`
	// Units is the name of the unit lengths are shown in, Look of the look.
	Units   string              `json:"units"`
	Look    string              `json:"look"`
	Styles  []StyleTab          `json:"styles"`
	Colours []model.HouseColour `json:"colours"`
	// Faces are the fonts of the organisation.
	Faces []desk.FontTab `json:"faces"`
	Cuts  []fonts.Face   `json:"cuts"`
	// Typefaces are those that a single text may be set in.
	Typefaces []desk.FaceTab `json:"typefaces"`
	// Proposal says what is shown and can be kept or left.
	Proposal string `json:"proposal"`
	// Other is what a further way to keep what is proposed is called.
	Other string `json:"other"`
	// Longer says that the flow could go on over further sheets.
	Longer bool         `json:"longer"`
	Search *desk.Search `json:"search"`
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
	Numbers desk.Numbers `json:"numbers"`
	// Shows is the kind of the sheet; empty for a flow. Posts are the names that lanes can take from the hierarchies of
	// the map.
	Shows string   `json:"shows,omitempty"`
	Posts []string `json:"posts,omitempty"`
	// Parts are what lanes of the map are part of.
	Parts []string `json:"parts,omitempty"`
	// Sums are the fields that a row of a journey can sum up, where one is selected that does.
	Sums []SumTab `json:"sums,omitempty"`
}

// SumTab is a field that can be summed up.
type SumTab struct {
	ID   string `json:"id"`
	Name string `json:"name"`
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
	ID         string `json:"id"`
	Name       string `json:"name"`
	Paper      string `json:"paper"`
	Across     bool   `json:"across"`
	Fitting    string `json:"fitting"`
	Background string `json:"ground"`
	Crossings  string `json:"crossings"`
	Merging    string `json:"merging"`
	Middle     string `json:"middle"`
	Edge       string `json:"edge"`
	// Colour is that of its tab, as #rrggbb; empty for none.
	Colour string `json:"colour,omitempty"`
}

// State returns what the bars around the drawing show at present, as JSON.
func (e *View) State() []byte { return []byte(e.state()) }

func (e *View) state() string {
	defer e.LookUp()()
	st := BarState{Title: e.M.Title, Answers: e.M.Answers, Sheet: e.SheetID,
		Selected: append([]string{}, e.Sel...), Hand: string(e.Hand), Findings: e.Found, Needs: command.Needs(e.Desk),
		On: map[string]bool{"number": e.M.Numbers}, Trace: e.Cases.Trace()}
	st.Unrouted = routing.CountUnrouted(e.Routed)
	for _, s := range e.M.Sheets {
		tab := SheetTab{s.ID, s.Name, s.Paper, s.Across, string(s.Fitting), s.Background.Fill, string(s.Crossings), "",
			"",
			string(s.Edge), ""}
		if s.Colour != "" {
			tab.Colour = looks.Of(e.M).Line(s.Colour, "")
		}
		if s.Merging {
			tab.Merging = string(model.MergeAlways)
		}
		if s.Middle {
			tab.Middle = "middle"
		}
		st.Sheets = append(st.Sheets, tab)
	}
	st.Links, st.Stops, st.Files = e.Writing.Links(), outline.Stops(e.M),
		len(e.M.Attached())
	st.Way = outline.Way(e.M, e.Sheet(), e.Facts.Numbers)
	st.Undo, st.Redo = e.Doc.Next()
	st.Now = map[string]string{}
	for _, name := range slices.Concat(model.HeadingFields, model.HeadingTexts) {
		st.Now[name] = *e.M.Heading.Field(name)
	}
	st.On["heading"] = e.Sheet().Headed
	if pool, i := e.LaneSelected(); pool != nil {
		st.Now["part"] = pool.Lanes[i].Of
	}
	look := looks.Of(e.M)
	st.Units, st.Look, st.Colours, st.Search, st.Spoken = units.Name(e.M.Units), look.Name, e.M.Colours,
		e.Searching.Searched(), e.Selecting.Described()
	st.Palette = map[string]string{}
	for _, name := range model.Fills[1:] {
		st.Palette["light-"+name], st.Palette["dark-"+name] = look.Fill(name), look.Line(name, look.Ink)
	}
	st.Numbers = e.Numbering.Numbers()
	for _, k := range st.Numbers.Also {
		st.On["also-"+k] = true
	}
	st.Now["scheme"], st.Now["prefix"], st.Now["badge"] = string(st.Numbers.Scheme), st.Numbers.Prefix, st.Numbers.Badge
	st.Now["first"], st.Now["step"], st.Now["digits"] = strconv.Itoa(max(st.Numbers.First, 1)),
		strconv.Itoa(max(st.Numbers.Step, 1)), strconv.Itoa(max(st.Numbers.Digits, 1))
	st.On["held"] = e.M.Held.On()
	st.Trying, st.Owners = e.Trying, e.M.Owners()
	st.Faces, st.Cuts = e.Styling.Faces()
	st.Typefaces = e.Styling.Typefaces()
	st.Styles = e.styleTabs(look)
	if e.Proposed != nil {
		st.Proposal, st.Longer = e.Proposed.Words, e.Proposed.Longer
		if o := e.Proposed.Other; o != nil {
			st.Other = o.Words
		}
	}
	st.Posts, st.Parts, st.Shows = e.M.Posts(), e.M.Parts(), string(e.Sheet().Kind)
	if e.Charted() {
		e.describeChart(&st)
	}
	if e.OnJourney() {
		e.describeJourney(&st)
	}
	st.On["grid"], st.On["room"] = !e.Free, e.Armed
	if len(e.Sel) > 0 {
		e.describe(&st)
	}
	raw, err := json.Marshal(st)
	if err != nil {
		return "{}"
	}
	return string(raw)
}

// describe puts the values of the first thing selected into the bars.
func (e *View) describe(st *BarState) {
	s := e.Sheet()
	look := looks.Of(e.M)
	var t *model.Type
	if sym := s.Symbol(e.Sel[0]); sym != nil {
		t = &sym.Type
		st.On["emphasis"], st.On["dashed"], st.On["trunk"] = sym.Emphasis, sym.Dashed, sym.Trunk
		st.On["locked"], st.On["keeps"], st.On["uncounted"] = sym.Locked, sym.Look != "", sym.Uncounted
		st.Now["pinned"] = sym.Pinned
		look = looks.For(e.M, sym)
		b := e.Sheets.Frame()
		st.Now["x"], st.Now["y"], st.Now["w"], st.Now["h"] = units.Format(b.X, e.M.Units), units.Format(b.Y, e.M.Units),
			units.Format(sym.W, e.M.Units), units.Format(sym.H, e.M.Units)
		st.Now["outline"] = look.Line(sym.Ink, look.Ink)
		st.Now["style"], st.Now["owner"] = sym.Style, s.OwnerOf(sym)
		width := sym.Weight
		if width == 0 {
			width = look.Weight
		}
		st.Now["outlineWeight"] = units.Format(width, e.M.Units)
		st.Now["fill"] = look.Fill(sym.Fill)
		st.Now["colour"] = look.TextOf(sym)
	} else if c := s.Connector(e.Sel[0]); c != nil {
		t = &c.Type
		if from := e.Symbol(c.From.Symbol); from != nil {
			st.On["trunk"] = from.Trunk
		}
		st.On["exceptional"], st.On["bent"] = c.Dashed, len(c.Bends) > 0
		st.On["locked"] = c.Locked
		st.Now["style"] = c.Style
		st.Now["weight"], st.Now["ink"] = units.Format(scene.Weight(look, c), e.M.Units), scene.LineColour(look, c)
		st.Now["line"], st.Now["course"], st.Now["hop"], st.Now["radius"] = string(c.Line), string(c.Course),
			string(c.Hop), units.Format(c.Radius, e.M.Units)
		st.Now["merge"] = string(c.Merge)
		st.Now["fromMark"], st.Now["toMark"], st.Now["markSize"] = string(c.FromMark), string(c.ToMark),
			string(c.MarkSize)
		st.Now["colour"] = look.LabelOf(c)
	}
	if t != nil {
		st.On["bold"], st.On["italic"], st.On["underline"], st.On["bullets"] = t.Bold, t.Italic, t.Underline, t.Bullets
		st.Now["size"] = units.Points(typeset.HouseOf(e.M).StyleOf(look.Type(*t)).Size)
		st.Now["face"] = t.Face
		st.Now["align"], st.Now["stand"], st.Now["margin"] = t.Align, t.Stand, units.Format(t.Margin, e.M.Units)
	}
}

// styleTabs lists the saved styles.
func (e *View) styleTabs(look *looks.Look) []StyleTab {
	wears := map[string]int{}
	if len(e.M.Styles) > 0 {
		for _, s := range e.M.Sheets {
			for _, sym := range s.Symbols {
				wears[sym.Style]++
			}
			for _, c := range s.Connectors {
				wears[c.Style]++
			}
		}
	}
	out := []StyleTab{}
	for _, y := range e.M.Styles {
		fill := look.Fill(y.Fill)
		out = append(out, StyleTab{y.ID, y.Name, fill, look.Line(y.Ink, look.Ink),
			look.Line(y.Colour, look.Legible(fill)), wears[y.ID]})
	}
	return out
}

// describeChart puts how the cards stand into the bars: those under the selected one, or all of them.
func (e *View) describeChart(st *BarState) {
	c := e.Sheet().Chart
	st.On["aligned"], st.On["counted"], st.On["byLevel"], st.On["square"] = c.Aligned, c.Counted, c.ByLevel, c.Square
	st.On["numbered"] = c.Numbered
	below, last := c.Below, c.Last
	if card := e.OneCard(); card != nil {
		below, last = card.Seat.Below, card.Seat.Last
		st.On["assistant"] = card.Assistant
		st.On["vacant"], st.On["planned"] = card.Post == model.Vacant, card.Post == model.Planned
		st.Now["via"] = card.Via
	}
	st.On["stand-"+string(below)], st.On["last-"+string(last)] = true, true
	st.Now["levels"] = strings.Join(e.Sheet().Levels, "\n")
}

// describeJourney puts what a row and what stands in a cell are into the bars.
func (e *View) describeJourney(st *BarState) {
	if _, row := e.RowAt(); row != nil {
		st.On["row-"+string(row.Row)] = true
		if row.Row == model.SumRow {
			st.Now["sum"] = row.Field
			for i := range e.M.Fields {
				if f := &e.M.Fields[i]; f.Type.Counts() {
					st.Sums = append(st.Sums, SumTab{f.ID, f.Name})
				}
			}
		}
	}
	if cell := e.OneCell(); cell != nil && cell.Kind == model.ContactCell {
		st.On["sign-"+cell.Sign] = true
	}
}
