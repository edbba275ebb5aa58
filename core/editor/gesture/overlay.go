package gesture

import (
	"slices"

	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/core/units"
)

// AppendOverlay draws what lies over the sheet: selection, glue points,
// guides, the rubber band and the symbol in hand. Its parts carry classes; the
// page's style sheet gives them their colours.
func AppendOverlay(e *desk.Desk, b []byte) []byte {
	o := overlay{b, e}
	defer e.LookUp()()
	o.selected()
	o.connectors()
	o.targets()
	o.traced()
	if e.InHand == nil && e.Charted() {
		if o.ways(e.Hover); e.Hover == "" && e.OneCard() != nil {
			o.ways(e.OneCard().ID)
		}
	}
	switch {
	case e.InHand != nil:
		if g, ok := e.InHand.(Gesture); ok {
			g.draw(&o)
		}
	case e.Coming != nil:
		o.coming(*e.Coming)
	case e.Hand != "" && e.OnJourney():
		if at, ok := e.SpotAt(e.At); ok {
			o.spot("into-lane", at)
		}
	case e.Hand != "":
		o.inHand(nil, 0)
	case !e.OnJourney():
		o.glue(e.Hover, "")
		if sym := e.One(); sym != nil && !sym.Locked && sym.ID != e.Hover {
			o.glue(sym.ID, "")
		}
	}
	return o.b
}

// selected marks the selected lanes, symbols and pools.
func (o *overlay) selected() {
	e := o.e
	s, chosen := e.Sheet(), e.Chosen()
	if pool, i := e.LaneSelected(); pool != nil {
		o.box("sel-lane", pool.LaneBox(i))
	} else if pool, i := e.StageSelected(); pool != nil {
		o.box("sel-lane", pool.StageBox(i))
	} else if at, pool := e.SpotNow(); pool != nil {
		o.spot("sel-lane", at)
	}
	var union geometry.Box
	var ones geometry.Path
	for _, sym := range chosen {
		union = union.Union(sym.Box)
		if b := sym.Grown(e.Screen(2)); len(e.Sel) > 1 {
			ones = ones.Move(b.X, b.Y).Line(b.Right(), b.Y).Line(b.Right(), b.Bottom()).Line(b.X, b.Bottom()).Close()
		}
		if sym.Locked {
			o.padlock(geometry.Point{X: sym.Right(), Y: sym.Y})
		}
	}
	if len(ones) > 0 {
		o.path("sel-one", ones)
	}
	for _, p := range s.Pools {
		if !slices.Contains(e.Sel, p.ID) {
			continue
		}
		union = union.Union(p.Box())
		if p.Locked {
			o.padlock(geometry.Point{X: p.X, Y: p.Y})
		}
	}
	if union != (geometry.Box{}) {
		o.corners(union.Grown(e.Screen(4)))
	}
	if sym := e.One(); sym != nil && e.InHand == nil && !sym.Locked && !s.IsCell(sym) {
		o.outline(sym)
		if at, ok := e.TipOf(sym); ok {
			o.knob(at)
		}
	}
	o.grouped(chosen)
}

// connectors marks those that are selected, and all ends glued to nothing.
func (o *overlay) connectors() {
	e := o.e
	lines := e.ChosenLines()
	for i, c := range e.Sheet().Connectors {
		if i >= len(e.Routed) || len(e.Routed[i].Points) < 2 {
			continue
		}
		pts := e.Routed[i].Points
		if slices.Contains(lines, c) {
			o.line("sel-line", pts)
			if len(e.Sel) == 1 && !e.Peeked { // the ends are looked at then
				o.knob(pts[0])
				o.knob(pts[len(pts)-1])
			}
		}
		if c.From.Loose() {
			o.looseEnd(pts[0])
		}
		if c.To.Loose() {
			o.looseEnd(pts[len(pts)-1])
		}
	}
}

