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
	"plaintracer/exchange/fontfile"
)

// Family is the name under which pages and pictures use the shipped typeface,
// House that under which they use the house's.
const (
	Family = "Tracer Sans"
	House  = "House Face"
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

// Cut names one of the four faces.
type Cut struct{ Bold, Italic bool }

// Cuts lists the four faces.
var Cuts = []Cut{{false, false}, {true, false}, {false, true}, {true, true}}

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
func Shipped(c Cut) (*fontfile.File, error) { return shipped[c]() }

var shipped = map[Cut]func() (*fontfile.File, error){}

func init() {
	for cut, packed := range map[Cut][]byte{{false, false}: Regular, {true, false}: SemiBold, {false, true}: Italic,
		{true, true}: SemiBoldItalic} {
		shipped[cut] = sync.OnceValues(func() (*fontfile.File, error) { // read when first needed
			data, err := fontfile.Unpack(packed)
			if err != nil {
				return nil, fmt.Errorf("the shipped typeface: %w", err)
			}
			return fontfile.Open(data)
		})
	}
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
	for _, cut := range Cuts {
		f := fonts.Pick(d.Fonts, cut.Bold, cut.Italic)
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
	var out []Face
	for _, cut := range Cuts {
		var own, ours strings.Builder
		for i := range d.Nodes {
			for k := range d.Nodes[i].Texts {
				for _, t := range d.Nodes[i].Texts[k].Split() {
					if (Cut{t.Style.Bold, t.Style.Italic}) != cut {
						continue
					}
					for _, r := range t.Text {
						if f := s.house[cut]; f != nil && f.Has(r) {
							own.WriteRune(r)
						} else {
							ours.WriteRune(r)
						}
					}
				}
			}
		}
		if own.Len() > 0 {
			data := s.house[cut].Data()
			if !s.whole[cut] {
				data = s.house[cut].Subset(own.String())
			}
			out = append(out, Face{cut, House, data})
		}
		if ours.Len() > 0 {
			f, err := Shipped(cut)
			if err != nil {
				return nil, err
			}
			out = append(out, Face{cut, Family, f.Subset(ours.String())})
		}
	}
	return out, nil
}

// Families returns how CSS names the fonts of a drawing, the first one first.
func Families(d *scene.Drawing) string {
	list := "'" + Family + "', 'IBM Plex Sans', Arial, sans-serif"
	if len(d.Fonts) > 0 {
		return "'" + House + "', " + list
	}
	return list
}
