package fonts

import (
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf16"
)

// What is read here, and how it lies in the file, is from the OpenType
// specification 1.9 (ISO/IEC 14496-22, Open Font Format).

var errShort = errors.New("the font is broken: a part of it is cut short")

// tables are the tables of a font file by their tags.
type tables map[string][]byte

// need is what a browser needs to show a font at all.
var need = []string{"cmap", "head", "hhea", "hmtx", "maxp", "name", "OS/2", "post"}

func u16(b []byte, at int) int { return int(binary.BigEndian.Uint16(b[at:])) }
func i16(b []byte, at int) int { return int(int16(binary.BigEndian.Uint16(b[at:]))) }
func u32(b []byte, at int) int { return int(binary.BigEndian.Uint32(b[at:])) }

// directory finds the tables of a file.
func directory(file []byte) (tables, error) {
	const head, entry = 12, 16
	if len(file) < head {
		return nil, errors.New("the file is no TrueType or OpenType font")
	}
	switch string(file[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true":
	case "ttcf":
		return nil, errors.New("the file holds several fonts; use one with a single font")
	default:
		return nil, errors.New("the file is no TrueType or OpenType font")
	}
	n := u16(file, 4)
	if len(file) < head+n*entry {
		return nil, errShort
	}
	t := tables{}
	for i := range n {
		e := file[head+i*entry:]
		from, size := uint64(binary.BigEndian.Uint32(e[8:])), uint64(binary.BigEndian.Uint32(e[12:]))
		if from+size > uint64(len(file)) {
			return nil, fmt.Errorf("the font is broken: its table %q reaches beyond the end of the file", tag(e[:4]))
		}
		t[string(e[:4])] = file[from : from+size]
	}
	if t["fvar"] != nil {
		return nil, errors.New("the font is a variable one; use a file for each of its cuts")
	}
	for _, name := range need {
		if t[name] == nil {
			return nil, fmt.Errorf("the font is broken: it lacks the table %q", name)
		}
	}
	if (t["glyf"] == nil || t["loca"] == nil) && t["CFF "] == nil {
		return nil, errors.New("the font has no outlines that every program can draw (glyf or CFF)")
	}
	return t, nil
}

func tag(b []byte) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return '?'
		}
		return r
	}, string(b))
}

// embeddable says why the licence, as the font states it, does not let it be part
// of a document that is edited.
func (t tables) embeddable() error {
	const (
		restricted = 0x0002
		preview    = 0x0004
		editable   = 0x0008
		bitmaps    = 0x0200
	)
	os2 := t["OS/2"]
	if len(os2) < 64 {
		return errShort
	}
	switch use := u16(os2, 8); {
	// Where a font states several of the three, the least restrictive holds.
	case use&editable != 0:
		if use&bitmaps != 0 {
			return errors.New("the licence of the font lets only its bitmaps be embedded")
		}
	case use&preview != 0:
		return errors.New("the licence of the font lets it be embedded for viewing and printing only, not in what is edited")
	case use&restricted != 0:
		return errors.New("the licence of the font does not let it be embedded")
	case use&bitmaps != 0:
		return errors.New("the licence of the font lets only its bitmaps be embedded")
	}
	return nil
}

// Whole reports whether the font states that it may only be embedded whole.
func (f *Font) Whole() bool {
	const noSubset = 0x0100
	t, err := directory(f.Data)
	return err == nil && len(t["OS/2"]) >= 10 && u16(t["OS/2"], 8)&noSubset != 0
}

// cut returns whether the font is a bold one, from semi-bold on, and whether it
// slants.
func (t tables) cut() (bold, italic bool) {
	const semiBold = 600
	os2, head := t["OS/2"], t["head"]
	selection := u16(os2, 62)
	return u16(os2, 4) >= semiBold || selection&0x20 != 0 || u16(head, 44)&1 != 0, selection&1 != 0 ||
		u16(head, 44)&2 != 0
}

// family returns the name of the typeface.
func (t tables) family() string {
	const (
		family, typographic = 1, 16
		macintosh, windows  = 1, 3
		english             = 0x409
		most                = 100
	)
	b := t["name"]
	if len(b) < 6 {
		return ""
	}
	best, rank := "", 0
	for i := range u16(b, 2) {
		at := 6 + i*12
		if at+12 > len(b) {
			break
		}
		platform, language, id := u16(b, at), u16(b, at+4), u16(b, at+6)
		from := u16(b, 4) + u16(b, at+10)
		to := from + u16(b, at+8)
		if id != family && id != typographic || platform != windows && platform != macintosh || to > len(b) {
			continue
		}
		r := 1
		if platform == windows {
			r++
		}
		if id == typographic {
			r += 4
		}
		if platform == windows && language == english {
			r += 2
		}
		if r <= rank {
			continue
		}
		text := string(b[from:to])
		if platform == windows {
			var units []uint16
			for k := from; k+1 < to; k += 2 {
				units = append(units, binary.BigEndian.Uint16(b[k:]))
			}
			text = string(utf16.Decode(units))
		}
		text = strings.TrimSpace(strings.ToValidUTF8(strings.Map(func(r rune) rune {
			if !unicode.IsPrint(r) {
				return -1
			}
			return r
		}, text), ""))
		if list := []rune(text); len(list) > most {
			text = string(list[:most])
		}
		if text != "" {
			best, rank = text, r
		}
	}
	return best
}

