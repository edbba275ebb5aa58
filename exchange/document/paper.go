package document

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

const px = geometry.Px

const (
	ink, soft, accent = "#22303c", "#5b6773", "#1f6b52"
	// indent is that of what belongs to a number, or to a bullet.
	indent = 34 * px
)

// look is how a kind of block is set: its style, the room before it, where it begins, and in which colour.
type look struct {
	style  typeset.Style
	before int
	indent int
	fill   string
}

// Sizes are in pixels of 1/96 inch: 14 of them are 10.5 points.
var setAs = map[Kind]look{
	Title:      {typeset.Style{Size: 27 * px, Bold: true}, 0, 0, ink},
	Facts:      {typeset.Style{Size: 13 * px}, 3 * px, 0, soft},
	Heading:    {typeset.Style{Size: 18 * px, Bold: true}, 22 * px, 0, ink},
	Paragraph:  {typeset.Style{Size: 14 * px}, 7 * px, 0, ink},
	Item:       {typeset.Style{Size: 14 * px}, 4 * px, 14 * px, ink},
	Step:       {typeset.Style{Size: 14 * px}, 9 * px, indent, ink},
	Under:      {typeset.Style{Size: 13 * px}, 3 * px, indent, soft},
	Section:    {typeset.Style{Size: 15 * px, Bold: true}, 16 * px, 0, ink},
	Picture:    {typeset.Style{Size: 12 * px}, 3 * px, 0, soft},
	Subsection: {typeset.Style{Size: 14 * px, Bold: true}, 14 * px, 0, ink},
}

// headings are the kinds that begin a part, each inside those before it.
var headings = []Kind{Heading, Section, Subsection}

// Pages sets blocks on pages of a paper, upright, each drawing where its picture stands: between the texts where it can
// be read there, or else on a page of its own. Drawings that no block shows stand behind them. It returns the pages,
// and what is read on them.
func Pages(blocks []Block, m *model.Map, drawings []*scene.Drawing, paper string, margin int) ([]pages.Page,
	[]pages.Element, error) {
	w, h := model.PaperSize(paper, false)
	if w == 0 {
		return nil, nil, fmt.Errorf("there is no paper %q", paper)
	}
	s := setter{w: w, h: h, margin: margin, m: m, drawings: map[string]*scene.Drawing{}}
	for _, d := range drawings {
		s.drawings[d.Sheet.ID] = d
	}
	if w-2*margin < 200*px || h-2*margin < 200*px {
		return nil, nil, fmt.Errorf("the margins leave no room on %s", paper)
	}
	s.turn()
	s.list[0].Name = blocks[0].Text()
	for i := range blocks {
		b := &blocks[i]
		switch b.Kind {
		case Contents:
			continue
		case Table:
			s.table(i, b)
			continue
		case Picture:
			if err := s.picture(i, b); err != nil {
				return nil, nil, err
			}
			continue
		}
		// What stands under a step, and what follows a heading, goes with it onto a new page.
		need := s.height(b)
		for k := i + 1; k < len(blocks) && (blocks[k].Kind == Under ||
			slices.Contains(headings, blocks[k-1].Kind)); k++ {
			need += s.height(&blocks[k])
		}
		if s.y > margin && s.y+min(need, h-2*margin) > h-margin {
			s.turn()
		}
		s.set(i, b)
	}
	for _, d := range drawings {
		if s.drawings[d.Sheet.ID] == nil {
			continue
		}
		if err := s.behind(d, d.Sheet.Name); err != nil {
			return nil, nil, err
		}
	}
	for _, own := range s.waiting {
		s.list = append(s.list, own...)
	}
	for i := range s.list {
		words, err := pageWords(i+1, len(s.list))
		if err != nil {
			return nil, nil, err
		}
		s.list[i].Foot(words, margin)
	}
	return s.list, s.read, nil
}

// setter sets blocks one below the other.
type setter struct {
	w, h, margin, y int
	list            []pages.Page
	m               *model.Map
	// drawings are those that are not shown yet, by their sheets; waiting are the pages of those that have some.
	drawings map[string]*scene.Drawing
	waiting  [][]pages.Page
	// read is what is read.
	read []pages.Element
}

// turn begins a page, behind the drawings that wait for one of their own.
func (s *setter) turn() {
	for _, own := range s.waiting {
		s.list = append(s.list, own...)
	}
	s.waiting = nil
	s.list = append(s.list, pages.Page{W: s.w, H: s.h})
	s.y = s.margin
}

