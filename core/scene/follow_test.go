package scene_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/session"
)

// A scene that only follows what is touched is the one that a look at the whole sheet gives, whatever is shown, taken
// away and made in between.
func TestAFollowedSceneIsTheWholeOne(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 1))
		m := model.New("Map", model.Rightwards, "A3", true)
		s := m.Sheets[0]
		s.Merging = seed%2 == 0
		lanes := []model.Lane{{ID: "a", Name: "A", H: 40_000}, {ID: "b", Name: "B", H: 40_000}}
		s.Pools = append(s.Pools, &model.Pool{ID: "p", W: 200_000, Lanes: lanes})
		for i := range 12 {
			kind := []model.Kind{model.Process, model.Decision, model.Document}[i%3]
			box := geometry.Box{X: 10_000 + i%4*20_000, Y: 10_000 + i/4*16_000, W: 12_000, H: 8_000}
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: kind, Text: "Step", Box: box})
		}
		for i := range 16 {
			from, to := model.End{Symbol: fmt.Sprint("s", r.IntN(6))}, model.End{Symbol: fmt.Sprint("s", 6+r.IntN(6))}
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("k", i), From: from, To: to})
		}
		doc, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		own, err := session.Open(doc, 0, "w")
		if err != nil {
			t.Fatal(err)
		}
		m, s = own.Map(), own.Map().Sheets[0]
		var followed scene.Linker
		var touched edit.Touched
		quick := 0
		for round := range 200 {
			switch edit := anEdit(r, s, own.NewID); r.IntN(8) {
			case 0:
				_ = own.Do(edit) // what is refused changes nothing
			case 1:
				own.Hide()
			case 2:
				_, _, _ = own.Undo()
			default:
				own.Show(edit)
			}
			if r.IntN(3) == 0 {
				continue // more than one at a time
			}
			own.Touched(&touched)
			if _, few := touched.Few(); few {
				quick++
			}
			followed.Follow(m, s, &touched)
			touched.Looked()
			whole := scene.Links(m, s)
			if !followed.Scene.Equal(&whole) {
				t.Fatalf("seed %d, round %d: the scene is another:\n%+v\n%+v", seed, round, followed.Scene.Links,
					whole.Links)
			}
		}
		if quick < 20 {
			t.Errorf("seed %d: only %d rounds touched a few items alone", seed, quick)
		}
	}
}

// anEdit returns some edit of a sheet.
func anEdit(r *rand.Rand, s *model.Sheet, newID func() string) edit.Edit {
	sym, link := s.Symbols[r.IntN(len(s.Symbols))], s.Connectors[r.IntN(len(s.Connectors))]
	switch r.IntN(9) {
	case 0:
		return &edit.SetKind{Sheet: s.ID, ID: sym.ID, Kind: []model.Kind{model.Process, model.Decision}[r.IntN(2)]}
	case 1:
		return &edit.SetText{Sheet: s.ID, ID: link.ID, Text: []string{"", "yes", "a longer answer"}[r.IntN(3)]}
	case 2:
		return &edit.SetEnds{Sheet: s.ID, ID: link.ID, To: &model.End{Symbol: sym.ID}}
	case 3:
		added := model.Symbol{ID: newID(), Kind: model.Process, Box: sym.Moved(geometry.Point{Y: 60_000})}
		return &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{added}}
	case 4:
		return &edit.MoveItems{Sheet: s.ID, IDs: []string{"p"}, By: geometry.Point{X: 1000}}
	case 5:
		if len(s.Symbols) > 8 && len(s.Connectors) > 8 {
			return &edit.RemoveItems{Sheet: s.ID, IDs: []string{sym.ID}}
		}
	}
	return &edit.MoveItems{Sheet: s.ID, IDs: []string{sym.ID},
		By: geometry.Point{X: r.IntN(5) * 1000, Y: r.IntN(5) * 1000}, Held: true}
}