// metrics reads the measures of the font and of each of its characters.
func (t tables) metrics() (*Metrics, error) {
	head, hhea, maxp, hmtx, os2 := t["head"], t["hhea"], t["maxp"], t["hmtx"], t["OS/2"]
	if len(head) < 54 || len(hhea) < 36 || len(maxp) < 6 || len(os2) < 72 {
		return nil, errShort
	}
	m := &Metrics{UnitsPerEm: u16(head, 18), Ascent: i16(hhea, 4), Descent: -i16(hhea, 6)}
	if m.UnitsPerEm < 16 || m.UnitsPerEm > 16384 {
		return nil, fmt.Errorf("the font is broken: it has %d units in its type size", m.UnitsPerEm)
	}
	if m.Ascent <= 0 || m.Descent < 0 || m.Ascent+m.Descent > 5*m.UnitsPerEm { // then the typographic ones are meant
		m.Ascent, m.Descent = max(i16(os2, 68), 0), max(-i16(os2, 70), 0)
	}
	m.Ascent, m.Descent = min(m.Ascent, 3*m.UnitsPerEm), min(m.Descent, 3*m.UnitsPerEm)
	glyphs, wide := u16(maxp, 4), u16(hhea, 34)
	if wide == 0 || wide > glyphs || len(hmtx) < 4*wide {
		return nil, errShort
	}
	list, err := t.characters(glyphs)
	if err != nil {
		return nil, err
	}
	for _, c := range list {
		width := uint16(u16(hmtx, 4*min(c.glyph, wide-1)))
		if n := len(m.Runs) - 1; n >= 0 && m.Runs[n].First+rune(len(m.Runs[n].Advances)) == c.r {
			m.Runs[n].Advances = append(m.Runs[n].Advances, width)
		} else {
			m.Runs = append(m.Runs, Run{c.r, []uint16{width}})
		}
	}
	for _, r := range "0123456789abcdefghijklmnopqrstuvwxyz ABCDEFGHIJKLMNOPQRSTUVWXYZ" {
		if _, ok := m.Find(r); !ok {
			return nil, fmt.Errorf("the font lacks the character %q; use one with letters, figures and the space", r)
		}
	}
	return m, nil
}

type character struct {
	r     rune
	glyph int
}

// characters returns the characters that have a glyph, in order.
func (t tables) characters(glyphs int) ([]character, error) {
	b := t["cmap"]
	if len(b) < 4 {
		return nil, errShort
	}
	best, rank := []byte(nil), 0
	for i := range u16(b, 2) {
		at := 4 + 8*i
		if at+8 > len(b) {
			return nil, errShort
		}
		platform, encoding, from := u16(b, at), u16(b, at+2), u32(b, at+4)
		if from < 0 || from+16 > len(b) {
			continue
		}
		r := 0
		switch format := u16(b, from); { // all of Unicode before its first plane
		case format == 12 && (platform == 3 && encoding == 10 || platform == 0):
			r = 2
		case format == 4 && (platform == 3 && encoding == 1 || platform == 0):
			r = 1
		}
		if r > rank {
			best, rank = b[from:], r
		}
	}
	var list []character
	var err error
	switch rank {
	case 2:
		list, err = groups(best, glyphs)
	case 1:
		list, err = segments(best, glyphs)
	default:
		return nil, errors.New("the font does not say which characters of Unicode it has")
	}
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(list, func(a, b character) int { return int(a.r - b.r) })
	list = slices.CompactFunc(list, func(a, b character) bool { return a.r == b.r })
	if len(list) == 0 {
		return nil, errors.New("the font has no characters")
	}
	return list, nil
}

// segments reads a table of format 4.
func segments(b []byte, glyphs int) ([]character, error) {
	n := u16(b, 6) / 2
	if len(b) < 16+8*n {
		return nil, errShort
	}
	end, start, delta, offset := 14, 16+2*n, 16+4*n, 16+6*n
	var out []character
	for i := range n {
		from, to := u16(b, start+2*i), u16(b, end+2*i)
		for c := from; c <= to && c < 0xFFFF && len(out) < 1<<16; c++ {
			glyph := 0
			if skip := u16(b, offset+2*i); skip == 0 {
				glyph = (c + u16(b, delta+2*i)) & 0xFFFF
			} else if at := offset + 2*i + skip + 2*(c-from); at+2 <= len(b) {
				if glyph = u16(b, at); glyph != 0 {
					glyph = (glyph + u16(b, delta+2*i)) & 0xFFFF
				}
			}
			if glyph > 0 && glyph < glyphs {
				out = append(out, character{rune(c), glyph})
			}
		}
	}
	return out, nil
}

// groups reads a table of format 12.
func groups(b []byte, glyphs int) ([]character, error) {
	n := u32(b, 12)
	if n < 0 || n > 1<<16 || len(b) < 16+12*n {
		return nil, errShort
	}
	var out []character
	for i := range n {
		at := 16 + 12*i
		from, to, glyph := u32(b, at), u32(b, at+4), u32(b, at+8)
		if from > to || to > unicode.MaxRune {
			return nil, errShort
		}
		for c := from; c <= to && glyph+c-from < glyphs && len(out) < 1<<17; c++ {
			if g := glyph + c - from; g > 0 {
				out = append(out, character{rune(c), g})
			}
		}
	}
	return out, nil
}
