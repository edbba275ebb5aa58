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
