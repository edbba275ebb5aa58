package typeface

import (
	"bytes"
	"io"
	"io/fs"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/fontscan"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"

	"plaintracer/exchange/fontfile"
)

// foreign is a font of the machine, or of the folders that were given instead.
type foreign struct {
	face *font.Face
	file *fontfile.File

	// The shaper keeps what it knows of a font, one text at a time.
	mu     sync.Mutex
	shaper shaping.HarfbuzzShaper
}

func (f *foreign) has(r rune) bool {
	_, ok := f.face.NominalGlyph(r)
	return ok
}

// shape sets a part of a text, seen from left to right, and returns its width in type sizes.
func (f *foreign) shape(text []rune, from, to int, leftwards bool) ([]Glyph, float64) {
	f.mu.Lock()
	defer f.mu.Unlock()
	const size = 1000
	in := shaping.Input{Text: text, RunStart: from, RunEnd: to, Direction: di.DirectionLTR, Face: f.face,
		Size: fixed.I(size), Script: script(text[from:to])}
	if leftwards {
		in.Direction = di.DirectionRTL
	}
	shaped := f.shaper.Shape(in)
	length := func(v fixed.Int26_6) float64 { return float64(v) / 64 / size }
	var out []Glyph
	x, before, within := 0.0, -1, 0
	for _, g := range shaped.Glyphs {
		one := Glyph{Font: f.file, ID: uint16(g.GlyphID), X: x + length(g.XOffset), Y: length(g.YOffset),
			Advance: length(g.XAdvance)}
		if g.ClusterIndex != before {
			within = 0
		}
		switch characters := text[g.ClusterIndex:min(g.ClusterIndex+max(g.RuneCount, 1), to)]; {
		case leftwards && g.GlyphCount == len(characters): // a letter and its marks, seen from left to right
			one.Text = string(characters[len(characters)-1-within])
		case within == 0:
			one.Text = string(characters)
		}
		before = g.ClusterIndex
		within++
		out = append(out, one)
		x += length(g.XAdvance)
	}
	return out, x
}

func script(text []rune) language.Script {
	for _, r := range text {
		if s := language.LookupScript(r); s != language.Common && s != language.Inherited && s != language.Unknown {
			return s
		}
	}
	return language.Latin
}

// system are the fonts of the machine. They are looked for when the first character needs one.
var system machine

type machine struct {
	mu sync.Mutex
	// folders are where fonts are looked for; none are those of the machine.
	folders []string
	tried   bool
	fonts   *fontscan.FontMap // nil where there are none
	files   map[string]*foreign
	known   map[wanted]*foreign
}

type wanted struct {
	r   rune
	cut Cut
}

// From has the fonts of other scripts come from folders, with those in them, rather than from where the machine keeps
// its fonts; without a folder from there again. It returns a function that brings back what there was. Its error names
// a folder that cannot be read.
func From(folders ...string) (back func(), err error) {
	for _, f := range folders {
		if _, err := os.ReadDir(f); err != nil {
			return nil, err
		}
	}
	set := func(folders []string) (was []string) {
		system.mu.Lock()
		defer system.mu.Unlock()
		was, system.folders, system.tried = system.folders, folders, false
		return was
	}
	was := set(folders)
	return func() { set(was) }, nil
}

// draws returns the font that draws a character, or nil.
func (m *machine) draws(r rune, cut Cut) *foreign {
	m.mu.Lock()
	defer m.mu.Unlock()
	if !m.tried {
		m.tried = true
		m.files, m.known = map[string]*foreign{}, map[wanted]*foreign{}
		if len(m.folders) > 0 {
			m.fonts = read(m.folders)
		} else {
			m.fonts = find()
		}
	}
	if m.fonts == nil {
		return nil
	}
	if f, ok := m.known[wanted{r, cut}]; ok {
		return f
	}
	aspect := font.Aspect{Style: font.StyleNormal, Weight: font.WeightNormal, Stretch: font.StretchNormal}
	if cut.Bold {
		aspect.Weight = font.WeightSemibold
	}
	if cut.Italic {
		aspect.Style = font.StyleItalic
	}
	m.fonts.SetQuery(fontscan.Query{Families: []string{"Noto Sans", fontscan.SansSerif}, Aspect: aspect})
	m.fonts.SetScript(language.LookupScript(r))
	f := m.open(m.fonts.ResolveFace(r), r)
	m.known[wanted{r, cut}] = f
	return f
}

// open returns the font of a face that has a character, nil where it has not or cannot be embedded.
func (m *machine) open(face *font.Face, r rune) *foreign {
	if face == nil {
		return nil
	}
	if _, ok := face.NominalGlyph(r); !ok {
		return nil
	}
	at := m.fonts.FontLocation(face.Font)
	if f, ok := m.files[at.File]; ok {
		return f
	}
	m.files[at.File] = nil
	data, err := os.ReadFile(at.File)
	if err != nil {
		return nil
	}
	file, err := fontfile.Open(data)
	if err != nil || !file.TrueType() { // a collection, or outlines that are not reduced
		return nil
	}
	m.files[at.File] = &foreign{face: face, file: file}
	return m.files[at.File]
}

// find looks for the fonts of the machine. What is found is noted in the folder for caches, since looking takes
// seconds.
func find() *fontscan.FontMap {
	dir, err := os.UserCacheDir()
	if err != nil {
		dir = os.TempDir()
	}
	dir = filepath.Join(dir, "plaintracer")
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil
	}
	m := fontscan.NewFontMap(log.New(io.Discard, "", 0))
	if err := m.UseSystemFonts(dir); err != nil {
		return nil
	}
	return m
}

// read reads the fonts in folders; nil where there are none.
func read(folders []string) *fontscan.FontMap {
	m, found := fontscan.NewFontMap(log.New(io.Discard, "", 0)), false
	for _, folder := range folders {
		_ = filepath.WalkDir(folder, func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || !slices.Contains([]string{".ttf", ".otf"},
				strings.ToLower(filepath.Ext(path))) {
				return nil
			}
			data, err := os.ReadFile(path)
			if err == nil {
				err = m.AddFont(bytes.NewReader(data), path, "")
			}
			if found = found || err == nil; err != nil {
				log.Printf("the font %s is left: %v", path, err)
			}
			return nil
		})
	}
	if !found {
		return nil
	}
	return m
}
