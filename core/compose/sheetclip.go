package compose

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// SheetClip returns a whole sheet of a map as copying puts it on the clipboard: with its lanes, its choices, the
// pictures it shows, the files it leads to and the heading of its map.
func SheetClip(m *model.Map, s *model.Sheet) Clip {
	c := Clip{Format: ClipFormat, Sheet: s.Clone(), Heading: m.Heading, Symbols: []model.Symbol{},
		Connectors: []model.Connector{}}
	for id := range s.Pictures() {
		c.Keep(m, id)
	}
	for l := range s.LeadsOut() {
		c.Bring(m, []model.Hyperlink{l.Link})
	}
	return c
}

// Unclipped returns a sheet of a clip as it comes to this map, and the edits that have to come before it is added:
// what it needs. A map without a heading takes the one the sheet had. Saved styles the map does not have are left out,
// and what stands in fields that it does not have.
func (w *Work) Unclipped(c *Clip) (s *model.Sheet, before []edit.Edit) {
	s = w.Renewed(c.Sheet, c.Files)
	for _, sym := range s.Symbols {
		if w.Map.StyleNamed(sym.Style) == nil {
			sym.Style = ""
		}
		sym.Values = slices.DeleteFunc(slices.Clone(sym.Values),
			func(v model.Value) bool { return w.Map.Field(v.ID) == nil })
	}
	for _, con := range s.Connectors {
		if w.Map.StyleNamed(con.Style) == nil {
			con.Style = ""
		}
	}
	if s.Headed && w.Map.Heading == (model.Heading{}) && c.Heading != (model.Heading{}) {
		before = append(before, &edit.SetHead{Heading: &c.Heading})
	}
	if len(c.Pictures)+len(c.Files) > 0 {
		before = append(before, &edit.AddItems{Sheet: w.Sheet.ID, Pictures: c.Pictures, Files: c.Files})
	}
	return s, before
}
