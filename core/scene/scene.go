// Package scene says what a sheet looks like: a display list of shapes and
// texts from which the screen, every export and the thumbnails are drawn.
package scene

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/numbering"
	"plaintracer/core/pictures"
	"plaintracer/core/routing"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

const px = geometry.Px

// Node is one thing on the sheet with all that is drawn for it, in
// coordinates from At.
type Node struct {
	ID     string
	Class  string
	At     geometry.Point
	Shapes []Shape
	Images []Image
	Texts  []Text
}

// Shape is an outline or a line. Fill and Stroke are #rrggbb, empty for none.
// Dash are the lengths of strokes and gaps in turn.
type Shape struct {
	Path         geometry.Path
	Fill, Stroke string
	Width        int
	Dash         []int
}

// Image is a picture that fills its box as far as its proportions allow.
type Image struct {
	geometry.Box
	Picture *pictures.Picture
}

// Text is one line of text whose baseline's anchor stands at X, Y. A turned
// text reads upwards.
type Text struct {
	X, Y   int
	Anchor typeset.Anchor
	Style  typeset.Style
	Fill   string
	Turned bool
	Text   string
}

// Bounds returns the smallest box that everything drawn lies in, the width of
// lines included.
func (n *Node) Bounds() geometry.Box {
	var out geometry.Box
	for i := range n.Shapes {
		for _, line := range n.Shapes[i].Path.Flatten() {
			b := line.Bounds().Grown(n.Shapes[i].Width / 2)
			b.W, b.H = max(b.W, 1), max(b.H, 1)
			out = out.Union(b)
		}
	}
	for i := range n.Images {
		out = out.Union(n.Images[i].Box)
	}
	for i := range n.Texts {
		t := &n.Texts[i]
		w, h := typeset.Measure(t.Text, t.Style), t.Style.LineHeight()
		b := geometry.Box{X: t.X - w/2, Y: t.Y - t.Style.Baseline(), W: w, H: h}
		switch {
		case t.Turned:
			b = geometry.Box{X: t.X - t.Style.Baseline(), Y: t.Y - w/2, W: h, H: w}
		case t.Anchor == typeset.Start:
			b.X = t.X
		case t.Anchor == typeset.End:
			b.X = t.X - w
		}
		out = out.Union(b)
	}
	return out.Moved(n.At)
}

// Paper is the colour of the page, and of marks that are open inside.
const Paper = "#ffffff"

const (
	badgeHeight  = 15 * px
	captionSize  = 11 * px
	laneNameSize = 13 * px
)

// Facts are what a sheet's picture needs beside the sheet itself.
type Facts struct {
	// Numbers are the step numbers by symbol id; nil where they are not shown.
	Numbers map[string]int
	// Captions stand by references and say on which sheet their partner is.
	Captions map[string]Caption
	// Legends are the kinds used on each sheet that has a legend.
	Legends map[string]string
}

// Extra is what is drawn with a symbol that does not stand in it.
type Extra struct {
	// Number is its step number; zero for none.
	Number  int
	Caption Caption
	// Kinds are those a legend explains, with spaces between them.
	Kinds string
	// Facing names the side at which a connector meets a symbol that turns to it.
	Facing string
	// Tip is where a call-out points, from its corner; zero for its usual tip.
	Tip geometry.Point
}

// Surroundings tell what a symbol looks like because of what else is on its sheet.
type Surroundings struct {
	facing map[string]string
	tips   map[string]geometry.Point
}

// Around returns the surroundings of the symbols of a sheet with these courses.
func Around(s *diagram.Sheet, courses []routing.Course) Surroundings {
	return Surroundings{facings(s, courses), tips(s, courses)}
}

// Complete adds what the surroundings of a symbol say.
func (a *Surroundings) Complete(x *Extra, id string) { x.Facing, x.Tip = a.facing[id], a.tips[id] }

