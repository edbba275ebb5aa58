package rounds

import (
	"context"
	"errors"

	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/svg"
	"plaintracer/store"
)

// ErrLong is returned where drawing took longer than it may.
var ErrLong = errors.New("drawing it takes too long")

// DrawSheets returns what draws the sheets of a version as they are kept with it, until a context ends. It returns
// ErrLong then.
func DrawSheets(ctx context.Context) func(m *model.Map) ([]store.VersionSheet, error) {
	return func(m *model.Map) (list []store.VersionSheet, err error) {
		facts := scene.Know(m)
		for _, sheet := range m.Sheets {
			d, ok := scene.DrawUntil(m, sheet, facts, func() bool { return ctx.Err() != nil })
			if !ok {
				return nil, ErrLong
			}
			out, err := svg.Write(d, svg.Options{})
			if err != nil {
				return nil, err
			}
			packed, err := svg.Zipped(out)
			if err != nil {
				return nil, err
			}
			list = append(list, store.VersionSheet{Sheet: sheet.ID, Name: sheet.Name, Picture: packed})
		}
		return list, nil
	}
}
