package editor

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

// What can be done to the line of a connector: bending it, giving its course
// back, moving its labels, putting a symbol into it and closing a gap.

// courseOf returns a connector of the sheet with its course; nil when it has none.
func (e *Window) courseOf(id string) (*model.Connector, *routing.Course) {
	e.refresh()
	i := slices.IndexFunc(e.Sheet().Connectors, func(c *model.Connector) bool { return c.ID == id })
	if i < 0 || i >= len(e.courses) || len(e.courses[i].Points) < 2 {
		return nil, nil
	}
	return e.Sheet().Connectors[i], &e.courses[i]
}

// lineAt returns the topmost connector whose line passes within a distance of
// p, other than the ones left out.
func (e *Window) lineAt(p geometry.Point, within int, but ...string) string {
	e.refresh()
	s := e.Sheet()
	best, found := within+1, ""
	for i := len(s.Connectors) - 1; i >= 0; i-- {
		if i >= len(e.courses) || slices.Contains(but, s.Connectors[i].ID) {
			continue
		}
		if d := e.courses[i].Points.Distance(p); d < best {
			best, found = d, s.Connectors[i].ID
		}
	}
	return found
}

// bend is a course under the hand: the stretch that is pulled, and the
// stretches laid by hand before and after it.
type bend struct {
	before, after []model.Bend
	upright       bool
	at            int // where the stretch lay
}

// bendOf takes hold of stretch k of a course.
func bendOf(c *model.Connector, course *routing.Course, k int) bend {
	pts := course.Points
	var b bend
	b.upright, b.at = lies(pts, k)
	if course.GivenBack {
		return b
	}
	// The held stretches stand in the order of the course: walk along it.
	next := 0
	for i := 0; i+1 < len(pts) && next < len(c.Bends); i++ {
		held := c.Bends[next]
		upright, at := lies(pts, i)
		if held.Upright != upright || held.At != at {
			continue
		}
		next++
		switch {
		case i < k:
			b.before = append(b.before, held)
		case i > k:
			b.after = append(b.after, held)
		}
	}
	return b
}

// lies returns whether stretch k of a course is upright, and its x or its y.
func lies(pts geometry.Polyline, k int) (upright bool, at int) {
	if pts[k].X == pts[k+1].X {
		return true, pts[k].X
	}
	return false, pts[k].Y
}

// laid returns the bends with the stretch at a new coordinate.
func (b *bend) laid(at int) []model.Bend {
	out := append(slices.Clone(b.before), model.Bend{Upright: b.upright, At: at})
	return append(out, b.after...)
}

// layBends bends a connector for good, unless there is no way along there.
func (e *Window) layBends(edit *edit.SetBends) {
	e.try(edit)
	_, course := e.courseOf(edit.ID)
	given := course == nil || course.GivenBack
	e.drop()
	if given {
		e.say("There is no free way for the connector there.")
		return
	}
	e.do(edit)
}

// nudgeStretch moves a stretch of the selected connector by an arrow key: the
// longest one that lies across the direction of the key.
func (e *Lines) nudgeStretch(d geometry.Point) bool {
	c := e.connector()
	if c == nil || c.Course == model.Straight {
		return false
	}
	_, course := e.courseOf(c.ID)
	if course == nil {
		return false
	}
	pts, upright := course.Points, d.X != 0
	best, long := -1, 0
	for k := 0; k+1 < len(pts); k++ {
		n := pts[k].Manhattan(pts[k+1])
		if k > 0 && k+2 < len(pts) {
			n *= 4 // an inner stretch rather than one at an end
		}
		if (pts[k].X == pts[k+1].X) == upright && n > long {
			best, long = k, n
		}
	}
	if best < 0 {
		e.say("No part of this connector can move in that direction.")
		return true
	}
	b := bendOf(c, course, best)
	e.layBends(&edit.SetBends{Sheet: e.sheetID, ID: c.ID, Bends: b.laid(b.at + d.X + d.Y)})
	return true
}

