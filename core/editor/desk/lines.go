package desk

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/outline"
	"plaintracer/core/routing"
)

// What can be done to the line of a connector: bending it, giving its course
// back, moving its labels, putting a symbol into it and closing a gap.

// CourseOf returns a connector of the sheet with its course; nil when it has none.
func (e *Window) CourseOf(id string) (*model.Connector, *routing.Course) {
	e.Refresh()
	i := slices.IndexFunc(e.Sheet().Connectors, func(c *model.Connector) bool { return c.ID == id })
	if i < 0 || i >= len(e.Routed) || len(e.Routed[i].Points) < 2 {
		return nil, nil
	}
	return e.Sheet().Connectors[i], &e.Routed[i]
}

// LineAt returns the topmost connector whose line passes within a distance of
// p, other than the ones left out.
func (e *Window) LineAt(p geometry.Point, within int, but ...string) string {
	e.Refresh()
	s := e.Sheet()
	best, found := within+1, ""
	for i := len(s.Connectors) - 1; i >= 0; i-- {
		if i >= len(e.Routed) || slices.Contains(but, s.Connectors[i].ID) {
			continue
		}
		if d := e.Routed[i].Points.Distance(p); d < best {
			best, found = d, s.Connectors[i].ID
		}
	}
	return found
}

// Bend is a course under the hand: the stretch that is pulled, and the
// stretches laid by hand before and after it.
type Bend struct {
	before, after []model.Bend
	Upright       bool
	At            int // where the stretch lay
}

