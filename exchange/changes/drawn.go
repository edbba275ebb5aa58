package changes

import (
	"context"
	"html/template"

	"plaintracer/core/compare"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/pdf"
	"plaintracer/exchange/svg"
)

// Mark is where on a sheet something changed. Line is its place among the lines of the account, those of the page after
// those of the work.
type Mark struct {
	geometry.Box
	Form string
	Line int
}

// Marks are those on a sheet, with some room around what changed. What was removed is marked where it stood.
func (a *Account) Marks(sheet string) (list []Mark) {
	lines := append(a.Lines[:len(a.Lines):len(a.Lines)], a.Moves...)
	for i := range lines {
		l := &lines[i]
		side := a.after
		if l.Kind == compare.Removed {
			side = a.before
		}
		if l.Sheet != sheet {
			continue
		}
		if box, ok := BoxOf(side.Sheet(sheet), l.Thing.ID); ok {
			list = append(list, Mark{box.Grown(6 * geometry.Px), l.Form(), i})
		}
	}
	return list
}

// How marks are drawn, by their forms: by colour, and by lines so that colour is not needed.
var marks = map[string]scene.Shape{
	"added":   {Stroke: "#1f6b57", Width: 4 * geometry.Px},
	"removed": {Stroke: "#ae4630", Width: 3 * geometry.Px, Dash: []int{2 * geometry.Px, 5 * geometry.Px}},
	"changed": {Stroke: "#b7791f", Width: 2 * geometry.Px},
	"moved":   {Stroke: "#5b6773", Width: 1 * geometry.Px, Dash: []int{6 * geometry.Px, 4 * geometry.Px}},
}

// Drawing draws a sheet as it is in the later state, or where it is gone as it was, with what changed marked. It
// returns nil for a sheet that is in neither, and false where a context ended before.
func (a *Account) Drawing(ctx context.Context, sheet string) (*scene.Drawing, bool) {
	m := a.after
	if m.Sheet(sheet) == nil {
		m = a.before
	}
	s := m.Sheet(sheet)
	if s == nil {
		return nil, true
	}
	d, ok := scene.DrawUntil(m, s, scene.Know(m), func() bool { return ctx.Err() != nil })
	if !ok {
		return nil, false
	}
	for _, mark := range a.Marks(sheet) {
		shape := marks[mark.Form]
		shape.Path = mark.Outline()
		n := scene.Node{Class: "mark", Shapes: []scene.Shape{shape}}
		if mark.Form == "changed" {
			second := shape
			second.Path = mark.Grown(3 * geometry.Px).Outline()
			n.Shapes = append(n.Shapes, second)
		}
		d.Nodes = append(d.Nodes, n)
		d.Extent = d.Extent.Union(mark.Grown(8 * geometry.Px))
	}
	return d, true
}

// Sheets are the sheets on which something changed, in the order of the later state, those that are gone after them.
func (a *Account) Sheets() (list []*model.Sheet) {
	changed := map[string]bool{}
	for _, lines := range [...][]Line{a.Lines, a.Moves} {
		for i := range lines {
			changed[lines[i].Sheet] = true
		}
	}
	for _, m := range []*model.Map{a.after, a.before} {
		for _, s := range m.Sheets {
			if changed[s.ID] && (m == a.after || a.after.Sheet(s.ID) == nil) {
				list = append(list, s)
			}
		}
	}
	return list
}

// drawings are the sheets on which something changed, with marks.
func (a *Account) drawings(ctx context.Context) (list []*scene.Drawing, err error) {
	for _, s := range a.Sheets() {
		d, ok := a.Drawing(ctx, s.ID)
		if !ok {
			return nil, ctx.Err()
		}
		list = append(list, d)
	}
	return list, nil
}

// picture is a sheet as the page shows it.
type picture struct {
	Name   string
	Source template.URL
}

func (a *Account) pictures(ctx context.Context) (list []picture, err error) {
	drawings, err := a.drawings(ctx)
	for _, d := range drawings {
		source, err := svg.Source(d)
		if err != nil {
			return nil, err
		}
		list = append(list, picture{d.Sheet.Name, source})
	}
	return list, err
}

// PDF sets the account on pages, with the sheets on which something changed behind it.
func (a *Account) PDF(ctx context.Context) ([]byte, error) {
	drawings, err := a.drawings(ctx)
	if err != nil {
		return nil, err
	}
	blocks := []document.Block{document.Plain(document.Title, a.Title), document.Plain(document.Facts, "Changes from "+a.From+" to "+a.To),
		document.Plain(document.Heading, "In the work")}
	if len(a.Lines) == 0 {
		blocks = append(blocks, document.Plain(document.Paragraph, "Nothing changed."))
	}
	for i := range a.Lines {
		l := &a.Lines[i]
		blocks = append(blocks, document.Plain(document.Item, l.Sentence))
		if len(l.Pieces) > 0 && l.Old != "" {
			blocks = append(blocks, document.Plain(document.Under, "It was “"+l.Old+"”."))
		}
	}
	if said := a.Renumbering(); said != "" {
		blocks = append(blocks, document.Plain(document.Paragraph, said))
	}
	if len(a.Moves) > 0 {
		blocks = append(blocks, document.Plain(document.Heading, "On the page"))
		for i := range a.Moves {
			blocks = append(blocks, document.Plain(document.Item, a.Moves[i].Sentence))
		}
	}
	const margin = 76 * geometry.Px // 20 mm
	list, read, err := document.Pages(blocks, a.after, drawings, "A4", margin)
	if err != nil {
		return nil, err
	}
	return pdf.Write(ctx, &pdf.Document{Title: a.Title, Subject: "Changes from " + a.From + " to " + a.To,
		Language: "en",
		Pages:    list, Structure: read})
}

// BoxOf is where a thing stands on a sheet.
func BoxOf(s *model.Sheet, id string) (geometry.Box, bool) {
	if s == nil {
		return geometry.Box{}, false
	}
	if sym := s.Symbol(id); sym != nil {
		return sym.Box, true
	}
	for _, p := range s.Pools {
		if p.ID == id {
			return p.Box(), true
		}
		if i := p.LaneIndex(id); i >= 0 {
			return p.LaneBox(i), true
		}
	}
	if c := s.Connector(id); c != nil {
		from, to := s.Symbol(c.From.Symbol), s.Symbol(c.To.Symbol)
		if from != nil && to != nil {
			a, b := from.Centre(), to.Centre()
			return geometry.Box{X: min(a.X, b.X), Y: min(a.Y, b.Y), W: max(a.X, b.X) - min(a.X, b.X),
				H: max(a.Y, b.Y) - min(a.Y, b.Y)}, true
		}
	}
	return geometry.Box{}, false
}
