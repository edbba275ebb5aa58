package compose

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// turns tries edits one after the other on a map, so that each is composed on what those before it have done. The map
// is as it was when they are taken back, which comes last in any case.
type turns struct {
	m      *model.Map
	trials []*edit.Transaction
	edits  []edit.Edit
}

// try makes an edit; one that is refused leaves nothing behind.
func (t *turns) try(e edit.Edit) error {
	trial, err := edit.Attempt(t.m, e)
	if err == nil {
		t.trials, t.edits = append(t.trials, trial), append(t.edits, e)
	}
	return err
}

func (t *turns) takeBack() {
	for _, trial := range slices.Backward(t.trials) {
		trial.Rollback()
	}
}

// InTurn makes one edit of several, each of which depends on what those before it
// have done.
func (w *Work) InTurn(as string, steps ...func() []edit.Edit) (edit.Edit, error) {
	t := &turns{m: w.Map}
	defer t.takeBack()
	for _, step := range steps {
		for _, edit := range step() {
			if err := t.try(edit); err != nil {
				return nil, err
			}
		}
	}
	return edit.Together(as, t.edits...), nil
}
