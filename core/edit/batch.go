package edit

import (
	"plaintracer/core/model"
)

// Several edits as one.

func init() {
	register("batch", func(m *model.Map, e *Batch) string {
		if e.As == "" && len(e.Edits) > 0 {
			return Words(m, e.Edits[0].Edit)
		}
		return e.As
	})
}

// Batch makes several edits as one: all of them or none.
type Batch struct {
	As    string     `json:"as"`
	Edits []Envelope `json:"edits"`
}

// Together returns one edit that makes all the given ones, called as.
func Together(as string, edits ...Edit) Edit {
	if len(edits) == 1 {
		return edits[0]
	}
	b := &Batch{As: as}
	for _, e := range edits {
		b.Edits = append(b.Edits, Envelope{e})
	}
	return b
}

// The bounds of batches: how many edits one may hold with all those in it, and how deep
// they may lie in each other.
const (
	maxParts = 20_000
	maxDepth = 4
)

func (e *Batch) change(t *transaction) error {
	if t.depth++; t.depth > maxDepth {
		return model.Refuse("", "the edits lie more than %d deep in each other", maxDepth)
	}
	defer func() { t.depth-- }()
	for _, part := range e.Edits {
		if t.parts++; t.parts > maxParts {
			return model.Refuse("", "these are too many changes at once; at most %d go together", maxParts)
		}
		if err := t.change(part.Edit); err != nil {
			return err
		}
	}
	return nil
}

// change makes one edit, alone or of a batch.
func (t *transaction) change(e Edit) error {
	if e == nil {
		return model.Refuse("", "an edit is missing")
	}
	return e.change(t)
}

// Reverts counts the edits in an edit that take others back.
func Reverts(e Edit) (n int) {
	switch e := e.(type) {
	case *Revert:
		return 1
	case *Batch:
		for _, part := range e.Edits {
			n += Reverts(part.Edit)
		}
	}
	return n
}
