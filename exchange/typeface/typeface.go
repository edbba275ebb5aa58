// Package typeface ships the one typeface of the application: IBM Plex Sans,
// under the SIL Open Font License.
package typeface

import (
	_ "embed"
	"encoding/binary"
	"fmt"
	"slices"
	"sync"

	"github.com/tdewolff/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// Family is the name under which pages and pictures use the typeface.
const Family = "Tracer Sans"

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

// The same as WOFF files, from which pictures are made: unpacking WOFF2
// with the font library damages characters that are made of others.
var (
	//go:embed IBMPlexSans-Regular.woff
	regular []byte
	//go:embed IBMPlexSans-SemiBold.woff
	semiBold []byte
	//go:embed IBMPlexSans-Italic.woff
	italic []byte
	//go:embed IBMPlexSans-SemiBoldItalic.woff
	semiBoldItalic []byte
)

var files = map[Cut][]byte{{false, false}: regular, {true, false}: semiBold, {false, true}: italic, {true, true}: semiBoldItalic}

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

// Face returns a face as a parsed font, which must not be changed.
func Face(c Cut) (*font.SFNT, error) { return faces[c]() }

var faces, outlines = map[Cut]func() (*font.SFNT, error){}, map[Cut]func() (*sfnt.Font, error){}

func init() {
	for cut, file := range files { // read when first needed
		faces[cut] = sync.OnceValues(func() (*font.SFNT, error) { return font.ParseFont(file, 0) })
		outlines[cut] = sync.OnceValues(func() (*sfnt.Font, error) {
			data, err := font.ToSFNT(file)
			if err != nil {
				return nil, fmt.Errorf("the shipped typeface: %w", err)
			}
			return sfnt.Parse(data)
		})
	}
}

// Whole returns a face as an unpacked font file.
func Whole(c Cut) ([]byte, error) { return font.ToSFNT(files[c]) }

// Glyph returns the outline of a character in font units, y growing downwards;
// false when the face lacks it.
func Glyph(c Cut, r rune) (sfnt.Segments, bool, error) {
	f, err := outlines[c]()
	if err != nil {
		return nil, false, err
	}
	var buf sfnt.Buffer
	i, err := f.GlyphIndex(&buf, r)
	if err != nil || i == 0 {
		return nil, false, err
	}
	segments, err := f.LoadGlyph(&buf, i, fixed.I(int(f.UnitsPerEm())), nil)
	if err != nil {
		return nil, false, fmt.Errorf("the outline of %q: %w", r, err)
	}
	return segments, true, nil
}

// UnitsPerEm is how many font units the type size has.
func UnitsPerEm(c Cut) (int, error) {
	f, err := outlines[c]()
	if err != nil {
		return 0, err
	}
	return int(f.UnitsPerEm()), nil
}

// Subset returns a font file with just the characters of text.
func Subset(c Cut, text string) ([]byte, error) {
	f, err := Face(c)
	if err != nil {
		return nil, err
	}
	glyphs := []uint16{0}
	for _, r := range text {
		if g := f.GlyphIndex(r); g != 0 {
			glyphs = append(glyphs, g)
		}
	}
	slices.Sort(glyphs)
	small, err := f.Subset(slices.Compact(glyphs), font.SubsetOptions{Tables: font.KeepMinTables})
	if err != nil {
		return nil, fmt.Errorf("reducing the typeface: %w", err)
	}
	return undated(small.Write()), nil
}

// undated takes the time of its making out of a font file, so that the same
// text always gives the same bytes. The places are those of the OpenType
// specification: the table directory, and the table head.
func undated(file []byte) []byte {
	word := binary.BigEndian
	sum := func(data []byte) uint32 {
		var n uint32
		for i := 0; i < len(data); i += 4 {
			var last [4]byte
			copy(last[:], data[i:])
			n += word.Uint32(last[:])
		}
		return n
	}
	const directory, entry = 12, 16
	for i := range int(word.Uint16(file[4:])) {
		e := file[directory+i*entry:]
		if string(e[:4]) != "head" {
			continue
		}
		at, size := word.Uint32(e[8:]), word.Uint32(e[12:])
		head := file[at : at+size]
		clear(head[28:36]) // when it was changed
		clear(head[8:12])  // the adjustment, which the sums leave out
		word.PutUint32(e[4:], sum(head))
		word.PutUint32(head[8:], 0xB1B0AFBA-sum(file))
	}
	return file
}
