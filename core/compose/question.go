package compose

import (
	"strings"

	"plaintracer/core/model"
)

// KindOf returns the kind a step takes by its text: one that asks is a decision.
func KindOf(kind model.Kind, text string) model.Kind {
	if kind == model.Process && strings.HasSuffix(text, "?") {
		return model.Decision
	}
	return kind
}
