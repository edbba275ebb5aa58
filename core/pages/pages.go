// Package pages lays sheets out on pages: each on its own paper, scaled to fit another one, or spread over several
// smaller ones that are cut and joined. What prints, and the previews of it, draw the same pages.
package pages

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

const px = geometry.Px

// Page is one page, in hundredths of a CSS pixel.
type Page struct {
	W, H int
	// Name is what a table of contents says of it; empty where another page speaks for it.
	Name string
	// Views are the drawings on it, Nodes what it says itself, over them.
	Views []View
	Nodes []scene.Node
	// Anchors are the places on it that can be led to, Links those that lead to one.
	Anchors []Anchor
	Links   []Link
	// Smallest is the smallest size of type on it, Said that of what things say, numbers and values beside that left
	// out; zero without text.
	Smallest, Said int
}

// View shows a part of a drawing on a part of a page, of the same proportions.
type View struct {
	Drawing  *scene.Drawing
	From, To geometry.Box
	// ID is that by which an Element holds all of it as one picture; empty where its nodes are read one by one. Spread
	// says that the drawing is spread over pages, so that what several of them show is read once.
	ID     string
	Spread bool
}

// Scale is how much larger than itself the drawing is.
func (v *View) Scale() float64 { return float64(v.To.W) / float64(v.From.W) }

// Place returns where a box of the drawing is on the page, and whether all of it can be seen there.
func (v *View) Place(b geometry.Box) (on geometry.Box, seen bool) {
	k := v.Scale()
	at := func(p, from, to int) int { return to + int(float64(p-from)*k) }
	on = geometry.Box{X: at(b.X, v.From.X, v.To.X), Y: at(b.Y, v.From.Y, v.To.Y), W: int(float64(b.W) * k),
		H: int(float64(b.H) * k)}
	return on, v.From.Holds(b)
}

// holds is the id of what a node is read with.
func (v *View) holds(id string) string {
	if v.ID != "" {
		return v.ID
	}
	return id
}

// Anchor is a place on a page under an id. One with a title is listed in the contents, Level deep from zero.
type Anchor struct {
	ID string
	geometry.Box
	Title string
	Level int
}

// StepAnchor begins the ids under which documents keep what they say of a step; its own id follows.
const StepAnchor = "step-"

// Link leads from a place on a page to the anchor of an id, or to an address. Of is the id of the node, or of the view,
// that it stands on; empty where it stands on none.
type Link struct {
	geometry.Box
	To, Of string
}

// Options says on which paper sheets go. The zero value is their own.
type Options struct {
	// Paper is the name of the paper; empty for that of each sheet.
	Paper string
	// Across lays it on its long side, Upright on its short one; neither chooses what serves better.
	Across, Upright bool
	// Tiled spreads a sheet over as many pages as it takes at its own size, instead of scaling it. So is one of which
	// something that is said would come out smaller than Least; zero takes it however small.
	Tiled bool
	Least int
	// Margin is the room left at the edges of the paper, Overlap what neighbouring pages show both.
	Margin, Overlap int
}

// SmallType is the smallest size of text that is read well on paper, in points; SmallSize the same in hundredths of a
// CSS pixel, of which 96 are 72 points.
const (
	SmallType = 6
	SmallSize = SmallType * px * 96 / 72
)

// MM is a millimetre in hundredths of a CSS pixel (96 to the inch of 25.4 mm).
func MM(n float64) int { return int(n*9600/25.4 + 0.5) }

// maxTiles bounds the pages a sheet is spread over.
const maxTiles = 200

// edge is the room between what is drawn on a paper and its edge, or its frame, where it is scaled to fit.
const edge = 8 * px

// laying is one drawing that is laid out.
type laying struct {
	Options
	d *scene.Drawing
	m *model.Map
	// content is what is drawn, without what belongs to its page; area the part of the sheet that is shown: that which
	// its page has for drawing, or what is drawn where that goes beyond it.
	content *scene.Drawing
	area    geometry.Box
}

