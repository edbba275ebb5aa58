package spatial

import "plaintracer/core/scratch"

// Sorted finds the places of values among sorted coordinates, of which there is at least
// one. It begins at the first that lies in the same one of many equal parts, which on
// average is nearly there.
type Sorted struct {
	At []int
	// first are the places of the first coordinates in every part and after it; a part
	// is two to the power of bits long.
	first []int32
	bits  int
}

// Build indexes sorted coordinates.
func (r *Sorted) Build(at []int) {
	r.At, r.bits = at, 0
	length := at[len(at)-1] - at[0]
	for length>>r.bits > 2*len(at) {
		r.bits++
	}
	r.first = scratch.Resized(r.first, length>>r.bits+1)
	k := 0
	for part := range r.first {
		for from := at[0] + part<<r.bits; at[k] < from; {
			k++
		}
		r.first[part] = int32(k)
	}
}

// Above returns the place of the first coordinate greater than v, Below that of the
// last one smaller than v.
func (r *Sorted) Above(v int) int {
	at := r.At
	part := (v - at[0]) >> r.bits
	if part < 0 {
		return 0
	}
	if part >= len(r.first) {
		return len(at)
	}
	k := int(r.first[part])
	for k < len(at) && at[k] <= v {
		k++
	}
	return k
}

func (r *Sorted) Below(v int) int { return r.Above(v-1) - 1 }
