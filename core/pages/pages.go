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
	// Smallest is the smallest size of type on it; zero without text.
	Smallest int
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
	// Tiled spreads a sheet over as many pages as it takes at its own size, instead of scaling it.
	Tiled bool
	// Margin is the room left at the edges of the paper, Overlap what neighbouring pages show both.
	Margin, Overlap int
}

// MM is a millimetre in hundredths of a CSS pixel (96 to the inch of 25.4 mm).
func MM(n float64) int { return int(n*9600/25.4 + 0.5) }

// maxTiles bounds the pages a sheet is spread over.
const maxTiles = 200

// Of lays one drawing out.
func Of(d *scene.Drawing, m *model.Map, w Options) ([]Page, error) {
	if w.Paper == "" {
		p := Page{W: d.Page.W, H: d.Page.H, Name: d.Sheet.Name}
		p.showSheet(d, geometry.Box{W: d.Page.W, H: d.Page.H}, m)
		return []Page{p}, nil
	}
	short, long := model.PaperSize(w.Paper, false)
	if short == 0 {
		return nil, fmt.Errorf("there is no paper %q", w.Paper)
	}
	ways := []geometry.Point{{X: long, Y: short}, {X: short, Y: long}}
	switch {
	case w.Across:
		ways = ways[:1]
	case w.Upright:
		ways = ways[1:]
	}
	if short-2*w.Margin < MM(20) || w.Tiled && short-2*w.Margin-w.Overlap < MM(20) {
		return nil, fmt.Errorf("the margins leave no room on %s", w.Paper)
	}
	if w.Tiled {
		return tiled(d, m, w, drawn(d), ways)
	}
	return []Page{fitted(d, m, w, d.Page, ways)}, nil
}

// edge is the room between what is scaled to fit a paper and its edge, or its frame.
const edge = 8 * px

// Fits returns the scale at which what is drawn on a sheet fits its paper: 1 where it does as it is.
func Fits(d *scene.Drawing) float64 {
	content := d.Content()
	if d.Page.Holds(content) {
		return 1
	}
	room := roomOn(d)
	return min(1, float64(room.W)/float64(content.W), float64(room.H)/float64(content.H))
}

// roomOn is where on its paper a drawing goes that has to be scaled.
func roomOn(d *scene.Drawing) geometry.Box {
	room := d.Sheet.Area().Grown(-edge)
	if d.Sheet.Headed {
		room.X, room.Y = room.X+model.FrameInset, room.Y+model.FrameInset
		room.W, room.H = room.W-2*model.FrameInset, room.H-model.FrameInset
	}
	return room
}

// showSheet shows a sheet with its paper on a part of the page. What is drawn beyond the edge of the
// paper is scaled with the rest until it fits; frame and heading stay those of the paper.
func (p *Page) showSheet(d *scene.Drawing, to geometry.Box, m *model.Map) {
	k := Fits(d)
	if d.Page.Holds(d.Content()) {
		p.Show(View{Drawing: d, From: d.Page, To: to}, m)
		return
	}
	paper, content := d.Apart()
	under := View{Drawing: paper, From: d.Page, To: to}
	p.Views = append(p.Views, under)
	from, room := d.Content(), roomOn(d)
	at := geometry.Around(room.Centre(), int(float64(from.W)*k), int(float64(from.H)*k))
	at, _ = under.Place(at)
	p.Show(View{Drawing: content, From: from, To: at}, m)
}

// drawn is the part of a drawing that tiles show: its own paper, and what lies off it.
func drawn(d *scene.Drawing) geometry.Box {
	if d.Page.Holds(d.Extent) {
		return d.Page
	}
	return d.Page.Union(d.Extent)
}

// fitted scales a drawing to one page, the way round that shows it larger.
func fitted(d *scene.Drawing, m *model.Map, w Options, area geometry.Box, ways []geometry.Point) Page {
	scale := func(size geometry.Point) float64 {
		return min(float64(size.X-2*w.Margin)/float64(area.W), float64(size.Y-2*w.Margin)/float64(area.H))
	}
	size := ways[0]
	for _, o := range ways[1:] {
		if scale(o) > scale(size) {
			size = o
		}
	}
	k := scale(size)
	to := geometry.Box{W: int(float64(area.W) * k), H: int(float64(area.H) * k)}
	to.X, to.Y = (size.X-to.W)/2, (size.Y-to.H)/2
	p := Page{W: size.X, H: size.Y, Name: d.Sheet.Name}
	p.showSheet(d, to, m)
	return p
}