// targets marks what the gesture under way, or a connector led by keys, would go to.
func (o *overlay) targets() {
	e := o.e
	s := e.Sheet()
	if len(s.Pools) > 0 && !e.OnJourney() {
		o.borders()
	}
	sym, from := e.Symbol(e.Link.Target), e.Symbol(e.Link.From)
	if !e.Link.On || sym == nil {
		return
	}
	if from != nil {
		o.line("loose", geometry.Polyline{o.socket(from), o.socket(sym)})
	}
	o.shape("target", sym.Kind, sym.Box)
	if e.Link.Side != "" {
		o.glue(o.sided(), e.Link.Side)
	}
}

// traced draws the way a case has come over this sheet, and where it is.
func (o *overlay) traced() {
	e, s := o.e, o.e.Sheet()
	for k, v := range e.Tracing {
		for i, c := range s.Connectors {
			if c.ID == v.Via && i < len(e.Routed) {
				o.line("walked", e.Routed[i].Points)
			}
		}
		if sym := s.Symbol(v.Symbol); sym != nil && k == len(e.Tracing)-1 {
			o.shape("standing", sym.Kind, sym.Box)
		}
	}
}

type overlay struct {
	b []byte
	e *desk.Desk
}

func (o *overlay) path(class string, p geometry.Path) {
	o.b = append(append(append(o.b, `<path class="`...), class...), `" d="`...)
	o.b = append(scene.AppendPath(o.b, p), `"/>`...)
}

func (o *overlay) box(class string, b geometry.Box) {
	c := desk.Corners(b)
	o.path(class, geometry.Polygon(c[:]...))
}

func (o *overlay) line(class string, pts geometry.Polyline) {
	p := geometry.Path{}.Move(pts[0].X, pts[0].Y)
	for _, q := range pts[1:] {
		p = p.Line(q.X, q.Y)
	}
	o.path(class, p)
}

// corners draws the four angle marks around what is selected; they are also
// what one pulls to resize.
func (o *overlay) corners(b geometry.Box) {
	n := min(o.e.Screen(9), b.W/2, b.H/2)
	for i, c := range desk.Corners(b) {
		dx, dy := n, n
		if i == 1 || i == 2 {
			dx = -n
		}
		if i >= 2 {
			dy = -n
		}
		o.path("corner", geometry.Path{}.Move(c.X+dx, c.Y).Line(c.X, c.Y).Line(c.X, c.Y+dy))
	}
}

// grouped draws a frame around the groups selected, and around the one that is
// worked in.
func (o *overlay) grouped(chosen []*model.Symbol) {
	e := o.e
	frame := func(path string) {
		var b geometry.Box
		for _, sym := range e.Sheet().Symbols {
			if sym.InGroup(path) {
				b = b.Union(sym.Box)
			}
		}
		o.box("group", b.Grown(e.Screen(8)))
	}
	if e.Inside != "" {
		frame(e.Inside)
	}
	seen := ""
	for _, sym := range chosen {
		if path := sym.GroupWithin(e.Inside); path != "" && path != seen {
			seen = path
			frame(path)
		}
	}
}

// padlock marks what is locked, at its upper right corner.
func (o *overlay) padlock(p geometry.Point) {
	n := o.e.Screen(1)
	o.path("padlock",
		geometry.Path{}.Move(p.X-5*n, p.Y).Line(p.X+5*n, p.Y).Line(p.X+5*n, p.Y+8*n).Line(p.X-5*n, p.Y+8*n).Close())
	o.path("shackle",
		geometry.Path{}.Move(p.X-3*n, p.Y).Line(p.X-3*n, p.Y-3*n).Curve(p.X-3*n, p.Y-7*n, p.X+3*n, p.Y-7*n, p.X+3*n,
			p.Y-3*n).Line(p.X+3*n, p.Y))
}

