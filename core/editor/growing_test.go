package editor_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// A text that lets symbols grow pushes what stands beyond, along the flow and across: gaps in
// a row stay as they were, nothing comes to lie on anything, what stood in line still does, and
// all of it is one undo with the text.
func TestGrowingPushesWhatStandsBeyond(t *testing.T) {
	rows := func(pools bool) *model.Map {
		m := model.New("Rows", model.Rightwards, "A3", true)
		s := m.Sheets[0]
		if pools {
			s.Pools = []*model.Pool{{ID: "pool", Title: "P", X: 10 * px, Y: 30 * px, W: 1100 * px,
				Lanes: []model.Lane{{ID: "one", Name: "One", H: 120 * px}, {ID: "two", Name: "Two", H: 120 * px},
					{ID: "three", Name: "Three", H: 120 * px}}}}
		}
		for row := range 3 {
			for k := range 5 {
				kind := model.Process
				if (row+k)%2 == 1 {
					kind = model.Decision
				}
				id := fmt.Sprintf("s%d%d", row, k)
				s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: "Short",
					Box: geometry.Box{X: (90 + 160*k) * px, Y: (50 + 120*row) * px, W: 120 * px, H: 80 * px}})
				if k > 0 {
					s.Connectors = append(s.Connectors, &model.Connector{ID: "c" + id,
						From: model.End{Symbol: fmt.Sprintf("s%d%d", row, k-1)}, To: model.End{Symbol: id}})
				}
			}
		}
		return m
	}
	for _, pools := range []bool{false, true} {
		for _, c := range []struct{ id, text string }{
			{"s01", "Is there any danger to the traffic here?"},
			{"s00", "Look up the pole number in the asset register and compare the address"},
			{"s22", "Straightforwardness"},
			{"s12", "Is an electrician to be had today or tomorrow?"}, {"s10", "Long enough a question to be put?"},
		} {
			d := open(t, rows(pools))
			before := string(document(t, d.Map()))
			sym := d.Sheet().Symbol(c.id)
			was := sym.Box
			if !d.Writing.Write(c.id, c.text) {
				t.Fatalf("%q was refused: %v", c.text, d.said)
			}
			d.flush()
			d.same()
			s := d.Sheet()
			if s.Symbol(c.id).W == was.W && s.Symbol(c.id).H == was.H {
				t.Fatalf("%q does not let its symbol grow", c.text)
			}
			for _, f := range findings.Check(d.Map()) {
				if strings.Contains(f.Text, "lies on") || strings.Contains(f.Text, "border") {
					t.Errorf("pools %v, %q: %s %s", pools, c.text, f.Symbol, f.Text)
				}
			}
			for row := range 3 {
				for k := 1; k < 5; k++ {
					a, b := s.Symbol(fmt.Sprintf("s%d%d", row, k-1)), s.Symbol(fmt.Sprintf("s%d%d", row, k))
					if b.X-a.Right() < 40*px {
						t.Errorf("pools %v, %q: the gap between %s and %s is %d px", pools, c.text, a.ID, b.ID,
							(b.X-a.Right())/px)
					}
					if a.Centre().Y != b.Centre().Y {
						t.Errorf("pools %v, %q: %s and %s are not in a row any more", pools, c.text, a.ID, b.ID)
					}
					if up := s.Symbol(fmt.Sprintf("s0%d", k)); up.Centre().X != b.Centre().X {
						t.Errorf("pools %v, %q: %s and %s are not in a column any more", pools, c.text, up.ID, b.ID)
					}
				}
			}
			d.Undo()
			d.flush()
			if got := string(document(t, d.Map())); got != before {
				t.Errorf("pools %v, %q: undone it is %s", pools, c.text, got)
			}
		}
	}
}

// For one very long text its symbol grows alone, and that is said.
func TestAVeryLongTextGrowsAlone(t *testing.T) {
	d := open(t, two())
	d.Writing.Write("a", strings.Repeat("Look up the pole number in the asset register. ", 8))
	d.flush()
	d.same()
	s := d.Sheet()
	if a, b := s.Symbols[0], s.Symbols[1]; a.H <= 120*px || b.W != 120*px || b.H != 80*px {
		t.Errorf("they are %d by %d and %d by %d", a.W/px, a.H/px, b.W/px, b.H/px)
	}
	if !strings.Contains(strings.Join(d.said, " "), "only its symbol has grown") {
		t.Errorf("said is %q", d.said)
	}
}

// A chain stays on the page: where the next step would leave it, it goes on in a new row; in
// lanes, which have no rows, and where no row has room, a larger paper is offered.
func TestChainsStayOnThePage(t *testing.T) {
	for _, direction := range []model.Direction{model.Rightwards, model.Downwards} {
		d := open(t, model.New("Chain", direction, "A4", direction == model.Rightwards))
		d.keys("Enter", "<Step>")
		for n := 2; n <= 12; n++ {
			d.keys("Enter", fmt.Sprintf("<Step %d>", n))
		}
		d.same()
		for _, f := range findings.Check(d.Map()) {
			if strings.Contains(f.Text, "edge") || strings.Contains(f.Text, "lies on") {
				t.Errorf("%s: %s %s", direction, f.Symbol, f.Text)
			}
		}
		for len(d.Sheet().Symbols) < 60 && !strings.Contains(strings.Join(d.said, " "), "beyond the edge") {
			d.keys("Enter", "<More>")
		}
		if len(d.said) == 0 {
			t.Fatalf("%s: nothing was offered with %d steps", direction, len(d.Sheet().Symbols))
		}
		var fixes []findings.Fix
		for _, f := range findings.Check(d.Map()) {
			fixes = append(fixes, f.Fixes...)
		}
		if !slices.ContainsFunc(fixes, func(m findings.Fix) bool { return m.Command == "paper-larger" }) {
			t.Fatalf("%s: no larger paper among the fixes %v", direction, fixes)
		}
		d.Command("paper-larger", "")
		d.flush()
		if s := d.Sheet(); s.Paper != "A3" || !s.Page().Holds(s.Drawn()) {
			t.Errorf("%s: the paper is %s, the drawing %v", direction, s.Paper, s.Drawn())
		}
	}
	m := model.New("Lanes", model.Rightwards, "A4", true)
	m.Sheets[0].Pools = []*model.Pool{{ID: "pool", Title: "P", X: 10 * px, Y: 30 * px, W: 1100 * px,
		Lanes: []model.Lane{{ID: "one", Name: "One", H: 120 * px}}}}
	d := open(t, m)
	d.keys("Enter", "<Step>")
	for range 7 {
		d.keys("Enter", "<Step>")
	}
	if !strings.Contains(strings.Join(d.said, " "), "beyond the edge") {
		t.Errorf("in a lane %d steps stand on %v; said is %q", len(d.Sheet().Symbols), d.Sheet().Drawn(), d.said)
	}
}
