// Package fontfile reads font files (TrueType, OpenType, WOFF, WOFF2), draws
// their characters and reduces them to those a picture shows.
package fontfile

import (
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"sync"

	"github.com/tdewolff/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/fonts"
)

// maxPacked is the largest file that is unpacked, in bytes.
const maxPacked = 4 << 20

// Read makes a font of the house of a file. What is broken or may not be embedded
// is refused with the reason.
func Read(file []byte) (fonts.Font, error) {
	data, err := Unpack(file)
	if err != nil {
		return fonts.Font{}, err
	}
	f, err := fonts.Read(data)
	if err != nil {
		return fonts.Font{}, err
	}
	return f, Sound(&f)
}

// Sound reports a font of which not every character can be drawn: exports have to be able to.
func Sound(f *fonts.Font) (err error) {
	defer broken(&err)
	drawn, err := Open(f.Data)
	if err != nil {
		return err
	}
	letters := 0
	for _, run := range f.Metrics().Runs {
		for i := range run.Advances {
			segments, _, err := drawn.Glyph(run.First + rune(i))
			if err != nil {
				return fmt.Errorf("the font is broken: %w", err)
			}
			if len(segments) > 0 {
				letters++
			}
		}
	}
	if letters < 10 {
		return errors.New("the font is broken: its characters have no outlines")
	}
	return nil
}

// broken turns a panic of a font library, which files made to harm can bring
// about, into an error.
func broken(err *error) {
	if recover() != nil {
		*err = errors.New("the font is broken")
	}
}

// Unpack returns a font file as TrueType or OpenType. A file that is neither
// packed nor known comes back as it is.
func Unpack(file []byte) (out []byte, err error) {
	defer broken(&err)
	if len(file) > maxPacked {
		return nil, fmt.Errorf("the font is larger than %d MB", maxPacked>>20)
	}
	if len(file) < 48 {
		return nil, errors.New("the file is no font")
	}
	switch string(file[:4]) {
	case "wOF2", "wOFF":
		// Both say how large the unpacked font is (W3C, WOFF File Format 2.0, 4.1).
		if size := binary.BigEndian.Uint32(file[16:]); size > 4*fonts.MaxData {
			return nil, fmt.Errorf("the font is larger than %d MB", fonts.MaxData>>20)
		}
	default:
		return file, nil
	}
	out, err = font.ToSFNT(slices.Clone(file))
	if err != nil {
		return nil, fmt.Errorf("the font is broken: %w", err)
	}
	return relocated(out)
}

