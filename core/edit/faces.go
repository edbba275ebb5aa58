package edit

import (
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/model"
)

func init() {
	register("keepFont",
		func(_ *model.Map, e *KeepFont) string { return "keep the font " + model.Quote(e.Font.Family) })
}

// KeepFont keeps a font file in the map, unless it is there already.
type KeepFont struct {
	Font fonts.Font `json:"font"`
}

func (e *KeepFont) change(t *transaction) error {
	// Fonts the map is no longer written in make room; undo brings them back.
	for _, old := range slices.Clone(t.m.Fonts) {
		if old.ID != e.Font.ID && !t.m.UsesFont(old.ID) {
			fontList.remove(t, old.ID)
		}
	}
	return fontList.add(t, len(t.m.Fonts), e.Font)
}
