package layout_test

import (
	"fmt"
	"slices"
	"testing"

	"plaintracer/core/layout"
)

// A fork into an odd number of ways: they begin side by side after it, the first one straight ahead and as many on
// either side, and what stands before the fork stands before it still.
func TestForksAreSymmetrical(t *testing.T) {
	for _, kind := range []string{"process", "parallel-mode", "terminator"} {
		for _, ways := range []int{3, 5} {
			for long := 1; long <= 3; long++ {
				for _, down := range []bool{false, true} {
					lines := [][]string{{"a", "process", "fork"}, {"fork", kind}}
					for w := range ways {
						lines[1] = append(lines[1], fmt.Sprintf("w%d.0", w))
						for k := range long {
							next := "join"
							if k+1 < long {
								next = fmt.Sprintf("w%d.%d", w, k+1)
							}
							lines = append(lines, []string{fmt.Sprintf("w%d.%d", w, k), "process", next})
						}
					}
					lines = append(lines, []string{"join", "process", "end"}, []string{"end", "terminator"})
					m := sheet(t, lines...)
					m.Sheets[0].Merging = true
					m.Sheets[0].Paper, m.Sheets[0].Across = "A2", !down
					d := laid(t, m, layout.Options{Down: down})
					at := func(id string) (along, across int) {
						p := d.Sheet.Symbol(id).Centre().Turned(down)
						return p.X, p.Y
					}
					name := fmt.Sprintf("%d ways of %d out of a %s, down %v", ways, long, kind, down)
					before, _ := at("a")
					along, across := at("fork")
					var sides []int
					first, _ := at("w0.0")
					for w := range ways {
						x, y := at(fmt.Sprintf("w%d.0", w))
						sides = append(sides, y-across)
						if x != first || x <= along {
							t.Errorf("%s: way %d begins at %d, the first at %d, the fork stands at %d", name, w, x/px,
								first/px, along/px)
						}
					}
					if sides[0] != 0 || before >= along {
						t.Errorf("%s: the first way lies %d px aside", name, sides[0]/px)
					}
					slices.Sort(sides)
					for i := range sides {
						if sides[i] != -sides[len(sides)-1-i] {
							t.Errorf("%s: the ways lie at %v", name, sides)
							break
						}
					}
				}
			}
		}
	}
}