// giveBack returns the edits that give courses back to the router whose bends
// can no longer be kept with an edit made. The edit is tried and unmade.
func (e *Window) giveBack(change edit.Edit) []edit.Edit {
	s := e.Sheet()
	if !slices.ContainsFunc(s.Connectors, func(c *model.Connector) bool { return len(c.Bends) > 0 }) {
		return nil
	}
	before := map[string]bool{}
	e.refresh()
	for i, c := range s.Connectors {
		before[c.ID] = i < len(e.courses) && e.courses[i].GivenBack
	}
	e.try(change)
	if !e.doc.Showing() {
		return nil
	}
	var out []edit.Edit
	e.stale.exact = true
	e.refresh()
	for i, c := range s.Connectors {
		if len(c.Bends) > 0 && e.courses[i].GivenBack && !before[c.ID] {
			out = append(out, &edit.SetBends{Sheet: s.ID, ID: c.ID})
		}
	}
	e.drop()
	return out
}

// doMoving makes an edit that moves symbols, together with giving back the
// courses that cannot be kept.
func (e *Window) doMoving(change edit.Edit) bool {
	back := e.giveBack(change)
	if len(back) == 0 {
		return e.do(change)
	}
	ok := e.do(edit.Together(edit.Words(e.m, change), append([]edit.Edit{change}, back...)...))
	if ok {
		e.say("A bend you made by hand could not be kept. Undo brings it back.")
	}
	return ok
}

// labelHit returns the connector and the label under p.
func (e *Window) labelHit(p geometry.Point) (id, at string, ok bool) {
	s := e.Sheet()
	for i := len(s.Connectors) - 1; i >= 0; i-- {
		if i >= len(e.courses) {
			continue
		}
		for k, b := range e.courses[i].Labels {
			if b.W > 0 && b.Contains(p) {
				return s.Connectors[i].ID, model.LabelNames[k], true
			}
		}
	}
	return "", "", false
}

// spotAt returns the place by hand that puts the middle of a label at p.
func spotAt(line geometry.Polyline, p geometry.Point) model.Spot {
	on, along, _ := line.Nearest(p)
	spot := model.Spot{Along: along * 10000 / max(line.Length(), 1), Off: p.Sub(on)}
	// The point that the share of the length stands for differs a little.
	spot.Off = spot.Off.Add(on.Sub(line.Along(line.Length() * spot.Along / 10000)))
	if spot == (model.Spot{}) {
		spot.Along = 1 // the very beginning is a place, too
	}
	return spot
}

func (e *Window) labelBox(c *model.Connector, course *routing.Course, at string) (geometry.Box, bool) {
	k := slices.Index(model.LabelNames[:], at)
	if k < 0 || course.Labels[k].W == 0 {
		return geometry.Box{}, false
	}
	return course.Labels[k], true
}

// nudgeLabel moves the label of the selected connector by a key.
func (e *Lines) nudgeLabel(d geometry.Point) bool {
	c := e.connector()
	if c == nil {
		return false
	}
	_, course := e.courseOf(c.ID)
	for _, at := range model.LabelNames {
		if b, ok := e.labelBox(c, course, at); ok {
			return e.do(&edit.SetPlace{Sheet: e.sheetID, ID: c.ID, At: at, Place: spotAt(course.Points, b.Centre().Add(d))})
		}
	}
	e.say("This connector has no label yet. Type one.")
	return true
}

// fitsBetween reports whether a symbol may be put into a connector: it takes
// part in the flow, and no connector holds it yet.
func (e *Lines) fitsBetween(sym *model.Symbol) bool {
	return !sym.Kind.IsAside() && !sym.Kind.IsReference() && !slices.ContainsFunc(e.Sheet().Connectors, func(c *model.Connector) bool {
		return c.From.Symbol == sym.ID || c.To.Symbol == sym.ID
	})
}