// BendOf takes hold of stretch k of a course.
func BendOf(c *model.Connector, course *routing.Course, k int) Bend {
	pts := course.Points
	var b Bend
	b.Upright, b.At = lies(pts, k)
	if course.BendsDropped {
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

// Laid returns the bends with the stretch at a new coordinate.
func (b *Bend) Laid(at int) []model.Bend {
	out := append(slices.Clone(b.before), model.Bend{Upright: b.Upright, At: at})
	return append(out, b.after...)
}

// LayBends bends a connector for good, unless there is no way along there.
func (e *Window) LayBends(edit *edit.SetBends) {
	e.Try(edit)
	_, course := e.CourseOf(edit.ID)
	given := course == nil || course.BendsDropped
	e.Drop()
	if given {
		e.Say("There is no free way for the connector there.")
		return
	}
	e.Do(edit)
}

// NudgeStretch moves a stretch of the selected connector by an arrow key: the
// longest one that lies across the direction of the key.
func (e *Lines) NudgeStretch(d geometry.Point) bool {
	c := e.Connector()
	if c == nil || c.Course == model.Straight {
		return false
	}
	_, course := e.CourseOf(c.ID)
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
		e.Say("No part of this connector can move in that direction.")
		return true
	}
	b := BendOf(c, course, best)
	e.LayBends(&edit.SetBends{Sheet: e.SheetID, ID: c.ID, Bends: b.Laid(b.At + d.X + d.Y)})
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
	e.Refresh()
	for i, c := range s.Connectors {
		before[c.ID] = i < len(e.Routed) && e.Routed[i].BendsDropped
	}
	e.Try(change)
	if !e.Doc.Showing() {
		return nil
	}
	var out []edit.Edit
	e.Stale.exact = true
	e.Refresh()
	for i, c := range s.Connectors {
		if len(c.Bends) > 0 && e.Routed[i].BendsDropped && !before[c.ID] {
			out = append(out, &edit.SetBends{Sheet: s.ID, ID: c.ID})
		}
	}
	e.Drop()
	return out
}

// DoMoving makes an edit that moves symbols, together with giving back the
// courses that cannot be kept.
func (e *Window) DoMoving(change edit.Edit) bool {
	back := e.giveBack(change)
	if len(back) == 0 {
		return e.Do(change)
	}
	ok := e.Do(edit.Together(edit.Words(e.M, change), append([]edit.Edit{change}, back...)...))
	if ok {
		e.Say("A bend you made by hand could not be kept. Undo brings it back.")
	}
	return ok
}

// labelHit returns the connector and the label under p.
func (e *Window) labelHit(p geometry.Point) (id, at string, ok bool) {
	s := e.Sheet()
	for i := len(s.Connectors) - 1; i >= 0; i-- {
		if i >= len(e.Routed) {
			continue
		}
		for k, b := range e.Routed[i].Labels {
			if b.W > 0 && b.Contains(p) {
				return s.Connectors[i].ID, model.LabelNames[k], true
			}
		}
	}
	return "", "", false
}

// SpotAt returns the place by hand that puts the middle of a label at p.
func SpotAt(line geometry.Polyline, p geometry.Point) model.Spot {
	on, along, _ := line.Nearest(p)
	spot := model.Spot{Along: along * 10000 / max(line.Length(), 1), Off: p.Sub(on)}
	// The point that the share of the length stands for differs a little.
	spot.Off = spot.Off.Add(on.Sub(line.Along(line.Length() * spot.Along / 10000)))
	if spot == (model.Spot{}) {
		spot.Along = 1 // the very beginning is a place, too
	}
	return spot
}

// LabelBox returns the box of a label of a connector, and whether there is one.
func (e *Window) LabelBox(c *model.Connector, course *routing.Course, at string) (geometry.Box, bool) {
	k := slices.Index(model.LabelNames[:], at)
	if k < 0 || course.Labels[k].W == 0 {
		return geometry.Box{}, false
	}
	return course.Labels[k], true
}

// NudgeLabel moves the label of the selected connector by a key.
func (e *Lines) NudgeLabel(d geometry.Point) bool {
	c := e.Connector()
	if c == nil {
		return false
	}
	_, course := e.CourseOf(c.ID)
	for _, at := range model.LabelNames {
		if b, ok := e.LabelBox(c, course, at); ok {
			return e.Do(&edit.SetPlace{Sheet: e.SheetID, ID: c.ID, At: at,
				Place: SpotAt(course.Points, b.Centre().Add(d))})
		}
	}
	e.Say("This connector has no label yet. Type one.")
	return true
}

// FitsBetween reports whether a symbol may be put into a connector: it takes
// part in the flow, and no connector holds it yet.
func (e *Lines) FitsBetween(sym *model.Symbol) bool {
	return !sym.Kind.IsAside() && !sym.Kind.IsReference() &&
		!slices.ContainsFunc(e.Sheet().Connectors, func(c *model.Connector) bool {
			return c.From.Symbol == sym.ID || c.To.Symbol == sym.ID
		})
}

// LineUnder returns the connector into which a symbol with that box would be
// dropped, and the box set on its line.
func (e *Lines) LineUnder(b geometry.Box) (string, geometry.Box) {
	id := e.LineAt(b.Centre(), e.Screen(10))
	c, course := e.CourseOf(id)
	if c == nil || c.Course == model.Straight {
		return id, b
	}
	on, _, _ := course.Points.Nearest(b.Centre())
	return id, geometry.Around(on, b.W, b.H)
}

// LineFor returns the connector into which a new symbol of a kind would come,
// and the symbol's box set on its line.
func (e *Lines) LineFor(kind model.Kind, b geometry.Box, mods int) (string, geometry.Box) {
	if mods&Alt != 0 || kind.IsAside() || kind.IsReference() {
		return "", b
	}
	return e.LineUnder(b)
}

// roomIn returns where a symbol put into a straight connector lies, and the
// edits that open as much space for it as is lacking: what stands beyond it
// moves on, and lanes that are cut grow.
func (e *Lines) roomIn(c *model.Connector, box geometry.Box) (geometry.Box, []edit.Edit) {
	s := e.Sheet()
	from, to := s.Symbol(c.From.Symbol), s.Symbol(c.To.Symbol)
	_, course := e.CourseOf(c.ID)
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

// InsertBetween puts a symbol into the selected connector: the selected one,
// or a new process when there is none.
func (e *Lines) InsertBetween() {
	s := e.Sheet()
	var c *model.Connector
	var sym *model.Symbol
	for _, id := range e.Sel {
		if k := s.Connector(id); k != nil {
			c = k
		} else if k := s.Symbol(id); k != nil {
			sym = k
		}
	}
	if c == nil || len(e.Sel) > 2 || len(e.Sel) == 2 && sym == nil {
		e.Say("Select a connector, and with it the symbol to put in between if there is one already.")
		return
	}
	_, course := e.CourseOf(c.ID)
	mid := course.Points.Along(course.Points.Length() / 2)
	if sym != nil {
		if !e.FitsBetween(sym) {
			e.Say("Only a symbol without connectors can be put in between.")
			return
		}
		e.PutBetween(c, geometry.Around(mid, sym.W, sym.H), sym.ID, nil)
		return
	}
	e.insertAfter(c, model.Process)
}

// insertAfter puts a new step into a connector, open for writing.
func (e *Lines) insertAfter(c *model.Connector, kind model.Kind) {
	_, course := e.CourseOf(c.ID)
	if course == nil {
		return
	}
	mid := course.Points.Along(course.Points.Length() / 2)
	step := e.NewSymbol(kind, arrange.Standard(e.Sheet(), kind, mid))
	add := &edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{step}}
	done := false
	if from := e.Symbol(c.From.Symbol); len(course.Points) > 2 && from != nil { // no straight line to stand on
		box, room := arrange.Append(e.M, e.Sheet(), from, kind)
		add.Symbols[0].Box = box
		done = e.Do(edit.Together("put in between", append(append(room, add), e.Work().IntoLine(c, step.ID)...)...))
	} else {
		done = e.PutBetween(c, step.Box, step.ID, add)
	}
	if done {
		e.Sel, e.Lane, e.Centre = []string{step.ID}, "", step.ID
		e.Writing.WriteNew(step.ID)
	}
}

// PutBetween puts a symbol into a connector at a box, after adding it if it is
// new.
func (e *Lines) PutBetween(c *model.Connector, box geometry.Box, symbol string, add *edit.AddItems) bool {
	box, edits := e.roomIn(c, box)
	if add != nil {
		add.Symbols[0].Box = box
		edits = append(edits, add)
	} else {
		edits = append(edits, &edit.PlaceItems{Sheet: e.SheetID, Boxes: []edit.Place{{ID: symbol, Box: box}}})
	}
	return e.Do(edit.Together("put in between", append(edits, e.Work().IntoLine(c, symbol)...)...))
}

// RemoveClosing deletes the selected step and closes the gap it leaves.
func (e *Lines) RemoveClosing() {
	edits := e.Work().RemoveClosing(e.One().ID)
	if len(edits) == 0 {
		e.Say("To close the gap, the step needs exactly one connector in and one out.")
		return
	}
	e.Do(edit.Together("delete and close the gap", edits...))
}

// CloseGap closes the gap that the deletion made just now has left: it is
// taken back and made again, closing the gap.
func (e *Lines) CloseGap() {
	if e.Gap == "" {
		e.Say("There is no gap to close.")
		return
	}
	id := e.Gap
	e.Gap = ""
	e.Undo()
	if e.Symbol(id) == nil {
		return
	}
	e.Sel, e.Lane = []string{id}, ""
	e.RemoveClosing()
}

// Link is a connector being led by keys: from the selected symbol, or one end
// of the selected connector, to a target that arrows choose.
type Link struct {
	On     bool
	From   string // the symbol it begins at
	ID     string // the connector whose end is led; empty for a new one
	isFrom bool
	Target string
	Side   string // the side chosen for the end: where a new connector leaves, where a led end meets its symbol
	typed  string // the number typed so far
}

// ends returns both ends as they are led now.
func (l Link) ends() (from, to model.End) {
	if l.ID == "" {
		return model.End{Symbol: l.From, Side: l.Side}, model.End{Symbol: l.Target}
	}
	led, other := model.End{Symbol: l.Target, Side: l.Side}, model.End{Symbol: l.From}
	if l.isFrom {
		return led, other
	}
	return other, led
}

// Lead begins to lead a connector by keys.
func (e *Lines) Lead(isFrom bool) {
	e.Cancel()
	if sym := e.One(); sym != nil {
		e.beginLink(Link{On: true, From: sym.ID})
		return
	}
	if c := e.Connector(); c != nil {
		l := Link{On: true, From: c.From.Symbol, ID: c.ID, isFrom: isFrom, Target: c.To.Symbol}
		if isFrom {
			l.From, l.Target = c.To.Symbol, c.From.Symbol
		}
		e.beginLink(l)
		return
	}
	e.Say("Select the symbol to connect from, or a connector to lead elsewhere.")
}

func (e *Lines) beginLink(l Link) {
	e.Link = l
	if l.Target == "" {
		e.steer(geometry.Point{X: 1})
	}
	if e.Link.Target == "" {
		e.steer(geometry.Point{Y: 1})
	}
	side := "leaves by"
	if l.ID != "" {
		side = "arrives at"
	}
	e.Say("Arrows, its number or its text choose the symbol, Shift and an arrow the side the line %s, "+
		"Enter or a click on it connects, Esc leaves it.", side)
}

// steer moves the target to the nearest symbol in a direction.
func (e *Lines) steer(d geometry.Point) {
	at := e.Symbol(e.Link.Target)
	if at == nil {
		at = e.Symbol(e.Link.From)
	}
	var p geometry.Point
	if at != nil {
		p = at.Centre()
	}
	best := int(^uint(0) >> 1)
	for _, sym := range e.Sheet().Symbols {
		v := sym.Centre().Sub(p)
		ahead, aside := v.X*d.X+v.Y*d.Y, geometry.Abs(v.X*d.Y)+geometry.Abs(v.Y*d.X)
		if ahead <= 0 || sym.ID == e.Link.From || sym == at {
			continue
		}
		if far := ahead + 2*aside; far < best {
			best, e.Link.Target = far, sym.ID
			e.Centre = sym.ID
		}
	}
}

// aim chooses the target by what is typed: the number of its step, or how its text begins, or what stands in it.
func (e *Lines) aim(key string) {
	find := func(typed string) string {
		ways := []func(sym *model.Symbol, text string) bool{
			func(sym *model.Symbol, _ string) bool { return strings.EqualFold(e.Facts.Numbers[sym.ID], typed) },
			func(_ *model.Symbol, text string) bool { return strings.HasPrefix(text, strings.ToLower(typed)) },
			func(_ *model.Symbol, text string) bool { return strings.Contains(text, strings.ToLower(typed)) },
		}
		for _, way := range ways {
			for _, sym := range e.Sheet().Symbols {
				if sym.ID != e.Link.From && way(sym, strings.ToLower(model.Flat(sym.Text))) {
					return sym.ID
				}
			}
		}
		return ""
	}
	typed := e.Link.typed + key
	id := find(typed)
	if id == "" && find(key) != "" { // it begins anew
		typed, id = key, find(key)
	}
	if e.Link.typed = typed; id == "" {
		e.Say("Nothing on this sheet has the number or the text %s.", typed)
		return
	}
	e.Link.Target, e.Centre = id, id
}

// Aimed says to what a connector is being led, for those who do not see it: what the symbol is, how many steps on it is
// or back, and by which side the line leaves or arrives.
func (e *Lines) Aimed() string {
	sym := e.Symbol(e.Link.Target)
	if sym == nil {
		return "to nothing yet"
	}
	text := outline.Symbol(e.M, e.Sheet(), sym, e.Facts.Numbers)
	if n := e.apart(e.Link.From, sym.ID); n == 1 {
		text += ", the next step"
	} else if n > 1 {
		text += fmt.Sprintf(", %d steps on", n)
	} else if n = e.apart(sym.ID, e.Link.From); n == 1 {
		text += ", one step back"
	} else if n > 1 {
		text += fmt.Sprintf(", %d steps back", n)
	}
	if e.Link.Side != "" && e.Link.ID == "" {
		text += ", leaving at the " + e.Link.Side
	} else if e.Link.Side != "" {
		text += ", arriving at the " + e.Link.Side
	}
	return text
}

// apart counts the steps by which the flow leads from one symbol to another; 0 where it does not.
func (e *Lines) apart(from, to string) int {
	seen, at := map[string]bool{from: true}, []string{from}
	for n := 1; len(at) > 0; n++ {
		var next []string
		for _, id := range at {
			for _, x := range e.Flow().Exits(id) {
				switch on := x.To.Symbol.ID; {
				case on == to:
					return n
				case !seen[on]:
					seen[on] = true
					next = append(next, on)
				}
			}
		}
		at = next
	}
	return 0
}

// LinkTo ends leading a connector at a symbol, and reports whether it does.
func (e *Lines) LinkTo(id string) bool {
	if !e.Link.On || e.Symbol(id) == nil || id == e.Link.From {
		return false
	}
	e.Link.Target = id
	return e.LinkKey("Enter", 0)
}

// Arrows says to which side the arrow keys point.
var Arrows = map[string]geometry.Side{
	"ArrowUp": geometry.Top, "ArrowRight": geometry.Right, "ArrowDown": geometry.Bottom, "ArrowLeft": geometry.Left,
}

// LinkKey handles a key while a connector is led.
func (e *Lines) LinkKey(key string, mods int) bool {
	l := e.Link
	if side, ok := Arrows[key]; ok {
		if mods&Shift == 0 {
			e.steer(side.Step())
			return true
		}
		if e.Link.Side = side.String(); l.Side == e.Link.Side { // once more leaves the side open again
			e.Link.Side = ""
		}
		return true
	}
	switch key {
	case "Escape":
		e.Link, e.Hush = Link{}, true
	case "Backspace":
		if r := []rune(l.typed); len(r) > 0 {
			e.Link.typed = string(r[:len(r)-1])
		}
	case "Enter":
		e.Link, e.Hush = Link{}, true
		if e.Symbol(l.Target) == nil {
			return true
		}
		from, to := l.ends()
		switch {
		case l.ID == "":
			c := e.newConnector(from, to)
			if e.ConnectInto(&edit.AddItems{Sheet: e.SheetID, Connectors: []model.Connector{c}}) {
				e.Sel, e.Lane = []string{c.ID}, ""
				e.Writing.AskAnswer(c.ID)
			}
		case l.isFrom:
			e.ConnectInto(&edit.SetEnds{Sheet: e.SheetID, ID: l.ID, From: &from})
		default:
			e.ConnectInto(&edit.SetEnds{Sheet: e.SheetID, ID: l.ID, To: &to})
		}
	default:
		if len([]rune(key)) != 1 || mods&Alt != 0 {
			return false
		}
		e.aim(key)
	}
	return true
}

// newConnector returns a connector under a new id. To and from a remark it is a
// broken line without an arrow (ISO 5807, annotation).
func (e *Lines) newConnector(from, to model.End) model.Connector {
	return e.NewConnectorAs(e.NewID(), from, to)
}

// NewConnectorAs is newConnector under an id that is known already. It has the
// style connectors were given last.
func (e *Lines) NewConnectorAs(id string, from, to model.End) model.Connector {
	c := model.Connector{ID: id, From: from, To: to, Text: e.Work().NextAnswer(from.Symbol)}
	if e.Last.giveTo(&c); e.Charted() {
		c.Stroke, c.Text = model.DottedLine(), ""
	}
	e.asAside(&c)
	return c
}

func (e *Lines) asAside(c *model.Connector) {
	for _, end := range [...]model.End{c.From, c.To} {
		if sym := e.Symbol(end.Symbol); sym != nil && sym.Kind.IsAside() {
			c.Text, c.Line, c.ToMark = "", model.DashLine, model.MarkNone
		}
	}
}
