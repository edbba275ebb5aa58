package desk

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// maxPaste is the number of lines of plain text that become steps at once.
const maxPaste = 300

// gather returns the selected symbols, the connectors among them, and those
// selected connectors whose ends are among them or loose.
func (e *Clipboard) gather() compose.Clip {
	c := compose.Clip{Format: compose.ClipFormat}
	in := map[string]bool{}
	for _, id := range e.Sel {
		in[id] = true
	}
	s := e.Sheet()
	for _, p := range s.Pools { // with all that stands in them
		if !in[p.ID] {
			continue
		}
		pool := *p
		pool.Lanes = slices.Clone(p.Lanes)
		for i := range pool.Lanes {
			c.Bring(e.M, pool.Lanes[i].Links)
		}
		c.Pools = append(c.Pools, pool)
		for _, sym := range s.Symbols {
			at, _ := s.LaneAt(sym.Centre())
			if s.IsCell(sym) {
				at, _ = s.RowOf(sym.Row)
			}
			if at == p {
				in[sym.ID] = true
			}
		}
	}
	for _, sym := range s.Symbols { // in drawing order
		if !in[sym.ID] {
			continue
		}
		c.Symbols = append(c.Symbols, *sym)
		last := &c.Symbols[len(c.Symbols)-1]
		last.Locked = false
		last.Group = strings.TrimPrefix(strings.TrimPrefix(last.Group, e.Inside), "/")
		c.Keep(e.M, sym.Picture)
		c.Bring(e.M, sym.Links)
		if pool, i := s.LaneAt(sym.Centre()); pool != nil && !in[pool.ID] && !sym.Kind.StandsAnywhere() &&
			!s.IsCell(sym) {
			if c.Lanes == nil {
				c.Lanes = map[string]string{}
			}
			c.Lanes[sym.ID] = pool.Lanes[i].Name
		}
	}
	comes := map[string]bool{}
	taken := func(end model.End, own bool) bool {
		return in[end.Symbol] && end.Symbol != "" || end.Connector != "" && comes[end.Connector] || own && end.Loose()
	}
	for again := true; again; { // those that join others come after them
		again = false
		for _, con := range s.Connectors {
			if !comes[con.ID] && taken(con.From, in[con.ID]) && taken(con.To, in[con.ID]) {
				comes[con.ID], again = true, true
			}
		}
	}
	for _, con := range s.Connectors {
		if comes[con.ID] {
			c.Connectors = append(c.Connectors, *con)
			c.Bring(e.M, con.Links)
			c.Connectors[len(c.Connectors)-1].Locked = false
		}
	}
	return c
}

// Copy returns the selection for the clipboard: as data, and as plain text
// with one step a line. Both are empty when no symbol is selected.
func (e *Clipboard) Copy() (data, text string) {
	c := e.gather()
	if len(c.Symbols) == 0 && len(c.Pools) == 0 {
		return "", ""
	}
	raw, err := json.Marshal(c)
	if err != nil {
		return "", ""
	}
	var lines []string
	for _, sym := range c.Symbols {
		lines = append(lines, strings.ReplaceAll(sym.Text, "\n", " "))
	}
	return string(raw), strings.Join(lines, "\n")
}

// Paste sets down what Copy returned, here or in another window, where it was;
// so much further along where the same stands there already that nothing lies
// hidden.
func (e *Clipboard) Paste(data string) {
	e.Refusals(func() {
		switch c, ok := e.clip(data); {
		case ok && c.Sheet != nil:
			e.Sheets.pasteSheet(c)
		case ok:
			e.setDown(c, e.beside(c), "paste")
		}
	})
}

// PasteHere sets down what Copy returned around the pointer.
func (e *Clipboard) PasteHere(data string) {
	c, ok := e.clip(data)
	if !ok {
		return
	}
	if c.Sheet != nil {
		e.Sheets.pasteSheet(c)
		return
	}
	var b geometry.Box
	for _, sym := range c.Symbols {
		b = b.Union(sym.Box)
	}
	for i := range c.Pools {
		b = b.Union(c.Pools[i].Box())
	}
	d := e.At.Sub(b.Centre())
	e.setDown(c, geometry.Point{X: geometry.Snap(d.X, arrange.Grid), Y: geometry.Snap(d.Y, arrange.Grid)}, "paste")
}

func (e *Clipboard) clip(data string) (compose.Clip, bool) {
	var c compose.Clip
	if err := json.Unmarshal([]byte(data), &c); err != nil || c.Format != compose.ClipFormat ||
		c.Sheet != nil && c.Sheet.Gaps() {
		e.Say("The clipboard holds nothing that can be pasted here.")
		return c, false
	}
	return c, true
}

// beside returns how far a clip has to be moved to lie on nothing that is there, each step in a
// lane that is called like its own or in none: not at all, or a gap to the right or down; else
// the nearest free place on the paper; else below everything.
func (e *Clipboard) beside(c compose.Clip) geometry.Point {
	s := e.Sheet()
	var all geometry.Box
	for i := range c.Symbols {
		all = all.Union(c.Symbols[i].Box)
	}
	for i := range c.Pools {
		all = all.Union(c.Pools[i].Box())
	}
	right, down := geometry.Snap(all.W+arrange.Gap, arrange.Grid), geometry.Snap(all.H+arrange.Gap, arrange.Grid)
	for _, d := range [...]geometry.Point{{}, {X: right}, {Y: down}, {X: right, Y: down}, {X: 2 * right},
		{Y: 2 * down}} {
		if s.Page().Holds(all.Moved(d)) && e.clear(c, all, d) {
			return d
		}
	}
	var places []geometry.Point
	area, step := s.Area(), 2*arrange.Grid
	for y := geometry.Snap(area.Y+step-1, step); y+all.H <= area.Bottom(); y += step {
		for x := geometry.Snap(area.X+step-1, step); x+all.W <= area.Right(); x += step {
			places = append(places, geometry.Point{X: x - all.X, Y: y - all.Y})
		}
	}
	slices.SortStableFunc(places, func(a, b geometry.Point) int {
		return cmp.Compare(a.Manhattan(geometry.Point{}), b.Manhattan(geometry.Point{}))
	})
	for _, d := range places {
		if e.clear(c, all, d) {
			return d
		}
	}
	under := s.Drawn()
	return geometry.Point{X: under.X - all.X,
		Y: geometry.Snap(under.Bottom()+arrange.Gap+arrange.Grid-1, arrange.Grid) - all.Y}
}