// tips returns by id where the call-outs point whose tip was pulled to something, from their
// corners.
func tips(s *diagram.Sheet, courses []routing.Course) map[string]geometry.Point {
	var out map[string]geometry.Point
	for _, sym := range s.Symbols {
		if sym.Tip == (diagram.Tip{}) {
			continue
		}
		at, ok := sym.Tip.At.Add(sym.Corner()), sym.Tip.On == ""
		if on := s.Symbol(sym.Tip.On); on != nil && !ok {
			at, ok = sym.Tip.At.Add(on.Centre()), true
		}
		if i := slices.IndexFunc(s.Connectors, func(c *diagram.Connector) bool { return c.ID == sym.Tip.On }); !ok && i >= 0 && i < len(courses) && len(courses[i].Points) > 1 {
			pts := courses[i].Points
			at, ok = pts.Along(pts.Length()*sym.Tip.Along/diagram.WholeCourse), true
		}
		if !ok {
			continue
		}
		if out == nil {
			out = map[string]geometry.Point{}
		}
		out[sym.ID] = at.Sub(sym.Corner())
	}
	return out
}

// facings returns by id to which side the symbols that turn to their connector are turned: where
// their first connector meets them.
func facings(s *diagram.Sheet, courses []routing.Course) map[string]string {
	var facing map[string]string
	for _, sym := range s.Symbols {
		if symbols.Of(sym.Kind).Facing != nil {
			if facing == nil {
				facing = map[string]string{}
			}
			facing[sym.ID] = ""
		}
	}
	if facing == nil {
		return nil
	}
	meet := func(end diagram.End, side geometry.Side) {
		if now, turns := facing[end.Symbol]; turns && now == "" {
			facing[end.Symbol] = side.String()
		}
	}
	for i, c := range s.Connectors[:min(len(s.Connectors), len(courses))] {
		if len(courses[i].Points) > 1 {
			meet(c.From, courses[i].FromSide)
			meet(c.To, courses[i].ToSide)
		}
	}
	return facing
}

// Of returns what is drawn with a symbol.
func (f *Facts) Of(s *diagram.Sheet, sym *diagram.Symbol) Extra {
	x := Extra{Number: f.Numbers[sym.ID], Caption: f.Captions[sym.ID]}
	if sym.Kind.Explains() {
		x.Kinds = f.Legends[s.ID]
	}
	return x
}

// Caption is a small text by a symbol: above one at which a flow goes on, so
// that it is clear of the connector, and below one at which it breaks off.
type Caption struct {
	Text  string
	Above bool
}

// Know computes the facts of a map, for all its sheets.
func Know(m *diagram.Map) Facts { return KnowFlow(m, flow.New(m)) }

// KnowFlow is Know with the flow of the map at hand.
func KnowFlow(m *diagram.Map, g *flow.Graph) Facts {
	f := Facts{Captions: map[string]Caption{}, Legends: map[string]string{}}
	if m.Numbers {
		f.Numbers = map[string]int{}
		for _, s := range numbering.Of(g) {
			f.Numbers[s.Symbol.ID] = s.Number
		}
	}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kind.Explains() && f.Legends[s.ID] == "" {
				var kinds []string
				for _, k := range s.LegendKinds() {
					kinds = append(kinds, string(k))
				}
				f.Legends[s.ID] = strings.Join(kinds, " ")
			}
			if !sym.Kind.LeadsAcross() {
				continue
			}
			if where, partner := m.Partner(sym); partner != nil && where != s {
				number := slices.Index(m.Sheets, where) + 1
				entered := slices.ContainsFunc(g.Node(sym.ID).Entries, func(x *flow.Exit) bool { return x.Connector != nil })
				f.Captions[sym.ID] = Caption{"sheet " + strconv.Itoa(number), !entered}
			}
		}
	}
	return f
}

