package pdf

import (
	"crypto/sha256"
	"fmt"
	"slices"
	"unicode/utf16"

	"plaintracer/exchange/fontfile"
)

// face is a font of the file with the glyphs that are used of it. A glyph is shown by its place in ids.
type face struct {
	font *fontfile.File
	name string // of the resource
	ref  ref
	ids  []uint16
	text []string // what each glyph stands for
	// places are those of a glyph in ids.
	places map[uint16][]int
	// whole says that the font cannot be reduced; glyphs are shown by their numbers in it then.
	whole bool
}

// joined is what the code of a glyph stands for that is not the first of those that stand for characters together: a
// space without width, since each code has to stand for some character (ISO 14289-1, 7.21.7). Of the whole it is said
// beside which characters it is.
const joined = "\u200b"

// code returns by which number a glyph is shown that stands for a text. A font of which glyphs are taken out has one
// more than once where it stands for several texts.
func (c *face) code(id uint16, text string) uint16 {
	if text == "" {
		text = joined
	}
	i := c.find(id, text)
	if i < 0 {
		i = len(c.ids)
		c.ids, c.text = append(c.ids, id), append(c.text, text)
		c.places[id] = append(c.places[id], i)
	}
	if c.whole {
		return id
	}
	return uint16(i)
}

// find returns the place of a glyph that stands for a text, negative where there is none. In a whole font the glyph
// alone counts.
func (c *face) find(id uint16, text string) int {
	for _, i := range c.places[id] {
		if c.whole || c.text[i] == text {
			return i
		}
	}
	return -1
}

// stands reports whether the code of a glyph can stand for a text.
func (c *face) stands(id uint16, text string) bool {
	if !c.whole {
		return true
	}
	i := c.find(id, text)
	return i < 0 || c.text[i] == text
}

// width returns how far a glyph leads on, in thousandths of the type size, as the file says it.
func (c *face) width(id uint16) int {
	return (c.font.Advance(id)*2000/c.font.UnitsPerEm() + 1) / 2
}

// write adds the font to the file as a composite one, whose codes are glyphs (ISO 32000-1, 9.7). It reports false
// where the font has to be written whole, and its glyphs shown by their own numbers.
func (c *face) write(f *file) bool {
	data, reduced := c.font.Glyphs(c.ids)
	if !reduced && !c.whole && !c.font.TrueType() {
		return false
	}
	var hash [32]byte
	{
		h := sha256.New()
		for i, id := range c.ids {
			fmt.Fprintln(h, id, c.text[i])
		}
		h.Sum(hash[:0])
	}
	tag := make([]byte, 6)
	for i := range tag {
		tag[i] = 'A' + hash[i]%26
	}
	name := string(tag) + "+Face" + c.name
	m := c.font.Metrics()
	em := c.font.UnitsPerEm()
	per := func(v int) int { return v * 1000 / em }
	kind, fileKey, entries := "CIDFontType2", "FontFile2", fmt.Sprintf("/Length1 %d", len(data))
	if !c.font.TrueType() {
		kind, fileKey, entries = "CIDFontType0", "FontFile3", "/Subtype/OpenType"
	}
	file := f.stream(entries, data)
	flags := 4 // symbolic: the codes are no character set's
	if m.Slant != 0 {
		flags |= 64
	}
	descriptor := f.add(fmt.Sprintf("<</Type/FontDescriptor/FontName/%s/Flags %d/FontBBox[%d %d %d %d]/ItalicAngle %.0f/Ascent %d/Descent %d/CapHeight %d/StemV 80/%s %s>>",
		name, flags, per(m.Box[0]), per(m.Box[1]), per(m.Box[2]), per(m.Box[3]), m.Slant, per(m.Ascent), per(m.Descent),
		per(m.CapHeight), fileKey, file))
	widths := []byte("[")
	for i, id := range c.ids {
		code := uint16(i)
		if c.whole {
			code = id
		}
		widths = fmt.Appendf(widths, "%d[%d]", code, c.width(id))
	}
	widths = append(widths, ']')
	glyphs := "/Identity"
	if c.font.TrueType() && !reduced { // codes lead to glyphs of the whole font
		var list []byte
		for _, id := range c.ids {
			list = append(list, byte(id>>8), byte(id))
		}
		glyphs = " " + f.stream("", list).String()
	}
	if kind == "CIDFontType2" {
		glyphs = "/CIDToGIDMap" + glyphs
	} else {
		glyphs = ""
	}
	descendant := f.add(fmt.Sprintf("<</Type/Font/Subtype/%s/BaseFont/%s/CIDSystemInfo<</Registry(Adobe)/Ordering(Identity)/Supplement 0>>/FontDescriptor %s/DW 1000/W %s%s>>",
		kind, name, descriptor, widths, glyphs))
	f.set(c.ref,
		fmt.Sprintf("<</Type/Font/Subtype/Type0/BaseFont/%s/Encoding/Identity-H/DescendantFonts[%s]/ToUnicode %s>>",
			name, descendant, f.stream("", c.unicode())))
	return true
}

// unicode says which characters the codes stand for (ISO 32000-1, 9.10.3).
func (c *face) unicode() []byte {
	out := []byte("/CIDInit/ProcSet findresource begin\n12 dict begin\nbegincmap\n/CIDSystemInfo<</Registry(Adobe)/Ordering(UCS)/Supplement 0>>def\n/CMapName/Adobe-Identity-UCS def\n/CMapType 2 def\n1 begincodespacerange\n<0000><FFFF>\nendcodespacerange\n")
	type entry struct {
		code uint16
		text string
	}
	var list []entry
	for i, s := range c.text {
		code := uint16(i)
		if c.whole {
			code = c.ids[i]
		}
		if s != "" {
			list = append(list, entry{code, s})
		}
	}
	for part := range slices.Chunk(list, 100) {
		out = fmt.Appendf(out, "%d beginbfchar\n", len(part))
		for _, e := range part {
			out = fmt.Appendf(out, "<%04X><", e.code)
			for _, u := range utf16.Encode([]rune(e.text)) {
				out = fmt.Appendf(out, "%04X", u)
			}
			out = append(out, ">\n"...)
		}
		out = append(out, "endbfchar\n"...)
	}
	return append(out, "endcmap\nCMapName currentdict/CMap defineresource pop\nend\nend\n"...)
}
