package fontfile

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"slices"

	"github.com/tdewolff/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// GlyphID returns the number of the glyph of a character, zero where the font lacks it.
func (f *File) GlyphID(r rune) uint16 {
	if r < 0 || int(r) >= len(f.latin) {
		return f.lookUp(r)
	}
	f.latinise.Do(func() {
		for r := range f.latin {
			f.latin[r] = f.lookUp(rune(r))
		}
	})
	return f.latin[r]
}

func (f *File) lookUp(r rune) uint16 {
	var buf sfnt.Buffer
	i, err := f.outlines.GlyphIndex(&buf, r)
	if err != nil {
		return 0
	}
	return uint16(i)
}

// Outline returns the outline of a glyph in font units, y growing downwards.
func (f *File) Outline(id uint16) (sfnt.Segments, error) {
	var buf sfnt.Buffer
	segments, err := f.outlines.LoadGlyph(&buf, sfnt.GlyphIndex(id), fixed.I(f.UnitsPerEm()), nil)
	if err != nil {
		return nil, fmt.Errorf("the outline of glyph %d: %w", id, err)
	}
	return segments, nil
}

// Advance returns how far a glyph leads on, in font units.
func (f *File) Advance(id uint16) int {
	data := f.table("hmtx")
	long := f.longMetrics()
	if long == 0 {
		return 0
	}
	at := 4 * min(int(id), long-1)
	if at+2 > len(data) {
		return 0
	}
	return int(binary.BigEndian.Uint16(data[at:]))
}

// longMetrics is how many glyphs have an advance of their own (OpenType 1.9, hhea).
func (f *File) longMetrics() int {
	hhea := f.table("hhea")
	if len(hhea) < 36 {
		return 0
	}
	return int(binary.BigEndian.Uint16(hhea[34:]))
}

// table returns a table of the file, nil where there is none (OpenType 1.9, font file).
func (f *File) table(tag string) []byte {
	const directory, entry = 12, 16
	word := binary.BigEndian
	if len(f.data) < directory {
		return nil
	}
	for i := range int(word.Uint16(f.data[4:])) {
		e := f.data[directory+i*entry:]
		if len(e) < entry {
			return nil
		}
		if string(e[:4]) == tag {
			from, size := int(word.Uint32(e[8:])), int(word.Uint32(e[12:]))
			if from > len(f.data) || size > len(f.data)-from {
				return nil
			}
			return f.data[from : from+size]
		}
	}
	return nil
}

// TrueType reports whether the outlines are TrueType's, not those of the Compact Font Format.
func (f *File) TrueType() bool { return f.table("glyf") != nil }

// Metrics are measures of a font in font units, y growing upwards.
type Metrics struct {
	Ascent, Descent, CapHeight int
	// Box is the box around all glyphs: left, bottom, right, top.
	Box   [4]int
	Slant float64 // degrees, negative to the right
}

// Metrics returns what the tables hhea, head, OS/2 and post say.
func (f *File) Metrics() Metrics {
	signed := func(b []byte, at int) int {
		if len(b) < at+2 {
			return 0
		}
		return int(int16(binary.BigEndian.Uint16(b[at:])))
	}
	head, hhea, os2, post := f.table("head"), f.table("hhea"), f.table("OS/2"), f.table("post")
	m := Metrics{Ascent: signed(hhea, 4), Descent: signed(hhea, 6), CapHeight: signed(os2, 88),
		Slant: float64(signed(post, 4))}
	if m.CapHeight == 0 {
		m.CapHeight = m.Ascent
	}
	for i := range m.Box {
		m.Box[i] = signed(head, 36+2*i)
	}
	return m
}

// Glyphs returns a font file with just some glyphs, in their order and followed by what they are made of. Where
// the library cannot reduce the font without damage it returns the whole file, and false. The first has to be zero.
func (f *File) Glyphs(ids []uint16) (data []byte, reduced bool) {
	out, err := f.reducedTo(ids)
	if err != nil {
		return f.data, false
	}
	other, err := Open(out)
	if err != nil {
		return f.data, false
	}
	for i, id := range ids[1:] {
		want, err := f.Outline(id)
		got, fault := other.Outline(uint16(i + 1))
		if err != nil || fault != nil || !slices.Equal(want, got) {
			return f.data, false
		}
	}
	return out, true
}

// reducedTo reads the font anew each time: the library writes into what it reduces, the numbers of the glyphs that
// others are made of, and a second reduction of the same would be damaged.
func (f *File) reducedTo(ids []uint16) (out []byte, err error) {
	defer broken(&err)
	parsed, err := font.ParseSFNT(bytes.Clone(f.data), 0)
	if err != nil {
		return nil, fmt.Errorf("the font is broken: %w", err)
	}
	small, err := parsed.Subset(slices.Clone(ids), font.SubsetOptions{Tables: font.KeepMinTables})
	if err != nil {
		return nil, fmt.Errorf("reducing the font: %w", err)
	}
	return undated(small.Write()), nil
}