// Of lays one drawing out. Frame and heading are those of the paper that it goes on, on each of its pages.
func Of(d *scene.Drawing, m *model.Map, w Options) ([]Page, error) {
	drawn := d.Content()
	if w.Paper == "" && !w.Tiled && d.Page.Holds(drawn) {
		p := Page{W: d.Page.W, H: d.Page.H, Name: d.Sheet.Name}
		p.Show(View{Drawing: d, From: d.Page, To: geometry.Box{W: d.Page.W, H: d.Page.H}}, m)
		return []Page{p}, nil
	}
	l := laying{w, d, m, d.Apart(scene.ViewOf(m, d.Sheet)), within(d)}
	if !l.area.Holds(drawn) {
		l.area = drawn
		if m.Picture(d.Sheet.Background.Picture) != nil {
			l.area = l.area.Union(d.Page)
		}
	}
	ways := []geometry.Point{{X: d.Page.W, Y: d.Page.H}}
	if w.Paper != "" {
		short, long := model.PaperSize(w.Paper, false)
		if short == 0 {
			return nil, fmt.Errorf("there is no paper %q", w.Paper)
		}
		ways = []geometry.Point{{X: long, Y: short}, {X: short, Y: long}}
		switch {
		case w.Across:
			ways = ways[:1]
		case w.Upright:
			ways = ways[1:]
		}
	}
	for _, size := range ways {
		room := l.room(size, true)
		if min(room.W, room.H) < MM(20) || w.Tiled && min(room.W, room.H)-w.Overlap < MM(20) {
			return nil, fmt.Errorf("the margins leave no room on %s", w.Paper)
		}
	}
	if w.Tiled {
		return l.tiled(ways)
	}
	p := l.fitted(ways)
	if k := p.Views[len(p.Views)-1].Scale(); k < 1 && p.Said < w.Least {
		// What would take too many pages is scaled all the same.
		if list, err := l.tiled(ways); err == nil {
			return list, nil
		}
	}
	return []Page{p}, nil
}

// Fits returns the scale at which what is drawn on a sheet fits its paper: 1 where it does as it is.
func Fits(d *scene.Drawing) float64 {
	content := d.Content()
	if d.Page.Holds(content) {
		return 1
	}
	room := within(d).Grown(-edge)
	return min(1, float64(room.W)/float64(content.W), float64(room.H)/float64(content.H))
}

// within is the part of its page that a sheet has for drawing.
func within(d *scene.Drawing) geometry.Box { return inside(d.Page, d.Sheet.Headed) }

// inside is the part of a page for drawing: inside the frame and over the heading, where it has them.
func inside(page geometry.Box, headed bool) geometry.Box {
	if headed {
		strip := model.HeadingOn(page)
		page = page.Grown(-model.FrameInset)
		page.H = strip.Y - page.Y
	}
	return page
}

// frame is the part of a paper on which frame and heading are drawn as they are on a page: its frame stands at the
// margin, but on the sheet's own paper where it always is.
func (l *laying) frame(size geometry.Point) geometry.Box {
	page := geometry.Box{W: size.X, H: size.Y}
	if l.Paper == "" {
		return page
	}
	return page.Grown(-max(0, l.Margin-model.FrameInset))
}

// room is the part of a paper that the drawing takes. What fills it to the edge keeps away from the frame.
func (l *laying) room(size geometry.Point, full bool) geometry.Box {
	if l.d.Sheet.Headed {
		room := inside(l.frame(size), true)
		if full {
			room = room.Grown(-edge)
		}
		return room
	}
	page := geometry.Box{W: size.X, H: size.Y}
	if l.Paper == "" {
		return page.Grown(-edge)
	}
	return page.Grown(-l.Margin)
}

// page begins a page with what the sheet has of it.
func (l *laying) page(size geometry.Point, name string) Page {
	p := Page{W: size.X, H: size.Y, Name: name}
	on := l.frame(size)
	if !l.d.Sheet.Headed {
		on = geometry.Box{W: size.X, H: size.Y}.Grown(-l.Margin)
	}
	if n := scene.ViewOf(l.m, l.d.Sheet).On(on); len(n.Shapes) > 0 {
		ground := *l.d
		ground.Nodes = []scene.Node{n}
		p.Views = append(p.Views, View{Drawing: &ground, From: on, To: on})
	}
	return p
}

// fitted scales a drawing to one page, the way round that shows it larger. Its own paper does not enlarge it.
func (l *laying) fitted(ways []geometry.Point) Page {
	full := l.area != within(l.d)
	scale := func(size geometry.Point) float64 {
		room := l.room(size, full)
		k := min(float64(room.W)/float64(l.area.W), float64(room.H)/float64(l.area.H))
		if l.Paper == "" {
			k = min(k, 1)
		}
		return k
	}
	size := ways[0]
	for _, o := range ways[1:] {
		if scale(o) > scale(size) {
			size = o
		}
	}
	k := scale(size)
	p := l.page(size, l.d.Sheet.Name)
	p.Show(View{Drawing: l.content, From: l.area, To: geometry.Around(l.room(size, full).Centre(),
		int(float64(l.area.W)*k), int(float64(l.area.H)*k))}, l.m)
	return p
}

