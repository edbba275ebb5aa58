// Package typeface ships the one typeface of the application, IBM Plex Sans under
// the SIL Open Font License, and says which font draws a character: one of the
// house's, where a map has them, or a shipped one.
package typeface

import (
	_ "embed"
	"fmt"
	"strings"
	"sync"

	"plaintracer/core/fonts"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/exchange/fontfile"
)

// The four faces as WOFF2 files, which pages load.
var (
	//go:embed IBMPlexSans-Regular.woff2
	Regular []byte
	//go:embed IBMPlexSans-SemiBold.woff2
	SemiBold []byte
	//go:embed IBMPlexSans-Italic.woff2
	Italic []byte
	//go:embed IBMPlexSans-SemiBoldItalic.woff2
	SemiBoldItalic []byte
)

// Cut names one of the four faces of a typeface, that of the map unless it says otherwise.
type Cut struct {
	Bold, Italic bool
	Of           typeset.Face
}

// CutOf returns the cut in which a text is set.
func CutOf(st *typeset.Style) Cut { return Cut{st.Bold, st.Italic, st.Face} }

// Cuts lists the four faces.
var Cuts = []Cut{{}, {Bold: true}, {Italic: true}, {Bold: true, Italic: true}}

// Weight and Style return how CSS names the face.
func (c Cut) Weight() string {
	if c.Bold {
		return "600"
	}
	return "400"
}

// Style is normal or italic.
func (c Cut) Style() string {
	if c.Italic {
		return "italic"
	}
	return "normal"
}

// Shipped returns a face of the shipped typeface.
func Shipped(c Cut) (*fontfile.File, error) {
	c.Of = typeset.OwnFace
	return shipped[c]()
}

var shipped = map[Cut]func() (*fontfile.File, error){}

func init() {
	for i, packed := range [...][]byte{Regular, SemiBold, Italic, SemiBoldItalic} {
		cut := Cuts[i]
		shipped[cut] = sync.OnceValues(func() (*fontfile.File, error) { // read when first needed
			data, err := fontfile.Unpack(packed)
			if err != nil {
				return nil, fmt.Errorf("the shipped typeface: %w", err)
			}
			return fontfile.Open(data)
		})
	}
}

// everyCut lists the faces of all typefaces that a map may have.
func everyCut() (out []Cut) {
	for face := range typeset.Faces {
		for _, cut := range Cuts {
			cut.Of = face
			out = append(out, cut)
		}
	}
	return out
}

// Set are the fonts a drawing is drawn with.
type Set struct {
	house map[Cut]*fontfile.File
	whole map[Cut]bool
}

// Of returns the fonts of a drawing.
func Of(d *scene.Drawing) (*Set, error) {
	s := &Set{map[Cut]*fontfile.File{}, map[Cut]bool{}}
	opened := map[*fonts.Font]*fontfile.File{}
	for _, cut := range everyCut() {
		f := fonts.Pick(d.Fonts[cut.Of], cut.Bold, cut.Italic)
		if f == nil {
			continue
		}
		if opened[f] == nil {
			file, err := fontfile.Open(f.Data)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", f.Family, err)
			}
			opened[f] = file
		}
		s.house[cut], s.whole[cut] = opened[f], f.Whole()
	}
	return s, nil
}

// Draws returns the font that draws a character in a cut.
func (s *Set) Draws(c Cut, r rune) (*fontfile.File, error) {
	if f := s.house[c]; f != nil && f.Has(r) {
		return f, nil
	}
	return Shipped(c)
}

// Face is a font file that a picture carries: with the characters it shows.
type Face struct {
	Cut
	Family string
	Data   []byte
}

// Embedded returns the font files for the texts of a drawing.
func (s *Set) Embedded(d *scene.Drawing) ([]Face, error) {
	own, shipped := map[Cut]*strings.Builder{}, map[Cut]*strings.Builder{}
	put := func(said map[Cut]*strings.Builder, cut Cut, r rune) {
		if said[cut] == nil {
			said[cut] = &strings.Builder{}
		}
		said[cut].WriteRune(r)
	}
	for i := range d.Nodes {
		for k := range d.Nodes[i].Texts {
			for _, t := range d.Nodes[i].Texts[k].Split() {
				cut := CutOf(&t.Style)
				for _, r := range t.Text {
					if f := s.house[cut]; f != nil && f.Has(r) {
						put(own, cut, r)
					} else {
						put(shipped, Cut{Bold: cut.Bold, Italic: cut.Italic}, r)
					}
				}
			}
		}
	}
	var out []Face
	for _, cut := range everyCut() {
		if own[cut] == nil {
			continue
		}
		data := s.house[cut].Data()
		if !s.whole[cut] {
			data = s.house[cut].Subset(own[cut].String())
		}
		out = append(out, Face{cut, scene.Family(cut.Of), data})
	}
	for _, cut := range Cuts {
		if shipped[cut] == nil {
			continue
		}
		f, err := Shipped(cut)
		if err != nil {
			return nil, err
		}
		out = append(out, Face{cut, scene.Shipped, f.Subset(shipped[cut].String())})
	}
	return out, nil
}

// Families returns how CSS names the fonts of a drawing, the first one first.
func Families(d *scene.Drawing) string {
	if len(d.Fonts[typeset.OwnFace]) > 0 {
		return scene.Families(typeset.OwnFace)
	}
	return scene.Families(typeset.ShippedFace)
}
