package pages_test

import (
	"math"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
)

// wide returns the drawing of a sheet whose steps stand in a row of n.
func wide(n int, paper string) (*scene.Drawing, *model.Map) {
	m := model.New("Wide", model.Rightwards, paper, true)
	for i := range n {
		sym := &model.Symbol{ID: "s" + string(rune('a'+i)), Kind: model.Process, Text: "Step"}
		sym.X, sym.Y, sym.W, sym.H = 4000+i*16000, 4000, 12000, 8000
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, sym)
	}
	return scene.Draw(m, m.Sheets[0]), m
}

// A millimetre is what the CSS pixel says (CSS Values and Units 3, 5.2: 1 in = 25.4 mm = 96 px), A4 what ISO 216 says.
func TestPagesAreOfTheirPaper(t *testing.T) {
	if got := pages.MM(25.4); got != 9600 {
		t.Errorf("an inch is %d hundredths of a pixel", got)
	}
	d, m := wide(3, "A4")
	for _, c := range []struct {
		w    pages.Options
		x, y float64 // millimetres
	}{
		{pages.Options{}, 297, 210}, {pages.Options{Paper: "A3", Across: true}, 420, 297},
		{pages.Options{Paper: "A3", Upright: true}, 297, 420},
		{pages.Options{Paper: "A5"}, 210, 148}, // the way round that shows it larger
	} {
		list, err := pages.Of(d, m, c.w)
		if err != nil || len(list) != 1 {
			t.Fatalf("%+v: %d pages, %v", c.w, len(list), err)
		}
		if p := list[0]; math.Abs(float64(p.W-pages.MM(c.x))) > 2 || math.Abs(float64(p.H-pages.MM(c.y))) > 2 {
			t.Errorf("%+v: the page is %d by %d, not %v by %v mm", c.w, p.W, p.H, c.x, c.y)
		}
	}
}

// However it goes onto pages, each step is wholly on one of them, and a view keeps its proportions and stays within the
// margins.
func TestEveryStepIsSeenWhole(t *testing.T) {
	for n := 1; n <= 24; n++ {
		d, m := wide(n, "A4")
		for _, w := range []pages.Options{{}, {Paper: "A4", Margin: pages.MM(10)},
			{Paper: "A5", Upright: true, Margin: pages.MM(10)},
			{Paper: "A5", Tiled: true, Margin: pages.MM(10), Overlap: pages.MM(40)},
			{Paper: "A4", Tiled: true, Across: true, Margin: pages.MM(5), Overlap: pages.MM(40)}} {
			list, err := pages.Of(d, m, w)
			if err != nil {
				t.Fatalf("%d steps, %+v: %v", n, w, err)
			}
			for _, sym := range m.Sheets[0].Symbols {
				if page, at := pages.Find(list, sym.ID); page < 0 {
					t.Errorf("%d steps, %+v: %s is on no page", n, w, sym.ID)
				} else if p := list[page]; !(geometry.Box{W: p.W, H: p.H}).Holds(at) {
					t.Errorf("%d steps, %+v: %s lies at %v, beyond the page", n, w, sym.ID, at)
				}
			}
			for _, p := range list {
				inner := geometry.Box{W: p.W, H: p.H}.Grown(-w.Margin + 2)
				for _, v := range p.Views {
					if !inner.Holds(v.To) {
						t.Errorf("%d steps, %+v: a view lies at %v on a page of %d by %d", n, w, v.To, p.W, p.H)
					}
					if across, down := float64(v.To.W)/float64(v.From.W),
						float64(v.To.H)/float64(v.From.H); math.Abs(across-down) > 0.01 {
						t.Errorf("%d steps, %+v: scaled by %.3f across and %.3f down", n, w, across, down)
					}
					if w.Tiled && v.Scale() != 1 {
						t.Errorf("tiles are scaled by %.3f", v.Scale())
					}
				}
			}
		}
	}
}

// Tiles overlap by what was asked, so that they can be joined, and there are no more than can be.
func TestTilesOverlap(t *testing.T) {
	d, m := wide(20, "A4")
	w := pages.Options{Paper: "A5", Tiled: true, Margin: pages.MM(10), Overlap: pages.MM(15)}
	list, err := pages.Of(d, m, w)
	if err != nil || len(list) < 3 {
		t.Fatalf("%d pages, %v", len(list), err)
	}
	a, b := list[0].Views[0].From, list[1].Views[0].From
	if overlap := a.Right() - b.X; overlap != w.Overlap {
		t.Errorf("they overlap by %d, not %d", overlap, w.Overlap)
	}
	if len(list[0].Nodes) == 0 {
		t.Error("there are no marks to join them by")
	}
	if _, err := pages.Of(d, m, pages.Options{Paper: "A5", Margin: pages.MM(80)}); err == nil {
		t.Error("margins that leave no room were taken")
	}
	if _, err := pages.Of(d, m, pages.Options{Paper: "Papyrus"}); err == nil {
		t.Error("a paper that there is not was taken")
	}
}