// lineUnder returns the connector into which a symbol with that box would be
// dropped, and the box set on its line.
func (e *Lines) lineUnder(b geometry.Box) (string, geometry.Box) {
	id := e.lineAt(b.Centre(), e.screen(10))
	c, course := e.courseOf(id)
	if c == nil || c.Course == model.Straight {
		return id, b
	}
	on, _, _ := course.Points.Nearest(b.Centre())
	return id, geometry.Around(on, b.W, b.H)
}

// lineFor returns the connector into which a new symbol of a kind would come,
// and the symbol's box set on its line.
func (e *Lines) lineFor(kind model.Kind, b geometry.Box, mods int) (string, geometry.Box) {
	if mods&Alt != 0 || kind.IsAside() || kind.IsReference() {
		return "", b
	}
	return e.lineUnder(b)
}

// roomIn returns where a symbol put into a straight connector lies, and the
// edits that open as much space for it as is lacking: what stands beyond it
// moves on, and lanes that are cut grow.
func (e *Lines) roomIn(c *model.Connector, box geometry.Box) (geometry.Box, []edit.Edit) {
	s := e.Sheet()
	from, to := s.Symbol(c.From.Symbol), s.Symbol(c.To.Symbol)
	_, course := e.courseOf(c.ID)
	if from == nil || to == nil || course == nil || len(course.Points) != 2 {
		return box, nil
	}
	upright := course.Points[0].X == course.Points[1].X
	near, far := from.Box, to.Box
	begin := func(b geometry.Box) int { return b.X }
	size := box.W
	if upright {
		begin = func(b geometry.Box) int { return b.Y }
		size = box.H
	}
	if begin(far) < begin(near) {
		near, far = far, near
	}
	end := near.Right()
	if upright {
		end = near.Bottom()
	}
	place := func(at int) geometry.Box {
		if upright {
			return box.At(geometry.Point{X: box.X, Y: at})
		}
		return box.At(geometry.Point{X: at, Y: box.Y})
	}
	lack := size + 2*compose.Between - (begin(far) - end)
	if lack <= 0 {
		return place(geometry.Clamp(begin(box), end+compose.Between, begin(far)-compose.Between-size)), nil
	}
	lack = geometry.Snap(lack+arrange.Grid/2-1, arrange.Grid)
	move := &edit.OpenSpace{Sheet: s.ID, Down: upright, At: begin(far), By: lack}
	return place(end + compose.Between), []edit.Edit{move}
}

// insertBetween puts a symbol into the selected connector: the selected one,
// or a new process when there is none.
func (e *Lines) insertBetween() {
	s := e.Sheet()
	var c *model.Connector
	var sym *model.Symbol
	for _, id := range e.sel {
		if k := s.Connector(id); k != nil {
			c = k
		} else if k := s.Symbol(id); k != nil {
			sym = k
		}
	}
	if c == nil || len(e.sel) > 2 || len(e.sel) == 2 && sym == nil {
		e.say("Select a connector, and with it the symbol to put in between if there is one already.")
		return
	}
	_, course := e.courseOf(c.ID)
	mid := course.Points.Along(course.Points.Length() / 2)
	if sym != nil {
		if !e.fitsBetween(sym) {
			e.say("Only a symbol without connectors can be put in between.")
			return
		}
		e.putBetween(c, geometry.Around(mid, sym.W, sym.H), sym.ID, nil)
		return
	}
	e.insertAfter(c, model.Process)
}

// insertAfter puts a new step into a connector, open for writing.
func (e *Lines) insertAfter(c *model.Connector, kind model.Kind) {
	_, course := e.courseOf(c.ID)
	if course == nil {
		return
	}
	mid := course.Points.Along(course.Points.Length() / 2)
	step := e.newSymbol(kind, arrange.Standard(e.Sheet(), kind, mid))
	add := &edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{step}}
	done := false
	if from := e.symbol(c.From.Symbol); len(course.Points) > 2 && from != nil { // no straight line to stand on
		box, room := arrange.Append(e.m, e.Sheet(), from, kind)
		add.Symbols[0].Box = box
		done = e.do(edit.Together("put in between", append(append(room, add), e.work().IntoLine(c, step.ID)...)...))
	} else {
		done = e.putBetween(c, step.Box, step.ID, add)
	}
	if done {
		e.sel, e.lane, e.centre = []string{step.ID}, "", step.ID
		e.Writing.writeNew(step.ID)
	}
}

