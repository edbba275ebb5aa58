package scene

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
)

// crowd returns a map of steps in rows, a bit out of line, joined at random, and below them a
// row of neighbours joined one to the next.
func crowd(n, links int) *model.Map {
	m := model.New("Crowd", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	r := rand.New(rand.NewPCG(1, 2))
	for i := range n {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Box: geometry.Box{X: i%40*20000 + r.IntN(5000), Y: i/40*16000 + r.IntN(5000), W: 12000, H: 8000}})
	}
	for i := range links {
		a, b := i%n, (i+1)%n
		if i >= n/2 {
			a, b = r.IntN(n), r.IntN(n)
		}
		if a != b {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", a)}, To: model.End{Symbol: fmt.Sprint("s", b)}})
		}
	}
	return m
}

// A sheet with very much on it is drawn plainly in part, and says so; one with less never is.
// What is plain follows from the sheet alone, not from what was drawn before.
func TestASheetWithVeryMuchIsDrawnPlainly(t *testing.T) {
	for _, c := range []struct {
		n, links int
		plain    bool
	}{{1250, 1600, true}, {300, 500, false}} {
		m := crowd(c.n, c.links)
		s := m.Sheets[0]
		d := Draw(m, s)
		said := strings.Contains(string(d.AppendSVG(nil)), "drawn plainly")
		if (d.Unrouted > 0) != c.plain || said != c.plain || d.Unrouted > len(d.Courses)*2/3 {
			t.Errorf("%d connectors: %d are drawn plainly, said: %v", c.links, d.Unrouted, said)
		}
		for i := range d.Courses {
			pts := d.Courses[i].Points
			for k := 1; k < len(pts); k++ {
				if pts[k].X != pts[k-1].X && pts[k].Y != pts[k-1].Y {
					t.Fatalf("connector %d slants: %v", i, pts)
				}
			}
		}
		var r routing.Router
		var l Linker
		l.Fill(m, s)
		r.Route(l.Scene)
		moved := s.Symbols[7]
		moved.Box = moved.Moved(geometry.Point{X: 3000, Y: 700})
		l.Fill(m, s)
		again, fresh := r.Route(l.Scene), Draw(m, s).Courses
		for i := range fresh {
			if fmt.Sprint(again[i].Points, again[i].Unrouted) != fmt.Sprint(fresh[i].Points, fresh[i].Unrouted) {
				t.Fatalf("%d connectors: after a move connector %d is %v, afresh %v", c.links, i, again[i], fresh[i])
			}
		}
	}
}

// However many connectors lie on each other over however long a way, their prices do not run
// over what a number holds, which let a search go on for ever.
func TestManyConnectorsOverTheWholeDesk(t *testing.T) {
	for _, by := range []geometry.Point{{X: 2*model.MaxPlace - 20000}, {X: 2*model.MaxPlace - 20000, Y: 5000}} {
		m := model.New("Far", model.Rightwards, "A4", true)
		s := m.Sheets[0]
		for i := range 2 {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
				Box: geometry.Box{X: -model.MaxPlace + i*by.X, Y: i * by.Y, W: 12000, H: 8000}})
		}
		for k := range 400 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", k),
				From: model.End{Symbol: fmt.Sprint("s", k%2)}, To: model.End{Symbol: fmt.Sprint("s", 1-k%2)}})
		}
		for i, c := range Draw(m, s).Courses {
			if len(c.Points) < 2 || c.Obstructed {
				t.Errorf("connector %d is %v", i, c.Points)
			}
		}
	}
}

// Drawing stops when it is told to.
func TestDrawingStops(t *testing.T) {
	m := crowd(600, 900)
	asked := 0
	if d, ok := DrawUntil(m, m.Sheets[0], Know(m), func() bool { asked++; return asked == 3 }); ok || d != nil ||
		asked != 3 {
		t.Errorf("it was asked %d times and went on", asked)
	}
}

// The largest ordinary sheet, joined at random, and beyond: 1,000 symbols with 3,000
// connectors, and as much as a sheet can hold. Target: 5 s.
func BenchmarkCrowd(b *testing.B) {
	for _, c := range [][2]int{{1000, 1500}, {1000, 3000}, {5000, 10000}} {
		b.Run(fmt.Sprint(c[0], " symbols, ", c[1], " connectors"), func(b *testing.B) {
			m := crowd(c[0], c[1])
			for b.Loop() {
				b.ReportMetric(float64(Draw(m, m.Sheets[0]).Unrouted), "plain")
			}
		})
	}
}
