package desk

import (
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// FitAll asks the page to show the whole sheet.
const FitAll = "fit-all"

// Take gives the sheet another paper, or turns it, and offers to let the lanes reach over one that is wider.
func (e *Sheets) Take(set *edit.SetSheet) {
	before := e.Sheet().Page()
	if set.Sheet = e.SheetID; !e.Do(set) {
		return
	}
	e.ToOpen = FitAll
	now := e.Sheet().Page()
	for _, p := range e.Sheet().Pools {
		if now.Turned(p.Down).W > before.Turned(p.Down).W {
			e.offerWider()
			return
		}
	}
}

// edge says so when a new symbol lies beyond the edge of the paper, and offers a larger one.
func (e *Sheets) edge(id string) {
	s := e.Sheet()
	sym := s.Symbol(id)
	if sym == nil || s.Area().Holds(sym.Box) {
		return
	}
	if e.offerPaper() {
		e.Say("This is beyond the edge of the paper.")
	}
}

// offerPaper offers a paper that holds what is on the sheet, and reports whether there is one.
func (e *Sheets) offerPaper() bool {
	s := e.Sheet()
	name, _, ok := compose.LargerPaper(s, s.Drawn())
	if ok {
		e.Suggest = &Offer{"paper-larger", "Take " + name}
	}
	return ok
}

// Enlarge takes the smallest paper that holds what is on the sheet.
func (e *Sheets) Enlarge(string) {
	s := e.Sheet()
	if s.Area().Holds(s.Drawn()) {
		e.Say("Everything is on the paper.")
		return
	}
	if name, across, ok := compose.LargerPaper(s, s.Drawn()); ok {
		if e.Do(&edit.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}) {
			e.ToOpen = FitAll
			e.offerWider()
		}
		return
	}
	e.Say("No paper is large enough, or something is beyond the upper or left edge.")
}

// OntoPage brings what is drawn onto the page: it is moved as it stands where that is enough,
// else laying it out is proposed.
func (e *Sheets) OntoPage(string) {
	s := e.Sheet()
	area, all := s.Area(), s.Drawn()
	if area.Holds(all) {
		e.Say("Everything is on the paper.")
		return
	}
	if edits, short := e.shortened(area); short {
		e.Do(edit.Together("bring onto the page", edits...))
		return
	}
	if all.W > area.W || all.H > area.H {
		e.Sel = nil // the whole sheet
		e.Layout.LayOut("")
		return
	}
	to := geometry.Point{X: geometry.Clamp(all.X, area.X, area.Right()-all.W),
		Y: geometry.Clamp(all.Y, area.Y, area.Bottom()-all.H)}
	e.DoMoving(&edit.MoveItems{Sheet: s.ID, IDs: s.Movables(), By: to.Sub(all.Corner())})
}

// shortened returns the edits that make pools only as long as what stands in them needs, and the paper allows, and
// bring all onto it; it reports whether pools have to be made shorter and all fits then.
func (e *Sheets) shortened(area geometry.Box) ([]edit.Edit, bool) {
	s := e.Sheet()
	all := s.Drawn()
	if s.Kind != model.FlowSheet || all.W <= area.W && all.H <= area.H {
		return nil, false
	}
	var need geometry.Box
	for _, sym := range s.Symbols {
		need = need.Union(sym.Box)
	}
	least := make([]int, len(s.Pools))
	for i, p := range s.Pools {
		own := p.Own(p.Box())
		least[i] = max(p.Heads(), model.MinPool)
		if n := len(p.Stages); n > 0 {
			from, _ := p.Span(n - 1)
			least[i] = max(least[i], from+model.MinStage-own.X)
		}
		for _, sym := range s.Symbols {
			if in, _ := s.LaneAt(sym.Centre()); in == p {
				least[i] = max(least[i], p.Own(sym.Box).Right()+model.LanePad-own.X)
			}
		}
		own.W = min(own.W, least[i])
		need = need.Union(p.Own(own))
	}
	if need.W > area.W || need.H > area.H {
		return nil, false
	}
	by := geometry.Point{X: geometry.Clamp(need.X, area.X, area.Right()-need.W) - need.X,
		Y: geometry.Clamp(need.Y, area.Y, area.Bottom()-need.H) - need.Y}
	var edits []edit.Edit
	for i, p := range s.Pools {
		own, paper := p.Own(p.Box().Moved(by)), p.Own(area)
		if w := max(least[i], paper.Right()-own.X); w < p.W {
			edits = append(edits, &edit.SetPool{Sheet: s.ID, Pool: p.ID, W: &w})
		}
	}
	if by != (geometry.Point{}) {
		edits = append(edits, &edit.MoveItems{Sheet: s.ID, IDs: s.Movables(), By: by})
	}
	return edits, len(edits) > 0
}

// growing returns the edit together with a larger paper, where the sheet's paper grows with what
// is drawn and the edit reaches beyond it.
func (e *Window) growing(change edit.Edit) edit.Edit {
	s := e.Sheet()
	if s.Edge != model.EdgeGrow {
		return change
	}
	e.Drop()
	before := s.Drawn()
	trial, err := edit.Attempt(e.M, change)
	if err != nil {
		return change
	}
	var paper *edit.SetSheet
	if now := e.M.Sheet(s.ID); now != nil && !before.Holds(now.Drawn()) && !now.Area().Holds(now.Drawn()) {
		if name, across, ok := compose.LargerPaper(now, now.Drawn()); ok {
			paper = &edit.SetSheet{Sheet: s.ID, Paper: &name, Across: &across}
		}
	}
	trial.Rollback()
	if paper == nil {
		return change
	}
	e.Say("The paper is %s now.", *paper.Paper)
	return edit.Together(edit.Words(e.M, change), change, paper)
}

// SetEdge sets what happens at the edge of the paper. A paper that is to grow does so at once
// where something lies beyond it.
func (e *Sheets) SetEdge(arg string) {
	s, v := e.Sheet(), model.Edge(arg)
	set := &edit.SetSheet{Sheet: s.ID, Edge: &v}
	if v == model.EdgeGrow && !s.Area().Holds(s.Drawn()) {
		if name, across, ok := compose.LargerPaper(s, s.Drawn()); ok {
			set.Paper, set.Across = &name, &across
		}
	}
	e.Do(set)
}
