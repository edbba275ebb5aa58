// Package scene says what a sheet looks like: a display list of shapes and
// texts from which the screen, every export and the thumbnails are drawn.
package scene

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/links"
	"plaintracer/core/looks"
	"plaintracer/core/model"
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
	// Rest is where a connector goes on on the line of another, which draws it; nil for all else.
	Rest geometry.Path
	// Hint is what the pointer finds there; empty for nothing. Leads are the places in it that lead elsewhere.
	Hint  string
	Leads []Lead
}

// Lead is a place in a node that leads elsewhere: to an address, or by # and its id to a step or sheet of the map.
type Lead struct {
	geometry.Box
	To, Title string
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
	// Frame is laid over it in the colour Fill; none where it is empty.
	Frame geometry.Path
	Fill  string
}

// Over returns what is laid over the picture, and whether anything is.
func (i *Image) Over() (Shape, bool) { return Shape{Path: i.Frame, Fill: i.Fill}, len(i.Frame) > 0 }

// Text is one line of text whose baseline's anchor stands at X, Y. A turned
// text reads upwards.
type Text struct {
	X, Y   int
	Anchor typeset.Anchor
	Style  typeset.Style
	Fill   string
	Turned bool
	Text   string
	// Own says that it is a line of what the thing says, as the map has it: no number, value or mark beside that.
	Own bool
	// Parts are the stretches of it, where not all of them are drawn in the same way.
	Parts []Part
}

// Part is a stretch of a line of text that is drawn in one way.
type Part struct {
	Text  string
	Style typeset.Style
	Fill  string
}

// Width returns how wide a line is.
func (t *Text) Width() int {
	if len(t.Parts) == 0 {
		return typeset.Measure(t.Text, t.Style)
	}
	w := 0
	for _, p := range t.Parts {
		w += typeset.Measure(p.Text, p.Style)
	}
	return w
}

// Split returns a line as texts that are each drawn in one way, in the order in which they are read. They stand from
// left to right, and from right to left where the line begins in a script that is written so.
func (t *Text) Split() []Text {
	if len(t.Parts) == 0 {
		return []Text{*t}
	}
	x := t.X
	switch t.Anchor {
	case typeset.Middle:
		x -= t.Width() / 2
	case typeset.End:
		x -= t.Width()
	}
	leftwards := readsLeftwards(t.Text)
	if leftwards {
		x += t.Width()
	}
	out := make([]Text, len(t.Parts))
	for i, p := range t.Parts {
		out[i] = *t
		one := &out[i]
		one.Text, one.Style, one.Fill, one.Anchor, one.Parts = p.Text, p.Style, p.Fill, typeset.Start, nil
		w := typeset.Measure(p.Text, p.Style)
		if leftwards {
			x -= w
		}
		if one.X = x; !leftwards {
			x += w
		}
	}
	return out
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
		w, h := t.Width(), t.Style.LineHeight()
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
	badgeHeight = 15 * px
	captionSize = 11 * px
)

// Facts are what a sheet's picture needs beside the sheet itself.
type Facts struct {
	// Numbers are the step numbers by symbol id; nil where they are not shown.
	Numbers map[string]string
	// Captions stand by references and say on which sheet their partner is.
	Captions map[string]Caption
	// Legends are the kinds used on each sheet that has a legend.
	Legends map[string]string
	// Contents are the sheets of the map, one a line with its id before its name, where something lists them.
	Contents string
	// Badge is the place of the numbers, as the map's numbering has it.
	Badge string
	// Values are the lines under symbols, by their ids: what stands in the fields that the map shows. Fills are the
	// colours of symbols by the map's choice, Colours what a legend says of these.
	Values, Fills map[string]string
	Colours       string
	// Links are where symbols lead, by their ids: of each link where to, a tab, its title and a line break.
	Links map[string]string
	// house are the fonts of the map.
	house typeset.House
}

// Extra is what is drawn with a symbol that does not stand in it.
type Extra struct {
	// Number is its step number; empty for none.
	Number  string
	Caption Caption
	// Kinds are those a legend explains, with spaces between them.
	Kinds string
	// Facing names the side at which a connector meets a symbol that turns to it.
	Facing string
	// Tip is where a call-out points, from its corner; zero for its usual tip.
	Tip geometry.Point
	// Badge is the place of the number; Values are lines under the symbol, with line breaks between them.
	Badge, Values string
	// Fill is its colour by the map's choice; empty for its own. Colours are those a legend explains, each with a tab
	// before what it means and a line break after it.
	Fill, Colours string
	// Links are where it leads, as Facts have them. Contents are the sheets that it lists, as Facts have those.
	Links, Contents string
	// Card is what is drawn of a card because of where it stands in its hierarchy.
	Card model.Seen
	// Cell is what is drawn of a symbol because of the cell of a journey that it stands in.
	Cell model.SeenCell
}

