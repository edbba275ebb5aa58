package gesture

import (
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// pullTip pulls the tip of a call-out: to a symbol or a connector, which it then follows, or to any place beside the
// call-out. Back inside its own symbol it is as it was before anyone pulled it.
func (e *Pointer) pullTip(at grip, id string) Gesture {
	target := ""
	return &pull{grip: at, edit: func(p geometry.Point) edit.Edit {
		sym := e.Symbol(id)
		if sym == nil {
			return nil
		}
		var tip model.Tip
		if tip, target = e.tipAt(sym, p); target != "" && e.Symbol(target) == nil {
			_, course := e.CourseOf(target)
			_, along, _ := course.Points.Nearest(p)
			tip = model.Tip{On: target, Along: along * model.WholeCourse / max(course.Points.Length(), 1)}
		}
		return &edit.SetStyle{Sheet: e.SheetID, IDs: []string{id}, Tip: &tip}
	}, mark: func(o *overlay) {
		if sym := e.Symbol(target); sym != nil {
			o.shape("target", sym.Kind, sym.Box)
		} else if _, course := e.CourseOf(target); course != nil {
			o.line("target", course.Points)
		}
	}}
}

// tipAt returns the tip of a call-out that is pulled to p, and the id of what it would follow there; empty for nothing.
func (e *Pointer) tipAt(sym *model.Symbol, p geometry.Point) (tip model.Tip, target string) {
	switch id := e.SymbolAt(p, 0); {
	case sym.Contains(p):
		return tip, ""
	case id != "" && !symbols.Of(e.Symbol(id).Kind).Hollow:
		return model.Tip{On: id, At: p.Sub(e.Symbol(id).Centre())}, id
	}
	if id := e.LineAt(p, e.Reach(6)); id != "" {
		return tip, id
	}
	return model.Tip{At: p.Sub(sym.Corner())}, ""
}