// putBetween puts a symbol into a connector at a box, after adding it if it is
// new.
func (e *Lines) putBetween(c *model.Connector, box geometry.Box, symbol string, add *edit.AddItems) bool {
	box, edits := e.roomIn(c, box)
	if add != nil {
		add.Symbols[0].Box = box
		edits = append(edits, add)
	} else {
		edits = append(edits, &edit.PlaceItems{Sheet: e.sheetID, Boxes: []edit.Place{{ID: symbol, Box: box}}})
	}
	return e.do(edit.Together("put in between", append(edits, e.work().IntoLine(c, symbol)...)...))
}

// removeClosing deletes the selected step and closes the gap it leaves.
func (e *Lines) removeClosing() {
	sym := e.one()
	edits := e.work().GapEdits(sym.ID)
	if len(edits) == 0 {
		e.say("To close the gap, the step needs exactly one connector in and one out.")
		return
	}
	edits = append(edits, &edit.RemoveItems{Sheet: e.sheetID, IDs: []string{sym.ID}})
	e.do(edit.Together("delete and close the gap", edits...))
}

// closeGap closes the gap that the deletion made just now has left: it is
// taken back and made again, closing the gap.
func (e *Lines) closeGap() {
	if e.gap == "" {
		e.say("There is no gap to close.")
		return
	}
	id := e.gap
	e.gap = ""
	e.Undo()
	if e.symbol(id) == nil {
		return
	}
	e.sel, e.lane = []string{id}, ""
	e.removeClosing()
}

// link is a connector being led by keys: from the selected symbol, or one end
// of the selected connector, to a target that arrows choose.
type link struct {
	on     bool
	from   string // the symbol it begins at
	id     string // the connector whose end is led; empty for a new one
	isFrom bool
	target string
	side   string // the side chosen for the end: where a new connector leaves, where a led end meets its symbol
	typed  string // the number typed so far
}

// ends returns both ends as they are led now.
func (l link) ends() (from, to model.End) {
	if l.id == "" {
		return model.End{Symbol: l.from, Side: l.side}, model.End{Symbol: l.target}
	}
	led, other := model.End{Symbol: l.target, Side: l.side}, model.End{Symbol: l.from}
	if l.isFrom {
		return led, other
	}
	return other, led
}

// lead begins to lead a connector by keys.
func (e *Lines) lead(isFrom bool) {
	e.cancel()
	if sym := e.one(); sym != nil {
		e.beginLink(link{on: true, from: sym.ID})
		return
	}
	if c := e.connector(); c != nil {
		l := link{on: true, from: c.From.Symbol, id: c.ID, isFrom: isFrom, target: c.To.Symbol}
		if isFrom {
			l.from, l.target = c.To.Symbol, c.From.Symbol
		}
		e.beginLink(l)
		return
	}
	e.say("Select the symbol to connect from, or a connector to lead elsewhere.")
}

func (e *Lines) beginLink(l link) {
	e.link = l
	if l.target == "" {
		e.steer(geometry.Point{X: 1})
	}
	if e.link.target == "" {
		e.steer(geometry.Point{Y: 1})
	}
	side := "leaves by"
	if l.id != "" {
		side = "arrives at"
	}
	e.say("Arrows or its number choose the symbol, Shift and an arrow the side the line %s, Enter connects, Esc leaves it.", side)
}