// tiled spreads a drawing over pages at its own size, the way round that needs fewer of them. Pages on which nothing
// would be drawn are left out.
func (l *laying) tiled(ways []geometry.Point) ([]Page, error) {
	area := l.content.Content().Grown(edge).Whole()
	if l.m.Picture(l.d.Sheet.Background.Picture) != nil || area.W == 2*edge {
		area = l.area
	}
	count := func(size geometry.Point) (cols, rows int) {
		over := func(whole, room int) int {
			if whole <= room {
				return 1
			}
			return (whole - l.Overlap + room - l.Overlap - 1) / (room - l.Overlap)
		}
		room := l.room(size, true)
		return over(area.W, room.W), over(area.H, room.H)
	}
	size := ways[0]
	cols, rows := count(size)
	for _, o := range ways[1:] {
		if c, r := count(o); c*r < cols*rows {
			size, cols, rows = o, c, r
		}
	}
	if cols*rows > maxTiles {
		return nil,
			fmt.Errorf("the sheet %q would take %d pages of %s; %d are the most. Choose a larger paper, "+
				"or have it scaled to fit", l.d.Sheet.Name, cols*rows, l.Paper, maxTiles)
	}
	room := l.room(size, true)
	plan := tiling{cols: cols, rows: rows, name: l.d.Sheet.Name, room: room, headed: l.d.Sheet.Headed}
	from := func(col, row int) geometry.Box {
		return geometry.Box{X: area.X + col*(room.W-l.Overlap), Y: area.Y + row*(room.H-l.Overlap), W: room.W,
			H: room.H}
	}
	for row := range rows {
		for col := range cols {
			// What lies in the overlap is on the page before as well.
			own := from(col, row)
			if col > 0 {
				own.X, own.W = own.X+l.Overlap, own.W-l.Overlap
			}
			if row > 0 {
				own.Y, own.H = own.Y+l.Overlap, own.H-l.Overlap
			}
			if cols*rows == 1 || drawnIn(l.content, own) {
				plan.used = append(plan.used, geometry.Point{X: col, Y: row})
			}
		}
	}
	var out []Page
	for i, at := range plan.used {
		name := ""
		if i == 0 {
			name = l.d.Sheet.Name
		}
		p := l.page(size, name)
		p.Show(View{Drawing: l.content, From: from(at.X, at.Y), To: room, Spread: true}, l.m)
		if cols*rows > 1 {
			p.Nodes = append(p.Nodes, plan.marks(l.Options, size, i))
		}
		out = append(out, p)
	}
	return out, nil
}

// drawnIn reports whether a line, a text or a picture of a drawing lies in a part of it. The inside of what is filled
// alone is nothing to be looked at.
func drawnIn(d *scene.Drawing, part geometry.Box) bool {
	for i := range d.Nodes {
		n := &d.Nodes[i]
		if !part.Meets(n.Bounds()) {
			continue
		}
		texts := *n
		texts.Shapes = nil
		if b := texts.Bounds(); len(n.Texts)+len(n.Images) > 0 && part.Meets(b) {
			return true
		}
		for k := range n.Shapes {
			for _, line := range n.Shapes[k].Path.Flatten() {
				for j := 1; j < len(line); j++ {
					if part.Touches(line[j-1].Add(n.At), line[j].Add(n.At)) {
						return true
					}
				}
			}
		}
	}
	return false
}

// tiling is how a sheet is spread: which pages there are, by their columns and rows, and where on each it is drawn.
type tiling struct {
	cols, rows int
	used       []geometry.Point
	name       string
	room       geometry.Box
	headed     bool
}

// marks are what helps to join the pages of a sheet: lines to cut along where there is no frame, which page it is, and
// a plan of all.
func (t *tiling) marks(w Options, size geometry.Point, i int) scene.Node {
	const ink, hair = "#5b6670", 75
	at := t.used[i]
	n := scene.Node{ID: fmt.Sprintf("marks-%d-%d", at.X, at.Y), Class: marksClass}
	line := func(path geometry.Path) {
		n.Shapes = append(n.Shapes, scene.Shape{Path: path, Stroke: ink, Width: hair})
	}
	length := min(w.Margin*2/3, 20*px)
	for _, x := range [2]int{t.room.X, t.room.Right()} {
		for _, y := range [2]int{t.room.Y, t.room.Bottom()} {
			if t.headed || w.Paper == "" {
				continue
			}
			dx, dy := -length, -length
			if x > t.room.X {
				dx = length
			}
			if y > t.room.Y {
				dy = length
			}
			line(geometry.Path{}.Move(x+dx/4, y).Line(x+dx, y))
			line(geometry.Path{}.Move(x, y+dy/4).Line(x, y+dy))
		}
	}
	margin := max(w.Margin, model.FrameInset)
	if w.Paper == "" {
		margin = model.FrameInset
	}
	// The cells of the plan; the one that this page is is filled.
	cell := min(10*px, (margin-6*px)/max(t.rows, 1))
	if cell >= 2*px {
		left, top := size.X-margin-length-4*px-t.cols*cell, size.Y-(margin+t.rows*cell)/2
		for _, u := range t.used {
			b := geometry.Box{X: left + u.X*cell, Y: top + u.Y*cell, W: cell, H: cell}
			s := scene.Shape{Path: b.Outline(), Stroke: ink, Width: hair}
			if u == at {
				s.Fill = ink
			}
			n.Shapes = append(n.Shapes, s)
		}
	}
	st := typeset.Style{Size: max(min(9*px, margin/3), 8*px)}
	words := fmt.Sprintf("%s: page %d of %d, column %d, row %d", t.name, i+1, len(t.used), at.X+1, at.Y+1)
	n.Texts = append(n.Texts, scene.Text{X: margin + length + 4*px, Y: size.Y - margin/2 + st.Size/3,
		Anchor: typeset.Start, Style: st, Fill: ink, Text: words})
	return n
}

