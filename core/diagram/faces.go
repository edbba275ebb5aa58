package diagram

import (
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/fonts"
)

func init() {
	register("keepFont", func(_ *Map, e *KeepFont) string { return "keep the font " + quote(e.Font.Family) })
}

// The fonts of the house: their files are kept in the map like pictures, and the
// head names those it is written in.

// MaxFonts is what all font files of a map may take together, in bytes.
const MaxFonts = 6 << 20

// maxFaces is how many fonts a map is written in: regular, bold, italic, both.
const maxFaces = 4

// KeepFont keeps a font file in the map, unless it is there already.
type KeepFont struct {
	Font fonts.Font `json:"font"`
}

func (e *KeepFont) change(t *trial) error {
	// Fonts the map is no longer written in make room; undo brings them back.
	for _, old := range slices.Clone(t.m.Fonts) {
		if old.ID != e.Font.ID && !slices.Contains(t.m.Faces, old.ID) {
			t.removeFont(old.ID)
		}
	}
	return t.addFont(len(t.m.Fonts), e.Font)
}

// Font returns the font file with this id, or nil.
func (m *Map) Font(id string) *fonts.Font {
	for i := range m.Fonts {
		if m.Fonts[i].ID == id {
			return &m.Fonts[i]
		}
	}
	return nil
}

// HouseFonts returns the fonts the map is written in; none are the shipped ones.
func (m *Map) HouseFonts() []fonts.Font {
	var out []fonts.Font
	for _, id := range m.Faces {
		if f := m.Font(id); f != nil {
			out = append(out, *f)
		}
	}
	return out
}

// WithFace returns the faces of a map once it is written in f as well: f takes the
// place of another font of its cut, and of all fonts of another typeface.
func (m *Map) WithFace(f *fonts.Font) []string {
	faces := []string{}
	for _, had := range m.HouseFonts() {
		if had.Family == f.Family && (had.Bold != f.Bold || had.Italic != f.Italic) {
			faces = append(faces, had.ID)
		}
	}
	return append(faces, f.ID)
}

// checkFaces reports a face that is not in the map.
func (m *Map) checkFaces() error {
	if len(m.Faces) > maxFaces {
		return fault("faces", "a map is written in at most %d fonts", maxFaces)
	}
	for i, id := range m.Faces {
		path := fmt.Sprintf("faces[%d]", i)
		f := m.Font(id)
		if f == nil {
			return fault(path, "the font %q is not in the map", id)
		}
		if f.Family != m.Font(m.Faces[0]).Family {
			return fault(path, "the fonts of a map are of one typeface")
		}
		for _, other := range m.Faces[:i] {
			if o := m.Font(other); o.Bold == f.Bold && o.Italic == f.Italic {
				return fault(path, "two fonts of the map have the same cut")
			}
		}
	}
	return nil
}

func (m *Map) validateFonts() error {
	size := 0
	for i := range m.Fonts {
		f := &m.Fonts[i]
		if err := f.Check(); err != nil {
			return fault(fmt.Sprintf("fonts[%d]", i), "%s", err)
		}
		if m.Font(f.ID) != f {
			return fault(fmt.Sprintf("fonts[%d].id", i), "the font stands there twice")
		}
		size += len(f.Data)
	}
	if size > MaxFonts {
		return fault("fonts", "the fonts of a map take at most %d MB together", MaxFonts>>20)
	}
	return m.checkFaces()
}

func (t *trial) addFont(at int, f fonts.Font) error {
	if err := f.Check(); err != nil {
		return refuse(f.ID, "%s", err)
	}
	if t.m.Font(f.ID) != nil {
		return nil
	}
	size := len(f.Data)
	for i := range t.m.Fonts {
		size += len(t.m.Fonts[i].Data)
	}
	if size > MaxFonts {
		return refuse(f.ID, "the fonts of a map take at most %d MB together", MaxFonts>>20)
	}
	at = min(at, len(t.m.Fonts))
	t.m.Fonts = slices.Insert(t.m.Fonts, at, f)
	t.note(f.ID, Change{ID: f.ID, At: at, Font: &Span[fonts.Font]{}})
	return nil
}

func (t *trial) removeFont(id string) {
	if i := slices.IndexFunc(t.m.Fonts, func(f fonts.Font) bool { return f.ID == id }); i >= 0 {
		was := t.m.Fonts[i]
		t.note(id, Change{ID: id, At: i, Font: &Span[fonts.Font]{Before: &was}})
		t.m.Fonts = slices.Delete(t.m.Fonts, i, i+1)
	}
}

// revertFont lets a font go again that the map is not written in, or brings one
// back.
func (t *trial) revertFont(c *Change) error {
	b, a := c.Font.Before, c.Font.After
	switch {
	case b == nil && a != nil:
		if !slices.Contains(t.m.Faces, c.ID) {
			t.removeFont(c.ID)
		}
	case b != nil && a == nil && b.ID == c.ID:
		err := t.addFont(c.At, *b)
		var r *Refusal
		if errors.As(err, &r) {
			t.skip("the font "+quote(b.Family), r.Text)
			return nil
		}
		return err
	default:
		return incomplete(c)
	}
	return nil
}
