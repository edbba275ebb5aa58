package model

import (
	"fmt"

	"plaintracer/core/fonts"
)

// The fonts of the house: their files are kept in the map like pictures, and the
// head names those it is written in.

// MaxFonts is what all font files of a map may take together, in bytes.
const MaxFonts = 6 << 20

// maxFaces is how many fonts a map is written in: regular, bold, italic, both.
const maxFaces = 4

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

// CheckFaces reports a face that is not in the map.
func (m *Map) CheckFaces(faces []string) error {
	if len(faces) > maxFaces {
		return fault("faces", "a map is written in at most %d fonts", maxFaces)
	}
	for i, id := range faces {
		path := fmt.Sprintf("faces[%d]", i)
		f := m.Font(id)
		if f == nil {
			return fault(path, "the font %q is not in the map", id)
		}
		if f.Family != m.Font(faces[0]).Family {
			return fault(path, "the fonts of a map are of one typeface")
		}
		for _, other := range faces[:i] {
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
	return m.CheckFaces(m.Faces)
}
