package pages

import (
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

// Slide is a stop on a slide of 16:9.
type Slide struct {
	Title, Words string
	// Drawing is that of its sheet, From what is seen of it, To where that stands on the slide.
	Drawing  *scene.Drawing
	From, To geometry.Box
	// titled and worded are the lines of its texts, Cut says that its words have more than there is room for.
	titled, worded []typeset.Line
	title, words   typeset.Style
	Cut            bool
}

// The size of a slide and the room at its edges, in hundredths of a CSS pixel. It is 13.33 by 7.5 inches, which
// programs for slides call widescreen (common practice, no source).
const (
	SlideW    = 1280 * px
	SlideH    = 720 * px
	slideEdge = 48 * px
	// mostWords is how much of a slide its words take at most.
	mostWords = SlideH / 4
)

// Slides lays the stops of a map out, one on each slide; the sheets where it has none. Drawings are those of the sheets
// that are shown.
func Slides(drawings []*scene.Drawing, m *model.Map) []Slide {
	of := map[string]*scene.Drawing{}
	for _, d := range drawings {
		of[d.Sheet.ID] = d
	}
	var out []Slide
	for _, s := range m.StopsShown() {
		if d := of[s.Sheet]; d != nil {
			title := s.Title
			if title == "" {
				title = d.Sheet.Name
			}
			out = append(out, slide(d, s.Box, title, s.Words))
		}
	}
	if out == nil {
		for _, d := range drawings {
			from := d.Extent
			if c := d.Content(); c != (geometry.Box{}) {
				from = c.Grown(edge)
			}
			out = append(out, slide(d, from, d.Sheet.Name, ""))
		}
	}
	return out
}

// slide sets a title at the top, the words at the foot as large as they fit, and what is seen between.
func slide(d *scene.Drawing, from geometry.Box, title, words string) Slide {
	s := Slide{Title: title, Words: words, Drawing: d, From: from}
	width := func(int) int { return SlideW - 2*slideEdge }
	for size := 34; ; size -= 2 {
		s.title = typeset.Style{Size: size * px, Bold: true}
		var whole bool
		if s.titled, whole = typeset.Wrap(model.Flat(title), s.title, 2, width); whole || size <= 18 {
			break
		}
	}
	top := slideEdge/2 + len(s.titled)*s.title.LineHeight() + 16*px
	bottom := SlideH - slideEdge/2
	for size := 22; words != ""; size-- {
		s.words = typeset.Style{Size: size * px}
		most := mostWords / s.words.LineHeight()
		var whole bool
		if s.worded, whole = typeset.Wrap(words, s.words, most, width); whole || size <= 13 {
			s.Cut = !whole
			bottom -= len(s.worded)*s.words.LineHeight() + 16*px
			break
		}
	}
	s.To = geometry.Box{X: slideEdge, Y: top, W: SlideW - 2*slideEdge, H: bottom - top}
	// What is seen takes the proportions of its place, with more of what lies around it.
	if s.From.W*s.To.H > s.From.H*s.To.W {
		h := s.From.W * s.To.H / s.To.W
		s.From.Y, s.From.H = s.From.Y-(h-s.From.H)/2, h
	} else {
		w := s.From.H * s.To.W / s.To.H
		s.From.X, s.From.W = s.From.X-(w-s.From.W)/2, w
	}
	return s
}

// TitleAt is where the title stands.
func (s *Slide) TitleAt() geometry.Box {
	return geometry.Box{X: slideEdge, Y: slideEdge / 2, W: SlideW - 2*slideEdge, H: s.To.Y - slideEdge/2 - 8*px}
}

// Page returns the slide as a page; at is its place among all, from zero.
func (s *Slide) Page(at int, m *model.Map) Page {
	const ink, soft = "#1d2a33", "#5b6670"
	p := Page{W: SlideW, H: SlideH, Name: s.Title}
	p.Show(View{Drawing: s.Drawing, From: s.From, To: s.To}, m)
	n := scene.Node{ID: fmt.Sprintf("slide-%d", at), Class: "slide"}
	lines := func(list []typeset.Line, style typeset.Style, top int, fill string) {
		for i, l := range list {
			n.Texts = append(n.Texts, scene.Text{X: slideEdge, Y: top + i*style.LineHeight() + style.Baseline(),
				Anchor: typeset.Start, Style: style, Fill: fill, Text: l.Text})
		}
	}
	lines(s.titled, s.title, slideEdge/2, ink)
	worded := s.worded
	if s.Cut {
		worded = append(worded[:len(worded)-1:len(worded)-1], typeset.Line{Text: worded[len(worded)-1].Text + " …"})
	}
	lines(worded, s.words, s.To.Bottom()+16*px, ink)
	n.Texts = append(n.Texts, scene.Text{X: SlideW - slideEdge/2, Y: SlideH - slideEdge/4, Anchor: typeset.End,
		Style: typeset.Style{Size: 12 * px}, Fill: soft, Text: fmt.Sprint(at + 1)})
	p.Nodes = append(p.Nodes, n)
	return p
}
