package edit_test

import (
	"errors"
	"math/rand/v2"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// A map returns to the very bytes of an earlier state, and undoing that gives the later one back, over random edits;
// locks alone keep things as they are, and are named.
func TestReturningToAnEarlierState(t *testing.T) {
	for seed := range uint64(300) {
		a := &author{r: rand.New(rand.NewPCG(seed, 20))}
		m := laneMap()
		var then *model.Map
		for k := range 60 {
			if k == 30 {
				then = m.Clone()
			}
			e := a.edit(m)
			switch e.(type) {
			case *edit.SetLock:
				continue
			}
			edit.Apply(m, e)
		}
		last := bytesOf(t, m)
		e := through(t, edit.ReturnTo(m, then, "return to a version"))
		inverse, err := edit.Apply(m, e)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		if r, ok := inverse.(*edit.Revert); !ok || len(r.Skipped) > 0 {
			t.Fatalf("seed %d: it left alone %v", seed, inverse)
		}
		if got := bytesOf(t, m); got != bytesOf(t, then) {
			t.Fatalf("seed %d: it returns to\n%s\nnot\n%s", seed, got, bytesOf(t, then))
		}
		if err := m.Validate(); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		if _, err := edit.Apply(m, through(t, inverse)); err != nil || bytesOf(t, m) != last {
			t.Fatalf("seed %d: undone it is another map: %v\n%s\n%s", seed, err, bytesOf(t, m), last)
		}
	}
	// What no window sends is refused.
	m := laneMap()
	before := bytesOf(t, m)
	for _, e := range []edit.Edit{&edit.Return{Changes: []edit.Change{{ID: "s0"}}},
		&edit.Return{Changes: []edit.Change{edit.NewChange("s9", "sheet-1",
			edit.Span[model.Symbol]{Before: &model.Symbol{ID: "s9"}})}}} {
		var refusal *model.Refusal
		if _, err := edit.Apply(m, e); err == nil || !errors.As(err, &refusal) || bytesOf(t, m) != before {
			t.Errorf("%+v: %v", e, err)
		}
	}
	edit.Apply(m, &edit.Return{Orders: map[string][]string{"sheet-1": {"s0", "s0", "s1"}, "": {"x"}}})
	if bytesOf(t, m) != before {
		t.Error("orders of what is not there change the map")
	}
}