// inline is what is seen of a drawing between the texts, and how large; zero where its texts would be too small for
// reading. The frame of its sheet and the room around what is drawn are left out.
func (s *setter) inline(d *scene.Drawing) (part geometry.Box, w, h int) {
	part = d.Content().Grown(8 * px)
	if !d.Page.Holds(part) {
		part = d.Extent
	}
	k := min(1, float64(s.w-2*s.margin)/float64(part.W), float64(s.h-2*s.margin)*0.8/float64(part.H))
	if _, said := pages.SmallestIn(d, part); k*float64(said) < pages.SmallSize {
		return part, 0, 0
	}
	return part, int(float64(part.W) * k), int(float64(part.H) * k)
}

// over is the room over a picture.
const over = 10 * px

// picture puts the drawing of a sheet where it stands, with its words under it; or these alone, and leads on to the
// page of its own that it takes where it could not be read there.
func (s *setter) picture(i int, b *Block) error {
	d := s.drawings[b.ID]
	if d == nil {
		return nil
	}
	delete(s.drawings, b.ID)
	part, w, h := s.inline(d)
	if w == 0 {
		b := *b
		b.Runs = slices.Clone(b.Runs)
		for k := range b.Runs {
			b.Runs[k].Sheet = d.Sheet.ID
		}
		s.set(i, &b)
		s.read[len(s.read)-1].Type = pages.Paragraph
		return s.behind(d, "")
	}
	if s.y > s.margin && s.y+s.height(b) > s.h-s.margin {
		s.turn()
	}
	s.y += over
	view := pages.View{Drawing: d, From: part, To: geometry.Box{X: (s.w - w) / 2, Y: s.y, W: w, H: h},
		ID: fmt.Sprint("picture-", i)}
	s.list[len(s.list)-1].Show(view, s.m)
	s.y += h
	s.set(i, b)
	last := len(s.read) - 1
	s.read[last] = pages.Element{Type: pages.Figure, Of: view.ID, Alt: b.Text(), Kids: []pages.Element{s.read[last]}}
	s.y += over
	return nil
}

// behind gives a drawing pages of its own, as large as its paper, behind the page under way; a name is listed in the
// contents.
func (s *setter) behind(d *scene.Drawing, name string) error {
	delete(s.drawings, d.Sheet.ID)
	own, err := pages.Of(d, s.m, pages.Options{Least: pages.SmallSize, Overlap: pages.MM(10)})
	if err != nil {
		return err
	}
	own[0].Name = name
	own[0].Anchors = append(own[0].Anchors, pages.Anchor{ID: d.Sheet.ID, Box: geometry.Box{W: own[0].W, H: own[0].H}})
	alt := d.Sheet.Name
	for i := range own {
		for k := range own[i].Views {
			v := &own[i].Views[k]
			v.ID = fmt.Sprintf("drawing-%s-%d-%d", d.Sheet.ID, i, k)
			s.read = append(s.read, pages.Element{Type: pages.Figure, Of: v.ID, Alt: alt})
		}
	}
	s.waiting = append(s.waiting, own)
	return nil
}

// word is a word with where it leads, an anchor or an address. One that continues has no space before it.
type word struct {
	text, to  string
	continues bool
	// breaks says that it begins a line.
	breaks bool
}

func wordsOf(runs []Run) []word {
	var out []word
	gap := true
	for _, r := range runs {
		to := r.Address
		switch {
		case r.To != "":
			to = pages.StepAnchor + r.To
		case r.Sheet != "":
			to = r.Sheet
		}
		for n, line := range strings.Split(r.Text, "\n") {
			breaks := n > 0
			gap = gap || breaks
			for i, part := range strings.SplitAfter(line, " ") {
				text := strings.TrimRight(part, " ")
				if text != "" {
					out = append(
						out,
						word{text: text, to: to, continues: !gap && i == 0 && len(out) > 0, breaks: breaks},
					)
					gap, breaks = false, false
				}
				if strings.HasSuffix(part, " ") {
					gap = true
				}
			}
		}
	}
	return out
}

// lines breaks words into lines of a width.
func lines(words []word, st typeset.Style, width int) [][]word {
	var out [][]word
	space := typeset.Measure(" ", st)
	x := 0
	for i := 0; i < len(words); {
		// What no space parts stays together.
		n, all := i+1, typeset.Measure(words[i].text, st)
		for n < len(words) && words[n].continues {
			all += typeset.Measure(words[n].text, st)
			n++
		}
		if len(out) == 0 || (x+space+all > width || words[i].breaks) && x > 0 {
			out, x = append(out, nil), 0
		}
		if x > 0 {
			x += space
		}
		out[len(out)-1] = append(out[len(out)-1], words[i:n]...)
		x += all
		i = n
	}
	return out
}

func (s *setter) height(b *Block) int {
	if b.Kind == Table { // its first rows go along with what stands before it
		return 4 * cellStyle.LineHeight()
	}
	l := setAs[b.Kind]
	text := l.before + len(lines(wordsOf(b.Runs), l.style, s.w-2*s.margin-l.indent))*l.style.LineHeight()
	if d := s.drawings[b.ID]; b.Kind == Picture && d != nil {
		if _, w, h := s.inline(d); w > 0 {
			return over + h + text
		}
	}
	return text
}

