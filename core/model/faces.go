package model

import (
	"fmt"
	"slices"

	"plaintracer/core/fonts"
)

// The fonts of the organisation: their files are kept in the map like pictures, and the
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

// BuiltInFace stands for the shipped typeface where a map is written in another one.
const BuiltInFace = "built-in"

// maxAlso is how many further typefaces a map has for single texts.
const maxAlso = 2

// UsesFont reports whether texts of the map are set in a font.
func (m *Map) UsesFont(id string) bool {
	return slices.Contains(m.Faces, id) || slices.Contains(m.Also, id)
}

// Typeface are the fonts of one family.
type Typeface struct {
	Family string
	Fonts  []fonts.Font
}

// Further returns the typefaces beside that of the map, in the order in which they came to it.
func (m *Map) Further() (out []Typeface) {
	for _, id := range m.Also {
		f := m.Font(id)
		if f == nil {
			continue
		}
		i := slices.IndexFunc(out, func(t Typeface) bool { return t.Family == f.Family })
		if i < 0 {
			i, out = len(out), append(out, Typeface{Family: f.Family})
		}
		out[i].Fonts = append(out[i].Fonts, *f)
	}
	return out
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

// AlsoWith returns the fonts of the further typefaces of a map once f is among them: it takes the place of another font
// of its cut.
func (m *Map) AlsoWith(f *fonts.Font) []string {
	return append(slices.DeleteFunc(slices.Clone(m.Also), func(id string) bool {
		had := m.Font(id)
		return had == nil || had.Family == f.Family && had.Bold == f.Bold && had.Italic == f.Italic
	}), f.ID)
}

// CheckTypefaces reports what is wrong with the fonts that a head names: those the map is written in, and those of its
// further typefaces.
func (m *Map) CheckTypefaces(h *Head) error {
	if err := m.checkFaces(h.Faces); err != nil {
		return err
	}
	return m.checkAlso(h.Also, h.Faces)
}

// checkAlso reports a font of a further typeface that is not in the map, or stands in the way of another one.
func (m *Map) checkAlso(also, faces []string) error {
	var families []string
	for i, id := range also {
		path, f := fmt.Sprintf("also[%d]", i), m.Font(id)
		switch {
		case f == nil:
			return fault(path, "the font %q is not in the map", id)
		case len(faces) > 0 && m.Font(faces[0]) != nil && m.Font(faces[0]).Family == f.Family:
			return fault(path, "the map is written in %s already", f.Family)
		case f.Family == BuiltInFace:
			return fault(path, "a typeface cannot be called %s", BuiltInFace)
		}
		if !slices.Contains(families, f.Family) {
			families = append(families, f.Family)
		}
		for _, other := range also[:i] {
			if o := m.Font(other); o.Family == f.Family && o.Bold == f.Bold && o.Italic == f.Italic {
				return fault(path, "two fonts of %s have the same cut", f.Family)
			}
		}
	}
	if len(families) > maxAlso {
		return fault("also", "single texts of a map are set in at most %d further typefaces", maxAlso)
	}
	return nil
}

// checkFaces reports a face that is not in the map.
func (m *Map) checkFaces(faces []string) error {
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
	return m.CheckTypefaces(&m.Head)
}
