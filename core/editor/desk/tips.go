package desk

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
)

// The tip of a call-out: it can be pulled to a symbol or a connector, which it then follows, or to
// any place beside the call-out.

// TipOf returns where the tip of a symbol lies, if the symbol has one that can be pulled.
func (e *Window) TipOf(sym *model.Symbol) (geometry.Point, bool) {
	def := symbols.Of(sym.Kind)
	if def.Pointing == nil {
		return geometry.Point{}, false
	}
	var x scene.Extra
	around := e.Facts.Around(e.Sheet(), e.Routed)
	if around.Complete(&x, sym.ID); x.Tip != (geometry.Point{}) {
		return sym.Corner().Add(x.Tip), true
	}
	return sym.Corner().Add(def.Tip(sym.W, sym.H)), true
}
