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
	Subsection: {typeset.Style{Size: 14 * px, Bold: true}, 14 * px, 0, ink},
}

// headings are the kinds that begin a part, each inside those before it.
var headings = []Kind{Heading, Section, Subsection}

// onlyPictures reports whether nothing but pictures stands under the heading at a place.
func onlyPictures(blocks []Block, i int) bool {
	n := 0
	for k := i + 1; k < len(blocks) && blocks[k].Kind != Heading; k++ {
		if blocks[k].Kind != Picture {
			return false
		}
		n++
	}
	return n > 0
}

// Pages sets blocks on pages of a paper, upright, and puts the sheets behind them, each on its own.
func Pages(blocks []Block, m *model.Map, drawings []*scene.Drawing, paper string, margin int) ([]pages.Page, error) {
	w, h := model.PaperSize(paper, false)
	if w == 0 {
		return nil, fmt.Errorf("there is no paper %q", paper)
	}
	s := setter{w: w, h: h, margin: margin}
	if w-2*margin < 200*px || h-2*margin < 200*px {
		return nil, fmt.Errorf("the margins leave no room on %s", paper)
	}
	s.turn()
	s.list[0].Name = blocks[0].Text()
	for i := range blocks {
		b := &blocks[i]
		if b.Kind == Picture || b.Kind == Contents || b.Kind == Heading && onlyPictures(blocks, i) {
			continue
		}
		if b.Kind == Table {
			s.table(i, b)
			continue
		}
		// What stands under a step, and what follows a heading, goes with it onto a new page.
		need := s.height(b)
		for k := i + 1; k < len(blocks) && (blocks[k].Kind == Under || blocks[k].Kind == Picture ||
			slices.Contains(headings, blocks[k-1].Kind) || blocks[k-1].Kind == Picture); k++ {
			need += s.height(&blocks[k])
		}
		if s.y > margin && s.y+min(need, h/2) > h-margin {
			s.turn()
		}
		s.set(i, b)
	}
	for i := range s.list {
		words, err := pageWords(i+1, len(s.list))
		if err != nil {
			return nil, err
		}
		p := &s.list[i]
		p.Nodes = append(p.Nodes, scene.Node{ID: fmt.Sprint("foot-", i), Class: "foot",
			Texts: []scene.Text{{X: w - margin, Y: h - margin/2, Anchor: typeset.End,
				Style: typeset.Style{Size: 11 * px}, Fill: soft, Text: words}}})
	}
	for _, d := range drawings {
		own, err := pages.Of(d, m, pages.Options{})
		if err != nil {
			return nil, err
		}
		s.list = append(s.list, own...)
	}
	return s.list, nil
}

// setter sets blocks one below the other.
type setter struct {
	w, h, margin, y int
	list            []pages.Page
}

func (s *setter) turn() {
	s.list = append(s.list, pages.Page{W: s.w, H: s.h})
	s.y = s.margin
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
		if r.To != "" {
			to = pages.StepAnchor + r.To
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
	l, ok := setAs[b.Kind]
	if !ok {
		return 0
	}
	return l.before + len(lines(wordsOf(b.Runs), l.style, s.w-2*s.margin-l.indent))*l.style.LineHeight()
}

// set sets a block, over as many pages as it takes.
func (s *setter) set(i int, b *Block) {
	l := setAs[b.Kind]
	space := typeset.Measure(" ", l.style)
	if s.y > s.margin {
		s.y += l.before
	}
	n := scene.Node{ID: fmt.Sprint("block-", i), Class: "block"}
	put := func() {
		p := &s.list[len(s.list)-1]
		if len(n.Texts) > 0 {
			p.Nodes = append(p.Nodes, n)
		}
		n.Texts = nil
	}
	before := ""
	switch b.Kind {
	case Step:
		before = mark(b.Number)
	case Item:
		before = "•"
	}
	for k, line := range lines(wordsOf(b.Runs), l.style, s.w-2*s.margin-l.indent) {
		if s.y+l.style.LineHeight() > s.h-s.margin {
			put()
			s.turn()
		}
		p := &s.list[len(s.list)-1]
		base := s.y + l.style.Baseline()
		if k == 0 && before != "" {
			n.Texts = append(n.Texts, scene.Text{X: s.margin + l.indent - 6*px, Y: base, Anchor: typeset.End,
				Style: l.style, Fill: l.fill, Text: before})
			if b.Kind == Step {
				box := geometry.Box{X: s.margin, Y: s.y, W: l.indent, H: l.style.LineHeight()}
				p.Anchors = append(p.Anchors, pages.Anchor{ID: pages.StepAnchor + b.ID, Box: box})
				p.Links = append(p.Links, pages.Link{Box: box, To: b.ID})
			}
		}
		x := s.margin + l.indent
		// Neighbouring words that lead to the same are one text.
		for i := 0; i < len(line); {
			if i > 0 && !line[i].continues {
				x += space
			}
			text, to := line[i].text, line[i].to
			for i++; i < len(line) && line[i].to == to; i++ {
				if !line[i].continues {
					text += " "
				}
				text += line[i].text
			}
			fill := l.fill
			width := typeset.Measure(text, l.style)
			if to != "" {
				fill = accent
				p.Links = append(p.Links, pages.Link{Box: geometry.Box{X: x, Y: s.y, W: width, H: l.style.LineHeight()},
					To: to})
			}
			n.Texts = append(n.Texts, scene.Text{X: x, Y: base, Anchor: typeset.Start, Style: l.style, Fill: fill,
				Text: text})
			x += width
		}
		s.y += l.style.LineHeight()
	}
	put()
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
	set := func(k int, row []string) (n scene.Node, height int) {
		n = scene.Node{ID: fmt.Sprintf("block-%d-%d", i, k), Class: "table"}
		cells := make([][][]word, len(row))
		most := 1
		for c, cell := range row {
			cells[c] = lines(wordsOf([]Run{{Text: cell}}), cellStyle, widths[c]-2*cellRoom)
			most = max(most, len(cells[c]))
		}
		height = most*cellStyle.LineHeight() + 2*cellRoom
		x := s.margin
		for c := range row {
			style := cellStyle
			style.Bold = b.Head && k == 0 || !b.Head && c == 0
			n.Shapes = append(n.Shapes, scene.Shape{Path: geometry.Box{X: x, Y: s.y, W: widths[c], H: height}.Outline(),
				Stroke: "#c9c2b4", Width: px / 2})
			for l, line := range cells[c] {
				var text []string
				for _, w := range line {
					text = append(text, w.text)
				}
				n.Texts = append(n.Texts, scene.Text{X: x + cellRoom, Y: s.y + cellRoom + l*cellStyle.LineHeight() +
					style.Baseline(),
					Anchor: typeset.Start, Style: style, Fill: ink, Text: strings.Join(text, " ")})
			}
			x += widths[c]
		}
		return n, height
	}
	put := func(n scene.Node, height int) {
		p := &s.list[len(s.list)-1]
		p.Nodes = append(p.Nodes, n)
		s.y += height
	}
	s.y += 6 * px
	for k, row := range b.Rows {
		n, height := set(k, row)
		if s.y+height > s.h-s.margin && s.y > s.margin {
			s.turn()
			if b.Head && k > 0 {
				put(set(0, b.Rows[0]))
			}
			n, height = set(k, row)
		}
		put(n, height)
	}
	s.y += 6 * px
}
