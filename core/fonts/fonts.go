// Package fonts checks the font files a map carries and reads what the core
// needs of them: the widths of their characters, how far they reach up and
// down, and whether they may be embedded.
package fonts

import (
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"sort"
)

// MaxData is the largest font file, in bytes.
const MaxData = 2 << 20

// Font is one font file of the organisation: TrueType or OpenType, not packed.
type Font struct {
	// ID is made from the content, so that equal files are kept once.
	ID string `json:"id"`
	// Family is the name of the typeface.
	Family string `json:"family"`
	Bold   bool   `json:"bold,omitempty"`
	Italic bool   `json:"italic,omitempty"`
	Data   []byte `json:"data"`

	metrics *Metrics
	fault   error
}

// Metrics are the measures of a face, in font units.
type Metrics struct {
	// UnitsPerEm is how many font units the type size has.
	UnitsPerEm int
	// Ascent and Descent are how far the face reaches above and below the
	// baseline.
	Ascent, Descent int
	// Runs are the characters it has, in order.
	Runs []Run
}

// Run is a run of characters with the width of each.
type Run struct {
	First    rune
	Advances []uint16
}

// Find returns the width of r in font units, and whether the face has it.
func (m *Metrics) Find(r rune) (int, bool) {
	// Most characters of a text are in the run that begins at the space.
	if first := &m.Runs[0]; first.First == ' ' && r >= ' ' && int(r-' ') < len(first.Advances) {
		return int(first.Advances[r-' ']), true
	}
	i := sort.Search(len(m.Runs), func(i int) bool { return m.Runs[i].First > r }) - 1
	if i >= 0 {
		if k := int(r - m.Runs[i].First); k < len(m.Runs[i].Advances) {
			return int(m.Runs[i].Advances[k]), true
		}
	}
	return 0, false
}

// Read makes a font of a TrueType or OpenType file. What is broken, varies or
// may not be embedded in a document that is edited is refused, with the reason.
func Read(file []byte) (Font, error) {
	if len(file) > MaxData {
		return Font{}, fmt.Errorf("the font is larger than %d MB", MaxData>>20)
	}
	t, err := directory(file)
	if err != nil {
		return Font{}, err
	}
	f := Font{Data: file}
	if err := t.embeddable(); err != nil {
		return Font{}, err
	}
	if f.metrics, err = t.metrics(); err != nil {
		return Font{}, err
	}
	f.Bold, f.Italic = t.cut()
	if f.Family = t.family(); f.Family == "" {
		return Font{}, errors.New("the font has no name")
	}
	h := fnv.New128a()
	h.Write(file)
	f.ID = "f" + hex.EncodeToString(h.Sum(nil))
	return f, nil
}

// Check reports what is wrong with a font that came from elsewhere: its content
// has to be what Read would make of it.
func (f *Font) Check() error {
	if f.fault != nil {
		return f.fault
	}
	if f.metrics == nil {
		f.measure()
	}
	return f.fault
}

// measure reads the file of a font that came from elsewhere.
func (f *Font) measure() {
	g, err := Read(f.Data)
	switch {
	case err != nil:
		f.fault = err
	case g.ID != f.ID || g.Family != f.Family || g.Bold != f.Bold || g.Italic != f.Italic:
		f.fault = errors.New("the font is not what its id, name and cut say")
	default:
		f.metrics = g.metrics
	}
}

// UnmarshalJSON reads the file at once, so that a font of a map always knows its
// measures or what is wrong with it.
func (f *Font) UnmarshalJSON(data []byte) error {
	type plain Font
	var p plain
	if err := json.Unmarshal(data, &p); err != nil {
		return err
	}
	*f = Font(p)
	f.measure()
	return nil
}

// Metrics returns the measures of a font; nil when it is broken.
func (f *Font) Metrics() *Metrics { return f.metrics }

// Pick returns the font of a list that draws a cut: the one of that cut, else
// the one that differs least, weight before slant; nil when the list is empty.
func Pick(list []Font, bold, italic bool) *Font {
	best, least := (*Font)(nil), 0
	for i := range list {
		f, apart := &list[i], 0
		if f.Bold != bold {
			apart += 2
		}
		if f.Italic != italic {
			apart++
		}
		if best == nil || apart < least {
			best, least = f, apart
		}
	}
	return best
}

// CutOf numbers the four cuts: regular, bold, italic, and both.
func CutOf(bold, italic bool) int {
	cut := 0
	if bold {
		cut |= 1
	}
	if italic {
		cut |= 2
	}
	return cut
}

// Face says which font draws a cut, which it names as CSS does.
type Face struct {
	// Family is the name under which pages use the typeface.
	Family string `json:"family"`
	ID     string `json:"id"`
	Weight string `json:"weight"`
	Style  string `json:"style"`
}

// Faces lists which fonts of a list draw the four cuts, under a name for pages; none when it is empty.
func Faces(family string, list []Font) []Face {
	out := []Face{}
	for cut := range 4 {
		if f := Pick(list, cut&1 != 0, cut&2 != 0); f != nil {
			out = append(out, Face{family, f.ID, [...]string{"400", "600"}[cut&1], [...]string{"normal",
				"italic"}[cut>>1]})
		}
	}
	return out
}
