package hands

import (
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/layout"
)

// TestLayOutComparesWithHands holds Lay out to what a careful hand reaches on the same maps.
func TestLayOutComparesWithHands(t *testing.T) {
	var hand, laid Numbers
	maps := All()
	if len(maps) < 38 {
		t.Fatalf("only %d maps", len(maps))
	}
	for _, h := range maps {
		a, b := Of(h.Map()), Of(h.LaidOut())
		if a.Hits > 0 {
			t.Errorf("%s: the hand leads a line through a symbol", h.Name)
		}
		if b.Bends > a.Bends+1 || b.Hits > 0 {
			t.Errorf("%s: %d bends and %d lines through symbols; the hand needs %d bends", h.Name, b.Bends, b.Hits,
				a.Bends)
		}
		if b.Touching > 0 {
			t.Errorf("%s: %d stretches run too close to others", h.Name, b.Touching)
		}
		drawn, m := h.Map().Sheets[0], h.LaidOut().Sheets[0]
		if drawn.Page().Holds(drawn.Drawn()) && !m.Page().Holds(m.Drawn()) {
			t.Errorf("%s: it reaches to %v on %v, where the hand has it on its paper", h.Name, m.Drawn(), m.Page())
		}
		hand, laid = hand.Plus(a), laid.Plus(b)
	}
	t.Logf("by hand %+v, laid out %+v", hand, laid)
	switch {
	case float64(laid.Bends) > 1.05*float64(hand.Bends):
		t.Error("more bends than 1.05 times those of the hands")
	case laid.Crossings > hand.Crossings:
		t.Error("more crossings")
	case float64(laid.Straight) < float64(hand.Straight)-0.03*float64(hand.Lines):
		t.Error("fewer straight lines, by more than 3 in a hundred")
	case laid.Length > 1.1*hand.Length:
		t.Error("lines longer than 1.1 times those of the hands")
	case laid.Width > 1.1*hand.Width || laid.Height > 1.1*hand.Height:
		t.Error("wider or higher than 1.1 times the hands'")
	}
}

// Lines that have nothing to do with each other keep apart where there is room, on made-up flows with and without lanes
// as well.
func TestLinesKeepApart(t *testing.T) {
	touching, lines := 0, 0
	for _, shape := range []processes.Shape{{Steps: 20}, {Steps: 20, Lanes: 4}, {Steps: 50}, {Steps: 50, Lanes: 4},
		{Steps: 100}, {Steps: 100, Lanes: 4}} {
		for seed := range uint64(10) {
			m := processes.Make(seed, shape).Map()
			if _, err := edit.Apply(m, layout.Find(m, m.Sheets[0], layout.Options{Long: true})); err != nil {
				t.Fatal(err)
			}
			n := Of(m)
			touching, lines = touching+n.Touching, lines+n.Lines
		}
	}
	t.Logf("%d of %d lines", touching, lines)
	if touching > 2 {
		t.Errorf("%d stretches of %d lines run closer to others than they need to", touching, lines)
	}
}