// tell adds an element to what is read. What follows an item of a list, or stands under one, becomes part of the list.
func (s *setter) tell(b *Block, e pages.Element, label string) {
	if b.Kind != Step && b.Kind != Item && b.Kind != Under {
		s.read = append(s.read, e)
		return
	}
	how := "Disc"
	if b.Kind == Step {
		how = "Decimal"
	}
	var list *pages.Element
	if n := len(s.read); n > 0 && s.read[n-1].Type == pages.List && (b.Kind == Under || s.read[n-1].How == how) {
		list = &s.read[n-1]
	}
	if b.Kind == Under {
		if list == nil { // under something else
			s.read = append(s.read, e)
			return
		}
		body := &list.Kids[len(list.Kids)-1].Kids[1]
		body.Kids = append(body.Kids, e)
		return
	}
	if list == nil {
		s.read = append(s.read, pages.Element{Type: pages.List, How: how})
		list = &s.read[len(s.read)-1]
	}
	list.Kids = append(list.Kids, pages.Element{Type: pages.ListItem, Kids: []pages.Element{
		{Type: pages.Label, Of: label}, {Type: pages.ItemBody, Kids: []pages.Element{e}}}})
}

// typeOf is what the text of a block is read as. The title is the first heading, those of parts are under it.
func typeOf(kind Kind) string {
	switch kind {
	case Title:
		return "H1"
	case Picture:
		return pages.Caption
	}
	if level := slices.Index(headings, kind); level >= 0 {
		return fmt.Sprintf("H%d", level+2)
	}
	return pages.Paragraph
}

// set sets a block, over as many pages as it takes.
func (s *setter) set(at int, b *Block) {
	l := setAs[b.Kind]
	if s.y > s.margin {
		s.y += l.before
	}
	label := ""
	switch b.Kind {
	case Step:
		label = mark(b.Number)
	case Item:
		label = "•"
	}
	labelled := fmt.Sprintf("block-%d-label", at)
	read := pages.Element{Type: typeOf(b.Kind)}
	set := lines(wordsOf(b.Runs), l.style, s.w-2*s.margin-l.indent)
	part, to := -1, "" // the stretch of the text that is read as one, and where it leads
	for k, line := range set {
		if s.y+l.style.LineHeight() > s.h-s.margin {
			s.turn()
		}
		p := &s.list[len(s.list)-1]
		base := s.y + l.style.Baseline()
		if k == 0 {
			if label != "" {
				p.Nodes = append(p.Nodes, scene.Node{ID: labelled, Class: "block", Texts: []scene.Text{{
					X: s.margin + l.indent - 6*px, Y: base, Anchor: typeset.End, Style: l.style, Fill: l.fill,
					Text: label}}})
			}
			if b.Kind == Step {
				box := geometry.Box{X: s.margin, Y: s.y, W: l.indent, H: l.style.LineHeight()}
				p.Anchors = append(p.Anchors, pages.Anchor{ID: pages.StepAnchor + b.ID, Box: box})
				p.Links = append(p.Links, pages.Link{Box: box, To: b.ID, Of: labelled})
			}
			if level := slices.Index(headings, b.Kind); level >= 0 {
				p.Anchors = append(p.Anchors, pages.Anchor{Box: geometry.Box{Y: s.y}, Title: b.Text(), Level: level +
					1})
			}
		}
		x := s.margin + l.indent
		// Neighbouring words that lead to the same are one text.
		for i := 0; i < len(line); {
			text, leads := line[i].text, line[i].to
			for i++; i < len(line) && line[i].to == leads; i++ {
				if !line[i].continues {
					text += " "
				}
				text += line[i].text
			}
			// A space parts it from what follows on the line, or on the next.
			width := typeset.Measure(text, l.style)
			if i < len(line) && !line[i].continues || i == len(line) && k+1 < len(set) {
				text += " "
			}
			if part < 0 || leads != to {
				part, to = part+1, leads
				kind := ""
				if leads != "" {
					kind = pages.Leading
				}
				read.Kids = append(read.Kids, pages.Element{Type: kind, Of: fmt.Sprintf("block-%d-%d", at, part)})
			}
			of := read.Kids[len(read.Kids)-1].Of
			fill := l.fill
			if to != "" {
				fill = accent
				p.Links = append(p.Links, pages.Link{Box: geometry.Box{X: x, Y: s.y, W: width, H: l.style.LineHeight()},
					To: to, Of: of})
			}
			one := scene.Text{X: x, Y: base, Anchor: typeset.Start, Style: l.style, Fill: fill, Text: text}
			if n := len(p.Nodes); n > 0 && p.Nodes[n-1].ID == of {
				p.Nodes[n-1].Texts = append(p.Nodes[n-1].Texts, one)
			} else {
				p.Nodes = append(p.Nodes, scene.Node{ID: of, Class: "block", Texts: []scene.Text{one}})
			}
			x += typeset.Measure(text, l.style)
		}
		s.y += l.style.LineHeight()
	}
	if len(set) > 0 {
		s.tell(b, read, labelled)
	}
}