// Show puts a view on a page, with the places in it that can be led to and lead on.
func (p *Page) Show(v View, m *model.Map) {
	p.Views = append(p.Views, v)
	for _, sym := range v.Drawing.Sheet.Symbols {
		on, seen := v.Place(sym.Box)
		if !seen {
			continue
		}
		p.Anchors = append(p.Anchors, Anchor{ID: sym.ID, Box: on})
		if to := m.LeadsAway(sym); to != "" {
			p.Links = append(p.Links, Link{on, to, v.holds(sym.ID)})
		} else if sym.Kind.IsStep() { // to what a document says of it
			p.Links = append(p.Links, Link{on, StepAnchor + sym.ID, v.holds(sym.ID)})
		}
	}
	for i := range v.Drawing.Nodes {
		n := &v.Drawing.Nodes[i]
		if !v.From.Meets(n.Bounds()) {
			continue
		}
		for _, l := range n.Leads {
			if on, seen := v.Place(l.Box.Moved(n.At)); seen {
				p.Links = append(p.Links, Link{on, strings.TrimPrefix(l.To, "#"), v.holds(n.ID)})
			}
		}
	}
	least, said := SmallestIn(v.Drawing, v.From)
	for _, of := range [...]struct {
		size  int
		among *int
	}{{least, &p.Smallest}, {said, &p.Said}} {
		size := int(float64(of.size) * v.Scale())
		if size > 0 && (*of.among == 0 || size < *of.among) {
			*of.among = size
		}
	}
}

// SmallestIn returns the smallest size of type in a part of a drawing, and the smallest of what things say: numbers
// and values beside the text of a thing are left out of that. Both are zero without text.
func SmallestIn(d *scene.Drawing, part geometry.Box) (least, said int) {
	for i := range d.Nodes {
		n := &d.Nodes[i]
		small, large := 0, 0
		for j := range n.Texts {
			size := n.Texts[j].Style.Size
			large = max(large, size)
			if small == 0 || size < small {
				small = size
			}
		}
		under := small > 0 && (least == 0 || small < least || large < said)
		if under && part.Meets(n.Bounds()) {
			if least == 0 || small < least {
				least = small
			}
			if said == 0 || large < said {
				said = large
			}
		}
	}
	return least, said
}

// soft is the colour of what pages say of themselves.
const soft = "#5b6773"

// Foot puts words at the right end of the foot of a page: in the middle of its margin, but no further from its edge
// than the frame of a sheet. What helps to join pages has its place there, and says itself which page it is.
func (p *Page) Foot(words string, margin int) {
	if slices.ContainsFunc(p.Nodes, func(n scene.Node) bool { return n.Class == marksClass }) {
		return
	}
	st := typeset.Style{Size: 11 * px}
	x, y := p.W-margin, p.H-margin/2
	if margin < 2*model.FrameInset {
		st.Size = 9 * px
		x, y = p.W-model.FrameInset, p.H-(model.FrameInset-st.Size)
	}
	p.Nodes = append(p.Nodes, scene.Node{ID: "foot", Class: FootClass,
		Texts: []scene.Text{{X: x, Y: y, Anchor: typeset.End, Style: st, Fill: soft, Text: words}}})
}

// Smallest returns the smallest size of type on pages, in points of paper (72 to the inch); zero without text.
func Smallest(list []Page) float64 {
	least := 0
	for _, p := range list {
		if p.Smallest > 0 && (least == 0 || p.Smallest < least) {
			least = p.Smallest
		}
	}
	return float64(least) / px * 0.75
}

// Find returns the page on which an id can be led to, and where; -1 where none has it.
func Find(list []Page, id string) (page int, at geometry.Box) {
	for i := range list {
		if k := slices.IndexFunc(list[i].Anchors, func(a Anchor) bool { return a.ID == id }); k >= 0 {
			return i, list[i].Anchors[k].Box
		}
	}
	return -1, geometry.Box{}
}
