package editor

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"unicode/utf8"

	"plaintracer/core/diagram"
	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

// view is what the window shows at present.
type view struct {
	symbols    map[string]*shownSymbol
	connectors map[string]*shownConnector
	pools      map[string]*diagram.Pool
	order      [3][]string // ids in drawing order, by layer
	overlay    string
	ground     string
	state      string
	page       geometry.Box
	drawn      *looks.Look
	house      typeset.House
	buf        []byte
	inner      []byte
	over       []byte
	ids        []string
}

type shownSymbol struct {
	look  diagram.Symbol // with its place taken out
	at    geometry.Point
	extra scene.Extra
	drawn *looks.Look
}

type shownConnector struct {
	look      diagram.Connector
	points    geometry.Polyline
	labels    [3]geometry.Box
	hops      []routing.Hop
	crossings diagram.Crossing
	behind    diagram.Ground
	drawn     *looks.Look
	// shapes is of how many it consists.
	shapes int
	// at is by how much it is shown beside where it was drawn, during a drag.
	at geometry.Point
}

// shift moves a connector to a course that is the one it has, elsewhere; it
// reports false when that is another one.
func (c *shownConnector) shift(to *routing.Course) bool {
	if len(c.points) != len(to.Points) || len(c.points) == 0 || len(c.hops) != len(to.Hops) {
		return false
	}
	d := to.Points[0].Sub(c.points[0])
	for i, p := range c.points {
		if p.Add(d) != to.Points[i] {
			return false
		}
	}
	for i, h := range c.hops {
		if h.At = h.At.Add(d); h != to.Hops[i] {
			return false
		}
	}
	for i, l := range c.labels {
		if l.W > 0 {
			l = l.Moved(d)
		}
		if l != to.Labels[i] {
			return false
		}
	}
	c.points, c.hops, c.labels, c.at = append(c.points[:0], to.Points...), append(c.hops[:0], to.Hops...), to.Labels, c.at.Add(d)
	return true
}

// The layers of the drawing, from below.
var layers = [3]string{"pools", "connectors", "symbols"}