// Drawing is a whole sheet, ready to be drawn in order.
type Drawing struct {
	Sheet   *diagram.Sheet
	Page    geometry.Box
	Extent  geometry.Box
	Nodes   []Node
	Courses []routing.Course
	// Plain is how many of the courses are drawn plainly, since there is too much on the
	// sheet to lead each round the rest.
	Plain int
	Facts Facts
	// Fonts are those of the house; none are the shipped typeface.
	Fonts []fonts.Font
}

// View is a sheet as it is drawn in the look of its map.
type View struct {
	Map   *diagram.Map
	Sheet *diagram.Sheet
	Look  *looks.Look
	House typeset.House
}

// ViewOf returns the view of a sheet of a map.
func ViewOf(m *diagram.Map, s *diagram.Sheet) View {
	return View{m, s, looks.Of(m), typeset.HouseOf(m)}
}

// Ground returns what lies behind everything on the sheet, its heading too; it may
// be empty.
func (v View) Ground() Node {
	n := Node{ID: v.Sheet.ID, Class: "ground"}
	page := v.Sheet.Page()
	if g := v.Sheet.Ground; g.Fill != "" {
		n.Shapes = append(n.Shapes, Shape{Fill: v.Look.Fill(g.Fill), Path: rectangle(page)})
	}
	if p := v.Map.Picture(v.Sheet.Ground.Picture); p != nil {
		n.Images = append(n.Images, Image{page, p})
	}
	if v.Sheet.Headed {
		v.addHeading(&n)
	}
	return n
}

func rectangle(b geometry.Box) geometry.Path {
	return geometry.Polygon(b.Corner(), geometry.Point{X: b.Right(), Y: b.Y}, geometry.Point{X: b.Right(), Y: b.Bottom()}, geometry.Point{X: b.X, Y: b.Bottom()})
}

// Draw computes the picture of a sheet.
func Draw(m *diagram.Map, s *diagram.Sheet) *Drawing {
	return DrawKnowing(m, s, Know(m))
}

// DrawKnowing is Draw with the facts of the map at hand.
func DrawKnowing(m *diagram.Map, s *diagram.Sheet, facts Facts) *Drawing {
	d, _ := DrawUntil(m, s, facts, func() bool { return false })
	return d
}

// statesAtOnce is how many states of the search are looked at before a drawing asks whether
// it is still wanted: some hundredths of a second.
const statesAtOnce = 50_000

// DrawUntil is DrawKnowing that gives up when stop says so, which it is asked now and then.
func DrawUntil(m *diagram.Map, s *diagram.Sheet, facts Facts, stop func() bool) (d *Drawing, ok bool) {
	var r routing.Router
	for r.Begin(Links(m, s)); !r.Step(statesAtOnce); {
		if stop() {
			return nil, false
		}
	}
	d = &Drawing{Sheet: s, Page: s.Page(), Extent: s.Extent(), Facts: facts, Courses: r.Courses(), Fonts: m.HouseFonts()}
	v := ViewOf(m, s)
	if n := v.Ground(); len(n.Shapes)+len(n.Images) > 0 {
		d.Nodes = append(d.Nodes, n)
	}
	for _, p := range s.Pools {
		d.Nodes = append(d.Nodes, v.Pool(p))
	}
	for i, c := range s.Connectors {
		d.Nodes = append(d.Nodes, v.Connector(c, &d.Courses[i]))
	}
	around := Around(s, d.Courses)
	for _, sym := range s.Symbols {
		x := facts.Of(s, sym)
		around.Complete(&x, sym.ID)
		d.Nodes = append(d.Nodes, v.Symbol(sym, x))
	}
	for i := range d.Nodes {
		d.Extent = d.Extent.Union(d.Nodes[i].Bounds())
	}
	if d.Plain = routing.CountPlain(d.Courses); d.Plain > 0 {
		at := geometry.Point{X: d.Extent.X + 8*px, Y: d.Extent.Bottom() + 24*px}
		st := typeset.Style{Size: laneNameSize, House: v.House}
		words := fmt.Sprintf("%d of %d connectors are drawn plainly: there is too much on this sheet to lead each round the rest.", d.Plain, len(d.Courses))
		d.Nodes = append(d.Nodes, Node{Class: "remark", At: at, Texts: []Text{{Anchor: typeset.Start, Style: st, Fill: v.Look.Ink, Text: words}}})
		d.Extent = d.Extent.Union(d.Nodes[len(d.Nodes)-1].Bounds().Grown(8 * px))
	}
	return d, true
}

