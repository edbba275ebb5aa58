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

// Read makes a font of the organisation of a file. What is broken or may not be embedded
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
	word := binary.BigEndian
	list := tablesOf(file)
	at := map[string]int{}
	for i, t := range list {
		at[t.tag] = i
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
	return assembled(file, list), nil
}

// table is a part of a font file (OpenType 1.9, font file).
type table struct {
	tag  string
	data []byte
}

// The sizes of what stands before the tables, and of an entry of their directory.
const (
	directory = 12
	dirEntry  = 16
)

// tablesOf are the tables of a file, as copies.
func tablesOf(file []byte) (list []table) {
	word := binary.BigEndian
	for i := range int(word.Uint16(file[4:])) {
		e := file[directory+i*dirEntry:]
		from, size := word.Uint32(e[8:]), word.Uint32(e[12:])
		list = append(list, table{string(e[:4]), slices.Clone(file[from : from+size])})
	}
	return list
}

// assembled puts as many tables as a file has into one again, with their check sums.
func assembled(file []byte, list []table) []byte {
	word := binary.BigEndian
	out := slices.Clone(file[:directory])
	from := directory + dirEntry*len(list)
	head := -1
	for i, t := range list {
		if t.tag == "head" {
			head = i
			clear(t.data[8:12]) // the adjustment, which the sums leave out
		}
		out = word.AppendUint32(append(out, t.tag...), sum(t.data))
		out = word.AppendUint32(word.AppendUint32(out, uint32(from)), uint32(len(t.data)))
		from += (len(t.data) + 3) &^ 3
	}
	adjusted := 0
	for i, t := range list {
		if i == head {
			adjusted = len(out) + 8
		}
		out = append(out, t.data...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
	}
	if adjusted > 0 {
		word.PutUint32(out[adjusted:], 0xB1B0AFBA-sum(out))
	}
	return out
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
	characters := []rune(text)
	slices.Sort(characters)
	glyphs, places := []uint16{0}, map[uint16]uint16{}
	var shown []rune
	for _, r := range slices.Compact(characters) {
		g := f.GlyphID(r)
		if g == 0 {
			continue
		}
		if _, there := places[g]; !there {
			places[g] = uint16(len(glyphs))
			glyphs = append(glyphs, g)
		}
		shown = append(shown, r)
	}
	out, err := f.reducedTo(glyphs)
	if err != nil {
		return nil, err
	}
	// The library writes neighbouring characters as if their glyphs were neighbours as well.
	list := tablesOf(out)
	for i := range list {
		if list[i].tag == "cmap" {
			list[i].data = characterMap(shown, func(r rune) uint16 { return places[f.GlyphID(r)] })
		}
	}
	return assembled(out, list), nil
}

// characterMap is the table that leads from characters, in their order, to glyphs (OpenType 1.9, cmap): in format 4,
// which all programs read, for the plane of two bytes, and in format 12 for all. Each character is a range of its own.
func characterMap(characters []rune, glyph func(rune) uint16) []byte {
	word := binary.BigEndian
	var low []rune
	for _, r := range characters {
		if r < 0xFFFF {
			low = append(low, r)
		}
	}
	segments := len(low) + 1
	power := 1
	shift := 0
	for power*2 <= segments {
		power, shift = power*2, shift+1
	}
	four := word.AppendUint16(nil, 4)
	for _, n := range []int{16 + 8*segments, 0, 2 * segments, 2 * power, shift, 2 * (segments - power)} {
		four = word.AppendUint16(four, uint16(n))
	}
	column := func(of func(r rune) uint16, last uint16) {
		for _, r := range low {
			four = word.AppendUint16(four, of(r))
		}
		four = word.AppendUint16(four, last)
	}
	column(func(r rune) uint16 { return uint16(r) }, 0xFFFF)
	four = word.AppendUint16(four, 0)
	column(func(r rune) uint16 { return uint16(r) }, 0xFFFF)
	column(func(r rune) uint16 { return glyph(r) - uint16(r) }, 1)
	column(func(rune) uint16 { return 0 }, 0)
	twelve := word.AppendUint16(word.AppendUint16(nil, 12), 0)
	for _, n := range []int{16 + 12*len(characters), 0, len(characters)} {
		twelve = word.AppendUint32(twelve, uint32(n))
	}
	for _, r := range characters {
		for _, n := range []uint32{uint32(r), uint32(r), uint32(glyph(r))} {
			twelve = word.AppendUint32(twelve, n)
		}
	}
	const head = 4 + 2*8
	out := []byte{0, 0, 0, 2}
	for _, t := range []struct{ encoding, at int }{{1, head}, {10, head + len(four)}} {
		out = word.AppendUint16(word.AppendUint16(out, 3), uint16(t.encoding))
		out = word.AppendUint32(out, uint32(t.at))
	}
	return append(append(out, four...), twelve...)
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
