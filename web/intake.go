package web

import (
	"context"
	"fmt"
	"time"

	"plaintracer/core/diagram"
	"plaintracer/core/fonts"
	"plaintracer/core/pictures"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/picturefile"
)

// What comes into a map from outside is used once before it is taken: pictures are drawn, and
// so is every character of a font. What cannot be is refused then, and not by every export.

// intakeTime is how long the pictures of a file may take to be looked at.
const intakeTime = 4500 * time.Millisecond

// vet looks at the pictures and fonts that an edit brings into a map.
func vet(made *diagram.Revert) error {
	for i := range made.Changes {
		c := &made.Changes[i]
		var err error
		if p, ok := diagram.Changed[pictures.Picture](c); ok && p.Before == nil {
			err = soundPicture(context.Background(), p.After)
		} else if f, ok := diagram.Changed[fonts.Font](c); ok && f.Before == nil {
			err = soundFont(f.After)
		}
		if err != nil {
			return &diagram.Refusal{ID: c.ID, Text: err.Error()}
		}
	}
	return nil
}

// vetMap looks at all pictures and fonts of a map from a file.
func vetMap(m *diagram.Map) error {
	ctx, stop := context.WithTimeout(context.Background(), intakeTime)
	defer stop()
	for i := range m.Pictures {
		err := soundPicture(ctx, &m.Pictures[i])
		if ctx.Err() != nil {
			return &diagram.Fault{Path: "pictures", Text: "they take too long to draw"}
		}
		if err != nil {
			return &diagram.Fault{Path: fmt.Sprintf("pictures[%d]", i), Text: err.Error()}
		}
	}
	for i := range m.Fonts {
		if err := soundFont(&m.Fonts[i]); err != nil {
			return &diagram.Fault{Path: fmt.Sprintf("fonts[%d]", i), Text: err.Error()}
		}
	}
	return nil
}

func soundPicture(ctx context.Context, p *pictures.Picture) error {
	if err := picturefile.Sound(ctx, p); err != nil {
		return fmt.Errorf("the picture %w", err)
	}
	return nil
}

func soundFont(f *fonts.Font) error {
	if err := fontfile.Sound(f); err != nil {
		return fmt.Errorf("the font %s cannot be used: %w", f.Family, err)
	}
	return nil
}