// Surroundings tell what a symbol looks like because of what else is on its sheet.
type Surroundings struct {
	facing map[string]string
	tips   map[string]geometry.Point
}

// Around returns the surroundings of the symbols of a sheet with these courses.
func (f *Facts) Around(s *model.Sheet, courses []routing.Course) Surroundings {
	a := Surroundings{facing: facings(s, courses), tips: tips(s, courses)}
	return a
}

// Complete adds what the surroundings of a symbol say.
func (a *Surroundings) Complete(x *Extra, id string) {
	x.Facing, x.Tip = a.facing[id], a.tips[id]
}

// Suits reports whether what is drawn with a symbol is already as its surroundings say.
func (a *Surroundings) Suits(x *Extra, id string) bool {
	return x.Facing == a.facing[id] && x.Tip == a.tips[id]
}

// tips returns by id where the call-outs point whose tip was pulled to something, from their
// corners.
func tips(s *model.Sheet, courses []routing.Course) map[string]geometry.Point {
	var out map[string]geometry.Point
	for _, sym := range s.Symbols {
		if sym.Tip == (model.Tip{}) {
			continue
		}
		at, ok := sym.Tip.At.Add(sym.Corner()), sym.Tip.On == ""
		if on := s.Symbol(sym.Tip.On); on != nil && !ok {
			at, ok = sym.Tip.At.Add(on.Centre()), true
		}
		if i := slices.IndexFunc(s.Connectors, func(c *model.Connector) bool { return c.ID == sym.Tip.On }); !ok &&
			i >= 0 && i < len(courses) && len(courses[i].Points) > 1 {
			pts := courses[i].Points
			at, ok = pts.Along(pts.Length()*sym.Tip.Along/model.WholeCourse), true
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
func facings(s *model.Sheet, courses []routing.Course) map[string]string {
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
	meet := func(end model.End, side geometry.Side) {
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
func (f *Facts) Of(s *model.Sheet, sym *model.Symbol) Extra {
	x := Extra{Number: f.Numbers[sym.ID], Caption: f.Captions[sym.ID], Badge: f.Badge, Fill: f.Fills[sym.ID],
		Links: f.Links[sym.ID], Card: s.Tree().Seen(sym.ID), Cell: s.Board().Seen(sym.ID)}
	shown := f.Values[sym.ID]
	if s.IsCell(sym) {
		x.cell(sym)
		shown = sym.WithOwner(shown)
	}
	x.Values = f.house.Values(shown, typeset.ValuesIn(sym, sym.W, s.IsCell(sym) || s.IsCard(sym)))
	if x.Card.Number != "" {
		x.Number = x.Card.Number
	}
	if x.Card.ByLevel && x.Fill == "" && sym.Fill == "" {
		x.Fill = levelFills[x.Card.Level%len(levelFills)]
	}
	if sym.Kind.Lists() {
		x.Contents = f.Contents
	} else if sym.Kind.Explains() {
		x.Kinds, x.Colours = f.Legends[s.ID], f.Colours
	}
	return x
}

// Caption is a small text by a symbol: above one at which a flow goes on, so
// that it is clear of the connector, and below one at which it breaks off.
type Caption struct {
	Text  string
	Above bool
	// Hint is what the pointer finds there: where the flow goes on, and with which step.
	Hint string
	// Opens says that the step opens into a sheet of its own, of which it shows the sign.
	Opens bool
}

// captionOf says at a reference on which other sheets the flow goes on, or where it comes from.
func captionOf(g *flow.Graph, s *model.Sheet, sym *model.Symbol, numbers map[string]string) (Caption, bool) {
	if to := g.Map().DetailOf(sym); to != nil {
		at := slices.Index(g.Map().Sheets, to) + 1
		return Caption{Opens: true, Hint: fmt.Sprintf("Opens into sheet %d, %s", at, to.Name)}, true
	}
	if !sym.Kind.IsReference() {
		return Caption{}, false
	}
	var c Caption
	var places []int
	for _, p := range g.Passages(sym) {
		c.Above = len(g.Entries(sym.ID)) == 0
		c.Hint += "Reference " + sym.Text + " " + p.Words(numbers) + "\n"
		if p.Sheet != s {
			places = append(places, p.Place)
		}
	}
	c.Hint = strings.TrimSpace(c.Hint)
	switch places = slices.Compact(places); len(places) {
	case 0:
	case 1:
		c.Text = "sheet " + strconv.Itoa(places[0])
	default:
		words := make([]string, len(places))
		for i, n := range places {
			words[i] = strconv.Itoa(n)
		}
		c.Text = "sheets " + strings.Join(words, ", ")
	}
	return c, c != Caption{}
}

// Know computes the facts of a map, for all its sheets.
func Know(m *model.Map) Facts { return KnowFlow(m, flow.New(m)) }

// KnowFlow is Know with the flow of the map at hand.
func KnowFlow(m *model.Map, g *flow.Graph) Facts {
	f := Facts{Captions: map[string]Caption{}, Legends: map[string]string{}, Badge: m.Numbering.Badge,
		house: typeset.HouseOf(m)}
	f.knowFields(m)
	if m.Numbers {
		f.Numbers = numbering.Labels(g)
	}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if list := links.Of(m, sym); len(list) > 0 {
				if f.Links == nil {
					f.Links = map[string]string{}
				}
				f.Links[sym.ID] = listed(m, list)
			}
			if sym.Kind.Lists() && f.Contents == "" {
				for _, listed := range m.Sheets {
					f.Contents += listed.ID + "\t" + model.Flat(listed.Name) + "\n"
				}
			}
			if sym.Kind.Explains() && !sym.Kind.Lists() && f.Legends[s.ID] == "" {
				var kinds []string
				for _, k := range s.LegendKinds() {
					kinds = append(kinds, string(k))
				}
				f.Legends[s.ID] = strings.Join(kinds, " ")
			}
			if c, ok := captionOf(g, s, sym, f.Numbers); ok {
				f.Captions[sym.ID] = c
			}
		}
	}
	return f
}

// Drawing is a whole sheet, ready to be drawn in order.
type Drawing struct {
	Sheet   *model.Sheet
	Page    geometry.Box
	Extent  geometry.Box
	Nodes   []Node
	Courses []routing.Course
	// Unrouted is how many of the courses are drawn plainly, since there is too much on the
	// sheet to lead each round the rest.
	Unrouted int
	Facts    Facts
	// Fonts are those of the typefaces of the map; none are the shipped ones.
	Fonts [typeset.Faces][]fonts.Font
}

// HasFonts reports whether texts of the map are set in other typefaces than the shipped one.
func (d *Drawing) HasFonts() bool {
	return slices.ContainsFunc(d.Fonts[:], func(list []fonts.Font) bool { return len(list) > 0 })
}

// View is a sheet as it is drawn in the look of its map.
type View struct {
	Map   *model.Map
	Sheet *model.Sheet
	Look  *looks.Look
	House typeset.House
}

// ViewOf returns the view of a sheet of a map.
func ViewOf(m *model.Map, s *model.Sheet) View {
	return View{m, s, looks.Of(m), typeset.HouseOf(m)}
}

// groundClass is the class of what belongs to the paper.
const groundClass = "ground"

// Background returns what lies behind everything on the sheet, its heading too; it may
// be empty.
func (v View) Background() Node {
	n := v.filled(v.Sheet.Page())
	v.backdrop(&n)
	if v.Sheet.Headed {
		v.addHeading(&n, v.Sheet.Page())
	}
	return n
}

// On returns what the sheet has of a page that need not be its own: its colour, frame and heading.
func (v View) On(page geometry.Box) Node {
	n := v.filled(page)
	if v.Sheet.Headed {
		v.addHeading(&n, page)
	}
	return n
}

// Behind returns what belongs to what is drawn on the sheet and lies behind it: its picture, and the bands of levels.
func (v View) Behind() Node {
	n := Node{ID: v.Sheet.ID, Class: groundClass}
	v.backdrop(&n)
	return n
}

func (v View) filled(page geometry.Box) Node {
	n := Node{ID: v.Sheet.ID, Class: groundClass}
	if g := v.Sheet.Background; g.Fill != "" {
		n.Shapes = append(n.Shapes, Shape{Fill: v.Look.Fill(g.Fill), Path: page.Outline()})
	}
	return n
}

func (v View) backdrop(n *Node) {
	if p := v.Map.Picture(v.Sheet.Background.Picture); p != nil {
		n.Images = append(n.Images, Image{Box: v.Sheet.Page(), Picture: p})
	}
	v.bands(n)
}

// Draw computes the picture of a sheet.
func Draw(m *model.Map, s *model.Sheet) *Drawing {
	return DrawKnowing(m, s, Know(m))
}

// DrawKnowing is Draw with the facts of the map at hand.
func DrawKnowing(m *model.Map, s *model.Sheet, facts Facts) *Drawing {
	d, _ := DrawUntil(m, s, facts, func() bool { return false })
	return d
}

// statesAtOnce is how many states of the search are looked at before a drawing asks whether
// it is still wanted: some hundredths of a second.
const statesAtOnce = 50_000

// DrawUntil is DrawKnowing that gives up when stop says so, which it is asked now and then.
func DrawUntil(m *model.Map, s *model.Sheet, facts Facts, stop func() bool) (d *Drawing, ok bool) {
	var r routing.Router
	for r.Begin(Links(m, s)); !r.Step(statesAtOnce); {
		if stop() {
			return nil, false
		}
	}
	d = &Drawing{Sheet: s, Page: s.Page(), Extent: s.Extent(), Facts: facts, Courses: r.Courses(),
		Fonts: typeset.FontsOf(m)}
	v := ViewOf(m, s)
	if n := v.Background(); len(n.Shapes)+len(n.Images) > 0 {
		d.Nodes = append(d.Nodes, n)
	}
	for _, p := range s.Pools {
		d.Nodes = append(d.Nodes, v.Pool(p))
	}
	meetings := new(Merger).Meet(s, d.Courses)
	for i, c := range s.Connectors {
		d.Nodes = append(d.Nodes, v.Connector(c, &d.Courses[i], meetings[i]))
	}
	around := facts.Around(s, d.Courses)
	for _, sym := range s.Symbols {
		x := facts.Of(s, sym)
		around.Complete(&x, sym.ID)
		d.Nodes = append(d.Nodes, v.Symbol(sym, x))
	}
	for i := range d.Nodes {
		d.Extent = d.Extent.Union(d.Nodes[i].Bounds())
	}
	if d.Unrouted = routing.CountUnrouted(d.Courses); d.Unrouted > 0 {
		at := geometry.Point{X: d.Extent.X + 8*px, Y: d.Extent.Bottom() + 24*px}
		st := typeset.Style{Size: typeset.NameSize, Fonts: v.House.Own}
		words := fmt.Sprintf("%d of %d connectors are drawn plainly: there is too much on this sheet to lead each round the rest.", d.Unrouted, len(d.Courses))
		d.Nodes = append(d.Nodes,
			Node{Class: "remark", At: at,
				Texts: []Text{{Anchor: typeset.Start, Style: st, Fill: v.Look.Ink, Text: words}}})
		d.Extent = d.Extent.Union(d.Nodes[len(d.Nodes)-1].Bounds().Grown(8 * px))
	}
	return d, true
}

// Content returns the box around all that is drawn, its paper with frame and heading left out of account.
func (d *Drawing) Content() geometry.Box {
	var out geometry.Box
	for i := range d.Nodes {
		if b := d.Nodes[i].Bounds(); d.Nodes[i].Class != groundClass && b != (geometry.Box{}) {
			if out == (geometry.Box{}) {
				out = b
			}
			out = out.Union(b)
		}
	}
	return out
}

// Apart returns the drawing without what belongs to its page: with the picture behind it, and without its colour, frame
// and heading.
func (d *Drawing) Apart(v View) *Drawing {
	out := *d
	out.Nodes = nil
	if n := v.Behind(); len(n.Shapes)+len(n.Images)+len(n.Texts) > 0 {
		out.Nodes = append(out.Nodes, n)
	}
	for _, n := range d.Nodes {
		if n.Class != groundClass {
			out.Nodes = append(out.Nodes, n)
		}
	}
	return &out
}

// Missing returns the characters of the drawing that none of its fonts has, each once, in order.
func (d *Drawing) Missing() []rune {
	var out []rune
	for i := range d.Nodes {
		for k := range d.Nodes[i].Texts {
			for _, t := range d.Nodes[i].Texts[k].Split() {
				for _, r := range t.Text {
					if !typeset.Has(r, t.Style) {
						out = append(out, r)
					}
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

// maxRemembered is the number of sizes and labels that are remembered.
const maxRemembered = 2000

// labelWidth is the width at which the label of a connector is wrapped.
const labelWidth = 140 * px
