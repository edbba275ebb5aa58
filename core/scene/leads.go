package scene

import (
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/links"
	"plaintracer/core/looks"
	"plaintracer/core/model"
)

// Signs of links stand in a row, at most so many; what leads elsewhere beyond that is named by the last one.
const (
	leadSize  = 11 * px
	leadGap   = 3 * px
	mostLeads = 5
)

// listed writes links as Facts have them.
func listed(m *model.Map, list []model.Hyperlink) string {
	var out strings.Builder
	for i := range list {
		out.WriteString(list[i].To + "\t" + model.Flat(links.Title(m, &list[i], nil)) + "\n")
	}
	return out.String()
}

// leadsOfLane are the links of a lane, and the card of a hierarchy that bears its name.
func leadsOfLane(m *model.Map, lane *model.Lane) []model.Hyperlink {
	out := lane.Links
	if card := m.CardCalled(lane.Name); card != nil {
		to := "#" + card.ID
		if !slices.ContainsFunc(out, func(l model.Hyperlink) bool { return l.To == to }) {
			out = append(slices.Clone(out), model.Hyperlink{To: to})
		}
	}
	return out
}

// leads adds the signs of links, given as Facts have them, in a row that begins at a place.
func (n *Node) leads(list string, at geometry.Point, l *looks.Look) {
	lines := strings.Split(strings.TrimSuffix(list, "\n"), "\n")
	for i, line := range lines {
		to, title, _ := strings.Cut(line, "\t")
		if i >= mostLeads {
			n.Leads[mostLeads-1].Title += "; " + title
			continue
		}
		b := geometry.Box{X: at.X + i*(leadSize+leadGap), Y: at.Y, W: leadSize, H: leadSize}
		if model.IsFileID(strings.TrimPrefix(to, "#")) {
			n.Shapes = append(n.Shapes, page(b, l)...)
			n.Leads = append(n.Leads, Lead{b, to, title})
			continue
		}
		arrow := geometry.Path{}.Move(b.X+3*px, b.Bottom()-3*px).Line(b.Right()-3*px, b.Y+3*px).
			Move(b.X+9*px/2, b.Y+3*px).Line(b.Right()-3*px, b.Y+3*px).Line(b.Right()-3*px, b.Bottom()-9*px/2)
		n.Shapes = append(n.Shapes, Shape{Path: b.Outline(), Fill: l.Fill(""), Stroke: l.Soft, Width: px},
			Shape{Path: arrow, Stroke: l.Ink, Width: 5 * px / 4})
		n.Leads = append(n.Leads, Lead{b, to, title})
	}
}

// page draws the sign of a file: a page with a corner turned down and two lines of writing.
func page(b geometry.Box, l *looks.Look) []Shape {
	const corner = 4 * px
	left, right := b.X+3*px/2, b.Right()-3*px/2
	sheet := geometry.Path{}.Move(left, b.Y).Line(right-corner, b.Y).Line(right, b.Y+corner).Line(right, b.Bottom()).
		Line(left, b.Bottom()).Line(left, b.Y)
	lines := geometry.Path{}.Move(left+2*px, b.Y+6*px).Line(right-2*px, b.Y+6*px).
		Move(left+2*px, b.Y+17*px/2).Line(right-2*px, b.Y+17*px/2)
	return []Shape{{Path: sheet, Fill: l.Fill(""), Stroke: l.Ink, Width: px},
		{Path: lines, Stroke: l.Ink, Width: px}}
}

// appendLeads writes the places that lead elsewhere over all that is drawn. Only addresses that may be opened are led
// to.
func (n *Node) appendLeads(buf []byte) []byte {
	for i := range n.Leads {
		l := &n.Leads[i]
		link := model.Hyperlink{To: l.To}
		switch id, inside := strings.CutPrefix(l.To, "#"); {
		case inside:
			buf = append(AppendEscaped(append(buf, `<a class="lead" href="#n-`...), id), `">`...)
		case link.OtherMap() != "":
			buf = append(AppendEscaped(append(buf, `<a class="lead" href="#map-`...), link.OtherMap()), `">`...)
		case link.Opens():
			buf = append(AppendEscaped(append(buf,
				`<a class="lead" target="_blank" rel="noopener noreferrer" href="`...),
				l.To), `">`...)
		default:
			continue
		}
		buf = append(AppendEscaped(append(buf, `<title>`...), l.Title), `</title><path d="`...)
		buf = append(AppendPath(buf, l.Box.Outline()), `" fill="none" pointer-events="all"/></a>`...)
	}
	return buf
}
