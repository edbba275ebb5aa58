// Package arrange puts symbols in their places: in line, evenly spaced, next
// to each other, and large enough for their text.
package arrange

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

const px = geometry.Px

// Grid is the step of the grid and of a nudge.
const Grid = 10 * px

// Gap is the space between a step and the next one.
const Gap = 40 * px

// Fit returns the places that let a symbol hold its text, by the sheet's way of
// fitting: nothing where the text is to be set smaller; the symbol itself,
// grown around its centre; or with it all others of its kind that had its size.
// The symbol need not be the one on the sheet: what it is to become counts.
func Fit(m *model.Map, s *model.Sheet, sym *model.Symbol) []edit.Place {
	if s.IsCell(sym) { // its size follows from its text
		return nil
	}
	if s.Fitting == model.FitSmaller {
		return nil
	}
	w, h := typeset.HouseOf(m).Grow(symbols.Of(sym.Kind), sym.Accented(), looks.For(m, sym).Type(sym.Type), sym.W,
		sym.H)
	if w == sym.W && h == sym.H {
		return nil
	}
	out := []edit.Place{{ID: sym.ID, Box: geometry.Around(sym.Centre(), w, h)}}
	if s.Fitting == model.FitAlone || !together(sym.Kind) || Outsized(sym, out[0]) {
		return out
	}
	for _, o := range s.Symbols {
		if o.ID != sym.ID && o.Kind == sym.Kind && o.W == sym.W && o.H == sym.H {
			out = append(out, edit.Place{ID: o.ID, Box: geometry.Around(o.Centre(), w, h)})
		}
	}
	return out
}

// Outsized reports whether a symbol would grow to more than half as much again for one text:
// the others of its kind do not go along with that.
func Outsized(sym *model.Symbol, to edit.Place) bool {
	return 2*to.W > 3*sym.W || 2*to.H > 3*sym.H
}

// Alike reports whether there are others of a symbol's kind and size that would grow with it.
func Alike(s *model.Sheet, sym *model.Symbol) bool {
	return together(sym.Kind) && slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool {
		return o.ID != sym.ID && o.Kind == sym.Kind && o.W == sym.W && o.H == sym.H
	})
}

// together reports whether symbols of a kind keep one size.
func together(k model.Kind) bool {
	return k.KeepsSize()
}

// Size returns the size a new symbol of a kind has: that of most others of its
// kind on the sheet where they keep one size, else the standard.
func Size(s *model.Sheet, kind model.Kind) (w, h int) {
	def := symbols.Of(kind)
	w, h = def.W, def.H
	if s.Fitting != model.FitTogether || !together(kind) {
		return w, h
	}
	count, most := map[[2]int]int{}, 0
	for _, o := range s.Symbols {
		if o.Kind == kind {
			size := [2]int{o.W, o.H}
			count[size]++
			if count[size] > most {
				most, w, h = count[size], o.W, o.H
			}
		}
	}
	return w, h
}

// Standard returns the box of a new symbol of a kind around a point.
func Standard(s *model.Sheet, kind model.Kind, at geometry.Point) geometry.Box {
	w, h := Size(s, kind)
	return geometry.Around(at, w, h)
}
