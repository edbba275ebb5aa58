package starts

import (
	"errors"
	"testing"

	"plaintracer/core/findings"
	"plaintracer/core/model"
)

func never() bool { return false }

// Every starting point is complete and tidy in both directions: it has no findings, all of its steps are on the paper,
// and it is the same each time.
func TestStartsAreWithoutFindings(t *testing.T) {
	for i := range All {
		s := &All[i]
		for _, direction := range []model.Direction{model.Rightwards, model.Downwards} {
			for _, paper := range []string{"A4", "A3", "Letter", "Slide"} {
				m, err := s.Make(s.Title, direction, Paper{paper, direction == model.Rightwards}, never)
				if err != nil {
					t.Fatalf("%s: %v", s.Name, err)
				}
				if err := m.Validate(); err != nil {
					t.Errorf("%s: %v", s.Name, err)
				}
				for _, f := range findings.Check(m) {
					t.Errorf("%s, %s on %s: %s %s", s.Name, direction, paper, f.Symbol, f.Text)
				}
				if len(m.Sheets[0].Symbols) < 6 || (len(m.Sheets[0].Pools) > 0) != (s.Lanes || s.Journey) {
					t.Errorf("%s has %d steps and %d pools", s.Name, len(m.Sheets[0].Symbols), len(m.Sheets[0].Pools))
				}
			}
		}
	}
	if len(All) < 12 || Named("none") != nil || Named("approval") != &All[0] {
		t.Errorf("there are %d starting points", len(All))
	}
	if _, err := All[0].Make("x", model.Rightwards, Paper{"A4", true}, func() bool { return true }); !errors.Is(err,
		ErrLong) {
		t.Errorf("a layout that is stopped says %v", err)
	}
}