// Missing returns the characters of the drawing that none of its fonts has, each once, in order.
func (d *Drawing) Missing() []rune {
	var out []rune
	for i := range d.Nodes {
		for _, t := range d.Nodes[i].Texts {
			for _, r := range t.Text {
				if !typeset.Has(r, t.Style) {
					out = append(out, r)
				}
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Named lists characters for a person: each with its number in Unicode.
func Named(list []rune) string {
	var out []string
	for _, r := range list {
		out = append(out, fmt.Sprintf("%c (U+%04X)", r, r))
	}
	return strings.Join(out, ", ")
}

// Links returns what the router needs to know of a sheet.
func Links(m *diagram.Map, s *diagram.Sheet) routing.Scene {
	var l Linker
	l.Fill(m, s)
	return l.Scene
}

// Linker builds the router's scene again and again into the same memory, which
// keeps the garbage collector out of a drag.
type Linker struct {
	Scene  routing.Scene
	place  map[string]int
	link   map[string]int
	labels map[labelKey]geometry.Point
	sides  map[sizeKey]sides
	sheet  *diagram.Sheet
	look   *looks.Look
	house  typeset.House
}

type labelKey struct {
	text string
	diagram.Type
}

type sizeKey struct {
	kind diagram.Kind
	w, h int
}

// sides are the glue points of a kind at a size, and how far ends may slide.
type sides struct {
	glue  [4]geometry.Point
	reach [4]int
}

// Fill brings the scene up to date with a sheet.
func (l *Linker) Fill(m *diagram.Map, s *diagram.Sheet) {
	out := &l.Scene
	out.Down = m.Direction == diagram.Downwards
	out.Boxes, out.Glue, out.Links = out.Boxes[:0], out.Glue[:0], out.Links[:0]
	out.Reach, out.Open = out.Reach[:0], out.Open[:0]
	if l.place == nil {
		l.place, l.link = map[string]int{}, map[string]int{}
		l.labels, l.sides = map[labelKey]geometry.Point{}, map[sizeKey]sides{}
		out.Meet = func(box int, side geometry.Side, at int) int {
			sym := l.sheet.Symbols[box]
			if side.Upright() {
				return symbols.Of(sym.Kind).Meet(sym.W, sym.H, side, at-sym.X) + sym.Y
			}
			return symbols.Of(sym.Kind).Meet(sym.W, sym.H, side, at-sym.Y) + sym.X
		}
	}
	l.sheet, l.look = s, looks.Of(m)
	if house := typeset.HouseOf(m); house != l.house {
		l.house = house
		clear(l.labels)
	}
	clear(l.place)
	clear(l.link)
	for i, sym := range s.Symbols {
		l.place[sym.ID] = i
		d := l.sidesOf(sym)
		for k := range d.glue {
			d.glue[k] = d.glue[k].Add(sym.Corner())
		}
		out.Boxes = append(out.Boxes, sym.Box)
		out.Glue = append(out.Glue, d.glue)
		out.Reach = append(out.Reach, d.reach)
		out.Open = append(out.Open, symbols.Of(sym.Kind).Hollow)
	}
	for _, p := range s.Pools {
		b := p.Own(p.Box())
		b.W = p.Heads()
		b = p.Own(b)
		out.Boxes = append(out.Boxes, b)
		out.Glue = append(out.Glue, [4]geometry.Point{})
		out.Reach = append(out.Reach, [4]int{})
	}
	for i, c := range s.Connectors {
		l.link[c.ID] = i
	}
	for _, c := range s.Connectors {
		out.Links = append(out.Links, l.linkOf(c))
	}
}

func (l *Linker) linkOf(c *diagram.Connector) routing.Link {
	k := routing.Link{From: l.box(c.From), To: l.box(c.To), FromSide: side(c.From), ToSide: side(c.To), FromAt: c.From.At, ToAt: c.To.At,
		Straight: c.Course == diagram.Straight, Curved: c.Course == diagram.Curved}
	if onto, ok := l.link[c.To.Connector]; ok && c.To.Connector != "" {
		k.Joins, k.Onto = true, onto
	}
	if k.From != routing.None {
		from := l.sheet.Symbols[k.From]
		k.Branch, k.Trunk = from.Kind.Asks(), from.Trunk
	}
	k.Merge = l.sheet.Merges(c)
	if c.Course != diagram.Straight {
		for _, b := range c.Bends {
			k.Bends = append(k.Bends, routing.Bend{Upright: b.Upright, At: b.At})
		}
	}
	for i, label := range c.Labels() {
		if *label.Text == "" {
			continue
		}
		p := *label.Place
		k.Labels[i] = routing.Label{Size: l.label(labelKey{*label.Text, l.look.Type(c.Type)}), Held: p != diagram.Spot{}, Along: p.Along, Off: p.Off}
	}
	return k
}

func (l *Linker) box(e diagram.End) int {
	if i, ok := l.place[e.Symbol]; ok && e.Symbol != "" {
		return i
	}
	return routing.None
}

// sidesOf returns the glue points of a symbol, from its corner.
func (l *Linker) sidesOf(sym *diagram.Symbol) sides {
	key := sizeKey{sym.Kind, sym.W, sym.H}
	d, ok := l.sides[key]
	if ok {
		return d
	}
	def := symbols.Of(sym.Kind)
	for k := range d.glue {
		d.glue[k] = def.GlueAt(sym.W, sym.H, geometry.Side(k))
		d.reach[k] = def.Reach(sym.W, sym.H, geometry.Side(k))
	}
	if len(l.sides) >= maxRemembered {
		clear(l.sides)
	}
	l.sides[key] = d
	return d
}

// maxRemembered is the number of sizes and labels that are remembered.
const maxRemembered = 2000

// label returns the size of a label.
func (l *Linker) label(key labelKey) geometry.Point {
	size, ok := l.labels[key]
	if ok {
		return size
	}
	st := l.house.StyleOf(key.Type)
	lines := LabelLines(key.text, st)
	for _, line := range lines {
		size.X = max(size.X, line.Width)
	}
	size.X += 4 * px
	size.Y = len(lines) * st.LineHeight()
	if len(l.labels) >= maxRemembered {
		clear(l.labels)
	}
	l.labels[key] = size
	return size
}

func side(e diagram.End) int {
	if s, ok := geometry.SideNamed(e.Side); ok {
		return int(s)
	}
	return routing.Any
}

// labelWidth is the width at which the label of a connector is wrapped.
const labelWidth = 140 * px

// LabelLines returns the lines of a connector's label.
func LabelLines(text string, st typeset.Style) []typeset.Line {
	lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(labelWidth, 4*st.Size) })
	return lines
}

// Symbol returns the picture of a symbol.
func (v View) Symbol(sym *diagram.Symbol, x Extra) Node {
	l := looks.For(v.Map, sym)
	def := symbols.Of(sym.Kind)
	n := Node{ID: sym.ID, Class: "symbol", At: sym.Corner()}
	width := l.Weight
	if sym.Weight != 0 {
		width = sym.Weight
	}
	if sym.Emphasis {
		width = max(l.Heavy, width*2)
	}
	line := l.Line(sym.Ink, l.Ink)
	var dash []int
	if sym.Dashed {
		dash = dashes(diagram.DashLine, width)
	}
	fill := l.Fill(sym.Fill)
	written := sym.Text != ""
	draw := func(path geometry.Path, fill, stroke string) {
		n.Shapes = append(n.Shapes, Shape{Path: path, Fill: fill, Stroke: stroke, Width: width, Dash: dash})
	}
	if def.Back != nil {
		// Each sheet behind covers the one behind it.
		for _, part := range partsOf(def.Back(sym.W, sym.H)) {
			draw(part, fill, line)
		}
	}
	outline := def.Outline(sym.W, sym.H)
	if def.Pointing != nil && x.Tip != (geometry.Point{}) {
		outline = def.Pointing(sym.W, sym.H, x.Tip)
	}
	switch {
	case def.Bare && sym.Fill == "":
	case def.Bare:
		n.Shapes = append(n.Shapes, Shape{Path: outline, Fill: fill})
	case def.Hollow && sym.Fill == "":
		draw(outline, "", l.Line(sym.Ink, l.Soft))
	default:
		draw(outline, fill, line)
	}
	facing, turned := geometry.SideNamed(x.Facing)
	switch {
	case turned && def.Facing != nil:
		draw(def.Facing(sym.W, sym.H, facing), "", line)
	case def.Inner != nil:
		draw(def.Inner(sym.W, sym.H, written), "", line)
	}
	if sym.Kind.ShowsPicture() {
		n.picture(sym, v.Map.Picture(sym.Picture), l)
	}
	if sym.Kind.Explains() {
		n.legend(sym, x.Kinds, l, v.House)
	} else {
		ty := l.Type(sym.Type)
		if turned && facing == geometry.Right && ty.Align == "" && def.Align == "left" {
			ty.Align = "right" // the text stands by the bracket
		}
		block := v.House.Set(def, sym.Text, ty, sym.W, sym.H)
		n.write(block, TextColour(l, sym))
	}
	n.badge(sym, x.Number, l, v.House)
	if x.Caption.Text != "" {
		st := typeset.Style{Size: captionSize, House: v.House}
		y := sym.H + st.Baseline()
		if x.Caption.Above {
			y -= sym.H + st.LineHeight() + px
		}
		n.Texts = append(n.Texts, Text{X: sym.W / 2, Y: y, Style: st, Fill: l.Soft, Text: x.Caption.Text})
	}
	return n
}

// TextColour returns the colour of a symbol's text in a look: the one chosen,
// else ink, or paper on a fill too dark for ink.
func TextColour(l *looks.Look, sym *diagram.Symbol) string {
	return l.Line(sym.Colour, Legible(l, l.Fill(sym.Fill)))
}

// write adds set lines.
func (n *Node) write(block typeset.Block, colour string) {
	st := block.Style
	for _, l := range block.Lines {
		y := l.Top + st.Baseline()
		if l.Listed {
			plain := st
			plain.Underline = false
			n.Texts = append(n.Texts, Text{X: l.Bullet, Y: y, Anchor: typeset.Start, Style: plain, Fill: colour, Text: "•"})
		}
		if l.Text != "" {
			n.Texts = append(n.Texts, Text{X: l.X, Y: y, Anchor: l.Anchor, Style: st, Fill: colour, Text: l.Text})
		}
	}
}

// partsOf returns the parts of a path, each begun by a move.
func partsOf(p geometry.Path) []geometry.Path {
	var out []geometry.Path
	for i, op := range p {
		if op.Verb == 'M' {
			out = append(out, nil)
		}
		out[len(out)-1] = append(out[len(out)-1], p[i])
	}
	return out
}

func (n *Node) badge(sym *diagram.Symbol, number int, l *looks.Look, house typeset.House) {
	if number == 0 {
		return
	}
	digits := strconv.Itoa(number)
	st := typeset.Style{Size: 11 * px, Bold: true, House: house}
	w := max(typeset.Measure(digits, st)+8*px, badgeHeight)
	at := geometry.Point{X: 8*px + w/2, Y: 0}
	if sym.Kind.Asks() {
		// Clear of the text, just outside the upper left edge.
		at = geometry.Point{X: sym.W/4 - 9*px, Y: sym.H/4 - 6*px}
	}
	b := geometry.Around(at, w, badgeHeight)
	n.Shapes = append(n.Shapes, Shape{Path: pill(b), Fill: l.Paper, Stroke: l.Soft, Width: px})
	n.Texts = append(n.Texts, Text{X: at.X, Y: b.Y + (badgeHeight-st.LineHeight())/2 + st.Baseline(), Style: st, Fill: l.Ink, Text: digits})
}

// picture adds the picture a symbol shows, or a crossed box where it is missing.
func (n *Node) picture(sym *diagram.Symbol, p *pictures.Picture, l *looks.Look) {
	b := symbols.Figure(sym.W, sym.H, sym.Text != "")
	if p != nil {
		n.Images = append(n.Images, Image{b, p})
		return
	}
	n.Shapes = append(n.Shapes, Shape{Stroke: l.Soft, Width: px, Path: geometry.Path{}.Move(0, 0).Line(b.W, 0).Line(b.W, b.H).Line(0, b.H).Close().
		Move(0, 0).Line(b.W, b.H).Move(b.W, 0).Line(0, b.H)})
}

// legend adds a heading and a row for each kind: its symbol, name and meaning.
func (n *Node) legend(sym *diagram.Symbol, kinds string, l *looks.Look, house typeset.House) {
	const (
		pad    = 8 * px
		figure = 40 * px
	)
	colour := TextColour(l, sym)
	head := sym.Text
	if head == "" {
		head = "Symbols used"
	}
	ty := sym.Type
	ty.Bold, ty.Size = true, 0
	n.write(house.Set(symbols.Of(diagram.Legend), head, ty, sym.W, sym.H), colour)
	y := diagram.LegendHead
	for _, kind := range strings.Fields(kinds) {
		def := symbols.Of(diagram.Kind(kind))
		h := diagram.LegendRow - pad
		w := min(figure, h*def.W/def.H)
		h = min(h, w*def.H/def.W)
		at := geometry.Point{X: pad + (figure-w)/2, Y: y + (diagram.LegendRow-h)/2}
		// Drawn at its standard size and reduced, so that its parts keep their
		// proportions.
		small := func(p geometry.Path) geometry.Path { return p.Scaled(w, def.W).Moved(at) }
		if def.Back != nil {
			for _, part := range partsOf(def.Back(def.W, def.H)) {
				n.Shapes = append(n.Shapes, Shape{Path: small(part), Fill: l.Paper, Stroke: l.Ink, Width: px})
			}
		}
		if !def.Bare {
			n.Shapes = append(n.Shapes, Shape{Path: small(def.Outline(def.W, def.H)), Fill: l.Paper, Stroke: l.Ink, Width: px})
		}
		if def.Inner != nil {
			n.Shapes = append(n.Shapes, Shape{Path: small(def.Inner(def.W, def.H, false)), Stroke: l.Ink, Width: px})
		}
		left := pad + figure + pad
		name := typeset.Style{Size: 12 * px, Bold: true, Italic: sym.Italic, House: house}
		said := typeset.Style{Size: 11 * px, Italic: sym.Italic, House: house}
		row := func(text string, st typeset.Style, top int) {
			lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(sym.W-left-pad, 4*st.Size) })
			line := lines[0].Text
			if len(lines) > 1 {
				line += " …"
			}
			n.Texts = append(n.Texts, Text{X: left, Y: top + st.Baseline(), Anchor: typeset.Start, Style: st, Fill: colour, Text: line})
		}
		row(def.Name, name, y+px)
		row(def.Meaning, said, y+px+name.LineHeight())
		y += diagram.LegendRow
	}
}

func pill(b geometry.Box) geometry.Path {
	return symbols.Of(diagram.Terminator).Outline(b.W, b.H).Moved(b.Corner())
}
