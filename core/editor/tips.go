package editor

import (
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
)

// The tip of a call-out: it can be pulled to a symbol or a connector, which it then follows, or to
// any place beside the call-out.

// tipOf returns where the tip of a symbol lies, if the symbol has one that can be pulled.
func (e *Editor) tipOf(sym *model.Symbol) (geometry.Point, bool) {
	def := symbols.Of(sym.Kind)
	if def.Pointing == nil {
		return geometry.Point{}, false
	}
	var x scene.Extra
	around := e.facts.Around(e.Sheet(), e.courses)
	if around.Complete(&x, sym.ID); x.Tip != (geometry.Point{}) {
		return sym.Corner().Add(x.Tip), true
	}
	return sym.Corner().Add(def.Tip(sym.W, sym.H)), true
}

// tipEdit returns the edit that pulls the tip in hand to p. Back inside its own symbol it is as
// it was before anyone pulled it.
func (e *Editor) tipEdit(p geometry.Point) edit.Edit {
	g := &e.g
	sym := e.symbol(g.id)
	if sym == nil {
		return nil
	}
	var tip model.Tip
	g.target = ""
	switch id := e.symbolAt(p, 0); {
	case sym.Contains(p):
	case id != "" && !symbols.Of(e.symbol(id).Kind).Hollow:
		g.target = id
		tip = model.Tip{On: id, At: p.Sub(e.symbol(id).Centre())}
	default:
		if id = e.lineAt(p, e.reach(6)); id == "" {
			tip.At = p.Sub(sym.Corner())
			break
		}
		g.target = id
		_, course := e.courseOf(id)
		_, along, _ := course.Points.Nearest(p)
		tip = model.Tip{On: id, Along: along * model.WholeCourse / max(course.Points.Length(), 1)}
	}
	return &edit.SetStyle{Sheet: e.sheetID, IDs: []string{g.id}, Tip: &tip}
}