// How the cells of tables are set, and the room around their texts.
var cellStyle = typeset.Style{Size: 12 * px}

const cellRoom = 5 * px

// columns shares the room between the columns of a table: each gets what its longest word takes; what is left goes to
// those first whose texts need least of it to stand in one line. Texts are taken to be so many per cent as wide as in
// the typeface of ours.
func columns(rows [][]string, room, percent int) []int {
	n := len(rows[0])
	out, need, order := make([]int, n), make([]int, n), make([]int, n)
	total := 0
	for k := range n {
		wish := 0
		for i, row := range rows {
			style := cellStyle
			style.Bold = i == 0 || k == 0 // as it may be set
			for _, w := range strings.Fields(row[k]) {
				out[k] = max(out[k], typeset.Measure(w, style)*percent/100+2*cellRoom+px)
			}
			wish = max(wish, typeset.Measure(row[k], style)*percent/100+2*cellRoom+2*px)
		}
		out[k] = max(out[k], 4*cellRoom)
		need[k], order[k] = max(wish-out[k], 0), k
		total += out[k]
	}
	if total > room { // words are cut
		for k := range out {
			out[k] = room * out[k] / total
		}
		return out
	}
	rest := room - total
	slices.SortStableFunc(order, func(a, b int) int { return need[a] - need[b] })
	for i, k := range order {
		more := min(need[k], rest/(n-i))
		out[k] += more
		rest -= more
	}
	return out
}

// columnsOn are the widths of the columns of a table between the margins of A4, as word processors are told. These take
// another typeface, which may be wider, where ours is not on the machine.
func columnsOn(rows [][]string) []int { return columns(rows, pages.MM(170), 130) }

// table sets a table, its head at the top of every page that it reaches over.
func (s *setter) table(i int, b *Block) {
	widths := columns(b.Rows, s.w-2*s.margin, 100)
	read := pages.Element{Type: pages.Table}
	height := func(row []string) int {
		most := 1
		for c, cell := range row {
			most = max(most, len(lines(wordsOf([]Run{{Text: cell}}), cellStyle, widths[c]-2*cellRoom)))
		}
		return most*cellStyle.LineHeight() + 2*cellRoom
	}
	// put sets a row, which is read unless it stands there again.
	put := func(k int, row []string, h int, again bool) {
		p := &s.list[len(s.list)-1]
		x := s.margin
		said := pages.Element{Type: pages.Row}
		for c, cell := range row {
			n := scene.Node{ID: fmt.Sprintf("block-%d-%d-%d", i, k, c), Class: "table"}
			e := pages.Element{Type: pages.Cell, Of: n.ID}
			style := cellStyle
			switch {
			case b.Head && k == 0:
				style.Bold, e.Type, e.How = true, pages.Head, "Column"
			case !b.Head && c == 0:
				style.Bold, e.Type, e.How = true, pages.Head, "Row"
			}
			n.Shapes = append(n.Shapes, scene.Shape{Path: geometry.Box{X: x, Y: s.y, W: widths[c], H: h}.Outline(),
				Stroke: "#c9c2b4", Width: px / 2})
			for l, line := range lines(wordsOf([]Run{{Text: cell}}), cellStyle, widths[c]-2*cellRoom) {
				var text []string
				for _, w := range line {
					text = append(text, w.text)
				}
				n.Texts = append(n.Texts, scene.Text{X: x + cellRoom, Y: s.y + cellRoom + l*cellStyle.LineHeight() +
					style.Baseline(),
					Anchor: typeset.Start, Style: style, Fill: ink, Text: strings.Join(text, " ")})
			}
			if again {
				n.Class = pages.RepeatClass
			}
			p.Nodes = append(p.Nodes, n)
			said.Kids = append(said.Kids, e)
			x += widths[c]
		}
		if !again {
			read.Kids = append(read.Kids, said)
		}
		s.y += h
	}
	s.y += 6 * px
	for k, row := range b.Rows {
		h := height(row)
		if s.y+h > s.h-s.margin && s.y > s.margin {
			s.turn()
			if b.Head && k > 0 {
				put(0, b.Rows[0], height(b.Rows[0]), true)
			}
		}
		put(k, row, h, false)
	}
	s.y += 6 * px
	s.read = append(s.read, read)
}
