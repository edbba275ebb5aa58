package scene

import (
	"fmt"
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/typeset"
)

// Sizes of the texts of a heading: no smaller than what can be read on paper.
const (
	captionText = 12 * px
	headingText = 14 * px
	headingPad  = 8 * px
)

// headingCells are what a heading shows: a caption, a text, and its share of the
// width. The title of the map, and that and the number of the sheet, fill themselves.
func (v View) headingCells() (cells [][2]string, shares []int) {
	add := func(caption, text string, share int) {
		if text != "" {
			cells, shares = append(cells, [2]string{caption, text}), append(shares, share)
		}
	}
	h := v.Map.Heading
	add("Map", v.Map.Title, 6)
	add("Project", h.Project, 4)
	add("Process", h.Process, 4)
	add("Author", h.Author, 3)
	add("Version", h.Version, 2)
	add("Date", h.Date, 2)
	at := slices.IndexFunc(v.Map.Sheets, func(s *model.Sheet) bool { return s.ID == v.Sheet.ID }) + 1
	if n := len(v.Map.Sheets); n > 1 { // with the title of its own
		add(fmt.Sprintf("Sheet %d of %d", at, n), v.Sheet.Name, 4)
	} else {
		add("Sheet", "1 of 1", 2)
	}
	return cells, shares
}

// addHeading draws the frame of the sheet on a page and the heading in it.
func (v View) addHeading(n *Node, page geometry.Box) {
	l, strip := v.Look, model.HeadingOn(page)
	frame := page.Grown(-model.FrameInset)
	n.Shapes = append(n.Shapes,
		Shape{Path: strip.Outline(), Fill: l.Head},
		Shape{Path: geometry.Path{}.Move(strip.X, strip.Y).Line(strip.Right(), strip.Y), Stroke: l.Ink, Width: px},
		Shape{Path: frame.Outline(), Stroke: l.Ink, Width: px})
	cells, shares := v.headingCells()
	all := 0
	for _, s := range shares {
		all += s
	}
	x, done := strip.X, 0
	for i, c := range cells {
		done += shares[i]
		right := strip.X + strip.W*done/all
		if i > 0 {
			n.Shapes = append(n.Shapes, Shape{Path: geometry.Path{}.Move(x, strip.Y).Line(x, strip.Bottom()),
				Stroke: l.Rule, Width: px})
		}
		put := func(text string, st typeset.Style, top int) {
			lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(right-x-2*headingPad, 2*st.Size) })
			line := lines[0].Text
			if len(lines) > 1 {
				line += "…"
			}
			n.Texts = append(n.Texts, Text{X: x + headingPad, Y: top + st.Baseline(), Anchor: typeset.Start, Style: st,
				Fill: l.Ink, Text: line})
		}
		put(c[0], typeset.Style{Size: captionText, Italic: true, Fonts: v.House.Own}, strip.Y+4*px)
		put(c[1], typeset.Style{Size: headingText, Bold: true, Fonts: v.House.Own}, strip.Y+21*px)
		x = right
	}
}