// outline draws the edge of a symbol that the pointer is on, which can be pulled then.
func (o *overlay) outline(sym *model.Symbol) {
	h := o.e.Hit(o.e.At)
	if h.ID != sym.ID || (h.Handle.X == 0) == (h.Handle.Y == 0) {
		return
	}
	n, c := o.e.Screen(6), sym.Centre()
	at := geometry.Point{X: c.X + h.Handle.X*sym.W/2, Y: c.Y + h.Handle.Y*sym.H/2}
	along := geometry.Point{X: geometry.Abs(h.Handle.Y) * (sym.W/2 - n), Y: geometry.Abs(h.Handle.X) * (sym.H/2 - n)}
	o.line("edge", geometry.Polyline{at.Sub(along), at.Add(along)})
}

// looseEnd marks an end that is glued to nothing: an open ring in brick.
func (o *overlay) looseEnd(p geometry.Point) {
	r := o.e.Screen(6)
	o.path("loose-end", geometry.Ellipse(geometry.Box{X: p.X - r, Y: p.Y - r, W: 2 * r, H: 2 * r}))
}

func (o *overlay) knob(p geometry.Point) {
	r := o.e.Screen(4)
	o.box("knob", geometry.Box{X: p.X - r, Y: p.Y - r, W: 2 * r, H: 2 * r})
}

// glue draws the glue points of a symbol as bars that lead out of it; the one that would take the connector as a filled
// socket.
func (o *overlay) glue(id, socket string) {
	sym := o.e.Symbol(id)
	if sym == nil {
		return
	}
	for side := range geometry.Side(4) {
		p := o.e.GlueAt(sym, side)
		if socket == side.String() {
			r := o.e.Screen(6)
			o.path("socket", geometry.Ellipse(geometry.Box{X: p.X - r, Y: p.Y - r, W: 2 * r, H: 2 * r}))
			continue
		}
		d := side.Step()
		in, out := o.e.Screen(desk.BarIn), o.e.Screen(desk.BarOut)
		o.path("glue", geometry.Path{}.Move(p.X-d.X*in, p.Y-d.Y*in).Line(p.X+d.X*out, p.Y+d.Y*out))
	}
}

// sided returns the symbol at which a connector led by keys has its side chosen.
func (o *overlay) sided() string {
	if l := o.e.Link; l.ID == "" {
		return l.From
	}
	return o.e.Link.Target
}

// socket returns where the line of a connector led by keys begins or ends at a symbol.
func (o *overlay) socket(sym *model.Symbol) geometry.Point {
	if side, ok := geometry.SideNamed(o.e.Link.Side); ok && sym.ID == o.sided() {
		return o.e.GlueAt(sym, side)
	}
	return sym.Centre()
}

// shape draws the outline of a kind in a box.
func (o *overlay) shape(class string, kind model.Kind, b geometry.Box) {
	o.path(class, symbols.Of(kind).Outline(b.W, b.H).Moved(b.Corner()))
}

func (o *overlay) guide(p, q geometry.Point, gap int) {
	if gap == 0 {
		o.line("guide", geometry.Polyline{p, q})
		return
	}
	o.line("gap", geometry.Polyline{p, q})
	o.b = scene.AppendPx(append(o.b, `<text class="gap-text" x="`...), (p.X+q.X)/2)
	o.b = scene.AppendPx(append(o.b, `" y="`...), (p.Y+q.Y)/2-o.e.Screen(4))
	o.b = scene.AppendPx(append(o.b, `" font-size="`...), o.e.Screen(11))
	o.b = append(o.b, `">`...)
	o.b = units.Append(o.b, gap, o.e.M.Units)
	o.b = append(append(o.b, ' '), units.Name(o.e.M.Units)...)
	o.b = append(o.b, `</text>`...)
}

// borders marks what lies across a border of lanes or stages.
func (o *overlay) borders() {
	s := o.e.Sheet()
	for _, sym := range s.Symbols {
		if s.Straddles(sym) {
			o.box("straddles", sym.Grown(o.e.Screen(3)))
		}
	}
}