// relocated mends the places of outlines. WOFF2 may unpack to a table glyf larger
// than the 128 KB that places of two bytes reach; the library lets them begin at
// zero again. They are written with four bytes then (OpenType 1.9, loca, head).
func relocated(file []byte) ([]byte, error) {
	const directory, entry = 12, 16
	word := binary.BigEndian
	type table struct {
		tag  string
		data []byte
	}
	var list []table
	at := map[string]int{}
	for i := range int(word.Uint16(file[4:])) {
		e := file[directory+i*entry:]
		from, size := word.Uint32(e[8:]), word.Uint32(e[12:])
		at[string(e[:4])] = len(list)
		list = append(list, table{string(e[:4]), slices.Clone(file[from : from+size])})
	}
	l, okL := at["loca"]
	g, okG := at["glyf"]
	h, okH := at["head"]
	if !okL || !okG || !okH || len(list[g].data) <= 2*0xFFFF || word.Uint16(list[h].data[50:]) != 0 {
		return file, nil
	}
	var long []byte
	before, round := 0, 0
	for i := 0; i+2 <= len(list[l].data); i += 2 {
		place := 2 * int(word.Uint16(list[l].data[i:]))
		if place+round < before {
			round += 2 << 16
		}
		before = place + round
		long = word.AppendUint32(long, uint32(before))
	}
	if before != len(list[g].data) {
		return nil, errors.New("the font is broken: its outlines are not where it says")
	}
	list[l].data = long
	word.PutUint16(list[h].data[50:], 1)
	clear(list[h].data[8:12]) // the adjustment, which the sums leave out

	out := slices.Clone(file[:directory])
	from := directory + entry*len(list)
	for _, t := range list {
		out = word.AppendUint32(append(out, t.tag...), sum(t.data))
		out = word.AppendUint32(word.AppendUint32(out, uint32(from)), uint32(len(t.data)))
		from += (len(t.data) + 3) &^ 3
	}
	head := 0
	for i, t := range list {
		if i == h {
			head = len(out)
		}
		out = append(out, t.data...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
	}
	word.PutUint32(out[head+8:], 0xB1B0AFBA-sum(out))
	return out, nil
}

// sum is the check sum of a table (OpenType 1.9, font file).
func sum(data []byte) uint32 {
	var n uint32
	for i := 0; i < len(data); i += 4 {
		var last [4]byte
		copy(last[:], data[i:])
		n += binary.BigEndian.Uint32(last[:])
	}
	return n
}

// File is a font whose characters are drawn or taken out.
type File struct {
	data     []byte
	outlines *sfnt.Font

	// latin are the glyphs of the characters before its length, looked up once.
	latin    [0x250]uint16
	latinise sync.Once

	// The library that reduces fonts changes what it reduces.
	reducing sync.Mutex
	parsed   *font.SFNT
}

// Open reads a TrueType or OpenType file.
func Open(file []byte) (*File, error) {
	f, err := sfnt.Parse(file)
	if err != nil {
		return nil, fmt.Errorf("the font is broken: %w", err)
	}
	return &File{data: file, outlines: f}, nil
}

// Data returns the whole file, which must not be changed.
func (f *File) Data() []byte { return f.data }

// UnitsPerEm is how many font units the type size has.
func (f *File) UnitsPerEm() int { return int(f.outlines.UnitsPerEm()) }

// Has reports whether the font has a character.
func (f *File) Has(r rune) bool { return f.GlyphID(r) != 0 }

// Glyph returns the outline of a character in font units, y growing downwards;
// false when the font lacks it.
func (f *File) Glyph(r rune) (sfnt.Segments, bool, error) {
	var buf sfnt.Buffer
	i, err := f.outlines.GlyphIndex(&buf, r)
	if err != nil || i == 0 {
		return nil, false, err
	}
	segments, err := f.outlines.LoadGlyph(&buf, i, fixed.I(f.UnitsPerEm()), nil)
	if err != nil {
		return nil, false, fmt.Errorf("the outline of %q: %w", r, err)
	}
	return segments, true, nil
}

// Subset returns a font file with just the characters of text, or the whole file
// where the library cannot reduce it without damage.
func (f *File) Subset(text string) []byte {
	out, err := f.reduced(text)
	if err != nil || !f.agrees(out, text) {
		return f.data
	}
	return out
}

// agrees reports whether another file draws the characters of text as f does.
func (f *File) agrees(file []byte, text string) bool {
	other, err := Open(file)
	if err != nil {
		return false
	}
	for _, r := range text {
		want, had, err := f.Glyph(r)
		got, has, fault := other.Glyph(r)
		if err != nil || fault != nil || had != has || !slices.Equal(want, got) {
			return false
		}
	}
	return true
}

func (f *File) reduced(text string) ([]byte, error) {
	glyphs := []uint16{0}
	for _, r := range text {
		if g := f.GlyphID(r); g != 0 {
			glyphs = append(glyphs, g)
		}
	}
	slices.Sort(glyphs)
	return f.reducedTo(slices.Compact(glyphs))
}

// undated takes the time of its making out of a font file, so that the same text
// always gives the same bytes. The places are those of OpenType 1.9: the table
// directory, and the table head.
func undated(file []byte) []byte {
	word := binary.BigEndian
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
