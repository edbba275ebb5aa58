package scene_test

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/values"
)

var longValues = []string{"The permit database of the traffic desk", "SAP",
	"The register of poles and lamps, its map, and the list of the crews who are on duty at night",
	"Straßenbeleuchtungsinstandsetzungsauftragsverwaltung"}

// saysValues checks that all of the values of a symbol is drawn under it, within the height that is kept for them, and
// hardly wider than it.
func saysValues(t *testing.T, m *model.Map, s *model.Sheet, sym *model.Symbol, n *scene.Node) {
	t.Helper()
	bare := strings.NewReplacer(" ", "", "\n", "")
	said, bottom := "", 0
	for i := range n.Texts {
		if line := &n.Texts[i]; !line.Own && line.Y > sym.H {
			said += line.Text
			bottom = max(bottom, line.Y)
			if w := line.Width(); w > sym.W+16*geometry.Px {
				t.Errorf("the line %q is %d wide under a symbol of %d", line.Text, w, sym.W)
			}
		}
	}
	if want := m.Shows(sym); bare.Replace(said) != bare.Replace(want) {
		t.Errorf("under a symbol stands %q, not %q", said, want)
	}
	if bottom > sym.H+m.Under(s, sym) {
		t.Errorf("the values %q reach beyond their room", said)
	}
}

// The values under symbols are part of what lines and labels keep clear of: no course runs through them, none begins or
// ends in them, and no label lies on them.
func TestLinesKeepClearOfValues(t *testing.T) {
	for seed := range 30 {
		r := rand.New(rand.NewSource(int64(seed)))
		m := model.New("Values", model.Rightwards, "A3", true)
		m.Fields = []model.Field{{ID: "t", Name: "Time", Type: values.Duration}, {ID: "s", Name: "System",
			Type: values.Text}}
		m.Shown = []string{"t", "s"}
		s := m.Sheets[0]
		for i := range 12 {
			sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: "Step", Box: geometry.Box{
				X: (60 + i%4*240) * geometry.Px, Y: (60 + i/4*200) * geometry.Px, W: 120 * geometry.Px,
				H: 80 * geometry.Px}}
			if r.Intn(4) > 0 {
				sym.SetValue(&m.Head, "t", "90")
				sym.SetValue(&m.Head, "s", longValues[r.Intn(len(longValues))])
			}
			s.Symbols = append(s.Symbols, sym)
		}
		for i := range 16 {
			a, b := r.Intn(12), r.Intn(12)
			if a != b {
				s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i), Text: []string{"", "Yes",
					"No, it burns"}[r.Intn(3)],
					From: model.End{Symbol: fmt.Sprint("s", a)}, To: model.End{Symbol: fmt.Sprint("s", b)}})
			}
		}
		under := func(sym *model.Symbol) geometry.Box {
			return geometry.Box{X: sym.X + geometry.Px, Y: sym.Bottom() + geometry.Px, W: sym.W - 2*geometry.Px,
				H: m.Under(s, sym) - 2*geometry.Px}
		}
		drawing := scene.Draw(m, s)
		for i := range drawing.Nodes {
			n := &drawing.Nodes[i]
			if sym := s.Symbol(n.ID); sym != nil {
				saysValues(t, m, s, sym, n)
			}
		}
		for i, course := range new(routing.Router).Route(scene.Links(m, s)) {
			for _, sym := range s.Symbols {
				if m.Under(s, sym) == 0 {
					continue
				}
				for k := range course.Points[1:] {
					if under(sym).CutBy(course.Points[k], course.Points[k+1]) {
						t.Errorf("seed %d: %s runs through the values of %s", seed, s.Connectors[i].ID, sym.ID)
					}
				}
				for _, label := range course.Labels {
					if label.W > 0 && label.Meets(under(sym)) {
						t.Errorf("seed %d: a label of %s lies on the values of %s", seed, s.Connectors[i].ID, sym.ID)
					}
				}
			}
		}
	}
}