// tiled spreads a drawing over pages at its own size, the way round that needs fewer of them.
func tiled(d *scene.Drawing, m *model.Map, w Options, area geometry.Box, ways []geometry.Point) ([]Page, error) {
	count := func(size geometry.Point) (cols, rows int) {
		over := func(whole, room int) int {
			if whole <= room {
				return 1
			}
			return (whole - w.Overlap + room - w.Overlap - 1) / (room - w.Overlap)
		}
		return over(area.W, size.X-2*w.Margin), over(area.H, size.Y-2*w.Margin)
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
				"or have it scaled to fit", d.Sheet.Name, cols*rows, w.Paper, maxTiles)
	}
	room := geometry.Point{X: size.X - 2*w.Margin, Y: size.Y - 2*w.Margin}
	var out []Page
	for row := range rows {
		for col := range cols {
			from := geometry.Box{X: area.X + col*(room.X-w.Overlap), Y: area.Y + row*(room.Y-w.Overlap), W: room.X,
				H: room.Y}
			p := Page{W: size.X, H: size.Y}
			if len(out) == 0 {
				p.Name = d.Sheet.Name
			}
			p.Show(View{Drawing: d, From: from, To: geometry.Box{X: w.Margin, Y: w.Margin, W: room.X, H: room.Y},
				Spread: true}, m)
			if cols*rows > 1 {
				p.Nodes = append(p.Nodes, marks(w, size, room, col, row, cols, rows, d.Sheet.Name))
			}
			out = append(out, p)
		}
	}
	return out, nil
}

// marks are what helps to join the pages of a sheet: lines to cut along, which page it is, and a plan of all.
func marks(w Options, size, room geometry.Point, col, row, cols, rows int, name string) scene.Node {
	const ink, hair = "#5b6670", 75
	n := scene.Node{ID: fmt.Sprintf("marks-%d-%d", col, row), Class: marksClass}
	line := func(path geometry.Path) {
		n.Shapes = append(n.Shapes, scene.Shape{Path: path, Stroke: ink, Width: hair})
	}
	length := min(w.Margin*2/3, 20*px)
	for _, x := range [2]int{w.Margin, size.X - w.Margin} {
		for _, y := range [2]int{w.Margin, size.Y - w.Margin} {
			dx, dy := -length, -length
			if x > w.Margin {
				dx = length
			}
			if y > w.Margin {
				dy = length
			}
			line(geometry.Path{}.Move(x+dx/4, y).Line(x+dx, y))
			line(geometry.Path{}.Move(x, y+dy/4).Line(x, y+dy))
		}
	}
	// The cells of the plan; the one that this page is is filled.
	cell := min(10*px, (w.Margin-6*px)/max(rows, 1))
	if cell >= 2*px {
		left, top := size.X-w.Margin-length-4*px-cols*cell, size.Y-(w.Margin+rows*cell)/2
		for r := range rows {
			for c := range cols {
				b := geometry.Box{X: left + c*cell, Y: top + r*cell, W: cell, H: cell}
				s := scene.Shape{Path: b.Outline(), Stroke: ink, Width: hair}
				if c == col && r == row {
					s.Fill = ink
				}
				n.Shapes = append(n.Shapes, s)
			}
		}
	}
	st := typeset.Style{Size: min(9*px, w.Margin/3)}
	words := fmt.Sprintf("%s: page %d of %d, column %d, row %d", name, row*cols+col+1, cols*rows, col+1, row+1)
	n.Texts = append(n.Texts, scene.Text{X: w.Margin + length + 4*px, Y: size.Y - w.Margin/2 + st.Size/3,
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
	if size := int(float64(SmallestIn(v.Drawing, v.From)) * v.Scale()); size > 0 && (p.Smallest == 0 ||
		size < p.Smallest) {
		p.Smallest = size
	}
}

// SmallestIn returns the smallest size of type in a part of a drawing; zero without text.
func SmallestIn(d *scene.Drawing, part geometry.Box) (least int) {
	for i := range d.Nodes {
		n := &d.Nodes[i]
		of := least
		for j := range n.Texts {
			if size := n.Texts[j].Style.Size; of == 0 || size < of {
				of = size
			}
		}
		if of != least && part.Meets(n.Bounds()) {
			least = of
		}
	}
	return least
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
