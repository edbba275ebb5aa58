package intake

import (
	"context"

	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/gate"
)

// Vet looks at the pictures and fonts that an edit brings into a map.
func Vet(made *edit.Revert) error {
	var p []pictures.Picture
	var f []fonts.Font
	id := ""
	for i := range made.Changes {
		c := &made.Changes[i]
		if one, ok := edit.Changed[pictures.Picture](c); ok && one.Before == nil {
			p, id = append(p, *one.After), c.ID
		} else if one, ok := edit.Changed[fonts.Font](c); ok && one.Before == nil {
			f, id = append(f, *one.After), c.ID
		}
	}
	err := Sound(context.Background(), p, f)
	if err == nil {
		return nil
	}
	if words, ok := gate.Words("what it brings ", err); ok {
		return &model.Refusal{ID: id, Text: words}
	}
	return err
}