// Flush returns what has changed since the last call, as JSON:
//
//	patch: a list of ["all", page w, page h], ["add", layer, id, svg],
//	  ["ground", svg], ["to", id, x, y], ["set", id, svg], ["paths", id, path, ...], ["drop", id], ["order", layer, ids]
//	overlay: the SVG of selection, guides and handles, if it changed
//	state: everything around the drawing, if it changed
//	send: edits for the server
//	write, ask, say, offer, centre: requests to the script
//	task: what to have done by Work, beside the page; its answer goes to Worked
//	settle: courses are sketched, and nothing is in the hand: call Pause
//
// Lengths are in pixels of the sheet. The result is valid until the next call.
func (e *Editor) Flush() []byte {
	e.refresh()
	v := &e.view
	b := append(v.buf[:0], `{"patch":[`...)
	start := len(b)
	s := e.Sheet()
	page := s.Page()
	if e.stale.all {
		v.symbols, v.connectors, v.pools = map[string]*shownSymbol{}, map[string]*shownConnector{}, map[string]*diagram.Pool{}
		v.order = [3][]string{}
		v.overlay, v.ground = "-", ""
	}
	if e.stale.all || page != v.page {
		v.page = page
		name := `["page",`
		if e.stale.all {
			name = `["all",`
		}
		b = append(scene.AppendPx(append(scene.AppendPx(append(b, name...), page.W), ','), page.H), "],"...)
	}
	e.stale.all = false
	if house := typeset.HouseOf(e.m); house != v.house {
		v.forget()
		v.house = house
	}
	b = e.patchGround(b, s)
	b = e.patchPools(b, s)
	b = e.patchConnectors(b, s)
	b = e.patchSymbols(b, s)
	if len(b) > start && b[len(b)-1] == ',' {
		b = b[:len(b)-1]
	}
	b = append(b, ']')

	v.over = e.appendOverlay(v.over[:0])
	if string(v.over) != v.overlay {
		v.overlay = string(v.over)
		b = appendString(append(b, `,"overlay":`...), v.overlay)
	}
	if !e.still && (!e.doc.Showing() || e.proposed != nil) && e.g.mode == idle || v.state == "" {
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

// forget has everything drawn anew in its place.
func (v *view) forget() {
	v.drawn = nil
	for _, c := range v.connectors {
		c.drawn = nil
	}
	for _, sym := range v.symbols {
		sym.drawn = nil
	}
}

func (e *Editor) appendRequests(b []byte) []byte {
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
	if e.stale.drag && e.g.mode == idle {
		add("settle", true)
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

// patchGround draws what lies behind everything anew when it is another.
func (e *Editor) patchGround(b []byte, s *diagram.Sheet) []byte {
	v := &e.view
	key := s.Ground.Fill + " " + s.Ground.Picture + " " + looks.Of(e.m).Name + " " + s.Paper + " " + strconv.FormatBool(s.Across)
	if s.Ground == (diagram.Ground{}) {
		key = ""
	}
	if s.Headed {
		key += fmt.Sprintf("\x00%s %s %v %q %d %d", looks.Of(e.m).Name, s.Paper, s.Across, []string{e.m.Title, fmt.Sprint(e.m.Heading)}, slices.Index(e.m.Sheets, s), len(e.m.Sheets))
	}
	if key == v.ground {
		return b
	}
	v.ground = key
	n := scene.ViewOf(e.m, s).Ground()
	v.inner = n.AppendInner(v.inner[:0])
	return append(appendBytes(append(b, `["ground",`...), v.inner), "],"...)
}

func (e *Editor) patchPools(b []byte, s *diagram.Sheet) []byte {
	v := &e.view
	v.ids = v.ids[:0]
	seen := scene.ViewOf(e.m, s)
	turned := v.drawn != seen.Look
	v.drawn = seen.Look
	for _, p := range s.Pools {
		v.ids = append(v.ids, p.ID)
		old := v.pools[p.ID]
		if old != nil && !turned && old.Equal(p) {
			continue
		}
		copied := *p
		copied.Lanes, copied.Stages = slices.Clone(p.Lanes), slices.Clone(p.Stages)
		v.pools[p.ID] = &copied
		n := seen.Pool(p)
		b = e.appendNode(b, 0, &n, old == nil, old == nil || old.X != p.X || old.Y != p.Y)
	}
	return e.patchOrder(b, 0, func(id string) { delete(v.pools, id) })
}

func (e *Editor) patchConnectors(b []byte, s *diagram.Sheet) []byte {
	v := &e.view
	v.ids = v.ids[:0]
	seen := scene.ViewOf(e.m, s)
	for i, c := range s.Connectors {
		v.ids = append(v.ids, c.ID)
		course := &e.courses[i]
		old := v.connectors[c.ID]
		alike := old != nil && old.crossings == s.Crossings && old.behind == s.Ground && old.drawn == seen.Look && old.look.Equal(c)
		if alike && old.labels == course.Labels && slices.Equal(old.points, course.Points) && slices.Equal(old.hops, course.Hops) && (e.stale.drag || old.at == geometry.Point{}) {
			continue
		}
		if alike && e.stale.drag && old.shift(course) {
			b = appendTo(b, c.ID, old.at)
			continue
		}
		now := old
		if old == nil {
			now = &shownConnector{}
			v.connectors[c.ID] = now
		}
		labels := now.labels
		now.points, now.hops = append(now.points[:0], course.Points...), append(now.hops[:0], course.Hops...)
		now.look, now.labels, now.crossings, now.behind, now.drawn = *c, course.Labels, s.Crossings, s.Ground, seen.Look
		moved := now.at != geometry.Point{}
		now.at = geometry.Point{}
		n := seen.Connector(c, course)
		if bare := [3]geometry.Box{}; alike && labels == bare && course.Labels == bare && now.shapes == len(n.Shapes) {
			b = appendPaths(b, &n)
			if moved {
				b = appendTo(b, c.ID, now.at)
			}
			continue
		}
		now.shapes = len(n.Shapes)
		b = e.appendNode(b, 1, &n, old == nil, moved)
	}
	return e.patchOrder(b, 1, func(id string) { delete(v.connectors, id) })
}

func (e *Editor) patchSymbols(b []byte, s *diagram.Sheet) []byte {
	v := &e.view
	v.ids = v.ids[:0]
	seen := scene.ViewOf(e.m, s)
	around := scene.Around(s, e.courses)
	for _, sym := range s.Symbols {
		v.ids = append(v.ids, sym.ID)
		extra := e.facts.Of(s, sym)
		around.Complete(&extra, sym.ID)
		look := *sym
		look.X, look.Y = 0, 0
		old := v.symbols[sym.ID]
		if old != nil && old.look == look && old.extra == extra && old.drawn == looks.For(e.m, sym) {
			if old.at != sym.Corner() {
				old.at = sym.Corner()
				b = appendTo(b, sym.ID, old.at)
			}
			continue
		}
		v.symbols[sym.ID] = &shownSymbol{look: look, at: sym.Corner(), extra: extra, drawn: looks.For(e.m, sym)}
		n := seen.Symbol(sym, extra)
		b = e.appendNode(b, 2, &n, old == nil, old != nil && old.at != sym.Corner())
	}
	return e.patchOrder(b, 2, func(id string) { delete(v.symbols, id) })
}

func appendTo(b []byte, id string, at geometry.Point) []byte {
	b = append(append(append(b, `["to","`...), id...), `",`...)
	b = scene.AppendPx(append(scene.AppendPx(b, at.X), ','), at.Y)
	return append(b, "],"...)
}

// appendPaths writes the paths of a node in which nothing else has changed.
func appendPaths(b []byte, n *scene.Node) []byte {
	b = append(append(append(b, `["paths","`...), n.ID...), '"')
	for k := range n.Shapes {
		b = append(scene.AppendPath(append(b, `,"`...), n.Shapes[k].Path), '"')
	}
	return append(b, "],"...)
}

// appendNode writes a node that is new, or the inside of one that changed.
func (e *Editor) appendNode(b []byte, layer int, n *scene.Node, isNew, moved bool) []byte {
	v := &e.view
	if isNew {
		v.inner = n.AppendSVG(v.inner[:0])
		b = append(append(append(append(append(b, `["add","`...), layers[layer]...), `","`...), n.ID...), `",`...)
		b = append(appendBytes(b, v.inner), "],"...)
		v.order[layer] = append(v.order[layer], n.ID)
		return b
	}
	v.inner = n.AppendInner(v.inner[:0])
	b = append(append(append(b, `["set","`...), n.ID...), `",`...)
	b = append(appendBytes(b, v.inner), "],"...)
	if moved {
		b = appendTo(b, n.ID, n.At)
	}
	return b
}

// patchOrder drops what is gone from a layer and puts the rest in order. The
// wanted order is in view.ids.
func (e *Editor) patchOrder(b []byte, layer int, forget func(id string)) []byte {
	v := &e.view
	if slices.Equal(v.order[layer], v.ids) {
		return b
	}
	wanted := make(map[string]bool, len(v.ids))
	for _, id := range v.ids {
		wanted[id] = true
	}
	v.order[layer] = slices.DeleteFunc(v.order[layer], func(id string) bool {
		if wanted[id] {
			return false
		}
		b = append(append(append(b, `["drop","`...), id...), `"],`...)
		forget(id)
		return true
	})
	if !slices.Equal(v.order[layer], v.ids) {
		v.order[layer] = append(v.order[layer][:0], v.ids...)
		raw, _ := json.Marshal(v.ids)
		b = append(append(append(append(b, `["order","`...), layers[layer]...), `",`...), raw...)
		b = append(b, "],"...)
	}
	return b
}

func appendString(b []byte, s string) []byte { return appendBytes(b, []byte(s)) }

// appendBytes writes UTF-8 text as a JSON string.
func appendBytes(b, s []byte) []byte {
	b = append(b, '"')
	for i := 0; i < len(s); {
		c := s[i]
		switch {
		case c == '"' || c == '\\':
			b = append(b, '\\', c)
		case c == '\n':
			b = append(b, '\\', 'n')
		case c < 0x20:
			const hex = "0123456789abcdef"
			b = append(b, '\\', 'u', '0', '0', hex[c>>4], hex[c&15])
		case c < utf8.RuneSelf:
			b = append(b, c)
		default:
			_, n := utf8.DecodeRune(s[i:])
			b = append(b, s[i:i+n]...)
			i += n
			continue
		}
		i++
	}
	return append(b, '"')
}

// bars is what the bars around the drawing show.
type bars struct {
	Title     string     `json:"title"`
	Direction string     `json:"direction"`
	Answers   []string   `json:"answers"`
	Numbers   bool       `json:"numbers"`
	Sheet     string     `json:"sheet"`
	Sheets    []SheetTab `json:"sheets"`
	Selected  []string   `json:"selected"`
	Kind      string     `json:"kind"`
	What      string     `json:"what"`
	Hand      string     `json:"hand"`
	Undo      string     `json:"undo"`
	Redo      string     `json:"redo"`
	Findings  int        `json:"findings"`
	// Plain is how many connectors of the sheet are drawn plainly.
	Plain int               `json:"plain,omitempty"`
	Needs map[string]string `json:"needs"`
	On    map[string]bool   `json:"on"`
	// Now holds the values of what is selected, by the names commands give them.
	Now map[string]string `json:"now"`
	// Trace is the case under way; nil while drawing.
	Trace *Trace `json:"trace"`
	// Units is the name of the unit lengths are shown in, Look of the look.
	Units   string                `json:"units"`
	Look    string                `json:"look"`
	Styles  []StyleTab            `json:"styles"`
	Colours []diagram.HouseColour `json:"colours"`
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
	Edge      string `json:"edge"`
}

// State returns what the bars around the drawing show at present, as JSON.
func (e *Editor) State() []byte { return []byte(e.state()) }

func (e *Editor) state() string {
	st := bars{Title: e.m.Title, Direction: string(e.m.Direction), Answers: e.m.Answers, Numbers: e.m.Numbers, Sheet: e.sheetID,
		Selected: append([]string{}, e.sel...), Hand: string(e.hand), Findings: e.found, What: e.what(), Needs: map[string]string{}, On: map[string]bool{"number": e.m.Numbers}, Trace: e.trace()}
	st.Plain = routing.CountPlain(e.courses)
	for _, s := range e.m.Sheets {
		tab := SheetTab{s.ID, s.Name, s.Paper, s.Across, string(s.Fitting), s.Ground.Fill, string(s.Crossings), "", string(s.Edge)}
		if s.Merging {
			tab.Merging = string(diagram.MergeAlways)
		}
		st.Sheets = append(st.Sheets, tab)
	}
	st.Undo, st.Redo = e.doc.Next()
	st.Now = map[string]string{}
	for _, name := range diagram.HeadingFields {
		st.Now[name] = *e.m.Heading.Field(name)
	}
	st.On["heading"] = e.Sheet().Headed
	if pool, i := e.laneSelected(); pool != nil {
		st.Now["part"] = pool.Lanes[i].Of
	}
	look := looks.Of(e.m)
	st.Units, st.Look, st.Colours, st.Search, st.Spoken = unitName(e.m.Units), look.Name, e.m.Colours, e.searched(), e.Spoken()
	st.Palette = map[string]string{}
	for _, name := range diagram.Fills[1:] {
		st.Palette["light-"+name], st.Palette["dark-"+name] = look.Fill(name), look.Line(name, look.Ink)
	}
	st.Trying, st.Owners = e.trying, e.owners()
	st.Faces, st.Cuts = e.faces()
	st.Styles = e.styleTabs(look)
	if e.proposed != nil {
		st.Proposal, st.Longer = e.proposed.words, e.proposed.longer
		if o := e.proposed.other; o != nil {
			st.Other = o.words
		}
	}
	st.On["grid"], st.On["room"] = !e.free, e.armed
	if sym := e.one(); sym != nil {
		st.Kind = string(sym.Kind)
	}
	if len(e.sel) > 0 {
		e.describe(&st)
	}
	for name, c := range commands {
		if needs := c.lacks(e); needs != "" {
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
func (e *Editor) describe(st *bars) {
	s := e.Sheet()
	look := looks.Of(e.m)
	var t *diagram.Type
	if sym := s.Symbol(e.sel[0]); sym != nil {
		t = &sym.Type
		st.On["emphasis"], st.On["dashed"], st.On["trunk"] = sym.Emphasis, sym.Dashed, sym.Trunk
		st.On["locked"], st.On["keeps"] = sym.Locked, sym.Look != ""
		look = looks.For(e.m, sym)
		b := e.frame()
		st.Now["x"], st.Now["y"], st.Now["w"], st.Now["h"] = e.length(b.X), e.length(b.Y), e.length(sym.W), e.length(sym.H)
		st.Now["outline"] = look.Line(sym.Ink, look.Ink)
		st.Now["style"], st.Now["owner"] = sym.Style, s.OwnerOf(sym)
		width := sym.Weight
		if width == 0 {
			width = look.Weight
		}
		st.Now["outlineWeight"] = e.length(width)
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
		st.Now["weight"], st.Now["ink"] = e.length(scene.Weight(look, c)), scene.LineColour(look, c)
		st.Now["line"], st.Now["course"], st.Now["hop"], st.Now["radius"] = string(c.Line), string(c.Course), string(c.Hop), e.length(c.Radius)
		st.Now["merge"] = string(c.Merge)
		st.Now["fromMark"], st.Now["toMark"], st.Now["markSize"] = string(c.FromMark), string(c.ToMark), string(c.MarkSize)
		st.Now["colour"] = scene.LabelColour(look, c)
	}
	if t != nil {
		st.On["bold"], st.On["italic"], st.On["underline"], st.On["bullets"] = t.Bold, t.Italic, t.Underline, t.Bullets
		st.Now["size"] = points(typeset.HouseOf(e.m).StyleOf(look.Type(*t)).Size)
		st.Now["align"], st.Now["stand"], st.Now["margin"] = t.Align, t.Stand, e.length(t.Margin)
	}
}

// styleTabs lists the saved styles.
func (e *Editor) styleTabs(look *looks.Look) []StyleTab {
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

// what says in words what is selected.
func (e *Editor) what() string {
	switch n := len(e.sel); {
	case e.lane != "":
		return "lane"
	case n == 0:
		return ""
	case n > 1:
		return strconv.Itoa(n) + " items"
	case e.one() != nil:
		return string(e.one().Kind)
	case e.connector() != nil:
		return "connector"
	}
	return "pool"
}
