package edit_test

import (
	"fmt"
	"sync"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Two maps and more are edited at once, each by one who holds it, as a server does: nothing that they share is filled
// by the first that comes. The race detector, or the program's end, says so otherwise.
func TestMapsAreEditedAtOnce(t *testing.T) {
	var all sync.WaitGroup
	const edits = 40
	for k := range 8 {
		all.Go(func() {
			m := model.New(fmt.Sprint("Map ", k), model.Rightwards, "A4", true)
			for n := range edits {
				sym := model.Symbol{ID: fmt.Sprint("s", n), Kind: model.Process, Text: "Step"}
				sym.X, sym.Y, sym.W, sym.H = 10000+n*100, 10000, 12000, 8000
				for _, e := range []edit.Edit{&edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{sym}},
					&edit.SetText{Sheet: "sheet-1", ID: sym.ID, Text: "Other"},
					&edit.MoveItems{Sheet: "sheet-1", IDs: []string{sym.ID}, By: geometry.Point{X: 100}}} {
					transaction, err := edit.Attempt(m, e)
					if err != nil {
						t.Error(err)
						return
					}
					if n%3 == 0 {
						transaction.Rollback()
						if _, err := edit.Attempt(m, e); err != nil {
							t.Error(err)
							return
						}
					}
				}
			}
			if len(m.Sheets[0].Symbols) != edits {
				t.Errorf("map %d has %d steps", k, len(m.Sheets[0].Symbols))
			}
		})
	}
	all.Wait()
}
