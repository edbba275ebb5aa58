package edit

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// What follows from an edit and is therefore part of it.

// sizeLegends gives every legend and table of contents of the sheet the height its rows need.
func (t *transaction) sizeLegends(s *model.Sheet) error {
	for _, sym := range s.Symbols {
		if !sym.Kind.Explains() {
			continue
		}
		if h := t.m.ExplainedHeight(s, sym.Kind); sym.H != h {
			if err := t.touch(s, sym); err != nil {
				return err
			}
			// What stood on the paper does not grow over its edge.
			if foot := s.Page().Bottom(); sym.Bottom() <= foot && sym.Y+h > foot {
				sym.Y -= h - sym.H
			}
			sym.H = h
		}
	}
	return nil
}

// carryBends takes the bends of a connector along when all it is glued to has moved
// by the same way.
func (t *transaction) carryBends(s *model.Sheet) error {
	for _, c := range s.Connectors {
		if len(c.Bends) == 0 || t.entry(c.ID) != nil && t.entry(c.ID).before == nil {
			continue
		}
		from, ok := t.shift(s, c.From)
		to, ok2 := t.shift(s, c.To)
		if !ok || !ok2 || from != to || from == (geometry.Point{}) {
			continue
		}
		if _, err := t.editConnector(s, c.ID); err != nil {
			return err
		}
		bends := make([]model.Bend, len(c.Bends))
		for i, b := range c.Bends {
			if bends[i] = b; b.Upright {
				bends[i].At += from.X
			} else {
				bends[i].At += from.Y
			}
		}
		c.Bends = bends
	}
	return nil
}

// shift returns by how much the symbol an end is glued to has moved.
func (t *transaction) shift(s *model.Sheet, e model.End) (geometry.Point, bool) {
	sym := s.Symbol(e.Symbol)
	if sym == nil {
		return geometry.Point{}, false
	}
	entry := t.entry(e.Symbol)
	if entry == nil {
		return geometry.Point{}, true
	}
	before := spanOf[model.Symbol](entry).Before
	if before == nil || before.W != sym.W || before.H != sym.H {
		return geometry.Point{}, false
	}
	return sym.Corner().Sub(before.Corner()), true
}