// steer moves the target to the nearest symbol in a direction.
func (e *Lines) steer(d geometry.Point) {
	at := e.symbol(e.link.target)
	if at == nil {
		at = e.symbol(e.link.from)
	}
	var p geometry.Point
	if at != nil {
		p = at.Centre()
	}
	best := int(^uint(0) >> 1)
	for _, sym := range e.Sheet().Symbols {
		v := sym.Centre().Sub(p)
		ahead, aside := v.X*d.X+v.Y*d.Y, geometry.Abs(v.X*d.Y)+geometry.Abs(v.Y*d.X)
		if ahead <= 0 || sym.ID == e.link.from || sym == at {
			continue
		}
		if far := ahead + 2*aside; far < best {
			best, e.link.target = far, sym.ID
			e.centre = sym.ID
		}
	}
}

// aim chooses the target by the number of its step, digit by digit.
func (e *Lines) aim(digit string) {
	find := func(number string) string {
		for _, sym := range e.Sheet().Symbols {
			if n := e.facts.Numbers[sym.ID]; n != "" && strings.EqualFold(n, number) && sym.ID != e.link.from {
				return sym.ID
			}
		}
		return ""
	}
	e.link.typed += digit
	id := find(e.link.typed)
	if id == "" && find(digit) != "" { // it begins a new number
		e.link.typed, id = digit, find(digit)
	}
	if id == "" {
		e.say("No step on this sheet has the number %s.", e.link.typed)
		return
	}
	e.link.target, e.centre = id, id
}

// arrows says to which side the arrow keys point.
var arrows = map[string]geometry.Side{
	"ArrowUp": geometry.Top, "ArrowRight": geometry.Right, "ArrowDown": geometry.Bottom, "ArrowLeft": geometry.Left,
}

// linkKey handles a key while a connector is led.
func (e *Lines) linkKey(key string, mods int) bool {
	l := e.link
	if side, ok := arrows[key]; ok {
		if mods&Shift == 0 {
			e.steer(side.Step())
			return true
		}
		if e.link.side = side.String(); l.side == e.link.side { // once more leaves the side open again
			e.link.side = ""
		}
		return true
	}
	switch key {
	case "Escape":
		e.link, e.hush = link{}, true
	case "0", "1", "2", "3", "4", "5", "6", "7", "8", "9":
		e.aim(key)
	case "Enter":
		e.link, e.hush = link{}, true
		if e.symbol(l.target) == nil {
			return true
		}
		from, to := l.ends()
		switch {
		case l.id == "":
			c := e.newConnector(from, to)
			if e.connectInto(&edit.AddItems{Sheet: e.sheetID, Connectors: []model.Connector{c}}) {
				e.sel, e.lane = []string{c.ID}, ""
				e.Writing.askAnswer(c.ID)
			}
		case l.isFrom:
			e.connectInto(&edit.SetEnds{Sheet: e.sheetID, ID: l.id, From: &from})
		default:
			e.connectInto(&edit.SetEnds{Sheet: e.sheetID, ID: l.id, To: &to})
		}
	default:
		return false
	}
	return true
}

// newConnector returns a connector under a new id. To and from a remark it is a
// broken line without an arrow (ISO 5807, annotation).
func (e *Lines) newConnector(from, to model.End) model.Connector {
	return e.newConnectorAs(e.newID(), from, to)
}

// newConnectorAs is newConnector under an id that is known already. It has the
// style connectors were given last.
func (e *Lines) newConnectorAs(id string, from, to model.End) model.Connector {
	c := model.Connector{ID: id, From: from, To: to, Text: e.work().NextAnswer(from.Symbol)}
	e.last.giveTo(&c)
	e.asAside(&c)
	return c
}

func (e *Lines) asAside(c *model.Connector) {
	for _, end := range [...]model.End{c.From, c.To} {
		if sym := e.symbol(end.Symbol); sym != nil && sym.Kind.IsAside() {
			c.Text, c.Line, c.ToMark = "", model.DashLine, model.MarkNone
		}
	}
}
