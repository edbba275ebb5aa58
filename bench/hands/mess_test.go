package hands

import (
	"encoding/json"
	"math/rand/v2"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// messed drags some of the steps of a map that was arranged by hand somewhere else on the sheet, or in their lane.
func messed(h Hand, r *rand.Rand, share float64) *model.Map {
	m := h.Map()
	s := m.Sheets[0]
	page := s.Drawn()
	for _, sym := range s.Symbols {
		if r.Float64() >= share || sym.Kind.StandsAnywhere() {
			continue
		}
		to := geometry.Point{X: page.X + r.IntN(max(page.W-sym.W, 1)), Y: page.Y + r.IntN(max(page.H-sym.H, 1))}
		if pool, i := s.LaneAt(sym.Centre()); pool != nil {
			lane := pool.Inner(i)
			to = geometry.Point{X: lane.X + r.IntN(max(lane.W-sym.W, 1)), Y: lane.Y + r.IntN(max(lane.H-sym.H, 1))}
		}
		sym.Box = sym.At(geometry.Point{X: geometry.Snap(to.X, 1000), Y: geometry.Snap(to.Y, 1000)})
	}
	return m
}

// A mess comes out as clean as what nobody has arranged: where steps stand is a wish. Over ten maps the lines have one
// bend more at the most, no map leads more often against the reading direction, and what was laid out stays.
func TestAMessComesOutClean(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	kept := 0
	for _, share := range []float64{0.15, 0.5, 1} { // of the steps, dragged anywhere
		fresh, rescued, n := 0, 0, 0
		for _, h := range append(All(), All()...) {
			m := messed(h, r, share)
			s, wish := m.Sheets[0], layout.Options{Down: m.Direction == model.Downwards, Above: m.Above}
			afresh := m.Clone()
			from := wish
			from.Afresh = true
			for _, one := range []struct {
				m *model.Map
				w layout.Options
			}{{afresh, from}, {m, wish}} {
				if plan := layout.Find(one.m, one.m.Sheets[0], one.w); plan != nil {
					if _, err := edit.Apply(one.m, plan); err != nil {
						t.Fatalf("%s: %v", h.Name, err)
					}
				}
			}
			a, b := layout.Measure(afresh, afresh.Sheets[0], wish.Down), layout.Measure(m, s, wish.Down)
			if b.Against > a.Against || b.Cut > 0 {
				t.Errorf("%s, %.0f in a hundred dragged: %+v, afresh %+v", h.Name, share*100, b, a)
			}
			if string(drawn(t, m)) != string(drawn(t, afresh)) {
				kept++
			}
			if again := layout.Find(m, s, wish); again != nil {
				t.Errorf("%s: laid out twice, %d symbols move", h.Name, len(again.Boxes))
			}
			fresh, rescued = fresh+a.Bends+6*a.Crossings, rescued+b.Bends+6*b.Crossings
			if n++; n%10 == 0 {
				if rescued > fresh+1 {
					t.Errorf("%.0f in a hundred dragged: ten maps have %d bends, afresh %d", share*100, rescued, fresh)
				}
				fresh, rescued = 0, 0
			}
		}
	}
	t.Logf("%d maps keep something of where their steps stood", kept)
	if kept < 10 {
		t.Errorf("only %d maps keep anything of where their steps stood", kept)
	}
}

// drawn are the places of the steps of a map.
func drawn(t *testing.T, m *model.Map) []byte {
	t.Helper()
	raw, err := json.Marshal(m.Sheets[0].Symbols)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}