// manyPairs is how many pairs of symbols are looked at, at the most, to find a clear place; where
// there are more, the whole of a clip has to lie on nothing.
const manyPairs = 5_000

// clear reports whether a clip, moved by d, lies on nothing and in no lane but its own. The whole
// of it is given as a box, too.
func (e *Clipboard) clear(c compose.Clip, all geometry.Box, d geometry.Point) bool {
	s := e.Sheet()
	boxes := []geometry.Box{all.Moved(d)}
	if len(c.Pools) == 0 && len(c.Symbols)*len(s.Symbols) <= manyPairs {
		boxes = boxes[:0]
		for _, sym := range c.Symbols {
			boxes = append(boxes, sym.Moved(d))
		}
	}
	for _, b := range boxes {
		if slices.ContainsFunc(s.Symbols,
			func(o *model.Symbol) bool { return o.Meets(b) && !symbols.Of(o.Kind).Hollow }) ||
			len(c.Pools) > 0 && slices.ContainsFunc(s.Pools, func(p *model.Pool) bool { return p.Box().Meets(b) }) {
			return false
		}
	}
	return len(s.Pools) == 0 || len(c.Pools) > 0 || !slices.ContainsFunc(c.Symbols, func(sym model.Symbol) bool {
		sym.Box = sym.Moved(d)
		lane := s.LaneOf(&sym)
		return lane != nil && c.Lanes[sym.ID] != lane.Name && (c.Lanes[sym.ID] != "" || sym.Owner != "")
	})
}

// PasteText makes steps of plain text, one a line, joined one to the next and
// set out in rows or columns on the page: after the selected step, or from the
// pointer on.
func (e *Clipboard) PasteText(text string) {
	if e.OnJourney() && len(e.Tracing) == 0 && len(e.Sel) <= 1 {
		e.Journeys.Paste(text)
		return
	}
	if pool, _ := e.LaneSelected(); pool != nil && len(e.Tracing) == 0 { // roles
		e.Lanes.LanesFromList(text)
		return
	}
	if e.Writing.pastedLink(text) {
		return
	}
	if e.Charted() && (e.OneCard() != nil || len(e.Sheet().Tree().Order()) == 0) {
		e.Cards.Paste(text)
		return
	}
	s := e.Sheet()
	add := &edit.AddItems{Sheet: s.ID, As: "paste text"}
	var edits []edit.Edit
	for _, line := range strings.Split(text, "\n") {
		if line = compose.Unlisted(strings.Join(strings.Fields(line), " ")); line == "" {
			continue
		}
		if len(add.Symbols) == maxPaste {
			e.Say("Pasted the first %d lines. More at once would fill the sheet.", maxPaste)
			break
		}
		kind := compose.KindOf(model.Process, line)
		sym := e.NewSymbol(kind, arrange.Standard(s, kind, geometry.Point{}))
		sym.Text = line
		add.Symbols = append(add.Symbols, sym)
	}
	if len(add.Symbols) == 0 {
		return
	}
	edits = append(edits, arrange.Largest(e.M, s, add.Symbols)...)
	from := e.One()
	if from != nil && (from.Kind.IsAside() || len(e.Flow().Onward(from.ID)) > 0) {
		from = nil
	}
	arrange.SetOut(e.M, s, add.Symbols, from, e.At)
	last := model.End{}
	if from != nil {
		last.Symbol = from.ID
	}
	for _, sym := range add.Symbols {
		if last.Symbol != "" {
			add.Connectors = append(add.Connectors, e.chained(last, sym.ID, add.Symbols))
		}
		last.Symbol = sym.ID
	}
	if e.Do(edit.Together("paste text", append(edits, add)...)) {
		e.Sel, e.Lane = nil, ""
		for _, sym := range add.Symbols {
			e.Sel = append(e.Sel, sym.ID)
		}
		e.Centre = e.Sel[0]
	}
}

// chained returns the connector from one pasted step to the next; the exit of a
// decision takes the first answer.
func (e *Clipboard) chained(from model.End, to string, list []model.Symbol) model.Connector {
	c := e.Lines.newConnector(from, model.End{Symbol: to})
	if slices.ContainsFunc(list, func(sym model.Symbol) bool { return sym.ID == from.Symbol && sym.Kind.Asks() }) {
		c.Text = e.M.Answers[0]
	}
	return c
}

// CopyBy sets a copy of the selection down at a distance.
func (e *Clipboard) CopyBy(d geometry.Point) {
	if c := e.gather(); len(c.Symbols)+len(c.Pools) > 0 && d != (geometry.Point{}) {
		e.setDown(c, d, "copy")
	}
}

// setDown adds copies of what is on a clip, moved by d, and selects them.
func (e *Clipboard) setDown(c compose.Clip, d geometry.Point, as string) {
	edit, ids := e.Work().SetDown(c, d, e.Inside, as)
	if edit != nil && e.Do(edit) {
		e.Sel, e.Lane = ids, ""
		e.Sight = ids
	}
}
