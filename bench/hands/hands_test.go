package hands

import "testing"

// TestLayOutComparesWithHands holds Lay out to what a careful hand reaches on the same maps.
func TestLayOutComparesWithHands(t *testing.T) {
	var hand, laid Numbers
	maps := All()
	if len(maps) < 24 {
		t.Fatalf("only %d maps", len(maps))
	}
	for _, h := range maps {
		a, b := Of(h.Map()), Of(h.LaidOut())
		if a.Hits > 0 {
			t.Errorf("%s: the hand leads a line through a symbol", h.Name)
		}
		if b.Bends > a.Bends+2 || b.Hits > 0 {
			t.Errorf("%s: %d bends and %d lines through symbols; the hand needs %d bends", h.Name, b.Bends, b.Hits, a.Bends)
		}
		hand, laid = hand.Plus(a), laid.Plus(b)
	}
	t.Logf("by hand %+v, laid out %+v", hand, laid)
	switch {
	case float64(laid.Bends) > 1.15*float64(hand.Bends):
		t.Error("more bends than 1.15 times those of the hands")
	case laid.Crossings > hand.Crossings:
		t.Error("more crossings")
	case float64(laid.Straight) < float64(hand.Straight)-0.03*float64(hand.Lines):
		t.Error("fewer straight lines, by more than 3 in a hundred")
	case laid.Length > 1.2*hand.Length:
		t.Error("lines longer than 1.2 times those of the hands")
	case laid.Width > 1.1*hand.Width || laid.Height > 1.1*hand.Height:
		t.Error("wider or higher than 1.1 times the hands'")
	}
}
