package spatial

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// Sorted finds the places that a search by halves finds.
func TestSortedFindsPlaces(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 44))
	var ruler Sorted
	for range 2000 {
		at := []int{r.IntN(2000) - 1000}
		for range r.IntN(60) {
			at = append(at, at[len(at)-1]+1+r.IntN(1<<r.IntN(14)))
		}
		ruler.Build(at)
		for range 50 {
			v := at[0] - 5 + r.IntN(at[len(at)-1]-at[0]+10)
			if r.IntN(2) == 0 {
				v = at[r.IntN(len(at))]
			}
			above, _ := slices.BinarySearch(at, v+1)
			below, _ := slices.BinarySearch(at, v)
			if ruler.Above(v) != above || ruler.Below(v) != below-1 {
				t.Fatalf("%d lies above %d and below %d of %v, not %d and %d", v, ruler.Below(v), ruler.Above(v), at,
					below-1, above)
			}
		}
	}
}
