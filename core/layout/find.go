package layout

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/grid"
	"plaintracer/core/layered"
	"plaintracer/core/model"
)

// Find returns the edit that lays the sheet out as wished. It is nil when nothing
// would move, or when it was stopped.
//
// The sheet is drawn on a grid. Where lines cross there, it is drawn in layers as well, whose order is chosen for
// few crossings, and the better one of the two is taken. But where the columns and rows in which the steps stand
// already do as well, they stay in them.
func Find(m *model.Map, s *model.Sheet, w Options) *edit.LayOut {
	edit, _, _ := find(m, s, w)
	return edit
}

// Ways are the edits that lay a sheet out.
type Ways struct {
	// Best is that of Find; nil when nothing would move.
	Best *edit.LayOut
	// Fresh leaves the places in which the steps stand, where the best one does not.
	Fresh *edit.LayOut
	// Longer lays a flow out in one row where the best one sets it in several and that has many more bends: more than a
	// row may have from the one before. It is nil where rows serve as well.
	Longer *edit.LayOut
}

// FindWays returns what Find does, and what one could do instead.
func FindWays(m *model.Map, s *model.Sheet, w Options) (ways Ways) {
	var found Score
	ways.Best, ways.Fresh, found = find(m, s, w)
	if ways.Best == nil || found.rows < 2 {
		return ways
	}
	w.Long = true
	long, _, l := find(m, s, w)
	if long != nil && l.faults()+perRow*(found.rows-1) < found.faults() {
		ways.Longer = long
	}
	return ways
}

// perRow is how many bends a row may have from the one before.
const perRow = 2

// find returns the best edit with what it leads to, and the one that leaves the places of the steps where that is
// another.
func find(m *model.Map, s *model.Sheet, w Options) (best, fresh *edit.LayOut, score Score) {
	w.headings = headings(m, s)
	var layers inLayers
	edit, found := draw(m, s, w, func(g layered.Graph) *layered.Drawing { return grid.From(g, layers.draw(g)) })
	if edit == nil {
		return nil, nil, found
	}
	if found.Crossings > 0 {
		if other, o := draw(m, s, w, layers.draw); other != nil && o.Better(found) {
			edit, found = other, o
		}
	}
	if edit = idle(m, edit); edit == nil || w.Afresh {
		return edit, nil, found
	}
	if kept, k := inPlace(m, s, w, found); kept != nil && settled(m, s, w, kept, found) {
		return idle(m, kept), edit, k
	}
	return edit, nil, found
}

// inPlace draws the sheet with its steps where they stand, more or less; nil where that is not as good as what was
// found.
func inPlace(m *model.Map, s *model.Sheet, w Options, found Score) (*edit.LayOut, Score) {
	for _, by := range [...]drawing{grid.Keep, grid.Settle} {
		if kept, k := draw(m, s, w, by); kept != nil && k.asGoodAs(found, len(s.Symbols)) {
			return kept, k
		}
	}
	return nil, Score{}
}

// settled reports whether a sheet that was laid out in place stays as it is then.
func settled(m *model.Map, s *model.Sheet, w Options, kept *edit.LayOut, found Score) bool {
	trial, err := edit.Attempt(m, kept)
	if err != nil {
		return true // it will say why when it is made
	}
	defer trial.Rollback()
	again, _ := inPlace(m, m.Sheet(s.ID), w, found)
	return again != nil && idle(m, again) == nil
}

// inLayers draws graphs in layers, each of them once.
type inLayers struct {
	graphs   []layered.Graph
	drawings []*layered.Drawing
}

func (l *inLayers) draw(g layered.Graph) *layered.Drawing {
	for i, o := range l.graphs {
		if o.Gap == g.Gap && o.Apart == g.Apart && slices.Equal(o.Nodes, g.Nodes) && slices.Equal(o.Edges, g.Edges) {
			return l.drawings[i]
		}
	}
	d := layered.Draw(g)
	g.Nodes, g.Edges = slices.Clone(g.Nodes), slices.Clone(g.Edges)
	l.graphs, l.drawings = append(l.graphs, g), append(l.drawings, d)
	return d
}

// idle returns nil in place of an edit that changes nothing.
func idle(m *model.Map, plan *edit.LayOut) *edit.LayOut {
	if plan == nil {
		return nil
	}
	trial, err := edit.Attempt(m, plan)
	if err != nil {
		return plan // it will say why when it is made
	}
	defer trial.Rollback()
	if len(trial.Inverse().Changes) == 0 {
		return nil
	}
	return plan
}
